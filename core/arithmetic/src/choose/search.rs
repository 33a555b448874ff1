//! The exact search: outward from the target for settings that reach the required probability, then outward from
//! the window for the rest.

use std::cell::Cell;

use crate::choose::half_stacks::{Class, Half, Halves, Run, joins, multisets};
use crate::choose::rank::{Candidate, Shortlist, Stack};
use crate::choose::{Choice, ChooseError, Doubt, FAR_INSIDE, MOST_HALVES, Request, SLACK};
use crate::stock::drawer::{Availability, Grade, Stock};
use crate::stock::pieces::PiecesDoubt;

/// The first radius searched round the target, in nanometres; doubled until nothing is left.
const FIRST_RADIUS: f64 = 16.0;

/// So many sums of halves, and classes of them, are looked at: some seconds of work. What takes more is as many pieces as
/// can be held, each known as surely as no other, of which none reaches what is asked for.
const MOST_LOOKS: u64 = 40_000_000;

/// The best settings, best first.
pub(super) fn best(request: &Request<'_>) -> Result<Vec<Choice>, ChooseError> {
    let stock = merged(request.stock);
    let largest_half = u64::from(request.most_pieces.div_ceil(2));
    if stock.len() > usize::from(u16::MAX)
        || multisets(stock.len() as u64, largest_half) > MOST_HALVES
    {
        return Err(ChooseError::TooMany);
    }
    let mut search = Search::new(request, stock);
    if request.harm.is_none() {
        search.reaching_floor();
    }
    search.the_rest();
    if search.is_too_much() {
        return Err(ChooseError::TooMany);
    }
    let Search { list, stock, .. } = search;
    Ok(list
        .into_best()
        .iter()
        .map(|c| {
            let pieces: Vec<&Stock> = c
                .pieces
                .lines()
                .iter()
                .map(|l| &stock[usize::from(*l)])
                .collect();
            request.describe(&pieces)
        })
        .collect())
}

/// Lines alike in all but quantity made one, ascending by thickness; empty ones left out.
fn merged(stock: &[Stock]) -> Vec<Stock> {
    let mut sorted: Vec<Stock> = stock.iter().filter(|s| s.quantity > 0).cloned().collect();
    sorted.sort_by(Stock::order);
    sorted.dedup_by(|next, kept| {
        let alike = next.order(kept).is_eq();
        if alike {
            kept.quantity = kept.quantity.saturating_add(next.quantity);
        }
        alike
    });
    sorted
}

/// Figures that take long to work out, kept for when they are asked for again: equal totals come up
/// many times over. One slot for each of a few keys; a newer key takes the slot of an older.
#[derive(Default)]
struct Remembered(Vec<Option<(Key, f64)>>);

/// A total in nanometres, and what else a figure depends on.
type Key = (i64, [u64; 2]);

impl Remembered {
    const SLOTS: usize = 4096;

    fn or_find(&mut self, key: Key, find: impl FnOnce() -> f64) -> f64 {
        if self.0.is_empty() {
            self.0.resize(Self::SLOTS, None);
        }
        // Totals lie on grids: the multiplier spreads them, and its top bits name the slot.
        let mixed = (key.0.unsigned_abs() ^ key.1[0].rotate_left(32) ^ key.1[1].rotate_left(11))
            .wrapping_mul(0x9e37_79b9_7f4a_7c15);
        let slot = &mut self.0[usize::try_from(mixed >> 52).unwrap_or(0)];
        match slot {
            Some((of, figure)) if *of == key => *figure,
            _ => {
                let figure = find();
                *slot = Some((key, figure));
                figure
            }
        }
    }
}

/// Two sums of the same in another order differ by less than this.
const ROUNDED: f64 = 1.0 + 1e-12;

/// The furthest radius up to `most` that is wanted, where none beyond one that is not is.
fn furthest(most: f64, wanted: impl Fn(f64) -> bool) -> f64 {
    if wanted(most) {
        return most;
    }
    let (mut near, mut far) = (0.0, most);
    // To a nanometre: what lies between is looked at.
    while far - near > 1.0 {
        let middle = f64::midpoint(near, far);
        if wanted(middle) {
            near = middle;
        } else {
            far = middle;
        }
    }
    far
}

