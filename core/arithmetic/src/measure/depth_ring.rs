//! Depth from a bar laid across the joint face: the depth is taken at places round a circle, the
//! bar's thickness comes off. A seat that is not square shows as a tilt: `d(φ) = m + a cos φ + b sin φ`
//! is fitted by least squares; `m` is the height, `2√(a² + b²)` the rise of the tilt across the
//! circle, and the rest is roughness, with three degrees of freedom fewer than readings.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_line, of_gauge, shift_nm, spread};
use crate::measure::fields::{
    FieldFault, LONGEST, Shown, Taken, Typed, fault, up_to, up_to_or_none,
};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::{Length, Unit};
use crate::units::working::Line;

/// A depth from a bar, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DepthInput {
    /// Which place, counted from 1.
    pub place: u16,
    /// Of how many, equally spaced.
    pub of: u16,
    /// The depth from the bar's upper face.
    pub depth: String,
    /// How thick the bar is; empty for none.
    #[serde(default)]
    pub bar: String,
    /// What the bar lies on.
    #[serde(default)]
    pub bar_on: BarOn,
}

/// What the bar lies on, where it is a part's height above or below a face that is measured.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BarOn {
    /// On the face, and the depth is down to the part: the part lies below.
    #[default]
    Face,
    /// On the part, and the depth is down to the face: the part stands proud.
    Part,
}

/// A depth from a bar.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct DepthReading {
    /// Which place, counted from 1.
    pub place: u16,
    /// Of how many, equally spaced.
    pub of: u16,
    /// The depth from the bar's upper face.
    pub depth_nm: Length,
    /// How thick the bar is.
    pub bar_nm: Length,
    /// What the bar lies on.
    #[serde(default)]
    pub bar_on: BarOn,
}

impl Typed for DepthInput {
    type Reading = DepthReading;
    const METHODS: &'static [Method] = &[Method::DepthFromBar];

    fn text(&self) -> String {
        let (depth, bar) = (self.depth.trim(), self.bar.trim());
        format!("place {}: {depth} over bar {bar}", self.place)
    }

    fn read(&self, unit: Unit) -> Result<DepthReading, FieldFault> {
        let Self { place, of, .. } = *self;
        if !(3..=MOST_PLACES).contains(&of) || !(1..=of).contains(&place) {
            return Err(fault(
                "place",
                format!("there are from 3 to {MOST_PLACES} places, counted from 1"),
            ));
        }
        let depth_nm = up_to("depth", &self.depth, unit, LONGEST)?;
        let bar_nm = up_to_or_none("bar", &self.bar, unit, LONGEST)?;
        if depth_nm < bar_nm {
            return Err(fault(
                "depth",
                format!(
                    "the depth is less than the bar is thick ({bar_nm}): read it from the bar's upper face"
                ),
            ));
        }
        Ok(DepthReading {
            place,
            of,
            depth_nm,
            bar_nm,
            bar_on: self.bar_on,
        })
    }
}

impl Taken for DepthReading {
    fn shown(&self) -> Shown {
        Shown::length(self.depth_nm.checked_sub(self.bar_nm))
    }
}

/// The most places round a circle.
pub const MOST_PLACES: u16 = 36;

/// Why depths give no estimate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum RingError {
    /// The bar is thicker than a depth read over it.
    #[error("the bar is {bar} thick, yet a depth of {depth} was read over it: check both figures")]
    BarTooThick { bar: Length, depth: Length },
    /// As many depths as a plane has figures.
    #[error(
        "any three depths lie on a plane, so they say nothing of their own scatter, and this gauge has no stated repeatability: take a depth at a fourth place"
    )]
    OnAnyPlane,
    /// The bar on the face for some depths and on the part for others.
    #[error(
        "some depths were taken with the bar on the face and some with it on the part: take all round one way, and strike the others out"
    )]
    BarsDiffer,
    /// A place outside the circle.
    #[error("place {place} of {of}: places count from 1, and there are from 3 to {MOST_PLACES}")]
    BadPlace {
        /// The place, counted from 1.
        place: u16,
        /// Of how many.
        of: u16,
    },
}

