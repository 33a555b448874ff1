//! Turning torque: by torque wrench, or by spring scale on a known radius. A second opinion on
//! preload, with a window of its own in newton metres.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::fields::{FieldFault, Shown, Taken, Typed, fault, up_to};
use crate::measure::{MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Source, combined_uncertainty};
use crate::uncertainty::gauge::Repeatability;
use crate::uncertainty::student_t::{probability_between, t95};
use crate::units::force::{Force, Torque};
use crate::units::length::{Length, Unit};
use crate::units::working::{Line, Working};
use crate::verdict::{Call, call_between};

/// No arm that a scale pulls at is longer: 2 m.
const LONGEST_RADIUS: Length = Length::from_nm(2_000_000_000);

/// A torque off a wrench, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TorqueInput {
    /// The torque with its unit; a bare figure is in N·m.
    pub torque: String,
}

/// A torque off a wrench.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TorqueReading {
    /// The torque in newton metres.
    pub torque_n_m: Torque,
}

/// A pull on a spring scale, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PullInput {
    /// The pull with its unit; a bare figure is in newtons.
    pub force: String,
    /// The radius it pulls at.
    pub radius: String,
}

/// A pull on a spring scale.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PullReading {
    /// The pull in newtons.
    pub force_n: Force,
    /// The radius it pulls at.
    pub radius_nm: Length,
}

impl Typed for TorqueInput {
    type Reading = TorqueReading;
    const METHODS: &'static [Method] = &[Method::TurningTorque];

    fn text(&self) -> String {
        self.torque.trim().to_owned()
    }

    fn read(&self, _: Unit) -> Result<TorqueReading, FieldFault> {
        let torque_n_m = Torque::read(&self.torque).map_err(|why| fault("torque", why))?;
        Ok(TorqueReading { torque_n_m })
    }
}

impl Typed for PullInput {
    type Reading = PullReading;
    const METHODS: &'static [Method] = &[Method::TurningTorque];

    fn text(&self) -> String {
        format!("{} at {}", self.force.trim(), self.radius.trim())
    }

    fn read(&self, unit: Unit) -> Result<PullReading, FieldFault> {
        let radius_nm = up_to("radius", &self.radius, unit, LONGEST_RADIUS)?;
        if radius_nm == Length::ZERO {
            return Err(fault("radius", "a pull at no radius turns nothing"));
        }
        Ok(PullReading {
            force_n: Force::read(&self.force).map_err(|why| fault("force", why))?,
            radius_nm,
        })
    }
}

impl Taken for TorqueReading {
    fn shown(&self) -> Shown {
        Shown::Torque(self.torque_n_m)
    }
}

impl Taken for PullReading {
    fn shown(&self) -> Shown {
        Shown::Torque(self.force_n.at(self.radius_nm))
    }
}

/// Why torques give no estimate.
#[derive(Clone, Copy, Debug, PartialEq, Error)]
pub enum TorqueError {
    /// No torque, or less.
    #[error(
        "reading {trial}: a turning torque is more than nothing; a box that turns by itself has no preload to measure"
    )]
    NotPositive {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// A window from high to low.
    #[error("the lowest turning torque {low} N·m is above the highest {high} N·m: swap the two")]
    UpsideDown { low: f64, high: f64 },
    /// A wrench or scale with a figure below nothing.
    #[error(
        "the step and the ± error of a wrench or scale are zero or more, and its scatter above zero"
    )]
    BadGauge,
}

impl TorqueError {
    /// What is at fault: `readings`, `window` or `gauge`.
    #[must_use]
    pub const fn field(self) -> &'static str {
        match self {
            Self::NotPositive { .. } => "readings",
            Self::UpsideDown { .. } => "window",
            Self::BadGauge => "gauge",
        }
    }
}

/// What a wrench or a scale can and cannot see, in newton metres at the shaft.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TorqueGauge {
    /// The step of its scale.
    pub resolution_n_m: f64,
    pub permissible_error_n_m: f64,
    /// Its standard deviation, where that is known.
    pub repeatability_n_m: Option<f64>,
}

/// The window of a turning torque; either end may be open.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TorqueEnds {
    /// The lowest.
    pub low_n_m: Option<f64>,
    /// The highest.
    pub high_n_m: Option<f64>,
}

