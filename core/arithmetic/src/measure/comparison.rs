//! Two ways on one check, side by side.

use serde::{Deserialize, Serialize};

use crate::uncertainty::estimate::{Estimate, explained_nm};
use crate::units::working::{Line, Working};

/// How far two ways are apart, and whether that is more than both allow.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Comparison {
    /// The first less the second in nanometres.
    pub off_nm: f64,
    /// The largest difference that both uncertainties explain (95 %), in nanometres.
    pub explained_nm: f64,
    /// They agree.
    pub agree: bool,
    /// The arithmetic.
    pub working: Working,
}

/// Compares two estimates of one clearance: they agree where their doubts explain the difference.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::by_hand::{self, RangeReading};
/// use anvil_arithmetic::measure::comparison::compare;
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let felt = |from, to| by_hand::estimate(&[RangeReading { from_nm: mm(from), to_nm: mm(to) }], &[]).unwrap();
/// assert!(compare(&felt(10, 20), &felt(14, 18)).agree);
/// assert!(!compare(&felt(10, 20), &felt(90, 95)).agree);
/// ```
///
/// # Formula
/// They agree where `|c₁ − c₂| ≤ t95(ν) √(u₁² + u₂²)` (the normalised error of ISO 13528).
#[must_use]
pub fn compare(first: &Estimate, second: &Estimate) -> Comparison {
    let off_nm = first.clearance_nm - second.clearance_nm;
    let explained_nm = explained_nm((first.u_nm, first.dof), (second.u_nm, second.dof));
    let agree = off_nm.abs() <= explained_nm;
    Comparison {
        off_nm,
        explained_nm,
        agree,
        working: vec![
            Line::new()
                .clearance(first.clearance_nm)
                .text(" against ")
                .clearance(second.clearance_nm)
                .text(": ")
                .length(off_nm.abs())
                .text(" apart, ± ")
                .length(explained_nm)
                .text(if agree {
                    " explained"
                } else {
                    " is all that both explain"
                }),
        ],
    }
}
