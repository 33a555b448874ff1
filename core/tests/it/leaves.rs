//! Leaves that all go: what they say without a figure.

use anvil_arithmetic::measure::feeler::{Fit, LeafReading, Try, estimate};
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::uncertainty::gauge::Gauge;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use anvil_arithmetic::verdict::{Call, judge};
use anvil_rules::job::check::record::Record;
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::sheet::CheckKind;

use crate::common::{blank, case, sheet, with_reading};

fn leaf(nm: i64, fit: Fit) -> Reading {
    Reading::Leaf(LeafReading {
        leaves_nm: vec![Length::from_nm(nm)],
        fit,
    })
}

fn tried(key: &str, leaves: &[(i64, Fit)]) -> Record {
    let mut record = leaves.iter().fold(blank(key), |record, (nm, fit)| {
        with_reading(record, Method::Feeler, leaf(*nm, *fit))
    });
    for reading in &mut record.readings {
        reading.gauge_key = Some("leaves".into());
    }
    record
}

#[test]
fn a_leaf_thicker_than_the_loose_limit_that_goes_is_loose_before_any_is_refused() {
    let sheet = sheet("tolvane-t5");
    // A check with no piece to choose, and one with.
    for key in ["second-side", "input-float"] {
        let spec = Spec::of(&sheet, key).unwrap();
        let high = spec.length.unwrap().0.high().unwrap().nm();
        let record = tried(key, &[(high + 50_000, Fit::Goes)]);
        let found = record.assess(&spec).unwrap();
        assert_eq!(found.call, Some(Call::Loose), "{key}");
        assert_eq!(found.chance(), Some(0.0));
        assert!(found.estimate.is_none(), "there is no figure");
        let verdict = found.verdict.as_ref().unwrap();
        let shift: i64 = spec
            .check
            .final_adjustments()
            .iter()
            .map(|a| a.by.nm())
            .sum();
        assert_eq!(verdict.to_high_nm, Some(-(50_000 + shift) as f64));
        assert_eq!(
            case(rules::may_choose(&record, &found, &[])),
            "not-measured"
        );
        // What is out is signed with a reason only.
        assert_eq!(case(rules::may_sign(&record, &spec, &found, "")), "reason");
        assert_eq!(case(rules::may_sign(&record, &spec, &found, "worn")), "yes");
        // Where a piece is to be chosen, its figure is still to be measured.
        let waits = if spec.is_adjustable() {
            Phase::Measure
        } else {
            Phase::Sign
        };
        assert_eq!(found.phase, waits, "{key}");
    }
}

#[test]
fn a_leaf_in_the_window_that_goes_says_nothing_yet() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "second-side").unwrap();
    let window = spec.length.unwrap().0;
    for nm in [window.low().unwrap().nm(), window.high().unwrap().nm()] {
        let record = tried("second-side", &[(nm, Fit::Goes)]);
        let found = record.assess(&spec).unwrap();
        assert_eq!((found.call, found.phase), (None, Phase::Measure));
        assert_eq!(
            case(rules::may_sign(&record, &spec, &found, "x")),
            "not-measured"
        );
    }
}

#[test]
fn a_plate_that_stands_off_too_far_is_pinched_too_hard() {
    let sheet = sheet("brannoch-r2");
    let mut checks = sheet.checks.iter();
    let key = checks
        .find(|c| c.kind == CheckKind::RetainerPinch)
        .unwrap()
        .key
        .clone();
    let spec = Spec::of(&sheet, &key).unwrap();
    let low = spec.length.unwrap().0.low().unwrap().nm();
    let found = tried(&key, &[(-low + 200_000, Fit::Goes)])
        .assess(&spec)
        .unwrap();
    assert_eq!(found.call, Some(Call::Tight));
}

/// Leaves of ± 3 µm, 20 µm apart: the sum of two even errors reaches past the bracket where
/// `(10 + 3 − x)² / (4 · 10 · 3)` is a fortieth (closed form of the trapezium).
#[test]
fn the_leaves_own_error_widens_what_they_say() {
    let tries = [(100_000, Fit::Goes), (120_000, Fit::Refused)].map(|(size, fit)| Try {
        size: Length::from_nm(size),
        fit,
    });
    let found = |error| {
        let set = Gauge::new(Length::from_nm(10_000), Length::from_nm(error), None).unwrap();
        estimate(&tries, set, &[]).unwrap()
    };
    let right = 13_000.0 - (0.025 * 8.0 * 10_000.0 * 3_000.0_f64).sqrt();
    let wide = found(3_000).expanded_uncertainty_nm();
    assert!((wide - right).abs() < 1.0, "{wide} and {right}");
    // True leaves say all of the bracket, and no more.
    assert!((found(0).expanded_uncertainty_nm() - 10_000.0).abs() < 1e-6);
    // Half of it lies over a limit in its middle; at a leaf's size no more than its error can.
    let chance = |low: i64, error| {
        let window = Window::new(Some(Length::from_nm(low)), None).unwrap();
        judge(&found(error), window).chance
    };
    assert!((chance(110_000, 3_000) - 0.5).abs() < 1e-9);
    assert!((chance(105_000, 0) - 0.75).abs() < 1e-9);
    let at_a_leaf = chance(100_000, 3_000);
    assert!(
        (at_a_leaf - (1.0 - 0.75 / 20.0)).abs() < 1e-6,
        "{at_a_leaf}"
    );
}
