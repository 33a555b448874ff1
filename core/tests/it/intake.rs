//! The card a box comes in with, and what to look at first for its complaints.

use anvil_arithmetic::refusal::Nature;
use anvil_rules::job::build::parts;
use anvil_rules::job::intake::{Complaint, Intake, WaitsFor, choices};
use anvil_rules::job::parts::{
    EarlierBox, Finding, LookFirst, PartAct, PartEntry, PartState, view,
};
use anvil_rules::sheet::{Sheet, Symptom, read};
use chrono::{DateTime, Days, NaiveDate};
use serde_json::json;

use super::common::{BOXES, sheet};

fn it(symptom: Symptom, gear: &str) -> Complaint {
    Complaint {
        symptom,
        gear: gear.into(),
    }
}

fn of(complaints: Vec<Complaint>) -> Intake {
    Intake {
        complaints,
        ..Intake::default()
    }
}

fn today() -> NaiveDate {
    NaiveDate::from_ymd_opt(2026, 3, 29).unwrap()
}

#[test]
fn complaints_name_gears_that_the_box_has() {
    let van = sheet("tolvane-t5");
    let refused = |intake: Intake, was: Option<&Intake>| {
        let refusal = intake.taken(&van, today(), was).unwrap_err();
        (refusal.nature, refusal.message)
    };
    let good = of(vec![it(Symptom::JumpsOut, "third"), it(Symptom::Leaks, "")]);
    assert_eq!(good.taken(&van, today(), None).unwrap(), good);
    let sixth = of(vec![it(Symptom::JumpsOut, "sixth")]);
    let (nature, message) = refused(sixth.clone(), None);
    assert_eq!(nature, Nature::Field("complaints"));
    assert!(message.contains("no gear “sixth”"), "{message}");
    // It stood there before the job was moved to another sheet.
    assert!(sixth.taken(&van, today(), Some(&sixth)).is_ok());
    for (complaints, says) in [
        (vec![it(Symptom::Leaks, "third")], "“leaks” needs no gear"),
        (
            vec![it(Symptom::Whines, "third"), it(Symptom::Whines, "third")],
            "“whines in third” stands there twice",
        ),
        (
            ["first", "second", "third", "fourth", "fifth", "reverse"]
                .iter()
                .flat_map(|g| [Symptom::Whines, Symptom::Knocks, Symptom::Grates].map(|s| it(s, g)))
                .collect(),
            "12 complaints are enough",
        ),
    ] {
        let (_, message) = refused(of(complaints), None);
        assert!(message.contains(says), "{message}");
    }
}

#[test]
fn a_day_is_promised_from_today_on_and_stays_once_it_is() {
    let van = sheet("tolvane-t5");
    let by = |day: NaiveDate| Intake {
        promised: Some(day),
        agreed: " as last time\u{200b} ".into(),
        stamped: "\tT·1 ".into(),
        ..Intake::default()
    };
    let yesterday = by(today() - Days::new(1));
    let refusal = yesterday.taken(&van, today(), None).unwrap_err();
    assert_eq!(refusal.nature, Nature::Field("promised"));
    let kept = by(today()).taken(&van, today(), None).unwrap();
    assert_eq!((&*kept.agreed, &*kept.stamped), ("as last time", "T·1"));
    // The job is late, and its card can still be mended.
    assert!(yesterday.taken(&van, today(), Some(&yesterday)).is_ok());
    let other = by(today() - Days::new(2));
    assert!(other.taken(&van, today(), Some(&yesterday)).is_err());
}

