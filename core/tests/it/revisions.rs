//! A job beside another revision of its sheet: what comes and goes, what is reopened, what hinders.

use std::sync::Arc;

use anvil_arithmetic::measure::stack_sum::TermReading;
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::units::length::Length;
use anvil_rules::job::check::record::{Record, SettingState};
use anvil_rules::job::check::revision::{Beside, OnSheet, fitted_at_first};
use anvil_rules::sheet::read;
use serde_json::{Value, json};

use crate::common::{blank, chosen, measured, sheet, signed, with_reading};

fn file() -> Value {
    let path = format!(
        "{}/../../demo/sheets/tolvane-t5.json",
        env!("CARGO_MANIFEST_DIR")
    );
    serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()
}

fn check<'f>(file: &'f mut Value, key: &str) -> &'f mut Value {
    let checks = file["checks"].as_array_mut().unwrap();
    checks.iter_mut().find(|c| c["key"] == key).unwrap()
}

/// The van's sheet with a change, beside what it was.
fn beside(records: Vec<Record>, change: impl FnOnce(&mut Value)) -> Beside {
    let mut now = file();
    change(&mut now);
    let on = |revision| OnSheet {
        sheet_key: "tolvane-t5".into(),
        revision,
        variant: String::new(),
    };
    Beside {
        from: on(1),
        to: on(2),
        was: Arc::new(sheet("tolvane-t5").as_built("")),
        now: Arc::new(read(&now.to_string()).unwrap().as_built("")),
        records,
    }
}

fn reopened(change: impl FnOnce(&mut Value)) -> usize {
    let records = vec![signed(measured("input-float", 90_000))];
    beside(records, change).reopens().count()
}

#[test]
fn a_signature_stands_where_the_check_is_judged_as_it_was() {
    assert_eq!(reopened(|_| ()), 0);
    assert_eq!(
        reopened(|f| check(f, "input-float")["name"] = json!("Drive shaft float")),
        0
    );
    assert_eq!(
        reopened(|f| check(f, "input-float")["how"] = json!("Pull it gently.")),
        0
    );
    // Another check's window is another check's.
    assert_eq!(
        reopened(|f| check(f, "second-side")["window"]["high"] = json!("0.36 mm")),
        0
    );
}

#[test]
fn a_signature_falls_with_the_window_it_was_given_on() {
    assert_eq!(
        reopened(|f| check(f, "input-float")["window"]["high"] = json!("0.13 mm")),
        1
    );
    assert_eq!(
        reopened(|f| {
            check(f, "input-float")["adjustments"] = json!([{"what": "gasket", "by": "0.1 mm"}]);
        }),
        1
    );
    // One that is not signed has nothing to lose.
    let records = vec![measured("input-float", 90_000)];
    let change = |f: &mut Value| check(f, "input-float")["window"]["high"] = json!("0.13 mm");
    assert_eq!(beside(records, change).reopens().count(), 0);
}

#[test]
fn a_check_that_goes_hinders_only_where_something_is_recorded_of_it() {
    let without = |f: &mut Value| {
        let checks = f["checks"].as_array_mut().unwrap();
        checks.retain(|c| c["key"] != "baulk-gap");
        for step in f["build"].as_array_mut().unwrap() {
            if let Some(hold) = step.get_mut("hold") {
                hold.as_array_mut().unwrap().retain(|h| h != "baulk-gap");
            }
        }
    };
    let free = beside(vec![blank("baulk-gap"), blank("input-float")], without);
    let told = free.revising();
    assert_eq!((told.gone.len(), told.hindered.len()), (1, 0));
    assert!(told.differences.iter().any(|_| true));
    let hindered = beside(vec![measured("baulk-gap", 900_000)], without);
    let why = hindered.hindered();
    assert_eq!(why.len(), 1);
    assert!(
        why[0].contains("is not on revision 2") && why[0].contains("Finish this box on revision 1")
    );
}

#[test]
fn a_check_that_comes_is_told_by_its_name() {
    let records = vec![blank("input-float")];
    let told = beside(records, |_| ()).revising();
    // The job has one check of the sheet: all the others come to it.
    assert_eq!(told.added.len(), sheet("tolvane-t5").checks.len() - 1);
    assert!(told.gone.is_empty() && told.reopened.is_empty());
}

#[test]
fn pieces_hinder_where_another_drawer_sets_the_check() {
    let other = |f: &mut Value| check(f, "input-float")["set_by"]["family"] = json!("t5-main-shim");
    for (state, word, then) in [
        (SettingState::Chosen, "chosen", "Let them go first"),
        (SettingState::Fitted, "fitted", "Finish this box"),
    ] {
        let records = vec![chosen(measured("input-float", 90_000), 1, state)];
        let why = beside(records, other).hindered();
        assert_eq!(why.len(), 1, "{state:?}");
        assert!(why[0].contains(word) && why[0].contains(then), "{why:?}");
    }
    let let_go = vec![chosen(
        measured("input-float", 90_000),
        0,
        SettingState::LetGo,
    )];
    assert!(beside(let_go, other).hindered().is_empty());
}

#[test]
fn measured_terms_hinder_where_the_sum_has_others() {
    let term = Reading::Term(TermReading {
        term: 1,
        length_nm: Length::from_nm(20_000_000),
    });
    let record = || with_reading(blank("fifth-thrust"), Method::StackSum, term.clone());
    let other =
        |f: &mut Value| check(f, "fifth-thrust")["stack"][0]["what"] = json!("Another depth");
    let why = beside(vec![record()], other).hindered();
    assert!(
        why.len() == 1 && why[0].contains("Strike those readings out first"),
        "{why:?}"
    );
    assert!(beside(vec![record()], |_| ()).hindered().is_empty());
    assert!(
        beside(vec![blank("fifth-thrust")], other)
            .hindered()
            .is_empty()
    );
}

#[test]
fn what_came_out_of_the_box_is_not_known_before_it_is_said() {
    let van = sheet("tolvane-t5");
    for (key, fitted) in [
        ("input-float", None),
        ("main-float", Some(0)),
        ("second-side", Some(0)),
    ] {
        assert_eq!(fitted_at_first(van.check(key).unwrap()), fitted, "{key}");
    }
}
