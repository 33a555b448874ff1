//! What a record says of itself: which readings stand, what is in the box, what is typed told as it was typed.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::measure::by_hand::RangeReading;
use anvil_arithmetic::measure::turning_torque::TorqueReading;
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::units::force::Torque;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::job::check::record::{
    BiasDecision, FittedEntry, Mark, ReadingMark, Record, SettingState, SignAct, Signing,
};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use chrono::DateTime;

use crate::common::{blank, case, chosen, gauge, measured, sheet, signed, travel, with_reading};

fn marked(mut record: Record, reading_no: i32, mark: ReadingMark) -> Record {
    record.marks.push(Mark {
        reading_no,
        mark,
        reason: "gauge moved".into(),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    record
}

fn standing(record: &Record) -> Vec<i32> {
    record.valid_readings().map(|r| r.reading_no).collect()
}

#[test]
fn a_reading_stands_until_it_is_struck_out_and_again_once_it_is_restored() {
    let record = measured("input-float", 100_000);
    assert_eq!(standing(&record), [1, 2, 3]);
    let struck = marked(record, 2, ReadingMark::Struck);
    assert_eq!(standing(&struck), [1, 3]);
    assert!(struck.struck(2).is_some() && struck.struck(1).is_none());
    // To keep a reading that was asked about says nothing of its being struck out.
    let kept = marked(struck.clone(), 2, ReadingMark::Kept);
    assert_eq!(standing(&kept), [1, 3]);
    let back = marked(struck, 2, ReadingMark::Restored);
    assert_eq!(standing(&back), [1, 2, 3]);
}

#[test]
fn readings_of_an_earlier_round_stand_no_more() {
    let mut record = measured("input-float", 100_000);
    record.head.round = 1;
    assert_eq!(standing(&record), [0; 0]);
    assert_eq!(
        standing(&with_reading(record, Method::DialTravel, travel(90_000))),
        [4]
    );
}

#[test]
fn a_bare_figure_is_told_with_the_unit_it_was_typed_in() {
    let told = |typed: &str, unit, method, taken| {
        let mut record = with_reading(blank("input-float"), method, taken);
        record.readings[0].typed = typed.into();
        record.readings[0].bench_unit = unit;
        record.readings[0].as_typed()
    };
    let dial = |typed, unit| told(typed, unit, Method::DialTravel, travel(1));
    assert_eq!(dial("6 1/2", Unit::Thou), "6 1/2 thou");
    assert_eq!(dial("0,15", Unit::Mm), "0,15 mm");
    assert_eq!(dial("0.15mm", Unit::Thou), "0.15mm");
    assert_eq!(dial(".0065\"", Unit::Mm), ".0065\"");
    assert_eq!(dial("1.02 to 1.17", Unit::Mm), "1.02 to 1.17 mm");
    let felt = Reading::ByHand(RangeReading {
        from_nm: Length::ZERO,
        to_nm: Length::ZERO,
    });
    assert_eq!(
        told("about 6", Unit::Thou, Method::ByHand, felt),
        "about 6 thou"
    );
    // A torque's bare figure is in newton metres, whatever the bench works in.
    let torque = Reading::Torque(TorqueReading {
        torque_n_m: Torque(1.9),
    });
    assert_eq!(told("1.9", Unit::Mm, Method::TurningTorque, torque), "1.9");
}

#[test]
fn the_gauge_of_a_method_is_the_first_of_its_kinds_that_is_in_use() {
    let mut record = blank("input-float");
    record.gauges = vec![
        gauge("old", GaugeKind::Dial),
        gauge("depth", GaugeKind::Depth),
        gauge("dial", GaugeKind::Dial),
    ];
    let key = |record: &Record, method| record.gauge_for(method).map(|g| g.gauge_key.clone());
    assert_eq!(key(&record, Method::DialTravel).as_deref(), Some("old"));
    assert_eq!(key(&record, Method::DepthFromBar).as_deref(), Some("depth"));
    assert_eq!(key(&record, Method::Feeler), None);
    assert_eq!(key(&record, Method::ByHand), None);
    record.gauges[0].retired = true;
    assert_eq!(key(&record, Method::DialTravel).as_deref(), Some("dial"));
}

#[test]
fn what_is_chosen_waits_and_what_is_fitted_is_in_the_box() {
    let waits = chosen(measured("input-float", 100_000), 1, SettingState::Chosen);
    assert!(waits.open_setting().is_some() && waits.fitted_setting().is_none());
    let fitted = chosen(measured("input-float", 100_000), 1, SettingState::Fitted);
    assert!(fitted.open_setting().is_none() && fitted.fitted_setting().is_some());
    let mut both = fitted.clone();
    let mut next = waits.settings[0].clone();
    next.setting_no = 2;
    both.settings.push(next);
    // What went in from the drawer comes out into it; what was in the box, or of another drawer, does not.
    assert_eq!(
        both.comes_out(Some("t5-input-shim")).map(|s| s.setting_no),
        Some(1)
    );
    assert!(both.comes_out(Some("another")).is_none());
    assert!(both.comes_out(None).is_none());
    assert!(
        fitted.comes_out(Some("t5-input-shim")).is_none(),
        "nothing waits to go in"
    );
    both.settings[1].family_key = "another".into();
    assert!(both.comes_out(Some("t5-input-shim")).is_none());
}

#[test]
fn a_signature_stands_until_the_check_is_reopened() {
    let record = signed(measured("input-float", 100_000));
    assert!(record.signature().is_some());
    let mut reopened = record;
    reopened
        .signings
        .push(Signing::reopened("worn".into(), "RT", DateTime::UNIX_EPOCH));
    assert!(reopened.signature().is_none());
    assert_eq!(reopened.signings[1].act, SignAct::Reopened);
    assert!(signed(reopened).signature().is_some());
}

#[test]
fn anything_said_of_a_check_makes_its_record_not_blank() {
    assert!(blank("input-float").is_blank());
    let mut told: Vec<(&str, Record)> = vec![
        ("a reading", measured("input-float", 1)),
        (
            "a setting",
            chosen(blank("input-float"), 0, SettingState::LetGo),
        ),
        ("a signature", signed(blank("input-float"))),
    ];
    let mut fitted = blank("input-float");
    fitted.fitted_entries.push(FittedEntry {
        fitted_nm: 1,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    told.push(("what is fitted", fitted));
    let mut way = blank("input-float");
    way.head.way = Some(Method::Feeler);
    told.push(("which way counts", way));
    for (what, record) in told {
        assert!(!record.is_blank(), "{what}");
    }
}

#[test]
fn a_usual_difference_is_counted_in_where_somebody_said_so() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let mut record = measured("input-float", 90_000);
    let estimate = record.assess(&spec).unwrap().estimate.unwrap();
    let plain = record.expected_of(&estimate);
    assert_eq!(plain, (estimate.clearance_nm, estimate.u_nm, estimate.dof));
    let says = |counts| BiasDecision {
        counts,
        mean_nm: -8_000.0,
        u_nm: 3_000.0,
        dof: 7.0,
        boxes: 8,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    };
    record.bias_decisions.push(says(true));
    let (nm, u, dof) = record.expected_of(&estimate);
    assert!((nm - estimate.clearance_nm + 8_000.0).abs() < 1e-9);
    // Root-sum-square (JCGM 100:2008, 5.1.2); the freedom lies between the two's (G.4.1).
    assert!((u - estimate.u_nm.hypot(3_000.0)).abs() < 1e-9);
    assert!(dof.is_some_and(|d| d >= 7.0));
    record.bias_decisions.push(says(false));
    assert_eq!(record.expected_of(&estimate), plain);
}

#[test]
fn what_is_in_the_box_is_said_before_anything_is_fitted_here() {
    let record = measured("input-float", 100_000);
    let say = |record: &Record, nm| case(rules::may_say_fitted(record, Length::from_nm(nm)));
    assert_eq!(say(&record, 1_100_000), "yes");
    assert_eq!(say(&record, 99_000_000_000), "fitted");
    assert_eq!(say(&signed(record.clone()), 1), "signed");
    let waits = chosen(record.clone(), 1, SettingState::Chosen);
    assert_eq!(say(&waits, 1), case(rules::may_change(&waits)));
    let mut later = record;
    later.head.round = 1;
    assert_eq!(say(&later, 1), "fitted-known");
}

#[test]
fn only_what_the_sheet_asks_to_be_seen_to_is_ticked() {
    let van = sheet("tolvane-t5");
    let spec = Spec::of(&van, "input-float").unwrap();
    let record = blank("input-float");
    let ready = van.ready_of(spec.check);
    assert!(!ready.is_empty());
    for item in &ready {
        assert_eq!(case(rules::may_tick(&record, &spec, &item.tick)), "yes");
        assert_eq!(
            case(rules::may_tick(&signed(record.clone()), &spec, &item.tick)),
            "signed"
        );
    }
    assert_eq!(
        case(rules::may_tick(&record, &spec, "sweep the floor")),
        "tick"
    );
}

#[test]
fn a_method_counts_once_it_has_a_reading_of_this_round() {
    let record = measured("input-float", 100_000);
    assert_eq!(case(rules::may_count(&record, Method::DialTravel)), "yes");
    assert_eq!(case(rules::may_count(&record, Method::Feeler)), "way");
    // A sum needs none: the sheet's own figures make one.
    assert_eq!(case(rules::may_count(&record, Method::StackSum)), "yes");
    let struck = (1..=3).fold(record.clone(), |r, no| marked(r, no, ReadingMark::Struck));
    assert_eq!(case(rules::may_count(&struck, Method::DialTravel)), "way");
    assert_eq!(
        case(rules::may_count(&signed(record), Method::DialTravel)),
        "signed"
    );
}

#[test]
fn pieces_are_named_once_each_and_chosen_on_a_figure() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let piece = |nm, count| SizeCount {
        thickness_nm: Length::from_nm(nm),
        grade: Grade::Marked,
        count,
    };
    let record = measured("input-float", 100_000);
    let found = record.assess(&spec).unwrap();
    let choose = |pieces: &[SizeCount]| case(rules::may_choose(&record, &found, pieces));
    assert_eq!(choose(&[piece(1_000_000, 1), piece(1_050_000, 2)]), "yes");
    assert_eq!(
        choose(&[piece(1_000_000, 1), piece(1_000_000, 1)]),
        "pieces"
    );
    assert_eq!(choose(&[piece(1_000_000, 0)]), "pieces");
    let none = blank("input-float");
    let nothing = none.assess(&spec).unwrap();
    assert_eq!(
        case(rules::may_choose(&none, &nothing, &[piece(1_000_000, 1)])),
        "not-measured"
    );
    assert_eq!(rules::stock_taken().nature, Nature::Conflict("stock-taken"));
    assert_eq!(
        rules::too_few_boxes().nature,
        Nature::Conflict("too-few-boxes")
    );
}
