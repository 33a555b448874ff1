//! One job: all that is done with one box, from the door to the hand-over.
//!
//! - [`intake`]: the card that it comes in with;
//! - [`check`]: one check of it: its record, what that means, and what may be done next;
//! - [`build`]: its build: the next step, what holds it, what comes out again;
//! - [`parts`]: its parts: what was found of each, and what that makes due;
//! - [`donors`]: used parts: the best box from several dismantled ones, and the shelf;
//! - [`hand_over`]: what was not seen to when it goes.

pub mod build;
pub mod check;
pub mod donors;
pub mod hand_over;
pub mod intake;
pub mod parts;
