//! The core: each rule against tables of cases, independent references and properties.

mod allocation;
mod bad_input;
mod bias;
mod centring;
mod certainty;
mod chart;
mod choosing;
mod drawer;
mod fallbacks;
mod files;
mod layers;
mod lengths;
mod method_inputs;
mod one_by_one;
mod pack;
mod plan;
mod purchase;
mod rules;
mod shape;
mod sums;
mod thermal;
mod writing;
