//! What is on record of a job's build: facts in their order, of which none is ever changed.

use std::collections::BTreeMap;

use anvil_arithmetic::measure::proof::YesNo;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use super::shift_test::Turns;

/// One fact of a build.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BuildEntry {
    pub act: BuildAct,
    /// Whose fact it is.
    pub who: String,
    pub at: DateTime<Utc>,
}

/// What somebody did.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case", deny_unknown_fields)]
pub enum BuildAct {
    /// A step that takes time was begun: it is in the oven, it soaks, it cures.
    Began {
        /// The step's key.
        step: String,
    },
    /// A step was done.
    Done(StepDone),
    /// A step is not done on this box.
    Skipped {
        /// The step's key.
        step: String,
        why: String,
    },
    /// What was said last of a step was a slip: it was not done, not left out, not begun.
    NotDone {
        /// The step's key.
        step: String,
    },
    /// A step was taken out again.
    Out {
        /// The step's key.
        step: String,
        #[serde(default)]
        why: String,
    },
    /// A question was answered by hand.
    Proved {
        /// The key of the step after which it was asked.
        step: String,
        /// The question.
        ask: String,
        answer: YesNo,
    },
    /// A gear was tried by hand.
    Shifted {
        /// The gear that was selected.
        gear: String,
        /// How it turned; as it should, where nobody counted.
        #[serde(default)]
        turns: Option<Turns>,
    },
    /// A hold was passed over.
    PassedOver { hold: HoldOf, why: String },
    /// It was passed over by a slip: it holds again.
    NotPassedOver { hold: HoldOf },
    /// A question was answered by a slip: nobody has answered it.
    NotAnswered {
        /// The key of the step after which it is asked.
        step: String,
        /// The question.
        ask: String,
    },
    /// A gear was said to have been tried by a slip.
    NotTried { gear: String },
    /// The box is being taken apart to get at a step again.
    TornBack {
        /// The key of the step that is to come out last.
        to: String,
        why: String,
    },
    /// It is not taken apart any further.
    LeftOff {},
}

/// A step that was done, and how.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StepDone {
    /// The step's key.
    pub step: String,
    /// Why it was done otherwise, out of its order, or with something left over.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// The other way in which it was done.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub way: String,
    /// How many of the loose pieces are left over.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub left_over: Option<u32>,
    /// With which wrench it was tightened.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub wrench: String,
    /// How far it was tightened, in newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque_n_m: Option<f64>,
    /// What is worth knowing next time.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// What holds a build.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum HoldOf {
    /// A check that is to be signed.
    Check {
        /// The check's key.
        check: String,
    },
    /// A question that is to be answered.
    Proof {
        /// The key of the step after which it is asked.
        step: String,
        /// The question.
        ask: String,
    },
}

/// Somebody's word, with when.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Word {
    pub said: String,
    pub who: String,
    pub at: DateTime<Utc>,
}

/// How a step stands by the record alone.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct StepRecord {
    /// Since when it is under way.
    pub began: Option<(String, DateTime<Utc>)>,
    pub done: Option<(StepDone, String, DateTime<Utc>)>,
    /// It is left out, and why.
    pub skipped: Option<Word>,
}

/// What the facts of a build come to.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Standing {
    pub steps: BTreeMap<String, StepRecord>,
    /// The steps that are done or left out, in the order in which they were.
    pub order: Vec<String>,
    /// The answers, by step and question.
    pub answers: BTreeMap<(String, String), (YesNo, String, DateTime<Utc>)>,
    pub passed: Vec<(HoldOf, Word)>,
    /// How each gear was tried last, since something came out.
    pub shifted: BTreeMap<String, (Option<Turns>, String)>,
    /// What the box is taken apart to; whatever is done after that ends it.
    pub tearing: Option<(String, Word)>,
}

impl Standing {
    /// What the facts come to, in their order.
    pub fn of(entries: &[BuildEntry]) -> Self {
        let mut standing = Self::default();
        for entry in entries {
            standing.take(entry);
        }
        standing
    }

