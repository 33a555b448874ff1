//! The distribution of a measured value: what is known of each contribution, folded together.
//!
//! Student's t (or the normal) from the readings, rectangles from the gauge's step, its permissible error and parts made
//! to limits (JCGM 101:2008, 5.3 and 6.4), folded numerically. One t with effective degrees of freedom in their place
//! (JCGM 100:2008, G.4) takes the rectangles as normal, whose tails they have not: it is honest, and wider than need be.
//!
//! # Formula
//! `F₁(x) = (A(x + h) − A(x − h)) / 2h` folds a rectangle of half-width `h` into a distribution `F` with `A′ = F`. `F` is
//! kept on a grid with its density, between whose points it is a cubic; beyond the grid the tail is Student's, moved by
//! half the variance of the rest times its curvature.

use std::sync::Arc;

use statrs::distribution::{Continuous, ContinuousCDF, Normal, StudentsT};

use crate::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};

/// Half the grid: a distribution is the same on both sides of its middle.
const POINTS: usize = 1024;
/// How far the grid goes, in standard uncertainties of the whole.
const REACH: f64 = 9.0;
/// A share of the variance that is too small to see in any probability.
const NOTHING: f64 = 1e-9;

/// A distribution about zero, the same on both sides, in nanometres.
#[derive(Clone, Debug)]
pub struct Distribution {
    core: Core,
    /// The half-width of the rectangle that is folded into it in closed form; zero for none.
    flat: f64,
    /// What is folded into these two.
    folded: Option<Grid>,
}

/// Student's t or the normal; of no scale a point.
#[derive(Clone, Copy, Debug)]
struct Core {
    scale: f64,
    /// Degrees of freedom; none means the normal.
    dof: Option<f64>,
}

/// A distribution and its density at points from the middle outwards.
#[derive(Clone, Debug)]
struct Grid {
    /// From one point to the next, in nanometres.
    step: f64,
    points: Vec<(f64, f64)>,
    /// The integral of the distribution from the middle to each point.
    areas: Vec<f64>,
    /// The variance of all that is folded into the core, in square nanometres.
    rest: f64,
}

/// Beyond so many degrees of freedom Student's t is the normal to 1e-5 and better.
const LARGE_DOF: f64 = 1e5;

impl Core {
    fn few(&self) -> Option<f64> {
        self.dof.filter(|d| *d < LARGE_DOF)
    }

    /// The distribution, its density and the curvature of the distribution.
    fn at(&self, x: f64) -> (f64, f64, f64) {
        if self.scale <= 0.0 {
            let below = if x > 0.0 {
                1.0
            } else if x < 0.0 {
                0.0
            } else {
                0.5
            };
            return (below, 0.0, 0.0);
        }
        let z = x / self.scale;
        let (below, density, curvature) = match self.few() {
            None => {
                let normal = Normal::standard();
                let density = normal.pdf(z);
                (normal.cdf(z), density, -z * density)
            }
            Some(dof) => StudentsT::new(0.0, 1.0, dof).map_or((0.5, 0.0, 0.0), |t| {
                let density = t.pdf(z);
                (
                    t.cdf(z),
                    density,
                    -(dof + 1.0) * z / (dof + z * z) * density,
                )
            }),
        };
        (
            below,
            density / self.scale,
            curvature / (self.scale * self.scale),
        )
    }

    /// An integral of the distribution: `z Φ + φ` of the normal, `z F + (ν + z²) f / (ν − 1)` of Student's t, and with a
    /// logarithm where it has one degree of freedom.
    fn area(&self, x: f64) -> f64 {
        if self.scale <= 0.0 {
            return x.max(0.0);
        }
        let z = x / self.scale;
        let (below, density, _) = self.at(x);
        let density = density * self.scale;
        let more = match self.few() {
            None => density,
            Some(dof) if (dof - 1.0).abs() < 1e-9 => -(1.0 + z * z).ln() / std::f64::consts::TAU,
            Some(dof) => (dof + z * z) / (dof - 1.0) * density,
        };
        self.scale * (z * below + more)
    }
}

