//! Spec sheets, in and out as files.

use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_rules::drawing::draft::{self, Draft};
use anvil_rules::job::intake::{self, SymptomChoice};
use anvil_rules::sheet::{self, Difference, Sheet, chart};
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::sheets;
use crate::db::sheet::{RevisionRow, SheetRow};
use crate::db::{self, Store};
use crate::http::body::Body;
use crate::http::download::Download;
use crate::http::extract::{IdempotencyKey, NUMBER, asked};
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;
use crate::views::sheets::SheetView;

/// The newest revision of each spec sheet.
#[utoipa::path(operation_id = "sheets_list", context_path = "/api", tag = "sheets", responses((status = 200, body = Vec<SheetRow>)))]
#[get("/sheets")]
pub async fn list(store: &State<Store>) -> ApiResult<Json<Vec<SheetRow>>> {
    Ok(Json(db::sheet::list(store).await?))
}

/// One spec sheet with its drawing.
#[utoipa::path(operation_id = "sheets_one", context_path = "/api", tag = "sheets",
    params(("key" = String, Path,), ("variant" = Option<String>, Query, description = "Another build than the usual one")),
    responses((status = 200, body = SheetView), (status = 404, body = Problem)))]
#[get("/sheets/<key>?<variant>", rank = 2)]
pub async fn one(
    store: &State<Store>,
    key: &str,
    variant: Option<&str>,
) -> ApiResult<Json<SheetView>> {
    let (revision, sheet, came_in) = db::sheet::newest(store, key).await?;
    let variant = variant.unwrap_or_default();
    if !variant.is_empty() && sheet.variant(variant).is_none() {
        return Err(Problem::missing(format!(
            "{} has no build “{variant}”.",
            sheet.name
        )));
    }
    Ok(Json(SheetView::of(revision, &sheet, came_in, variant)))
}

/// What somebody may complain of with a box of a sheet.
#[utoipa::path(operation_id = "sheets_complaints", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = Vec<SymptomChoice>), (status = 404, body = Problem)))]
#[get("/sheets/<key>/complaints")]
pub async fn complaints(store: &State<Store>, key: &str) -> ApiResult<Json<Vec<SymptomChoice>>> {
    let (_, sheet, _) = db::sheet::newest(store, key).await?;
    Ok(Json(intake::choices(&sheet)))
}

/// A spec sheet as its file.
#[utoipa::path(operation_id = "sheets_file_out", context_path = "/api", tag = "sheets", 
    params(("key" = String, Path,), ("revision" = Option<i32>, Query, description = "Another than the newest")),
    responses((status = 200, body = Sheet), (status = 404, body = Problem)))]
#[get("/sheets/<key>/file?<revision>")]
pub async fn file_out(
    store: &State<Store>,
    key: &str,
    revision: Option<&str>,
) -> ApiResult<Download> {
    let revision = match asked("revision", revision, NUMBER)? {
        Some(revision) => revision,
        None => db::sheet::newest(store, key).await?.0,
    };
    let sheet = db::sheet::revision(store, &store.pool, key, revision).await?;
    let body = serde_json::to_string_pretty(&*sheet).map_err(Problem::server)? + "\n";
    Ok(Download::new(
        body,
        ContentType::JSON,
        &format!("{key}.sheet.json"),
    ))
}

/// Looks through a sheet that is still being written: its faults by their places, and its drawing as
/// far as it can be read. Nothing is kept.
#[utoipa::path(operation_id = "sheets_look", context_path = "/api", tag = "sheets", request_body = serde_json::Value,
    responses((status = 200, body = Draft), (status = 413, body = Problem)))]
#[post("/sheets/look", data = "<draft>")]
#[allow(clippy::needless_pass_by_value)] // a handler is given its body to keep
pub fn look(draft: Body<serde_json::Value, false>) -> Json<Draft> {
    Json(heavily(|| draft::draft(&draft)))
}

/// The revisions of a sheet, the newest first.
#[utoipa::path(operation_id = "sheets_revisions", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = Vec<RevisionRow>)))]
#[get("/sheets/<key>/revisions")]
pub async fn revisions(store: &State<Store>, key: &str) -> ApiResult<Json<Vec<RevisionRow>>> {
    Ok(Json(db::sheet::revisions(store, key).await?))
}

