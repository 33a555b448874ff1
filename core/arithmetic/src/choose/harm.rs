//! Missing a window on one side that is worse than on the other: the harm to be expected of a choice.

use std::ops::RangeInclusive;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// On which side of its window a clearance does more harm, and how much more.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Harm {
    /// The side.
    pub worse: Side,
    /// So many times as bad as missing on the other.
    #[schemars(range(min = 1.1, max = 100.0))]
    pub times: f64,
}

/// A side of a window.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Side {
    Tight,
    Loose,
}

impl Harm {
    /// How many times as bad one side may be: less is no difference, more is a window of another kind.
    pub const TIMES: RangeInclusive<f64> = 1.1..=100.0;

    /// Whether its figure is one that a person can mean.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        Self::TIMES.contains(&self.times)
    }

    /// What missing tight and missing loose count, the worse of them 1.
    pub(super) fn weights(&self) -> (f64, f64) {
        match self.worse {
            Side::Tight => (1.0, 1.0 / self.times),
            Side::Loose => (1.0 / self.times, 1.0),
        }
    }

    /// The harm to be expected, from 0 for none to 1 where it surely misses on the worse side.
    ///
    /// # Formula
    /// `H = P(tight) + P(loose) / w` where tight is `w` times as bad as loose, and the reverse.
    #[must_use]
    pub fn expected(&self, tight: f64, loose: f64) -> f64 {
        let weights = self.weights();
        weights.0 * tight + weights.1 * loose
    }
}
