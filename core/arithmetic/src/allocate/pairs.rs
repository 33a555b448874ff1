//! Two places that move two checks: the pairs of stacks that land near both targets, without going through all others.
//!
//! The total of both ends sets one check and their split the other, so the totals that give two clearances are one
//! point. Only stacks near it are looked at; how far off all others must land is the bound.

use crate::allocate::stacks::{Band, Laid, Lines, MOST_OPTIONS, Stacks, least_and_most, of_pieces};
use crate::allocate::{BELOW, Cost, FAR, Group, Moved, PIECE, far};
use crate::stock::pieces::PiecesDoubt;

/// The first distance from both targets that is laid out, in nanometres.
const FIRST_RADIUS: f64 = 400.0;
/// The first distance from the target of a check that is laid out where the other is out of its window, in nanometres:
/// very many pairs give any one total.
const FIRST_ONE_OUT: f64 = 1.0;
/// So many of the stacks of a place that come to the same are laid out at first.
const FIRST_OF_EACH: usize = 2;

/// How two places move two checks, and how far their pairs are laid out.
pub(super) struct Pairs {
    /// What the totals change by, for each place, as each clearance shrinks.
    inverse: [[f64; 2]; 2],
    /// Pairs with both checks in their windows are laid out up to this distance from both targets.
    radius: f64,
    /// Every pair with both checks in their windows is laid out.
    both_laid_out: bool,
    /// Those with one check out of its window are laid out up to this distance from the other's target.
    one_out: Option<f64>,
    /// So many of the stacks of a place that come to the same are laid out.
    of_each: usize,
    /// Going further in distance is not what is wanted next: more of those that come to the same are.
    more_alike: bool,
    /// Every stack of both places, once pairs are laid out of which one check is out of its window.
    every: Option<[ByTotal; 2]>,
}

/// What is asked of the group that pairs are laid out for.
pub(super) struct Costing<'c> {
    /// What a check by number costs inside its window, at a clearance and with what the pieces add to its doubt.
    pub cost: &'c dyn Fn(usize, f64, PiecesDoubt) -> Cost,
    /// From where to where a check could reach its required probability, by the least and the most of that.
    pub band: &'c dyn Fn(usize, (PiecesDoubt, f64)) -> Option<Band>,
}

/// The stacks of one place, those that come to the same together, by their totals.
struct ByTotal {
    alike: Vec<Alike>,
    stacks: Vec<Stack>,
    pool: Vec<u16>,
}

/// A stack: where in the pool its pieces begin, how many they are, their total and what they add to a doubt.
#[derive(Clone, Copy)]
struct Stack {
    total: i64,
    added: PiecesDoubt,
    at: usize,
    count: usize,
}

/// Stacks of one total, one number of pieces and one doubt: in any pair they cost the same.
#[derive(Clone, Copy)]
struct Alike {
    first: Stack,
    from: usize,
    to: usize,
}

/// Pairs as they are laid out.
#[derive(Default)]
struct Pile {
    kept: Vec<Laid>,
    /// The least cost of those that are left out, for others come to the same.
    left_out: Option<Cost>,
    /// There are more than can be laid out.
    too_many: bool,
}

impl Pairs {
    /// Of a group of two places and two checks, of which neither moves as the other.
    pub fn of(group: &Group) -> Option<Self> {
        let ([_, _], [a, b]) = (&group.places[..], &group.checks[..]) else {
            return None;
        };
        let (a, b) = (&a.effects, &b.effects);
        let determinant = a[0] * b[1] - a[1] * b[0];
        // Else the split follows from the total, and there is nothing to share out.
        (determinant.abs() > 1e-6).then(|| Self {
            inverse: [
                [b[1] / determinant, -a[1] / determinant],
                [-b[0] / determinant, a[0] / determinant],
            ],
            radius: FIRST_RADIUS,
            both_laid_out: false,
            one_out: None,
            of_each: FIRST_OF_EACH,
            more_alike: false,
            every: None,
        })
    }
}

impl ByTotal {
    fn of(group: &Group, place: usize, lines: &Lines<'_>, range: (f64, f64)) -> Self {
        let at = &group.places[place];
        #[allow(clippy::cast_possible_truncation)] // saturates, far beyond any stack
        let range = (
            (range.0 - 1.0).floor() as i64,
            (range.1 + 1.0).ceil() as i64,
        );
        let mut each = Stacks::new(lines, at.drawer, range);
        let (mut stacks, mut pool) = (Vec::new(), Vec::new());
        for count in at.least_pieces..=at.most_pieces {
            each.each(count as usize, &mut |stack, total| {
                stacks.push(Stack {
                    total,
                    added: of_pieces(lines, stack),
                    at: pool.len(),
                    count: stack.len(),
                });
                pool.extend_from_slice(stack);
            });
        }
        let order = |a: &Stack, b: &Stack| {
            (a.total, a.count)
                .cmp(&(b.total, b.count))
                .then(a.added.variance.total_cmp(&b.added.variance))
                .then(a.added.squares.total_cmp(&b.added.squares))
        };
        stacks.sort_by(order);
        let mut alike: Vec<Alike> = Vec::new();
        for (n, stack) in stacks.iter().enumerate() {
            match alike.last_mut() {
                Some(last) if order(&last.first, stack).is_eq() => last.to = n + 1,
                _ => alike.push(Alike {
                    first: *stack,
                    from: n,
                    to: n + 1,
                }),
            }
        }
        Self {
            alike,
            stacks,
            pool,
        }
    }

