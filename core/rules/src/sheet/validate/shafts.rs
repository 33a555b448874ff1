//! Shafts and parts: keys that differ, widths that are lengths, mates that are there.

use std::collections::BTreeMap;

use super::Faults;
use crate::sheet::{PartKind, Sheet};

impl Faults {
    /// Checks the parts and returns which shaft each is on.
    pub(super) fn parts<'a>(&mut self, sheet: &'a Sheet) -> BTreeMap<&'a str, usize> {
        self.unique(
            "shaft",
            sheet
                .shafts
                .iter()
                .enumerate()
                .map(|(i, s)| (format!("/shafts/{i}/key"), s.key.as_str())),
        );
        let all = || {
            sheet.shafts.iter().enumerate().flat_map(|(s, shaft)| {
                shaft
                    .parts
                    .iter()
                    .enumerate()
                    .map(move |(p, part)| (s, format!("/shafts/{s}/parts/{p}"), part))
            })
        };
        self.unique(
            "part",
            all().map(|(_, place, part)| (format!("{place}/key"), part.key.as_str())),
        );
        for (_, place, part) in all() {
            self.more_than_nothing(format!("{place}/width"), "a part's width", &part.width);
            if let Some(diameter) = &part.diameter {
                self.more_than_nothing(format!("{place}/diameter"), "a part's diameter", diameter);
            }
            self.not_negative(
                format!("{place}/gap_before"),
                "a gap before a part",
                part.gap_before.as_ref(),
            );
            self.not_negative(
                format!("{place}/width_tolerance"),
                "a tolerance (a ± figure)",
                part.width_tolerance.as_ref(),
            );
        }
        let shaft_of: BTreeMap<&str, usize> = all()
            .map(|(shaft, _, part)| (part.key.as_str(), shaft))
            .collect();
        for (shaft, place, part) in all() {
            let Some(mate) = part.mates.as_deref() else {
                continue;
            };
            let place = format!("{place}/mates");
            let other = all().find(|(_, _, other)| other.key == mate);
            match other {
                _ if part.kind != PartKind::Gear => {
                    self.add(
                        place,
                        "only a gear has a mate: take it off, or make it a gear",
                    );
                }
                None => self.add(place, format!("no part has the key “{mate}”")),
                Some((on, _, _)) if on == shaft => self.add(
                    place,
                    "the mate is on the same shaft: a gear meshes with one on another",
                ),
                Some((_, _, other)) if !matches!(other.kind, PartKind::Gear | PartKind::Hub) => {
                    self.add(place, format!("{} has no teeth: name a gear", other.name));
                }
                Some(_) => {}
            }
        }
        for (_, place, part) in all() {
            let Some(mate) = part.kept_with.as_deref() else {
                continue;
            };
            let place = format!("{place}/kept_with");
            if mate == part.key {
                self.add(place, "a part is not kept with itself: name the other");
            } else if !shaft_of.contains_key(mate) {
                self.add(place, format!("no part has the key “{mate}”"));
            }
        }
        shaft_of
    }
}
