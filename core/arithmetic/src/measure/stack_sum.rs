//! Stack sum: `c = housing depths − Σ part widths`. Each term has its own tolerance, or was measured;
//! `±t` known only as limits gives `u = t/√3` (JCGM 100:2008, 4.3.7).

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_nm};
use crate::measure::fields::{FieldFault, LONGEST, Shown, Taken, Typed, fault, up_to};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::uncertainty::student_t::t95;
use crate::units::length::{Length, Unit};
use crate::units::working::Line;

/// A term of a stack sum.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Term {
    pub what: String,
    /// It opens the gap (a housing's depth, a gasket); otherwise it fills it (a part's width).
    pub opens: bool,
    /// Its length on the sheet, in nanometres.
    pub length_nm: Length,
    /// The ± limits of that, where they are known.
    #[serde(default)]
    pub tolerance_nm: Option<Length>,
    /// What it measured, each time; then the sheet's figure does not count.
    #[serde(default)]
    pub measured_nm: Vec<Length>,
    /// Which gauge took each of those, by a number of its own; one took all where it is not said.
    #[serde(skip)]
    pub by: Vec<usize>,
}

/// A term of a stack sum, measured, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TermInput {
    /// Which term of the sheet, counted from 1.
    pub term: u16,
    /// What it measures.
    pub length: String,
}

/// A term of a stack sum, measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TermReading {
    /// Which term of the sheet, counted from 1.
    pub term: u16,
    /// What it measures.
    pub length_nm: Length,
}

impl Typed for TermInput {
    type Reading = TermReading;
    const METHODS: &'static [Method] = &[Method::StackSum];

    fn text(&self) -> String {
        format!("term {}: {}", self.term, self.length.trim())
    }

    fn read(&self, unit: Unit) -> Result<TermReading, FieldFault> {
        let length_nm = up_to("length", &self.length, unit, LONGEST)?;
        if length_nm == Length::ZERO {
            return Err(fault("length", "a part has a width above nothing"));
        }
        Ok(TermReading {
            term: self.term,
            length_nm,
        })
    }
}

impl Taken for TermReading {
    fn shown(&self) -> Shown {
        Shown::length_of(Some(self.length_nm), i64::from(self.term))
    }
}

/// The sheet's terms with what was measured of them, each by a gauge of that number.
pub(super) fn with_readings<'r>(
    terms: &[Term],
    readings: impl IntoIterator<Item = (&'r TermReading, usize)>,
) -> Vec<Term> {
    let mut terms = terms.to_vec();
    for (reading, by) in readings {
        let at = usize::from(reading.term).checked_sub(1);
        if let Some(term) = at.and_then(|at| terms.get_mut(at)) {
            term.measured_nm.push(reading.length_nm);
            term.by.push(by);
        }
    }
    terms
}

/// Why terms give no estimate.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum StackError {
    /// There is nothing to add up.
    #[error("the sheet has no terms for this sum: measure it another way")]
    NoTerms,
    /// A term of which nothing is known but a figure.
    #[error("{what}: its tolerance is not known, so measure it")]
    NoTolerance {
        /// The term.
        what: String,
    },
    /// A tolerance of nothing or less.
    #[error("{what}: a tolerance is a ± figure above zero; nothing made is exact")]
    BadTolerance {
        /// The term.
        what: String,
    },
    /// One measurement, and no idea of the scatter.
    #[error(
        "{what}: one measurement says nothing of its own scatter and this gauge has no stated repeatability: measure it a second time"
    )]
    MeasuredOnce {
        /// The term.
        what: String,
    },
    /// A length of nothing or less.
    #[error("{what}: a width or depth is more than nothing")]
    BadLength {
        /// The term.
        what: String,
    },
}

/// A stack added up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Sum {
    /// The smallest clearance that the limits of all terms allow together, in nanometres.
    pub worst_low_nm: f64,
    /// The largest.
    pub worst_high_nm: f64,
    /// The half-width of the 95 % interval by root-sum-square, in nanometres.
    pub expanded_nm: f64,
    /// The terms, in order.
    pub terms: Vec<Share>,
}

/// One term in a sum.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Share {
    pub what: String,
    /// It opens the gap.
    pub opens: bool,
    /// Its length in nanometres: as measured, or the sheet's.
    pub length_nm: f64,
    pub limits_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its share in the variance of the sum, 0 to 1.
    pub share: f64,
    /// It was measured.
    pub measured: bool,
}

