//! The parts of one job: what was found of each when the box was stripped, what becomes of it, and which checks that makes
//! due.

mod conditions;
mod due;
mod record;
mod rules;
mod view;

pub use conditions::condition_words;
pub use due::due_with;
pub use record::{Finding, PartAct, PartEntry, PartState};
pub use rules::taken;
pub use view::{Found, OnJob, PartsView, ToGet, view};
