//! Moving a job to another revision of its sheet, another build of the box, or another sheet.

use anvil_rules::job::check::record::{Record, Signing};
use anvil_rules::job::check::revision::{Beside, OnSheet, Revising, fitted_at_first};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::Phase;

use serde::Serialize;

use super::Write;
use super::acts::settle_to_get;
use super::locked_check::settle_job;
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
    to: &MoveTo,
    holds: bool,
) -> ApiResult<Beside> {
    let job_no = job.row.job_no;
    if job.row.finished_at.is_some() {
        return Err(Problem::conflict(
            "handed-over",
            "This job is handed over: it stays on the sheet it was built by.",
        ));
    }
    let was = sheet::built(store, &mut **tx, job.on_sheet()).await?;
    let to = to.on(store, tx, job).await?;
    let now = sheet::built(store, &mut **tx, (&to.sheet_key, to.revision, &to.variant)).await?;
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
        from: OnSheet {
            sheet_key: job.sheet_key.clone(),
            revision: job.revision,
            variant: job.variant.clone(),
        },
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
    head: anvil_rules::job::check::record::Head,
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

/// Where to move a job.
#[derive(Clone, Debug, Default, Serialize)]
pub struct MoveTo {
    /// The key of another sheet; the job's own where none is named.
    pub sheet_key: Option<String>,
    /// The revision; the newest where none is named.
    pub revision: Option<i32>,
    /// The key of the build, empty where it is not known; as it is where none is named.
    pub variant: Option<String>,
}

impl MoveTo {
    async fn on(&self, store: &Store, tx: &mut Tx, job: &job::Job) -> ApiResult<OnSheet> {
        let sheet_key = self.sheet_key.as_ref().unwrap_or(&job.sheet_key).clone();
        let revision = match self.revision {
            Some(revision) => revision,
            None => job::newest_revision(store, &sheet_key).await?,
        };
        let whole = sheet::revision(store, &mut **tx, &sheet_key, revision).await?;
        // On another sheet a build is not that of the sheet before, nor where its revision has it no longer.
        let stays = || {
            let own = sheet_key == job.sheet_key && whole.variant(&job.variant).is_some();
            if own {
                job.variant.clone()
            } else {
                String::new()
            }
        };
        let variant = self.variant.clone().unwrap_or_else(stays);
        if !variant.is_empty() && whole.variant(&variant).is_none() {
            return Err(Problem::field(
                "variant",
                format!(
                    "{} has no build “{variant}”: take one of its own.",
                    whole.name
                ),
            ));
        }
        Ok(OnSheet {
            sheet_key,
            revision,
            variant,
        })
    }
}

/// What moving a job would do.
///
/// # Errors
/// Where there is no such job, sheet, revision or build, or the job is handed over.
pub async fn look(store: &Store, job_no: i32, to: &MoveTo) -> ApiResult<Revising> {
    let mut tx = store.begin().await?;
    let job = job::job(store, &mut *tx, job_no).await?;
    Ok(beside(store, &mut tx, &job, to, false).await?.revising())
}

/// Moves a job to a revision of its sheet, newer or older, to another build or to another sheet. Readings stay; signed
/// checks that are judged otherwise now are reopened.
///
/// # Errors
/// Where the job has changed since it was seen, or something hinders it.
pub async fn move_to(
    store: &Store,
    job_no: i32,
    to: &MoveTo,
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
            let (from, now_on) = beside.words();
            for record in beside.reopens() {
                let why = format!("The job moved from {from} to {now_on}");
                let signing = Signing::reopened(why, who, at);
                check::sign(store, &mut tx, record, &signing, None, None).await?;
            }
            let gone: Vec<String> = beside.gone().map(|r| r.check_key.clone()).collect();
            job::revise(store, &mut tx, job_no, &beside, &gone, who).await?;
            let said = format!("Moved from {from} to {now_on}");
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
