//! Who may be at the bench, and how sure a shop may ask to be.

use anvil_rules::shop::people::{initials, required_probability};

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
