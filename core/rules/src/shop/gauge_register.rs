//! The gauge register: what each gauge is, what it can see, and which methods it serves.

use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::u_of_micrometer;
use anvil_arithmetic::uncertainty::gauge::{Figures, Gauge, GaugeKind, Repeatability};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use chrono::NaiveDate;
use serde::{Deserialize, Serialize};

use crate::texts::shown;

/// A gauge as the register has it.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RegisteredGauge {
    /// Its short name.
    pub gauge_key: String,
    /// What people call it.
    pub name: String,
    pub kind: GaugeKind,
    /// The unit it is read in: `mm`, `um`, `thou` or `in`; `n_m` for a wrench, `n` for a scale.
    pub unit: String,
    /// The step of its scale in nanometres, where it reads lengths; a feeler set's finest step.
    pub resolution_nm: Option<i64>,
    /// Its permissible error, ± nanometres; of one leaf for a feeler set.
    pub permissible_error_nm: Option<i64>,
    /// Its standard deviation in nanometres, where it is stated.
    pub repeatability_nm: Option<f64>,
    /// The degrees of freedom behind that; none where it is taken as it is.
    pub repeatability_dof: Option<f64>,
    /// The step in newton metres or newtons, where it reads those.
    pub resolution_si: Option<f64>,
    /// The permissible error in the same.
    pub permissible_error_si: Option<f64>,
    /// The standard deviation in the same, where it is stated.
    pub repeatability_si: Option<f64>,
    /// The leaves of a feeler set in nanometres.
    pub leaves_nm: Vec<i64>,
    /// When it was checked last.
    pub checked_on: Option<NaiveDate>,
    /// When it is due to be checked.
    pub due_on: Option<NaiveDate>,
    /// Where it speaks, `HOST:PORT`; empty where it is read by eye.
    pub live_at: String,
    /// It is no longer used.
    pub retired: bool,
    /// It is the one taken up of its kind unless another is chosen.
    pub usual: bool,
    /// For `If-Match`.
    pub version: i32,
}

impl RegisteredGauge {
    /// What it can see, where it reads lengths.
    pub fn figures(&self) -> Option<Figures> {
        Some(Figures {
            resolution_nm: Length::from_nm(self.resolution_nm?),
            permissible_error_nm: Length::from_nm(self.permissible_error_nm?),
            repeatability: self.repeatability_nm.map(|s_nm| Repeatability {
                s_nm,
                dof: self.repeatability_dof,
            }),
        })
    }
}

/// The standard uncertainty in nanometres of one thickness read off a micrometer: the one of this key, or the one that is
/// taken up where nobody said which.
///
/// # Errors
/// Where the register has no such micrometer in use.
///
/// # Formula
/// `√(r²/12 + e²/3 + s²)`, with the repeatability `s` that stands on its card: one reading has no scatter of its own to
/// tell it by (JCGM 100:2008, 4.2.4 and 5.1.2).
pub fn u_of_registered_micrometer(
    register: &[RegisteredGauge],
    gauge_key: Option<&str>,
) -> Ruled<f64> {
    let in_use: Vec<&RegisteredGauge> = register
        .iter()
        .filter(|g| g.kind == GaugeKind::Micrometer && !g.retired)
        .collect();
    let micrometer = match gauge_key {
        None => in_use.iter().find(|g| g.usual).or(in_use.first()),
        Some(key) => {
            let found = in_use.iter().find(|g| g.gauge_key == key);
            Some(found.ok_or_else(|| no_such_micrometer(key, &in_use))?)
        }
    };
    let figures = micrometer.and_then(|g| {
        let scale = (g.resolution_nm?, g.permissible_error_nm?);
        Some((scale, g.repeatability_nm.unwrap_or(0.0)))
    });
    let ((resolution, error), scatter) = figures.ok_or_else(|| {
        Refusal::field(
            "measured",
            "The register has no micrometer: enter one under Gauges, so that it is known how sure the figure is.",
        )
    })?;
    let scale = u_of_micrometer(Length::from_nm(resolution), Length::from_nm(error));
    Ok(scale.hypot(scatter))
}

