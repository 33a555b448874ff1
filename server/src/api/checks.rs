//! One check: measure, choose, confirm.

use std::sync::Arc;

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::ReadingInput;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::sisters::SistersSay;
use anvil_rules::job::check::clashes::Clash;
use anvil_rules::job::check::record::ReadingMark;
use anvil_rules::job::check::rules;
use anvil_rules::job::check::shims::ShimsInput;
use anvil_rules::job::check::split::SplitView;
use anvil_rules::job::check::swaps::SwapView;
use anvil_rules::job::check::target::TargetOverrideInput;
use anvil_rules::sheet::PartKind;
use anvil_rules::sheet::pack::DrawnPack;
use rocket::serde::json::Json;
use rocket::{State, get, post, put};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::checks::{self, GroundPiece, NewChoice, NewLayout, NewReading};
use crate::db::Store;
use crate::http::body::Body;
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};
use crate::queries::searches::Searches;
use crate::queries::{CheckRef, open_checks};
use crate::views::check::{CheckView, check_view};

type View = ApiResult<Json<CheckView>>;

/// One check with its records and what the core makes of them.
#[utoipa::path(operation_id = "checks_one", context_path = "/api", tag = "checks",
    params(("job_no" = i32, Path,), ("check_key" = String, Path,)),
    responses((status = 200, body = CheckView), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/checks/<check_key>")]
pub async fn one(store: &State<Store>, job_no: i32, check_key: &str) -> View {
    check_view(on(store, job_no, check_key, "").load().await?).map(Json)
}

fn on<'a>(store: &'a State<Store>, job_no: i32, key: &'a str, who: &'a str) -> CheckRef<'a> {
    CheckRef {
        store,
        job_no,
        key,
        who,
    }
}

/// A figure as typed.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Typed {
    /// The figure, in bench notation.
    pub typed: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// The initials.
    pub who: String,
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

/// Adds a reading.
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
    let new = NewReading {
        method: reading.way,
        input: &reading.entry,
        unit: reading.unit,
        gauge_key: reading.gauge_key.as_deref(),
    };
    checks::read(&on(store, job_no, check_key, &reading.who), &key, &new)
        .await
        .map(Json)
}

/// Which way counts.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WayIn {
    pub way: Method,
    /// The initials.
    pub who: String,
}

/// Says which way of measuring counts, where there are several.
#[utoipa::path(operation_id = "checks_way", context_path = "/api", tag = "checks", request_body = WayIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/jobs/<job_no>/checks/<check_key>/way", data = "<said>")]
pub async fn way(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    said: Body<WayIn>,
) -> View {
    let on = on(store, job_no, check_key, &said.who);
    checks::say_method(&on, &key, &seen, said.way)
        .await
        .map(Json)
}

/// How warm it is at the bench.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BenchIn {
    /// How warm box and parts are while they are measured, °C.
    pub bench_c: f64,
    /// The initials.
    pub who: String,
}

/// Says how warm box and parts were while they were measured, where that was not 20 °C.
#[utoipa::path(operation_id = "checks_bench", context_path = "/api", tag = "checks", request_body = BenchIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/jobs/<job_no>/checks/<check_key>/bench", data = "<said>")]
pub async fn bench(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    said: Body<BenchIn>,
) -> View {
    let on = on(store, job_no, check_key, &said.who);
    checks::say_bench(&on, &key, &seen, said.bench_c)
        .await
        .map(Json)
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

/// Says that something was seen to before readings are believed, or that it was not.
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
    let on = on(store, job_no, check_key, &said.who);
    checks::say_tick(&on, &key, &said.tick, said.done)
        .await
        .map(Json)
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

/// Strikes a reading out, restores it, or keeps one that looks like a slip.
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
    checks::mark(
        &on(store, job_no, check_key, &said.who),
        &key,
        reading_no,
        said.mark,
        &said.reason,
    )
    .await
    .map(Json)
}

/// Says what is fitted now.
#[utoipa::path(operation_id = "checks_fitted", context_path = "/api", tag = "checks", request_body = Typed,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 422, body = Problem)))]
#[put("/jobs/<job_no>/checks/<check_key>/fitted", data = "<typed>")]
pub async fn fitted(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    typed: Body<Typed>,
) -> View {
    let on = on(store, job_no, check_key, &typed.who);
    checks::say_fitted(&on, &key, &seen, &typed.typed, typed.unit)
        .await
        .map(Json)
}

