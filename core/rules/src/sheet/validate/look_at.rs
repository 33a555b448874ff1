//! Where to look first for a complaint: parts that are there, in a gear that is there.

use super::Faults;
use crate::sheet::Sheet;

impl Faults {
    pub(super) fn look_at(&mut self, sheet: &Sheet) {
        for (i, look) in sheet.look_at.iter().enumerate() {
            let place = format!("/look_at/{i}");
            let gear = &look.gear;
            if !gear.is_empty() && !look.symptom.in_a_gear() {
                self.add(
                    format!("{place}/gear"),
                    format!(
                        "a box that {} does so in every gear: take the gear out",
                        look.symptom.words("")
                    ),
                );
            } else if !gear.is_empty() && sheet.gears.iter().all(|g| g.name != *gear) {
                self.add(
                    format!("{place}/gear"),
                    format!("the sheet has no gear “{gear}”"),
                );
            }
            for (p, key) in look.parts.iter().enumerate() {
                let place = format!("{place}/parts/{p}");
                if look.parts[..p].contains(key) {
                    self.add(place, "it is named twice");
                } else {
                    self.part_there(sheet, place, key);
                }
            }
        }
    }
}
