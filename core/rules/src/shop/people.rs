//! The people of a shop, and what it goes by.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Unit;

use crate::texts::shown;

/// The most characters of a name.
const LONGEST: usize = 80;

/// The initials as they are kept: two to four capital letters.
///
/// # Errors
/// Where they are not.
pub fn initials(typed: &str) -> Ruled<String> {
    let initials = shown(typed).to_uppercase();
    let fits =
        (2..=4).contains(&initials.len()) && initials.bytes().all(|b| b.is_ascii_uppercase());
    if fits {
        Ok(initials)
    } else {
        Err(Refusal::field(
            "initials",
            "Initials are two to four letters from A to Z, such as RT.",
        ))
    }
}

/// A name that is not empty, and not too long; `field` is where it was typed.
///
/// # Errors
/// Where it is either.
pub fn name<'a>(field: &'static str, typed: &'a str) -> Ruled<&'a str> {
    let name = shown(typed);
    if name.is_empty() || name.chars().count() > LONGEST {
        return Err(Refusal::field(
            field,
            format!("A name has from 1 to {LONGEST} characters."),
        ));
    }
    Ok(name)
}

/// The chance in window that a shop asks for: from a half, for less is no choice, to below certainty, which nothing reaches.
///
/// # Errors
/// Where it is neither.
pub fn required_probability(asked: f64) -> Ruled<f64> {
    if (0.5..1.0).contains(&asked) {
        Ok(asked)
    } else {
        Err(Refusal::field(
            "floor",
            "The chance asked for is at least 50 % and below 100 %.",
        ))
    }
}

/// The unit that a bench starts in: one that clearances are read in.
///
/// # Errors
/// Where it is whole inches, in which every clearance is nearly nothing.
pub fn bench_unit(asked: Unit) -> Ruled<Unit> {
    if asked == Unit::Inch {
        return Err(Refusal::field(
            "unit",
            "A bench starts in thou, mm or µm: choose one of them.",
        ));
    }
    Ok(asked)
}

/// Somebody may be said to work here no longer.
///
/// # Errors
/// Where nobody else would be left.
pub fn may_go(others_here: i64) -> Ruled<()> {
    if others_here == 0 {
        return Err(Refusal::conflict(
            "last-person",
            "Nobody would be left to sign anything: put somebody else in first.",
        ));
    }
    Ok(())
}
