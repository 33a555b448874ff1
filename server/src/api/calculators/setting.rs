//! The sums of setting without a job: the piece wanted, known shim, pinch, stack, hot and cold, torque.
//! Figures come as people type them, so that an address can hold them.

#![allow(clippy::needless_pass_by_value)] // a handler is given its body to keep

use anvil_arithmetic::calculators::list_input;
use anvil_arithmetic::calculators::piece::{self, Read};
use anvil_arithmetic::choose::required::{Effect, RequiredThickness, required_thickness};
use anvil_arithmetic::choose::{self, Choices, Request};
use anvil_arithmetic::materials::thermal::{
    BENCH_C, HotAndCold, RANGE_C, REFERENCE_C, growth_nm_per_k, hot_and_cold, warmed_nm,
};
use anvil_arithmetic::measure::centring::{Centring, CentringError, centre};
use anvil_arithmetic::measure::fields::Typed;
use anvil_arithmetic::measure::limited_gaps::{LimitedGapsError, Placement, ShaftEnds, place};
use anvil_arithmetic::measure::turning_torque::{
    PullInput, PullReading, TorqueEnds, TorqueFound, TorqueGauge,
};
use anvil_arithmetic::measure::{Basis, MeasureError, Method, Reading, measure, torques};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock, u_of_tolerance};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::convert::TorqueUnit;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::Sign;
use anvil_arithmetic::units::working::{Line, Working};
use anvil_arithmetic::verdict::window::{Ends, Target, TargetRange, Window};
use anvil_arithmetic::verdict::{Call, call_of};
use rocket::post;
use rocket::serde::json::Json;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::fields::{gauge_of, one, or_nothing, some, window_of};
use super::measuring::MeasuredOut;
use super::sums::TorqueIn;
use crate::http::body::Body;
use crate::http::problem::{ApiResult, Problem};
use crate::processor::heavily;

/// The chance in window that a sum without a shop asks for.
const FLOOR: f64 = 0.95;
/// How many choices are shown.
const BEST: usize = 6;

/// Readings, a target, and the sizes there are.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PieceSumIn {
    /// The readings, in bench notation, with spaces, semicolons or lines between; preload below zero.
    pub readings: String,
    /// The step of the gauge's scale.
    pub step: String,
    /// How far the gauge may read off, ±; not counted where it is empty.
    #[serde(default)]
    pub error: String,
    /// The clearance aimed at; the middle of the window where it is empty.
    pub target: String,
    /// The tight limit; open where it is empty.
    pub low: String,
    /// The loose limit; open where it is empty.
    pub high: String,
    /// What is fitted now; nothing where it is empty.
    pub fitted: String,
    /// What a thicker piece does.
    pub effect: Effect,
    /// The sizes there are, as readings are written.
    pub sizes: String,
    /// How far a piece may be off its mark, ±.
    pub tolerance: String,
    /// The most pieces in a stack.
    pub most_pieces: u32,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// The piece wanted, and which of the sizes would do.
#[derive(Debug, Serialize, ToSchema)]
pub struct PieceSum {
    /// The clearance as read.
    pub read: Read,
    /// The thickness wanted.
    pub wanted: RequiredThickness,
    /// What is aimed at.
    pub aim: TargetRange,
    /// The window, where one was given.
    pub window: Option<Ends>,
    /// The choices among the sizes, where there are sizes and a window.
    pub choices: Option<Choices>,
}

/// The piece that readings and a target want, and which of the sizes typed would do.
#[utoipa::path(operation_id = "sums_piece", context_path = "/api", tag = "sums", request_body = PieceSumIn,
    responses((status = 200, body = PieceSum), (status = 422, body = Problem)))]
