//! One check: what the candidates of its places cost it, over all sums that can come of them.

use std::ops::RangeInclusive;

use super::{Boxes, Cost, SummedCheck, UNIT, Weights};
use crate::allocate::AllocateError;
use crate::stock::drawer::Stock;
use crate::units::length::Length;

/// What cannot be.
pub(super) const NEVER: Cost = Cost::MAX / 4;
/// So many sums are told apart; where there are more, neighbours are taken for one, and the bound is the weaker for it.
const MOST_SUMS: i64 = 4_096;
/// More stacks of one drawer than this are not laid out.
const MOST_STACKS: usize = 200_000;

/// What a sum costs, and the stack that sets the check there.
type End = (Cost, Option<u32>);

/// Pieces from a drawer that could set a check.
struct Stack {
    /// What the check's clearance may be without them, in nanometres.
    from: i64,
    to: i64,
    /// The lines of the drawer that they are of, each as often as it takes one.
    lines: Vec<u16>,
}

impl Stack {
    /// What it costs with these prices for the lines of the drawer.
    fn at(&self, prices: &[Cost]) -> Cost {
        self.lines.iter().map(|l| prices[usize::from(*l)]).sum()
    }
}

/// A check and the places that move it.
pub(super) struct Sum {
    /// The places that its candidates differ in, by number within the component.
    pub members: Vec<usize>,
    /// The drawer of its pieces.
    pub drawer: Option<usize>,
    stacks: Vec<Stack>,
    /// For each member and candidate its step along the sums.
    steps: Vec<Vec<usize>>,
    cells: usize,
    low: i64,
    step: i64,
    /// By how much a sum may be above its cell's figure.
    slack: i64,
    out: Cost,
    /// For each cell what it costs, and the stack that sets it there.
    ends: Vec<End>,
}

impl Sum {
    /// A check of boxes; `places` are those of its component, `alive` for each the candidates that count.
    pub fn new(
        boxes: &Boxes,
        weights: Weights,
        check: usize,
        places: &[usize],
        alive: &[Vec<usize>],
    ) -> Result<Self, AllocateError> {
        let of = &boxes.checks[check];
        let adds_of = |p: usize| -> Vec<i64> {
            let adds = |o: &usize| {
                let own = boxes.places[p][*o].widths.iter();
                own.filter(|w| w.check == check).map(|w| w.adds.nm()).sum()
            };
            alive[places.iter().position(|q| *q == p).unwrap_or(0)]
                .iter()
                .map(adds)
                .collect()
        };
        let mut low = of.rest.nm();
        let mut members = Vec::new();
        let mut adds: Vec<Vec<i64>> = Vec::new();
        for (at, p) in places.iter().enumerate() {
            let own = adds_of(*p);
            let least = own.iter().copied().min().unwrap_or(0);
            low += least;
            if own.iter().any(|a| *a != least) {
                members.push(at);
                adds.push(own.into_iter().map(|a| a - least).collect());
            }
        }
        let range: i64 = adds.iter().filter_map(|a| a.iter().max()).sum();
        let common = adds.iter().flatten().fold(0, |g, a| gcd(g, *a)).max(1);
        let step = common.max(range / MOST_SUMS + 1);
        let slack = if step == common {
            0
        } else {
            i64::try_from(members.len()).unwrap_or(0) * (step - 1)
        };
        let cell = |a: &i64| usize::try_from(a / step).unwrap_or(0);
        let steps: Vec<Vec<usize>> = adds
            .iter()
            .map(|of| of.iter().map(cell).collect())
            .collect();
        let cells = 1 + steps.iter().filter_map(|s| s.iter().max()).sum::<usize>();
        let mut sum = Self {
            members,
            drawer: of.set_by.as_ref().map(|s| s.0.drawer),
            stacks: Vec::new(),
            steps,
            cells,
            low,
            step,
            slack,
            out: weights.out,
            ends: Vec::new(),
        };
        sum.lay_out(boxes, of)?;
        Ok(sum)
    }

    /// The stacks of its drawer, and for each the clearances that it sets.
    fn lay_out(&mut self, boxes: &Boxes, of: &SummedCheck) -> Result<(), AllocateError> {
        // Far beyond every sum, and far from the end of whole numbers.
        let far = Cost::MAX / 8;
        let low = of.window.low().map_or(-far, Length::nm);
        let high = of.window.high().map_or(far, Length::nm);
        let Some((place, effect)) = &of.set_by else {
            self.stacks.push(Stack {
                from: low,
                to: high,
                lines: Vec::new(),
            });
            return Ok(());
        };
        let drawer = &boxes.drawers[place.drawer];
        let mut laid = Vec::new();
        let bounds = (place.least_pieces, place.most_pieces);
        stacks_of(drawer, bounds, 0, (0, Vec::new()), &mut laid)?;
        let (first, last) = (self.low, self.low + self.reach());
        for (total, lines) in laid {
            let moved = i64::from(*effect) * (total - place.fitted.nm());
            let (from, to) = (low + moved, high + moved);
            if from <= last && to >= first {
                self.stacks.push(Stack { from, to, lines });
            }
        }
        Ok(())
    }

