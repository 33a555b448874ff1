//! Selector centring against trying everything.

use anvil_arithmetic::calculators::list_input::gaps;
use anvil_arithmetic::measure::centring::{CentringError, Gaps, MOST_SHIMS, centre};
use anvil_arithmetic::units::length::{Length, Unit};
use proptest::prelude::*;

fn um(um: i64) -> Length {
    Length::from_nm(um * 1_000)
}

fn gear(name: &str, left: i64, right: i64, weight: u32) -> Gaps {
    Gaps {
        name: name.into(),
        left: um(left),
        right: um(right),
        weight,
    }
}

#[test]
fn a_shaft_with_three_gears_by_hand() {
    // Offsets −0.2, +0.1 and, floating, 0.0: between −0.2 (weighs 1) and 0.0 (weighs 2) the lines cross at
    // (−0.2 + 0) / 3 = −0.067, 0.133 high; between −0.2 and +0.1 at −0.05, 0.15 high: that decides.
    let gears = [
        gear("second", 900, 1_300, 1),
        gear("third", 800, 600, 1),
        gear("fourth", 700, 700, 2),
    ];
    let found = centre(&gears, &[um(500), um(100)], &[um(150)]).unwrap();
    assert!((found.best_shift_nm + 50_000.0).abs() < 1e-6);
    assert!((found.best_worst_nm - 150_000.0).abs() < 1e-6);
    assert!((found.worst_now_nm - 200_000.0).abs() < 1e-6);
    // 0.10 to the right for 0.15 to the left: 0.05 thicker at the left, so 0.05 to the right.
    let first = &found.arrangements[0];
    assert_eq!(first.shift_nm, um(-50));
    assert_eq!(first.left_nm, [um(500), um(150)]);
    assert_eq!(first.right_nm, [um(100)]);
    assert!((first.worst_nm - 150_000.0).abs() < 1e-6);
    // As they lie now is among them, whatever its place.
    assert!(
        found
            .arrangements
            .iter()
            .any(|a| a.shift_nm == Length::ZERO)
    );
    assert!((found.gears[0].then_nm + 150_000.0).abs() < 1e-6);
}

#[test]
fn a_gear_that_touches_is_named_and_bad_gaps_are_refused() {
    let found = centre(&[gear("first", 100, 2_000, 1)], &[], &[um(300)]).unwrap();
    let now = found
        .arrangements
        .iter()
        .find(|a| a.shift_nm == Length::ZERO)
        .unwrap();
    assert!(now.fouls.is_empty());
    let tight = centre(&[gear("first", 0, 200, 1)], &[], &[]).unwrap();
    assert_eq!(tight.arrangements[0].fouls, ["first"]);
    assert_eq!(centre(&[], &[], &[]), Err(CentringError::Gears));
    let bad = |gear, left: &[Length]| centre(&[gear], left, &[]).unwrap_err();
    assert!(matches!(
        bad(gear("a", -1, 5, 1), &[]),
        CentringError::Gap(_)
    ));
    assert!(matches!(
        bad(gear("a", 1, 5, 0), &[]),
        CentringError::Weight(_)
    ));
    assert_eq!(
        bad(gear("a", 1, 5, 1), &[Length::ZERO]),
        CentringError::NoShim
    );
    assert_eq!(
        bad(gear("a", 1, 5, 1), &[um(1); MOST_SHIMS + 1]),
        CentringError::Shims
    );
    for (text, says) in [
        ("second 0.9; 1.3", "colon"),
        ("second: 0.9", "semicolon"),
        ("second: 0.9; 1.3; heavy", "floats"),
        ("second: 0.9; -1", "-1"),
    ] {
        let why = gaps(text, Unit::Mm).unwrap_err().to_string();
        assert!(why.contains(says), "{text}: {why}");
    }
}

fn gears() -> impl Strategy<Value = Vec<Gaps>> {
    let one = (0_i64..2_000, 0_i64..2_000, 1_u32..5).prop_map(|(l, r, w)| gear("g", l, r, w));
    prop::collection::vec(one, 1..7)
}

/// Every way of putting shims left or right, one shim at a time; what is at the left is counted up.
fn totals(shims: &[Length]) -> Vec<i64> {
    shims.iter().fold(vec![0], |totals, shim| {
        totals.iter().flat_map(|t| [*t, *t + shim.nm()]).collect()
    })
}

fn worst(gears: &[Gaps], x: f64) -> f64 {
    gears
        .iter()
        .map(|g| f64::from(g.weight) * ((g.left.as_f64() - g.right.as_f64()) / 2.0 - x).abs())
        .fold(0.0, f64::max)
}

proptest! {
    #[test]
    fn the_best_sharing_out_is_that_of_trying_all(
        gears in gears(),
        left in prop::collection::vec(50_i64..600, 0..5),
        right in prop::collection::vec(50_i64..600, 0..4),
    ) {
        let left: Vec<Length> = left.into_iter().map(um).collect();
        let right: Vec<Length> = right.into_iter().map(um).collect();
        let found = centre(&gears, &left, &right).unwrap();
        let all: Vec<Length> = left.iter().chain(&right).copied().collect();
        let now: i64 = left.iter().map(|s| s.nm()).sum();
        let least = totals(&all)
            .into_iter()
            .map(|at_left| worst(&gears, (now - at_left) as f64))
            .fold(f64::INFINITY, f64::min);
        let first = &found.arrangements[0];
        prop_assert!((first.worst_nm - least).abs() < 1e-6, "{} {least}", first.worst_nm);
        prop_assert!((worst(&gears, first.shift_nm.as_f64()) - first.worst_nm).abs() < 1e-6);
        for way in &found.arrangements {
            // No shim is lost or made, and the float is kept.
            let mut there: Vec<Length> = way.left_nm.iter().chain(&way.right_nm).copied().collect();
            let mut here = all.clone();
            there.sort_unstable();
            here.sort_unstable();
            prop_assert_eq!(there, here);
            let at_left: i64 = way.left_nm.iter().map(|s| s.nm()).sum();
            prop_assert_eq!(way.shift_nm.nm(), now - at_left);
        }
    }

    #[test]
    fn no_move_at_all_is_better_than_the_best(gears in gears(), x in -2_000_000.0..2_000_000.0_f64) {
        let found = centre(&gears, &[], &[]).unwrap();
        prop_assert!(worst(&gears, x) >= found.best_worst_nm - 1e-6);
        prop_assert!((worst(&gears, found.best_shift_nm) - found.best_worst_nm).abs() < 1e-6);
    }
}
