//! What may be done with a check as it stands: a table of cases, each a record and what every rule says to it.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::measure::by_hand::RangeReading;
use anvil_arithmetic::measure::proof::ProofAnswer;
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::measure::stack_sum::TermReading;
use anvil_arithmetic::measure::turning_torque::TorqueReading;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::force::Torque;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::record::{Assembly, ReadingMark, Record, SettingState};
use anvil_rules::job::check::rules::{self, Allowed};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::{CheckStands, JobStatus, JobWait, Phase};
use anvil_rules::job::standing::Standing;
use anvil_rules::sheet::PartKind;
use anvil_rules::shop::drawers::{self, DrawerAct, StockCounts};
use chrono::DateTime;

use crate::common::{
    blank, case, chosen, measured, seen_to, sheet, signed, travel, with_piece, with_reading,
};

#[test]
#[allow(clippy::too_many_lines)] // a table of cases is as long as it is
fn each_rule_says_yes_or_why_not() {
    let sheet = sheet("tolvane-t5");
    let key = "input-float";
    let inside = sheet.check(key).unwrap().working_window().unwrap();
    let middle = i64::midpoint(inside.low().unwrap().nm(), inside.high().unwrap().nm());
    let no_pieces: &[SizeCount] = &[];
    // Record; then: change, read, choose, end a choice, sign without and with a reason, reopen.
    let cases: [(&str, Record, [&str; 7]); 8] = [
        (
            "blank",
            blank(key),
            [
                "yes",
                "yes",
                "not-measured",
                "nothing-chosen",
                "not-measured",
                "not-measured",
                "not-signed",
            ],
        ),
        (
            "in the window",
            measured(key, middle),
            [
                "yes",
                "yes",
                "yes",
                "nothing-chosen",
                "yes",
                "yes",
                "not-signed",
            ],
        ),
        (
            "loose",
            measured(key, middle + 400_000),
            [
                "yes",
                "yes",
                "yes",
                "nothing-chosen",
                "reason",
                "yes",
                "not-signed",
            ],
        ),
        (
            "chosen",
            chosen(measured(key, middle), 1, SettingState::Chosen),
            [
                "pieces-chosen",
                "pieces-chosen",
                "pieces-chosen",
                "yes",
                "pieces-chosen",
                "pieces-chosen",
                "not-signed",
            ],
        ),
        (
            "waiting",
            chosen(measured(key, middle), 0, SettingState::Chosen),
            [
                "pieces-chosen",
                "pieces-chosen",
                "pieces-chosen",
                "part-awaited",
                "pieces-chosen",
                "pieces-chosen",
                "not-signed",
            ],
        ),
        (
            "fitted",
            chosen(measured(key, middle), 0, SettingState::Fitted),
            [
                "yes",
                "yes",
                "yes",
                "nothing-chosen",
                "yes",
                "yes",
                "not-signed",
            ],
        ),
        (
            "signed",
            signed(measured(key, middle)),
            [
                "signed",
                "signed",
                "signed",
                "nothing-chosen",
                "signed",
                "signed",
                "yes",
            ],
        ),
        (
            "felt by hand",
            with_reading(
                blank(key),
                Method::ByHand,
                Reading::ByHand(RangeReading {
                    from_nm: Length::from_nm(middle),
                    to_nm: Length::from_nm(middle + 50_000),
                }),
            ),
            [
                "yes",
                "yes",
                "yes",
                "nothing-chosen",
                "by-hand",
                "by-hand",
                "not-signed",
            ],
        ),
    ];
    for (name, record, says) in cases {
        let spec = Spec::of(&sheet, key).unwrap();
        let record = seen_to(with_piece(record), &spec);
        let found = record.assess(&spec).unwrap();
        let said = [
            case(rules::may_change(&record)),
            case(rules::may_read(
                &record,
                &spec,
                Method::DialTravel,
                &travel(1),
                None,
            )),
            case(rules::may_choose(&record, &found, no_pieces)),
            case(rules::may_end_setting(&record, SettingState::Fitted)),
            case(rules::may_sign(&record, &spec, &found, "")),
            case(rules::may_sign(&record, &spec, &found, "because")),
            case(rules::may_reopen(&record, "because")),
        ];
        assert_eq!(said, says, "{name}");
        // What the screen offers is what the rules allow.
        let allowed = Allowed::of(&record, &spec, &found);
        assert_eq!(allowed.change, said[0] == "yes", "{name}");
        assert_eq!(allowed.choose, said[2] == "yes", "{name}");
        assert_eq!(allowed.sign, said[5] == "yes", "{name}");
        assert_eq!(
            allowed.reason_to_sign.is_some(),
            said[4] != "yes" && found.call != Some(Call::In),
            "{name}"
        );
    }
}

