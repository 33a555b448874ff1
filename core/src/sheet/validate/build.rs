//! Steps of the build.

use super::Faults;
use crate::sheet::Sheet;

impl Faults {
    pub(super) fn build(&mut self, sheet: &Sheet) {
        self.unique(
            "step",
            sheet
                .build
                .iter()
                .enumerate()
                .map(|(i, s)| (format!("/build/{i}/key"), s.key.as_str())),
        );
        for (i, step) in sheet.build.iter().enumerate() {
            for (h, key) in step.hold.iter().enumerate() {
                if sheet.check(key).is_none() {
                    self.add(
                        format!("/build/{i}/hold/{h}"),
                        format!("no check has the key “{key}”"),
                    );
                }
            }
        }
        let waits: Vec<_> = sheet
            .build
            .iter()
            .map(|s| (s.key.as_str(), s.needs.as_slice()))
            .collect();
        self.order("step", &waits, |i, n| format!("/build/{i}/needs/{n}"));
    }
}
