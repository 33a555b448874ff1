//! What is asked about readings: the usual slips, one reading among its fellows or all of them together, each method.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::measure::ReadingInput;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::entry_errors::Cause;
use anvil_arithmetic::units::length::Unit;
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::assess::Assessment;
use anvil_rules::job::check::entry_questions::{EntryQuestion, Meant};
use anvil_rules::job::check::past::MeasuredBefore;
use anvil_rules::job::check::record::{Mark, ReadingMark, Record, StockLine};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::Sheet;
use chrono::DateTime;

use crate::common::{blank, case, sheet, travel, with_reading};

/// A check with travels taken, and nothing in.
fn travels(key: &str, nm: &[i64]) -> Record {
    nm.iter().fold(blank(key), |record, nm| {
        with_reading(record, Method::DialTravel, travel(*nm))
    })
}

fn typed(record: Record, method: Method, json: &str) -> Record {
    let input: ReadingInput = serde_json::from_str(json).unwrap();
    let taken: Reading = input.read_for(method, Unit::Mm).unwrap();
    with_reading(record, method, taken)
}

fn kept(mut record: Record, reading_no: i32) -> Record {
    record.marks.push(Mark {
        reading_no,
        mark: ReadingMark::Kept,
        reason: String::new(),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    record
}

/// The family's sizes in the drawer.
fn stocked(mut record: Record, sizes: &[i64]) -> Record {
    record.stock = sizes
        .iter()
        .map(|nm| StockLine {
            family_key: "t5-main-shim".into(),
            thickness_nm: *nm,
            grade: Grade::Marked,
            nominal_nm: None,
            u_nm: None,
            on_hand: 2,
            reserved: 0,
            coming: 0,
            place: String::new(),
            discontinued: false,
        })
        .collect();
    record
}

fn asked(record: &Record, sheet: &Sheet) -> Vec<EntryQuestion> {
    let spec = Spec::of(sheet, &record.check_key).unwrap();
    let questions = record.readings.iter().map(|r| record.question(&spec, r));
    questions.flatten().collect()
}

fn nm(meant: Meant) -> f64 {
    match meant {
        Meant::Length { nm } => nm,
        Meant::Torque { .. } => panic!("a torque"),
    }
}

const SIZES: [i64; 3] = [1_000_000, 1_200_000, 1_400_000];

#[test]
fn readings_that_are_all_wrong_alike_are_asked_about_together() {
    let sheet = sheet("tolvane-t5");
    // 46 thou typed at a bench in millimetres, where a float of 1.1 to 1.6 mm is to be expected.
    let mut record = stocked(blank("main-float"), &SIZES);
    for (at, fellows) in [(1, vec![1]), (2, vec![1, 2]), (3, vec![1, 2, 3])] {
        record = with_reading(record, Method::NoShim, travel(46_000_000));
        let found = asked(&record, &sheet);
        assert_eq!(found.len(), 1, "after {at}");
        assert_eq!(found[0].readings, fellows);
        assert_eq!(found[0].cause, Cause::ThouForMm);
        assert!((nm(found[0].meant) - 46.0 * 25_400.0).abs() < 1_000.0);
        assert!((nm(found[0].read) - 46_000_000.0).abs() < 1.0);
    }
    // Whoever says that one is right says it of those like it.
    assert_eq!(asked(&kept(record.clone(), 2), &sheet), []);
    // One that is not like them is asked about by itself.
    let other = with_reading(kept(record, 2), Method::NoShim, travel(1_170_000));
    assert_eq!(asked(&other, &sheet), []);
}

#[test]
fn a_decimal_lost_in_every_reading_is_asked_about_and_signs_nothing_unasked() {
    let sheet = sheet("tolvane-t5");
    let spec = Spec::of(&sheet, "main-float").unwrap();
    // 1.20 is expected with no shim in, 0.12 is typed twice, and lies in the window.
    let record = [0, 0]
        .iter()
        .fold(stocked(blank("main-float"), &SIZES), |record, _| {
            with_reading(record, Method::NoShim, travel(120_000))
        });
    let found = asked(&record, &sheet);
    assert_eq!(
        (found.len(), found[0].readings.as_slice()),
        (1, [1, 2].as_slice())
    );
    assert_eq!(
        (nm(found[0].meant), found[0].cause),
        (1_200_000.0, Cause::OneDecimal)
    );
    let assessed = record.assess(&spec).unwrap();
    assert_eq!(assessed.call, Some(Call::In));
    assert_eq!(
        case(rules::may_sign(&record, &spec, &assessed, "")),
        "reason"
    );
    assert_eq!(
        case(rules::may_sign(&record, &spec, &assessed, "no shim fits")),
        "yes"
    );
    // Said to be right, the sheet still wants a piece in.
    let said = kept(record, 1);
    assert_eq!(asked(&said, &sheet), []);
    let refused = rules::may_sign(&said, &spec, &assessed, "").unwrap_err();
    assert!(
        refused.message.contains("wants a piece"),
        "{}",
        refused.message
    );
}

#[test]
fn a_question_that_nobody_has_answered_wants_a_reason_to_sign() {
    let sheet = sheet("skelt-m5");
    let spec = Spec::of(&sheet, "third-side").unwrap();
    // A reading of a tenth among others in the window.
    let mut record = travels("third-side", &[200_000; 12]);
    record = typed(
        record,
        Method::DialTravel,
        r#"{"kind":"travel","travel":"0.02"}"#,
    );
    let assessed = record.assess(&spec).unwrap();
    assert_eq!(asked(&record, &sheet).len(), 1);
    let refused = rules::may_sign(&record, &spec, &assessed, "").unwrap_err();
    assert_eq!(assessed.call, Some(Call::In));
    assert!(refused.message.contains("looks like a slip"));
    let kept = kept(record, 13);
    assert_eq!(case(rules::may_sign(&kept, &spec, &assessed, "")), "yes");
}

#[test]
fn what_earlier_boxes_showed_says_what_to_expect_where_the_drawer_is_wide() {
    let sheet = sheet("tolvane-t5");
    // Shims from 0.05 to 2 mm: nearly any float has one. Boxes before wanted 1.1 to 1.3 with nothing in.
    let wide = |boxes| {
        let mut record = stocked(blank("main-float"), &[50_000, 2_000_000]);
        record.measured_before = MeasuredBefore {
            boxes,
            least_sum_nm: 1_100_000.0,
            most_sum_nm: 1_300_000.0,
            least_difference_nm: -1_300_000.0,
            most_difference_nm: -1_100_000.0,
        };
        let record = with_reading(record, Method::NoShim, travel(120_000));
        asked(&record, &sheet)
    };
    assert_eq!(wide(4), []);
    let found = wide(5);
    assert_eq!(
        (nm(found[0].meant), found[0].cause),
        (1_200_000.0, Cause::OneDecimal)
    );
}

/// Each method, with a figure as it is read in another unit or with its point elsewhere.
#[test]
#[allow(clippy::too_many_lines)] // a table of cases
fn every_method_asks() {
    let (car, truck, bike, bus) = (
        sheet("tolvane-t5"),
        sheet("brannoch-r2"),
        sheet("skelt-m5"),
        sheet("ormhal-a4"),
    );
    let cases: [(&Sheet, &str, Method, &[&str], Cause); 9] = [
        (
            &car,
            "second-side",
            Method::DialTravel,
            &[r#"{"kind":"pair","home":"0","out":"2.2"}"#; 2],
            Cause::OneDecimal,
        ),
        // 0.2 in typed as millimetres goes: thicker than the window by far.
        (
            &bike,
            "second-side",
            Method::Feeler,
            &[r#"{"kind":"leaf","leaves":"8","fit":"goes"}"#],
            Cause::ThouForMm,
        ),
        (
            &bike,
            "second-side",
            Method::Feeler,
            &[r#"{"kind":"leaf","leaves":"0.02","fit":"refused"}"#],
            Cause::OneDecimal,
        ),
        (
            &bus,
            "input-play",
            Method::DepthFromBar,
            &[
                r#"{"kind":"depth","place":1,"of":3,"depth":"21"}"#,
                r#"{"kind":"depth","place":2,"of":3,"depth":"22"}"#,
            ],
            Cause::OneDecimal,
        ),
        (
            &truck,
            "inter-preload",
            Method::KnownShim,
            &[r#"{"kind":"known_shim","shim":"0.3 mm","float":"2.5"}"#; 2],
            Cause::OneDecimal,
        ),
        (
            &truck,
            "input-float",
            Method::StackSum,
            &[r#"{"kind":"term","term":1,"length":"@"}"#; 2],
            Cause::InchForMm,
        ),
        (
            &bus,
            "pinions",
            Method::OneByOne,
            &[
                r#"{"kind":"pinion","pinion":1,"play":"3.4"}"#,
                r#"{"kind":"pinion","pinion":2,"play":"3.6"}"#,
            ],
            Cause::OneDecimal,
        ),
        (
            &bike,
            "centring",
            Method::SelectorGaps,
            &[
                r#"{"kind":"gaps","gear":1,"left":"0.9","right":"1.1"}"#,
                r#"{"kind":"gaps","gear":2,"left":"0.1","right":"1.0"}"#,
            ],
            Cause::OneDecimal,
        ),
        (
            &truck,
            "inter-preload",
            Method::TurningTorque,
            &[r#"{"kind":"torque","torque":"16"}"#; 2],
            Cause::PoundInches,
        ),
    ];
    for (sheet, key, method, entries, cause) in cases {
        let spec = Spec::of(sheet, key).unwrap();
        let mut record = blank(key);
        record.head.fitted_nm = None;
        if key == "input-play" {
            record = stocked(record, &[1_500_000, 2_250_000]);
        }
        for entry in entries {
            // A term as it is on the sheet, said in inches and read as millimetres.
            let inches = spec
                .terms()
                .first()
                .map_or(0.0, |t| t.length_nm.as_f64() / 25.4e6);
            record = typed(record, method, &entry.replace('@', &format!("{inches:.3}")));
        }
        let found = asked(&record, sheet);
        assert_eq!(found.len(), 1, "{key} {method:?}: {found:?}");
        assert_eq!(found[0].cause, cause, "{key} {method:?}: {found:?}");
        let all = (1..=i32::try_from(entries.len()).unwrap()).collect::<Vec<_>>();
        let last = vec![*all.last().unwrap()];
        let about = if method == Method::SelectorGaps {
            last
        } else {
            all
        };
        assert_eq!(found[0].readings, about, "{key} {method:?}");
    }
}

#[test]
fn what_is_as_expected_is_not_asked_about() {
    let (car, bike) = (sheet("tolvane-t5"), sheet("skelt-m5"));
    let right = [
        (&car, travels("second-side", &[210_000, 220_000, 150_000])),
        // Worn, but not by a slip: three times the loose limit.
        (&car, travels("second-side", &[1_010_000, 1_000_000])),
        (
            &bike,
            typed(
                blank("second-side"),
                Method::Feeler,
                r#"{"kind":"leaf","leaves":"0.02","fit":"goes"}"#,
            ),
        ),
        (
            &bike,
            typed(
                blank("second-side"),
                Method::Feeler,
                r#"{"kind":"leaf","leaves":"2","fit":"refused"}"#,
            ),
        ),
    ];
    for (sheet, record) in right {
        assert_eq!(asked(&record, sheet), [], "{}", record.check_key);
    }
}

#[test]
fn a_reading_that_is_asked_about_counts_once_it_is_said_to_be_right() {
    let sheet = sheet("skelt-m5");
    let spec = Spec::of(&sheet, "third-side").unwrap();
    let fellows = [200_000, 205_000, 195_000];
    let plain = travels("third-side", &fellows).assess(&spec).unwrap();
    let stray = travels("third-side", &[200_000, 205_000, 195_000, 2_000_000]);
    let found = stray.assess(&spec).unwrap();
    assert_eq!(found.readings(), Some(3));
    let of = |found: &Assessment| found.estimate.as_ref().unwrap().clearance_nm;
    assert!((of(&found) - of(&plain)).abs() < 1e-6);
    let said = kept(stray, 4).assess(&spec).unwrap();
    assert_eq!(said.readings(), Some(4));
}

#[test]
fn a_nought_among_readings_beyond_the_window_is_asked_about() {
    let sheet = sheet("skelt-m5");
    let asked_of = |nm: &[i64]| asked(&travels("third-side", nm), &sheet);
    let found = asked_of(&[1_350_000, 1_352_000, 0]);
    let nought: Vec<_> = found.iter().filter(|q| q.cause == Cause::Nought).collect();
    assert_eq!(nought.len(), 1);
    assert_eq!(nought[0].readings, [3]);
    assert!((nm(nought[0].meant) - 1_351_000.0).abs() < 1e-6);
    // Among others that are within it, nothing is a figure like any.
    assert!(
        asked_of(&[200_000, 210_000, 0])
            .iter()
            .all(|q| q.cause != Cause::Nought)
    );
}
