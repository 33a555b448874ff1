//! What is loaded for the core to look at.

pub mod builds;
pub mod checks;
pub mod donors;
pub mod families;
pub mod identity;
pub mod open_checks;
pub mod parts;
pub mod predictions;
pub mod searches;
pub mod since;

pub use checks::CheckRef;
