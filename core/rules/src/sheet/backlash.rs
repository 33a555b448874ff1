//! The backlash of a ring gear.

use anvil_arithmetic::measure::backlash::Mesh;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How a ring gear's backlash is taken, and how it follows the shims at the two ends of its shaft.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Backlash)]
pub struct Backlash {
    /// At how many places round the gear it is taken, evenly spaced.
    #[serde(default = "four", skip_serializing_if = "is_four")]
    #[schemars(range(min = 4, max = 24))]
    pub places: u16,
    /// How far the widest and the narrowest may differ.
    pub run_out: Written,
    /// By how much it grows as the ring gear moves away from the pinion by one; two set-ups on the bench find it too.
    #[schemars(range(min = 0.05, max = 3.0))]
    pub per_move: f64,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = 0.0, max = 1.0))]
    pub per_move_within: Option<f64>,
}

const fn four() -> u16 {
    4
}

#[allow(clippy::trivially_copy_pass_by_ref)] // the signature serde asks for
const fn is_four(n: &u16) -> bool {
    *n == 4
}

impl Backlash {
    /// In the form that measuring takes it.
    #[must_use]
    pub fn mesh(&self) -> Mesh {
        Mesh {
            places: self.places,
            run_out_nm: self.run_out.length(),
            per_move: self.per_move,
            u_per_move: self.per_move_within.unwrap_or(0.0) / 3_f64.sqrt(),
        }
    }

    /// The longest sensible run-out: more, and the figure is another.
    pub const MOST_RUN_OUT: Length = Length::from_nm(1_000_000);
}
