//! The drawers of selective parts.

pub mod contents;
pub mod csv;
pub mod drawer;
