//! Spec sheets, in and out as files.

use anvil_core::chart;
use anvil_core::length::{Length, Unit};
use anvil_core::notation::{self, Sign};
use anvil_core::pack::DrawnPack;
use anvil_core::rail::{Rail, rail};
use anvil_core::sheet::{self, BoxKind, Check, CheckKind, Difference, Draft, Method, Pack, Sheet};
use anvil_core::window::Ends;
use chrono::{DateTime, Utc};
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::drawers::Download;
use crate::guard::WriteKey;
use crate::problem::{Answer, PlacedFault, Problem};
use crate::store::sheet::{RevisionRow, SheetRow};
use crate::store::{self, Store, writes};

/// The newest revision of each spec sheet.
#[utoipa::path(operation_id = "sheets_list", context_path = "/api", tag = "sheets", responses((status = 200, body = Vec<SheetRow>)))]
#[get("/sheets")]
pub async fn list(store: &State<Store>) -> Answer<Json<Vec<SheetRow>>> {
    store::sheet::list(store).await.map(Json)
}

/// A spec sheet, to look at.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetView {
    /// Its key.
    pub key: String,
    /// Its revision.
    pub revision: i32,
    /// When that came in.
    pub came_in: DateTime<Utc>,
    /// What people call the box.
    pub name: String,
    /// The kind of box.
    pub kind: BoxKind,
    /// Where the figures come from.
    pub source: String,
    /// Anything else worth knowing.
    pub notes: String,
    /// How to tell the box.
    pub identification: Vec<String>,
    /// What can hurt somebody or the box.
    pub cautions: Vec<String>,
    /// The drawing.
    pub rail: Rail,
    /// The checks, in the order of setting.
    pub checks: Vec<SheetCheck>,
    /// Its clutch packs, as drawn.
    pub packs: Vec<DrawnPack>,
    /// What is to be done, in order.
    pub build: Vec<String>,
}

/// A check on a sheet.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetCheck {
    /// Its key.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind of check it is.
    pub kind: CheckKind,
    /// How it is usually taken.
    pub method: Method,
    /// The window; none for a torque.
    pub window: Option<Ends>,
    /// What sets it, where anything does.
    pub set_by: Option<String>,
    /// The most pieces in a stack.
    pub most_pieces: Option<u32>,
    /// Its selection chart, where it has one.
    pub chart: Option<ChartTable>,
}

/// What sets a check: its families by name.
fn set_by(sheet: &Sheet, check: &Check) -> Option<String> {
    let first = check.set_by.iter().map(|s| &s.family);
    let others = check.or_set_by.iter().map(|o| &o.family);
    let called = |key: &String| sheet.family(key).map(|f| f.name.clone());
    let families: Vec<String> = first.chain(others).filter_map(called).collect();
    (!families.is_empty()).then(|| families.join(", or "))
}

/// A selection chart.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChartTable {
    /// What is measured to read it.
    pub measured: String,
    /// Its own step in nanometres.
    pub step_nm: Length,
    /// Its rows.
    pub rows: Vec<chart::Row>,
}

/// One spec sheet with its drawing.
#[utoipa::path(operation_id = "sheets_one", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = SheetView), (status = 404, body = Problem)))]
#[get("/sheets/<key>", rank = 2)]
pub async fn one(store: &State<Store>, key: &str) -> Answer<Json<SheetView>> {
    let (revision, sheet, came_in) = store::sheet::newest(store, key).await?;
    let rail = rail(&sheet);
    let packs = sheet.packs.iter().map(Pack::drawn).collect();
    let checks = sheet
        .checks
        .iter()
        .map(|c| SheetCheck {
            key: c.key.clone(),
            name: c.name.clone(),
            kind: c.kind,
            method: c.method,
            window: c.working_window().map(Ends::from),
            set_by: set_by(&sheet, c),
            most_pieces: c.set_by.as_ref().map(|s| s.most_pieces),
            chart: c.chart.as_ref().map(|c| ChartTable {
                measured: c.measured.clone(),
                step_nm: c.resolution.length(),
                rows: c.lengths(),
            }),
        })
        .collect();
    let Sheet {
        key,
        name,
        kind,
        source,
        notes,
        identification,
        cautions,
        build,
        ..
    } = sheet;
    Ok(Json(SheetView {
        key,
        revision,
        came_in,
        name,
        kind,
        source,
        notes,
        identification,
        cautions,
        rail,
        checks,
        packs,
        build: build.into_iter().map(|s| s.what).collect(),
    }))
}

