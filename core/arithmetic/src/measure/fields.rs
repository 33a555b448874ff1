//! What a kind of reading has to say of itself, and how its fields are read.

use thiserror::Error;

use crate::measure::Method;
use crate::units::force::Torque;
use crate::units::length::{Length, Unit};
use crate::units::notation::{self, Sign};

/// One reading as typed, field by field.
pub trait Typed {
    /// What is read of it.
    type Reading;
    /// The methods that take readings of this kind.
    const METHODS: &'static [Method];

    /// What was typed, in one line, for the record.
    fn text(&self) -> String;

    /// Reads what was typed; a bare length is in `unit`.
    ///
    /// # Errors
    /// The first field that does not say what it should.
    fn read(&self, unit: Unit) -> Result<Self::Reading, FieldFault>;
}

/// One reading as taken, in whole nanometres.
pub trait Taken {
    /// What a slip of the pen would show in.
    fn shown(&self) -> Shown {
        Shown::Nothing
    }

    /// The length that it comes to; none where the reading is not one length.
    fn figure(&self) -> Option<Length> {
        match self.shown() {
            Shown::Length { length, .. } => Some(length),
            _ => None,
        }
    }
}

/// What a slip of the pen would show in.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Shown {
    Nothing,
    Length {
        length: Length,
        /// Which of several things it is of; readings of one thing have the same.
        of: i64,
        says: Says,
    },
    Torque(Torque),
    /// The gaps at the left and the right of a gear.
    Gaps(Length, Length),
}

/// What a length that was tried says of the one that is measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Says {
    Exactly,
    /// It is this or more.
    AtLeast,
    /// It is less than this.
    Less,
}

impl Shown {
    /// A reading of one length.
    #[must_use]
    pub fn length(length: Option<Length>) -> Self {
        Self::length_of(length, 0)
    }

    /// A reading of one length of the thing with this number.
    #[must_use]
    pub fn length_of(length: Option<Length>, of: i64) -> Self {
        length.map_or(Self::Nothing, |length| Self::Length {
            length,
            of,
            says: Says::Exactly,
        })
    }
}

/// A field that does not say what it should.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{why}")]
pub struct FieldFault {
    pub field: &'static str,
    /// What is wrong, and what would be right.
    pub why: String,
}

pub(super) fn fault(field: &'static str, why: impl std::fmt::Display) -> FieldFault {
    FieldFault {
        field,
        why: why.to_string(),
    }
}

/// No depth or part at a bench is longer: 1 m.
pub(super) const LONGEST: Length = Length::from_nm(1_000_000_000);
/// No gauge at a bench travels further than this: 100 mm.
pub(super) const LONGEST_TRAVEL: Length = Length::from_nm(100_000_000);

/// A length from nothing to `most`; `beyond` says what is wrong with a longer one.
pub(super) fn bounded(
    field: &'static str,
    text: &str,
    unit: Unit,
    most: Length,
    beyond: impl FnOnce(Length) -> String,
) -> Result<Length, FieldFault> {
    let length =
        notation::parse(text, Some(unit), Sign::NotNegative).map_err(|e| fault(field, e))?;
    if length > most {
        return Err(fault(
            field,
            format!("{}: check the figure and its unit", beyond(length)),
        ));
    }
    Ok(length)
}

/// A length from nothing to `most`.
pub(super) fn up_to(
    field: &'static str,
    text: &str,
    unit: Unit,
    most: Length,
) -> Result<Length, FieldFault> {
    bounded(field, text, unit, most, |length| {
        format!("{length} is more than {most}")
    })
}

/// A length as by [`up_to`]; an empty field is one of nothing.
pub(super) fn up_to_or_none(
    field: &'static str,
    text: &str,
    unit: Unit,
    most: Length,
) -> Result<Length, FieldFault> {
    if text.trim().is_empty() {
        return Ok(Length::ZERO);
    }
    up_to(field, text, unit, most)
}

/// A length that may lie below nothing.
pub(super) fn signed(field: &'static str, text: &str, unit: Unit) -> Result<Length, FieldFault> {
    notation::parse(text, Some(unit), Sign::Any).map_err(|e| fault(field, e))
}

/// A number counted from 1.
pub(super) fn counted(field: &'static str, number: u16) -> Result<u16, FieldFault> {
    if number == 0 {
        return Err(fault(field, "these are counted from 1"));
    }
    Ok(number)
}
