//! One check of one job: what is recorded of it, what that means, and what may be done next.

pub mod adding;
pub mod assess;
mod by_chart;
pub mod clashes;
pub mod close_once;
pub mod closing_plan;
pub mod comparisons;
pub mod coupling;
pub mod entry_questions;
pub mod fits;
pub mod loaded;
pub mod methods;
pub mod offer;
pub mod offering;
pub mod other_families;
pub mod past;
pub mod purchase_needs;
pub mod record;
pub mod revision;
pub mod rules;
pub mod shims;
pub mod since;
pub mod spec;
pub mod split;
pub mod swaps;
pub mod target;
pub mod workflow;
