//! Lengths as whole nanometres.

use serde::{Deserialize, Serialize};

use crate::units::rounding::divide_half_even;

/// A length in whole nanometres; positive, zero or negative.
///
/// One inch is exactly 25 400 000 nm, so thou and millimetres mix without rounding. It is the
/// type of every length that a person typed or that lies in a drawer; means and uncertainties
/// are `f64` nanometres.
///
/// ```
/// use anvil_arithmetic::units::length::{Length, Unit};
/// let shim = Length::from_nm(1_270_000);
/// assert_eq!(shim.in_unit(Unit::Thou), "50");
/// assert_eq!(shim.to_string(), "1.27 mm");
/// ```
#[derive(
    Clone,
    Copy,
    Debug,
    Default,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    utoipa::ToSchema,
)]
#[serde(transparent)]
pub struct Length(i64);

/// A unit the bench reads and writes lengths in.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    schemars::JsonSchema,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "lowercase")]
#[strum(serialize_all = "lowercase")]
pub enum Unit {
    /// Inch, exactly 25.4 mm (international inch, 1959).
    #[serde(rename = "in")]
    #[strum(serialize = "in")]
    Inch,
    /// A thousandth of an inch, also called mil; exactly 25 400 nm.
    Thou,
    /// Millimetre.
    Mm,
    /// Micrometre, µm.
    Um,
}

impl Unit {
    /// How many nanometres one of the unit is; exact.
    #[must_use]
    pub const fn nm(self) -> i64 {
        match self {
            Self::Inch => 25_400_000,
            Self::Thou => 25_400,
            Self::Mm => 1_000_000,
            Self::Um => 1_000,
        }
    }

    /// The unit's usual sign, as written after a figure.
    #[must_use]
    pub const fn sign(self) -> &'static str {
        match self {
            Self::Inch => "in",
            Self::Thou => "thou",
            Self::Mm => "mm",
            Self::Um => "µm",
        }
    }
}

/// The largest length taken from a person, 10 m: far beyond any gearbox, and far enough inside
/// `i64` that sums of thousands of them cannot overflow.
pub const LONGEST: Length = Length(10_000_000_000);

impl Length {
    /// Nothing at all.
    pub const ZERO: Self = Self(0);

    /// A length of so many nanometres.
    #[must_use]
    pub const fn from_nm(nm: i64) -> Self {
        Self(nm)
    }

    /// The length in nanometres.
    #[must_use]
    pub const fn nm(self) -> i64 {
        self.0
    }

    /// The length in nanometres as a float; exact up to 2⁵³ nm, which is nine kilometres.
    #[must_use]
    pub fn as_f64(self) -> f64 {
        self.0 as f64
    }

    /// The sum, or nothing where it would not fit.
    #[must_use]
    pub fn checked_add(self, other: Self) -> Option<Self> {
        self.0.checked_add(other.0).map(Self)
    }

    /// The difference, or nothing where it would not fit.
    #[must_use]
    pub fn checked_sub(self, other: Self) -> Option<Self> {
        self.0.checked_sub(other.0).map(Self)
    }

    /// So many of this length end to end, or nothing where they would not fit.
    #[must_use]
    pub fn checked_times(self, count: u32) -> Option<Self> {
        self.0.checked_mul(i64::from(count)).map(Self)
    }

    /// The figure in a unit, without the unit's sign and without needless zeros.
    ///
    /// Millimetres and micrometres come out exact. What has no finite figure in thou or inches
    /// is rounded, half to even, at the unit's last place that a nanometre can reach.
    #[must_use]
    pub fn in_unit(self, unit: Unit) -> String {
        let places = match unit {
            Unit::Inch => 8,
            Unit::Thou => 5,
            Unit::Mm => 6,
            Unit::Um => 3,
        };
        let scaled = i128::from(self.0) * 10_i128.pow(places);
        let digits = divide_half_even(scaled, i128::from(unit.nm()));
        let sign = if digits < 0 { "-" } else { "" };
        let figure = format!(
            "{:0>width$}",
            digits.unsigned_abs(),
            width = places as usize + 1
        );
        let (whole, fraction) = figure.split_at(figure.len() - places as usize);
        let fraction = fraction.trim_end_matches('0');
        if fraction.is_empty() {
            format!("{sign}{whole}")
        } else {
            format!("{sign}{whole}.{fraction}")
        }
    }
}

impl std::fmt::Display for Length {
    /// Exact, in millimetres: `1.25 mm`.
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} mm", self.in_unit(Unit::Mm))
    }
}
