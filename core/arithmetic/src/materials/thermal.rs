//! Clearance against temperature.
//!
//! A check that spans case and shaft changes as they warm: `c(T) = c20 + (Σ α_case L − Σ α_i l_i)(T − 20)`,
//! with the sizes at 20 °C (ISO 1). An aluminium case grows more than the steel in it, so float grows
//! and preload is lost.

use serde::Serialize;

use crate::materials::expansion::Material;
use crate::units::length::Length;

/// The temperature that sizes are stated at, °C (ISO 1).
pub const REFERENCE_C: f64 = 20.0;
/// The coldest and the hottest that is worked out for, °C: a winter's morning, and oil at its worst.
pub const RANGE_C: (f64, f64) = (-30.0, 130.0);

/// The coldest and the warmest bench, °C.
pub const BENCH_C: (f64, f64) = (-20.0, 45.0);
/// Bearings bear no more than this, °C (common practice, no source).
pub const MOST_BEARING_C: f64 = 120.0;

/// By how much a length grows per kelvin, in nanometres.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::materials::expansion::Material;
/// use anvil_arithmetic::materials::thermal::growth_nm_per_k;
/// // 300 mm of aluminium over steel, 70 K: 0.24 mm (common practice, no source).
/// let l = [Length::from_nm(300_000_000)];
/// let case = growth_nm_per_k(l.iter().map(|l| (Material::Aluminium, *l)));
/// let steel = growth_nm_per_k(l.iter().map(|l| (Material::Steel, *l)));
/// assert!(((case - steel) * 70.0 - 237_300.0).abs() < 1.0);
/// ```
#[must_use]
pub fn growth_nm_per_k(parts: impl Iterator<Item = (Material, Length)>) -> f64 {
    parts.map(|(m, l)| m.expansion_per_k() * l.as_f64()).sum()
}

/// By how much a clearance grows where its case and what it holds warm by different amounts, in nanometres, of what each of
/// them grows per kelvin.
///
/// ```
/// use anvil_arithmetic::materials::thermal::warmed_nm;
/// // A case that lags behind its shafts: 50 K at 6 µm, less 70 K at 3.
/// assert_eq!(warmed_nm((6_000.0, 50.0), (3_000.0, 70.0)), 90_000.0);
/// ```
///
/// # Formula
/// `Δc = α_case L ΔT_case − Σ αᵢ lᵢ ΔT_inside` (linear growth).
#[must_use]
pub fn warmed_nm((case, case_k): (f64, f64), (inside, inside_k): (f64, f64)) -> f64 {
    case * case_k - inside * inside_k
}

/// A clearance against temperature.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct HotAndCold {
    /// By how much the clearance grows per kelvin, in nanometres.
    pub growth_nm_per_k: f64,
    /// The coldest that is worked out for, °C.
    pub from_c: f64,
    /// The clearance then, in nanometres.
    pub from_nm: f64,
    /// The hottest that is worked out for, °C.
    pub to_c: f64,
    /// The clearance then, in nanometres.
    pub to_nm: f64,
    /// The temperature at which there is neither float nor preload, °C, where that is within reach.
    pub nil_at_c: Option<f64>,
}

/// A clearance known at 20 °C against temperature.
///
/// ```
/// use anvil_arithmetic::materials::thermal::hot_and_cold;
/// // 0.05 mm preload, lost at 2 µm a kelvin: gone 25 K above 20 °C.
/// let found = hot_and_cold(-50_000.0, 2_000.0);
/// assert_eq!(found.nil_at_c, Some(45.0));
/// ```
///
/// # Formula
/// `c(T) = c20 + g (T − 20)`, `g = α_case L − Σ αᵢ lᵢ` (linear growth).
#[must_use]
pub fn hot_and_cold(clearance_nm: f64, growth_nm_per_k: f64) -> HotAndCold {
    let at = |c: f64| clearance_nm + growth_nm_per_k * (c - REFERENCE_C);
    let nil = REFERENCE_C - clearance_nm / growth_nm_per_k;
    let (from_c, to_c) = RANGE_C;
    HotAndCold {
        growth_nm_per_k,
        from_c,
        from_nm: at(from_c),
        to_c,
        to_nm: at(to_c),
        nil_at_c: Some(nil).filter(|n| n.is_finite() && (from_c..=to_c).contains(n)),
    }
}
