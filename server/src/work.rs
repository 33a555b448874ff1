//! The writes on a check, each one transaction: hold the check, look, decide in the core, store,
//! and work out what the check and its job wait for.

use std::sync::Arc;

use anvil_core::choose::SizeCount;
use anvil_core::length::{Length, Unit};
use anvil_core::measure::entry::{Entry, Taken};
use anvil_core::measure::{Detail, Way};
use anvil_core::next::{Step, next};
use anvil_core::notation::{self, Sign};
use anvil_core::sheet::Sheet;
use anvil_core::usual::ENOUGH_BOXES;
use chrono::{DateTime, Utc};

use crate::aim::Aiming;
use crate::gap::{Assessed, GapView, Spec, call_name, phase_name, phase_named};
use crate::guard::{Seen, WriteKey};
use crate::problem::{Answer, Problem};
use crate::share::{Known, Open, Pin};
use crate::stock::THICKEST;
use crate::store::check::{
    AimSaid, NewLaid, Reading, Record, Setting, ShimsSaid, Signing, Standing, UsualSaid,
};
use crate::store::{Store, Tx, check, drawer, job, sheet, shop, writes};

/// More readings of one check than this are a gauge running away.
const MOST_READINGS: usize = 500;
/// The longest reason that is kept.
const LONGEST_REASON: usize = 500;

/// A check held for a write.
pub struct Held {
    tx: Tx,
    record: Record,
    sheet: Arc<Sheet>,
    /// When the write was begun.
    at: DateTime<Utc>,
}

/// What a write may do.
pub enum Begun {
    /// The write is new, and the check is held for it.
    Fresh(Box<Held>),
    /// The same write was done before.
    Done,
}

/// Which check a write is on, and who makes it.
pub struct On<'a> {
    /// The store.
    pub store: &'a Store,
    /// The job.
    pub job_no: i32,
    /// The check.
    pub key: &'a str,
    /// The initials.
    pub who: &'a str,
}

impl On<'_> {
    /// Begins a write: claims its key, makes sure of who, and holds the check.
    pub async fn begin(&self, key: &WriteKey, act: &str, body: &str) -> Answer<Begun> {
        let mut tx = self.store.begin().await?;
        let fingerprint = format!("{act} {}/{} {} {body}", self.job_no, self.key, self.who);
        let write = (key.0.as_str(), fingerprint.as_str());
        let begun =
            check::begin(self.store, &mut tx, write, self.who, self.job_no, self.key).await?;
        let Some(check::Begun { head, at }) = begun else {
            return Ok(Begun::Done);
        };
        let sheet = sheet::revision(self.store, &mut *tx, &head.sheet_key, head.revision).await?;
        let families = Spec::of(&sheet, self.key)?.families();
        let record =
            check::record(self.store, &mut *tx, head, self.job_no, self.key, &families).await?;
        Ok(Begun::Fresh(Box::new(Held {
            tx,
            record,
            sheet,
            at,
        })))
    }

    /// What is known of the check.
    pub async fn known(&self) -> Answer<Known> {
        let head = check::head(self.store, &self.store.pool, self.job_no, self.key).await?;
        let sheet =
            sheet::revision(self.store, &self.store.pool, &head.sheet_key, head.revision).await?;
        let spec = Spec::of(&sheet, self.key)?;
        let check = spec.check.clone();
        let families = spec.families();
        let record = check::record(
            self.store,
            &self.store.pool,
            head,
            self.job_no,
            self.key,
            &families,
        )
        .await?;
        let found = record.assess(&spec.on_job(&record))?;
        Ok(Known {
            record,
            sheet,
            check,
            found,
        })
    }

    /// The check as it stands.
    pub async fn view(&self) -> Answer<GapView> {
        let known = self.known().await?;
        let spec = Spec::of(&known.sheet, self.key)?.on_job(&known.record);
        known.record.view(&spec, known.found)
    }
}

impl Held {
    /// Works out where the check and its job stand now, stores it, and ends the write.
    async fn settle(mut self, on: &On<'_>) -> Answer<GapView> {
        let spec = Spec::of(&self.sheet, on.key)?.on_job(&self.record);
        let found = self.record.assess(&spec)?;
        check::settle(
            on.store,
            &mut self.tx,
            &self.record,
            &standing(&self.record, &found),
        )
        .await?;
        self.settled(on, found).await
    }

    /// Ends a write whose check is stored: the job next, where the check's phase changed.
    async fn settled(mut self, on: &On<'_>, found: Assessed) -> Answer<GapView> {
        if self.record.now_stands(&found) {
            settle_job(on.store, &mut self.tx, on.job_no, &self.sheet).await?;
        }
        self.tx.commit().await?;
        let spec = Spec::of(&self.sheet, on.key)?.on_job(&self.record);
        self.record.view(&spec, found)
    }

