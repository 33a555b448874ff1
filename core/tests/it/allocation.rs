//! Sharing drawers out among many checks: against exhaustive search, and against a general
//! mixed-integer solver.

use anvil_arithmetic::allocate::{
    AllocateError, Allocation, Group, Moved, Objective, Place, allocate,
};
use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::choose::{Request, SizeCount, choose};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_references::allocation::{by_solver, by_what_is_left, exhaustive, options};
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;

use crate::budget::cases;

const MICRO: i64 = 1_000;

fn window(low: i64, high: i64) -> Window {
    Window::new(Some(Length::from_nm(low)), Some(Length::from_nm(high))).unwrap()
}

fn at(nm: i64) -> TargetRange {
    TargetRange {
        from_nm: nm as f64,
        to_nm: nm as f64,
    }
}

fn stock(sizes: &[(i64, u32)]) -> Vec<Stock> {
    let line = |&(nm, quantity): &(i64, u32)| Stock {
        thickness_nm: Length::from_nm(nm),
        grade: Grade::Marked,
        u_nm: 0.0,
        quantity,
        source: Availability::OnHand,
    };
    sizes.iter().map(line).collect()
}

fn place(most_pieces: u32) -> Place {
    Place {
        drawer: 0,
        fitted: Length::ZERO,
        u_fitted_nm: 0.0,
        least_pieces: 1,
        most_pieces,
    }
}

/// One check with one place, closed by its pieces.
fn single(clearance: i64, window: Window, aim: TargetRange, most_pieces: u32) -> Group {
    Group {
        places: vec![place(most_pieces)],
        checks: vec![Moved {
            clearance_nm: clearance as f64,
            u_nm: 0.0,
            dof: None,
            shape: None,
            window,
            aim,
            required_probability: 0.95,
            effects: vec![1.0],
            u_effects: 0.0,
            yields: false,
        }],
        pinned: None,
    }
}

fn all(groups: &[Group], drawers: &[Vec<Stock>]) -> Allocation {
    let shared = allocate(groups, drawers, |_| true).unwrap();
    assert!(shared.proven && shared.bound == shared.tally, "{shared:?}");
    // No piece twice, and the tally is that of the pieces.
    for (d, drawer) in drawers.iter().enumerate() {
        for stock in drawer {
            let of_size = |g: usize, p: usize| {
                let taken = shared.groups[g].as_ref().map(|t| &t.stacks[p]);
                let pieces = taken.into_iter().flatten();
                pieces
                    .filter(|p| p.thickness_nm == stock.thickness_nm)
                    .map(|p| p.count)
                    .sum::<u32>()
            };
            let there = drawer
                .iter()
                .filter(|s| s.thickness_nm == stock.thickness_nm)
                .map(|s| s.quantity)
                .sum::<u32>();
            let used: u32 = groups
                .iter()
                .enumerate()
                .flat_map(|(g, group)| (0..group.places.len()).map(move |p| (g, p)))
                .filter(|(g, p)| groups[*g].places[*p].drawer == d)
                .map(|(g, p)| of_size(g, p))
                .sum();
            assert!(used <= there, "{used} of {} there", stock.thickness_nm);
        }
    }
    let outcomes = shared.groups.iter().flatten().flat_map(|t| &t.outcomes);
    let inside: Vec<_> = outcomes
        .filter(|o| o.lands == anvil_arithmetic::verdict::Call::In)
        .collect();
    assert_eq!(shared.tally.inside, inside.len());
    assert_eq!(
        shared.tally.sure,
        inside.iter().filter(|o| o.reaches_floor).count()
    );
    let distance: f64 = inside.iter().map(|o| o.off_target_nm).sum();
    assert!((shared.tally.distance_nm - distance).abs() < 0.01);
    shared
}

fn same(found: Objective, right: (usize, usize, f64)) -> bool {
    (found.inside, found.sure) == (right.0, right.1) && (found.distance_nm - right.2).abs() < 0.01
}

