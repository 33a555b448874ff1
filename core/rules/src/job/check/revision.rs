//! Moving a job to another revision of its sheet, another build of the box, or another sheet. What was measured stays as it
//! was measured; what it means may change.

use std::sync::Arc;

use anvil_arithmetic::measure::Method;
use serde::{Deserialize, Serialize};

use super::record::Record;
use crate::sheet::{Check, Difference, MeasuredWith, SetBy, Sheet, differences};

/// Which sheet a job is on: its revision, and the build of the box.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct OnSheet {
    pub sheet_key: String,
    pub revision: i32,
    /// The key of the build; empty where the sheet has only one, or it is not known which it is.
    #[serde(default)]
    pub variant: String,
}

/// What moving a job to another revision of its sheet, another build or another sheet would do.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct Revising {
    /// What the job is on.
    pub from: OnSheet,
    /// What is asked about.
    pub to: OnSheet,
    /// That in words: “revision 3”, “17-tooth final drive”.
    pub to_words: String,
    /// What differs.
    pub differences: Vec<Difference>,
    /// The checks that come to the job.
    pub added: Vec<String>,
    /// The checks that leave it; nothing is recorded of them.
    pub gone: Vec<String>,
    /// The signed checks whose window, terms or adjustments change: they are reopened.
    pub reopened: Vec<String>,
    /// Why the job cannot be moved as it stands; none where it can.
    pub hindered: Vec<String>,
}

/// A job beside another sheet.
pub struct Beside {
    /// What it is on.
    pub from: OnSheet,
    /// The other.
    pub to: OnSheet,
    /// The sheet as it is on.
    pub was: Arc<Sheet>,
    /// The sheet as it would be.
    pub now: Arc<Sheet>,
    /// The checks of the sheet that the job has, with all that is recorded of each.
    pub records: Vec<Record>,
}

impl Beside {
    fn name<'a>(&'a self, key: &'a str) -> &'a str {
        let check = self.now.check(key).or_else(|| self.was.check(key));
        check.map_or(key, |c| &c.name)
    }

    /// What the job is on, and the other, in words that tell them apart.
    #[must_use]
    pub fn words(&self) -> (String, String) {
        let (from, to) = (&self.from, &self.to);
        let build = |on: &OnSheet, sheet: &Sheet| {
            let built = sheet.variant(&on.variant).or_else(|| sheet.usual_variant());
            built.map(|v| format!("“{}”", v.name))
        };
        let of = |on: &OnSheet, sheet: &Sheet| {
            let revision = || format!("revision {}", on.revision);
            if from.sheet_key != to.sheet_key {
                let name = format!("the sheet “{}”", sheet.name);
                build(on, sheet).map_or_else(|| name.clone(), |b| format!("{b} of {name}"))
            } else if from.variant == to.variant {
                revision()
            } else {
                let build = build(on, sheet).unwrap_or_else(revision);
                if from.revision == to.revision {
                    build
                } else {
                    format!("{build} of {}", revision())
                }
            }
        };
        (of(from, &self.was), of(to, &self.now))
    }

    /// The checks that the other sheet does not have.
    pub fn gone(&self) -> impl Iterator<Item = &Record> {
        self.records
            .iter()
            .filter(|r| self.now.check(&r.check_key).is_none())
    }

    /// The checks on both, as each has them.
    fn both(&self) -> impl Iterator<Item = (&Record, &Check, &Check)> {
        self.records.iter().filter_map(|r| {
            let key = &r.check_key;
            Some((r, self.was.check(key)?, self.now.check(key)?))
        })
    }

    /// The signed checks that are judged otherwise on the other.
    pub fn reopens(&self) -> impl Iterator<Item = &Record> {
        self.both()
            .filter(|(r, was, now)| {
                let same = was.judged_as(now) && self.was.terms_of(was) == self.now.terms_of(now);
                r.signature().is_some() && !same
            })
            .map(|(r, ..)| r)
    }

    /// Why the job cannot be moved as it stands.
    pub fn hindered(&self) -> Vec<String> {
        let (on, other) = self.words();
        let gone = self.gone().filter(|r| !r.is_blank()).map(|r| {
            format!(
                "{} is not on {other}, and this job has a record of it. Finish this box on {on}.",
                self.name(&r.check_key),
            )
        });
        let drawer = self.both().filter_map(|(r, was, now)| {
            let others = |c: &Check| {
                c.or_set_by
                    .iter()
                    .map(|o| o.family.clone())
                    .collect::<Vec<_>>()
            };
            let of = |c: &Check| {
                c.set_by
                    .as_ref()
                    .map(|s| (s.family.clone(), s.effect, others(c)))
            };
            let chosen = r.open_setting().is_some();
            let fitted = r.fitted_setting().is_some();
            ((chosen || fitted) && of(was) != of(now)).then(|| {
                let what = if chosen { "chosen" } else { "fitted" };
                let then = if chosen {
                    "Let them go first".to_owned()
                } else {
                    format!("Finish this box on {on}")
                };
                format!(
                    "Pieces are {what} for {}, and {other} sets it by others. {then}.",
                    now.name
                )
            })
        });
        let terms = self.both().filter_map(|(r, was, now)| {
            let terms = |sheet: &Sheet, c: &Check| -> Vec<_> {
                let terms = sheet.terms_of(c).into_iter();
                terms.map(|t| (t.what, t.opens)).collect()
            };
            let measured = r.valid_readings().any(|x| x.way == Method::StackSum);
            (measured && terms(&self.was, was) != terms(&self.now, now)).then(|| {
                format!(
                    "Terms of {} are measured, and {other} has other terms. Strike those readings out first.",
                    now.name
                )
            })
        });
        gone.chain(drawer).chain(terms).collect()
    }

    /// What differs; between two builds what they are told by is left out, for that is known.
    fn differences(&self) -> Vec<Difference> {
        if self.from.variant == self.to.variant && self.from.sheet_key == self.to.sheet_key {
            return differences(&self.was, &self.now);
        }
        let of = |sheet: &Sheet| Sheet {
            identify: Vec::new(),
            variants: Vec::new(),
            ..sheet.clone()
        };
        differences(&of(&self.was), &of(&self.now))
    }

    /// What moving it would do.
    pub fn revising(&self) -> Revising {
        let named = |keys: &mut dyn Iterator<Item = &str>| {
            keys.map(|k| self.name(k).to_owned()).collect::<Vec<_>>()
        };
        let had = |key: &str| self.records.iter().any(|r| r.check_key == key);
        let mut added = self.now.checks.iter().map(|c| c.key.as_str());
        Revising {
            from: self.from.clone(),
            to: self.to.clone(),
            to_words: self.words().1,
            differences: self.differences(),
            added: named(&mut added.by_ref().filter(|k| !had(k))),
            gone: named(&mut self.gone().map(|r| r.check_key.as_str())),
            reopened: named(&mut self.reopens().map(|r| r.check_key.as_str())),
            hindered: self.hindered(),
        }
    }
}

/// What is fitted of a check before anything is said of it, in nanometres: nothing, unless it is measured with what came
/// out of the box; then it is not known.
#[must_use]
pub fn fitted_at_first(check: &Check) -> Option<i64> {
    let as_found = |s: &SetBy| s.measured_with == MeasuredWith::AsFound;
    (!check.set_by.as_ref().is_some_and(as_found)).then_some(0)
}
