//! Over the years: what was found for a complaint, and how far a box has gone since it was here last.

use std::sync::Arc;

use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::check::record::{Record, SettingState};
use anvil_rules::job::check::since::{as_found, moved_since};
use anvil_rules::job::intake::Complaint;
use anvil_rules::job::parts::{
    EarlierBox, Finding, Measured, PartAct, PartEntry, PartState, PictureOf, at_width,
    found_over_the_years, may_keep_another, offered_words, worn_since, years_between,
};
use anvil_rules::sheet::Symptom;
use chrono::{DateTime, TimeDelta};

use super::common::{chosen, measured, sheet, signed, with_piece};

fn said(act: PartAct) -> PartEntry {
    PartEntry {
        act,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    }
}

fn with_words(part: &str, state: PartState, words: &[&str]) -> PartEntry {
    said(PartAct::Found(Finding {
        conditions: words.iter().map(|w| (*w).to_owned()).collect(),
        ..Finding::of(part, state)
    }))
}

fn sized(part: &str, state: PartState, um: i64, u_um: f64) -> PartEntry {
    said(PartAct::Found(Finding {
        measured: Some(Measured {
            size_nm: Length::from_nm(um * 1_000),
            u_nm: u_um * 1_000.0,
        }),
        ..Finding::of(part, state)
    }))
}

fn whines(gear: &str) -> Vec<Complaint> {
    vec![Complaint {
        symptom: Symptom::Whines,
        gear: gear.into(),
    }]
}

#[test]
fn what_was_found_is_counted_by_complaint_the_commonest_first() {
    let van = sheet("tolvane-t5");
    let one = |gear: &str, entries: Vec<PartEntry>| EarlierBox {
        complaints: whines(gear),
        entries,
    };
    let boxes = [
        one(
            "third",
            vec![with_words(
                "in-3",
                PartState::Renewed,
                &["pitted", "chipped"],
            )],
        ),
        one(
            "third",
            vec![
                with_words("in-3", PartState::Reused, &["pitted"]),
                with_words("in-rear", PartState::Renewed, &["rough"]),
            ],
        ),
        // Looked at, and nothing found.
        one("third", vec![with_words("in-3", PartState::Reused, &[])]),
        // Nobody looked.
        one("third", vec![]),
        one("fifth", vec![with_words("in-5", PartState::Renewed, &[])]),
        // Said and taken back.
        one(
            "fifth",
            vec![
                with_words("main-5", PartState::Renewed, &["pitted"]),
                said(PartAct::TakenBack {
                    part: "main-5".into(),
                    why: String::new(),
                }),
            ],
        ),
    ];
    let found = found_over_the_years(&van, &boxes);
    let heads: Vec<_> = found
        .iter()
        .map(|f| (f.complaint.as_str(), f.boxes, f.explained))
        .collect();
    assert_eq!(
        heads,
        [("whines in third", 3, 2), ("whines in fifth", 1, 1)]
    );
    let third = &found[0].parts;
    assert_eq!(
        (third[0].part.as_str(), third[0].boxes, third[0].renewed),
        ("in-3", 2, 1)
    );
    assert_eq!(
        third[0].conditions,
        [("pitted".to_owned(), 2), ("chipped".to_owned(), 1)]
    );
    assert_eq!(
        (third[1].name.as_str(), third[1].boxes),
        ("Rear bearing, input shaft", 1)
    );
    assert_eq!(found[1].parts.len(), 1);
}