/// Adds a stack up. `gauge` is what terms were measured with.
///
/// ```
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::stack_sum::{estimate, Term};
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let term = |what: &str, opens, length| Term {
///     what: what.into(), opens, length_nm: mm(length), tolerance_nm: Some(mm(3)), measured_nm: vec![], by: vec![],
/// };
/// // Common practice, no source: an 18.0 race with a 1.5 spacer stands in for a 19.5 race.
/// let old = [term("bore", true, 2_000), term("race", false, 1_950)];
/// let new = [term("bore", true, 2_000), term("race", false, 1_800), term("spacer", false, 150)];
/// let micrometer = Gauge::new(Length::from_nm(1_000), Length::from_nm(2_000), None).unwrap();
/// let sum = |terms: &[Term]| estimate(terms, micrometer, &[]).unwrap();
/// assert_eq!(sum(&old).0.clearance_nm, sum(&new).0.clearance_nm);
/// assert_eq!(sum(&old).1.worst_high_nm, 560_000.0);
/// ```
///
/// # Formula
/// `c = Σ opens − Σ fills`; `u² = Σ t²/3` of the terms known by limits (JCGM 100:2008, 4.3.7); worst case `± Σ t`. What was
/// measured by one gauge is off by its error alike: `(Σ ±1)² e²/3` over those terms, with their signs (5.2.2).
///
/// # Errors
/// Where there are no terms, a length or tolerance is nothing or less, a term is neither measured nor limited, or
/// one is measured once with a gauge of unknown scatter.
pub fn estimate(
    terms: &[Term],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<(Estimate, Sum), MeasureError> {
    if terms.is_empty() {
        return Err(StackError::NoTerms.into());
    }
    let mut shares = Vec::with_capacity(terms.len());
    let mut parts: Vec<Component> = Vec::new();
    let mut own = Vec::with_capacity(terms.len());
    for term in terms {
        let (share, of_term) = weigh(term, gauge)?;
        shares.push(share);
        own.push(of_term.iter().map(|p| p.u_nm * p.u_nm).sum::<f64>());
        parts.extend(of_term);
    }
    let by_gauge = of_gauges(terms);
    let u_error = gauge.u_error_nm();
    parts.extend(by_gauge.values().map(|counts| Component {
        from: Source::PermissibleError,
        u_nm: counts.abs() * u_error,
        dof: None,
    }));
    for ((share, own), term) in shares.iter_mut().zip(&own).zip(terms) {
        // What of its gauges' error it has in common with all that they measured.
        let of_term = of_gauges(std::slice::from_ref(term));
        let common: f64 = of_term.iter().map(|(by, of)| of * by_gauge[by]).sum();
        share.share = (own + common * u_error * u_error).max(0.0);
    }
    let all: f64 = shares.iter().map(|s| s.share).sum();
    for share in &mut shares {
        share.share = if all > 0.0 { share.share / all } else { 0.0 };
    }
    let signed = |s: &Share| if s.opens { s.length_nm } else { -s.length_nm };
    let trial_nm: f64 = shares.iter().map(signed).sum();
    let limits: f64 = shares.iter().map(|s| s.limits_nm).sum();
    let mut line = Line::new();
    for (at, share) in shares.iter().enumerate() {
        line = if at == 0 && share.opens {
            line.length(share.length_nm)
        } else {
            line.signed_length(signed(share))
        };
    }
    let found = Unadjusted {
        trial_nm,
        readings: terms.iter().map(|t| t.measured_nm.len()).sum(),
        spread_nm: 0.0,
        parts,
        scatter: None,
        working: vec![
            line.text(" = ").clearance(trial_nm),
            Line::new().text("worst case ± ").length(limits),
        ],
    };
    let estimate = Estimate {
        // Which way the sum goes as all its gauges read long.
        gauge_turned: by_gauge.values().sum::<f64>() < 0.0,
        ..finish(found, adjustments)?
    };
    let sum = Sum {
        worst_low_nm: estimate.clearance_nm - limits,
        worst_high_nm: estimate.clearance_nm + limits,
        expanded_nm: estimate.expanded_uncertainty_nm(),
        terms: shares,
    };
    Ok((estimate, sum))
}

/// By how much the sum grows as each of the gauges reads long by one, over the terms that it measured.
fn of_gauges(terms: &[Term]) -> BTreeMap<usize, f64> {
    let mut found = BTreeMap::new();
    for term in terms {
        let each = if term.opens { 1.0 } else { -1.0 } / term.measured_nm.len() as f64;
        for reading in 0..term.measured_nm.len() {
            let by = term.by.get(reading).copied().unwrap_or(0);
            *found.entry(by).or_default() += each;
        }
    }
    found
}

/// What is known of a term, and what that is made of beside the gauge's own error.
fn weigh(term: &Term, gauge: Gauge) -> Result<(Share, Vec<Component>), MeasureError> {
    let what = || term.what.clone();
    let lengths = term.measured_nm.iter().chain([&term.length_nm]);
    if lengths.into_iter().any(|l| *l <= Length::ZERO) {
        return Err(StackError::BadLength { what: what() }.into());
    }
    let share = |length_nm, limits_nm, u_nm, measured| Share {
        what: what(),
        opens: term.opens,
        length_nm,
        limits_nm,
        u_nm,
        share: 0.0,
        measured,
    };
    let part = |from, u_nm, dof| Component { from, u_nm, dof };
    if term.measured_nm.is_empty() {
        let tolerance = term
            .tolerance_nm
            .ok_or_else(|| StackError::NoTolerance { what: what() })?;
        if tolerance <= Length::ZERO {
            return Err(StackError::BadTolerance { what: what() }.into());
        }
        let u = tolerance.as_f64() / 3_f64.sqrt();
        return Ok((
            share(term.length_nm.as_f64(), tolerance.as_f64(), u, false),
            vec![part(Source::Tolerance, u, None)],
        ));
    }
    let n = term.measured_nm.len();
    let mean = mean_nm(&term.measured_nm);
    let squares: f64 = term
        .measured_nm
        .iter()
        .map(|l| (l.as_f64() - mean).powi(2))
        .sum();
    let own = (n > 1).then_some((squares, n as f64 - 1.0));
    let scatter = scatter(own, gauge.repeatability(), gauge.resolution().as_f64())
        .map_err(|_| StackError::MeasuredOnce { what: what() })?;
    let mut parts = vec![
        part(Source::Resolution, gauge.u_resolution_nm(), None),
        scatter.part(n),
    ];
    parts.retain(|p| p.u_nm > 0.0);
    let error = part(Source::PermissibleError, gauge.u_error_nm(), None);
    let (u, dof) = combined_uncertainty(&[&parts[..], &[error]].concat());
    Ok((share(mean, t95(dof) * u, u, true), parts))
}
