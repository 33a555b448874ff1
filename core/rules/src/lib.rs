//! The rules of overhauling gearboxes: what a box is, what stands of a job, and what may be done next.
//!
//! Pure computation over [`anvil_arithmetic`]: no input or output, no clock, no web, no database. One folder for each
//! concept, each built on those before it:
//!
//! - [`texts`]: what people write that is no figure;
//! - [`sheet`]: what a shop knows about one model of box;
//! - [`drawing`]: its shafts to scale; [`plan`]: closings of the case;
//! - [`shop`]: what lies in its drawers, its register of gauges;
//! - [`identify`]: what a box really is;
//! - [`job`]: all that is done with one box, from the door to the hand-over.

#![warn(clippy::missing_errors_doc)]

pub mod drawing;
pub mod identify;
pub mod job;
pub mod plan;
pub mod sheet;
pub mod shop;
pub mod texts;