#[test]
fn methods_are_offered_where_there_is_something_for_them_to_measure() {
    let offered = |name: &str, key: &str, record: Record| {
        let sheet = sheet(name);
        let spec = Spec::of(&sheet, key).unwrap();
        rules::offered_methods(&record, &spec)
    };
    let plain = offered("tolvane-t5", "input-float", blank("input-float"));
    assert!(plain.contains(&Method::DialTravel) && plain.contains(&Method::NoShim));
    assert!(!plain.contains(&Method::TurningTorque) && !plain.contains(&Method::YesNo));
    let mut later = blank("input-float");
    later.head.round = 1;
    assert!(!offered("tolvane-t5", "input-float", later).contains(&Method::NoShim));
    assert_eq!(
        offered("brannoch-r2", "turns-free", blank("turns-free")),
        [Method::YesNo]
    );
    assert_eq!(
        offered("skelt-m5", "centring", blank("centring")),
        [Method::SelectorGaps]
    );
    assert!(
        offered("brannoch-r2", "inter-preload", blank("inter-preload"))
            .contains(&Method::TurningTorque)
    );
}

#[test]
fn a_reading_has_a_gauge_of_its_kind_and_a_place_on_the_sheet() {
    let t5 = sheet("tolvane-t5");
    let spec = Spec::of(&t5, "input-float").unwrap();
    let record = blank("input-float");
    let read =
        |method, reading: &Reading, gauge| rules::may_read(&record, &spec, method, reading, gauge);
    assert_eq!(
        read(Method::DialTravel, &travel(1), None)
            .unwrap()
            .as_deref(),
        Some("dial")
    );
    assert_eq!(
        case(read(Method::DialTravel, &travel(1), Some("wrench"))),
        "gauge_key"
    );
    assert_eq!(
        case(read(Method::DialTravel, &travel(1), Some("none"))),
        "gauge_key"
    );
    assert_eq!(case(read(Method::DepthFromBar, &travel(1), None)), "yes");
    let by_hand = Reading::ByHand(RangeReading {
        from_nm: Length::ZERO,
        to_nm: Length::ZERO,
    });
    assert_eq!(read(Method::ByHand, &by_hand, None).unwrap(), None);
    let term = Reading::Term(TermReading {
        term: 99,
        length_nm: Length::from_nm(1),
    });
    assert_eq!(case(read(Method::StackSum, &term, None)), "term");
    assert_eq!(
        case(read(
            Method::TurningTorque,
            &Reading::Torque(TorqueReading {
                torque_n_m: Torque(1.0)
            }),
            None
        )),
        "way"
    );
    let mut full = measured("input-float", 1);
    let one = full.readings[0].clone();
    full.readings = vec![one; rules::MOST_READINGS];
    assert_eq!(
        case(rules::may_read(
            &full,
            &spec,
            Method::DialTravel,
            &travel(1),
            None
        )),
        "too-many-readings"
    );
}

#[test]
fn a_reading_is_struck_out_with_a_reason_and_only_in_its_round() {
    let record = measured("input-float", 100_000);
    let mark = |record: &Record, no, mark, why| case(rules::may_mark(record, no, mark, why));
    assert_eq!(mark(&record, 1, ReadingMark::Struck, " "), "reason");
    assert_eq!(mark(&record, 1, ReadingMark::Struck, "gauge moved"), "yes");
    assert_eq!(mark(&record, 1, ReadingMark::Kept, ""), "yes");
    assert_eq!(mark(&record, 9, ReadingMark::Restored, ""), "missing");
    let mut later = record.clone();
    later.head.round = 1;
    assert_eq!(
        mark(&later, 1, ReadingMark::Struck, "gauge moved"),
        "earlier-round"
    );
    assert_eq!(
        mark(&record, 1, ReadingMark::Struck, &"x".repeat(501)),
        "reason"
    );
}

#[test]
fn a_proof_is_given_by_the_last_answer() {
    let sheet = sheet("brannoch-r2");
    let spec = Spec::of(&sheet, "turns-free").unwrap();
    let answer =
        |r, answer| with_reading(r, Method::YesNo, Reading::Answer(ProofAnswer { answer }));
    let none = blank("turns-free");
    let no = answer(none.clone(), YesNo::No);
    let then_yes = answer(no.clone(), YesNo::Yes);
    for (record, call, phase, sign) in [
        (none, None, Phase::Measure, "not-measured"),
        (no, Some(Call::Failed), Phase::Sign, "reason"),
        (then_yes, Some(Call::In), Phase::Sign, "yes"),
    ] {
        let found = record.assess(&spec).unwrap();
        assert_eq!((found.call, found.phase), (call, phase));
        assert_eq!(case(rules::may_sign(&record, &spec, &found, "")), sign);
    }
    // What is kept of a check is its call: the answer is told from it.
    let proof = spec.check.proof.as_ref().unwrap();
    assert_eq!(proof.answer_of(Some(Call::In)), Some(YesNo::Yes));
    assert_eq!(proof.answer_of(Some(Call::Failed)), Some(YesNo::No));
    assert_eq!(proof.answer_of(Some(Call::Loose)), None);
}

