//! Acts as values: how they are sent, what undoes them, and what they make stale. Every kind is in the tables.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::units::length::Unit;
use anvil_rules::identify::{Given, IdentityEntry};
use anvil_rules::job::act::{Act, View};
use anvil_rules::job::card::{
    JobAct, NewCard, NewNote, may_bring_back, may_put_away, may_take_back,
};
use anvil_rules::job::check::act::CheckAct;
use anvil_rules::job::check::record::{
    Assembly, ReadingMark, Record, SettingState, TargetOverride,
};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::donors::{DismantledBox, DonorAct};
use anvil_rules::job::identity::IdentityAct;
use anvil_rules::job::intake::{Intake, WaitsFor};
use anvil_rules::job::parts::{Finding, PartAct, PartEntry, PartState, something_stands};
use anvil_rules::job::standing::Standing;
use anvil_rules::sheet::PartKind;
use chrono::DateTime;
use serde_json::{Value, json};

use super::common::{blank, case, chosen, measured, sheet, signed, travel, with_piece};

/// An act as it is sent.
fn sent<T: serde::de::DeserializeOwned>(act: Value) -> T {
    serde_json::from_value(act).unwrap()
}

fn told<T: serde::Serialize>(act: &T) -> Value {
    serde_json::to_value(act).unwrap()
}

/// What undoes an act on the input shaft's check, as it is sent, and the words that say what was done.
fn undone(act: Value, before: &Record) -> Option<(String, Value)> {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let act: CheckAct = sent(act);
    let undo = act.undoing(before, &spec, Some(Method::DialTravel))?;
    Some((undo.said, told(&undo.act)))
}

