//! What a group can take: its stacks by cost, laid out only as far as they are needed.

use std::cell::RefCell;
use std::collections::HashMap;

use crate::allocate::pairs::{Costing, Pairs};
use crate::allocate::stacks::{Band, Laid, Lines, MOST_OPTIONS, Stacks, least_and_most, of_pieces};
use crate::allocate::{AllocateError, BELOW, Cost, FAR, Group, Moved, PIECE, Place, far};
use crate::choose::{Doubt, SLACK, SizeCount};
use crate::stock::drawer::Stock;
use crate::stock::pieces::PiecesDoubt;

/// The first distance from the target that is laid out, in nanometres.
const FIRST_RADIUS: f64 = 400.0;
/// So many stacks are enough to begin with.
const ENOUGH: usize = 48;
/// More first parts of stacks than this are not gone through.
const MOST_PREFIXES: u64 = 2_000_000;
/// Nearer than this to the edge of a band, which is found by halving, the chance itself is asked.
const EDGE_NM: f64 = 2.0;

/// A stack, or one for each place of a group, with what it costs.
#[derive(Clone, Copy)]
pub(super) struct Candidate {
    pub cost: Cost,
    at: u32,
    len: u16,
}

/// An option by itself.
#[derive(Clone, Debug)]
pub(super) struct Own {
    pub cost: Cost,
    pub lines: Vec<u16>,
    /// How many of them each place takes, but for the last, which takes the rest.
    counts: Vec<u16>,
}

impl Own {
    /// The pieces of each place.
    pub fn stacks<'a>(&self, lines: &Lines<'a>) -> Vec<Vec<&'a Stock>> {
        let mut rest = &self.lines[..];
        let mut stacks = Vec::new();
        for count in &self.counts {
            let (these, others) = rest.split_at(usize::from(*count));
            stacks.push(these);
            rest = others;
        }
        stacks.push(rest);
        let stock = |l: &u16| lines.stock[usize::from(*l)];
        stacks
            .into_iter()
            .map(|s| s.iter().map(stock).collect())
            .collect()
    }
}

/// By check, and by the variance and the squares of what pieces add to its doubt.
type Bands = HashMap<(usize, [u64; 2]), Option<Band>>;

/// The options of one group, cheapest first.
pub(super) struct Candidates<'a> {
    pub group: &'a Group,
    list: Vec<Candidate>,
    pool: Vec<u16>,
    /// No option that is not laid out costs less than this; none where all are.
    pub beyond: Option<Cost>,
    /// To take nothing costs this.
    pub none: Cost,
    /// The lines of its drawer, where it draws from one.
    pub drawer: std::ops::Range<usize>,
    /// No stack in the window has fewer pieces than this.
    pub fewest: usize,
    radius: f64,
    /// Where two places move two checks: how they do.
    pairs: Option<Pairs>,
    /// By check and by what its pieces add, where the chance reaches the required probability.
    bands: RefCell<Bands>,
}

impl<'a> Candidates<'a> {
    /// The options of a group, the cheapest first, as far as they are laid out at the start.
    ///
    /// # Errors
    /// What [`AllocateError`] names of the groups and the drawers.
    pub fn new(group: &'a Group, lines: &Lines<'_>) -> Result<Self, AllocateError> {
        let mut options = Self {
            group,
            list: Vec::new(),
            pool: Vec::new(),
            beyond: None,
            none: group.cost_of_none(),
            drawer: group
                .places
                .first()
                .map_or(0..0, |p| lines.drawers[p.drawer].clone()),
            fewest: 0,
            radius: FIRST_RADIUS,
            pairs: Pairs::of(group),
            bands: RefCell::default(),
        };
        let room = |p: &Place| {
            crate::choose::half_stacks::multisets(
                lines.drawers[p.drawer].len() as u64,
                u64::from(p.most_pieces.saturating_sub(1)),
            )
        };
        let simple = group.places.len() == 1 && group.checks.len() == 1;
        if group.places.iter().map(room).max().unwrap_or(0) > MOST_PREFIXES {
            return Err(AllocateError::TooMany);
        }
        if simple {
            options.fewest = fewest(group, lines);
            options.lay_out_near(lines);
            while options.too_few() && options.extend(lines) {}
        } else if options.pairs.is_some() {
            options.lay_out_pairs(lines);
            while options.wants_pairs() && options.extend(lines) {}
        } else {
            options.lay_out_all(lines)?;
        }
        Ok(options)
    }