/// The most and the least sure that a stack of so many pieces can be.
#[derive(Clone, Copy)]
struct Ends {
    surest: Doubt,
    least_sure: Doubt,
}

impl Ends {
    /// Of stacks of `count` pieces of which `alike` at most are off alike, each known from the least to the largest of
    /// these in nanometres.
    ///
    /// A tail grows as the rectangle of the pieces and as their normal does, each by itself; so the ends have the least
    /// and the most of each that any sharing out of the pieces over sizes has. Of Student's t alone the variance counts.
    fn of(request: &Request<'_>, count: u32, alike: u32, (least, largest): (f64, f64)) -> Self {
        let mut flat = (f64::INFINITY, 0.0_f64);
        let mut rest = (f64::INFINITY, 0.0_f64);
        let mut variance = (f64::INFINITY, 0.0_f64);
        let widen =
            |ends: &mut (f64, f64), found: f64| *ends = (ends.0.min(found), ends.1.max(found));
        each_partition(count, alike, PiecesDoubt::NONE, &mut |of| {
            widen(&mut flat, of.squares.sqrt());
            widen(&mut rest, of.variance - of.squares.sqrt());
            widen(&mut variance, of.variance);
        });
        let doubt = |u: f64, flat: f64, rest: f64, variance: f64| {
            request.doubt(if request.shape.is_some() {
                let flat = u * u * flat;
                PiecesDoubt {
                    variance: flat + u * u * rest,
                    squares: flat * flat,
                }
            } else {
                PiecesDoubt::normal(u * u * variance)
            })
        };
        Self {
            surest: doubt(least, flat.0, rest.0, variance.0),
            least_sure: doubt(largest, flat.1, rest.1, variance.1),
        }
    }
}

/// Every way to share `left` pieces, each known to one, out over sizes of at most `most` each.
fn each_partition(left: u32, most: u32, so_far: PiecesDoubt, found: &mut impl FnMut(PiecesDoubt)) {
    if left == 0 {
        return found(so_far);
    }
    for count in 1..=most.min(left) {
        let more = PiecesDoubt::of_size(1.0, count, Grade::Marked);
        each_partition(left - count, count, so_far + more, found);
    }
}

struct Search<'a> {
    request: &'a Request<'a>,
    stock: Vec<Stock>,
    halves: Vec<Halves>,
    list: Shortlist,
    /// Chances worked out lately, by total and the variance of the pieces.
    chances: Remembered,
    /// The same of the bounds on them, by prediction and count of pieces.
    bounds: Remembered,
    /// For each count of pieces, no stack is known more surely, and none less.
    doubts: Vec<Ends>,
    /// How surely each piece is known of which all of its size are off alike, where those are all known as surely; zero
    /// where there is none.
    u_alike: Option<f64>,
    /// No two lines of stock are as thick.
    sizes_once: bool,
    /// For each count of pieces, no stack has a smaller or a larger total.
    totals: Vec<[i64; 2]>,
    /// How many sums and classes were looked at.
    looks: u64,
}

