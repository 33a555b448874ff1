//! By hand: "about six or eight thou, by feel". Kept with a wide range; it never signs a check off.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish};
use crate::measure::fields::{FieldFault, Taken, Typed, fault, signed};
use crate::measure::{Adjustment, MeasureError, Method};
use crate::uncertainty::estimate::{Component, Estimate, Source};
use crate::units::length::{Length, Unit};
use crate::units::working::Line;

/// A clearance by feel, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RangeInput {
    pub from: String,
    /// To; empty for about `from`.
    #[serde(default)]
    pub to: String,
}

/// A clearance by feel.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RangeReading {
    pub from_nm: Length,
    pub to_nm: Length,
}

impl Typed for RangeInput {
    type Reading = RangeReading;
    const METHODS: &'static [Method] = &[Method::ByHand];

    fn text(&self) -> String {
        let (from, to) = (self.from.trim(), self.to.trim());
        if to.is_empty() {
            format!("about {from}")
        } else {
            format!("{from} to {to}")
        }
    }

    fn read(&self, unit: Unit) -> Result<RangeReading, FieldFault> {
        let from_nm = signed("from", &self.from, unit)?;
        let to_nm = if self.to.trim().is_empty() {
            from_nm
        } else {
            signed("to", &self.to, unit)?
        };
        if to_nm < from_nm {
            return Err(fault(
                "to",
                "the range runs backwards: give the smaller figure first",
            ));
        }
        Ok(RangeReading { from_nm, to_nm })
    }
}

impl Taken for RangeReading {}

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
/// spread. A bare figure is a range of half to one and a half times it, for
/// fingers tell no better (common practice, no source).
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::by_hand::{RangeReading, estimate};
/// let thou = |t: i64| Length::from_nm(t * 25_400);
/// let felt = estimate(&[RangeReading { from_nm: thou(6), to_nm: thou(8) }], &[]).unwrap();
/// assert_eq!(felt.clearance_nm, 7.0 * 25_400.0);
/// assert!(!felt.can_sign_off);
/// ```
///
/// # Formula
/// The midpoint of the widest range; `u = a/√3`, `a` half its width (JCGM 100:2008, 4.3.7).
///
/// # Errors
/// Where nothing was felt, a range runs backwards, or an adjustment has limits below nothing.
pub fn estimate(
    felt: &[RangeReading],
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    if let Some(bad) = felt.iter().find(|f| f.from_nm > f.to_nm) {
        return Err(ByHandError::Backwards {
            from: bad.from_nm,
            to: bad.to_nm,
        }
        .into());
    }
    let spread = |felt: &RangeReading| {
        let (from, to) = (felt.from_nm.as_f64(), felt.to_nm.as_f64());
        let half = if felt.from_nm == felt.to_nm {
            from.abs() / 2.0
        } else {
            0.0
        };
        (from - half, to + half)
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
