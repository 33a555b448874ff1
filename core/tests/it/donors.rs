//! The best box from several dismantled ones: against trying all boxes, and against a general mixed-integer solver.

use std::time::Duration;

use anvil_arithmetic::allocate::Place;
use anvil_arithmetic::allocate::donors::{
    AddedWidth, BestBox, BoxTally, Boxes, BoxesError, Candidate, SummedCheck, best_box,
    part_by_part,
};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use anvil_references::donors::{by_solver, every_box, rank, tally};
use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::TestRunner;

use crate::budget::cases;

const MICRO: i64 = 1_000;

/// Longer than the general solver needs for any of these.
const LONG: Duration = Duration::from_mins(10);

fn stock(micro: i64, quantity: u32) -> Stock {
    Stock {
        thickness_nm: Length::from_nm(micro * MICRO),
        grade: Grade::Marked,
        u_nm: 0.0,
        quantity,
        source: Availability::OnHand,
    }
}

fn check(rest: i64, (low, high): (i64, i64), set_by: Option<(usize, u32, i8)>) -> SummedCheck {
    let length = |micro: i64| Length::from_nm(micro * MICRO);
    let middle = length(low + high).as_f64() / 2.0;
    SummedCheck {
        rest: length(rest),
        u_nm: 0.0,
        window: Window::new(Some(length(low)), Some(length(high))).unwrap(),
        aim: TargetRange {
            from_nm: middle,
            to_nm: middle,
        },
        required_probability: 0.95,
        set_by: set_by.map(|(drawer, most_pieces, effect)| {
            let place = Place {
                drawer,
                fitted: Length::ZERO,
                u_fitted_nm: 0.0,
                least_pieces: 0,
                most_pieces,
            };
            (place, effect)
        }),
    }
}

fn candidate((new, worn, used_up): (u32, u32, u32), widths: &[(usize, i64)]) -> Candidate {
    Candidate {
        new,
        worn,
        fetched: u32::from(used_up % 7 == 3),
        used_up,
        widths: widths
            .iter()
            .map(|(check, micro)| AddedWidth {
                check: *check,
                adds: Length::from_nm(-micro * MICRO),
                u_nm: 0.0,
            })
            .collect(),
    }
}

fn proven(boxes: &Boxes) -> BestBox {
    let best = best_box(boxes, |_| true).unwrap();
    assert!(best.proven && best.bound == best.tally, "{best:?}");
    best
}

/// What a candidate counts, and what it adds to which check.
type Thrown = ((u32, u32, u32), Vec<(usize, i64)>);

prop_compose! {
    /// A few boxes of a few places; `grain` is how fine their widths are, in nanometres.
    fn a_few(grain: i64)(
        drawers in prop::collection::vec(prop::collection::vec((800..1_300_i64, 0..3_u32), 1..4), 2),
        checks in prop::collection::vec((0..600_i64, 20..150_i64, prop::option::of((0..2_usize, 1..3_u32, prop::bool::ANY))), 1..4),
        places in prop::collection::vec(
            prop::collection::vec(((0..3_u32, 0..3_u32, 0..400_u32), prop::collection::vec((0..3_usize, 0..300_000_i64), 0..3)), 1..4),
            1..6,
        ),
    ) -> Boxes {
        let checks: Vec<SummedCheck> = (checks.into_iter())
            .map(|(rest, wide, set_by)| {
                let set_by = set_by.map(|(d, most, closes)| (d, most, if closes { 1 } else { -1 }));
                let filled = set_by.map_or(300, |s| if s.2 > 0 { 1_300 } else { -700 });
                check(rest + filled, (60, 60 + wide), set_by)
            })
            .collect();
        let of_check = checks.len();
        let place = |of: Vec<Thrown>| -> Vec<Candidate> {
            of.into_iter()
                .map(|(counts, widths)| {
                    let mut candidate = candidate(counts, &[]);
                    candidate.widths = widths
                        .into_iter()
                        .map(|(check, nm)| AddedWidth {
                            check: check % of_check,
                            adds: Length::from_nm(-nm / grain * grain),
                            u_nm: 0.0,
                        })
                        .collect();
                    candidate
                })
                .collect()
        };
        Boxes {
            places: places.into_iter().map(place).collect(),
            drawers: drawers.into_iter().map(|d| d.into_iter().map(|(t, q)| stock(t, q)).collect()).collect(),
            checks,
        }
    }
}

