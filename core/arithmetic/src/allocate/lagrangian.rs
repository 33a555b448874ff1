//! Prices of the sizes, and the bound that they give.
//!
//! At any prices not below zero, `Σ min (cost + price of the pieces) − Σ price × stock` is no more
//! than the cost of any sharing-out (Lagrangian relaxation of the stock). All of it is in whole
//! numbers, so the bound is exact.

use crate::allocate::Cost;
use crate::allocate::candidates::{Candidate, Candidates};

/// A branch: a group takes from `least` to `most` of one size.
#[derive(Clone, Copy, Debug)]
pub(super) struct Decision {
    pub group: u32,
    pub line: u16,
    pub least: u16,
    pub most: u16,
}

/// What a group takes at the prices.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Pick {
    /// Nothing at all.
    None,
    /// An option of its list.
    At(usize),
    /// Something that is not laid out.
    Beyond,
    /// What the branch asks of it cannot be had.
    Impossible,
}

/// The most pieces of the sizes in a set of prices that one option takes and that is told apart.
const MOST_USE: usize = 24;
/// So many options are looked at for one raise of prices.
const MOST_LOOKS: usize = 1_000_000;
/// A figure above every cost there is, some hundreds of which still add up.
pub(super) const NEVER: Cost = 1 << 116;

pub(super) struct Market<'m, 'a> {
    pub options: &'m [Candidates<'a>],
    pub quantity: &'m [i64],
    pub prices: Vec<Cost>,
    pub decisions: &'m [Decision],
    /// Costs are taken down to a multiple of this: with the small figures left out, prices of the
    /// order of the large ones are found in few rounds. A bound found so is still one.
    pub grain: Cost,
    /// For each group its decisions, by number.
    of_group: Vec<Vec<usize>>,
}

/// What all groups take on their own at the prices.
pub(super) struct Relaxed {
    pub bound: Cost,
    pub picks: Vec<Pick>,
    /// The cost with prices of what each group picks.
    pub best: Vec<Cost>,
    /// How many of each size are taken.
    pub demand: Vec<i64>,
}