    /// Settles after a write that changed more than the record in hand: what was written is read
    /// again first.
    async fn reread_and_settle(mut self, on: &On<'_>) -> Answer<GapView> {
        let families = Spec::of(&self.sheet, on.key)?.families();
        self.record = check::record(
            on.store,
            &mut *self.tx,
            self.record.head,
            on.job_no,
            on.key,
            &families,
        )
        .await?;
        self.settle(on).await
    }

    fn not_signed(&self) -> Answer<()> {
        match self.record.signature() {
            None => Ok(()),
            Some(s) => Err(Problem::conflict(
                "signed",
                format!(
                    "{} signed this check off. Reopen it with a reason to change anything.",
                    s.who
                ),
            )),
        }
    }

    fn nothing_chosen(&self) -> Answer<()> {
        match self.record.open_setting() {
            None => Ok(()),
            Some(_) => Err(Problem::conflict(
                "pieces-chosen",
                "Pieces are chosen on these readings. Fit them, or let them go first.",
            )),
        }
    }
}

/// Where a check stands, as it is stored.
pub fn standing(record: &Record, found: &Assessed) -> Standing<'static> {
    Standing {
        phase: phase_name(found.phase),
        round: record.head.round,
        fitted_nm: record.head.fitted_nm,
        call: found.call.map(call_name),
        shown_nm: found.estimate.as_ref().map(|e| e.clearance_nm),
        shown_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
    }
}

impl Record {
    /// Notes that where the check stands is stored. `true` where its phase changed.
    fn now_stands(&mut self, found: &Assessed) -> bool {
        let phase = phase_name(found.phase);
        let changed = self.head.phase != phase;
        phase.clone_into(&mut self.head.phase);
        self.head.version += 1;
        changed
    }
}

/// Stores what a job waits for.
pub async fn settle_job(store: &Store, tx: &mut Tx, job_no: i32, sheet: &Sheet) -> Answer<()> {
    let rows = job::checks(store, &mut **tx, job_no).await?;
    let steps: Vec<Step<'_>> = rows
        .iter()
        .filter_map(|row| {
            let spec = sheet.check(&row.check_key)?;
            Some(Step {
                key: &row.check_key,
                phase: phase_named(&row.phase)?,
                after: &spec.after,
            })
        })
        .collect();
    let signed = rows.iter().filter(|r| r.phase == "signed").count();
    let signed = i32::try_from(signed).unwrap_or(i32::MAX);
    let waits = match next(&steps) {
        Some(step) => job::Waits {
            check: Some(step.key.to_owned()),
            name: sheet.check(step.key).map(|c| c.name.clone()),
            phase: phase_name(step.phase).to_owned(),
            piece_nm: rows
                .iter()
                .find(|r| r.check_key == step.key)
                .and_then(|r| r.awaited_nm),
            signed,
        },
        None => job::Waits {
            phase: "hand_over".into(),
            signed,
            ..job::Waits::default()
        },
    };
    job::settle(store, tx, job_no, &waits).await
}

/// A reason, trimmed; refused where it is asked for and empty, or longer than anyone reads.
pub fn reason(text: &str, asked_for: Option<&str>) -> Answer<String> {
    let text = text.trim();
    if let Some(why) = asked_for.filter(|_| text.is_empty()) {
        return Err(Problem::field("reason", why));
    }
    if text.chars().count() > LONGEST_REASON {
        return Err(Problem::field(
            "reason",
            format!("A reason has up to {LONGEST_REASON} characters: shorten it."),
        ));
    }
    Ok(text.to_owned())
}

/// A reading as it comes from a screen.
pub struct NewReading<'a> {
    /// The way it was taken.
    pub way: Way,
    /// What was typed.
    pub entry: &'a Entry,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// The gauge; the usual one for the way where none is named.
    pub gauge_key: Option<&'a str>,
}

/// Adds a reading as typed.
pub async fn read(on: &On<'_>, key: &WriteKey, new: &NewReading<'_>) -> Answer<GapView> {
    let taken = new
        .entry
        .read(new.unit)
        .map_err(|e| Problem::field(e.field, e))?;
    if !new.entry.fits(new.way) {
        return Err(Problem::field(
            "way",
            "That kind of reading is not of this way of measuring: choose the way first.",
        ));
    }
    let body = format!(
        "{:?} {:?} {} {:?}",
        new.way,
        new.entry,
        new.unit.sign(),
        new.gauge_key
    );
    let Begun::Fresh(mut held) = on.begin(key, "read", &body).await? else {
        return on.view().await;
    };
    held.not_signed()?;
    held.nothing_chosen()?;
    if held.record.readings.len() >= MOST_READINGS {
        return Err(Problem::conflict(
            "too-many-readings",
            format!(
                "There are {MOST_READINGS} readings of this check already: that is as many as it keeps."
            ),
        ));
    }
    let spec = Spec::of(&held.sheet, on.key)?.on_job(&held.record);
    let gauge_key = held.fitting(new, &taken, &spec)?;
    let reading = Reading {
        reading_no: held.record.readings.last().map_or(1, |r| r.reading_no + 1),
        round: held.record.head.round,
        typed: new.entry.text(),
        bench_unit: shop::unit_name(new.unit).to_owned(),
        way: new.way,
        taken,
        gauge_key,
        who: on.who.to_owned(),
        at: held.at,
    };
    held.record.readings.push(reading.clone());
    let found = held.record.assess(&spec)?;
    let standing = standing(&held.record, &found);
    check::add_reading(on.store, &mut held.tx, &held.record, &reading, &standing).await?;
    held.settled(on, found).await
}

