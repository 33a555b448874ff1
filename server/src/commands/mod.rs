//! The writes, each one transaction: look under the lock, ask the core, store.

pub mod acts;
pub mod allocation;
pub mod drawers;
pub mod due;
pub mod families;
pub mod gauges;
pub mod job_files;
pub mod jobs;
pub mod locked_check;
pub mod pictures;
pub mod revisions;
mod settle_build;
pub mod sheets;
pub mod shop;
mod unit_of_work;

pub use locked_check::LockedCheck;
pub use unit_of_work::Write;
