//! Checks that are to be worked out anew, after what they rest on was changed by a write elsewhere.

use anvil_arithmetic::measure::Method;

use super::error::DbResult;
use super::{Store, Tx};

/// Notes every open check that was measured with a gauge this way: what is known of its scatter has changed.
pub async fn note(store: &Store, tx: &mut Tx, gauge_key: &str, way: Method) -> DbResult<()> {
    sqlx::query!(
        "insert into settle_due (shop_id, job_no, check_key)
         select distinct c.shop_id, c.job_no, c.check_key
         from job_check c join job j using (shop_id, job_no) join reading r using (shop_id, job_no, check_key)
         where c.shop_id = $1 and j.standing <> 'handed_over' and c.phase not in ('signed', 'elsewhere')
           and r.gauge_key = $2 and r.way = $3
         order by c.job_no, c.check_key
         on conflict do nothing",
        store.shop_id,
        gauge_key,
        <&str>::from(way)
    )
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// A job that has such checks.
pub async fn next_job(store: &Store) -> DbResult<Option<i32>> {
    let first = sqlx::query_scalar!(
        "select job_no from settle_due where shop_id = $1 order by job_no limit 1",
        store.shop_id
    );
    Ok(first.fetch_optional(&store.pool).await?)
}

/// Takes the checks of a job that is held off the list; those that are still open are returned.
pub async fn take(store: &Store, tx: &mut Tx, job_no: i32) -> DbResult<Vec<(i32, String)>> {
    let keys = sqlx::query_scalar!(
        "with due as (delete from settle_due where shop_id = $1 and job_no = $2 returning check_key)
         select c.check_key from due join job_check c on c.shop_id = $1 and c.job_no = $2 and c.check_key = due.check_key
           join job j on j.shop_id = $1 and j.job_no = $2
         where j.standing <> 'handed_over' and c.phase not in ('signed', 'elsewhere') order by c.check_key",
        store.shop_id,
        job_no
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(keys.into_iter().map(|key| (job_no, key)).collect())
}