#[post("/calc/piece", data = "<asked>")]
pub fn piece_sum(asked: Body<PieceSumIn>) -> ApiResult<Json<PieceSum>> {
    let unit = asked.unit;
    let readings = list_input::lengths(&asked.readings, unit, Sign::Any)
        .map_err(|e| Problem::field("readings", e))?;
    let gauge = gauge_of(&asked.step, &asked.error, unit, |_| None)?;
    let read = piece::read(&readings, gauge).ok_or_else(|| {
        Problem::field("readings", "Type what was measured, such as 40.5 41 39.5.")
    })?;
    let window = window_of(&asked.low, &asked.high, unit)?;
    let target = some("target", &asked.target, unit, Sign::Any)?;
    let aim = match (target, window) {
        (Some(at), None) => TargetRange {
            from_nm: at.as_f64(),
            to_nm: at.as_f64(),
        },
        (target, Some(window)) => target
            .map_or(Target::Middle, Target::At)
            .aim(window)
            .map_err(|e| Problem::field("target", e))?,
        (None, None) => {
            return Err(Problem::field(
                "target",
                "Say the clearance aimed at, or the window.",
            ));
        }
    };
    let fitted = or_nothing("fitted", &asked.fitted, unit)?;
    let tolerance = or_nothing("tolerance", &asked.tolerance, unit)?;
    let u = u_of_tolerance(tolerance);
    let mut sizes = list_input::lengths(&asked.sizes, unit, Sign::NotNegative)
        .map_err(|e| Problem::field("sizes", e))?;
    sizes.sort_unstable();
    sizes.dedup();
    let stock: Vec<Stock> = sizes
        .into_iter()
        .map(|thickness_nm| Stock {
            thickness_nm,
            grade: Grade::default(),
            u_nm: u,
            quantity: asked.most_pieces,
            source: Availability::OnHand,
        })
        .collect();
    let choices = match window {
        Some(window) if !stock.is_empty() => {
            let request = Request {
                clearance_nm: read.clearance_nm,
                u_nm: read.u_nm,
                dof: read.dof,
                shape: None,
                fitted,
                u_fitted_nm: if fitted > Length::ZERO { u } else { 0.0 },
                effect: asked.effect,
                window,
                aim,
                required_probability: FLOOR,
                harm: None,
                least_pieces: 1,
                most_pieces: asked.most_pieces,
                best: BEST,
                stock: &stock,
            };
            let found = heavily(|| choose::choose(&request));
            let found = found.map_err(|e| Problem::of_choice(e, "sizes"));
            Some(found?)
        }
        _ => None,
    };
    Ok(Json(PieceSum {
        wanted: required_thickness(read.clearance_nm, aim, fitted, asked.effect),
        read,
        aim,
        window: window.map(Ends::from),
        choices,
    }))
}

/// A retainer's plate.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PinchIn {
    /// How far the plate stands off the case with the bearing held, in bench notation.
    pub off: String,
    /// The pinch wanted.
    pub pinch: String,
    /// The shim under the plate now; none where it is empty.
    pub fitted: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// The shim under a retainer's plate.
#[utoipa::path(operation_id = "sums_pinch", context_path = "/api", tag = "sums", request_body = PinchIn,
    responses((status = 200, body = RequiredThickness), (status = 422, body = Problem)))]
#[post("/calc/pinch", data = "<asked>")]
pub fn pinch(asked: Body<PinchIn>) -> ApiResult<Json<RequiredThickness>> {
    let unit = asked.unit;
    let length = |field, text: &str| one(field, text, unit, Sign::NotNegative);
    let fitted = if asked.fitted.trim().is_empty() {
        Length::ZERO
    } else {
        length("fitted", &asked.fitted)?
    };
    Ok(Json(piece::pinch(
        length("off", &asked.off)?,
        length("pinch", &asked.pinch)?,
        fitted,
    )))
}

/// A sum of one way of measuring, with its verdict where there is a window.
#[derive(Debug, Serialize, ToSchema)]
pub struct WaySum {
    /// What the way gives.
    #[serde(flatten)]
    pub measured: MeasuredOut,
    pub window: Option<Ends>,
}

fn way_sum(way: Method, taken: &[Reading], basis: &Basis<'_>, window: Option<Window>) -> WaySum {
    let found = measure(way, taken, basis);
    WaySum {
        window: window.map(Ends::from),
        measured: MeasuredOut {
            verdict: window.and_then(|w| found.verdict(w, basis.adjustments, None)),
            no_estimate: found.estimate.as_ref().err().map(ToString::to_string),
            estimate: found.estimate.ok(),
            detail: found.detail,
        },
    }
}

