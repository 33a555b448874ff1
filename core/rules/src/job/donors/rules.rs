//! What may be taken out of a box and put into another, and what goes on the shelf.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use chrono::DateTime;

use super::best::PartPin;
use super::used::{DismantledBox, UsedState, whereabouts};
use crate::job::parts::{Finding, PartAct, PartEntry, PartState, findings, standing};
use crate::texts::in_sentence;

/// The longest words for a place on the shelf.
const LONGEST_PLACE: usize = 40;

/// What goes on record where a part is taken.
#[derive(Clone, Debug, PartialEq)]
pub struct Taking {
    /// On the record of the job whose box it goes into.
    pub here: PartAct,
    /// On the record of the box that it comes out of; none for a new part.
    pub there: Option<PartAct>,
}

/// What goes on record where a part of another box goes into that of a job, or a new one where there is no other.
///
/// # Errors
/// Where the sheet has no such part, the other box is of another model, its part is not there or not sound, or has gone
/// into another box.
pub fn taken(
    own: &DismantledBox<'_>,
    from: Option<&DismantledBox<'_>>,
    part: &str,
) -> Ruled<Taking> {
    let Some(name) = own.sheet.name_of_part(part) else {
        return Err(Refusal::missing(format!(
            "The sheet of this job has no part “{part}”: it may be on another revision."
        )));
    };
    let Some(from) = from else {
        return Ok(Taking {
            here: PartAct::Found(Finding {
                why: "none of the boxes has a better one".to_owned(),
                ..Finding::of(part, PartState::Renewed)
            }),
            there: None,
        });
    };
    if from.sheet.key != own.sheet.key {
        return Err(Refusal::field(
            "from",
            format!(
                "The box of job {} is a {}, and this one is a {}: parts come out of boxes of the same model.",
                from.job_no, from.sheet.name, own.sheet.name
            ),
        ));
    }
    if !from.for_parts {
        return Err(Refusal::field(
            "from",
            format!(
                "The box of job {} is somebody's: parts come out of boxes that are for parts.",
                from.job_no
            ),
        ));
    }
    may_go(from, own, (part, name))?;
    let where_from = told(from);
    let theirs = findings(from.entries).get(part).copied().cloned();
    let theirs = theirs.unwrap_or_else(|| Finding::of(part, PartState::Reused));
    Ok(Taking {
        here: PartAct::Found(Finding {
            state: PartState::FromAnother,
            from: Some(from.job_no),
            why: format!("out of {where_from}"),
            as_found: String::new(),
            counted: None,
            seen: None,
            ..theirs
        }),
        there: Some(PartAct::Given {
            part: part.to_owned(),
            to: own.job_no,
        }),
    })
}

/// What taking several parts up comes to.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct TakenUp {
    /// What goes on record, each on that of a job, in this order.
    pub acts: Vec<(i32, PartAct)>,
    /// What was found of the parts that are others now.
    pub changed: Vec<Finding>,
    /// For each of those parts the box that it is out of; none for its own, or a new one.
    pub from: Vec<(String, Option<i32>)>,
}

