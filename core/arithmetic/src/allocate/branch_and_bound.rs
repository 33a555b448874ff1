//! The search: drawers that share no check apart from each other, each by branch and bound.

use std::cmp::Reverse;
use std::collections::BinaryHeap;
use std::rc::Rc;

use crate::allocate::candidates::{Candidates, Own, pinned};
use crate::allocate::lagrangian::{Decision, Market, NEVER, Pick, Relaxed};
use crate::allocate::stacks::{Lines, MOST_OPTIONS};
use crate::allocate::state_space::{self, Settled};
use crate::allocate::{
    AllocateError, Allocation, Assignment, BELOW, Cost, Group, OUT, Progress, tally,
};
use crate::choose::pieces;
use crate::stock::drawer::Stock;

type GoOn<'g> = &'g mut dyn FnMut(&Progress) -> bool;
/// More options than this are laid out for a proof only, and not to try things out.
const MOST_TO_TRY: usize = 60_000;
/// So many steps from one state of what is left to the next are taken before branching.
const MOST_STEPS_AT_FIRST: usize = 100_000;
/// And so many in each branch.
const MOST_STEPS: usize = 4_000;
/// Where so many branches did not settle it, all of it is tried again, in so many steps for one line of the drawers; the
/// more lines there are, the longer a step takes.
const LATE: u64 = 200;
const MOST_STEPS_LATE: usize = 160_000_000;
/// Where they were too few in a branch, it is tried again after twice as many branches each time, and this many at the most.
const MOST_PASSED_OVER: u64 = 256;
/// Told the best cost, the bound and the branches looked at; whether to go on.
type Ask<'g> = &'g mut dyn FnMut(Cost, Cost, u64) -> bool;

pub(super) fn allocate(
    groups: &[Group],
    drawers: &[Vec<Stock>],
    go_on: GoOn<'_>,
) -> Result<Allocation, AllocateError> {
    let mut lines = Lines::new(drawers);
    if lines.stock.len() > usize::from(u16::MAX) {
        return Err(AllocateError::TooMany);
    }
    let mut settled: Vec<Option<Own>> = vec![None; groups.len()];
    let mut settled_cost = 0;
    for (g, group) in groups.iter().enumerate() {
        let Some(stacks) = &group.pinned else {
            continue;
        };
        settled[g] = pinned(group, stacks, &lines);
        take(&mut lines.quantity, settled[g].as_ref(), -1);
        settled_cost += match &settled[g] {
            Some(own) => group.cost_with(&own.stacks(&lines)),
            None => group.cost_of_none(),
        };
    }
    let mut parts = Vec::new();
    for members in components(groups, drawers.len()) {
        let options = members
            .iter()
            .map(|g| Candidates::new(&groups[*g], &lines))
            .collect::<Result<Vec<_>, _>>()?;
        parts.push((members, Part::new(options, &lines)));
    }
    let checks: usize = groups.iter().map(|g| g.checks.len()).sum();
    let mut going = true;
    for at in 0..parts.len() {
        let others: (Cost, Cost, u64) = parts.iter().enumerate().filter(|(i, _)| *i != at).fold(
            (settled_cost, settled_cost, 0),
            |(cost, bound, n), (_, (_, p))| (cost + p.cost(), bound + p.bound, n + p.looked_at),
        );
        let mut ask = |cost: Cost, bound: Cost, looked_at: u64| {
            going = going
                && go_on(&Progress {
                    tally: tally(cost + others.0, checks),
                    bound: tally(bound + others.1, checks),
                    looked_at: looked_at + others.2,
                });
            going
        };
        parts[at].1.solve(&mut ask);
    }
    let (mut cost, mut bound, mut looked_at) = (settled_cost, settled_cost, 0);
    for (members, part) in &parts {
        cost += part.cost();
        bound += part.bound;
        looked_at += part.looked_at;
        for (g, own) in members.iter().zip(&part.best) {
            settled[*g].clone_from(own);
        }
    }
    let taken = settled.iter().zip(groups).map(|(own, group)| {
        let stacks = own.as_ref()?.stacks(&lines);
        Some(Assignment {
            outcomes: group.outcomes(&stacks),
            stacks: stacks.iter().map(|s| pieces(s)).collect(),
        })
    });
    Ok(Allocation {
        groups: taken.collect(),
        tally: tally(cost, checks),
        bound: tally(bound, checks),
        proven: bound >= cost,
        looked_at,
    })
}

