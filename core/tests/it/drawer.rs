//! Drawers: where their gaps are, and what measuring a piece is worth to the choice.

use anvil_core::choose::required::Effect;
use anvil_core::choose::{Request, choose};
use anvil_core::stock::drawer::{
    Availability, Grade, Stock, range, u_of_micrometer, u_of_tolerance,
};
use anvil_core::units::length::Length;
use anvil_core::verdict::window::{TargetRange, Window};

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