/// What several parts come to that go into a job's box, each once: out of `others`, new, or its own again. What is so already
/// stays.
///
/// # Errors
/// See [`taken`]; where a part is to come out of a box that is none of `others`.
pub fn take_up(
    own: &DismantledBox<'_>,
    others: &[DismantledBox<'_>],
    pins: &[PartPin],
) -> Ruled<TakenUp> {
    let stands = findings(own.entries);
    let mut up = TakenUp::default();
    for PartPin { part, from } in pins {
        let part = part.as_str();
        let found = stands.get(part).copied();
        let was_from = found.and_then(|f| f.from);
        let is_got = found.is_some_and(|f| f.state.is_got());
        let is_so = match from {
            Some(from) if *from == own.job_no => was_from.is_none() && !is_got,
            Some(from) => was_from == Some(*from),
            None => is_got,
        };
        if is_so {
            continue;
        }
        if let Some(was) = was_from
            && let Some(there) = others.iter().find(|o| o.job_no == was)
        {
            up.acts
                .extend(put_back(there, part, own.job_no).map(|act| (was, act)));
        }
        let here = if *from == Some(own.job_no) {
            own_again(own.entries, part)
        } else {
            let there = from.map(|from| {
                let mut others = others.iter();
                others
                    .find(|o| o.job_no == from)
                    .ok_or_else(|| Refusal::missing(format!("There is no job {from}.")))
            });
            let taking = taken(own, there.transpose()?, part)?;
            up.acts.extend(from.zip(taking.there));
            vec![taking.here]
        };
        let changed = match here.last() {
            Some(PartAct::Found(finding)) => Some(finding.clone()),
            _ => found.cloned(),
        };
        up.changed.extend(changed);
        up.from.push((part.to_owned(), None));
        up.acts
            .extend(here.into_iter().map(|act| (own.job_no, act)));
    }
    let own_acts = up.acts.iter().filter(|(job, _)| *job == own.job_no);
    let after: Vec<PartEntry> = own
        .entries
        .iter()
        .cloned()
        .chain(own_acts.map(|(_, act)| PartEntry {
            act: act.clone(),
            who: String::new(),
            at: DateTime::UNIX_EPOCH,
        }))
        .collect();
    let now = findings(&after);
    for (part, from) in &mut up.from {
        *from = now.get(part.as_str()).and_then(|f| f.from);
    }
    Ok(up)
}

/// What people call a box that parts come out of.
fn told(from: &DismantledBox<'_>) -> String {
    format!("job {}, {}", from.job_no, from.title)
}

/// Whether a part of a box can go into that of another job.
fn may_go(
    from: &DismantledBox<'_>,
    own: &DismantledBox<'_>,
    (part, name): (&str, &str),
) -> Ruled<()> {
    let parts = from.parts(own.sheet, false);
    let used = &parts[part];
    let where_from = told(from);
    if let Some(to) = used.given_to {
        return Err(Refusal::conflict(
            "given",
            if to == own.job_no {
                format!("{name} of {where_from} is in this box already.")
            } else {
                format!(
                    "{name} of {where_from} has gone into the box of job {to} meanwhile. Look at the boxes again."
                )
            },
        ));
    }
    let why_not = match used.state {
        UsedState::Sound | UsedState::Worn => return Ok(()),
        UsedState::NotLookedAt => "nobody has looked at it: look at it first",
        UsedState::NoGood => "it is no good",
        UsedState::Missing => "it was missing",
        UsedState::Given => "it has gone into another box",
        UsedState::Another => "that build has another part there",
        UsedState::Gone => "it went with its box",
    };
    Err(Refusal::conflict(
        "not-usable",
        format!("{name} of {where_from} cannot be taken: {why_not}."),
    ))
}

/// What goes on the record of a box whose part stands in that of another job again, because what was said there since does
/// not count any more.
///
/// # Errors
/// Where that part is in a third box by now, or gone.
pub fn given_again(
    own: &DismantledBox<'_>,
    from: &DismantledBox<'_>,
    part: &str,
) -> Ruled<PartAct> {
    let name = own.sheet.name_of_part(part).unwrap_or(part);
    may_go(from, own, (part, name)).map_err(|refusal| Refusal {
        message: format!(
            "What stood before cannot stand again: {} Say what goes in instead.",
            in_sentence(&refusal.message)
        ),
        ..refusal
    })?;
    Ok(PartAct::Given {
        part: part.to_owned(),
        to: own.job_no,
    })
}

/// What goes on record where a box is to have its own part again: everything that was taken from other boxes since does not
/// count, or else what was said last.
#[must_use]
pub fn own_again(entries: &[PartEntry], part: &str) -> Vec<PartAct> {
    let stands = standing(entries);
    let said = stands.get(part).map_or(&[][..], Vec::as_slice);
    let of_others = |state: PartState| state == PartState::FromAnother;
    let since = said
        .iter()
        .rev()
        .map(|(finding, _)| finding.state)
        .take_while(|state| of_others(*state) || state.is_got());
    let taken = since.enumerate().filter(|(_, state)| of_others(*state));
    let back = PartAct::TakenBack {
        part: part.to_owned(),
        why: String::new(),
    };
    vec![back; taken.last().map_or(0, |(at, _)| at) + 1]
}

/// What goes on the record of a box whose part is in another now, where that box does without it; none where it does not
/// have it.
#[must_use]
pub fn put_back(from: &DismantledBox<'_>, part: &str, job_no: i32) -> Option<PartAct> {
    let given = whereabouts(from.entries).given;
    (given.get(part) == Some(&job_no)).then(|| PartAct::GivenBack {
        part: part.to_owned(),
    })
}

/// What goes on record where parts of a box are put on the shelf: all that are sound and not in another box, or those that
/// are named.
///
/// # Errors
/// Where no place is named, or there is nothing to put there.
pub fn shelved(of: &DismantledBox<'_>, only: &[String], place: &str) -> Ruled<Vec<PartAct>> {
    let place = place.trim();
    if place.is_empty() || place.chars().count() > LONGEST_PLACE {
        return Err(Refusal::field(
            "place",
            format!(
                "Say where they lie, in up to {LONGEST_PLACE} letters, such as “shelf 2, blue bin”."
            ),
        ));
    }
    let parts = of.parts(of.sheet, false);
    for key in only {
        let Some(used) = parts.get(key) else {
            return Err(Refusal::missing(format!(
                "The sheet of this box has no part “{key}”."
            )));
        };
        if !used.is_usable() || used.given_to.is_some() {
            let name = of.sheet.name_of_part(key).unwrap_or(key);
            return Err(Refusal::field(
                "parts",
                format!(
                    "Only sound parts that are here go on the shelf: {} is not one.",
                    in_sentence(name)
                ),
            ));
        }
    }
    let cards = of.sheet.part_cards();
    let going = cards.iter().filter(|card| {
        let used = &parts[&card.key];
        let wanted = only.is_empty() || only.contains(&card.key);
        // What stands there is not taken up.
        wanted && used.is_usable() && used.given_to.is_none() && used.place != place
    });
    let acts: Vec<PartAct> = going
        .map(|card| PartAct::Shelved {
            part: card.key.clone(),
            place: place.to_owned(),
        })
        .collect();
    if acts.is_empty() {
        return Err(Refusal::conflict(
            "nothing-sound",
            "Nothing of this box can go there: look its parts over first, and say which are sound.",
        ));
    }
    Ok(acts)
}

/// What goes on record where parts of a box are not on the shelf any more.
///
/// # Errors
/// Where one of them does not lie there.
pub fn off_shelf(of: &DismantledBox<'_>, parts: &[String]) -> Ruled<Vec<PartAct>> {
    let at = whereabouts(of.entries).shelf;
    let acts = parts.iter().map(|key| {
        if !at.contains_key(key.as_str()) {
            let name = of.sheet.name_of_part(key).unwrap_or(key);
            return Err(Refusal::field(
                "parts",
                format!("{name} of job {} does not lie on the shelf.", of.job_no),
            ));
        }
        Ok(PartAct::OffShelf { part: key.clone() })
    });
    acts.collect()
}
