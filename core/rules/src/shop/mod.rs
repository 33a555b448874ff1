//! What a shop has: its drawers of selective parts, its register of gauges, and copies of all of it.

pub mod backups;
pub mod drawers;
pub mod family_figures;
pub mod gauge_register;
pub mod people;
