//! Over the years: what was found on boxes of a sheet by what they came in with, and how far a box has worn since it was here
//! last.

use std::collections::BTreeMap;

use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::Length;
use chrono::{DateTime, Utc};
use serde::Serialize;

use super::look_first::EarlierBox;
use super::record::{PartEntry, PartState, standing};
use super::wear::{Measured, wear_limit};
use crate::sheet::Sheet;

/// A year, in days (Julian year).
const YEAR_DAYS: f64 = 365.25;
/// Less than a month says nothing of a year.
const LEAST_YEARS: f64 = 1.0 / 12.0;

/// What was found on the boxes that came in with one complaint.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct FoundFor {
    /// The complaint as people say it.
    pub complaint: String,
    /// How many boxes came in with it and were looked at.
    pub boxes: usize,
    /// On how many of them something was found.
    pub explained: usize,
    /// The parts in which something was found, most often first.
    pub parts: Vec<OftenFound>,
}

/// A part in which something was found.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct OftenFound {
    /// The part's key.
    pub part: String,
    pub name: String,
    /// On how many boxes.
    pub boxes: usize,
    /// In what condition it was, most often first, with how often.
    pub conditions: Vec<(String, usize)>,
    /// How often another went in.
    pub renewed: usize,
}

/// What was found on boxes of a sheet, by what they came in with: the commonest complaint first.
#[must_use]
pub fn found_over_the_years(sheet: &Sheet, boxes: &[EarlierBox]) -> Vec<FoundFor> {
    let mut by_complaint: BTreeMap<String, Vec<&EarlierBox>> = BTreeMap::new();
    for one in boxes {
        for complaint in &one.complaints {
            by_complaint.entry(complaint.words()).or_default().push(one);
        }
    }
    let mut found: Vec<FoundFor> = by_complaint
        .into_iter()
        .map(|(complaint, boxes)| found_for(sheet, complaint, &boxes))
        .filter(|f| f.boxes > 0)
        .collect();
    found.sort_by_key(|f| std::cmp::Reverse(f.boxes));
    found
}

fn found_for(sheet: &Sheet, complaint: String, all: &[&EarlierBox]) -> FoundFor {
    let (mut boxes, mut explained) = (0, 0);
    let mut parts: BTreeMap<&str, (usize, usize, BTreeMap<&str, usize>)> = BTreeMap::new();
    for one in all {
        let stands = standing(&one.entries);
        let last = stands
            .iter()
            .filter_map(|(part, of)| Some((*part, of.last()?.0)));
        let (mut looked_at, mut any) = (false, false);
        for (part, finding) in last {
            looked_at = true;
            if !finding.is_of_a_fault() {
                continue;
            }
            any = true;
            let (count, renewed, words) = parts.entry(part).or_default();
            *count += 1;
            *renewed += usize::from(finding.state.is_got());
            for word in &finding.conditions {
                *words.entry(word).or_default() += 1;
            }
        }
        boxes += usize::from(looked_at);
        explained += usize::from(any);
    }
    let mut parts: Vec<OftenFound> = parts
        .into_iter()
        .map(|(part, (boxes, renewed, words))| {
            let mut conditions: Vec<(String, usize)> =
                words.into_iter().map(|(w, n)| (w.to_owned(), n)).collect();
            conditions.sort_by_key(|(_, n)| std::cmp::Reverse(*n));
            OftenFound {
                name: sheet.told_apart(part).unwrap_or_else(|| part.to_owned()),
                part: part.to_owned(),
                boxes,
                conditions,
                renewed,
            }
        })
        .collect();
    parts.sort_by_key(|p| std::cmp::Reverse(p.boxes));
    FoundFor {
        complaint,
        boxes,
        explained,
        parts,
    }
}

/// How long it is since a box was here, in years; none where it is too short to say anything of a year.
#[must_use]
pub fn years_between(then: DateTime<Utc>, now: DateTime<Utc>) -> Option<f64> {
    let seconds = (now - then).as_seconds_f64();
    let years = seconds / 86_400.0 / YEAR_DAYS;
    (years >= LEAST_YEARS).then_some(years)
}

/// How far a part has worn since its box was here last.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct WornSince {
    /// The part's key.
    pub part: String,
    pub name: String,
    /// What is measured.
    pub what: String,
    /// What it was then, in nanometres.
    pub then_nm: Length,
    /// A new one went in then, and that is the size of a new one.
    pub from_new: bool,
    /// Its size as measured this time, in nanometres.
    pub now_nm: Length,
    /// How far it wears in a year, in nanometres: above zero where it comes nearer to its limit.
    pub per_year_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_per_year_nm: f64,
    /// In how many years it would be at its limit; none where its wear cannot be told from nothing, or it is there already.
    pub lasts_years: Option<f64>,
}

/// How far the parts of a box have worn since it was here last, where a size is known of then and of now.
///
/// # Formula
/// `(s_then − s_now) / t` towards a lower limit, `(s_now − s_then) / t` towards an upper one;
/// `u = √(u_then² + u_now²) / t`, `U = 1.96 u` (JCGM 100:2008, 5.1.2 and G.3.4). A new part's size is the sheet's and
/// counts as known. `lasts = (s_now − limit) / rate`, where the rate is more than its `U`.
#[must_use]
pub fn worn_since(
    sheet: &Sheet,
    then: &[PartEntry],
    now: &[PartEntry],
    years: f64,
) -> Vec<WornSince> {
    let was = standing(then);
    let last = |part: &str| was.get(part).and_then(|of| of.last()).map(|of| of.0);
    let is = standing(now);
    let found = is.iter().filter_map(|(part, of)| {
        let measured: Measured = of.last()?.0.measured?;
        let limit = wear_limit(sheet, part)?;
        let before = last(part)?;
        let new_then = matches!(before.state, PartState::Renewed);
        let (then_nm, u_then) = if new_then {
            (limit.new.as_ref()?.length(), 0.0)
        } else {
            let size: Measured = before.measured?;
            (size.size_nm, size.u_nm)
        };
        let (size, u_now) = (measured.size_nm, measured.u_nm);
        let window = limit.window().ok()?;
        // Of two limits, the one that it has gone towards.
        let shrinks = match (window.low(), window.high()) {
            (Some(_), Some(_)) => size <= then_nm,
            (low, _) => low.is_some(),
        };
        let went = if shrinks {
            then_nm.as_f64() - size.as_f64()
        } else {
            size.as_f64() - then_nm.as_f64()
        };
        let per_year_nm = went / years;
        let expanded = t95(None) * u_then.hypot(u_now) / years;
        let at = if shrinks { window.low() } else { window.high() }?;
        let left = if shrinks {
            size.as_f64() - at.as_f64()
        } else {
            at.as_f64() - size.as_f64()
        };
        Some(WornSince {
            name: sheet.told_apart(part)?,
            part: (*part).to_owned(),
            what: limit.what.clone(),
            then_nm,
            from_new: new_then,
            now_nm: size,
            per_year_nm,
            expanded_per_year_nm: expanded,
            lasts_years: (per_year_nm > expanded && left > 0.0).then(|| left / per_year_nm),
        })
    });
    found.collect()
}
