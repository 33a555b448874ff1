//! Moving a job to another revision of its sheet.

use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::revisions;
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::views::jobs::{BoxView, box_view};
use anvil_core::job_check::revision::Revising;

/// What moving a job to another revision of its sheet would do.
#[utoipa::path(operation_id = "jobs_revising", context_path = "/api", tag = "jobs",
    params(("job_no" = i32, Path,), ("to" = i32, Query,)),
    responses((status = 200, body = Revising), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/jobs/<job_no>/revision?<to>")]
pub async fn asked(store: &State<Store>, job_no: i32, to: i32) -> ApiResult<Json<Revising>> {
    revisions::look(store, job_no, to).await.map(Json)
}

/// Which revision to move a job to, and who moves it.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MoveTo {
    /// The revision, newer or older.
    pub revision: i32,
    /// The initials.
    pub who: String,
}

/// Moves a job to another revision of its sheet. Readings stay as they were taken; signed checks whose
/// window, terms or adjustments differ are reopened, with that as the reason.
#[utoipa::path(operation_id = "jobs_revise", context_path = "/api", tag = "jobs", request_body = MoveTo,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = BoxView), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[put("/jobs/<job_no>/revision", data = "<to>")]
pub async fn moved(
    store: &State<Store>,
    job_no: i32,
    key: IdempotencyKey,
    seen: IfMatch,
    to: Body<MoveTo>,
) -> ApiResult<Json<BoxView>> {
    revisions::move_to(store, job_no, to.revision, (&key, &seen, &to.who)).await?;
    box_view(store, job_no).await.map(Json)
}
