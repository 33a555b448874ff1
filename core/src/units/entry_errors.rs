//! Slips of the pen and of the unit: a decimal place lost, an inch figure read as millimetres.
//!
//! A reading far from both its window and its fellows is questioned when one of the usual slips
//! would put it among them. It is a question, never a correction.

use serde::{Deserialize, Serialize};

use crate::units::length::Length;

/// A question to put to the person: did you mean this?
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Slip {
    /// What the reading would be without the slip, in nanometres.
    pub meant_nm: Length,
    /// Which slip it looks like.
    pub cause: Cause,
}

/// The usual slips.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Cause {
    /// A decimal place lost or gained: a factor of 10.
    OneDecimal,
    /// Two decimal places: a factor of 100.
    TwoDecimals,
    /// Three decimal places, or µm for mm: a factor of 1000.
    ThreeDecimals,
    /// Inches for millimetres or the reverse: 25.4.
    InchForMm,
    /// Thou for millimetres or the reverse: 39.37.
    ThouForMm,
    /// Hundredths of a millimetre for thou or the reverse: 2.54.
    HundredthsForThou,
}

/// Each slip as an exact ratio of whole numbers.
const SLIPS: [(Cause, i128, i128); 6] = [
    (Cause::OneDecimal, 10, 1),
    (Cause::TwoDecimals, 100, 1),
    (Cause::ThreeDecimals, 1000, 1),
    (Cause::InchForMm, 254, 10),
    (Cause::ThouForMm, 10_000, 254),
    (Cause::HundredthsForThou, 254, 100),
];

/// A reading is far from others when it is less than half or more than twice as large.
const FAR: f64 = 2.0;
/// A corrected reading is among its fellows within a quarter of their median.
const AMONG: f64 = 1.25;

/// The lengths a reading may be expected in: from the first to the second.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Expected {
    /// The smallest.
    pub from: Length,
    /// The largest.
    pub to: Length,
}

/// Whether a reading looks like a slip, given what is expected and the other readings.
///
/// ```
/// use anvil_core::units::length::Length;
/// use anvil_core::units::entry_errors::{question, Expected};
/// let nm = Length::from_nm;
/// let expected = Expected { from: nm(100_000), to: nm(200_000) };
/// // 1.6 mm typed among readings of about 0.16 mm.
/// let slip = question(nm(1_600_000), expected, &[nm(158_000), nm(162_000)]).unwrap();
/// assert_eq!(slip.meant_nm, nm(160_000));
/// // Far from the window, but so are its fellows: nothing to ask.
/// assert_eq!(question(nm(1_600_000), expected, &[nm(1_590_000)]), None);
/// ```
#[must_use]
pub fn question(reading: Length, expected: Expected, fellows: &[Length]) -> Option<Slip> {
    if reading <= Length::ZERO {
        return None;
    }
    let (low, high) = (expected.from.as_f64(), expected.to.as_f64());
    let figure = reading.as_f64();
    let far_from_expected = figure > FAR * high.max(0.0) || figure * FAR < low;
    let median = median(fellows).filter(|m| *m > 0.0);
    let far_from_fellows = median.is_none_or(|m| figure > FAR * m || figure * FAR < m);
    if !far_from_expected || !far_from_fellows {
        return None;
    }
    let (among_low, among_high) = median.map_or((low.max(1.0), high), |m| (m / AMONG, m * AMONG));
    let centre = (among_low.max(1.0) * among_high.max(1.0)).sqrt();
    SLIPS
        .iter()
        .flat_map(|&(cause, over, under)| {
            [(over, under), (under, over)].map(|(times, by)| {
                let nm =
                    crate::units::rounding::divide_half_even(i128::from(reading.nm()) * times, by);
                (cause, nm)
            })
        })
        .filter_map(|(cause, nm)| {
            let meant = i64::try_from(nm).ok()?;
            let inside = among_low <= meant as f64 && meant as f64 <= among_high;
            inside.then_some((cause, Length::from_nm(meant)))
        })
        .min_by(|a, b| {
            let off = |meant: Length| (meant.as_f64() / centre).ln().abs();
            off(a.1).total_cmp(&off(b.1))
        })
        .map(|(cause, meant_nm)| Slip { meant_nm, cause })
}

fn median(lengths: &[Length]) -> Option<f64> {
    if lengths.is_empty() {
        return None;
    }
    let mut sorted = lengths.to_vec();
    sorted.sort_unstable();
    let middle = sorted.len() / 2;
    Some(if sorted.len() % 2 == 1 {
        sorted[middle].as_f64()
    } else {
        f64::midpoint(sorted[middle - 1].as_f64(), sorted[middle].as_f64())
    })
}