prop_compose! {
    /// Five checks of three places each that want the pieces of one drawer, of which there is one each.
    fn contested(lines: usize, apart: i64)(
        rests in prop::collection::vec(0..250_i64, 5),
        widths in prop::collection::vec(prop::collection::vec((0..2_u32, 0..400_u32, 0..9_i64), 3), 6),
    ) -> Boxes {
        let checks: Vec<SummedCheck> = (rests.into_iter())
            .map(|rest| check(1_300 + rest, (60, 85), Some((0, 1, 1))))
            .collect();
        let place = |(at, of): (usize, Vec<(u32, u32, i64)>)| -> Vec<Candidate> {
            let moved = |by: i64| -> Vec<(usize, i64)> {
                (0..5).filter(|j| (0..3).any(|m| (j + 2 * m) % 6 == at)).map(|j| (j, by * 10)).collect()
            };
            let of = of.into_iter();
            of.map(|(worn, used_up, by)| candidate((0, worn, used_up), &moved(by))).collect()
        };
        Boxes {
            places: widths.into_iter().enumerate().map(place).collect(),
            drawers: vec![(0..lines).map(|l| stock(1_150 + apart * i64::try_from(l).unwrap(), 1)).collect()],
            checks,
        }
    }
}

fn is_the_best_of_all(boxes: &Boxes) -> Result<(), TestCaseError> {
    let best = proven(boxes);
    prop_assert_eq!(tally(boxes, &best.picks), best.tally);
    let all = every_box(boxes).map(|picks| tally(boxes, &picks));
    let least = all.min_by_key(|t| rank(*t)).unwrap();
    prop_assert_eq!(best.tally, least);
    let naive = part_by_part(boxes).unwrap();
    prop_assert!(rank(naive.tally) >= rank(best.tally));
    Ok(())
}

proptest! {
    #![proptest_config(cases(600))]

    /// Widths to 10 µm, as a micrometer gives them.
    #[test]
    fn the_best_box_equals_trying_all(boxes in a_few(10_000)) {
        is_the_best_of_all(&boxes)?;
    }

    /// Widths to a nanometre: more sums than are told apart.
    #[test]
    fn so_it_does_where_no_two_sums_are_alike(boxes in a_few(1)) {
        is_the_best_of_all(&boxes)?;
    }
}

proptest! {
    #![proptest_config(cases(24))]

    /// So few sizes that all ways to share them out are looked at.
    #[test]
    fn so_it_does_where_a_drawer_is_nearly_empty(boxes in contested(4, 70)) {
        is_the_best_of_all(&boxes)?;
    }

    /// So many sizes that those that are contested have a price first.
    #[test]
    fn so_it_does_where_many_sizes_are_short(boxes in contested(11, 25)) {
        is_the_best_of_all(&boxes)?;
    }
}

#[test]
fn a_search_stopped_early_says_how_far_it_may_be() {
    let mut runner = TestRunner::deterministic();
    for _ in 0..100 {
        let boxes = a_few(10_000).new_tree(&mut runner).unwrap().current();
        let stopped = best_box(&boxes, |_| false).unwrap();
        let best = proven(&boxes);
        assert!(
            rank(stopped.bound) <= rank(best.tally),
            "{stopped:?} {best:?}"
        );
        assert!(
            rank(stopped.tally) >= rank(best.tally),
            "{stopped:?} {best:?}"
        );
        assert_eq!(stopped.proven, stopped.bound == stopped.tally);
    }
}