    /// The first so many of those alike, each as its pieces.
    fn pieces(&self, alike: &Alike, most: usize) -> impl Iterator<Item = &[u16]> {
        let stacks = &self.stacks[alike.from..alike.to];
        let pool = &self.pool;
        stacks
            .iter()
            .take(most)
            .map(move |s| &pool[s.at..s.at + s.count])
    }

    /// Those whose totals lie from one to another.
    fn within(&self, (from, to): (f64, f64)) -> &[Alike] {
        let first = self
            .alike
            .partition_point(|s| (s.first.total as f64) < from);
        let rest = &self.alike[first..];
        &rest[..rest.partition_point(|s| s.first.total as f64 <= to)]
    }
}

/// The clearances of a check that are within reach, in its window and so near its target; and whether that is all of
/// those in the window.
fn near(check: &Moved, group: &Group, lines: &Lines<'_>, radius: f64) -> (Band, bool) {
    let mut reach = (check.clearance_nm, check.clearance_nm);
    for (place, effect) in group.places.iter().zip(&check.effects) {
        let thickest = lines.stock[lines.drawers[place.drawer].clone()].last();
        let most = thickest.map_or(0.0, |s| s.thickness_nm.as_f64()) * f64::from(place.most_pieces);
        let ends = [0.0, most].map(|total| -effect * (total - place.fitted.as_f64()));
        reach.0 += ends[0].min(ends[1]);
        reach.1 += ends[0].max(ends[1]);
    }
    let all = (
        check.window.low_nm().max(reach.0),
        check.window.high_nm().min(reach.1),
    );
    let (from, to) = (check.aim.from_nm - radius, check.aim.to_nm + radius);
    (
        (all.0.max(from), all.1.min(to)),
        from <= all.0 && to >= all.1,
    )
}

impl Pairs {
    /// Every pair with both checks in their windows is laid out.
    pub fn both_laid_out(&self) -> bool {
        self.both_laid_out
    }

    /// Further from the targets, or more of those that come to the same, whichever is wanted next.
    pub fn go_further(&mut self) {
        if self.more_alike {
            self.of_each *= 4;
        } else if self.both_laid_out {
            self.one_out = Some(self.one_out.map_or(FIRST_ONE_OUT, |r| r * 4.0));
        } else {
            self.radius *= 4.0;
        }
    }

    /// The pairs near both targets; once all that have both checks in are laid out, also those with one of them out that are
    /// near the other's. And the least that any other costs; none where there is no other.
    pub fn lay_out(
        &mut self,
        group: &Group,
        lines: &Lines<'_>,
        of: &Costing<'_>,
    ) -> (Vec<Laid>, Option<Cost>) {
        let near_both = [0, 1].map(|c| near(&group.checks[c], group, lines, self.radius));
        let laid_out = near_both.map(|n| n.1);
        let mut pile = Pile::default();
        self.lay_out_both((group, lines, of), near_both.map(|n| n.0), &mut pile);
        self.both_laid_out = laid_out == [true, true];
        let bands = [0, 1].map(|c| {
            let check = &group.checks[c];
            (of.band)(c, least_and_most(check, &group.places, lines))
        });
        // What a check adds at the least where it lies further off than so much.
        let further = |c: usize, radius: f64| {
            let aim = &group.checks[c].aim;
            let reached = bands[c]
                .is_some_and(|(low, high)| low < aim.from_nm - radius || high > aim.to_nm + radius);
            far(radius) - FAR + if reached { 0 } else { BELOW }
        };
        let unsure = |c: usize| if bands[c].is_none() { BELOW } else { 0 };
        let least = |costs: [Option<Cost>; 2]| costs.into_iter().flatten().min();
        let further_off = if !self.both_laid_out {
            least([0, 1].map(|c| (!laid_out[c]).then(|| further(c, self.radius) + unsure(1 - c))))
        } else if let Some(radius) = self.one_out {
            let near_one = [0, 1].map(|c| near(&group.checks[c], group, lines, radius));
            let every = self.every.take().unwrap_or_else(|| {
                [0, 1].map(|p| ByTotal::of(group, p, lines, (0.0, f64::INFINITY)))
            });
            for c in [0, 1] {
                self.lay_out_one((group, of), &every, (c, near_one[c].0), &mut pile);
            }
            self.every = Some(every);
            least([0, 1].map(|c| {
                let out = group.checks[1 - c].cost_out();
                (!near_one[c].1).then(|| out + further(c, radius))
            }))
        } else {
            least([0, 1].map(|c| Some(group.checks[1 - c].cost_out() + unsure(c))))
        };
        self.more_alike = pile
            .left_out
            .is_some_and(|cost| further_off.is_none_or(|further| cost <= further));
        let beyond = if pile.too_many {
            Some(unsure(0) + unsure(1))
        } else {
            least([pile.left_out, further_off])
        };
        (pile.kept, beyond)
    }

