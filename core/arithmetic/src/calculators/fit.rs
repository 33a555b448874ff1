//! Heat and chill fits: how hot a bore, or how cold a part, for one to drop into the other.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::materials::expansion::Material;
use crate::units::length::Length;
use crate::units::working::{Line, Working};

/// The temperature that sizes are given at, °C (ISO 1).
pub const REFERENCE_C: f64 = 20.0;
/// The hottest that a bearing may get, °C (common practice, no source).
pub const BEARING_LIMIT_C: f64 = 120.0;
/// Nothing gets colder than this, °C.
const COLDEST_C: f64 = -273.15;
/// Hotter than this nothing is put together by heat here: steel is tempered, aluminium is soft.
const HOTTEST_C: f64 = 400.0;

/// A bore and the part that goes in it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct HeatFit {
    /// The bore's diameter at 20 °C.
    pub bore_nm: Length,
    /// What is round the bore.
    pub bore_of: Material,
    /// The part's diameter at 20 °C.
    pub part_nm: Length,
    pub part_of: Material,
    /// The clearance on the diameter that lets it drop in.
    pub clearance_nm: Length,
    /// How cold or warm the part is, °C.
    pub part_c: f64,
    /// The hottest that what is heated may get, °C: 120 for bearings.
    pub limit_c: f64,
}

/// How to put the two together.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Fitted {
    /// How tight the part is at 20 °C; below zero it is loose.
    pub interference_nm: Length,
    /// How hot the bore must be, in whole °C upwards, so that it is wide enough; none where it drops in as it is.
    pub bore_c: Option<f64>,
    /// That is hotter than it may get.
    pub too_hot: bool,
    /// How cold the part would have to be with the bore at 20 °C, in whole °C downwards.
    pub part_alone_c: Option<f64>,
    /// How hot the bore would have to be with the part at 20 °C, in whole °C upwards.
    pub bore_alone_c: Option<f64>,
    /// The bore's diameter for each degree, in nanometres.
    pub bore_per_k_nm: f64,
    /// The part's diameter for each degree, in nanometres.
    pub part_per_k_nm: f64,
    /// What must be minded.
    pub cautions: Vec<String>,
    /// The arithmetic.
    pub working: Working,
}

