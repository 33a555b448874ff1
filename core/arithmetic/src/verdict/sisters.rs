//! Like its sisters: a figure in its window, but far from what boxes of its sheet usually show, or from what the other
//! gears of its own box do.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::uncertainty::bias::ENOUGH_BOXES;

/// What the boxes before showed for a check.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Sisters {
    /// How many were signed off on a figure.
    pub boxes: usize,
    /// The mean of those figures in nanometres.
    pub mean_nm: f64,
    /// Their standard deviation in nanometres.
    pub s_nm: f64,
}

/// A figure beside those of the boxes before.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BesideSisters {
    /// How many boxes there were.
    pub boxes: usize,
    /// The mean of their figures in nanometres.
    pub mean_nm: f64,
    /// Of a hundred boxes like them ninety-nine lie within this of that mean, in nanometres.
    pub within_nm: f64,
    /// This one does not.
    pub unlike: bool,
}

/// So many other gears of a box are enough.
const ENOUGH_GEARS: usize = 3;

/// A figure in nanometres beside those of the same kind and window in its own box, in nanometres; none where there are too
/// few, or all say the same.
///
/// ```
/// use anvil_arithmetic::verdict::sisters::beside_gears;
/// let gears = [205_000.0, 214_000.0, 198_000.0, 208_000.0];
/// assert!(!beside_gears(&gears, 220_000.0).unwrap().unlike);
/// assert!(beside_gears(&gears, 320_000.0).unwrap().unlike);
/// ```
#[must_use]
pub fn beside_gears(gears_nm: &[f64], figure_nm: f64) -> Option<BesideSisters> {
    let n = gears_nm.len() as f64;
    let mean_nm = gears_nm.iter().sum::<f64>() / n;
    let squares: f64 = gears_nm.iter().map(|f| (f - mean_nm).powi(2)).sum();
    let gears = Sisters {
        boxes: gears_nm.len(),
        mean_nm,
        s_nm: (squares / (n - 1.0)).sqrt(),
    };
    gears.beside_at_least(ENOUGH_GEARS, figure_nm)
}

/// A figure beside those of its sisters.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct SistersSay {
    /// The same check on boxes of its sheet before; none where too few say anything.
    pub boxes: Option<BesideSisters>,
    /// The other checks of its kind and window in its own box.
    pub gears: Option<BesideSisters>,
}

/// Only one box in so many falls out of the interval by chance.
const ONE_IN: f64 = 100.0;

impl Sisters {
    /// A figure in nanometres beside them; none where too few boxes say anything, or all say the same.
    ///
    /// ```
    /// use anvil_arithmetic::verdict::sisters::Sisters;
    /// let sisters = Sisters { boxes: 20, mean_nm: 120_000.0, s_nm: 8_000.0 };
    /// // 2.861 × 8 × √1.05 = 23.45
    /// assert!((sisters.beside(120_000.0).unwrap().within_nm - 23_452.0).abs() < 5.0);
    /// assert!(sisters.beside(150_000.0).unwrap().unlike);
    /// ```
    ///
    /// # Formula
    /// `|x − x̄| > t₀.₉₉(n − 1) s √(1 + 1/n)`: the prediction interval of one more (Student's t, two-sided, 1 %).
    #[must_use]
    pub fn beside(&self, figure_nm: f64) -> Option<BesideSisters> {
        self.beside_at_least(ENOUGH_BOXES, figure_nm)
    }

    /// The same where fewer say something: the gears of one box are made alike and worn together.
    fn beside_at_least(&self, enough: usize, figure_nm: f64) -> Option<BesideSisters> {
        if self.boxes < enough || self.s_nm <= 0.0 {
            return None;
        }
        let n = self.boxes as f64;
        let t = StudentsT::new(0.0, 1.0, n - 1.0).ok()?;
        let within_nm = t.inverse_cdf(1.0 - 0.5 / ONE_IN) * self.s_nm * (1.0 + 1.0 / n).sqrt();
        Some(BesideSisters {
            boxes: self.boxes,
            mean_nm: self.mean_nm,
            within_nm,
            unlike: (figure_nm - self.mean_nm).abs() > within_nm,
        })
    }
}
