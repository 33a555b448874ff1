//! Clearance against temperature.

use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::materials::thermal::{RANGE_C, growth_nm_per_k, hot_and_cold};
use anvil_arithmetic::units::length::Length;
use proptest::prelude::*;

/// Handbook coefficients of linear expansion near 20 °C, 10⁻⁶/K (from memory).
#[test]
fn coefficients_are_those_of_the_handbooks() {
    let is = |m: Material, micro: f64| (m.expansion_per_k() * 1e6 - micro).abs() < 1e-9;
    assert!(is(Material::Steel, 11.7));
    assert!(is(Material::CastIron, 10.8));
    assert!(is(Material::Aluminium, 23.0));
    assert!(is(Material::Magnesium, 26.0));
    assert!(is(Material::Bronze, 18.0));
}

/// One metre of steel and one of aluminium, 100 K: 1.17 and 2.3 mm (handbook values, from memory).
#[test]
fn a_metre_grows_by_what_the_handbooks_say() {
    let metre = Length::from_nm(1_000_000_000);
    let grown = |m| growth_nm_per_k([(m, metre)].into_iter()) * 100.0;
    assert!((grown(Material::Steel) - 1_170_000.0).abs() < 1.0);
    assert!((grown(Material::Aluminium) - 2_300_000.0).abs() < 1.0);
}

proptest! {
    #[test]
    fn the_line_goes_through_what_was_measured_and_through_nil(c in -500_000.0..500_000.0_f64, growth in -4_000.0..4_000.0_f64) {
        let found = hot_and_cold(c, growth);
        let at = |t: f64| found.from_nm + (found.to_nm - found.from_nm) * (t - RANGE_C.0) / (RANGE_C.1 - RANGE_C.0);
        prop_assert!((at(20.0) - c).abs() < 1e-3);
        match found.nil_at_c {
            Some(nil) => prop_assert!(at(nil).abs() < 1e-3),
            None => prop_assert!(found.from_nm * found.to_nm > -1.0),
        }
    }
}

#[test]
fn alike_materials_change_nothing() {
    let found = hot_and_cold(50_000.0, 0.0);
    assert_eq!(
        (found.from_nm, found.to_nm, found.nil_at_c),
        (50_000.0, 50_000.0, None)
    );
    assert_eq!(hot_and_cold(0.0, 0.0).nil_at_c, None);
}
