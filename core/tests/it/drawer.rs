//! Drawers: where their gaps are, and what measuring a piece is worth to the choice.

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Request, choose};
use anvil_arithmetic::stock::drawer::{
    Availability, Grade, Stock, range, u_of_micrometer, u_of_tolerance,
};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_rules::shop::drawers::{key_of, may_open, sizes};

fn um(micro: i64) -> Length {
    Length::from_nm(micro * 1_000)
}

fn gaps(places: &[i64], free: &[i64]) -> Vec<(i64, i64)> {
    let lengths = |sizes: &[i64]| sizes.iter().map(|s| um(*s)).collect::<Vec<_>>();
    let found = range(&lengths(places), &lengths(free));
    let gaps = found.gaps.iter();
    gaps.map(|g| (g.from_nm.nm() / 1_000, g.to_nm.nm() / 1_000))
        .collect()
}

#[test]
fn gaps_are_stretches_with_nothing_free() {
    // Steps as in DIN 988 (from memory): 0.10, 0.15, 0.20, 0.25, 0.30 mm.
    let series = [100, 150, 200, 250, 300];
    assert_eq!(gaps(&series, &series), []);
    assert_eq!(gaps(&series, &[300, 100, 150, 250]), [(150, 250)]);
    assert_eq!(gaps(&series, &[200, 250]), [(100, 200), (250, 300)]);
    assert_eq!(gaps(&series, &[]), [(100, 300)]);
    // A measured piece near the middle of a gap leaves none wide enough to call.
    assert_eq!(gaps(&series, &[100, 150, 203, 250, 300]), [(150, 203)]);
    assert_eq!(gaps(&series, &[100, 150, 200, 225, 250, 300]), []);
    // One size is no range, and none at all is none.
    assert_eq!(gaps(&[100], &[]), []);
    assert_eq!(gaps(&[], &[]), []);
}

#[test]
fn of_two_alike_the_one_known_better_is_chosen() {
    let line = |grade, u_nm| Stock {
        thickness_nm: um(1_250),
        grade,
        u_nm,
        quantity: 1,
        source: Availability::OnHand,
    };
    let stock = [
        line(Grade::Marked, u_of_tolerance(um(5))),
        line(Grade::Used, u_of_micrometer(um(1), um(2))),
    ];
    let found = choose(&Request {
        shape: None,
        clearance_nm: 1_350_000.0,
        u_nm: 1_000.0,
        dof: None,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        effect: Effect::Closes,
        window: Window::new(Some(um(90)), Some(um(110))).unwrap(),
        aim: TargetRange {
            from_nm: 100_000.0,
            to_nm: 100_000.0,
        },
        required_probability: 0.95,
        harm: None,
        least_pieces: 1,
        most_pieces: 2,
        best: 5,
        stock: &stock,
    })
    .unwrap();
    let best = &found.ranked[0];
    assert_eq!(best.pieces[0].grade, Grade::Used);
    // Resolution over root 12 and permissible error over root 3, root-sum-square
    // (JCGM 100:2008, 4.3.7 and 5.1.2), by hand.
    let u_piece = (1_000_f64.powi(2) / 12.0 + 2_000_f64.powi(2) / 3.0).sqrt();
    assert!((best.u_nm - 1_000_f64.hypot(u_piece)).abs() < 1e-6);
    // Both together are one of each, not two of either.
    let mut ranked = found.ranked.iter();
    let both = ranked.find(|c| c.total_nm == um(2_500)).unwrap();
    assert_eq!(both.pieces.len(), 2);
    assert!(both.pieces.iter().all(|p| p.count == 1));
}

fn listed(text: &str) -> Result<Vec<i64>, String> {
    let found = sizes("sizes", text, Unit::Mm).map_err(|e| e.to_string())?;
    Ok(found.iter().map(|l| l.nm() / 1_000).collect())
}

#[test]
fn sizes_are_written_as_catalogues_write_them() {
    assert_eq!(listed("1.05"), Ok(vec![1_050]));
    assert_eq!(
        listed("1,10 to 1,25 by 0,05; 1.40\n0.95 TO 1.05 BY 0.1"),
        Ok(vec![950, 1_050, 1_100, 1_150, 1_200, 1_250, 1_400])
    );
    // Overlapping ranges name a size once; one size alone is a range too.
    assert_eq!(
        listed("1 to 1.2 by 0.1; 1.1 to 1.3 by 0.1"),
        Ok(vec![1_000, 1_100, 1_200, 1_300])
    );
    assert_eq!(listed("2.2 to 2.2 by 0.1"), Ok(vec![2_200]));
    // A unit named once holds for its whole range, and two may be mixed.
    assert_eq!(
        listed("900 to 940 by 20 µm; 1.1 mm to 1.2 mm by 50 um"),
        Ok(vec![900, 920, 940, 1_100, 1_150, 1_200])
    );
    assert_eq!(listed("40 to 44 by 2 thou").map(|s| s.len()), Ok(3));
}

#[test]
fn a_list_that_is_none_says_what_would_be_right() {
    for (text, said) in [
        ("", "write the sizes"),
        (
            "1.10 to 1.40",
            "say in what steps, such as 1.10 to 1.25 by 0.05",
        ),
        ("1.10 to 1.40 by 0.07", "come to 1.38 mm, and not to 1.4 mm"),
        ("1.40 to 1.10 by 0.05", "a range goes up"),
        ("1.10 to 1.40 by 0", "steps of more than nothing"),
        ("1.10 by 0.05", "by"),
        ("0 to 1 by 0.5", "thicker than nothing"),
        ("1 to 60 by 0.0001", "up to 400"),
        ("99 to 101 by 1", "no selective piece"),
        ("1.2o", "1.2o"),
    ] {
        let refused = listed(text).unwrap_err();
        assert!(refused.contains(said), "{text}: {refused}");
    }
}

#[test]
fn a_new_drawer_has_a_name_limits_and_a_key_of_its_own() {
    assert_eq!(may_open("Bus shims", "0.004", Unit::Mm).unwrap(), um(4));
    assert!(may_open(" ", "0.004", Unit::Mm).is_err());
    assert!(may_open(&"a".repeat(61), "0.004", Unit::Mm).is_err());
    assert!(may_open("Bus shims", "-0.004", Unit::Mm).is_err());
    let none = |_: &str| false;
    assert_eq!(key_of("Bus shims, 33 mm", none), "bus-shims-33-mm");
    assert_eq!(key_of("  (Øre)  ", none), "re");
    assert_eq!(key_of("…", none), "drawer");
    assert_eq!(
        key_of("Bus shims", |k| k == "bus-shims" || k == "bus-shims-2"),
        "bus-shims-3"
    );
    let long = key_of(&"spacer ".repeat(20), |k| !k.ends_with("-12"));
    assert!(long.len() <= 40 && long.ends_with("-12"), "{long}");
}
