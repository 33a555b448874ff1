//! What to measure next: which term of a sum, measured in place of its limits, would take the verdict furthest.

use serde::{Deserialize, Serialize};

use crate::measure::stack_sum::{self, Sum, Term};
use crate::measure::{Adjustment, MeasureError};
use crate::uncertainty::estimate::Estimate;
use crate::uncertainty::gauge::Gauge;
use crate::verdict::window::Window;

/// A term that is known by its limits only, and what measuring it would do.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct NextTerm {
    /// Which, counted from 1.
    pub term: usize,
    /// The chance that the verdict is then in the window, 0 to 1.
    pub inside: f64,
    /// The chance that it is then settled, in or out.
    pub settled: f64,
    /// The half-width of the 95 % interval of the sum then, in nanometres.
    pub expanded_nm: f64,
}

/// What measuring each term would do that is known by its limits only, the one that would most likely settle the verdict
/// first.
///
/// # Formula
/// The term lies anywhere within its limits `± t` (JCGM 100:2008, 4.3.7), so once it is measured the sum does:
/// `P(in) = |[c − t, c + t] ∩ [L + U′, H − U′]| / 2t`, with `U′` what is left of the doubt; out likewise beyond `L − U′` and
/// `H + U′`.
///
/// # Errors
/// As of [`stack_sum::estimate`], with the term measured by this gauge.
pub fn next_terms(
    terms: &[Term],
    gauge: Gauge,
    adjustments: &[Adjustment],
    (now, sum): (&Estimate, &Sum),
    window: Window,
) -> Result<Vec<NextTerm>, MeasureError> {
    let mut found = Vec::new();
    for (at, share) in sum.terms.iter().enumerate().filter(|(_, s)| !s.measured) {
        let mut measured = terms.to_vec();
        let Some(term) = measured.get_mut(at) else {
            continue;
        };
        // Once where the gauge's scatter is known, twice where the readings have to tell it.
        let times = if gauge.repeatability().is_some() {
            1
        } else {
            2
        };
        term.measured_nm = vec![term.length_nm; times];
        let (then, _) = stack_sum::estimate(&measured, gauge, adjustments)?;
        let expanded_nm = then.expanded_uncertainty_nm();
        let (c, t) = (now.clearance_nm, share.limits_nm);
        let share_between = |from: f64, to: f64| {
            let (from, to) = (from.max(c - t), to.min(c + t));
            ((to - from) / (2.0 * t)).clamp(0.0, 1.0)
        };
        let (low, high) = (window.low_nm(), window.high_nm());
        let inside = share_between(low + expanded_nm, high - expanded_nm);
        let tight = share_between(f64::NEG_INFINITY, low - expanded_nm);
        let loose = share_between(high + expanded_nm, f64::INFINITY);
        found.push(NextTerm {
            term: at + 1,
            inside,
            settled: (inside + tight + loose).min(1.0),
            expanded_nm,
        });
    }
    found.sort_by(|a, b| {
        let surer = b.settled.total_cmp(&a.settled);
        surer.then(a.expanded_nm.total_cmp(&b.expanded_nm))
    });
    Ok(found)
}
