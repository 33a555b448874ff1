//! Nothing moves: what that says of a preload, given what was expected of the pieces that are in.

use serde::{Deserialize, Serialize};

use crate::uncertainty::estimate::{Bound, Lies};
use crate::uncertainty::student_t::{probability_between, t95};
use crate::verdict::window::Window;
use crate::verdict::{Call, Verdict};

/// The clearance that the pieces fitted were expected to give.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Expected {
    /// Float above zero, preload below, in nanometres.
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// The degrees of freedom of that; none means infinite.
    pub dof: Option<f64>,
}

/// An expectation that comes true less often than this is refuted where nothing moves.
const REFUTED: f64 = 0.025;
/// What the 95 % interval leaves out at either end.
const TAIL: f64 = 0.025;

/// Judges a shaft that does not move: it has no float, and how much preload it has is known only from what was
/// expected. None where that says nothing either: the window begins at the limit, so that it may be on it or tight, or
/// so much float was expected that something else is wrong.
///
/// ```
/// use anvil_arithmetic::uncertainty::estimate::{Bound, Lies};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::verdict::still::{Expected, judge_still};
/// use anvil_arithmetic::verdict::window::Window;
/// let window = Window::new(Some(Length::from_nm(-30_000)), Some(Length::from_nm(10_000))).unwrap();
/// let still = Bound { limit_nm: 0.0, lies: Lies::Below };
/// // Half of what was expected is ruled out; of the other half nearly all lies above 30 µm preload.
/// let expected = Expected { clearance_nm: 0.0, u_nm: 10_000.0, dof: None };
/// let verdict = judge_still(still, &expected, window).unwrap();
/// assert!((verdict.chance - 0.9973).abs() < 1e-4);
/// ```
///
/// # Formula
/// `P(L ≤ c ≤ min(H, b)) / P(c ≤ b)`: what was expected, cut off above the limit `b` (JCGM 106:2012, 6.2.4: what is known
/// beforehand, restricted). In and out as of any figure: the 95 % interval of that within the window, or outside it.
#[must_use]
pub fn judge_still(bound: Bound, expected: &Expected, window: Window) -> Option<Verdict> {
    let (low, high, limit) = (window.low_nm(), window.high_nm(), bound.limit_nm);
    if bound.lies != Lies::Below || low >= limit {
        return None;
    }
    let between = |from: f64, to: f64| {
        let Expected {
            clearance_nm,
            u_nm,
            dof,
        } = *expected;
        probability_between(clearance_nm, u_nm, dof, from, to)
    };
    let possible = between(f64::NEG_INFINITY, limit);
    if possible < REFUTED {
        return None;
    }
    let tight = between(f64::NEG_INFINITY, low) / possible;
    let chance = (between(low, high.min(limit)) / possible).min(1.0);
    let loose = (1.0 - tight - chance).max(0.0);
    let call = if tight <= TAIL && loose <= TAIL {
        Call::In
    } else if tight >= 1.0 - TAIL {
        Call::Tight
    } else if loose >= 1.0 - TAIL {
        Call::Loose
    } else {
        Call::Inconclusive
    };
    Some(Verdict {
        call,
        chance,
        expanded_nm: t95(expected.dof) * expected.u_nm,
        to_low_nm: window.low().map(|l| limit - l.as_f64()),
        to_high_nm: window.high().map(|h| h.as_f64() - limit),
        settled_by: None,
        one_more: None,
        bound: Some(bound),
        expected: Some(*expected),
    })
}