/// Floats felt with known shims in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KnownShimIn {
    /// A set-up a line: the shim, a colon, the float with it in.
    pub set_ups: String,
    /// The step of the gauge's scale.
    pub step: String,
    /// How far the gauge may read off, ±; not counted where it is empty.
    #[serde(default)]
    pub error: String,
    /// The tight limit; open where it is empty.
    pub low: String,
    /// The loose limit; open where it is empty.
    pub high: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// The clearance, float or preload, that floats with known shims in give.
#[utoipa::path(operation_id = "sums_known_shim", context_path = "/api", tag = "sums", request_body = KnownShimIn,
    responses((status = 200, body = WaySum), (status = 422, body = Problem)))]
#[post("/calc/known-shim", data = "<asked>")]
pub fn known_shim(asked: Body<KnownShimIn>) -> ApiResult<Json<WaySum>> {
    let unit = asked.unit;
    let taken: Vec<Reading> = list_input::set_ups(&asked.set_ups, unit)
        .map_err(|e| Problem::field("set_ups", e))?
        .into_iter()
        .map(Reading::KnownShim)
        .collect();
    // Without a gauge from the register, one reading is taken to scatter by a step.
    let gauge = gauge_of(&asked.step, &asked.error, unit, |step| {
        Some(Repeatability {
            s_nm: step.as_f64(),
            dof: None,
        })
    })?;
    let basis = Basis {
        gauge: Some(gauge),
        by: &[],
        ..Basis::default()
    };
    let window = window_of(&asked.low, &asked.high, unit)?;
    Ok(Json(way_sum(Method::KnownShim, &taken, &basis, window)))
}

/// The terms of a stack.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StackIn {
    /// A term a line: + or -, what it is, a colon, its length or lengths, ± its limits.
    pub terms: String,
    /// The tight limit; open where it is empty.
    pub low: String,
    /// The loose limit; open where it is empty.
    pub high: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// The clearance that a stack leaves, with each term's share in its uncertainty.
#[utoipa::path(operation_id = "sums_stack", context_path = "/api", tag = "sums", request_body = StackIn,
    responses((status = 200, body = WaySum), (status = 422, body = Problem)))]
#[post("/calc/stack", data = "<asked>")]
pub fn stack(asked: Body<StackIn>) -> ApiResult<Json<WaySum>> {
    let unit = asked.unit;
    let terms = list_input::terms(&asked.terms, unit).map_err(|e| Problem::field("terms", e))?;
    // Nothing here is measured, so that a gauge counts for nothing; the way asks for one all the same.
    let gauge = Gauge::new(Length::from_nm(1_000), Length::ZERO, None).map_err(Problem::server)?;
    let basis = Basis {
        gauge: Some(gauge),
        by: &[],
        terms: &terms,
        ..Basis::default()
    };
    let window = window_of(&asked.low, &asked.high, unit)?;
    Ok(Json(way_sum(Method::StackSum, &[], &basis, window)))
}

/// A clearance, and what lies side by side across it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HotIn {
    /// The clearance as it was measured, preload below zero.
    pub clearance: String,
    /// How warm it was at the bench, °C; 20 where it is left out.
    #[serde(default)]
    pub bench_c: Option<f64>,
    /// How warm the case gets, °C, where that is asked.
    #[serde(default)]
    pub case_c: Option<f64>,
    /// How warm what it holds gets, °C, where that is asked; as warm as the case where it is left out.
    #[serde(default)]
    pub inside_c: Option<f64>,
    /// The case along it: a material, a colon and a length a line.
    pub case: String,
    /// What it holds, written the same.
    pub inside: String,
    /// The tight limit, at 20 °C or at the temperatures asked for; open where it is empty.
    pub low: String,
    /// The loose limit there; open where it is empty.
    pub high: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// A clearance with its case and what it holds as warm as was asked.
#[derive(Debug, Serialize, ToSchema)]
pub struct HotThere {
    /// How warm the case is, °C.
    pub case_c: f64,
    /// How warm what it holds is, °C.
    pub inside_c: f64,
    /// The clearance then, in nanometres.
    pub clearance_nm: f64,
    /// Where that lies, where there is a window.
    pub lands: Option<Call>,
    /// What the window there comes to at 20 °C.
    pub cold: Option<Ends>,
}

