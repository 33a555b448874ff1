//! What is said of a box that goes with something not seen to.

use anvil_rules::job::build::{Build, BuildAct, BuildEntry};
use anvil_rules::job::hand_over::{may_hand_over, not_seen_to};
use anvil_rules::job::standing::Standing;
use chrono::DateTime;

use crate::common::{case, sheet};

#[test]
fn what_nobody_has_seen_to_is_said_in_words() {
    let bike = sheet("skelt-m5");
    let steps = bike.build.len();
    let said = |acts: &[BuildAct], looked_at: usize| {
        let entry = |act: &BuildAct| BuildEntry {
            act: act.clone(),
            who: "RT".into(),
            at: DateTime::UNIX_EPOCH,
        };
        let entries: Vec<BuildEntry> = acts.iter().map(entry).collect();
        let build = Build::of(&bike, &entries, &[], DateTime::UNIX_EPOCH).unwrap();
        not_seen_to(Some(&build), looked_at, 12)
    };
    let named = bike.gears.iter().map(|g| g.name.as_str());
    let gears: Vec<&str> = std::iter::once("neutral").chain(named).collect();
    assert_eq!(
        said(&[], 0),
        [
            format!("{steps} steps of {steps} of the build"),
            format!("gears by hand: {}", gears.join(", ")),
            "12 parts of 12 at the strip".to_owned(),
        ]
    );
    // One that is left out is seen to, but what is asked after it is not answered; a gear that turns as it should is, one that turns otherwise is not.
    let acts = [
        BuildAct::Skipped {
            step: bike.build[0].key.clone(),
            why: "never out".into(),
        },
        BuildAct::Shifted {
            gear: gears[0].to_owned(),
            turns: None,
        },
    ];
    assert_eq!(
        said(&acts, 11),
        [
            format!("{} steps of {steps} of the build", steps - 1),
            "“Oil ways clear right through?”".to_owned(),
            format!("gears by hand: {}", gears[1..].join(", ")),
            "1 part of 12 at the strip".to_owned(),
        ]
    );
    assert_eq!(not_seen_to(None, 7, 7), [""; 0]);
}

#[test]
fn a_box_goes_signed_and_with_a_word_of_what_was_not_seen_to() {
    let some = ["3 steps of 12 of the build".to_owned()];
    let bench = (Standing::OnBench, false);
    for (standing, signed, seen, why, said) in [
        (bench, 4, &[][..], "late", "checks-open"),
        (bench, 5, &[], "", "yes"),
        (bench, 5, &some, " \u{200b}", "reason"),
        ((Standing::OnBench, true), 5, &[], "", "for-parts"),
        ((Standing::HandedOver, false), 5, &[], "", "handed-over"),
        ((Standing::PutAway, false), 5, &[], "", "not-on-the-bench"),
    ] {
        let ruled = may_hand_over(standing, (signed, 5), seen, why);
        assert_eq!(case(ruled), said);
    }
    let kept = may_hand_over(bench, (5, 5), &some, " a seal only ").unwrap();
    assert_eq!(kept, "a seal only");
}
