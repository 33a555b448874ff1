//! Lengths as files keep them: a figure with its unit, exactly as somebody wrote it.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::units::length::Length;
use crate::units::notation::{self, NotationError, Sign};

/// The name that schemas give to lengths in bench notation.
pub const LENGTH_FORMAT: &str = "bench-length";

/// A length as written in a sheet: a figure and its unit.
#[derive(Clone, Debug, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Written {
    text: String,
    length: Length,
}

/// Equal where the lengths are: `0.10 mm` and `0.1 mm` are the same.
impl PartialEq for Written {
    fn eq(&self, other: &Self) -> bool {
        self.length == other.length
    }
}

impl Written {
    /// How long it is, in whole nanometres.
    #[must_use]
    pub const fn length(&self) -> Length {
        self.length
    }

    /// As somebody wrote it.
    #[must_use]
    pub fn text(&self) -> &str {
        &self.text
    }
}

impl TryFrom<String> for Written {
    type Error = NotationError;
    fn try_from(text: String) -> Result<Self, NotationError> {
        let length = notation::parse(&text, None, Sign::Any)?;
        Ok(Self { text, length })
    }
}

impl From<Written> for String {
    fn from(written: Written) -> Self {
        written.text
    }
}

impl JsonSchema for Written {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Length".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "format": LENGTH_FORMAT,
            "description": "A length with its unit: mm, µm, thou (1/1000 inch) or in. Preload is negative.",
            "examples": ["0.10 mm", "4 thou", "1/64 in", "150 µm"]
        })
    }
}

impl utoipa::PartialSchema for Written {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        String::schema()
    }
}

impl utoipa::ToSchema for Written {
    fn name() -> std::borrow::Cow<'static, str> {
        "sheet.Length".into()
    }
}

impl From<Length> for Written {
    fn from(length: Length) -> Self {
        Self {
            text: length.to_string(),
            length,
        }
    }
}
