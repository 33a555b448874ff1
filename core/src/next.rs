//! The one thing that a check, and so a job, waits for.

use serde::{Deserialize, Serialize};

/// How far one check has come.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
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
    /// use anvil_core::next::{Phase, Progress};
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
/// use anvil_core::next::{next, Phase, Step};
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