/// A ring fitted to depths.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Ring {
    /// The fitted height in nanometres, the bar's thickness taken off.
    pub mean_nm: f64,
    /// How far the fitted plane rises across the circle in nanometres.
    pub rise_nm: f64,
    /// Where it is deepest, in degrees from the first place.
    pub deepest_deg: f64,
    /// Each depth against the fit.
    pub places: Vec<Placed>,
    /// Places not read yet, counted from 1.
    pub missing: Vec<u16>,
}

/// One depth against the fitted ring.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Placed {
    /// Where it was taken, in degrees from the first place.
    pub angle_deg: f64,
    /// The depth less the bar, in nanometres.
    pub depth_nm: f64,
    /// What the fitted ring has there.
    pub fitted_nm: f64,
    /// It does not belong: its distance from the ring of the others is beyond what they allow
    /// (Student's t on the residual deleted, 5 % over all places).
    pub stray: bool,
}

/// The ring of least squares through `(angle in radians, depth)`; none where the places do not
/// determine it.
///
/// Solved by the normal equations about the mean depth, which for a few dozen places lose nothing
/// that a nanometre shows.
pub(super) fn least_squares(points: &[(f64, f64)]) -> Option<Fitted> {
    let n = points.len() as f64;
    let about = points.iter().map(|p| p.1).sum::<f64>() / n;
    let mut normal = [[0.0_f64; 3]; 3];
    let mut right = [0.0_f64; 3];
    for (angle, depth) in points {
        let row = [1.0, angle.cos(), angle.sin()];
        for i in 0..3 {
            for j in 0..3 {
                normal[i][j] += row[i] * row[j];
            }
            right[i] += row[i] * (depth - about);
        }
    }
    let inverse = invert(normal)?;
    let solved = inverse.map(|row| row.iter().zip(&right).map(|(i, r)| i * r).sum::<f64>());
    Some(Fitted {
        coefficients: [about + solved[0], solved[1], solved[2]],
        inverse,
    })
}

pub(super) struct Fitted {
    /// `m`, `a`, `b`.
    coefficients: [f64; 3],
    /// The inverse of the normal matrix: the covariance for a scatter of one.
    pub inverse: [[f64; 3]; 3],
}

impl Fitted {
    fn at(&self, angle: f64) -> f64 {
        let [m, a, b] = self.coefficients;
        m + a * angle.cos() + b * angle.sin()
    }

    /// The leverage of a reading at this angle.
    fn leverage(&self, angle: f64) -> f64 {
        let row = [1.0, angle.cos(), angle.sin()];
        (0..3)
            .flat_map(|i| (0..3).map(move |j| (i, j)))
            .map(|(i, j)| row[i] * self.inverse[i][j] * row[j])
            .sum()
    }
}

fn invert(m: [[f64; 3]; 3]) -> Option<[[f64; 3]; 3]> {
    let minor = |r: usize, c: usize| {
        let pick = |skip: usize| -> [usize; 2] {
            match skip {
                0 => [1, 2],
                1 => [0, 2],
                _ => [0, 1],
            }
        };
        let ([r0, r1], [c0, c1]) = (pick(r), pick(c));
        m[r0][c0] * m[r1][c1] - m[r0][c1] * m[r1][c0]
    };
    let sign = |r: usize, c: usize| {
        if (r + c).is_multiple_of(2) { 1.0 } else { -1.0 }
    };
    let determinant: f64 = (0..3).map(|c| sign(0, c) * m[0][c] * minor(0, c)).sum();
    // Places all in one or two spots determine no plane; each entry is at most the count of them.
    let size = m[0][0].powi(3);
    if determinant.abs() <= size * 1e-9 {
        return None;
    }
    let mut inverse = [[0.0; 3]; 3];
    for (r, row) in inverse.iter_mut().enumerate() {
        for (c, entry) in row.iter_mut().enumerate() {
            *entry = sign(r, c) * minor(c, r) / determinant;
        }
    }
    Some(inverse)
}

/// Angles in radians and depths less the bar in nanometres.
fn points(depths: &[DepthReading]) -> Vec<(f64, f64)> {
    let turns = |d: &DepthReading| (f64::from(d.place) - 1.0) / f64::from(d.of);
    depths
        .iter()
        .map(|d| {
            let net = d.depth_nm.nm() - d.bar_nm.nm();
            (std::f64::consts::TAU * turns(d), net as f64)
        })
        .collect()
}

fn plain_mean(points: &[(f64, f64)]) -> f64 {
    points.iter().map(|p| p.1).sum::<f64>() / points.len() as f64
}

