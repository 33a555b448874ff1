//! The distribution of a measured value: what is known of each contribution, folded together.
//!
//! Student's t (or the normal) from the readings, rectangles from the gauge's step, its permissible error and parts made
//! to limits (JCGM 101:2008, 5.3 and 6.4), folded numerically. One t with effective degrees of freedom in their place
//! (JCGM 100:2008, G.4) takes the rectangles as normal, whose tails they have not: it is honest, and wider than need be.
//!
//! # Formula
//! `Q₁(x) = (U(x − h) − U(x + h)) / 2h` folds a rectangle of half-width `h` into a distribution of which `Q(x)` lies above
//! `x`, with `U′ = −Q`. `Q` is kept on a grid with its density, between whose points it is a cubic; beyond the grid it is
//! Student's tail, moved by half the variance of the rest times its curvature. What lies above is kept, and not what lies
//! below: a chance in a tail is no difference of figures near one.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use statrs::distribution::{Continuous, ContinuousCDF, Normal, StudentsT};

use crate::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};

/// Half the grid: a distribution is the same on both sides of its middle. It has fewer points where it is smooth.
const MOST_POINTS: usize = 1024;
const FEWEST_POINTS: usize = 256;
/// So many points to the scale of what has tails: between them a cubic is out by `h⁴/384`, which is less than 1e-7.
const STEPS_A_SCALE: f64 = 14.0;
/// How far the grid goes, in standard uncertainties of the whole.
const REACH: f64 = 9.0;
/// A share of the variance that is too small to see in any probability.
const NOTHING: f64 = 1e-9;
/// Tails so light, as a share of the square of the variance, are those of the normal to a ten-thousandth.
const NO_TAIL: f64 = 1e-7;
/// So many are folded with their own tails, the heaviest first.
const MOST_TAILS: usize = 3;

/// A distribution about zero, the same on both sides, in nanometres.
#[derive(Clone, Debug)]
pub struct Distribution {
    /// What is folded together.
    parts: Vec<Component>,
    core: Core,
    /// The half-width of the rectangle that is folded into it in closed form; zero for none.
    flat: f64,
    /// What is folded into these two.
    folded: Option<Grid>,
}

/// Student's t, the normal, or both folded together; of no scale rectangles, or a point.
#[derive(Clone, Debug)]
struct Core {
    scale: f64,
    /// Degrees of freedom; none means the normal.
    dof: Option<f64>,
    /// The density of that Student's t in its middle.
    peak: f64,
    /// Both together as normals of many widths, each with its weight; empty where it is one of them.
    normals: Vec<(f64, f64)>,
    /// The half-widths of the rectangles folded together, where there is nothing with tails.
    flats: Vec<f64>,
}

/// How much of a distribution lies above points from the middle outwards, and its density there.
#[derive(Clone, Debug)]
struct Grid {
    /// From one point to the next, in nanometres.
    step: f64,
    points: Vec<(f64, f64)>,
    /// The integral of what lies above, from each point outwards.
    areas: Vec<f64>,
    /// The variance of all that is folded into the core, in square nanometres.
    rest: f64,
}

/// Beyond so many degrees of freedom Student's t is the normal to 1e-5 and better.
const LARGE_DOF: f64 = 1e5;

/// The variances that a Student's t of these degrees of freedom is a mixture of, each with what it weighs.
fn widths(dof: f64) -> Vec<(f64, f64)> {
    // Less than a billionth is left out on either side.
    let step = 0.5_f64.min(0.75 * (2.0 / dof).sqrt());
    let log_weight = |at: f64| dof / 2.0 * (at - at.exp() + 1.0);
    let least = -24.0;
    let mut found = Vec::new();
    for direction in [step, -step] {
        let mut at = if direction > 0.0 { 0.0 } else { -step };
        while log_weight(at) > least {
            found.push((log_weight(at).exp(), 1.0 / at.exp()));
            at += direction;
        }
    }
    found
}

