//! A part in its bore.

use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A bore and the part that goes in it, each as its drawing has it; either is measured where it can be.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Fit)]
pub struct Fit {
    pub bore: FitSide,
    pub part: FitSide,
    /// The clearance on the diameter that lets the part drop in when the bore is hot or the part cold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drop_in: Option<Written>,
    /// The widest clearance on the diameter that the shop's retaining compound fills, by its maker.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub compound_up_to: Option<Written>,
}

/// One of the two, at 20 °C.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::FitSide)]
pub struct FitSide {
    /// What people call it.
    #[schemars(length(min = 1, max = 80))]
    pub what: String,
    /// What it is made of.
    pub material: Material,
    /// Its diameter: the middle of its limits.
    pub diameter: Written,
    /// The ± limits of that; without them it has to be measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
}

/// A bore and its part further apart than this are two figures of which one is wrong.
pub const FURTHEST_APART: Length = Length::from_nm(1_000_000);

/// Whether two diameters are near enough for one to be the bore of the other.
#[must_use]
pub const fn could_fit(bore: Length, part: Length) -> bool {
    bore.nm().abs_diff(part.nm()) < FURTHEST_APART.nm().unsigned_abs()
}

impl Fit {
    /// The two as terms of a sum: the bore opens, the part fills.
    #[must_use]
    pub fn terms(&self) -> Vec<Term> {
        vec![self.bore.term(true), self.part.term(false)]
    }
}

impl FitSide {
    fn term(&self, opens: bool) -> Term {
        Term {
            what: self.what.clone(),
            opens,
            length_nm: self.diameter.length(),
            tolerance_nm: self.tolerance.as_ref().map(Written::length),
            measured_nm: Vec::new(),
            by: Vec::new(),
        }
    }
}
