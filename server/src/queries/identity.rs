//! What a box may be, from the answers to what can be checked.

use std::sync::Arc;

use anvil_arithmetic::units::length::Unit;
use anvil_rules::identify::{
    Candidate, Given, Identified, IdentityAnswer, candidates, given, identified, standing,
};
use anvil_rules::job::identity::TypedAnswer;
use anvil_rules::sheet::{BoxKind, IdentifyKind, Sheet, Variant};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::{self, Store, Tx, job::Job};
use crate::http::problem::{ApiResult, Problem};

/// The sheets that a box may be of, the newest revision of each.
pub struct Sheets(Vec<(i32, Arc<Sheet>)>);

impl Sheets {
    /// Those of a kind of box, or all; the one of that key first.
    ///
    /// # Errors
    /// Where the database does not answer.
    pub async fn of(
        store: &Store,
        tx: &mut Tx,
        kind: Option<BoxKind>,
        first: &str,
    ) -> ApiResult<Self> {
        let mut all = db::sheet::newest_of_all(store, tx).await?;
        all.retain(|(_, sheet)| kind.is_none_or(|kind| sheet.kind == kind));
        all.sort_by_key(|(_, sheet)| sheet.key != first);
        Ok(Self(all))
    }

    /// The same with the job's own sheet as it is on it.
    ///
    /// # Errors
    /// As of [`Sheets::of`].
    pub async fn of_job(store: &Store, tx: &mut Tx, job: &Job) -> ApiResult<Self> {
        let own = db::sheet::revision(store, &mut **tx, &job.sheet_key, job.revision).await?;
        let mut sheets = Self::of(store, tx, Some(own.kind), &own.key).await?;
        match sheets.0.first_mut() {
            Some(first) if first.1.key == own.key => *first = (job.revision, own),
            _ => sheets.0.insert(0, (job.revision, own)),
        }
        Ok(sheets)
    }

    /// The kind of answer that a question has.
    ///
    /// # Errors
    /// Where no sheet asks it.
    fn kind_of(&self, question: &str) -> ApiResult<IdentifyKind> {
        let mut asked = self.0.iter().flat_map(|(_, sheet)| &sheet.identify);
        asked
            .find(|q| q.key == question)
            .map(|q| q.kind)
            .ok_or_else(|| {
                Problem::field(
                    "question",
                    "No sheet asks that any more: read the page again.",
                )
            })
    }

    /// What was answered.
    ///
    /// # Errors
    /// Where no sheet asks it, or it is no answer of its kind.
    pub async fn read(&self, store: &Store, answer: &TypedAnswer) -> ApiResult<Given> {
        let kind = self.kind_of(&answer.question)?;
        if answer.not_seen {
            return Ok(Given::NotSeen);
        }
        let register = db::gauge::list(store, &store.pool).await?;
        let unit = answer.unit.unwrap_or(Unit::Mm);
        let by = (register.as_slice(), answer.gauge_key.as_deref());
        Ok(given(kind, &answer.answer, unit, by)?)
    }

    fn builds(&self) -> Vec<Candidate<'_>> {
        candidates(self.0.iter().map(|(revision, sheet)| (*revision, &**sheet)))
    }

    /// What the answers say of each build.
    #[must_use]
    pub fn told(&self, answers: &[IdentityAnswer]) -> Identified {
        identified(&self.builds(), answers)
    }
}

/// What a job's box is taken for, and what its answers say of that.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct JobIdentity {
    /// The builds that its sheet serves, the usual one first; none where there is only one.
    pub builds: Vec<Variant>,
    /// The key of the build that it is taken for; empty where there is only one.
    pub variant: String,
    /// Somebody said that it is that build.
    pub known: bool,
    #[serde(flatten)]
    pub told: Identified,
}

impl JobIdentity {
    /// What the answers say of a job's box, from its own sheet and the others of its kind.
    ///
    /// # Errors
    /// Where there is no such job.
    pub async fn of(store: &Store, job_no: i32) -> ApiResult<Self> {
        let mut tx = store.moment().await?;
        let job = db::job::job(store, &mut *tx, job_no).await?;
        let entries = db::identity::entries(store, &mut *tx, job_no).await?;
        let sheets = Sheets::of_job(store, &mut tx, &job).await?;
        let own = sheets.0.first().map(|(_, sheet)| sheet);
        let builds = own.map(|s| s.variants.clone()).unwrap_or_default();
        let known = builds.iter().any(|b| b.key == job.variant);
        let usual = builds.first().map(|b| b.key.clone()).unwrap_or_default();
        Ok(Self {
            variant: if known { job.variant } else { usual },
            known,
            told: sheets.told(&standing(&entries)),
            builds,
        })
    }
}
