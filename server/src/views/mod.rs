//! What is sent, put together from what the core answers.

pub mod acted;
pub mod check;
pub mod jobs;
pub mod sheets;