/// Why a fit cannot be worked out.
#[derive(Clone, Copy, Debug, PartialEq, Error)]
pub enum FitError {
    /// A diameter of nothing.
    #[error("a {0} has a diameter: write it with its unit")]
    NoDiameter(&'static str),
    /// A clearance below nothing.
    #[error("a part drops in with a clearance of nothing or more")]
    Clearance,
    /// A part as cold or hot as none is here.
    #[error("a part at {0} °C cannot be here: write one from −200 to 400 °C")]
    PartTemperature(f64),
    /// A limit that is none.
    #[error("a limit of {0} °C cannot be here: write one from −200 to 400 °C, such as 120")]
    Limit(f64),
}

/// How hot, or how cold: growth is `α D ΔT` on the diameter, each from its size at 20 °C.
/// Coefficients as in [`Material::expansion_per_k`].
///
/// ```
/// use anvil_arithmetic::calculators::fit::{heat_fit, HeatFit};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::materials::expansion::Material;
/// // A 62 mm bearing 0.03 mm tight in an aluminium case, dropping in with 0.05 mm: 56 degrees over.
/// let found = heat_fit(&HeatFit {
///     bore_nm: Length::from_nm(61_970_000), bore_of: Material::Aluminium,
///     part_nm: Length::from_nm(62_000_000), part_of: Material::Steel,
///     clearance_nm: Length::from_nm(50_000), part_c: 20.0, limit_c: 120.0,
/// }).unwrap();
/// assert!(found.bore_c == Some(77.0) && !found.too_hot);
/// ```
///
/// # Formula
/// `ΔD = α D ΔT` on each diameter, from its size at 20 °C.
///
/// # Errors
/// Where a diameter is nothing or less, the clearance is below nothing, or a temperature is one that no part here has.
pub fn heat_fit(fit: &HeatFit) -> Result<Fitted, FitError> {
    if fit.bore_nm <= Length::ZERO {
        return Err(FitError::NoDiameter("bore"));
    }
    if fit.part_nm <= Length::ZERO {
        return Err(FitError::NoDiameter("part"));
    }
    if fit.clearance_nm < Length::ZERO {
        return Err(FitError::Clearance);
    }
    let possible = |c: f64| (-200.0..=HOTTEST_C).contains(&c);
    if !possible(fit.part_c) {
        return Err(FitError::PartTemperature(fit.part_c));
    }
    if !possible(fit.limit_c) {
        return Err(FitError::Limit(fit.limit_c));
    }
    let (bore, part) = (fit.bore_nm.as_f64(), fit.part_nm.as_f64());
    let bore_per_k_nm = bore * fit.bore_of.expansion_per_k();
    let part_per_k_nm = part * fit.part_of.expansion_per_k();
    let open_at = |part_c: f64| {
        let part_then = part + part_per_k_nm * (part_c - REFERENCE_C);
        let short = part_then + fit.clearance_nm.as_f64() - bore;
        (short > 0.0).then(|| REFERENCE_C + short / bore_per_k_nm)
    };
    let short = part + fit.clearance_nm.as_f64() - bore;
    let part_alone = (short > 0.0)
        .then(|| REFERENCE_C - short / part_per_k_nm)
        .filter(|c| *c > COLDEST_C);
    let exact_c = open_at(fit.part_c);
    let working = working(fit, (bore_per_k_nm, part_per_k_nm), exact_c);
    let bore_c = exact_c.map(upwards);
    Ok(Fitted {
        interference_nm: Length::from_nm(fit.part_nm.nm() - fit.bore_nm.nm()),
        bore_c,
        too_hot: bore_c.is_some_and(|c| c > fit.limit_c),
        part_alone_c: part_alone.map(|c| -upwards(-c)),
        bore_alone_c: open_at(REFERENCE_C).map(upwards),
        bore_per_k_nm,
        part_per_k_nm,
        cautions: cautions(fit),
        working,
    })
}

/// To whole degrees upwards; a rounding error beyond a whole one is none.
fn upwards(c: f64) -> f64 {
    (c - 1e-9).ceil()
}

fn working(fit: &HeatFit, per_k: (f64, f64), bore_c: Option<f64>) -> Working {
    let chilled = fit.part_nm.as_f64() + per_k.1 * (fit.part_c - REFERENCE_C);
    let mut lines = vec![
        Line::new()
            .text(format!("part at {:.0} °C: ", fit.part_c))
            .length(fit.part_nm.as_f64())
            .text(" × (1 + ")
            .number(fit.part_of.expansion_per_k() * 1e6, 1)
            .text(format!(
                " × 10⁻⁶ × ({:.0} − {REFERENCE_C:.0})) = ",
                fit.part_c
            ))
            .length(chilled),
    ];
    if let Some(c) = bore_c {
        lines.push(
            Line::new()
                .text(format!("bore: {REFERENCE_C:.0} + ("))
                .length(chilled)
                .text(" + ")
                .length(fit.clearance_nm.as_f64())
                .text(" − ")
                .length(fit.bore_nm.as_f64())
                .text(") ÷ (")
                .number(fit.bore_of.expansion_per_k() * 1e6, 1)
                .text(" × 10⁻⁶ × ")
                .length(fit.bore_nm.as_f64())
                .text(") = ")
                .number(c, 1)
                .text(format!(" °C, upwards {:.0} °C", upwards(c))),
        );
    }
    lines
}

/// Common practice, no source.
fn cautions(fit: &HeatFit) -> Vec<String> {
    let mut cautions = vec![
        "Heat the whole part evenly in an oven for as long as its wall and mass ask, until it is warm through; hot and frozen parts burn: gloves.".to_owned(),
    ];
    if fit.bore_of == Material::Magnesium {
        cautions.push("Never a flame on magnesium: it burns, and water makes it worse.".to_owned());
    }
    if fit.part_c < 0.0 {
        cautions.push(
            "A frozen part gathers ice as soon as it is out: dry it, and oil it at once."
                .to_owned(),
        );
    }
    cautions
}