#[test]
fn wear_per_year_comes_with_its_doubt_and_with_how_long_it_lasts() {
    let van = sheet("tolvane-t5");
    // Pads of 5.94 when new, 5.68 at least. 5.90 ± then, 5.80 now, two years later: 0.05 a year, 2.4 years left.
    let then = [sized("fork-12", PartState::Reused, 5_900, 3.0)];
    let now = [sized("fork-12", PartState::Reused, 5_800, 4.0)];
    let worn = worn_since(&van, &then, &now, 2.0);
    assert_eq!(worn.len(), 1);
    let of = &worn[0];
    assert!((of.per_year_nm - 50_000.0).abs() < 1e-6);
    // √(3² + 4²) = 5 µm; 1.96 × 5 / 2 years (JCGM 100:2008, G.3.4).
    assert!((of.expanded_per_year_nm - 1.959_964 * 5_000.0 / 2.0).abs() < 1.0);
    assert!((of.lasts_years.unwrap() - 0.12 / 0.05).abs() < 1e-9);
    assert!(!of.from_new);

    // A new one went in: it began as new.
    let then = [sized("fork-12", PartState::Renewed, 5_700, 3.0)];
    let of = &worn_since(&van, &then, &now, 2.0)[0];
    assert_eq!(
        (of.from_new, of.then_nm),
        (true, Length::from_nm(5_940_000))
    );
    assert!((of.per_year_nm - 70_000.0).abs() < 1e-6);

    // Less than its doubt says nothing of how long it lasts; nor what is worn out already.
    let then = [sized("fork-12", PartState::Reused, 5_805, 4.0)];
    assert_eq!(worn_since(&van, &then, &now, 2.0)[0].lasts_years, None);
    let then = [sized("fork-12", PartState::Reused, 5_900, 3.0)];
    let gone = [sized("fork-12", PartState::Renewed, 5_600, 3.0)];
    assert_eq!(worn_since(&van, &then, &gone, 2.0)[0].lasts_years, None);
    // Where it was not measured then, or the part has no limit, nothing is said.
    assert_eq!(worn_since(&van, &[], &now, 2.0), []);
    let no_limit = [sized("main-3", PartState::Reused, 5_900, 3.0)];
    assert_eq!(worn_since(&van, &no_limit, &no_limit, 2.0), []);
}

#[test]
fn a_month_is_the_least_that_says_something_of_a_year() {
    let now = DateTime::UNIX_EPOCH + TimeDelta::days(1_000);
    let years = |days| years_between(now - TimeDelta::days(days), now);
    assert_eq!(years(10), None);
    assert_eq!(years(-40), None);
    let two = years(731).unwrap();
    assert!((two - 731.0 / 365.25).abs() < 1e-12);
}

fn loaded(record: Record) -> LoadedCheck {
    LoadedCheck::of(record, Arc::new(sheet("tolvane-t5"))).unwrap()
}

#[test]
fn a_check_is_found_beside_what_was_signed() {
    let then = [
        loaded(signed(measured("second-side", 200_000))),
        loaded(signed(with_piece(measured("input-float", 90_000)))),
        loaded(measured("baulk-gap", 900_000)),
    ];
    let now = [
        loaded(measured("second-side", 310_000)),
        // Its first reading is taken with what came out of the box.
        loaded(with_piece(measured("input-float", 92_000))),
        loaded(measured("baulk-gap", 800_000)),
    ];
    let moved = moved_since(&then, &now, Some(0.5));
    let keys: Vec<_> = moved.iter().map(|m| m.check_key.as_str()).collect();
    // The third was not signed then.
    assert_eq!(keys, ["second-side", "input-float"]);
    assert!((moved[0].moved_nm - 110_000.0).abs() < 1.0);
    assert!(moved[0].is_told);
    assert!((moved[0].per_year_nm.unwrap() - 2.0 * moved[0].moved_nm).abs() < 1e-6);
    // 2 µm are less than the doubt of two measurements.
    assert!(!moved[1].is_told && moved[1].per_year_nm.is_none());
    let u = |c: &LoadedCheck| c.assessment.estimate.as_ref().unwrap().u_nm;
    let expanded = 1.959_964 * u(&then[0]).hypot(u(&now[0]));
    assert!((moved[0].expanded_nm - expanded).abs() < 0.5);
    assert!(
        moved_since(&then, &now, None)
            .iter()
            .all(|m| m.per_year_nm.is_none())
    );
}

