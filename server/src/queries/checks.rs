//! One check with all that is known of it.

use std::sync::Arc;

use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::record::{Head, Record};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::swaps::{self, SwapView};

use anvil_arithmetic::refusal::Refusal;
use anvil_rules::sheet::{Pack, Sheet};

use super::builds::steps_out;
use crate::processor::heavily_if;
use anvil_arithmetic::verdict::sisters::{SistersSay, beside_gears};
use anvil_rules::job::check::clashes::{Clash, clashes, that_may_clash};

use crate::db::{Store, Tx, check, sheet};
use crate::http::problem::{ApiResult, Problem};

/// Which check is meant, and who asks.
#[derive(Clone, Copy)]
pub struct CheckRef<'a> {
    pub store: &'a Store,
    pub job_no: i32,
    /// The check.
    pub key: &'a str,
    /// The initials; empty where somebody only looks.
    pub who: &'a str,
}

/// So many readings, and lines of stock to choose from, may take a while.
const MANY: usize = 40;

/// Whether working on what is on record of a check may take a while.
pub fn is_much(record: &Record) -> bool {
    let lines = record.stock.len() + record.others.iter().map(|o| o.stock.len()).sum::<usize>();
    lines + record.readings.len() >= MANY
}

/// Works out where a check stands.
fn loaded(record: Record, sheet: Arc<Sheet>) -> Result<LoadedCheck, Refusal> {
    heavily_if(is_much(&record), || LoadedCheck::of(record, sheet))
}

/// A check that is written to without pause is read again at most so often.
const MOST_TRIES: usize = 8;

impl CheckRef<'_> {
    /// The check as it stands. Head and records are of one moment: where it changed between the two, both are read
    /// again.
    ///
    /// # Errors
    /// Where there is no such check, or its records contradict themselves.
    pub async fn load(&self) -> ApiResult<LoadedCheck> {
        let Self {
            store, job_no, key, ..
        } = *self;
        for _ in 0..MOST_TRIES {
            let head = check::head(store, &store.pool, job_no, key).await?;
            let sheet = sheet::built(
                store,
                &store.pool,
                (&head.sheet_key, head.revision, &head.variant),
            )
            .await?;
            let spec = Spec::of(&sheet, key)?;
            let families = spec.families();
            let record = check::record(store, &store.pool, head, job_no, key, &families).await?;
            if let Some(record) = record {
                let mut record = record.heeding(&spec);
                // What it costs to change pieces ranks only those of several families.
                if !spec.check.or_set_by.is_empty() {
                    record.steps_out = steps_out(store, job_no, &sheet, spec.check).await?;
                }
                return Ok(loaded(record, sheet)?);
            }
        }
        Err(Problem::server("a check changed at every look"))
    }

    /// The check as it stands within a transaction that holds it.
    ///
    /// # Errors
    /// See [`CheckRef::load`].
    pub async fn load_held(&self, tx: &mut Tx, head: Head) -> ApiResult<LoadedCheck> {
        let sheet = sheet::built(
            self.store,
            &mut **tx,
            (&head.sheet_key, head.revision, &head.variant),
        )
        .await?;
        let record = self
            .record_held(tx, head, &Spec::of(&sheet, self.key)?)
            .await?;
        Ok(loaded(record, sheet)?)
    }

    /// Its records within a transaction that holds it.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn record_held(&self, tx: &mut Tx, head: Head, spec: &Spec<'_>) -> ApiResult<Record> {
        let Self {
            store, job_no, key, ..
        } = *self;
        let families = spec.families();
        let record = check::record(store, &mut **tx, head, job_no, key, &families).await?;
        let record = record.ok_or_else(|| Problem::server("a check changed while it was held"))?;
        Ok(record.heeding(spec))
    }

    /// Its figure beside those of the other boxes of its sheet; none where it has none, or too few say anything.
    ///
    /// # Errors
    /// Where there is no such check, or its records contradict themselves.
    pub async fn beside_sisters(&self) -> ApiResult<SistersSay> {
        let loaded = self.load().await?;
        let Some(estimate) = &loaded.assessment.estimate else {
            return Ok(SistersSay {
                boxes: None,
                gears: None,
            });
        };
        let sheet_key = &loaded.record.head.sheet_key;
        let sisters = check::sisters(self.store, sheet_key, self.key, self.job_no).await?;
        let gears = loaded.sheet.sisters_of(&loaded.check);
        let gears: Vec<String> = gears.iter().map(|c| c.key.clone()).collect();
        let gears = check::signed_figures(self.store, self.job_no, &gears).await?;
        Ok(SistersSay {
            boxes: sisters.beside(estimate.clearance_nm),
            gears: beside_gears(&gears, estimate.clearance_nm),
        })
    }

    /// Where what was answered by hand on its job and what was measured cannot both be so.
    ///
    /// # Errors
    /// Where there is no such check, or its job's records contradict themselves.
    pub async fn clashes(&self) -> ApiResult<Vec<Clash>> {
        let head = check::head(self.store, &self.store.pool, self.job_no, self.key).await?;
        let sheet = sheet::built(
            self.store,
            &self.store.pool,
            (&head.sheet_key, head.revision, &head.variant),
        )
        .await?;
        let mut checks = Vec::new();
        for key in that_may_clash(&sheet) {
            checks.push(CheckRef { key, ..*self }.load().await?);
        }
        let mut found = clashes(&checks);
        found.retain(|c| c.proof_key == self.key || c.check_key == self.key);
        Ok(found)
    }

    /// The clutch pack that it measures.
    ///
    /// # Errors
    /// Where there is no such check, or it has no pack.
    pub async fn pack(&self) -> ApiResult<Pack> {
        let Self {
            store, job_no, key, ..
        } = *self;
        let head = check::head(store, &store.pool, job_no, key).await?;
        let sheet = sheet::built(
            store,
            &store.pool,
            (&head.sheet_key, head.revision, &head.variant),
        )
        .await?;
        let pack = Spec::of(&sheet, key)?.pack().cloned();
        pack.ok_or_else(|| Problem::missing("This check has no clutch pack."))
    }

    /// The pieces of other jobs that would bring it above the shop's required probability.
    ///
    /// # Errors
    /// See [`CheckRef::load`].
    pub async fn swaps(&self) -> ApiResult<Vec<SwapView>> {
        let mine = self.load().await?;
        let Some(family) = mine.family().filter(|_| swaps::may_ask(&mine)) else {
            return Ok(Vec::new());
        };
        let mut others = Vec::new();
        for (job_no, key) in check::holders(self.store, family).await? {
            let other = CheckRef {
                job_no,
                key: &key,
                ..*self
            };
            others.push(other.load().await?);
        }
        Ok(swaps::swaps(&mine, others)?)
    }
}