impl<'a> Search<'a> {
    fn new(request: &'a Request<'a>, stock: Vec<Stock>) -> Self {
        let most = request.most_pieces as usize;
        let halves = (0..=most.div_ceil(2))
            .map(|count| Halves::new(&stock, count))
            .collect();
        let us = || stock.iter().map(|s| s.u_nm);
        let least = us().reduce(f64::min).unwrap_or(0.0);
        let largest = us().fold(0.0, f64::max);
        let out_of_one_packet = stock
            .iter()
            .filter(|s| s.grade == Grade::Marked && s.u_nm > 0.0);
        let alike = out_of_one_packet.map(|s| s.quantity).max().unwrap_or(1);
        let mut several = stock
            .iter()
            .filter(|s| s.grade == Grade::Marked && s.quantity > 1)
            .map(|s| s.u_nm);
        let u_alike = match several.next() {
            None => Some(0.0),
            Some(u) => several
                .all(|other| other.to_bits() == u.to_bits())
                .then_some(u),
        };
        let doubts = (0..=request.most_pieces)
            .map(|count| Ends::of(request, count, alike, (least, largest)))
            .collect();
        let ends = [stock.first(), stock.last()].map(|s| s.map_or(0, |s| s.thickness_nm.nm()));
        let totals = (0..=request.most_pieces)
            .map(|n| ends.map(|thickness| thickness.saturating_mul(i64::from(n))))
            .collect();
        Self {
            request,
            sizes_once: stock
                .windows(2)
                .all(|w| w[0].thickness_nm < w[1].thickness_nm),
            stock,
            halves,
            list: Shortlist::new(request.best),
            chances: Remembered::default(),
            bounds: Remembered::default(),
            doubts,
            u_alike,
            totals,
            looks: 0,
        }
    }

    /// More was looked at than there is time for: what is on the list may not be the best.
    const fn is_too_much(&self) -> bool {
        self.looks > MOST_LOOKS
    }

    /// Settings that reach the required probability, nearest the target first.
    fn reaching_floor(&mut self) {
        if self.request.best == 0 {
            return;
        }
        let aim = self.request.aim;
        let reach = self.reach(aim.from_nm, aim.to_nm);
        let bands: Vec<_> = (0..=self.request.most_pieces as usize)
            .map(|n| {
                self.request
                    .band(|c| self.bound_inside(n, c) >= self.request.required_probability)
            })
            .collect();
        let mut radius = FIRST_RADIUS;
        let mut looked_at = f64::NEG_INFINITY;
        loop {
            for count in self.counts() {
                let Some((tight, loose)) = bands[count] else {
                    continue;
                };
                let seen = |predicted: f64| aim.distance_nm(predicted) <= looked_at;
                self.within(count, true, seen, |search| {
                    let worst = search.list.worst().map_or(f64::INFINITY, |w| w.distance);
                    let around = radius.min(worst);
                    // A nanometre of slack: the band's edges are found by halving.
                    let from = (aim.from_nm - around).max(tight - 1.0);
                    (from, (aim.to_nm + around).min(loose + 1.0))
                });
            }
            let done = self.list.worst().is_some_and(|w| w.distance <= radius);
            if done || radius > reach || self.is_too_much() {
                return;
            }
            looked_at = radius;
            radius *= 2.0;
        }
    }

    /// What is left of the list filled with settings below the required probability, by chance; all of it by the harm to be
    /// expected, where missing on one side is worse.
    fn the_rest(&mut self) {
        if self.request.best == 0 || self.list.worst().is_some_and(|w| w.reaches_floor) {
            return;
        }
        let window = self.request.window;
        let (low, high) = (window.low_nm(), window.high_nm());
        // Outward from the middle; where the window is open, from all that lies inside it, which
        // is little: what reaches the required probability there is on the list already.
        let (from, to) = match (low.is_finite(), high.is_finite()) {
            _ if self.request.harm.is_some() => self.least_harm(),
            (true, true) => (f64::midpoint(low, high), f64::midpoint(low, high)),
            (true, false) => (low, f64::MAX),
            _ => (f64::MIN, high),
        };
        let reach = self.reach(from.max(-FAR_INSIDE), to.min(FAR_INSIDE));
        // As far outward as this on the side that is not open; on both sides it is alike.
        let outward = |radius: f64| {
            if high.is_finite() {
                to + radius
            } else {
                from - radius
            }
        };
        let aim = self.request.aim;
        let nearest = |radius: f64| (aim.from_nm - from + radius).min(to + radius - aim.to_nm);
        // Whether a stack of so many pieces so far out could be among the best.
        let wanted = |search: &Self, count: usize, radius: f64| {
            search.list.worst().is_none_or(|worst| {
                let bound = if search.request.harm.is_some() {
                    let ends = [from - radius, to + radius].map(|c| search.bound(count, c));
                    ends[0].max(ends[1])
                } else {
                    search.bound(count, outward(radius))
                };
                // Where nothing has any chance left, the distance from the target ranks.
                bound > worst.chance || (bound >= worst.chance && nearest(radius) <= worst.distance)
            })
        };
        let mut radius = FIRST_RADIUS;
        let mut looked_at = f64::NEG_INFINITY;
        loop {
            for count in self.counts() {
                if !wanted(self, count, looked_at.max(0.0)) {
                    continue;
                }
                let seen = |predicted: f64| (from - predicted).max(predicted - to) <= looked_at;
                // Worked out anew where the list has become better meanwhile.
                let known = Cell::new((None, radius));
                self.within(count, false, seen, |search| {
                    let worst = search.list.worst().map(|w| (w.chance, w.distance));
                    let (of, mut around) = known.get();
                    if of != worst {
                        around = furthest(radius, |radius| wanted(search, count, radius));
                        known.set((worst, around));
                    }
                    (from - around, to + around)
                });
            }
            let done = radius > reach || self.is_too_much();
            if done || !self.counts().any(|count| wanted(self, count, radius)) {
                return;
            }
            looked_at = radius;
            radius *= 2.0;
        }
    }

