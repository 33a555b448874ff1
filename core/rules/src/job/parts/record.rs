//! What is on record of a job's parts: facts in their order, of which none is ever changed.

use std::collections::BTreeMap;

use anvil_arithmetic::units::length::Unit;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use super::wear::Measured;

/// One fact about a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PartEntry {
    pub act: PartAct,
    /// Whose fact it is.
    pub who: String,
    pub at: DateTime<Utc>,
}

/// What somebody said of a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case")]
pub enum PartAct {
    /// It was looked at.
    Found(Finding),
    /// What was said of it last does not count: what stood before stands again.
    TakenBack {
        /// The part's key.
        part: String,
        #[serde(default)]
        why: String,
    },
    /// So many of it are on order.
    Ordered {
        /// The part's key.
        part: String,
        /// All that are missing where nothing is said.
        #[serde(default)]
        count: Option<u32>,
        /// Where it was ordered.
        #[serde(default)]
        from: String,
        /// What one costs, where that is worth knowing.
        #[serde(default)]
        price: String,
    },
    /// So many of it are here, from an order or off a shelf.
    Come {
        /// The part's key.
        part: String,
        /// All that are missing where nothing is said.
        #[serde(default)]
        count: Option<u32>,
    },
    /// It cannot be had there.
    WillNotCome {
        /// The part's key.
        part: String,
        why: String,
    },
    /// What was said last of getting it does not count.
    SupplyBack {
        /// The part's key.
        part: String,
    },
    /// It has gone into the box of another job.
    Given {
        /// The part's key.
        part: String,
        /// The number of that job.
        to: i32,
    },
    /// That box does without it: it is here again.
    GivenBack {
        /// The part's key.
        part: String,
    },
    /// It lies on the shelf of used parts.
    Shelved {
        /// The part's key.
        part: String,
        /// Where, in the shop's own words.
        place: String,
    },
    /// It is not on the shelf any more.
    OffShelf {
        /// The part's key.
        part: String,
    },
}

/// What was found of a part, and what becomes of it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Finding {
    /// The part's key.
    pub part: String,
    pub state: PartState,
    /// In what condition it was: pitted, spun in its bore, short.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub conditions: Vec<String>,
    /// How it lay in the box, where that is worth knowing: which way round, beside what, by which marks.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub as_found: String,
    /// How many there were, of loose pieces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub counted: Option<u32>,
    /// Its size as typed, where a size decides.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub size: String,
    /// The unit of a size or a width that is typed without one; millimetres where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<Unit>,
    /// The key of the micrometer that a size or a width was taken with; the one that is taken up where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gauge_key: Option<String>,
    /// That size as it was read; what is sent of it does not count.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measured: Option<Measured>,
    /// Its width along the shaft as typed, where somebody has measured it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub width: String,
    /// That width as it was read; what is sent of it does not count.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width_measured: Option<Measured>,
    /// The number of the job whose box it was taken from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<i32>,
    /// Why it is so, with what it was reworked, or for what it was swapped.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// How many findings of this part whoever says it had seen; left out where nobody looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seen: Option<usize>,
}

impl Finding {
    /// That a part is so, and nothing else.
    #[must_use]
    pub fn of(part: &str, state: PartState) -> Self {
        Self {
            part: part.to_owned(),
            state,
            conditions: Vec::new(),
            as_found: String::new(),
            counted: None,
            size: String::new(),
            unit: None,
            gauge_key: None,
            measured: None,
            width: String::new(),
            width_measured: None,
            from: None,
            why: String::new(),
            seen: None,
        }
    }

    /// Something is wrong with it, or it does not go back as it was.
    #[must_use]
    pub fn is_of_a_fault(&self) -> bool {
        self.state != PartState::Reused || !self.conditions.is_empty()
    }
}

/// What becomes of a part.
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
    strum::EnumIter,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum PartState {
    /// It goes back in.
    Reused,
    /// Another of its kind goes in.
    Renewed,
    /// It goes back in after work on it.
    Reworked,
    /// One of another kind goes in.
    Swapped,
    /// It was not there.
    Missing,
    /// A used one goes in, out of another box.
    FromAnother,
}

impl PartState {
    /// Something else than was in the box goes in, or it went out changed: what is measured on it is measured again.
    #[must_use]
    pub const fn changes_it(self) -> bool {
        match self {
            Self::Reused => false,
            // What was missing was not there when it was measured, and is when it is built.
            Self::Renewed | Self::Reworked | Self::Swapped | Self::FromAnother | Self::Missing => {
                true
            }
        }
    }

    /// It has to be got.
    #[must_use]
    pub const fn is_got(self) -> bool {
        matches!(self, Self::Renewed | Self::Swapped | Self::Missing)
    }

    /// What was done, in words.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Reused => "is used again",
            Self::Renewed => "was renewed",
            Self::Reworked => "was reworked",
            Self::Swapped => "was swapped for another kind",
            Self::Missing => "was missing",
            Self::FromAnother => "was taken from another box",
        }
    }
}

/// What stands of each part, by its key.
#[must_use]
pub fn findings(entries: &[PartEntry]) -> BTreeMap<&str, &Finding> {
    let stands = standing(entries).into_iter();
    stands
        .filter_map(|(key, of)| Some((key, of.last()?.0)))
        .collect()
}

/// What stands of each part, the last said last; findings that were taken back are gone from it.
pub(crate) fn standing(entries: &[PartEntry]) -> BTreeMap<&str, Vec<(&Finding, &PartEntry)>> {
    let mut found: BTreeMap<&str, Vec<(&Finding, &PartEntry)>> = BTreeMap::new();
    for entry in entries {
        match &entry.act {
            PartAct::Found(finding) => {
                let of = found.entry(finding.part.as_str()).or_default();
                of.push((finding, entry));
            }
            PartAct::TakenBack { part, .. } => {
                found.entry(part.as_str()).or_default().pop();
            }
            // Of getting it, not of what was found.
            PartAct::Ordered { .. }
            | PartAct::Come { .. }
            | PartAct::WillNotCome { .. }
            | PartAct::SupplyBack { .. }
            // Of where it is.
            | PartAct::Given { .. }
            | PartAct::GivenBack { .. }
            | PartAct::Shelved { .. }
            | PartAct::OffShelf { .. } => {}
        }
    }
    found
}