/// Normals of nearly the same variance made one, of their mean variance: what is left out is of the second order in how far
/// they are apart.
fn gathered(mut normals: Vec<(f64, f64)>) -> Vec<(f64, f64)> {
    normals.sort_by(|a, b| a.1.total_cmp(&b.1));
    let mut found: Vec<(f64, f64)> = Vec::new();
    let mut from = 0.0;
    for (weight, variance) in normals {
        match found.last_mut() {
            Some((all, mean)) if variance <= from * ALIKE => {
                *mean = (*mean * *all + variance * weight) / (*all + weight);
                *all += weight;
            }
            _ => {
                from = variance;
                found.push((weight, variance));
            }
        }
    }
    found
}

/// Variances are nearly the same up to this factor.
const ALIKE: f64 = 1.05;

impl Core {
    fn new(scale: f64, dof: Option<f64>) -> Self {
        let dof = dof.filter(|d| *d < LARGE_DOF);
        let student = dof.and_then(|d| StudentsT::new(0.0, scale, d).ok());
        Self {
            scale,
            dof,
            peak: student.map_or(0.0, |t| t.pdf(0.0)),
            normals: Vec::new(),
            flats: Vec::new(),
        }
    }

    /// The `k`th integral of the density of rectangles folded together, and of a point the step where it stands.
    ///
    /// # Formula
    /// `Σ ± (x ± a₁ ± … ± aₙ)₊ᵐ / (m! Π 2aᵢ)`, `m = n + k − 1` (the sum of even errors is piecewise a polynomial; Laplace,
    /// from memory).
    fn of_rectangles(&self, k: usize, x: f64) -> f64 {
        let n = self.flats.len();
        let Some(power) = (n + k).checked_sub(1) else {
            return 0.0;
        };
        let corner = |at: f64| match power {
            _ if at < 0.0 => 0.0,
            0 if at > 0.0 => 1.0,
            0 => 0.5,
            _ => at.powi(i32::try_from(power).unwrap_or(0)),
        };
        let terms = (0..1_usize << n).map(|signs| {
            let turned = |i: usize| signs >> i & 1 == 1;
            let side = |i: usize| if turned(i) { -1.0 } else { 1.0 };
            let at: f64 = x + (0..n).map(|i| side(i) * self.flats[i]).sum::<f64>();
            (0..n).map(side).product::<f64>() * corner(at)
        });
        let scale: f64 = self.flats.iter().map(|a| 2.0 * a).product();
        let factorial: f64 = (1..=power).map(|m| m as f64).product();
        terms.sum::<f64>() / (scale * factorial)
    }

    /// Student's t of these scales and degrees of freedom, and a normal of the standard uncertainty `u`, all folded together.
    ///
    /// # Formula
    /// Student's t is a normal whose variance is `scale²/w`, where `ν w` has a chi-square distribution of `ν` degrees of
    /// freedom (its definition); so the sum is a normal of `u² + Σ scale²/w`. Over `ln w` the rule of equal steps converges
    /// faster than any power of the step (Trefethen and Weideman, 2014; from memory).
    fn of_tails(tails: &[(f64, f64)], u: f64) -> Self {
        // Each with its weight and its variance.
        let mut normals: Vec<(f64, f64)> = vec![(1.0, u * u)];
        for (number, (scale, dof)) in tails.iter().enumerate() {
            let widths = widths(*dof);
            let sum: f64 = widths.iter().map(|(weight, _)| weight).sum();
            let both = normals.iter().flat_map(|(weight, variance)| {
                let more = widths.iter();
                more.map(move |(w, wide)| (weight * w / sum, variance + scale * scale * wide))
            });
            normals = both.collect();
            if number > 0 {
                normals = gathered(normals);
            }
        }
        let all: f64 = tails.iter().map(|(scale, _)| scale * scale).sum();
        Self {
            scale: (all + u * u).sqrt(),
            dof: tails.iter().map(|(_, dof)| *dof).reduce(f64::min),
            peak: 0.0,
            normals: normals
                .into_iter()
                .map(|(weight, variance)| (weight, variance.sqrt()))
                .collect(),
            flats: Vec::new(),
        }
    }

