//! The rules of setting axial clearances in gearboxes, and what may be done with them.
//!
//! Pure computation: no input or output, no clock, no web, no database. One folder for each concept, each
//! built on those before it:
//!
//! - [`refusal`]: why something cannot be done as things stand; [`texts`]: what people write that is no figure;
//! - [`units`]: lengths in whole nanometres, how people write them and how they slip;
//! - [`uncertainty`]: estimates and their components, gauges, Student's t, bias; [`materials`]: growth with heat;
//! - [`verdict`]: windows, targets, the decision with its guard band, prediction against achievement;
//! - [`measure`]: the methods, each from typed input to an estimate; [`digital_gauge`]: a gauge's lines;
//! - [`stock`]: lines of a drawer, and drawers as CSV;
//! - [`choose`]: from a clearance to the pieces that set it; [`allocate`]: for many checks at once;
//! - [`sheet`]: what a shop knows about one model of box;
//! - [`drawing`]: its shafts to scale; [`plan`]: closings of the case; [`calculators`]: the sums that need no job;
//! - [`intake`]: the card that a box comes in with; [`identify`]: what it really is;
//! - [`shop`]: what lies in its drawers, its register of gauges;
//! - [`job_check`]: one check of one job: its record, what that means, and what may be done next;
//! - [`job_build`]: the build of one job: the next step, what holds it, what comes out again;
//! - [`job_parts`]: the parts of one job: what was found of each, and what that makes due;
//! - [`job_donors`]: used parts: the best box from several dismantled ones, and the shelf.
//!
//! One reading walks: text → [`units::length::Length`] → [`uncertainty::estimate::Estimate`] →
//! [`verdict::Verdict`] → [`choose::required::RequiredThickness`] → [`choose::Choices`] →
//! [`verdict::prediction::PredictionError`].

#![warn(clippy::missing_errors_doc)]

pub mod allocate;
pub mod calculators;
pub mod choose;
pub mod digital_gauge;
pub mod drawing;
pub mod identify;
pub mod intake;
pub mod job_build;
pub mod job_check;
pub mod job_donors;
pub mod job_parts;
pub mod materials;
pub mod measure;
pub mod plan;
pub mod refusal;
pub mod sheet;
pub mod shop;
pub mod stock;
pub mod texts;
pub mod uncertainty;
pub mod units;
pub mod verdict;