/// Pieces chosen.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Chosen {
    /// Each size once, with how many of it.
    pub pieces: Vec<SizeCount>,
    /// The family, where it is another than the first that sets the check.
    #[serde(default)]
    pub family_key: Option<String>,
    /// What of that family comes out for them, together, in nanometres.
    #[serde(default)]
    pub out_nm: Option<Length>,
    /// They are added to what is in, which stays.
    #[serde(default)]
    pub stays: bool,
    /// The initials.
    pub who: String,
}

/// Chooses pieces; those in the drawer are set aside.
#[utoipa::path(operation_id = "checks_choose", context_path = "/api", tag = "checks", request_body = Chosen,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/choose", data = "<chosen>")]
pub async fn choose(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    chosen: Body<Chosen>,
) -> View {
    let on = on(store, job_no, check_key, &chosen.who);
    let instead_of = match (&chosen.family_key, chosen.out_nm) {
        (Some(family), Some(out)) => Some((family.as_str(), out)),
        (None, None) => None,
        _ => {
            return Err(Problem::field(
                "out_nm",
                "Pieces of another family come with what comes out for them: give family_key and out_nm, or neither.",
            ));
        }
    };
    if chosen.stays && instead_of.is_some() {
        return Err(Problem::field(
            "stays",
            "Pieces of another family go in for some that come out: what is in cannot stay.",
        ));
    }
    let new = NewChoice {
        pieces: &chosen.pieces,
        instead_of,
        stays: chosen.stays,
    };
    checks::choose(&on, &key, &seen, &new).await.map(Json)
}

/// Who does it.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct By {
    /// The initials.
    pub who: String,
}

/// Takes in a piece that was ground to size: a line of its own in the drawer, chosen, and fitted.
#[utoipa::path(operation_id = "checks_ground", context_path = "/api", tag = "checks", request_body = GroundPiece,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/ground", data = "<piece>")]
pub async fn take_ground(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    piece: Body<GroundPiece>,
) -> View {
    checks::take_ground(
        &on(store, job_no, check_key, &piece.who),
        &key,
        &seen,
        &piece,
    )
    .await
    .map(Json)
}

/// Lets the chosen pieces go, back to the drawer.
#[utoipa::path(operation_id = "checks_let_go", context_path = "/api", tag = "checks", request_body = By,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/let-go", data = "<by>")]
pub async fn let_go(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    by: Body<By>,
) -> View {
    checks::let_go(&on(store, job_no, check_key, &by.who), &key, &seen)
        .await
        .map(Json)
}

/// Who puts the chosen pieces in, and whether what comes out goes back in its drawer.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Fitting {
    /// The pieces that came out are sound and go back in the drawer.
    #[serde(default)]
    pub put_back: bool,
    /// The initials.
    pub who: String,
}

/// Notes the chosen pieces as fitted; they leave the drawer, and a new round of measuring begins.
#[utoipa::path(operation_id = "checks_fit", context_path = "/api", tag = "checks", request_body = Fitting,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/fit", data = "<fitting>")]
pub async fn fit(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    fitting: Body<Fitting>,
) -> View {
    checks::fit(
        &on(store, job_no, check_key, &fitting.who),
        &key,
        &seen,
        fitting.put_back,
    )
    .await
    .map(Json)
}

/// Says that what was noted as fitted was not: the pieces are chosen again, and the round of measuring is taken back.
#[utoipa::path(operation_id = "checks_undo_fit", context_path = "/api", tag = "checks", request_body = By,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/undo-fit", data = "<by>")]
pub async fn undo_fit(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    by: Body<By>,
) -> View {
    checks::undo_fit(&on(store, job_no, check_key, &by.who), &key, &seen)
        .await
        .map(Json)
}

/// A clutch pack as it is laid out.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LaidIn {
    /// The kinds of its plates from the piston outwards, 1 to 60.
    pub plates: Vec<PartKind>,
    /// The frictions are soaked; dry otherwise.
    pub soaked: bool,
    /// How many return springs are fitted, where they were counted.
    #[serde(default)]
    pub springs: Option<u32>,
    /// The initials.
    pub who: String,
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
    let pack = on(store, job_no, check_key, "").pack().await?;
    Ok(Json(pack.drawn_as(&laid.plates)))
}

