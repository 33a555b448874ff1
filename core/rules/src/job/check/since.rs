//! A box that comes again: what is found of each check beside what was signed when it was here last.

use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::verdict::window::Ends;
use serde::Serialize;

use super::loaded::LoadedCheck;
use crate::sheet::{CheckKind, MeasuredWith};

/// A check as it was signed and as it was found.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct MovedSince {
    pub check_key: String,
    pub name: String,
    pub kind: CheckKind,
    pub window: Option<Ends>,
    /// The clearance that was signed then, in nanometres.
    pub signed_nm: f64,
    /// The clearance as found now, before anything was changed.
    pub found_nm: f64,
    /// How far it went, above zero where it grew looser.
    pub moved_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_nm: f64,
    /// It went further than its doubt.
    pub is_told: bool,
    /// How far it goes in a year; none where the time is too short, or nothing is told.
    pub per_year_nm: Option<f64>,
}

/// What a check was found at, before anything of it was changed: clearance and standard uncertainty in nanometres. None
/// where it is first measured otherwise than as it was found.
#[must_use]
pub fn as_found(check: &LoadedCheck) -> Option<(f64, f64)> {
    let as_it_was = check
        .check
        .set_by
        .as_ref()
        .is_none_or(|s| s.measured_with == MeasuredWith::AsFound);
    if !as_it_was {
        return None;
    }
    // The first setting was chosen on what was found; before it, what is measured is what was found.
    let first = check.record.settings.iter().min_by_key(|s| s.setting_no);
    match first {
        Some(first) if first.round == 0 => Some((first.measured_nm, first.u_nm)),
        Some(_) => None,
        None => {
            let estimate = check.assessment.estimate.as_ref()?;
            Some((estimate.clearance_nm, estimate.u_nm))
        }
    }
}

/// Each check that was signed then and has been measured as found now.
///
/// # Formula
/// `moved = found − signed`, `U = 1.96 √(u_signed² + u_found²)` (JCGM 100:2008, 5.1.2 and G.3.4). The uncertainty of what a
/// setting was chosen on is taken as that of its prediction, which is no smaller.
#[must_use]
pub fn moved_since(
    then: &[LoadedCheck],
    now: &[LoadedCheck],
    years: Option<f64>,
) -> Vec<MovedSince> {
    let moved = now.iter().filter_map(|check| {
        let key = &check.record.check_key;
        let was = then.iter().find(|c| c.record.check_key == *key)?;
        was.record.signature()?;
        let signed = was.assessment.estimate.as_ref()?;
        let (found_nm, u_found) = as_found(check)?;
        let moved_nm = found_nm - signed.clearance_nm;
        let expanded_nm = t95(None) * signed.u_nm.hypot(u_found);
        let is_told = moved_nm.abs() > expanded_nm;
        Some(MovedSince {
            check_key: key.clone(),
            name: check.check.name.clone(),
            kind: check.check.kind,
            window: check.check.working_window().map(Ends::from),
            signed_nm: signed.clearance_nm,
            found_nm,
            moved_nm,
            expanded_nm,
            is_told,
            per_year_nm: years.filter(|_| is_told).map(|years| moved_nm / years),
        })
    });
    moved.collect()
}
