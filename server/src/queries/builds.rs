//! The build of a job, with all that the core looks at.

use std::collections::BTreeMap;
use std::sync::Arc;

use anvil_rules::job::build::{Build, BuildEntry, CheckFact, PartView, own_times, parts};
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::sheet::{Check, Sheet};
use chrono::{DateTime, Utc};

use crate::db::job::{CheckRow, Job};
use crate::db::{self, Store, Tx};
use crate::http::problem::ApiResult;

/// What a build is made of.
pub struct LoadedBuild {
    pub job: Job,
    pub sheet: Arc<Sheet>,
    pub entries: Vec<BuildEntry>,
    pub checks: Vec<CheckFact>,
    /// By the database's clock.
    pub now: DateTime<Utc>,
}

impl LoadedBuild {
    /// The build of a job to look at, as of one moment.
    ///
    /// # Errors
    /// Where there is no such job, or the database does not answer.
    pub async fn of(store: &Store, job_no: i32) -> ApiResult<Self> {
        let mut tx = store.moment().await?;
        Self::held(store, &mut tx, job_no).await
    }

    /// The same within a transaction that holds the job.
    ///
    /// # Errors
    /// As of [`LoadedBuild::of`].
    pub async fn held(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<Self> {
        let job = db::job::job(store, &mut **tx, job_no).await?;
        let rows = db::job::checks(store, &mut **tx, job_no).await?;
        let sheet = db::sheet::built(store, &mut **tx, job.on_sheet()).await?;
        Ok(Self {
            entries: db::build::entries(store, &mut **tx, job_no).await?,
            now: db::build::now(&mut **tx).await?,
            checks: facts(&rows),
            job,
            sheet,
        })
    }

    /// How it stands.
    ///
    /// # Errors
    /// Where the sheet has no steps.
    pub fn build(&self) -> ApiResult<Build<'_>> {
        Ok(Build::of(
            &self.sheet,
            &self.entries,
            &self.checks,
            self.now,
        )?)
    }

    /// The parts of its sheet, with what of them is in.
    ///
    /// # Errors
    /// Where the record contradicts the sheet.
    pub fn parts(&self) -> ApiResult<Vec<PartView>> {
        let Self { sheet, now, .. } = self;
        Ok(parts(sheet, &self.entries, &self.checks, *now)?)
    }

    /// How long the steps take this shop.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn own_times(&self, store: &Store) -> ApiResult<BTreeMap<String, f64>> {
        let others =
            db::build::of_other_boxes(store, self.job.row.job_no, &self.job.sheet_key).await?;
        Ok(own_times(&others))
    }
}

/// How many steps of a job's build come out to change the pieces that set a check, by the key of their family; none where
/// nothing of the box is built. Neither checks nor the time have a say in that.
///
/// # Errors
/// Where the record contradicts the sheet, or the database does not answer.
pub async fn steps_out(
    store: &Store,
    job_no: i32,
    sheet: &Sheet,
    check: &Check,
) -> ApiResult<BTreeMap<String, usize>> {
    let entries = db::build::entries(store, &store.pool, job_no).await?;
    match entries.last() {
        Some(last) if !sheet.build.is_empty() => {
            Ok(Build::of(sheet, &entries, &[], last.at)?.steps_out(check))
        }
        _ => Ok(BTreeMap::new()),
    }
}

/// What a build has to know of the checks of its job.
#[must_use]
pub fn facts(rows: &[CheckRow]) -> Vec<CheckFact> {
    rows.iter()
        .map(|row| CheckFact {
            key: row.check_key.clone(),
            signed_by: row.signed_by.clone(),
            elsewhere: row.phase == Phase::Elsewhere,
        })
        .collect()
}
