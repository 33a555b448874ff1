//! What boxes of a sheet wanted for a check before.

use serde::Deserialize;

use crate::choose::required::Effect;
use crate::uncertainty::bias::ENOUGH_BOXES;

/// The range of the thickness that would have left no clearance, in nanometres, and of how many boxes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct WantedBefore {
    /// The least.
    pub from_nm: f64,
    /// The most.
    pub to_nm: f64,
    /// How many boxes.
    pub boxes: i64,
}

/// What was measured on boxes before their first pieces were fitted, in nanometres: the clearance with what was in
/// added to it and taken off it, for a thicker piece may close the gap or open it.
#[derive(Clone, Copy, Debug, Default, Deserialize)]
pub struct MeasuredBefore {
    /// How many boxes.
    pub boxes: i64,
    pub least_sum_nm: f64,
    pub most_sum_nm: f64,
    /// What was in less the clearance.
    pub least_difference_nm: f64,
    /// What was in less the clearance.
    pub most_difference_nm: f64,
}

impl MeasuredBefore {
    /// What those boxes wanted, however few they are.
    ///
    /// # Formula
    /// `s₀ + k c`.
    #[must_use]
    pub const fn all(self, effect: Effect) -> WantedBefore {
        let (from_nm, to_nm) = match effect {
            Effect::Closes => (self.least_sum_nm, self.most_sum_nm),
            Effect::Opens => (self.least_difference_nm, self.most_difference_nm),
        };
        WantedBefore {
            from_nm,
            to_nm,
            boxes: self.boxes,
        }
    }

    /// What those boxes wanted; none of fewer than [`ENOUGH_BOXES`].
    #[must_use]
    pub fn of(self, effect: Effect) -> Option<WantedBefore> {
        let enough = usize::try_from(self.boxes).is_ok_and(|n| n >= ENOUGH_BOXES);
        enough.then(|| self.all(effect))
    }
}
