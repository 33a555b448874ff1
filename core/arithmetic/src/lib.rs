//! The arithmetic of setting axial clearances in gearboxes: from a reading to the pieces that set a check.
//!
//! Pure computation, and no rule of what may be done: no input or output, no clock, no web, no database. One folder for
//! each concept, each built on those before it:
//!
//! - [`refusal`]: why something cannot be done as things stand;
//! - [`units`]: lengths in whole nanometres, how people write them and how they slip;
//! - [`uncertainty`]: estimates and their components, gauges, Student's t, bias; [`materials`]: growth with heat;
//! - [`verdict`]: windows, targets, the decision with its guard band, prediction against achievement;
//! - [`measure`]: the methods, each from typed input to an estimate; [`digital_gauge`]: a gauge's lines;
//! - [`stock`]: lines of a drawer, and drawers as CSV;
//! - [`choose`]: from a clearance to the pieces that set it; [`allocate`]: for many checks at once;
//! - [`calculators`]: the sums that need no job.
//!
//! One reading walks: text → [`units::length::Length`] → [`uncertainty::estimate::Estimate`] →
//! [`verdict::Verdict`] → [`choose::required::RequiredThickness`] → [`choose::Choices`] →
//! [`verdict::prediction::PredictionError`].

#![warn(clippy::missing_errors_doc)]

pub mod allocate;
pub mod calculators;
pub mod choose;
pub mod digital_gauge;
pub mod materials;
pub mod measure;
pub mod refusal;
pub mod stock;
pub mod uncertainty;
pub mod units;
pub mod verdict;
