//! Drawings worked out from data, for any box.

pub mod draft;
pub mod shafts;
