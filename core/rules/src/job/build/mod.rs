//! The build of one job: which step comes next, what it waits for, what comes out again to get at something, and what may
//! be said to have been done.

mod record;
mod rules;
mod shift_test;
mod tear_back;
mod undoing;
mod view;

pub use record::{BuildAct, BuildEntry, HoldOf, StepDone, Word, own_times};
pub use shift_test::{GearTurns, Push, ShiftTest, Tried, Turns, gears, gears_that_turn};
pub use tear_back::{Target, TearBack};
pub use view::{
    BuildView, DoneView, HoldView, Next, PartView, SelectorStands, StepState, StepView, Tearing,
    Then, parts,
};

use std::collections::{BTreeMap, BTreeSet};

use chrono::{DateTime, Utc};

use crate::plan::steps::{Readiness, Step, Steps};
use crate::sheet::{Ask, BuildStep, Sheet};
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use record::Standing;

/// What a build has to know of a check.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CheckFact {
    pub key: String,
    /// Who signed it, where it is signed.
    pub signed_by: Option<String>,
    /// It is seen to elsewhere, and holds nothing here.
    pub elsewhere: bool,
}

/// What holds the build at a step.
#[derive(Clone, Debug, PartialEq)]
struct Hold<'a> {
    /// The step's place.
    step: usize,
    of: HoldOf,
    /// The question, where it is one.
    ask: Option<&'a Ask>,
    open: bool,
}

/// The build of a job as it stands.
#[derive(Clone, Debug)]
pub struct Build<'a> {
    sheet: &'a Sheet,
    checks: &'a [CheckFact],
    graph: Steps,
    holds: Vec<Hold<'a>>,
    standing: Standing,
    places: BTreeMap<&'a str, usize>,
    /// The places of the steps that are done or left out, in the order in which they were.
    order: Vec<usize>,
    /// Those that are done, and can come out again.
    in_place: Vec<usize>,
    /// Done steps that the sheet does not have any more.
    gone: Vec<String>,
    /// Which steps are done or left out, by their places.
    done: Vec<bool>,
    readiness: Vec<Readiness>,
    now: DateTime<Utc>,
}

impl<'a> Build<'a> {
    /// The build of a job on a sheet, from its record.
    ///
    /// # Errors
    /// Where the sheet has no steps, or steps that are no build; a sheet that was taken in has none of those.
    pub fn of(
        sheet: &'a Sheet,
        entries: &[BuildEntry],
        checks: &'a [CheckFact],
        now: DateTime<Utc>,
    ) -> Ruled<Self> {
        if sheet.build.is_empty() {
            return Err(Refusal::missing(
                "The sheet of this box has no steps of a build: write them on the sheet, then move the job to its newest revision.",
            ));
        }
        let places: BTreeMap<&str, usize> = sheet
            .build
            .iter()
            .enumerate()
            .map(|(i, s)| (s.key.as_str(), i))
            .collect();
        let standing = Standing::of(entries);
        let place = |key: &String| places.get(key.as_str()).copied();
        let order: Vec<usize> = standing.order.iter().filter_map(place).collect();
        let is_in = |at: &usize| {
            let record = standing.steps.get(&sheet.build[*at].key);
            record.is_some_and(|r| r.done.is_some())
        };
        let in_place = order.iter().copied().filter(is_in).collect();
        let gone = standing.order.iter().filter(|k| place(k).is_none());
        let gone = gone.cloned().collect();
        let holds = holds_of(sheet, &standing, checks);
        let mut steps: Vec<Step> = sheet
            .build
            .iter()
            .map(|s| Step {
                needs: s.needs.iter().filter_map(place).collect(),
                covers: s.covers.iter().filter_map(place).collect(),
                holds: Vec::new(),
            })
            .collect();
        for (number, hold) in holds.iter().enumerate() {
            steps[hold.step].holds.push(number);
        }
        let left_out: BTreeSet<usize> = order.iter().copied().filter(|at| !is_in(at)).collect();
        let mut seen = vec![false; steps.len()];
        for at in 0..steps.len() {
            passes_on(&mut steps, &left_out, &mut seen, at);
        }
        let graph = Steps::new(steps).map_err(Refusal::fault)?;
        let mut done = vec![false; sheet.build.len()];
        for &at in &order {
            done[at] = true;
        }
        let open: Vec<bool> = holds.iter().map(|h| h.open).collect();
        let readiness = graph.readiness(&done, &open);
        Ok(Self {
            sheet,
            checks,
            graph,
            holds,
            standing,
            places,
            order,
            in_place,
            gone,
            done,
            readiness,
            now,
        })
    }

    /// The build with one more step done; who did it is not said.
    fn once_done(&self, at: usize) -> Self {
        let mut then = self.clone();
        then.standing.tearing = None;
        then.order.push(at);
        then.in_place.push(at);
        then.done[at] = true;
        let open: Vec<bool> = then.holds.iter().map(|h| h.open).collect();
        then.readiness = then.graph.readiness(&then.done, &open);
        then
    }

