//! The best box from several dismantled ones: every box there is, and a general mixed-integer solver.

use std::collections::BTreeMap;
use std::time::{Duration, Instant};

use anvil_arithmetic::allocate::donors::{BoxTally, Boxes, Candidate};
use microlp::{ComparisonOp, OptimizationDirection, Problem, Variable};

const MICRO: f64 = 1_000.0;

/// Every box there is, one after another.
pub fn every_box(boxes: &Boxes) -> impl Iterator<Item = Vec<usize>> + '_ {
    let all: usize = boxes.places.iter().map(Vec::len).product();
    (0..all).map(|n| {
        let mut left = n;
        let digit = |of: &Vec<Candidate>| {
            let o = left % of.len();
            left /= of.len();
            o
        };
        boxes.places.iter().map(digit).collect()
    })
}

/// The most checks that can be set at once, by trying every stack for each of them in turn.
fn most_set(
    boxes: &Boxes,
    picks: &[usize],
    at: usize,
    left: &mut BTreeMap<(usize, usize), u32>,
) -> usize {
    let Some(check) = boxes.checks.get(at) else {
        return 0;
    };
    let candidates = picks.iter().zip(&boxes.places).map(|(o, p)| &p[*o]);
    let widths = candidates.flat_map(|c| &c.widths).filter(|w| w.check == at);
    let clearance = check.rest.nm() + widths.map(|w| w.adds.nm()).sum::<i64>();
    let inside = |c: i64| {
        let (low, high) = (check.window.low().unwrap(), check.window.high().unwrap());
        (low.nm()..=high.nm()).contains(&c)
    };
    let Some((place, effect)) = &check.set_by else {
        return usize::from(inside(clearance)) + most_set(boxes, picks, at + 1, left);
    };
    let mut best = most_set(boxes, picks, at + 1, left);
    let drawer = &boxes.drawers[place.drawer];
    let mut stacks: Vec<(i64, Vec<usize>)> = vec![(0, vec![])];
    for (line, stock) in drawer.iter().enumerate() {
        for at in 0..stacks.len() {
            let (mut total, mut lines) = stacks[at].clone();
            while lines.len() < place.most_pieces as usize {
                total += stock.thickness_nm.nm();
                lines.push(line);
                stacks.push((total, lines.clone()));
            }
        }
    }
    for (total, lines) in stacks {
        if !inside(clearance - i64::from(*effect) * total) {
            continue;
        }
        let key = |line: &usize| (place.drawer, *line);
        let mut taken = Vec::new();
        for line in &lines {
            let there = left.get_mut(&key(line)).unwrap();
            if *there > 0 {
                *there -= 1;
                taken.push(*line);
            }
        }
        if taken.len() == lines.len() {
            best = best.max(1 + most_set(boxes, picks, at + 1, left));
        }
        for line in taken {
            *left.get_mut(&key(&line)).unwrap() += 1;
        }
    }
    best
}

/// What a box comes to, by trying.
///
/// # Panics
/// Where a window is open.
pub fn tally(boxes: &Boxes, picks: &[usize]) -> BoxTally {
    let mut left = BTreeMap::new();
    for (d, drawer) in boxes.drawers.iter().enumerate() {
        for (l, stock) in drawer.iter().enumerate() {
            left.insert((d, l), stock.quantity);
        }
    }
    let of = picks.iter().zip(&boxes.places).map(|(o, p)| &p[*o]);
    let start = BoxTally {
        set: most_set(boxes, picks, 0, &mut left),
        ..BoxTally::default()
    };
    of.fold(start, |sum, c| BoxTally {
        new: sum.new + u64::from(c.new),
        worn: sum.worn + u64::from(c.worn),
        fetched: sum.fetched + u64::from(c.fetched),
        used_up: sum.used_up + u64::from(c.used_up),
        ..sum
    })
}

/// The better, the less.
pub fn rank(of: BoxTally) -> (std::cmp::Reverse<usize>, u64, u64, u64, u64) {
    (
        std::cmp::Reverse(of.set),
        of.new,
        of.worn,
        of.fetched,
        of.used_up,
    )
}

/// The same boxes as a mixed-integer problem: which candidate, how many of each size for each check, and whether a check
/// is given up; what that comes to by `worth` (a check given up, new, worn, fetched, used up), or none where that took
/// longer than the patience.
pub fn by_solver(boxes: &Boxes, worth: [f64; 5], patience: Duration) -> Option<f64> {
    let micro = |nm: i64| nm as f64 / MICRO;
    let far = 10_000.0;
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    problem.set_time_limit(patience);
    let mut sums: Vec<Vec<(Variable, f64)>> = vec![vec![]; boxes.checks.len()];
    for of in &boxes.places {
        let picks: Vec<Variable> = (of.iter())
            .map(|c| {
                let counts = [c.new, c.worn, c.fetched, c.used_up].map(f64::from);
                let cost = counts.iter().zip(&worth[1..]).map(|(n, w)| n * w).sum();
                problem.add_binary_var(cost)
            })
            .collect();
        let one: Vec<_> = picks.iter().map(|v| (*v, 1.0)).collect();
        problem.add_constraint(one.as_slice(), ComparisonOp::Eq, 1.0);
        for (candidate, pick) in of.iter().zip(picks) {
            let mut by_check = BTreeMap::new();
            for width in &candidate.widths {
                *by_check.entry(width.check).or_insert(0) += width.adds.nm();
            }
            for (check, nm) in by_check {
                sums[check].push((pick, micro(nm)));
            }
        }
    }
    let mut used: Vec<Vec<Vec<Variable>>> = boxes
        .drawers
        .iter()
        .map(|d| vec![vec![]; d.len()])
        .collect();
    for (check, mut sum) in boxes.checks.iter().zip(sums) {
        if let Some((place, effect)) = &check.set_by {
            let mut pieces = Vec::new();
            for (line, stock) in boxes.drawers[place.drawer].iter().enumerate() {
                let most = i32::try_from(stock.quantity.min(place.most_pieces)).unwrap();
                let count = problem.add_integer_var(0.0, (0, most));
                used[place.drawer][line].push(count);
                sum.push((count, -f64::from(*effect) * micro(stock.thickness_nm.nm())));
                pieces.push((count, 1.0));
            }
            problem.add_constraint(
                pieces.as_slice(),
                ComparisonOp::Le,
                f64::from(place.most_pieces),
            );
        }
        let out = problem.add_binary_var(worth[0]);
        let rest = micro(check.rest.nm());
        let with = |far: f64| sum.iter().copied().chain([(out, far)]).collect::<Vec<_>>();
        let (low, high) = (check.window.low().unwrap(), check.window.high().unwrap());
        problem.add_constraint(
            with(far).as_slice(),
            ComparisonOp::Ge,
            micro(low.nm()) - rest,
        );
        problem.add_constraint(
            with(-far).as_slice(),
            ComparisonOp::Le,
            micro(high.nm()) - rest,
        );
    }
    for (lines, drawer) in used.iter().zip(&boxes.drawers) {
        for (counts, stock) in lines.iter().zip(drawer) {
            let all: Vec<_> = counts.iter().map(|v| (*v, 1.0)).collect();
            problem.add_constraint(all.as_slice(), ComparisonOp::Le, f64::from(stock.quantity));
        }
    }
    let began = Instant::now();
    let solved = problem.solve().ok()?.into_solution().ok()?;
    (began.elapsed() < patience).then(|| solved.objective())
}
