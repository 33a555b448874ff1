//! One check: measure, choose, confirm.

use std::sync::Arc;

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::ReadingInput;
use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::verdict::sisters::SistersSay;
use anvil_rules::job::act::Act;
use anvil_rules::job::check::act::{CheckAct, NewReading};
use anvil_rules::job::check::clashes::Clash;
use anvil_rules::job::check::record::ReadingMark;
use anvil_rules::job::check::rules;
use anvil_rules::job::check::split::SplitView;
use anvil_rules::job::check::swaps::SwapView;
use anvil_rules::sheet::PartKind;
use anvil_rules::sheet::pack::DrawnPack;
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::acts::{self, ActIn};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::searches::Searches;
use crate::queries::{CheckRef, open_checks};
use crate::views::acted::ActedOn;
use crate::views::check::check_view;
use anvil_rules::job::check::view::CheckView;

type View = ApiResult<Json<CheckView>>;

/// One check with its records and what the core makes of them.
#[utoipa::path(operation_id = "checks_one", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = CheckView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>")]
pub async fn one(store: &State<Store>, job_no: i32, check_key: &str) -> View {
    check_view(on(store, job_no, check_key).load().await?).map(Json)
}

fn on<'a>(store: &'a State<Store>, job_no: i32, key: &'a str) -> CheckRef<'a> {
    CheckRef {
        store,
        job_no,
        key,
        who: "",
    }
}

/// A reading as typed.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingIn {
    /// The way it was taken.
    pub way: Method,
    /// What was typed, field by field.
    pub entry: ReadingInput,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// The gauge; the usual one for the way where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
    /// The initials.
    pub who: String,
}

/// Does something that can wait for the server, at an address that stays for what was kept to be sent to it.
async fn was_kept(
    store: &State<Store>,
    (job_no, check_key): (i32, &str),
    key: &IdempotencyKey,
    (did, who): (CheckAct, String),
) -> View {
    let check = check_key.to_owned();
    let act = ActIn {
        act: Act::Check { check, did },
        who,
    };
    match acts::act(store, key, None, job_no, &act).await?.on {
        ActedOn::Check { view } => Ok(Json(*view)),
        _ => Err(Problem::server("an act on a check answered something else")),
    }
}

/// Adds a reading. As `acts` does; this address stays for what was kept to be sent to it.
#[utoipa::path(operation_id = "checks_read", context_path = "/api", tag = "checks", request_body = ReadingIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/readings", data = "<reading>")]
pub async fn read(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    reading: Body<ReadingIn>,
) -> View {
    let ReadingIn {
        way,
        entry,
        unit,
        gauge_key,
        who,
    } = reading.into_inner();
    let did = CheckAct::Read(NewReading {
        way,
        entry,
        unit,
        gauge_key,
    });
    was_kept(store, (job_no, check_key), &key, (did, who)).await
}

/// Something seen to, or not.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TickIn {
    /// What, in the sheet's words.
    pub tick: String,
    /// It is so.
    pub done: bool,
    /// The initials.
    pub who: String,
}

/// Says that something was seen to before readings are believed, or that it was not. As `acts` does; this address stays for
/// what was kept to be sent to it.
#[utoipa::path(operation_id = "checks_tick", context_path = "/api", tag = "checks", request_body = TickIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/ticks", data = "<said>")]
pub async fn tick(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    said: Body<TickIn>,
) -> View {
    let TickIn { tick, done, who } = said.into_inner();
    let did = CheckAct::Tick { tick, done };
    was_kept(store, (job_no, check_key), &key, (did, who)).await
}

/// Something said of a reading.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewMark {
    pub mark: ReadingMark,
    /// Why; needed for striking out.
    #[serde(default)]
    pub reason: String,
    /// The initials.
    pub who: String,
}

/// Strikes a reading out, restores it, or keeps one that looks like a slip. As `acts` does; this address stays for what was
/// kept to be sent to it.
#[utoipa::path(operation_id = "checks_mark", context_path = "/api", tag = "checks", request_body = NewMark,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("reading_no" = i32, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[post(
    "/jobs/<job_no>/checks/<check_key>/readings/<reading_no>/marks",
    data = "<said>"
)]
pub async fn mark(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    reading_no: i32,
    key: IdempotencyKey,
    said: Body<NewMark>,
) -> View {
    let NewMark { mark, reason, who } = said.into_inner();
    let did = CheckAct::Mark {
        reading_no,
        mark,
        reason,
    };
    was_kept(store, (job_no, check_key), &key, (did, who)).await
}

/// Plates to look at.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Plates {
    /// Their kinds, from the piston outwards.
    pub plates: Vec<PartKind>,
}

/// The clutch pack of a check as these plates lie in it, with what is wrong with them; nothing is kept.
#[utoipa::path(operation_id = "checks_pack_drawn", context_path = "/api", tag = "checks", request_body = Plates,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = DrawnPack), (status = 404, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/pack/drawn", data = "<laid>")]
pub async fn pack_drawn(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    laid: Body<Plates>,
) -> ApiResult<Json<DrawnPack>> {
    rules::are_a_pack(&laid.plates)?;
    let pack = on(store, job_no, check_key).pack().await?;
    Ok(Json(pack.drawn_as(&laid.plates)))
}

/// Its figure beside those of the other boxes of its sheet; nothing where it has none, or too few say anything.
#[utoipa::path(operation_id = "checks_sisters", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = SistersSay), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>/sisters")]
pub async fn sisters(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
) -> ApiResult<Json<SistersSay>> {
    let on = on(store, job_no, check_key);
    on.beside_sisters().await.map(Json)
}

/// Where what was answered by hand on its job and what was measured cannot both be so.
#[utoipa::path(operation_id = "checks_clashes", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = Vec<Clash>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>/clashes")]
pub async fn clashes(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
) -> ApiResult<Json<Vec<Clash>>> {
    let on = on(store, job_no, check_key);
    on.clashes().await.map(Json)
}

/// What could be fitted at both ends of the shaft at once, where the split of its pieces sets a mesh.
#[utoipa::path(operation_id = "checks_split", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = Option<SplitView>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>/split")]
pub async fn split(
    store: &State<Store>,
    searches: &State<Arc<Searches>>,
    job_no: i32,
    check_key: &str,
) -> ApiResult<Json<Option<SplitView>>> {
    open_checks::split(store, job_no, check_key, searches)
        .await
        .map(Json)
}

/// Pieces that could be taken over from other jobs, where nothing on hand reaches the shop's floor.
#[utoipa::path(operation_id = "checks_swaps", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = Vec<SwapView>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>/swaps")]
pub async fn swaps(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
) -> ApiResult<Json<Vec<SwapView>>> {
    on(store, job_no, check_key).swaps().await.map(Json)
}