    fn counts(&self) -> std::ops::RangeInclusive<usize> {
        self.request.least_pieces as usize..=self.request.most_pieces as usize
    }

    /// How far the furthest stack lies outside a range of clearances, at most.
    fn reach(&self, from: f64, to: f64) -> f64 {
        [0, self.totals.last().map_or(0, |ends| ends[1])]
            .map(|total| {
                let predicted = self.request.predicted_nm(total);
                (from - predicted).abs().max((predicted - to).abs())
            })
            .into_iter()
            .fold(0.0, f64::max)
    }

    /// No stack of `count` pieces with this prediction has a better chance; less the further out that is.
    ///
    /// A tail is largest where the spread is widest and the degrees of freedom are fewest; and what lies outside the
    /// window has no better chance than what lies at its edge.
    fn bound(&self, count: usize, predicted: f64) -> f64 {
        let window = self.request.window;
        if let Some(harm) = self.request.harm {
            let (tight, loose) = self.least_missing(count, predicted);
            let weights = harm.weights();
            return 1.0 - (weights.0 * tight).max(weights.1 * loose);
        }
        let Ends { surest, least_sure } = self.doubts[count];
        if surest == least_sure {
            return self.request.chance(predicted, surest);
        }
        let (low, high) = (window.low_nm(), window.high_nm());
        let distance = (low - predicted).max(predicted - high);
        if distance <= 0.0 {
            return self.bound_inside(count, predicted);
        }
        let widest = Doubt {
            dof: surest.dof,
            ..least_sure
        };
        let ends = (0.0, f64::INFINITY);
        let tail = SLACK * self.request.chance_between(-distance, widest, ends);
        tail.min(self.bound_inside(count, predicted.clamp(low, high)))
    }

    /// No stack of `count` pieces with this prediction misses less surely on the tight side, and none on the loose: a tail
    /// beyond a limit is smallest where the spread is narrowest, and beyond a limit already missed where it is widest.
    fn least_missing(&self, count: usize, predicted: f64) -> (f64, f64) {
        let request = self.request;
        let Ends { surest, least_sure } = self.doubts[count];
        let beyond = |inside: f64| {
            let (spread, tails) = if inside >= 0.0 {
                (surest, least_sure)
            } else {
                (least_sure, surest)
            };
            let doubt = Doubt {
                dof: tails.dof,
                ..spread
            };
            let found = request.chance_between(0.0, doubt, (inside, f64::INFINITY));
            if surest == least_sure {
                found
            } else {
                found / SLACK
            }
        };
        let (low, high) = (request.window.low_nm(), request.window.high_nm());
        (beyond(predicted - low), beyond(high - predicted))
    }

