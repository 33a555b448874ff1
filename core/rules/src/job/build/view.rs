//! A build as it is sent: every step with how it stands, and the one next thing.

use std::collections::BTreeMap;

use anvil_arithmetic::calculators::rollers::NeedleRow;
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::refusal::Ruled;
use chrono::{DateTime, Utc};
use serde::Serialize;

use super::shift_test::{ShiftTest, Tried, gears_that_turn};
use super::{Build, BuildAct, BuildEntry, CheckFact, Hold, HoldOf, StepDone, Word};
use crate::plan::steps::{Positions, Readiness};
use crate::sheet::{BuildStep, PartCard, Sheet};

/// The build of a job.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BuildView {
    /// Something is on record of it.
    pub begun: bool,
    /// The moment as of which it is so, by the clock that its times are kept by.
    pub now: DateTime<Utc>,
    /// The steps, in the sheet's order.
    pub steps: Vec<StepView>,
    /// The parts and items that it puts in.
    pub parts: Vec<PartView>,
    /// The one next thing.
    pub next: Next,
    /// What follows where that is a step and it is done as the sheet has it; none where something is asked before.
    pub then: Option<Box<Then>>,
    /// Steps that can be done while something takes its time, by their places in the list.
    pub meanwhile: Vec<usize>,
    /// Where the selector stands.
    pub selector: Option<SelectorStands>,
    /// How many steps are done or left out.
    pub done: usize,
    /// How long the rest takes, in minutes; none where a time is not known.
    pub minutes_left: Option<f64>,
    /// Each gear as it should turn, and how it was tried; none where the sheet names no gears.
    pub shift: Option<ShiftTest>,
    /// The box is being taken apart.
    pub tearing: Option<Tearing>,
    /// Steps that were done and that the sheet does not have any more.
    pub gone: Vec<String>,
}

/// A step with how it stands.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct StepView {
    /// As the sheet has it.
    pub step: BuildStep,
    pub state: StepState,
    /// What it waits for, in words.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub waits_for: Vec<String>,
    /// Who did it, when and how.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub was_done: Option<DoneView>,
    /// Why it is left out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub left_out: Option<Word>,
    /// Since when it takes its time.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub began_at: Option<DateTime<Utc>>,
    /// What holds what comes after it.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub holds: Vec<HoldView>,
    /// The closing of the case in which the checks it holds for are made.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub closing: Option<String>,
    /// The row of its loose rollers, worked out from the diameters, where the sheet has those.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub row: Option<NeedleRow>,
    /// What cannot be got at any more once it is done, and is not done.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub last_chance: Vec<String>,
    /// What was said last of it may be said to have been a slip: nothing rests on it.
    pub may_be_a_slip: bool,
}

/// How a step stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StepState {
    Done,
    /// It is not done on this box.
    LeftOut,
    /// It takes its time.
    Waiting,
    Ready,
    /// Others come first.
    Later,
    /// A hold stops it.
    Held,
    /// What is done covers it.
    OutOfReach,
}

/// A step that was done.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DoneView {
    pub how: StepDone,
    pub who: String,
    pub at: DateTime<Utc>,
}

/// What holds a build.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct HoldView {
    pub of: HoldOf,
    /// What people call it.
    pub name: String,
    /// It stops what rests on its step.
    pub open: bool,
    /// Who signed it, or answered as it should be.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by: Option<String>,
    /// The answer that was given.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub answer: Option<YesNo>,
    /// The answer that it should have.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wanted: Option<YesNo>,
    /// What the other answer usually means.
    #[serde(skip_serializing_if = "String::is_empty")]
    pub else_means: String,
    /// Why it was passed over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub passed_over: Option<Word>,
}

/// A part or an item as the build sees it.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PartView {
    #[serde(flatten)]
    pub card: PartCard,
    /// It is in the box.
    pub is_in: bool,
}

/// The one next thing.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Next {
    /// A step is done.
    Step {
        /// Its place in the list.
        step: usize,
    },
    /// Nothing else can be done until a step has had its time.
    Wait {
        /// Its place in the list.
        step: usize,
    },
    /// A check is signed, or a question answered.
    Hold {
        /// The place of the step it is held at.
        step: usize,
        hold: HoldOf,
    },
    /// A step comes out.
    Out {
        /// Its place in the list.
        step: usize,
    },
    /// A step was passed and is out of reach.
    Missed {
        /// Its place in the list.
        step: usize,
    },
    /// Every step is done.
    Finished,
}