impl Held {
    /// The gauge a new reading is taken with; refuses what does not belong to this check or way.
    fn fitting(
        &self,
        new: &NewReading<'_>,
        taken: &Taken,
        spec: &Spec<'_>,
    ) -> Answer<Option<String>> {
        if new.way == Way::NoShim {
            if spec.check.set_by.is_none() {
                return Err(Problem::field(
                    "way",
                    "No shim sets this check, so there is none to leave out: measure the travel.",
                ));
            }
            if self.record.head.round > 0 {
                return Err(Problem::field(
                    "way",
                    "Pieces are fitted now: measure the travel with them in.",
                ));
            }
        }
        if let Some(none) = none_of(taken, spec) {
            return Err(none);
        }
        if new.way == Way::TurningTorque && spec.torque.is_none() {
            return Err(Problem::field(
                "way",
                "The sheet gives no turning torque for this check, so there is nothing to hold it against.",
            ));
        }
        if let Taken::Term { term, .. } = taken {
            let terms = spec.terms().len();
            if *term == 0 || usize::from(*term) > terms {
                return Err(Problem::field(
                    "term",
                    format!("The sheet's sum has {terms} terms, counted from 1."),
                ));
            }
        }
        if new.way == Way::ByHand {
            return Ok(None);
        }
        let kinds = crate::ways::kinds(new.way);
        let gauge = match new.gauge_key {
            None => self.record.gauge_for(new.way),
            Some(key) => Some(
                self.record
                    .gauges
                    .iter()
                    .find(|g| g.gauge_key == key && !g.retired)
                    .ok_or_else(|| {
                        Problem::field(
                            "gauge_key",
                            format!("The register has no gauge “{key}” in use."),
                        )
                    })?,
            ),
        };
        let gauge = gauge.ok_or_else(|| {
            Problem::field(
                "gauge_key",
                "The register has no gauge for this way of measuring: enter one under Gauges.",
            )
        })?;
        if !kinds.contains(&gauge.kind) {
            return Err(Problem::field(
                "gauge_key",
                format!("{} is not a gauge for this way of measuring.", gauge.name),
            ));
        }
        Ok(Some(gauge.gauge_key.clone()))
    }
}

/// Refuses a pinion or a gear that the sheet does not have.
fn none_of(taken: &Taken, spec: &Spec<'_>) -> Option<Problem> {
    let (field, number, there, what) = match taken {
        Taken::Pinion { pinion, .. } => {
            let pinions = spec.check.pinions.as_ref().map_or(0, |p| p.count.into());
            ("pinion", *pinion, pinions, "pinions")
        }
        Taken::Gaps { gear, .. } => {
            let gears = spec.check.selector.as_ref().map_or(0, |s| s.gears.len());
            ("gear", *gear, gears, "gears for this check")
        }
        _ => return None,
    };
    (usize::from(number) > there).then(|| {
        Problem::field(
            field,
            format!("The sheet has {there} {what}, counted from 1."),
        )
    })
}

/// Says which way counts.
pub async fn say_way(on: &On<'_>, key: &WriteKey, seen: &Seen, way: Way) -> Answer<GapView> {
    let Begun::Fresh(mut held) = on.begin(key, "way", &format!("{way:?}")).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    held.nothing_chosen()?;
    let measured = held.record.standing().any(|r| r.way == way);
    if !measured && way != Way::StackSum {
        return Err(Problem::field(
            "way",
            "This round has no reading of that way: measure first, then let it count.",
        ));
    }
    check::say_way(on.store, &mut held.tx, &held.record, way, on.who).await?;
    held.record.head.way = Some(check::way_name(way).to_owned());
    held.settle(on).await
}

/// Says that something was seen to before readings are believed, or that it was not.
pub async fn say_tick(on: &On<'_>, key: &WriteKey, tick: &str, done: bool) -> Answer<GapView> {
    let Begun::Fresh(mut held) = on.begin(key, "tick", &format!("{done} {tick}")).await? else {
        return on.view().await;
    };
    held.not_signed()?;
    let check = Spec::of(&held.sheet, on.key)?.check;
    let ready = held.sheet.ready_of(check);
    let known = ready.iter().any(|r| r.tick == tick);
    if !known {
        return Err(Problem::field(
            "tick",
            "The sheet has no such thing to see to.",
        ));
    }
    check::say_tick(on.store, &mut held.tx, &held.record, tick, done, on.who).await?;
    held.reread_and_settle(on).await
}

