//! The parts of a job as they are sent: each with what is to be known of it, what was found, and what follows from that.

use std::collections::BTreeMap;

use anvil_arithmetic::verdict::Call;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use super::conditions::offered_words;
use super::look_first::{EarlierBox, LookFirst, look_first};
use super::record::{Finding, PartEntry, PartState, standing};
use super::supply::{Supply, said, supply};
use super::wear::{Worn, judge_wear, wear_limit};
use super::width::in_a_sum;
use crate::job::build::PartView;
use crate::job::intake::Complaint;
use crate::sheet::{PartCard, Sheet};
use crate::texts::in_sentence;

/// The parts of a job.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PartsView {
    /// Shaft by shaft as they lie on the rails, then those off them.
    pub parts: Vec<OnJob>,
    /// How many were looked at, or are new at every overhaul.
    pub looked_at: usize,
    /// What has to be got for this box.
    pub to_get: Vec<ToGet>,
    /// What to look at first for each complaint, and what was found there.
    pub look_first: Vec<LookFirst>,
}

/// A part or an item of a job.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct OnJob {
    #[serde(flatten)]
    pub of: PartView,
    /// What stands of it; none where nobody has looked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub found: Option<Found>,
    /// What its size says of its wear, where it was measured.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub worn: Option<Worn>,
    /// How many findings stand behind that, itself among them.
    pub findings: usize,
    /// In what condition such a part may be.
    pub words: Vec<String>,
    /// A stack sum holds it: another width of it can be tried.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub summed: bool,
    /// What is measured on it, by name.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub checks: Vec<String>,
    /// What does not go together with what was found of others, in words.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub clashes: Vec<String>,
}

/// What was found of a part, by whom and when.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Found {
    #[serde(flatten)]
    pub finding: Finding,
    pub who: String,
    pub at: DateTime<Utc>,
}

/// Something that has to be got.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ToGet {
    /// The part's key.
    pub part: String,
    /// What people call it, with its shaft where another has the same name.
    pub name: String,
    pub count: u32,
    /// The number to order it by.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub number: String,
    /// Why: in what condition it was, or that it is new at every overhaul.
    pub why: String,
    pub supply: Supply,
}

impl PartsView {
    /// What the customer is told of: each part in which something was found, or that does not go back as it was.
    #[must_use]
    pub fn told(self) -> Vec<OnJob> {
        let told = |p: &OnJob| {
            p.found.as_ref().is_some_and(|found| {
                let Finding {
                    state,
                    conditions,
                    why,
                    counted,
                    ..
                } = &found.finding;
                let short = counted.is_some_and(|n| n < p.of.card.count);
                *state != PartState::Reused
                    || p.worn.is_some()
                    || !conditions.is_empty()
                    || !why.is_empty()
                    || short
            })
        };
        self.parts.into_iter().filter(told).collect()
    }
}

/// The parts of a job with what is on record of them; `earlier` are the boxes of this sheet that came in with a complaint
/// before, `used` the words that were said of parts of this sheet, each with its part, the commonest first.
#[must_use]
pub fn view(
    sheet: &Sheet,
    parts: Vec<PartView>,
    entries: &[PartEntry],
    complaints: &[Complaint],
    earlier: &[EarlierBox],
    used: &[(String, String)],
) -> PartsView {
    let stands = standing(entries);
    let last = |key: &str| stands.get(key).and_then(|of| of.last());
    let together = kept_with(sheet);
    let said = said(entries);
    // What each check rests on is worked out once, and not for each part.
    let checks = sheet.checks.iter();
    let resting: Vec<_> = checks.map(|c| (&c.name, sheet.rests_on(c))).collect();
    let parts: Vec<OnJob> = parts
        .into_iter()
        .map(|of| OnJob {
            found: last(&of.card.key).map(|(finding, entry)| Found {
                finding: (*finding).clone(),
                who: entry.who.clone(),
                at: entry.at,
            }),
            worn: last(&of.card.key).and_then(|(finding, _)| worn(sheet, finding)),
            findings: stands.get(of.card.key.as_str()).map_or(0, Vec::len),
            summed: in_a_sum(sheet, &of.card.key),
            words: offered_words(sheet, &of.card.key, used),
            checks: (resting.iter())
                .filter(|(_, on)| on.contains(of.card.key.as_str()))
                .map(|(name, _)| (*name).clone())
                .collect(),
            clashes: {
                let state = |key: &str| last(key).map(|(finding, _)| finding.state);
                let mut all = clashes(sheet, &together, &of.card.key, &state);
                let from = |key: &str| last(key).and_then(|(finding, _)| finding.from);
                all.extend(of_two_boxes(sheet, &together, &of.card.key, &from));
                let stands = last(&of.card.key).map(|(finding, _)| *finding);
                all.extend(stands.and_then(|finding| back_though_worn(sheet, finding)));
                all
            },
            of,
        })
        .collect();
    let known = |p: &&OnJob| p.found.is_some() || p.of.card.always_new;
    let found = |key: &str| last(key).map(|(finding, _)| (*finding).clone());
    PartsView {
        look_first: look_first(sheet, complaints, earlier, &found),
        looked_at: parts.iter().filter(known).count(),
        to_get: parts
            .iter()
            .filter_map(|p| {
                let said = said.get(p.of.card.key.as_str());
                line(sheet, p, said.map_or(&[], Vec::as_slice))
            })
            .collect(),
        parts,
    }
}

