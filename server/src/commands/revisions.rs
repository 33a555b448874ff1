//! Moving a job to another revision of its sheet.

use anvil_core::job_check::record::{Record, Signing};
use anvil_core::job_check::revision::{Beside, Revising, fitted_at_first};
use anvil_core::job_check::spec::Spec;
use anvil_core::job_check::workflow::Phase;

use super::Write;
use super::locked_check::settle_job;
use super::parts::settle_to_get;
use crate::db::check::{self, Bump, CheckStatus};
use crate::db::{Store, Tx, job, locks, sheet};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::CheckRef;

/// `holds` where the checks are to be held for a write; to look, nobody need wait.
async fn beside(
    store: &Store,
    tx: &mut Tx,
    job: &job::Job,
    to: i32,
    holds: bool,
) -> ApiResult<Beside> {
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
        let key = row.check_key.as_str();
        let record = if holds {
            let head = check::head(store, &mut **tx, job_no, key).await?;
            held(store, tx, (job_no, key), head, &spec).await?
        } else {
            let of = CheckRef {
                store,
                job_no,
                key,
                who: "",
            };
            of.load().await?.record
        };
        records.push(record);
    }
    Ok(Beside {
        from: job.revision,
        to,
        was,
        now,
        records,
    })
}

async fn held(
    store: &Store,
    tx: &mut Tx,
    (job_no, key): (i32, &str),
    head: anvil_core::job_check::record::Head,
    spec: &Spec<'_>,
) -> ApiResult<Record> {
    let of = CheckRef {
        store,
        job_no,
        key,
        who: "",
    };
    of.record_held(tx, head, spec).await
}

/// What moving a job to a revision would do.
///
/// # Errors
/// Where there is no such job or revision, or the job is handed over.
pub async fn look(store: &Store, job_no: i32, to: i32) -> ApiResult<Revising> {
    let mut tx = store.begin().await?;
    let job = job::job(store, &mut *tx, job_no).await?;
    Ok(beside(store, &mut tx, &job, to, false).await?.revising())
}

/// Moves a job to a revision of its sheet, newer or older. Readings stay; signed checks that are judged
/// otherwise now are reopened.
///
/// # Errors
/// Where the job has changed since it was seen, or something hinders it.
pub async fn move_to(
    store: &Store,
    job_no: i32,
    to: i32,
    (key, seen, who): (&IdempotencyKey, &IfMatch, &str),
) -> ApiResult<()> {
    Write::once(
        store,
        key,
        who,
        ("revise", &(job_no, to)),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let job = job::job(store, &mut *tx, job_no).await?;
            seen.still(job.version, "This job")?;
            let beside = beside(store, &mut tx, &job, to, true).await?;
            if let Some(why) = beside.hindered().first() {
                return Err(Problem::conflict("cannot-move", why.clone()));
            }
            let at = chrono::Utc::now();
            for record in beside.reopens() {
                let why = format!(
                    "The sheet changed from revision {} to {}",
                    beside.from, beside.to
                );
                let signing = Signing::reopened(why, who, at);
                check::sign(store, &mut tx, record, &signing, None, None).await?;
            }
            let gone: Vec<String> = beside.gone().map(|r| r.check_key.clone()).collect();
            let (from, now) = ((job_no, beside.from), (to, &*beside.now));
            job::revise(store, &mut tx, from, now, &gone, who).await?;
            let said = format!("Moved from revision {} of the sheet to {to}", beside.from);
            job::note(store, &mut tx, job_no, (&said, ""), who).await?;
            for spec_check in &beside.now.checks {
                let key = spec_check.key.as_str();
                let head = check::head(store, &mut *tx, job_no, key).await?;
                let spec = Spec::of(&beside.now, key)?;
                let mut record = held(store, &mut tx, (job_no, key), head, &spec).await?;
                if record.head.phase == Phase::Elsewhere {
                    continue;
                }
                if record.is_blank() {
                    record.head.fitted_nm = fitted_at_first(spec_check);
                }
                let found = record.assess(&spec.on_job(&record))?;
                let status = CheckStatus::of(&record, &found);
                check::settle(store, &mut tx, &record, &status, Bump::Always).await?;
            }
            settle_job(store, &mut tx, job_no, &beside.now).await?;
            settle_to_get(store, &mut tx, job_no).await?;
            Ok((tx, ()))
        },
    )
    .await
    .inspect(|()| store.due.notify_one())
}