/// The general solver is `microlp`, a branch-and-bound over the simplex method.
#[test]
fn a_general_solver_finds_the_same_box() {
    let mut runner = TestRunner::deterministic();
    for _ in 0..60 {
        let boxes = a_few(10_000).new_tree(&mut runner).unwrap().current();
        let best = proven(&boxes);
        // No more than 10 new, 10 worn, 5 fetched and 1,995 thousandths in any of these boxes.
        let worth = [1_650_000.0, 150_000.0, 13_200.0, 2_200.0, 1.1];
        let BoxTally {
            set,
            new,
            worn,
            fetched,
            used_up,
        } = best.tally;
        let ours = worth[0] * (boxes.checks.len() - set) as f64
            + worth[1] * new as f64
            + worth[2] * worn as f64
            + worth[3] * fetched as f64
            + worth[4] * used_up as f64;
        let solver = by_solver(&boxes, worth, LONG).unwrap();
        assert!(
            (ours - solver).abs() < 0.01,
            "{ours} and the solver {solver}: {boxes:?}"
        );
    }
}

/// Worked by hand: a gear of 21.00 leaves 1.20 for the washer, one of 20.88 leaves 1.32. There is one washer, of 1.25, and
/// the window is 0.04 to 0.10: with the better gear nothing can be set.
#[test]
fn a_worn_gear_is_taken_where_only_it_can_be_set() {
    let gears = vec![
        candidate((0, 0, 100), &[(0, 21_000)]),
        candidate((0, 1, 800), &[(0, 20_880)]),
        candidate((1, 0, 0), &[(0, 21_010)]),
    ];
    let boxes = Boxes {
        places: vec![gears],
        checks: vec![check(22_200, (40, 100), Some((0, 1, 1)))],
        drawers: vec![vec![stock(1_250, 1)]],
    };
    let best = proven(&boxes);
    assert_eq!(best.picks, [1]);
    assert_eq!((best.tally.set, best.tally.worn), (1, 1));
    let set = best.set[0].as_ref().unwrap();
    assert_eq!(set.stacks[0][0].thickness_nm, Length::from_nm(1_250_000));
    assert!((set.outcomes[0].predicted_nm - 70_000.0).abs() < 1e-6);
    let naive = part_by_part(&boxes).unwrap();
    assert_eq!((naive.picks.as_slice(), naive.tally.set), (&[0][..], 0));
}

/// Two checks want the only washer of 1.25; another gear in one of them does with 1.45.
#[test]
fn the_only_washer_goes_to_one_check_and_another_gear_makes_room() {
    let place = |at: usize| {
        vec![
            candidate((0, 0, 100), &[(at, 20_880)]),
            candidate(
                (0, 0, 700 + 10 * u32::try_from(at).unwrap()),
                &[(at, 20_680)],
            ),
        ]
    };
    let boxes = Boxes {
        places: vec![place(0), place(1)],
        checks: (0..2)
            .map(|_| check(22_200, (40, 100), Some((0, 1, 1))))
            .collect(),
        drawers: vec![vec![stock(1_250, 1), stock(1_450, 4)]],
    };
    let best = proven(&boxes);
    assert_eq!(
        best.tally,
        BoxTally {
            set: 2,
            new: 0,
            worn: 0,
            fetched: 0,
            used_up: 800
        }
    );
    assert_eq!(best.picks, [1, 0]);
}

#[test]
fn what_cannot_be_is_named() {
    let none = Boxes {
        places: vec![vec![]],
        checks: vec![],
        drawers: vec![],
    };
    assert_eq!(best_box(&none, |_| true), Err(BoxesError::NoCandidate(1)));
    let no_check = Boxes {
        places: vec![vec![candidate((0, 0, 0), &[(0, 1_000)])]],
        ..none.clone()
    };
    assert_eq!(
        best_box(&no_check, |_| true),
        Err(BoxesError::BadCandidate(1))
    );
    let too_many = Boxes {
        places: vec![vec![Candidate::default(); 65]],
        ..none.clone()
    };
    assert_eq!(best_box(&too_many, |_| true), Err(BoxesError::TooMany));
    let no_drawer = Boxes {
        checks: vec![check(0, (0, 1), Some((0, 1, 1)))],
        ..none
    };
    let no_drawer = Boxes {
        places: vec![],
        ..no_drawer
    };
    assert!(matches!(
        best_box(&no_drawer, |_| true),
        Err(BoxesError::Sharing(_))
    ));
}
