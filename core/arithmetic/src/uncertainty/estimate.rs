//! What a set of readings says about a clearance, and how far to trust it.
//!
//! The arithmetic follows JCGM 100:2008 (GUM): Type A from scatter (clause 4.2), Type B from the
//! instrument (4.3.7), combined root-sum-square (5.1.2), effective degrees of freedom by the
//! Welch–Satterthwaite formula (G.4.1), not cut to a whole number.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::working::{Line, Working};

/// What is known of a clearance from one way of measuring it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Estimate {
    /// The clearance in nanometres: float above zero, preload below.
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// The effective degrees of freedom of `u_nm`; none means infinite.
    pub dof: Option<f64>,
    /// How many readings stand behind it.
    pub readings: usize,
    /// The largest reading less the smallest, in nanometres.
    pub spread_nm: f64,
    /// What the uncertainty is made of.
    pub parts: Vec<Component>,
    /// Where it was bracketed by leaves: between these, and no likelier in the middle.
    #[serde(default)]
    pub bracket: Option<Bracket>,
    /// It can sign a check off; an estimate by hand cannot.
    #[serde(default = "yes", rename = "signs")]
    pub can_sign_off: bool,
    /// A gauge that reads long makes it the smaller.
    #[serde(skip)]
    pub gauge_turned: bool,
    /// What was noticed about the readings.
    #[serde(default)]
    pub notes: Vec<Line>,
    /// The arithmetic in full.
    pub working: Working,
}

const fn yes() -> bool {
    true
}

/// A clearance bracketed: somewhere from `from_nm` up to `to_nm`.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bracket {
    /// The largest that goes, in nanometres.
    pub from_nm: f64,
    /// The smallest that does not, in nanometres.
    pub to_nm: f64,
}

/// A clearance known from one side only: nothing says how much further it lies.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Bound {
    /// The limit of what is known, in nanometres.
    pub limit_nm: f64,
    pub lies: Lies,
}

/// On which side of a bound a clearance lies, the bound with it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Lies {
    Above,
    Below,
}

/// One contribution to an uncertainty.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Component {
    /// What it comes from.
    pub from: Source,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
}

/// Where a contribution to an uncertainty comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Source {
    /// The readings' own scatter.
    Scatter,
    /// The gauge's known repeatability, in place of the readings' own scatter.
    Repeatability,
    /// The step of the gauge's scale.
    Resolution,
    /// The gauge's permissible error.
    PermissibleError,
    /// The allowance of a trial-to-final adjustment.
    Adjustment,
    /// The thickness of pieces.
    Pieces,
    /// The gap between the leaf that goes and the one that does not.
    Bracket,
    /// The limits that a part is made to.
    Tolerance,
    /// Fingers.
    Feel,
    /// The usual difference between what was predicted and what came of it.
    #[serde(rename = "usual")]
    Bias,
}

/// Why figures are no estimate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum EstimateError {
    #[error("a standard uncertainty is a figure of zero or more")]
    NegativeUncertainty,
    #[error(
        "degrees of freedom are more than nothing; leave them out where there is no end of them"
    )]
    NoFreedom,
    #[error("a bracket runs from the leaf that goes up to the one that does not: swap its ends")]
    BracketReversed,
}

impl EstimateError {
    /// The figure at fault, by the name of its field.
    #[must_use]
    pub const fn field(self) -> &'static str {
        match self {
            Self::NegativeUncertainty => "u_nm",
            Self::NoFreedom => "dof",
            Self::BracketReversed => "bracket",
        }
    }
}

impl Bound {
    /// The bound of a pinch whose stand-off has this one; see [`Estimate::stood_off`].
    pub(crate) fn stood_off(self, shift_nm: f64) -> Self {
        Self {
            limit_nm: 2.0 * shift_nm - self.limit_nm,
            lies: match self.lies {
                Lies::Above => Lies::Below,
                Lies::Below => Lies::Above,
            },
        }
    }
}

impl Estimate {
    /// What a gap says where it is how far a part stands off that will be drawn down: a clearance that much
    /// below nothing (common practice: a plate 5 off the case is a pinch of 5). `shift_nm` is what trial to
    /// final adds to the clearance, and has been added to the gap.
    pub(crate) fn stood_off(self, shift_nm: f64) -> Self {
        self.turned_over(shift_nm, "it stands off by that much, and is drawn down: ")
    }

    /// As far below nothing as it was above, with the word of why; `shift_nm` is what trial to final adds, and stays.
    pub(crate) fn turned_over(mut self, shift_nm: f64, why: &'static str) -> Self {
        let turned = |nm: f64| 2.0 * shift_nm - nm;
        self.clearance_nm = turned(self.clearance_nm);
        self.gauge_turned = !self.gauge_turned;
        self.bracket = self.bracket.map(|b| Bracket {
            from_nm: turned(b.to_nm),
            to_nm: turned(b.from_nm),
        });
        self.working
            .push(Line::new().text(why).clearance(self.clearance_nm));
        self
    }