#[test]
fn what_was_found_is_what_the_first_setting_was_chosen_on() {
    let mut record = chosen(
        with_piece(measured("input-float", 90_000)),
        1,
        SettingState::Fitted,
    );
    record.settings[0].measured_nm = 40_000.0;
    assert_eq!(as_found(&loaded(record.clone())), Some((40_000.0, 1_000.0)));
    // A first setting of a later round says nothing of how it was found.
    record.settings[0].round = 1;
    assert_eq!(as_found(&loaded(record)), None);
    // What is measured with nothing in is never found so.
    assert_eq!(as_found(&loaded(measured("main-float", 190_000))), None);
}

#[test]
fn a_picture_is_of_something_that_the_box_has() {
    let van = sheet("tolvane-t5");
    let of = |part, step| PictureOf::read(&van, part, step);
    assert_eq!(of("", ""), Ok(PictureOf::Box));
    assert_eq!(of("in-3", "").unwrap().words(&van), "Third, input");
    let step = van.build[0].key.as_str();
    assert_eq!(of("", step).unwrap().words(&van), van.build[0].what);
    for (part, step, field) in [
        ("no", "", "part"),
        ("", "no", "step"),
        ("in-3", step, "step"),
    ] {
        assert_eq!(of(part, step).unwrap_err().nature, Nature::Field(field));
    }
    assert!(may_keep_another(119).is_ok());
    let many = may_keep_another(120).unwrap_err();
    assert!(many.message.contains("120 pictures"), "{}", many.message);
}

#[test]
fn a_shop_adds_words_of_its_own_by_kind() {
    let van = sheet("tolvane-t5");
    let said = |part: &str, word: &str| (part.to_owned(), word.to_owned());
    let used = [
        said("main-3", "pitted"),
        said("main-3", "blue at the dogs"),
        said("fork-12", "pad loose"),
        said("in-2", "blue at the dogs"),
        said("in-2", "burr on one face"),
        said("gone", "nobody knows"),
    ];
    let words = offered_words(&van, "in-5", &used);
    assert_eq!(
        words[..5],
        [
            "pitted",
            "chipped",
            "rounded dogs",
            "worn cone",
            "worn bore"
        ]
    );
    // Those of gears, once each; those of a fork are a fork's.
    assert_eq!(words[5..], ["blue at the dogs", "burr on one face"]);
    assert_eq!(
        offered_words(&van, "fork-5", &used).last().unwrap(),
        "pad loose"
    );
    let many: Vec<_> = (0..9)
        .map(|n| said("main-3", &format!("word {n}")))
        .collect();
    assert_eq!(offered_words(&van, "in-5", &many).len(), 11);
}

#[test]
fn another_width_runs_the_stack_sums_that_hold_the_part() {
    let van = sheet("tolvane-t5");
    // 29.15 − 7.92 − 21.00 = 0.23, in its window of 0.16 to 0.31; a gear of 21.12 leaves 0.11.
    let sums = at_width(&van, "main-5", ("21.12", Unit::Mm)).unwrap();
    assert_eq!(sums.len(), 1);
    let fifth = &sums[0];
    assert_eq!(
        (
            fifth.check_key.as_str(),
            fifth.was_nm.nm(),
            fifth.now_nm.nm()
        ),
        ("fifth-thrust", 230_000, 110_000)
    );
    // Limits of 0.02, 0.01 and 0.03: √(0.0014 / 3) = 0.0216; 1.96 of that (JCGM 100:2008, 4.3.7).
    assert!((fifth.expanded_nm - 1.959_964 * (0.0014_f64 / 3.0).sqrt() * 1e6).abs() < 1.0);
    assert_eq!(fifth.call, Some(Call::Tight));
    let call = |typed: &str| at_width(&van, "main-5", (typed, Unit::Mm)).unwrap()[0].call;
    assert_eq!(call("21.00"), Some(Call::In));
    assert_eq!(call("21.05"), Some(Call::Inconclusive));
    assert_eq!(call("20.80"), Some(Call::Loose));
    for (part, typed, nature) in [
        ("main-5", "wide", Nature::Field("width")),
        ("main-5", "0", Nature::Field("width")),
        ("in-3", "20", Nature::Missing),
    ] {
        assert_eq!(
            at_width(&van, part, (typed, Unit::Mm)).unwrap_err().nature,
            nature
        );
    }
}
