//! The arithmetic behind an answer, as it would be chalked on a bench.
//!
//! A working is kept as tokens with lengths in nanometres, so that a screen or a report can show
//! it in whatever unit the person has chosen without doing the sum again.

use serde::{Deserialize, Serialize};

/// One piece of a line of working.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Token {
    /// A length in nanometres, shown in the person's unit.
    Length {
        /// Nanometres; may carry a fraction (a mean).
        nm: f64,
    },
    /// A clearance in nanometres, shown as float or preload, never with a minus sign.
    Clearance {
        /// Nanometres; may carry a fraction.
        nm: f64,
    },
    /// A bare number, such as how many readings.
    Number {
        value: f64,
        /// How many decimals are worth showing.
        decimals: u8,
    },
    /// A chance between 0 and 1, shown per cent.
    Chance { value: f64 },
    /// Words and signs of arithmetic.
    Text {
        /// As shown.
        text: String,
    },
}

/// One line of working.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(transparent)]
pub struct Line(pub Vec<Token>);

impl Line {
    /// An empty line, to be added to.
    #[must_use]
    pub fn new() -> Self {
        Self::default()
    }

    /// Adds a length in nanometres.
    #[must_use]
    pub fn length(mut self, nm: f64) -> Self {
        self.0.push(Token::Length { nm });
        self
    }

    /// Adds a clearance in nanometres.
    #[must_use]
    pub fn clearance(mut self, nm: f64) -> Self {
        self.0.push(Token::Clearance { nm });
        self
    }

    /// Adds a bare number.
    #[must_use]
    pub fn number(mut self, value: f64, decimals: u8) -> Self {
        self.0.push(Token::Number { value, decimals });
        self
    }

    /// Adds a chance.
    #[must_use]
    pub fn chance(mut self, value: f64) -> Self {
        self.0.push(Token::Chance { value });
        self
    }

    /// Adds words or signs.
    #[must_use]
    pub fn text(mut self, text: impl Into<String>) -> Self {
        self.0.push(Token::Text { text: text.into() });
        self
    }

    /// Adds `+ x` or `− x`, whichever the sign of `nm` asks for.
    #[must_use]
    pub fn signed_length(self, nm: f64) -> Self {
        self.text(if nm < 0.0 { " − " } else { " + " })
            .length(nm.abs())
    }
}

/// The working of an answer, line by line.
pub type Working = Vec<Line>;
