//! What an instrument can and cannot see.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::length::Length;

/// What an instrument reads: lengths, torques or forces, and how.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum GaugeKind {
    Dial,
    Depth,
    Micrometer,
    Feeler,
    TorqueWrench,
    SpringScale,
}

impl GaugeKind {
    /// Whether it reads lengths.
    pub const fn of_length(self) -> bool {
        !matches!(self, Self::TorqueWrench | Self::SpringScale)
    }
}

/// A measuring instrument, as far as its figures are concerned.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "Figures", into = "Figures")]
pub struct Gauge {
    resolution: Length,
    permissible_error: Length,
    repeatability: Option<Repeatability>,
}

/// How much a gauge, used one way, scatters about the same length.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Repeatability {
    /// The standard deviation of one reading in nanometres.
    pub s_nm: f64,
    /// The degrees of freedom behind it; none where it is stated and taken as it is.
    pub dof: Option<f64>,
}

/// A gauge as it crosses the wire.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Figures {
    /// The step of the scale in nanometres.
    pub resolution_nm: Length,
    /// The maximum permissible error, ± nanometres.
    pub permissible_error_nm: Length,
    /// The stated repeatability, where there is one.
    pub repeatability: Option<Repeatability>,
}

/// Why figures are no gauge.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum GaugeError {
    /// A resolution of nothing or less.
    #[error("a gauge's step must be more than nothing, such as 0.01 mm")]
    NoResolution,
    /// A negative permissible error.
    #[error("this is the ± figure, so it is zero or more")]
    NegativeError,
    /// A repeatability that is negative or not a number, or without degrees of freedom.
    #[error("give a standard deviation above zero, with more than zero degrees of freedom")]
    BadRepeatability,
}

impl GaugeError {
    /// The figure at fault, by the name of its field.
    #[must_use]
    pub const fn field(self) -> &'static str {
        match self {
            Self::NoResolution => "resolution",
            Self::NegativeError => "permissible_error",
            Self::BadRepeatability => "repeatability",
        }
    }
}

impl Gauge {
    /// A gauge of the given step, permissible error and repeatability.
    ///
    /// # Errors
    /// Where the step is nothing or less, the error below nothing, or the scatter no figure.
    pub fn new(
        resolution: Length,
        permissible_error: Length,
        repeatability: Option<Repeatability>,
    ) -> Result<Self, GaugeError> {
        if resolution <= Length::ZERO {
            return Err(GaugeError::NoResolution);
        }
        if permissible_error < Length::ZERO {
            return Err(GaugeError::NegativeError);
        }
        let sound = repeatability
            .is_none_or(|r| r.s_nm.is_finite() && r.s_nm > 0.0 && r.dof.is_none_or(|d| d > 0.0));
        if !sound {
            return Err(GaugeError::BadRepeatability);
        }
        Ok(Self {
            resolution,
            permissible_error,
            repeatability,
        })
    }

    /// The standard uncertainty of the scale's step, in nanometres.
    ///
    /// # Formula
    /// `r/√12` (JCGM 100:2008, F.2.2.1).
    #[must_use]
    pub fn u_resolution_nm(self) -> f64 {
        self.resolution.as_f64() / 12_f64.sqrt()
    }

    /// The standard uncertainty of the permissible error, in nanometres.
    ///
    /// # Formula
    /// `e/√3` (JCGM 100:2008, 4.3.7).
    #[must_use]
    pub fn u_error_nm(self) -> f64 {
        self.permissible_error.as_f64() / 3_f64.sqrt()
    }

    /// Several gauges as one no better than any of them: the coarsest step, the largest error, the
    /// largest scatter, which is known only where each one's is. None of none.
    ///
    /// ```
    /// use anvil_arithmetic::uncertainty::gauge::Gauge;
    /// use anvil_arithmetic::units::length::Length;
    /// let gauge = |step, error| Gauge::new(Length::from_nm(step), Length::from_nm(error), None).unwrap();
    /// let both = Gauge::worst(&[gauge(10_000, 5_000), gauge(2_000, 8_000)]).unwrap();
    /// assert_eq!(both, gauge(10_000, 8_000));
    /// ```
    #[must_use]
    pub fn worst(gauges: &[Self]) -> Option<Self> {
        gauges.iter().copied().reduce(|a, b| Self {
            resolution: a.resolution.max(b.resolution),
            permissible_error: a.permissible_error.max(b.permissible_error),
            repeatability: a
                .repeatability
                .zip(b.repeatability)
                .map(|(a, b)| if a.s_nm >= b.s_nm { a } else { b }),
        })
    }

    /// How far off it may read at the most, ± nanometres.
    #[must_use]
    pub const fn permissible_error(self) -> Length {
        self.permissible_error
    }

    /// The step of the scale.
    #[must_use]
    pub const fn resolution(self) -> Length {
        self.resolution
    }

    /// The stated repeatability, where there is one.
    #[must_use]
    pub const fn repeatability(self) -> Option<Repeatability> {
        self.repeatability
    }
}

impl TryFrom<Figures> for Gauge {
    type Error = GaugeError;
    fn try_from(figures: Figures) -> Result<Self, GaugeError> {
        Self::new(
            figures.resolution_nm,
            figures.permissible_error_nm,
            figures.repeatability,
        )
    }
}

impl From<Gauge> for Figures {
    fn from(gauge: Gauge) -> Self {
        Self {
            resolution_nm: gauge.resolution,
            permissible_error_nm: gauge.permissible_error,
            repeatability: gauge.repeatability,
        }
    }
}