/// What a part's size says of its wear, where it has one and a limit.
fn worn(sheet: &Sheet, finding: &Finding) -> Option<Worn> {
    judge_wear(wear_limit(sheet, &finding.part)?, finding.measured?).ok()
}

/// A part that is worn out and goes back as it is, and nobody says why.
fn back_though_worn(sheet: &Sheet, finding: &Finding) -> Option<String> {
    if finding.state != PartState::Reused || !finding.why.is_empty() {
        return None;
    }
    let side = match worn(sheet, finding)?.call {
        Call::Tight => "below",
        Call::Loose => "above",
        _ => return None,
    };
    let what = in_sentence(&wear_limit(sheet, &finding.part)?.what);
    Some(format!(
        "Its {what} is {side} the wear limit, and it goes back in: a new one, or a word of why."
    ))
}

/// What stays together is used again together, or is all new.
fn clashes(
    sheet: &Sheet,
    together: &BTreeMap<&str, Vec<&str>>,
    key: &str,
    state: &impl Fn(&str) -> Option<PartState>,
) -> Vec<String> {
    if state(key) != Some(PartState::Reused) {
        return Vec::new();
    }
    let gone = |other: &str| state(other).is_some_and(PartState::is_got);
    let others = together.get(key).into_iter().flatten();
    others
        .filter(|other| gone(other))
        .map(|other| {
            let name = sheet.name_of_part(other).unwrap_or(other);
            format!(
                "It stays with {}, which {}: both go back, or both are new.",
                in_sentence(name),
                state(other).map_or("", PartState::words)
            )
        })
        .collect()
}

/// What stays together comes out of one box.
fn of_two_boxes(
    sheet: &Sheet,
    together: &BTreeMap<&str, Vec<&str>>,
    key: &str,
    from: &impl Fn(&str) -> Option<i32>,
) -> Vec<String> {
    let Some(own) = from(key) else {
        return Vec::new();
    };
    let others = together.get(key).into_iter().flatten();
    let elsewhere = others.filter(|other| from(other) != Some(own));
    elsewhere
        .map(|other| {
            let name = in_sentence(sheet.name_of_part(other).unwrap_or(other));
            format!("It stays with {name}: both come out of one box, and this is of job {own}.")
        })
        .collect()
}

/// Which parts stay with which, said at either of the two.
fn kept_with(sheet: &Sheet) -> BTreeMap<&str, Vec<&str>> {
    let parts = sheet.shafts.iter().flat_map(|s| &s.parts);
    let on_rails = parts.flat_map(|p| p.kept_with.iter().map(move |k| (p.key.as_str(), k)));
    let off = sheet
        .items
        .iter()
        .flat_map(|i| i.kept_with.iter().map(move |k| (i.key.as_str(), k)));
    let mut of: BTreeMap<&str, Vec<&str>> = BTreeMap::new();
    for (one, other) in on_rails.chain(off) {
        for (a, b) in [(one, other.as_str()), (other.as_str(), one)] {
            let with = of.entry(a).or_default();
            if !with.contains(&b) {
                with.push(b);
            }
        }
    }
    of
}

/// How many of a part have to be got, and why: all of it where it is not used again, or those that were not there.
fn to_get(card: &PartCard, finding: Option<&Finding>) -> Option<(u32, String)> {
    let short = finding
        .and_then(|f| f.counted)
        .map_or(0, |counted| card.count.saturating_sub(counted));
    match finding {
        Some(f) if f.state.is_got() => {
            let mut said = f.conditions.clone();
            said.extend((!f.why.is_empty()).then(|| f.why.clone()));
            if said.is_empty() {
                said.push(f.state.words().to_owned());
            }
            Some((card.count, said.join(", ")))
        }
        Some(f) if short > 0 => Some((
            short,
            format!("{} of {} were there", f.counted.unwrap_or(0), card.count),
        )),
        None if card.always_new => Some((card.count, "new at every overhaul".to_owned())),
        _ => None,
    }
}

/// How many of a part have to be got for a job; none where it is used again, or the sheet does not have it.
pub(super) fn wanted(sheet: &Sheet, entries: &[PartEntry], part: &str) -> u32 {
    let cards = sheet.part_cards();
    let card = cards.iter().find(|c| c.key == part);
    let stands = standing(entries);
    let finding = stands.get(part).and_then(|of| of.last()).map(|of| of.0);
    card.and_then(|card| to_get(card, finding))
        .map_or(0, |(count, _)| count)
}

/// What has to be got of a part, and how it stands with that; what has come and is not wanted any more is told as well.
fn line(sheet: &Sheet, part: &OnJob, said: &[&PartEntry]) -> Option<ToGet> {
    let card = &part.of.card;
    let finding = part.found.as_ref().map(|f| &f.finding);
    let got = to_get(card, finding);
    let is_wanted = got.is_some();
    let (count, why) = got.unwrap_or_else(|| (0, "not needed any more".to_owned()));
    let supply = supply(count, said);
    if !is_wanted && supply.come + supply.on_order == 0 {
        return None;
    }
    let number = sheet.items.iter().find(|i| i.key == card.key);
    Some(ToGet {
        part: card.key.clone(),
        name: sheet.told_apart(&card.key).unwrap_or_default(),
        count,
        number: number.map(|i| i.number.clone()).unwrap_or_default(),
        why,
        supply,
    })
}
