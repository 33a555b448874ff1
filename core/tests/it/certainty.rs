//! Estimates and verdicts against facts from outside.

use anvil_arithmetic::measure::dial::estimate;
use anvil_arithmetic::measure::known_shim::{self, KnownShimError, ShimReading};
use anvil_arithmetic::measure::{Adjustment, MeasureError};
use anvil_arithmetic::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};
use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::prediction::{Agreement, prediction_error};
use anvil_arithmetic::verdict::window::{Target, TargetError, Window, WindowError};
use anvil_arithmetic::verdict::{Call, Remedy, conformance_probability, judge};
use proptest::prelude::*;

fn lengths(nm: &[i64]) -> Vec<Length> {
    nm.iter().copied().map(Length::from_nm).collect()
}

fn gauge(repeatability: Option<f64>) -> Gauge {
    let repeatability = repeatability.map(|s_nm| Repeatability { s_nm, dof: None });
    Gauge::new(
        Length::from_nm(10_000),
        Length::from_nm(8_000),
        repeatability,
    )
    .unwrap()
}

fn window(low: i64, high: i64) -> Window {
    Window::new(Some(Length::from_nm(low)), Some(Length::from_nm(high))).unwrap()
}

/// Student's table, two-sided 95 %: JCGM 100:2008, table G.2.
#[test]
fn student_factors_are_those_of_the_table() {
    for (dof, factor) in [
        (1.0, 12.71),
        (2.0, 4.30),
        (3.0, 3.18),
        (4.0, 2.78),
        (5.0, 2.57),
        (10.0, 2.23),
        (20.0, 2.09),
        (50.0, 2.01),
        (100.0, 1.984),
    ] {
        assert!(
            (t95(Some(dof)) - factor).abs() < 0.006,
            "{dof}: {}",
            t95(Some(dof))
        );
    }
    assert!((t95(Some(9e4)) - t95(None)).abs() < 4e-5);
}

/// JCGM 100:2008, example H.1 (end gauge): the contributions of table H.1 in nanometres give
/// u = 32 nm, and 16 effective degrees of freedom (H.1.6, there cut to a whole number). The terms:
/// standard 25 (18), comparison of differences 9.7 (5.8 from 24, 3.9 from 5, 6.7 from 8),
/// expansion 2.9 (50) and temperature 16.6 (2).
#[test]
fn the_end_gauge_example_of_the_gum() {
    let part = |u_nm, dof| Component {
        from: Source::Scatter,
        u_nm,
        dof: Some(dof),
    };
    let comparison = combined_uncertainty(&[part(5.8, 24.0), part(3.9, 5.0), part(6.7, 8.0)]);
    assert!((comparison.0 - 9.7).abs() < 0.05);
    assert!((comparison.1.unwrap() - 25.6).abs() < 0.5);
    let (u, dof) = combined_uncertainty(&[
        part(25.0, 18.0),
        part(9.7, 25.6),
        part(2.9, 50.0),
        part(16.6, 2.0),
    ]);
    assert!((u - 31.7).abs() < 0.1, "{u}");
    assert!((dof.unwrap() - 16.7).abs() < 0.3, "{dof:?}");
}

/// NIST statistical reference data, `NumAcc2`, from memory: 1001 values alternating about 1.2 by
/// 0.1, mean 1.2 and deviation 0.1 exactly. Here in whole nanometres on a large offset, which
/// catches arithmetic that squares before it subtracts.
#[test]
fn nearly_equal_readings_on_a_large_offset_lose_nothing() {
    let mut values = vec![99_000_001_200];
    for _ in 0..500 {
        values.extend([99_000_001_100, 99_000_001_300]);
    }
    let found = estimate(&lengths(&values), gauge(None), &[]).unwrap();
    assert!((found.clearance_nm - 99_000_001_200.0).abs() < 1e-4);
    let own = found
        .parts
        .iter()
        .find(|p| p.from == Source::Scatter)
        .unwrap();
    assert!((own.u_nm * 1001_f64.sqrt() - 100.0).abs() < 1e-6, "{own:?}");
}

