//! Places and checks that hang together: what they cost at least, and branching on what that leaves open.

mod nearby;

use std::collections::BTreeSet;
use std::rc::Rc;

use super::scarce::Scarce;
use super::sums::{NEVER, Sum, whole};
use super::{Boxes, Cost, UNIT, Weights};
use crate::allocate::{AllocateError, Progress};
use nearby::Near;

/// How often the costs are shared out before the first branch, at most.
const PASSES_AT_FIRST: usize = 80;
/// How often they are at a branch, at most.
const PASSES: usize = 6;
/// How often the prices of what is short are raised or lowered.
const PRICINGS: usize = 40;
/// So many branches of sharing the pieces of a box out are looked at, on the way and where the box is settled.
const A_LOOK: u64 = 200;
pub(super) const A_LONG_LOOK: u64 = 20_000;
/// So often a box is put together check by check in another order, as long as none of so many is better.
const ORDERS: usize = 60;
const ORDERS_IN_VAIN: usize = 12;
/// After so many branches the best box is searched for a better one near it.
const STRIDE: u64 = 100;
/// So many boxes tried are remembered.
const MOST_TRIED: usize = 100_000;

/// What each check has taken of the cost of its candidates: for each check, member and candidate.
type Messages = Vec<Vec<Vec<Cost>>>;
/// What each candidate of each place costs with what the checks say.
type Beliefs = Vec<Vec<Cost>>;

/// Asked whether to go on.
type Ask<'a, 'b> = &'a mut dyn FnMut(&Component<'b>) -> bool;

/// Places and checks that hang together.
pub(super) struct Component<'a> {
    boxes: &'a Boxes,
    weights: Weights,
    places: Vec<usize>,
    checks: Vec<usize>,
    /// For each place the candidates of which none costs less and is as wide.
    options: Vec<Vec<usize>>,
    /// What each of them costs by itself.
    own: Beliefs,
    sums: Vec<Sum>,
    /// For each place the checks that it moves, and which of their members it is.
    moves: Vec<Vec<(usize, usize)>>,
    /// For each drawer of the boxes the number of its first line.
    first_line: Vec<usize>,
    quantity: Vec<i64>,
    /// The drawers that are shared out in every way; the lines of the others have prices.
    scarce: Vec<Scarce>,
    prices: Vec<Cost>,
    /// The best found: its cost and its options.
    best: (Cost, Vec<usize>),
    /// Nothing costs less.
    bound: Cost,
    /// What boxes cost at least whose pieces could not be shared out in time.
    unsettled: Cost,
    tried: BTreeSet<Vec<usize>>,
    pub looked_at: u64,
}

/// A part of what is open.
struct Branch {
    /// For each place which of its options count.
    alive: Vec<u64>,
    messages: Rc<Messages>,
    bound: Cost,
}

impl<'a> Component<'a> {
    /// These places and checks, with the best of each place by itself for a first box.
    pub fn new(
        boxes: &'a Boxes,
        weights: Weights,
        places: Vec<usize>,
        checks: Vec<usize>,
    ) -> Result<Self, AllocateError> {
        let options: Vec<Vec<usize>> = places
            .iter()
            .map(|p| undominated(boxes, weights, *p))
            .collect();
        let own: Beliefs = (places.iter().zip(&options))
            .map(|(p, of)| {
                of.iter()
                    .map(|o| weights.cost(&boxes.places[*p][*o]))
                    .collect()
            })
            .collect();
        let sum = |j: &usize| Sum::new(boxes, weights, *j, &places, &options);
        let sums: Vec<Sum> = checks.iter().map(sum).collect::<Result<_, _>>()?;
        let mut moves = vec![Vec::new(); places.len()];
        for (j, sum) in sums.iter().enumerate() {
            for (member, place) in sum.members.iter().enumerate() {
                moves[*place].push((j, member));
            }
        }
        let mut first_line = Vec::new();
        let mut quantity = Vec::new();
        for drawer in &boxes.drawers {
            first_line.push(quantity.len());
            quantity.extend(drawer.iter().map(|s| i64::from(s.quantity)));
        }
        let cheapest = |of: &Vec<Cost>| (0..of.len()).min_by_key(|o| of[*o]).unwrap_or(0);
        let mut component = Self {
            best: (NEVER, own.iter().map(cheapest).collect()),
            bound: 0,
            unsettled: NEVER,
            prices: vec![0; quantity.len()],
            scarce: Vec::new(),
            tried: BTreeSet::new(),
            looked_at: 0,
            boxes,
            weights,
            places,
            checks,
            options,
            own,
            sums,
            moves,
            first_line,
            quantity,
        };
        component.scarce = component.scarce(false);
        component.price();
        component.try_out(component.best.1.clone(), A_LOOK)?;
        Ok(component)
    }

