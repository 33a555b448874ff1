//! The shop.

use rocket::serde::json::Json;
use rocket::{State, get};

use crate::problem::Answer;
use crate::store::{self, Store};

/// The shop, its people and its gauges.
#[utoipa::path(operation_id = "shop_shop", context_path = "/api", tag = "shop", responses((status = 200, body = store::shop::Shop)))]
#[get("/shop")]
pub async fn shop(store: &State<Store>) -> Answer<Json<store::shop::Shop>> {
    store::shop::shop(store).await.map(Json)
}
