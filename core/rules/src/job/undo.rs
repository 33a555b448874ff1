//! What undoes an act.

use anvil_arithmetic::choose::SizeCount;
use serde::{Deserialize, Serialize};

/// What undoes an act: another act, as another record.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Undo<A> {
    /// What was done, in words; where pieces are named, those come before it.
    pub said: String,
    /// The pieces that it was done with.
    pub pieces: Vec<SizeCount>,
    /// The act that undoes it.
    pub act: A,
}

impl<A> Undo<A> {
    /// With no pieces to be named.
    #[must_use]
    pub fn of(said: impl Into<String>, act: A) -> Self {
        Self {
            said: said.into(),
            pieces: Vec::new(),
            act,
        }
    }

    /// The same as an act of another kind.
    #[must_use]
    pub fn map<B>(self, kind: impl FnOnce(A) -> B) -> Undo<B> {
        Undo {
            said: self.said,
            pieces: self.pieces,
            act: kind(self.act),
        }
    }
}
