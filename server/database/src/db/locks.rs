//! The one order in which everything is held: families by key, then their sizes by thickness and grade, then jobs by
//! number; whole sets at once. Who holds a job holds its checks. A check begins to wait for a piece only under its family,
//! so what is freed with the family held goes to jobs that are known by then; and whoever holds jobs alone never asks for a
//! family after.

use super::error::DbResult;
use super::{Store, Tx};

/// A check that waits for pieces.
pub type Waiting = (i32, String);

/// Holds these families and jobs until the transaction ends, and with them the jobs of all checks that wait for pieces of
/// the families: what is freed is set aside for those. They are returned, the oldest choice first.
pub async fn hold(
    store: &Store,
    tx: &mut Tx,
    jobs: &[i32],
    families: &[String],
) -> DbResult<Vec<Waiting>> {
    let waiting = if families.is_empty() {
        Vec::new()
    } else {
        hold_families(store, tx, families).await?;
        waiting(store, tx, families).await?
    };
    let mut jobs: Vec<i32> = jobs
        .iter()
        .copied()
        .chain(waiting.iter().map(|w| w.0))
        .collect();
    jobs.sort_unstable();
    jobs.dedup();
    hold_jobs(store, tx, &jobs).await?;
    Ok(waiting)
}

async fn hold_families(store: &Store, tx: &mut Tx, families: &[String]) -> DbResult<()> {
    sqlx::query!(
        "select 1 as one from family where shop_id = $1 and family_key = any($2) order by family_key for update",
        store.shop_id,
        families
    )
    .fetch_all(&mut **tx)
    .await?;
    sqlx::query!(
        "select 1 as one from stock where shop_id = $1 and family_key = any($2)
         order by family_key, thickness_nm, grade for update",
        store.shop_id,
        families
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(())
}

/// Holds these jobs, and so their checks, until the transaction ends.
pub async fn hold_jobs(store: &Store, tx: &mut Tx, jobs: &[i32]) -> DbResult<()> {
    sqlx::query!(
        "select 1 as one from job where shop_id = $1 and job_no = any($2) order by job_no for update",
        store.shop_id,
        jobs
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(())
}

async fn waiting(store: &Store, tx: &mut Tx, families: &[String]) -> DbResult<Vec<Waiting>> {
    let rows = sqlx::query!(
        "select c.job_no, c.check_key from job_check c
           join setting t using (shop_id, job_no, check_key)
         where c.shop_id = $1 and t.family_key = any($2) and t.state = 'chosen' and c.phase = 'await_part'
         order by t.chosen_at, c.job_no, c.check_key",
        store.shop_id,
        families
    )
    .fetch_all(&mut **tx)
    .await?;
    Ok(rows.into_iter().map(|w| (w.job_no, w.check_key)).collect())
}

/// Somebody loads the shop; nobody does once this is dropped.
#[derive(Debug)]
pub struct Loading(Tx);

impl Loading {
    /// Lets go at once; dropped, it lets go when the connection is next used.
    pub async fn let_go(self) -> DbResult<()> {
        Ok(self.0.rollback().await?)
    }
}

/// Holds the loading of the shop's files; none where somebody else is at it.
pub async fn loading(store: &Store) -> DbResult<Option<Loading>> {
    let mut tx = store.pool.begin().await?;
    // It stays idle for as long as the loading takes.
    sqlx::query!("set local idle_in_transaction_session_timeout = 0")
        .execute(&mut *tx)
        .await?;
    let held = sqlx::query_scalar!(
        r#"select pg_try_advisory_xact_lock($1, $2) as "held!""#,
        LOADING,
        store.shop_id
    )
    .fetch_one(&mut *tx)
    .await?;
    Ok(held.then_some(Loading(tx)))
}

/// The number of the lock for loading, beside the shop's.
const LOADING: i32 = 7_410;
