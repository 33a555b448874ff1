//! An act on a job: what somebody did, as a value. What may be done, what follows and what undoes it is ruled by each kind;
//! here they are one thing that is sent, kept while the server is out of reach, done, and undone.

use anvil_arithmetic::choose::SizeCount;
use serde::{Deserialize, Serialize};

use super::build::BuildAct;
use super::card::JobAct;
use super::check::act::CheckAct;
use super::donors::DonorAct;
use super::identity::IdentityAct;
use super::parts::PartAct;
use super::undo::Undo;

/// What somebody does on a job.
///
/// ```
/// use anvil_rules::job::act::Act;
/// let act: Act = serde_json::from_str(r#"{"of": "build", "did": {"act": "done", "step": "clean"}}"#).unwrap();
/// // It says itself which step; it is no word on what else a screen showed.
/// assert!(!act.rests_on_what_was_seen());
/// ```
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum Act {
    /// With the job as a whole.
    Job { did: JobAct },
    /// A reading, a choice of pieces, a signature: whatever is done to one of them.
    Check {
        /// The check's key.
        check: String,
        did: CheckAct,
    },
    /// With its build.
    Build { did: BuildAct },
    /// What was found of one of them, or is said of getting it.
    Part { did: PartAct },
    /// With what its box is.
    Identity { did: IdentityAct },
    /// Used parts come out of another box, or go on the shelf.
    Donor { did: DonorAct },
}

/// What undoes an act.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Undoing {
    /// What was done, in words; the pieces, where there are any, come before it.
    pub said: String,
    /// The pieces that it was done with.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pieces: Vec<SizeCount>,
    pub act: Act,
}

impl From<Undo<Act>> for Undoing {
    fn from(undo: Undo<Act>) -> Self {
        Self {
            said: undo.said,
            pieces: undo.pieces,
            act: undo.act,
        }
    }
}

/// What a screen may show of a job, or of all.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum View {
    /// The job's box.
    Job,
    /// The bench's list.
    Jobs,
    /// Every one of the job's.
    Check,
    /// What waits for pieces of the drawers.
    Awaited,
    /// What lies in them, and what of it is set aside.
    Drawers,
    /// Its build, and what comes out to get at something.
    Build,
    /// What was found of each, and what of them has to be got.
    Parts,
    /// What has to be got for all jobs.
    BenchParts,
    /// The boxes that parts come out of, and the shelf.
    Donors,
    /// What its box is.
    Identity,
}

impl Act {
    /// It is judged on what the screen showed, and so is refused where that has changed since.
    #[must_use]
    pub const fn rests_on_what_was_seen(&self) -> bool {
        match self {
            Self::Job { did } => did.rests_on_what_was_seen(),
            Self::Check { did, .. } => did.rests_on_what_was_seen(),
            // Each says itself what it was judged on: the step, the findings seen, the question.
            Self::Build { .. } | Self::Part { .. } | Self::Identity { .. } | Self::Donor { .. } => {
                false
            }
        }
    }

    /// What a screen shows is not so any more, beside the view that it was done on.
    #[must_use]
    pub const fn stale(&self) -> &'static [View] {
        match self {
            Self::Job {
                did: JobAct::Note(_) | JobAct::MarkNote { .. },
            } => &[],
            // What may be done with its checks, parts and steps follows from where the job is.
            Self::Job { .. } => &[View::Jobs, View::Check, View::Build, View::Parts],
            Self::Check { did, .. } => match did {
                CheckAct::Read(_) | CheckAct::Tick { .. } | CheckAct::Mark { .. } => &[View::Job],
                _ if did.moves_pieces() => &[View::Job, View::Awaited, View::Drawers],
                CheckAct::Sign { .. } | CheckAct::Reopen { .. } => {
                    &[View::Job, View::Jobs, View::Build]
                }
                _ => &[View::Job, View::Awaited],
            },
            Self::Build { .. } => &[View::Job, View::Jobs, View::Check, View::Parts],
            Self::Part { .. } => &[View::BenchParts, View::Job, View::Jobs, View::Check],
            Self::Donor { .. } => &[
                View::Donors,
                View::BenchParts,
                View::Job,
                View::Jobs,
                View::Check,
            ],
            Self::Identity { .. } => &[View::Job],
        }
    }
}
