//! The piece that a clearance wants, worked out from readings and a target alone, and the retainer's
//! pinch, which is the same sum with the signs of a plate.

use serde::Serialize;

use crate::choose::required::{Effect, RequiredThickness, required_thickness};
use crate::measure::mean_nm;
use crate::uncertainty::estimate::{Component, Source, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::Length;
use crate::verdict::window::TargetRange;

/// A clearance from readings with a gauge of which the step and the error are known.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Read {
    /// The mean in nanometres: float above zero, preload below.
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres: the readings' own scatter (of a single one: the step of the
    /// scale, for want of better), the resolution and the permissible error.
    pub u_nm: f64,
    /// The degrees of freedom of that; none means infinite.
    pub dof: Option<f64>,
    /// How many readings.
    pub readings: usize,
}

/// The clearance that readings give. None where there is no reading. A
/// single one has no scatter of its own: a standard deviation of one step stands for it.
///
/// ```
/// use anvil_arithmetic::calculators::piece::read;
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// // Common practice, no source: 40.5, 41 and 39.5 thou.
/// let thou: Vec<_> = [405, 410, 395].map(|t| Length::from_nm(t * 2_540)).to_vec();
/// let gauge = Gauge::new(Length::from_nm(2_540), Length::from_nm(12_700), None).unwrap();
/// let found = read(&thou, gauge).unwrap();
/// assert!((found.clearance_nm / 25_400.0 - 40.333).abs() < 0.001 && found.readings == 3);
/// ```
///
/// # Formula
/// The mean of the readings; `u² = s²/n + r²/12 + e²/3` (JCGM 100:2008, 4.2.3, F.2.2.1 and 4.3.7), `s` one step `r`
/// where there is one reading.
#[must_use]
pub fn read(readings: &[Length], gauge: Gauge) -> Option<Read> {
    if readings.is_empty() {
        return None;
    }
    let n = readings.len() as f64;
    let mean = mean_nm(readings);
    let part = |from, u_nm| Component {
        from,
        u_nm,
        dof: None,
    };
    let mut parts = vec![
        part(Source::Resolution, gauge.u_resolution_nm()),
        part(Source::PermissibleError, gauge.u_error_nm()),
    ];
    if readings.len() == 1 {
        parts.push(part(Source::Repeatability, gauge.resolution().as_f64()));
    } else {
        let squares: f64 = readings.iter().map(|r| (r.as_f64() - mean).powi(2)).sum();
        parts.push(Component {
            from: Source::Scatter,
            u_nm: (squares / (n - 1.0) / n).sqrt(),
            dof: Some(n - 1.0),
        });
    }
    let (u_nm, dof) = combined_uncertainty(&parts);
    Some(Read {
        clearance_nm: mean,
        u_nm,
        dof,
        readings: readings.len(),
    })
}

/// The shim under a retainer's plate. With the bearing held, the plate stands `off` the case; a thicker
/// shim under the plate eases the pinch. Below zero where even without a shim the pinch is too little.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::calculators::piece::pinch;
/// // Common practice, no source: 5 thou off, 2 thou of pinch wanted: a shim of 3.
/// let thou = |t: i64| Length::from_nm(t * 25_400);
/// assert_eq!(pinch(thou(5), thou(2), Length::ZERO).thickness_nm, 3.0 * 25_400.0);
/// ```
#[must_use]
pub fn pinch(off: Length, wanted_pinch: Length, fitted: Length) -> RequiredThickness {
    let target = -wanted_pinch.as_f64();
    let aim = TargetRange {
        from_nm: target,
        to_nm: target,
    };
    required_thickness(-off.as_f64(), aim, fitted, Effect::Opens)
}
