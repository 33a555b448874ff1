//! The plan of a box: what to measure in which closing of the case.

use anvil_rules::job::check::close_once::ClosingChance;
use anvil_rules::job::check::closing_plan::{PlanView, plan_view};
use anvil_rules::job::check::workflow::Phase;
use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::{self, Store};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::open_checks;

/// The plan of a job, from where it stands.
#[utoipa::path(operation_id = "plan_job", context_path = "/api", tag = "plan", params(("job_no" = i32, Path,)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/plan")]
pub async fn plan_job(store: &State<Store>, job_no: i32) -> ApiResult<Json<PlanView>> {
    let job = db::job::job(store, &store.pool, job_no).await?;
    let rows = db::job::checks(store, &store.pool, job_no).await?;
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    let phase_of = |key: &str| {
        let row = rows.iter().find(|r| r.check_key == key);
        // A check that the job does not have is not measured on it.
        Some(row.map_or(Phase::Elsewhere, |r| r.phase))
    };
    Ok(Json(plan_view(&sheet, phase_of)))
}

/// The chance of each closing that everything set in it lands at once, and what would raise it most.
#[utoipa::path(operation_id = "plan_closings", context_path = "/api", tag = "plan", params(("job_no" = i32, Path,)),
    responses((status = 200, body = Vec<ClosingChance>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/closings")]
pub async fn closings(store: &State<Store>, job_no: i32) -> ApiResult<Json<Vec<ClosingChance>>> {
    open_checks::closings(store, job_no).await.map(Json)
}

/// The plan of a fresh box of a sheet.
#[utoipa::path(operation_id = "plan_sheet", context_path = "/api", tag = "plan", params(("key" = String, Path,)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem)))]
#[get("/sheets/<key>/plan")]
pub async fn plan_sheet(store: &State<Store>, key: &str) -> ApiResult<Json<PlanView>> {
    let (_, sheet, _) = db::sheet::newest(store, key).await?;
    let sheet = sheet.as_built("");
    Ok(Json(plan_view(&sheet, |_| None)))
}
