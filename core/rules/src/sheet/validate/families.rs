//! Families of selective parts.

use std::collections::BTreeSet;

use super::Faults;
use crate::sheet::Sheet;

impl Faults {
    pub(super) fn families(&mut self, sheet: &Sheet) {
        self.unique(
            "family",
            sheet
                .families
                .iter()
                .enumerate()
                .map(|(i, f)| (format!("/families/{i}/key"), f.key.as_str())),
        );
        for (i, family) in sheet.families.iter().enumerate() {
            self.not_negative(
                format!("/families/{i}/tolerance"),
                "a tolerance (a ± figure)",
                Some(&family.tolerance),
            );
            let mut seen = BTreeSet::new();
            for (s, size) in family.sizes.iter().enumerate() {
                let place = format!("/families/{i}/sizes/{s}/thickness");
                self.more_than_nothing(place.clone(), "a piece's thickness", &size.thickness);
                if !seen.insert(size.thickness.length()) {
                    self.add(
                        place,
                        format!("the size {} is listed twice", size.thickness.length()),
                    );
                }
            }
        }
    }
}
