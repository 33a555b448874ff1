//! The build as a graph: against the definitions, followed one by one over random builds.

use std::collections::BTreeSet;

use anvil_rules::plan::steps::{Positions, Readiness, Step, Steps, StepsError};
use proptest::prelude::*;

const HOLDS: usize = 3;

/// Builds whose steps need earlier ones and cover any but themselves.
fn builds() -> impl Strategy<Value = Vec<Step>> {
    let step = |at: usize| {
        let needs = prop::collection::btree_set(0..at.max(1), 0..=at.min(3));
        let covers = prop::collection::btree_set(0..9_usize, 0..3);
        let holds = prop::collection::btree_set(0..HOLDS, 0..2);
        (needs, covers, holds).prop_map(move |(needs, covers, holds)| Step {
            needs: needs.into_iter().filter(|n| *n < at).collect(),
            covers: covers.into_iter().filter(|c| *c != at).collect(),
            holds: holds.into_iter().collect(),
        })
    };
    (0..9_usize).map(step).collect::<Vec<_>>()
}

/// All that a step rests on, by walking.
fn rests_on(steps: &[Step], at: usize) -> BTreeSet<usize> {
    let mut all = BTreeSet::new();
    for &need in &steps[at].needs {
        all.insert(need);
        all.extend(rests_on(steps, need));
    }
    all
}

/// The set grown by whatever `more` finds of it, until it finds nothing.
fn grown(
    mut set: BTreeSet<usize>,
    more: impl Fn(&BTreeSet<usize>) -> BTreeSet<usize>,
) -> BTreeSet<usize> {
    loop {
        let next: BTreeSet<usize> = set.union(&more(&set)).copied().collect();
        if next == set {
            return set;
        }
        set = next;
    }
}

proptest! {
    #[test]
    fn what_can_be_done_is_what_nothing_stands_before(
        steps in builds(), done in prop::collection::vec(any::<bool>(), 9), open in prop::collection::vec(any::<bool>(), HOLDS),
    ) {
        let build = Steps::new(steps.clone()).unwrap();
        for (at, found) in build.readiness(&done, &open).into_iter().enumerate() {
            let by: Vec<usize> = (0..9).filter(|o| done[*o] && steps[*o].covers.contains(&at)).collect();
            let needs: Vec<usize> = steps[at].needs.iter().copied().filter(|n| !done[*n]).collect();
            let under = rests_on(&steps, at).into_iter().flat_map(|s| steps[s].holds.clone());
            let holds: BTreeSet<usize> = under.filter(|h| open[*h]).collect();
            let right = if done[at] {
                Readiness::Done
            } else if !by.is_empty() {
                Readiness::OutOfReach { by }
            } else if !needs.is_empty() {
                Readiness::Waits { needs }
            } else if !holds.is_empty() {
                Readiness::Held { holds: holds.into_iter().collect() }
            } else {
                Readiness::Ready
            };
            prop_assert_eq!(found, right, "step {}", at);
        }
    }

    /// What comes out is what stands on it, and once it is out nothing done stands before the step.
    #[test]
    fn what_comes_out_is_what_needs_or_covers_it(
        steps in builds(), order in Just((0..9_usize).collect::<Vec<_>>()).prop_shuffle(), count in 0..=9_usize, step in 0..9_usize,
    ) {
        let build = Steps::new(steps.clone()).unwrap();
        let done = &order[..count];
        let out = build.tear_back(done, step);
        let stands_on = |set: &BTreeSet<usize>| done.iter().copied().filter(|o| {
            set.iter().any(|s| steps[*o].needs.contains(s) || steps[*o].covers.contains(s))
        }).collect();
        let mut right = grown(BTreeSet::from([step]), stands_on);
        right.remove(&step);
        prop_assert_eq!(out.iter().copied().collect::<BTreeSet<_>>(), right);
        let place = |s: &usize| done.iter().position(|d| d == s).unwrap();
        prop_assert!(out.windows(2).all(|w| place(&w[0]) > place(&w[1])), "the last done first");
        let mut left = vec![false; 9];
        for s in done.iter().filter(|s| !out.contains(s) && **s != step) {
            left[*s] = true;
        }
        let now = build.readiness(&left, &[false; HOLDS]).swap_remove(step);
        prop_assert!(!matches!(now, Readiness::OutOfReach { .. }), "{:?}", now);
    }

    #[test]
    fn what_a_step_closes_off_is_what_it_covers_and_what_needs_that(
        steps in builds(), done in prop::collection::vec(any::<bool>(), 9), step in 0..9_usize,
    ) {
        let build = Steps::new(steps.clone()).unwrap();
        let open = |s: &usize| !done[*s] && *s != step;
        let covered = steps[step].covers.iter().copied().filter(open).collect();
        let right = grown(covered, |lost| {
            (0..9).filter(open).filter(|s| steps[*s].needs.iter().any(|n| lost.contains(n))).collect()
        });
        prop_assert_eq!(build.last_chance(&done, step), right.into_iter().collect::<Vec<_>>());
    }

    /// By turning one notch after another, both ways.
    #[test]
    fn the_fewest_notches_are_those_of_the_shorter_way(count in 1..12_usize, from in 0..12_usize, to in 0..12_usize, ring in any::<bool>()) {
        let positions = if ring { Positions::Ring(count) } else { Positions::Line(count) };
        let found = positions.notches(from, to);
        if from >= count || to >= count {
            prop_assert_eq!(found, None);
            return Ok(());
        }
        let turned = |forward: bool| {
            let mut at = from;
            let mut notches = 0_isize;
            while at != to {
                at = match (forward, ring) {
                    (true, _) if at + 1 < count => at + 1,
                    (false, _) if at > 0 => at - 1,
                    (true, true) => 0,
                    (false, true) => count - 1,
                    _ => return None,
                };
                notches += if forward { 1 } else { -1 };
            }
            Some(notches)
        };
        let fewest = [turned(true), turned(false)].into_iter().flatten().min_by_key(|n| n.unsigned_abs());
        prop_assert_eq!(found, fewest);
    }
}

