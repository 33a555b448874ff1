//! The ways of measuring. Each ends in an [`Estimate`](crate::estimate::Estimate).

pub mod dial;
