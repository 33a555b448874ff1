//! Backlash at several teeth: mean, run-out and slope.

use anvil_arithmetic::measure::backlash::{Mesh, ToothInput};
use anvil_arithmetic::measure::{
    Basis, Detail, Method, MethodResult, Reading, ReadingInput, measure,
};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::window::Window;
use proptest::prelude::*;

fn nm(n: i64) -> Length {
    Length::from_nm(n)
}

fn typed(place: u16, play: &str, moved: &str) -> ReadingInput {
    ToothInput {
        place,
        play: play.to_owned(),
        moved: moved.to_owned(),
    }
    .into()
}

fn tooth(place: u16, play_nm: i64, moved_nm: i64) -> Reading {
    Reading::Tooth(anvil_arithmetic::measure::backlash::ToothReading {
        place,
        play_nm: nm(play_nm),
        moved_nm: nm(moved_nm),
    })
}

fn found(taken: &[Reading]) -> MethodResult {
    let s = Repeatability {
        s_nm: 4_000.0,
        dof: None,
    };
    let basis = Basis {
        gauge: Gauge::new(nm(10_000), nm(5_000), Some(s)).ok(),
        by: &[],
        mesh: Some(Mesh {
            places: 4,
            run_out_nm: nm(60_000),
            per_move: 0.7,
            u_per_move: 0.03,
        }),
        ..Basis::default()
    };
    measure(Method::AtTeeth, taken, &basis)
}

fn window() -> Window {
    Window::new(Some(nm(90_000)), Some(nm(210_000))).unwrap()
}

fn backlash(result: &MethodResult) -> &anvil_arithmetic::measure::backlash::BacklashFound {
    match &result.detail {
        Detail::Backlash { backlash } => backlash,
        other => panic!("{other:?}"),
    }
}

fn verdict(result: &MethodResult) -> anvil_arithmetic::verdict::Verdict {
    result.verdict(window(), &[], None).unwrap()
}

/// Worked by hand after JCGM 100: four places once each, `u² = s²/4 + r²/12 + e²/3`.
#[test]
fn the_mean_is_judged_and_its_doubt_is_that_of_four() {
    let taken = [140_000, 160_000, 150_000, 130_000];
    let taken: Vec<Reading> = (1..)
        .zip(taken)
        .map(|(p, play)| tooth(p, play, 0))
        .collect();
    let result = found(&taken);
    let estimate = result.estimate.as_ref().unwrap();
    assert!((estimate.clearance_nm - 145_000.0).abs() < 1e-9);
    let u = (4_000_f64.powi(2) / 4.0 + 1e8 / 12.0 + 2.5e7 / 3.0).sqrt();
    assert!((estimate.u_nm - u).abs() < 1e-6, "{} {u}", estimate.u_nm);
    let backlash = backlash(&result);
    assert!((backlash.run_out_nm - 30_000.0).abs() < 1e-9);
    assert_eq!(backlash.true_running, Call::In);
    assert_eq!(verdict(&result).call, Call::In);
}

#[test]
fn a_gear_that_runs_out_is_not_in_however_good_its_mean() {
    let taken: Vec<Reading> = (1..)
        .zip([90_000, 150_000, 210_000, 150_000])
        .map(|(p, play)| tooth(p, play, 0))
        .collect();
    let result = found(&taken);
    assert_eq!(backlash(&result).true_running, Call::Failed);
    assert_eq!(verdict(&result).call, Call::Failed);
    // At the limit it is open.
    let taken: Vec<Reading> = (1..)
        .zip([120_000, 150_000, 178_000, 150_000])
        .map(|(p, play)| tooth(p, play, 0))
        .collect();
    let result = found(&taken);
    assert_eq!(backlash(&result).true_running, Call::Inconclusive);
    assert_eq!(verdict(&result).call, Call::Inconclusive);
}

#[test]
fn one_tooth_tells_no_run_out() {
    let result = found(&[tooth(1, 140_000, 0), tooth(3, 150_000, 0)]);
    assert_eq!(
        result.estimate.unwrap_err().to_string(),
        "one tooth tells no run-out: still without a reading, place 2, 4"
    );
}

