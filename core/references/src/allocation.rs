//! Pieces shared out among many checks: every option of every check in every combination, and a general mixed-integer
//! solver.

use std::collections::HashMap;

use anvil_arithmetic::allocate::Group;
use anvil_arithmetic::stock::drawer::{Grade, Stock};
use anvil_arithmetic::verdict::conformance_probability;
use microlp::{ComparisonOp, OptimizationDirection, Problem};

const MICRO: f64 = 1_000.0;

/// Every stack of a drawer, as how many of each size.
fn stacks(drawer: &[Stock], least: u32, most: u32) -> Vec<Vec<u32>> {
    let mut found = vec![vec![]];
    for stock in drawer {
        found = found
            .into_iter()
            .flat_map(|counts: Vec<u32>| {
                let used: u32 = counts.iter().sum();
                (0..=stock.quantity.min(most - used)).map(move |n| {
                    let mut counts = counts.clone();
                    counts.push(n);
                    counts
                })
            })
            .collect();
    }
    found.retain(|c| c.iter().sum::<u32>() >= least);
    found
}

/// What one option of a group comes to: how many checks are inside, how many of those surely, how far off target in
/// nanometres; and how many of each size of drawer 0 it takes.
pub type Slow = ((usize, usize, f64), Vec<u32>);

/// Every option of a group, the slow way.
pub fn options(group: &Group, drawer: &[Stock]) -> Vec<Slow> {
    let none = vec![0; drawer.len()];
    let mut combinations: Vec<Vec<Vec<u32>>> = vec![vec![]];
    for place in &group.places {
        let of_place = stacks(drawer, place.least_pieces, place.most_pieces);
        combinations = combinations
            .into_iter()
            .flat_map(|c| {
                of_place.iter().map(move |s| {
                    let mut c = c.clone();
                    c.push(s.clone());
                    c
                })
            })
            .collect();
    }
    let mut found = vec![((0, 0, 0.0), none.clone())];
    for combination in combinations {
        let (mut inside, mut sure, mut distance) = (0, 0, 0.0);
        for check in &group.checks {
            let (mut c, mut u2) = (check.clearance_nm, check.u_nm * check.u_nm);
            for ((counts, effect), place) in
                combination.iter().zip(&check.effects).zip(&group.places)
            {
                let sum: i64 = counts
                    .iter()
                    .zip(drawer)
                    .map(|(n, s)| i64::from(*n) * s.thickness_nm.nm())
                    .sum();
                c -= *effect * (sum - place.fitted.nm()) as f64;
                if effect.abs() > 0.0 {
                    let of_pieces = counts.iter().zip(drawer);
                    // Pieces of one size that nobody measured have one error.
                    let each = |(n, s): (&u32, &Stock)| match s.grade {
                        Grade::Marked => (f64::from(*n) * s.u_nm).powi(2),
                        Grade::Miked | Grade::Used => f64::from(*n) * s.u_nm.powi(2),
                    };
                    u2 += effect * effect * of_pieces.map(each).sum::<f64>();
                }
            }
            if check.window.holds(c) {
                inside += 1;
                distance += check.aim.distance_nm(c);
                // Welch-Satterthwaite: the pieces' parts have infinite degrees of freedom.
                let share = if u2 > 0.0 {
                    check.u_nm * check.u_nm / u2
                } else {
                    0.0
                };
                let dof = check
                    .dof
                    .map(|d| d / (share * share))
                    .filter(|d| d.is_finite());
                sure += usize::from(
                    conformance_probability(c, u2.sqrt(), dof, check.window)
                        >= check.required_probability,
                );
            }
        }
        if inside > 0 {
            let mut used = none.clone();
            for counts in &combination {
                for (u, n) in used.iter_mut().zip(counts) {
                    *u += n;
                }
            }
            found.push(((inside, sure, distance), used));
        }
    }
    found
}

