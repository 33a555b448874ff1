//! A box that was here before: what it was signed at, and what is found of it now.

use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::since::{MovedSince, moved_since};
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::job::parts::{WornSince, worn_since, years_between};
use serde::Serialize;
use utoipa::ToSchema;

use super::CheckRef;
use crate::db::job::SameBox;
use crate::db::{self, Store};
use crate::http::problem::ApiResult;

/// What became of a box since it was here last.
#[derive(Debug, Serialize, ToSchema)]
pub struct SinceLast {
    /// When it was here last.
    pub before: SameBox,
    /// How long ago that was, in years; none where it is too short to say anything of a year.
    pub years: Option<f64>,
    /// The checks that were signed then and have been measured as found now.
    pub checks: Vec<MovedSince>,
    /// The parts of which a size is known of then and of now.
    pub parts: Vec<WornSince>,
}

/// The checks of a job that have been measured.
async fn measured(store: &Store, job_no: i32) -> ApiResult<Vec<LoadedCheck>> {
    let mut loaded = Vec::new();
    for row in db::job::checks(store, &store.pool, job_no).await? {
        if row.phase == Phase::Elsewhere || row.shown_nm.is_none() {
            continue;
        }
        let of = CheckRef {
            store,
            job_no,
            key: &row.check_key,
            who: "",
        };
        loaded.push(of.load().await?);
    }
    Ok(loaded)
}

/// What became of a job's box since it was last handed over; none where it was not here before, or on another sheet.
///
/// # Errors
/// Where there is no such job.
pub async fn since_last(store: &Store, job_no: i32) -> ApiResult<Option<SinceLast>> {
    let job = db::job::job(store, &store.pool, job_no).await?;
    let same = db::job::of_same_box(store, job_no, &job.intake.stamped).await?;
    let earlier = same
        .into_iter()
        .find(|b| b.job_no < job_no && b.finished_at.is_some());
    let Some(before) = earlier else {
        return Ok(None);
    };
    let was = db::job::job(store, &store.pool, before.job_no).await?;
    if was.sheet_key != job.sheet_key {
        return Ok(None);
    }
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    let years = before
        .finished_at
        .and_then(|then| years_between(then, job.row.opened_at));
    let then = db::part::entries(store, &store.pool, before.job_no).await?;
    let now = db::part::entries(store, &store.pool, job_no).await?;
    let checks = moved_since(
        &measured(store, before.job_no).await?,
        &measured(store, job_no).await?,
        years,
    );
    Ok(Some(SinceLast {
        parts: years.map_or_else(Vec::new, |years| worn_since(&sheet, &then, &now, years)),
        checks,
        years,
        before,
    }))
}