    /// Whether a place, as the boxes have it, is one of them.
    pub fn has(&self, place: usize) -> bool {
        self.places.contains(&place)
    }

    /// What the best found costs.
    pub const fn cost(&self) -> Cost {
        self.best.0
    }

    /// Nothing costs less.
    pub const fn bound(&self) -> Cost {
        self.bound
    }

    /// Puts the candidates of the best found at their places.
    pub fn put(&self, picks: &mut [usize]) {
        for ((place, options), o) in self.places.iter().zip(&self.options).zip(&self.best.1) {
            picks[*place] = options[*o];
        }
    }

    /// Searches until nothing is open, or nobody wants it any more.
    pub fn search(&mut self, ask: Ask<'_, 'a>) -> Result<(), AllocateError> {
        let all = |of: &Vec<usize>| u64::MAX >> (64 - of.len());
        let alive: Vec<u64> = self.options.iter().map(all).collect();
        let mut messages: Messages = (self.sums.iter())
            .map(|s| {
                s.members
                    .iter()
                    .map(|p| vec![0; self.options[*p].len()])
                    .collect()
            })
            .collect();
        self.at_first(&alive, &mut messages, ask)?;
        let first = Rc::new(messages);
        let mut near = Near::new(self);
        let mut next = self.looked_at + STRIDE;
        let mut open = vec![Branch {
            alive,
            messages: Rc::clone(&first),
            bound: self.bound,
        }];
        while let Some(branch) = open.pop() {
            if branch.bound >= self.best.0 {
                continue;
            }
            let least = open.iter().map(|b| b.bound).fold(branch.bound, Cost::min);
            let least = least.min(self.unsettled).min(self.best.0);
            self.bound = self.bound.max(least);
            self.looked_at += 1;
            if !ask(self) || !self.split(branch, &mut open, ask)? {
                return Ok(());
            }
            if self.looked_at >= next {
                self.look_nearby(&first, &mut near, ask)?;
                next = self.looked_at + STRIDE;
            }
        }
        self.bound = self.best.0.min(self.unsettled);
        Ok(())
    }

    /// Shares the costs out, and prices what is short, before anything is branched on.
    fn at_first(
        &mut self,
        alive: &[u64],
        messages: &mut Messages,
        ask: Ask<'_, 'a>,
    ) -> Result<(), AllocateError> {
        let mut best = (0, self.prices.clone(), messages.clone());
        let mut picks = self.passes(PASSES_AT_FIRST, alive, messages, &mut best, ask)?;
        let mut halvings = 0;
        for _ in 0..PRICINGS {
            let gap = self.best.0 - best.0;
            if self.bound >= self.best.0 || !ask(self) || !self.raise(&picks, gap, halvings) {
                break;
            }
            let before = best.0;
            let then = self.passes(PASSES, alive, messages, &mut best, ask)?;
            if best.0 > before {
                picks = then;
            } else {
                // Too far.
                (_, self.prices, *messages) = best.clone();
                self.price();
                halvings += 1;
            }
        }
        (_, self.prices, *messages) = best.clone();
        if self.bound < self.best.0 && self.prices.iter().any(|p| *p > 0) {
            self.scarce = self.scarce(true);
            for at in 0..self.scarce.len() {
                let first = self.lines_of(&self.sums[self.scarce[at].checks[0]]).start;
                for line in &self.scarce[at].contested {
                    self.prices[first + line] = 0;
                }
            }
            self.passes(PASSES_AT_FIRST, alive, messages, &mut best, ask)?;
            *messages = best.2;
        }
        // What is left is really there, so it has no price.
        let none = vec![0; self.prices.len()];
        let prices = std::mem::replace(&mut self.prices, none);
        self.price();
        self.check_by_check(alive, ask)?;
        self.prices = prices;
        self.price();
        Ok(())
    }

