//! Predicted against achieved, over finished boxes: the usual difference and its spread.
//!
//! A shop's stacks may come out tighter than their pieces say (oil, a burr, how the case is
//! pulled up), box after box. The mean of the differences is then a correction to the next
//! prediction (JCGM 100:2008, 3.2.4); it is offered, and counts only where a person says so.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ChiSquared, ContinuousCDF};

use crate::uncertainty::estimate::{Component, Source, combined_uncertainty};
use crate::uncertainty::student_t::t95;

/// Of fewer boxes than this nothing is usual.
pub const ENOUGH_BOXES: usize = 5;

/// What was predicted for one box, and what was measured once the pieces were in.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CameOut {
    /// The clearance predicted, in nanometres, without any correction.
    pub predicted_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_predicted_nm: f64,
    /// The clearance achieved, in nanometres.
    pub achieved_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_achieved_nm: f64,
}

impl CameOut {
    /// By how much the box came out looser than predicted, in nanometres.
    #[must_use]
    pub fn difference_nm(&self) -> f64 {
        self.achieved_nm - self.predicted_nm
    }

    /// The half-width of the 95 % interval of that, in nanometres: both figures' uncertainties, root-sum-square.
    #[must_use]
    pub fn expanded_nm(&self) -> f64 {
        t95(None) * self.u_predicted_nm.hypot(self.u_achieved_nm)
    }
}

/// The usual difference, achieved less predicted: looser above zero.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bias {
    /// How many boxes it is of.
    pub boxes: usize,
    /// The mean of the differences in nanometres.
    pub mean_nm: f64,
    /// Their standard deviation in nanometres.
    pub spread_nm: f64,
    /// The half-width of the range that one box in twenty falls out of, in nanometres.
    pub expanded_spread_nm: f64,
    /// The spread that the uncertainties of both figures explain, in nanometres.
    pub explained_nm: f64,
    /// The differences spread more than that explains (chi-square, 5 %).
    pub spreads_more: bool,
    /// The mean is further from nothing than chance brings it in one case of twenty.
    pub matters: bool,
    /// The standard uncertainty of the mean as a correction, in nanometres: `s/√n`, and the spread
    /// that nothing explains with it where there is one.
    pub u_nm: f64,
    /// The degrees of freedom of that.
    pub dof: f64,
}

/// The usual difference over finished boxes; none of fewer than [`ENOUGH_BOXES`].
///
/// ```
/// use anvil_arithmetic::uncertainty::bias::{bias, CameOut};
/// let outcomes: Vec<CameOut> = [-3.0, -2.0, -4.0, -3.5, -2.5].map(|d| CameOut {
///     predicted_nm: 100e3, u_predicted_nm: 2e3, achieved_nm: 100e3 + d * 1e3, u_achieved_nm: 1e3,
/// }).to_vec();
/// let found = bias(&outcomes).unwrap();
/// assert!((found.mean_nm + 3_000.0).abs() < 1e-6 && found.matters && !found.spreads_more);
/// ```
#[must_use]
pub fn bias(outcomes: &[CameOut]) -> Option<Bias> {
    if outcomes.len() < ENOUGH_BOXES {
        return None;
    }
    let n = outcomes.len() as f64;
    let dof = n - 1.0;
    let mean_nm = outcomes.iter().map(CameOut::difference_nm).sum::<f64>() / n;
    let squares: f64 = outcomes
        .iter()
        .map(|o| (o.difference_nm() - mean_nm).powi(2))
        .sum();
    let variance = squares / dof;
    let explained = outcomes
        .iter()
        .map(|o| o.u_predicted_nm.powi(2) + o.u_achieved_nm.powi(2))
        .sum::<f64>()
        / n;
    let limit = ChiSquared::new(dof).ok()?.inverse_cdf(0.95);
    let spreads_more = squares > limit * explained;
    let of_mean = variance / n;
    let unexplained = if spreads_more {
        (variance - explained).max(0.0)
    } else {
        0.0
    };
    Some(Bias {
        boxes: outcomes.len(),
        mean_nm,
        spread_nm: variance.sqrt(),
        expanded_spread_nm: t95(Some(dof)) * variance.sqrt(),
        explained_nm: explained.sqrt(),
        spreads_more,
        matters: mean_nm.abs() > t95(Some(dof)) * of_mean.sqrt(),
        u_nm: (of_mean + unexplained).sqrt(),
        dof,
    })
}

/// A clearance with the usual difference counted in: the figure, its standard uncertainty and
/// degrees of freedom.
///
/// ```
/// use anvil_arithmetic::uncertainty::bias::counted_in;
/// let (nm, u, _) = counted_in((100e3, 3e3, Some(2.0)), (-3e3, 4e3, 29.0));
/// assert_eq!((nm, u), (97e3, 5e3));
/// ```
///
/// # Formula
/// `u² = u_c² + u_b²`; `ν = u⁴ / Σ (uᵢ⁴/νᵢ)` (Welch and Satterthwaite; JCGM 100:2008, G.4.1).
#[must_use]
pub fn counted_in(
    (clearance_nm, u_nm, dof): (f64, f64, Option<f64>),
    (mean_nm, u_mean_nm, dof_mean): (f64, f64, f64),
) -> (f64, f64, Option<f64>) {
    let part = |from, u_nm, dof| Component { from, u_nm, dof };
    let (u, dof) = combined_uncertainty(&[
        part(Source::Scatter, u_nm, dof),
        part(Source::Bias, u_mean_nm, Some(dof_mean)),
    ]);
    (clearance_nm + mean_nm, u, dof)
}
