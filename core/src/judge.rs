//! The verdict on a clearance: in, tight, loose, or too close to call.
//!
//! The chance in window follows JCGM 106:2012, clause 7, with Student's t for the distribution;
//! the verdict keeps a guard band of the expanded uncertainty each side of the limits, in the
//! manner of ISO 14253-1.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, Normal, StudentsT};

use crate::estimate::{Estimate, Origin, combine};
use crate::window::Window;

/// What can be said of a clearance against its window.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Call {
    /// The whole 95 % interval lies inside the window.
    In,
    /// The whole interval lies below the tight limit.
    Tight,
    /// The whole interval lies above the loose limit.
    Loose,
    /// A limit lies inside the interval.
    TooClose,
}

/// A verdict with the figures behind it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Verdict {
    /// The call.
    pub call: Call,
    /// The chance that the clearance lies in the window, 0 to 1.
    pub chance: f64,
    /// The half-width of the 95 % interval in nanometres.
    pub expanded_nm: f64,
    /// Clearance less the tight limit in nanometres; none where the window is open there.
    pub to_low_nm: Option<f64>,
    /// The loose limit less the clearance in nanometres; none where the window is open there.
    pub to_high_nm: Option<f64>,
    /// What would settle a call too close to make.
    pub settled_by: Option<SettledBy>,
}

/// What would settle a call that is too close to make, were the mean to stay where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum SettledBy {
    /// So many more readings of the same kind.
    MoreReadings {
        /// How many more.
        more: usize,
    },
    /// More readings would not do it; a gauge with a finer step and a smaller error would.
    FinerGauge,
    /// It lies on the limit as near as anyone can tell: it is a matter of judgement.
    Judgement,
}

/// Student's factor for a two-sided 95 % interval; none means infinite degrees of freedom.
///
/// ```
/// // Student's table: 4.303 for two degrees of freedom, 1.960 for infinitely many.
/// assert!((anvil_core::judge::t95(Some(2.0)) - 4.303).abs() < 5e-4);
/// assert!((anvil_core::judge::t95(None) - 1.960).abs() < 5e-4);
/// ```
#[must_use]
pub fn t95(dof: Option<f64>) -> f64 {
    /// The standard normal quantile at 97.5 %.
    const NORMAL: f64 = 1.959_963_984_540_054;
    match dof.filter(|d| *d < LARGE_DOF) {
        Some(dof) => StudentsT::new(0.0, 1.0, dof).map_or(f64::INFINITY, |t| t.inverse_cdf(0.975)),
        None => NORMAL,
    }
}

/// Beyond so many degrees of freedom the factors of Student's t and the normal differ by less than
/// 3e-5, and the library's inverse loses more than that.
const LARGE_DOF: f64 = 1e5;

/// The chance that a clearance known as `clearance ± u` (with `dof` degrees of freedom) lies in
/// the window, limits included. With `u` of zero it is 1 or 0.
///
/// ```
/// use anvil_core::{judge::chance, length::Length, window::Window};
/// let window = Window::new(Some(Length::from_nm(-1_960)), Some(Length::from_nm(1_960))).unwrap();
/// assert!((chance(0.0, 1_000.0, None, window) - 0.95).abs() < 1e-4);
/// assert_eq!(chance(1_960.0, 0.0, None, window), 1.0);
/// ```
#[must_use]
pub fn chance(clearance_nm: f64, u_nm: f64, dof: Option<f64>, window: Window) -> f64 {
    if u_nm <= 0.0 {
        return if window.holds(clearance_nm) { 1.0 } else { 0.0 };
    }
    let low = (window.low_nm() - clearance_nm) / u_nm;
    let high = (window.high_nm() - clearance_nm) / u_nm;
    let between = |below: &dyn Fn(f64) -> f64| {
        // In the upper tail both values crowd towards 1; mirrored, nothing is lost.
        if low > 0.0 {
            below(-low) - below(-high)
        } else {
            below(high) - below(low)
        }
    };
    let found = if let Some(dof) = dof.filter(|d| *d < LARGE_DOF) {
        match StudentsT::new(0.0, 1.0, dof) {
            Ok(t) => between(&|x| edge(x).unwrap_or_else(|| t.cdf(x))),
            Err(_) => 0.0,
        }
    } else {
        let normal = Normal::standard();
        between(&|x| edge(x).unwrap_or_else(|| normal.cdf(x)))
    };
    found.clamp(0.0, 1.0)
}

/// The distribution at an open end.
fn edge(x: f64) -> Option<f64> {
    x.is_infinite().then_some(if x > 0.0 { 1.0 } else { 0.0 })
}

/// Judges an estimate against a window.
#[must_use]
pub fn judge(estimate: &Estimate, window: Window) -> Verdict {
    let expanded_nm = estimate.expanded_nm();
    let call = call(estimate.clearance_nm, expanded_nm, window);
    Verdict {
        call,
        chance: chance(estimate.clearance_nm, estimate.u_nm, estimate.dof, window),
        expanded_nm,
        to_low_nm: window.low().map(|l| estimate.clearance_nm - l.as_f64()),
        to_high_nm: window.high().map(|h| h.as_f64() - estimate.clearance_nm),
        settled_by: (call == Call::TooClose).then(|| settled_by(estimate, window)),
    }
}

fn call(clearance_nm: f64, expanded_nm: f64, window: Window) -> Call {
    let (from, to) = (clearance_nm - expanded_nm, clearance_nm + expanded_nm);
    if window.holds(from) && window.holds(to) {
        Call::In
    } else if to < window.low_nm() {
        Call::Tight
    } else if from > window.high_nm() {
        Call::Loose
    } else {
        Call::TooClose
    }
}

/// Nobody takes more readings of one check than this to settle an argument.
const MOST_MORE: usize = 12;

fn settled_by(estimate: &Estimate, window: Window) -> SettledBy {
    let settles = |scale_scatter: f64, more: usize, gauge: bool| {
        let parts: Vec<_> = estimate
            .parts
            .iter()
            .filter(|p| gauge || !matches!(p.from, Origin::Resolution | Origin::PermissibleError))
            .cloned()
            .map(|mut part| {
                if matches!(part.from, Origin::Scatter | Origin::Repeatability) {
                    part.u_nm *= scale_scatter;
                }
                if part.from == Origin::Scatter {
                    part.dof = part.dof.map(|d| d + more as f64);
                }
                part
            })
            .collect();
        let (u, dof) = combine(&parts);
        call(estimate.clearance_nm, t95(dof) * u, window) != Call::TooClose
    };
    let n = estimate.readings as f64;
    let more = (1..=MOST_MORE).find(|more| settles((n / (n + *more as f64)).sqrt(), *more, true));
    match more {
        Some(more) => SettledBy::MoreReadings { more },
        None if settles((n / (n + MOST_MORE as f64)).sqrt(), MOST_MORE, false) => {
            SettledBy::FinerGauge
        }
        None => SettledBy::Judgement,
    }
}
