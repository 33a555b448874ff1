//! The plan of closings, held against every order of closings that there is.

use anvil_rules::plan::closings::{Left, Plan, Task, in_order, plan};
use proptest::prelude::*;

use crate::budget::cases;

fn task(closing: &str, after: &[usize], left: Left) -> Task {
    Task {
        closing: closing.into(),
        after: after.to_vec(),
        preload: false,
        left,
    }
}

fn names(plan: &Plan) -> Vec<&str> {
    plan.closings.iter().map(|c| c.closing.as_str()).collect()
}

#[test]
fn a_chain_in_one_closing_measures_the_next_where_the_last_is_signed_off() {
    let chain = [
        task("whole", &[], Left::Twice),
        task("whole", &[0], Left::Twice),
        task("whole", &[1], Left::Twice),
    ];
    let found = plan(&chain);
    assert_eq!((found.count, found.at_least), (4, 4));
    let second: Vec<_> = found.closings[1]
        .visits
        .iter()
        .map(|v| (v.check, v.last))
        .collect();
    assert_eq!(second, [(0, true), (1, false)]);
}

#[test]
fn preloads_are_set_first_where_that_costs_no_closing_and_the_bench_costs_none() {
    let mut tasks = [
        task("floats", &[], Left::Twice),
        task("preload", &[], Left::Twice),
        task("", &[1], Left::Twice),
        task("floats", &[2], Left::Once),
    ];
    tasks[1].preload = true;
    let found = plan(&tasks);
    assert_eq!(names(&found), ["preload", "preload", "floats", "floats"]);
    // The one on the bench is free once the preload is signed off, and is measured before the floats.
    let bench: Vec<_> = found.closings[2]
        .bench
        .iter()
        .map(|v| (v.check, v.last))
        .collect();
    assert_eq!(bench, [(2, false), (2, true)]);
    // In the sheet's order the floats come first, and are closed for once more.
    let order = in_order(&tasks);
    assert_eq!(
        names(&order),
        ["floats", "floats", "preload", "preload", "floats"]
    );
    // Nothing left is nothing to do.
    let done = [task("floats", &[], Left::Nothing)];
    assert_eq!(plan(&done).count, 0);
    assert!(plan(&done).closings.is_empty() && in_order(&done).closings.is_empty());
    assert_eq!(plan(&[]).count, 0);
}

/// Plays a plan by the rules alone, and says whether it is sound.
fn sound(tasks: &[Task], plan: &Plan) -> bool {
    let times = |left| match left {
        Left::Nothing => 0,
        Left::Once => 1,
        Left::Twice => 2,
    };
    let mut left: Vec<u32> = tasks.iter().map(|t| times(t.left)).collect();
    for closing in &plan.closings {
        let mut here = Vec::new();
        for (visit, bench) in closing
            .bench
            .iter()
            .map(|v| (v, true))
            .chain(closing.visits.iter().map(|v| (v, false)))
        {
            let task = &tasks[visit.check];
            let place = if bench { "" } else { closing.closing.as_str() };
            if task.closing != place
                || left[visit.check] == 0
                || task.after.iter().any(|a| left[*a] > 0)
                || (!bench && here.contains(&visit.check))
            {
                return false;
            }
            left[visit.check] -= 1;
            if visit.last != (left[visit.check] == 0) {
                return false;
            }
            if !bench {
                here.push(visit.check);
            }
        }
    }
    left.iter().all(|l| *l == 0)
}

/// The fewest closings, trying every order of closings up to a length.
fn fewest(tasks: &[Task], closings: &[&str], most: usize) -> Option<usize> {
    fn settle(tasks: &[Task], left: &mut [u32], place: &str) {
        let mut here = vec![false; tasks.len()];
        let mut changed = true;
        while changed {
            changed = false;
            for t in 0..tasks.len() {
                let free = tasks[t].after.iter().all(|a| left[*a] == 0);
                if left[t] > 0 && tasks[t].closing == place && free && !here[t] {
                    left[t] -= 1;
                    here[t] = !place.is_empty();
                    changed = true;
                }
            }
        }
    }
    fn down(tasks: &[Task], left: &[u32], closings: &[&str], more: usize) -> Option<usize> {
        if left.iter().all(|l| *l == 0) {
            return Some(0);
        }
        if more == 0 {
            return None;
        }
        let each = closings.iter().filter_map(|closing| {
            let mut next = left.to_vec();
            settle(tasks, &mut next, closing);
            settle(tasks, &mut next, "");
            Some(1 + down(tasks, &next, closings, more - 1)?)
        });
        each.min()
    }
    let mut left: Vec<u32> = tasks
        .iter()
        .map(|t| match t.left {
            Left::Nothing => 0,
            Left::Once => 1,
            Left::Twice => 2,
        })
        .collect();
    settle(tasks, &mut left, "");
    (0..=most).find_map(|length| down(tasks, &left, closings, length))
}

fn tasks() -> impl Strategy<Value = Vec<Task>> {
    let one = (
        0..4_usize,
        prop::collection::vec(any::<prop::sample::Index>(), 0..3),
        any::<bool>(),
        0..5_u8,
    );
    (prop::collection::vec(one, 1..7), any::<bool>()).prop_map(|(rows, turned)| {
        let mut tasks: Vec<Task> = Vec::new();
        for (t, (closing, after, preload, left)) in rows.into_iter().enumerate() {
            // After earlier ones only, now and then turned round, so that the sheet's order is not always sound.
            let after = if t == 0 {
                Vec::new()
            } else {
                after.iter().map(|a| a.index(t)).collect()
            };
            tasks.push(Task {
                closing: ["", "a", "b", "c"][closing].into(),
                after,
                preload,
                left: match left {
                    0 => Left::Nothing,
                    1 => Left::Once,
                    _ => Left::Twice,
                },
            });
        }
        if turned {
            // After later ones: the sheet's own order has to let them pass.
            tasks.reverse();
            let last = tasks.len() - 1;
            for task in &mut tasks {
                task.after.iter_mut().for_each(|a| *a = last - *a);
            }
        }
        tasks
    })
}

proptest! {
    #![proptest_config(cases(400))]

    #[test]
    fn no_order_of_closings_is_shorter(tasks in tasks()) {
        let found = plan(&tasks);
        prop_assert!(sound(&tasks, &found), "{found:?}");
        prop_assert_eq!(found.count, found.at_least);
        prop_assert_eq!(found.closings.iter().filter(|c| !c.closing.is_empty()).count(), found.count);
        if found.count <= 7 {
            prop_assert_eq!(Some(found.count), fewest(&tasks, &["a", "b", "c"], 7));
        }
        let order = in_order(&tasks);
        prop_assert!(sound(&tasks, &order), "{order:?}");
        prop_assert!(order.count >= found.count);
    }
}