    fn below(&self, x: f64) -> f64 {
        let normal = Normal::standard();
        if !self.normals.is_empty() {
            let below = |(w, u): &(f64, f64)| w * normal.cdf(x / u);
            return self.normals.iter().map(below).sum();
        }
        if self.scale <= 0.0 {
            return self.of_rectangles(1, x);
        }
        let z = x / self.scale;
        match self.dof {
            None => normal.cdf(z),
            Some(dof) => StudentsT::new(0.0, 1.0, dof).map_or(0.5, |t| t.cdf(z)),
        }
    }

    /// The density and its slope, which is the curvature of the distribution.
    fn density(&self, x: f64) -> (f64, f64) {
        let normal = |u: f64| {
            let z = x / u;
            let density = (-z * z / 2.0).exp() / (u * std::f64::consts::TAU.sqrt());
            (density, -z / u * density)
        };
        if !self.normals.is_empty() {
            return self.normals.iter().fold((0.0, 0.0), |sum, (w, u)| {
                let (density, slope) = normal(*u);
                (sum.0 + w * density, sum.1 + w * slope)
            });
        }
        if self.scale <= 0.0 {
            return (self.of_rectangles(0, x), 0.0);
        }
        let Some(dof) = self.dof else {
            return normal(self.scale);
        };
        let z = x / self.scale;
        let density = self.peak * (1.0 + z * z / dof).powf(-(dof + 1.0) / 2.0);
        let slope = -(dof + 1.0) * z / (dof + z * z) * density;
        (density, slope / self.scale)
    }

    /// The density and its slope at `0, −step, …, −count step`.
    ///
    /// # Formula
    /// A normal from one step to the next: `φ(z + δ) = φ(z) q`, where each `q` is the one before times `exp(−δ²)`.
    fn densities(&self, step: f64, count: usize) -> Vec<(f64, f64)> {
        if self.normals.is_empty() {
            return (0..=count)
                .map(|i| self.density(-(i as f64 * step)))
                .collect();
        }
        let mut found = vec![(0.0, 0.0); count + 1];
        for (weight, u) in &self.normals {
            let apart = (step / u).powi(2);
            let mut density = weight / (u * std::f64::consts::TAU.sqrt());
            let (mut ratio, falls) = ((-apart / 2.0).exp(), (-apart).exp());
            for (i, sum) in found.iter_mut().enumerate() {
                sum.0 += density;
                sum.1 += i as f64 * step / (u * u) * density;
                density *= ratio;
                ratio *= falls;
            }
        }
        found
    }

    /// The distribution and its integral at `0, −step, …, −count step`, summed up from the outermost inwards.
    ///
    /// # Formula
    /// `∫ f = h (f₀ + f₁) / 2 − h² (f′₁ − f′₀) / 12`, with what is left out `h⁴/720` times the difference of the third
    /// derivatives at both ends (Euler and Maclaurin): less than 1e-7 at fourteen steps to the scale.
    fn at_steps(&self, step: f64, count: usize) -> Vec<(f64, f64)> {
        let at = |i: usize| -(i as f64 * step);
        if step * STEPS_A_SCALE > 1.001 * self.scale {
            // Not smooth enough.
            return (0..=count).map(|i| self.below_and_area(at(i))).collect();
        }
        let densities = self.densities(step, count);
        let (mut below, mut area) = self.below_and_area(at(count));
        let (mut density, mut slope) = densities[count];
        let mut found = vec![(below, area); count + 1];
        for i in (0..count).rev() {
            let (next, next_slope) = densities[i];
            let more = step * (density + next) / 2.0 + step * step * (slope - next_slope) / 12.0;
            area += step * (below + more / 2.0) + step * step * (density - next) / 12.0;
            below += more;
            (density, slope) = (next, next_slope);
            found[i] = (below, area);
        }
        found
    }

