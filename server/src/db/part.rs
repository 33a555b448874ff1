//! What is on record of the parts of jobs.

use anvil_core::job_parts::{PartAct, PartEntry};
use sqlx::types::Json;

use super::error::DbResult;
use super::{Store, Tx};

/// What was said of a job's parts, in its order.
pub async fn entries<'e>(
    store: &Store,
    run: impl sqlx::PgExecutor<'e>,
    job_no: i32,
) -> DbResult<Vec<PartEntry>> {
    let rows = sqlx::query!(
        r#"select said as "said: Json<PartAct>", who, at from part_act
           where shop_id = $1 and job_no = $2 order by act_no"#,
        store.shop_id,
        job_no
    )
    .fetch_all(run)
    .await?;
    let entry = |act: Json<PartAct>, who, at| PartEntry {
        act: act.0,
        who,
        at,
    };
    Ok(rows
        .into_iter()
        .map(|r| entry(r.said, r.who, r.at))
        .collect())
}

/// Adds a fact.
pub async fn add(
    store: &Store,
    tx: &mut Tx,
    job_no: i32,
    act: &PartAct,
    who: &str,
) -> DbResult<()> {
    sqlx::query!(
        "insert into part_act (shop_id, job_no, said, who, at) values ($1, $2, $3, $4, clock_timestamp())",
        store.shop_id,
        job_no,
        Json(act) as _,
        who
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// Moves what was said of a job's parts to when the job was opened, a minute for each.
pub async fn move_times(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<()> {
    sqlx::query!(
        "update part_act p set at = j.opened_at + make_interval(mins => n.place::integer)
         from job j, (select act_no, row_number() over (order by act_no) as place from part_act
                      where shop_id = $1 and job_no = $2) n
         where j.shop_id = $1 and j.job_no = $2 and p.shop_id = $1 and p.job_no = $2 and n.act_no = p.act_no",
        store.shop_id,
        job_no
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}