/// Drawers of few sizes and checks that want much the same of them.
fn scarce(sizes: usize, checks: usize) -> impl Strategy<Value = (Vec<Stock>, Vec<Group>)> {
    let line = (40_i64..80, 1_u32..3, prop_oneof![Just(0.0), Just(3_000.0)]);
    let check = (
        60_i64..240,
        5_i64..25,
        -1.0..2.0_f64,
        1_u32..4,
        prop_oneof![Just(0.0), Just(2_000.0), Just(8_000.0)],
        prop_oneof![Just(None), Just(Some(3.0))],
        any::<bool>(),
    );
    (
        prop::collection::vec(line, 1..=sizes),
        prop::collection::vec(check, 1..=checks),
    )
        .prop_map(|(lines, checks)| {
            let mut drawer: Vec<Stock> = Vec::new();
            for (micro, quantity, u_nm) in lines {
                let thickness_nm = Length::from_nm(micro * MICRO);
                if drawer.iter().all(|s| s.thickness_nm != thickness_nm) {
                    drawer.push(Stock {
                        thickness_nm,
                        grade: Grade::Marked,
                        u_nm,
                        quantity,
                        source: Availability::OnHand,
                    });
                }
            }
            let groups = checks
                .into_iter()
                .map(|(c, half, aim, most, u_nm, dof, opens)| {
                    #[allow(clippy::cast_possible_truncation)] // a fraction of a window
                    let aim = (aim * (half * MICRO) as f64).round() as i64;
                    let mut group = single(c * MICRO, window(0, 2 * half * MICRO), at(aim), most);
                    let check = &mut group.checks[0];
                    check.u_nm = u_nm;
                    check.dof = dof;
                    if opens {
                        check.effects = vec![-1.0];
                        check.clearance_nm = -check.clearance_nm;
                        check.required_probability = 0.6;
                    }
                    group
                })
                .collect();
            (drawer, groups)
        })
}

/// Two places and three checks: the float between both ends, and a gear's place from each side.
fn shaft(left: i64, right: i64) -> Group {
    let check = |clearance: i64, half: i64, effects| Moved {
        clearance_nm: clearance as f64,
        u_nm: 1_000.0,
        dof: Some(4.0),
        shape: None,
        window: window(10 * MICRO, (10 + 2 * half) * MICRO),
        aim: at((10 + half) * MICRO),
        required_probability: 0.9,
        effects,
        u_effects: 0.0,
        yields: false,
    };
    Group {
        places: vec![place(1), place(2)],
        checks: vec![
            check(left + right, 8, vec![1.0, 1.0]),
            check(left, 12, vec![1.0, 0.0]),
            check(right - left + 30 * MICRO, 20, vec![-1.0, 1.0]),
        ],
        pinned: None,
    }
}

proptest! {
    #![proptest_config(cases(400))]

    #[test]
    fn no_way_to_share_out_is_better((drawer, groups) in scarce(5, 4)) {
        let slow: Vec<_> = groups.iter().map(|g| options(g, &drawer)).collect();
        let quantity: Vec<u32> = drawer.iter().map(|s| s.quantity).collect();
        let right = exhaustive(&slow, &quantity);
        let shared = all(&groups, &[drawer]);
        prop_assert!(same(shared.tally, right), "{:?} {right:?}", shared.tally);
    }

    #[test]
    fn coupled_checks_are_chosen_for_together(
        (drawer, mut groups) in scarce(4, 2),
        left in 55_i64..90, right in 55_i64..150,
    ) {
        groups.push(shaft(left * MICRO, right * MICRO));
        let slow: Vec<_> = groups.iter().map(|g| options(g, &drawer)).collect();
        let quantity: Vec<u32> = drawer.iter().map(|s| s.quantity).collect();
        let best = exhaustive(&slow, &quantity);
        let shared = all(&groups, &[drawer]);
        prop_assert!(same(shared.tally, best), "{:?} {best:?}", shared.tally);
    }

    #[test]
    fn one_check_alone_gets_what_the_chooser_gives_it((drawer, groups) in scarce(8, 1)) {
        let check = &groups[0].checks[0];
        let effect = if check.effects[0] > 0.0 { Effect::Closes } else { Effect::Opens };
        let found = choose(&Request { shape: None,
            clearance_nm: check.clearance_nm, u_nm: check.u_nm, dof: check.dof,
            fitted: Length::ZERO, u_fitted_nm: 0.0, effect,
            window: check.window, aim: check.aim, required_probability: check.required_probability, harm: None,
            least_pieces: 1, most_pieces: groups[0].places[0].most_pieces, best: 1, stock: &drawer,
        }).unwrap();
        let shared = all(&groups, std::slice::from_ref(&drawer));
        match &shared.groups[0] {
            Some(taken) if taken.outcomes[0].reaches_floor => {
                prop_assert!(found.ranked[0].reaches_floor);
                prop_assert!((found.ranked[0].off_target_nm - taken.outcomes[0].off_target_nm).abs() < 0.01);
            }
            // Below the required probability the chooser ranks by chance, and the sharing-out by distance.
            _ => prop_assert!(found.ranked.first().is_none_or(|c| !c.reaches_floor)),
        }
    }
}