    /// The distribution, and an integral of it: `z Φ + φ` of the normal, `z F + (ν + z²) f / (ν − 1)` of Student's t, and
    /// with a logarithm where it has one degree of freedom.
    fn below_and_area(&self, x: f64) -> (f64, f64) {
        if self.scale <= 0.0 {
            return (self.of_rectangles(1, x), self.of_rectangles(2, x));
        }
        if !self.normals.is_empty() {
            let normal = Normal::standard();
            return self.normals.iter().fold((0.0, 0.0), |sum, (w, u)| {
                let z = x / u;
                let below = normal.cdf(z);
                (
                    sum.0 + w * below,
                    sum.1 + w * (x * below + u * normal.pdf(z)),
                )
            });
        }
        let z = x / self.scale;
        let below = self.below(x);
        let density = self.density(x).0 * self.scale;
        let more = match self.dof {
            None => density,
            Some(dof) if (dof - 1.0).abs() < 1e-9 => -(1.0 + z * z).ln() / std::f64::consts::TAU,
            Some(dof) => (dof + z * z) / (dof - 1.0) * density,
        };
        (below, self.scale * (z * below + more))
    }

    /// The integral of what lies above, from `x` outwards, with all that is folded in of the variance `rest`; but for a
    /// constant where it has no end.
    fn area_above(&self, x: f64, rest: f64) -> f64 {
        self.below_and_area(-x).1 + rest / 2.0 * self.density(x).0
    }
}

/// How many whole steps a length has.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a count of points
fn steps_down(length: f64, step: f64) -> usize {
    (length / step) as usize
}

/// What lies above a place so far on the other side of the middle, and the integral of that outwards.
const fn on_the_other_side(above: f64, area: f64, x: f64) -> (f64, f64) {
    (1.0 - above, area + x)
}

impl Distribution {
    /// What contributions come to, folded together.
    ///
    /// ```
    /// use anvil_arithmetic::uncertainty::distribution::Distribution;
    /// use anvil_arithmetic::uncertainty::estimate::{Component, Source};
    /// let part = |from, u_nm| Component { from, u_nm, dof: None };
    /// // One rectangle of ± 3 µm: 95 % of it lie within ± 2.85 µm, where the normal needs ± 3.39.
    /// let rectangle = Distribution::of(&[part(Source::PermissibleError, 3_000.0 / 3_f64.sqrt())]);
    /// assert!((rectangle.expanded_nm() - 2_850.0).abs() < 1e-3);
    /// ```
    #[must_use]
    pub fn of(parts: &[Component]) -> Self {
        let variance: f64 = parts.iter().map(|p| p.u_nm * p.u_nm).sum();
        let seen = |p: &&Component| p.u_nm * p.u_nm > NOTHING * variance;
        let of_kind = |flat: bool| {
            parts
                .iter()
                .filter(seen)
                .filter(move |p| is_flat(p) == flat)
        };
        // What has tails counts for the more the fewer degrees of freedom it has; what has none to be seen is one normal
        // with the rest.
        let mut tails: Vec<(f64, f64)> = of_kind(false)
            .filter_map(|p| Some((p.u_nm, p.dof.filter(|d| *d < LARGE_DOF)?)))
            .collect();
        let heavy = |t: &(f64, f64)| t.0.powi(4) / t.1;
        tails.sort_by(|a, b| heavy(b).total_cmp(&heavy(a)));
        // Beside the heaviest.
        let mut number = 0;
        tails.retain(|t| {
            number += 1;
            number == 1 || (number <= MOST_TAILS && heavy(t) > NO_TAIL * variance * variance)
        });
        let all: f64 = of_kind(false).map(|p| p.u_nm * p.u_nm).sum();
        let normal = (all - tails.iter().map(|t| t.0 * t.0).sum::<f64>()).max(0.0);
        let core = match tails[..] {
            [] => Core::new(all.sqrt(), None),
            [(u, dof)] if normal <= NOTHING * variance => Core::new(u, Some(dof)),
            _ => Core::of_tails(&tails, normal.sqrt()),
        };
        let mut flat: Vec<f64> = of_kind(true).map(|p| p.u_nm * 3_f64.sqrt()).collect();
        flat.sort_by(f64::total_cmp);
        let widest = flat.pop().unwrap_or(0.0);
        let mut found = Self {
            parts: parts.to_vec(),
            core,
            flat: widest,
            folded: None,
        };
        if found.core.scale <= 0.0 {
            // More of them in closed form would lose more in their differences than a grid does.
            found.core.flats = flat.split_off(flat.len().saturating_sub(2));
        }
        if !flat.is_empty() {
            found.folded = Some(found.on_grid(variance.sqrt() * REACH, flat.iter().sum()));
        }
        for half in flat.into_iter().rev() {
            found.folded = found.folded.as_ref().map(|g| found.with_rectangle(g, half));
        }
        found
    }

