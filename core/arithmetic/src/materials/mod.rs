//! Materials and heat.

pub mod expansion;
pub mod thermal;
pub mod threads;
