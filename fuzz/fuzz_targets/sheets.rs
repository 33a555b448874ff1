//! A spec sheet: a demo sheet of which a few places hold something else. It is read or refused with the place; where it is
//! read, everything that is worked out from a sheet alone is.
#![no_main]

use std::sync::LazyLock;

use anvil_rules::drawing::draft::draft;
use anvil_rules::drawing::shafts::rail;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::{differences, read};
use libfuzzer_sys::fuzz_target;
use serde_json::Value;

static SHEETS: LazyLock<Vec<Value>> = LazyLock::new(|| {
    [
        include_str!("../../demo/sheets/tolvane-t5.json"),
        include_str!("../../demo/sheets/brannoch-r2.json"),
    ]
    .iter()
    .map(|text| serde_json::from_str(text).expect("a demo sheet is JSON"))
    .collect()
});

/// One place after another by `choice`, and something else put there.
fn alter(value: &mut Value, choice: &mut impl Iterator<Item = u8>, text: &str) {
    let mut pick = |n: usize| usize::from(choice.next().unwrap_or(0)) % n.max(1);
    match value {
        Value::Array(all) if !all.is_empty() => {
            let at = pick(all.len());
            match pick(8) {
                0 => drop(all.remove(at)),
                1 => all.push(all[at].clone()),
                2 => {
                    let with = pick(all.len());
                    all.swap(at, with);
                }
                _ => alter(&mut all[at], choice, text),
            }
        }
        Value::Object(fields) if !fields.is_empty() => {
            let at = pick(fields.len());
            let name = fields.keys().nth(at).cloned().unwrap_or_default();
            match pick(8) {
                0 => drop(fields.remove(&name)),
                1 => drop(fields.insert(text.to_owned(), Value::Null)),
                _ => alter(&mut fields[&name], choice, text),
            }
        }
        leaf => {
            *leaf = match pick(9) {
                0 => Value::Null,
                1 => Value::Bool(true),
                2 => Value::from(pick(256)),
                3 => Value::from(-1),
                4 => Value::from(1e300),
                5 => Value::String(format!("{} mm", pick(256))),
                6 => Value::String(format!("-0.{:02} mm", pick(256))),
                7 => Value::Array(Vec::new()),
                _ => Value::String(text.to_owned()),
            }
        }
    }
}

fuzz_target!(|sent: (u8, Vec<u8>, &str)| {
    let (which, choices, text) = sent;
    // Whatever is no JSON, too.
    let _ = read(text);
    let sheet = &SHEETS[usize::from(which) % SHEETS.len()];
    let mut altered = sheet.clone();
    let mut choices = choices.into_iter().take(60);
    for _ in 0..=which % 5 {
        alter(&mut altered, &mut choices, text);
    }
    let _ = draft(&altered);
    match read(&altered.to_string()) {
        Ok(now) => {
            let was = read(&sheet.to_string()).expect("a demo sheet has no fault");
            let _ = differences(&was, &now);
            let _ = rail(&now);
            for check in &now.checks {
                let spec = Spec::of(&now, &check.key).expect("a check of the sheet");
                let _ = (spec.families(), spec.terms());
            }
            let kept = serde_json::to_string_pretty(&now).expect("a sheet is JSON");
            let again = read(&kept).unwrap_or_else(|faults| panic!("{faults:?} in what was read before"));
            assert!(differences(&now, &again).is_empty());
        }
        Err(faults) => assert!(!faults.is_empty() && faults.iter().all(|f| !f.message.is_empty())),
    }
});