    /// The grid with another rectangle of this half-width folded in, shorter by as much.
    fn with_rectangle(&self, before: &Grid, half: f64) -> Grid {
        let rest = before.rest + half * half / 3.0;
        let step = before.step;
        // All places are the same part of the way along their cells.
        let cells = steps_down(half, step);
        let along = half / step - cells as f64;
        let (ahead, behind) = (Cubic::at(along, step), Cubic::at(1.0 - along, step));
        let last = before.last().saturating_sub(cells + 1);
        let points = (0..=last).map(|i| {
            let (above_to, area_to) = before.at(i + cells, &ahead);
            let (above_from, area_from) = i.checked_sub(cells + 1).map_or_else(
                || {
                    let (above, area) = before.at(cells - i, &ahead);
                    on_the_other_side(above, area, (cells - i) as f64 * step + along * step)
                },
                |from| before.at(from, &behind),
            );
            (
                (area_from - area_to) / (2.0 * half),
                (above_from - above_to) / (2.0 * half),
            )
        });
        let points = points.collect();
        let beyond = self.core.area_above(last as f64 * step, rest);
        Grid::new(step, points, beyond, rest)
    }

    /// The core with the rectangle of closed form on a grid whose points the rectangle's ends are among: there it may
    /// have corners. So each point's value is made of the core's at other points, and each of those is worked out once.
    /// It goes `further` than `reach`, by what is folded in after.
    fn on_grid(&self, reach: f64, further: f64) -> Grid {
        let finest = reach / MOST_POINTS as f64;
        let smooth = (self.core.scale / STEPS_A_SCALE).clamp(finest, reach / FEWEST_POINTS as f64);
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a count of points
        let half = (self.flat / smooth).ceil() as usize;
        let step = self.flat / half as f64;
        // What is folded in after takes its half-width off, and two steps for the ends of their cells.
        let last = steps_down(reach, step).min(MOST_POINTS) + 2 * steps_down(further, step) + 2;
        let core = self.core.at_steps(step, last + half);
        let points = (0..=last).map(|i| {
            let (above_to, area_to) = core[i + half];
            let (above_from, area_from) = i.checked_sub(half).map_or_else(
                || {
                    let (above, area) = core[half - i];
                    on_the_other_side(above, area, (half - i) as f64 * step)
                },
                |from| core[from],
            );
            (
                (area_from - area_to) / (2.0 * self.flat),
                (above_from - above_to) / (2.0 * self.flat),
            )
        });
        let rest = self.flat * self.flat / 3.0;
        let beyond = self.core.area_above(last as f64 * step, rest);
        Grid::new(step, points.collect(), beyond, rest)
    }