/// Sixteen checks that want the same thirteen pieces: prices say little of them, and some are settled only by all that could
/// be left of the drawer.
#[test]
fn a_crowd_at_one_drawer_is_served_as_well_as_can_be() {
    let crowd = (
        prop::collection::vec(0_i64..9, 13),
        prop::collection::vec((600_i64..1_300, 15_i64..55, 1_u32..5), 16),
    )
        .prop_map(|(more, checks)| {
            let sizes: Vec<(i64, u32)> = (0..)
                .zip(more)
                .map(|(i, m)| ((300 + i * 25 + m) * MICRO, 1))
                .collect();
            let single = |(c, wide, most): (i64, i64, u32)| {
                let aim = at((45 + wide / 2) * MICRO);
                single(
                    c * MICRO,
                    window(45 * MICRO, (45 + wide) * MICRO),
                    aim,
                    most,
                )
            };
            (
                stock(&sizes),
                checks.into_iter().map(single).collect::<Vec<Group>>(),
            )
        });
    let mut runner = TestRunner::deterministic();
    let mut late = 0;
    for _ in 0..cases(300).cases {
        let (drawer, groups) = crowd.new_tree(&mut runner).unwrap().current();
        let shared = all(&groups, std::slice::from_ref(&drawer));
        // After so many branches all of it is looked at in one go.
        if shared.looked_at == 200 {
            let slow: Vec<_> = groups.iter().map(|g| options(g, &drawer)).collect();
            let right = by_what_is_left(&slow, &[1; 13]);
            assert!(same(shared.tally, right), "{:?} {right:?}", shared.tally);
            late += 1;
        }
    }
    assert!(late > 0, "none was hard");
}

/// Against the crate `microlp`, a general mixed-integer solver: the same optimum in every case.
#[test]
fn a_general_solver_finds_the_same_optimum() {
    let mut runner = TestRunner::deterministic();
    let mut contested = 0;
    for case in 0..300 {
        let (drawer, groups) = scarce(5, 9).new_tree(&mut runner).unwrap().current();
        let slow: Vec<_> = groups.iter().map(|g| options(g, &drawer)).collect();
        let quantity: Vec<u32> = drawer.iter().map(|s| s.quantity).collect();
        let right = by_solver(&slow, &quantity);
        let found = all(&groups, std::slice::from_ref(&drawer)).tally;
        let ours =
            1e6 * found.inside as f64 + 1e3 * found.sure as f64 - found.distance_nm / MICRO as f64;
        assert!(
            (ours - right).abs() < 1e-3,
            "case {case}: {ours}, the solver {right}"
        );
        let alone: usize = groups
            .iter()
            .map(|g| {
                all(std::slice::from_ref(g), std::slice::from_ref(&drawer))
                    .tally
                    .inside
            })
            .sum();
        contested += usize::from(alone > found.inside);
    }
    assert!(
        contested > 50,
        "the cases are too easy: {contested} of 300 contested"
    );
}

fn one(nm: i64) -> SizeCount {
    SizeCount {
        thickness_nm: Length::from_nm(nm),
        grade: Grade::Marked,
        count: 1,
    }
}