#[test]
fn a_job_waits_since_it_was_said_and_until_a_day_to_come() {
    let van = sheet("tolvane-t5");
    let for_what = |what: &str, until: Option<NaiveDate>| Intake {
        waits_for: Some(WaitsFor {
            what: what.into(),
            since: None,
            until,
        }),
        ..Intake::default()
    };
    let tomorrow = today() + Days::new(1);
    let said = for_what(" the customer’s answer ", Some(tomorrow));
    let said = said.taken(&van, today(), None).unwrap();
    let waits = said.waits_for.clone().unwrap();
    assert_eq!(waits.what, "the customer’s answer");
    assert_eq!((waits.since, waits.until), (Some(today()), Some(tomorrow)));
    // Two days later the day is past and stands, other words or none; since when stays.
    let later = today() + Days::new(2);
    let again = for_what("the grinder", Some(tomorrow)).taken(&van, later, Some(&said));
    assert_eq!(again.unwrap().waits_for.unwrap().since, Some(today()));
    // What was said in between is put back as it stood, and nothing begins in time to come.
    for (given, kept) in [(today(), today()), (later + Days::new(1), later)] {
        let mut back = for_what("the grinder", None);
        back.waits_for.as_mut().unwrap().since = Some(given);
        let back = back.taken(&van, later, None).unwrap();
        assert_eq!(back.waits_for.unwrap().since, Some(kept));
    }
    let refused = |of: Intake, was: Option<&Intake>| of.taken(&van, later, was).unwrap_err().nature;
    let past = for_what("the grinder", Some(today()));
    assert_eq!(
        refused(past.clone(), Some(&said)),
        Nature::Field("waits_until")
    );
    assert_eq!(refused(past, None), Nature::Field("waits_until"));
    let long = for_what(&"x".repeat(81), None);
    assert_eq!(refused(long, None), Nature::Field("waits_for"));
    // Nothing said, nothing is waited for; nor where it is left out.
    for none in [for_what(" \u{200b}", None), Intake::default()] {
        let none = none.taken(&van, later, Some(&said)).unwrap();
        assert_eq!(none.waits_for, None);
    }
}

#[test]
fn what_can_be_complained_of_comes_with_the_gears_of_the_box() {
    for name in BOXES {
        let sheet = sheet(name);
        for choice in choices(&sheet) {
            assert_eq!(
                choice.gears.is_empty(),
                !choice.symptom.in_a_gear() || sheet.gears.is_empty()
            );
            for gear in choice.gears {
                let one = of(vec![it(choice.symptom, &gear)]);
                assert!(one.taken(&sheet, today(), None).is_ok());
                let words = choice.symptom.words(&gear);
                assert!(words.ends_with(&gear), "{words}");
            }
        }
    }
}

fn entry(part: &str, state: PartState, conditions: &[&str]) -> PartEntry {
    PartEntry {
        act: PartAct::Found(Finding {
            conditions: conditions.iter().map(|c| (*c).into()).collect(),
            ..Finding::of(part, state)
        }),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    }
}

fn look(
    sheet: &Sheet,
    complaint: &Complaint,
    entries: &[PartEntry],
    earlier: &[EarlierBox],
) -> LookFirst {
    let on_job = parts(sheet, &[], &[], DateTime::UNIX_EPOCH).unwrap();
    let complaints = std::slice::from_ref(complaint);
    let mut looks = view(sheet, on_job, entries, complaints, earlier, &[]).look_first;
    assert_eq!(looks.len(), 1);
    looks.remove(0)
}

fn keys(look: &LookFirst) -> Vec<&str> {
    look.parts.iter().map(|p| &*p.part).collect()
}

/// In third the van's power goes through the two gears of third alone, and the final drive as in every gear.
#[test]
fn the_teeth_tell_which_gears_are_run_in_the_gear_complained_of() {
    let mut van = sheet("tolvane-t5");
    van.look_at.clear();
    let whines = look(&van, &it(Symptom::Whines, "third"), &[], &[]);
    assert_eq!(keys(&whines), ["in-3", "main-3"]);
    assert_eq!(
        whines.parts[0].why,
        ["power goes through it in third and in no other gear"]
    );
    // Reverse goes through the idler, and starts on a gear of its own.
    let reverse = look(&van, &it(Symptom::Whines, "reverse"), &[], &[]);
    let path = van.gears.iter().find(|g| g.name == "reverse").unwrap();
    let on_path = |key: &&str| path.pairs.iter().flatten().any(|p| p == key);
    assert!(keys(&reverse).iter().all(on_path) && keys(&reverse).contains(&"idler-gear"));
    // A leak has nothing to do with teeth: what is usual for it.
    let leaks = look(&van, &it(Symptom::Leaks, ""), &[], &[]);
    assert_eq!(
        keys(&leaks),
        [
            "seal-input",
            "seal-left",
            "seal-right",
            "end-cover",
            "end-gasket"
        ]
    );
}

