//! In what condition a part may be, in the words of a bench, by its kind; a shop adds its own.

use crate::sheet::{ItemKind, PartKind, Sheet};

const GEAR: &[&str] = &[
    "pitted",
    "chipped",
    "rounded dogs",
    "worn cone",
    "worn bore",
];
const BEARING: &[&str] = &["rough", "blued", "spun in its bore", "cage bent", "pitted"];
const RING: &[&str] = &["worn", "glazed", "bent", "broken"];
const FORK: &[&str] = &["thin", "blued", "bent", "worn pads"];
const SHAFT: &[&str] = &["scored", "splines stepped", "thread pulled", "bent"];
const CASE: &[&str] = &["cracked", "bore worn", "joint bruised", "thread pulled"];
const SPRING: &[&str] = &["short", "broken", "bent"];
const SEAL: &[&str] = &["hard", "torn", "leaked"];
const PLATE: &[&str] = &["burnt", "worn", "coned", "glazed", "scored"];
const WASHER: &[&str] = &["scored", "worn thin", "cracked"];
const HUB: &[&str] = &["splines stepped", "keyways worn", "cracked"];
const DRUM: &[&str] = &["scored", "groove worn", "cracked", "blued"];
const PIECE: &[&str] = &["worn", "flat on one side", "bent", "rusted"];
const PUMP: &[&str] = &["scored", "worn", "relief valve stuck"];
const OTHER: &[&str] = &["worn", "bent", "cracked", "scored"];

/// The words for a part on a rail.
const fn of_part(kind: PartKind) -> &'static [&'static str] {
    match kind {
        PartKind::Bearing | PartKind::TaperBearing | PartKind::NeedleBearing => BEARING,
        PartKind::Gear | PartKind::Planet => GEAR,
        PartKind::Hub | PartKind::Sleeve => HUB,
        PartKind::Washer | PartKind::Shim | PartKind::Spacer | PartKind::ThrustPlate => WASHER,
        PartKind::SnapRing => RING,
        PartKind::PressurePlate | PartKind::Friction | PartKind::Steel | PartKind::WavePlate => {
            PLATE
        }
        PartKind::Drum | PartKind::DiffCase => DRUM,
        PartKind::Seal => SEAL,
        PartKind::Housing | PartKind::Retainer => CASE,
        PartKind::Collar => SHAFT,
    }
}

/// The words for an item off the rails.
const fn of_item(kind: ItemKind) -> &'static [&'static str] {
    match kind {
        ItemKind::Seal | ItemKind::Gasket => SEAL,
        ItemKind::Ring => RING,
        ItemKind::Spring => SPRING,
        ItemKind::Ball | ItemKind::Key | ItemKind::Roller | ItemKind::Pin => PIECE,
        ItemKind::Fork => FORK,
        ItemKind::SelectorDrum | ItemKind::Rod => SHAFT,
        ItemKind::Cover => CASE,
        ItemKind::Piston | ItemKind::Pump => PUMP,
        ItemKind::Fastener | ItemKind::Other => OTHER,
    }
}

/// So many words of the shop's own are offered beside the usual ones.
const MOST_OWN: usize = 6;

/// The words to choose from for a part: the usual ones of its kind, then what the shop has said itself of parts of that
/// kind, the commonest first; `used` are those words, each with the part that it was said of.
#[must_use]
pub fn offered_words(sheet: &Sheet, key: &str, used: &[(String, String)]) -> Vec<String> {
    let usual = condition_words(sheet, key);
    let mut own: Vec<&str> = Vec::new();
    for (part, word) in used {
        let word = word.as_str();
        let new = !usual.contains(&word) && !own.contains(&word);
        if new && own.len() < MOST_OWN && condition_words(sheet, part) == usual {
            own.push(word);
        }
    }
    let all = usual.iter().copied().chain(own);
    all.map(str::to_owned).collect()
}

/// In what condition a part or an item may be, the commonest words of the bench first; none for one that the sheet does not
/// have.
///
/// Common practice, no source.
#[must_use]
pub fn condition_words(sheet: &Sheet, key: &str) -> &'static [&'static str] {
    let mut parts = sheet.shafts.iter().flat_map(|s| &s.parts);
    let mut items = sheet.items.iter();
    let part = parts.find(|p| p.key == key).map(|p| of_part(p.kind));
    part.or_else(|| items.find(|i| i.key == key).map(|i| of_item(i.kind)))
        .unwrap_or(&[])
}
