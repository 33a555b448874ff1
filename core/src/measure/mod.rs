//! The ways of measuring. Each ends in an [`Estimate`].
//!
//! One file a method: [`dial`], [`feeler`], [`depth_ring`] (from a bar), [`stack_sum`], [`known_shim`],
//! [`turning_torque`], [`pinions`] (one by one), [`selector_gaps`], [`by_hand`], and [`proof`], a question answered
//! yes or no. A travel with no shim fitted is a dial travel. [`comparison`] lays two methods side by side, [`input`]
//! is what was typed, `dispatch` hands it to its method.

pub mod by_hand;
pub mod centring;
pub mod comparison;
pub mod depth_ring;
pub mod dial;
mod dispatch;
pub mod feeler;
pub mod input;
pub mod known_shim;
pub mod pinions;
pub mod proof;
mod scatter;
pub mod selector_gaps;
pub mod stack_sum;
pub mod turning_torque;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::uncertainty::estimate::{Component, Estimate, Source, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::Length;
use crate::units::working::{Line, Working};

pub use dispatch::{
    Basis, Detail, MethodResult, measure, own_scatter, torques, tries, with_measured,
};
pub use scatter::{Pool, Scatter, scatter};

/// A way of taking a check.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Serialize,
    Deserialize,
    schemars::JsonSchema,
    strum::EnumString,
    strum::IntoStaticStr,
)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // the names are the trade's own
#[strum(serialize_all = "snake_case")]
pub enum Method {
    DialTravel,
    Feeler,
    DepthFromBar,
    StackSum,
    NoShim,
    KnownShim,
    TurningTorque,
    OneByOne,
    SelectorGaps,
    YesNo,
    ByHand,
}

impl Method {
    /// Every way.
    pub const ALL: [Self; 11] = [
        Self::DialTravel,
        Self::Feeler,
        Self::DepthFromBar,
        Self::StackSum,
        Self::NoShim,
        Self::KnownShim,
        Self::TurningTorque,
        Self::OneByOne,
        Self::SelectorGaps,
        Self::YesNo,
        Self::ByHand,
    ];
}

/// What differs between the trial build the readings were taken in and the final build, and by
/// how much it moves the clearance: `c_final = c_trial + Σ by`.
#[derive(Clone, Debug, PartialEq)]
pub struct Adjustment {
    /// What differs, in words.
    pub what: String,
    /// How much the clearance grows (or shrinks, below zero) towards the final build.
    pub by: Length,
    /// The ± limits of `by`; taken as a rectangular spread, `t/√3`.
    pub tolerance: Length,
}

/// Why readings give no estimate.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum MeasureError {
    /// There is nothing to work on.
    #[error("there is no reading yet: take one")]
    NoReadings,
    /// A travel below zero.
    #[error(
        "reading {trial} is below zero: a travel is zero or more, so zero the dial with the shaft home"
    )]
    Negative {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// Nothing moved.
    #[error(
        "no float at all: what does not move may be preloaded, and a preload cannot be felt. Take the shim out and measure without, or fit a known shim that opens the gap"
    )]
    NoFloat,
    /// One reading and no idea of the scatter.
    #[error(
        "one reading says nothing of its own scatter and this gauge has no stated repeatability: take a second reading"
    )]
    ScatterUnknown,
    /// Nothing to measure with.
    #[error("the gauge register has no gauge for this way: enter one under Gauges")]
    NoGauge,
    /// A tolerance below zero.
    #[error("adjustment “{what}”: its tolerance is a ± figure, so it is zero or more")]
    NegativeTolerance {
        /// The adjustment's own words.
        what: String,
    },
    /// A plunger further from parallel than any reading survives.
    #[error("reading {trial}: the plunger's tilt is an angle from 0° to below 60°")]
    BadTilt {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// See [`feeler::FeelerError`].
    #[error(transparent)]
    Feeler(#[from] feeler::FeelerError),
    /// See [`depth_ring::RingError`].
    #[error(transparent)]
    Ring(#[from] depth_ring::RingError),
    /// See [`stack_sum::StackError`].
    #[error(transparent)]
    Stack(#[from] stack_sum::StackError),
    /// See [`known_shim::KnownShimError`].
    #[error(transparent)]
    KnownShim(#[from] known_shim::KnownShimError),
    /// See [`turning_torque::TorqueError`].
    #[error(transparent)]
    Torque(#[from] turning_torque::TorqueError),
    /// See [`pinions::PinionsError`].
    #[error(transparent)]
    Pinions(#[from] pinions::PinionsError),
    /// See [`selector_gaps::SelectorError`].
    #[error(transparent)]
    Selector(#[from] selector_gaps::SelectorError),
    /// See [`by_hand::ByHandError`].
    #[error(transparent)]
    ByHand(#[from] by_hand::ByHandError),
}

/// The mean of whole lengths in nanometres. The sum is taken in whole numbers over the first of
/// them, so that nearly equal readings lose nothing.
pub(crate) fn mean_nm(lengths: &[Length]) -> f64 {
    let first = lengths[0].nm();
    let over: i128 = lengths.iter().map(|t| i128::from(t.nm() - first)).sum();
    first as f64 + over as f64 / lengths.len() as f64
}

/// What a way has found before the trial build is made the final one.
pub(crate) struct Unadjusted {
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
pub(crate) fn spread(figures: &[f64]) -> f64 {
    let largest = figures.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let smallest = figures.iter().copied().fold(f64::INFINITY, f64::min);
    largest - smallest
}

/// What a gauge's step, seen `looks` times over, and its permissible error add.
pub(crate) fn of_gauge(gauge: Gauge, looks: f64) -> [Component; 2] {
    let part = |from, u_nm| Component {
        from,
        u_nm,
        dof: None,
    };
    [
        part(Source::Resolution, gauge.u_resolution_nm() * looks.sqrt()),
        part(Source::PermissibleError, gauge.u_error_nm()),
    ]
}

/// Makes the trial clearance the final one, and combines all contributions.
pub(crate) fn finish(
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
        notes: Vec::new(),
        working,
    };
    estimate
        .working
        .extend(scatter.map(|s| s.line(readings, u_nm)));
    estimate.working.push(
        Line::new()
            .text("95 %: ± ")
            .number(crate::uncertainty::student_t::t95(estimate.dof), 2)
            .text(" × u = ± ")
            .length(estimate.expanded_uncertainty_nm()),
    );
    Ok(estimate)
}

/// How much the clearance grows from the trial build to the final one.
pub(crate) fn shift_nm(adjustments: &[Adjustment]) -> f64 {
    adjustments.iter().map(|a| a.by.as_f64()).sum()
}

/// A line of more figures than this is not read by anyone.
const MOST_SHOWN: usize = 8;

/// `(a + b + c) ÷ 3 = m`.
pub(crate) fn mean_line(figures: &[f64], mean: f64) -> Line {
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
