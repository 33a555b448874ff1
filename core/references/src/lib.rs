//! Slow and plain answers to what the core works out cleverly: every way tried, or a general solver asked. Tests hold the
//! core to them, and benchmarks time it beside them.
#![allow(clippy::missing_panics_doc)] // what cannot be is a fault of the test that asks

pub mod allocation;
pub mod donors;
pub mod purchase;
pub mod two_ends;
