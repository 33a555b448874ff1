//! The ways that power takes: parts that are there, with teeth, each pair on two shafts, one pair going on from the other.

use super::Faults;
use crate::sheet::{Part, Sheet};

impl Faults {
    pub(super) fn gears(&mut self, sheet: &Sheet) {
        let find = |key: &str| -> Option<(usize, &Part)> {
            let mut shafts = sheet.shafts.iter().enumerate();
            shafts.find_map(|(s, shaft)| {
                let part = shaft.parts.iter().find(|p| p.key == key)?;
                Some((s, part))
            })
        };
        let names = sheet.gears.iter().enumerate();
        self.unique_name(
            "gear",
            names.map(|(i, g)| (format!("/gears/{i}/name"), &g.name)),
        );
        for (i, gear) in sheet.gears.iter().enumerate() {
            let known = sheet.positions.as_ref();
            let position = &gear.position;
            if !position.is_empty() && known.is_some_and(|p| !p.names.contains(position)) {
                self.add(
                    format!("/gears/{i}/position"),
                    format!("the selector has no position “{position}”"),
                );
            }
            let mut before: Option<(usize, &str)> = None;
            for (p, pair) in gear.pairs.iter().enumerate() {
                let mut on = [None, None];
                for (side, key) in pair.iter().enumerate() {
                    let place = format!("/gears/{i}/pairs/{p}/{side}");
                    match find(key) {
                        None => self.add(place, format!("no part has the key “{key}”")),
                        Some((_, part)) if part.teeth.is_none() => self.add(
                            place,
                            format!("{} has no teeth: say how many on its shaft", part.name),
                        ),
                        Some((shaft, _)) => on[side] = Some(shaft),
                    }
                }
                let place = format!("/gears/{i}/pairs/{p}/1");
                if let [Some(driver), Some(driven)] = on {
                    if driver == driven {
                        self.add(
                            place.clone(),
                            "both are on one shaft: a gear meshes with one on another",
                        );
                    }
                    if let [Some(a), Some(b)] = pair.each_ref().map(|key| find(key))
                        && a.1.chain != b.1.chain
                    {
                        self.add(
                            place,
                            format!(
                                "a chain runs on one of {} and {} only: say so of both, or of neither",
                                a.1.name, b.1.name
                            ),
                        );
                    }
                    if let Some((shaft, part)) = before
                        && shaft != driver
                        && part != pair[0]
                    {
                        self.add(
                            format!("/gears/{i}/pairs/{p}/0"),
                            "power does not come to this shaft: the pair before ends on another",
                        );
                    }
                    before = Some((driven, &pair[1]));
                }
            }
        }
    }
}
