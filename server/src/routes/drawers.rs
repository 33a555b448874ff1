//! Drawers: the selective stock, by hand and as CSV.

use anvil_core::drawer::Grade;
use anvil_core::length::{Length, Unit};
use anvil_core::stock_csv::{self, Row};
use rocket::http::{ContentType, Header};
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::guard::{Seen, WriteKey};
use crate::problem::{Answer, Problem};
use crate::stock::{self, MikedPiece, StockAct};
use crate::store::drawer::{Drawer, Line, Move, csv_faults};
use crate::store::{self, Store, writes};

/// All drawers with their sizes.
#[utoipa::path(operation_id = "drawers_list", context_path = "/api", tag = "drawers", responses((status = 200, body = Vec<Drawer>)))]
#[get("/drawers")]
pub async fn list(store: &State<Store>) -> Answer<Json<Vec<Drawer>>> {
    store::drawer::list(store).await.map(Json)
}

/// The newest changes of a drawer's counts.
#[utoipa::path(operation_id = "drawers_moves", context_path = "/api", tag = "drawers", params(("family" = String, Path,)),
    responses((status = 200, body = Vec<Move>)))]
#[get("/drawers/<family>/moves")]
pub async fn moves(store: &State<Store>, family: &str) -> Answer<Json<Vec<Move>>> {
    store::drawer::moves(store, family).await.map(Json)
}

/// A count of one size.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Count {
    /// The thickness, in bench notation.
    pub thickness: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// How the thickness is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many there are, those set aside included.
    pub on_hand: i32,
    /// Where the drawer is.
    #[serde(default)]
    pub place: String,
    /// The size is no longer made.
    #[serde(default)]
    pub discontinued: bool,
    /// The initials.
    pub who: String,
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
    key: WriteKey,
    seen: Seen,
    count: Json<Count>,
) -> Answer<Json<Vec<Drawer>>> {
    let thickness = stock::thickness("thickness", &count.thickness, count.unit)?;
    if !(0..=100_000).contains(&count.on_hand) {
        return Err(Problem::field(
            "on_hand",
            "Count whole pieces, from 0 to 100 000.",
        ));
    }
    let mut tx = store.begin().await?;
    let fingerprint = format!(
        "count {family} {}",
        serde_json::to_string(&*count).map_err(Problem::server)?
    );
    if writes::claim(store, &mut tx, &key.0, &fingerprint)
        .await?
        .is_none()
    {
        store::shop::known(store, &mut tx, &count.who).await?;
        let row = Row {
            family: family.to_owned(),
            thickness_nm: thickness,
            grade: count.grade,
            marked_nm: None,
            on_hand: count.on_hand,
            on_order: None,
            place: count.place.trim().to_owned(),
            discontinued: count.discontinued,
        };
        let line = Line {
            family,
            thickness_nm: thickness.nm(),
            grade: count.grade,
        };
        let version = store::drawer::version(store, line).await?;
        seen.still(version, "This size")?;
        stock::count(store, &mut tx, &[row], "counted", &count.who).await?;
        tx.commit().await?;
    }
    store::drawer::list(store).await.map(Json)
}

/// A file to save.
#[derive(rocket::Responder)]
pub struct Download {
    body: String,
    kind: ContentType,
    name: Header<'static>,
}

impl Download {
    /// A file of that name and kind.
    pub fn new(body: String, kind: ContentType, name: &str) -> Self {
        Self {
            body,
            kind,
            name: Header::new(
                "Content-Disposition",
                format!("attachment; filename=\"{name}\""),
            ),
        }
    }
}

/// All drawers as CSV.
#[utoipa::path(operation_id = "drawers_csv_out", context_path = "/api", tag = "drawers",
    responses((status = 200, body = String, content_type = "text/csv")))]
#[get("/drawers.csv")]
pub async fn csv_out(store: &State<Store>) -> Answer<Download> {
    let rows = store::drawer::rows(store).await?;
    Ok(Download::new(
        stock_csv::write(&rows),
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
    /// The key of the family.
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

/// What taking in a file would change; changes nothing.
#[utoipa::path(operation_id = "drawers_preview", context_path = "/api", tag = "drawers", request_body = CsvText,
    responses((status = 200, body = Preview), (status = 422, body = Problem)))]
#[post("/drawers/preview", data = "<file>")]
pub async fn preview(store: &State<Store>, file: Json<CsvText>) -> Answer<Json<Preview>> {
    let rows = stock_csv::read(&file.text).map_err(csv_faults)?;
    let names = store::drawer::families(store, &store.pool).await?;
    let unknown = rows.iter().find(|r| !names.contains_key(&r.family));
    if let Some(row) = unknown {
        return Err(store::drawer::no_family(&row.family));
    }
    let now = store::drawer::rows(store).await?;
    let changes = stock_csv::changes(&now, &rows);
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
    key: WriteKey,
    act: Json<StockAct>,
) -> Answer<Json<Vec<Drawer>>> {
    stock::act(store, &key, &act).await?;
    store::drawer::list(store).await.map(Json)
}

/// Puts a piece measured by micrometer in the drawer as its own.
#[utoipa::path(operation_id = "drawers_mike", context_path = "/api", tag = "drawers", request_body = MikedPiece,
    params(("family" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<Drawer>), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/drawers/<family>/miked", data = "<piece>")]
pub async fn mike(
    store: &State<Store>,
    family: &str,
    key: WriteKey,
    piece: Json<MikedPiece>,
) -> Answer<Json<Vec<Drawer>>> {
    stock::mike(store, &key, family, &piece).await?;
    store::drawer::list(store).await.map(Json)
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
    key: WriteKey,
    undo: Json<Undo>,
) -> Answer<Json<Vec<Drawer>>> {
    stock::undo(store, &key, &undo.act_key, &undo.who).await?;
    store::drawer::list(store).await.map(Json)
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
    key: WriteKey,
    file: Json<CsvIn>,
) -> Answer<Json<Imported>> {
    let rows = stock_csv::read(&file.text).map_err(csv_faults)?;
    let mut tx = store.begin().await?;
    if writes::claim(
        store,
        &mut tx,
        &key.0,
        &format!("csv {} {}", file.who, file.text),
    )
    .await?
    .is_none()
    {
        store::shop::known(store, &mut tx, &file.who).await?;
        stock::count(store, &mut tx, &rows, "imported", &file.who).await?;
        tx.commit().await?;
    }
    Ok(Json(Imported { rows: rows.len() }))
}
