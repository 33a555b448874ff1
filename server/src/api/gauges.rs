//! The gauge register.

use anvil_rules::shop::gauge_register::{GaugeCard, RegisteredGauge};
use chrono::Utc;
use rocket::serde::json::Json;
use rocket::{State, get, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::gauges;
use crate::db::{Store, gauge};
use crate::http::body::Body;
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};

/// A gauge of the register, and whether it is past its due day.
#[derive(Debug, Serialize, ToSchema)]
pub struct Registered {
    #[serde(flatten)]
    pub gauge: RegisteredGauge,
    /// It was due to be checked before today.
    pub overdue: bool,
}

/// The gauge register, the usual ones first, retired ones last.
#[utoipa::path(operation_id = "gauges_list", context_path = "/api", tag = "gauges",
    responses((status = 200, body = Vec<Registered>)))]
#[get("/gauges")]
pub async fn list(store: &State<Store>) -> ApiResult<Json<Vec<Registered>>> {
    let today = Utc::now().date_naive();
    let gauges = gauge::list(store, &store.pool).await?;
    Ok(Json(
        gauges
            .into_iter()
            .map(|gauge| Registered {
                overdue: !gauge.retired && gauge.due_on.is_some_and(|due| due < today),
                gauge,
            })
            .collect(),
    ))
}

/// A card for the register.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CardIn {
    pub card: GaugeCard,
    /// The version that was seen; none for a new gauge.
    #[serde(default)]
    pub seen: Option<i32>,
    /// The initials.
    pub who: String,
}

/// Puts a gauge in the register, or changes it. A signature keeps the figures it was given on.
#[utoipa::path(operation_id = "gauges_put", context_path = "/api", tag = "gauges", request_body = CardIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Registered>), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/gauges", data = "<asked>")]
pub async fn put(
    store: &State<Store>,
    key: IdempotencyKey,
    asked: Body<CardIn>,
) -> ApiResult<Json<Vec<Registered>>> {
    let gauge = asked.card.read()?;
    let by = (asked.who.as_str(), &*asked);
    gauges::put(store, &key, (&gauge, asked.seen), by).await?;
    list(store).await
}
