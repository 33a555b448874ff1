//! The rules of overhauling gearboxes: what a box is, what stands of a job, and what may be done next.
//!
//! Pure computation over [`anvil_arithmetic`]: no input or output, no clock, no web, no database. One folder for each
//! concept, each built on those before it:
//!
//! - [`texts`]: what people write that is no figure;
//! - [`sheet`]: what a shop knows about one model of box;
//! - [`drawing`]: its shafts to scale; [`plan`]: closings of the case;
//! - [`intake`]: the card that a box comes in with; [`identify`]: what it really is;
//! - [`shop`]: what lies in its drawers, its register of gauges;
//! - [`job_check`]: one check of one job: its record, what that means, and what may be done next;
//! - [`job_build`]: the build of one job: the next step, what holds it, what comes out again;
//! - [`job_parts`]: the parts of one job: what was found of each, and what that makes due;
//! - [`job_donors`]: used parts: the best box from several dismantled ones, and the shelf;
//! - [`hand_over`]: what was not seen to when a box goes.

#![warn(clippy::missing_errors_doc)]

pub mod drawing;
pub mod hand_over;
pub mod identify;
pub mod intake;
pub mod job_build;
pub mod job_check;
pub mod job_donors;
pub mod job_parts;
pub mod plan;
pub mod sheet;
pub mod shop;
pub mod texts;