#[test]
fn steps_that_are_no_build_are_named() {
    let needs = |needs: &[usize]| Step {
        needs: needs.to_vec(),
        ..Step::default()
    };
    let covers = |covers: &[usize]| Step {
        covers: covers.to_vec(),
        ..Step::default()
    };
    let of = |steps: Vec<Step>| Steps::new(steps).unwrap_err();
    let round = of(vec![needs(&[2]), needs(&[0]), needs(&[1])]);
    assert!(matches!(round, StepsError::Cycle { .. }));
    assert_eq!(of(vec![covers(&[0])]), StepsError::CoversItself { step: 0 });
    let missing = StepsError::NoSuchStep {
        step: 1,
        other: 2,
        count: 2,
    };
    assert_eq!(of(vec![needs(&[]), covers(&[2])]), missing);
    assert_eq!(of(vec![needs(&[]), needs(&[2])]), missing);
}

/// Five hundred steps, each on the one before and every seventh a cover: every answer is there at once, and right where it
/// can be counted.
#[test]
fn a_long_build_is_answered_in_full() {
    let steps: Vec<Step> = (0..500_usize)
        .map(|at| Step {
            needs: at.checked_sub(1).into_iter().collect(),
            covers: if at % 7 == 6 {
                (at - 6..at).collect()
            } else {
                Vec::new()
            },
            holds: vec![at],
        })
        .collect();
    let build = Steps::new(steps).unwrap();
    let done: Vec<usize> = (0..400).collect();
    let out = build.tear_back(&done, 123);
    assert_eq!(out, (124..400).rev().collect::<Vec<_>>());
    let mut is_done = vec![false; 500];
    is_done[..400].fill(true);
    let mut open = vec![false; 500];
    open[17] = true;
    let state = build.readiness(&is_done, &open);
    assert_eq!(state[400], Readiness::Held { holds: vec![17] });
    assert_eq!(state[401], Readiness::Waits { needs: vec![400] });
    let lost: Vec<usize> = (400..405).collect();
    assert_eq!(build.last_chance(&is_done, 405), lost);
}