    /// How much more it is than what is known without the gauge's own error, where that is all it can be, in nanometres;
    /// below zero where a gauge that reads long makes it the smaller.
    #[must_use]
    pub fn gauge_error_nm(&self) -> f64 {
        let of_gauge = self
            .parts
            .iter()
            .filter(|p| p.from == Source::PermissibleError);
        let half = of_gauge.map(|p| 3.0 * p.u_nm * p.u_nm).sum::<f64>().sqrt();
        if self.gauge_turned { -half } else { half }
    }

    /// The same as though the gauge had no error of its own.
    #[must_use]
    pub fn without_gauge_error(&self) -> Self {
        let mut then = self.clone();
        then.parts.retain(|p| p.from != Source::PermissibleError);
        (then.u_nm, then.dof) = combined_uncertainty(&then.parts);
        then
    }

    /// What would be known after so many more readings like these, were the mean to stay where it is.
    ///
    /// # Formula
    /// The scatter of the mean of `n` readings is `s/√n` (JCGM 100:2008, 4.2.3), with a degree of freedom for each more.
    #[must_use]
    pub fn with_more(&self, more: usize) -> Self {
        let mut then = self.clone();
        let n = self.readings as f64;
        let narrower = (n / (n + more as f64)).sqrt();
        for part in &mut then.parts {
            if matches!(part.from, Source::Scatter | Source::Repeatability) {
                part.u_nm *= narrower;
            }
            if part.from == Source::Scatter {
                part.dof = part.dof.map(|d| d + more as f64);
            }
        }
        (then.u_nm, then.dof) = combined_uncertainty(&then.parts);
        then.readings += more;
        then
    }

    /// The same, where its figures can be those of an estimate.
    ///
    /// # Errors
    /// Where an uncertainty is below nothing, there are no degrees of freedom, or a bracket runs backwards.
    pub fn checked(self) -> Result<Self, EstimateError> {
        let parts = || self.parts.iter().map(|p| (p.u_nm, p.dof));
        let mut all = parts().chain([(self.u_nm, self.dof)]);
        if all.clone().any(|(u, _)| !(u >= 0.0 && u.is_finite())) {
            return Err(EstimateError::NegativeUncertainty);
        }
        if all.any(|(_, dof)| dof.is_some_and(|d| d.is_nan() || d <= 0.0)) {
            return Err(EstimateError::NoFreedom);
        }
        match self.bracket {
            Some(b) if b.from_nm > b.to_nm => Err(EstimateError::BracketReversed),
            _ => Ok(self),
        }
    }
}

/// Combines contributions: the standard uncertainty and its effective degrees of freedom.
///
/// ```
/// use anvil_arithmetic::uncertainty::estimate::{combined_uncertainty, Source, Component};
/// let part = |u_nm, dof| Component { from: Source::Scatter, u_nm, dof };
/// let (u, dof) = combined_uncertainty(&[part(3.0, Some(4.0)), part(4.0, None)]);
/// assert_eq!(u, 5.0);
/// assert!((dof.unwrap() - 625.0 / (81.0 / 4.0)).abs() < 1e-12);
/// ```
///
/// # Formula
/// `u² = Σ uᵢ²` (JCGM 100:2008, 5.1.2); `ν = u⁴ / Σ (uᵢ⁴/νᵢ)`, not cut to a whole number (G.4.1).
#[must_use]
pub fn combined_uncertainty(parts: &[Component]) -> (f64, Option<f64>) {
    let variance: f64 = parts.iter().map(|p| p.u_nm * p.u_nm).sum();
    let weighted: f64 = parts
        .iter()
        .filter_map(|p| p.dof.map(|dof| p.u_nm.powi(4) / dof))
        .sum();
    let dof = (weighted > 0.0).then(|| variance * variance / weighted);
    (variance.sqrt(), dof)
}

/// The largest difference that two figures explain together, in nanometres. Each is a standard uncertainty in nanometres with its degrees of freedom.
///
/// ```
/// let explained = anvil_arithmetic::uncertainty::estimate::explained_nm((3_000.0, None), (4_000.0, None));
/// assert!((explained - 1.96 * 5_000.0).abs() < 1.0);
/// ```
///
/// # Formula
/// `t95(ν) √(u₁² + u₂²)` (the normalised error of ISO 13528).
#[must_use]
pub fn explained_nm(first: (f64, Option<f64>), second: (f64, Option<f64>)) -> f64 {
    let (u, dof) = combined_uncertainty(&[first, second].map(|(u_nm, dof)| Component {
        from: Source::Scatter,
        u_nm,
        dof,
    }));
    crate::uncertainty::student_t::t95(dof) * u
}
