//! Families of selective parts.

use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::part::PartKind;

/// A family of selective parts: one drawer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Family)]
pub struct Family {
    /// A short name; sheets that share it share the drawer.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// What kind of part it is.
    pub kind: PartKind,
    /// The ± limits of a piece's thickness about its nominal.
    pub tolerance: Written,
    /// The sizes made.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sizes: Vec<Size>,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// One size made.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Size)]
pub struct Size {
    pub thickness: Written,
    /// The maker's own number for it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub number: String,
    /// It is no longer made.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub discontinued: bool,
}