impl Next {
    /// The place of the step that it is about.
    #[must_use]
    pub const fn step(&self) -> Option<usize> {
        match self {
            Self::Step { step }
            | Self::Wait { step }
            | Self::Hold { step, .. }
            | Self::Out { step }
            | Self::Missed { step } => Some(*step),
            Self::Finished => None,
        }
    }
}

/// The build once its next step is done, so far as it differs.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Then {
    /// The one next thing.
    pub next: Next,
    /// The step that it is about.
    pub step: Option<StepView>,
    /// Steps that can be done while something takes its time.
    pub meanwhile: Vec<usize>,
    /// Where the selector stands.
    pub selector: Option<SelectorStands>,
}

/// Where the selector stands, and where it goes next.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct SelectorStands {
    /// Its positions, in order.
    pub names: Vec<String>,
    /// Where it stands, where that is known.
    pub now: Option<String>,
    /// Where the next step wants it.
    pub wanted: Option<String>,
    /// How many notches forward that is; below zero back.
    pub notches: Option<isize>,
    /// Where it goes once that step is done.
    pub then: Option<String>,
    /// How many notches forward that is; below zero back.
    pub then_notches: Option<isize>,
}

/// The box is being taken apart.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Tearing {
    /// The key of the step that comes out last.
    pub to: String,
    /// What that step does.
    pub what: String,
    pub why: Word,
    /// What is still to come out, in that order, by places in the list.
    pub out: Vec<usize>,
}

/// The parts of a job's sheet, with what of them is in; where the sheet has no steps, nothing is known of that.
///
/// # Errors
/// As of [`Build::of`].
pub fn parts(
    sheet: &Sheet,
    entries: &[BuildEntry],
    checks: &[CheckFact],
    now: DateTime<Utc>,
) -> Ruled<Vec<PartView>> {
    if !sheet.build.is_empty() {
        return Ok(Build::of(sheet, entries, checks, now)?.parts());
    }
    let cards = sheet.part_cards().into_iter();
    let view = |card: PartCard| PartView {
        is_in: card.stands_there,
        card,
    };
    Ok(cards.map(view).collect())
}

