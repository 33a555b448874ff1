//! What a dismantled box has of each part.

use std::collections::BTreeMap;

use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::Call;
use serde::Serialize;

use super::sets::sets;
use crate::job::parts::{Finding, PartAct, PartEntry, PartState, findings, judge_wear, wear_limit};
use crate::sheet::Sheet;

/// A box that has been taken apart, with what is on record of its parts.
#[derive(Clone, Copy)]
pub struct DismantledBox<'a> {
    pub job_no: i32,
    /// What is on the bench.
    pub title: &'a str,
    /// Its sheet, as the build that it is of.
    pub sheet: &'a Sheet,
    pub entries: &'a [PartEntry],
    /// It is there to give its parts; else it is somebody's.
    pub for_parts: bool,
    /// The box itself is gone: what is not on the shelf is gone with it.
    pub is_gone: bool,
}

/// What a used part is good for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum UsedState {
    /// It can go into a box.
    Sound,
    /// It can, and shows wear: a word of condition, over half of its wear used up, or too close to its limit to call.
    Worn,
    /// Nobody has looked at it.
    NotLookedAt,
    /// It is not used again.
    NoGood,
    /// The box did not have it.
    Missing,
    /// It went into the box of another job.
    Given,
    /// The build that this box is has another part there, or none.
    Another,
    /// It went with its box.
    Gone,
}

/// One part of a dismantled box.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct UsedPart {
    pub state: UsedState,
    /// Pitted, glazed, bent: each in a word or a few.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub conditions: Vec<String>,
    /// What else was said of it.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// Its size, where one decides.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub size_nm: Option<Length>,
    /// The share of its wear that is used up: 0 as new, 1 at the limit.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub used: Option<f64>,
    /// Its width, where somebody has measured it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub width_nm: Option<Length>,
    /// The standard uncertainty of that width in nanometres.
    #[serde(skip)]
    pub u_width_nm: f64,
    /// The job whose box it is in now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub given_to: Option<i32>,
    /// Where it lies on the shelf; empty where it lies with its box.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub place: String,
}

/// A used part on the shelf.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct ShelfPart {
    /// The part's key.
    pub part: String,
    /// What people call it, with its shaft where another has the same name.
    pub name: String,
    pub count: u32,
    /// The job whose box it came out of.
    pub job_no: i32,
    /// What that was.
    pub title: String,
    pub sheet_key: String,
    /// What people call that box.
    pub sheet: String,
    /// The other parts that it stays with.
    pub stays_with: Vec<String>,
    #[serde(flatten)]
    pub of: UsedPart,
}

/// Over this share of its wear a part counts as worn.
const WORN_FROM: f64 = 0.5;

/// Where the parts of a box are that do not lie with it.
#[derive(Default)]
pub(super) struct Whereabouts<'a> {
    /// The job that has it.
    pub given: BTreeMap<&'a str, i32>,
    /// Its place on the shelf.
    pub shelf: BTreeMap<&'a str, &'a str>,
}

pub(super) fn whereabouts(entries: &[PartEntry]) -> Whereabouts<'_> {
    let mut at = Whereabouts::default();
    for entry in entries {
        match &entry.act {
            PartAct::Given { part, to } => {
                at.given.insert(part, *to);
            }
            PartAct::GivenBack { part } => {
                at.given.remove(part.as_str());
            }
            PartAct::Shelved { part, place } => {
                at.shelf.insert(part, place);
            }
            PartAct::OffShelf { part } => {
                at.shelf.remove(part.as_str());
            }
            _ => {}
        }
    }
    at
}

