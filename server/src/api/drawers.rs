//! Drawers: the selective stock, by hand and as CSV.

use anvil_arithmetic::stock::csv::{self, Row};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::Length;
use anvil_rules::shop::drawers::{Drawer, Move};
use rocket::http::ContentType;
use rocket::serde::json::Json;
use rocket::{State, get, post, put, tokio};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::{
    self,
    drawers::{self, Count, MeasuredPiece, NewDrawer, NewSizes, StockAct, StockTaking},
};
use crate::db::{self, Store};
use crate::http::body::Body;
use crate::http::download::Download;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::families::{self, SheetSays};

/// All drawers with their sizes.
#[utoipa::path(operation_id = "drawers_list", context_path = "/api", tag = "drawers", responses((status = 200, body = Vec<Drawer>)))]
#[get("/drawers")]
pub async fn list(store: &State<Store>) -> ApiResult<Json<Vec<Drawer>>> {
    Ok(Json(db::drawer::list(store).await?))
}

/// Where sheets say otherwise of a family than its drawer, and whom that concerns.
#[utoipa::path(operation_id = "drawers_conflicts", context_path = "/api", tag = "drawers",
    responses((status = 200, body = Vec<SheetSays>)))]
#[get("/drawers/conflicts")]
pub async fn conflicts(store: &State<Store>) -> ApiResult<Json<Vec<SheetSays>>> {
    Ok(Json(families::conflicts(store).await?))
}

/// The sheet whose figures a family is to have.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FiguresIn {
    pub sheet_key: String,
    /// The revision of it that was seen.
    pub revision: i32,
    /// The initials.
    pub who: String,
}

/// Makes what a sheet says of a family the family's own: its limits, its kind, and which sizes are no longer made.
#[utoipa::path(operation_id = "drawers_figures", context_path = "/api", tag = "drawers", request_body = FiguresIn,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<SheetSays>), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[put("/drawers/<family>/figures", data = "<asked>")]
pub async fn figures(
    store: &State<Store>,
    family: &str,
    key: IdempotencyKey,
    asked: Body<FiguresIn>,
) -> ApiResult<Json<Vec<SheetSays>>> {
    let from = (asked.sheet_key.as_str(), asked.revision);
    commands::families::follow(store, &key, family, from, &asked.who).await?;
    Ok(Json(families::conflicts(store).await?))
}

/// The newest changes of a drawer's counts.
#[utoipa::path(operation_id = "drawers_moves", context_path = "/api", tag = "drawers", params(("family" = String, Path,)),
    responses((status = 200, body = Vec<Move>)))]
#[get("/drawers/<family>/moves")]
pub async fn moves(store: &State<Store>, family: &str) -> ApiResult<Json<Vec<Move>>> {
    Ok(Json(db::drawer::moves(store, family).await?))
}

/// Sets how many of a size there are; a size that is not in the drawer is put in. `If-Match` is the
/// size's version, 0 for a new one.
#[utoipa::path(operation_id = "drawers_count", context_path = "/api", tag = "drawers", request_body = Count,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/drawers/<family>", data = "<count>")]
pub async fn count(
    store: &State<Store>,
    family: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    count: Body<Count>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::count(store, &key, &seen, family, &count).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// Opens a drawer that no sheet has brought, with places for its sizes.
#[utoipa::path(operation_id = "drawers_open", context_path = "/api", tag = "drawers", request_body = NewDrawer,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers", data = "<asked>")]
pub async fn open(
    store: &State<Store>,
    key: IdempotencyKey,
    asked: Body<NewDrawer>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::open(store, &key, &asked).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// Makes places for sizes in a drawer.
#[utoipa::path(operation_id = "drawers_sizes", context_path = "/api", tag = "drawers", request_body = NewSizes,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 422, body = Problem)))]
#[post("/drawers/<family>/sizes", data = "<asked>")]
pub async fn add_sizes(
    store: &State<Store>,
    family: &str,
    key: IdempotencyKey,
    asked: Body<NewSizes>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::add_sizes(store, &key, family, &asked).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// Sets how many there are of the sizes of a drawer, all of them or none.
#[utoipa::path(operation_id = "drawers_take_stock", context_path = "/api", tag = "drawers", request_body = StockTaking,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers/<family>/counts", data = "<counted>")]
pub async fn take_stock(
    store: &State<Store>,
    family: &str,
    key: IdempotencyKey,
    counted: Body<StockTaking>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::take_stock(store, &key, family, &counted).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// All drawers as CSV.
#[utoipa::path(operation_id = "drawers_csv_out", context_path = "/api", tag = "drawers",
    responses((status = 200, body = String, content_type = "text/csv")))]
#[get("/drawers.csv")]
pub async fn csv_out(store: &State<Store>) -> ApiResult<Download> {
    let rows = db::drawer::rows(store, &store.pool).await?;
    Ok(Download::new(
        csv::write(&rows),
        ContentType::CSV,
        "drawers.csv",
    ))
}

/// A file of drawers, as text.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CsvIn {
    /// The file's text.
    pub text: String,
    /// The initials.
    pub who: String,
}

/// What a file of drawers would change.
#[derive(Debug, Serialize, ToSchema)]
pub struct Preview {
    /// The lines that would change, or be new.
    pub changes: Vec<ChangeView>,
    /// How many of the file's lines would stay as they are.
    pub unchanged: usize,
}

/// A line that a file would change.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChangeView {
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// How that is known.
    pub grade: Grade,
    /// As it is; none where the line is new.
    pub was: Option<LineState>,
    /// As it would be.
    pub is: LineState,
}

