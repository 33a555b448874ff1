//! Better boxes near the best one.

use std::rc::Rc;

use super::{Ask, Beliefs, Branch, Component, Messages, decode};
use crate::allocate::AllocateError;
use crate::allocate::donors::Cost;
use crate::allocate::donors::sums::NEVER;

/// So many neighbourhoods are searched through at a time, in so many branches each at most.
const NEIGHBOURHOODS: usize = 4;
const BRANCHES_NEARBY: u64 = 40;
/// So many places are open in the first of them.
const OPEN_AT_FIRST: usize = 10;
/// So often a few checks are taken out and put in again at a time, and so many at most.
const TAKEN_OUT: usize = 200;
const MOST_TAKEN_OUT: usize = 8;

/// Where the best box is searched around.
pub(super) struct Near {
    chance: u64,
    /// So many places are open.
    open: usize,
    standing: Standing,
}

/// A box with what sets each of its checks.
#[derive(Clone)]
struct Standing {
    picks: Vec<usize>,
    /// For each check the stack that sets it.
    stacks: Vec<Option<usize>>,
    /// What is left of each line.
    left: Vec<i64>,
    cost: Cost,
}

impl Near {
    /// Around the best that there is before the first branch.
    pub fn new(of: &Component<'_>) -> Self {
        let standing = of.standing(&of.best.1, (0..of.sums.len()).collect());
        Self {
            chance: 1,
            open: OPEN_AT_FIRST,
            standing,
        }
    }

    /// Figures that look like chance, the same for the same boxes.
    fn below(&mut self, n: usize) -> usize {
        self.chance = self
            .chance
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        usize::try_from(self.chance >> 33).unwrap_or(0) % n
    }

    fn shuffled(&mut self, mut of: Vec<usize>) -> Vec<usize> {
        for at in (1..of.len()).rev() {
            let with = self.below(at + 1);
            of.swap(at, with);
        }
        of
    }
}

impl<'a> Component<'a> {
    /// Looks for a better box near the best.
    pub(super) fn look_nearby(
        &mut self,
        first: &Rc<Messages>,
        near: &mut Near,
        ask: Ask<'_, 'a>,
    ) -> Result<(), AllocateError> {
        if near.standing.cost > self.best.0 {
            let from_best =
                self.standing(&self.best.1, near.shuffled((0..self.sums.len()).collect()));
            if from_best.cost < near.standing.cost {
                near.standing = from_best;
            }
        }
        for _ in 0..TAKEN_OUT {
            let again = self.put_in_again(near);
            if again.cost <= near.standing.cost {
                near.standing = again;
                if near.standing.cost < self.best.0 {
                    self.try_out(near.standing.picks.clone(), super::A_LOOK)?;
                }
            }
            if !ask(self) {
                return Ok(());
            }
        }
        for _ in 0..NEIGHBOURHOODS {
            self.search_around(first, near, ask)?;
        }
        Ok(())
    }

    /// A box of these options, its checks set one after another with what those before leave.
    fn standing(&self, picks: &[usize], order: Vec<usize>) -> Standing {
        let mut left = self.quantity.clone();
        let mut costs: Beliefs = (0..picks.len()).map(|p| self.only(p, picks[p])).collect();
        let mut stacks = vec![None; self.sums.len()];
        for j in order {
            stacks[j] = self.put_in(j, &mut costs, &mut left, &self.prices);
        }
        self.stands(picks.to_vec(), stacks, left)
    }

    fn stands(&self, picks: Vec<usize>, stacks: Vec<Option<usize>>, left: Vec<i64>) -> Standing {
        let own: Cost = picks.iter().zip(&self.own).map(|(o, of)| of[*o]).sum();
        let out = stacks.iter().filter(|s| s.is_none()).count();
        Standing {
            cost: own + self.weights.out * Cost::try_from(out).unwrap_or(Cost::MAX),
            picks,
            stacks,
            left,
        }
    }

    /// What the options of a place cost where only one is open.
    fn only(&self, place: usize, option: usize) -> Vec<Cost> {
        let own = self.own[place].iter().enumerate();
        own.map(|(o, cost)| if o == option { *cost } else { NEVER })
            .collect()
    }

