//! Loose needle rollers in a row round a shaft: how many fit, and the gap they leave.

use serde::Serialize;
use std::f64::consts::PI;
use thiserror::Error;

use crate::units::length::Length;
use crate::units::working::{Line, Working};

/// A row of rollers round a shaft.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct NeedleRow {
    /// The most rollers that fit.
    pub most: u32,
    /// How many there are in the row that is told of.
    pub count: u32,
    /// The gap they leave when they lie together, straight across on the pitch circle, in nanometres:
    /// a roller's width or more means that one is missing.
    pub gap_nm: f64,
    /// The angle from one roller to the next when they touch, in radians.
    pub step_rad: f64,
    /// The pitch circle's diameter in nanometres.
    pub pitch_nm: Length,
    /// At least one more would go in: one is missing.
    pub one_missing: bool,
    /// How many to lay out for all rows.
    pub in_all: u32,
    /// The arithmetic.
    pub working: Working,
}

/// Why rollers make no row.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum RowError {
    /// A diameter of nothing or less.
    #[error("a {0} is thicker than nothing: write its diameter")]
    NoDiameter(&'static str),
    /// A roller larger than the shaft.
    #[error(
        "the rollers, {roller}, are thicker than the shaft, {shaft}: swap the two figures, or check their units"
    )]
    RollerLarger {
        /// The roller's diameter.
        roller: Length,
        /// The shaft's diameter.
        shaft: Length,
    },
    /// More in a row than fit.
    #[error("{count} do not fit in a row: {most} do")]
    TooMany {
        /// How many were said to be in it.
        count: u32,
        /// How many fit.
        most: u32,
    },
    /// No rows, or more than any gear has.
    #[error("a gear runs on 1 to 8 rows")]
    Rows,
    /// A row of one roller or none.
    #[error("a row has at least 3 rollers")]
    TooFew,
}

/// How many whole steps; what is short of one by less than a thousandth of a millionth fits: no
/// roller is so exact.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // from 6 up, and cut at the top
fn whole(steps: f64) -> u32 {
    (steps + 1e-9).floor() as u32
}

/// The row of rollers of one diameter round a shaft of another.
/// `count` is how many are in the row; the most that fit where it is left out.
///
/// Diameters are whole nanometres, so the quotient is a fraction; of the sines of a half-turn's
/// parts only that of a sixth is one (Niven's theorem). Rollers fit exactly only where `d = D`, six
/// of them, and that is told apart without rounding.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::calculators::rollers::row;
/// let inch = |thousandths: i64| Length::from_nm(thousandths * 25_400);
/// // 0.156 in on 0.875 in: 20 (common practice, no source).
/// assert_eq!(row(inch(875), inch(156), 1, None).unwrap().most, 20);
/// assert_eq!(row(inch(200), inch(200), 1, None).unwrap().most, 6);
/// ```
///
/// # Formula
/// `N = ⌊π / asin(d / (D + d))⌋` (chords of the pitch circle).
///
/// # Errors
/// Where a diameter is nothing or less, the rollers are thicker than the shaft or more than fit, or the rows are none.
pub fn row(
    shaft: Length,
    roller: Length,
    rows: u32,
    count: Option<u32>,
) -> Result<NeedleRow, RowError> {
    if shaft <= Length::ZERO {
        return Err(RowError::NoDiameter("shaft"));
    }
    if roller <= Length::ZERO {
        return Err(RowError::NoDiameter("roller"));
    }
    if roller > shaft {
        return Err(RowError::RollerLarger { roller, shaft });
    }
    if !(1..=8).contains(&rows) {
        return Err(RowError::Rows);
    }
    let (d, pitch) = (roller.as_f64(), shaft.as_f64() + roller.as_f64());
    let half_step = (d / pitch).asin();
    let most = if roller == shaft {
        6
    } else {
        whole(PI / half_step)
    };
    let count = count.unwrap_or(most);
    if count > most {
        return Err(RowError::TooMany { count, most });
    }
    if count < 3 {
        return Err(RowError::TooFew);
    }
    let open = (2.0 * PI - f64::from(count) * 2.0 * half_step).max(0.0);
    // Past half a turn no chord is longer.
    let gap_nm = pitch * (open / 2.0).min(PI / 2.0).sin();
    let working = vec![
        Line::new()
            .text("180° ÷ asin(")
            .length(d)
            .text(" ÷ (")
            .length(shaft.as_f64())
            .text(" + ")
            .length(d)
            .text(")) = ")
            .number(PI / half_step, 3)
            .text(format!(" → {most}")),
        Line::new()
            .text(format!("gap straight across with {count} in: "))
            .length(pitch)
            .text(format!(" × sin({:.3}°) = ", (open / 2.0).to_degrees()))
            .length(gap_nm),
    ];
    Ok(NeedleRow {
        most,
        count,
        gap_nm,
        step_rad: 2.0 * half_step,
        pitch_nm: Length::from_nm(shaft.nm() + roller.nm()),
        one_missing: count < most,
        in_all: rows * count,
        working,
    })
}
