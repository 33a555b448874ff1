//! Moving a job to another revision of its sheet, another build, or another sheet.

use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::revisions::{self, MoveTo as To};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::{self, IdempotencyKey, IfMatch, NUMBER};
use crate::http::problem::{ApiResult, Problem};
use crate::views::jobs::{BoxView, box_view};
use anvil_rules::job::check::revision::Revising;

/// What moving a job to another revision of its sheet, another build or another sheet would do.
#[utoipa::path(operation_id = "jobs_revising", context_path = "/api", tag = "jobs",
    params(("job_no" = i32, Path,), ("to" = Option<i32>, Query, description = "The revision; the newest where none is named"),
        ("sheet" = Option<String>, Query, description = "Another sheet"),
        ("variant" = Option<String>, Query, description = "The build; empty where it is not known which")),
    responses((status = 200, body = Revising), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[get("/jobs/<job_no>/revision?<to>&<sheet>&<variant>")]
pub async fn asked(
    store: &State<Store>,
    job_no: i32,
    to: Option<&str>,
    sheet: Option<String>,
    variant: Option<String>,
) -> ApiResult<Json<Revising>> {
    let to = To {
        revision: extract::asked("to", to, NUMBER)?,
        sheet_key: sheet,
        variant,
    };
    revisions::look(store, job_no, &to).await.map(Json)
}

/// Where to move a job, and who moves it.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MoveTo {
    /// The revision, newer or older; the newest where none is named.
    #[serde(default)]
    pub revision: Option<i32>,
    /// The key of another sheet; the job's own where none is named.
    #[serde(default)]
    pub sheet_key: Option<String>,
    /// The key of the build, empty where it is not known; as it is where none is named.
    #[serde(default)]
    pub variant: Option<String>,
    /// The initials.
    pub who: String,
}

/// Moves a job to another revision of its sheet, another build or another sheet. Readings stay as they were taken; signed
/// checks whose window, terms or adjustments differ are reopened, with that as the reason.
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
    let on = To {
        sheet_key: to.sheet_key.clone(),
        revision: to.revision,
        variant: to.variant.clone(),
    };
    revisions::move_to(store, job_no, &on, (&key, &seen, &to.who)).await?;
    box_view(store, job_no).await.map(Json)
}
