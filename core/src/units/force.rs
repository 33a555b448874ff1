//! Forces and torques, and how people write them.

use serde::{Deserialize, Serialize};

use crate::units::length::Length;

/// One pound-force foot in newton metres; exact to the last place of a double.
pub const N_M_PER_LBF_FT: f64 = 1.355_817_948_331_400_4;
/// One pound-force in newtons, exact.
pub const N_PER_LBF: f64 = 4.448_221_615_260_5;
/// One kilogram-force in newtons, exact (standard gravity).
pub const N_PER_KGF: f64 = 9.806_65;

/// A torque in newton metres.
#[derive(Clone, Copy, Debug, Default, PartialEq, PartialOrd, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Torque(pub f64);

/// A force in newtons.
#[derive(Clone, Copy, Debug, Default, PartialEq, PartialOrd, Serialize, Deserialize)]
#[serde(transparent)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Force(pub f64);

impl Force {
    /// The torque of this pull at a radius.
    ///
    /// ```
    /// use anvil_core::units::force::Force;
    /// use anvil_core::units::length::Length;
    /// assert!((Force(20.0).at(Length::from_nm(75_000_000)).0 - 1.5).abs() < 1e-12);
    /// ```
    #[must_use]
    pub fn at(self, radius: Length) -> Torque {
        Torque(self.0 * radius.as_f64() / 1e9)
    }

    /// Reads a force with its unit; a bare figure is in newtons.
    ///
    /// # Errors
    /// Where it is no figure above nothing and up to 10 kN, or its unit is not known; in words that say what would
    /// be right.
    pub fn read(text: &str) -> Result<Self, String> {
        quantity(text, FORCES, "N, lbf, kgf").map(Self)
    }
}

impl Torque {
    /// Reads a torque with its unit; a bare figure is in newton metres.
    ///
    /// ```
    /// use anvil_core::units::force::Torque;
    /// assert_eq!(Torque::read("1,9 N·m").unwrap(), Torque(1.9));
    /// assert!((Torque::read("12 in-lb").unwrap().0 - 1.355_818).abs() < 1e-6);
    /// assert!(Torque::read("2 bar").is_err());
    /// ```
    ///
    /// # Errors
    /// As of [`Force::read`], up to 10 kN·m.
    pub fn read(text: &str) -> Result<Self, String> {
        quantity(text, TORQUES, "lbf·ft, lbf·in, kgf·cm, N·cm, N·m").map(Self)
    }
}

/// Units of torque, in newton metres, as written without blanks, points, strokes and signs of multiplication.
const TORQUES: &[(&str, f64)] = &[
    ("lbf·ft", N_M_PER_LBF_FT),
    ("lbfft", N_M_PER_LBF_FT),
    ("ftlb", N_M_PER_LBF_FT),
    ("lbft", N_M_PER_LBF_FT),
    ("lbf·in", N_M_PER_LBF_FT / 12.0),
    ("lbfin", N_M_PER_LBF_FT / 12.0),
    ("inlb", N_M_PER_LBF_FT / 12.0),
    ("lbin", N_M_PER_LBF_FT / 12.0),
    ("kgf·cm", N_PER_KGF / 100.0),
    ("kgfcm", N_PER_KGF / 100.0),
    ("n·cm", 0.01),
    ("ncm", 0.01),
    ("n·m", 1.0),
    ("nm", 1.0),
    ("", 1.0),
];

/// Units of force, in newtons.
const FORCES: &[(&str, f64)] = &[
    ("lbf", N_PER_LBF),
    ("lb", N_PER_LBF),
    ("kgf", N_PER_KGF),
    ("kg", N_PER_KGF),
    ("n", 1.0),
    ("", 1.0),
];

/// No turning torque or pull at a bench is larger.
const MOST: f64 = 10_000.0;

fn quantity(text: &str, units: &[(&str, f64)], known: &str) -> Result<f64, String> {
    let text = text.trim();
    let end = text
        .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',')))
        .unwrap_or(text.len());
    let (figure, unit) = text.split_at(end);
    let unit: String = unit
        .to_lowercase()
        .chars()
        .filter(|c| !c.is_whitespace() && !matches!(c, '.' | '*' | '-'))
        .collect();
    let factor = units.iter().find(|(name, _)| *name == unit);
    let value = figure.replace(',', ".").parse::<f64>().ok();
    factor
        .zip(value)
        .map(|((_, factor), value)| value * factor)
        .filter(|value| *value > 0.0 && *value <= MOST)
        .ok_or_else(|| {
            format!("“{text}” is not read: write a figure above nothing and one of {known}")
        })
}