    /// How much of it lies below `x` nanometres.
    ///
    /// ```
    /// use anvil_arithmetic::uncertainty::distribution::Distribution;
    /// use anvil_arithmetic::uncertainty::estimate::{Component, Source};
    /// let normal = Distribution::of(&[Component { from: Source::Pieces, u_nm: 1_000.0, dof: None }]);
    /// assert!((normal.below(1_959.964) - 0.975).abs() < 1e-6);
    /// ```
    #[must_use]
    pub fn below(&self, x: f64) -> f64 {
        self.above(-x)
    }

    /// How much of it lies above `x` nanometres: as much as lies below on the other side.
    fn above(&self, x: f64) -> f64 {
        if x < 0.0 {
            return 1.0 - self.above(-x);
        }
        let Some(grid) = &self.folded else {
            return if self.flat > 0.0 {
                let area = |x: f64| self.core.below_and_area(-x).1;
                ((area(x - self.flat) - area(x + self.flat)) / (2.0 * self.flat)).max(0.0)
            } else {
                self.core.below(-x)
            };
        };
        grid.above(x).unwrap_or_else(|| {
            (self.core.below(-x) + grid.rest / 2.0 * self.core.density(-x).1).max(0.0)
        })
    }

    /// The chance that what is known as `value` lies from `low` to `high`, limits included, either of which may be
    /// infinite; all in nanometres.
    #[must_use]
    pub fn between(&self, value: f64, low: f64, high: f64) -> f64 {
        if self.is_a_point() {
            return f64::from(u8::from((low..=high).contains(&value)));
        }
        let (low, high) = (low - value, high - value);
        // In the lower tail both values crowd towards 1; mirrored, nothing is lost.
        let found = if high < 0.0 {
            self.over(-high) - self.over(-low)
        } else {
            self.over(low) - self.over(high)
        };
        found.clamp(0.0, 1.0)
    }

    fn is_a_point(&self) -> bool {
        self.core.scale <= 0.0 && self.flat <= 0.0
    }

    /// As [`Distribution::above`], an open end with it.
    fn over(&self, x: f64) -> f64 {
        if x.is_infinite() {
            return if x > 0.0 { 0.0 } else { 1.0 };
        }
        self.above(x)
    }

    /// The half-width of the interval about its middle that holds 95 % of it, in nanometres.
    #[must_use]
    pub fn expanded_nm(&self) -> f64 {
        if self.is_a_point() {
            return 0.0;
        }
        let flats: f64 = self.core.flats.iter().sum();
        let (mut low, mut high) = (0.0, 2.0 * (self.core.scale + self.flat + flats));
        while self.above(high) > 0.025 {
            (low, high) = (high, 2.0 * high);
        }
        while high - low > 1e-9 * high {
            let middle = f64::midpoint(low, high);
            if self.above(middle) > 0.025 {
                low = middle;
            } else {
                high = middle;
            }
        }
        high
    }
}

impl Grid {
    /// `beyond` is the integral of what lies above, from the grid's end outwards.
    fn new(step: f64, points: Vec<(f64, f64)>, beyond: f64, rest: f64) -> Self {
        let mut areas = vec![beyond; points.len()];
        for i in (1..points.len()).rev() {
            let ((a, da), (b, db)) = (points[i - 1], points[i]);
            areas[i - 1] = areas[i] + step * (a + b) / 2.0 + step * step * (db - da) / 12.0;
        }
        Self {
            step,
            points,
            areas,
            rest,
        }
    }

    /// The number of the outermost point.
    fn last(&self) -> usize {
        self.points.len() - 1
    }

    /// The cell that a place lies in, and how far along; none beyond the grid.
    fn cell(&self, x: f64) -> Option<(usize, f64)> {
        let at = x / self.step;
        if at >= self.last() as f64 {
            return None;
        }
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        // from nothing to the grid's end
        let i = at as usize;
        Some((i, at - i as f64))
    }

