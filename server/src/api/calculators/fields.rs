//! Fields of the sums, as people type them.

use anvil_arithmetic::uncertainty::gauge::{Gauge, Repeatability};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_arithmetic::verdict::window::Window;

use crate::http::problem::{ApiResult, Problem};

/// A length as typed.
pub(super) fn one(field: &'static str, text: &str, unit: Unit, sign: Sign) -> ApiResult<Length> {
    notation::parse(text, Some(unit), sign).map_err(|e| Problem::field(field, e))
}

/// A length as typed, where anything is.
pub(super) fn some(
    field: &'static str,
    text: &str,
    unit: Unit,
    sign: Sign,
) -> ApiResult<Option<Length>> {
    match text.trim() {
        "" => Ok(None),
        text => one(field, text, unit, sign).map(Some),
    }
}

/// A length as typed, nothing or more; nothing where the field is empty.
pub(super) fn or_nothing(field: &'static str, text: &str, unit: Unit) -> ApiResult<Length> {
    Ok(some(field, text, unit, Sign::NotNegative)?.unwrap_or_default())
}

/// A gauge by its step and its ± error.
pub(super) fn gauge_of(
    step: &str,
    error: &str,
    unit: Unit,
    scatter: impl Fn(Length) -> Option<Repeatability>,
) -> ApiResult<Gauge> {
    let step = one("step", step, unit, Sign::NotNegative)?;
    let error = or_nothing("error", error, unit)?;
    // A step of nothing is told by its own field, not by the scatter that would stand for it.
    let known = scatter(step).filter(|_| step > Length::ZERO);
    Gauge::new(step, error, known).map_err(|e| {
        let field = match e.field() {
            "permissible_error" => "error",
            _ => "step",
        };
        Problem::field(field, e)
    })
}

/// A window as typed; none where both limits are empty.
pub(super) fn window_of(low: &str, high: &str, unit: Unit) -> ApiResult<Option<Window>> {
    let limit = |field, text| some(field, text, unit, Sign::Any);
    let (low, high) = (limit("low", low)?, limit("high", high)?);
    if low.is_none() && high.is_none() {
        return Ok(None);
    }
    Window::new(low, high)
        .map(Some)
        .map_err(|e| Problem::field("low", e))
}
