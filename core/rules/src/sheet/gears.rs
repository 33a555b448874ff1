//! The gears of a box as the ways that power takes through it, from the teeth on the rail.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// One gear: the pairs that power goes through, one after the other.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::GearPath)]
pub struct GearPath {
    /// What people call it: first, reverse.
    #[schemars(length(min = 1, max = 40))]
    pub name: String,
    /// The selector's position, where it has a name of its own.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub position: String,
    /// The part that drives and the one that is driven, from the input to the output; none where it goes straight through.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 8))]
    pub pairs: Vec<[String; 2]>,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// To which side a gear's teeth lean, seen from beside it with its shaft upright.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Hand {
    /// As a left-hand thread.
    Left,
    /// As a right-hand thread.
    Right,
}

/// How a shaft turns, seen from the left end of its rail.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Turning {
    Clockwise,
    Anticlockwise,
}