/// Notes how the clutch pack of a check was laid out; what is wrong with it comes back with the check.
#[utoipa::path(operation_id = "checks_lay", context_path = "/api", tag = "checks", request_body = LaidIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/pack", data = "<laid>")]
pub async fn lay(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    laid: Body<LaidIn>,
) -> View {
    let new = NewLayout {
        plates: &laid.plates,
        soaked: laid.soaked,
        springs: laid.springs,
    };
    checks::lay(&on(store, job_no, check_key, &laid.who), &key, &seen, &new)
        .await
        .map(Json)
}

/// How shims lie at the two ends of a shaft.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShimsIn {
    /// Those at the left, in bench notation, with commas or spaces between them; empty for none.
    pub left: String,
    /// Those at the right.
    pub right: String,
    /// The unit bare figures are in.
    pub unit: Unit,
    /// They were moved so; they lie so otherwise.
    pub moved: bool,
    /// The initials.
    pub who: String,
}

/// Notes how the shims lie at the ends of a selector's shaft, or that they were moved so.
#[utoipa::path(operation_id = "checks_shims", context_path = "/api", tag = "checks", request_body = ShimsIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/shims", data = "<shims>")]
pub async fn shims(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    shims: Body<ShimsIn>,
) -> View {
    let new = ShimsInput {
        left: shims.left.clone(),
        right: shims.right.clone(),
        unit: shims.unit,
        moved: shims.moved,
    };
    let on = on(store, job_no, check_key, &shims.who);
    checks::say_shims(&on, &key, &seen, &new).await.map(Json)
}

/// A signature or its taking back.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Reasoned {
    /// Why.
    #[serde(default)]
    pub reason: String,
    /// The initials.
    pub who: String,
}

/// Signs the check off; with a reason where it is not plainly in the window.
#[utoipa::path(operation_id = "checks_sign", context_path = "/api", tag = "checks", request_body = Reasoned,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/sign", data = "<signature>")]
pub async fn sign(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    signature: Body<Reasoned>,
) -> View {
    checks::sign(
        &on(store, job_no, check_key, &signature.who),
        &key,
        &seen,
        &signature.reason,
    )
    .await
    .map(Json)
}

/// Reopens a signed check, with a reason; its history stays.
#[utoipa::path(operation_id = "checks_reopen", context_path = "/api", tag = "checks", request_body = Reasoned,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/checks/<check_key>/reopen", data = "<asked>")]
pub async fn reopen(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    asked: Body<Reasoned>,
) -> View {
    checks::reopen(
        &on(store, job_no, check_key, &asked.who),
        &key,
        &seen,
        &asked.reason,
    )
    .await
    .map(Json)
}

/// Says where to aim on this job, in which window, and why.
#[utoipa::path(operation_id = "checks_aim", context_path = "/api", tag = "checks", request_body = TargetOverrideInput,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem), (status = 422, body = Problem)))]
#[put("/jobs/<job_no>/checks/<check_key>/aim", data = "<aiming>")]
pub async fn aim(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    aiming: Body<TargetOverrideInput>,
) -> View {
    let on = on(store, job_no, check_key, &aiming.who);
    checks::override_target(&on, &key, &seen, &aiming)
        .await
        .map(Json)
}

/// Whether the usual difference of boxes before counts.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UsualIn {
    pub counts: bool,
    /// The initials.
    pub who: String,
}

/// Counts the usual difference between predicted and achieved in, or leaves it out again.
#[utoipa::path(operation_id = "checks_usual", context_path = "/api", tag = "checks", request_body = UsualIn,
    params(("job_no" = i32, Path,), ("check_key" = String, Path,), ("Idempotency-Key" = String, Header,), ("If-Match" = String, Header,)),
    responses((status = 200, body = CheckView), (status = 409, body = Problem), (status = 412, body = Problem)))]
#[put("/jobs/<job_no>/checks/<check_key>/usual", data = "<said>")]
pub async fn usual(
    store: &State<Store>,
    job_no: i32,
    check_key: &str,
    key: IdempotencyKey,
    seen: IfMatch,
    said: Body<UsualIn>,
) -> View {
    let on = on(store, job_no, check_key, &said.who);
    checks::decide_bias(&on, &key, &seen, said.counts)
        .await
        .map(Json)
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
    let on = on(store, job_no, check_key, "");
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
    let on = on(store, job_no, check_key, "");
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
    on(store, job_no, check_key, "").swaps().await.map(Json)
}
