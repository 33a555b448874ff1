//! What to order, as a list and as a file.

use std::sync::Arc;

use anvil_rules::job::check::purchase_needs::PurchaseView;
use anvil_rules::job::parts::rows_to_order;
use anvil_rules::shop::drawers::AwaitedSize;
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::{Store, drawer, part};
use crate::http::download::Download;
use crate::http::extract::{NUMBER, YES_NO, asked};
use crate::http::listed::Listed;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::open_checks;
use crate::queries::searches::Searches;

/// Of which job, and whether also what is not measured yet.
fn which(job_no: Option<&str>, unmeasured: Option<&str>) -> ApiResult<(Option<i32>, bool)> {
    let job_no = asked("job_no", job_no, NUMBER)?;
    Ok((
        job_no,
        asked("unmeasured", unmeasured, YES_NO)?.unwrap_or(false),
    ))
}

/// The fewest sizes that will surely do for the open checks of a job, or of every open job.
#[utoipa::path(operation_id = "order_view", context_path = "/api", tag = "order",
    params(("job_no" = Option<i32>, Query, description = "Only this job's checks"),
        ("unmeasured" = Option<bool>, Query, description = "Also for checks not measured yet, by what boxes before them wanted")),
    responses((status = 200, body = PurchaseView), (status = 500, body = Problem)))]
#[get("/order?<job_no>&<unmeasured>")]
pub async fn order_view(
    store: &State<Store>,
    searches: &State<Arc<Searches>>,
    job_no: Option<&str>,
    unmeasured: Option<&str>,
) -> ApiResult<Listed<PurchaseView>> {
    let (job_no, unmeasured) = which(job_no, unmeasured)?;
    let (view, unread) = open_checks::purchase(store, searches, job_no, unmeasured).await?;
    Ok(Listed(view, unread))
}

/// The same as CSV: `family`, `name`, `thickness`, `count`, `number`, `wanted_for`; after it the parts that are to be
/// ordered, without family and thickness.
#[utoipa::path(operation_id = "order_csv", context_path = "/api", tag = "order",
    params(("job_no" = Option<i32>, Query, description = "Only this job's checks"),
        ("unmeasured" = Option<bool>, Query, description = "Also for checks not measured yet, by what boxes before them wanted")),
    responses((status = 200, body = String, content_type = "text/csv")))]
#[get("/order/csv?<job_no>&<unmeasured>")]
pub async fn order_csv(
    store: &State<Store>,
    searches: &State<Arc<Searches>>,
    job_no: Option<&str>,
    unmeasured: Option<&str>,
) -> ApiResult<Download> {
    let (job_no, unmeasured) = which(job_no, unmeasured)?;
    let (view, _) = open_checks::purchase(store, searches, job_no, unmeasured).await?;
    let lines = view.lines;
    let (parts, _) = part::of_bench(store).await?;
    let parts = parts
        .into_iter()
        .filter(|p| job_no.is_none_or(|no| no == p.job_no));
    let more = rows_to_order(&parts.collect::<Vec<_>>());
    let body = anvil_arithmetic::choose::purchase::csv(&lines, more);
    Ok(Download::new(body, ContentType::CSV, "order.csv"))
}

/// The pieces that are chosen and not on hand: of which size, for which checks, and which of them are on order.
#[utoipa::path(operation_id = "order_awaited", context_path = "/api", tag = "order", responses((status = 200, body = Vec<AwaitedSize>)))]
#[get("/order/awaited")]
pub async fn awaited(store: &State<Store>) -> ApiResult<Json<Vec<AwaitedSize>>> {
    Ok(Json(drawer::awaited(store).await?))
}