fn no_such_micrometer(key: &str, in_use: &[&RegisteredGauge]) -> Refusal {
    let keys: Vec<&str> = in_use.iter().map(|g| g.gauge_key.as_str()).collect();
    let way_out = if keys.is_empty() {
        "enter it under Gauges".to_owned()
    } else {
        format!("choose one of {}", keys.join(", "))
    };
    Refusal::field(
        "gauge_key",
        format!("The register has no micrometer “{key}” in use: {way_out}."),
    )
}

/// A gauge as it is written on its card: figures with their units.
#[derive(Clone, Debug, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GaugeCard {
    /// A short name: small letters, digits and hyphens.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind it is; a dial where nothing is said.
    #[serde(default = "dial")]
    pub kind: GaugeKind,
    /// The unit it is read in, where it reads lengths: `mm`, `um`, `thou` or `in`.
    #[serde(default)]
    pub unit: Option<Unit>,
    /// The step of its scale, with its unit; in N·m for a wrench and N for a scale.
    pub resolution: String,
    /// Its permissible error, ±, in the same.
    pub permissible_error: String,
    /// Its standard deviation in the same; left out where it is not stated.
    #[serde(default)]
    pub repeatability: String,
    /// The leaves of a feeler set, with commas between them.
    #[serde(default)]
    pub leaves: String,
    /// When it was checked last.
    #[serde(default)]
    pub checked_on: Option<NaiveDate>,
    /// When it is due to be checked.
    #[serde(default)]
    pub due_on: Option<NaiveDate>,
    /// Where it speaks, `HOST:PORT` on this machine.
    #[serde(default)]
    pub live_at: String,
    /// It is no longer used.
    #[serde(default)]
    pub retired: bool,
    /// It is the one taken up of its kind.
    #[serde(default)]
    pub usual: bool,
}

const fn dial() -> GaugeKind {
    GaugeKind::Dial
}

impl GaugeCard {
    /// Reads the card.
    ///
    /// # Errors
    /// The first field that does not say what it should.
    pub fn read(&self) -> Ruled<RegisteredGauge> {
        let name = shown(&self.name);
        if name.is_empty() || name.chars().count() > 60 {
            return Err(Refusal::field(
                "name",
                "Say what the gauge is called, in up to 60 characters.",
            ));
        }
        let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
        if self.key.is_empty() || self.key.len() > 40 || !self.key.chars().all(plain) {
            return Err(Refusal::field(
                "key",
                "A gauge's key has up to 40 small letters, digits and hyphens.",
            ));
        }
        if let (Some(checked), Some(due)) = (self.checked_on, self.due_on)
            && due <= checked
        {
            return Err(Refusal::field(
                "due_on",
                "It is due after it was checked: check the two dates.",
            ));
        }
        let live_at = self.live_at.trim();
        let own = |host: &str| matches!(host, "127.0.0.1" | "localhost" | "[::1]");
        let speaks = live_at
            .rsplit_once(':')
            .is_some_and(|(host, port)| own(host) && port.parse::<u16>().is_ok_and(|p| p > 0));
        if !live_at.is_empty() && !speaks {
            return Err(Refusal::field(
                "live_at",
                "A gauge speaks on this machine: write 127.0.0.1 and its port, such as 127.0.0.1:7420.",
            ));
        }
        let mut row = RegisteredGauge {
            gauge_key: self.key.clone(),
            name: name.to_owned(),
            kind: self.kind,
            unit: String::new(),
            resolution_nm: None,
            permissible_error_nm: None,
            repeatability_nm: None,
            repeatability_dof: None,
            resolution_si: None,
            permissible_error_si: None,
            repeatability_si: None,
            leaves_nm: Vec::new(),
            checked_on: self.checked_on,
            due_on: self.due_on,
            live_at: live_at.to_owned(),
            retired: self.retired,
            usual: self.usual && !self.retired,
            version: 1,
        };
        if self.kind.of_length() {
            self.lengths(&mut row)?;
        } else {
            self.forces(&mut row)?;
        }
        Ok(row)
    }

