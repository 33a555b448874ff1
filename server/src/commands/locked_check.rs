//! A check held for a write, with its sheet and its record.

use std::sync::Arc;

use anvil_rules::job::check::act::CheckAct;
use anvil_rules::job::check::assess::Assessment;
use anvil_rules::job::check::record::{Head, Record};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::{CheckStands, JobStatus};
use anvil_rules::job::undo::Undo;
use anvil_rules::sheet::Sheet;
use chrono::{DateTime, Utc};

use super::settle_build::settle_build;
use super::unit_of_work::{fingerprint, or_again};
use crate::db::check::{self, Begun, Bump, CheckStatus, Started};
use crate::db::error::DbError;
use crate::db::locks::{self, Waiting};
use crate::db::{Store, Tx, drawer, job, sheet, shop, writes};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily_if;
use crate::queries::CheckRef;
use crate::queries::checks::is_much;
use crate::views::check::check_view;
use anvil_rules::job::check::view::CheckView;

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
    /// Other checks that wait for pieces of the drawers it may draw from, where those are held.
    waiting: Vec<Waiting>,
}

impl<'a> LockedCheck<'a> {
    /// Does something to a check once: claims its key, makes sure of who, holds the check, and does it; the same sent again
    /// answers the check as it stands. Where it moves pieces, all drawers that the check may draw from are held with it, and
    /// the checks that wait for pieces of them; what it frees is set aside for those. Where it lost a race it begins again.
    ///
    /// # Errors
    /// Where there is no such check, the key was used for another write, nobody of the shop has these initials, or
    /// `work` fails; then nothing is changed.
    pub async fn once<F>(
        of: &CheckRef<'a>,
        key: &IdempotencyKey,
        act: &CheckAct,
        work: impl Fn(Self) -> F,
    ) -> ApiResult<(CheckView, Option<Undo<CheckAct>>)>
    where
        F: Future<Output = ApiResult<CheckView>>,
    {
        let fingerprint = fingerprint("check", of.who, &(of.job_no, of.key, act))?;
        let write = (key.0.as_str(), fingerprint.as_str());
        or_again(|| async {
            let begun = if act.moves_pieces() {
                Self::begin_with_drawers(of, write).await?
            } else {
                Self::begin(of, write).await?
            };
            match begun {
                Begun::Fresh(mut held) => {
                    let undo = held.undoing(act)?;
                    if let Some(undo) = &undo {
                        let said = serde_json::to_string(undo).map_err(Problem::server)?;
                        writes::note_result(of.store, &mut held.tx, &key.0, &said).await?;
                    }
                    Ok((work(held).await?, undo))
                }
                Begun::Before(said) => {
                    let undo = if said.is_empty() {
                        None
                    } else {
                        Some(serde_json::from_str(&said).map_err(Problem::server)?)
                    };
                    Ok((check_view(of.load().await?)?, undo))
                }
            }
        })
        .await
    }

    /// What undoes it, by how the check stands.
    fn undoing(&self, act: &CheckAct) -> ApiResult<Option<Undo<CheckAct>>> {
        let counted = match act {
            CheckAct::Way { .. } => self.assess()?.method,
            _ => None,
        };
        Ok(act.undoing(&self.record, &self.spec()?, counted))
    }

    /// Claims a write's key and holds the check.
    async fn begin(of: &CheckRef<'a>, write: (&str, &str)) -> ApiResult<Begun<Self>> {
        let mut tx = of.store.begin().await?;
        let begun = check::begin(of.store, &mut tx, write, of.who, of.job_no, of.key).await?;
        Ok(match begun {
            Begun::Before(said) => Begun::Before(said),
            Begun::Fresh(Started { head, at }) => {
                Begun::Fresh(Self::of_held(of, tx, (head, at), Vec::new()).await?)
            }
        })
    }

    async fn begin_with_drawers(of: &CheckRef<'a>, write: (&str, &str)) -> ApiResult<Begun<Self>> {
        let store = of.store;
        let mut tx = store.begin().await?;
        if let Some(said) = writes::claim(store, &mut tx, write.0, write.1).await? {
            return Ok(Begun::Before(said));
        }
        shop::known(store, &mut tx, of.who).await?;
        let before = check::head(store, &mut *tx, of.job_no, of.key).await?;
        let families = drawers_of(of, &mut tx, &before).await?;
        let waiting = locks::hold(store, &mut tx, &[of.job_no], &families).await?;
        let (head, at) = check::head_at(store, &mut tx, of.job_no, of.key).await?;
        if head.revision != before.revision {
            return Err(DbError::Again.into());
        }
        let begun = Self::of_held(of, tx, (head, at), waiting).await?;
        Ok(Begun::Fresh(begun))
    }

