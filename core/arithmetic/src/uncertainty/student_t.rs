//! Student's t distribution: coverage factors, and how much of it lies between two limits.

use statrs::distribution::{ContinuousCDF, Normal, StudentsT};

/// Student's factor for a two-sided 95 % interval; none means infinite degrees of freedom.
///
/// ```
/// // Student's table: 4.303 for two degrees of freedom, 1.960 for infinitely many.
/// assert!((anvil_arithmetic::uncertainty::student_t::t95(Some(2.0)) - 4.303).abs() < 5e-4);
/// assert!((anvil_arithmetic::uncertainty::student_t::t95(None) - 1.960).abs() < 5e-4);
/// ```
///
/// # Formula
/// `P(|T| ≤ t) = 0.95` of Student's distribution (JCGM 100:2008, table G.2).
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

/// The chance that what is known as `value ± u` lies from `low` to `high`, either of which may be
/// infinite; all in one unit.
#[must_use]
pub fn probability_between(value: f64, u: f64, dof: Option<f64>, low: f64, high: f64) -> f64 {
    if u <= 0.0 {
        return if (low..=high).contains(&value) {
            1.0
        } else {
            0.0
        };
    }
    let low = (low - value) / u;
    let high = (high - value) / u;
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
pub(crate) fn edge(x: f64) -> Option<f64> {
    x.is_infinite().then_some(if x > 0.0 { 1.0 } else { 0.0 })
}