    /// The box with a few checks that hang together taken out and set again in another order.
    fn put_in_again(&self, near: &mut Near) -> Standing {
        let most = MOST_TAKEN_OUT.min(self.sums.len());
        let count = 1 + near.below(most);
        let mut checks = vec![near.below(self.sums.len())];
        // What could not be set is tried again more often.
        let out: Vec<usize> = (0..self.sums.len())
            .filter(|j| near.standing.stacks[*j].is_none())
            .collect();
        if !out.is_empty() && near.below(2) == 0 {
            checks[0] = out[near.below(out.len())];
        }
        while checks.len() < count {
            checks.push(self.beside(&checks, near));
        }
        let from = &near.standing;
        let mut left = from.left.clone();
        let mut stacks = from.stacks.clone();
        for j in &checks {
            let start = self.lines_of(&self.sums[*j]).start;
            if let Some(stack) = stacks[*j].take() {
                for line in self.sums[*j].lines_of(stack) {
                    left[start + usize::from(*line)] += 1;
                }
            }
        }
        let is_held = |(j, _): &(usize, usize)| stacks[*j].is_some();
        let is_open = |p: usize| {
            let is_taken_out = |(j, _): &(usize, usize)| checks.contains(j);
            self.moves[p].iter().any(is_taken_out) && !self.moves[p].iter().any(is_held)
        };
        let mut costs: Beliefs = (0..from.picks.len())
            .map(|p| {
                if is_open(p) {
                    self.own[p].clone()
                } else {
                    self.only(p, from.picks[p])
                }
            })
            .collect();
        let scale = [0, self.weights.worn, self.weights.new, self.weights.out / 4][near.below(4)];
        let mut prices = self.prices.clone();
        for price in &mut prices {
            let part = Cost::try_from(near.below(1_024)).unwrap_or(0);
            *price += scale / 1_024 * part;
        }
        for j in near.shuffled(checks) {
            stacks[j] = self.put_in(j, &mut costs, &mut left, &prices);
        }
        self.stands(decode(&costs), stacks, left)
    }

    /// Another check that shares a place with some, now and then any other.
    fn beside(&self, checks: &[usize], near: &mut Near) -> usize {
        let shares = |j: &usize| {
            let mut with = checks.iter().flat_map(|c| &self.sums[*c].members);
            with.any(|p| self.sums[*j].members.contains(p))
        };
        let others = (0..self.sums.len()).filter(|j| !checks.contains(j));
        let (beside, apart): (Vec<usize>, Vec<usize>) = others.partition(shares);
        let any = beside.is_empty() || near.below(4) == 0 && !apart.is_empty();
        let of = if any { apart } else { beside };
        of[near.below(of.len())]
    }

    /// Searches the boxes that differ from the best in the places of a few checks that hang together.
    fn search_around(
        &mut self,
        first: &Rc<Messages>,
        near: &mut Near,
        ask: Ask<'_, 'a>,
    ) -> Result<(), AllocateError> {
        let mut is_open = vec![false; self.places.len()];
        let mut checks = Vec::new();
        while is_open.iter().filter(|o| **o).count() < near.open && checks.len() < self.sums.len() {
            let next = if checks.is_empty() {
                near.below(self.sums.len())
            } else {
                self.beside(&checks, near)
            };
            for place in &self.sums[next].members {
                is_open[*place] = true;
            }
            checks.push(next);
        }
        let before = self.best.0;
        let mut open = vec![Branch {
            alive: self.around_best(&is_open),
            messages: Rc::clone(first),
            bound: 0,
        }];
        let end = self.looked_at + BRANCHES_NEARBY;
        while let Some(branch) = open.pop() {
            if branch.bound >= self.best.0 {
                continue;
            }
            if self.looked_at == end {
                near.open = (near.open * 7 / 8).max(OPEN_AT_FIRST / 2);
                return Ok(());
            }
            self.looked_at += 1;
            if !ask(self) || !self.split(branch, &mut open, ask)? {
                return Ok(());
            }
        }
        if self.best.0 == before && near.open < self.places.len() {
            near.open += 1;
        }
        Ok(())
    }

    /// The options of the best, and all of the places that are open.
    fn around_best(&self, is_open: &[bool]) -> Vec<u64> {
        let of = self.options.iter().zip(&self.best.1).zip(is_open);
        of.map(|((options, best), open)| {
            if *open {
                u64::MAX >> (64 - options.len())
            } else {
                1 << best
            }
        })
        .collect()
    }
}