    /// From the least sum to the most.
    fn reach(&self) -> i64 {
        i64::try_from(self.cells - 1).unwrap_or(0) * self.step + self.slack
    }

    /// Works out anew what each sum costs, with these prices for the lines of its drawer.
    pub fn price(&mut self, prices: &[Cost]) {
        self.ends = self.ends_with(self.out, |at| Some(self.stacks[at].at(prices)));
    }

    /// The same, where giving the check up (first) and each of its stacks costs so much more.
    pub fn price_each(&mut self, prices: &[Cost], more: &[Cost]) {
        let stack = |at: usize| Some(self.stacks[at].at(prices) + more[at + 1]);
        self.ends = self.ends_with(self.out + more[0], stack);
    }

    /// For each cell what it costs with this price of giving the check up and these of the stacks, none for one that cannot
    /// be had.
    fn ends_with(&self, out: Cost, price: impl Fn(usize) -> Option<Cost>) -> Vec<End> {
        let mut by_price: Vec<(Cost, usize)> = (0..self.stacks.len())
            .filter_map(|at| Some((price(at)?, at)))
            .filter(|(price, _)| *price < out)
            .collect();
        by_price.sort_unstable();
        let mut ends = vec![(out, None); self.cells];
        // The next cell from each on that no cheaper stack has taken.
        let mut next: Vec<usize> = (0..=self.cells).collect();
        for (price, at) in by_price {
            let Some(cells) = self.cells_of(&self.stacks[at]) else {
                continue;
            };
            let mut n = find(&mut next, *cells.start());
            while n <= *cells.end() {
                ends[n] = (price, u32::try_from(at).ok());
                next[n] = n + 1;
                n = find(&mut next, n);
            }
        }
        ends
    }

    /// The cells at which a stack sets the check.
    fn cells_of(&self, stack: &Stack) -> Option<RangeInclusive<usize>> {
        let first = (stack.from - self.slack - self.low).max(0);
        let first = usize::try_from((first + self.step - 1) / self.step).ok()?;
        let last = usize::try_from((stack.to - self.low).div_euclid(self.step)).ok()?;
        let last = last.min(self.cells - 1);
        (first <= last).then_some(first..=last)
    }

    /// The lines of each of its stacks.
    pub fn stacks(&self) -> Vec<&[u16]> {
        self.stacks.iter().map(|s| &s.lines[..]).collect()
    }

    /// What the check costs at least where it is given up (first) or set by each of its stacks, with these prices for the
    /// lines of its drawer; `beliefs` is what each candidate costs.
    pub fn by_stack(&self, prices: &[Cost], beliefs: &[Vec<Cost>]) -> Vec<Cost> {
        let mut so_far = vec![0];
        for (steps, costs) in self.steps.iter().zip(beliefs) {
            let reach = steps.iter().max().copied().unwrap_or(0);
            let mut next = vec![NEVER; so_far.len() + reach];
            for (step, cost) in steps.iter().zip(costs) {
                if *cost < NEVER {
                    for (to, from) in next[*step..].iter_mut().zip(&so_far) {
                        if *from < NEVER {
                            *to = (*to).min(from + cost);
                        }
                    }
                }
            }
            so_far = next;
        }
        let least = |cells: RangeInclusive<usize>| so_far[cells].iter().copied().min();
        let given_up = least(0..=self.cells - 1).map_or(NEVER, |l| l + self.out);
        let set = self.stacks.iter().map(|s| {
            let least = self.cells_of(s).and_then(least);
            least.map_or(NEVER, |l| (l + s.at(prices)).min(NEVER))
        });
        [given_up].into_iter().chain(set).collect()
    }

    /// For each member on what it and those after it cost at least, the check among them, from each sum of those before.
    fn onwards(&self, ends: &[End], beliefs: &[Vec<Cost>]) -> Vec<Vec<Cost>> {
        let mut after: Vec<Vec<Cost>> = vec![ends.iter().map(|e| e.0).collect()];
        for (steps, costs) in self.steps.iter().zip(beliefs).rev() {
            let before = &after[after.len() - 1];
            let reach = steps.iter().max().copied().unwrap_or(0);
            let mut least = vec![NEVER; before.len() - reach];
            for (step, cost) in steps.iter().zip(costs) {
                if *cost < NEVER {
                    for (to, from) in least.iter_mut().zip(&before[*step..]) {
                        *to = (*to).min(cost + from);
                    }
                }
            }
            after.push(least);
        }
        after.reverse();
        after
    }