impl DismantledBox<'_> {
    /// What it has of the parts of a sheet, by their keys; `own` where it is the box that is overhauled.
    pub(super) fn parts(&self, of: &Sheet, own: bool) -> BTreeMap<String, UsedPart> {
        let found = findings(self.entries);
        let at = whereabouts(self.entries);
        let cards = of.part_cards();
        let used = cards.iter().map(|card| {
            let key = card.key.as_str();
            let finding = found.get(key).copied();
            let mut part = self.judged(key, finding);
            part.given_to = at.given.get(key).copied();
            let place = at.shelf.get(key).copied().unwrap_or_default();
            place.clone_into(&mut part.place);
            if !own {
                if !is_same_part(of, self.sheet, key) {
                    part.state = UsedState::Another;
                } else if self.is_gone && part.place.is_empty() && part.given_to.is_none() {
                    part.state = UsedState::Gone;
                }
            }
            (card.key.clone(), part)
        });
        used.collect()
    }

    fn judged(&self, key: &str, finding: Option<&Finding>) -> UsedPart {
        let Some(finding) = finding else {
            return UsedPart {
                state: UsedState::NotLookedAt,
                conditions: Vec::new(),
                why: String::new(),
                size_nm: None,
                used: None,
                width_nm: None,
                u_width_nm: 0.0,
                given_to: None,
                place: String::new(),
            };
        };
        let limit = wear_limit(self.sheet, key);
        let worn = limit
            .zip(finding.measured)
            .and_then(|(limit, measured)| judge_wear(limit, measured).ok());
        let used = worn.and_then(|w| w.used);
        let is_short = finding.counted.is_some_and(|counted| {
            let cards = self.sheet.part_cards();
            let mut own = cards.iter().filter(|c| c.key == key);
            own.any(|c| counted < c.count)
        });
        let shows_wear = !finding.conditions.is_empty()
            || used.is_some_and(|used| used > WORN_FROM)
            || worn.is_some_and(|w| w.call == Call::Inconclusive);
        let state = match finding.state {
            PartState::Missing => UsedState::Missing,
            PartState::Renewed | PartState::Swapped | PartState::FromAnother => UsedState::NoGood,
            _ if is_short => UsedState::NoGood,
            // Beyond its limit it goes back only where somebody says why.
            _ if worn.is_some_and(|w| matches!(w.call, Call::Tight | Call::Loose))
                && finding.why.is_empty() =>
            {
                UsedState::NoGood
            }
            _ if shows_wear => UsedState::Worn,
            _ => UsedState::Sound,
        };
        UsedPart {
            state,
            conditions: finding.conditions.clone(),
            why: finding.why.clone(),
            size_nm: finding.measured.map(|m| m.size_nm),
            used,
            width_nm: finding.width_measured.map(|m| m.size_nm),
            u_width_nm: finding.width_measured.map_or(0.0, |m| m.u_nm),
            given_to: None,
            place: String::new(),
        }
    }
}

impl UsedPart {
    /// It can go into a box.
    pub(super) const fn is_usable(&self) -> bool {
        matches!(self.state, UsedState::Sound | UsedState::Worn)
    }

    /// It can go into the box of a job, or is in it.
    pub(super) fn is_for(&self, job_no: i32) -> bool {
        self.is_usable() && self.given_to.is_none_or(|to| to == job_no)
    }
}

/// Whether two sheets have the same thing under a key: what it is told by and measured by is the same.
fn is_same_part(a: &Sheet, b: &Sheet, key: &str) -> bool {
    let part = |sheet: &Sheet| {
        let mut parts = sheet.shafts.iter().flat_map(|s| &s.parts);
        let part = parts.find(|p| p.key == key)?;
        let lengths = (
            part.width.length(),
            part.diameter.as_ref().map(Written::length),
        );
        Some((part.kind, lengths, part.teeth, part.helix))
    };
    let item = |sheet: &Sheet| {
        let item = sheet.items.iter().find(|i| i.key == key)?;
        Some((item.count, item.number.clone()))
    };
    (part(a), item(a)) == (part(b), item(b)) && (part(b).is_some() || item(b).is_some())
}

/// What of a box lies on the shelf.
#[must_use]
pub fn shelf_of(of: &DismantledBox<'_>) -> Vec<ShelfPart> {
    let parts = of.parts(of.sheet, false);
    let sets = sets(of.sheet);
    let cards = of.sheet.part_cards();
    let on_shelf = cards.iter().filter_map(|card| {
        let used = parts.get(&card.key)?.clone();
        if used.place.is_empty() || used.given_to.is_some() || !used.is_usable() {
            return None;
        }
        let set = sets.iter().find(|s| s.contains(&card.key))?;
        let others = set.iter().filter(|k| **k != card.key);
        Some(ShelfPart {
            part: card.key.clone(),
            name: of.sheet.told_apart(&card.key).unwrap_or_default(),
            count: card.count,
            job_no: of.job_no,
            title: of.title.to_owned(),
            sheet_key: of.sheet.key.clone(),
            sheet: of.sheet.name.clone(),
            stays_with: others.filter_map(|k| of.sheet.told_apart(k)).collect(),
            of: used,
        })
    });
    on_shelf.collect()
}
