//! Against general-purpose libraries: `NumPy`'s least squares, the uncertainties package, `SciPy`'s distributions. Their
//! figures are in `reference/reference.json`, as `reference/make.py` makes them.

use std::sync::LazyLock;

use anvil_arithmetic::measure::depth_ring::{self, BarOn, DepthReading};
use anvil_arithmetic::measure::dial::{TravelReading, Trial, estimate_trials};
use anvil_arithmetic::measure::stack_sum::{self, Term};
use anvil_arithmetic::measure::turning_torque::{self, TorqueEnds, TorqueGauge};
use anvil_arithmetic::measure::{Basis, Detail, Method, Reading, measure};
use anvil_arithmetic::uncertainty::distribution::Distribution;
use anvil_arithmetic::uncertainty::estimate::{Bound, Component, Lies, Source};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::force::Torque;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::still::{Expected, judge_still};
use anvil_arithmetic::verdict::window::Window;
use serde::Deserialize;

#[derive(Deserialize)]
struct References {
    rings: Vec<Ring>,
    stacks: Vec<Stack>,
    tilts: Vec<Tilt>,
    brackets: Vec<Bracket>,
    torques: Vec<Torques>,
    still: Vec<Still>,
    quarters: Vec<Quarters>,
}

#[derive(Deserialize)]
struct Ring {
    of: u16,
    places: Vec<u16>,
    depths: Vec<i64>,
    mean: f64,
    rise: f64,
}

#[derive(Deserialize)]
struct Stack {
    terms: Vec<StackTerm>,
    sum: f64,
    u: f64,
}

#[derive(Deserialize)]
struct StackTerm {
    opens: bool,
    length: i64,
    tolerance: i64,
}

#[derive(Deserialize)]
struct Tilt {
    reading: i64,
    degrees: f64,
    #[serde(rename = "true")]
    true_nm: f64,
}

#[derive(Deserialize)]
struct Bracket {
    from: f64,
    to: f64,
    u: f64,
    low: f64,
    high: f64,
    chance: f64,
}

#[derive(Deserialize)]
struct Torques {
    readings: Vec<f64>,
    resolution: f64,
    error: f64,
    mean: f64,
    u: f64,
    dof: f64,
    expanded: f64,
}

#[derive(Deserialize)]
struct Still {
    expected: f64,
    u: f64,
    dof: Option<f64>,
    limit: f64,
    low_nm: i64,
    high_nm: i64,
    tight: f64,
    chance: f64,
}

#[derive(Deserialize)]
struct Quarters {
    turned: Vec<u8>,
    travels: Vec<i64>,
    #[serde(rename = "float")]
    float_nm: f64,
    rock: f64,
}

static REFERENCES: LazyLock<References> = LazyLock::new(|| {
    serde_json::from_str(include_str!("../reference/reference.json")).expect("the references")
});

fn near(found: f64, reference: f64, within: f64, what: &str) {
    assert!(
        (found - reference).abs() <= within,
        "{what}: {found} for {reference}"
    );
}

fn gauge(s_nm: Option<f64>) -> Gauge {
    let known = s_nm.map(|s_nm| Repeatability { s_nm, dof: None });
    Gauge::new(Length::from_nm(1), Length::ZERO, known).unwrap()
}

/// `NumPy`'s `linalg.lstsq`.
#[test]
fn rings_are_fitted_as_by_least_squares() {
    for ring in &REFERENCES.rings {
        let depth = |(place, nm): (&u16, &i64)| DepthReading {
            place: place + 1,
            of: ring.of,
            depth_nm: Length::from_nm(*nm),
            bar_nm: Length::ZERO,
            bar_on: BarOn::Face,
        };
        let depths: Vec<_> = ring.places.iter().zip(&ring.depths).map(depth).collect();
        let (found, fitted) = depth_ring::estimate(&depths, gauge(Some(2_000.0)), &[]).unwrap();
        near(found.clearance_nm, ring.mean, 1e-4, "mean");
        near(fitted.rise_nm, ring.rise, 1e-4, "rise");
    }
}

