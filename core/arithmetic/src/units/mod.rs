//! Lengths: whole nanometres, how people write them, how they slip, and the arithmetic shown beside answers; forces
//! and torques.

pub mod convert;
pub mod csv_text;
pub mod entry_errors;
pub mod force;
pub mod length;
pub mod notation;
pub mod rounding;
pub mod working;
pub mod written;
