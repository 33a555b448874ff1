//! Questions whose answers can be checked, by which it is told what a box really is.

use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::window::{Window, WindowError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A question by which builds and boxes are told apart.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Identify)]
pub struct Identify {
    /// A short name; sheets that ask the same thing share it.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What is asked, such as “Splines on the input shaft”.
    #[schemars(length(min = 1, max = 120))]
    pub ask: String,
    /// What kind of answer it has.
    pub kind: IdentifyKind,
    /// Where it is seen, and how it is taken.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub how: String,
    /// The answers that this box may give.
    #[schemars(length(min = 1, max = 24))]
    pub answers: Vec<Tells>,
}

/// What kind of answer a question has.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Serialize,
    Deserialize,
    JsonSchema,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum IdentifyKind {
    /// Splines, teeth, holes.
    Count,
    /// Cast, stamped or etched.
    Text,
    /// Measured, and judged as any length.
    Length,
    YesNo,
}

/// An answer that a box may give.
#[derive(
    Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Tells)]
pub struct Tells {
    /// The variants that give it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(max = 999))]
    pub count: Option<u32>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(length(min = 1, max = 60))]
    pub text: Option<String>,
    /// Of a length: no smaller than this.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at_least: Option<Written>,
    /// Of a length: no larger than this.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at_most: Option<Written>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub yes: Option<bool>,
}

impl Tells {
    /// Whether a variant gives this answer; a sheet of one build has none.
    #[must_use]
    pub fn of(&self, variant: Option<&str>) -> bool {
        self.only_in.is_empty() || variant.is_some_and(|v| self.only_in.iter().any(|o| o == v))
    }

    /// The lengths that it stands for.
    ///
    /// # Errors
    /// Where neither limit is given, or they are the wrong way round.
    pub fn window(&self) -> Result<Window, WindowError> {
        let length = |of: &Option<Written>| of.as_ref().map(Written::length);
        Window::new(length(&self.at_least), length(&self.at_most))
    }

    /// As people say it.
    #[must_use]
    pub fn words(&self) -> String {
        match (self.count, &self.text, self.yes) {
            (Some(count), ..) => count.to_string(),
            (_, Some(text), _) => format!("“{text}”"),
            (.., Some(yes)) => if yes { "yes" } else { "no" }.into(),
            _ => match (
                self.at_least.as_ref().map(Written::text),
                self.at_most.as_ref().map(Written::text),
            ) {
                (Some(low), Some(high)) => format!("{low} to {high}"),
                (Some(low), None) => format!("{low} or more"),
                (None, Some(high)) => format!("{high} or less"),
                (None, None) => String::new(),
            },
        }
    }
}
