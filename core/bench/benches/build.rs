//! The build of a box of 500 steps and 300 parts: everything that is sent of it, and what comes out again, beside a plain
//! walk over all pairs of steps in the same run.

use std::collections::BTreeMap;
use std::time::Instant;

use anvil_rules::drawing::draft::draft;
use anvil_rules::job::build::{Build, BuildAct, BuildEntry, CheckFact, StepDone, Target};
use anvil_rules::sheet::{BuildStep, Item, ItemKind, Sheet, read};
use chrono::DateTime;
use criterion::{Criterion, criterion_group, criterion_main};

#[allow(dead_code)]
#[path = "../../tests/it/common.rs"]
mod common;
use common::sheet;

const STEPS: usize = 500;
const PARTS: usize = 300;

/// Each step needs the one before it and one twenty back, and covers one that is forty back; every other puts a part in.
fn long() -> Sheet {
    let mut sheet = sheet("skelt-b2");
    let on_rails: Vec<String> = sheet
        .shafts
        .iter()
        .flat_map(|s| &s.parts)
        .map(|p| p.key.clone())
        .collect();
    let spare = PARTS - on_rails.len();
    sheet.items = (0..spare)
        .map(|n| Item {
            key: format!("item-{n}"),
            name: format!("Item {n}"),
            kind: ItemKind::Other,
            count: None,
            number: String::new(),
            which: String::new(),
            twin: None,
            facing: None,
            marks: String::new(),
            wear: None,
            always_new: n % 5 == 0,
            kept_with: Vec::new(),
            only_in: Vec::new(),
            not_in: Vec::new(),
        })
        .collect();
    let step = |n: usize| {
        let back = |by: usize| n.checked_sub(by).map(|n| format!("step-{n}"));
        let item = (n < spare).then(|| format!("item-{n}"));
        let rail = n.checked_sub(spare).and_then(|n| on_rails.get(n).cloned());
        BuildStep {
            key: format!("step-{n}"),
            what: format!("Something put in its place, and looked at, {n}"),
            puts: item.into_iter().chain(rail).collect(),
            needs: [back(1), back(20)].into_iter().flatten().collect(),
            covers: back(40).into_iter().collect(),
            minutes: Some(4.0),
            ..BuildStep::default()
        }
    };
    // What a complaint points at was named by the items that these took the place of.
    sheet.look_at.clear();
    sheet.build = (0..STEPS).map(step).collect();
    let text = serde_json::to_string(&sheet).expect("plain data");
    read(&text).expect("a sound sheet")
}

/// All that comes out to get at a step, by looking at every pair of steps until nothing more comes out.
fn by_pairs(sheet: &Sheet, to: usize) -> usize {
    let mut out = vec![false; STEPS];
    out[to] = true;
    loop {
        let before = out.iter().filter(|o| **o).count();
        for a in 0..STEPS {
            for b in 0..STEPS {
                let key = &sheet.build[b].key;
                let stands =
                    sheet.build[a].needs.contains(key) || sheet.build[a].covers.contains(key);
                if out[b] && stands {
                    out[a] = true;
                }
            }
        }
        let now = out.iter().filter(|o| **o).count();
        if now == before {
            return now;
        }
    }
}

fn bench(c: &mut Criterion) {
    let sheet = long();
    let at = DateTime::UNIX_EPOCH;
    let entries: Vec<BuildEntry> = (0..STEPS - 1)
        .map(|n| BuildEntry {
            act: BuildAct::Done(StepDone {
                step: format!("step-{n}"),
                ..StepDone::default()
            }),
            who: "RT".into(),
            at,
        })
        .collect();
    let checks: Vec<CheckFact> = Vec::new();
    let times = BTreeMap::new();
    let whole = || {
        let build = Build::of(&sheet, &entries, &checks, at).expect("sound");
        (
            build.view(&times),
            build
                .tear_back(Target::Step("step-3"), &times)
                .expect("it is there"),
        )
    };
    let (view, back) = whole();
    let reference = Instant::now();
    let pairs = by_pairs(&sheet, 3);
    let reference = reference.elapsed();
    let began = Instant::now();
    let _ = std::hint::black_box(whole());
    let took = began.elapsed();
    assert_eq!(back.out.len(), pairs - 1, "the last step is not done");
    let bytes = serde_json::to_string(&view).expect("plain data").len();
    println!(
        "{STEPS} steps: {took:?} for all of it, {reference:?} by pairs for what comes out alone; {bytes} bytes"
    );
    c.bench_function("build_500", |b| b.iter(whole));

    // The same while it is written, each step after the sixty before it: looked at whenever its writer pauses.
    let mut written = serde_json::to_value(&sheet).expect("plain data");
    for n in 0..STEPS {
        let needs: Vec<String> = (n.saturating_sub(60)..n)
            .map(|n| format!("step-{n}"))
            .collect();
        written["build"][n]["needs"] = needs.into();
    }
    let reference = Instant::now();
    let text = written.to_string();
    let again: serde_json::Value = serde_json::from_str(&text).expect("it was written so");
    let reference = reference.elapsed();
    let began = Instant::now();
    let looked = draft(&again);
    let took = began.elapsed();
    assert_eq!(looked.faults, Vec::new());
    println!(
        "looking at it with {} needs: {took:?}, {reference:?} to write and read its {} bytes",
        STEPS * 60,
        text.len()
    );
    c.bench_function("look_500_60", |b| b.iter(|| draft(&again)));
}

criterion_group!(benches, bench);
criterion_main!(benches);