    async fn of_held(
        of: &CheckRef<'a>,
        mut tx: Tx,
        (head, at): (Head, DateTime<Utc>),
        waiting: Vec<Waiting>,
    ) -> ApiResult<Self> {
        let sheet = sheet::built(
            of.store,
            &mut *tx,
            (&head.sheet_key, head.revision, &head.variant),
        )
        .await?;
        let spec = Spec::of(&sheet, of.key)?;
        let record = of.record_held(&mut tx, head, &spec).await?;
        rules::not_put_away(&record)?;
        Ok(Self {
            of: *of,
            tx,
            record,
            sheet,
            at,
            waiting,
        })
    }

    /// Who writes, and when.
    pub fn by(&self) -> (&'a str, DateTime<Utc>) {
        (self.of.who, self.at)
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
        heavily_if(is_much(&self.record), || {
            Ok(self.record.assess(&self.spec()?)?)
        })
    }

    /// Works out where the check and its job stand now, stores it, and ends the write.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn settle(mut self) -> ApiResult<CheckView> {
        let found = self.assess()?;
        let status = CheckStatus::of(&self.record, &found);
        check::settle(
            self.of.store,
            &mut self.tx,
            &self.record,
            &status,
            Bump::Always,
        )
        .await?;
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
        let of = (self.of.job_no, self.of.key);
        self.waiting.retain(|w| (w.0, w.1.as_str()) != of);
        settle_waiting(self.of.store, &mut self.tx, &self.waiting).await?;
        if changed {
            settle_job(self.of.store, &mut self.tx, self.of.job_no, &self.sheet).await?;
        }
        self.of.store.commit(self.tx).await?;
        heavily_if(is_much(&self.record), || {
            let spec = Spec::of(&self.sheet, self.of.key)?.on_job(&self.record);
            Ok(CheckView::of(&self.record, &spec, found)?)
        })
    }

    /// Settles after a write that changed more than the record in hand: what was written is read
    /// again first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn reread_and_settle(mut self) -> ApiResult<CheckView> {
        self.reread().await?;
        self.settle().await
    }

    /// Reads what is recorded of the check again, after a write.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn reread(&mut self) -> ApiResult<()> {
        let spec = Spec::of(&self.sheet, self.of.key)?;
        let head = self.record.head.clone();
        self.record = self.of.record_held(&mut self.tx, head, &spec).await?;
        Ok(())
    }
}

/// The drawers that a check may draw from, and those that its open choice is of.
///
/// # Errors
/// Where there is no such sheet, or the database does not answer.
pub async fn drawers_of(of: &CheckRef<'_>, tx: &mut Tx, head: &Head) -> ApiResult<Vec<String>> {
    let sheet = sheet::built(
        of.store,
        &mut **tx,
        (&head.sheet_key, head.revision, &head.variant),
    )
    .await?;
    let mut families = Spec::of(&sheet, of.key)?.families();
    families.extend(check::chosen_of(of.store, tx, of.job_no, of.key).await?);
    Ok(families)
}

/// Sets aside what is free for checks that wait for it, the oldest choice first; all of them are held.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle_waiting(store: &Store, tx: &mut Tx, waiting: &[Waiting]) -> ApiResult<()> {
    let mut supplied = Vec::new();
    for check in waiting {
        if drawer::set_aside(store, tx, check.0, &check.1).await? {
            supplied.push(check.clone());
        }
    }
    supplied.sort_unstable();
    settle_again(store, tx, &supplied, Bump::Always).await
}

/// Works out anew where checks stand, after something that they rest on has changed, and what their jobs wait for; all
/// of them are held, and in the order of their jobs.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle_again(
    store: &Store,
    tx: &mut Tx,
    checks: &[(i32, String)],
    bump: Bump,
) -> ApiResult<()> {
    for of_job in checks.chunk_by(|a, b| a.0 == b.0) {
        let mut sheet = None;
        for (job_no, key) in of_job {
            let of = CheckRef {
                store,
                job_no: *job_no,
                key,
                who: "",
            };
            let head = check::head(store, &mut **tx, *job_no, key).await?;
            let now = of.load_held(tx, head).await?;
            let status = CheckStatus::of(&now.record, &now.assessment);
            check::settle(store, tx, &now.record, &status, bump).await?;
            sheet = Some((*job_no, now.sheet));
        }
        if let Some((job_no, sheet)) = sheet {
            settle_job(store, tx, job_no, &sheet).await?;
        }
    }
    Ok(())
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
    job::settle(store, tx, job_no, &status).await?;
    settle_build(store, tx, job_no, sheet, &rows).await
}
