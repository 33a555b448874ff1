//! The build of a job: its steps, what comes next, what comes out again.

use anvil_rules::job::build::{BuildView, Target, TearBack};
use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::build::StepNote;
use crate::db::{self, Store};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::builds::LoadedBuild;

/// The build of a job as it stands.
#[utoipa::path(operation_id = "builds_one", context_path = "/api", tag = "builds", params(("job_no" = i32, Path,)),
    responses((status = 200, body = BuildView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/build")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Json<BuildView>> {
    let loaded = LoadedBuild::of(store, job_no).await?;
    let times = loaded.own_times(store).await?;
    Ok(Json(loaded.build()?.view(&times)))
}

/// What was found worth knowing at the steps of a sheet, the newest first.
#[utoipa::path(operation_id = "builds_notes", context_path = "/api", tag = "builds", params(("key" = String, Path,)),
    responses((status = 200, body = Vec<StepNote>)))]
#[get("/sheets/<key>/notes")]
pub async fn notes(store: &State<Store>, key: &str) -> ApiResult<Json<Vec<StepNote>>> {
    Ok(Json(db::build::notes(store, key).await?))
}

/// What it takes to get at a step, a part, or what sets a check again.
#[utoipa::path(operation_id = "builds_tear_back", context_path = "/api", tag = "builds", params(
    ("job_no" = i32, Path,),
    ("step" = Option<String>, Query, description = "The step to get at"),
    ("part" = Option<String>, Query, description = "Or the part or item"),
    ("check" = Option<String>, Query, description = "Or the check whose pieces change"),
), responses((status = 200, body = TearBack), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/jobs/<job_no>/build/tear-back?<step>&<part>&<check>")]
pub async fn tear_back(
    store: &State<Store>,
    job_no: i32,
    step: Option<&str>,
    part: Option<&str>,
    check: Option<&str>,
) -> ApiResult<Json<TearBack>> {
    let target = match (step, part, check) {
        (Some(step), None, None) => Target::Step(step),
        (None, Some(part), None) => Target::Part(part),
        (None, None, Some(check)) => Target::Check(check),
        _ => {
            return Err(Problem::field(
                "step",
                "Say one thing to get at: a step, a part or a check.",
            ));
        }
    };
    let loaded = LoadedBuild::of(store, job_no).await?;
    let times = loaded.own_times(store).await?;
    Ok(Json(loaded.build()?.tear_back(target, &times)?))
}
