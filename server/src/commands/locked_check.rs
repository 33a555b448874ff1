//! A check held for a write, with its sheet and its record.

use std::sync::Arc;

use anvil_core::job_check::assess::Assessment;
use anvil_core::job_check::record::Record;
use anvil_core::job_check::spec::Spec;
use anvil_core::job_check::workflow::{CheckStands, JobStatus};
use anvil_core::sheet::Sheet;
use chrono::{DateTime, Utc};
use serde::Serialize;

use super::unit_of_work::fingerprint;
use crate::db::check::{self, CheckStatus};
use crate::db::{Store, Tx, job, sheet};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::ApiResult;
use crate::queries::CheckRef;
use crate::views::check::{CheckView, check_view};

/// A check held for a write.
pub struct LockedCheck<'a> {
    /// Which it is, and who writes.
    pub of: CheckRef<'a>,
    /// The transaction that holds it.
    pub tx: Tx,
    /// All that is recorded of it.
    pub record: Record,
    pub sheet: Arc<Sheet>,
    /// When the write was begun, by the database's clock.
    pub at: DateTime<Utc>,
}

impl<'a> LockedCheck<'a> {
    /// Does a write on a check once: claims its key, makes sure of who, holds the check, and does it; the same write
    /// sent again answers the check as it stands.
    ///
    /// # Errors
    /// Where there is no such check, the key was used for another write, nobody of the shop has these initials, or
    /// `work` fails; then nothing is changed.
    pub async fn once<R, F>(
        of: &CheckRef<'a>,
        key: &IdempotencyKey,
        (act, request): (&str, &R),
        work: impl FnOnce(Self) -> F,
    ) -> ApiResult<CheckView>
    where
        R: Serialize,
        F: Future<Output = ApiResult<CheckView>>,
    {
        let mut tx = of.store.begin().await?;
        let named = (of.job_no, of.key, request);
        let fingerprint = fingerprint(act, of.who, &named)?;
        let write = (key.0.as_str(), fingerprint.as_str());
        let started = check::begin(of.store, &mut tx, write, of.who, of.job_no, of.key).await?;
        let Some(check::Started { head, at }) = started else {
            return check_view(of.load().await?);
        };
        let sheet = sheet::revision(of.store, &mut *tx, &head.sheet_key, head.revision).await?;
        let spec = Spec::of(&sheet, of.key)?;
        let record = of.record_held(&mut tx, head, &spec).await?;
        work(Self {
            of: *of,
            tx,
            record,
            sheet,
            at,
        })
        .await
    }

    /// The check as its sheet has it, with what the job has of its own.
    ///
    /// # Errors
    /// Where the sheet contradicts itself.
    pub fn spec(&self) -> ApiResult<Spec<'_>> {
        Ok(Spec::of(&self.sheet, self.of.key)?.on_job(&self.record))
    }

    /// What the record means.
    ///
    /// # Errors
    /// Where it contradicts itself.
    pub fn assess(&self) -> ApiResult<Assessment> {
        Ok(self.record.assess(&self.spec()?)?)
    }

    /// The check is as it was seen.
    ///
    /// # Errors
    /// Where it has changed since.
    pub fn still(&self, seen: &IfMatch) -> ApiResult<()> {
        seen.still(self.record.head.version, "This check")
    }

    /// Works out where the check and its job stand now, stores it, and ends the write.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn settle(mut self) -> ApiResult<CheckView> {
        let found = self.assess()?;
        let status = CheckStatus::of(&self.record, &found);
        check::settle(self.of.store, &mut self.tx, &self.record, &status).await?;
        self.settled(found).await
    }

    /// Ends a write whose check is stored: the job next, where the check's phase changed.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn settled(mut self, found: Assessment) -> ApiResult<CheckView> {
        let changed = self.record.head.phase != found.phase;
        self.record.head.phase = found.phase;
        self.record.head.version += 1;
        if changed {
            settle_job(self.of.store, &mut self.tx, self.of.job_no, &self.sheet).await?;
        }
        self.of.store.commit(self.tx).await?;
        let spec = Spec::of(&self.sheet, self.of.key)?.on_job(&self.record);
        CheckView::of(&self.record, &spec, found)
    }

    /// Settles after a write that changed more than the record in hand: what was written is read
    /// again first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn reread_and_settle(mut self) -> ApiResult<CheckView> {
        let spec = Spec::of(&self.sheet, self.of.key)?;
        let head = self.record.head.clone();
        self.record = self.of.record_held(&mut self.tx, head, &spec).await?;
        self.settle().await
    }
}

/// Stores what a job waits for.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle_job(store: &Store, tx: &mut Tx, job_no: i32, sheet: &Sheet) -> ApiResult<()> {
    let rows = job::checks(store, &mut **tx, job_no).await?;
    let stands: Vec<CheckStands<'_>> = rows
        .iter()
        .map(|row| CheckStands {
            key: &row.check_key,
            phase: row.phase,
            awaited_nm: row.awaited_nm,
        })
        .collect();
    let status = JobStatus::of(sheet, &stands);
    Ok(job::settle(store, tx, job_no, &status).await?)
}
