//! Moving a job to another revision of its sheet. What was measured stays as it was measured; what it
//! means may change.

use std::sync::Arc;

use anvil_core::sheet::{Check, Difference, MeasuredWith, Sheet, differences};
use serde::Serialize;
use utoipa::ToSchema;

use crate::gap::Spec;
use crate::guard::{Seen, WriteKey};
use crate::problem::{Answer, Problem};
use crate::store::check::Record;
use crate::store::{self, Store, Tx, check, job, sheet, writes};
use crate::work::{reopened, settle_job, standing};

/// What moving a job to another revision of its sheet would do.
#[derive(Debug, Serialize, ToSchema)]
pub struct Revising {
    /// The revision the job is on.
    pub from: i32,
    /// The revision asked about.
    pub to: i32,
    /// What differs.
    pub differences: Vec<Difference>,
    /// The checks that come to the job.
    pub added: Vec<String>,
    /// The checks that leave it; nothing is recorded of them.
    pub gone: Vec<String>,
    /// The signed checks whose window, terms or adjustments change: they are reopened.
    pub reopened: Vec<String>,
    /// Why the job cannot be moved as it stands; none where it can.
    pub hindered: Vec<String>,
}

/// A job beside another revision of its sheet.
struct Beside {
    from: i32,
    to: i32,
    was: Arc<Sheet>,
    now: Arc<Sheet>,
    /// The checks of the sheet that the job has, with all that is recorded of each.
    records: Vec<Record>,
}

impl Beside {
    fn name<'a>(&'a self, key: &'a str) -> &'a str {
        let check = self.now.check(key).or_else(|| self.was.check(key));
        check.map_or(key, |c| &c.name)
    }

    fn gone(&self) -> impl Iterator<Item = &Record> {
        self.records
            .iter()
            .filter(|r| self.now.check(&r.check_key).is_none())
    }

    /// The checks on both revisions, as each has them.
    fn both(&self) -> impl Iterator<Item = (&Record, &Check, &Check)> {
        self.records.iter().filter_map(|r| {
            let key = &r.check_key;
            Some((r, self.was.check(key)?, self.now.check(key)?))
        })
    }

    fn reopens(&self) -> impl Iterator<Item = &Record> {
        self.both()
            .filter(|(r, was, now)| {
                let same = was.judged_as(now) && self.was.terms_of(was) == self.now.terms_of(now);
                r.signature().is_some() && !same
            })
            .map(|(r, ..)| r)
    }

    fn hindered(&self) -> Vec<String> {
        let gone = self.gone().filter(|r| !is_blank(r)).map(|r| {
            format!(
                "{} is not on revision {}, and this job has a record of it. Finish this box on revision {}.",
                self.name(&r.check_key),
                self.to,
                self.from
            )
        });
        let drawer = self.both().filter_map(|(r, was, now)| {
            let others = |c: &Check| {
                c.or_set_by
                    .iter()
                    .map(|o| o.family.clone())
                    .collect::<Vec<_>>()
            };
            let of = |c: &Check| {
                c.set_by
                    .as_ref()
                    .map(|s| (s.family.clone(), s.effect, others(c)))
            };
            let chosen = r.open_setting().is_some();
            let fitted = r.fitted_setting().is_some();
            ((chosen || fitted) && of(was) != of(now)).then(|| {
                let what = if chosen { "chosen" } else { "fitted" };
                let then = if chosen {
                    "Let them go first"
                } else {
                    "Finish this box on the revision they were fitted by"
                };
                format!(
                    "Pieces are {what} for {}, and revision {} sets it by others. {then}.",
                    now.name, self.to
                )
            })
        });
        let terms = self.both().filter_map(|(r, was, now)| {
            let terms = |sheet: &Sheet, c: &Check| -> Vec<_> {
                let terms = sheet.terms_of(c).into_iter();
                terms.map(|t| (t.what, t.opens)).collect()
            };
            let measured = r.standing().any(|x| x.way == anvil_core::measure::Way::StackSum);
            (measured && terms(&self.was, was) != terms(&self.now, now)).then(|| {
                format!(
                    "Terms of {} are measured, and revision {} has other terms. Strike those readings out first.",
                    now.name, self.to
                )
            })
        });
        gone.chain(drawer).chain(terms).collect()
    }

    fn revising(&self) -> Revising {
        let named = |keys: &mut dyn Iterator<Item = &str>| {
            keys.map(|k| self.name(k).to_owned()).collect::<Vec<_>>()
        };
        let had = |key: &str| self.records.iter().any(|r| r.check_key == key);
        let mut added = self.now.checks.iter().map(|c| c.key.as_str());
        Revising {
            from: self.from,
            to: self.to,
            differences: differences(&self.was, &self.now),
            added: named(&mut added.by_ref().filter(|k| !had(k))),
            gone: named(&mut self.gone().map(|r| r.check_key.as_str())),
            reopened: named(&mut self.reopens().map(|r| r.check_key.as_str())),
            hindered: self.hindered(),
        }
    }
}

