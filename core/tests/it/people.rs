//! Who may be at the bench, and how sure a shop may ask to be.

use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::units::length::Unit;
use anvil_rules::shop::people::{bench_unit, initials, required_probability};

#[test]
fn initials_are_two_to_four_letters() {
    for (typed, kept) in [
        ("rt", Some("RT")),
        (" MEL ", Some("MEL")),
        ("ABCD", Some("ABCD")),
    ] {
        assert_eq!(initials(typed).ok().as_deref(), kept, "{typed}");
    }
    for typed in ["", "R", "ABCDE", "R1", "ÄÖ", "R T"] {
        assert!(initials(typed).is_err(), "{typed}");
    }
}

#[test]
fn less_than_a_half_and_certainty_are_not_asked_for() {
    for (asked, fits) in [
        (0.5, true),
        (0.9, true),
        (0.999, true),
        (0.49, false),
        (1.0, false),
        (f64::NAN, false),
    ] {
        assert_eq!(required_probability(asked).is_ok(), fits, "{asked}");
    }
}

#[test]
fn a_bench_starts_in_a_unit_that_clearances_are_read_in() {
    for unit in [Unit::Thou, Unit::Mm, Unit::Um] {
        assert_eq!(bench_unit(unit), Ok(unit));
    }
    let told = bench_unit(Unit::Inch).unwrap_err();
    assert_eq!(told.nature, Nature::Field("unit"));
}