#[test]
fn what_was_found_on_earlier_boxes_comes_first_then_what_the_sheet_says() {
    let van = sheet("tolvane-t5");
    let jumps = it(Symptom::JumpsOut, "second");
    let earlier = |entries: Vec<PartEntry>, gear: &str| EarlierBox {
        complaints: vec![it(Symptom::JumpsOut, gear)],
        entries,
    };
    let renewed = |part| entry(part, PartState::Renewed, &["worn pads"]);
    let boxes = [
        earlier(
            vec![
                renewed("fork-12"),
                entry("main-2", PartState::Renewed, &["rounded dogs"]),
            ],
            "second",
        ),
        earlier(vec![renewed("fork-12")], "second"),
        earlier(vec![entry("main-2", PartState::Reused, &[])], "second"),
        // Nobody looked at this one, and that one jumped out of another gear.
        earlier(vec![], "second"),
        earlier(vec![renewed("fork-34")], "third"),
    ];
    let seen = look(&van, &jumps, &[], &boxes);
    assert_eq!(seen.earlier, 3);
    assert_eq!(keys(&seen)[..2], ["fork-12", "main-2"]);
    assert_eq!(
        seen.parts[0].why[..2],
        [
            "on 2 of 3 earlier boxes with this: worn pads",
            "dogs rounded on the side that pulls, sleeve loose on its hub"
        ]
    );
    assert!(!keys(&seen).contains(&"fork-34"));
    // Where no gear is named, all of them count.
    let any = look(&van, &it(Symptom::JumpsOut, ""), &[], &boxes);
    assert_eq!(any.earlier, 4);
    assert!(keys(&any).contains(&"fork-34"));
    // What is taken back was never found.
    let back = PartEntry {
        act: PartAct::TakenBack {
            part: "fork-12".into(),
            why: String::new(),
        },
        ..renewed("fork-12")
    };
    let none = look(
        &van,
        &jumps,
        &[],
        &[earlier(vec![renewed("fork-12"), back], "second")],
    );
    assert_eq!(none.earlier, 0);
}

#[test]
fn what_is_found_is_told_at_the_complaint_it_explains() {
    let van = sheet("tolvane-t5");
    let jumps = it(Symptom::JumpsOut, "second");
    let on_this = [
        entry("main-2", PartState::Renewed, &["rounded dogs"]),
        entry("fork-12", PartState::Reused, &[]),
    ];
    let seen = look(&van, &jumps, &on_this, &[]);
    let of = |key: &str| seen.parts.iter().find(|p| p.part == key).unwrap();
    let gear = of("main-2");
    assert_eq!(gear.found.as_deref(), Some("rounded dogs, was renewed"));
    assert!(gear.explains);
    assert!(of("fork-12").found.is_some() && !of("fork-12").explains);
    assert_eq!(of("main-hub12").found, None);
}

#[test]
fn faults_of_where_to_look_stand_at_their_field() {
    let text = serde_json::to_value(sheet("tolvane-t5")).unwrap();
    for (look, place, says) in [
        (
            json!({"symptom": "leaks", "gear": "third", "parts": ["seal-left"]}),
            "/look_at/0/gear",
            "in every gear",
        ),
        (
            json!({"symptom": "whines", "gear": "sixth", "parts": ["in-3"]}),
            "/look_at/0/gear",
            "no gear “sixth”",
        ),
        (
            json!({"symptom": "whines", "parts": ["in-9"]}),
            "/look_at/0/parts/0",
            "no part or item has the key “in-9”",
        ),
        (
            json!({"symptom": "whines", "parts": ["in-3", "in-3"]}),
            "/look_at/0/parts/1",
            "named twice",
        ),
        (
            json!({"symptom": "whines", "parts": []}),
            "/look_at/0/parts",
            "",
        ),
        (
            json!({"symptom": "sings", "parts": ["in-3"]}),
            "/look_at/0/symptom",
            "",
        ),
    ] {
        let mut text = text.clone();
        text["look_at"] = json!([look]);
        let faults = read(&text.to_string()).unwrap_err();
        assert_eq!(faults[0].place, place, "{faults:?}");
        assert!(faults[0].message.contains(says), "{faults:?}");
    }
}