/// Strikes a reading out, restores it, or says that it is right as it is.
pub async fn mark(
    on: &On<'_>,
    key: &WriteKey,
    reading_no: i32,
    mark: &str,
    why: &str,
) -> Answer<GapView> {
    let asked_for =
        (mark == "struck").then_some("Say why the reading is struck out; it stays on the record.");
    let why = reason(why, asked_for)?;
    let Begun::Fresh(mut held) = on.begin(key, mark, &format!("{reading_no} {why}")).await? else {
        return on.view().await;
    };
    held.not_signed()?;
    held.nothing_chosen()?;
    let reading = held
        .record
        .readings
        .iter()
        .find(|r| r.reading_no == reading_no);
    match reading {
        None => {
            return Err(Problem::missing(format!(
                "This check has no reading {reading_no}."
            )));
        }
        Some(r) if r.round != held.record.head.round => {
            return Err(Problem::conflict(
                "earlier-round",
                "That reading was taken before the pieces were fitted, and they were chosen on it. It stays as it is.",
            ));
        }
        Some(_) => {}
    }
    let said = check::mark_reading(
        on.store,
        &mut held.tx,
        &held.record,
        reading_no,
        mark,
        &why,
        on.who,
    )
    .await?;
    held.record.marks.push(said);
    held.settle(on).await
}

/// Says what is fitted now.
pub async fn say_fitted(
    on: &On<'_>,
    key: &WriteKey,
    seen: &Seen,
    typed: &str,
    unit: Unit,
) -> Answer<GapView> {
    let fitted = notation::parse(typed, Some(unit), Sign::NotNegative)
        .map_err(|e| Problem::field("fitted", e))?;
    if fitted > THICKEST {
        return Err(Problem::field(
            "fitted",
            format!("{fitted} is thicker than any selective piece: check the figure and its unit."),
        ));
    }
    let Begun::Fresh(mut held) = on.begin(key, "fitted", &fitted.to_string()).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    held.nothing_chosen()?;
    if held.record.head.round > 0 {
        return Err(Problem::conflict(
            "fitted-known",
            "What is fitted now is what was chosen and fitted here.",
        ));
    }
    check::say_fitted(on.store, &mut held.tx, &held.record, fitted, on.who).await?;
    held.record.head.fitted_nm = Some(fitted.nm());
    held.reread_and_settle(on).await
}

/// Says where to aim on this job, with the reason.
pub async fn say_aim(on: &On<'_>, key: &WriteKey, seen: &Seen, aiming: &Aiming) -> Answer<GapView> {
    let why = reason(
        &aiming.reason,
        Some("Say why this box is set otherwise than the sheet says; it stays on the record."),
    )?;
    let Begun::Fresh(mut held) = on.begin(key, "aim", &format!("{aiming:?}")).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    held.nothing_chosen()?;
    let own = aiming.resolve(&Spec::of(&held.sheet, on.key)?)?;
    let said = AimSaid {
        as_sheet: own.is_none(),
        low_nm: own.and_then(|o| o.0.low()).map(Length::nm),
        high_nm: own.and_then(|o| o.0.high()).map(Length::nm),
        aim_from_nm: own.map(|o| o.1.from_nm),
        aim_to_nm: own.map(|o| o.1.to_nm),
        reason: why,
        who: on.who.to_owned(),
        at: held.at,
    };
    check::say_aim(on.store, &mut held.tx, &held.record, &said).await?;
    held.reread_and_settle(on).await
}

/// Says that the usual difference of boxes before counts here, or no longer does.
pub async fn say_usual(on: &On<'_>, key: &WriteKey, seen: &Seen, counts: bool) -> Answer<GapView> {
    // Looked up before the check is held: a write waits for no second connection.
    let sheet_key = check::head(on.store, &on.store.pool, on.job_no, on.key)
        .await?
        .sheet_key;
    let past = crate::past::of_check(on.store, &sheet_key, on.key).await?;
    let begun = on.begin(key, "usual", &counts.to_string()).await?;
    let Begun::Fresh(mut held) = begun else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    held.nothing_chosen()?;
    let found = past.and_then(|p| p.usual).ok_or_else(|| {
        Problem::conflict(
            "too-few-boxes",
            format!("Fewer than {ENOUGH_BOXES} finished boxes say how this check comes out, so nothing is usual yet."),
        )
    })?;
    let said = UsualSaid {
        counts,
        mean_nm: found.mean_nm,
        u_nm: found.u_nm,
        dof: found.dof,
        boxes: i32::try_from(found.boxes).unwrap_or(i32::MAX),
        who: on.who.to_owned(),
        at: held.at,
    };
    check::say_usual(on.store, &mut held.tx, &held.record, &said).await?;
    held.reread_and_settle(on).await
}

