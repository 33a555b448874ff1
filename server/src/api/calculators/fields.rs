//! Fields of the sums, as people type them.

use anvil_core::units::length::{Length, Unit};
use anvil_core::units::notation::{self, Sign};
use anvil_core::verdict::window::Window;

use crate::http::problem::{ApiResult, Problem};

/// A length as typed.
pub(super) fn one(field: &'static str, text: &str, unit: Unit, sign: Sign) -> ApiResult<Length> {
    notation::parse(text, Some(unit), sign).map_err(|e| Problem::field(field, e))
}

/// A length as typed, where anything is.
pub(super) fn some(field: &'static str, text: &str, unit: Unit) -> ApiResult<Option<Length>> {
    match text.trim() {
        "" => Ok(None),
        text => one(field, text, unit, Sign::Any).map(Some),
    }
}

/// A window as typed; none where both limits are empty.
pub(super) fn window_of(low: &str, high: &str, unit: Unit) -> ApiResult<Option<Window>> {
    let (low, high) = (some("low", low, unit)?, some("high", high, unit)?);
    if low.is_none() && high.is_none() {
        return Ok(None);
    }
    Window::new(low, high)
        .map(Some)
        .map_err(|e| Problem::field("low", e))
}
