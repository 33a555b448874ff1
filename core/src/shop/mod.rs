//! What a shop has: its drawers of selective parts, and its register of gauges.

pub mod drawers;
pub mod family_figures;
pub mod gauge_register;
