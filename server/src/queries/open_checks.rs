//! The open checks of a box or of the whole bench, and what to buy for them.

use std::sync::Arc;
use std::time::{Duration, Instant};

use anvil_core::job_check::coupling::{OpenChecks, Pin};
use anvil_core::job_check::loaded::{LoadedCheck, worth_a_look};
use anvil_core::job_check::purchase_needs::{self, PurchaseView};
use futures::stream::{self, StreamExt, TryStreamExt};

use super::CheckRef;
use super::searches::{Searches, heavily};
use crate::db::job::{self, OpenCheck};
use crate::db::{Store, drawer, sheet};
use crate::http::problem::{ApiResult, Problem};

/// How many checks are read at once.
const AT_ONCE: usize = 4;
/// The longest search behind what to buy.
const LONGEST_SEARCH: Duration = Duration::from_secs(2);

/// Gathers the open checks of a job, or of every open job.
///
/// # Errors
/// Where a check cannot be read, or `pins` are not of whole groups.
pub async fn gather(store: &Store, job_no: Option<i32>, pins: &[Pin]) -> ApiResult<OpenChecks> {
    let mut wanted = Vec::new();
    for row in job::open_checks(store, job_no).await? {
        let sheet = sheet::revision(store, &store.pool, &row.sheet_key, row.revision).await?;
        if worth_a_look(&sheet, &row.check_key, row.phase) {
            wanted.push(row);
        }
    }
    let load = async |row: OpenCheck| {
        let of = CheckRef {
            store,
            job_no: row.job_no,
            key: &row.check_key,
            who: "",
        };
        of.load().await
    };
    // As many at once as there are connections to ask over, in the order of the bench.
    let checks: Vec<LoadedCheck> = stream::iter(wanted.into_iter().map(load))
        .buffered(AT_ONCE)
        .try_collect()
        .await?;
    Ok(heavily(|| OpenChecks::of(checks, pins))?)
}

/// Works out what to buy for the open checks of a job, or of every open job; for those not measured
/// yet too where `unmeasured`, by what boxes before them wanted.
///
/// # Errors
/// Where a check cannot be read.
pub async fn purchase(
    store: &Store,
    searches: &Searches,
    job_no: Option<i32>,
    unmeasured: bool,
) -> ApiResult<PurchaseView> {
    let open = gather(store, job_no, &[]).await?;
    let turn = searches.turn(|_| ()).await;
    // Dropped with this future, where nobody waits for the answer any more.
    let waited_for = Arc::new(());
    let waits = Arc::downgrade(&waited_for);
    let (open, together) = tokio::task::spawn_blocking(move || {
        let until = Instant::now() + LONGEST_SEARCH;
        let together = open.share(|_| Instant::now() < until && waits.strong_count() > 0);
        drop(turn);
        (open, together)
    })
    .await
    .map_err(Problem::server)?;
    let awaited = drawer::awaited(store).await?;
    Ok(purchase_needs::needs(
        &open,
        &together?,
        unmeasured,
        (&awaited, job_no),
    )?)
}