/// What a file can say of a line.
#[derive(Debug, Serialize, ToSchema)]
pub struct LineState {
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many are on order.
    pub on_order: i32,
    /// Where the drawer is.
    pub place: String,
    /// It is no longer made.
    pub discontinued: bool,
}

impl LineState {
    fn of(row: &Row, was: Option<&Row>) -> Self {
        let on_order = row.on_order.or(was.and_then(|w| w.on_order));
        Self {
            on_hand: row.on_hand,
            on_order: on_order.unwrap_or(0),
            place: row.place.clone(),
            discontinued: row.discontinued,
        }
    }
}

/// The rows of a file, read off the threads that serve.
async fn rows_of(text: &str) -> ApiResult<Vec<Row>> {
    let text = text.to_owned();
    tokio::task::spawn_blocking(move || csv::read(&text))
        .await
        .map_err(Problem::server)?
        .map_err(Problem::of_csv)
}

/// What taking in a file would change; changes nothing.
#[utoipa::path(operation_id = "drawers_preview", context_path = "/api", tag = "drawers", request_body = CsvText,
    responses((status = 200, body = Preview), (status = 422, body = Problem)))]
#[post("/drawers/preview", data = "<file>")]
pub async fn preview(store: &State<Store>, file: Body<CsvText>) -> ApiResult<Json<Preview>> {
    let rows = rows_of(&file.text).await?;
    let names = db::drawer::families(store, &store.pool).await?;
    let unknown = rows.iter().find(|r| !names.contains_key(&r.family));
    if let Some(row) = unknown {
        return Err(db::drawer::no_family(&row.family).into());
    }
    let now = db::drawer::rows(store, &store.pool).await?;
    let changes = csv::changes(&now, &rows);
    Ok(Json(Preview {
        unchanged: rows.len() - changes.len(),
        changes: changes
            .into_iter()
            .map(|c| ChangeView {
                family_name: names.get(&c.is.family).cloned().unwrap_or_default(),
                family_key: c.is.family.clone(),
                thickness_nm: c.is.thickness_nm,
                grade: c.is.grade,
                was: c.was.map(|w| LineState::of(w, None)),
                is: LineState::of(c.is, c.was),
            })
            .collect(),
    }))
}

/// A file of drawers, to look at.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CsvText {
    /// The file's text.
    pub text: String,
}

/// Takes pieces, returns, scraps or orders them, or notes that they have come.
#[utoipa::path(operation_id = "drawers_act", context_path = "/api", tag = "drawers", request_body = StockAct,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers/acts", data = "<act>")]
pub async fn act(
    store: &State<Store>,
    key: IdempotencyKey,
    act: Body<StockAct>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::act(store, &key, &act).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// Puts a piece measured by micrometer in the drawer as its own.
#[utoipa::path(operation_id = "drawers_mike", context_path = "/api", tag = "drawers", request_body = MeasuredPiece,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers/<family>/miked", data = "<piece>")]
pub async fn mike(
    store: &State<Store>,
    family: &str,
    key: IdempotencyKey,
    piece: Body<MeasuredPiece>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::add_measured_piece(store, &key, family, &piece).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// Who undoes what.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Undo {
    /// The act, by the key it was written with.
    pub act_key: String,
    /// The initials.
    pub who: String,
}

/// Undoes something done with pieces.
#[utoipa::path(operation_id = "drawers_undo", context_path = "/api", tag = "drawers", request_body = Undo,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 404, body = Problem), (status = 409, body = Problem)))]
#[post("/drawers/undo", data = "<undo>")]
pub async fn undo(
    store: &State<Store>,
    key: IdempotencyKey,
    undo: Body<Undo>,
) -> ApiResult<Json<Vec<Drawer>>> {
    drawers::undo(store, &key, &undo.act_key, &undo.who).await?;
    Ok(Json(db::drawer::list(store).await?))
}

/// What came of a file.
#[derive(Debug, Serialize, ToSchema)]
pub struct Imported {
    /// How many rows were taken.
    pub rows: usize,
}

/// Takes counts from CSV; a file with any fault is refused whole, with every fault listed.
#[utoipa::path(operation_id = "drawers_csv_in", context_path = "/api", tag = "drawers", request_body = CsvIn,
    params(("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Imported), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers/import", data = "<file>")]
pub async fn csv_in(
    store: &State<Store>,
    key: IdempotencyKey,
    file: Body<CsvIn>,
) -> ApiResult<Json<Imported>> {
    let rows = rows_of(&file.text).await?;
    drawers::import(store, &key, (&rows, &file.text), &file.who).await?;
    Ok(Json(Imported { rows: rows.len() }))
}
