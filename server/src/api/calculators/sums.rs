//! The sums of the bench that need no job: needle rows, ratios, heat fits, units. Figures come as
//! people type them, so that an address can hold them.

#![allow(clippy::needless_pass_by_value)] // a handler is given its body to keep

use anvil_arithmetic::calculators::fit::{FitError, Fitted, HeatFit, heat_fit};
use anvil_arithmetic::calculators::ratio::{self, Ratio, TurnTest, turn_test};
use anvil_arithmetic::calculators::rollers::{NeedleRow, RowError, row};
use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::units::convert::{InchFraction, TorqueUnit, inch_fraction};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::Sign;
use rocket::post;
use rocket::serde::json::Json;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::fields::one;
use crate::http::body::Body;
use crate::http::problem::{ApiResult, Problem};

/// The most gears that are told apart.
const MOST_GEARS: usize = 24;
/// Finer than this nobody cuts an inch.
const INCH_PARTS: i64 = 64;

fn length(field: &'static str, text: &str, unit: Unit) -> ApiResult<Length> {
    one(field, text, unit, Sign::NotNegative)
}

/// A row of rollers as asked for.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RollersIn {
    /// The shaft's diameter, in bench notation.
    pub shaft: String,
    /// A roller's diameter.
    pub roller: String,
    /// How many rows.
    pub rows: u32,
    /// How many are in a row; the most that fit where it is left out.
    #[serde(default)]
    pub count: Option<u32>,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// Needle rollers in rows round a shaft.
#[utoipa::path(operation_id = "sums_rollers", context_path = "/api", tag = "sums", request_body = RollersIn,
    responses((status = 200, body = NeedleRow), (status = 422, body = Problem)))]
#[post("/calc/rollers", data = "<asked>")]
pub fn rollers(asked: Body<RollersIn>) -> ApiResult<Json<NeedleRow>> {
    let shaft = length("shaft", &asked.shaft, asked.unit)?;
    let roller = length("roller", &asked.roller, asked.unit)?;
    row(shaft, roller, asked.rows, asked.count)
        .map(Json)
        .map_err(|e| {
            let field = match e {
                RowError::NoDiameter("shaft") => "shaft",
                RowError::NoDiameter(_) | RowError::RollerLarger { .. } => "roller",
                RowError::Rows => "rows",
                RowError::TooMany { .. } | RowError::TooFew => "count",
            };
            Problem::field(field, e)
        })
}

/// Gears by their tooth counts, and a turn test.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RatiosIn {
    /// The gears, one a line: name, pairs of driver and driven such as `17:34`, and `back` where the
    /// output turns backwards.
    pub gears: String,
    /// How far the input was turned.
    #[serde(default)]
    pub input_turns: Option<f64>,
    /// How far the output turned; below zero backwards.
    #[serde(default)]
    pub output_turns: Option<f64>,
    /// How far that may be off, in output turns.
    #[serde(default)]
    pub give: Option<f64>,
}

/// Ratios, and what the turn test says.
#[derive(Debug, Serialize, ToSchema)]
pub struct RatiosOut {
    /// The ratios, in the order of the gears.
    pub ratios: Vec<Ratio>,
    /// Which gear turned so; none where no gear does, or nothing was turned.
    pub test: Option<TurnTest>,
}

/// Ratios from tooth counts, and the gear that a turn test names.
#[utoipa::path(operation_id = "sums_ratios", context_path = "/api", tag = "sums", request_body = RatiosIn,
    responses((status = 200, body = RatiosOut), (status = 422, body = Problem)))]
#[post("/calc/ratios", data = "<asked>")]
pub fn ratios(asked: Body<RatiosIn>) -> ApiResult<Json<RatiosOut>> {
    let gears = ratio::read(&asked.gears).map_err(|e| Problem::field("gears", e))?;
    if gears.is_empty() || gears.len() > MOST_GEARS {
        return Err(Problem::field(
            "gears",
            format!("Write from 1 to {MOST_GEARS} gears."),
        ));
    }
    let ratios = gears
        .iter()
        .map(|train| train.ratio().map_err(|e| Problem::field("gears", e)))
        .collect::<ApiResult<Vec<Ratio>>>()?;
    let turns = |field: &'static str, turns: f64| {
        if turns.is_finite() && turns.abs() <= 1_000.0 {
            Ok(turns)
        } else {
            Err(Problem::field(
                field,
                "Turns are a figure up to 1000, such as 0.26.",
            ))
        }
    };
    let test = match (asked.input_turns, asked.output_turns) {
        (Some(input), Some(output)) => {
            let input = turns("input_turns", input)?;
            if input <= 0.0 {
                return Err(Problem::field(
                    "input_turns",
                    "Turn the input forwards, one turn or more; backwards is the output's sign.",
                ));
            }
            let give = turns("give", asked.give.unwrap_or(0.03))?.abs();
            turn_test(&ratios, input, turns("output_turns", output)?, give)
        }
        _ => None,
    };
    Ok(Json(RatiosOut { ratios, test }))
}

