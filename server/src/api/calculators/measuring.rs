//! The calculators: every function of the core so far, without a job. Nothing is stored.

#![allow(clippy::needless_pass_by_value)] // a handler is given its body to keep

use anvil_arithmetic::choose::required::{Effect, RequiredThickness, required_thickness};
use anvil_arithmetic::choose::{self, Choices, Request};
use anvil_arithmetic::measure::backlash::Mesh;
use anvil_arithmetic::measure::feeler::{self, Advice};
use anvil_arithmetic::measure::pinions::Pinions;
use anvil_arithmetic::measure::selector_gaps::Selector;
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::measure::turning_torque::{TorqueEnds, TorqueFound, TorqueGauge};
use anvil_arithmetic::measure::{
    Basis, Detail, MeasureError, Method, Reading, ReadingInput, measure, torques, tries,
};
use anvil_arithmetic::stock::drawer::{Stock, u_of_tolerance};
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::uncertainty::gauge::{Figures, Gauge};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_arithmetic::verdict::window::{Ends, TargetRange, Window};
use anvil_arithmetic::verdict::{Verdict, judge};
use anvil_rules::shop::drawers;
use rocket::post;
use rocket::serde::json::Json;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::http::body::Body;
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;

/// A text to read as a length.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ParseIn {
    /// The text, in bench notation.
    pub text: String,
    /// The unit a bare figure is in; none where the unit must be written.
    #[serde(default)]
    pub unit: Option<Unit>,
    /// A minus sign is allowed.
    #[serde(default)]
    pub may_be_negative: bool,
}

/// A length read.
#[derive(Debug, Serialize, ToSchema)]
pub struct Parsed {
    /// The length in nanometres.
    pub nm: Length,
}

/// Reads a length in bench notation.
#[utoipa::path(operation_id = "calc_parse", context_path = "/api", tag = "calc", request_body = ParseIn,
    responses((status = 200, body = Parsed), (status = 422, body = Problem)))]
#[post("/calc/parse", data = "<asked>")]
pub fn parse(asked: Body<ParseIn>) -> ApiResult<Json<Parsed>> {
    let sign = if asked.may_be_negative {
        Sign::Any
    } else {
        Sign::NotNegative
    };
    notation::parse(&asked.text, asked.unit, sign)
        .map(|nm| Json(Parsed { nm }))
        .map_err(|e| Problem::field("text", e))
}

/// Readings of one way, as typed, with what they are worked out with.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeasureIn {
    /// The way they were taken.
    pub way: Method,
    /// What was typed.
    pub entries: Vec<ReadingInput>,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// What the gauge can see; none for fingers.
    #[serde(default)]
    pub gauge: Option<Figures>,
    /// The terms of a stack sum.
    #[serde(default)]
    pub terms: Vec<Term>,
    /// The ± limits of a known shim in nanometres.
    #[serde(default)]
    pub shim_tolerance_nm: Length,
    /// A leaf measures how far a retainer stands off.
    #[serde(default)]
    pub stands_off: bool,
    /// The window that it is held against.
    #[serde(default)]
    pub window: Option<Ends>,
    /// What a carrier's pinions are held to.
    #[serde(default)]
    pub pinions: Option<Pinions>,
    /// What a ring gear's backlash is held to.
    #[serde(default)]
    pub mesh: Option<Mesh>,
    /// What a selector holds, with the shims at the ends of its shaft.
    #[serde(default)]
    pub selector: Option<Selector>,
}

/// What readings give.
#[derive(Debug, Serialize, ToSchema)]
pub struct MeasuredOut {
    /// The estimate, where there is one.
    pub estimate: Option<Estimate>,
    /// The verdict on it, where a window was given.
    pub verdict: Option<Verdict>,
    /// Why there is none, where there is none.
    pub no_estimate: Option<String>,
    /// What there is to draw.
    pub detail: Detail,
}

fn taken_of(entries: &[ReadingInput], way: Method, unit: Unit) -> ApiResult<Vec<Reading>> {
    entries
        .iter()
        .enumerate()
        .map(|(at, entry)| {
            if !entry.fits(way) {
                return Err(Problem::field(
                    &format!("entries/{at}"),
                    "That kind of reading is not of this way of measuring.",
                ));
            }
            entry
                .read(unit)
                .map_err(|e| Problem::field(&format!("entries/{at}/{}", e.field), e))
        })
        .collect()
}

