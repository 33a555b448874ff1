//! What is said of what a job's box is.

use anvil_rules::job::act::{Act, Undoing};
use anvil_rules::job::identity::IdentityAct;

use super::By;
use crate::commands::Write;
use crate::db::{identity, job, locks};
use crate::http::problem::ApiResult;
use crate::queries::identity::Sheets;

/// Puts an answer on record, or that one is taken back.
///
/// # Errors
/// Where there is no such job, it is handed over or put away, or it is no answer.
pub(super) async fn act(by: &By<'_>, did: &IdentityAct) -> ApiResult<Option<Undoing>> {
    let By {
        store,
        key,
        job_no,
        who,
        ..
    } = *by;
    let request = (job_no, did);
    Write::once(
        store,
        key,
        who,
        ("identity", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let job = job::job(store, &mut *tx, job_no).await?;
            job.row.standing.is_on_bench()?;
            let undo = did.undoing(&identity::entries(store, &mut *tx, job_no).await?);
            let given = match did {
                IdentityAct::TakeBack { question } => (question, None),
                IdentityAct::Answer(answer) => {
                    let sheets = Sheets::of_job(store, &mut tx, &job).await?;
                    (&answer.question, Some(sheets.read(store, answer).await?))
                }
            };
            identity::add(store, &mut tx, job_no, (given.0, given.1.as_ref()), who).await?;
            let undoing = undo.map(|undo| undo.map(|did| Act::Identity { did }).into());
            Ok((tx, undoing))
        },
    )
    .await
}