#[test]
fn scatter_is_the_gauges_until_the_readings_scatter_more() {
    let calm = estimate(
        &lengths(&[310_000, 312_000, 311_000]),
        gauge(Some(3_000.0)),
        &[],
    )
    .unwrap();
    assert_eq!(calm.parts[0].from, Source::Repeatability);
    assert_eq!(calm.dof, None);
    let wild = estimate(
        &lengths(&[300_000, 330_000, 310_000]),
        gauge(Some(3_000.0)),
        &[],
    )
    .unwrap();
    assert_eq!(
        (wild.parts[0].from, wild.parts[0].dof),
        (Source::Scatter, Some(2.0))
    );
    let single = estimate(&lengths(&[310_000]), gauge(Some(3_000.0)), &[]).unwrap();
    assert!(single.u_nm > 3_000.0);
    assert_eq!(
        estimate(&lengths(&[310_000]), gauge(None), &[]),
        Err(MeasureError::ScatterUnknown)
    );
    assert_eq!(
        estimate(&[], gauge(None), &[]),
        Err(MeasureError::NoReadings)
    );
    assert_eq!(
        estimate(&lengths(&[1, -1]), gauge(None), &[]),
        Err(MeasureError::Negative { trial: 2 })
    );
    // Readings all alike are still no surer than the gauge's step and error.
    let alike = estimate(&lengths(&[310_000; 3]), gauge(None), &[]).unwrap();
    assert!(
        (alike.u_nm - (10_000_f64.powi(2) / 12.0 + 8_000_f64.powi(2) / 3.0).sqrt()).abs() < 1e-9
    );
}

/// Common practice, no source: 3 thou in, 1 thou float says 2 thou preload.
#[test]
fn a_known_shim_taken_out_turns_float_into_preload() {
    let ring = Adjustment {
        what: "shim out".into(),
        by: Length::from_nm(-76_200),
        tolerance: Length::from_nm(1_000),
    };
    let found = estimate(&lengths(&[25_400, 25_400]), gauge(None), &[ring]).unwrap();
    assert!((found.clearance_nm - -50_800.0).abs() < 1e-9);
    assert!(found.parts.iter().any(|p| p.from == Source::Adjustment && (p.u_nm - 1_000.0 / 3_f64.sqrt()).abs() < 1e-9));
    let bad = Adjustment {
        what: "shim".into(),
        by: Length::ZERO,
        tolerance: Length::from_nm(-1),
    };
    assert!(matches!(
        estimate(&lengths(&[1]), gauge(Some(1.0)), &[bad]),
        Err(MeasureError::NegativeTolerance { .. })
    ));
}

/// One dial reads the floats of both set-ups off alike, so its error explains no difference between them: two that are
/// 20 µm apart contradict each other under a dial that may be ± 20 µm off and repeats to 1 µm.
#[test]
fn the_dial_that_reads_two_set_ups_explains_no_difference_between_them() {
    let micro = |n: i64| Length::from_nm(n * 1_000);
    let scatter = Repeatability {
        s_nm: 1_000.0,
        dof: None,
    };
    let dial = Gauge::new(micro(1), micro(20), Some(scatter)).unwrap();
    let with = |second: i64| {
        let floats = [(100, 50), (100, 50), (200, second), (200, second)];
        let taken = floats.map(|(shim, float)| ShimReading {
            shim_nm: micro(shim),
            float_nm: micro(float),
        });
        known_shim::estimate(&taken, dial, 0.0, &[]).0
    };
    let agree = with(151).unwrap();
    // The error itself stays in what the two come to together.
    assert!(agree.u_nm > 20_000.0 / 3_f64.sqrt(), "{agree:?}");
    assert!(matches!(
        with(170),
        Err(MeasureError::KnownShim(
            KnownShimError::Contradiction { .. }
        ))
    ));
}

fn known(clearance_nm: f64, u_nm: f64, dof: Option<f64>) -> Estimate {
    let part = Component {
        from: Source::Scatter,
        u_nm,
        dof,
    };
    Estimate {
        clearance_nm,
        u_nm,
        dof,
        readings: 3,
        spread_nm: 0.0,
        parts: vec![part],
        bracket: None,
        can_sign_off: true,
        gauge_turned: false,
        notes: vec![],
        working: vec![],
    }
}

/// ISO 14253-1: in only where the whole interval is inside, out only where the whole is outside.
#[test]
fn the_verdict_keeps_a_guard_band() {
    let w = window(100_000, 180_000);
    let call = |c: f64, u: f64| judge(&known(c, u, None), w).call;
    assert_eq!(call(140_000.0, 10_000.0), Call::In);
    assert_eq!(call(110_000.0, 10_000.0), Call::Inconclusive);
    assert_eq!(call(90_000.0, 10_000.0), Call::Inconclusive);
    assert_eq!(call(70_000.0, 10_000.0), Call::Tight);
    assert_eq!(call(210_000.0, 10_000.0), Call::Loose);
    // The same figures from three readings alone say far less.
    assert_eq!(
        judge(&known(140_000.0, 10_000.0, Some(2.0)), w).call,
        Call::Inconclusive
    );
    // The limits belong to the window.
    assert_eq!(call(100_000.0, 0.0), Call::In);
    let open = Window::new(Some(Length::from_nm(700_000)), None).unwrap();
    let verdict = judge(&known(5_000_000.0, 10_000.0, None), open);
    assert_eq!(
        (verdict.call, verdict.to_high_nm, verdict.to_low_nm),
        (Call::In, None, Some(4_300_000.0))
    );
}