/// Pieces to be chosen.
#[derive(Debug)]
pub struct NewChoice<'a> {
    /// Each size once, with how many of it.
    pub pieces: &'a [SizeCount],
    /// Where they are of another family than the first: its key, and what comes out for them, together.
    pub instead_of: Option<(&'a str, Length)>,
}

/// Chooses pieces and sets them aside.
pub async fn choose(
    on: &On<'_>,
    key: &WriteKey,
    seen: &Seen,
    new: &NewChoice<'_>,
) -> Answer<GapView> {
    let NewChoice { pieces, instead_of } = new;
    let mut unlike: Vec<_> = pieces.iter().map(|p| (p.thickness_nm, p.grade)).collect();
    unlike.sort_unstable();
    unlike.dedup();
    if unlike.len() != pieces.len() || pieces.iter().any(|p| p.count == 0) {
        return Err(Problem::field(
            "pieces",
            "Name each size once, with how many of it.",
        ));
    }
    let Begun::Fresh(mut held) = on.begin(key, "choose", &format!("{new:?}")).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    held.nothing_chosen()?;
    let spec = Spec::of(&held.sheet, on.key)?.on_job(&held.record);
    let found = held.record.assess(&spec)?;
    let estimate = found.estimate.ok_or_else(|| {
        Problem::conflict(
            "not-measured",
            "There is no reading yet: measure first, then choose.",
        )
    })?;
    let record = &held.record;
    let (choice, set_aside) = match instead_of {
        None => record.choice_of(&spec, found.way, &estimate, pieces)?,
        Some(other) => record.choice_of_other(&spec, &estimate, *other, pieces)?,
    };
    let fitted_before = match instead_of {
        Some((_, out)) => out.nm(),
        None if found.way == Some(Way::NoShim) => 0,
        None => record.head.fitted_nm.unwrap_or(0),
    };
    let setting = Setting {
        setting_no: held.record.settings.last().map_or(1, |s| s.setting_no + 1),
        round: held.record.head.round,
        family_key: instead_of
            .map(|i| i.0)
            .or(spec.family())
            .unwrap_or_default()
            .to_owned(),
        total_nm: choice.total_nm.nm(),
        fitted_before_nm: fitted_before,
        measured_nm: estimate.clearance_nm,
        predicted_nm: choice.predicted_nm,
        u_nm: choice.u_nm,
        dof: choice.dof,
        chance: choice.chance,
        usual_nm: held.record.usual().map_or(0.0, |u| u.mean_nm),
        chosen_by: on.who.to_owned(),
        chosen_at: chrono::DateTime::UNIX_EPOCH, // the database has the clock
        state: "chosen".into(),
        ended_by: None,
        ended_at: None,
        pieces: set_aside,
    };
    if !check::choose(on.store, &mut held.tx, &held.record, &setting).await? {
        return Err(stock_taken());
    }
    held.reread_and_settle(on).await
}

/// The most checks that are chosen for in one go.
const MOST_TOGETHER: usize = 1_000;

/// Chooses pieces for many checks in one go: all of them, or none where one has changed since it
/// was seen or a piece has gone.
pub async fn choose_together(
    store: &Store,
    key: &WriteKey,
    seen: &[(Pin, i32)],
    who: &str,
) -> Answer<()> {
    let mut seen: Vec<&(Pin, i32)> = seen.iter().collect();
    seen.sort_by(|a, b| (a.0.job_no, &a.0.check_key).cmp(&(b.0.job_no, &b.0.check_key)));
    let twice = |w: &[&(Pin, i32)]| {
        (w[0].0.job_no, &w[0].0.check_key) == (w[1].0.job_no, &w[1].0.check_key)
    };
    if seen.is_empty() || seen.len() > MOST_TOGETHER || seen.windows(2).any(twice) {
        return Err(Problem::field(
            "choices",
            format!("Name from 1 to {MOST_TOGETHER} checks, each once, with their pieces."),
        ));
    }
    let mut tx = store.begin().await?;
    let fingerprint = format!("together {who} {seen:?}");
    if writes::claim(store, &mut tx, &key.0, &fingerprint)
        .await?
        .is_some()
    {
        return Ok(());
    }
    shop::known(store, &mut tx, who).await?;
    let mut checks = Vec::new();
    for (pin, version) in &seen {
        let head = check::hold(store, &mut tx, pin.job_no, &pin.check_key).await?;
        if head.version != *version {
            return Err(Problem::new(
                rocket::http::Status::PreconditionFailed,
                "changed",
                format!(
                    "A check of job {} has changed since this was worked out, so nothing is chosen yet. Share out again, and look at what it says now.",
                    pin.job_no
                ),
            ));
        }
        checks.push(known(store, &mut tx, head, pin.job_no, &pin.check_key).await?);
    }
    // What is let go may be of another family than what is chosen.
    let let_go = |k: &Known| k.record.open_setting().map(|s| s.family_key.clone());
    let mut families: Vec<String> = checks
        .iter()
        .flat_map(|k| k.family().map(str::to_owned).into_iter().chain(let_go(k)))
        .collect();
    families.sort_unstable();
    families.dedup();
    drawer::hold_families(store, &mut tx, &families).await?;
    // What was chosen before goes back first, so that two checks can change places.
    for Known { record, .. } in &checks {
        if let Some(setting) = record.open_setting() {
            check::end_setting(store, &mut tx, record, setting, false, who).await?;
        }
    }
    let mut fresh = Vec::new();
    for (known_before, (pin, _)) in checks.into_iter().zip(&seen) {
        let head = known_before.record.head;
        fresh.push(known(store, &mut tx, head, pin.job_no, &pin.check_key).await?);
    }
    let pins: Vec<Pin> = seen.iter().map(|s| s.0.clone()).collect();
    let open = Open::of(fresh, &pins)?;
    if let Some(out) = open.left_out.first() {
        return Err(Problem::conflict(
            "not-ready",
            format!(
                "Nothing is chosen: {} of job {} {}.",
                out.name, out.job_no, out.why
            ),
        ));
    }
    for (number, setting) in open.settings(who)? {
        let record = &open.checks[number].record;
        if !check::choose(store, &mut tx, record, &setting).await? {
            return Err(stock_taken());
        }
    }
    let mut jobs = Vec::new();
    for Known { record, .. } in open.checks {
        let (job_no, key) = (record.job_no, record.check_key);
        let now = known(store, &mut tx, record.head, job_no, &key).await?;
        let standing = standing(&now.record, &now.found);
        check::settle(store, &mut tx, &now.record, &standing).await?;
        if jobs.last().is_none_or(|(last, _)| *last != job_no) {
            jobs.push((job_no, now.sheet));
        }
    }
    for (job_no, sheet) in jobs {
        settle_job(store, &mut tx, job_no, &sheet).await?;
    }
    tx.commit().await?;
    Ok(())
}

