//! How predictions came out.

use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::Store;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::predictions::{self, PastOfCheck};

/// How the predictions came out, over the finished boxes of a sheet: for one check, or for all.
#[utoipa::path(operation_id = "past_sheet", context_path = "/api", tag = "past",
    params(("key" = String, Path,), ("check" = Option<String>, Query,)),
    responses((status = 200, body = Vec<PastOfCheck>), (status = 404, body = Problem)))]
#[get("/sheets/<key>/past?<check>")]
pub async fn past_sheet(
    store: &State<Store>,
    key: &str,
    check: Option<&str>,
) -> ApiResult<Json<Vec<PastOfCheck>>> {
    predictions::of_sheet(store, key, check).await.map(Json)
}