#[test]
fn what_would_settle_it_is_worked_out() {
    let w = window(100_000, 180_000);
    let close = judge(&known(115_000.0, 8_000.0, Some(2.0)), w);
    let Some(Remedy::MoreReadings { more }) = close.settled_by else {
        panic!("{close:?}")
    };
    // With so many more the interval clears the limit, with one fewer it does not.
    let half_width = |more: usize| {
        let n = 3.0 + more as f64;
        t95(Some(n - 1.0)) * 8_000.0 * (3.0 / n).sqrt()
    };
    assert!(
        half_width(more) <= 15_000.0 && half_width(more - 1) > 15_000.0,
        "{more}"
    );
    let mut coarse = known(110_000.0, 8_000.0, None);
    coarse.parts[0].from = Source::Resolution;
    assert_eq!(judge(&coarse, w).settled_by, Some(Remedy::FinerGauge));
    assert_eq!(
        judge(&known(100_000.0, 1_000.0, None), w).settled_by,
        Some(Remedy::Judgement)
    );
}

#[test]
fn windows_and_targets_that_cannot_be_do_not_build() {
    assert_eq!(Window::new(None, None), Err(WindowError::BothOpen));
    assert!(matches!(
        Window::new(Some(Length::from_nm(2)), Some(Length::from_nm(1))),
        Err(WindowError::UpsideDown { .. })
    ));
    let open = Window::new(None, Some(Length::from_nm(10))).unwrap();
    assert_eq!(Target::Middle.aim(open), Err(TargetError::NeedsBothLimits));
    let w = window(0, 100);
    assert_eq!(
        Target::Between(Length::from_nm(50), Length::from_nm(20)).aim(w),
        Err(TargetError::UpsideDown)
    );
    let range = Target::Between(Length::from_nm(20), Length::from_nm(50))
        .aim(w)
        .unwrap();
    assert_eq!(
        (
            range.distance_nm(30.0),
            range.distance_nm(60.0),
            range.distance_nm(15.0)
        ),
        (0.0, 10.0, 5.0)
    );
}

/// Common practice, no source: 10.3 predicted, 8 measured again: in the window, and the difference
/// is more than both figures explain.
#[test]
fn a_stack_in_effect_thicker_than_its_pieces_is_noticed() {
    let thou = 25_400.0;
    let off = prediction_error(
        &known(8.0 * thou, 0.2 * thou, None),
        10.333 * thou,
        0.4 * thou,
        None,
    );
    assert_eq!(off.reading, Agreement::Tighter);
    let near = prediction_error(
        &known(10.0 * thou, 0.2 * thou, None),
        10.333 * thou,
        0.4 * thou,
        None,
    );
    assert_eq!(near.reading, Agreement::Agrees);
}

proptest! {
    /// The chance is one whole shared between below, inside and above.
    #[test]
    fn chances_add_up_to_one(c in -1e6..1e6_f64, u in 1.0..1e5_f64, dof in prop_oneof![Just(None), (1.0..40.0_f64).prop_map(Some)], low in -500_000_i64..0, width in 0_i64..500_000) {
        let (low, high) = (Length::from_nm(low), Length::from_nm(low + width));
        let of = |low, high| conformance_probability(c, u, dof, Window::new(low, high).unwrap());
        let total = of(None, Some(low)) + of(Some(low), Some(high)) + of(Some(high), None);
        prop_assert!((total - 1.0).abs() < 1e-9, "{total}");
    }

    #[test]
    fn order_and_offset_of_readings_do_not_matter(mut readings in prop::collection::vec(0_i64..1_000_000, 2..20), offset in 0_i64..1_000_000) {
        let plain = estimate(&lengths(&readings), gauge(None), &[]).unwrap();
        readings.reverse();
        let moved: Vec<i64> = readings.iter().map(|r| r + offset).collect();
        let moved = estimate(&lengths(&moved), gauge(None), &[]).unwrap();
        prop_assert!((moved.clearance_nm - plain.clearance_nm - offset as f64).abs() < 1e-6);
        prop_assert!((moved.u_nm - plain.u_nm).abs() < 1e-6);
    }
}

/// One more reading is spoken of where what it would do shows; the step and the error of a gauge stay as they are.
#[test]
fn one_more_reading_is_offered_where_it_shows() {
    let near = window(105_000, 180_000);
    let judged = |readings: &[i64], scatter: f64| {
        let found = estimate(&lengths(readings), gauge(Some(scatter)), &[]).unwrap();
        judge(&found, near)
    };
    let steady = judged(&[110_000, 110_000, 110_000], 500.0);
    assert_eq!(steady.call, Call::Inconclusive);
    assert_eq!(steady.one_more, None);
    let scattered = judged(&[110_000, 120_000], 20_000.0);
    assert_eq!(scattered.call, Call::Inconclusive);
    let one = scattered.one_more.unwrap();
    assert!(one.wrong_now - one.wrong_then > 0.01, "{one:?}");
}