/// A check with a window and target of its own.
fn aimed() -> Record {
    let mut aimed = measured("input-float", 90_000);
    aimed.target_overrides.push(TargetOverride {
        as_sheet: false,
        low_nm: Some(50_000),
        high_nm: Some(150_000),
        aim_from_nm: Some(80_000.0),
        aim_to_nm: Some(80_000.5),
        reason: "runs hot".into(),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    aimed
}

/// A check whose pack was laid out.
fn laid() -> Record {
    let mut laid = measured("input-float", 90_000);
    laid.assemblies.push(Assembly {
        plates: vec![PartKind::Steel],
        soaked: true,
        springs: Some(12),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    laid
}

/// Every act on a check, how the check stood before, and the act that undoes it.
fn acts_on_a_check() -> Vec<(Value, Record, Option<Value>)> {
    let plain = || measured("input-float", 90_000);
    let piece = json!({"thickness_nm": 1_000_000, "grade": "marked", "count": 1});
    let with_chosen = || chosen(plain(), 1, SettingState::Chosen);
    let sheets = json!({"act": "aim", "window": "sheet", "low": "", "high": "", "school": "sheet", "from": "", "to": "",
                        "unit": "mm", "reason": "as before"});
    let lay = json!({"act": "lay", "plates": ["friction"], "soaked": false});
    let choose = json!({"act": "choose", "pieces": [piece]});
    let again = json!({"act": "choose", "pieces": [piece], "family_key": null, "out_nm": null, "stays": false});
    let was_laid = json!({"act": "lay", "plates": ["steel"], "soaked": true, "springs": 12});
    let own = json!({"act": "aim", "window": "own", "low": "0.05 mm", "high": "0.15 mm", "school": "between",
                     "from": "0.08 mm", "to": "0.0800005 mm", "unit": "mm", "reason": "runs hot"});
    vec![
        (
            json!({"act": "way", "way": "feeler"}),
            plain(),
            Some(json!({"act": "way", "way": "dial_travel"})),
        ),
        (json!({"act": "way", "way": "dial_travel"}), plain(), None),
        (
            json!({"act": "bench", "bench_c": 8.5}),
            plain(),
            Some(json!({"act": "bench", "bench_c": 20.0})),
        ),
        (
            json!({"act": "tick", "tick": "clean", "done": true}),
            plain(),
            None,
        ),
        (
            json!({"act": "mark", "reading_no": 2, "mark": "struck", "reason": "slipped"}),
            plain(),
            Some(json!({"act": "mark", "reading_no": 2, "mark": "restored", "reason": ""})),
        ),
        (
            json!({"act": "mark", "reading_no": 2, "mark": "kept"}),
            plain(),
            None,
        ),
        (
            json!({"act": "fitted", "typed": "1.2", "unit": "mm"}),
            with_piece(plain()),
            Some(json!({"act": "fitted", "typed": "1 mm", "unit": "mm"})),
        ),
        (sheets.clone(), plain(), Some(sheets.clone())),
        (sheets.clone(), aimed(), Some(own)),
        (
            json!({"act": "usual", "counts": true}),
            plain(),
            Some(json!({"act": "usual", "counts": false})),
        ),
        (choose, plain(), Some(json!({"act": "let_go"}))),
        (json!({"act": "let_go"}), with_chosen(), Some(again)),
        (json!({"act": "let_go"}), plain(), None),
        (
            json!({"act": "ground", "marked_nm": 1_000_000, "measured": "0.98", "unit": "mm"}),
            plain(),
            Some(json!({"act": "undo_fit"})),
        ),
        (
            json!({"act": "fit", "put_back": true}),
            with_chosen(),
            Some(json!({"act": "undo_fit"})),
        ),
        (json!({"act": "undo_fit"}), plain(), None),
        (lay.clone(), plain(), None),
        (lay, laid(), Some(was_laid)),
        (
            json!({"act": "shims", "left": "0.1", "right": "", "unit": "mm", "moved": false}),
            plain(),
            None,
        ),
        (
            json!({"act": "sign"}),
            plain(),
            Some(json!({"act": "reopen", "reason": "signed off by mistake"})),
        ),
        (
            json!({"act": "reopen", "reason": "so"}),
            signed(plain()),
            None,
        ),
    ]
}

#[test]
fn each_act_on_a_check_has_its_undoing_or_none() {
    for (act, before, expected) in acts_on_a_check() {
        let found = undone(act.clone(), &before);
        assert_eq!(found.as_ref().map(|f| f.1.clone()), expected, "{act}");
        let says_something = found.is_none_or(|f| f.0.len() > 5);
        assert!(says_something, "{act}");
    }
}

#[test]
fn pieces_of_another_family_or_added_to_what_is_in_are_chosen_again_so() {
    let mut of_other = chosen(measured("input-float", 90_000), 1, SettingState::Chosen);
    let setting = of_other.settings.last_mut().unwrap();
    setting.family_key = "another".into();
    setting.fitted_before_nm = 1_200_000;
    let (_, act) = undone(json!({"act": "let_go"}), &of_other).unwrap();
    assert_eq!(
        (&act["family_key"], &act["out_nm"]),
        (&json!("another"), &json!(1_200_000))
    );
    let mut added = chosen(measured("input-float", 90_000), 1, SettingState::Chosen);
    added.settings.last_mut().unwrap().total_nm = 2_000_000;
    let (_, act) = undone(json!({"act": "let_go"}), &added).unwrap();
    assert_eq!(
        (&act["family_key"], &act["stays"]),
        (&Value::Null, &json!(true))
    );
}

fn card(waits: Option<&str>) -> NewCard {
    NewCard {
        title: "Van".into(),
        customer: "A baker".into(),
        complaint: String::new(),
        intake: Some(Intake {
            waits_for: waits.map(|what| WaitsFor {
                what: what.into(),
                since: None,
                until: None,
            }),
            ..Intake::default()
        }),
    }
}

#[test]
fn each_act_with_a_job_has_its_undoing_or_none() {
    let was = card(Some("the grinder"));
    let back = json!({"act": "card", "title": "Van", "customer": "A baker", "complaint": "",
                      "intake": {"waits_for": {"what": "the grinder"}}});
    let cases = [
        (
            JobAct::Card(card(None)),
            "It waits no longer: the grinder.",
            Some(back.clone()),
        ),
        (
            JobAct::Card(card(Some("a part"))),
            "The card is changed.",
            Some(back),
        ),
        (
            JobAct::HandOver {
                reason: String::new(),
            },
            "Handed over.",
            Some(json!({"act": "take_back"})),
        ),
        (
            JobAct::PutAway {
                reason: "so".into(),
            },
            "Put away.",
            Some(json!({"act": "bring_back"})),
        ),
        (
            JobAct::MarkNote {
                note_no: 3,
                struck: true,
            },
            "Struck out.",
            Some(json!({"act": "mark_note", "note_no": 3, "struck": false})),
        ),
        (JobAct::TakeBack {}, "", None),
        (JobAct::BringBack {}, "", None),
        (
            JobAct::Note(NewNote {
                said: "wet".into(),
                address: String::new(),
            }),
            "Noted.",
            Some(json!({"act": "mark_note", "note_no": 8, "struck": true})),
        ),
    ];
    for (act, said, expected) in cases {
        let undo = act.undoing(&was, Some(8));
        assert_eq!(undo.as_ref().map(|u| told(&u.act)), expected, "{act:?}");
        assert_eq!(undo.map(|u| u.said).unwrap_or_default(), said, "{act:?}");
    }
}

#[test]
fn a_job_goes_from_where_it_is_and_comes_back_from_there() {
    let (bench, over, away) = (Standing::OnBench, Standing::HandedOver, Standing::PutAway);
    for (standing, holds, why, said) in [
        (bench, false, "opened twice", "yes"),
        (bench, false, " ", "reason"),
        (bench, true, "opened twice", "pieces-chosen"),
        (over, false, "opened twice", "not-on-the-bench"),
        (away, false, "opened twice", "not-on-the-bench"),
    ] {
        assert_eq!(case(may_put_away(standing, holds, why)), said);
    }
    for (standing, back, brought) in [
        (bench, "not-handed-over", "not-put-away"),
        (over, "yes", "not-put-away"),
        (away, "not-handed-over", "yes"),
    ] {
        assert_eq!(case(may_take_back(standing)), back);
        assert_eq!(case(may_bring_back(standing)), brought);
    }
}

#[test]
fn a_note_and_a_card_say_enough_and_not_too_much() {
    let note = |said: &str, address: &str| {
        case(
            NewNote {
                said: said.into(),
                address: address.into(),
            }
            .taken(),
        )
    };
    assert_eq!(note(" wet at the joint ", ""), "yes");
    assert_eq!(note(" ", ""), "said");
    assert_eq!(note(&"x".repeat(2_001), ""), "said");
    assert_eq!(note("sum", "/sums/pinch?a=1"), "yes");
    assert_eq!(note("sum", "https://elsewhere"), "address");
    let card = |title: &str, customer: &str| {
        let card = NewCard {
            title: title.into(),
            customer: customer.into(),
            ..card(None)
        };
        case(card.taken())
    };
    assert_eq!(card("Van", "A baker"), "yes");
    assert_eq!(card(" ", "A baker"), "title");
    assert_eq!(card("Van", ""), "customer");
    assert_eq!(card(&"x".repeat(81), "A baker"), "title");
}

#[test]
fn what_was_said_of_a_part_is_undone_by_what_stood() {
    let box_sheet = sheet("tolvane-t5");
    let part = box_sheet.part_cards()[0].key.clone();
    let entry = |act: PartAct| PartEntry {
        act,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    };
    let found = PartAct::Found(Finding::of(&part, PartState::Renewed));
    let undo = found.undoing(&box_sheet, &[]).unwrap();
    assert!(matches!(undo.act, PartAct::TakenBack { .. }));
    // Taken back by mistake, it is said again; from another box it is taken again there.
    let back = undo.act;
    let again = back.undoing(&box_sheet, &[entry(found.clone())]).unwrap();
    assert_eq!(again.act, found);
    let from_another = PartAct::Found(Finding {
        from: Some(7),
        ..Finding::of(&part, PartState::FromAnother)
    });
    assert!(back.undoing(&box_sheet, &[entry(from_another)]).is_none());
    let ordered = PartAct::Ordered {
        part: part.clone(),
        count: Some(2),
        from: String::new(),
        price: String::new(),
    };
    let undo = ordered.undoing(&box_sheet, &[]).unwrap();
    assert_eq!(undo.act, PartAct::SupplyBack { part });
    assert!(undo.said.starts_with("2 × "), "{}", undo.said);
    assert!(undo.act.undoing(&box_sheet, &[]).is_none());
    // What was undone stands no more: it is as if nobody had looked.
    for (act, back) in [(&found, &back), (&ordered, &undo.act)] {
        assert!(something_stands(&[entry(act.clone())]));
        assert!(!something_stands(&[
            entry(act.clone()),
            entry(back.clone())
        ]));
    }
}

#[test]
fn used_parts_go_back_to_where_they_were() {
    let box_sheet = sheet("tolvane-t5");
    let keys: Vec<String> = box_sheet
        .part_cards()
        .iter()
        .map(|c| c.key.clone())
        .collect();
    let entry = |act: PartAct| PartEntry {
        act,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    };
    let entries = [
        entry(PartAct::Found(Finding {
            from: Some(7),
            ..Finding::of(&keys[0], PartState::FromAnother)
        })),
        entry(PartAct::Found(Finding::of(&keys[1], PartState::Renewed))),
        entry(PartAct::Shelved {
            part: keys[2].clone(),
            place: "bin 4".into(),
        }),
    ];
    let before = DismantledBox {
        job_no: 3,
        title: "Van",
        sheet: &box_sheet,
        entries: &entries,
        for_parts: false,
        is_gone: false,
    };
    let take: DonorAct = sent(json!({"act": "take", "parts":
        [{"part": keys[0], "from": 9}, {"part": keys[1], "from": 9}, {"part": keys[2], "from": 9}]}));
    let undo = take.undoing(&before).unwrap();
    assert_eq!(
        told(&undo.act)["parts"],
        json!([{"part": keys[0], "from": 7}, {"part": keys[1], "from": null}, {"part": keys[2], "from": 3}])
    );
    let shelve = |parts: &[String], place: &str| {
        let act: DonorAct = sent(json!({"act": "shelve", "parts": parts, "place": place}));
        act.undoing(&before).map(|u| told(&u.act)["place"].clone())
    };
    assert_eq!(shelve(&keys[2..3], ""), Some(json!("bin 4")));
    assert_eq!(shelve(&keys[3..5], "bin 1"), Some(json!("")));
    assert_eq!(shelve(&keys[2..4], "bin 1"), None);
    // Nobody has looked at what could go there.
    assert_eq!(shelve(&[], "bin 1"), None);
}

#[test]
fn an_answer_is_taken_back_where_none_stood() {
    let answer: IdentityAct = sent(json!({"act": "answer", "question": "splines", "answer": "26"}));
    let back: IdentityAct = sent(json!({"act": "take_back", "question": "splines"}));
    assert_eq!(answer.undoing(&[]).unwrap().act, back);
    let stood = IdentityEntry {
        question: "splines".into(),
        given: Some(Given::NotSeen),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    };
    assert!(answer.undoing(&[stood]).is_none());
    assert!(back.undoing(&[]).is_none());
}

#[test]
fn an_act_comes_and_goes_as_it_is_written() {
    for (act, seen, stale) in [
        (
            json!({"of": "check", "check": "input-float", "did": {"act": "fit", "put_back": false}}),
            true,
            View::Drawers,
        ),
        (
            json!({"of": "check", "check": "input-float", "did":
                {"act": "mark", "reading_no": 1, "mark": "kept", "reason": ""}}),
            false,
            View::Job,
        ),
        (
            json!({"of": "job", "did": {"act": "take_back"}}),
            true,
            View::Jobs,
        ),
        (
            json!({"of": "build", "did": {"act": "not_done", "step": "in"}}),
            false,
            View::Check,
        ),
        (
            json!({"of": "part", "did": {"act": "supply_back", "part": "in"}}),
            false,
            View::BenchParts,
        ),
        (
            json!({"of": "donor", "did": {"act": "shelve", "parts": [], "place": "bin"}}),
            false,
            View::Donors,
        ),
        (
            json!({"of": "identity", "did": {"act": "take_back", "question": "q"}}),
            false,
            View::Job,
        ),
    ] {
        let read: Act = sent(act.clone());
        assert_eq!(told(&read), act);
        assert_eq!(read.rests_on_what_was_seen(), seen, "{act}");
        assert!(read.stale().contains(&stale), "{act}");
    }
    let odd: Result<Act, _> = serde_json::from_value(
        json!({"of": "check", "check": "input-float", "did": {"act": "way", "way": "feeler", "more": 1}}),
    );
    assert!(odd.is_err());
    assert_eq!(blank("input-float").head.standing, Standing::OnBench);
}

/// What an act puts on record is made of what was sent and how the check stands: nothing is asked of the one who sends it.
#[test]
fn what_goes_on_record_is_made_of_what_was_sent_and_how_the_check_stands() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let by = ("MEL", DateTime::UNIX_EPOCH);
    let mut record = measured("input-float", 90_000);
    record.head.round = 2;
    let CheckAct::Read(new) = sent(json!({"act": "read", "way": "dial_travel", "unit": "thou",
        "entry": {"kind": "travel", "travel": "4"}}))
    else {
        panic!("a reading");
    };
    let reading = record.reading_of(&spec, &new, by).unwrap();
    assert_eq!(
        (
            reading.reading_no,
            reading.round,
            reading.who.as_str(),
            reading.gauge_key.as_deref()
        ),
        (4, 2, "MEL", Some("dial"))
    );
    assert_eq!(reading.taken, travel(101_600));
    // What stood of other rounds is no reading of this one to be marked.
    let mark = record.mark_of((1, ReadingMark::Struck, "slipped"), by);
    assert_eq!(case(mark), "earlier-round");
    record.head.round = 0;
    let mark = record
        .mark_of((1, ReadingMark::Struck, " slipped "), by)
        .unwrap();
    assert_eq!((mark.reading_no, mark.reason.as_str()), (1, "slipped"));
    assert_eq!(
        record.fitted_of("40 thou", Unit::Mm).unwrap().nm(),
        1_016_000
    );
    assert_eq!(case(record.fitted_of("4O", Unit::Mm)), "fitted");
    assert_eq!(case(record.bias_of(true, None, by)), "too-few-boxes");
    let CheckAct::Aim(asked) = sent(
        json!({"act": "aim", "window": "sheet", "school": "sheet", "unit": "mm",
        "reason": "as the sheet"}),
    ) else {
        panic!("an aim");
    };
    let aim = record.target_of(&spec, &asked, by).unwrap();
    assert!(aim.as_sheet && aim.low_nm.is_none());
    let found = record.assess(&spec).unwrap();
    let signing = record.signing_of(&spec, &found, "as it is", by).unwrap();
    let achieved = found.estimate.as_ref().map(|e| e.clearance_nm);
    assert_eq!(
        (signing.achieved_nm, signing.who.as_str()),
        (achieved, "MEL")
    );
    // Three readings of one gauge, a micrometre about the middle one: 2 square micrometres over 2 degrees of freedom.
    assert_eq!(signing.gauge_key.as_deref(), Some("dial"));
    assert!((signing.squares.unwrap() - 2e6).abs() < 1.0, "{signing:?}");
    assert_eq!(case(record.unfitted(by)), "nothing-fitted");
    let mut fitted = chosen(record, 1, SettingState::Fitted);
    fitted.head.round = 1;
    let (was, again) = fitted.unfitted(by).unwrap();
    assert_eq!(
        (was.state, again.state),
        (SettingState::Fitted, SettingState::Chosen)
    );
    assert_eq!(
        (again.setting_no, again.total_nm, again.chosen_by.as_str()),
        (2, was.total_nm, "MEL")
    );
}
