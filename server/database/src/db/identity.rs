//! What was seen, counted or measured to tell what the boxes of jobs are.

use anvil_rules::identify::{Given, IdentityEntry};
use sqlx::types::Json;

use super::error::DbResult;
use super::{Store, Tx};

/// What was answered of a job's box, in its order.
pub async fn entries<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<IdentityEntry>> {
    let rows = sqlx::query!(
        r#"select question, given as "given: Json<Given>", who, at from job_identity
           where shop_id = $1 and job_no = $2 order by entry_no"#,
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| IdentityEntry {
            question: r.question,
            given: r.given.map(|g| g.0),
            who: r.who,
            at: r.at,
        })
        .collect())
}

/// Adds an answer, or that one is taken back.
pub async fn add(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    (question, given): (&str, Option<&Given>),
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into job_identity (shop_id, job_no, question, given, who, at)
         values ($1, $2, $3, $4, $5, clock_timestamp())",
        store.shop_id,
        job_no,
        question,
        given.map(Json) as _,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Moves what was answered of a job's box to when the job was opened.
pub async fn move_times(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<()> {
    sqlx::query!(
        "update job_identity i set at = j.opened_at from job j
         where j.shop_id = $1 and j.job_no = $2 and i.shop_id = $1 and i.job_no = $2",
        store.shop_id,
        job_no
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