    /// So many passes at most, as long as they raise the bound; the best of them and of those before is kept. What the last
    /// of them would pick.
    fn passes(
        &mut self,
        most: usize,
        alive: &[u64],
        messages: &mut Messages,
        best: &mut (Cost, Vec<Cost>, Messages),
        ask: Ask<'_, 'a>,
    ) -> Result<Vec<usize>, AllocateError> {
        let mut beliefs = self.own.clone();
        let mut last = -NEVER;
        for pass in 0..most {
            let bound = self.pass(alive, messages, &mut beliefs);
            if bound > best.0 {
                *best = (bound, self.prices.clone(), messages.clone());
                self.bound = whole(bound).min(self.best.0);
            }
            if pass % 8 == 0 || pass + 1 == most {
                let picks = self.descend(decode(&beliefs), alive);
                self.try_out(picks, A_LOOK)?;
            }
            if self.bound >= self.best.0 || bound - last < UNIT || !ask(self) {
                break;
            }
            last = bound;
        }
        Ok(decode(&beliefs))
    }

    /// Puts boxes together check by check, each with the pieces that those before it leave; those that could not be set go
    /// first the next time.
    fn check_by_check(&mut self, alive: &[u64], ask: Ask<'_, 'a>) -> Result<(), AllocateError> {
        let mut order: Vec<usize> = (0..self.sums.len()).collect();
        let mut in_vain = 0;
        for _ in 0..ORDERS {
            // More could be set than are.
            let is_open = self.bound / self.weights.out < self.best.0 / self.weights.out;
            if !is_open || in_vain == ORDERS_IN_VAIN || !ask(self) {
                break;
            }
            let (picks, out) = self.in_order(&order, alive);
            let before = self.best.0;
            self.try_out(picks.clone(), A_LOOK)?;
            let better = self.descend(picks, alive);
            self.try_out(better, A_LOOK)?;
            in_vain = if self.best.0 < before { 0 } else { in_vain + 1 };
            if out.is_empty() {
                break;
            }
            let (mut first, rest): (Vec<usize>, Vec<usize>) =
                order.into_iter().partition(|j| out.contains(j));
            first.extend(rest);
            order = first;
        }
        Ok(())
    }

    /// A box put together check by check in an order, and the checks that could not be set in it.
    fn in_order(&self, order: &[usize], alive: &[u64]) -> (Vec<usize>, Vec<usize>) {
        let mut costs = self.own.clone();
        for (of, alive) in costs.iter_mut().zip(alive) {
            for (o, cost) in of.iter_mut().enumerate() {
                if alive >> o & 1 == 0 {
                    *cost = NEVER;
                }
            }
        }
        let mut left = self.quantity.clone();
        let mut out = Vec::new();
        for j in order {
            if self
                .put_in(*j, &mut costs, &mut left, &self.prices)
                .is_none()
            {
                out.push(*j);
            }
        }
        (decode(&costs), out)
    }

    /// Sets a check as cheaply as can be with what is left, its places then cost nothing but what they have: the stack that
    /// sets it.
    fn put_in(
        &self,
        check: usize,
        costs: &mut Beliefs,
        left: &mut [i64],
        prices: &[Cost],
    ) -> Option<usize> {
        let sum = &self.sums[check];
        let of: Beliefs = sum.members.iter().map(|p| costs[*p].clone()).collect();
        let lines = self.lines_of(sum);
        let (picks, stack) = sum.take(&mut left[lines.clone()], &prices[lines], &of);
        for (place, pick) in sum.members.iter().zip(picks) {
            for (o, cost) in costs[*place].iter_mut().enumerate() {
                if o != pick {
                    *cost = NEVER;
                }
            }
        }
        stack
    }