    fn step(&self, at: usize) -> &'a BuildStep {
        &self.sheet.build[at]
    }

    fn place(&self, key: &str) -> Ruled<usize> {
        self.places.get(key).copied().ok_or_else(|| {
            Refusal::missing(format!(
                "The sheet of this job has no step “{key}”: it may be on another revision."
            ))
        })
    }

    fn is_done(&self, at: usize) -> bool {
        self.done[at]
    }

    /// What is left of the time that a step takes, in minutes; none where it was not begun or takes none.
    fn minutes_left(&self, at: usize) -> Option<f64> {
        let wait = self.step(at).wait.as_ref()?;
        let (_, since) = self
            .standing
            .steps
            .get(&self.step(at).key)?
            .began
            .as_ref()?;
        let gone = (self.now - *since).num_milliseconds() as f64 / 60_000.0;
        Some(wait.minutes - gone)
    }

    fn is_waiting(&self, at: usize) -> bool {
        !self.is_done(at) && self.minutes_left(at).is_some_and(|left| left > 0.0)
    }

    /// The steps that are ready, in the sheet's order; what is in the oven is left to it.
    fn ready(&self) -> impl Iterator<Item = usize> + '_ {
        let all = self.readiness.iter().enumerate();
        all.filter(|(at, of)| **of == Readiness::Ready && !self.is_waiting(*at))
            .map(|(at, _)| at)
    }

    /// The holds that stop something now: open, on a step that is done.
    fn stopping(&self) -> impl Iterator<Item = &Hold<'a>> + '_ {
        let all = self.holds.iter();
        all.filter(|h| h.open && self.is_done(h.step))
    }

    /// What people call a hold.
    fn name_of_hold(&self, hold: &HoldOf) -> String {
        match hold {
            HoldOf::Check { check } => self
                .sheet
                .check(check)
                .map_or_else(|| check.clone(), |c| c.name.clone()),
            HoldOf::Proof { ask, .. } => ask.clone(),
        }
    }
}

/// What is left out passes on what it needs and covers: what stands on it stands on that, for nothing is between.
fn passes_on(steps: &mut [Step], left_out: &BTreeSet<usize>, seen: &mut [bool], at: usize) {
    if std::mem::replace(&mut seen[at], true) {
        return;
    }
    let of = |list: &[usize]| -> Vec<usize> {
        let gone = list.iter().filter(|s| left_out.contains(s));
        gone.copied().collect()
    };
    let (needed, covered) = (of(&steps[at].needs), of(&steps[at].covers));
    for below in needed {
        passes_on(steps, left_out, seen, below);
        let Step { needs, covers, .. } = steps[below].clone();
        steps[at].needs.extend(needs);
        steps[at].covers.extend(covers);
    }
    for below in covered {
        passes_on(steps, left_out, seen, below);
        let Step { needs, covers, .. } = steps[below].clone();
        steps[at].covers.extend(needs.into_iter().chain(covers));
    }
    let Step { needs, covers, .. } = &mut steps[at];
    for list in [needs, covers] {
        list.sort_unstable();
        list.dedup();
        list.retain(|s| *s != at);
    }
}

/// The questions that are asked after a step: its own, and those that are asked again.
fn asked_after<'a>(sheet: &'a Sheet, step: &'a BuildStep) -> impl Iterator<Item = &'a Ask> {
    let all = sheet.build.iter().flat_map(|s| &s.prove);
    let again = all.filter(|a| a.again_after.contains(&step.key));
    step.prove.iter().chain(again)
}

fn holds_of<'a>(sheet: &'a Sheet, standing: &Standing, checks: &[CheckFact]) -> Vec<Hold<'a>> {
    let mut holds = Vec::new();
    let passed = |of: &HoldOf| standing.passed.iter().any(|(hold, _)| hold == of);
    for (at, step) in sheet.build.iter().enumerate() {
        for key in &step.hold {
            let of = HoldOf::Check { check: key.clone() };
            let fact = checks.iter().find(|c| c.key == *key);
            let stands = fact.is_some_and(|c| c.signed_by.is_none() && !c.elsewhere);
            holds.push(Hold {
                step: at,
                open: stands && !passed(&of),
                of,
                ask: None,
            });
        }
        for ask in asked_after(sheet, step) {
            let of = HoldOf::Proof {
                step: step.key.clone(),
                ask: ask.ask.clone(),
            };
            let answer = standing.answers.get(&(step.key.clone(), ask.ask.clone()));
            let given = answer.is_some_and(|(answer, ..)| *answer == ask.wanted);
            holds.push(Hold {
                step: at,
                open: !given && !passed(&of),
                of,
                ask: Some(ask),
            });
        }
    }
    holds
}

/// Yes or no, as it stands in a sentence.
const fn said(answer: YesNo) -> &'static str {
    match answer {
        YesNo::Yes => "yes",
        YesNo::No => "no",
    }
}
