//! By hand: "about six or eight thou, by feel". Kept with a wide range; it never signs a check off.

use thiserror::Error;

use crate::measure::{Adjustment, MeasureError, Unadjusted, finish};
use crate::uncertainty::estimate::{Component, Estimate, Source};
use crate::units::length::Length;
use crate::units::working::Line;

/// Why figures by feel give no estimate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum ByHandError {
    /// From above to.
    #[error("from {from} to {to} runs backwards: give the smaller figure first")]
    Backwards {
        /// The first figure.
        from: Length,
        /// The second.
        to: Length,
    },
}

/// Estimates a clearance from ranges felt by hand: the widest of them together, as a rectangular
/// spread (JCGM 100:2008, 4.3.7). A bare figure is a range of half to one and a half times it, for
/// fingers tell no better (common practice, no source).
///
/// ```
/// use anvil_core::units::length::Length;
/// use anvil_core::measure::by_hand::estimate;
/// let thou = |t: i64| Length::from_nm(t * 25_400);
/// let felt = estimate(&[(thou(6), thou(8))], &[]).unwrap();
/// assert_eq!(felt.clearance_nm, 7.0 * 25_400.0);
/// assert!(!felt.can_sign_off);
/// ```
pub fn estimate(
    felt: &[(Length, Length)],
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    if let Some((from, to)) = felt.iter().copied().find(|(from, to)| from > to) {
        return Err(ByHandError::Backwards { from, to }.into());
    }
    let spread = |(from, to): &(Length, Length)| {
        if from == to {
            let half = from.as_f64().abs() / 2.0;
            (from.as_f64() - half, to.as_f64() + half)
        } else {
            (from.as_f64(), to.as_f64())
        }
    };
    let from = felt.iter().map(|f| spread(f).0).reduce(f64::min);
    let to = felt.iter().map(|f| spread(f).1).reduce(f64::max);
    let (Some(from), Some(to)) = (from, to) else {
        return Err(MeasureError::NoReadings);
    };
    let mean = f64::midpoint(from, to);
    // Even "nothing at all" by feel is no better than two hundredths.
    let half = ((to - from) / 2.0).max(FINEST_FEEL_NM);
    let found = Unadjusted {
        trial_nm: mean,
        readings: felt.len(),
        spread_nm: to - from,
        parts: vec![Component {
            from: Source::Feel,
            u_nm: half / 3_f64.sqrt(),
            dof: None,
        }],
        scatter: None,
        working: vec![
            Line::new()
                .text("by feel, from ")
                .clearance(from)
                .text(" to ")
                .clearance(to)
                .text(": about ")
                .clearance(mean),
        ],
    };
    Ok(Estimate {
        can_sign_off: false,
        ..finish(found, adjustments)?
    })
}

/// Nobody feels better than this, ± nanometres (common practice, no source).
const FINEST_FEEL_NM: f64 = 20_000.0;
