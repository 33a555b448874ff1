//! The thickness that would bring a clearance to its target.

use serde::{Deserialize, Serialize};

use crate::units::length::Length;
use crate::units::working::{Line, Working};
use crate::verdict::window::TargetRange;

/// What a thicker piece does to the clearance.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Effect {
    /// `k = +1`: a thicker piece closes the gap (a washer at a shaft's end).
    Closes,
    /// `k = −1`: a thicker piece opens it (a spacer between two bearing cones).
    Opens,
}

impl Effect {
    /// `k` of the formulas.
    #[must_use]
    pub const fn k(self) -> f64 {
        match self {
            Self::Closes => 1.0,
            Self::Opens => -1.0,
        }
    }
}

/// A piece moves a clearance by no more than this many times its own thickness.
pub const MOST_EFFECT: f64 = 4.0;

/// The thickness wanted, and the sum that gives it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RequiredThickness {
    /// The thickness in nanometres that gives the middle of what is aimed at. Below zero where
    /// even nothing at all is too much.
    pub thickness_nm: f64,
    /// The arithmetic.
    pub working: Working,
}

/// The thickness in nanometres of all pieces together that would bring the clearance to the target.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::choose::required::{required_thickness, Effect};
/// use anvil_arithmetic::verdict::window::TargetRange;
/// // Common practice, no source: window 4 to 7 thou, measured 10, target 5: add 5.
/// let thou = 25_400.0;
/// let aim = TargetRange { from_nm: 5.0 * thou, to_nm: 5.0 * thou };
/// let s = required_thickness(10.0 * thou, aim, Length::ZERO, Effect::Closes);
/// assert_eq!(s.thickness_nm, 5.0 * thou);
/// ```
///
/// # Formula
/// `s* = s0 + k (c − target)` (trade practice, from the sum of widths).
#[must_use]
pub fn required_thickness(
    clearance_nm: f64,
    aim: TargetRange,
    fitted: Length,
    effect: Effect,
) -> RequiredThickness {
    let target = aim.middle_nm();
    let thickness_nm = fitted.as_f64() + effect.k() * (clearance_nm - target);
    let mut line = Line::new().length(fitted.as_f64()).text(match effect {
        Effect::Closes => " + (",
        Effect::Opens => " − (",
    });
    line = line.clearance(clearance_nm);
    line = line
        .signed_length(-target)
        .text(") = ")
        .length(thickness_nm);
    RequiredThickness {
        thickness_nm,
        working: vec![line],
    }
}
