//! The writes on a job's parts.

use anvil_core::job_parts::{PartAct, PartEntry, due_with, taken};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use super::builds::{on_the_bench, reopen};
use crate::db::{Store, Tx, gauge, locks, part};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::ApiResult;
use crate::queries::parts::LoadedParts;

/// What somebody says of a part.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PartActIn {
    pub act: PartAct,
    /// The initials.
    pub who: String,
}

/// Works out anew what has to be got for a job that is held, where something was said of its parts.
///
/// # Errors
/// Where the database does not answer.
pub(super) async fn settle_to_get(store: &Store, tx: &mut Tx, job_no: i32) -> ApiResult<()> {
    let loaded = LoadedParts::held(store, tx, job_no).await?;
    if !loaded.entries.is_empty() {
        part::put_to_get(store, tx, job_no, &loaded.view()?.to_get).await?;
    }
    Ok(())
}

/// Puts what somebody found of a part on record, where it can be so. A part that is another, or not as it was, reopens the
/// signed checks that are measured on it.
///
/// # Errors
/// See [`anvil_core::job_parts::taken`]; where the job is handed over or put away.
pub async fn act(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: &PartActIn,
) -> ApiResult<()> {
    let request = (job_no, &new.act);
    Write::once(
        store,
        key,
        &new.who,
        ("part", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let mut loaded = LoadedParts::held(store, &mut tx, job_no).await?;
            on_the_bench(&loaded.build)?;
            let sheet = std::sync::Arc::clone(&loaded.build.sheet);
            let sheet = &*sheet;
            let register = gauge::list(store, &mut *tx).await?;
            let act = taken(sheet, &loaded.entries, &new.act, &register)?;
            part::add(store, &mut tx, job_no, &act, &new.who).await?;
            if let PartAct::Found(finding) = &act
                && finding.state.changes_it()
            {
                let signed = |key: &str| {
                    let mut facts = loaded.build.checks.iter();
                    facts.any(|f| f.key == key && f.signed_by.is_some())
                };
                let due = due_with(sheet, &finding.part).into_iter();
                let due: Vec<String> = due
                    .filter(|c| signed(&c.key))
                    .map(|c| c.key.clone())
                    .collect();
                if !due.is_empty() {
                    let name = sheet.name_of_part(&finding.part).unwrap_or_default();
                    let reason = format!("{name} {}", finding.state.words());
                    reopen(store, &mut tx, job_no, &due, (&reason, &new.who)).await?;
                }
            }
            loaded.entries.push(PartEntry {
                act,
                who: new.who.clone(),
                at: loaded.build.now,
            });
            part::put_to_get(store, &mut tx, job_no, &loaded.view()?.to_get).await?;
            Ok((tx, ()))
        },
    )
    .await
    .inspect(|()| store.due.notify_one())
}
