//! Drawers: the selective stock, by hand and as CSV.

use anvil_core::length::Unit;
use anvil_core::notation::{self, Sign};
use anvil_core::stock_csv::{self, Row};
use rocket::http::{ContentType, Header};
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::guard::{Seen, WriteKey};
use crate::problem::{Answer, Problem};
use crate::store::drawer::{Drawer, Move, csv_faults};
use crate::store::{self, Store, writes};
use crate::work;

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
    let thickness = notation::parse(&count.thickness, Some(count.unit), Sign::NotNegative)
        .map_err(|e| Problem::field("thickness", e))?;
    if thickness.nm() == 0 || thickness.nm() > 100_000_000 {
        return Err(Problem::field(
            "thickness",
            "A piece is thicker than nothing and thinner than 100 mm.",
        ));
    }
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
            on_hand: count.on_hand,
            place: count.place.trim().to_owned(),
            discontinued: count.discontinued,
        };
        let version = store::drawer::version(store, family, thickness.nm()).await?;
        seen.still(version, "This size")?;
        work::count(store, &mut tx, &[row], "counted", &count.who).await?;
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
        work::count(store, &mut tx, &rows, "imported", &file.who).await?;
        tx.commit().await?;
    }
    Ok(Json(Imported { rows: rows.len() }))
}
