//! The sums of the bench that need no job.

pub mod fit;
pub mod list_input;
pub mod piece;
pub mod ratio;
pub mod rollers;