/// A spec sheet as its file.
#[utoipa::path(operation_id = "sheets_file_out", context_path = "/api", tag = "sheets", 
    params(("key" = String, Path,), ("revision" = Option<i32>, Query, description = "Another than the newest")),
    responses((status = 200, body = Sheet), (status = 404, body = Problem)))]
#[get("/sheets/<key>/file?<revision>")]
pub async fn file_out(store: &State<Store>, key: &str, revision: Option<i32>) -> Answer<Download> {
    let revision = match revision {
        Some(revision) => revision,
        None => store::sheet::newest(store, key).await?.0,
    };
    let sheet = store::sheet::revision(store, &store.pool, key, revision).await?;
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
pub fn look(draft: Json<serde_json::Value>) -> Json<Draft> {
    Json(sheet::draft(&draft))
}

/// The revisions of a sheet, the newest first.
#[utoipa::path(operation_id = "sheets_revisions", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = Vec<RevisionRow>)))]
#[get("/sheets/<key>/revisions")]
pub async fn revisions(store: &State<Store>, key: &str) -> Answer<Json<Vec<RevisionRow>>> {
    store::sheet::revisions(store, key).await.map(Json)
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
) -> Answer<Json<Vec<Difference>>> {
    let from = store::sheet::revision(store, &store.pool, key, from).await?;
    let to = store::sheet::revision(store, &store.pool, key, to).await?;
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

/// The faults of a sheet as a problem.
pub fn sheet_faults(faults: Vec<sheet::Fault>) -> Problem {
    let count = faults.len();
    let placed = faults
        .into_iter()
        .map(|f| PlacedFault {
            place: f.place,
            message: f.message,
        })
        .collect();
    let s = if count == 1 { "a fault" } else { "faults" };
    Problem::file(
        format!("The sheet has {s}, so nothing was taken from it."),
        placed,
    )
}

/// Takes a sheet in; one with any fault is refused whole, with every fault listed by its place.
#[utoipa::path(operation_id = "sheets_file_in", context_path = "/api", tag = "sheets", request_body = SheetIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = TakenIn), (status = 409, body = Problem), (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/sheets", data = "<file>")]
pub async fn file_in(
    store: &State<Store>,
    key: WriteKey,
    file: Json<SheetIn>,
) -> Answer<Json<TakenIn>> {
    let sheet = sheet::read(&file.text).map_err(sheet_faults)?;
    let mut tx = store.begin().await?;
    let done = writes::claim(
        store,
        &mut tx,
        &key.0,
        &format!("sheet {} {:?} {}", file.who, file.over, file.text),
    )
    .await?;
    if let Some(done) = done {
        let revision = done.parse().map_err(Problem::server)?;
        return Ok(Json(TakenIn {
            key: sheet.key,
            revision,
        }));
    }
    store::shop::known(store, &mut tx, &file.who).await?;
    let who = Some(file.who.as_str());
    let revision = store::sheet::take_in(store, &mut tx, &sheet, file.over, who).await?;
    writes::note_result(store, &mut tx, &key.0, &revision.to_string()).await?;
    tx.commit().await?;
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
    write: WriteKey,
    given: Json<ChartIn>,
) -> Answer<Json<TakenIn>> {
    let chart = given.chart()?;
    let (revision, mut sheet, _) = store::sheet::newest(store, key).await?;
    let check = sheet.checks.iter_mut().find(|c| c.key == check_key);
    let check = check.ok_or_else(|| {
        Problem::missing(format!("The sheet “{key}” has no check “{check_key}”."))
    })?;
    check.chart = chart;
    let text = serde_json::to_string(&sheet).map_err(Problem::server)?;
    let who = given.who.clone();
    let over = Some(revision);
    file_in(store, write, Json(SheetIn { text, who, over })).await
}

impl ChartIn {
    fn chart(&self) -> Answer<Option<sheet::Chart>> {
        let rows = chart::read_csv(&self.rows, self.unit).map_err(chart_faults)?;
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
            return Err(chart_faults(faults));
        }
        let rows = rows.into_iter().map(|r| sheet::ChartRow {
            from: r.from_nm.into(),
            to: r.to_nm.into(),
            piece: r.piece_nm.into(),
        });
        Ok(Some(sheet::Chart {
            measured: self.measured.trim().to_owned(),
            resolution: step.into(),
            rows: rows.collect(),
        }))
    }
}

fn chart_faults(faults: Vec<chart::Fault>) -> Problem {
    let placed = faults
        .into_iter()
        .map(|f| PlacedFault {
            place: if f.row == 0 {
                "the chart".into()
            } else {
                format!("row {}", f.row)
            },
            message: f.message,
        })
        .collect();
    Problem::file("The chart has faults, so the sheet is as it was.", placed)
}
