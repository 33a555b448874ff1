//! What comes out to get at something again, and what that costs.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::refusal::{Refusal, Ruled};
use serde::Serialize;

use super::{Build, BuildAct, HoldOf};
use crate::sheet::{Check, PartKind};

/// What somebody wants to get at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Target<'a> {
    /// A step, by its key.
    Step(&'a str),
    /// A part or an item.
    Part(&'a str),
    /// The pieces of a check, or what it is measured on.
    Check(&'a str),
}

/// What it takes to get at something again.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct TearBack {
    /// The key of the step that comes out last.
    pub to: String,
    /// What that step does.
    pub what: String,
    /// The steps that come out, the last done first, by their places in the list. They all go back in.
    pub out: Vec<usize>,
    /// How long they take to go back in, in minutes; none where a time is not known.
    pub back_in_minutes: Option<f64>,
    /// All of those times are the shop's own.
    pub by_own_times: bool,
    /// What has to be new when it goes back.
    pub new_again: Vec<String>,
    /// The signed checks that are due again.
    pub falls: Vec<Falls>,
    /// The questions that are asked again.
    pub asked_again: Vec<String>,
    /// What was passed over and stays so.
    pub passed_over: Vec<String>,
}

/// A signed check that is due again.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Falls {
    pub check: String,
    /// What people call it.
    pub name: String,
    pub signed_by: String,
}

impl Build<'_> {
    /// The step that has to come out to get at something: the one that puts it in, or where a check is made.
    ///
    /// # Errors
    /// Where no step puts it in, or there is no such thing.
    pub fn step_to(&self, target: Target<'_>) -> Ruled<usize> {
        let puts = |key: &str| {
            let mut steps = self.sheet.build.iter();
            steps.position(|s| s.puts.iter().any(|p| p == key))
        };
        match target {
            Target::Step(key) => self.place(key),
            Target::Part(key) => puts(key).ok_or_else(|| {
                Refusal::missing(match self.sheet.name_of_part(key) {
                    Some(name) => format!("No step of the build puts {name} in."),
                    None => format!("The sheet has no part “{key}”."),
                })
            }),
            Target::Check(key) => {
                let check = self.sheet.check(key);
                let part = check.and_then(|c| c.set_by.as_ref()?.part.as_deref());
                let held = || {
                    let mut steps = self.sheet.build.iter();
                    steps.position(|s| s.hold.iter().any(|h| h == key))
                };
                part.and_then(puts).or_else(held).ok_or_else(|| {
                    Refusal::missing(format!(
                        "No step of the build puts in what sets “{key}”, or is held for it."
                    ))
                })
            }
        }
    }

    /// What it takes to get at a step again, with the shop's own times where it has them.
    ///
    /// # Errors
    /// As of [`Build::step_to`].
    pub fn tear_back(
        &self,
        target: Target<'_>,
        own_times: &BTreeMap<String, f64>,
    ) -> Ruled<TearBack> {
        let to = self.step_to(target)?;
        let out = self.comes_out(to);
        let steps = || out.iter().map(|at| self.step(*at));
        let time = |key: &String, sheet: Option<f64>| own_times.get(key).copied().or(sheet);
        let back_in_minutes = steps().map(|s| time(&s.key, s.minutes)).sum();
        let new_again = self.new_again(&out);
        let falls = self.falls_with(&out, &new_again);
        let on_out = |of: &HoldOf| match of {
            HoldOf::Proof { step, .. } => steps().any(|s| s.key == *step),
            HoldOf::Check { check } => steps().any(|s| s.hold.contains(check)),
        };
        let answered = self.standing.answers.keys();
        let asked_again = answered
            .filter(|(step, _)| steps().any(|s| s.key == *step))
            .map(|(_, ask)| ask.clone())
            .collect();
        let passed = self.standing.passed.iter().filter(|(of, _)| on_out(of));
        Ok(TearBack {
            to: self.step(to).key.clone(),
            what: self.step(to).what.clone(),
            by_own_times: steps().all(|s| own_times.contains_key(&s.key)),
            passed_over: passed.map(|(of, _)| self.name_of_hold(of)).collect(),
            new_again: new_again.into_iter().map(|n| n.1).collect(),
            out,
            back_in_minutes,
            falls,
            asked_again,
        })
    }

    /// The signed checks that are due again once something is done: those that were held on a step that comes out, and
    /// those that rest on what has to be new.
    #[must_use]
    pub fn falls_by(&self, act: &BuildAct) -> Vec<Falls> {
        let BuildAct::TornBack { to, .. } = act else {
            return Vec::new();
        };
        let out = self.place(to).map(|at| self.comes_out(at));
        let out = out.unwrap_or_default();
        self.falls_with(&out, &self.new_again(&out))
    }

    fn falls_with(&self, out: &[usize], new_again: &[(String, String)]) -> Vec<Falls> {
        let fresh: BTreeSet<&str> = new_again.iter().map(|n| n.0.as_str()).collect();
        let falls = self.checks.iter().filter_map(|fact| {
            let signed_by = fact.signed_by.clone()?;
            let check = self.sheet.check(&fact.key)?;
            let mut steps = out.iter().map(|at| self.step(*at));
            let held = steps.any(|s| s.hold.contains(&fact.key));
            let renewed = || !self.sheet.rests_on(check).is_disjoint(&fresh);
            (held || renewed()).then(|| Falls {
                check: fact.key.clone(),
                name: check.name.clone(),
                signed_by,
            })
        });
        falls.collect()
    }

    /// How many steps come out to change the pieces that set a check, by the key of their family.
    #[must_use]
    pub fn steps_out(&self, check: &Check) -> BTreeMap<String, usize> {
        let count = |target| {
            let to = self.step_to(target).ok()?;
            Some(self.comes_out(to).len())
        };
        let at_check = count(Target::Check(&check.key)).unwrap_or(0);
        let first = check.set_by.iter().map(|s| (s.family.clone(), at_check));
        let others = check.or_set_by.iter().map(|other| {
            let part = other.part.as_deref().map(Target::Part);
            (
                other.family.clone(),
                part.and_then(count).unwrap_or(at_check),
            )
        });
        first.chain(others).collect()
    }

    /// The done steps that come out to get at one again, that one last.
    pub(super) fn comes_out(&self, to: usize) -> Vec<usize> {
        let mut out = self.graph.tear_back(&self.in_place, to);
        if self.in_place.contains(&to) {
            out.push(to);
        }
        out
    }

    /// What has to be new when these steps go back: keys of parts, where it is a part, and what people call it.
    fn new_again(&self, out: &[usize]) -> Vec<(String, String)> {
        let mut found: Vec<(String, String)> = Vec::new();
        let parts = || self.sheet.shafts.iter().flat_map(|s| &s.parts);
        for step in out.iter().map(|at| self.step(*at)) {
            for key in &step.puts {
                let part = parts().find(|p| p.key == *key);
                // A shim or a ring that is chosen is always another or the same; it is not used up.
                let part = part.filter(|p| p.always_new && p.kind != PartKind::Shim);
                let item = self.sheet.items.iter();
                let item = item.filter(|i| i.always_new).find(|i| i.key == *key);
                let name = part.map(|p| &p.name).or(item.map(|i| &i.name));
                found.extend(name.map(|n| (key.clone(), n.clone())));
            }
            let said = step.new_again.iter();
            found.extend(said.map(|what| (String::new(), what.clone())));
            if step.fasteners.as_ref().is_some_and(|f| f.new) {
                found.push((String::new(), format!("bolts of “{}”", step.what)));
            }
        }
        found
    }
}