/// Nothing was ever said of a check.
fn is_blank(record: &Record) -> bool {
    record.readings.is_empty()
        && record.settings.is_empty()
        && record.signings.is_empty()
        && record.said.is_empty()
        && record.aims.is_empty()
        && record.usuals.is_empty()
        && record.ticks.is_empty()
        && record.laid.is_empty()
        && record.shims.is_empty()
        && record.head.way.is_none()
}

/// `holds` where the checks are to be held for a write; to look, nobody need wait.
async fn beside(
    store: &Store,
    tx: &mut Tx,
    job: &job::Job,
    to: i32,
    holds: bool,
) -> Answer<Beside> {
    let job_no = job.row.job_no;
    if job.row.finished_at.is_some() {
        return Err(Problem::conflict(
            "handed-over",
            "This job is handed over: it stays on the revision it was built by.",
        ));
    }
    let was = sheet::revision(store, &mut **tx, &job.sheet_key, job.revision).await?;
    let now = sheet::revision(store, &mut **tx, &job.sheet_key, to).await?;
    let mut records = Vec::new();
    for row in job::checks(store, &mut **tx, job_no).await? {
        let Ok(spec) = Spec::of(&was, &row.check_key) else {
            continue;
        };
        let key = &row.check_key;
        let head = if holds {
            check::hold(store, tx, job_no, key).await?
        } else {
            check::head(store, &mut **tx, job_no, key).await?
        };
        records.push(check::record(store, &mut **tx, head, job_no, key, &spec.families()).await?);
    }
    Ok(Beside {
        from: job.revision,
        to,
        was,
        now,
        records,
    })
}

/// What moving a job to a revision would do.
pub async fn asked(store: &Store, job_no: i32, to: i32) -> Answer<Revising> {
    let mut tx = store.begin().await?;
    let job = job::job(store, &mut *tx, job_no).await?;
    Ok(beside(store, &mut tx, &job, to, false).await?.revising())
}

/// Moves a job to a revision of its sheet, newer or older. Readings stay; signed checks that are judged
/// otherwise now are reopened.
pub async fn moved(
    store: &Store,
    job_no: i32,
    to: i32,
    (key, seen, who): (&WriteKey, &Seen, &str),
) -> Answer<()> {
    let mut tx = store.begin().await?;
    let fingerprint = format!("revise {job_no} {to} {who}");
    let done = writes::claim(store, &mut tx, &key.0, &fingerprint).await?;
    if done.is_some() {
        return Ok(());
    }
    store::shop::known(store, &mut tx, who).await?;
    job::hold(store, &mut tx, job_no).await?;
    let job = job::job(store, &mut *tx, job_no).await?;
    seen.still(job.version, "This job")?;
    let beside = beside(store, &mut tx, &job, to, true).await?;
    if let Some(why) = beside.hindered().first() {
        return Err(Problem::conflict("cannot-move", why.clone()));
    }
    for record in beside.reopens() {
        let why = format!(
            "The sheet changed from revision {} to {}",
            beside.from, beside.to
        );
        check::sign(store, &mut tx, record, &reopened(why, who), None, None).await?;
    }
    let gone: Vec<String> = beside.gone().map(|r| r.check_key.clone()).collect();
    let (from, now) = ((job_no, beside.from), (to, &*beside.now));
    job::revise(store, &mut tx, from, now, &gone, who).await?;
    let said = format!("Moved from revision {} of the sheet to {to}", beside.from);
    job::note(store, &mut tx, job_no, (&said, ""), who).await?;
    for spec_check in &beside.now.checks {
        let key = &spec_check.key;
        let head = check::hold(store, &mut tx, job_no, key).await?;
        let spec = Spec::of(&beside.now, key)?;
        let mut record =
            check::record(store, &mut *tx, head, job_no, key, &spec.families()).await?;
        if record.head.phase == "elsewhere" {
            continue;
        }
        if is_blank(&record) {
            let as_found = |s: &anvil_core::sheet::SetBy| s.measured_with == MeasuredWith::AsFound;
            record.head.fitted_nm =
                (!spec_check.set_by.as_ref().is_some_and(as_found)).then_some(0);
        }
        let found = record.assess(&spec.on_job(&record))?;
        check::settle(store, &mut tx, &record, &standing(&record, &found)).await?;
    }
    settle_job(store, &mut tx, job_no, &beside.now).await?;
    tx.commit().await?;
    Ok(())
}
