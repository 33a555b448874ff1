//! Parts off the rails, which way round a part goes, and the positions of the selector.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::wear::WearLimit;

/// A part off the rails: a seal, a ring, a spring, a ball, a fork, a cover, a fastener.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Item)]
pub struct Item {
    /// A short name, unique among parts and items.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    pub kind: ItemKind,
    /// How many there are of it; one where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = 1, max = 500))]
    pub count: Option<u32>,
    /// The number to order it by.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub number: String,
    /// How to tell it from its twin.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub which: String,
    /// The part or item that it is easily taken for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub twin: Option<String>,
    /// Which way round it goes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub facing: Option<Facing>,
    /// The marks that are lined up.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub marks: String,
    /// The size by which it is told whether it is worn out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wear: Option<WearLimit>,
    /// It is replaced at every overhaul.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub always_new: bool,
    /// The parts and items that it stays with.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub kept_with: Vec<String>,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// What lies off the rails, told apart so that a seal is not looked for among the springs.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum ItemKind {
    Seal,
    Gasket,
    Ring,
    Spring,
    Ball,
    Key,
    Roller,
    Pin,
    Fork,
    SelectorDrum,
    Rod,
    Cover,
    Fastener,
    Piston,
    Pump,
    Other,
}

/// A face of a part, and what it looks towards.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Facing)]
pub struct Facing {
    pub face: Face,
    /// `left` or `right` along the rail, `up`, `out`, `in`, `load`, or the key of a part.
    pub towards: String,
}

/// What a face is told by.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Face {
    Chamfer,
    Bevel,
    Lettering,
    Recess,
    Dimples,
    Taper,
    OpenSide,
    Ridge,
    Shoulder,
    SharpEdge,
    SmoothFace,
    Groove,
    Dogs,
    Lip,
}

impl Facing {
    /// The directions that need no part.
    pub const DIRECTIONS: [&'static str; 6] = ["left", "right", "up", "out", "in", "load"];
}

/// The positions of a drum or of the levers, in order.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::SelectorPositions)]
pub struct SelectorPositions {
    /// What people call them, one notch apart.
    #[schemars(length(min = 2, max = 24))]
    pub names: Vec<String>,
    /// The first follows the last again.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub ring: bool,
}
