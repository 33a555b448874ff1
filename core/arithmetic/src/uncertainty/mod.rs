//! What is known of a figure, and how surely (JCGM 100:2008): components, their sum, and what a gauge can see.

pub mod bias;
pub mod distribution;
pub mod estimate;
pub mod gauge;
pub mod student_t;
