//! Builds of a box, and the questions that tell them apart: each build is a whole sheet by itself.

use std::collections::BTreeMap;

use anvil_arithmetic::verdict::window::WindowError;

use super::{Fault, Faults};
use crate::sheet::variant::Scoped;
use crate::sheet::{Identify, IdentifyKind, Sheet, Tells};

/// The faults of each build, at their places in the whole sheet; what is so in some builds only says in which.
pub(super) fn of_each_build(sheet: &Sheet, whole: impl Fn(&Sheet) -> Vec<Fault>) -> Vec<Fault> {
    let mut found: BTreeMap<(String, String), Vec<&str>> = BTreeMap::new();
    let mut order = Vec::new();
    for variant in &sheet.variants {
        let (built, kept) = sheet.built(&variant.key);
        for fault in whole(&built) {
            let id = (kept.in_whole(&fault.place), fault.message);
            let builds = found.entry(id.clone()).or_default();
            if builds.is_empty() {
                order.push(id);
            }
            if !builds.contains(&variant.name.as_str()) {
                builds.push(&variant.name);
            }
        }
    }
    let told = |id: (String, String)| {
        let builds = &found[&id];
        let (place, message) = id;
        let message = if builds.len() == sheet.variants.len() {
            message
        } else {
            format!("in {}: {message}", builds.join(" and "))
        };
        Fault { place, message }
    };
    order.into_iter().map(told).collect()
}

impl Faults {
    pub(super) fn variants(&mut self, sheet: &Sheet) {
        let keys = sheet.variants.iter().enumerate();
        self.unique(
            "variant",
            keys.map(|(i, v)| (format!("/variants/{i}/key"), v.key.as_str())),
        );
        let names = sheet.variants.iter().enumerate();
        self.unique_name(
            "variant",
            names.map(|(i, v)| (format!("/variants/{i}/name"), &v.name)),
        );
        for (s, shaft) in sheet.shafts.iter().enumerate() {
            self.scopes(sheet, &format!("/shafts/{s}/parts"), &shaft.parts);
            for variant in &sheet.variants {
                if !shaft.parts.iter().any(|p| p.is_in(&variant.key)) {
                    self.add(
                        format!("/shafts/{s}/parts"),
                        format!(
                            "in {} nothing is on this shaft: it carries a part in every build",
                            variant.name
                        ),
                    );
                }
            }
        }
        for variant in &sheet.variants {
            if !sheet.checks.iter().any(|c| c.is_in(&variant.key)) {
                self.add(
                    "/checks",
                    format!("{} has no check: it has at least one", variant.name),
                );
            }
        }
        self.scopes(sheet, "/families", &sheet.families);
        self.scopes(sheet, "/checks", &sheet.checks);
        self.scopes(sheet, "/packs", &sheet.packs);
        self.scopes(sheet, "/items", &sheet.items);
        self.scopes(sheet, "/gears", &sheet.gears);
        self.scopes(sheet, "/build", &sheet.build);
        for (c, check) in sheet.checks.iter().enumerate() {
            let mut taken: Vec<&str> = Vec::new();
            for (w, own) in check.windows.iter().enumerate() {
                let place = format!("/checks/{c}/windows/{w}/only_in");
                self.variants_there(sheet, &place, &own.only_in);
                for (v, key) in own.only_in.iter().enumerate() {
                    if taken.contains(&key.as_str()) {
                        self.add(
                            format!("{place}/{v}"),
                            "this variant has a window of its own already: keep one of them",
                        );
                    }
                    taken.push(key);
                }
            }
            if !check.windows.is_empty() && check.window.is_none() {
                self.add(
                    format!("/checks/{c}/windows"),
                    "a check with a window for some variants has one for the rest: fill it in",
                );
            }
        }
        self.identify(sheet);
    }

    fn scopes<T: Scoped>(&mut self, sheet: &Sheet, place: &str, all: &[T]) {
        for (i, of) in all.iter().enumerate() {
            self.variants_there(sheet, &format!("{place}/{i}/only_in"), of.only_in());
            self.variants_there(sheet, &format!("{place}/{i}/not_in"), of.not_in());
            if !sheet.variants.is_empty() && sheet.variants.iter().all(|v| !of.is_in(&v.key)) {
                self.add(
                    format!("{place}/{i}"),
                    "it is in none of the variants: name one that has it, or take it out",
                );
            }
        }
    }

    fn variants_there(&mut self, sheet: &Sheet, place: &str, keys: &[String]) {
        for (k, key) in keys.iter().enumerate() {
            let place = format!("{place}/{k}");
            if sheet.variant(key).is_none() {
                self.add(place, format!("the sheet has no variant “{key}”"));
            } else if keys[..k].contains(key) {
                self.add(place, "it is named twice");
            }
        }
    }

    fn identify(&mut self, sheet: &Sheet) {
        let keys = sheet.identify.iter().enumerate();
        self.unique(
            "question",
            keys.map(|(i, q)| (format!("/identify/{i}/key"), q.key.as_str())),
        );
        for (i, question) in sheet.identify.iter().enumerate() {
            for (a, tells) in question.answers.iter().enumerate() {
                let place = format!("/identify/{i}/answers/{a}");
                self.variants_there(sheet, &format!("{place}/only_in"), &tells.only_in);
                self.tells(&place, question, tells);
            }
        }
    }

    /// An answer says what its question asks, and nothing else.
    fn tells(&mut self, place: &str, question: &Identify, tells: &Tells) {
        let limits = tells.at_least.is_some() || tells.at_most.is_some();
        let said = [
            (IdentifyKind::Count, "count", tells.count.is_some()),
            (IdentifyKind::Text, "text", tells.text.is_some()),
            (IdentifyKind::Length, "at_least", limits),
            (IdentifyKind::YesNo, "yes", tells.yes.is_some()),
        ];
        for (kind, field, there) in said {
            match (kind == question.kind, there) {
                (true, false) => self.add(
                    format!("{place}/{field}"),
                    match kind {
                        IdentifyKind::Count => "say how many: a whole number",
                        IdentifyKind::Text => "write the text as it is cast or stamped",
                        IdentifyKind::Length => "say how small or how large it may be",
                        IdentifyKind::YesNo => "say yes or no",
                    },
                ),
                (false, true) => self.add(
                    format!("{place}/{field}"),
                    "this is no answer to the question: take it out, or change the kind of question",
                ),
                _ => {}
            }
        }
        if limits && matches!(tells.window(), Err(WindowError::UpsideDown { .. })) {
            self.add(
                format!("{place}/at_least"),
                "the lower limit is above the upper one: swap them",
            );
        }
    }
}
