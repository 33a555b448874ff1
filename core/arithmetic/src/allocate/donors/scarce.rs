//! A drawer of which every way to share out what is contested is looked at.

use super::Cost;
use super::sums::NEVER;

/// More than so many steps a look are too many.
const MOST_STEPS: usize = 60_000;

/// What stacks take of the drawer that take the same of its contested lines.
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
    /// The lines that are shared out in every way.
    pub contested: Vec<usize>,
    /// How many ways there are to have taken of its contested lines.
    states: usize,
    takes: Vec<Take>,
    /// For each check which of these each of its stacks takes.
    take_of: Vec<Vec<usize>>,
}

impl Scarce {
    /// A drawer with so many of each line, those lines that are `contested` shared out in every way; `stacks` has for each of
    /// the checks the lines of each of its stacks. None where there are too many ways.
    pub fn new(
        checks: Vec<usize>,
        quantity: &[i64],
        contested: Vec<usize>,
        stacks: &[Vec<&[u16]>],
    ) -> Option<Self> {
        let mut units = Vec::with_capacity(contested.len());
        let mut states = 1_usize;
        for line in &contested {
            let size = 1 + usize::try_from(quantity[*line]).ok()?;
            units.push((states, size));
            states = states.checked_mul(size).filter(|n| *n <= MOST_STEPS)?;
        }
        let counts_of = |lines: &&[u16]| -> Vec<usize> {
            let of = |line: &usize| lines.iter().filter(|l| usize::from(**l) == *line).count();
            contested.iter().map(of).collect()
        };
        let mut all: Vec<Vec<usize>> = stacks.iter().flatten().map(counts_of).collect();
        all.sort_unstable();
        all.dedup();
        if states * all.len() * checks.len() > MOST_STEPS {
            return None;
        }
        let take = |counts: &Vec<usize>| {
            let digits = || units.iter().zip(counts);
            let is_there =
                |taken: &usize| digits().all(|((unit, size), n)| taken / unit % size + n < *size);
            Take {
                by: digits().map(|((unit, _), n)| unit * n).sum(),
                from: (0..states).filter(is_there).collect(),
            }
        };
        let take_of = |s: &&[u16]| all.binary_search(&counts_of(s)).unwrap_or_default();
        Some(Self {
            states,
            take_of: (stacks.iter())
                .map(|of| of.iter().map(take_of).collect())
                .collect(),
            takes: all.iter().map(take).collect(),
            checks,
            contested,
        })
    }

    /// The least that all its checks cost together where one is given up (first) or set by each of its stacks; `costs` is
    /// what each costs by itself then.
    pub fn least(&self, costs: &[Vec<Cost>]) -> Vec<Vec<Cost>> {
        let of_takes: Vec<Vec<Cost>> = (self.take_of.iter().zip(costs))
            .map(|(take_of, costs)| {
                let mut least = vec![NEVER; self.takes.len()];
                for (take, cost) in take_of.iter().zip(&costs[1..]) {
                    least[*take] = least[*take].min(*cost);
                }
                least
            })
            .collect();
        let mut after = vec![vec![0; self.states]];
        for (of_takes, costs) in of_takes.iter().zip(costs).rev() {
            let later = &after[after.len() - 1];
            let mut least: Vec<Cost> = later.iter().map(|l| add(*l, costs[0])).collect();
            for (take, cost) in self.takes.iter().zip(of_takes) {
                if *cost < NEVER {
                    for from in &take.from {
                        least[*from] = least[*from].min(add(later[from + take.by], *cost));
                    }
                }
            }
            after.push(least);
        }
        after.reverse();
        let mut before = vec![NEVER; self.states];
        before[0] = 0;
        let mut found = Vec::with_capacity(costs.len());
        for (at, (of_takes, costs)) in of_takes.iter().zip(costs).enumerate() {
            let after = &after[at + 1];
            let mut next: Vec<Cost> = before.iter().map(|b| add(*b, costs[0])).collect();
            let given_up = next.iter().zip(after).map(|(n, a)| add(*n, *a));
            let mut own = vec![given_up.min().unwrap_or(NEVER)];
            // What the others cost at least beside each take.
            let mut beside = vec![NEVER; self.takes.len()];
            for ((take, cost), beside) in self.takes.iter().zip(of_takes).zip(&mut beside) {
                for from in &take.from {
                    let to = from + take.by;
                    *beside = (*beside).min(add(before[*from], after[to]));
                    next[to] = next[to].min(add(before[*from], *cost));
                }
            }
            let stacks = self.take_of[at].iter().zip(&costs[1..]);
            own.extend(stacks.map(|(take, cost)| add(beside[*take], *cost)));
            found.push(own);
            before = next;
        }
        found
    }
}

/// What cannot be stays so.
const fn add(a: Cost, b: Cost) -> Cost {
    if a >= NEVER || b >= NEVER {
        NEVER
    } else {
        a + b
    }
}
