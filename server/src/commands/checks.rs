//! The writes on a check.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::ReadingInput;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_rules::job::check::methods::own_scatter_of;
use anvil_rules::job::check::record::{
    BiasDecision, Mark, ReadingMark, ReadingRecord, Record, Setting, SettingState, ShimsEntry,
    SignAct, Signing, TargetOverride,
};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::target::TargetOverrideInput;
use anvil_rules::job::check::{offering, rules, shims};
use anvil_rules::sheet::{Check, PartKind};
use anvil_rules::shop::drawers::{self, StockChange};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::LockedCheck;
use super::drawers::NewPiece;
use crate::db::check::{self, Bump, CheckStatus, NewAssembly};
use crate::db::{Store, Tx, drawer, job};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::ApiResult;
use crate::queries::{CheckRef, predictions};
use crate::views::check::CheckView;

/// A reading as it comes from a screen.
#[derive(Serialize)]
pub struct NewReading<'a> {
    /// The method it was taken by.
    pub method: Method,
    /// What was typed.
    pub input: &'a ReadingInput,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// The gauge; the usual one for the method where none is named.
    pub gauge_key: Option<&'a str>,
}

/// Adds a reading as typed.
///
/// # Errors
/// Where it cannot be read, or may not be taken as the check stands.
pub async fn read(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    new: &NewReading<'_>,
) -> ApiResult<CheckView> {
    let taken = &new.input.read_for(new.method, new.unit)?;
    LockedCheck::once(of, key, ("read", new), |mut held| async move {
        let gauge_key = rules::may_read(
            &held.record,
            &held.spec()?,
            new.method,
            taken,
            new.gauge_key,
        )?;
        let reading = ReadingRecord {
            reading_no: held.record.readings.last().map_or(1, |r| r.reading_no + 1),
            round: held.record.head.round,
            typed: new.input.text(),
            bench_unit: new.unit,
            way: new.method,
            taken: taken.clone(),
            gauge_key,
            who: held.of.who.to_owned(),
            at: held.at,
        };
        held.record.readings.push(reading.clone());
        let found = held.assess()?;
        let status = CheckStatus::of(&held.record, &found);
        check::add_reading(held.of.store, &mut held.tx, &held.record, &reading, &status).await?;
        held.settled(found).await
    })
    .await
}

/// Says which method counts.
///
/// # Errors
/// See [`rules::may_count`].
pub async fn say_method(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    method: Method,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("way", &method), |mut held| async move {
        held.still(seen)?;
        rules::may_count(&held.record, method)?;
        let who = held.of.who;
        check::say_way(held.of.store, &mut held.tx, &held.record, method, who).await?;
        held.record.head.way = Some(method);
        held.settle().await
    })
    .await
}

/// Says how warm box and parts were while they were measured.
///
/// # Errors
/// See [`rules::may_say_bench`].
pub async fn say_bench(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    bench_c: f64,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("bench", &bench_c), |mut held| async move {
        held.still(seen)?;
        rules::may_say_bench(&held.record, &held.spec()?, bench_c)?;
        let who = held.of.who;
        check::say_bench(held.of.store, &mut held.tx, &held.record, bench_c, who).await?;
        held.record.head.bench_c = Some(bench_c);
        held.settle().await
    })
    .await
}