/// A held check as it stands within the transaction.
async fn known(
    store: &Store,
    tx: &mut Tx,
    head: check::Head,
    job_no: i32,
    key: &str,
) -> Answer<Known> {
    let sheet = sheet::revision(store, &mut **tx, &head.sheet_key, head.revision).await?;
    let spec = Spec::of(&sheet, key)?;
    let record = check::record(store, &mut **tx, head, job_no, key, &spec.families()).await?;
    let check = spec.check.clone();
    let found = record.assess(&spec.on_job(&record))?;
    Ok(Known {
        record,
        sheet,
        check,
        found,
    })
}

/// Somebody else was faster.
pub fn stock_taken() -> Problem {
    Problem::conflict(
        "stock-taken",
        "Another check has just taken one of those pieces. The choices on the screen are what there is now.",
    )
}

/// Lets the chosen pieces go, back to the drawer.
pub async fn let_go(on: &On<'_>, key: &WriteKey, seen: &Seen) -> Answer<GapView> {
    end_setting(on, key, seen, false, false).await
}

/// Notes the chosen pieces as fitted; a new round of measuring begins. Where `put_back`, the pieces
/// that came out are sound and go back in the drawer.
pub async fn fit(on: &On<'_>, key: &WriteKey, seen: &Seen, put_back: bool) -> Answer<GapView> {
    end_setting(on, key, seen, true, put_back).await
}

async fn end_setting(
    on: &On<'_>,
    key: &WriteKey,
    seen: &Seen,
    fitted: bool,
    put_back: bool,
) -> Answer<GapView> {
    let act = if fitted { "fit" } else { "let_go" };
    let Begun::Fresh(mut held) = on.begin(key, act, &put_back.to_string()).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    let setting = held.record.open_setting().cloned().ok_or_else(|| {
        Problem::conflict("nothing-chosen", "No pieces are chosen for this check.")
    })?;
    if fitted && setting.pieces.iter().any(|p| p.reserved < p.count) {
        return Err(Problem::conflict(
            "part-awaited",
            "Some of the pieces have still to come. Count them into the drawer when they do.",
        ));
    }
    let first = Spec::of(&held.sheet, on.key)?.family() == Some(setting.family_key.as_str());
    // What comes out for pieces of another family was in the box, not in a drawer.
    let mut before = held.record.settings.iter().rev();
    let out = before
        .find(|s| s.state == "fitted" && s.family_key == setting.family_key)
        .cloned()
        .filter(|_| put_back && first);
    check::end_setting(
        on.store,
        &mut held.tx,
        &held.record,
        &setting,
        fitted,
        on.who,
    )
    .await?;
    if fitted {
        for piece in out.iter().flat_map(|s| &s.pieces) {
            let line = drawer::Line {
                family: &setting.family_key,
                thickness_nm: piece.thickness_nm,
                grade: piece.grade,
            };
            let noted = drawer::Noted {
                check: Some((on.job_no, on.key)),
                ..drawer::Noted::of(line, (0, 0), "put_back", on.who)
            };
            drawer::change(on.store, &mut held.tx, noted, (piece.count, 0)).await?;
        }
        held.record.head.round += 1;
        if first {
            held.record.head.fitted_nm = Some(setting.total_nm);
        }
        held.move_others(on).await?;
    }
    held.reread_and_settle(on).await
}

