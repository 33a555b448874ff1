//! The exact search: outward from the target for settings that reach the floor, then outward from
//! the window for the rest.

use std::collections::HashMap;

use super::halves::{Half, Halves, joins, multisets};
use super::rank::{Candidate, Shortlist};
use super::{Choice, ChooseError, FAR_INSIDE, MOST_HALVES, Request};
use crate::drawer::Stock;
use crate::judge::chance;

/// The first radius searched round the target, in nanometres; doubled until nothing is left.
const FIRST_RADIUS: f64 = 64.0;

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
    search.reaching_floor();
    search.the_rest();
    let Search { list, stock, .. } = search;
    Ok(list
        .into_best()
        .iter()
        .map(|c| {
            let pieces: Vec<&Stock> = c.lines.iter().map(|l| &stock[usize::from(*l)]).collect();
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
    });
    sorted.dedup_by(|next, kept| {
        let alike = next.thickness_nm == kept.thickness_nm
            && next.source == kept.source
            && next.u_nm.to_bits() == kept.u_nm.to_bits();
        if alike {
            kept.quantity = kept.quantity.saturating_add(next.quantity);
        }
        alike
    });
    sorted
}

struct Search<'a> {
    request: &'a Request<'a>,
    stock: Vec<Stock>,
    halves: Vec<Halves>,
    list: Shortlist,
    /// Chances already worked out, by total and variance of the pieces.
    chances: HashMap<(i64, u64), f64>,
    /// For each count of pieces, the smallest and largest variance its pieces can have.
    variances: Vec<(f64, f64)>,
    /// The smallest and largest total that any stack can have.
    totals: (i64, i64),
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
        let thickest = stock.last().map_or(0, |s| s.thickness_nm.nm());
        Self {
            request,
            stock,
            halves,
            list: Shortlist::new(request.best),
            chances: HashMap::new(),
            variances,
            totals: (0, thickest.saturating_mul(i64::from(request.most_pieces))),
        }
    }

    /// Settings that reach the floor, nearest the target first.
    fn reaching_floor(&mut self) {
        if self.request.best == 0 {
            return;
        }
        let aim = self.request.aim;
        let reach = self.reach(aim.from_nm, aim.to_nm);
        let bands: Vec<_> = (0..=self.request.most_pieces as usize)
            .map(|n| {
                self.request
                    .band(|c| self.bound_inside(n, c) >= self.request.floor)
            })
            .collect();
        let mut radius = FIRST_RADIUS;
        loop {
            for count in self.counts() {
                let Some((tight, loose)) = bands[count] else {
                    continue;
                };
                self.within(count, true, |search| {
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
            radius *= 2.0;
        }
    }

    /// What is left of the list filled with settings below the floor, by chance.
    fn the_rest(&mut self) {
        if self.request.best == 0 || self.list.worst().is_some_and(|w| w.reaches_floor) {
            return;
        }
        let window = self.request.window;
        let (low, high) = (window.low_nm(), window.high_nm());
        // Outward from the middle; where the window is open, from all that lies inside it, which
        // is little: what reaches the floor there is on the list already.
        let (from, to) = match (low.is_finite(), high.is_finite()) {
            (true, true) => (f64::midpoint(low, high), f64::midpoint(low, high)),
            (true, false) => (low, f64::MAX),
            _ => (f64::MIN, high),
        };
        let half_width = window.width_nm().map_or(0.0, |w| w / 2.0);
        let reach = self.reach(from.max(-FAR_INSIDE), to.min(FAR_INSIDE));
        let aim = self.request.aim;
        let mut radius = FIRST_RADIUS;
        loop {
            for count in self.counts() {
                self.within(count, false, |_| (from - radius, to + radius));
            }
            if radius > reach {
                return;
            }
            let outside = self.bound_outside((radius - half_width).max(0.0));
            let bound = if radius < half_width {
                let inside = self.counts().map(|n| self.bound_inside(n, to + radius));
                inside.fold(outside, f64::max)
            } else {
                outside
            };
            let done = self.list.worst().is_some_and(|w| {
                // Where nothing has any chance left, the distance from the target ranks.
                let nearest = (aim.from_nm - from + radius).min(to + radius - aim.to_nm);
                bound < w.chance || (bound <= w.chance && nearest > w.distance)
            });
            if done {
                return;
            }
            radius *= 2.0;
        }
    }

    fn counts(&self) -> std::ops::RangeInclusive<usize> {
        self.request.least_pieces as usize..=self.request.most_pieces as usize
    }

    /// How far the furthest stack lies outside a range of clearances, at most.
    fn reach(&self, from: f64, to: f64) -> f64 {
        [self.totals.0, self.totals.1]
            .map(|total| {
                let predicted = self.request.predicted_nm(total);
                (from - predicted).abs().max((predicted - to).abs())
            })
            .into_iter()
            .fold(0.0, f64::max)
    }

    /// No stack that lies `distance` or more outside the window has a better chance than this:
    /// a tail is largest where the spread is widest and the degrees of freedom are fewest.
    fn bound_outside(&self, distance: f64) -> f64 {
        let widest = self.variances.iter().fold(0.0, |w: f64, v| w.max(v.1));
        let narrowest = self.variances[*self.counts().start()].0;
        let (u, _) = self.request.predicted_u(widest);
        let (_, dof) = self.request.predicted_u(narrowest);
        let limit = crate::length::Length::ZERO;
        crate::window::Window::new(Some(limit), None).map_or(1.0, |w| chance(-distance, u, dof, w))
    }

    /// No stack of `count` pieces with this prediction, inside the window, has a better chance.
    fn bound_inside(&self, count: usize, predicted: f64) -> f64 {
        let (narrow, wide) = self.variances[count];
        let (u, _) = self.request.predicted_u(narrow);
        let (_, dof) = self.request.predicted_u(wide);
        chance(predicted, u, dof, self.request.window)
    }

    /// Offers every stack of `count` pieces whose prediction lies in the range that `range` gives
    /// (asked again as the list fills), in one sweep over both halves.
    fn within(&mut self, count: usize, floor: bool, range: impl Fn(&Self) -> (f64, f64)) {
        let (low_count, high_count) = (count / 2, count - count / 2);
        let lows = std::mem::take(&mut self.halves[low_count].runs);
        let highs = if low_count == high_count {
            lows.clone()
        } else {
            std::mem::take(&mut self.halves[high_count].runs)
        };
        let mut top = highs.len();
        for low in &lows {
            let (from, to) = range(self);
            let ends = [from, to].map(|c| self.request.total_for(c));
            let (least, most) = (ends[0].min(ends[1]), ends[0].max(ends[1]));
            while top > 0 && (low.0 + highs[top - 1].0) as f64 > most + 1.0 {
                top -= 1;
            }
            for high in highs[..top].iter().rev() {
                let total = low.0 + high.0;
                if (total as f64) < least - 1.0 {
                    break;
                }
                if !self.settled(total, count, floor) {
                    self.offer_runs(low_count, high_count, low, high, total, floor);
                }
            }
        }
        if low_count != high_count {
            self.halves[high_count].runs = highs;
        }
        self.halves[low_count].runs = lows;
    }

    /// Whether no stack of `count` pieces can better what is known of this total.
    fn settled(&self, total: i64, count: usize, floor: bool) -> bool {
        let predicted = self.request.predicted_nm(total);
        let inside = self.request.window.holds(predicted);
        let bound = || self.bound_inside(count, predicted);
        if let Some(known) = self.list.of_total(total) {
            if known.reaches_floor {
                // Its distance is the same, and fewer pieces win.
                return known.lines.len() < count || !floor;
            }
            return inside && known.lines.len() < count && bound() <= known.chance;
        }
        let Some(worst) = self.list.worst() else {
            return floor && !inside;
        };
        let distance = self.request.aim.distance_nm(predicted);
        if floor {
            let nearer = distance < worst.distance
                || !worst.reaches_floor
                || (distance <= worst.distance && count <= worst.lines.len());
            return !nearer || !inside;
        }
        inside && bound() < worst.chance
    }

    fn offer_runs(
        &mut self,
        low_count: usize,
        high_count: usize,
        low: &(i64, usize, usize),
        high: &(i64, usize, usize),
        total: i64,
        floor: bool,
    ) {
        for a in low.1..low.2 {
            for b in high.1..high.2 {
                let low = self.halves[low_count].all[a];
                let high = self.halves[high_count].all[b];
                if joins(&low, &high, &self.stock) {
                    self.offer(&low, &high, total, floor);
                }
            }
        }
    }

    fn offer(&mut self, low: &Half, high: &Half, total: i64, floor: bool) {
        let request = self.request;
        let predicted = request.predicted_nm(total);
        // Summed in the canonical order, so that the same stack always has the same variance.
        let lines: Vec<u16> = low.lines().iter().chain(high.lines()).copied().collect();
        let stack = lines.iter().map(|l| &self.stock[usize::from(*l)]);
        let u2: f64 = stack.clone().map(|s| s.u_nm * s.u_nm).sum();
        let chance = *self
            .chances
            .entry((total, u2.to_bits()))
            .or_insert_with(|| {
                let (u, dof) = request.predicted_u(u2);
                chance(predicted, u, dof, request.window)
            });
        let reaches_floor = chance >= request.floor;
        if floor && !reaches_floor {
            return;
        }
        let candidate = Candidate {
            total,
            reaches_floor,
            distance: request.aim.distance_nm(predicted),
            chance,
            source: stack
                .clone()
                .map(|s| s.source)
                .max()
                .unwrap_or(crate::drawer::Source::OnHand),
            sizes: stack.map(|s| s.thickness_nm.nm()).collect(),
            lines,
        };
        self.list.offer(candidate);
    }
}