    /// From where to where the harm to be expected is least, for all numbers of pieces: where what misses tight weighs as
    /// much as what misses loose.
    fn least_harm(&self) -> (f64, f64) {
        let weights = self.request.harm.map_or((1.0, 1.0), |h| h.weights());
        let (low, high) = (self.request.window.low_nm(), self.request.window.high_nm());
        let crossing = |count: usize| {
            let tight_weighs_more = |c: f64| {
                let (tight, loose) = self.least_missing(count, c);
                weights.0 * tight > weights.1 * loose
            };
            let wide = (high - low).max(1.0);
            let (mut from, mut to) = (low - 100.0 * wide, high + 100.0 * wide);
            while to - from > 1.0 {
                let middle = f64::midpoint(from, to);
                if tight_weighs_more(middle) {
                    from = middle;
                } else {
                    to = middle;
                }
            }
            (from, to)
        };
        self.counts()
            .map(crossing)
            .fold((f64::INFINITY, f64::NEG_INFINITY), |a, b| {
                (a.0.min(b.0), a.1.max(b.1))
            })
    }

    /// No stack of `count` pieces with this prediction, inside the window, has a better chance.
    fn bound_inside(&self, count: usize, predicted: f64) -> f64 {
        let Ends { surest, least_sure } = self.doubts[count];
        let narrowest = Doubt {
            dof: least_sure.dof,
            ..surest
        };
        let found = self.request.chance(predicted, narrowest);
        if surest == least_sure {
            found
        } else {
            SLACK * found
        }
    }

    /// Offers every stack of `count` pieces whose prediction lies in the range that `range` gives
    /// (asked again as the list fills) and was not `seen` before, in one sweep over both halves.
    fn within(
        &mut self,
        count: usize,
        required_probability: bool,
        seen: impl Fn(f64) -> bool,
        range: impl Fn(&Self) -> (f64, f64),
    ) {
        let (low_count, high_count) = (count / 2, count - count / 2);
        let (from, to) = range(self);
        let ends = self.totals[count].map(|total| self.request.predicted_nm(total));
        if ends[0].max(ends[1]) < from || ends[0].min(ends[1]) > to {
            return;
        }
        let lows = std::mem::take(&mut self.halves[low_count].runs);
        let highs = if low_count == high_count {
            lows.clone()
        } else {
            std::mem::take(&mut self.halves[high_count].runs)
        };
        // Thick low halves first: they make the better of equal stacks, and the rest is passed over.
        let whole = |count: usize| i64::try_from(count).unwrap_or(i64::MAX);
        let mut top = 0;
        for low in lows.iter().rev() {
            if self.is_too_much() {
                break;
            }
            let (from, to) = range(self);
            let ends = [from, to].map(|c| self.request.total_for(c));
            let (least, most) = (ends[0].min(ends[1]), ends[0].max(ends[1]));
            let over = |high: &Run| (low.0 + high.0) as f64 > most + 1.0;
            while top < highs.len() && !over(&highs[top]) {
                top += 1;
            }
            while top > 0 && over(&highs[top - 1]) {
                top -= 1;
            }
            // Counted beside the search: it does little more than this for each.
            let mut looks = 0;
            for high in highs[..top].iter().rev() {
                looks += 1;
                let total = low.0 + high.0;
                // The low half holds the thinner pieces, so it is no thicker on average.
                let upside_down = low.0 * whole(high_count) > high.0 * whole(low_count);
                if (total as f64) < least - 1.0 || upside_down {
                    break;
                }
                if !seen(self.request.predicted_nm(total))
                    && !self.settled(total, count, required_probability)
                {
                    self.offer_runs((low_count, high_count), low, high, required_probability);
                }
            }
            self.looks += looks;
        }
        if low_count != high_count {
            self.halves[high_count].runs = highs;
        }
        self.halves[low_count].runs = lows;
    }

