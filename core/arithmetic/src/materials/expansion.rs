//! What parts are made of, and how much that grows with heat.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A material, for thermal growth.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Material {
    Steel,
    CastIron,
    Aluminium,
    Magnesium,
    Bronze,
}

impl Material {
    /// The coefficient of linear expansion per kelvin: handbook values, from memory.
    #[must_use]
    pub const fn expansion_per_k(self) -> f64 {
        match self {
            Self::Steel => 11.7e-6,
            Self::CastIron => 10.8e-6,
            Self::Aluminium => 23e-6,
            Self::Magnesium => 26e-6,
            Self::Bronze => 18e-6,
        }
    }
}
