//! What may be said of a part.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::verdict::Call;

use super::record::{Finding, PartAct, PartEntry, PartState, standing};
use super::supply::{self, said};
use super::view::wanted;
use super::wear::{Measured, TypedSize, judge_wear, measured_as, wear_limit, width_as};
use crate::sheet::Sheet;
use crate::shop::gauge_register::RegisteredGauge;

/// The most words of condition that one part is given.
const MOST_WORDS: usize = 12;
/// The longest of them.
const LONGEST_WORD: usize = 40;

/// What somebody says of a part, as it goes on record; `register` has the micrometer that a size is taken with.
///
/// # Errors
/// Where the sheet has no such part, a reason is missing, a size is no length or there is nothing to take it with, nothing is there to take back, or somebody else has found
/// something in it since.
pub fn taken(
    sheet: &Sheet,
    entries: &[PartEntry],
    act: &PartAct,
    register: &[RegisteredGauge],
) -> Ruled<PartAct> {
    match act {
        PartAct::Found(finding) if finding.state == PartState::FromAnother => Err(elsewhere()),
        PartAct::Found(finding) => found(sheet, entries, finding, register).map(PartAct::Found),
        PartAct::Given { .. }
        | PartAct::GivenBack { .. }
        | PartAct::Shelved { .. }
        | PartAct::OffShelf { .. } => Err(elsewhere()),
        PartAct::TakenBack { part, .. } => {
            there(sheet, part)?;
            let stands = standing(entries);
            if stands.get(part.as_str()).is_none_or(Vec::is_empty) {
                return Err(Refusal::conflict(
                    "not-looked-at",
                    "Nothing was said of it that could be taken back.",
                ));
            }
            Ok(act.clone())
        }
        PartAct::Ordered { part, .. }
        | PartAct::Come { part, .. }
        | PartAct::WillNotCome { part, .. }
        | PartAct::SupplyBack { part } => {
            there(sheet, part)?;
            let said = said(entries);
            let said = said.get(part.as_str()).map_or(&[][..], Vec::as_slice);
            supply::taken(wanted(sheet, entries, part), said, act)
        }
    }
}

fn elsewhere() -> Refusal {
    Refusal::field(
        "act",
        "Used parts are taken from other boxes on the page Donors, and shelved on the page of their box.",
    )
}

fn there<'a>(sheet: &'a Sheet, part: &str) -> Ruled<&'a str> {
    sheet.name_of_part(part).ok_or_else(|| {
        Refusal::missing(format!(
            "The sheet of this job has no part “{part}”: it may be on another revision."
        ))
    })
}

/// Why a word is wanted for what becomes of a part: it turns round what was decided, or what is always done.
fn word_wanted(
    sheet: &Sheet,
    finding: &Finding,
    measured: Option<Measured>,
    before: Option<&Finding>,
) -> Option<String> {
    if let Some(before) = before
        && before.state != finding.state
    {
        return Some(format!(
            "It {} so far: say why it is otherwise, or take that back.",
            before.state.words()
        ));
    }
    if finding.state != PartState::Reused {
        return None;
    }
    let worn_out = wear_limit(sheet, &finding.part)
        .zip(measured)
        .and_then(|(limit, measured)| judge_wear(limit, measured).ok())
        .is_some_and(|worn| matches!(worn.call, Call::Tight | Call::Loose));
    if worn_out {
        return Some("It measures beyond its limit: say why it goes back in.".into());
    }
    let cards = sheet.part_cards();
    let always_new = cards.iter().any(|c| c.key == finding.part && c.always_new);
    always_new.then(|| "It is new at every overhaul: say why this one goes back in.".into())
}

fn found(
    sheet: &Sheet,
    entries: &[PartEntry],
    finding: &Finding,
    register: &[RegisteredGauge],
) -> Ruled<Finding> {
    let name = there(sheet, &finding.part)?;
    let stands = standing(entries);
    let before = stands
        .get(finding.part.as_str())
        .map_or(&[][..], Vec::as_slice);
    if let Some((last, entry)) = before.last()
        && finding.seen.is_some_and(|seen| seen < before.len())
    {
        return Err(Refusal::conflict(
            "found-since",
            format!(
                "{} has looked at it meanwhile: {name} {}. Look at that, and say it again if it is otherwise.",
                entry.who,
                last.state.words()
            ),
        ));
    }
    let why = finding.why.trim();
    match finding.state {
        PartState::Reworked if why.is_empty() => {
            return Err(Refusal::field(
                "why",
                "Say what was done to it, such as “dogs back-cut 3°”.",
            ));
        }
        PartState::Swapped if why.is_empty() => {
            return Err(Refusal::field(
                "why",
                "Say which one goes in, and why, such as “narrow bearing with a 1.5 mm spacer”.",
            ));
        }
        _ => {}
    }
    if finding.conditions.len() > MOST_WORDS {
        return Err(Refusal::field(
            "conditions",
            format!("{MOST_WORDS} words of condition are enough: put the rest in the reason."),
        ));
    }
    let mut conditions: Vec<String> = Vec::new();
    for word in finding.conditions.iter().map(|w| w.trim()) {
        if word.is_empty() || word.chars().count() > LONGEST_WORD {
            return Err(Refusal::field(
                "conditions",
                format!(
                    "A condition is a word or a few, up to {LONGEST_WORD} letters, such as “pitted”."
                ),
            ));
        }
        if !conditions.iter().any(|c| c == word) {
            conditions.push(word.to_owned());
        }
    }
    let (size, width) = (finding.size.trim(), finding.width.trim());
    let typed = |text| TypedSize {
        text,
        unit: finding.unit.unwrap_or(Unit::Mm),
        gauge_key: finding.gauge_key.as_deref(),
    };
    let measured = if size.is_empty() {
        None
    } else {
        Some(measured_as(sheet, &finding.part, typed(size), register)?.1)
    };
    if why.is_empty()
        && let Some(wanted) = word_wanted(sheet, finding, measured, before.last().map(|b| b.0))
    {
        return Err(Refusal::field("why", wanted));
    }
    let width_measured = if width.is_empty() {
        None
    } else {
        Some(width_as(sheet, &finding.part, typed(width), register)?)
    };
    Ok(Finding {
        width: width.to_owned(),
        width_measured,
        from: None,
        size: size.to_owned(),
        measured,
        gauge_key: finding
            .gauge_key
            .clone()
            .filter(|_| measured.is_some() || width_measured.is_some()),
        conditions,
        as_found: finding.as_found.trim().to_owned(),
        why: why.to_owned(),
        seen: None,
        ..finding.clone()
    })
}