    /// The cheapest candidates of its members with what is left of the lines of its drawer, which the pieces for them are
    /// taken from, and the stack that sets it then; `prices` are those of the lines, `beliefs` what each candidate costs.
    pub fn take(
        &self,
        left: &mut [i64],
        prices: &[Cost],
        beliefs: &[Vec<Cost>],
    ) -> (Vec<usize>, Option<usize>) {
        let is_left = |s: &Stack| {
            let has = |l: &u16| {
                let wanted = s.lines.iter().filter(|o| *o == l).count();
                left[usize::from(*l)] >= i64::try_from(wanted).unwrap_or(i64::MAX)
            };
            s.lines.iter().all(has)
        };
        let price = |at: usize| {
            let stack = &self.stacks[at];
            is_left(stack).then(|| stack.at(prices))
        };
        let ends = self.ends_with(self.out, price);
        let after = self.onwards(&ends, beliefs);
        let mut cell = 0;
        let mut picks = Vec::with_capacity(self.members.len());
        for (at, (steps, costs)) in self.steps.iter().zip(beliefs).enumerate() {
            let open = (0..costs.len()).filter(|o| costs[*o] < NEVER);
            let pick = open.min_by_key(|o| costs[*o] + after[at + 1][cell + steps[*o]]);
            let pick = pick.unwrap_or(0);
            cell += steps[pick];
            picks.push(pick);
        }
        let stack = ends[cell].1.map(|at| at as usize);
        for line in stack.iter().flat_map(|at| &self.stacks[*at].lines) {
            left[usize::from(*line)] -= 1;
        }
        (picks, stack)
    }

    /// The lines of the pieces of one of its stacks.
    pub fn lines_of(&self, stack: usize) -> &[u16] {
        &self.stacks[stack].lines
    }

    /// For each member and candidate the least that the check and its places cost together where that is taken;
    /// `beliefs` is what each candidate costs besides.
    pub fn least(&self, beliefs: &[Vec<Cost>]) -> Vec<Vec<Cost>> {
        let after = self.onwards(&self.ends, beliefs);
        let mut before = vec![0];
        let mut found = Vec::with_capacity(self.members.len());
        for (at, (steps, costs)) in self.steps.iter().zip(beliefs).enumerate() {
            let after = &after[at + 1];
            let reach = steps.iter().max().copied().unwrap_or(0);
            let mut next = vec![NEVER; before.len() + reach];
            let mut own = Vec::with_capacity(costs.len());
            for (step, cost) in steps.iter().zip(costs) {
                let mut least = NEVER;
                if *cost < NEVER {
                    for (n, so_far) in before.iter().enumerate() {
                        least = least.min(so_far + after[n + step]);
                        next[n + step] = next[n + step].min(so_far + cost);
                    }
                    least = (least + cost).min(NEVER);
                }
                own.push(least);
            }
            found.push(own);
            before = next;
        }
        found
    }

    /// The lines of the pieces that set the check at a sum, where some do at these prices.
    pub fn pieces_at(&self, cell: usize) -> &[u16] {
        let stack = self.ends[cell].1.map(|at| &self.stacks[at as usize]);
        stack.map_or(&[], |s| &s.lines)
    }

    /// What the check costs at a sum, at these prices.
    pub fn cost_at(&self, cell: usize) -> Cost {
        self.ends[cell].0
    }

    /// Whether something sets the check at a sum, at these prices.
    pub fn is_set_at(&self, cell: usize) -> bool {
        self.ends[cell].1.is_some()
    }

    /// How far a candidate of a member steps along the sums.
    pub fn step_of(&self, member: usize, option: usize) -> usize {
        self.steps[member][option]
    }
}

/// The next cell from one on that is not taken.
fn find(next: &mut [usize], from: usize) -> usize {
    let mut root = from;
    while next[root] != root {
        root = next[root];
    }
    let mut at = from;
    while next[at] != root {
        at = std::mem::replace(&mut next[at], root);
    }
    root
}

/// All stacks of a drawer with their totals, from the line `at` on, added to one.
fn stacks_of(
    drawer: &[Stock],
    (least, most): (u32, u32),
    at: usize,
    so_far: (i64, Vec<u16>),
    laid: &mut Vec<(i64, Vec<u16>)>,
) -> Result<(), AllocateError> {
    let (total, lines) = so_far;
    let count = u32::try_from(lines.len()).unwrap_or(u32::MAX);
    let Some(stock) = drawer.get(at).filter(|_| count < most) else {
        if count >= least {
            if laid.len() == MOST_STACKS {
                return Err(AllocateError::TooMany);
            }
            laid.push((total, lines));
        }
        return Ok(());
    };
    let line = u16::try_from(at).map_err(|_| AllocateError::TooMany)?;
    for n in 0..=stock.quantity.min(most - count) {
        let mut with = lines.clone();
        with.extend((0..n).map(|_| line));
        let total = total + i64::from(n) * stock.thickness_nm.nm();
        stacks_of(drawer, (least, most), at + 1, (total, with), laid)?;
    }
    Ok(())
}

fn gcd(a: i64, b: i64) -> i64 {
    let (mut a, mut b) = (a, b);
    while b != 0 {
        (a, b) = (b, a % b);
    }
    a
}

/// The least whole tally's cost that is not below a cost.
pub(super) const fn whole(cost: Cost) -> Cost {
    (cost + UNIT - 1).div_euclid(UNIT) * UNIT
}