/// What differs from one revision of a sheet to another.
#[utoipa::path(operation_id = "sheets_changes", context_path = "/api", tag = "sheets",
    params(("key" = String, Path,), ("from" = i32, Query,), ("to" = i32, Query,)),
    responses((status = 200, body = Vec<Difference>), (status = 404, body = Problem)))]
#[get("/sheets/<key>/changes?<from>&<to>")]
pub async fn changes(
    store: &State<Store>,
    key: &str,
    from: i32,
    to: i32,
) -> ApiResult<Json<Vec<Difference>>> {
    let from = db::sheet::revision(store, &store.pool, key, from).await?;
    let to = db::sheet::revision(store, &store.pool, key, to).await?;
    Ok(Json(sheet::differences(&from, &to)))
}

/// A sheet's file, as text.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetIn {
    /// The file's text.
    pub text: String,
    /// The initials.
    pub who: String,
    /// The revision that was worked on, zero for a new sheet: where given, a sheet that has changed
    /// since is not written over.
    #[serde(default)]
    pub over: Option<i32>,
}

/// What came of a sheet.
#[derive(Debug, Serialize, ToSchema)]
pub struct TakenIn {
    /// The sheet's key.
    pub key: String,
    /// The revision it is now.
    pub revision: i32,
}

/// Takes a sheet in; one with any fault is refused whole, with every fault listed by its place.
#[utoipa::path(operation_id = "sheets_file_in", context_path = "/api", tag = "sheets", request_body = SheetIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = TakenIn), (status = 409, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/sheets", data = "<file>")]
pub async fn file_in(
    store: &State<Store>,
    key: IdempotencyKey,
    file: Body<SheetIn>,
) -> ApiResult<Json<TakenIn>> {
    let sheet = heavily(|| sheet::read(&file.text)).map_err(Problem::of_sheet)?;
    let revision = sheets::take_in(store, &key, (&sheet, file.over), &file.who).await?;
    Ok(Json(TakenIn {
        key: sheet.key,
        revision,
    }))
}

/// A selection chart as typed.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChartIn {
    /// What is measured to read it.
    pub measured: String,
    /// Its own step, in bench notation.
    pub step: String,
    /// Its rows as CSV: from, to, piece. None at all takes the chart off the sheet.
    pub rows: String,
    /// The unit of bare figures.
    pub unit: Unit,
    /// The initials.
    pub who: String,
}

/// Gives a check of a sheet its selection chart, as a new revision; a chart with any fault is refused
/// whole, with every fault listed by its row.
#[utoipa::path(operation_id = "sheets_chart", context_path = "/api", tag = "sheets", request_body = ChartIn,
    params(("key" = String, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = TakenIn), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[put("/sheets/<key>/checks/<check_key>/chart", data = "<given>")]
pub async fn chart_in(
    store: &State<Store>,
    key: &str,
    check_key: &str,
    write: IdempotencyKey,
    given: Body<ChartIn>,
) -> ApiResult<Json<TakenIn>> {
    let chart = given.chart()?;
    let revision = sheets::put_chart(store, &write, (key, check_key), chart, &given.who).await?;
    Ok(Json(TakenIn {
        key: key.to_owned(),
        revision,
    }))
}

impl ChartIn {
    fn chart(&self) -> ApiResult<Option<sheet::Chart>> {
        let rows = chart::read_csv(&self.rows, self.unit).map_err(Problem::of_chart)?;
        if rows.is_empty() {
            return Ok(None);
        }
        if self.measured.trim().is_empty() {
            return Err(Problem::field(
                "measured",
                "Say what is measured to read the chart, such as the depth from the joint face.",
            ));
        }
        let step = notation::parse(&self.step, Some(self.unit), Sign::NotNegative)
            .map_err(|e| Problem::field("step", e))?;
        let faults = chart::faults(&rows, step);
        if !faults.is_empty() {
            return Err(Problem::of_chart(faults));
        }
        let rows = rows.into_iter().map(|r| sheet::ChartRow {
            from: r.from_nm.into(),
            to: r.to_nm.into(),
            piece: r.piece_nm.into(),
            piece_to: (r.piece_to_nm > r.piece_nm).then(|| r.piece_to_nm.into()),
        });
        Ok(Some(sheet::Chart {
            measured: self.measured.trim().to_owned(),
            resolution: step.into(),
            rows: rows.collect(),
        }))
    }
}
