//! m
fn main(){}
