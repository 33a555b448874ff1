//! The shims at the two ends of a selector's shaft: as they lie, or moved from end to end.

use anvil_arithmetic::calculators::list_input;
use anvil_arithmetic::measure::Detail;
use anvil_arithmetic::measure::centring::MOST_SHIMS;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::Sign;
use serde::{Deserialize, Serialize};

use super::assess::Assessment;
use super::record::{Record, ShimsEntry};
use crate::shop::drawers::THICKEST;

/// How shims lie, as typed.
#[derive(Clone, Debug, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShimsInput {
    /// Those at the left, in bench notation, with commas or spaces between them; empty for none.
    pub left: String,
    /// Those at the right.
    pub right: String,
    /// The unit bare figures are in.
    pub unit: Unit,
    /// They were moved so; they lie so otherwise.
    pub moved: bool,
}

impl ShimsInput {
    /// The shims at the left and at the right.
    ///
    /// # Errors
    /// Where a figure is none, no shim is so thick, or there are more than can be shared out.
    pub fn read(&self) -> Ruled<(Vec<Length>, Vec<Length>)> {
        let end = |field: &'static str, text: &str| {
            let shims = list_input::lengths(text, self.unit, Sign::NotNegative)
                .map_err(|e| Refusal::field(field, e))?;
            if shims.iter().any(|s| *s <= Length::ZERO || *s > THICKEST) {
                return Err(Refusal::field(
                    field,
                    format!("A shim is thicker than nothing, and no thicker than {THICKEST}."),
                ));
            }
            Ok(shims)
        };
        let (left, right) = (end("left", &self.left)?, end("right", &self.right)?);
        if left.len() + right.len() > MOST_SHIMS {
            return Err(Refusal::field(
                "right",
                format!("Up to {MOST_SHIMS} shims at both ends together can be shared out."),
            ));
        }
        Ok((left, right))
    }
}

impl Record {
    /// The worst offset, or what the worst gap has to spare, in nanometres, that sharing the shims out so would leave, by this round's gaps.
    ///
    /// # Errors
    /// Where the gaps of every gear are not taken yet, it is not said how they lie, or the float would change.
    pub fn shared_out(&self, found: &Assessment, new: &ShimsEntry) -> Ruled<f64> {
        let detail = found.methods.iter().find_map(|m| match &m.measured.detail {
            detail @ (Detail::Centring { .. } | Detail::Limits { .. }) => Some(detail),
            _ => None,
        });
        let detail = detail.ok_or_else(|| {
            Refusal::conflict(
                "not-measured",
                "The gaps of every gear are taken first, so that it is known what moving the shims does.",
            )
        })?;
        let now = self.shims.last().ok_or_else(|| {
            Refusal::conflict(
                "not-said",
                "How the shims lie is said first, so that it is known how far the shaft moves.",
            )
        })?;
        let total = |shims: &[Length]| shims.iter().map(|s| s.nm()).sum::<i64>();
        let both = |s: &ShimsEntry| Length::from_nm(total(&s.left_nm) + total(&s.right_nm));
        let (lay, lie) = (both(now), both(new));
        if lay != lie {
            return Err(Refusal::field(
                "left",
                format!(
                    "Moving shims keeps the float: {lay} lay at the two ends together, and this is {lie}. Put in as much as comes out."
                ),
            ));
        }
        // What is taken out at the left lets the shaft move to the left.
        let shift = Length::from_nm(total(&now.left_nm) - total(&new.left_nm));
        Ok(match detail {
            Detail::Limits { placement } => placement.worst_after(shift),
            Detail::Centring { centring } => centring.worst_after(shift),
            _ => return Err(Refusal::fault("gaps without a centring")),
        })
    }
}