/// The groups, parted so that no two parts draw from one drawer.
fn components(groups: &[Group], drawers: usize) -> Vec<Vec<usize>> {
    let mut of_drawer: Vec<usize> = (0..drawers).collect();
    for group in groups {
        let mut ends = group.places.iter().map(|p| of_drawer[p.drawer]);
        if let Some(first) = ends.next() {
            let others: Vec<usize> = ends.collect();
            for of in &mut of_drawer {
                if others.contains(of) {
                    *of = first;
                }
            }
        }
    }
    let mut parts: Vec<(usize, Vec<usize>)> = Vec::new();
    for (g, group) in groups
        .iter()
        .enumerate()
        .filter(|(_, g)| g.pinned.is_none())
    {
        // A group without a place takes nothing; it stands alone.
        let of = group
            .places
            .first()
            .map_or(drawers + g, |p| of_drawer[p.drawer]);
        match parts.iter_mut().find(|p| p.0 == of) {
            Some(part) => part.1.push(g),
            None => parts.push((of, vec![g])),
        }
    }
    parts.into_iter().map(|p| p.1).collect()
}

/// Groups that draw from the same drawers.
struct Part<'a> {
    options: Vec<Candidates<'a>>,
    lines: &'a Lines<'a>,
    quantity: &'a [i64],
    best: Vec<Option<Own>>,
    bound: Cost,
    looked_at: u64,
    /// From this branch on what is left of the contested sizes is tried again.
    settle_from: u64,
    /// How many branches were passed over before that.
    passed_over: u64,
    /// In so many steps.
    most_steps: usize,
}

/// A branch still to be looked at.
struct Branch {
    bound: Cost,
    decisions: Vec<Decision>,
    prices: Rc<Vec<Cost>>,
}

impl<'a> Part<'a> {
    fn new(options: Vec<Candidates<'a>>, lines: &'a Lines<'a>) -> Self {
        let quantity = &lines.quantity[..];
        let mut part = Self {
            best: vec![None; options.len()],
            options,
            lines,
            quantity,
            bound: 0,
            looked_at: 0,
            settle_from: 0,
            passed_over: 0,
            most_steps: MOST_STEPS_AT_FIRST,
        };
        part.bound = part.market(vec![0; quantity.len()], &[]).relaxed().bound;
        let order: Vec<usize> = (0..part.options.len()).collect();
        part.best = part.greedy(&order, &vec![0; quantity.len()]);
        part
    }