#[test]
fn a_tick_left_open_asks_why() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let window = spec.length.unwrap().0;
    let ends = (window.low().unwrap().nm(), window.high().unwrap().nm());
    let fresh = with_piece(measured("input-float", i64::midpoint(ends.0, ends.1)));
    let sign = |record: &Record| {
        let found = record.assess(&spec).unwrap();
        assert_eq!(found.call, Some(Call::In));
        let why = rules::reason_to_sign(record, &spec, &found).unwrap_or_default();
        (case(rules::may_sign(record, &spec, &found, "")), why)
    };
    let (said, why) = sign(&fresh);
    assert!(
        said == "reason" && why.contains("not ticked"),
        "{said}: {why}"
    );
    let mut seen = seen_to(fresh, &spec);
    assert_eq!(sign(&seen).0, "yes");
    // Said to be so of the round before, or taken back, it is open again.
    let mut earlier = seen.clone();
    for entry in &mut earlier.checklist {
        entry.round = -1;
    }
    assert_eq!(sign(&earlier).0, "reason");
    let mut back = seen.checklist[0].clone();
    back.done = false;
    seen.checklist.push(back);
    assert_eq!(sign(&seen).0, "reason");
}

#[test]
fn a_pack_is_signed_plainly_only_once_it_is_counted_right() {
    let sheet = sheet("ormhal-a4");
    let spec = Spec::of(&sheet, "direct-pack").unwrap();
    let pack = spec.pack().unwrap();
    let laid = |mut record: Record, plates: Vec<PartKind>| {
        record.assemblies.push(Assembly {
            plates,
            soaked: true,
            springs: pack.return_springs,
            who: "RT".into(),
            at: DateTime::UNIX_EPOCH,
        });
        record
    };
    let window = spec.length.unwrap().0;
    let ends = (window.low().unwrap().nm(), window.high().unwrap().nm());
    let middle = i64::midpoint(ends.0, ends.1);
    let mut fresh = with_piece(measured("direct-pack", middle));
    fresh.head.way = Some(Method::DialTravel);
    let fresh = seen_to(fresh, &spec);
    let right = laid(fresh.clone(), pack.kinds());
    let short = laid(fresh.clone(), pack.kinds().into_iter().skip(1).collect());
    for (record, sign) in [(&fresh, "reason"), (&short, "reason"), (&right, "yes")] {
        let found = record.assess(&spec).unwrap();
        assert_eq!(found.call, Some(Call::In));
        assert_eq!(case(rules::may_sign(record, &spec, &found, "")), sign);
    }
    assert_eq!(case(rules::may_lay(&fresh, &spec, &[], None)), "plates");
    assert_eq!(
        case(rules::may_lay(&fresh, &spec, &[PartKind::Gear], None)),
        "plates"
    );
    assert_eq!(
        case(rules::may_lay(&fresh, &spec, &pack.kinds(), Some(999))),
        "springs"
    );
    let t5 = self::sheet("tolvane-t5");
    let other = Spec::of(&t5, "input-float").unwrap();
    assert_eq!(
        case(rules::may_lay(&fresh, &other, &pack.kinds(), None)),
        "no-pack"
    );
}

#[test]
fn pieces_fitted_elsewhere_begin_a_new_round_where_something_was_measured() {
    let moved = |record: &Record| {
        rules::is_moved_on(record, "its neighbour").map_err(|r| case::<()>(Err(r)))
    };
    assert_eq!(moved(&blank("input-float")), Ok(false));
    assert_eq!(moved(&measured("input-float", 1)), Ok(true));
    assert_eq!(
        moved(&chosen(measured("input-float", 1), 1, SettingState::Chosen)),
        Ok(false)
    );
    assert_eq!(
        moved(&signed(measured("input-float", 1))),
        Err("moves-signed")
    );
}

