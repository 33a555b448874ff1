//! What belongs to HTTP and to no resource: the one error type, the headers of writes, who may ask.

pub mod body;
pub mod compressed;
pub mod download;
pub mod extract;
pub mod front;
pub mod listed;
pub mod pages;
pub mod problem;
pub mod security;
pub mod serving;
