//! A part of another width: what the stack sums that hold it would come to, before anything is bought.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{Sign, parse};
use anvil_arithmetic::verdict::window::Ends;
use anvil_arithmetic::verdict::{Call, call_of};
use serde::Serialize;

use crate::sheet::{CheckKind, Sheet, StackTerm};

/// What a stack sum would come to with a part of another width.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct AtWidth {
    pub check_key: String,
    pub name: String,
    pub kind: CheckKind,
    pub window: Option<Ends>,
    /// The sum with the part as the sheet has it, in nanometres.
    pub was_nm: Length,
    /// The sum with the other width.
    pub now_nm: Length,
    /// The half-width of the 95 % interval of that, from the limits of the other terms.
    pub expanded_nm: f64,
    /// Whether that lies in the window; none where the check has none.
    pub call: Option<Call>,
}

/// Whether a stack sum holds a part.
pub(super) fn in_a_sum(sheet: &Sheet, part: &str) -> bool {
    let mut terms = sheet.checks.iter().flat_map(|c| &c.stack);
    terms.any(|t| t.part.as_deref() == Some(part))
}

/// The stack sums that hold a part, with another width of it; the clearances that are only measured say nothing before that.
///
/// # Errors
/// Where the width is no length, or no stack sum holds the part.
///
/// # Formula
/// `c = Σ sᵢ lᵢ` with the part's own term at the new width, its limits as they were; a term's limits ± a are a rectangle,
/// `u = a / √3` (JCGM 100:2008, 4.3.7), `U = 1.96 √Σ u²`.
pub fn at_width(sheet: &Sheet, part: &str, (typed, unit): (&str, Unit)) -> Ruled<Vec<AtWidth>> {
    let width = parse(typed, Some(unit), Sign::NotNegative)
        .map_err(|fault| Refusal::field("width", fault))?;
    if width == Length::ZERO {
        return Err(Refusal::field(
            "width",
            "A part has a width: type it, such as 17.8.",
        ));
    }
    let of_part = |t: &&StackTerm| t.part.as_deref() == Some(part);
    let holding = sheet
        .checks
        .iter()
        .filter(|c| c.stack.iter().any(|t| of_part(&t)));
    let sums: Vec<AtWidth> = holding
        .map(|check| {
            let sum = |with: Option<Length>| {
                let terms = check.stack.iter().map(|t| {
                    let length = with.filter(|_| of_part(&t)).unwrap_or(t.length.length());
                    i64::from(t.sign) * length.nm()
                });
                Length::from_nm(terms.sum())
            };
            let limits = check.stack.iter().filter_map(|t| t.tolerance.as_ref());
            let variance: f64 = limits.map(|a| a.length().as_f64().powi(2) / 3.0).sum();
            let expanded_nm = t95(None) * variance.sqrt();
            let now_nm = sum(Some(width));
            let window = check.working_window();
            AtWidth {
                check_key: check.key.clone(),
                name: check.name.clone(),
                kind: check.kind,
                window: window.map(Ends::from),
                was_nm: sum(None),
                now_nm,
                expanded_nm,
                call: window.map(|w| call_of(now_nm.as_f64(), expanded_nm, w)),
            }
        })
        .collect();
    if sums.is_empty() {
        return Err(Refusal::missing(
            "No stack sum on the sheet holds this part: what it changes is measured.",
        ));
    }
    Ok(sums)
}
