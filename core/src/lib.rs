//! The rules of setting axial clearances in gearboxes.
//!
//! Pure computation: no input or output, no clock, no web, no database. One room for each noun:
//!
//! - [`length`], [`notation`], [`slips`]: lengths, how people write them, how they slip;
//! - [`gauge`], [`measure`], [`estimate`]: from readings to a clearance with its uncertainty;
//! - [`live`]: a digital gauge's lines;
//! - [`window`], [`judge`]: what is allowed, what is aimed at, and the verdict;
//! - [`wanted`], [`drawer`], [`choose`]: from a clearance to the pieces that set it;
//! - [`confirm`]: what was achieved against what was predicted;
//! - [`sheet`], [`rail`], [`pack`]: what a shop knows about one model of box, its drawing, its clutch packs;
//! - [`plan`], [`usual`], [`thermal`]: closings of the case, how predictions came out, hot and cold;
//! - [`piece`], [`centring`], [`rollers`], [`ratio`], [`fit`], [`convert`]: the other sums of the bench, and [`lists`]
//!   typed in one field;
//! - [`stock_csv`]: drawers in and out as CSV;
//! - [`next`]: the one thing a job waits for;
//! - [`working`]: the arithmetic behind each answer.
//!
//! The walk of one reading is a chain of pure functions: text → [`length::Length`] →
//! [`estimate::Estimate`] → [`judge::Verdict`] → [`wanted::Wanted`] → [`choose::Choices`] →
//! [`confirm::OffPrediction`].

pub mod centring;
pub mod chart;
pub mod choose;
pub mod confirm;
pub mod convert;
mod csv_text;
pub mod drawer;
pub mod estimate;
pub mod fit;
pub mod gauge;
pub mod judge;
pub mod length;
pub mod lists;
pub mod live;
pub mod measure;
pub mod next;
pub mod notation;
pub mod pack;
pub mod piece;
pub mod plan;
pub mod rail;
pub mod ratio;
pub mod rollers;
pub mod sheet;
pub mod slips;
pub mod stock_csv;
pub mod thermal;
pub mod usual;
pub mod wanted;
pub mod window;
pub mod working;