impl Held {
    /// Notes that pieces fitted here moved other checks: what was measured there before is of an
    /// earlier round.
    async fn move_others(&mut self, on: &On<'_>) -> Answer<()> {
        let moved = |c: &&anvil_core::sheet::Check| c.moved_by.iter().any(|m| m.check == on.key);
        for other in self.sheet.checks.iter().filter(moved) {
            let head = check::hold(on.store, &mut self.tx, on.job_no, &other.key).await?;
            let spec = Spec::of(&self.sheet, &other.key)?;
            let (key, families) = (&other.key, spec.families());
            let mut record =
                check::record(on.store, &mut *self.tx, head, on.job_no, key, &families).await?;
            if record.signature().is_some() {
                return Err(Problem::conflict(
                    "moves-signed",
                    format!(
                        "These pieces also move {}, which is signed off: reopen it first, and measure it again afterwards.",
                        other.name
                    ),
                ));
            }
            // Where pieces are chosen, fitting them begins the new round.
            if record.open_setting().is_some() || record.standing().next().is_none() {
                continue;
            }
            record.head.round += 1;
            let found = record.assess(&spec.on_job(&record))?;
            check::settle(on.store, &mut self.tx, &record, &standing(&record, &found)).await?;
        }
        Ok(())
    }
}

/// Signs the check off; with a reason where it is not plainly in the window.
pub async fn sign(on: &On<'_>, key: &WriteKey, seen: &Seen, why: &str) -> Answer<GapView> {
    let why = reason(why, None)?;
    let Begun::Fresh(mut held) = on.begin(key, "sign", &why).await? else {
        return on.view().await;
    };
    // Said before the version is looked at: the second of two people learns who was first.
    held.not_signed()?;
    seen.still(held.record.head.version, "This check")?;
    held.nothing_chosen()?;
    let found = held
        .record
        .assess(&Spec::of(&held.sheet, on.key)?.on_job(&held.record))?;
    let (Some(way), Some(call)) = (found.way, found.call) else {
        return Err(Problem::conflict(
            "not-measured",
            "There is no reading since the last fitting: measure, then sign.",
        ));
    };
    if found.estimate.as_ref().is_some_and(|e| !e.signs) {
        return Err(Problem::conflict(
            "by-hand",
            "An estimate by hand is kept, but signs nothing off: measure it with a gauge.",
        ));
    }
    let spec = Spec::of(&held.sheet, on.key)?;
    if spec.pack().is_some_and(|p| !held.record.is_laid_right(p)) {
        reason(
            &why,
            Some(if held.record.laid.is_empty() {
                "Nobody has counted the plates of this pack: lay them out, or say why it is signed off all the same."
            } else {
                "The pack as laid out is not as the sheet has it: lay it out again, or say why it is signed off all the same."
            }),
        )?;
    }
    if call != anvil_core::judge::Call::In {
        reason(
            &why,
            Some("It is not plainly in the window: say why it is signed off all the same."),
        )?;
    }
    let scatter = crate::ways::scatter_of(&held.record, way);
    let signing = Signing {
        act: "signed".into(),
        call: Some(call_name(call).into()),
        achieved_nm: found.estimate.as_ref().map(|e| e.clearance_nm),
        chance: found
            .verdict
            .as_ref()
            .map(|v| v.chance)
            .or(found.torque.as_ref().map(|t| t.chance)),
        way: Some(way),
        achieved_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
        gauge_key: scatter.as_ref().map(|s| s.0.clone()),
        squares: scatter.as_ref().map(|s| s.1),
        scatter_dof: scatter.as_ref().map(|s| s.2),
        reason: why,
        who: on.who.to_owned(),
        at: chrono::DateTime::UNIX_EPOCH,
    };
    let readings = found
        .estimate
        .as_ref()
        .map(|e| e.readings)
        .or(found.torque.as_ref().map(|t| t.readings))
        .and_then(|n| i32::try_from(n).ok());
    check::sign(
        on.store,
        &mut held.tx,
        &held.record,
        &signing,
        found.estimate.as_ref().map(|e| (e.u_nm, e.dof)),
        readings,
    )
    .await?;
    held.reread_and_settle(on).await
}

/// The record of a reopening.
pub fn reopened(reason: String, who: &str) -> Signing {
    Signing {
        act: "reopened".into(),
        call: None,
        achieved_nm: None,
        chance: None,
        way: None,
        achieved_n_m: None,
        gauge_key: None,
        squares: None,
        scatter_dof: None,
        reason,
        who: who.to_owned(),
        at: chrono::DateTime::UNIX_EPOCH,
    }
}

