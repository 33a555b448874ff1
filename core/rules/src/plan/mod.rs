//! In which order things are done.

pub mod closings;
pub mod steps;