/// Says that something was seen to before readings are believed, or that it was not.
///
/// # Errors
/// See [`rules::may_tick`].
pub async fn say_tick(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    tick: &str,
    done: bool,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("tick", &(tick, done)), |mut held| async move {
        rules::may_tick(&held.record, &held.spec()?, tick)?;
        let who = held.of.who;
        check::say_tick(held.of.store, &mut held.tx, &held.record, tick, done, who).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Strikes a reading out, restores it, or says that it is right as it is.
///
/// # Errors
/// See [`rules::may_mark`].
pub async fn mark(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    reading_no: i32,
    mark: ReadingMark,
    why: &str,
) -> ApiResult<CheckView> {
    let request = (reading_no, mark, why);
    LockedCheck::once(of, key, ("mark", &request), |mut held| async move {
        let said = Mark {
            reading_no,
            mark,
            reason: rules::may_mark(&held.record, reading_no, mark, why)?,
            who: held.of.who.to_owned(),
            at: held.at,
        };
        check::mark_reading(held.of.store, &mut held.tx, &held.record, &said).await?;
        held.record.marks.push(said);
        held.settle().await
    })
    .await
}

/// Says what is fitted now.
///
/// # Errors
/// See [`rules::may_say_fitted`].
pub async fn say_fitted(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    typed: &str,
    unit: Unit,
) -> ApiResult<CheckView> {
    let fitted = notation::parse(typed, Some(unit), Sign::NotNegative)
        .map_err(|e| Refusal::field("fitted", e))?;
    LockedCheck::once(of, key, ("fitted", &fitted), |mut held| async move {
        held.still(seen)?;
        rules::may_say_fitted(&held.record, fitted)?;
        let who = held.of.who;
        check::say_fitted(held.of.store, &mut held.tx, &held.record, fitted, who).await?;
        held.record.head.fitted_nm = Some(fitted.nm());
        held.reread_and_settle().await
    })
    .await
}

/// Says where to aim on this job, with the reason.
///
/// # Errors
/// Where the check is signed or chosen on, no reason is given, or the window or target is none.
pub async fn override_target(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    asked: &TargetOverrideInput,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("aim", asked), |mut held| async move {
        let reason = asked.reason()?;
        held.still(seen)?;
        rules::may_change(&held.record)?;
        let own = asked.resolve(&Spec::of(&held.sheet, held.of.key)?)?;
        let said = TargetOverride {
            as_sheet: own.is_none(),
            low_nm: own.and_then(|o| o.0.low()).map(Length::nm),
            high_nm: own.and_then(|o| o.0.high()).map(Length::nm),
            aim_from_nm: own.map(|o| o.1.from_nm),
            aim_to_nm: own.map(|o| o.1.to_nm),
            reason,
            who: held.of.who.to_owned(),
            at: held.at,
        };
        check::say_aim(held.of.store, &mut held.tx, &held.record, &said).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Says that the usual difference of boxes before counts here, or no longer does.
///
/// # Errors
/// Where the check is signed or chosen on, or too few boxes are finished.
pub async fn decide_bias(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    counts: bool,
) -> ApiResult<CheckView> {
    // Looked up before the check is held: a write waits for no second connection.
    let head = check::head(of.store, &of.store.pool, of.job_no, of.key).await?;
    let past = &predictions::of_check(of.store, &head.sheet_key, of.key).await?;
    LockedCheck::once(of, key, ("usual", &counts), |mut held| async move {
        held.still(seen)?;
        rules::may_change(&held.record)?;
        let found = past
            .as_ref()
            .and_then(|p| p.usual.as_ref())
            .ok_or_else(rules::too_few_boxes)?;
        let said = BiasDecision {
            counts,
            mean_nm: found.mean_nm,
            u_nm: found.u_nm,
            dof: found.dof,
            boxes: i32::try_from(found.boxes).unwrap_or(i32::MAX),
            who: held.of.who.to_owned(),
            at: held.at,
        };
        check::say_usual(held.of.store, &mut held.tx, &held.record, &said).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Pieces to be chosen.
#[derive(Serialize)]
pub struct NewChoice<'a> {
    /// Each size once, with how many of it.
    pub pieces: &'a [SizeCount],
    /// Where they are of another family than the first: its key, and what comes out for them, together.
    pub instead_of: Option<(&'a str, Length)>,
    /// They are added to what is in, which stays.
    pub stays: bool,
}

/// Chooses pieces and sets them aside.
///
/// # Errors
/// See [`rules::may_choose`]; and where the pieces are not to be had.
pub async fn choose(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    new: &NewChoice<'_>,
) -> ApiResult<CheckView> {
    LockedCheck::once_with_drawers(of, key, ("choose", new), |mut held| async move {
        held.still(seen)?;
        held.choose(new).await?;
        held.reread_and_settle().await
    })
    .await
}

/// A piece that was ground to size for a check.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GroundPiece {
    /// The size it was marked as, where it came out of the drawer; none where it is the one that was fitted.
    pub marked_nm: Option<Length>,
    /// What it measures now, in bench notation.
    pub measured: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// The key of the micrometer; the one that is taken up where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
    /// The pieces that come out for it are sound and go back in the drawer.
    #[serde(default)]
    pub put_back: bool,
    /// The initials.
    pub who: String,
}

/// Takes in a piece that was ground to size: it is a line of its own in the drawer, chosen, and fitted.
///
/// # Errors
/// Where it is no thinner than it was, or see [`choose`] and [`fit`].
pub async fn take_ground(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    piece: &GroundPiece,
) -> ApiResult<CheckView> {
    LockedCheck::once_with_drawers(of, key, ("ground", piece), |mut held| async move {
        held.still(seen)?;
        let measured = drawers::thickness("measured", &piece.measured, piece.unit)?;
        let fitted = held.record.head.fitted_nm.map(Length::from_nm);
        drawers::may_grind(piece.marked_nm.or(fitted), measured)?;
        let family = held.spec()?.family().unwrap_or_default().to_owned();
        let grade = match piece.marked_nm {
            Some(_) => Grade::Miked,
            None => Grade::Used,
        };
        let own = NewPiece {
            line: drawer::Line {
                family: &family,
                thickness_nm: measured.nm(),
                grade,
            },
            marked_nm: piece.marked_nm,
            gauge_key: piece.gauge_key.as_deref(),
            place: "",
            reason: "ground",
        };
        own.put_in(held.of.store, &mut held.tx, (key, held.of.who))
            .await?;
        held.reread().await?;
        let pieces = [SizeCount {
            thickness_nm: measured,
            grade,
            count: 1,
        }];
        held.choose(&NewChoice {
            pieces: &pieces,
            instead_of: None,
            stays: false,
        })
        .await?;
        held.reread().await?;
        held.fit(piece.put_back && piece.marked_nm.is_some())
            .await?;
        held.reread_and_settle().await
    })
    .await
}

/// Lets the chosen pieces go, back to the drawer.
///
/// # Errors
/// See [`rules::may_end_setting`].
pub async fn let_go(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
) -> ApiResult<CheckView> {
    LockedCheck::once_with_drawers(of, key, ("let_go", &()), |mut held| async move {
        held.still(seen)?;
        held.end_setting(SettingState::LetGo).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Notes the chosen pieces as fitted; a new round of measuring begins. Where `put_back`, the pieces
/// that came out are sound and go back in the drawer.
///
/// # Errors
/// See [`rules::may_end_setting`]; and where the pieces move a check that is signed.
pub async fn fit(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    put_back: bool,
) -> ApiResult<CheckView> {
    LockedCheck::once_with_drawers(of, key, ("fit", &put_back), |mut held| async move {
        held.still(seen)?;
        held.fit(put_back).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Says that what was noted as fitted was not: the pieces are chosen again, as they were.
///
/// # Errors
/// See [`rules::may_undo_fitting`]; and where what was put back in the drawer is gone from it.
pub async fn undo_fit(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
) -> ApiResult<CheckView> {
    LockedCheck::once_with_drawers(of, key, ("undo_fit", &()), |mut held| async move {
        held.still(seen)?;
        let fitted = rules::may_undo_fitting(&held.record)?.clone();
        held.move_others_back(&fitted).await?;
        let who = held.of.who;
        check::undo_fitting(held.of.store, &mut held.tx, &held.record, &fitted, who).await?;
        let again = Setting {
            setting_no: fitted.setting_no + 1,
            state: SettingState::Chosen,
            chosen_by: who.to_owned(),
            chosen_at: held.at,
            ended_by: None,
            ended_at: None,
            ..fitted
        };
        if !check::choose(held.of.store, &mut held.tx, &held.record, &again).await? {
            return Err(rules::stock_taken().into());
        }
        held.record.head.round -= 1;
        if held.spec()?.family() == Some(again.family_key.as_str()) {
            held.record.head.fitted_nm = Some(again.fitted_before_nm);
        }
        held.reread_and_settle().await
    })
    .await
}

impl LockedCheck<'_> {
    /// Sets pieces aside.
    async fn choose(&mut self, new: &NewChoice<'_>) -> ApiResult<()> {
        let asked = offering::NewSetting {
            pieces: new.pieces,
            instead_of: new.instead_of,
            stays: new.stays,
            who: self.of.who,
            at: self.at,
        };
        let setting = self
            .record
            .setting_of(&self.spec()?, &self.assess()?, &asked)?;
        if !check::choose(self.of.store, &mut self.tx, &self.record, &setting).await? {
            return Err(rules::stock_taken().into());
        }
        Ok(())
    }

    /// Notes what is chosen as fitted.
    async fn fit(&mut self, put_back: bool) -> ApiResult<()> {
        let out = self.record.comes_out(self.spec()?.family());
        let out = out.filter(|_| put_back).cloned();
        let setting = self.end_setting(SettingState::Fitted).await?;
        for piece in out.iter().flat_map(|s| &s.pieces) {
            let line = drawer::Line {
                family: &setting.family_key,
                thickness_nm: piece.thickness_nm,
                grade: piece.grade,
            };
            let noted = drawer::Noted {
                check: Some((self.of.job_no, self.of.key)),
                ..drawer::Noted::of(line, (0, 0), StockChange::PutBack, self.of.who)
            };
            drawer::change(self.of.store, &mut self.tx, noted, (piece.count, 0)).await?;
        }
        self.record.head.round += 1;
        if self.spec()?.family() == Some(setting.family_key.as_str()) {
            self.record.head.fitted_nm = Some(setting.total_nm);
        }
        self.move_others().await
    }

    /// Ends the choice that is open.
    async fn end_setting(&mut self, state: SettingState) -> ApiResult<Setting> {
        let setting = rules::may_end_setting(&self.record, state)?.clone();
        let who = self.of.who;
        check::end_setting(
            self.of.store,
            &mut self.tx,
            &self.record,
            &setting,
            state,
            who,
        )
        .await?;
        Ok(setting)
    }

    /// Notes that pieces fitted here moved other checks: what was measured there before is of an
    /// earlier round.
    async fn move_others(&mut self) -> ApiResult<()> {
        self.round_of_others(1, rules::is_moved_on).await
    }

    /// Takes the rounds back that pieces fitted here began of other checks.
    async fn move_others_back(&mut self, fitted: &Setting) -> ApiResult<()> {
        self.round_of_others(-1, |record, name| {
            rules::is_moved_back(record, name, fitted)
        })
        .await
    }

    /// Moves the checks that pieces here move to another round, where `is_moved` says so of their record and name.
    async fn round_of_others(
        &mut self,
        by: i32,
        is_moved: impl Fn(&Record, &str) -> Ruled<bool>,
    ) -> ApiResult<()> {
        let moved = |c: &&Check| c.moved_by.iter().any(|m| m.check == self.of.key);
        let others: Vec<&Check> = self.sheet.checks.iter().filter(moved).collect();
        for other in others {
            let spec = Spec::of(&self.sheet, &other.key)?;
            let record = other_record(&self.of, &mut self.tx, &spec).await?;
            if is_moved(&record, &other.name)? {
                to_round(self.of.store, &mut self.tx, record, spec, by).await?;
            }
        }
        Ok(())
    }

    /// Asks again, in a new round, what is to be asked after this check; what was signed of it is reopened.
    async fn ask_again(&mut self) -> ApiResult<()> {
        let this = self.of.key;
        let again = |c: &&Check| {
            let proof = c.proof.as_ref();
            proof.is_some_and(|p| p.again_after.iter().any(|key| key == this))
        };
        let name = self.spec()?.check.name.clone();
        for other in self.sheet.checks.iter().filter(again) {
            let spec = Spec::of(&self.sheet, &other.key)?;
            let mut record = other_record(&self.of, &mut self.tx, &spec).await?;
            let Some(why) = rules::asked_again(&record, &name) else {
                continue;
            };
            let store = self.of.store;
            if record.signature().is_some() {
                let reopened = Signing::reopened(why, self.of.who, self.at);
                check::sign(store, &mut self.tx, &record, &reopened, None, None).await?;
                record.signings.push(reopened);
            }
            to_round(store, &mut self.tx, record, spec, 1).await?;
        }
        Ok(())
    }
}

/// Another check of the same job, as it stands; the job is held.
async fn other_record(of: &CheckRef<'_>, tx: &mut Tx, spec: &Spec<'_>) -> ApiResult<Record> {
    let of = CheckRef {
        key: &spec.check.key,
        ..*of
    };
    let head = check::head(of.store, &mut **tx, of.job_no, of.key).await?;
    of.record_held(tx, head, spec).await
}

/// Puts another check so many rounds on, or back.
async fn to_round(
    store: &Store,
    tx: &mut Tx,
    mut record: Record,
    spec: Spec<'_>,
    by: i32,
) -> ApiResult<()> {
    record.head.round += by;
    let found = record.assess(&spec.on_job(&record))?;
    let status = CheckStatus::of(&record, &found);
    check::settle(store, tx, &record, &status, Bump::Always).await?;
    Ok(())
}

/// Signs the check off; with a reason where it is not plainly in the window.
///
/// # Errors
/// See [`rules::may_sign`].
pub async fn sign(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    why: &str,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("sign", &why), |mut held| async move {
        // Said before the version is looked at: the second of two people learns who was first.
        rules::not_signed(&held.record)?;
        held.still(seen)?;
        let found = held.assess()?;
        let reason = rules::may_sign(&held.record, &held.spec()?, &found, why)?;
        let scatter = {
            let counted = held.record.counted(&held.spec()?);
            found.method.and_then(|m| own_scatter_of(&counted, m))
        };
        let estimate = found.estimate.as_ref();
        let signing = Signing {
            act: SignAct::Signed,
            call: found.call,
            achieved_nm: estimate.map(|e| e.clearance_nm),
            chance: found.chance(),
            way: found.method,
            achieved_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
            gauge_key: scatter.as_ref().map(|s| s.0.clone()),
            squares: scatter.as_ref().map(|s| s.1),
            scatter_dof: scatter.as_ref().map(|s| s.2),
            reason,
            who: held.of.who.to_owned(),
            at: held.at,
        };
        let u = estimate.map(|e| (e.u_nm, e.dof));
        let readings = found.readings().and_then(|n| i32::try_from(n).ok());
        check::sign(
            held.of.store,
            &mut held.tx,
            &held.record,
            &signing,
            u,
            readings,
        )
        .await?;
        held.ask_again().await?;
        held.reread_and_settle().await
    })
    .await
    .inspect(|_| of.store.due.notify_one())
}

/// Reopens a signed check; a job handed over is taken back.
///
/// # Errors
/// See [`rules::may_reopen`].
pub async fn reopen(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    why: &str,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("reopen", &why), |mut held| async move {
        held.still(seen)?;
        let reason = rules::may_reopen(&held.record, why)?;
        let signing = Signing::reopened(reason, held.of.who, held.at);
        check::sign(
            held.of.store,
            &mut held.tx,
            &held.record,
            &signing,
            None,
            None,
        )
        .await?;
        job::mark(
            held.of.store,
            &mut held.tx,
            held.of.job_no,
            false,
            ("", held.of.who),
        )
        .await?;
        held.reread_and_settle().await
    })
    .await
    .inspect(|_| of.store.due.notify_one())
}

/// A clutch pack as it is laid out.
#[derive(Serialize)]
pub struct NewLayout<'a> {
    /// The kinds of its plates from the piston outwards.
    pub plates: &'a [PartKind],
    /// The frictions are soaked.
    pub soaked: bool,
    /// How many return springs are fitted, where they were counted.
    pub springs: Option<u32>,
}

/// Notes how a clutch pack was laid out.
///
/// # Errors
/// See [`rules::may_lay`].
pub async fn lay(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    new: &NewLayout<'_>,
) -> ApiResult<CheckView> {
    LockedCheck::once(of, key, ("lay", new), |mut held| async move {
        held.still(seen)?;
        rules::may_lay(&held.record, &held.spec()?, new.plates, new.springs)?;
        let laid = NewAssembly {
            plates: new.plates.to_vec(),
            soaked: new.soaked,
            springs: new.springs,
        };
        let who = held.of.who;
        check::lay(held.of.store, &mut held.tx, &held.record, &laid, who).await?;
        held.reread_and_settle().await
    })
    .await
}

/// Notes how the shims lie at the ends of a selector's shaft. Moved, they are the same shims shared out anew,
/// and a new round of measuring begins.
///
/// # Errors
/// See [`rules::may_say_shims`]; and where other shims are said to be moved than lay there.
pub async fn say_shims(
    of: &CheckRef<'_>,
    key: &IdempotencyKey,
    seen: &IfMatch,
    new: &shims::ShimsInput,
) -> ApiResult<CheckView> {
    let (left, right) = &new.read()?;
    LockedCheck::once(of, key, ("shims", new), |mut held| async move {
        held.still(seen)?;
        let spec = held.spec()?;
        rules::may_say_shims(&held.record, &spec)?;
        let mut said = ShimsEntry {
            left_nm: left.clone(),
            right_nm: right.clone(),
            moved: new.moved,
            predicted_nm: None,
            who: held.of.who.to_owned(),
            at: held.at,
        };
        if new.moved {
            let leaves = held.record.shared_out(&held.assess()?, &said)?;
            said.predicted_nm = Some(leaves);
            held.record.head.round += 1;
        }
        check::say_shims(held.of.store, &mut held.tx, &held.record, &said).await?;
        held.reread_and_settle().await
    })
    .await
}
