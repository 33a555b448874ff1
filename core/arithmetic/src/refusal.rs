//! Why something cannot be done as things stand.

use std::fmt::Display;

use thiserror::Error;

/// Why a rule does not allow something: what is wrong, and what would be right.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{message}")]
pub struct Refusal {
    /// What kind of refusal it is.
    pub nature: Nature,
    /// A sentence for a person.
    pub message: String,
}

/// The kinds of refusal.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Nature {
    /// It cannot be done as things stand; the name of the case.
    Conflict(&'static str),
    /// A field holds something that it cannot; the name of the field.
    Field(&'static str),
    /// There is no such thing.
    Missing,
    /// The facts contradict themselves: a fault of the program or of its records, and not of a person.
    Fault,
}

/// What a rule answers.
pub type Ruled<T> = Result<T, Refusal>;

impl Refusal {
    fn new(nature: Nature, message: impl Into<String>) -> Self {
        Self {
            nature,
            message: message.into(),
        }
    }

    /// It cannot be done as things stand.
    pub fn conflict(case: &'static str, message: impl Into<String>) -> Self {
        Self::new(Nature::Conflict(case), message)
    }

    /// A field that holds something it cannot.
    pub fn field(field: &'static str, message: impl Display) -> Self {
        Self::new(Nature::Field(field), message.to_string())
    }

    /// Something that is not there.
    pub fn missing(message: impl Into<String>) -> Self {
        Self::new(Nature::Missing, message)
    }

    /// Facts that contradict themselves.
    pub fn fault(cause: impl Display) -> Self {
        Self::new(Nature::Fault, cause.to_string())
    }
}