    /// Few options, or few of those with the fewest pieces, which are wanted where pieces are scarce.
    fn too_few(&self) -> bool {
        let fewest = self.fewest.max(self.group.places[0].least_pieces as usize);
        let small = self.list.iter().filter(|o| usize::from(o.len) <= fewest);
        self.list.len() < ENOUGH || (small.count() < ENOUGH / 6 && self.list.len() < 12 * ENOUGH)
    }

    /// The options laid out so far, the cheapest first.
    pub fn all(&self) -> &[Candidate] {
        &self.list
    }

    /// The sizes an option takes, one for each piece.
    pub fn lines_of(&self, opt: &Candidate) -> &[u16] {
        &self.pool[opt.at as usize..opt.at as usize + usize::from(opt.len)]
    }

    /// An option by itself, so that it outlives the list: its sizes, and how many each place takes.
    pub fn copy(&self, opt: &Candidate) -> Own {
        let end = opt.at as usize + usize::from(opt.len);
        let counts = &self.pool[end..end + self.group.places.len() - 1];
        Own {
            cost: opt.cost,
            lines: self.lines_of(opt).to_vec(),
            counts: counts.to_vec(),
        }
    }

    /// Lays out stacks further from the target. `false` where there are no more.
    pub fn extend(&mut self, lines: &Lines<'_>) -> bool {
        if self.beyond.is_none() {
            return false;
        }
        if let Some(pairs) = &mut self.pairs {
            pairs.go_further();
            self.lay_out_pairs(lines);
        } else {
            self.radius *= 4.0;
            self.lay_out_near(lines);
        }
        true
    }

    /// Lays out the stacks within the radius; for a check on its own.
    fn lay_out_near(&mut self, lines: &Lines<'_>) {
        let group = self.group;
        let (place, check) = (&group.places[0], &group.checks[0]);
        let window = (check.window.low_nm(), check.window.high_nm());
        let aim = (check.aim.from_nm, check.aim.to_nm);
        let from = (aim.0 - self.radius).max(window.0);
        let to = (aim.1 + self.radius).min(window.1);
        let all = from <= window.0 && to >= window.1;
        let ends = [from, to].map(|c| total_for(place, check, c));
        #[allow(clippy::cast_possible_truncation)] // saturates, far beyond any stack
        let range = (
            (ends[0].min(ends[1]) - 1.0).floor() as i64,
            (ends[0].max(ends[1]) + 1.0).ceil() as i64,
        );
        let mut stacks = Stacks::new(lines, place.drawer, range);
        let mut kept: Vec<Laid> = Vec::new();
        for count in place.least_pieces..=place.most_pieces {
            stacks.each(count as usize, &mut |stack, total| {
                let predicted = check.predicted_nm(group, |_| total);
                if check.window.holds(predicted) && (from..=to).contains(&predicted) {
                    let added = group.added_to(
                        check,
                        |_| of_pieces(lines, stack),
                        check.clearance_nm - predicted,
                    );
                    let cost = self.cost_of(0, predicted, added);
                    kept.push((
                        cost + PIECE * Cost::from(count),
                        stack.len(),
                        stack.to_vec(),
                    ));
                }
            });
        }
        let furthest = (aim.0 - stacks.reach(check, group, place).0)
            .max(stacks.reach(check, group, place).1 - aim.1);
        self.beyond =
            (!all && furthest > self.radius).then(|| self.least_beyond(check, place, lines));
        self.keep(kept);
    }