/// The clearance that readings of one way give.
#[utoipa::path(operation_id = "calc_measured", context_path = "/api", tag = "calc", request_body = MeasureIn,
    responses((status = 200, body = MeasuredOut), (status = 422, body = Problem)))]
#[post("/calc/measure", data = "<asked>")]
pub fn measured(asked: Body<MeasureIn>) -> ApiResult<Json<MeasuredOut>> {
    let taken = taken_of(&asked.entries, asked.way, asked.unit)?;
    let gauge = asked
        .gauge
        .map(Gauge::try_from)
        .transpose()
        .map_err(|e| Problem::field("gauge", e))?;
    let window = asked.window.map(window_of).transpose()?;
    let found = measure(
        asked.way,
        &taken,
        &Basis {
            gauge,
            by: &[],
            adjustments: &[],
            terms: &asked.terms,
            u_shim_nm: u_of_tolerance(asked.shim_tolerance_nm),
            stands_off: asked.stands_off,
            proud: false,
            window,
            pinions: asked.pinions,
            mesh: asked.mesh,
            selector: asked.selector.as_ref(),
        },
    );
    Ok(Json(MeasuredOut {
        verdict: window.and_then(|w| found.verdict(w, &[], None)),
        no_estimate: found.estimate.as_ref().err().map(ToString::to_string),
        estimate: found.estimate.ok(),
        detail: found.detail,
    }))
}

/// Leaves tried, those of the set, and the window.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LeafIn {
    /// The leaves tried.
    pub entries: Vec<ReadingInput>,
    /// The unit a bare length is in.
    pub unit: Unit,
    /// The leaves of the set in nanometres.
    pub leaves_nm: Vec<Length>,
    pub window: Ends,
}

/// The leaf to try next.
#[utoipa::path(operation_id = "calc_next_leaf", context_path = "/api", tag = "calc", request_body = LeafIn,
    responses((status = 200, body = Advice), (status = 422, body = Problem)))]
#[post("/calc/next-leaf", data = "<asked>")]
pub fn next_leaf(asked: Body<LeafIn>) -> ApiResult<Json<Advice>> {
    let taken = taken_of(&asked.entries, Method::Feeler, asked.unit)?;
    let open = feeler::open(&tries(&taken)).map_err(|e| Problem::field("entries", e))?;
    let window = window_of(asked.window)?;
    Ok(Json(feeler::advise(open, &asked.leaves_nm, window, &[])))
}

/// Turning torques and their window.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TurningIn {
    /// What was typed.
    pub entries: Vec<ReadingInput>,
    /// The unit a bare radius is in.
    pub unit: Unit,
    /// What the wrench or scale can see, in newton metres at the shaft.
    pub gauge: TorqueGauge,
    pub window: TorqueEnds,
}

/// The turning torque that readings give, and the verdict on it.
#[utoipa::path(operation_id = "calc_turning", context_path = "/api", tag = "calc", request_body = TurningIn,
    responses((status = 200, body = TorqueFound), (status = 422, body = Problem)))]
#[post("/calc/turning-torque", data = "<asked>")]
pub fn turning(asked: Body<TurningIn>) -> ApiResult<Json<TorqueFound>> {
    let taken = taken_of(&asked.entries, Method::TurningTorque, asked.unit)?;
    torques(&taken, asked.gauge, asked.window)
        .map(Json)
        .map_err(|e| match e {
            MeasureError::Torque(e) if e.field() != "readings" => Problem::field(e.field(), e),
            e => Problem::field("entries", e),
        })
}

/// An estimate and its window.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JudgeIn {
    pub estimate: Estimate,
    pub window: Ends,
}

fn window_of(ends: Ends) -> ApiResult<Window> {
    Window::try_from(ends).map_err(|e| Problem::field("window", e))
}

/// The verdict on an estimate.
#[utoipa::path(operation_id = "calc_judged", context_path = "/api", tag = "calc", request_body = JudgeIn,
    responses((status = 200, body = Verdict), (status = 422, body = Problem)))]
