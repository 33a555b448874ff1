//! What is answered to an act.

use anvil_rules::job::act::{Undoing, View};
use anvil_rules::job::build::BuildView;
use anvil_rules::job::parts::PartsView;
use serde::Serialize;
use utoipa::ToSchema;

use super::jobs::BoxView;
use crate::queries::identity::JobIdentity;
use anvil_rules::job::check::view::CheckView;

/// An act was done.
#[derive(Debug, Serialize, ToSchema)]
pub struct Acted {
    /// How what it was done to stands now.
    pub on: ActedOn,
    /// What undoes it, where anything does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub undoing: Option<Undoing>,
    /// What else a screen may show that is not so any more.
    pub stale: Vec<View>,
}

/// How what an act was done to stands now.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "of", rename_all = "snake_case")]
pub enum ActedOn {
    Check { view: Box<CheckView> },
    Job { view: Box<BoxView> },
    Build { view: Box<BuildView> },
    Parts { view: Box<PartsView> },
    Identity { view: Box<JobIdentity> },
}

impl ActedOn {
    /// One that was measured, chosen for, signed.
    #[must_use]
    pub fn check(view: CheckView) -> Self {
        Self::Check {
            view: Box::new(view),
        }
    }

    /// The job as a whole.
    #[must_use]
    pub fn job(view: BoxView) -> Self {
        Self::Job {
            view: Box::new(view),
        }
    }

    /// Which step is next, what holds it, what is in.
    #[must_use]
    pub fn build(view: BuildView) -> Self {
        Self::Build {
            view: Box::new(view),
        }
    }

    /// What was found of each, and what has to be got.
    #[must_use]
    pub fn parts(view: PartsView) -> Self {
        Self::Parts {
            view: Box::new(view),
        }
    }

    /// What its box is.
    #[must_use]
    pub fn identity(view: JobIdentity) -> Self {
        Self::Identity {
            view: Box::new(view),
        }
    }
}
