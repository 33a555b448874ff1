//! Wear limits: at least one of them, the right way round, and a new part within them.

use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::window::WindowError;

use super::Faults;
use crate::sheet::{Sheet, WearLimit};

impl Faults {
    pub(super) fn wear(&mut self, sheet: &Sheet) {
        for (s, shaft) in sheet.shafts.iter().enumerate() {
            for (p, part) in shaft.parts.iter().enumerate() {
                self.wear_limit(&format!("/shafts/{s}/parts/{p}/wear"), part.wear.as_ref());
            }
        }
        for (i, item) in sheet.items.iter().enumerate() {
            self.wear_limit(&format!("/items/{i}/wear"), item.wear.as_ref());
        }
    }

    fn wear_limit(&mut self, place: &str, limit: Option<&WearLimit>) {
        let Some(limit) = limit else { return };
        let at_least = format!("{place}/at_least");
        match limit.window() {
            Err(WindowError::BothOpen) => self.add(
                at_least,
                "say how small it may be worn, or how large: at least, at most, or both",
            ),
            Err(WindowError::UpsideDown { .. }) => {
                self.add(
                    at_least,
                    "the lower limit is above the upper one: swap them",
                );
            }
            Ok(window) => {
                let new = limit.new.as_ref().map(Written::length);
                if new.is_some_and(|new| !window.holds(new.as_f64())) {
                    self.add(
                        format!("{place}/new"),
                        "a new one would be worn out by this limit: look at both figures",
                    );
                }
            }
        }
    }
}
