//! A part's size against its wear limit, with the doubt of the micrometer that it was taken with.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{Sign, parse};
use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::{Call, call_of};
use serde::{Deserialize, Serialize};

use crate::sheet::{Sheet, WearLimit};
use crate::shop::gauge_register::{RegisteredGauge, u_of_registered_micrometer};

/// A size that was measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Measured {
    pub size_nm: Length,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
}

/// A size as somebody types it.
#[derive(Clone, Copy, Debug)]
pub struct TypedSize<'a> {
    pub text: &'a str,
    /// The unit of a bare figure.
    pub unit: Unit,
    /// The key of the micrometer that it was taken with; none for the one that is taken up.
    pub gauge_key: Option<&'a str>,
}

/// What a size says of a part's wear.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Worn {
    pub size_nm: Length,
    /// The half-width of its 95 % interval in nanometres.
    pub expanded_nm: f64,
    /// Within its limits, below or above them, or too close to call.
    pub call: Call,
    /// The share of the wear from new to the limit that is used up: 0 as new, 1 at the limit. None where the new size is
    /// not known.
    pub used: Option<f64>,
}

/// Judges a size against its wear limit.
///
/// # Errors
/// Where the limits are none; a sheet that was taken in has none of those.
///
/// # Formula
/// In where `[s − U, s + U]` lies between the limits, `U = 1.96 u` (JCGM 100:2008, G.3.4, for infinitely many degrees of
/// freedom); worn out where it lies outside (in the manner of ISO 14253-1). Used up: `(new − s) / (new − limit)`.
pub fn judge_wear(limit: &WearLimit, measured: Measured) -> Ruled<Worn> {
    let window = limit.window().map_err(Refusal::fault)?;
    let Measured { size_nm, u_nm } = measured;
    let expanded_nm = t95(None) * u_nm;
    let size = size_nm.as_f64();
    let used = limit.new.as_ref().map(Written::length).map(|new| {
        let to = |limit: Option<Length>| {
            let limit = limit?.as_f64();
            let allowed = new.as_f64() - limit;
            (allowed != 0.0).then(|| (new.as_f64() - size) / allowed)
        };
        // Of two limits the one that it is nearer to.
        let uses = [to(window.low()), to(window.high())];
        uses.into_iter().flatten().fold(0.0, f64::max)
    });
    Ok(Worn {
        size_nm,
        expanded_nm,
        call: call_of(size, expanded_nm, window),
        used,
    })
}

/// What a size as typed says of a part's wear.
///
/// # Errors
/// Where the part has no limit, the size is no length, or the register has no such micrometer.
pub fn worn_by(
    sheet: &Sheet,
    part: &str,
    typed: TypedSize<'_>,
    register: &[RegisteredGauge],
) -> Ruled<Worn> {
    let (limit, measured) = measured_as(sheet, part, typed, register)?;
    judge_wear(limit, measured)
}

/// A size as typed, of a part that has a wear limit, taken with a micrometer.
///
/// # Errors
/// Where the part has no limit, the size is no length, or the register has no such micrometer.
pub fn measured_as<'a>(
    sheet: &'a Sheet,
    part: &str,
    typed: TypedSize<'_>,
    register: &[RegisteredGauge],
) -> Ruled<(&'a WearLimit, Measured)> {
    let Some(limit) = wear_limit(sheet, part) else {
        return Err(Refusal::field(
            "size",
            "No size is asked of this part: write a wear limit on the sheet, or put it in words.",
        ));
    };
    Ok((limit, read_off("size", typed, register)?))
}

/// The width of a part as typed, taken with a micrometer.
///
/// # Errors
/// Where the part does not lie on a rail, the width is no length, or the register has no such micrometer.
pub fn width_as(
    sheet: &Sheet,
    part: &str,
    typed: TypedSize<'_>,
    register: &[RegisteredGauge],
) -> Ruled<Measured> {
    let mut on_rails = sheet.shafts.iter().flat_map(|s| &s.parts);
    if !on_rails.any(|p| p.key == part) {
        return Err(Refusal::field(
            "width",
            "Only what lies on a shaft has a width along it: leave this empty.",
        ));
    }
    read_off("width", typed, register)
}

fn read_off(
    field: &'static str,
    typed: TypedSize<'_>,
    register: &[RegisteredGauge],
) -> Ruled<Measured> {
    let size = parse(typed.text, Some(typed.unit), Sign::NotNegative)
        .map_err(|fault| Refusal::field(field, fault))?;
    if size == Length::ZERO {
        return Err(Refusal::field(
            field,
            format!("Nothing was measured: type the {field}, such as 11.86."),
        ));
    }
    Ok(Measured {
        size_nm: size,
        u_nm: u_of_registered_micrometer(register, typed.gauge_key)?,
    })
}

/// The wear limit of a part or an item.
#[must_use]
pub fn wear_limit<'a>(sheet: &'a Sheet, key: &str) -> Option<&'a WearLimit> {
    let mut parts = sheet.shafts.iter().flat_map(|s| &s.parts);
    let mut items = sheet.items.iter();
    match parts.find(|p| p.key == key) {
        Some(part) => part.wear.as_ref(),
        None => items.find(|i| i.key == key)?.wear.as_ref(),
    }
}