/// A heat fit as asked for.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HeatFitIn {
    /// The bore's diameter at 20 °C, in bench notation.
    pub bore: String,
    /// What is round the bore.
    pub bore_of: Material,
    /// The part's diameter at 20 °C.
    pub part: String,
    pub part_of: Material,
    /// The clearance on the diameter that lets it drop in.
    pub clearance: String,
    /// How cold or warm the part is, °C.
    pub part_c: f64,
    /// The hottest that what is heated may get, °C.
    pub limit_c: f64,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// How hot a bore, or how cold a part, for one to drop into the other.
#[utoipa::path(operation_id = "sums_heat_fit", context_path = "/api", tag = "sums", request_body = HeatFitIn,
    responses((status = 200, body = Fitted), (status = 422, body = Problem)))]
#[post("/calc/heat-fit", data = "<asked>")]
pub fn heat(asked: Body<HeatFitIn>) -> ApiResult<Json<Fitted>> {
    let fit = HeatFit {
        bore_nm: length("bore", &asked.bore, asked.unit)?,
        bore_of: asked.bore_of,
        part_nm: length("part", &asked.part, asked.unit)?,
        part_of: asked.part_of,
        clearance_nm: length("clearance", &asked.clearance, asked.unit)?,
        part_c: asked.part_c,
        limit_c: asked.limit_c,
    };
    heat_fit(&fit).map(Json).map_err(|e| {
        let field = match e {
            FitError::NoDiameter("bore") => "bore",
            FitError::NoDiameter(_) => "part",
            FitError::Clearance => "clearance",
            FitError::PartTemperature(_) => "part_c",
            FitError::Limit(_) => "limit_c",
        };
        Problem::field(field, e)
    })
}

/// A length and a torque to write in every unit.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UnitsIn {
    /// A length, in bench notation; empty for none.
    #[serde(default)]
    pub length: String,
    /// The unit a bare length is in.
    pub unit: Unit,
    #[serde(default)]
    pub torque: Option<f64>,
    #[serde(default)]
    pub torque_unit: Option<TorqueUnit>,
}

/// The same in every unit.
#[derive(Debug, Serialize, ToSchema)]
pub struct UnitsOut {
    pub length_nm: Option<Length>,
    /// The nearest 1/64 inch.
    pub fraction: Option<InchFraction>,
    /// The torque in each unit.
    pub torques: Vec<TorqueIn>,
}

/// A torque in one unit.
#[derive(Debug, Serialize, ToSchema)]
pub struct TorqueIn {
    pub unit: TorqueUnit,
    pub figure: f64,
}

/// A length and a torque in every unit.
#[utoipa::path(operation_id = "sums_units", context_path = "/api", tag = "sums", request_body = UnitsIn,
    responses((status = 200, body = UnitsOut), (status = 422, body = Problem)))]
#[post("/calc/units", data = "<asked>")]
pub fn units(asked: Body<UnitsIn>) -> ApiResult<Json<UnitsOut>> {
    let length_nm = match asked.length.trim() {
        "" => None,
        text => Some(length("length", text, asked.unit)?),
    };
    if asked.torque.is_some_and(|t| !(0.0..=1e6).contains(&t)) {
        return Err(Problem::field(
            "torque",
            "A torque is a figure from 0 to a million, such as 42.5.",
        ));
    }
    let from = asked.torque_unit.unwrap_or(TorqueUnit::NewtonMetre);
    let torques = asked.torque.map_or_else(Vec::new, |figure| {
        let each = TorqueUnit::ALL.into_iter();
        each.map(|unit| TorqueIn {
            unit,
            figure: from.to(unit, figure),
        })
        .collect()
    });
    Ok(Json(UnitsOut {
        length_nm,
        fraction: length_nm.and_then(|l| inch_fraction(l, INCH_PARTS)),
        torques,
    }))
}
