//! Where a job is.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use serde::{Deserialize, Serialize};

/// Where a job is.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Standing {
    /// It is worked on.
    OnBench,
    /// Its customer has it again.
    HandedOver,
    /// It was opened by mistake, or given up; its records stay.
    PutAway,
}

impl Standing {
    /// Its box may be worked on.
    #[must_use]
    pub const fn on_bench(self) -> bool {
        matches!(self, Self::OnBench)
    }

    /// Something may be done with its box.
    ///
    /// # Errors
    /// Where it is handed over or put away.
    pub fn is_on_bench(self) -> Ruled<()> {
        let say = match self {
            Self::OnBench => return Ok(()),
            Self::HandedOver => "This job is handed over: take it back first.",
            Self::PutAway => "This job is put away: bring it back to the bench first.",
        };
        Err(Refusal::conflict("not-on-the-bench", say))
    }
}
