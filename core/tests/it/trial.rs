//! What differs between trial and final build is counted once: at the reading it is said whether it is in already.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::prediction::prediction_error;
use anvil_rules::job::check::record::{ChecklistEntry, Record, SettingState};
use anvil_rules::job::check::rules;
use anvil_rules::job::check::spec::{Spec, as_final};
use chrono::DateTime;

use crate::common::{case, chosen, measured, sheet};

const GASKET: &str = "gasket left out of the trial";

fn ticked(mut record: Record, done: bool) -> Record {
    record.checklist.push(ChecklistEntry {
        tick: as_final(GASKET),
        done,
        round: record.head.round,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    record
}

/// The van's main shaft, set to 0.17 and measured on the closed box, gasket and all: it is right, and the gasket's 0.08
/// added once more would call it loose.
#[test]
fn a_box_that_is_closed_is_not_called_loose_by_the_gasket_that_is_in() {
    let van = sheet("tolvane-t5");
    let mut record = measured("main-float", 172_000);
    record.head.round = 1;
    for reading in &mut record.readings {
        reading.round = 1;
    }
    let mut record = chosen(record, 1, SettingState::Fitted);
    let setting = record.settings.last_mut().unwrap();
    (setting.predicted_nm, setting.round) = (170_000.0, 0);
    let found = |record: &Record| {
        let spec = Spec::of(&van, "main-float").unwrap().on_job(record);
        let found = record.assess(&spec).unwrap();
        let estimate = found.estimate.unwrap();
        let off = prediction_error(&estimate, 170_000.0, 3_000.0, None);
        let call = found.verdict.unwrap().call;
        (estimate.clearance_nm, call, spec.explains(&off))
    };
    let (c, call, by) = found(&record);
    assert!((c - 252_000.0).abs() < 1e-6 && call == Call::Loose, "{c}");
    assert_eq!(by.as_deref(), Some(GASKET), "that is said first");
    let said = ticked(record.clone(), true);
    let (c, call, by) = found(&said);
    assert!((c - 172_000.0).abs() < 1e-6, "{c}");
    assert_eq!((call, by), (Call::In, None));
    // Said of this round only: the next is a trial build again until it is said.
    let mut next = said.clone();
    next.head.round = 2;
    let spec = Spec::of(&van, "main-float").unwrap().on_job(&next);
    assert_eq!(spec.adjustments(Method::DialTravel).len(), 1);
    assert_eq!(spec.is_as_final(GASKET), Some(false));
    // Taken off again; and said to be in where it is not, the difference is told the other way.
    let (c, _, _) = found(&ticked(said.clone(), false));
    assert!((c - 252_000.0).abs() < 1e-6, "{c}");
    let mut trial = said;
    for reading in &mut trial.readings {
        reading.taken = crate::common::travel(90_000);
    }
    assert_eq!(found(&trial).2.as_deref(), Some(GASKET));
}

#[test]
fn only_what_the_sheet_says_differs_can_be_said_to_be_in() {
    let van = sheet("tolvane-t5");
    let record = measured("main-float", 172_000);
    let spec = Spec::of(&van, "main-float").unwrap().on_job(&record);
    assert_eq!(
        case(rules::may_tick(&record, &spec, &as_final(GASKET))),
        "yes"
    );
    assert_eq!(
        case(rules::may_tick(&record, &spec, &as_final("another"))),
        "tick"
    );
    assert_eq!(spec.is_as_final("another"), None);
}
