//! The parts of a job's box: what was found of each.

use anvil_core::job_parts::PartsView;
use rocket::serde::json::Json;
use rocket::{State, get, post};

use crate::commands::parts::{self, PartActIn};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::parts::LoadedParts;

/// The parts of a job's box, with what was found of them and what of them is in.
#[utoipa::path(operation_id = "parts_one", context_path = "/api", tag = "parts", params(("job_no" = i32, Path,)),
    responses((status = 200, body = PartsView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/parts")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Json<PartsView>> {
    Ok(Json(LoadedParts::of(store, job_no).await?.view()?))
}

/// Puts on record what somebody found of a part.
#[utoipa::path(operation_id = "parts_act", context_path = "/api", tag = "parts", request_body = PartActIn,
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = PartsView), (status = 404, body = Problem), (status = 409, body = Problem),
              (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/parts", data = "<act>")]
pub async fn act(
    store: &State<Store>,
    job_no: i32,
    key: IdempotencyKey,
    act: Body<PartActIn>,
) -> ApiResult<Json<PartsView>> {
    parts::act(store, &key, job_no, &act).await?;
    one(store, job_no).await
}