    fn take(&mut self, entry: &BuildEntry) {
        let word = |said: &str| Word {
            said: said.to_owned(),
            who: entry.who.clone(),
            at: entry.at,
        };
        match &entry.act {
            BuildAct::Began { step } => {
                let record = self.steps.entry(step.clone()).or_default();
                record.began = Some((entry.who.clone(), entry.at));
                self.tearing = None;
            }
            BuildAct::Done(done) => {
                let record = self.steps.entry(done.step.clone()).or_default();
                record.done = Some((done.clone(), entry.who.clone(), entry.at));
                self.order.push(done.step.clone());
                self.tearing = None;
            }
            BuildAct::Skipped { step, why } => {
                let record = self.steps.entry(step.clone()).or_default();
                record.skipped = Some(word(why));
                self.order.push(step.clone());
                self.tearing = None;
            }
            BuildAct::NotDone { step } => {
                self.order.retain(|s| s != step);
                // What was asked after it is asked once it is done.
                self.answers.retain(|(of, _), _| of != step);
                if let Some(record) = self.steps.get_mut(step) {
                    let was_over = record.done.take().is_some() | record.skipped.take().is_some();
                    // What was begun before it was said to be done goes on.
                    if !was_over || record.began.is_none() {
                        self.steps.remove(step);
                    }
                }
            }
            BuildAct::Out { step, .. } => {
                self.steps.remove(step);
                self.order.retain(|s| s != step);
                // What was proven of it is proven no more.
                self.answers.retain(|(of, _), _| of != step);
                self.shifted.clear();
                // What it was taken apart for is out.
                if self.tearing.as_ref().is_some_and(|(to, _)| to == step) {
                    self.tearing = None;
                }
            }
            BuildAct::Proved { step, ask, answer } => {
                let key = (step.clone(), ask.clone());
                let said = (*answer, entry.who.clone(), entry.at);
                self.answers.insert(key, said);
            }
            BuildAct::Shifted { gear, turns } => {
                let tried = (*turns, entry.who.clone());
                self.shifted.insert(gear.clone(), tried);
            }
            BuildAct::PassedOver { hold, why } => {
                self.passed.retain(|(of, _)| of != hold);
                self.passed.push((hold.clone(), word(why)));
            }
            BuildAct::NotPassedOver { hold } => self.passed.retain(|(of, _)| of != hold),
            BuildAct::NotAnswered { step, ask } => {
                self.answers.remove(&(step.clone(), ask.clone()));
            }
            BuildAct::NotTried { gear } => {
                self.shifted.remove(gear);
            }
            BuildAct::TornBack { to, why } => self.tearing = Some((to.clone(), word(why))),
            BuildAct::LeftOff {} => self.tearing = None,
        }
    }
}

/// A shop's own time for a step needs as many of it.
const LEAST_TIMES: usize = 3;
/// Longer than this between two steps somebody did something else, in seconds.
const LONGEST_STEP_S: i64 = 2 * 3_600;

/// Each fact of a build with the one before it; slips apart, and what they were of.
fn windows_that_stand(entries: &[BuildEntry]) -> Vec<[&BuildEntry; 2]> {
    let mut stands: Vec<&BuildEntry> = Vec::with_capacity(entries.len());
    for entry in entries {
        match &entry.act {
            BuildAct::NotDone { step } => {
                let slip = stands.iter().rposition(|e| e.act.said_of() == Some(step));
                if let Some(slip) = slip {
                    stands.remove(slip);
                }
            }
            _ => stands.push(entry),
        }
    }
    stands.windows(2).map(|pair| [pair[0], pair[1]]).collect()
}

impl BuildAct {
    /// Something comes out with it, or is left in after all.
    #[must_use]
    pub const fn takes_apart(&self) -> bool {
        matches!(
            self,
            Self::TornBack { .. } | Self::Out { .. } | Self::LeftOff {}
        )
    }

    /// The step that it says is begun, done or left out.
    pub(super) fn said_of(&self) -> Option<&String> {
        match self {
            Self::Began { step } | Self::Skipped { step, .. } => Some(step),
            Self::Done(done) => Some(&done.step),
            _ => None,
        }
    }
}

/// How long each step takes this shop, in minutes: the middle one of the times between it and what the same person did
/// before it, where there are three or more.
#[must_use]
pub fn own_times(jobs: &[Vec<BuildEntry>]) -> BTreeMap<String, f64> {
    let mut times: BTreeMap<&str, Vec<i64>> = BTreeMap::new();
    for pair in jobs.iter().flat_map(|entries| windows_that_stand(entries)) {
        let [before, after] = pair;
        let BuildAct::Done(done) = &after.act else {
            continue;
        };
        let seconds = (after.at - before.at).num_seconds();
        if before.who == after.who && (1..=LONGEST_STEP_S).contains(&seconds) {
            times.entry(&done.step).or_default().push(seconds);
        }
    }
    let middle = |mut of: Vec<i64>| {
        of.sort_unstable();
        let (low, high) = (of[(of.len() - 1) / 2], of[of.len() / 2]);
        i64::midpoint(low, high) as f64 / 60.0
    };
    times
        .into_iter()
        .filter(|(_, of)| of.len() >= LEAST_TIMES)
        .map(|(step, of)| (step.to_owned(), middle(of)))
        .collect()
}
