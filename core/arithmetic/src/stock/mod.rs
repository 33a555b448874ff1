//! The drawers of selective parts.

pub mod csv;
pub mod drawer;
pub mod pieces;
