//! A record of a check, built up as it would be at the bench, and what a rule says of it.

use std::collections::BTreeMap;

use anvil_arithmetic::measure::dial::TravelReading;
use anvil_arithmetic::measure::{Method, Reading};
use anvil_arithmetic::refusal::{Nature, Refusal};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::check::past::MeasuredBefore;
use anvil_rules::job::check::record::{
    ChecklistEntry, Head, ReadingRecord, Record, Setting, SettingPiece, SettingState, SignAct,
    Signing, StockLine,
};
use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::Phase;
use anvil_rules::job::standing::Standing;
use anvil_rules::sheet::{Sheet, read};
use anvil_rules::shop::gauge_register::RegisteredGauge;
use chrono::DateTime;

/// The demo's boxes.
pub const BOXES: [&str; 5] = [
    "tolvane-t5",
    "brannoch-r2",
    "ormhal-a4",
    "skelt-m5",
    "skelt-b2",
];

/// The sheet of a box as the usual build of it.
pub fn sheet(name: &str) -> Sheet {
    whole(name).as_built("")
}

/// The sheet of a box with all its builds.
pub fn whole(name: &str) -> Sheet {
    let path = format!(
        "{}/../../demo/sheets/{name}.json",
        env!("CARGO_MANIFEST_DIR")
    );
    read(&std::fs::read_to_string(path).unwrap()).unwrap()
}

pub fn gauge(key: &str, kind: GaugeKind) -> RegisteredGauge {
    RegisteredGauge {
        gauge_key: key.into(),
        name: key.into(),
        kind,
        unit: "mm".into(),
        resolution_nm: kind.of_length().then_some(10_000),
        permissible_error_nm: kind.of_length().then_some(10_000),
        repeatability_nm: kind.of_length().then_some(4_000.0),
        repeatability_dof: None,
        resolution_si: (!kind.of_length()).then_some(0.05),
        permissible_error_si: (!kind.of_length()).then_some(0.05),
        repeatability_si: None,
        leaves_nm: Vec::new(),
        checked_on: None,
        due_on: None,
        live_at: String::new(),
        retired: false,
        usual: true,
        version: 1,
    }
}

/// A check of which nothing is recorded yet.
pub fn blank(key: &str) -> Record {
    Record {
        job_no: 1,
        check_key: key.into(),
        head: Head {
            bench_c: None,
            standing: Standing::OnBench,
            title: "Van".into(),
            customer: "Somebody".into(),
            sheet_key: "tolvane-t5".into(),
            revision: 1,
            variant: String::new(),
            version: 1,
            round: 0,
            fitted_nm: Some(0),
            phase: Phase::Measure,
            way: None,
        },
        readings: Vec::new(),
        marks: Vec::new(),
        settings: Vec::new(),
        signings: Vec::new(),
        fitted_entries: Vec::new(),
        stock: Vec::new(),
        others: Vec::new(),
        shims: Vec::new(),
        tolerance_nm: 5_000,
        drawer_tolerance_nm: 5_000,
        gauges: vec![
            gauge("dial", GaugeKind::Dial),
            gauge("leaves", GaugeKind::Feeler),
            gauge("wrench", GaugeKind::TorqueWrench),
        ],
        pools: Vec::new(),
        checklist: Vec::new(),
        target_overrides: Vec::new(),
        bias_decisions: Vec::new(),
        assemblies: Vec::new(),
        measured_before: MeasuredBefore::default(),
        steps_out: BTreeMap::new(),
        required_probability: 0.95,
    }
}

/// A size of which there are plenty.
pub fn line(nm: i64) -> StockLine {
    StockLine {
        family_key: String::new(),
        thickness_nm: nm,
        grade: Grade::Marked,
        nominal_nm: None,
        u_nm: None,
        on_hand: 6,
        reserved: 0,
        coming: 0,
        place: String::new(),
        discontinued: false,
    }
}

pub fn travel(nm: i64) -> Reading {
    Reading::Travel(TravelReading {
        travel_nm: Length::from_nm(nm),
        tilt_deg: 0.0,
        pull_n: None,
        turned: None,
    })
}

pub fn with_reading(mut record: Record, method: Method, taken: Reading) -> Record {
    record.readings.push(ReadingRecord {
        reading_no: i32::try_from(record.readings.len()).unwrap() + 1,
        round: record.head.round,
        typed: "as typed".into(),
        bench_unit: Unit::Mm,
        way: method,
        taken,
        gauge_key: (method != Method::YesNo).then(|| "dial".into()),
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    });
    record
}

/// Three travels so far apart.
pub fn measured(key: &str, nm: i64) -> Record {
    let take = |r, nm| with_reading(r, Method::DialTravel, travel(nm));
    take(take(take(blank(key), nm), nm + 1_000), nm - 1_000)
}

/// With a piece found in the box.
pub fn with_piece(mut record: Record) -> Record {
    record.head.fitted_nm = Some(1_000_000);
    record
}

pub fn chosen(mut record: Record, reserved: i32, state: SettingState) -> Record {
    record.settings.push(Setting {
        undone_by: None,
        undone_at: None,
        setting_no: 1,
        round: record.head.round,
        family_key: "t5-input-shim".into(),
        total_nm: 1_000_000,
        fitted_before_nm: 0,
        measured_nm: 0.0,
        predicted_nm: 0.0,
        u_nm: 1_000.0,
        dof: None,
        chance: 0.9,
        usual_nm: 0.0,
        chosen_by: "RT".into(),
        chosen_at: DateTime::UNIX_EPOCH,
        state,
        ended_by: None,
        ended_at: None,
        pieces: vec![SettingPiece {
            thickness_nm: 1_000_000,
            grade: Grade::Marked,
            count: 1,
            reserved,
        }],
    });
    record
}

pub fn signed(mut record: Record) -> Record {
    record.signings.push(Signing {
        act: SignAct::Signed,
        call: Some(Call::In),
        ..Signing::reopened(String::new(), "OB", DateTime::UNIX_EPOCH)
    });
    record
}

/// The name of the case or of the field that was refused.
pub fn case<T: std::fmt::Debug>(ruled: Result<T, Refusal>) -> &'static str {
    match ruled {
        Ok(_) => "yes",
        Err(refusal) => {
            assert!(refusal.message.len() > 18, "{refusal:?} says too little");
            match refusal.nature {
                Nature::Conflict(case) => case,
                Nature::Field(field) => field,
                Nature::Missing => "missing",
                Nature::Fault => "fault",
            }
        }
    }
}

/// The same with all ticked that the sheet wants seen to.
pub fn seen_to(mut record: Record, spec: &Spec<'_>) -> Record {
    for ready in spec.sheet.ready_of(spec.check) {
        record.checklist.push(ChecklistEntry {
            round: record.head.round,
            tick: ready.tick,
            done: true,
            who: "RT".into(),
            at: DateTime::UNIX_EPOCH,
        });
    }
    record
}
