//! What to order, as a list and as a file.

use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get};

use super::drawers::Download;
use crate::order::{OrderView, view};
use crate::problem::{Answer, Problem};
use crate::store::Store;

/// The fewest sizes that will surely do for the open checks of a job, or of every open job.
#[utoipa::path(operation_id = "order_view", context_path = "/api", tag = "order",
    params(("job_no" = Option<i32>, Query, description = "Only this job's checks"),
        ("unmeasured" = Option<bool>, Query, description = "Also for checks not measured yet, by what boxes before them wanted")),
    responses((status = 200, body = OrderView), (status = 500, body = Problem)))]
#[get("/order?<job_no>&<unmeasured>")]
pub async fn order_view(
    store: &State<Store>,
    job_no: Option<i32>,
    unmeasured: Option<bool>,
) -> Answer<Json<OrderView>> {
    view(store, job_no, unmeasured.unwrap_or(false))
        .await
        .map(Json)
}

/// The same as CSV: `family`, `name`, `thickness`, `count`, `number`, `wanted_for`.
#[utoipa::path(operation_id = "order_csv", context_path = "/api", tag = "order",
    params(("job_no" = Option<i32>, Query, description = "Only this job's checks"),
        ("unmeasured" = Option<bool>, Query, description = "Also for checks not measured yet, by what boxes before them wanted")),
    responses((status = 200, body = String, content_type = "text/csv")))]
#[get("/order/csv?<job_no>&<unmeasured>")]
pub async fn order_csv(
    store: &State<Store>,
    job_no: Option<i32>,
    unmeasured: Option<bool>,
) -> Answer<Download> {
    let lines = view(store, job_no, unmeasured.unwrap_or(false))
        .await?
        .lines;
    let body = anvil_core::choose::order::csv(&lines);
    Ok(Download::new(body, ContentType::CSV, "order.csv"))
}
