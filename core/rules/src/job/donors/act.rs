//! What can be done with used parts, and what undoes it.

use serde::{Deserialize, Serialize};

use super::best::PartPin;
use super::rules::shelved;
use super::used::{DismantledBox, whereabouts};
use crate::job::parts::findings;
use crate::job::undo::Undo;

/// What somebody does with used parts.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case", deny_unknown_fields)]
pub enum DonorAct {
    /// Parts go into the job's box.
    Take {
        /// Each part once, with where it comes from: another box, this box (what was there stands again), or new.
        parts: Vec<PartPin>,
    },
    /// Parts of the job's box go on the shelf, or are not there any more.
    Shelve {
        /// The keys of the parts; where none is named, all that are sound and here.
        #[serde(default)]
        parts: Vec<String>,
        /// Where they lie; empty where they are not on the shelf any more.
        place: String,
    },
}

impl DonorAct {
    /// What undoes it, by how the job's box stood before. None for parts that lay in several places.
    #[must_use]
    pub fn undoing(&self, before: &DismantledBox<'_>) -> Option<Undo<Self>> {
        let counted = |n: usize| {
            if n == 1 {
                "1 part".to_owned()
            } else {
                format!("{n} parts")
            }
        };
        match self {
            Self::Take { parts } => {
                let stands = findings(before.entries);
                let was = |part: &str| match stands.get(part) {
                    Some(found) if found.from.is_some() => found.from,
                    Some(found) if found.state.is_got() => None,
                    _ => Some(before.job_no),
                };
                let back = parts.iter().map(|pin| PartPin {
                    part: pin.part.clone(),
                    from: was(&pin.part),
                });
                Some(Undo::of(
                    format!("{} taken up.", counted(parts.len())),
                    Self::Take {
                        parts: back.collect(),
                    },
                ))
            }
            Self::Shelve { parts, place } => {
                let places = whereabouts(before.entries).shelf;
                // Of all that are sound, those that go there.
                let parts = if parts.is_empty() {
                    let acts = shelved(before, parts, place).ok()?.into_iter();
                    acts.map(|act| act.part().to_owned()).collect()
                } else {
                    parts.clone()
                };
                let mut lay: Vec<&str> = parts
                    .iter()
                    .map(|part| places.get(part.as_str()).copied().unwrap_or(""))
                    .collect();
                lay.dedup();
                let [place_before] = lay[..] else { return None };
                let said = if place.is_empty() {
                    format!("{} off the shelf.", counted(parts.len()))
                } else {
                    format!("{} on the shelf: {place}.", counted(parts.len()))
                };
                Some(Undo::of(
                    said,
                    Self::Shelve {
                        parts,
                        place: place_before.to_owned(),
                    },
                ))
            }
        }
    }
}
