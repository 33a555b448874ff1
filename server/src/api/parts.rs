//! The parts of a job's box: what was found of each.

use anvil_arithmetic::units::length::Unit;
use anvil_rules::job::parts::{
    AtWidth, BenchPart, FoundFor, PartsView, TypedSize, Worn, at_width, found_over_the_years,
    worn_by,
};
use rocket::serde::json::Json;
use rocket::{State, get};

use crate::db::{self, Store};
use crate::http::extract::{UNIT, asked};
use crate::http::listed::Listed;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::parts::LoadedParts;
use crate::queries::since::{SinceLast, since_last};

/// What has to be got for the jobs on the bench, as of which something was said.
#[utoipa::path(operation_id = "parts_bench", context_path = "/api", tag = "parts", responses((status = 200, body = Vec<BenchPart>)))]
#[get("/parts")]
pub async fn bench(store: &State<Store>) -> ApiResult<Listed<Vec<BenchPart>>> {
    let (parts, unread) = db::part::of_bench(store).await?;
    Ok(Listed(parts, unread))
}

/// The parts of a job's box, with what was found of them and what of them is in.
#[utoipa::path(operation_id = "parts_one", context_path = "/api", tag = "parts", params(("job_no" = i32, Path,)),
    responses((status = 200, body = PartsView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/parts")]
pub async fn one(store: &State<Store>, job_no: i32) -> ApiResult<Json<PartsView>> {
    Ok(Json(LoadedParts::of(store, job_no).await?.view()?))
}

/// What a size would say of a part's wear, before anybody says what becomes of it.
#[utoipa::path(operation_id = "parts_wear", context_path = "/api", tag = "parts", params(("job_no" = i32, Path,), ("part" = String, Path,),
        ("size" = String, Query, description = "As typed"),
        ("unit" = Option<Unit>, Query, description = "The unit of a size without one"),
        ("gauge_key" = Option<String>, Query, description = "The micrometer that it was taken with; the one that is taken up where it is left out")),
    responses((status = 200, body = Worn), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/jobs/<job_no>/parts/<part>/wear?<size>&<unit>&<gauge_key>")]
pub async fn wear(
    store: &State<Store>,
    job_no: i32,
    part: &str,
    size: &str,
    unit: Option<&str>,
    gauge_key: Option<&str>,
) -> ApiResult<Json<Worn>> {
    let unit = asked("unit", unit, UNIT)?.unwrap_or(Unit::Mm);
    let job = db::job::job(store, &store.pool, job_no).await?;
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    let register = db::gauge::list(store, &store.pool).await?;
    let typed = TypedSize {
        text: size,
        unit,
        gauge_key,
    };
    Ok(Json(worn_by(&sheet, part, typed, &register)?))
}

/// What became of a job's box since it was here last; none where it was not.
#[utoipa::path(operation_id = "parts_since", context_path = "/api", tag = "parts", params(("job_no" = i32, Path,)),
    responses((status = 200, body = Option<SinceLast>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/since")]
pub async fn since(store: &State<Store>, job_no: i32) -> ApiResult<Json<Option<SinceLast>>> {
    Ok(Json(since_last(store, job_no).await?))
}

/// What was found on the finished boxes of a sheet, by what they came in with.
#[utoipa::path(operation_id = "parts_over_the_years", context_path = "/api", tag = "parts", params(("key" = String, Path,)),
    responses((status = 200, body = Vec<FoundFor>), (status = 404, body = Problem)))]
#[get("/sheets/<key>/found")]
pub async fn over_the_years(store: &State<Store>, key: &str) -> ApiResult<Json<Vec<FoundFor>>> {
    let (_, sheet, _) = db::sheet::newest(store, key).await?;
    let boxes = db::part::of_finished_boxes(store, key).await?;
    Ok(Json(found_over_the_years(&sheet, &boxes)))
}

/// What the stack sums that hold a part would come to with another width of it.
#[utoipa::path(operation_id = "parts_width", context_path = "/api", tag = "parts", params(("job_no" = i32, Path,), ("part" = String, Path,),
        ("width" = String, Query, description = "As typed"),
        ("unit" = Option<Unit>, Query, description = "The unit of a width without one")),
    responses((status = 200, body = Vec<AtWidth>), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[get("/jobs/<job_no>/parts/<part>/width?<width>&<unit>")]
pub async fn width(
    store: &State<Store>,
    job_no: i32,
    part: &str,
    width: &str,
    unit: Option<&str>,
) -> ApiResult<Json<Vec<AtWidth>>> {
    let unit = asked("unit", unit, UNIT)?.unwrap_or(Unit::Mm);
    let job = db::job::job(store, &store.pool, job_no).await?;
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    Ok(Json(at_width(&sheet, part, (width, unit))?))
}