impl Distribution {
    /// What contributions come to, folded together.
    ///
    /// ```
    /// use anvil_core::uncertainty::distribution::Distribution;
    /// use anvil_core::uncertainty::estimate::{Component, Source};
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
        // What has tails counts for the more the fewer degrees of freedom it has; the heaviest is kept, what is left is
        // one normal.
        let weight = |p: &Component| {
            p.dof
                .filter(|d| *d < LARGE_DOF)
                .map_or(0.0, |d| p.u_nm.powi(4) / d)
        };
        let heaviest = of_kind(false)
            .filter(|p| weight(p) > 0.0)
            .max_by(|a, b| weight(a).total_cmp(&weight(b)));
        let all: f64 = of_kind(false).map(|p| p.u_nm * p.u_nm).sum();
        let (core, normal) = match heaviest {
            None => (
                Core {
                    scale: all.sqrt(),
                    dof: None,
                },
                0.0,
            ),
            Some(t) => (
                Core {
                    scale: t.u_nm,
                    dof: t.dof,
                },
                (all - t.u_nm * t.u_nm).max(0.0),
            ),
        };
        let mut flat: Vec<f64> = of_kind(true).map(|p| p.u_nm * 3_f64.sqrt()).collect();
        flat.sort_by(f64::total_cmp);
        let mut found = Self {
            core,
            flat: flat.pop().unwrap_or(0.0),
            folded: None,
        };
        let reach = variance.sqrt() * REACH;
        if normal > NOTHING * variance {
            found.fold_normal(normal.sqrt(), reach);
        }
        for half in flat.into_iter().rev() {
            found.fold_rectangle(half, reach);
        }
        found
    }

    /// The same with a normal of this standard uncertainty folded in.
    #[must_use]
    pub fn with_normal(&self, u_nm: f64) -> Self {
        let mut folded = self.clone();
        if u_nm <= 0.0 {
            return folded;
        }
        if self.core.few().is_none() && self.folded.is_none() {
            folded.core.scale = self.core.scale.hypot(u_nm);
            return folded;
        }
        let reach = self.folded.as_ref().map_or_else(
            || REACH * (self.core.scale.powi(2) + self.flat.powi(2) / 3.0).sqrt(),
            |grid| grid.step * POINTS as f64,
        );
        folded.fold_normal(u_nm, reach + REACH * u_nm);
        folded
    }

    /// Folds a rectangle of this half-width in.
    fn fold_rectangle(&mut self, half: f64, reach: f64) {
        self.fold(half * half / 3.0, reach, |of, x| {
            (
                (of.area(x + half) - of.area(x - half)) / (2.0 * half),
                (of.below(x + half) - of.below(x - half)) / (2.0 * half),
            )
        });
    }

    /// Folds a normal of this standard uncertainty in: as a sum over the points of Gauss and Hermite's rule.
    fn fold_normal(&mut self, u: f64, reach: f64) {
        self.fold(u * u, reach, |of, x| {
            HERMITE.iter().fold((0.0, 0.0), |sum, (z, weight)| {
                let (a, b) = (x - z * u, x + z * u);
                (
                    sum.0 + weight * (of.below(a) + of.below(b)),
                    sum.1 + weight * (of.density(a) + of.density(b)),
                )
            })
        });
    }

    /// Makes a grid of what the distribution and its density are once something of this variance is folded in. The
    /// rectangle of closed form is put on a grid first, whose points its ends are among: there it may have corners.
    fn fold(&mut self, variance: f64, reach: f64, at: impl Fn(&Self, f64) -> (f64, f64)) {
        let step = match &self.folded {
            Some(grid) => grid.step.max(reach / POINTS as f64),
            None if self.flat > 0.0 => {
                let step = self.flat / (self.flat * POINTS as f64 / reach).floor().max(1.0);
                self.put_on_grid(0.0, step, |of, x| (of.below(x), of.density(x)));
                step
            }
            None => reach / POINTS as f64,
        };
        self.put_on_grid(variance, step, at);
    }

    fn put_on_grid(&mut self, variance: f64, step: f64, at: impl Fn(&Self, f64) -> (f64, f64)) {
        let points: Vec<(f64, f64)> = (0..=POINTS).map(|i| at(self, i as f64 * step)).collect();
        let before = self.folded.as_ref().map(|grid| grid.rest);
        let rest = variance + before.unwrap_or(self.flat * self.flat / 3.0);
        self.folded = Some(Grid::new(step, points, rest));
    }

    /// How much of it lies below `x` nanometres.
    ///
    /// ```
    /// use anvil_core::uncertainty::distribution::Distribution;
    /// use anvil_core::uncertainty::estimate::{Component, Source};
    /// let normal = Distribution::of(&[Component { from: Source::Pieces, u_nm: 1_000.0, dof: None }]);
    /// assert!((normal.below(1_959.964) - 0.975).abs() < 1e-6);
    /// ```
    #[must_use]
    pub fn below(&self, x: f64) -> f64 {
        if x < 0.0 {
            return 1.0 - self.below(-x);
        }
        let Some(grid) = &self.folded else {
            return if self.flat > 0.0 {
                let (from, to) = (self.core.area(x - self.flat), self.core.area(x + self.flat));
                ((to - from) / (2.0 * self.flat)).min(1.0)
            } else {
                self.core.at(x).0
            };
        };
        grid.below(x).unwrap_or_else(|| {
            let (below, _, curvature) = self.core.at(x);
            (below + grid.rest / 2.0 * curvature).min(1.0)
        })
    }

    fn density(&self, x: f64) -> f64 {
        let x = x.abs();
        match &self.folded {
            Some(grid) => grid.density(x).unwrap_or_else(|| self.core.at(x).1),
            None if self.flat > 0.0 => {
                (self.core.at(x + self.flat).0 - self.core.at(x - self.flat).0) / (2.0 * self.flat)
            }
            None => self.core.at(x).1,
        }
    }

    /// An integral of the distribution.
    fn area(&self, x: f64) -> f64 {
        if x < 0.0 {
            // 1 − F on the other side.
            return self.area(-x) + x;
        }
        let Some(grid) = &self.folded else {
            return self.core.area(x) - self.core.area(0.0);
        };
        grid.area(x).unwrap_or_else(|| {
            // Beyond the grid nearly all of it lies below: two points of Gauss's rule.
            let end = POINTS as f64 * grid.step;
            let (middle, half) = (f64::midpoint(end, x), (x - end) / 2.0);
            let off = half / 3_f64.sqrt();
            grid.areas[POINTS] + half * (self.below(middle - off) + self.below(middle + off))
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
        // In the upper tail both values crowd towards 1; mirrored, nothing is lost.
        let found = if low > 0.0 {
            self.under(-low) - self.under(-high)
        } else {
            self.under(high) - self.under(low)
        };
        found.clamp(0.0, 1.0)
    }

    fn is_a_point(&self) -> bool {
        self.core.scale <= 0.0 && self.flat <= 0.0
    }

    /// As [`Distribution::below`], an open end with it.
    fn under(&self, x: f64) -> f64 {
        if x.is_infinite() {
            return if x > 0.0 { 1.0 } else { 0.0 };
        }
        self.below(x)
    }

    /// The half-width of the interval about its middle that holds 95 % of it, in nanometres.
    #[must_use]
    pub fn expanded_nm(&self) -> f64 {
        if self.is_a_point() {
            return 0.0;
        }
        let (mut low, mut high) = (0.0, 2.0 * (self.core.scale + self.flat));
        while self.below(high) < 0.975 {
            (low, high) = (high, 2.0 * high);
        }
        while high - low > 1e-9 * high {
            let middle = f64::midpoint(low, high);
            if self.below(middle) < 0.975 {
                low = middle;
            } else {
                high = middle;
            }
        }
        high
    }
}

#[allow(clippy::many_single_char_names)] // the letters of the cubic: ends a and b, place t
impl Grid {
    fn new(step: f64, points: Vec<(f64, f64)>, rest: f64) -> Self {
        let mut areas = Vec::with_capacity(points.len());
        let mut sum = 0.0;
        areas.push(sum);
        for pair in points.windows(2) {
            let ((a, da), (b, db)) = (pair[0], pair[1]);
            sum += step * (a + b) / 2.0 + step * step * (da - db) / 12.0;
            areas.push(sum);
        }
        Self {
            step,
            points,
            areas,
            rest,
        }
    }

    /// The cell that a place lies in, and how far along; none beyond the grid.
    fn cell(&self, x: f64) -> Option<(usize, f64)> {
        let at = x / self.step;
        if at >= POINTS as f64 {
            return None;
        }
        #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
        // from nothing to the grid's end
        let i = at as usize;
        Some((i, at - i as f64))
    }

    /// The cubic that has the distribution and its density at both ends of the cell.
    fn below(&self, x: f64) -> Option<f64> {
        let (i, t) = self.cell(x)?;
        let ((a, da), (b, db)) = (self.points[i], self.points[i + 1]);
        let (t2, t3) = (t * t, t * t * t);
        Some(
            a * (2.0 * t3 - 3.0 * t2 + 1.0)
                + b * (3.0 * t2 - 2.0 * t3)
                + self.step * (da * (t3 - 2.0 * t2 + t) + db * (t3 - t2)),
        )
    }

    fn density(&self, x: f64) -> Option<f64> {
        let (i, t) = self.cell(x)?;
        let ((a, da), (b, db)) = (self.points[i], self.points[i + 1]);
        let t2 = t * t;
        Some(
            (b - a) / self.step * 6.0 * (t - t2)
                + da * (3.0 * t2 - 4.0 * t + 1.0)
                + db * (3.0 * t2 - 2.0 * t),
        )
    }

    /// The integral of that cubic from the middle.
    fn area(&self, x: f64) -> Option<f64> {
        let (i, t) = self.cell(x)?;
        let ((a, da), (b, db)) = (self.points[i], self.points[i + 1]);
        let (t2, t3, t4) = (t * t, t * t * t, t * t * t * t);
        let slopes = da * (t4 / 4.0 - 2.0 * t3 / 3.0 + t2 / 2.0) + db * (t4 / 4.0 - t3 / 3.0);
        let values = a * (t4 / 2.0 - t3 + t) + b * (t3 - t4 / 2.0);
        Some(self.areas[i] + self.step * (values + self.step * slopes))
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

    /// The half-width of the two-sided 95 % interval in nanometres: of its distribution, or half the bracket.
    #[must_use]
    pub fn expanded_uncertainty_nm(&self) -> f64 {
        match self.bracket {
            Some(b) => (b.to_nm - b.from_nm) / 2.0,
            None => self.distribution().expanded_nm(),
        }
    }
}

/// A distribution that keeps its shape as others are added to it: what pieces add is small beside the readings.
#[derive(Clone, Debug)]
pub struct Shape {
    of: Arc<Distribution>,
    /// The standard uncertainty that it stands for, in nanometres.
    u_nm: f64,
    expanded_nm: f64,
}

impl Shape {
    /// The shape of a distribution whose standard uncertainty is `u_nm`; none of a point.
    #[must_use]
    pub fn new(of: Distribution, u_nm: f64) -> Option<Self> {
        (u_nm > 0.0 && !of.is_a_point()).then(|| Self {
            expanded_nm: of.expanded_nm(),
            of: Arc::new(of),
            u_nm,
        })
    }

    /// The chance that what is known as `value`, with the standard uncertainty `u`, lies from `low` to `high`; all in
    /// nanometres.
    #[must_use]
    pub fn between(&self, value: f64, u: f64, (low, high): (f64, f64)) -> f64 {
        let by = self.u_nm / u;
        self.of
            .between(0.0, (low - value) * by, (high - value) * by)
    }

    /// The half-width of the 95 % interval at the standard uncertainty `u`, in nanometres.
    #[must_use]
    pub fn expanded_nm(&self, u: f64) -> f64 {
        self.expanded_nm * u / self.u_nm
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

/// The points of one side and the weights of Gauss and Hermite's rule of ten points for the standard normal (Abramowitz
/// and Stegun, 25.4.46, table 25.10; from memory, checked by its moments).
const HERMITE: [(f64, f64); 5] = [
    (0.484_935_707_515_498, 0.344_642_334_932_019),
    (1.465_989_094_391_16, 0.135_483_702_980_268),
    (2.484_325_841_638_95, 0.019_111_580_500_770_3),
    (3.581_823_483_551_93, 7.580_709_343_122_18e-4),
    (4.859_462_828_332_31, 4.310_652_630_718_29e-6),
];
