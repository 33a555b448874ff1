//! What a box does that it should not, and where a sheet's writer looks for it first.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a box does that it should not.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::EnumIter,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Symptom {
    JumpsOut,
    WillNotSelect,
    Grates,
    Whines,
    /// In every gear.
    Growls,
    Knocks,
    Leaks,
    Slips,
    Drags,
    BangsIn,
    NoDrive,
    NoDriveHot,
    NoDriveCold,
    StiffLever,
}

impl Symptom {
    /// It may be so in one gear and not in another.
    #[must_use]
    pub const fn in_a_gear(self) -> bool {
        matches!(
            self,
            Self::JumpsOut
                | Self::WillNotSelect
                | Self::Grates
                | Self::Whines
                | Self::Knocks
                | Self::Slips
                | Self::BangsIn
                | Self::NoDrive
        )
    }

    /// As people say it, with the gear where it is in one.
    ///
    /// ```
    /// use anvil_rules::sheet::Symptom;
    /// assert_eq!(Symptom::JumpsOut.words("third"), "jumps out of third");
    /// assert_eq!(Symptom::Leaks.words(""), "leaks");
    /// ```
    #[must_use]
    pub fn words(self, gear: &str) -> String {
        let (joined, without) = match self {
            Self::JumpsOut => ("jumps out of", "jumps out of gear"),
            Self::WillNotSelect => ("will not go into", "will not go into gear"),
            Self::Grates => ("grates into", "grates into gear"),
            Self::Whines => ("whines in", "whines"),
            Self::Growls => ("", "growls in every gear"),
            Self::Knocks => ("knocks in", "knocks"),
            Self::Leaks => ("", "leaks"),
            Self::Slips => ("slips in", "slips"),
            Self::Drags => ("", "drags"),
            Self::BangsIn => ("bangs into", "bangs into gear"),
            Self::NoDrive => ("no drive in", "no drive"),
            Self::NoDriveHot => ("", "no drive when hot"),
            Self::NoDriveCold => ("", "no drive when cold"),
            Self::StiffLever => ("", "stiff lever"),
        };
        if gear.is_empty() || joined.is_empty() {
            without.to_owned()
        } else {
            format!("{joined} {gear}")
        }
    }
}

/// Where to look first for a complaint.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::LookAt)]
pub struct LookAt {
    pub symptom: Symptom,
    /// The gear in which it is so, by its name; any where nothing is said.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub gear: String,
    /// The parts and items to look at, the likeliest first.
    #[schemars(length(min = 1, max = 20))]
    pub parts: Vec<String>,
    /// What to look for.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub what: String,
}
