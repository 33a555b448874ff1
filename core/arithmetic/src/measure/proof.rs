//! Proofs: a question answered yes or no by hand, such as “does it turn free?” No figure comes of one; it is given or
//! it is not (common practice, no source).

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::measure::Method;
use crate::measure::fields::{FieldFault, Taken, Typed};
use crate::units::length::Unit;
use crate::verdict::Call;

/// An answer to the question of a proof.
#[derive(
    Clone,
    Copy,
    Debug,
    Default,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum YesNo {
    /// It is so.
    #[default]
    Yes,
    /// It is not so.
    No,
}

impl YesNo {
    /// Yes for no, and no for yes.
    #[must_use]
    pub const fn other(self) -> Self {
        match self {
            Self::Yes => Self::No,
            Self::No => Self::Yes,
        }
    }
}

/// The answer to a proof's question, as pressed and as kept.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProofAnswer {
    /// It is so, or it is not.
    pub answer: YesNo,
}

impl Typed for ProofAnswer {
    type Reading = Self;
    const METHODS: &'static [Method] = &[Method::YesNo];

    fn text(&self) -> String {
        <&str>::from(self.answer).to_owned()
    }

    fn read(&self, _: Unit) -> Result<Self, FieldFault> {
        Ok(*self)
    }
}

impl Taken for ProofAnswer {}

/// What the answers of one round say.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ProofFound {
    /// The last answer: it is what is so now.
    pub answer: YesNo,
    /// How often the question was answered.
    pub answers: usize,
    /// In where it is the answer wanted, failed where it is not.
    pub call: Call,
}

/// What answers say, the first given first; none where nobody has answered.
///
/// ```
/// use anvil_arithmetic::measure::proof::{YesNo, proof};
/// use anvil_arithmetic::verdict::Call;
/// let turns = proof(&[YesNo::No, YesNo::Yes], YesNo::Yes).unwrap();
/// assert_eq!((turns.call, turns.answers), (Call::In, 2));
/// ```
#[must_use]
pub fn proof(answers: &[YesNo], wanted: YesNo) -> Option<ProofFound> {
    let answer = *answers.last()?;
    Some(ProofFound {
        answer,
        answers: answers.len(),
        call: if answer == wanted {
            Call::In
        } else {
            Call::Failed
        },
    })
}
