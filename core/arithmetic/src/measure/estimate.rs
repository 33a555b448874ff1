//! What all methods end in: contributions combined, and the trial build made the final one.

use crate::measure::scatter::Scatter;
use crate::measure::{Adjustment, MeasureError};
use crate::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::uncertainty::student_t::t95;
use crate::units::length::Length;
use crate::units::working::{Line, Working};

/// The mean of whole lengths in nanometres. The sum is taken in whole numbers over the first of
/// them, so that nearly equal readings lose nothing.
pub(crate) fn mean_nm(lengths: &[Length]) -> f64 {
    let first = lengths[0].nm();
    let over: i128 = lengths.iter().map(|t| i128::from(t.nm() - first)).sum();
    first as f64 + over as f64 / lengths.len() as f64
}

/// What a way has found before the trial build is made the final one.
pub(super) struct Unadjusted {
    /// The clearance in the trial build.
    pub trial_nm: f64,
    pub readings: usize,
    pub spread_nm: f64,
    pub parts: Vec<Component>,
    /// The scatter that counts, to be spoken of in the working.
    pub scatter: Option<Scatter>,
    pub working: Working,
}

/// The largest figure less the smallest.
pub(super) fn spread(figures: &[f64]) -> f64 {
    let largest = figures.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let smallest = figures.iter().copied().fold(f64::INFINITY, f64::min);
    largest - smallest
}

/// What a gauge's step, at each of so many looks, and its permissible error add.
pub(super) fn of_gauge(gauge: Gauge, looks: usize) -> impl Iterator<Item = Component> {
    let part = |from, u_nm| Component {
        from,
        u_nm,
        dof: None,
    };
    let step = part(Source::Resolution, gauge.u_resolution_nm());
    std::iter::repeat_n(step, looks).chain([part(Source::PermissibleError, gauge.u_error_nm())])
}

/// Makes the trial clearance the final one, and combines all contributions.
pub(super) fn finish(
    found: Unadjusted,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    if let Some(bad) = adjustments.iter().find(|a| a.tolerance < Length::ZERO) {
        return Err(MeasureError::NegativeTolerance {
            what: bad.what.clone(),
        });
    }
    let Unadjusted {
        trial_nm,
        readings,
        spread_nm,
        mut parts,
        scatter,
        mut working,
    } = found;
    parts.extend(adjustments.iter().map(|a| Component {
        from: Source::Adjustment,
        u_nm: a.tolerance.as_f64() / 3_f64.sqrt(),
        dof: None,
    }));
    parts.retain(|p| p.u_nm > 0.0);
    let (u_nm, dof) = combined_uncertainty(&parts);
    let clearance_nm = trial_nm + shift_nm(adjustments);
    if !adjustments.is_empty() {
        let mut line = Line::new().length(trial_nm);
        for a in adjustments {
            line = line
                .signed_length(a.by.as_f64())
                .text(format!(" ({})", a.what));
        }
        working.push(line.text(" = ").clearance(clearance_nm));
    }
    let mut estimate = Estimate {
        clearance_nm,
        u_nm,
        dof,
        readings,
        spread_nm,
        parts,
        bracket: None,
        can_sign_off: true,
        gauge_turned: false,
        notes: Vec::new(),
        working,
    };
    estimate
        .working
        .extend(scatter.map(|s| s.line(readings, u_nm)));
    if readings == 2 && scatter.is_some_and(|s| s.from == Source::Repeatability) {
        estimate.working.push(Line::new().text(
            "two readings cannot tell a stand that scatters more than its gauge is known to: a third can",
        ));
    }
    estimate.working.push(
        Line::new()
            .text("by JCGM 100: ± ")
            .number(t95(estimate.dof), 2)
            .text(" × u = ± ")
            .length(t95(estimate.dof) * u_nm),
    );
    estimate.working.push(
        Line::new()
            .text("scatter and limits folded, 95 %: ± ")
            .length(estimate.expanded_uncertainty_nm()),
    );
    Ok(estimate)
}

/// How much the clearance grows from the trial build to the final one.
pub(super) fn shift_nm(adjustments: &[Adjustment]) -> f64 {
    adjustments.iter().map(|a| a.by.as_f64()).sum()
}

/// A line of more figures than this is not read by anyone.
const MOST_SHOWN: usize = 8;

/// `(a + b + c) ÷ 3 = m`.
pub(super) fn mean_line(figures: &[f64], mean: f64) -> Line {
    let n = figures.len();
    if n == 1 {
        return Line::new().text("one reading, ").length(mean);
    }
    let mut line = Line::new().text("(");
    for (i, figure) in figures.iter().take(MOST_SHOWN).enumerate() {
        if i > 0 {
            line = line.text(" + ");
        }
        line = line.length(*figure);
    }
    if n > MOST_SHOWN {
        line = line.text(" + …");
    }
    line.text(format!(") ÷ {n} = ")).length(mean)
}