    /// What lies above `x`; none beyond the grid.
    fn above(&self, x: f64) -> Option<f64> {
        let (i, along) = self.cell(x)?;
        Some(self.at(i, &Cubic::at(along, self.step)).0)
    }

    /// What lies above a place in a cell, and the integral of that outwards.
    fn at(&self, cell: usize, place: &Cubic) -> (f64, f64) {
        let ((a, da), (b, db)) = (self.points[cell], self.points[cell + 1]);
        let of = |w: &[f64; 4]| w[0] * a + w[1] * b + w[2] * da + w[3] * db;
        (of(&place.value), self.areas[cell + 1] + of(&place.integral))
    }
}

/// How much each of what a cell has at its ends counts at a place in it: what lies above there and at the far end, and
/// both densities, in the cubic that has them all.
struct Cubic {
    value: [f64; 4],
    /// In the integral of the cubic from the place to the far end.
    integral: [f64; 4],
}

impl Cubic {
    /// At a part `t` of the way along a cell of this width.
    fn at(t: f64, width: f64) -> Self {
        let (t2, t3) = (t * t, t * t * t);
        // From the far end inwards.
        let s = 1.0 - t;
        let (s2, s3, s4) = (s * s, s * s * s, s * s * s * s);
        Self {
            value: [
                2.0 * t3 - 3.0 * t2 + 1.0,
                3.0 * t2 - 2.0 * t3,
                -width * (t3 - 2.0 * t2 + t),
                -width * (t3 - t2),
            ],
            integral: [
                width * (s3 - s4 / 2.0),
                width * (s4 / 2.0 - s3 + s),
                width * width * (s4 / 4.0 - s3 / 3.0),
                width * width * (s4 / 4.0 - 2.0 * s3 / 3.0 + s2 / 2.0),
            ],
        }
    }
}

/// What is known of a clearance as a distribution about its figure: its contributions, folded together.
///
/// A scale's step is one rectangle for all readings only where they do not scatter over it; where they do, each is rounded
/// by itself, and the mean of `n` is off the less. What they have in common has the share `ρ` of the variance; the rest is
/// in the scatter of readings already, and is added to a scatter that is only stated.
///
/// # Formula
/// `ρ = 6/π² Σ exp(−4π²k²s²/r²)/k²` (the sawtooth of rounding as a Fourier series, each term damped by the scatter `s`;
/// Widrow's theory of quantisation, from memory).
#[must_use]
pub fn of_readings(parts: &[Component], readings: usize) -> Distribution {
    let of_scatter = |p: &&Component| matches!(p.from, Source::Scatter | Source::Repeatability);
    let mut scatters = parts.iter().filter(of_scatter);
    let (Some(scatter), None) = (scatters.next(), scatters.next()) else {
        return Distribution::of(parts);
    };
    let n = readings.max(1) as f64;
    let only_stated = scatter.from == Source::Repeatability && scatter.dof.is_none();
    if only_stated && readings < 2 {
        return Distribution::of(parts);
    }
    let s = scatter.u_nm * n.sqrt();
    let mut seen = Vec::with_capacity(parts.len() + 2);
    for part in parts {
        if part.from != Source::Resolution {
            seen.push(part.clone());
            continue;
        }
        let common = in_common(s / (part.u_nm * 12_f64.sqrt()));
        seen.push(Component {
            u_nm: part.u_nm * common.sqrt(),
            ..part.clone()
        });
        if only_stated {
            seen.push(Component {
                from: Source::Repeatability,
                u_nm: part.u_nm * ((1.0 - common) / n).sqrt(),
                dof: None,
            });
        }
    }
    Distribution::of(&seen)
}

/// How much of the variance of rounding all readings have in common, that scatter by so many steps: 1 to 0.
fn in_common(steps: f64) -> f64 {
    let tau = std::f64::consts::TAU;
    let term = |k: f64| (-(tau * k * steps).powi(2)).exp() / (k * k);
    let sum: f64 = (1..=40).map(|k| term(f64::from(k))).sum();
    (6.0 / std::f64::consts::PI.powi(2) * sum).min(1.0)
}