/// Straight bevel teeth, worked by hand: a ring gear moved by `x` along its shaft leaves its mate by `x sin δ` square to
/// the pitch cone, which opens `2 x sin δ tan α` at the pitch circle. 13 teeth drive 35 at a right angle, `tan δ = 35/13`,
/// `α` is 20°.
#[test]
fn two_set_ups_find_what_the_geometry_says() {
    let delta = (35.0_f64 / 13.0).atan();
    let m = 2.0 * delta.sin() * 20_f64.to_radians().tan();
    assert!((m - 0.682_4).abs() < 1e-4, "{m}");
    let shift = 180_000;
    #[allow(clippy::cast_possible_truncation)]
    let grown = (m * f64::from(shift)).round() as i64;
    let run_out = [-12_000, 9_000, 14_000, -11_000];
    let taken: Vec<Reading> = [(0, 0), (i64::from(shift), grown)]
        .iter()
        .flat_map(|(moved, more)| {
            (1..)
                .zip(run_out)
                .map(move |(p, off)| tooth(p, 120_000 + off + more, *moved))
        })
        .collect();
    let result = found(&taken);
    assert!((result.estimate.as_ref().unwrap().clearance_nm - 120_000.0).abs() < 1e-6);
    let backlash = backlash(&result);
    assert!(backlash.found_here);
    assert!(
        (backlash.per_move - m).abs() < 1e-5,
        "{}",
        backlash.per_move
    );
    // Two means of four, without what the gauge is off by in both: u(b2 − b1) / x.
    let u_b = (4_000_f64.powi(2) / 4.0 + 1e8 / 12.0).sqrt();
    let u = 2_f64.sqrt() * u_b / 180_000.0;
    assert!((backlash.u_per_move - u).abs() < 1e-9);
}

#[test]
fn set_ups_that_contradict_each_other_are_told() {
    let taken: Vec<Reading> = [(0, 150_000), (200_000, 140_000)]
        .iter()
        .flat_map(|(moved, play)| (1..=4).map(move |p| tooth(p, *play, *moved)))
        .collect();
    let why = found(&taken).estimate.unwrap_err().to_string();
    assert!(why.contains("did not grow"), "{why}");
    // One that is not finished counts for nothing yet.
    let begun = found(&taken[..6]);
    assert_eq!(backlash(&begun).moved_untried, [3, 4]);
    assert!(!backlash(&begun).found_here && begun.estimate.is_ok());
}

#[test]
fn what_cannot_be_is_refused_at_its_field() {
    let refused = |input: ReadingInput| {
        let fault = input.read(Unit::Mm).unwrap_err();
        (fault.field, fault.why)
    };
    let (field, why) = refused(typed(1, "0.14", "0"));
    assert!(
        field == "moved" && why.contains("same set-up again"),
        "{why}"
    );
    let (field, why) = refused(typed(1, "0.14", "20"));
    assert!(
        field == "moved" && why.contains("check the figure"),
        "{why}"
    );
    assert_eq!(refused(typed(0, "0.14", "")).0, "place");
    assert_eq!(refused(typed(2, "-0.14", "")).0, "play");
    let far = found(&[tooth(5, 140_000, 0)]).estimate.unwrap_err();
    assert!(far.to_string().contains("place 5"), "{far}");
}

proptest! {
    /// However it runs out, the mean is that of all places, and turning the gear round changes nothing.
    #[test]
    fn where_the_first_place_is_does_not_matter(
        plays in prop::array::uniform4(60_000..240_000_i64), turn in 0..4_usize,
    ) {
        let taken = |by: usize| -> Vec<Reading> {
            (0..4_u16).map(|p| tooth(p + 1, plays[(usize::from(p) + by) % 4], 0)).collect()
        };
        let (one, other) = (found(&taken(0)), found(&taken(turn)));
        let (a, b) = (one.estimate.as_ref().unwrap(), other.estimate.as_ref().unwrap());
        prop_assert!((a.clearance_nm - b.clearance_nm).abs() < 1e-6);
        prop_assert!((backlash(&one).run_out_nm - backlash(&other).run_out_nm).abs() < 1e-6);
        let mean = plays.iter().sum::<i64>() as f64 / 4.0;
        prop_assert!((a.clearance_nm - mean).abs() < 1e-6);
    }
}
