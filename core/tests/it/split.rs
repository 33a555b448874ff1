//! Total and split: the shims at both ends of a shaft chosen at once, against exhaustive search and against a general
//! mixed-integer solver.

use std::time::Duration;

use anvil_arithmetic::allocate::{Allocation, Group, allocate};
use anvil_arithmetic::stock::drawer::Stock;
use anvil_arithmetic::verdict::Call;
use proptest::prelude::*;

use crate::budget::cases;
use anvil_references::two_ends::{MICRO, axle, by_solver, line};

/// Every stack of a drawer: how many of each line.
fn stacks(drawer: &[Stock], most: u32) -> Vec<Vec<u32>> {
    let mut found: Vec<Vec<u32>> = vec![vec![]];
    for stock in drawer {
        let more = found.iter().flat_map(|counts| {
            let used: u32 = counts.iter().sum();
            (0..=stock.quantity.min(most - used)).map(move |n| [&counts[..], &[n]].concat())
        });
        found = more.collect();
    }
    found.retain(|counts| counts.iter().any(|n| *n > 0));
    found
}

/// How good it is, the first figure first: checks inside, whether the bearing is where only one is, sure ones, and less
/// distance.
type Worth = (usize, bool, usize, i64);

fn worth(allocation: &Allocation) -> Worth {
    let Some(taken) = &allocation.groups[0] else {
        return (0, false, 0, 0);
    };
    let inside: Vec<_> = taken
        .outcomes
        .iter()
        .filter(|o| o.lands == Call::In)
        .collect();
    let distance: f64 = inside.iter().map(|o| o.off_target_nm).sum();
    #[allow(clippy::cast_possible_truncation)] // no distance at a bench is so long
    let distance = distance.round() as i64;
    (
        inside.len(),
        taken.outcomes[0].lands == Call::In,
        inside.iter().filter(|o| o.reaches_floor).count(),
        -distance,
    )
}

/// The best of every pair of stacks, each predicted on its own.
fn exhaustive(group: &Group, drawers: &[Vec<Stock>]) -> Worth {
    let most = group.places[0].most_pieces;
    let each = |p: usize| {
        let drawer = &drawers[group.places[p].drawer];
        let all = stacks(drawer, most);
        let named = move |counts: Vec<u32>| {
            let of = |n: &u32, s: &Stock| anvil_arithmetic::choose::SizeCount {
                thickness_nm: s.thickness_nm,
                grade: s.grade,
                count: *n,
            };
            let lines = counts.iter().zip(drawer).filter(|(n, _)| **n > 0);
            lines.map(|(n, s)| of(n, s)).collect::<Vec<_>>()
        };
        all.into_iter().map(named).collect::<Vec<_>>()
    };
    let (left, right) = (each(0), each(1));
    let mut best = (0, false, 0, 0);
    for l in &left {
        for r in &right {
            let pinned = Group {
                pinned: Some(vec![l.clone(), r.clone()]),
                ..group.clone()
            };
            let found = worth(&allocate(&[pinned], drawers, |_| true).unwrap());
            if found.0 > 0 {
                best = best.max(found);
            }
        }
    }
    best
}

proptest! {
    #![proptest_config(cases(160))]

    #[test]
    fn no_pair_of_stacks_is_better(
        left in prop::collection::vec((300..900_i64, 1..3_u32), 1..6),
        right in prop::collection::vec((300..900_i64, 1..3_u32), 1..6),
        total in 700..2_600_i64, split in -500..900_i64, per_move in 0.2..1.6_f64,
        most in 1..3_u32, one_drawer: bool,
    ) {
        let mut drawers: Vec<Vec<Stock>> = [left, right].map(|sizes| {
            let mut sizes = sizes;
            sizes.sort_unstable();
            sizes.dedup_by_key(|s| s.0);
            sizes.into_iter().map(|(um, quantity)| line(um * MICRO, quantity)).collect()
        }).to_vec();
        if one_drawer {
            drawers.truncate(1);
        }
        let group = axle((total * MICRO) as f64, (split * MICRO) as f64, per_move, most, one_drawer);
        let found = allocate(std::slice::from_ref(&group), &drawers, |_| true).unwrap();
        prop_assert!(found.proven);
        let (ours, right) = (worth(&found), exhaustive(&group, &drawers));
        prop_assert_eq!((ours.0, ours.1, ours.2), (right.0, right.1, right.2));
        prop_assert!((ours.3 - right.3).abs() <= 1, "{} and {}", ours.3, right.3);
    }
}

/// Against the crate `microlp`: the same least distance where both windows can be met.
#[test]
fn a_general_solver_finds_no_less() {
    for case in 0..6_i64 {
        let drawer = |from: i64| -> Vec<Stock> {
            let size = |i: i64| line(from + i * 37_000 + (i * 7_919 + case * 991) % 9_000, 2);
            (0..9).map(size).collect()
        };
        let drawers = [drawer(410_000), drawer(460_000)];
        let total = 1_160_000.0 + 13_700.0 * case as f64;
        let group = axle(total, 131_000.0, 0.69, 2, false);
        let found = allocate(std::slice::from_ref(&group), &drawers, |_| true).unwrap();
        assert!(found.proven && found.tally.inside == 2, "{found:?}");
        let solver = by_solver(&group, &drawers, Duration::from_mins(1)).unwrap();
        let ours = found.tally.distance_nm / 1_000.0;
        assert!(
            (ours - solver).abs() < 1e-3,
            "case {case}: {ours}, the solver {solver}"
        );
    }
}

/// The bearing before the mesh, where only one of them can be met.
#[test]
fn the_bearing_comes_before_the_mesh() {
    let drawers = [
        vec![line(500_000, 1)],
        vec![line(500_000, 1), line(900_000, 1)],
    ];
    // With 0.50 and 0.50 the bearing has 0.04 and the mesh 0.30; with 0.50 and 0.90 the mesh is met, the bearing far off.
    let group = axle(1_040_000.0, 300_000.0, 0.9, 1, false);
    let found = allocate(&[group], &drawers, |_| true).unwrap();
    let taken = found.groups[0].as_ref().unwrap();
    assert_eq!(
        taken.outcomes.iter().map(|o| o.lands).collect::<Vec<_>>(),
        [Call::In, Call::Loose]
    );
    assert!(found.proven);
}

/// What is not known of the slope counts by how far the ring gear is moved.
#[test]
fn the_doubt_of_the_slope_counts_by_the_move() {
    let drawers = [vec![line(900_000, 1)], vec![line(400_000, 1)]];
    let group = axle(1_340_000.0, 295_000.0, 0.7, 1, false);
    let found = allocate(&[group], &drawers, |_| true).unwrap();
    let mesh = &found.groups[0].as_ref().unwrap().outcomes[1];
    // Moved by (0.9 − 0.4) × 0.35 = 0.175 mm outward: 295 + 175 µm.
    assert!((mesh.predicted_nm - 470_000.0).abs() < 0.01, "{mesh:?}");
    let pieces = 2.0 * (0.35_f64 * 700.0).powi(2);
    let by_hand = (1_500.0_f64.powi(2) + pieces + (0.03 * 175_000.0_f64).powi(2)).sqrt();
    assert!(
        (mesh.u_nm - by_hand).abs() < 0.01,
        "{} and {by_hand}",
        mesh.u_nm
    );
}
