//! How far a part may be worn.

use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::window::{Window, WindowError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The size by which it is told whether a part is worn out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::WearLimit)]
pub struct WearLimit {
    /// What is measured, and how: thickness of the pads, free length.
    #[schemars(length(min = 1, max = 60))]
    pub what: String,
    /// What it is when new.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub new: Option<Written>,
    /// Below this it is worn out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at_least: Option<Written>,
    /// Above this it is worn out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub at_most: Option<Written>,
}

impl WearLimit {
    /// The sizes at which it is not worn out.
    ///
    /// # Errors
    /// Where neither limit is given, or they are the wrong way round.
    pub fn window(&self) -> Result<Window, WindowError> {
        let length = |of: &Option<Written>| of.as_ref().map(Written::length);
        Window::new(length(&self.at_least), length(&self.at_most))
    }
}