/// `NumPy`'s `linalg.lstsq`.
#[test]
fn rock_is_told_from_float_as_by_least_squares() {
    for quarters in &REFERENCES.quarters {
        let travel = |(turned, nm): (&u8, &i64)| {
            let reading = TravelReading {
                travel_nm: Length::from_nm(*nm),
                tilt_deg: 0.0,
                pull_n: None,
                turned: Some(*turned),
            };
            Reading::from(reading)
        };
        let turned = quarters.turned.iter().zip(&quarters.travels);
        let taken: Vec<Reading> = turned.map(travel).collect();
        let basis = Basis {
            gauge: Some(gauge(Some(1_500.0))),
            by: &[],
            ..Basis::default()
        };
        let found = measure(Method::DialTravel, &taken, &basis);
        near(
            found.estimate.unwrap().clearance_nm,
            quarters.float_nm,
            1e-4,
            "float",
        );
        let Detail::Ring { ring } = found.detail else {
            panic!("no rock");
        };
        near(ring.rise_nm / 2.0, quarters.rock, 1e-4, "rock");
    }
}

/// The uncertainties package, each term's limits as `t/√3`.
#[test]
fn stacks_add_up_with_their_doubt() {
    for stack in &REFERENCES.stacks {
        let term = |t: &StackTerm| Term {
            what: "a term".into(),
            opens: t.opens,
            length_nm: Length::from_nm(t.length),
            tolerance_nm: Some(Length::from_nm(t.tolerance)),
            measured_nm: Vec::new(),
            by: Vec::new(),
        };
        let terms: Vec<_> = stack.terms.iter().map(term).collect();
        let (found, _) = stack_sum::estimate(&terms, gauge(None), &[]).unwrap();
        near(found.clearance_nm, stack.sum, 1e-3, "sum");
        near(found.u_nm, stack.u, 1e-6 * stack.u, "u");
    }
}

/// The uncertainties package.
#[test]
fn a_tilt_is_taken_out() {
    for tilt in &REFERENCES.tilts {
        let trial = Trial {
            travel: Length::from_nm(tilt.reading),
            tilt_deg: tilt.degrees,
            ..Trial::default()
        };
        let found = estimate_trials(&[trial], gauge(Some(2_000.0)), &[]).unwrap();
        near(found.clearance_nm, tilt.true_nm, 1e-6, "travel");
    }
}

/// `SciPy`'s `integrate.quad` over its normal distribution.
#[test]
fn a_bracket_with_uncertain_ends_lies_in_a_window_so_often() {
    for bracket in &REFERENCES.brackets {
        let part = |from, u_nm| Component {
            from,
            u_nm,
            dof: None,
        };
        let width = bracket.to - bracket.from;
        let known = Distribution::of(&[
            part(Source::Bracket, width / 12_f64.sqrt()),
            part(Source::Scatter, bracket.u),
        ]);
        let middle = f64::midpoint(bracket.from, bracket.to);
        let chance = known.between(middle, bracket.low, bracket.high);
        near(chance, bracket.chance, 1e-6, "chance");
    }
}

/// `SciPy`'s `stats.t`.
#[test]
fn torques_have_their_interval() {
    for torques in &REFERENCES.torques {
        let taken: Vec<_> = torques.readings.iter().map(|t| Torque(*t)).collect();
        let gauge = TorqueGauge {
            resolution_n_m: torques.resolution,
            permissible_error_n_m: torques.error,
            repeatability_n_m: None,
        };
        let found = turning_torque::estimate(&taken, gauge, TorqueEnds::default()).unwrap();
        near(found.torque_n_m, torques.mean, 1e-12, "mean");
        near(found.u_n_m, torques.u, 1e-12, "u");
        near(found.dof.unwrap(), torques.dof, 1e-6, "dof");
        near(found.expanded_n_m, torques.expanded, 1e-6, "expanded");
    }
}

/// `SciPy`'s `stats.truncnorm`, and `integrate.quad` over its `stats.t`.
#[test]
fn what_does_not_move_is_cut_off_above_its_limit() {
    for still in &REFERENCES.still {
        let bound = Bound {
            limit_nm: still.limit,
            lies: Lies::Below,
        };
        let expected = Expected {
            clearance_nm: still.expected,
            u_nm: still.u,
            dof: still.dof,
        };
        let limit = |nm: i64| Some(Length::from_nm(nm));
        let window = Window::new(limit(still.low_nm), limit(still.high_nm)).unwrap();
        let verdict = judge_still(bound, &expected, window).unwrap();
        near(verdict.chance, still.chance, 1e-9, "chance");
        // What is left over lies on the other side of the window.
        let open = Window::new(limit(still.low_nm), None).unwrap();
        let above = judge_still(bound, &expected, open).unwrap();
        near(1.0 - above.chance, still.tight, 1e-9, "tight");
    }
}
