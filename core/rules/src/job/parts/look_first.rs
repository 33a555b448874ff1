//! Which parts to look at first for what a customer complains of.

use std::collections::BTreeMap;

use serde::Serialize;

use super::record::{Finding, PartEntry, standing};
use crate::job::intake::Complaint;
use crate::sheet::{ItemKind, PartKind, Sheet, Symptom};
use crate::texts::in_sentence;

/// More parts than these are no longer the first ones.
const MOST_PARTS: usize = 12;

/// What was found of an earlier box of the same sheet.
#[derive(Clone, Debug, PartialEq)]
pub struct EarlierBox {
    pub complaints: Vec<Complaint>,
    pub entries: Vec<PartEntry>,
}

/// What to look at first for one complaint.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct LookFirst {
    /// The complaint as people say it.
    pub complaint: String,
    /// How many earlier boxes came in with it and were looked at.
    pub earlier: usize,
    /// The parts, the likeliest first.
    pub parts: Vec<LookPart>,
}

/// A part to look at first.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct LookPart {
    /// The part's key.
    pub part: String,
    /// What people call it, with its shaft where another has the same name.
    pub name: String,
    /// Why: what was found on earlier boxes, what the sheet says, what power goes through.
    pub why: Vec<String>,
    /// What was found of it on this box; none where nobody has looked.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub found: Option<String>,
    /// It explains the complaint: it does not go back as it was, or something is wrong with it.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub explains: bool,
}

/// What to look at first for each complaint: what was found on earlier boxes with it, most often first; then what the sheet
/// says; then what the teeth and the kinds of parts say.
pub(super) fn look_first(
    sheet: &Sheet,
    complaints: &[Complaint],
    earlier: &[EarlierBox],
    found: &impl Fn(&str) -> Option<Finding>,
) -> Vec<LookFirst> {
    complaints
        .iter()
        .map(|complaint| {
            let (boxes, often) = on_earlier_boxes(complaint, earlier);
            let mut list = List {
                sheet,
                parts: Vec::new(),
            };
            for (part, why) in often {
                list.add(part, why);
            }
            for look in &sheet.look_at {
                let fits = look.symptom == complaint.symptom
                    && (look.gear.is_empty() || look.gear == complaint.gear);
                for part in look.parts.iter().filter(|_| fits) {
                    let said = if look.what.is_empty() {
                        "the sheet says so"
                    } else {
                        &look.what
                    };
                    list.add(part, said.to_owned());
                }
            }
            for (part, why) in by_the_teeth(sheet, complaint) {
                list.add(part, why);
            }
            // What every box of the kind is looked at for says less than what is said of this one.
            if list.parts.is_empty() {
                for part in by_kind(sheet, complaint.symptom) {
                    list.add(part, "usual for this complaint".to_owned());
                }
            }
            list.parts.truncate(MOST_PARTS);
            for look in &mut list.parts {
                let Some(finding) = found(&look.part) else {
                    continue;
                };
                look.explains = finding.is_of_a_fault();
                look.found = Some(in_words(&finding));
            }
            LookFirst {
                complaint: complaint.words(),
                earlier: boxes,
                parts: list.parts,
            }
        })
        .collect()
}

/// Parts with why each is named, in the order in which they were named first.
struct List<'a> {
    sheet: &'a Sheet,
    parts: Vec<LookPart>,
}

impl List<'_> {
    fn add(&mut self, part: &str, why: String) {
        if let Some(there) = self.parts.iter_mut().find(|p| p.part == part) {
            if !there.why.contains(&why) {
                there.why.push(why);
            }
        } else if let Some(name) = self.sheet.told_apart(part) {
            self.parts.push(LookPart {
                part: part.to_owned(),
                name,
                why: vec![why],
                found: None,
                explains: false,
            });
        }
    }
}

/// What was found of a part, in a line.
fn in_words(finding: &Finding) -> String {
    let mut said = finding.conditions.clone();
    said.push(finding.state.words().to_owned());
    said.extend((!finding.why.is_empty()).then(|| finding.why.clone()));
    said.join(", ")
}

