//! The plan of a box: what to measure in which closing of the case.

use anvil_core::next::Phase;
use anvil_core::plan::{self, Left, Plan, Task};
use anvil_core::sheet::{Check, CheckKind, Sheet};
use rocket::serde::json::Json;
use rocket::{State, get};
use serde::Serialize;
use utoipa::ToSchema;

use crate::gap::phase_named;
use crate::problem::{Answer, Problem};
use crate::store::{self, Store};

/// The plan of a box, with the sheet's own order beside it.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanView {
    /// The checks, in the sheet's order; the plans name them by number.
    pub checks: Vec<PlanCheck>,
    /// The plan with the fewest closings.
    pub plan: Plan,
    /// The sheet's own order.
    pub in_order: Plan,
    /// The sheet says of at least one check in which closing it is measured.
    pub says: bool,
}

/// A check of a plan.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanCheck {
    /// Its key.
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// The closing it is measured in; empty on the bench.
    pub closing: String,
    /// It is a preload.
    pub preload: bool,
    /// The checks that must be signed off first.
    pub after: Vec<String>,
    /// There is nothing left to measure.
    pub done: bool,
}

/// What is left to measure of a check at a phase; from the beginning where none is given.
fn left(check: &Check, phase: Option<&str>) -> Left {
    let fresh = if check.set_by.is_some() || check.selector.is_some() {
        Left::Twice
    } else {
        Left::Once
    };
    match phase.map(phase_named) {
        // Checks that are not measured here are nobody's plan.
        Some(None | Some(Phase::Signed | Phase::Sign)) => Left::Nothing,
        Some(Some(Phase::Choose | Phase::AwaitPart | Phase::Fit | Phase::MeasureAgain)) => {
            Left::Once
        }
        None | Some(Some(Phase::Measure)) => fresh,
    }
}

fn view(sheet: &Sheet, phase_of: impl Fn(&str) -> Option<String>) -> PlanView {
    let number = |key: &String| sheet.checks.iter().position(|c| c.key == *key);
    let name = |key: &String| sheet.check(key).map(|c| c.name.clone());
    let tasks: Vec<Task> = sheet
        .checks
        .iter()
        .map(|check| Task {
            closing: check.closing.clone(),
            after: check.after.iter().filter_map(number).collect(),
            preload: check.kind == CheckKind::BearingPreload,
            left: left(check, phase_of(&check.key).as_deref()),
        })
        .collect();
    let checks = sheet
        .checks
        .iter()
        .zip(&tasks)
        .map(|(check, task)| PlanCheck {
            check_key: check.key.clone(),
            name: check.name.clone(),
            closing: check.closing.clone(),
            preload: task.preload,
            after: check.after.iter().filter_map(name).collect(),
            done: task.left == Left::Nothing,
        });
    PlanView {
        checks: checks.collect(),
        says: tasks.iter().any(|t| !t.closing.is_empty()),
        plan: plan::plan(&tasks),
        in_order: plan::in_order(&tasks),
    }
}

/// The plan of a job, from where it stands.
#[utoipa::path(operation_id = "plan_job", context_path = "/api", tag = "plan", params(("job_no" = i32, Path,)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/plan")]
pub async fn plan_job(store: &State<Store>, job_no: i32) -> Answer<Json<PlanView>> {
    let job = store::job::job(store, &store.pool, job_no).await?;
    let rows = store::job::checks(store, &store.pool, job_no).await?;
    let sheet = store::sheet::revision(store, &store.pool, &job.sheet_key, job.revision).await?;
    let phase_of = |key: &str| {
        let row = rows.iter().find(|r| r.check_key == key);
        // A check that the job does not have is not measured on it.
        Some(row.map_or_else(|| "elsewhere".to_owned(), |r| r.phase.clone()))
    };
    let found = view(&sheet, phase_of);
    Ok(Json(found))
}

/// The plan of a fresh box of a sheet.
#[utoipa::path(operation_id = "plan_sheet", context_path = "/api", tag = "plan", params(("key" = String, Path,)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem)))]
#[get("/sheets/<key>/plan")]
pub async fn plan_sheet(store: &State<Store>, key: &str) -> Answer<Json<PlanView>> {
    let (_, sheet, _) = store::sheet::newest(store, key).await?;
    Ok(Json(view(&sheet, |_| None)))
}