    /// The lines of the drawer of a check.
    fn lines_of(&self, sum: &Sum) -> std::ops::Range<usize> {
        sum.drawer.map_or(0..0, |drawer| {
            let first = self.first_line[drawer];
            first..first + self.boxes.drawers[drawer].len()
        })
    }

    /// One pass: each scarce drawer shares its cost out among its checks, each check its own among its places. What
    /// everything costs at least.
    fn pass(&mut self, alive: &[u64], messages: &mut Messages, beliefs: &mut Beliefs) -> Cost {
        self.ask_for_scarce(alive, messages);
        *beliefs = self.beliefs(alive, messages);
        let mut fixed = 0;
        for (sum, messages) in self.sums.iter().zip(messages) {
            let count = Cost::try_from(sum.members.len()).unwrap_or(Cost::MAX);
            if count == 0 {
                fixed += sum.cost_at(0);
                continue;
            }
            let mut without: Beliefs = Vec::with_capacity(sum.members.len());
            for (place, message) in sum.members.iter().zip(&*messages) {
                let own = beliefs[*place].iter().zip(message);
                without.push(
                    own.map(|(b, m)| if *b < NEVER { b - m } else { NEVER })
                        .collect(),
                );
            }
            let least = sum.least(&without);
            for (member, place) in sum.members.iter().enumerate() {
                for (o, least) in least[member].iter().enumerate() {
                    if *least < NEVER {
                        let part = least.div_euclid(count);
                        messages[member][o] = part - without[member][o];
                        beliefs[*place][o] = part;
                    }
                }
            }
        }
        fixed + least_of(beliefs) - self.paid()
    }

    /// Each scarce drawer asks of its checks what it costs the others that one takes what it does.
    fn ask_for_scarce(&mut self, alive: &[u64], messages: &Messages) {
        for scarce in &self.scarce {
            let count = Cost::try_from(scarce.checks.len()).unwrap_or(Cost::MAX);
            let own = |j: &usize| -> Vec<Cost> {
                let sum = &self.sums[*j];
                let members = sum.members.iter().zip(&messages[*j]);
                let prices = &self.prices[self.lines_of(sum)];
                let taken: Beliefs = members
                    .map(|(place, messages)| {
                        let of = messages.iter().enumerate();
                        of.map(|(o, m)| {
                            if alive[*place] >> o & 1 == 1 {
                                -m
                            } else {
                                NEVER
                            }
                        })
                        .collect()
                    })
                    .collect();
                sum.by_stack(prices, &taken)
            };
            let own: Vec<Vec<Cost>> = scarce.checks.iter().map(own).collect();
            let least = scarce.least(&own);
            for ((j, own), least) in scarce.checks.iter().zip(own).zip(least) {
                let asked: Vec<Cost> = (own.into_iter().zip(least))
                    .map(|(own, least)| {
                        let cannot_be = own >= NEVER || least >= NEVER;
                        if cannot_be {
                            NEVER
                        } else {
                            least.div_euclid(count) - own
                        }
                    })
                    .collect();
                let lines = self.lines_of(&self.sums[*j]);
                self.sums[*j].price_each(&self.prices[lines], &asked);
            }
        }
    }

