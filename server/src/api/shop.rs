//! The shop.

use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::{self, Store};
use crate::http::problem::ApiResult;

/// The shop, its people and its gauges.
#[utoipa::path(operation_id = "shop_shop", context_path = "/api", tag = "shop", responses((status = 200, body = db::shop::Shop)))]
#[get("/shop")]
pub async fn shop(store: &State<Store>) -> ApiResult<Json<db::shop::Shop>> {
    Ok(Json(db::shop::shop(store).await?))
}