impl<'m, 'a> Market<'m, 'a> {
    /// A market at these prices, with what the branch has decided.
    pub fn new(
        options: &'m [Candidates<'a>],
        quantity: &'m [i64],
        prices: Vec<Cost>,
        decisions: &'m [Decision],
    ) -> Self {
        let mut of_group = vec![Vec::new(); options.len()];
        for (d, decision) in decisions.iter().enumerate() {
            of_group[decision.group as usize].push(d);
        }
        Self {
            options,
            quantity,
            prices,
            decisions,
            grain: 1,
            of_group,
        }
    }

    /// Whether a group may take these sizes, by what the branch has decided.
    pub fn allowed(&self, group: usize, lines: &[u16]) -> bool {
        self.of_group[group].iter().all(|d| {
            let Decision {
                line, least, most, ..
            } = self.decisions[*d];
            let used = lines.iter().filter(|l| **l == line).count();
            (usize::from(least)..=usize::from(most)).contains(&used)
        })
    }

    /// To take nothing, where that is allowed.
    pub fn none(&self, group: usize) -> Option<Cost> {
        self.allowed(group, &[]).then_some(self.options[group].none)
    }

    /// No option that is not laid out costs less than this with prices.
    pub fn beyond(&self, group: usize) -> Option<Cost> {
        let options = &self.options[group];
        let cheapest = || self.prices[options.drawer.clone()].iter().min();
        let pieces = options.fewest as Cost;
        options
            .beyond
            .map(|b| self.coarse(b) + pieces * cheapest().copied().unwrap_or(0))
    }

    const fn coarse(&self, cost: Cost) -> Cost {
        if self.grain == 1 {
            cost
        } else {
            cost / self.grain * self.grain
        }
    }

    /// What an option costs its group at the prices: its own cost and the price of each piece.
    pub fn priced(&self, group: usize, opt: &Candidate) -> Cost {
        let lines = self.options[group].lines_of(opt);
        self.coarse(opt.cost)
            + lines
                .iter()
                .map(|l| self.prices[usize::from(*l)])
                .sum::<Cost>()
    }

    /// The least cost with prices that a group can have.
    fn best_of(&self, group: usize) -> (Cost, Pick) {
        let options = &self.options[group];
        let mut best = (NEVER, Pick::Impossible);
        if let Some(none) = self.none(group) {
            best = (none, Pick::None);
        }
        for (o, opt) in options.all().iter().enumerate() {
            if self.coarse(opt.cost) >= best.0 {
                break;
            }
            let priced = self.priced(group, opt);
            if priced < best.0 && self.allowed(group, options.lines_of(opt)) {
                best = (priced, Pick::At(o));
            }
        }
        // Of equals what is laid out: it says which sizes it takes.
        if let Some(beyond) = self.beyond(group).filter(|b| *b < best.0) {
            best = (beyond, Pick::Beyond);
        }
        best
    }

    /// What all take at the prices; of equals, each takes what is wanted least by those before it.
    pub fn relaxed(&self) -> Relaxed {
        let mut found = Relaxed {
            bound: 0,
            picks: Vec::with_capacity(self.options.len()),
            best: Vec::with_capacity(self.options.len()),
            demand: vec![0; self.quantity.len()],
        };
        for group in 0..self.options.len() {
            let (best, mut pick) = self.best_of(group);
            found.bound += best;
            if matches!(pick, Pick::At(_)) {
                let mut least = i64::MAX;
                for (o, lines) in self.ties(group, best) {
                    let over = self.over(lines, &found.demand);
                    if over < least {
                        least = over;
                        pick = Pick::At(o);
                        if over == 0 {
                            break;
                        }
                    }
                }
            }
            if let Pick::At(o) = pick {
                let options = &self.options[group];
                for line in options.lines_of(&options.all()[o]) {
                    found.demand[usize::from(*line)] += 1;
                }
            }
            found.picks.push(pick);
            found.best.push(best);
        }
        for (price, quantity) in self.prices.iter().zip(self.quantity) {
            found.bound -= price * Cost::from(*quantity);
        }
        found
    }

    /// The options of a group that cost no more than this with prices.
    fn ties(&self, group: usize, best: Cost) -> impl Iterator<Item = (usize, &[u16])> {
        let options = &self.options[group];
        options
            .all()
            .iter()
            .take_while(move |o| self.coarse(o.cost) <= best)
            .enumerate()
            .filter(move |(_, o)| self.priced(group, o) <= best)
            .map(move |(at, o)| (at, options.lines_of(o)))
            .filter(move |(_, lines)| self.allowed(group, lines))
    }

    /// How many pieces more than there are a stack would ask for, on top of what is taken.
    fn over(&self, lines: &[u16], taken: &[i64]) -> i64 {
        lines
            .iter()
            .enumerate()
            .map(|(i, line)| {
                let at = usize::from(*line);
                let before = lines[..i].iter().filter(|l| *l == line).count();
                let then = taken[at] + i64::try_from(before).unwrap_or(0) + 1;
                i64::from(then > self.quantity[at])
            })
            .sum()
    }

    /// Raises and lowers prices as long as that raises the bound, until it reaches `enough` or
    /// `go_on` says no.
    pub fn ascend(&mut self, enough: Cost, go_on: &mut dyn FnMut(Cost) -> bool) -> Relaxed {
        let mut now = self.relaxed();
        // So many rounds must bring the bound a good step nearer.
        let patience = 60.max(4 * self.options.len());
        let mut rounds = 0;
        let mut bound_was = now.bound;
        while now.bound < enough && !now.picks.contains(&Pick::Impossible) && go_on(now.bound) {
            rounds += 1;
            if rounds % patience == 0 {
                // What is left would take longer than to branch.
                if now.bound - bound_was < (enough - now.bound) / 50 {
                    break;
                }
                bound_was = now.bound;
            }
            let steps = [Self::raise_many, Self::raise_one, Self::lower_one];
            let better = steps.into_iter().find_map(|step| {
                let prices = self.prices.clone();
                let then = step(self, &now).then(|| self.relaxed());
                let then = then.filter(|t| t.bound > now.bound);
                if then.is_none() {
                    self.prices = prices;
                }
                then
            });
            match better {
                Some(then) => now = then,
                None => break,
            }
        }
        now
    }

    /// Where there are fewer pieces in all than are wanted, or fewer of the thicker or thinner ones,
    /// every one of them is worth something: a check that needs two costs two.
    fn raise_many(&mut self, now: &Relaxed) -> bool {
        let lines = self.quantity.len();
        let wanted = |set: &[bool]| {
            (0..lines)
                .filter(|l| set[*l])
                .map(|l| now.demand[l] - self.quantity[l])
                .sum::<i64>()
        };
        let mut sets: Vec<(i64, Vec<bool>)> = Vec::new();
        for eighth in 0..8 {
            let cut = lines * eighth / 8;
            let thicker: Vec<bool> = (0..lines).map(|l| l >= cut).collect();
            let thinner: Vec<bool> = (0..lines).map(|l| l < lines - cut).collect();
            for set in [thicker, thinner] {
                let over = wanted(&set);
                if over > 0 {
                    sets.push((-over, set));
                }
            }
        }
        sets.sort();
        sets.dedup();
        sets.into_iter().any(|(_, set)| self.step(&set))
    }

    /// Raises the prices of an overtaken size, with others that the takers could turn to where they
    /// would be overtaken in turn. `false` where no such step raises the bound.
    fn raise_one(&mut self, now: &Relaxed) -> bool {
        let options: usize = self.options.iter().map(|o| o.all().len()).sum();
        // Each growth looks through all options.
        let growths = (MOST_LOOKS / options.max(1)).clamp(3, self.quantity.len().max(3));
        let mut over: Vec<usize> = (0..self.quantity.len())
            .filter(|l| now.demand[*l] > self.quantity[*l])
            .collect();
        over.sort_by_key(|l| self.quantity[*l] - now.demand[*l]);
        for line in over {
            let mut set = vec![false; self.quantity.len()];
            set[line] = true;
            for _ in 0..growths {
                let mut slope: i64 = -(0..set.len())
                    .filter(|l| set[*l])
                    .map(|l| self.quantity[l])
                    .sum::<i64>();
                let mut turned_to: Vec<u16> = Vec::new();
                for group in 0..self.options.len() {
                    let (used, escape) = self.least_use(group, &now.best, &set);
                    slope += used;
                    turned_to.extend(escape);
                }
                if slope > 0 {
                    if self.step(&set) {
                        return true;
                    }
                    break;
                }
                let mut grew = false;
                for line in turned_to.into_iter().map(usize::from) {
                    if !set[line] && now.demand[line] >= self.quantity[line] {
                        set[line] = true;
                        grew = true;
                    }
                }
                if !grew {
                    break;
                }
            }
        }
        false
    }

    /// The least of a set of sizes that a group takes at no more than its best cost, and the sizes
    /// that it takes then.
    fn least_use(&self, group: usize, best: &[Cost], set: &[bool]) -> (i64, Vec<u16>) {
        let best = best[group];
        if self.none(group) == Some(best) || self.beyond(group) == Some(best) {
            return (0, Vec::new());
        }
        let mut least = (i64::MAX, Vec::new());
        for (_, lines) in self.ties(group, best) {
            let used = count_in(lines, set);
            if used < least.0 {
                least = (used, lines.to_vec());
            } else if used == least.0 && used == 0 && least.1.len() < 200 {
                least.1.extend(lines);
            }
        }
        if least.0 == i64::MAX {
            (0, Vec::new())
        } else {
            least
        }
    }

    /// Lowers the price of a size of which some is left.
    fn lower_one(&mut self, now: &Relaxed) -> bool {
        for line in 0..self.quantity.len() {
            if self.prices[line] > 0 && now.demand[line] < self.quantity[line] {
                let mut set = vec![false; self.quantity.len()];
                set[line] = true;
                if self.step(&set) {
                    return true;
                }
            }
        }
        false
    }

    /// Moves the prices of a set of sizes together to where the bound is highest. `false` where that
    /// is where they are.
    fn step(&mut self, set: &[bool]) -> bool {
        let in_set = || (0..set.len()).filter(|l| set[*l]);
        let lowest = -in_set().map(|l| self.prices[l]).min().unwrap_or(0);
        // Each group's cost against the change of price is the lowest of one line for each number
        // of pieces it could take of the set; where the lowest changes, the slope falls.
        let mut slope = -in_set().map(|l| self.quantity[l]).sum::<i64>();
        let mut falls: Vec<(Cost, i64)> = Vec::new();
        for group in 0..self.options.len() {
            let costs = self.costs_by_use(group, set);
            let at = |u: usize, change: Cost| costs[u] + change * u as Cost;
            let Some(mut now) = (0..=MOST_USE)
                .filter(|u| costs[*u] < NEVER)
                .min_by_key(|u| (at(*u, lowest), *u))
            else {
                continue;
            };
            slope += i64::try_from(now).unwrap_or(0);
            while let Some((change, next)) = (0..now)
                .filter(|u| costs[*u] < NEVER)
                .map(|u| (div_ceil(costs[u] - costs[now], (now - u) as Cost), u))
                .min()
            {
                falls.push((change.max(lowest), i64::try_from(now - next).unwrap_or(0)));
                now = next;
            }
        }
        let mut change = lowest;
        if slope > 0 {
            falls.sort_unstable();
            let mut found = None;
            for (at, fall) in falls {
                slope -= fall;
                if slope <= 0 {
                    found = Some(at);
                    break;
                }
            }
            // Never where the groups must take more than there is: any price is too low.
            let Some(at) = found else {
                return false;
            };
            change = at;
        }
        if change == 0 {
            return false;
        }
        for (price, _) in self.prices.iter_mut().zip(set).filter(|(_, set)| **set) {
            *price += change;
        }
        true
    }

    /// The least cost with prices of a group for each number of pieces it could take of a set.
    fn costs_by_use(&self, group: usize, set: &[bool]) -> [Cost; MOST_USE + 1] {
        let options = &self.options[group];
        let mut costs = [NEVER; MOST_USE + 1];
        if let Some(none) = self.none(group) {
            costs[0] = none;
        }
        if let Some(beyond) = self.beyond(group) {
            let lines = options.drawer.clone();
            let all = lines.clone().all(|l| set[l]);
            let used = if all { options.fewest.min(MOST_USE) } else { 0 };
            costs[used] = costs[used].min(beyond);
        }
        for opt in options.all() {
            if self.coarse(opt.cost) >= costs[0] {
                break;
            }
            let lines = options.lines_of(opt);
            let used = usize::try_from(count_in(lines, set))
                .unwrap_or(0)
                .min(MOST_USE);
            let priced = self.priced(group, opt);
            if priced < costs[used] && self.allowed(group, lines) {
                costs[used] = priced;
            }
        }
        costs
    }
}

fn count_in(lines: &[u16], set: &[bool]) -> i64 {
    let inside = lines.iter().filter(|l| set[usize::from(**l)]).count();
    i64::try_from(inside).unwrap_or(i64::MAX)
}

fn div_ceil(a: Cost, b: Cost) -> Cost {
    a.div_euclid(b) + Cost::from(a.rem_euclid(b) != 0)
}