/// A clearance hot and cold.
#[derive(Debug, Serialize, ToSchema)]
pub struct HotOut {
    /// Against temperature.
    #[serde(flatten)]
    pub line: HotAndCold,
    /// The window, at 20 °C or at the temperatures asked for.
    pub window: Option<Ends>,
    /// At the temperatures asked for.
    pub there: Option<HotThere>,
    /// The arithmetic.
    pub working: Working,
}

/// A clearance against temperature.
#[utoipa::path(operation_id = "sums_hot", context_path = "/api", tag = "sums", request_body = HotIn,
    responses((status = 200, body = HotOut), (status = 422, body = Problem)))]
#[post("/calc/hot", data = "<asked>")]
pub fn hot(asked: Body<HotIn>) -> ApiResult<Json<HotOut>> {
    let unit = asked.unit;
    let clearance = one("clearance", &asked.clearance, unit, Sign::Any)?;
    let side = |field: &'static str, text: &str| {
        list_input::materials(text, unit).map_err(|e| Problem::field(field, e))
    };
    let (case, inside) = (side("case", &asked.case)?, side("inside", &asked.inside)?);
    let (of_case, of_inside) = (
        growth_nm_per_k(case.into_iter()),
        growth_nm_per_k(inside.into_iter()),
    );
    let growth = of_case - of_inside;
    let bench_c = degrees("bench_c", asked.bench_c.unwrap_or(REFERENCE_C), BENCH_C)?;
    let cold_nm = clearance.as_f64() - growth * (bench_c - REFERENCE_C);
    let line = hot_and_cold(cold_nm, growth);
    let mut working = vec![
        Line::new()
            .text("case ")
            .number(of_case / 1000.0, 2)
            .text(" − inside ")
            .number(of_inside / 1000.0, 2)
            .text(" = ")
            .number(growth / 1000.0, 2)
            .text(" µm a kelvin"),
    ];
    if bench_c != REFERENCE_C {
        working.push(
            Line::new()
                .text("at 20 °C: ")
                .clearance(clearance.as_f64())
                .signed_length(cold_nm - clearance.as_f64())
                .text(format!(" (from {bench_c} °C) = "))
                .clearance(cold_nm),
        );
    }
    let window = window_of(&asked.low, &asked.high, unit)?;
    let there = match (asked.case_c, asked.inside_c) {
        (None, Some(_)) => {
            return Err(Problem::field(
                "case_c",
                "Say how warm the case gets too, such as 85: what it holds alone does not tell.",
            ));
        }
        (None, None) => None,
        (Some(case_c), inside_c) => {
            let case_c = degrees("case_c", case_c, RANGE_C)?;
            let inside_c = degrees("inside_c", inside_c.unwrap_or(case_c), RANGE_C)?;
            let (case_k, inside_k) = (case_c - REFERENCE_C, inside_c - REFERENCE_C);
            let grows = warmed_nm((of_case, case_k), (of_inside, inside_k));
            working.push(
                Line::new()
                    .text(format!("case {case_c} °C, inside {inside_c} °C: "))
                    .clearance(cold_nm)
                    .text(format!(" + {case_k} K × "))
                    .number(of_case / 1000.0, 2)
                    .text(format!(" µm − {inside_k} K × "))
                    .number(of_inside / 1000.0, 2)
                    .text(" µm = ")
                    .clearance(cold_nm + grows),
            );
            #[allow(clippy::cast_possible_truncation)] // no part grows out of a length
            let to_cold = grows.round() as i64;
            let back = |end: Option<Length>| end.map(|l| Length::from_nm(l.nm() - to_cold));
            Some(HotThere {
                case_c,
                inside_c,
                clearance_nm: cold_nm + grows,
                lands: window.map(|w| call_of(cold_nm + grows, 0.0, w)),
                cold: window.map(|w| Ends {
                    low_nm: back(w.low()),
                    high_nm: back(w.high()),
                }),
            })
        }
    };
    Ok(Json(HotOut {
        line,
        window: window.map(Ends::from),
        there,
        working,
    }))
}

