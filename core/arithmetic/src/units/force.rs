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
#[derive(
    Clone, Copy, Debug, Default, PartialEq, PartialOrd, Serialize, Deserialize, utoipa::ToSchema,
)]
#[serde(transparent)]
pub struct Torque(pub f64);

/// A force in newtons.
#[derive(
    Clone, Copy, Debug, Default, PartialEq, PartialOrd, Serialize, Deserialize, utoipa::ToSchema,
)]
#[serde(transparent)]
pub struct Force(pub f64);

impl Force {
    /// The torque of this pull at a radius.
    ///
    /// ```
    /// use anvil_arithmetic::units::force::Force;
    /// use anvil_arithmetic::units::length::Length;
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
        quantity(text, force, "N, lbf, ozf, kgf").map(Self)
    }
}

impl Torque {
    /// Reads a torque with its unit; a bare figure is in newton metres.
    ///
    /// ```
    /// use anvil_arithmetic::units::force::Torque;
    /// assert_eq!(Torque::read("1,9 N·m").unwrap(), Torque(1.9));
    /// assert!((Torque::read("12 in-lb").unwrap().0 - 1.355_818).abs() < 1e-6);
    /// assert!(Torque::read("2 bar").is_err());
    /// ```
    ///
    /// # Errors
    /// As of [`Force::read`], up to 10 kN·m.
    pub fn read(text: &str) -> Result<Self, String> {
        quantity(
            text,
            torque,
            "N·m, N·cm, lbf·ft, lbf·in, ozf·in, kgf·m, kgf·cm",
        )
        .map(Self)
    }
}

/// Units of force, in newtons.
const FORCES: &[(&str, f64)] = &[
    ("lbf", N_PER_LBF),
    ("lb", N_PER_LBF),
    ("lbs", N_PER_LBF),
    ("ozf", N_PER_LBF / 16.0),
    ("oz", N_PER_LBF / 16.0),
    ("kgf", N_PER_KGF),
    ("kg", N_PER_KGF),
    ("n", 1.0),
];

/// Arms of a torque, in metres.
const ARMS: &[(&str, f64)] = &[
    ("in", 0.0254),
    ("ft", 0.3048),
    ("cm", 0.01),
    ("mm", 0.001),
    ("m", 1.0),
];

/// A force in newtons; no name is a newton.
fn force(name: &str) -> Option<f64> {
    let named = FORCES.iter().find(|(force, _)| *force == name);
    named.map(|(_, n)| *n).or(name.is_empty().then_some(1.0))
}

/// A torque in newton metres: a force and its arm, either first; no name is a newton metre.
fn torque(name: &str) -> Option<f64> {
    if name.is_empty() {
        return Some(1.0);
    }
    let mut both = FORCES.iter().flat_map(|f| ARMS.iter().map(move |a| (f, a)));
    let is_named = |force: &str, arm: &str| {
        // A newton stands first: “mN” is a thousandth of one.
        name.strip_prefix(force) == Some(arm)
            || (force != "n" && name.strip_prefix(arm) == Some(force))
    };
    both.find(|((force, _), (arm, _))| is_named(force, arm))
        .map(|((_, n), (_, m))| n * m)
}

/// No turning torque or pull at a bench is larger.
const MOST: f64 = 10_000.0;

/// A figure and a unit, as written without blanks, points, strokes and signs of multiplication.
fn quantity(text: &str, unit: fn(&str) -> Option<f64>, known: &str) -> Result<f64, String> {
    let text = text.trim();
    let end = text
        .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',')))
        .unwrap_or(text.len());
    let (figure, name) = text.split_at(end);
    let name: String = name
        .to_lowercase()
        .chars()
        .filter(|c| !c.is_whitespace() && !".*-·•⋅×‑–/".contains(*c))
        .collect();
    let factor = unit(&name);
    if let Some((whole, rest)) = figure.split_once(',')
        && rest.len() == 3
        && whole.bytes().any(|b| b != b'0')
    {
        return Err(format!(
            "“{text}” may be {whole}{rest} or {whole}.{rest}: write it without the comma, or with a point; of {known}"
        ));
    }
    let value = figure.replace(',', ".").parse::<f64>().ok();
    factor
        .zip(value)
        .map(|(factor, value)| value * factor)
        .filter(|value| *value > 0.0 && *value <= MOST)
        .ok_or_else(|| {
            format!("“{text}” is not read: write a figure above nothing and one of {known}")
        })
}
