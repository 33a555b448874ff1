//! The verdict on a clearance: in, tight, loose, or too close to call.
//!
//! The chance in window follows JCGM 106:2012, clause 7, with Student's t for the distribution;
//! the verdict keeps a guard band of the expanded uncertainty each side of the limits, in the
//! manner of ISO 14253-1.

use serde::{Deserialize, Serialize};

use crate::uncertainty::distribution::{Distribution, of_readings};
use crate::uncertainty::estimate::{Bound, Estimate, Lies, Source};
use crate::uncertainty::student_t::probability_between;
use crate::verdict::still::Expected;
use crate::verdict::window::Window;

pub mod prediction;
pub mod sisters;
pub mod still;
pub mod window;

/// What can be said of a clearance against its window.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Call {
    /// The whole 95 % interval lies inside the window.
    In,
    /// The whole interval lies below the tight limit.
    Tight,
    /// The whole interval lies above the loose limit.
    Loose,
    /// A limit lies inside the interval.
    #[serde(rename = "too_close")]
    #[strum(serialize = "too_close")]
    Inconclusive,
    /// A proof that is not given: the answer is not the one wanted.
    Failed,
}

/// A verdict with the figures behind it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Verdict {
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
    pub settled_by: Option<Remedy>,
    /// What one more reading would do for a call too close to make.
    #[serde(default)]
    pub one_more: Option<OneMore>,
    /// Where there is no figure, and this much says enough all the same.
    #[serde(default)]
    pub bound: Option<Bound>,
    /// What was expected of the pieces that are in, where nothing moves and the verdict goes by that; the 95 % interval
    /// is of this then.
    #[serde(default)]
    pub expected: Option<Expected>,
}

/// What one more reading of the same kind would do, were the mean to stay where it is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct OneMore {
    /// The chance now that the clearance is on the other side of the limit than its mean, 0 to 1.
    pub wrong_now: f64,
    /// The same after one more reading.
    pub wrong_then: f64,
}

/// What would settle a call that is too close to make, were the mean to stay where it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Remedy {
    /// So many more readings of the same kind.
    MoreReadings {
        /// How many more.
        more: usize,
    },
    /// The limits of parts are what is wide: this term of the sum measured, counted from 1.
    MeasureTerm {
        /// The sheet's number of it.
        term: usize,
    },
    /// More readings would not do it; a gauge with a finer step and a smaller error would.
    FinerGauge,
    /// It lies on the limit as near as anyone can tell: it is a matter of judgement.
    Judgement,
}

/// The chance that a clearance known as `clearance ± u` (with `dof` degrees of freedom) lies in
/// the window, limits included. With `u` of zero it is 1 or 0.
///
/// ```
/// use anvil_arithmetic::verdict::conformance_probability;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::verdict::window::Window;
/// let window = Window::new(Some(Length::from_nm(-1_960)), Some(Length::from_nm(1_960))).unwrap();
/// assert!((conformance_probability(0.0, 1_000.0, None, window) - 0.95).abs() < 1e-4);
/// assert_eq!(conformance_probability(1_960.0, 0.0, None, window), 1.0);
/// ```
///
/// # Formula
/// `P(L ≤ c ≤ U)` of Student's distribution about `c` with scale `u` (JCGM 106:2012, 7).
#[must_use]
pub fn conformance_probability(
    clearance_nm: f64,
    u_nm: f64,
    dof: Option<f64>,
    window: Window,
) -> f64 {
    probability_between(clearance_nm, u_nm, dof, window.low_nm(), window.high_nm())
}

/// Judges an estimate against a window.
///
/// # Formula
/// In where `[c − U, c + U]` lies in the window, `U` the half-width of the 95 % interval of its distribution
/// (JCGM 101:2008, 7.7); out where it lies outside (ISO 14253-1).
#[must_use]
pub fn judge(estimate: &Estimate, window: Window) -> Verdict {
    let c = estimate.clearance_nm;
    let (low, high) = (window.low_nm(), window.high_nm());
    // Folding takes longer than all the rest: once.
    let known = estimate.distribution();
    let expanded_nm = estimate.expanded_of(&known);
    let call = match estimate.bracket {
        // A leaf that was refused is more than the clearance: that end does not count with it.
        Some(b) if b.to_nm <= low => Call::Tight,
        Some(b) => call_between(b.from_nm, b.to_nm, low, high),
        None => call_of(c, expanded_nm, window),
    };
    let open = Some(&known).filter(|_| {
        call == Call::Inconclusive && estimate.can_sign_off && estimate.bracket.is_none()
    });
    Verdict {
        call,
        chance: known.between(c, low, high),
        expanded_nm,
        to_low_nm: window.low().map(|l| c - l.as_f64()),
        to_high_nm: window.high().map(|h| h.as_f64() - c),
        settled_by: open.map(|_| settled_by(estimate, window)),
        one_more: open.and_then(|known| one_more(estimate, known, window)),
        bound: None,
        expected: None,
    }
}

