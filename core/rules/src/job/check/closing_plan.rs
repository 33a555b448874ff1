//! The plan of a box: what to measure in which closing of the case.

use serde::Serialize;

use super::workflow::Phase;
use crate::plan::closings::{Left, Plan, Task, in_order, plan};
use crate::sheet::{BuildStep, Check, CheckKind, Sheet};

/// The plan of a box, with the sheet's own order beside it.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PlanView {
    /// The checks, in the sheet's order; the plans name them by number.
    pub checks: Vec<PlanCheck>,
    /// The plan with the fewest closings.
    pub plan: Plan,
    /// The sheet's own order.
    pub in_order: Plan,
    /// In which step of the build each closing happens, in the order of the build.
    pub steps: Vec<ClosingStep>,
    /// The sheet says of at least one check in which closing it is measured.
    pub says: bool,
}

/// Something to be measured, with what must be set before it.
#[derive(Debug, Serialize, utoipa::ToSchema)]
pub struct PlanCheck {
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// The closing it is measured in; empty on the bench.
    pub closing: String,
    pub preload: bool,
    /// The step of the build after which it is measured, where one is held for it.
    pub step: Option<PlanStep>,
    /// The checks that must be signed off first.
    pub after: Vec<String>,
    /// There is nothing left to measure.
    pub done: bool,
}

/// A step of the build, as a plan names it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct PlanStep {
    pub key: String,
    /// Its place in the list, counted from 1.
    pub number: usize,
    /// What it does.
    pub what: String,
}

/// A closing of the case, with the step of the build that closes it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct ClosingStep {
    /// What the sheet calls the closing.
    pub closing: String,
    pub step: PlanStep,
}

/// The steps that close the case: of each closing, the first that is held for one of its checks, for only then can those be
/// measured.
fn closing_steps(sheet: &Sheet) -> Vec<ClosingStep> {
    let mut found: Vec<ClosingStep> = Vec::new();
    for (at, step) in sheet.build.iter().enumerate() {
        for check in step.hold.iter().filter_map(|key| sheet.check(key)) {
            let known = found.iter().any(|c| c.closing == check.closing);
            if !check.closing.is_empty() && !known {
                found.push(ClosingStep {
                    closing: check.closing.clone(),
                    step: PlanStep::of(at, step),
                });
            }
        }
    }
    found
}

impl PlanStep {
    fn of(at: usize, step: &BuildStep) -> Self {
        Self {
            key: step.key.clone(),
            number: at + 1,
            what: step.what.clone(),
        }
    }

    fn held_for(sheet: &Sheet, check: &str) -> Option<Self> {
        let mut steps = sheet.build.iter().enumerate();
        let (at, step) = steps.find(|(_, s)| s.hold.iter().any(|h| h == check))?;
        Some(Self::of(at, step))
    }
}

/// What is left to measure of a check at a phase; from the beginning where none is given.
fn left(check: &Check, phase: Option<Phase>) -> Left {
    let fresh = if check.set_by.is_some() || check.selector.is_some() {
        Left::Twice
    } else {
        Left::Once
    };
    match phase {
        // Checks that are not measured here are nobody's plan.
        Some(Phase::Elsewhere | Phase::Signed | Phase::Sign) => Left::Nothing,
        Some(Phase::Choose | Phase::AwaitPart | Phase::Fit | Phase::MeasureAgain) => Left::Once,
        None | Some(Phase::Measure) => fresh,
    }
}

/// The plan of a box whose checks stand so; from the beginning where nothing is said of one.
pub fn plan_view(sheet: &Sheet, phase_of: impl Fn(&str) -> Option<Phase>) -> PlanView {
    let number = |key: &String| sheet.checks.iter().position(|c| c.key == *key);
    let name = |key: &String| sheet.check(key).map(|c| c.name.clone());
    let tasks: Vec<Task> = sheet
        .checks
        .iter()
        .map(|check| Task {
            closing: check.closing.clone(),
            after: check.after.iter().filter_map(number).collect(),
            preload: check.kind == CheckKind::BearingPreload,
            left: left(check, phase_of(&check.key)),
        })
        .collect();
    let checks = sheet
        .checks
        .iter()
        .zip(&tasks)
        .map(|(check, task)| PlanCheck {
            check_key: check.key.clone(),
            name: check.name.clone(),
            closing: check.closing.clone(),
            preload: task.preload,
            step: PlanStep::held_for(sheet, &check.key),
            after: check.after.iter().filter_map(name).collect(),
            done: task.left == Left::Nothing,
        });
    PlanView {
        checks: checks.collect(),
        says: tasks.iter().any(|t| !t.closing.is_empty()),
        steps: closing_steps(sheet),
        plan: plan(&tasks),
        in_order: in_order(&tasks),
    }
}
