//! Parts that have to be got: ordered, come, or not to be had.

use std::collections::BTreeMap;

use anvil_arithmetic::refusal::{Refusal, Ruled};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use super::record::{PartAct, PartEntry, standing};

/// How it stands with a part that has to be got.
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
pub enum SupplyState {
    /// Some of it is not ordered.
    Needed,
    /// It cannot be had where it was asked for.
    WillNotCome,
    /// All that has not come is on order.
    Ordered,
    /// All of it is here.
    Come,
}

/// What is known of getting a part.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Supply {
    pub state: SupplyState,
    /// How many are still to be ordered.
    pub to_order: u32,
    /// How many are on order and have not come.
    pub on_order: u32,
    /// How many have come.
    pub come: u32,
    /// Where it was ordered last.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub from: String,
    /// What one costs, as it was said with the order.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub price: String,
    /// Why it will not come.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// Who said the last of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// When.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at: Option<DateTime<Utc>>,
}

/// What stands of getting each part, the last said last; what was taken back is gone from it.
pub(super) fn said(entries: &[PartEntry]) -> BTreeMap<&str, Vec<&PartEntry>> {
    let mut said: BTreeMap<&str, Vec<&PartEntry>> = BTreeMap::new();
    for entry in entries {
        match &entry.act {
            PartAct::Ordered { part, .. }
            | PartAct::Come { part, .. }
            | PartAct::WillNotCome { part, .. } => {
                said.entry(part.as_str()).or_default().push(entry);
            }
            PartAct::SupplyBack { part } => {
                said.entry(part.as_str()).or_default().pop();
            }
            // Of what was found, and of where it is.
            PartAct::Found(_)
            | PartAct::TakenBack { .. }
            | PartAct::Given { .. }
            | PartAct::GivenBack { .. }
            | PartAct::Shelved { .. }
            | PartAct::OffShelf { .. } => {}
        }
    }
    said
}

/// Whether anything that was said of a job's parts still stands: until then nobody has begun to look at them.
#[must_use]
pub fn something_stands(entries: &[PartEntry]) -> bool {
    let found = standing(entries);
    found.values().any(|of| !of.is_empty()) || said(entries).values().any(|of| !of.is_empty())
}

/// How it stands with a part of which so many are wanted.
pub(super) fn supply(wanted: u32, said: &[&PartEntry]) -> Supply {
    let (mut ordered, mut come) = (0_u32, 0_u32);
    let (mut from, mut price, mut why) = (String::new(), String::new(), String::new());
    for entry in said {
        match &entry.act {
            PartAct::Ordered {
                count,
                from: at,
                price: costs,
                ..
            } => {
                ordered = ordered.saturating_add(count.unwrap_or(0));
                from.clone_from(at);
                price.clone_from(costs);
                why.clear();
            }
            PartAct::Come { count, .. } => {
                let count = count.unwrap_or(0);
                come = come.saturating_add(count);
                // What was on the shelf was on no order.
                ordered = ordered.saturating_sub(count);
            }
            PartAct::WillNotCome { why: said, .. } => {
                ordered = 0;
                why.clone_from(said);
            }
            _ => {}
        }
    }
    let missing = wanted.saturating_sub(come);
    let to_order = missing.saturating_sub(ordered);
    let state = if missing == 0 {
        SupplyState::Come
    } else if !why.is_empty() {
        SupplyState::WillNotCome
    } else if to_order == 0 {
        SupplyState::Ordered
    } else {
        SupplyState::Needed
    };
    let last = said.last();
    Supply {
        state,
        to_order,
        on_order: ordered,
        come,
        from,
        price,
        why,
        who: last.map(|e| e.who.clone()),
        at: last.map(|e| e.at),
    }
}

/// So many of a part as may be ordered or come: all that are missing where nothing is said.
fn count_of(given: Option<u32>, most: u32, nothing: Refusal) -> Ruled<u32> {
    if most == 0 {
        return Err(nothing);
    }
    match given {
        None => Ok(most),
        Some(count) if (1..=most).contains(&count) => Ok(count),
        Some(_) => Err(Refusal::field(
            "count",
            format!("From 1 to {most}: no more than that are wanted."),
        )),
    }
}

/// What somebody says of getting a part of which so many are wanted, as it goes on record.
///
/// # Errors
/// Where none is wanted, or no more; nobody says why it will not come; or nothing was said that could be taken back.
pub(super) fn taken(wanted: u32, said: &[&PartEntry], act: &PartAct) -> Ruled<PartAct> {
    let stands = supply(wanted, said);
    let by = stands.who.as_deref().unwrap_or("somebody");
    let here = || {
        Refusal::conflict(
            "come-already",
            if wanted == 0 {
                "None of it has to be got for this box.".to_owned()
            } else {
                format!("It has come already, booked in by {by}.")
            },
        )
    };
    match act {
        PartAct::Ordered {
            part,
            count,
            from,
            price,
        } => {
            let ordered = || {
                Refusal::conflict(
                    "ordered-already",
                    format!("All that is missing of it is on order, said {by}."),
                )
            };
            let none_left = if stands.on_order > 0 {
                ordered()
            } else {
                here()
            };
            Ok(PartAct::Ordered {
                part: part.clone(),
                count: Some(count_of(*count, stands.to_order, none_left)?),
                from: from.trim().to_owned(),
                price: price.trim().to_owned(),
            })
        }
        PartAct::Come { part, count } => {
            let missing = wanted.saturating_sub(stands.come);
            Ok(PartAct::Come {
                part: part.clone(),
                count: Some(count_of(*count, missing, here())?),
            })
        }
        PartAct::WillNotCome { part, why } => {
            if stands.state == SupplyState::Come {
                return Err(here());
            }
            let why = why.trim();
            if why.is_empty() {
                return Err(Refusal::field(
                    "why",
                    "Say why it will not come, such as “no longer made”.",
                ));
            }
            Ok(PartAct::WillNotCome {
                part: part.clone(),
                why: why.to_owned(),
            })
        }
        PartAct::SupplyBack { .. } if said.is_empty() => Err(Refusal::conflict(
            "nothing-said",
            "Nothing was said of getting it that could be taken back.",
        )),
        _ => Ok(act.clone()),
    }
}