#[test]
fn what_is_done_with_pieces_is_whole_and_to_be_had() {
    let line = |grade, count| ("t5-input-shim", Length::from_nm(1_000_000), grade, count);
    for (act, lines, says) in [
        (DrawerAct::Take, vec![line(Grade::Marked, 1)], "yes"),
        (DrawerAct::Take, vec![], "lines"),
        (
            DrawerAct::Take,
            vec![line(Grade::Marked, 1), line(Grade::Marked, 2)],
            "lines",
        ),
        (DrawerAct::Scrap, vec![line(Grade::Marked, 0)], "count"),
        (DrawerAct::Return, vec![line(Grade::Used, 10_001)], "count"),
        (DrawerAct::Order, vec![line(Grade::Miked, 1)], "grade"),
        (DrawerAct::Take, vec![line(Grade::Miked, 1)], "yes"),
    ] {
        assert_eq!(
            case(drawers::may_act(act, &lines)),
            says,
            "{act:?} {lines:?}"
        );
    }
    let stands = StockCounts {
        on_hand: 5,
        reserved: 2,
        on_order: 1,
        discontinued: false,
    };
    let changed = |by| stands.changed_by(by, Length::from_nm(1));
    assert_eq!(changed((-3, 0)).unwrap(), (2, 1));
    assert_eq!(case(changed((-4, 0))), "not-free");
    assert_eq!(case(changed((0, -2))), "not-on-order");
    let gone = StockCounts {
        discontinued: true,
        ..stands
    };
    assert_eq!(
        case(gone.changed_by((0, 1), Length::from_nm(1))),
        "discontinued"
    );
    assert_eq!(
        case(stands.may_be_counted(1, Length::from_nm(1))),
        "reserved"
    );
    assert_eq!(
        case(drawers::may_measure(
            Some(Length::from_nm(1_000_000)),
            Length::from_nm(1_090_000)
        )),
        "yes"
    );
    assert_eq!(
        case(drawers::may_measure(
            Some(Length::from_nm(1_000_000)),
            Length::from_nm(1_110_000)
        )),
        "measured"
    );
}

#[test]
fn a_job_waits_for_its_first_open_check_and_then_to_be_handed_over() {
    use Phase::{AwaitPart, Choose, Measure, Signed};
    let sheet = sheet("brannoch-r2");
    let stands = |phases: [Phase; 5]| {
        // The fit of its cover stands before them, and is signed off.
        let first = [("cover-fit", Signed)];
        let keys = sheet.checks.iter().skip(1).map(|c| c.key.as_str());
        let checks: Vec<CheckStands<'_>> = first
            .into_iter()
            .chain(keys.zip(phases))
            .map(|(key, phase)| CheckStands {
                key,
                phase,
                awaited_nm: (phase == Phase::AwaitPart).then_some(7),
            })
            .collect();
        let status = JobStatus::of(&sheet, &checks);
        (
            status.check.map(|c| c.0),
            status.wait,
            status.piece_nm,
            status.signed,
        )
    };
    assert_eq!(
        stands([Choose, Measure, Measure, Measure, Measure]),
        (Some("inter-preload".into()), JobWait::Choose, None, 1)
    );
    // What waits for a part is passed over while there is other work.
    assert_eq!(
        stands([AwaitPart, Measure, Measure, Measure, Measure]),
        (Some("retainer-pinch".into()), JobWait::Measure, None, 1)
    );
    assert_eq!(
        stands([AwaitPart, Signed, Signed, Signed, Measure]),
        (Some("inter-preload".into()), JobWait::AwaitPart, Some(7), 4)
    );
    assert_eq!(stands([Signed; 5]), (None, JobWait::HandOver, None, 6));
}

#[test]
fn a_fitting_is_taken_back_while_nothing_was_measured_with_it_in() {
    let fitted = |round: i32| {
        let mut record = chosen(measured("input-float", 90_000), 1, SettingState::Fitted);
        record.head.round = round;
        record
    };
    let next_round = |mut record: Record| {
        for reading in &mut record.readings {
            reading.round = record.head.round;
        }
        record
    };
    for (name, record, said) in [
        ("fitted just now", fitted(1), "yes"),
        (
            "nothing fitted",
            measured("input-float", 90_000),
            "nothing-fitted",
        ),
        (
            "chosen, not fitted",
            chosen(measured("input-float", 90_000), 1, SettingState::Chosen),
            "nothing-fitted",
        ),
        ("fitted a round ago", fitted(2), "nothing-fitted"),
        ("measured since", next_round(fitted(1)), "measured-since"),
        ("signed since", signed(fitted(1)), "signed"),
    ] {
        assert_eq!(case(rules::may_undo_fitting(&record)), said, "{name}");
    }
}

#[test]
fn a_check_of_a_job_that_is_put_away_allows_nothing() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "input-float").unwrap();
    let mut record = measured("input-float", 90_000);
    record.head.standing = Standing::PutAway;
    let found = record.assess(&spec).unwrap();
    assert_eq!(Allowed::of(&record, &spec, &found), Allowed::default());
    assert_eq!(case(rules::not_put_away(&record)), "put-away");
}
