//! The writes on what a job's box is.

use anvil_arithmetic::units::length::Unit;
use anvil_rules::identify::{Given, given};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use crate::db::{Store, gauge, identity, job, locks};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::identity::Sheets;

/// An answer as it is typed.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AnswerIn {
    /// The key of the question.
    pub question: String,
    /// As typed: a whole number, a mark, a length, yes or no.
    #[serde(default)]
    pub answer: String,
    /// It cannot be seen, or not yet.
    #[serde(default)]
    pub not_seen: bool,
    /// The unit of a length without one.
    #[serde(default)]
    pub unit: Option<Unit>,
    /// The key of the micrometer that a length was taken with; the one that is taken up where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
}

impl AnswerIn {
    /// What was answered.
    ///
    /// # Errors
    /// Where no sheet asks it, or it is no answer of its kind.
    pub async fn read(&self, store: &Store, sheets: &Sheets) -> ApiResult<Given> {
        let kind = sheets.kind_of(&self.question)?;
        if self.not_seen {
            return Ok(Given::NotSeen);
        }
        let register = gauge::list(store, &store.pool).await?;
        let unit = self.unit.unwrap_or(Unit::Mm);
        let by = (register.as_slice(), self.gauge_key.as_deref());
        Ok(given(kind, &self.answer, unit, by)?)
    }
}

/// What somebody answers, or takes back.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct IdentityIn {
    pub answer: AnswerIn,
    /// What was answered to it is taken back.
    #[serde(default)]
    pub taken_back: bool,
    /// The initials.
    pub who: String,
}

/// Puts an answer on record, or that one is taken back.
///
/// # Errors
/// Where there is no such job, it is handed over or put away, or it is no answer.
pub async fn answer(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: &IdentityIn,
) -> ApiResult<()> {
    let request = (job_no, &new.answer, new.taken_back);
    Write::once(
        store,
        key,
        &new.who,
        ("identity", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let job = job::job(store, &mut *tx, job_no).await?;
            if job.row.finished_at.is_some() || job.row.put_away_at.is_some() {
                return Err(Problem::conflict(
                    "not-on-the-bench",
                    "This job is not on the bench: take it back first.",
                ));
            }
            let given = if new.taken_back {
                None
            } else {
                let sheets = Sheets::of_job(store, &mut tx, &job).await?;
                Some(new.answer.read(store, &sheets).await?)
            };
            let answer = (new.answer.question.as_str(), given.as_ref());
            identity::add(store, &mut tx, job_no, answer, &new.who).await?;
            Ok((tx, ()))
        },
    )
    .await
}
