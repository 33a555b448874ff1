//! The one thing that a check, and so a job, waits for.

use serde::{Deserialize, Serialize};

use crate::sheet::Sheet;

/// How far one check has come.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Phase {
    /// No reading yet.
    Measure,
    /// Measured, out of the window or too close to call: pieces are to be chosen.
    Choose,
    /// Pieces are chosen, and some have still to come.
    AwaitPart,
    /// Pieces are chosen and set aside, to be fitted.
    Fit,
    /// Fitted, to be measured again.
    MeasureAgain,
    /// Measured and in the window, or nothing to fit: to be signed off.
    Sign,
    /// Signed off.
    Signed,
    /// Not measured by this program: kept on the job's card.
    Elsewhere,
}

/// What a job waits for: what its next check does, or to be handed over.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum JobWait {
    Measure,
    Choose,
    AwaitPart,
    Fit,
    MeasureAgain,
    Sign,
    /// Every check is signed off.
    HandOver,
    /// Nothing: parts come out of it.
    ForParts,
}

/// What is done with a job as a whole.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, strum::EnumString, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum MarkOfJob {
    HandedOver,
    /// On the bench again after it was handed over.
    TakenBack,
    /// Off the bench with its records, never finished.
    PutAway,
    /// On the bench again after it was put away.
    BroughtBack,
}

impl JobWait {
    /// What a job waits for whose next check stands at that phase; none where that check waits for nothing.
    #[must_use]
    pub const fn of(phase: Phase) -> Option<Self> {
        match phase {
            Phase::Measure => Some(Self::Measure),
            Phase::Choose => Some(Self::Choose),
            Phase::AwaitPart => Some(Self::AwaitPart),
            Phase::Fit => Some(Self::Fit),
            Phase::MeasureAgain => Some(Self::MeasureAgain),
            Phase::Sign => Some(Self::Sign),
            Phase::Signed | Phase::Elsewhere => None,
        }
    }
}

/// What decides the phase of a check.
#[derive(Clone, Copy, Debug)]
#[allow(clippy::struct_excessive_bools)] // six independent facts, each asked of the records
pub struct Progress {
    /// It is signed off.
    pub signed: bool,
    /// Pieces are chosen and not yet fitted.
    pub chosen: bool,
    /// Some of the chosen pieces are not in the drawer.
    pub awaiting_part: bool,
    /// Pieces have been fitted at least once.
    pub fitted: bool,
    /// Readings stand since the last fitting.
    pub measured: bool,
    /// The readings say that it is in the window.
    pub inside: bool,
    /// The check has pieces that set it.
    pub adjustable: bool,
}

impl Progress {
    /// The phase that follows.
    ///
    /// ```
    /// use anvil_rules::job::check::workflow::{Phase, Progress};
    /// let fresh = Progress { signed: false, chosen: false, awaiting_part: false, fitted: false,
    ///     measured: false, inside: false, adjustable: true };
    /// assert_eq!(fresh.phase(), Phase::Measure);
    /// assert_eq!(Progress { measured: true, ..fresh }.phase(), Phase::Choose);
    /// ```
    #[must_use]
    pub const fn phase(self) -> Phase {
        if self.signed {
            Phase::Signed
        } else if self.chosen {
            if self.awaiting_part {
                Phase::AwaitPart
            } else {
                Phase::Fit
            }
        } else if !self.measured {
            if self.fitted {
                Phase::MeasureAgain
            } else {
                Phase::Measure
            }
        } else if self.inside || !self.adjustable {
            Phase::Sign
        } else {
            Phase::Choose
        }
    }
}

/// A check as the plan sees it.
#[derive(Clone, Debug)]
pub struct Step<'a> {
    /// The check's key.
    pub key: &'a str,
    /// How far it has come.
    pub phase: Phase,
    /// The keys of the checks that must be signed off first.
    pub after: &'a [String],
}

/// The check to work on next: the first on the sheet that is not signed and whose forerunners
/// are, passing over those that wait for a part while there is other work.
///
/// ```
/// use anvil_rules::job::check::workflow::{next, Phase, Step};
/// let steps = [
///     Step { key: "lay", phase: Phase::AwaitPart, after: &[] },
///     Step { key: "main", phase: Phase::Measure, after: &[] },
/// ];
/// assert_eq!(next(&steps).unwrap().key, "main");
/// ```
#[must_use]
pub fn next<'a, 'b>(steps: &'b [Step<'a>]) -> Option<&'b Step<'a>> {
    let signed = |key: &str| {
        steps
            .iter()
            .any(|s| s.key == key && s.phase == Phase::Signed)
    };
    let open = || steps.iter().filter(|s| s.phase != Phase::Signed);
    let free = |s: &&Step<'_>| s.after.iter().all(|key| signed(key));
    open()
        .filter(free)
        .find(|s| s.phase != Phase::AwaitPart)
        .or_else(|| open().find(free))
        .or_else(|| open().next())
}

/// Where one check of a job stands, as far as the job must know.
#[derive(Clone, Debug)]
pub struct CheckStands<'a> {
    /// The check's key.
    pub key: &'a str,
    /// How far it has come.
    pub phase: Phase,
    /// The size that it waits for in nanometres, where it waits for one.
    pub awaited_nm: Option<i64>,
}

/// What a job waits for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct JobStatus {
    /// The check, with what people call it; none where the job is to be handed over.
    pub check: Option<(String, String)>,
    pub wait: JobWait,
    /// The size on order in nanometres.
    pub piece_nm: Option<i64>,
    /// How many checks are signed.
    pub signed: i32,
}

impl JobStatus {
    /// What a job waits for whose checks stand so.
    #[must_use]
    pub fn of(sheet: &Sheet, checks: &[CheckStands<'_>]) -> Self {
        let steps: Vec<Step<'_>> = checks
            .iter()
            .filter(|c| c.phase != Phase::Elsewhere)
            .filter_map(|c| {
                let after = &sheet.check(c.key)?.after;
                let (key, phase) = (c.key, c.phase);
                Some(Step { key, phase, after })
            })
            .collect();
        let signed = checks.iter().filter(|c| c.phase == Phase::Signed).count();
        let signed = i32::try_from(signed).unwrap_or(i32::MAX);
        let waits = next(&steps).and_then(|step| Some((step, JobWait::of(step.phase)?)));
        match waits {
            Some((step, wait)) => Self {
                check: sheet
                    .check(step.key)
                    .map(|c| (c.key.clone(), c.name.clone())),
                wait,
                piece_nm: checks
                    .iter()
                    .find(|c| c.key == step.key)
                    .and_then(|c| c.awaited_nm),
                signed,
            },
            None => Self {
                check: None,
                wait: JobWait::HandOver,
                piece_nm: None,
                signed,
            },
        }
    }
}