    /// Lays out pairs as far as they go now.
    fn lay_out_pairs(&mut self, lines: &Lines<'_>) {
        let Some(mut pairs) = self.pairs.take() else {
            return;
        };
        let of = Costing {
            cost: &|c, predicted, added| self.cost_of(c, predicted, added),
            band: &|c, ends| self.best_band(&self.group.checks[c], ends),
        };
        let (kept, beyond) = pairs.lay_out(self.group, lines, &of);
        self.pairs = Some(pairs);
        self.beyond = beyond;
        self.keep(kept);
    }

    /// Whether more pairs are wanted before anything is known of other groups.
    fn wants_pairs(&self) -> bool {
        let both = self.pairs.as_ref().is_some_and(Pairs::both_laid_out);
        self.list.len() < if both { 1 } else { ENOUGH }
    }

    /// No stack further from the target than the radius costs less than this.
    fn least_beyond(&self, check: &Moved, place: &Place, lines: &Lines<'_>) -> Cost {
        let ends = least_and_most(check, std::slice::from_ref(place), lines);
        let reached = self.best_band(check, ends).is_some_and(|(low, high)| {
            low < check.aim.from_nm - self.radius || high > check.aim.to_nm + self.radius
        });
        far(self.radius) - FAR + if reached { 0 } else { BELOW }
    }

    /// From where to where a check could reach its required probability at the best: a tail is smallest where the spread
    /// is narrowest and the degrees of freedom are most.
    fn best_band(&self, check: &Moved, (least, most): (PiecesDoubt, f64)) -> Option<Band> {
        let request = check.request(self.group);
        let surest = request.doubt(least);
        // What is not known of how pieces move it only adds to them.
        let dof = if check.u_effects > 0.0 {
            None
        } else {
            request.doubt(PiecesDoubt::normal(most)).dof
        };
        let best = Doubt { dof, ..surest };
        request.band(|c| SLACK * request.chance(c, best) >= check.required_probability)
    }

    /// Lays out every stack of every place with every other; for coupled checks.
    fn lay_out_all(&mut self, lines: &Lines<'_>) -> Result<(), AllocateError> {
        let group = self.group;
        let mut of_places: Vec<Vec<(i64, Vec<u16>)>> = Vec::new();
        for place in &group.places {
            let mut stacks = Vec::new();
            let mut each = Stacks::new(lines, place.drawer, (0, i64::MAX));
            for count in place.least_pieces..=place.most_pieces {
                each.each(count as usize, &mut |stack, total| {
                    stacks.push((total, stack.to_vec()));
                });
                if stacks.len() > MOST_OPTIONS {
                    return Err(AllocateError::TooMany);
                }
            }
            of_places.push(stacks);
        }
        let combinations = of_places
            .iter()
            .fold(1_usize, |n, s| n.saturating_mul(s.len()));
        if combinations > MOST_OPTIONS {
            return Err(AllocateError::TooMany);
        }
        let mut kept = Vec::new();
        for mut number in 0..combinations {
            let picked: Vec<&(i64, Vec<u16>)> = of_places
                .iter()
                .map(|stacks| {
                    let stack = &stacks[number % stacks.len()];
                    number /= stacks.len();
                    stack
                })
                .collect();
            let mut cost = 0;
            let mut inside = false;
            for (c, check) in group.checks.iter().enumerate() {
                let predicted = check.predicted_nm(group, |p| picked[p].0);
                if check.window.holds(predicted) {
                    inside = true;
                    let added = group.added_to(
                        check,
                        |p| of_pieces(lines, &picked[p].1),
                        check.clearance_nm - predicted,
                    );
                    cost += self.cost_of(c, predicted, added);
                } else {
                    cost += check.cost_out();
                }
            }
            if !inside {
                continue;
            }
            let mut stack: Vec<u16> = picked.iter().flat_map(|(_, l)| l).copied().collect();
            let len = stack.len();
            let counts = picked[1..]
                .iter()
                .zip(&picked)
                .map(|(_, before)| before.1.len());
            stack.extend(counts.map(|n| u16::try_from(n).unwrap_or(u16::MAX)));
            kept.push((cost + PIECE * len as Cost, len, stack));
        }
        self.keep(kept);
        Ok(())
    }

