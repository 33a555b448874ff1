//! The build, step by step.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Something to be done when the box is put together, in its order.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::BuildStep))]
pub struct BuildStep {
    /// A short name, unique among the steps.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What to do.
    pub what: String,
    /// Why it is done so, or now.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// Which face is up or out.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub facing: String,
    /// What goes on it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub lubricant: String,
    /// Which position the selectors must be in.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub selector: String,
    /// How many pieces are laid out for it, and none left at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<u32>,
    /// The torque, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque_n_m: Option<f64>,
    /// The thread is left-handed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub left_hand_thread: bool,
    /// The steps that must be done before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub needs: Vec<String>,
    /// The checks that must be signed off before the next step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hold: Vec<String>,
    /// Other ways of doing it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub alternatives: Vec<String>,
    /// What can hurt somebody or the box here.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
}
