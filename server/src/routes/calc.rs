//! The calculators: every function of the core so far, without a job. Nothing is stored.

#![allow(clippy::needless_pass_by_value)] // a handler is given its body to keep

use anvil_core::choose::{self, Choices, Request};
use anvil_core::drawer::Stock;
use anvil_core::estimate::Estimate;
use anvil_core::gauge::{Figures, Gauge};
use anvil_core::judge::{Verdict, judge};
use anvil_core::length::{Length, Unit};
use anvil_core::measure::dial;
use anvil_core::notation::{self, Sign};
use anvil_core::wanted::{Effect, Wanted, wanted};
use anvil_core::window::{Aim, Ends, Window};
use rocket::post;
use rocket::serde::json::Json;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::problem::{Answer, Problem};

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
pub fn parse(asked: Json<ParseIn>) -> Answer<Json<Parsed>> {
    let sign = if asked.may_be_negative {
        Sign::Any
    } else {
        Sign::NotNegative
    };
    notation::parse(&asked.text, asked.unit, sign)
        .map(|nm| Json(Parsed { nm }))
        .map_err(|e| Problem::field("text", e))
}

/// Travels of a dial.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TravelIn {
    /// The travels in nanometres.
    pub travels_nm: Vec<Length>,
    /// The gauge.
    pub gauge: Figures,
}

/// The clearance that travels of a dial give.
#[utoipa::path(operation_id = "calc_travel", context_path = "/api", tag = "calc", request_body = TravelIn,
    responses((status = 200, body = Estimate), (status = 422, body = Problem)))]
#[post("/calc/dial-travel", data = "<asked>")]
pub fn travel(asked: Json<TravelIn>) -> Answer<Json<Estimate>> {
    let gauge = Gauge::try_from(asked.gauge).map_err(|e| Problem::field("gauge", e))?;
    dial::estimate(&asked.travels_nm, gauge, &[])
        .map(Json)
        .map_err(|e| Problem::field("travels_nm", e))
}

/// An estimate and its window.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JudgeIn {
    /// The estimate.
    pub estimate: Estimate,
    /// The window.
    pub window: Ends,
}

fn window_of(ends: Ends) -> Answer<Window> {
    Window::try_from(ends).map_err(|e| Problem::field("window", e))
}

/// The verdict on an estimate.
#[utoipa::path(operation_id = "calc_judged", context_path = "/api", tag = "calc", request_body = JudgeIn,
    responses((status = 200, body = Verdict), (status = 422, body = Problem)))]
#[post("/calc/judge", data = "<asked>")]
pub fn judged(asked: Json<JudgeIn>) -> Answer<Json<Verdict>> {
    let sound = asked.estimate.u_nm >= 0.0 && asked.estimate.dof.is_none_or(|d| d > 0.0);
    if !sound {
        return Err(Problem::field(
            "estimate",
            "The uncertainty is zero or more, and its degrees of freedom more than zero.",
        ));
    }
    Ok(Json(judge(&asked.estimate, window_of(asked.window)?)))
}

/// A clearance and its target.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PieceIn {
    /// The clearance in nanometres.
    pub clearance_nm: f64,
    /// What is aimed at.
    pub aim: Aim,
    /// The thickness fitted now, in nanometres.
    pub fitted_nm: Length,
    /// What a thicker piece does.
    pub effect: Effect,
}

/// The thickness wanted.
#[utoipa::path(operation_id = "calc_piece", context_path = "/api", tag = "calc", request_body = PieceIn,
    responses((status = 200, body = Wanted), (status = 422, body = Problem)))]
#[post("/calc/wanted", data = "<asked>")]
pub fn piece(asked: Json<PieceIn>) -> Json<Wanted> {
    Json(wanted(
        asked.clearance_nm,
        asked.aim,
        asked.fitted_nm,
        asked.effect,
    ))
}

/// A clearance, its window and the sizes there are.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChooseIn {
    /// The clearance in nanometres.
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
    /// The window.
    pub window: Ends,
    /// What is aimed at.
    pub aim: Aim,
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
pub fn choices(asked: Json<ChooseIn>) -> Answer<Json<Choices>> {
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
        fitted: asked.fitted_nm,
        u_fitted_nm: asked.u_fitted_nm,
        effect: asked.effect,
        window: window_of(asked.window)?,
        aim: asked.aim,
        floor: asked.floor,
        least_pieces: 1,
        most_pieces: asked.most_pieces,
        best: BEST,
        stock: &asked.stock,
    };
    choose::choose(&request).map(Json).map_err(|e| {
        let whole = e.to_string();
        let field = whole.split(':').next().unwrap_or("stock").to_owned();
        Problem::field(&field, whole)
    })
}