/// A temperature that a box may have.
fn degrees(field: &'static str, c: f64, (coldest, hottest): (f64, f64)) -> ApiResult<f64> {
    if (coldest..=hottest).contains(&c) {
        Ok(c)
    } else {
        Err(Problem::field(
            field,
            format!("It is from {coldest} to {hottest} °C there: check the figure."),
        ))
    }
}

/// Pulls of a spring scale at a radius.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PullIn {
    /// The pulls, a line each or between semicolons; a bare figure is in newtons.
    pub pulls: String,
    /// The radius they pull at, in bench notation.
    pub radius: String,
    /// The step of the scale, newtons.
    pub step_n: f64,
    /// How far the scale may read off, ± newtons; not counted where it is left out.
    #[serde(default)]
    pub error_n: f64,
    /// The lowest turning torque, newton metres.
    #[serde(default)]
    pub low_n_m: Option<f64>,
    /// The highest.
    #[serde(default)]
    pub high_n_m: Option<f64>,
    /// The unit a bare radius is in.
    pub unit: Unit,
}

/// A torque from pulls.
#[derive(Debug, Serialize, ToSchema)]
pub struct PullOut {
    /// The torque with its verdict; without a window the verdict means nothing.
    pub found: TorqueFound,
    /// There is a window.
    pub judged: bool,
    /// In each unit.
    pub torques: Vec<TorqueIn>,
}

/// The turning torque that pulls at a radius give.
#[utoipa::path(operation_id = "sums_pull", context_path = "/api", tag = "sums", request_body = PullIn,
    responses((status = 200, body = PullOut), (status = 422, body = Problem)))]
#[post("/calc/pull", data = "<asked>")]
pub fn pull(asked: Body<PullIn>) -> ApiResult<Json<PullOut>> {
    let taken = asked
        .pulls
        .split([';', '\n'])
        .filter(|p| !p.trim().is_empty())
        .map(|force| {
            let typed = PullInput {
                force: force.to_owned(),
                radius: asked.radius.clone(),
            };
            typed.read(asked.unit).map(Reading::Pull).map_err(|e| {
                let field = if e.field == "force" { "pulls" } else { e.field };
                Problem::field(field, e)
            })
        })
        .collect::<ApiResult<Vec<Reading>>>()?;
    let Some(Reading::Pull(PullReading { radius_nm, .. })) = taken.first() else {
        return Err(Problem::field(
            "pulls",
            "Type what the scale read, such as 12 N; 12.5 N.",
        ));
    };
    if !(asked.step_n > 0.0 && asked.step_n <= 1e4) {
        return Err(Problem::field(
            "step_n",
            "The step of the scale is more than nothing, such as 0.5.",
        ));
    }
    let radius_m = radius_nm.as_f64() / 1e9;
    let gauge = TorqueGauge {
        resolution_n_m: asked.step_n * radius_m,
        permissible_error_n_m: asked.error_n * radius_m,
        repeatability_n_m: None,
    };
    let ends = TorqueEnds {
        low_n_m: asked.low_n_m,
        high_n_m: asked.high_n_m,
    };
    let judged = ends.low_n_m.is_some() || ends.high_n_m.is_some();
    let found = torques(&taken, gauge, ends).map_err(|e| match e {
        MeasureError::Torque(e) if e.field() == "gauge" => Problem::field("error_n", e),
        MeasureError::Torque(e) if e.field() == "window" => Problem::field("low_n_m", e),
        e => Problem::field("pulls", e),
    })?;
    let torques = TorqueUnit::ALL
        .into_iter()
        .map(|unit| TorqueIn {
            unit,
            figure: TorqueUnit::NewtonMetre.to(unit, found.torque_n_m),
        })
        .collect();
    Ok(Json(PullOut {
        found,
        judged,
        torques,
    }))
}

/// Gaps at each gear, and the shims at the shaft's ends.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CentringIn {
    /// A gear a line: its name, a colon, the gap at its left, a semicolon, the gap at its right, and after
    /// another semicolon `floats` or a weight.
    pub gears: String,
    /// The shims at the left end, in bench notation; none where it is empty.
    pub left: String,
    /// The shims at the right end.
    pub right: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// Where a shaft stands best for its selectors, and how the shims at its ends get it there.
