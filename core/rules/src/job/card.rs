//! A job as a whole: what stands on its card, what is noted of it, and where it goes.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use serde::{Deserialize, Serialize};

use super::check::rules::reason;
use super::intake::Intake;
use super::standing::Standing;
use super::undo::Undo;
use crate::texts::shown;

/// What somebody does with a job as a whole.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case", deny_unknown_fields)]
pub enum JobAct {
    /// Something is noted on its log.
    Note(NewNote),
    /// A note is struck out, or restored.
    MarkNote {
        note_no: i64,
        /// It is struck out; else restored.
        struck: bool,
    },
    /// Its card is written anew; what it was stays on record.
    Card(NewCard),
    /// Its box goes back to the customer.
    HandOver {
        /// Why, where something was not seen to.
        #[serde(default)]
        reason: String,
    },
    /// What was handed over is on the bench again.
    TakeBack {},
    /// It goes off the bench, with all its records.
    PutAway { reason: String },
    /// What was put away is on the bench again.
    BringBack {},
}

/// Something to note on a job.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewNote {
    pub said: String,
    /// The sum it comes from, as an address of this program.
    #[serde(default)]
    pub address: String,
}

/// What a job's card is to say.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewCard {
    /// What is on the bench.
    pub title: String,
    /// Whose it is.
    pub customer: String,
    /// What the customer complains of, in their words.
    #[serde(default)]
    pub complaint: String,
    /// What else is on it; left out, that stays.
    #[serde(default)]
    pub intake: Option<Intake>,
}

/// The longest title and customer, in characters.
const LONGEST_NAME: usize = 80;
/// The longest complaint, in characters.
const LONGEST_COMPLAINT: usize = 500;
/// The longest note, in characters.
const LONGEST_NOTE: usize = 2_000;
/// The longest address of a sum.
const LONGEST_ADDRESS: usize = 2_000;

/// A text, trimmed; `needed` says why one is needed, where it is.
fn text(field: &'static str, given: &str, most: usize, needed: Option<&str>) -> Ruled<String> {
    let given = shown(given);
    if let Some(why) = needed.filter(|_| given.is_empty()) {
        return Err(Refusal::field(field, why));
    }
    if given.chars().count() > most {
        return Err(Refusal::field(
            field,
            format!("This may have up to {most} characters: shorten it."),
        ));
    }
    Ok(given.to_owned())
}

impl NewCard {
    /// Its texts as they go on record.
    ///
    /// # Errors
    /// Where they say too little, or too much.
    pub fn taken(&self) -> Ruled<Self> {
        let said = Some("Say what is on the bench, such as “Van 3, five-speed”.");
        Ok(Self {
            title: text("title", &self.title, LONGEST_NAME, said)?,
            customer: text(
                "customer",
                &self.customer,
                LONGEST_NAME,
                Some("Say whose box it is."),
            )?,
            complaint: text("complaint", &self.complaint, LONGEST_COMPLAINT, None)?,
            intake: self.intake.clone(),
        })
    }
}

impl NewNote {
    /// The note as it goes on record.
    ///
    /// # Errors
    /// Where it says nothing or too much, or leads elsewhere than to a sum.
    pub fn taken(&self) -> Ruled<Self> {
        let said = shown(&self.said);
        if said.is_empty() || said.chars().count() > LONGEST_NOTE {
            return Err(Refusal::field(
                "said",
                format!("A note has from 1 to {LONGEST_NOTE} characters."),
            ));
        }
        let leads = self.address.is_empty() || self.address.starts_with("/sums/");
        if !leads || self.address.len() > LONGEST_ADDRESS {
            return Err(Refusal::field(
                "address",
                "A note leads to a sum of this program, or nowhere.",
            ));
        }
        Ok(Self {
            said: said.to_owned(),
            address: self.address.clone(),
        })
    }
}

/// A job may be taken back.
///
/// # Errors
/// Where it was not handed over.
pub fn may_take_back(standing: Standing) -> Ruled<()> {
    if standing == Standing::HandedOver {
        return Ok(());
    }
    Err(Refusal::conflict(
        "not-handed-over",
        "This job was not handed over.",
    ))
}

/// A job may be put away: why, trimmed.
///
/// # Errors
/// Where it is not on the bench, pieces are set aside for it, or nothing is said of why.
pub fn may_put_away(standing: Standing, holds_pieces: bool, why: &str) -> Ruled<String> {
    let why = reason(why, Some("Say why, such as “opened by mistake”."))?;
    standing.is_on_bench()?;
    if holds_pieces {
        return Err(Refusal::conflict(
            "pieces-chosen",
            "Pieces are chosen for this job. Let them go first, so that another job can have them.",
        ));
    }
    Ok(why)
}

/// A job may be brought back to the bench.
///
/// # Errors
/// Where it is not put away.
pub fn may_bring_back(standing: Standing) -> Ruled<()> {
    if standing == Standing::PutAway {
        return Ok(());
    }
    Err(Refusal::conflict(
        "not-put-away",
        "This job is not put away.",
    ))
}

impl JobAct {
    /// It is judged on what the screen showed, and so is refused where that has changed since. A note is a fact, whatever has
    /// changed.
    #[must_use]
    pub const fn rests_on_what_was_seen(&self) -> bool {
        !matches!(self, Self::Note(_) | Self::MarkNote { .. })
    }

    /// What undoes it; `before` is what stood on the card, and a note was given the number `noted`. None where it was itself
    /// an undoing.
    #[must_use]
    pub fn undoing(&self, before: &NewCard, noted: Option<i64>) -> Option<Undo<Self>> {
        Some(match self {
            Self::TakeBack {} | Self::BringBack {} => return None,
            Self::Note(_) => Undo::of(
                "Noted.",
                Self::MarkNote {
                    note_no: noted?,
                    struck: true,
                },
            ),
            Self::MarkNote { note_no, struck } => Undo::of(
                if *struck { "Struck out." } else { "Restored." },
                Self::MarkNote {
                    note_no: *note_no,
                    struck: !struck,
                },
            ),
            Self::Card(new) => {
                let waits = |card: &NewCard| {
                    let intake = card.intake.as_ref();
                    intake.and_then(|i| i.waits_for.clone())
                };
                let ended = waits(before).filter(|_| new.intake.is_some() && waits(new).is_none());
                let said = ended.map_or_else(
                    || "The card is changed.".to_owned(),
                    |waited| format!("It waits no longer: {}.", waited.what),
                );
                Undo::of(said, Self::Card(before.clone()))
            }
            Self::HandOver { .. } => Undo::of("Handed over.", Self::TakeBack {}),
            Self::PutAway { .. } => Undo::of("Put away.", Self::BringBack {}),
        })
    }
}
