//! The card that a box comes in with: what it does that it should not, what was agreed, by when it is promised.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use chrono::NaiveDate;
use serde::{Deserialize, Serialize};
use strum::IntoEnumIterator;

use crate::sheet::{Sheet, Symptom};
use crate::texts::shown;

/// The longest that is said of what a job waits for, in characters.
const LONGEST_WAIT: usize = 80;
/// The most complaints of one box.
const MOST_COMPLAINTS: usize = 12;

/// What a customer complains of.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Complaint {
    pub symptom: Symptom,
    /// The gear in which it is so; empty where it is not said, or so in all.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub gear: String,
}

impl Complaint {
    /// As people say it.
    #[must_use]
    pub fn words(&self) -> String {
        self.symptom.words(&self.gear)
    }
}

/// A symptom to choose from, with the gears in which it may be.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct SymptomChoice {
    pub symptom: Symptom,
    /// The gears of the box by name; empty where it is so in all, or the sheet names none.
    pub gears: Vec<String>,
}

/// What somebody may complain of with a box.
#[must_use]
pub fn choices(sheet: &Sheet) -> Vec<SymptomChoice> {
    let gears: Vec<String> = sheet.gears.iter().map(|g| g.name.clone()).collect();
    Symptom::iter()
        .map(|symptom| SymptomChoice {
            symptom,
            gears: if symptom.in_a_gear() {
                gears.clone()
            } else {
                Vec::new()
            },
        })
        .collect()
}

/// A day is today or later, or `stood` there before.
fn not_past(
    (field, say): (&'static str, &str),
    day: Option<NaiveDate>,
    (stood, today): (Option<NaiveDate>, NaiveDate),
) -> Ruled<()> {
    match day.filter(|day| *day < today && stood != Some(*day)) {
        None => Ok(()),
        Some(day) => Err(Refusal::field(
            field,
            format!("{day} is past: {say} a day from today on, or leave it open."),
        )),
    }
}

/// What a job waits for outside the shop: somebody's answer, somebody's work.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaitsFor {
    /// What, and of whom: the customer's answer, the grinder.
    pub what: String,
    /// Since which day: the one on which it was first said, or an earlier one that is given.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub since: Option<NaiveDate>,
    /// The day by which it is expected.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub until: Option<NaiveDate>,
}

impl WaitsFor {
    /// As it goes on record; none where nothing is waited for. Since when does not change with its other words.
    fn taken(&self, today: NaiveDate, was: Option<&Self>) -> Ruled<Option<Self>> {
        let what = shown(&self.what).to_owned();
        if what.is_empty() {
            return Ok(None);
        }
        if what.chars().count() > LONGEST_WAIT {
            return Err(Refusal::field(
                "waits_for",
                format!("Say in up to {LONGEST_WAIT} characters what it waits for."),
            ));
        }
        let stood = was.and_then(|was| was.until);
        not_past(("waits_until", "say"), self.until, (stood, today))?;
        let given = self.since.filter(|since| *since <= today);
        let since = was.and_then(|was| was.since).or(given).unwrap_or(today);
        Ok(Some(Self {
            what,
            since: Some(since),
            until: self.until,
        }))
    }
}

/// What is on a job's card beside whose box it is.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Intake {
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub complaints: Vec<Complaint>,
    /// What was agreed with the customer: what is to be done, up to what price.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub agreed: String,
    /// The day for which it is promised.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub promised: Option<NaiveDate>,
    /// The number stamped on the box, by which it is known when it comes again.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub stamped: String,
    /// What it waits for outside the shop, while it does.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub waits_for: Option<WaitsFor>,
}

impl Intake {
    /// The card as it goes on record, its texts trimmed, on the day that it is written; `was` is what stood on it before.
    ///
    /// # Errors
    /// Where a gear is named that the box does not have, a complaint stands twice, or a day is past that did not stand
    /// there before.
    pub fn taken(&self, sheet: &Sheet, today: NaiveDate, was: Option<&Self>) -> Ruled<Self> {
        let complaints = &self.complaints;
        let fault = |message: String| Err(Refusal::field("complaints", message));
        if complaints.len() > MOST_COMPLAINTS {
            return fault(format!(
                "{MOST_COMPLAINTS} complaints are enough: put the rest in words."
            ));
        }
        for (i, complaint) in complaints.iter().enumerate() {
            let Complaint { symptom, gear } = complaint;
            if complaints[..i].contains(complaint) {
                return fault(format!(
                    "“{}” stands there twice: once is enough.",
                    complaint.words()
                ));
            }
            if gear.is_empty() {
                continue;
            }
            if !symptom.in_a_gear() {
                return fault(format!("“{}” needs no gear.", symptom.words("")));
            }
            // A card may be older than the sheet it is on now.
            let stood = was.is_some_and(|was| was.complaints.contains(complaint));
            if !stood && sheet.gears.iter().all(|g| g.name != *gear) {
                return fault(format!(
                    "This box has no gear “{gear}”: take one of its own, or leave the gear out."
                ));
            }
        }
        let stood = was.and_then(|was| was.promised);
        not_past(("promised", "promise"), self.promised, (stood, today))?;
        let waited_for = was.and_then(|was| was.waits_for.as_ref());
        let waits_for = self.waits_for.as_ref();
        let waits_for = waits_for.map_or(Ok(None), |waits| waits.taken(today, waited_for))?;
        Ok(Self {
            complaints: complaints.clone(),
            agreed: shown(&self.agreed).to_owned(),
            promised: self.promised,
            stamped: shown(&self.stamped).to_owned(),
            waits_for,
        })
    }
}