#[post("/calc/judge", data = "<asked>")]
pub fn judged(asked: Body<JudgeIn>) -> ApiResult<Json<Verdict>> {
    let asked = asked.into_inner();
    let estimate = asked.estimate.checked();
    let estimate = estimate.map_err(|e| Problem::field(&format!("estimate/{}", e.field()), e))?;
    Ok(Json(judge(&estimate, window_of(asked.window)?)))
}

/// A clearance and its target.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PieceIn {
    pub clearance_nm: f64,
    /// What is aimed at.
    pub aim: TargetRange,
    /// The thickness fitted now, in nanometres.
    pub fitted_nm: Length,
    /// What a thicker piece does.
    pub effect: Effect,
}

/// The thickness wanted.
#[utoipa::path(operation_id = "calc_piece", context_path = "/api", tag = "calc", request_body = PieceIn,
    responses((status = 200, body = RequiredThickness), (status = 422, body = Problem)))]
#[post("/calc/wanted", data = "<asked>")]
pub fn piece(asked: Body<PieceIn>) -> ApiResult<Json<RequiredThickness>> {
    let aim = asked.aim.checked().map_err(|e| Problem::field("aim", e))?;
    if asked.fitted_nm < Length::ZERO {
        return Err(Problem::field(
            "fitted_nm",
            "What is fitted is nothing thick or more.",
        ));
    }
    Ok(Json(required_thickness(
        asked.clearance_nm,
        aim,
        asked.fitted_nm,
        asked.effect,
    )))
}

/// A clearance, its window and the sizes there are.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChooseIn {
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// The degrees of freedom of that; none means infinite.
    #[serde(default)]
    pub dof: Option<f64>,
    /// The thickness fitted now, in nanometres.
    pub fitted_nm: Length,
    /// The standard uncertainty of that thickness in nanometres.
    #[serde(default)]
    pub u_fitted_nm: f64,
    /// What a thicker piece does.
    pub effect: Effect,
    pub window: Ends,
    /// What is aimed at.
    pub aim: TargetRange,
    /// The chance in window asked for, 0.5 to below 1.
    pub floor: f64,
    /// The most pieces in a stack.
    pub most_pieces: u32,
    /// The sizes to choose from.
    pub stock: Vec<Stock>,
}

/// How many choices a calculator gives.
const BEST: usize = 10;
/// More sizes than this are no drawer.
const MOST_SIZES: usize = 400;

/// The ranked choices.
#[utoipa::path(operation_id = "calc_choices", context_path = "/api", tag = "calc", request_body = ChooseIn,
    responses((status = 200, body = Choices), (status = 422, body = Problem)))]
#[post("/calc/choose", data = "<asked>")]
pub fn choices(asked: Body<ChooseIn>) -> ApiResult<Json<Choices>> {
    if asked.stock.len() > MOST_SIZES {
        return Err(Problem::field(
            "stock",
            format!("At most {MOST_SIZES} sizes can be chosen from here."),
        ));
    }
    let request = Request {
        clearance_nm: asked.clearance_nm,
        u_nm: asked.u_nm,
        dof: asked.dof,
        shape: None,
        fitted: asked.fitted_nm,
        u_fitted_nm: asked.u_fitted_nm,
        effect: asked.effect,
        window: window_of(asked.window)?,
        aim: asked.aim,
        required_probability: asked.floor,
        harm: None,
        least_pieces: 1,
        most_pieces: asked.most_pieces,
        best: BEST,
        stock: &asked.stock,
    };
    heavily(|| choose::choose(&request))
        .map(Json)
        .map_err(|e| Problem::of_choice(e, "stock"))
}

/// Sizes as they are typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SizesIn {
    /// One after the other, or from to by, such as `1.10 to 1.25 by 0.05; 1.40`.
    pub sizes: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// Reads the sizes that pieces are made in, each once and the thinnest first, in nanometres.
#[utoipa::path(operation_id = "calc_sizes", context_path = "/api", tag = "calc", request_body = SizesIn,
    responses((status = 200, body = Vec<Length>), (status = 422, body = Problem)))]
#[post("/calc/sizes", data = "<asked>")]
pub fn sizes(asked: Body<SizesIn>) -> ApiResult<Json<Vec<Length>>> {
    Ok(Json(drawers::sizes("sizes", &asked.sizes, asked.unit)?))
}