    /// Whether no stack of `count` pieces can better what is known of this total.
    fn settled(&mut self, total: i64, count: usize, required_probability: bool) -> bool {
        let predicted = self.request.predicted_nm(total);
        let inside = self.request.window.holds(predicted);
        let mut bounds = std::mem::take(&mut self.bounds);
        let settled = self.settled_with(total, count, required_probability, inside, || {
            bounds.or_find((total, [count as u64, 0]), || self.bound(count, predicted))
        });
        self.bounds = bounds;
        settled
    }

    fn settled_with(
        &self,
        total: i64,
        count: usize,
        required_probability: bool,
        inside: bool,
        mut bound: impl FnMut() -> f64,
    ) -> bool {
        if let Some(known) = self.list.of_total(total) {
            if known.reaches_floor {
                // Its distance is the same, and fewer pieces win.
                return known.pieces.len() < count || !required_probability;
            }
            return known.pieces.len() < count && bound() <= known.chance;
        }
        let Some(worst) = self.list.worst() else {
            return required_probability && !inside;
        };
        if required_probability {
            let distance = self
                .request
                .aim
                .distance_nm(self.request.predicted_nm(total));
            let nearer = distance < worst.distance
                || !worst.reaches_floor
                || (distance <= worst.distance && count <= worst.pieces.len());
            return !nearer || !inside;
        }
        bound() < worst.chance
    }

    /// Offers the stacks of a low half and a high half of these sums, but for those that a better one of the same total
    /// stands before.
    fn offer_runs(&mut self, counts: (usize, usize), low: &Run, high: &Run, floor_only: bool) {
        let total = low.0 + high.0;
        for a in low.1..low.2 {
            for b in high.1..high.2 {
                self.looks += 1;
                let low = self.halves[counts.0].classes[a];
                let high = self.halves[counts.1].classes[b];
                self.offer_classes(counts, &low, &high, total, floor_only);
            }
        }
    }

    /// The same of halves that are as sure as each other: so is each stack of them, but for those with a size on both
    /// sides of which all are off alike.
    fn offer_classes(
        &mut self,
        (low_count, high_count): (usize, usize),
        low: &Class,
        high: &Class,
        total: i64,
        floor_only: bool,
    ) {
        let of_class = low.added + high.added;
        let source = low.source.max(high.source);
        let chance = self.chance(total, of_class);
        let reaches = self.reaches_floor(chance);
        let class_wanted = self.could_matter(chance, floor_only);
        let of_alike = self.best_alike(low, high, total);
        let alike_wanted = self.could_matter(of_alike, floor_only);
        if !(class_wanted || alike_wanted) {
            return;
        }
        for a in low.from..low.to {
            let low = self.halves[low_count].all[a];
            let known = self.thicker_known(&low, low_count + high_count, total, source);
            let settled = |chance: f64| {
                known.is_some_and(|(reaches, known)| reaches || known * ROUNDED >= chance)
            };
            let mut class_done = !class_wanted || settled(chance);
            let mut alike_done = !alike_wanted || settled(of_alike);
            if class_done && alike_done {
                // Of equal sums the thicker thin pieces come first: the rest are thinner still.
                break;
            }
            let highs = &self.halves[high_count].all[high.from..high.to];
            let last = low.lines().last();
            let apart = |h: &Half| h.lines().first() > last || last.is_none();
            // Those alike begin with the thicker: the first is the best, and the rest differ only in thinner pieces.
            let first_apart = highs.first().filter(|h| apart(h)).copied();
            if let Some(first) = first_apart.filter(|_| !class_done) {
                self.offer(&low, &first, total, floor_only);
                class_done = true;
                alike_done |= reaches && self.sizes_once;
            }
            let Some(last) = last.copied() else {
                continue;
            };
            let shared = &self.stock[usize::from(last)];
            let alike = shared.grade == Grade::Marked && shared.u_nm > 0.0;
            if (alike && alike_done) || (!alike && class_done) {
                continue;
            }
            let from =
                high.from + self.halves[high_count].all[high.from..high.to].partition_point(apart);
            for b in from..high.to {
                let high = self.halves[high_count].all[b];
                if high.lines().first() != Some(&last) {
                    break;
                }
                if joins(&low, &high, &self.stock) {
                    self.offer(&low, &high, total, floor_only);
                    if !alike {
                        break;
                    }
                }
            }
        }
    }