/// The squares that the fit (or the plain mean) leaves over, and their degrees of freedom.
fn left_over(points: &[(f64, f64)], fitted: Option<&Fitted>) -> (f64, f64) {
    let plain = plain_mean(points);
    let at = |angle: f64| fitted.map_or(plain, |f| f.at(angle));
    let squares = points.iter().map(|(a, d)| (d - at(*a)).powi(2)).sum();
    let taken = if fitted.is_some() { 3.0 } else { 1.0 };
    (squares, points.len() as f64 - taken)
}

/// The roughness left about the ring: sum of squares and degrees of freedom.
pub(crate) fn residual(depths: &[DepthReading]) -> Option<(f64, f64)> {
    let points = points(depths);
    let (squares, dof) = left_over(&points, least_squares(&points).as_ref());
    (dof > 0.0).then_some((squares, dof))
}

/// How far a part stands proud of a face, above zero, or lies below it, from depths all taken with the bar on one of them.
///
/// # Formula
/// As of [`estimate`]: the fitted mean, taken below zero where the bar lay on the face.
///
/// # Errors
/// Where the bar lay on the face for some depths and on the part for others; and as of [`estimate`].
pub fn height(
    depths: &[DepthReading],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<(Estimate, Ring), MeasureError> {
    let on = depths.first().map(|d| d.bar_on).unwrap_or_default();
    if depths.iter().any(|d| d.bar_on != on) {
        return Err(RingError::BarsDiffer.into());
    }
    let (found, ring) = estimate(depths, gauge, adjustments)?;
    let found = match on {
        BarOn::Part => found,
        BarOn::Face => found.turned_over(
            shift_nm(adjustments),
            "the bar lay on the face, so the part lies below it: ",
        ),
    };
    Ok((found, ring))
}

/// Fits the ring and estimates the clearance.
///
/// With fewer than three separate places no tilt can be told: the plain mean stands, and the ring
/// has no rise.
///
/// ```
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::depth_ring::{estimate, BarOn, DepthReading};
/// // Common practice, no source: six places, their mean 1.848, whatever the tilt.
/// let depth = |place: u16, nm: i64| DepthReading { place, of: 6, depth_nm: Length::from_nm(nm), bar_nm: Length::ZERO, bar_on: BarOn::Face };
/// let depths = [1_850_000, 1_860_000, 1_856_000, 1_846_000, 1_836_000, 1_840_000];
/// let depths: Vec<_> = (1..=6).map(|i| depth(i, depths[usize::from(i) - 1])).collect();
/// let gauge = Gauge::new(Length::from_nm(1_000), Length::from_nm(3_000), None).unwrap();
/// let (found, ring) = estimate(&depths, gauge, &[]).unwrap();
/// assert!((found.clearance_nm - 1_848_000.0).abs() < 1e-6);
/// assert!(ring.rise_nm > 20_000.0);
/// ```
///
/// # Formula
/// `d(φ) = m + a cos φ + b sin φ` by least squares; the rise across the circle is `2√(a² + b²)`, the roughness has
/// `n − 3` degrees of freedom.
///
/// # Errors
/// Where there is no depth, a place lies outside the circle, a bar is thicker than a depth, or the scatter is unknown.
pub fn estimate(
    depths: &[DepthReading],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<(Estimate, Ring), MeasureError> {
    if depths.is_empty() {
        return Err(MeasureError::NoReadings);
    }
    for d in depths {
        if !(3..=MOST_PLACES).contains(&d.of) || !(1..=d.of).contains(&d.place) {
            return Err(RingError::BadPlace {
                place: d.place,
                of: d.of,
            }
            .into());
        }
        if d.depth_nm < d.bar_nm {
            return Err(RingError::BarTooThick {
                bar: d.bar_nm,
                depth: d.depth_nm,
            }
            .into());
        }
    }
    let points = points(depths);
    let n = points.len();
    let fitted = least_squares(&points);
    let plain = plain_mean(&points);
    let (squares, dof) = left_over(&points, fitted.as_ref());
    let own = (dof > 0.0).then_some((squares, dof));
    let scatter = match scatter(own, gauge.repeatability(), gauge.resolution().as_f64()) {
        Err(MeasureError::ScatterUnknown) if fitted.is_some() => {
            return Err(RingError::OnAnyPlane.into());
        }
        scatter => scatter?,
    };
    let (mean, share) = fitted.as_ref().map_or((plain, 1.0 / n as f64), |f| {
        (f.coefficients[0], f.inverse[0][0])
    });
    // One bar is the rule; where bars were changed, each depth is shown with its own taken off.
    let bar = Some(depths[0].bar_nm)
        .filter(|bar| depths.iter().all(|d| d.bar_nm == *bar))
        .unwrap_or_default();
    let figures: Vec<f64> = points.iter().map(|p| p.1 + bar.as_f64()).collect();
    let mut working = vec![mean_line(&figures, mean + bar.as_f64())];
    if bar > Length::ZERO {
        working.push(
            Line::new()
                .length(mean + bar.as_f64())
                .text(" − bar ")
                .length(bar.as_f64())
                .text(" = ")
                .length(mean),
        );
    }
    let of = depths[0].of;
    let unread = |place: &u16| depths.iter().all(|d| d.place != *place || d.of != of);
    let missing = (1..=of).filter(unread).collect();
    let ring = ring(&points, fitted.as_ref(), missing);
    if fitted.is_some() {
        working.push(
            Line::new()
                .text("tilt: it rises ")
                .length(ring.rise_nm)
                .text(" across the circle, deepest at ")
                .number(ring.deepest_deg, 0)
                .text("°"),
        );
    }
    let nets: Vec<f64> = points.iter().map(|p| p.1).collect();
    let own = Component {
        from: scatter.from,
        u_nm: scatter.s_nm * share.sqrt(),
        dof: scatter.dof,
    };
    let found = Unadjusted {
        trial_nm: mean,
        readings: n,
        spread_nm: spread(&nets),
        parts: [own].into_iter().chain(of_gauge(gauge, 1)).collect(),
        scatter: Some(scatter),
        working,
    };
    let mut estimate = finish(found, adjustments)?;
    if ring.places.iter().any(|p| p.stray) {
        estimate.notes.push(Line::new().text(
            "One depth does not belong to the ring of the others: look for a burr or sealant there, and take it again.",
        ));
    }
    if !ring.missing.is_empty() {
        let places: Vec<String> = ring.missing.iter().map(u16::to_string).collect();
        estimate.notes.push(Line::new().text(format!(
            "Not read yet: place {} of {}.",
            places.join(", "),
            depths[0].of
        )));
    }
    Ok((estimate, ring))
}

/// The ring fitted to points, or their plain mean, with the places not read yet.
pub(super) fn ring(points: &[(f64, f64)], fitted: Option<&Fitted>, missing: Vec<u16>) -> Ring {
    let (squares, dof) = left_over(points, fitted);
    let mean = fitted.map_or_else(|| plain_mean(points), |f| f.coefficients[0]);
    let (a, b) = fitted.map_or((0.0, 0.0), |f| (f.coefficients[1], f.coefficients[2]));
    let n = points.len() as f64;
    // The residual against the scatter of the others, at 5 % over all places (Bonferroni).
    let stray = |angle: f64, residual: f64| {
        let Some(fit) = fitted.filter(|_| dof > 1.0) else {
            return false;
        };
        let free = 1.0 - fit.leverage(angle);
        if free <= 1e-9 {
            return false;
        }
        let others = (squares - residual * residual / free) / (dof - 1.0);
        let limit = StudentsT::new(0.0, 1.0, dof - 1.0)
            .map_or(f64::INFINITY, |t| t.inverse_cdf(1.0 - 0.025 / n));
        // Within half a micrometre nothing stands out, however well the others agree.
        residual.abs() > 500.0 && residual.abs() > limit * (others.max(0.0) * free).sqrt()
    };
    Ring {
        mean_nm: mean,
        rise_nm: 2.0 * a.hypot(b),
        deepest_deg: b.atan2(a).to_degrees().rem_euclid(360.0),
        places: points
            .iter()
            .map(|(angle, depth)| {
                let fitted_nm = fitted.map_or(mean, |f| f.at(*angle));
                Placed {
                    angle_deg: angle.to_degrees(),
                    depth_nm: *depth,
                    fitted_nm,
                    stray: stray(*angle, depth - fitted_nm),
                }
            })
            .collect(),
        missing,
    }
}