/// Judges what is known of a clearance from one side only; none where it may lie in the window and out of it.
///
/// ```
/// use anvil_arithmetic::uncertainty::estimate::{Bound, Lies};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::verdict::{Call, judge_bound, window::Window};
/// let window = Window::new(None, Some(Length::from_nm(400_000))).unwrap();
/// let above = |limit_nm| Bound { limit_nm, lies: Lies::Above };
/// assert_eq!(judge_bound(above(450_000.0), window).unwrap().call, Call::Loose);
/// // A leaf as thick as the limit goes: it may be the limit itself.
/// assert_eq!(judge_bound(above(400_000.0), window), None);
/// ```
#[must_use]
pub fn judge_bound(bound: Bound, window: Window) -> Option<Verdict> {
    let (from, to) = match bound.lies {
        Lies::Above => (bound.limit_nm, f64::INFINITY),
        Lies::Below => (f64::NEG_INFINITY, bound.limit_nm),
    };
    let call = call_between(from, to, window.low_nm(), window.high_nm());
    (call != Call::Inconclusive).then(|| Verdict {
        call,
        chance: f64::from(u8::from(call == Call::In)),
        expanded_nm: 0.0,
        to_low_nm: window.low().map(|l| bound.limit_nm - l.as_f64()),
        to_high_nm: window.high().map(|h| h.as_f64() - bound.limit_nm),
        settled_by: None,
        one_more: None,
        bound: Some(bound),
        expected: None,
    })
}

/// The call on a clearance known as `clearance ± expanded`, all in nanometres.
#[must_use]
pub fn call_of(clearance_nm: f64, expanded_nm: f64, window: Window) -> Call {
    let (from, to) = (clearance_nm - expanded_nm, clearance_nm + expanded_nm);
    call_between(from, to, window.low_nm(), window.high_nm())
}

/// The call on what lies somewhere from `from` to `to`, against the limits `low` and `high`.
pub(crate) fn call_between(from: f64, to: f64, low: f64, high: f64) -> Call {
    if low <= from && to <= high {
        Call::In
    } else if to < low {
        Call::Tight
    } else if from > high {
        Call::Loose
    } else {
        Call::Inconclusive
    }
}

/// Nobody takes more readings of one check than this to settle an argument.
const MOST_MORE: usize = 12;

/// What would be known after so many more readings like these, with this gauge or with one that sees everything.
fn after(estimate: &Estimate, more: usize, gauge: bool) -> Distribution {
    let mut then = estimate.with_more(more);
    then.parts
        .retain(|p| gauge || !matches!(p.from, Source::Resolution | Source::PermissibleError));
    of_readings(&then.parts, then.readings)
}

fn settled_by(estimate: &Estimate, window: Window) -> Remedy {
    let settles = |more: usize, gauge: bool| {
        let expanded_nm = after(estimate, more, gauge).expanded_nm();
        call_of(estimate.clearance_nm, expanded_nm, window) != Call::Inconclusive
    };
    if !settles(MOST_MORE, true) {
        return if settles(MOST_MORE, false) {
            Remedy::FinerGauge
        } else {
            Remedy::Judgement
        };
    }
    // Each more makes it surer: halved between the fewest and the most.
    let (mut fewer, mut enough) = (0, MOST_MORE);
    while enough - fewer > 1 {
        let more = usize::midpoint(fewer, enough);
        if settles(more, true) {
            enough = more;
        } else {
            fewer = more;
        }
    }
    Remedy::MoreReadings { more: enough }
}

/// A change of a chance that shows in whole percents.
const SHOWS: f64 = 0.01;

/// What one more reading like these would do to the chance of being wrong, were the mean to stay; none where that would
/// not show.
fn one_more(estimate: &Estimate, known: &Distribution, window: Window) -> Option<OneMore> {
    let c = estimate.clearance_nm;
    let wrong = |known: &Distribution| {
        let inside = known.between(c, window.low_nm(), window.high_nm());
        if window.holds(c) {
            1.0 - inside
        } else {
            inside
        }
    };
    let (now, then) = (wrong(known), wrong(&after(estimate, 1, true)));
    (estimate.readings > 0 && now - then >= SHOWS).then_some(OneMore {
        wrong_now: now,
        wrong_then: then,
    })
}