    /// Whether a stack of such a chance could be wanted now.
    fn could_matter(&self, chance: f64, floor_only: bool) -> bool {
        if floor_only {
            self.reaches_floor(chance)
        } else {
            self.list.worst().is_none_or(|worst| chance >= worst.chance)
        }
    }

    /// No stack of these halves that has a size on both sides, of which all are off alike, has a better chance.
    fn best_alike(&mut self, low: &Class, high: &Class, total: i64) -> f64 {
        let Some(u_nm) = self.u_alike else {
            // Not as sure as others, they are as likely as anything.
            return 1.0;
        };
        let mut best = 0.0_f64;
        for (m, n) in (1..=low.alike).flat_map(|m| (1..=high.alike).map(move |n| (m, n))) {
            let of = |count| PiecesDoubt::of_size(u_nm, count, Grade::Marked);
            let (both, m, n) = (of(m + n), of(m), of(n));
            let added = PiecesDoubt {
                variance: low.added.variance + high.added.variance + both.variance
                    - m.variance
                    - n.variance,
                squares: low.added.squares + high.added.squares + both.squares
                    - m.squares
                    - n.squares,
            };
            best = best.max(self.chance(total, added));
        }
        best * ROUNDED
    }

    /// Of a known stack of this total and count, no less ready, whose thinnest piece is thicker than that of this low half:
    /// whether it reaches the required probability, and its chance.
    fn thicker_known(
        &self,
        low: &Half,
        count: usize,
        total: i64,
        source: Availability,
    ) -> Option<(bool, f64)> {
        let known = self.list.of_total(total)?;
        let thinnest = self.stock[usize::from(*low.lines().first()?)]
            .thickness_nm
            .nm();
        let before = known.source <= source
            && known.pieces.len() == count
            && known.pieces.thinnest() > thinnest;
        before.then_some((known.reaches_floor, known.chance))
    }

    /// The chance of stacks of this total whose pieces add so much; where missing on one side is worse, what the harm to be
    /// expected leaves of 1.
    fn chance(&mut self, total: i64, of_pieces: PiecesDoubt) -> f64 {
        let request = self.request;
        let predicted = request.predicted_nm(total);
        let key = [of_pieces.variance, of_pieces.squares].map(f64::to_bits);
        self.chances.or_find((total, key), || {
            let doubt = request.doubt(of_pieces);
            request
                .expected_harm(predicted, doubt)
                .map_or_else(|| request.chance(predicted, doubt), |harm| 1.0 - harm)
        })
    }

    /// By harm, no chance by itself puts one before another.
    fn reaches_floor(&self, chance: f64) -> bool {
        self.request.harm.is_none() && chance >= self.request.required_probability
    }

    /// Takes a stack up where it is among the best.
    fn offer(&mut self, low: &Half, high: &Half, total: i64, floor_only: bool) {
        // Summed in the canonical order, so that the same stack always has the same variance.
        let mut pieces = Stack::default();
        let mut source = Availability::OnHand;
        let lines = low.lines().iter().chain(high.lines());
        for line in lines.clone() {
            let stock = &self.stock[usize::from(*line)];
            pieces.push(*line, stock.thickness_nm.nm());
            source = source.max(stock.source);
        }
        let of_pieces = PiecesDoubt::of_stack(lines.map(|l| &self.stock[usize::from(*l)]));
        let chance = self.chance(total, of_pieces);
        let reaches_floor = self.reaches_floor(chance);
        if floor_only && !reaches_floor {
            return;
        }
        let request = self.request;
        self.list.offer(Candidate {
            total,
            reaches_floor,
            distance: request.aim.distance_nm(request.predicted_nm(total)),
            chance,
            source,
            pieces,
        });
    }
}