impl Estimate {
    /// What is known of the clearance as a distribution about it; see [`of_readings`]. Where only its uncertainty is
    /// known, that is one Student's t.
    #[must_use]
    pub fn distribution(&self) -> Distribution {
        let (u_nm, _) = combined_uncertainty(&self.parts);
        if (u_nm - self.u_nm).abs() > 1e-6 * self.u_nm {
            return Distribution::of(&[Component {
                from: Source::Scatter,
                u_nm: self.u_nm,
                dof: self.dof,
            }]);
        }
        of_readings(&self.parts, self.readings)
    }

    /// The half-width of the two-sided 95 % interval in nanometres. Half a bracket is all of it where the leaves are true;
    /// where their own error is large beside it, the interval reaches beyond.
    #[must_use]
    pub fn expanded_uncertainty_nm(&self) -> f64 {
        self.expanded_of(&self.distribution())
    }

    /// The same, where its distribution is known already.
    pub(crate) fn expanded_of(&self, known: &Distribution) -> f64 {
        let expanded = known.expanded_nm();
        match self.bracket {
            Some(b) => expanded.max((b.to_nm - b.from_nm) / 2.0),
            None => expanded,
        }
    }
}

/// A distribution that others are folded into as they are asked for: what pieces add is another for each stack.
#[derive(Clone, Debug)]
pub struct Shape {
    of: Arc<Distribution>,
    folded: Arc<Mutex<HashMap<[u64; 2], Arc<Distribution>>>>,
}

/// No more than this is left out of a tail.
const LEFT_OUT: f64 = 1e-9;

/// More than so many are not kept: each is a grid of some 20 kB.
const MOST_KEPT: usize = 512;

impl Shape {
    /// The shape of a distribution; none of a point.
    #[must_use]
    pub fn new(of: Distribution) -> Option<Self> {
        (!of.is_a_point()).then(|| Self {
            of: Arc::new(of),
            folded: Arc::default(),
        })
    }

    /// The chance that what is known as `value`, with these two folded in, lies from `low` to `high`; all in nanometres. What
    /// is less than a billionth is nothing: so much of a tail is left out, in one distribution more than in another.
    #[must_use]
    pub fn between(&self, more: &[Component; 2], value: f64, low: f64, high: f64) -> f64 {
        let found = self.with(more).between(value, low, high);
        if found < LEFT_OUT { 0.0 } else { found }
    }

    /// The half-width of the 95 % interval with these two folded in, in nanometres.
    #[must_use]
    pub fn expanded_nm(&self, more: &[Component; 2]) -> f64 {
        self.with(more).expanded_nm()
    }

    /// The distribution with these two folded in.
    fn with(&self, more: &[Component; 2]) -> Arc<Distribution> {
        let variance = |parts: &[Component]| parts.iter().map(|p| p.u_nm * p.u_nm).sum::<f64>();
        if variance(more) <= NOTHING * variance(&self.of.parts) {
            return Arc::clone(&self.of);
        }
        let key = [0, 1].map(|i| more[i].u_nm.to_bits());
        let mut folded = self.folded.lock().unwrap_or_else(PoisonError::into_inner);
        if folded.len() >= MOST_KEPT && !folded.contains_key(&key) {
            folded.clear();
        }
        let found = folded
            .entry(key)
            .or_insert_with(|| Arc::new(Distribution::of(&[&self.of.parts[..], more].concat())));
        Arc::clone(found)
    }
}

/// Whether a contribution lies anywhere between its limits alike, and has no tails.
const fn is_flat(part: &Component) -> bool {
    matches!(
        part.from,
        Source::Resolution
            | Source::PermissibleError
            | Source::Adjustment
            | Source::Tolerance
            | Source::Bracket
    )
}
