//! The stock of one family of selective parts, as the chooser sees it.

use serde::{Deserialize, Serialize};

use crate::length::Length;

/// Where a piece would come from; earlier is preferred.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Source {
    /// In the drawer now.
    OnHand,
    /// Made, but has to be ordered.
    ToOrder,
    /// No longer made: only to be had with luck.
    Discontinued,
}

/// One size that pieces can be had in.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Stock {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// The standard uncertainty of that thickness in nanometres.
    pub u_nm: f64,
    /// How many can be used.
    pub quantity: u32,
    /// Where they would come from.
    pub source: Source,
}

/// The standard uncertainty in nanometres of a piece known only to lie within `±tolerance`:
/// `t/√3` (JCGM 100:2008, 4.3.7).
#[must_use]
pub fn u_of_tolerance(tolerance: Length) -> f64 {
    tolerance.as_f64() / 3_f64.sqrt()
}