/// Notes how a clutch pack was laid out.
pub async fn lay(on: &On<'_>, key: &WriteKey, seen: &Seen, laid: &NewLaid<'_>) -> Answer<GapView> {
    let body = format!("{:?} {} {:?}", laid.plates, laid.soaked, laid.springs);
    let Begun::Fresh(mut held) = on.begin(key, "lay", &body).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    if Spec::of(&held.sheet, on.key)?.pack().is_none() {
        return Err(Problem::conflict(
            "no-pack",
            "The sheet has no clutch pack for this check.",
        ));
    }
    check::lay(on.store, &mut held.tx, &held.record, laid, on.who).await?;
    held.reread_and_settle(on).await
}

/// How the shims lie at the ends of a selector's shaft: as found, or moved so.
#[derive(Debug)]
pub struct NewShims {
    /// Those at the left.
    pub left: Vec<Length>,
    /// Those at the right.
    pub right: Vec<Length>,
    /// They were moved so.
    pub moved: bool,
}

/// Notes how the shims lie at the ends of a selector's shaft. Moved, they are the same shims shared out anew,
/// and a new round of measuring begins.
pub async fn say_shims(
    on: &On<'_>,
    key: &WriteKey,
    seen: &Seen,
    new: &NewShims,
) -> Answer<GapView> {
    let Begun::Fresh(mut held) = on.begin(key, "shims", &format!("{new:?}")).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    held.not_signed()?;
    let spec = Spec::of(&held.sheet, on.key)?.on_job(&held.record);
    if spec.check.selector.is_none() {
        return Err(Problem::conflict(
            "no-selector",
            "The sheet names no gears that a selector holds for this check.",
        ));
    }
    let mut said = ShimsSaid {
        left_nm: new.left.clone(),
        right_nm: new.right.clone(),
        moved: new.moved,
        predicted_nm: None,
        who: on.who.to_owned(),
        at: held.at,
    };
    if new.moved {
        said.predicted_nm = Some(held.record.shared_out(&spec, new)?);
        held.record.head.round += 1;
    }
    check::say_shims(on.store, &mut held.tx, &held.record, &said).await?;
    held.reread_and_settle(on).await
}

impl Record {
    /// The worst offset that sharing the shims out so would leave, by this round's gaps.
    fn shared_out(&self, spec: &Spec<'_>, new: &NewShims) -> Answer<f64> {
        let found = self.assess(spec)?;
        let centring = found.ways.iter().find_map(|w| match &w.measured.detail {
            Detail::Centring { centring } => Some(centring),
            _ => None,
        });
        let centring = centring.ok_or_else(|| {
            Problem::conflict(
                "not-measured",
                "The gaps of every gear are taken first, so that it is known what moving the shims does.",
            )
        })?;
        let now = self.shims.last();
        let sorted = |left: &[Length], right: &[Length]| {
            let mut all: Vec<Length> = left.iter().chain(right).copied().collect();
            all.sort_unstable();
            all
        };
        let lie = now.map(|s| sorted(&s.left_nm, &s.right_nm));
        if lie != Some(sorted(&new.left, &new.right)) {
            return Err(Problem::field(
                "left",
                "Moving shims keeps them all: those at the left and at the right are together the ones that lay there before.",
            ));
        }
        let total = |shims: &[Length]| shims.iter().map(|s| s.nm()).sum::<i64>();
        // What is taken out at the left lets the shaft move to the left.
        let shift = now.map_or(0, |s| total(&s.left_nm)) - total(&new.left);
        Ok(centring.worst_after(Length::from_nm(shift)))
    }
}

/// Reopens a signed check; a job handed over is taken back.
pub async fn reopen(on: &On<'_>, key: &WriteKey, seen: &Seen, why: &str) -> Answer<GapView> {
    let why = reason(
        why,
        Some("Say why the check is reopened; its history stays."),
    )?;
    let Begun::Fresh(mut held) = on.begin(key, "reopen", &why).await? else {
        return on.view().await;
    };
    seen.still(held.record.head.version, "This check")?;
    if held.record.signature().is_none() {
        return Err(Problem::conflict(
            "not-signed",
            "This check is not signed off, so there is nothing to reopen.",
        ));
    }
    let signing = reopened(why, on.who);
    check::sign(on.store, &mut held.tx, &held.record, &signing, None, None).await?;
    job::mark(on.store, &mut held.tx, on.job_no, false, on.who).await?;
    held.reread_and_settle(on).await
}

/// Sets aside what has come for checks that wait for it, the oldest choice first.
pub async fn settle_waiting(store: &Store, tx: &mut Tx, waiting: Vec<(i32, String)>) -> Answer<()> {
    for (job_no, key) in waiting {
        if !drawer::set_aside(store, tx, job_no, &key).await? {
            continue;
        }
        let head = check::hold(store, tx, job_no, &key).await?;
        let now = known(store, tx, head, job_no, &key).await?;
        let standing = standing(&now.record, &now.found);
        check::settle(store, tx, &now.record, &standing).await?;
        settle_job(store, tx, job_no, &now.sheet).await?;
    }
    Ok(())
}