/// How many earlier boxes came in with a complaint and were looked at; and each part in which something was found on one of
/// them, most often first.
fn on_earlier_boxes<'a>(
    complaint: &Complaint,
    earlier: &'a [EarlierBox],
) -> (usize, Vec<(&'a str, String)>) {
    let alike = |c: &Complaint| {
        c.symptom == complaint.symptom && (complaint.gear.is_empty() || c.gear == complaint.gear)
    };
    let mut boxes = 0;
    let mut often: BTreeMap<&str, (usize, BTreeMap<&str, usize>)> = BTreeMap::new();
    for one in earlier.iter().filter(|b| b.complaints.iter().any(alike)) {
        let stands = standing(&one.entries);
        let last = stands
            .iter()
            .filter_map(|(part, of)| Some((*part, of.last()?.0)));
        let mut looked_at = false;
        for (part, finding) in last {
            looked_at = true;
            if !finding.is_of_a_fault() {
                continue;
            }
            let (count, words) = often.entry(part).or_default();
            *count += 1;
            for word in &finding.conditions {
                *words.entry(word).or_default() += 1;
            }
        }
        boxes += usize::from(looked_at);
    }
    let mut often: Vec<_> = often.into_iter().collect();
    often.sort_by_key(|(_, (count, _))| std::cmp::Reverse(*count));
    let said = often.into_iter().map(|(part, (count, words))| {
        let mut words: Vec<(&str, usize)> = words.into_iter().collect();
        words.sort_by_key(|(_, times)| std::cmp::Reverse(*times));
        let words: Vec<&str> = words.into_iter().map(|(word, _)| word).collect();
        let what = if words.is_empty() {
            "changed".to_owned()
        } else {
            words.join(", ")
        };
        (
            part,
            format!("on {count} of {boxes} earlier boxes with this: {what}"),
        )
    });
    let said: Vec<_> = said.collect();
    (boxes, said)
}

/// The gears that power goes through in the gear complained of and not in every other: where it jumps out, grates, whines or
/// knocks, it does so there.
fn by_the_teeth<'a>(sheet: &'a Sheet, complaint: &Complaint) -> Vec<(&'a str, String)> {
    use Symptom::{Grates, JumpsOut, Knocks, Whines};
    let (symptom, gear) = (complaint.symptom, &complaint.gear);
    if !matches!(symptom, JumpsOut | Grates | Whines | Knocks) {
        return Vec::new();
    }
    let Some(path) = sheet.gears.iter().find(|g| g.name == *gear) else {
        return Vec::new();
    };
    let others = |part: &String| -> Vec<&str> {
        let with = sheet.gears.iter().filter(|g| g.name != *gear);
        with.filter(|g| g.pairs.iter().flatten().any(|p| p == part))
            .map(|g| g.name.as_str())
            .collect()
    };
    let mut through: Vec<(&String, Vec<&str>)> = path
        .pairs
        .iter()
        .flatten()
        .map(|p| (p, others(p)))
        .filter(|(_, others)| others.len() + 1 < sheet.gears.len().max(2))
        .collect();
    through.sort_by_key(|(_, others)| others.len());
    let gear = in_sentence(gear);
    let said = through.into_iter().map(|(part, others)| {
        let why = if others.is_empty() {
            format!("power goes through it in {gear} and in no other gear")
        } else {
            format!(
                "power goes through it in {gear}, as in {}",
                others.join(", ")
            )
        };
        (part.as_str(), why)
    });
    said.collect()
}

/// The parts that are usually looked at for a complaint, by their kind. Common practice, no source.
fn by_kind(sheet: &Sheet, symptom: Symptom) -> Vec<&str> {
    use ItemKind as I;
    use PartKind as P;
    let (parts, items): (&[PartKind], &[ItemKind]) = match symptom {
        Symptom::Growls => (
            &[P::Bearing, P::TaperBearing, P::NeedleBearing],
            &[I::Roller],
        ),
        Symptom::Leaks => (&[P::Seal], &[I::Seal, I::Gasket, I::Cover]),
        Symptom::JumpsOut => (&[P::Hub, P::Sleeve], &[I::Fork, I::Spring, I::Ball]),
        Symptom::WillNotSelect | Symptom::StiffLever => (
            &[],
            &[I::Fork, I::Rod, I::SelectorDrum, I::Spring, I::Ball, I::Pin],
        ),
        Symptom::Grates => (&[P::Hub, P::Sleeve], &[I::Ring]),
        Symptom::Whines | Symptom::Knocks => (&[P::Gear, P::Planet], &[]),
        Symptom::Slips | Symptom::NoDrive | Symptom::NoDriveHot | Symptom::NoDriveCold => (
            &[P::Friction, P::Steel, P::Drum],
            &[I::Pump, I::Piston, I::Ring],
        ),
        Symptom::Drags => (
            &[P::Friction, P::Steel, P::WavePlate],
            &[I::Spring, I::Piston],
        ),
        Symptom::BangsIn => (&[P::WavePlate], &[I::Piston, I::Spring, I::Ring]),
    };
    let on_rails = sheet.shafts.iter().flat_map(|s| &s.parts);
    let on_rails = on_rails.filter(|p| parts.contains(&p.kind)).map(|p| &p.key);
    let off = sheet.items.iter().filter(|i| items.contains(&i.kind));
    on_rails
        .chain(off.map(|i| &i.key))
        .map(String::as_str)
        .collect()
}
