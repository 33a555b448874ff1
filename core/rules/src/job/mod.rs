//! One job: all that is done with one box, from the door to the hand-over.
//!
//! - [`standing`]: where it is; [`intake`] and [`card`]: what stands on its card, and where it goes;
//! - [`identity`]: what is said of what its box is;
//! - [`check`]: one check of it: its record, what that means, and what may be done next;
//! - [`build`]: its build: the next step, what holds it, what comes out again;
//! - [`parts`]: its parts: what was found of each, and what that makes due;
//! - [`donors`]: used parts: the best box from several dismantled ones, and the shelf;
//! - [`hand_over`]: what was not seen to when it goes; [`allowed`]: what may be done with it as a whole;
//! - [`act`]: whatever somebody does with any of these; [`undo`]: what undoes it.

pub mod act;
pub mod allowed;
pub mod build;
pub mod card;
pub mod check;
pub mod donors;
pub mod hand_over;
pub mod identity;
pub mod intake;
pub mod parts;
pub mod standing;
pub mod undo;
