//! Works out anew what rests on something that a write elsewhere has changed: beside the writes, so that a signature need
//! not hold every job that was measured with the same gauge.

use std::time::Duration;

use super::locked_check::settle_again;
use super::unit_of_work::or_again;
use crate::db::check::Bump;
use crate::db::{Store, due, locks};
use crate::http::problem::ApiResult;

/// What another server's write made due is seen after so long at the latest; this one's own at once.
const LOOK: Duration = Duration::from_secs(5);

/// Settles what is due whenever something is, for as long as the server runs.
pub async fn settle_for_ever(store: Store) {
    loop {
        if let Err(problem) = settle(&store).await {
            tracing::warn!(title = problem.title, "what is due is not settled yet");
        }
        // Woken or not, it looks.
        let _ = tokio::time::timeout(LOOK, store.due.notified()).await;
    }
}

/// Settles all that is due, a job at a time.
///
/// # Errors
/// Where the database does not answer; what is left stays due.
pub async fn settle(store: &Store) -> ApiResult<()> {
    while let Some(job_no) = due::next_job(store).await? {
        or_again(|| async {
            let mut tx = store.begin().await?;
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let checks = due::take(store, &mut tx, job_no).await?;
            settle_again(store, &mut tx, &checks, Bump::WhereChanged).await?;
            Ok(store.commit(tx).await?)
        })
        .await?;
    }
    Ok(())
}