#[utoipa::path(operation_id = "sums_centring", context_path = "/api", tag = "sums", request_body = CentringIn,
    responses((status = 200, body = Centring), (status = 422, body = Problem)))]
#[post("/calc/centring", data = "<asked>")]
pub fn centring(asked: Body<CentringIn>) -> ApiResult<Json<Centring>> {
    let unit = asked.unit;
    let gears = list_input::gaps(&asked.gears, unit).map_err(|e| Problem::field("gears", e))?;
    let shims = |field: &'static str, text: &str| {
        list_input::lengths(text, unit, Sign::NotNegative).map_err(|e| Problem::field(field, e))
    };
    let (left, right) = (shims("left", &asked.left)?, shims("right", &asked.right)?);
    centre(&gears, &left, &right).map(Json).map_err(|e| {
        let field = match e {
            CentringError::Shims | CentringError::NoShim => "left",
            _ => "gears",
        };
        Problem::field(field, e)
    })
}

/// Gaps with limits of their own, and the shims at the ends of one shaft or two.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LimitedGapsIn {
    /// The gaps, a line each: name, a colon, the gap; how it moves; the least; the most; its weight.
    pub gaps: String,
    /// The shims at the left of the first shaft, with spaces between.
    pub left: String,
    /// Those at its right.
    pub right: String,
    /// The shims at the left of the second shaft.
    #[serde(default)]
    pub left2: String,
    /// Those at its right.
    #[serde(default)]
    pub right2: String,
    /// The sizes in the drawer; nothing is taken out of it where it is empty.
    #[serde(default)]
    pub drawer: String,
    /// By how much a float may get less; not at all where it is empty.
    #[serde(default)]
    pub tighter: String,
    /// By how much a float may get more; not at all where it is empty.
    #[serde(default)]
    pub looser: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
}

/// As many of a size as anybody would lay at one end.
const OF_A_SIZE: u32 = 4;

/// Where one shaft or two stand so that the worst of their gaps has most to spare.
#[utoipa::path(operation_id = "sums_limited_gaps", context_path = "/api", tag = "sums", request_body = LimitedGapsIn,
    responses((status = 200, body = Placement), (status = 422, body = Problem)))]
#[post("/calc/limited-gaps", data = "<asked>")]
pub fn limited_gaps(asked: Body<LimitedGapsIn>) -> ApiResult<Json<Placement>> {
    let unit = asked.unit;
    let gaps =
        list_input::limited_gaps(&asked.gaps, unit).map_err(|e| Problem::field("gaps", e))?;
    let shims = |field: &'static str, text: &str| match text.trim() {
        "" => Ok(Vec::new()),
        text => {
            list_input::lengths(text, unit, Sign::NotNegative).map_err(|e| Problem::field(field, e))
        }
    };
    let by = |field: &'static str, text: &str| match text.trim() {
        "" => Ok(Length::ZERO),
        text => one(field, text, unit, Sign::NotNegative),
    };
    let drawer: Vec<(Length, u32)> = shims("drawer", &asked.drawer)?
        .into_iter()
        .map(|size| (size, OF_A_SIZE))
        .collect();
    let (tighter, looser) = (by("tighter", &asked.tighter)?, by("looser", &asked.looser)?);
    let ends = |left: Vec<Length>, right: Vec<Length>| ShaftEnds {
        left,
        right,
        drawer: drawer.clone(),
        tighter,
        looser,
    };
    let mut shafts = vec![ends(
        shims("left", &asked.left)?,
        shims("right", &asked.right)?,
    )];
    let second = (
        shims("left2", &asked.left2)?,
        shims("right2", &asked.right2)?,
    );
    if gaps.iter().any(|g| g.grows[1] != 0) {
        shafts.push(ends(second.0, second.1));
    }
    let found = heavily(|| {
        place(&gaps, &shafts).map_err(|e| {
            let field = match e {
                LimitedGapsError::NoShim => "left",
                LimitedGapsError::TooMany => "drawer",
                LimitedGapsError::Float => "tighter",
                _ => "gaps",
            };
            Problem::field(field, e)
        })
    })?;
    Ok(Json(found))
}