    /// Every pair with both clearances from and to.
    fn lay_out_both(
        &self,
        (group, lines, of): (&Group, &Lines<'_>, &Costing<'_>),
        ends: [Band; 2],
        pile: &mut Pile,
    ) {
        if ends.iter().any(|(from, to)| from > to) {
            return;
        }
        // The clearances are a rectangle, and the totals that give them lie in what its corners span.
        let range = [0, 1].map(|p| {
            let fitted = group.places[p].fitted.as_f64();
            let mut range = (fitted, fitted);
            for (c, (from, to)) in ends.iter().enumerate() {
                let moved =
                    [from, to].map(|e| self.inverse[p][c] * (group.checks[c].clearance_nm - e));
                range.0 += moved[0].min(moved[1]);
                range.1 += moved[0].max(moved[1]);
            }
            range
        });
        let places = [0, 1].map(|p| ByTotal::of(group, p, lines, range[p]));
        for alike in &places[0].alike {
            let within = [0, 1]
                .map(|c| second_total(group, &group.checks[c], alike.first.total, ends[c]))
                .into_iter()
                .fold((f64::NEG_INFINITY, f64::INFINITY), |a, b| {
                    (a.0.max(b.0), a.1.min(b.1))
                });
            self.lay_out_with((group, of), &places, alike, within, pile, |predicted| {
                [0, 1].map(|c| {
                    group.checks[c].window.holds(predicted[c])
                        && (ends[c].0..=ends[c].1).contains(&predicted[c])
                }) == [true, true]
            });
        }
    }

    /// Every pair with the clearance of one check from and to, and the other out of its window.
    fn lay_out_one(
        &self,
        (group, of): (&Group, &Costing<'_>),
        places: &[ByTotal; 2],
        (inside, ends): (usize, Band),
        pile: &mut Pile,
    ) {
        for alike in &places[0].alike {
            let within = second_total(group, &group.checks[inside], alike.first.total, ends);
            self.lay_out_with((group, of), places, alike, within, pile, |predicted| {
                let holds = [0, 1].map(|c| group.checks[c].window.holds(predicted[c]));
                let near = (ends.0..=ends.1).contains(&predicted[inside]);
                near && holds[inside] && !holds[1 - inside]
            });
        }
    }

    /// The pairs of stacks alike with those of the second place within a range that are `wanted` for what they give.
    fn lay_out_with(
        &self,
        (group, of): (&Group, &Costing<'_>),
        places: &[ByTotal; 2],
        alike: &Alike,
        within: Band,
        pile: &mut Pile,
        wanted: impl Fn([f64; 2]) -> bool,
    ) {
        let most = self.of_each;
        for other in places[1].within(within) {
            let pair = [alike, other].map(|a| a.first);
            let predicted = [0, 1].map(|c| group.checks[c].predicted_nm(group, |p| pair[p].total));
            if !wanted(predicted) {
                continue;
            }
            let of_check = |c: usize| {
                let check = &group.checks[c];
                if !check.window.holds(predicted[c]) {
                    return check.cost_out();
                }
                let moved = check.clearance_nm - predicted[c];
                let added = group.added_to(check, |p| pair[p].added, moved);
                (of.cost)(c, predicted[c], added)
            };
            let len = pair[0].count + pair[1].count;
            let cost = of_check(0) + of_check(1) + PIECE * len as Cost;
            if [alike, other].iter().any(|a| a.to - a.from > most) {
                pile.left_out = Some(pile.left_out.map_or(cost, |least| least.min(cost)));
            }
            for left in places[0].pieces(alike, most) {
                for right in places[1].pieces(other, most) {
                    let mut stack = [left, right].concat();
                    stack.push(u16::try_from(left.len()).unwrap_or(u16::MAX));
                    pile.kept.push((cost, len, stack));
                }
            }
            if pile.kept.len() > MOST_OPTIONS {
                pile.too_many = true;
                return;
            }
        }
    }
}

/// From where to where the second total lies for a check to come from and to, with the first as given.
fn second_total(group: &Group, check: &Moved, first: i64, (from, to): Band) -> Band {
    let places = &group.places;
    let left = check.clearance_nm - check.effects[0] * (first - places[0].fitted.nm()) as f64;
    if !check.is_moved_from(1) {
        return if (from..=to).contains(&left) {
            (f64::NEG_INFINITY, f64::INFINITY)
        } else {
            (f64::INFINITY, f64::NEG_INFINITY)
        };
    }
    let ends = [from, to].map(|e| places[1].fitted.as_f64() + (left - e) / check.effects[1]);
    // A hair wider: each pair is held to the clearances themselves.
    (ends[0].min(ends[1]) - 1.0, ends[0].max(ends[1]) + 1.0)
}
