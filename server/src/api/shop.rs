//! The shop.

use rocket::serde::json::Json;
use rocket::{State, get, put};

use crate::commands::shop::{self as commands, PersonIn, ShopIn};
use crate::db::{self, Store};
use crate::http::body::Body;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};

/// The shop, its people and its gauges.
#[utoipa::path(operation_id = "shop_shop", context_path = "/api", tag = "shop", responses((status = 200, body = db::shop::Shop)))]
#[get("/shop")]
pub async fn shop(store: &State<Store>) -> ApiResult<Json<db::shop::Shop>> {
    Ok(Json(db::shop::shop(store).await?))
}

/// Writes what the shop goes by anew; what it was stays on record.
#[utoipa::path(operation_id = "shop_put", context_path = "/api", tag = "shop", request_body = ShopIn,
    params(("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = db::shop::Shop), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/shop", data = "<new>")]
pub async fn put(
    store: &State<Store>,
    key: IdempotencyKey,
    seen: IfMatch,
    new: Body<ShopIn>,
) -> ApiResult<Json<db::shop::Shop>> {
    commands::put(store, &key, &seen, &new).await?;
    shop(store).await
}

/// Puts somebody in, or writes them anew: their name, and whether they still work here.
#[utoipa::path(operation_id = "shop_person", context_path = "/api", tag = "shop", request_body = PersonIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = db::shop::Shop), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[put("/people", data = "<new>")]
pub async fn person(
    store: &State<Store>,
    key: IdempotencyKey,
    new: Body<PersonIn>,
) -> ApiResult<Json<db::shop::Shop>> {
    commands::put_person(store, &key, &new).await?;
    shop(store).await
}