    fn lengths(&self, row: &mut RegisteredGauge) -> Ruled<()> {
        let unit = self.unit.unwrap_or(Unit::Mm);
        let length = |field: &'static str, text: &str| {
            notation::parse(text, Some(unit), Sign::NotNegative)
                .map_err(|e| Refusal::field(field, e))
        };
        let repeatability = if self.repeatability.trim().is_empty() {
            None
        } else {
            let s = length("repeatability", &self.repeatability)?;
            Some(Repeatability {
                s_nm: s.as_f64(),
                dof: None,
            })
        };
        let figures = Figures {
            resolution_nm: length("resolution", &self.resolution)?,
            permissible_error_nm: length("permissible_error", &self.permissible_error)?,
            repeatability,
        };
        Gauge::try_from(figures).map_err(|e| Refusal::field(e.field(), e))?;
        <&str>::from(unit).clone_into(&mut row.unit);
        row.resolution_nm = Some(figures.resolution_nm.nm());
        row.permissible_error_nm = Some(figures.permissible_error_nm.nm());
        row.repeatability_nm = repeatability.map(|r| r.s_nm);
        if self.kind == GaugeKind::Feeler {
            row.leaves_nm = self.leaves_nm(unit)?;
        }
        Ok(())
    }

    /// The leaves, thinnest first. A comma ends a leaf, so that a decimal comma cannot be told from
    /// it: leaves are written with points, or one a line.
    fn leaves_nm(&self, unit: Unit) -> Ruled<Vec<i64>> {
        let mut leaves = self
            .leaves
            .split([',', ';', '\n'])
            .map(str::trim)
            .filter(|t| !t.is_empty())
            .map(|t| {
                notation::parse(t, Some(unit), Sign::NotNegative)
                    .map(Length::nm)
                    .map_err(|e| Refusal::field("leaves", format!("“{t}”: {e}")))
            })
            .collect::<Ruled<Vec<i64>>>()?;
        leaves.sort_unstable();
        if leaves.first().is_none_or(|thinnest| *thinnest <= 0) || leaves.len() > 60 {
            return Err(Refusal::field(
                "leaves",
                "A feeler set has from 1 to 60 leaves, each thicker than nothing, such as 0.05, 0.10, 0.15.",
            ));
        }
        if leaves.windows(2).any(|w| w[0] == w[1]) {
            return Err(Refusal::field(
                "leaves",
                "A leaf is there twice: name each once.",
            ));
        }
        Ok(leaves)
    }

    fn forces(&self, row: &mut RegisteredGauge) -> Ruled<()> {
        let (unit, said) = if self.kind == GaugeKind::TorqueWrench {
            ("n_m", "N·m")
        } else {
            ("n", "N")
        };
        let figure = |field: &'static str, text: &str, least: bool| {
            let bare = text
                .trim()
                .trim_end_matches(|c: char| c.is_alphabetic() || matches!(c, '·' | ' '))
                .replace(',', ".");
            match bare.parse::<f64>() {
                Ok(value) if value.is_finite() && (value > 0.0 || (value == 0.0 && !least)) => {
                    Ok(value)
                }
                _ => Err(Refusal::field(
                    field,
                    format!("Write a figure in {said}, such as 0.05."),
                )),
            }
        };
        unit.clone_into(&mut row.unit);
        row.resolution_si = Some(figure("resolution", &self.resolution, true)?);
        row.permissible_error_si =
            Some(figure("permissible_error", &self.permissible_error, false)?);
        if !self.repeatability.trim().is_empty() {
            row.repeatability_si = Some(figure("repeatability", &self.repeatability, true)?);
        }
        Ok(())
    }
}
