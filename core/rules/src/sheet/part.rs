//! Shafts and the parts on them.

use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::gears::Hand;
use super::item::Facing;
use super::wear::WearLimit;

/// A shaft: whatever carries a stack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Shaft)]
pub struct Shaft {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// The diameter of the bare shaft.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub diameter: Option<Written>,
    /// Its parts, from left to right.
    #[schemars(length(min = 1, max = 200))]
    pub parts: Vec<Part>,
}

impl Shaft {
    /// To which side along the rail the telling face of a part looks: −1 to the left, +1 to the right; none where it
    /// looks neither way, or has none.
    #[must_use]
    pub fn faces(&self, part: &Part) -> Option<i8> {
        let place = |key: &str| self.parts.iter().position(|p| p.key == key);
        match part.facing.as_ref()?.towards.as_str() {
            "left" => Some(-1),
            "right" => Some(1),
            key => Some(if place(key)? < place(&part.key)? {
                -1
            } else {
                1
            }),
        }
    }
}

/// A part on a shaft.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Part)]
pub struct Part {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    pub kind: PartKind,
    /// Its width along the shaft.
    pub width: Written,
    /// The ± limits of its width.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width_tolerance: Option<Written>,
    /// Its outer diameter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub diameter: Option<Written>,
    /// Bare shaft before it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap_before: Option<Written>,
    /// How many teeth it has.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub teeth: Option<u32>,
    /// To which side its teeth lean, where they do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub helix: Option<Hand>,
    /// A chain or a toothed belt runs on it: it turns its mate the same way round.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub chain: bool,
    /// What it is made of, for sums with heat in them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub material: Option<Material>,
    /// It is replaced at every overhaul.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub always_new: bool,
    /// The part that it stays with: a bearing's inner is kept with the outer that it has run in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept_with: Option<String>,
    /// The gear on another shaft that it meshes with; said at one of the two.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mates: Option<String>,
    /// How to tell it from its twin: the larger bore, the longer tang.
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
    /// Anything else about it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// What a part is, told apart by outline and hatching on the rail.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum PartKind {
    Bearing,
    TaperBearing,
    NeedleBearing,
    Gear,
    Hub,
    Sleeve,
    Washer,
    Shim,
    SnapRing,
    Spacer,
    ThrustPlate,
    PressurePlate,
    Friction,
    Steel,
    WavePlate,
    Drum,
    Planet,
    DiffCase,
    Seal,
    Retainer,
    Housing,
    Collar,
}
