//! One figure in every unit of the bench: torques, and inches as people cut them.

use serde::{Deserialize, Serialize};

use crate::units::force::{N_M_PER_LBF_FT, N_PER_KGF};
use crate::units::length::Length;

/// What a wrench or a book may give a torque in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TorqueUnit {
    NewtonMetre,
    /// Pound-force foot.
    PoundFoot,
    /// Pound-force inch.
    PoundInch,
    /// Kilogram-force metre.
    KilogramMetre,
}

impl TorqueUnit {
    /// All of them.
    pub const ALL: [Self; 4] = [
        Self::NewtonMetre,
        Self::PoundFoot,
        Self::PoundInch,
        Self::KilogramMetre,
    ];

    /// How many newton metres one of it is. Exact by definition: the pound is 0.453 592 37 kg, the
    /// foot 0.3048 m, and standard gravity 9.806 65 m/s² (the product is the nearest `f64`).
    #[must_use]
    pub const fn newton_metres(self) -> f64 {
        match self {
            Self::NewtonMetre => 1.0,
            Self::PoundFoot => N_M_PER_LBF_FT,
            Self::PoundInch => N_M_PER_LBF_FT / 12.0,
            Self::KilogramMetre => N_PER_KGF,
        }
    }

    /// A figure of this unit in another.
    ///
    /// ```
    /// use anvil_arithmetic::units::convert::TorqueUnit;
    /// let n_m = TorqueUnit::PoundFoot.to(TorqueUnit::NewtonMetre, 30.0);
    /// assert!((n_m - 40.674_538).abs() < 1e-6);
    /// ```
    #[must_use]
    pub fn to(self, other: Self, figure: f64) -> f64 {
        figure * self.newton_metres() / other.newton_metres()
    }
}

/// A length as a fraction of an inch.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct InchFraction {
    /// Whole inches.
    pub whole: i64,
    /// Parts over the whole, below `of`.
    pub parts: i64,
    /// Into how many parts the inch is cut, a power of two in lowest terms.
    pub of: i64,
    /// What the length is over that, in nanometres; below nothing where it is short of it.
    pub over_nm: Length,
}

/// The nearest fraction of an inch in parts of `of`, half to even, in lowest terms. None for a
/// length below nothing or parts that are none.
///
/// ```
/// use anvil_arithmetic::units::convert::inch_fraction;
/// use anvil_arithmetic::units::length::Length;
/// let found = inch_fraction(Length::from_nm(20_000_000), 64).unwrap();
/// // 20 mm is 25/32 in and 6.2 thou over.
/// assert_eq!((found.whole, found.parts, found.of), (0, 25, 32));
/// assert_eq!(found.over_nm.nm(), 156_250);
/// ```
#[must_use]
pub fn inch_fraction(length: Length, of: i64) -> Option<InchFraction> {
    const INCH: i128 = 25_400_000;
    if length < Length::ZERO || !(1..=4096).contains(&of) {
        return None;
    }
    let scaled = i128::from(length.nm()) * i128::from(of);
    let (mut count, left) = (scaled / INCH, scaled % INCH);
    if 2 * left > INCH || (2 * left == INCH && count % 2 == 1) {
        count += 1;
    }
    let count = i64::try_from(count).ok()?;
    let (whole, mut parts) = (count / of, count % of);
    let mut cut = of;
    while cut % 2 == 0 && parts % 2 == 0 && cut > 1 {
        (parts, cut) = (parts / 2, cut / 2);
    }
    // Parts of a power of two are whole nanometres down to 1/64; finer goes to the nearest.
    let exact = i128::from(count) * INCH;
    let nearest = (exact + i128::from(of) / 2) / i128::from(of);
    let over = i64::try_from(i128::from(length.nm()) - nearest).ok()?;
    Some(InchFraction {
        whole,
        parts,
        of: cut,
        over_nm: Length::from_nm(over),
    })
}
