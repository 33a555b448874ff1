//! The exact search: outward from the target for settings that reach the required probability, then outward from
//! the window for the rest.

use std::cell::Cell;

use crate::choose::half_stacks::{Half, Halves, joins, multisets};
use crate::choose::rank::{Candidate, Shortlist, Stack};
use crate::choose::{Choice, ChooseError, FAR_INSIDE, MOST_HALVES, Request};
use crate::stock::drawer::{Availability, Stock};

/// The first radius searched round the target, in nanometres; doubled until nothing is left.
const FIRST_RADIUS: f64 = 16.0;

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
    sorted.sort_by(|a, b| {
        (a.thickness_nm, a.source)
            .cmp(&(b.thickness_nm, b.source))
            .then(a.u_nm.total_cmp(&b.u_nm))
            .then(a.grade.cmp(&b.grade))
    });
    sorted.dedup_by(|next, kept| {
        let alike = next.thickness_nm == kept.thickness_nm
            && next.source == kept.source
            && next.grade == kept.grade
            && next.u_nm.to_bits() == kept.u_nm.to_bits();
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
struct Remembered(Vec<Option<((i64, u64), f64)>>);

impl Remembered {
    const SLOTS: usize = 1024;

    fn or_find(&mut self, key: (i64, u64), find: impl FnOnce() -> f64) -> f64 {
        if self.0.is_empty() {
            self.0.resize(Self::SLOTS, None);
        }
        // Totals lie on grids: the multiplier spreads them, and its top ten bits name the slot.
        let mixed =
            (key.0.unsigned_abs() ^ key.1.rotate_left(32)).wrapping_mul(0x9e37_79b9_7f4a_7c15);
        let slot = &mut self.0[usize::try_from(mixed >> 54).unwrap_or(0)];
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

struct Search<'a> {
    request: &'a Request<'a>,
    stock: Vec<Stock>,
    halves: Vec<Halves>,
    list: Shortlist,
    /// Chances worked out lately, by total and the variance of the pieces.
    chances: Remembered,
    /// The same of the bounds on them, by prediction and count of pieces.
    bounds: Remembered,
    /// For each count of pieces, the smallest and largest variance its pieces can have.
    variances: Vec<(f64, f64)>,
    /// For each count of pieces, no stack has a smaller or a larger total.
    totals: Vec<[i64; 2]>,
    /// The readiest source there is.
    readiest: Availability,
    /// Every line of stock has the same uncertainty.
    all_as_sure: bool,
    /// And the same source.
    all_alike: bool,
}

impl<'a> Search<'a> {
    fn new(request: &'a Request<'a>, stock: Vec<Stock>) -> Self {
        let most = request.most_pieces as usize;
        let halves = (0..=most.div_ceil(2))
            .map(|count| Halves::new(&stock, count))
            .collect();
        let of_u2 = |pick: fn(f64, f64) -> f64, start: f64| {
            stock.iter().map(|s| s.u_nm * s.u_nm).fold(start, pick)
        };
        let (least, largest) = if stock.is_empty() {
            (0.0, 0.0)
        } else {
            (of_u2(f64::min, f64::INFINITY), of_u2(f64::max, 0.0))
        };
        let variances = (0..=most)
            .map(|n| (n as f64 * least, n as f64 * largest))
            .collect();
        let ends = [stock.first(), stock.last()].map(|s| s.map_or(0, |s| s.thickness_nm.nm()));
        let totals = (0..=request.most_pieces)
            .map(|n| ends.map(|thickness| thickness.saturating_mul(i64::from(n))))
            .collect();
        let all_as_sure = stock
            .windows(2)
            .all(|w| w[0].u_nm.to_bits() == w[1].u_nm.to_bits());
        Self {
            request,
            readiest: stock
                .iter()
                .map(|s| s.source)
                .min()
                .unwrap_or(Availability::OnHand),
            all_as_sure,
            all_alike: all_as_sure && stock.windows(2).all(|w| w[0].source == w[1].source),
            stock,
            halves,
            list: Shortlist::new(request.best),
            chances: Remembered::default(),
            bounds: Remembered::default(),
            variances,
            totals,
        }
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
            if done || radius > reach {
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
            if radius > reach || !self.counts().any(|count| wanted(self, count, radius)) {
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
        let (narrow, wide) = self.variances[count];
        if narrow.to_bits() == wide.to_bits() {
            return self
                .request
                .chance(predicted, self.request.predicted_u(narrow));
        }
        let (low, high) = (window.low_nm(), window.high_nm());
        let distance = (low - predicted).max(predicted - high);
        if distance <= 0.0 {
            return self.bound_inside(count, predicted);
        }
        let (u, _) = self.request.predicted_u(wide);
        let (_, dof) = self.request.predicted_u(narrow);
        let tail = self
            .request
            .chance_between(-distance, (u, dof), (0.0, f64::INFINITY));
        tail.min(self.bound_inside(count, predicted.clamp(low, high)))
    }

    /// No stack of `count` pieces with this prediction misses less surely on the tight side, and none on the loose: a tail
    /// beyond a limit is smallest where the spread is narrowest, and beyond a limit already missed where it is widest.
    fn least_missing(&self, count: usize, predicted: f64) -> (f64, f64) {
        let request = self.request;
        let (narrow, wide) = self.variances[count];
        let [narrow, wide] = [narrow, wide].map(|u2| request.predicted_u(u2));
        let beyond = |inside: f64| {
            let (u, dof) = if inside >= 0.0 {
                (narrow.0, wide.1)
            } else {
                (wide.0, narrow.1)
            };
            request.chance_between(0.0, (u, dof), (inside, f64::INFINITY))
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
        let (narrow, wide) = self.variances[count];
        let (u, _) = self.request.predicted_u(narrow);
        let (_, dof) = self.request.predicted_u(wide);
        self.request.chance(predicted, (u, dof))
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
            let (from, to) = range(self);
            let ends = [from, to].map(|c| self.request.total_for(c));
            let (least, most) = (ends[0].min(ends[1]), ends[0].max(ends[1]));
            let over = |high: &(i64, usize, usize)| (low.0 + high.0) as f64 > most + 1.0;
            while top < highs.len() && !over(&highs[top]) {
                top += 1;
            }
            while top > 0 && over(&highs[top - 1]) {
                top -= 1;
            }
            for high in highs[..top].iter().rev() {
                let total = low.0 + high.0;
                // The low half holds the thinner pieces, so it is no thicker on average.
                let upside_down = low.0 * whole(high_count) > high.0 * whole(low_count);
                if (total as f64) < least - 1.0 || upside_down {
                    break;
                }
                if !seen(self.request.predicted_nm(total))
                    && !self.settled(total, count, required_probability)
                {
                    self.offer_runs(
                        low_count,
                        high_count,
                        low,
                        high,
                        total,
                        required_probability,
                    );
                }
            }
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
            bounds.or_find((total, count as u64), || self.bound(count, predicted))
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

    fn offer_runs(
        &mut self,
        low_count: usize,
        high_count: usize,
        low: &(i64, usize, usize),
        high: &(i64, usize, usize),
        total: i64,
        required_probability: bool,
    ) {
        let count = low_count + high_count;
        for a in low.1..low.2 {
            let low = self.halves[low_count].all[a];
            if self.thinner_than_known(&low, count, total) {
                // Of equal sums the thicker thin pieces come first: the rest are thinner still.
                break;
            }
            for b in high.1..high.2 {
                let high = self.halves[high_count].all[b];
                if low.lines().last() > high.lines().first() {
                    // Those that follow begin with thinner pieces still.
                    break;
                }
                if joins(&low, &high, &self.stock) {
                    self.offer(&low, &high, total, required_probability);
                    if self.all_alike {
                        // The best of this low half: the rest differ only in thinner pieces.
                        break;
                    }
                }
            }
        }
    }

    /// Whether a stack of this total and count is known whose thinnest piece is thicker than that of
    /// any stack of this low half, and nothing that ranks before that can be better.
    fn thinner_than_known(&self, low: &Half, count: usize, total: i64) -> bool {
        let (Some(known), Some(thinnest)) = (self.list.of_total(total), low.lines().first()) else {
            return false;
        };
        (known.reaches_floor || self.all_as_sure)
            && known.source == self.readiest
            && known.pieces.len() == count
            && known.pieces.thinnest() > self.stock[usize::from(*thinnest)].thickness_nm.nm()
    }

    fn offer(&mut self, low: &Half, high: &Half, total: i64, required_probability: bool) {
        let request = self.request;
        let predicted = request.predicted_nm(total);
        // Summed in the canonical order, so that the same stack always has the same variance.
        let mut pieces = Stack::default();
        let mut u2 = 0.0;
        let mut source = Availability::OnHand;
        for line in low.lines().iter().chain(high.lines()) {
            let stock = &self.stock[usize::from(*line)];
            pieces.push(*line, stock.thickness_nm.nm());
            u2 += stock.u_nm * stock.u_nm;
            source = source.max(stock.source);
        }
        let chance = self.chances.or_find((total, u2.to_bits()), || {
            let doubt = request.predicted_u(u2);
            request
                .expected_harm(predicted, doubt)
                .map_or_else(|| request.chance(predicted, doubt), |harm| 1.0 - harm)
        });
        // By harm, no chance by itself puts one before another.
        let reaches_floor = request.harm.is_none() && chance >= request.required_probability;
        if required_probability && !reaches_floor {
            return;
        }
        let candidate = Candidate {
            total,
            reaches_floor,
            distance: request.aim.distance_nm(predicted),
            chance,
            source,
            pieces,
        };
        self.list.offer(candidate);
    }
}