    fn market<'m>(&'m self, prices: Vec<Cost>, decisions: &'m [Decision]) -> Market<'m, 'a> {
        Market::new(&self.options, self.quantity, prices, decisions)
    }

    /// What the best found costs.
    fn cost(&self) -> Cost {
        cost_of(&self.options, &self.best)
    }

    fn solve(&mut self, ask: Ask<'_>) {
        // Of branches with equal bounds the newest first: it is the nearest to an answer.
        let mut heap = BinaryHeap::from([(Reverse(self.bound), 0)]);
        let mut branches = vec![Some(Branch {
            bound: self.bound,
            decisions: Vec::new(),
            prices: Rc::new(vec![0; self.quantity.len()]),
        })];
        let mut whole = None;
        while let Some((Reverse(bound), number)) = heap.pop() {
            let Some(branch) = branches[number].take() else {
                continue;
            };
            self.bound = self.bound.max(bound.min(self.cost()));
            if bound >= self.cost() {
                return;
            }
            if !ask(self.cost(), self.bound, self.looked_at) {
                return;
            }
            self.looked_at += 1;
            let mut put = |branch: Branch| {
                heap.push((Reverse(branch.bound), branches.len()));
                branches.push(Some(branch));
            };
            let was = branch.bound;
            self.most_steps = if self.looked_at == 1 {
                MOST_STEPS_AT_FIRST
            } else {
                MOST_STEPS
            };
            let reached = self.look(&branch, &mut put, ask);
            if let Err(bound) = reached {
                // Stopped, or more options than are laid out: the bound stands at the lowest there is.
                let others = heap.peek().map_or(NEVER, |(Reverse(b), _)| *b);
                self.bound = bound.max(was).min(others).min(self.cost());
                return;
            }
            if self.looked_at == 1 {
                whole = branches.last().and_then(Option::as_ref).map(|b| Branch {
                    bound: was,
                    decisions: Vec::new(),
                    prices: Rc::clone(&b.prices),
                });
            } else if self.looked_at == LATE
                && whole
                    .take()
                    .is_some_and(|whole| self.is_settled(&whole, ask))
            {
                break;
            }
        }
        self.bound = self.cost();
    }

    /// Whether a branch is settled in many steps, without being parted.
    fn is_settled(&mut self, branch: &Branch, ask: Ask<'_>) -> bool {
        self.settle_from = 0;
        self.most_steps = MOST_STEPS_LATE / self.quantity.len().max(1);
        let mut parted = false;
        let reached = self.look(branch, &mut |_| parted = true, ask);
        reached.is_ok() && !parted
    }

    /// Looks at one branch: bounds it, finds what it suggests, and parts it where it is still open.
    /// What it was bounded to, where it could not be finished.
    fn look(
        &mut self,
        branch: &Branch,
        put: &mut impl FnMut(Branch),
        ask: Ask<'_>,
    ) -> Result<(), Cost> {
        let mut prices = (*branch.prices).clone();
        let (now, prices) = loop {
            let known = self.cost();
            let mut market = self.market(prices, &branch.decisions);
            if market.too_much() {
                return Ok(());
            }
            let (least, looked_at) = (self.bound, self.looked_at);
            let mut going = true;
            let root = looked_at == 1;
            let mut go_on = |bound: Cost| {
                going = ask(
                    known,
                    if root { bound.max(least) } else { least },
                    looked_at,
                );
                going
            };
            for grain in [OUT, BELOW].into_iter().filter(|_| root) {
                market.grain = grain;
                market.ascend(known, &mut go_on);
            }
            market.grain = 1;
            let now = market.ascend(known, &mut go_on);
            prices = market.prices;
            if root {
                self.bound = self.bound.max(now.bound.min(known));
            }
            if now.bound >= known || now.picks.contains(&Pick::Impossible) {
                return Ok(());
            }
            self.try_out(&now, &prices, ask);
            if now.bound >= self.cost() {
                return Ok(());
            }
            if !going {
                return Err(now.bound);
            }
            // Every option that could be part of something better must be laid out.
            let gap = self.cost() - now.bound;
            let market = self.market(prices, &branch.decisions);
            let open = |g: &usize| {
                let beyond = market.beyond(*g);
                beyond.is_some_and(|b| b - now.best[*g] < gap)
            };
            let short: Vec<usize> = (0..self.options.len()).filter(open).collect();
            prices = market.prices;
            if short.is_empty() {
                break (now, prices);
            }
            let lines = self.lines;
            for g in short {
                self.options[g].extend(lines);
            }
            if self.laid_out() > MOST_OPTIONS {
                return Err(now.bound);
            }
        };
        let market = self.market(prices, &branch.decisions);
        match self.settle(&market, &now, ask) {
            Settled::NoBetter => return Ok(()),
            Settled::Better(picks) => {
                self.best = own_picks(&self.options, &picks);
                return Ok(());
            }
            Settled::Stopped => return Err(now.bound),
            Settled::TooMany => {}
        }
        let Some((group, line, least)) = market.undecided(&now, self.cost() - now.bound) else {
            // Nothing is left open that could be better than what these picks give.
            let laid_out = |pick: &Pick| match pick {
                Pick::At(option) => Some(*option),
                _ => None,
            };
            let picks: Vec<Option<usize>> = now.picks.iter().map(laid_out).collect();
            let picked = own_picks(&self.options, &picks);
            if fits(&picked, self.quantity) && cost_of(&self.options, &picked) < self.cost() {
                self.best = picked;
            }
            return Ok(());
        };
        let prices = Rc::new(market.prices);
        if self.looked_at >= self.settle_from {
            self.passed_over = (2 * self.passed_over).clamp(1, MOST_PASSED_OVER);
            self.settle_from = self.looked_at + self.passed_over;
        }
        for (least, most) in [(0, least - 1), (least, u16::MAX)] {
            let mut decisions = branch.decisions.clone();
            decisions.push(Decision {
                group: u32::try_from(group).unwrap_or(u32::MAX),
                line,
                least,
                most,
            });
            put(Branch {
                bound: now.bound,
                decisions,
                prices: Rc::clone(&prices),
            });
        }
        Ok(())
    }

    /// What is left open by these prices, settled by what is left of the contested sizes.
    fn settle(&self, market: &Market<'_, '_>, now: &Relaxed, ask: Ask<'_>) -> Settled {
        if self.looked_at < self.settle_from {
            return Settled::TooMany;
        }
        let known = self.cost();
        let mut go_on = || ask(known, self.bound, self.looked_at);
        state_space::settle(market, now, known, self.most_steps, &mut go_on)
    }

    /// Makes sharings-out of what the prices suggest, and keeps the best.
    fn try_out(&mut self, now: &Relaxed, prices: &[Cost], ask: Ask<'_>) {
        // Those first who would lose the most without what they pick.
        let mut order: Vec<usize> = (0..self.options.len()).collect();
        let loss = |g: usize| {
            let options = &self.options[g];
            match now.picks[g] {
                Pick::At(o) => {
                    let next = options.all().get(o + 1).map_or(options.none, |n| n.cost);
                    next - options.all()[o].cost
                }
                _ => 0,
            }
        };
        order.sort_by_key(|g| Reverse(loss(*g)));
        let tried = self.greedy(&order, prices);
        let was = std::mem::replace(&mut self.best, tried);
        self.improve(ask);
        if cost_of(&self.options, &was) <= self.cost() {
            self.best = was;
        }
    }

    /// Each group in turn takes what is cheapest with prices of what is left.
    fn greedy(&mut self, order: &[usize], prices: &[Cost]) -> Vec<Option<Own>> {
        let mut left = self.quantity.to_vec();
        let mut taken: Vec<Option<Own>> = vec![None; self.options.len()];
        for g in order {
            let own = self.cheapest(*g, &left, prices, NEVER);
            take(&mut left, own.as_ref(), -1);
            taken[*g] = own;
        }
        taken
    }

    /// The cheapest option with prices that what is left allows, below a cost; lays out more where
    /// none of those known does.
    fn cheapest(&mut self, g: usize, left: &[i64], prices: &[Cost], below: Cost) -> Option<Own> {
        loop {
            let options = &self.options[g];
            let most = options.none.min(below);
            let mut best: Option<(Cost, usize)> = None;
            for (o, opt) in options.all().iter().enumerate() {
                if opt.cost >= most || best.is_some_and(|b| opt.cost >= b.0) {
                    break;
                }
                let lines = options.lines_of(opt);
                let price: Cost = lines.iter().map(|l| prices[usize::from(*l)]).sum();
                let sum = opt.cost + price;
                if best.is_none_or(|b| sum < b.0) && allows(lines, left) {
                    best = Some((sum, o));
                }
            }
            if let Some((_, o)) = best {
                return Some(options.copy(&options.all()[o]));
            }
            let lines = self.lines;
            let no_more = options.beyond.is_none_or(|b| b >= most);
            if no_more || self.laid_out() > MOST_TO_TRY || !self.options[g].extend(lines) {
                return None;
            }
        }
    }

    /// Moves one group, or one and another that is in its way, as long as that is better.
    fn improve(&mut self, ask: Ask<'_>) {
        let free = vec![0; self.quantity.len()];
        let mut left = self.quantity.to_vec();
        for own in &self.best {
            take(&mut left, own.as_ref(), -1);
        }
        for _ in 0..20 {
            let mut better = false;
            for g in 0..self.options.len() {
                if !ask(self.cost(), self.bound, self.looked_at) {
                    return;
                }
                better |= self.move_one(g, &mut left, &free) || self.move_two(g, &mut left, &free);
            }
            if !better {
                return;
            }
        }
    }

    fn laid_out(&self) -> usize {
        self.options.iter().map(|o| o.all().len()).sum()
    }

    fn own_cost(&self, g: usize) -> Cost {
        self.best[g]
            .as_ref()
            .map_or(self.options[g].none, |o| o.cost)
    }

    fn move_one(&mut self, g: usize, left: &mut [i64], free: &[Cost]) -> bool {
        let now = self.own_cost(g);
        take(left, self.best[g].as_ref(), 1);
        let found = self.cheapest(g, left, free, now);
        let better = found.is_some();
        if better {
            self.best[g] = found;
        }
        take(left, self.best[g].as_ref(), -1);
        better
    }

    /// A group takes a better option that one other group is in the way of, which finds another.
    fn move_two(&mut self, g: usize, left: &mut [i64], free: &[Cost]) -> bool {
        let now = self.own_cost(g);
        let wanted: Vec<Own> = {
            let options = &self.options[g];
            let cheaper = options.all().iter().take_while(|o| o.cost < now).take(12);
            cheaper.map(|o| options.copy(o)).collect()
        };
        take(left, self.best[g].as_ref(), 1);
        for own in wanted {
            for other in 0..self.options.len() {
                let in_the_way = other != g
                    && self.best[other]
                        .as_ref()
                        .is_some_and(|o| o.lines.iter().any(|l| own.lines.contains(l)));
                if !in_the_way {
                    continue;
                }
                take(left, self.best[other].as_ref(), 1);
                if allows(&own.lines, left) {
                    take(left, Some(&own), -1);
                    let most = self.own_cost(other) + now - own.cost;
                    let found = self.cheapest(other, left, free, most);
                    let nothing = self.options[other].none < most;
                    if found.is_some() || nothing {
                        take(left, found.as_ref(), -1);
                        self.best[other] = found;
                        self.best[g] = Some(own);
                        return true;
                    }
                    take(left, Some(&own), 1);
                }
                take(left, self.best[other].as_ref(), -1);
            }
        }
        take(left, self.best[g].as_ref(), -1);
        false
    }
}