#[test]
fn a_pinned_choice_stays_and_the_rest_makes_do() {
    let drawer = stock(&[(1_000_000, 1), (1_050_000, 1)]);
    let wide = window(0, 200_000);
    let two = |pinned| {
        let mut groups = vec![
            single(1_100_000, wide, at(100_000), 1),
            single(1_100_000, wide, at(100_000), 1),
        ];
        groups[1].pinned = pinned;
        groups
    };
    let size = |shared: &Allocation, g: usize| {
        shared.groups[g]
            .as_ref()
            .map(|t| t.stacks[0][0].thickness_nm.nm())
    };
    let free = all(&two(None), std::slice::from_ref(&drawer));
    assert_eq!(free.tally.inside, 2);
    let held = all(
        &two(Some(vec![vec![one(1_000_000)]])),
        std::slice::from_ref(&drawer),
    );
    assert_eq!(
        (size(&held, 0), size(&held, 1)),
        (Some(1_050_000), Some(1_000_000))
    );
    // What is pinned has gone from the drawer: that check takes nothing, and says so.
    let gone = all(&two(Some(vec![vec![one(900_000)]])), &[drawer]);
    assert_eq!((size(&gone, 0), size(&gone, 1)), (Some(1_000_000), None));
}

#[test]
fn choosing_one_by_one_loses_a_check_that_sharing_keeps() {
    // The first takes the 1.00 that is nearest for it, and the second, with a narrow window, has none.
    let drawer = stock(&[(1_000_000, 1), (1_050_000, 1)]);
    let groups = [
        single(1_100_000, window(0, 150_000), at(100_000), 1),
        single(1_100_000, window(90_000, 110_000), at(100_000), 1),
    ];
    let shared = all(&groups, &[drawer]);
    assert_eq!(shared.tally.inside, 2);
    assert!((shared.tally.distance_nm - 50_000.0).abs() < 1e-6);
}

#[test]
fn stopped_early_it_says_how_far_from_the_best_it_may_be() {
    let mut runner = TestRunner::deterministic();
    for _ in 0..40 {
        let (drawer, groups) = scarce(9, 7).new_tree(&mut runner).unwrap().current();
        let whole = all(&groups, std::slice::from_ref(&drawer)).tally;
        let stopped = allocate(&groups, &[drawer], |_| false).unwrap();
        let key = |t: Objective| (t.inside, t.sure, -t.distance_nm);
        assert!(key(stopped.tally) <= (whole.inside, whole.sure, -whole.distance_nm + 0.01));
        assert!(key(stopped.bound) >= (whole.inside, whole.sure, -whole.distance_nm - 0.01));
    }
}

#[test]
fn bad_requests_are_refused_with_the_reason() {
    let drawer = stock(&[(1_000_000, 1)]);
    let sound = single(1_100_000, window(0, 200_000), at(100_000), 1);
    let refused = |change: &dyn Fn(&mut Group)| {
        let mut group = sound.clone();
        change(&mut group);
        allocate(&[group], std::slice::from_ref(&drawer), |_| true).unwrap_err()
    };
    assert_eq!(
        refused(&|g| g.checks[0].required_probability = 1.0),
        AllocateError::BadFloor
    );
    assert_eq!(
        refused(&|g| g.places[0].most_pieces = 0),
        AllocateError::BadPieces
    );
    assert_eq!(
        refused(&|g| g.places[0].drawer = 4),
        AllocateError::NoDrawer(5)
    );
    assert_eq!(
        refused(&|g| g.checks[0].clearance_nm = f64::NAN),
        AllocateError::NotFinite
    );
    assert_eq!(
        refused(&|g| g.checks[0].effects = vec![5.0]),
        AllocateError::BadEffects
    );
    assert_eq!(
        refused(&|g| g.checks[0].effects = vec![0.0]),
        AllocateError::BadEffects
    );
    let thin = allocate(&[sound], &[stock(&[(0, 1)])], |_| true).unwrap_err();
    assert_eq!(thin, AllocateError::ThinSize { drawer: 1, at: 1 });
    let nothing = allocate(&[], &[], |_| true).unwrap();
    assert!(nothing.proven && nothing.tally == Objective::default());
}