    fn keep(&mut self, mut kept: Vec<Laid>) {
        // Of equal cost the thicker thin pieces first: thin shims are springy.
        self.list.clear();
        self.pool.clear();
        kept.sort_by(|a, b| (a.0, &b.2).cmp(&(b.0, &a.2)));
        for (cost, len, stack) in kept {
            self.list.push(Candidate {
                cost,
                at: u32::try_from(self.pool.len()).unwrap_or(u32::MAX),
                len: u16::try_from(len).unwrap_or(u16::MAX),
            });
            self.pool.extend(stack);
        }
    }

    /// What a prediction of a check by number costs, inside its window and without its pieces; `added` is what they add to
    /// its doubt.
    fn cost_of(&self, number: usize, predicted: f64, added: PiecesDoubt) -> Cost {
        let check = &self.group.checks[number];
        let distance = far(check.aim.distance_nm(predicted));
        if self.reaches_floor(number, check, predicted, added) {
            distance
        } else {
            distance + BELOW
        }
    }

    fn reaches_floor(
        &self,
        number: usize,
        check: &Moved,
        predicted: f64,
        added: PiecesDoubt,
    ) -> bool {
        let by_chance = |request: &crate::allocate::Request<'_>, c: f64| {
            request.chance(c, request.doubt(added)) >= check.required_probability
        };
        if check.u_effects > 0.0 {
            // As different for each stack as what it moves by: no two share a band.
            return by_chance(&check.request(self.group), predicted);
        }
        let key = [added.variance, added.squares].map(f64::to_bits);
        let mut bands = self.bands.borrow_mut();
        let band = bands.entry((number, key)).or_insert_with(|| {
            let request = check.request(self.group);
            request.band(|c| by_chance(&request, c))
        });
        let Some((low, high)) = band else {
            return false;
        };
        let to_edge = (predicted - *low).min(*high - predicted);
        if to_edge.abs() < EDGE_NM {
            by_chance(&check.request(self.group), predicted)
        } else {
            to_edge > 0.0
        }
    }
}

/// The total thickness that would give a check on its own this clearance.
fn total_for(place: &Place, check: &Moved, clearance_nm: f64) -> f64 {
    place.fitted.as_f64() + (check.clearance_nm - clearance_nm) / check.effects[0]
}

/// How many pieces a stack in the window of a check on its own has at least.
fn fewest(group: &Group, lines: &Lines<'_>) -> usize {
    let (place, check) = (&group.places[0], &group.checks[0]);
    let window = check.window;
    let closes = check.effects[0] > 0.0;
    // The clearance that asks for the thinnest stack.
    let clearance = if closes {
        window.high_nm()
    } else {
        window.low_nm()
    };
    let total = total_for(place, check, clearance);
    let thickest = lines.stock[lines.drawers[place.drawer].clone()]
        .last()
        .map_or(0.0, |s| s.thickness_nm.as_f64());
    let needed = (1..=place.most_pieces)
        .find(|n| f64::from(*n) * thickest >= total - 1.0)
        .unwrap_or(place.most_pieces);
    let least = if total <= 0.0 { 0 } else { needed };
    least.max(place.least_pieces) as usize
}

/// The pieces that a person settled on, of what is left; none where it has no such pieces.
pub(super) fn pinned(group: &Group, settled: &[Vec<SizeCount>], lines: &Lines<'_>) -> Option<Own> {
    let mut left = lines.quantity.clone();
    let mut own = Own {
        cost: 0,
        lines: Vec::new(),
        counts: Vec::new(),
    };
    for (place, stack) in group.places.iter().zip(settled) {
        let before = own.lines.len();
        for named in stack {
            for _ in 0..named.count {
                let line = lines.drawers[place.drawer].clone().find(|l| {
                    let stock = lines.stock[*l];
                    left[*l] > 0
                        && (stock.thickness_nm, stock.grade) == (named.thickness_nm, named.grade)
                })?;
                left[line] -= 1;
                own.lines.push(u16::try_from(line).ok()?);
            }
        }
        own.counts
            .push(u16::try_from(own.lines.len() - before).ok()?);
    }
    own.counts.pop();
    Some(own)
}
