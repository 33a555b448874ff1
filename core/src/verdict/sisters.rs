//! Like its sisters: a figure in its window, but far from what boxes of its sheet usually show.

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
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
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

/// Only one box in so many falls out of the interval by chance.
const ONE_IN: f64 = 100.0;

impl Sisters {
    /// A figure in nanometres beside them; none where too few boxes say anything, or all say the same.
    ///
    /// ```
    /// use anvil_core::verdict::sisters::Sisters;
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
        if self.boxes < ENOUGH_BOXES || self.s_nm <= 0.0 {
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