impl Market<'_, '_> {
    /// Whether the branch asks for more of a size than there is.
    fn too_much(&self) -> bool {
        let mut asked = vec![0; self.quantity.len()];
        for (d, decision) in self.decisions.iter().enumerate() {
            let Decision { group, line, .. } = *decision;
            // Of several decisions on one, the one that asks for the most.
            let most = self
                .decisions
                .iter()
                .filter(|o| o.group == group && o.line == line);
            let strictest = most.map(|o| o.least).max().unwrap_or(0);
            let first = self.decisions[..d]
                .iter()
                .all(|o| o.group != group || o.line != line);
            if first {
                asked[usize::from(line)] += i64::from(strictest);
            }
        }
        asked.iter().zip(self.quantity).any(|(a, q)| a > q)
    }

    /// A group and a size of which it could take more or less in what could still be better, where
    /// that matters to the bound: `least` parts the two.
    fn undecided(&self, now: &Relaxed, room: Cost) -> Option<(usize, u16, u16)> {
        let matters: Vec<Option<(i64, Cost)>> = (0..self.quantity.len())
            .map(|l| {
                let over = now.demand[l] - self.quantity[l];
                (over > 0 || self.prices[l] > 0).then_some((over.max(0), self.prices[l]))
            })
            .collect();
        let mut best: Option<(Weight, usize, u16, u16)> = None;
        for (g, options) in self.options.iter().enumerate() {
            // The least and most that the group could take of each size that matters.
            let mut ends: Vec<(u16, u16, u16)> = Vec::new();
            let most_cost = now.best[g] + room;
            let mut count = 0_u32;
            for opt in options.all().iter().take_while(|o| o.cost < most_cost) {
                let lines = options.lines_of(opt);
                if self.priced(g, opt) >= most_cost || !self.allowed(g, lines) {
                    continue;
                }
                count += 1;
                for (i, line) in lines.iter().enumerate() {
                    if matters[usize::from(*line)].is_none() || lines[..i].contains(line) {
                        continue;
                    }
                    let used =
                        u16::try_from(lines.iter().filter(|l| *l == line).count()).unwrap_or(0);
                    match ends.iter_mut().find(|e| e.0 == *line) {
                        Some(end) => *end = (*line, end.1.min(used), end.2.max(used)),
                        None if count == 1 => ends.push((*line, used, used)),
                        None => ends.push((*line, 0, used)),
                    }
                }
                for end in &mut ends {
                    if !lines.contains(&end.0) {
                        end.1 = 0;
                    }
                }
            }
            let none = self.none(g).is_some_and(|n| n < most_cost);
            let picked = match now.picks[g] {
                Pick::At(o) => options.lines_of(&options.all()[o]),
                _ => &[],
            };
            for (line, least, most) in ends {
                let least = if none { 0 } else { least };
                let Some((over, price)) = matters[usize::from(line)] else {
                    continue;
                };
                if least == most {
                    continue;
                }
                let used =
                    u16::try_from(picked.iter().filter(|l| **l == line).count()).unwrap_or(0);
                let part = if used > least { used } else { used + 1 };
                let weight = (over, Cost::from(u8::from(used > 0)), price);
                if part > least && part <= most && best.is_none_or(|b| weight > b.0) {
                    best = Some((weight, g, line, part));
                }
            }
        }
        best.map(|(_, g, line, part)| (g, line, part))
    }
}

