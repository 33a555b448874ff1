//! Forces and torques as people write them.

use anvil_arithmetic::units::convert::TorqueUnit;
use anvil_arithmetic::units::force::{Force, Torque};
use anvil_arithmetic::units::length::Length;
use proptest::prelude::*;

/// Conversion factors of NIST SP 811 (2008), appendix B.8, to the places printed there (from memory).
#[test]
fn units_are_those_of_the_table() {
    for (typed, n_m) in [
        ("1 lbf·ft", 1.355_818),
        ("1 ft-lb", 1.355_818),
        ("1 lb.ft", 1.355_818),
        ("1 lbf·in", 0.112_984_8),
        ("1 in lb", 0.112_984_8),
        ("100 kgf·cm", 9.806_65),
        ("1", 1.0),
        ("1 Nm", 1.0),
        ("1 N·m", 1.0),
        ("1 n*m", 1.0),
        ("150 N·cm", 1.5),
        ("1 in-lbf", 0.112_984_8),
        ("1 in·lbf", 0.112_984_8),
        ("1 lbf·in", 0.112_984_8),
        ("1 lb-in", 0.112_984_8),
        ("1 in-lbs", 0.112_984_8),
        ("10 ft·lbf", 13.558_18),
        ("16 ozf·in", 0.112_984_8),
        ("16 in-oz", 0.112_984_8),
        ("1 kgf·m", 9.806_65),
        ("1 m·kg", 9.806_65),
        ("100 cm-kg", 9.806_65),
        ("1 kgf-m", 9.806_65),
    ] {
        let found = Torque::read(typed).unwrap().0;
        assert!((found - n_m).abs() < 5e-7 * n_m, "{typed}: {found}");
    }
    for (typed, newtons) in [
        ("1 lbf", 4.448_222),
        ("2 lb", 8.896_443),
        ("1 kgf", 9.806_65),
        ("0,5 kg", 4.903_325),
        ("12.5 N", 12.5),
        ("12.5", 12.5),
    ] {
        let found = Force::read(typed).unwrap().0;
        assert!((found - newtons).abs() < 5e-7 * newtons, "{typed}: {found}");
    }
}

#[test]
fn what_is_no_force_says_what_would_be_right() {
    for typed in [
        "", "0", "-3 N", "N", "12 bar", "1..2 N", "1e3", "20000 N", "3 N 4",
    ] {
        let why = Force::read(typed).unwrap_err();
        assert!(
            why.contains(typed.trim()) && why.contains("kgf"),
            "{typed}: {why}"
        );
    }
    for typed in [
        "",
        "0 N·m",
        "2 lbf",
        "1,2,3",
        "two",
        "10001",
        "5 mN",
        "5 m",
        "3 lb·lb",
        "3 ft·in",
        "1,250 lbf·in",
    ] {
        let why = Torque::read(typed).unwrap_err();
        assert!(why.contains("N·m"), "{typed}: {why}");
    }
}

proptest! {
    /// A torque read in one unit is the same torque written in another.
    #[test]
    fn a_torque_is_the_same_in_every_unit(tenths in 1_i64..5_000) {
        let figure = tenths as f64 / 10.0;
        for (unit, sign) in [
            (TorqueUnit::NewtonMetre, "N·m"), (TorqueUnit::PoundFoot, "lbf·ft"), (TorqueUnit::PoundInch, "lbf·in"),
        ] {
            let read = Torque::read(&format!("{figure} {sign}")).unwrap().0;
            let there_and_back = TorqueUnit::NewtonMetre.to(unit, read);
            prop_assert!((there_and_back - figure).abs() < 1e-9 * figure);
        }
    }

    /// A pull at a radius is force times arm, whichever of the two is halved and which doubled.
    #[test]
    fn half_the_arm_wants_twice_the_pull(newtons in 1_i32..500, mm in 1_i64..1_000) {
        let arm = |nm| Length::from_nm(nm);
        let whole = Force(f64::from(newtons)).at(arm(mm * 1_000_000));
        let half = Force(f64::from(newtons) * 2.0).at(arm(mm * 500_000));
        prop_assert!((whole.0 - half.0).abs() < 1e-9 * whole.0);
    }
}
