//! Spec sheets, in and out as files.

use anvil_core::rail::{Rail, rail};
use anvil_core::sheet::{self, BoxKind, CheckKind, Method, Sheet};
use anvil_core::window::Ends;
use chrono::{DateTime, Utc};
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::drawers::Download;
use crate::guard::WriteKey;
use crate::problem::{Answer, PlacedFault, Problem};
use crate::store::sheet::SheetRow;
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
}

/// One spec sheet with its drawing.
#[utoipa::path(operation_id = "sheets_one", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = SheetView), (status = 404, body = Problem)))]
#[get("/sheets/<key>", rank = 2)]
pub async fn one(store: &State<Store>, key: &str) -> Answer<Json<SheetView>> {
    let (revision, sheet, came_in) = store::sheet::newest(store, key).await?;
    let rail = rail(&sheet);
    let checks = sheet
        .checks
        .iter()
        .map(|c| SheetCheck {
            key: c.key.clone(),
            name: c.name.clone(),
            kind: c.kind,
            method: c.method,
            window: c.working_window().map(Ends::from),
            set_by: c
                .set_by
                .as_ref()
                .and_then(|s| sheet.family(&s.family))
                .map(|f| f.name.clone()),
            most_pieces: c.set_by.as_ref().map(|s| s.most_pieces),
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
        build: build.into_iter().map(|s| s.what).collect(),
    }))
}

/// A spec sheet as its file.
#[utoipa::path(operation_id = "sheets_file_out", context_path = "/api", tag = "sheets", params(("key" = String, Path,)),
    responses((status = 200, body = serde_json::Value), (status = 404, body = Problem)))]
#[get("/sheets/<key>/file")]
pub async fn file_out(store: &State<Store>, key: &str) -> Answer<Download> {
    let (_, sheet, _) = store::sheet::newest(store, key).await?;
    let body = serde_json::to_string_pretty(&sheet).map_err(Problem::server)? + "\n";
    Ok(Download::new(
        body,
        ContentType::JSON,
        &format!("{key}.sheet.json"),
    ))
}

/// A sheet's file, as text.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SheetIn {
    /// The file's text.
    pub text: String,
    /// The initials.
    pub who: String,
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
    responses((status = 200, body = TakenIn), (status = 413, body = Problem), (status = 422, body = Problem)))]
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
        &format!("sheet {} {}", file.who, file.text),
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
    let revision = store::sheet::take_in(store, &mut tx, &sheet).await?;
    writes::note_result(store, &mut tx, &key.0, &revision.to_string()).await?;
    tx.commit().await?;
    Ok(Json(TakenIn {
        key: sheet.key,
        revision,
    }))
}
