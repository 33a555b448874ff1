//! Slips of the pen and of the unit: a decimal place lost, an inch figure read as millimetres.
//!
//! A reading far from both its window and its fellows is questioned when one of the usual slips
//! would put it among them. It is a question, never a correction.

use serde::{Deserialize, Serialize};

use crate::units::length::Length;
use crate::units::rounding::divide_half_even;

/// A question to put to the person: did you mean this?
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Slip {
    /// What the reading would be without the slip, in nanometres.
    pub meant_nm: Length,
    /// Which slip it looks like.
    pub cause: Cause,
}

/// The usual slips.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
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
    /// Pound-force inches for newton metres or the reverse: 8.85.
    PoundInches,
    /// Nothing read where its fellows read something: the gauge did not touch, or the shaft was not moved.
    Nought,
}

/// A slip as an exact ratio of whole numbers.
type Ratio = (Cause, i128, i128);

/// The slips that show in a length.
const OF_LENGTHS: [Ratio; 6] = [
    (Cause::OneDecimal, 10, 1),
    (Cause::TwoDecimals, 100, 1),
    (Cause::ThreeDecimals, 1000, 1),
    (Cause::InchForMm, 254, 10),
    (Cause::ThouForMm, 10_000, 254),
    (Cause::HundredthsForThou, 254, 100),
];

/// The slips that show in a torque; 1 N·m is 8.850 746 lbf·in (NIST SP 811, B.8, from memory).
const OF_TORQUES: [Ratio; 3] = [
    (Cause::OneDecimal, 10, 1),
    (Cause::TwoDecimals, 100, 1),
    (Cause::PoundInches, 8_850_746, 1_000_000),
];

/// A figure is far from others when it is less than half or more than twice as large.
pub const FAR: f64 = 2.0;
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
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::units::entry_errors::{question, Expected};
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
    let fellows: Vec<f64> = fellows.iter().map(|f| f.as_f64()).collect();
    let expected = (expected.from.as_f64(), expected.to.as_f64());
    let (cause, times, by) = likeliest(reading.as_f64(), expected, &fellows, &OF_LENGTHS)?;
    let nm = divide_half_even(i128::from(reading.nm()) * times, by);
    Some(Slip {
        meant_nm: Length::from_nm(i64::try_from(nm).ok()?),
        cause,
    })
}

/// Whether a torque looks like a slip, in newton metres: what it would be without, and which slip.
///
/// ```
/// use anvil_arithmetic::units::entry_errors::{Cause, question_of_torque};
/// // 14 typed for 14 lbf·in, where 1.2 to 2 N·m are right.
/// let (meant, cause) = question_of_torque(14.0, (1.2, 2.0), &[]).unwrap();
/// assert_eq!(cause, Cause::PoundInches);
/// assert!((meant - 1.582).abs() < 1e-3);
/// ```
#[must_use]
pub fn question_of_torque(
    reading_n_m: f64,
    expected: (f64, f64),
    fellows: &[f64],
) -> Option<(f64, Cause)> {
    let (cause, times, by) = likeliest(reading_n_m, expected, fellows, &OF_TORQUES)?;
    Some((reading_n_m * times as f64 / by as f64, cause))
}

/// Whether a figure is far from a range.
#[must_use]
pub fn far_from(figure: f64, (low, high): (f64, f64)) -> bool {
    figure > FAR * high.max(0.0) || figure * FAR < low
}

/// The slip that brings a figure far from what is expected and from its fellows nearest to them.
fn likeliest(
    figure: f64,
    (low, high): (f64, f64),
    fellows: &[f64],
    slips: &[Ratio],
) -> Option<Ratio> {
    let median = median(fellows).filter(|m| *m > 0.0);
    let far_from_fellows = median.is_none_or(|m| far_from(figure, (m, m)));
    if figure <= 0.0 || !far_from(figure, (low, high)) || !far_from_fellows {
        return None;
    }
    // Of what is expected from nothing upwards, the last tenth is the likelier.
    let least = high / 10.0;
    let (from, to) = median.map_or((low, high), |m| (m / AMONG, m * AMONG));
    let centre = (from.max(least) * to.max(least)).sqrt();
    slips
        .iter()
        .flat_map(|&(cause, over, under)| [(cause, over, under), (cause, under, over)])
        .map(|slip| (slip, figure * slip.1 as f64 / slip.2 as f64))
        // A nanometre's rounding keeps nothing out.
        .filter(|(_, meant)| from * (1.0 - 1e-9) <= *meant && *meant <= to * (1.0 + 1e-9))
        .min_by(|a, b| {
            let off = |meant: f64| (meant / centre).ln().abs();
            off(a.1).total_cmp(&off(b.1))
        })
        .map(|(slip, _)| slip)
}

fn median(figures: &[f64]) -> Option<f64> {
    if figures.is_empty() {
        return None;
    }
    let mut sorted = figures.to_vec();
    sorted.sort_unstable_by(f64::total_cmp);
    let middle = sorted.len() / 2;
    Some(if sorted.len() % 2 == 1 {
        sorted[middle]
    } else {
        f64::midpoint(sorted[middle - 1], sorted[middle])
    })
}