    /// The drawers of which what is contested is shared out in every way: all lines of which there may be too few, or, where
    /// they are priced, of the others' those that have a price, dearest first, as many as there can be.
    fn scarce(&self, priced: bool) -> Vec<Scarce> {
        let of_drawer = |drawer: usize| {
            let checks: Vec<usize> = (0..self.sums.len())
                .filter(|j| self.sums[*j].drawer == Some(drawer))
                .collect();
            let lines = self.lines_of(self.sums.get(*checks.first()?)?);
            let stacks: Vec<Vec<&[u16]>> = checks.iter().map(|j| self.sums[*j].stacks()).collect();
            let most = |line: usize| -> usize {
                let count = |s: &&[u16]| s.iter().filter(|l| usize::from(**l) == line).count();
                let most = |of: &Vec<&[u16]>| of.iter().map(count).max().unwrap_or(0);
                stacks.iter().map(most).sum()
            };
            let quantity = &self.quantity[lines.clone()];
            let is_short =
                |line: &usize| i64::try_from(most(*line)).unwrap_or(i64::MAX) > quantity[*line];
            let mut contested: Vec<usize> = (0..lines.len()).filter(is_short).collect();
            let with = |contested: &[usize]| {
                Scarce::new(checks.clone(), quantity, contested.to_vec(), &stacks)
            };
            if let Some(whole) = with(&contested).filter(|_| !contested.is_empty()) {
                return Some(whole);
            }
            let price = |line: &usize| self.prices[lines.start + line];
            contested.retain(|line| priced && price(line) > 0);
            contested.sort_by_key(|line| std::cmp::Reverse(price(line)));
            (1..=contested.len())
                .rev()
                .find_map(|n| with(&contested[..n]))
        };
        (0..self.boxes.drawers.len())
            .filter_map(of_drawer)
            .collect()
    }

    /// What each candidate costs with what the checks say.
    fn beliefs(&self, alive: &[u64], messages: &Messages) -> Beliefs {
        let mut beliefs = self.own.clone();
        for (place, of) in beliefs.iter_mut().enumerate() {
            for (o, belief) in of.iter_mut().enumerate() {
                let said = self.moves[place].iter();
                *belief += said
                    .map(|(j, member)| messages[*j][*member][o])
                    .sum::<Cost>();
                if alive[place] >> o & 1 == 0 {
                    *belief = NEVER;
                }
            }
        }
        beliefs
    }

    /// Looks at a branch: it is done with, or its parts are put on what is open. Whether to go on.
    fn split(
        &mut self,
        mut branch: Branch,
        open: &mut Vec<Branch>,
        ask: Ask<'_, 'a>,
    ) -> Result<bool, AllocateError> {
        let mut messages = (*branch.messages).clone();
        let mut beliefs = Vec::new();
        let mut bound = branch.bound;
        for _ in 0..PASSES {
            let now = self.pass(&branch.alive, &mut messages, &mut beliefs);
            let gain = now - bound;
            bound = bound.max(whole(now));
            if bound >= self.best.0 {
                return Ok(true);
            }
            // What would cost as much as the best does not count any more.
            for (place, of) in beliefs.iter_mut().enumerate() {
                let least = of.iter().copied().fold(NEVER, Cost::min);
                for (o, belief) in of.iter_mut().enumerate() {
                    if *belief < NEVER && now + (*belief - least) > self.best.0 - UNIT {
                        *belief = NEVER;
                        branch.alive[place] &= !(1 << o);
                    }
                }
            }
            if branch.alive.contains(&0) {
                return Ok(true);
            }
            if gain < UNIT {
                break;
            }
        }
        let picks = decode(&beliefs);
        let undecided = (0..self.places.len()).filter(|p| branch.alive[*p].count_ones() > 1);
        let Some(place) = undecided.min_by_key(|p| {
            let mut sorted: Vec<Cost> =
                beliefs[*p].iter().copied().filter(|b| *b < NEVER).collect();
            sorted.sort_unstable();
            // The fewest options; of those, the one whose best stands out the most.
            (sorted.len(), sorted[0] - sorted[1])
        }) else {
            if !self.try_out(picks, A_LONG_LOOK)? {
                self.unsettled = self.unsettled.min(bound);
            }
            return Ok(true);
        };
        let better = self.descend(picks, &branch.alive);
        self.try_out(better, A_LOOK)?;
        if !ask(self) {
            open.push(branch);
            return Ok(false);
        }
        let messages = Rc::new(messages);
        let mut parts: Vec<usize> = (0..self.options[place].len())
            .filter(|o| branch.alive[place] >> o & 1 == 1)
            .collect();
        // The one that promises the most is looked at first.
        parts.sort_by_key(|o| std::cmp::Reverse(beliefs[place][*o]));
        for o in parts {
            let mut alive = branch.alive.clone();
            alive[place] = 1 << o;
            open.push(Branch {
                alive,
                messages: Rc::clone(&messages),
                bound,
            });
        }
        Ok(true)
    }

