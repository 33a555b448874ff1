//! The sums of the bench, without a job. Nothing is stored.

mod fields;
pub mod measuring;
pub mod setting;
pub mod sums;
