//! What may be done with a job as it stands, for a screen to offer.

use serde::Serialize;

use super::card::{may_bring_back, may_take_back};
use super::hand_over::may_hand_over;
use super::standing::Standing;

/// What may be done with a job as a whole.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[allow(clippy::struct_excessive_bools)] // independent answers, each to a question of its own
pub struct JobAllowed {
    /// Its box may be worked on: parts, steps, readings, pictures.
    pub work: bool,
    /// It may be handed over, with a word of why where something was not seen to.
    pub hand_over: bool,
    pub take_back: bool,
    pub put_away: bool,
    pub bring_back: bool,
}

impl JobAllowed {
    /// What may be done with a job that stands so, and may be `for_parts`; of its `checks` so many are `signed`.
    #[must_use]
    pub fn of(standing: Standing, for_parts: bool, (signed, checks): (i32, i32)) -> Self {
        Self {
            work: standing.on_bench(),
            hand_over: may_hand_over((standing, for_parts), (signed, checks), &[], "").is_ok(),
            take_back: may_take_back(standing).is_ok(),
            put_away: standing.on_bench(),
            bring_back: may_bring_back(standing).is_ok(),
        }
    }
}