    /// Better options as long as one place, or two of a check that is out, finds some.
    fn descend(&self, mut picks: Vec<usize>, alive: &[u64]) -> Vec<usize> {
        let mut cells: Vec<usize> = (self.sums.iter())
            .map(|s| {
                let steps = s.members.iter().enumerate();
                steps.map(|(m, p)| s.step_of(m, picks[*p])).sum()
            })
            .collect();
        let open = |p: usize| (0..self.options[p].len()).filter(move |o| alive[p] >> o & 1 == 1);
        for _ in 0..20 {
            let mut better = false;
            for place in 0..picks.len() {
                for o in open(place) {
                    if self.moved(&picks, &cells, &[(place, o)]) < 0 {
                        self.make(&mut picks, &mut cells, (place, o));
                        better = true;
                    }
                }
            }
            for j in 0..self.sums.len() {
                if self.sums[j].is_set_at(cells[j]) {
                    continue;
                }
                let members = &self.sums[j].members;
                let pairs = members.iter().enumerate().flat_map(|(m, a)| {
                    let others = members[m + 1..].iter();
                    others.flat_map(move |b| open(*a).map(move |o| (*a, o, *b)))
                });
                let mut found = None;
                'pairs: for (a, o, b) in pairs {
                    for q in open(b) {
                        if self.moved(&picks, &cells, &[(a, o), (b, q)]) < 0 {
                            found = Some([(a, o), (b, q)]);
                            break 'pairs;
                        }
                    }
                }
                for to in found.into_iter().flatten() {
                    self.make(&mut picks, &mut cells, to);
                    better = true;
                }
            }
            if !better {
                break;
            }
        }
        picks
    }

    /// By how much the cost changes where these places take these options.
    fn moved(&self, picks: &[usize], cells: &[usize], to: &[(usize, usize)]) -> Cost {
        let mut by = 0;
        for (place, o) in to {
            by += self.own[*place][*o] - self.own[*place][picks[*place]];
        }
        for (at, (place, _)) in to.iter().enumerate() {
            for (j, _) in &self.moves[*place] {
                let counted = to[..at]
                    .iter()
                    .any(|(p, _)| self.moves[*p].iter().any(|m| m.0 == *j));
                if counted {
                    continue;
                }
                let sum = &self.sums[*j];
                let mut cell = cells[*j];
                for (place, o) in to {
                    if let Some((_, member)) = self.moves[*place].iter().find(|m| m.0 == *j) {
                        cell += sum.step_of(*member, *o);
                        cell -= sum.step_of(*member, picks[*place]);
                    }
                }
                by += sum.cost_at(cell) - sum.cost_at(cells[*j]);
            }
        }
        by
    }

    fn make(&self, picks: &mut [usize], cells: &mut [usize], (place, o): (usize, usize)) {
        for (j, member) in &self.moves[place] {
            cells[*j] += self.sums[*j].step_of(*member, o);
            cells[*j] -= self.sums[*j].step_of(*member, picks[place]);
        }
        picks[place] = o;
    }

    /// Looks at what a box costs, with the pieces really shared out in so many branches at most; whether that settles it.
    fn try_out(&mut self, picks: Vec<usize>, branches: u64) -> Result<bool, AllocateError> {
        let own: Cost = picks.iter().zip(&self.own).map(|(o, of)| of[*o]).sum();
        if own >= self.best.0 || self.tried.contains(&picks) {
            return Ok(true);
        }
        let mut all = vec![0; self.boxes.places.len()];
        for ((place, options), o) in self.places.iter().zip(&self.options).zip(&picks) {
            all[*place] = options[*o];
        }
        let go_on = |p: &Progress| p.looked_at < branches;
        let shared = self.boxes.shared_among(&self.checks, &all, go_on)?;
        let out = Cost::try_from(self.checks.len() - shared.inside).unwrap_or(Cost::MAX);
        let cost = own + self.weights.out * out;
        if cost < self.best.0 {
            self.best = (cost, picks.clone());
        }
        if shared.proven && self.tried.len() < MOST_TRIED {
            self.tried.insert(picks);
        }
        Ok(shared.proven)
    }

    /// What the stock is worth at these prices.
    fn paid(&self) -> Cost {
        self.prices
            .iter()
            .zip(&self.quantity)
            .map(|(p, q)| p * q)
            .sum()
    }

    /// Raises the price of what these options want more of than there is, and lowers it of what they leave; whether that
    /// changed any.
    fn raise(&mut self, picks: &[usize], gap: Cost, halvings: u32) -> bool {
        let mut over: Vec<i64> = self.quantity.iter().map(|q| -q).collect();
        for sum in self.sums.iter().filter(|s| !self.is_scarce(s)) {
            let lines = self.lines_of(sum);
            let steps = sum.members.iter().enumerate();
            let cell: usize = steps.map(|(m, p)| sum.step_of(m, picks[*p])).sum();
            for line in sum.pieces_at(cell) {
                over[lines.start + usize::from(*line)] += 1;
            }
        }
        let matters = |(o, p): (&i64, &Cost)| *o > 0 || *p > 0;
        let norm: i64 = (over.iter().zip(&self.prices))
            .filter(|x| matters(*x))
            .map(|(o, _)| o * o)
            .sum();
        if norm == 0 {
            return false;
        }
        let step = (gap.max(UNIT) / norm) >> halvings;
        let mut changed = false;
        for (over, price) in over.iter().zip(&mut self.prices) {
            let now = (*price + step * over).clamp(0, self.weights.out);
            if *over > 0 || *price > 0 {
                changed |= now != *price;
                *price = now;
            }
        }
        self.price();
        changed
    }

    /// Prices the sums of all checks.
    fn price(&mut self) {
        for at in 0..self.sums.len() {
            let lines = self.lines_of(&self.sums[at]);
            self.sums[at].price(&self.prices[lines]);
        }
    }

    /// Whether the drawer of a check is shared out in every way.
    fn is_scarce(&self, sum: &Sum) -> bool {
        let of = |s: &Scarce| s.checks.first().map(|j| self.sums[*j].drawer);
        self.scarce.iter().any(|s| of(s) == Some(sum.drawer))
    }
}

/// The candidates of a place of which none costs no more and adds the same to every check.
fn undominated(boxes: &Boxes, weights: Weights, place: usize) -> Vec<usize> {
    let of = &boxes.places[place];
    let adds = |o: usize| -> Vec<i64> {
        let mut adds = vec![0; boxes.checks.len()];
        for width in &of[o].widths {
            adds[width.check] += width.adds.nm();
        }
        adds
    };
    let mut by_cost: Vec<usize> = (0..of.len()).collect();
    by_cost.sort_by_key(|o| weights.cost(&of[*o]));
    let mut seen = BTreeSet::new();
    by_cost.retain(|o| seen.insert(adds(*o)));
    by_cost
}

/// The cheapest candidate of each place.
fn decode(beliefs: &Beliefs) -> Vec<usize> {
    let cheapest = |of: &Vec<Cost>| (0..of.len()).min_by_key(|o| of[*o]).unwrap_or(0);
    beliefs.iter().map(cheapest).collect()
}

fn least_of(beliefs: &Beliefs) -> Cost {
    let least = |of: &Vec<Cost>| of.iter().copied().fold(NEVER, Cost::min);
    beliefs.iter().map(least).sum()
}
