//! Copies of the whole shop.

use anvil_rules::shop::backups::Backups;
use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::{Store, archive};
use crate::http::problem::ApiResult;

/// Backups are made every night by this server.
pub struct IsNightly(pub bool);

/// When the last backup was made, and whether that is too long ago.
#[utoipa::path(operation_id = "backups_backups", context_path = "/api", tag = "shop", responses((status = 200, body = Backups)))]
#[get("/backups")]
pub async fn backups(store: &State<Store>, nightly: &State<IsNightly>) -> ApiResult<Json<Backups>> {
    Ok(Json(archive::tries(store).await?.said(nightly.0)))
}