fn better(a: (usize, usize, f64), b: (usize, usize, f64)) -> bool {
    (a.0, a.1) > (b.0, b.1) || ((a.0, a.1) == (b.0, b.1) && a.2 < b.2)
}

/// The best of all ways to share out, tried one by one.
pub fn exhaustive(groups: &[Vec<Slow>], left: &[u32]) -> (usize, usize, f64) {
    let Some((first, rest)) = groups.split_first() else {
        return (0, 0, 0.0);
    };
    let mut best = (0, 0, f64::INFINITY);
    for ((inside, sure, distance), used) in first {
        if used.iter().zip(left).any(|(u, l)| u > l) {
            continue;
        }
        let left: Vec<u32> = left.iter().zip(used).map(|(l, u)| l - u).collect();
        let then = exhaustive(rest, &left);
        let sum = (inside + then.0, sure + then.1, distance + then.2);
        if better(sum, best) {
            best = sum;
        }
    }
    best
}

/// The same, by all that the groups before can have left: the best of each.
pub fn by_what_is_left(groups: &[Vec<Slow>], left: &[u32]) -> (usize, usize, f64) {
    let mut states: HashMap<Vec<u32>, (usize, usize, f64)> =
        HashMap::from([(left.to_vec(), (0, 0, 0.0))]);
    for group in groups {
        let mut next: HashMap<Vec<u32>, (usize, usize, f64)> = HashMap::new();
        for (left, so_far) in &states {
            for ((inside, sure, distance), used) in group {
                let left: Option<Vec<u32>> = left
                    .iter()
                    .zip(used)
                    .map(|(l, u)| l.checked_sub(*u))
                    .collect();
                let Some(left) = left else {
                    continue;
                };
                let sum = (so_far.0 + inside, so_far.1 + sure, so_far.2 + distance);
                next.entry(left)
                    .and_modify(|best| {
                        if better(sum, *best) {
                            *best = sum;
                        }
                    })
                    .or_insert(sum);
            }
        }
        states = next;
    }
    let start = (0, 0, f64::INFINITY);
    states
        .into_values()
        .fold(start, |best, s| if better(s, best) { s } else { best })
}

/// The three aims one after another, as a sum of yes-or-no variables: one for each option.
pub fn by_solver(slow: &[Vec<Slow>], quantity: &[u32]) -> f64 {
    let mut problem = Problem::new(OptimizationDirection::Maximize);
    let worth = |t: &(usize, usize, f64)| 1e6 * t.0 as f64 + 1e3 * t.1 as f64 - t.2 / MICRO;
    let mut picked = Vec::new();
    let mut of_size: Vec<Vec<(microlp::Variable, f64)>> = vec![vec![]; quantity.len()];
    for options in slow {
        let variables: Vec<_> = options
            .iter()
            .map(|o| problem.add_binary_var(worth(&o.0)))
            .collect();
        let one: Vec<_> = variables.iter().map(|v| (*v, 1.0)).collect();
        problem.add_constraint(one.as_slice(), ComparisonOp::Eq, 1.0);
        picked.extend(
            variables
                .iter()
                .copied()
                .zip(options.iter().map(|o| worth(&o.0))),
        );
        for (variable, (_, used)) in variables.iter().zip(options) {
            for (terms, n) in of_size.iter_mut().zip(used) {
                if *n > 0 {
                    terms.push((*variable, f64::from(*n)));
                }
            }
        }
    }
    for (terms, quantity) in of_size.iter().zip(quantity) {
        problem.add_constraint(terms.as_slice(), ComparisonOp::Le, f64::from(*quantity));
    }
    let found = problem.solve().unwrap().into_solution().unwrap();
    // The solver's yes may be a millionth short of one, which is worth a micrometre here.
    let yes = picked
        .iter()
        .filter(|(variable, _)| found.var_value(*variable) > 0.5);
    yes.map(|(_, worth)| worth).sum()
}
