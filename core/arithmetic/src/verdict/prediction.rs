//! What was achieved, against what was predicted.

use serde::{Deserialize, Serialize};

use crate::uncertainty::estimate::{Estimate, explained_nm};
use crate::units::working::{Line, Working};

/// A clearance measured after fitting, beside its prediction.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PredictionError {
    /// Measured less predicted, in nanometres; below zero is tighter than predicted.
    pub off_nm: f64,
    /// The largest difference that both uncertainties explain (95 %), in nanometres.
    pub explained_nm: f64,
    /// How the difference reads.
    pub reading: Agreement,
    /// The arithmetic.
    pub working: Working,
}

/// Whether measured and predicted agree.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Agreement {
    /// The difference is within what both figures allow.
    Agrees,
    /// Tighter than both allow: the stack is in effect thicker than its pieces (oil, dirt, a
    /// burr, oversize pieces), or the first figure was long.
    Tighter,
    /// Looser than both allow: a piece not home when first measured, or thinner than marked.
    Looser,
}

/// Compares a measured clearance with its prediction.
///
/// The difference is explained where the doubts of both reach so far.
///
/// # Formula
/// Explained where `|c − c'| ≤ t95(ν) √(u² + u'²)` (the normalised error of ISO 13528).
#[must_use]
pub fn prediction_error(
    measured: &Estimate,
    predicted_nm: f64,
    u_predicted_nm: f64,
    dof_predicted: Option<f64>,
) -> PredictionError {
    let off_nm = measured.clearance_nm - predicted_nm;
    let explained_nm = explained_nm(
        (measured.u_nm, measured.dof),
        (u_predicted_nm, dof_predicted),
    );
    let reading = if off_nm.abs() <= explained_nm {
        Agreement::Agrees
    } else if off_nm < 0.0 {
        Agreement::Tighter
    } else {
        Agreement::Looser
    };
    let working = vec![
        Line::new()
            .text("measured ")
            .clearance(measured.clearance_nm)
            .text(", predicted ")
            .clearance(predicted_nm)
            .text(": ")
            .length(off_nm.abs())
            .text(if off_nm < 0.0 { " tighter" } else { " looser" })
            .text("; both together allow ± ")
            .length(explained_nm),
    ];
    PredictionError {
        off_nm,
        explained_nm,
        reading,
        working,
    }
}