/// How much a split matters: by how many pieces the size is overtaken, whether the group takes it
/// now, and its price.
type Weight = (i64, Cost, Cost);

/// The options of these numbers by themselves.
fn own_picks(options: &[Candidates<'_>], picks: &[Option<usize>]) -> Vec<Option<Own>> {
    let own = |(pick, options): (&Option<usize>, &Candidates<'_>)| {
        pick.map(|option| options.copy(&options.all()[option]))
    };
    picks.iter().zip(options).map(own).collect()
}

fn cost_of(options: &[Candidates<'_>], taken: &[Option<Own>]) -> Cost {
    taken
        .iter()
        .zip(options)
        .map(|(own, options)| own.as_ref().map_or(options.none, |o| o.cost))
        .sum()
}

fn fits(taken: &[Option<Own>], quantity: &[i64]) -> bool {
    let mut left = quantity.to_vec();
    for own in taken {
        take(&mut left, own.as_ref(), -1);
    }
    left.iter().all(|l| *l >= 0)
}

/// Puts back (+1) or takes (−1) the pieces of an option.
fn take(left: &mut [i64], own: Option<&Own>, by: i64) {
    for line in own.iter().flat_map(|o| &o.lines) {
        left[usize::from(*line)] += by;
    }
}

/// Whether what is left has these pieces.
fn allows(lines: &[u16], left: &[i64]) -> bool {
    lines.iter().enumerate().all(|(i, line)| {
        let before = lines[..i].iter().filter(|l| *l == line).count();
        left[usize::from(*line)] > i64::try_from(before).unwrap_or(i64::MAX)
    })
}
