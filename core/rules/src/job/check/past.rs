//! What boxes of a sheet wanted for a check before.

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::uncertainty::bias::ENOUGH_BOXES;
use serde::Deserialize;

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
#[derive(Clone, Copy, Debug, Default, PartialEq, Deserialize)]
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

/// The boxes that had the same check set from the same drawer, each with what was measured before its first pieces
/// were fitted.
#[derive(Clone, Debug, Default)]
pub struct BoxesBefore(Vec<BoxBefore>);

#[derive(Clone, Copy, Debug)]
struct BoxBefore {
    job_no: i32,
    fitted_nm: f64,
    measured_nm: f64,
}

impl BoxesBefore {
    /// Adds a box: its job, what was in, and the clearance measured with that, in nanometres.
    pub fn add(&mut self, job_no: i32, fitted_nm: f64, measured_nm: f64) {
        self.0.push(BoxBefore {
            job_no,
            fitted_nm,
            measured_nm,
        });
    }

    /// All boxes but one: nobody is told to expect what they measured themselves.
    #[must_use]
    pub fn without(&self, job_no: i32) -> MeasuredBefore {
        let mut boxes = self.0.iter().filter(|b| b.job_no != job_no);
        let Some(first) = boxes.next().map(BoxBefore::alone) else {
            return MeasuredBefore::default();
        };
        boxes.fold(first, |so_far, b| so_far.and(b.alone()))
    }
}

impl BoxBefore {
    fn alone(&self) -> MeasuredBefore {
        let (sum, difference) = (
            self.fitted_nm + self.measured_nm,
            self.fitted_nm - self.measured_nm,
        );
        MeasuredBefore {
            boxes: 1,
            least_sum_nm: sum,
            most_sum_nm: sum,
            least_difference_nm: difference,
            most_difference_nm: difference,
        }
    }
}

impl MeasuredBefore {
    /// These boxes and others.
    const fn and(self, other: Self) -> Self {
        Self {
            boxes: self.boxes + other.boxes,
            least_sum_nm: self.least_sum_nm.min(other.least_sum_nm),
            most_sum_nm: self.most_sum_nm.max(other.most_sum_nm),
            least_difference_nm: self.least_difference_nm.min(other.least_difference_nm),
            most_difference_nm: self.most_difference_nm.max(other.most_difference_nm),
        }
    }

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
