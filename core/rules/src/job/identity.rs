//! What is said of what a job's box is.

use anvil_arithmetic::units::length::Unit;
use serde::{Deserialize, Serialize};

use super::undo::Undo;
use crate::identify::{IdentityEntry, standing};

/// What somebody answers, or takes back.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "act", rename_all = "snake_case", deny_unknown_fields)]
pub enum IdentityAct {
    /// A question is answered.
    Answer(TypedAnswer),
    /// What was answered to it does not count.
    TakeBack {
        /// The key of the question.
        question: String,
    },
}

/// An answer as it is typed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TypedAnswer {
    /// The key of the question.
    pub question: String,
    /// As typed: a whole number, a mark, a length, yes or no.
    #[serde(default)]
    pub answer: String,
    /// It cannot be seen, or not yet.
    #[serde(default)]
    pub not_seen: bool,
    /// The unit of a length without one.
    #[serde(default)]
    pub unit: Option<Unit>,
    /// The key of the micrometer that a length was taken with; the one that is taken up where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
}

impl IdentityAct {
    /// What undoes it, by what was answered before. None where something else stood: how it was typed is not on record.
    #[must_use]
    pub fn undoing(&self, before: &[IdentityEntry]) -> Option<Undo<Self>> {
        let Self::Answer(TypedAnswer { question, .. }) = self else {
            return None;
        };
        let stood = standing(before).iter().any(|a| a.question == *question);
        let back = Self::TakeBack {
            question: question.clone(),
        };
        (!stood).then(|| Undo::of("Answered.", back))
    }
}