/// A turning torque with its verdict.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TorqueFound {
    /// The mean.
    pub torque_n_m: f64,
    /// Its standard uncertainty.
    pub u_n_m: f64,
    /// The degrees of freedom of that; none means infinite.
    pub dof: Option<f64>,
    /// The half-width of the 95 % interval.
    pub expanded_n_m: f64,
    /// How many readings stand behind it.
    pub readings: usize,
    /// Against the window: `tight` is turning too hard, `loose` too easily.
    pub call: Call,
    /// The chance that it is in the window.
    pub chance: f64,
    /// The arithmetic.
    pub working: Working,
}

/// Estimates a turning torque and judges it.
///
/// ```
/// use anvil_arithmetic::verdict::Call;
/// use anvil_arithmetic::measure::turning_torque::{estimate, TorqueEnds, TorqueGauge};
/// use anvil_arithmetic::units::force::Torque;
/// let wrench = TorqueGauge { resolution_n_m: 0.05, permissible_error_n_m: 0.04, repeatability_n_m: None };
/// let window = TorqueEnds { low_n_m: Some(1.0), high_n_m: Some(2.5) };
/// let found = estimate(&[1.6, 1.65, 1.6].map(Torque), wrench, window).unwrap();
/// assert_eq!(found.call, Call::In);
/// ```
///
/// # Formula
/// The mean; `u² = s²/n + r²/12 + e²/3` (JCGM 100:2008, 4.2.3, 4.3.7, F.2.2.1).
///
/// # Errors
/// Where there is no reading, one is nothing or less, the scatter is unknown, the window is upside down, or a figure of
/// the gauge is below nothing.
pub fn estimate(
    taken: &[Torque],
    gauge: TorqueGauge,
    window: TorqueEnds,
) -> Result<TorqueFound, MeasureError> {
    if taken.is_empty() {
        return Err(MeasureError::NoReadings);
    }
    if let Some(at) = taken.iter().position(|t| !(t.0.is_finite() && t.0 > 0.0)) {
        return Err(TorqueError::NotPositive { trial: at + 1 }.into());
    }
    if let (Some(low), Some(high)) = (window.low_n_m, window.high_n_m)
        && low > high
    {
        return Err(TorqueError::UpsideDown { low, high }.into());
    }
    let figures = [gauge.resolution_n_m, gauge.permissible_error_n_m];
    if figures.into_iter().any(|f| f < 0.0) || gauge.repeatability_n_m.is_some_and(|s| s <= 0.0) {
        return Err(TorqueError::BadGauge.into());
    }
    let n = taken.len();
    let mean = taken.iter().map(|t| t.0).sum::<f64>() / n as f64;
    let squares: f64 = taken.iter().map(|t| (t.0 - mean).powi(2)).sum();
    let stated = gauge
        .repeatability_n_m
        .map(|s_nm| Repeatability { s_nm, dof: None });
    let own = (n > 1).then_some((squares, n as f64 - 1.0));
    let scatter = scatter(own, stated, gauge.resolution_n_m)?;
    let part = |from, u_nm| Component {
        from,
        u_nm,
        dof: None,
    };
    // The arithmetic of parts is the same whatever they are in; here newton metres.
    let (u_n_m, dof) = combined_uncertainty(&[
        scatter.part(n),
        part(Source::Resolution, gauge.resolution_n_m / 12_f64.sqrt()),
        part(
            Source::PermissibleError,
            gauge.permissible_error_n_m / 3_f64.sqrt(),
        ),
    ]);
    let expanded_n_m = t95(dof) * u_n_m;
    let low = window.low_n_m.unwrap_or(f64::NEG_INFINITY);
    let high = window.high_n_m.unwrap_or(f64::INFINITY);
    // More torque is tighter: the other way round than a clearance.
    let call = match call_between(mean - expanded_n_m, mean + expanded_n_m, low, high) {
        Call::Tight => Call::Loose,
        Call::Loose => Call::Tight,
        same => same,
    };
    let mut line = Line::new().text("(");
    for (at, torque) in taken.iter().enumerate() {
        if at > 0 {
            line = line.text(" + ");
        }
        line = line.number(torque.0, 2);
    }
    Ok(TorqueFound {
        torque_n_m: mean,
        u_n_m,
        dof,
        expanded_n_m,
        readings: n,
        call,
        chance: probability_between(mean, u_n_m, dof, low, high),
        working: vec![
            line.text(format!(") ÷ {n} = "))
                .number(mean, 2)
                .text(" N·m"),
            Line::new()
                .text("95 %: ± ")
                .number(t95(dof), 2)
                .text(" × ")
                .number(u_n_m, 3)
                .text(" = ± ")
                .number(expanded_n_m, 2)
                .text(" N·m"),
        ],
    })
}