impl Build<'_> {
    /// The build as it is sent, with the shop's own times where it has them.
    #[must_use]
    pub fn view(&self, own_times: &BTreeMap<String, f64>) -> BuildView {
        let next = self.next();
        let rest = (0..self.sheet.build.len()).filter(|at| !self.is_done(*at));
        let time = |at: usize| {
            let step = self.step(at);
            own_times.get(&step.key).copied().or(step.minutes)
        };
        BuildView {
            now: self.now,
            begun: !self.standing.steps.is_empty() || self.standing.tearing.is_some(),
            steps: (0..self.sheet.build.len())
                .map(|at| self.step_view(at))
                .collect(),
            parts: self.parts(),
            meanwhile: self.meanwhile(),
            selector: self.selector(&next),
            then: self.then(&next).map(Box::new),
            next,
            done: self.order.len(),
            minutes_left: rest.map(time).sum(),
            shift: self.shift_test(),
            tearing: self.tearing(),
            gone: self.gone.clone(),
        }
    }

    /// What is done next.
    #[must_use]
    pub fn next(&self) -> Next {
        if let Some(step) = self.tearing().and_then(|t| t.out.first().copied()) {
            return Next::Out { step };
        }
        let hold = |h: &Hold| Next::Hold {
            step: h.step,
            hold: h.of.clone(),
        };
        // A question is asked while the hands are still there.
        let asked = self.stopping().find(|h| h.ask.is_some());
        if let Some(h) = asked {
            return hold(h);
        }
        let ready = self.ready().next();
        let stops = self.stopping().next();
        match (ready, stops) {
            // A check is made where it stands in the order, though nothing waits for it yet.
            (Some(ready), Some(stop)) if stop.step < ready => hold(stop),
            (Some(step), _) => Next::Step { step },
            (None, Some(stop)) => hold(stop),
            (None, None) => self.nothing_ready(),
        }
    }

    /// What follows once the next step is done as the sheet has it.
    fn then(&self, next: &Next) -> Option<Then> {
        let Next::Step { step } = *next else {
            return None;
        };
        let plainly = StepDone {
            step: self.step(step).key.clone(),
            ..StepDone::default()
        };
        self.taken(&BuildAct::Done(plainly)).ok()?;
        let after = self.once_done(step);
        let next = after.next();
        Some(Then {
            step: next.step().map(|at| after.step_view(at)),
            meanwhile: after.meanwhile(),
            selector: after.selector(&next),
            next,
        })
    }

    /// The next thing as the bench's list says it; none where that is a check, or nothing is left.
    #[must_use]
    pub fn next_in_words(&self) -> Option<String> {
        let what = |at: usize| crate::texts::in_sentence(&self.step(at).what);
        match self.next() {
            Next::Step { step } => Some(self.step(step).what.clone()),
            Next::Wait { step } => Some(format!("Wait for {}", what(step))),
            Next::Out { step } => Some(format!("Take out again: {}", what(step))),
            Next::Missed { step } => Some(format!("Passed, and out of reach: {}", what(step))),
            Next::Hold {
                hold: HoldOf::Proof { ask, .. },
                ..
            } => Some(ask),
            Next::Hold { .. } | Next::Finished => None,
        }
    }

    /// How many steps are done or left out.
    #[must_use]
    pub fn done_count(&self) -> usize {
        self.order.len()
    }

    /// How many steps there are.
    #[must_use]
    pub fn step_count(&self) -> usize {
        self.sheet.build.len()
    }

    /// The gears that nobody has tried by hand since they could be, or that turned otherwise.
    #[must_use]
    pub fn gears_not_right(&self) -> Vec<String> {
        let gears = self.shift_test().into_iter().flat_map(|all| all.gears);
        let right = |tried: &Option<Tried>| tried.as_ref().is_some_and(|t| t.as_it_should);
        gears.filter(|g| !right(&g.tried)).map(|g| g.name).collect()
    }

    /// Each gear as it should turn, and how it was tried last.
    fn shift_test(&self) -> Option<ShiftTest> {
        let mut all = ShiftTest::of(self.sheet)?;
        for gear in &mut all.gears {
            gear.tried = self.standing.shifted.get(&gear.name).map(|(turns, who)| {
                let is = turns.map(|t| gears_that_turn(self.sheet, t));
                Tried {
                    turns: *turns,
                    as_it_should: is.as_ref().is_none_or(|is| is.contains(&gear.name)),
                    is: is.unwrap_or_default(),
                    who: who.clone(),
                }
            });
        }
        Some(all)
    }

    fn nothing_ready(&self) -> Next {
        let all = 0..self.sheet.build.len();
        if let Some(step) = all.clone().find(|at| self.is_waiting(*at)) {
            return Next::Wait { step };
        }
        match all.clone().find(|at| !self.is_done(*at)) {
            Some(step) => Next::Missed { step },
            None => Next::Finished,
        }
    }

    /// What can be done while something takes its time, or a check is not signed.
    fn meanwhile(&self) -> Vec<usize> {
        if self.tearing().is_some() {
            return Vec::new();
        }
        let waits = (0..self.sheet.build.len()).any(|at| self.is_waiting(at));
        match self.next() {
            _ if waits => self.ready().collect(),
            Next::Hold {
                hold: HoldOf::Check { .. },
                ..
            } => self.ready().take(1).collect(),
            _ => Vec::new(),
        }
    }

    pub(super) fn tearing(&self) -> Option<Tearing> {
        let (to, why) = self.standing.tearing.as_ref()?;
        let at = self.place(to).ok()?;
        let out = self.comes_out(at);
        (!out.is_empty()).then(|| Tearing {
            to: to.clone(),
            what: self.step(at).what.clone(),
            why: why.clone(),
            out,
        })
    }

    pub(super) fn state(&self, at: usize) -> StepState {
        let left_out = |key: &str| {
            let steps = &self.standing.steps;
            steps.get(key).is_some_and(|s| s.skipped.is_some())
        };
        match &self.readiness[at] {
            Readiness::Done if left_out(&self.step(at).key) => StepState::LeftOut,
            Readiness::Done => StepState::Done,
            Readiness::Ready if self.is_waiting(at) => StepState::Waiting,
            Readiness::Ready => StepState::Ready,
            Readiness::Waits { .. } => StepState::Later,
            Readiness::Held { .. } => StepState::Held,
            Readiness::OutOfReach { .. } => StepState::OutOfReach,
        }
    }

    /// What a step waits for, in words.
    pub(super) fn waits_for(&self, at: usize) -> Vec<String> {
        let steps = |of: &[usize]| of.iter().map(|s| self.step(*s).what.clone()).collect();
        match &self.readiness[at] {
            Readiness::Waits { needs } => steps(needs),
            Readiness::OutOfReach { by } => steps(by),
            Readiness::Held { holds } => holds
                .iter()
                .map(|h| self.name_of_hold(&self.holds[*h].of))
                .collect(),
            Readiness::Done | Readiness::Ready => Vec::new(),
        }
    }

    fn step_view(&self, at: usize) -> StepView {
        let step = self.step(at);
        let record = self.standing.steps.get(&step.key);
        let holds: Vec<HoldView> = self
            .holds
            .iter()
            .filter(|h| h.step == at)
            .map(|h| self.hold_view(h))
            .collect();
        let checks = step.hold.iter().filter_map(|key| self.sheet.check(key));
        let closing = checks.map(|c| c.closing.clone()).find(|c| !c.is_empty());
        // Told at the step's turn: before that, what comes first is still to be done.
        let last_chance = if self.readiness[at] == Readiness::Ready {
            self.graph.last_chance(&self.done, at)
        } else {
            Vec::new()
        };
        StepView {
            state: self.state(at),
            waits_for: self.waits_for(at),
            was_done: record
                .and_then(|r| r.done.clone())
                .map(|(how, who, at)| DoneView { how, who, at }),
            left_out: record.and_then(|r| r.skipped.clone()),
            began_at: record.and_then(|r| r.began.as_ref()).map(|b| b.1),
            holds,
            closing,
            row: step.loose.as_ref().and_then(|l| l.row()?.ok()),
            last_chance: last_chance
                .into_iter()
                .map(|s| self.step(s).what.clone())
                .collect(),
            may_be_a_slip: self.may_say_not_done(&step.key).is_ok(),
            step: step.clone(),
        }
    }

    fn hold_view(&self, hold: &Hold) -> HoldView {
        let answer = match &hold.of {
            HoldOf::Proof { step, ask } => {
                let answers = &self.standing.answers;
                answers.get(&(step.clone(), ask.clone()))
            }
            HoldOf::Check { .. } => None,
        };
        let by = match &hold.of {
            HoldOf::Check { check } => {
                let fact = self.checks.iter().find(|c| c.key == *check);
                fact.and_then(|c| c.signed_by.clone())
            }
            HoldOf::Proof { .. } => answer.map(|(_, who, _)| who.clone()),
        };
        let passed = self.standing.passed.iter().find(|(of, _)| *of == hold.of);
        HoldView {
            of: hold.of.clone(),
            name: self.name_of_hold(&hold.of),
            open: hold.open,
            by,
            answer: answer.map(|(answer, ..)| *answer),
            wanted: hold.ask.map(|a| a.wanted),
            else_means: hold.ask.map(|a| a.else_means.clone()).unwrap_or_default(),
            passed_over: passed.map(|(_, word)| word.clone()),
        }
    }

    fn selector(&self, next: &Next) -> Option<SelectorStands> {
        let of = self.sheet.positions.as_ref()?;
        let count = of.names.len();
        let ring = if of.ring {
            Positions::Ring(count)
        } else {
            Positions::Line(count)
        };
        let said = |name: &str| (!name.is_empty()).then(|| name.to_owned());
        let place = |name: &str| of.names.iter().position(|n| n == name);
        let after = |at: &usize| {
            let step = self.step(*at);
            said(&step.leaves).or_else(|| said(&step.selector))
        };
        let now = self.order.iter().rev().find_map(after);
        let step = match next {
            Next::Step { step } => Some(self.step(*step)),
            _ => None,
        };
        let wanted = step.and_then(|s| said(&s.selector));
        let then = step.and_then(|s| said(&s.leaves));
        let way = |from: &Option<String>, to: &Option<String>| {
            let (from, to) = (place(from.as_deref()?)?, place(to.as_deref()?)?);
            ring.notches(from, to)
        };
        let from = wanted.clone().or_else(|| now.clone());
        Some(SelectorStands {
            names: of.names.clone(),
            notches: way(&now, &wanted),
            then_notches: way(&from, &then),
            now,
            wanted,
            then,
        })
    }

    fn parts(&self) -> Vec<PartView> {
        let cards = self.sheet.part_cards().into_iter();
        cards
            .map(|card| PartView {
                // Where no step says what it puts in, nothing is known of what is in but the case.
                is_in: card.stands_there || card.step.is_some_and(|at| self.is_done(at)),
                card,
            })
            .collect()
    }
}
