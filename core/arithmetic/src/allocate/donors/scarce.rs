//! A drawer of so few pieces that every way to share it out is looked at.

use super::Cost;
use super::sums::NEVER;

/// More than so many steps a look are too many; the drawer's sizes then get prices instead.
const MOST_STEPS: usize = 60_000;

/// What a stack takes of the drawer.
struct Take {
    /// By how much it moves what is taken.
    by: usize,
    /// From what is taken it can still be had.
    from: Vec<usize>,
}

/// A drawer, and the checks that its pieces set.
pub(super) struct Scarce {
    /// By number within the component.
    pub checks: Vec<usize>,
    /// How many ways there are to have taken of it.
    states: usize,
    /// For each check its stacks.
    takes: Vec<Vec<Take>>,
}

impl Scarce {
    /// A drawer with so many of each line; `stacks` has for each of the checks the lines of each of its stacks. None where
    /// there are too many ways to share it out.
    pub fn new(checks: Vec<usize>, quantity: &[i64], stacks: &[Vec<&[u16]>]) -> Option<Self> {
        let wanted = |line: usize| -> i64 {
            let of_stack = |s: &&[u16]| s.iter().filter(|l| usize::from(**l) == line).count();
            let most = |of: &Vec<&[u16]>| of.iter().map(of_stack).max().unwrap_or(0);
            i64::try_from(stacks.iter().map(most).sum::<usize>()).unwrap_or(i64::MAX)
        };
        let mut sizes = Vec::with_capacity(quantity.len());
        let mut states = 1_usize;
        for (line, there) in quantity.iter().enumerate() {
            let size = 1 + usize::try_from((*there).min(wanted(line))).unwrap_or(0);
            sizes.push((states, size));
            states = states.checked_mul(size).filter(|n| *n <= MOST_STEPS)?;
        }
        let all: usize = stacks.iter().map(Vec::len).sum();
        if states.checked_mul(all)? > MOST_STEPS {
            return None;
        }
        let take = |lines: &[u16]| {
            let mut counts = vec![0; sizes.len()];
            for line in lines {
                counts[usize::from(*line)] += 1;
            }
            let digits = || sizes.iter().zip(&counts);
            let is_there =
                |taken: &usize| digits().all(|((unit, size), n)| taken / unit % size + n < *size);
            Take {
                by: digits().map(|((unit, _), n)| unit * n).sum(),
                from: (0..states).filter(is_there).collect(),
            }
        };
        let takes = stacks.iter().map(|of| of.iter().map(|s| take(s)).collect());
        Some(Self {
            checks,
            states,
            takes: takes.collect(),
        })
    }

    /// The least that all its checks cost together where one is given up (first) or set by each of its stacks; `costs` is
    /// what each costs by itself then.
    pub fn least(&self, costs: &[Vec<Cost>]) -> Vec<Vec<Cost>> {
        let mut after = vec![vec![0; self.states]];
        for (takes, costs) in self.takes.iter().zip(costs).rev() {
            let later = &after[after.len() - 1];
            let mut least: Vec<Cost> = later.iter().map(|l| add(*l, costs[0])).collect();
            for (take, cost) in takes.iter().zip(&costs[1..]) {
                for from in &take.from {
                    least[*from] = least[*from].min(add(later[from + take.by], *cost));
                }
            }
            after.push(least);
        }
        after.reverse();
        let mut before = vec![NEVER; self.states];
        before[0] = 0;
        let mut found = Vec::with_capacity(self.takes.len());
        for (at, (takes, costs)) in self.takes.iter().zip(costs).enumerate() {
            let after = &after[at + 1];
            let mut next: Vec<Cost> = before.iter().map(|b| add(*b, costs[0])).collect();
            let given_up = next.iter().zip(after).map(|(n, a)| add(*n, *a));
            let mut own = vec![given_up.min().unwrap_or(NEVER)];
            for (take, cost) in takes.iter().zip(&costs[1..]) {
                let mut least = NEVER;
                for from in &take.from {
                    let so_far = add(before[*from], *cost);
                    let to = from + take.by;
                    next[to] = next[to].min(so_far);
                    least = least.min(add(so_far, after[to]));
                }
                own.push(least);
            }
            found.push(own);
            before = next;
        }
        found
    }
}

/// What cannot be stays so.
const fn add(a: Cost, b: Cost) -> Cost {
    if a >= NEVER || b >= NEVER { NEVER } else { a + b }
}
