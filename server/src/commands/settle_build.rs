//! What comes next in a build, worked out anew after every write on its job or on a check of it.

use anvil_rules::job::build::Build;
use anvil_rules::sheet::Sheet;

use crate::db::job::CheckRow;
use crate::db::{Store, Tx, build};
use crate::http::problem::ApiResult;
use crate::queries::builds::facts;

/// Stores what comes next in the build of a job that is held, where one was begun.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle_build(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    sheet: &Sheet,
    checks: &[CheckRow],
) -> ApiResult<()> {
    if sheet.build.is_empty() {
        return Ok(());
    }
    let entries = build::entries(store, &mut **tx, job_no).await?;
    if entries.is_empty() {
        return Ok(());
    }
    let facts = facts(checks);
    let now = build::now(&mut **tx).await?;
    settle(store, tx, job_no, &Build::of(sheet, &entries, &facts, now)?).await
}

/// Stores what comes next in a build that is known.
///
/// # Errors
/// Where the database does not answer.
pub async fn settle(store: &Store, tx: &mut Tx, job_no: i32, of: &Build<'_>) -> ApiResult<()> {
    let next = of.next_in_words();
    let figure = |n: usize| i32::try_from(n).unwrap_or(i32::MAX);
    let done_of = (figure(of.done_count()), figure(of.step_count()));
    Ok(build::settle(store, tx, job_no, next.as_deref(), done_of).await?)
}
