//! The chance of a closing of ten checks with what would raise it, beside a simulation of the same in the same run.

use std::sync::Arc;
use std::time::Instant;

use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_rules::job::check::close_once::close_once;
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::sheet::{Sheet, read};
use criterion::{Criterion, criterion_group, criterion_main};

#[allow(dead_code)]
#[path = "../../tests/it/common.rs"]
mod common;
use common::{gauge, line, measured, sheet};

const CHECKS: usize = 10;
/// So many boxes tell a chance within half a percent.
const BOXES: usize = 40_000;

/// The transaxle with ten main shafts, all set in one closing.
fn ten() -> Arc<Sheet> {
    let mut value = serde_json::to_value(sheet("tolvane-t5")).expect("plain data");
    let checks = value["checks"].as_array_mut().expect("checks");
    let main = checks.iter().find(|c| c["key"] == "main-float").cloned();
    let mut main = main.expect("the main shaft");
    for without in ["chart", "hot", "after", "between"] {
        main.as_object_mut().expect("a check").remove(without);
    }
    for at in 0..CHECKS {
        main["key"] = format!("main-{at}").into();
        main["name"] = format!("Main shaft {at}").into();
        checks.push(main.clone());
    }
    Arc::new(read(&value.to_string()).expect("a sound sheet"))
}

/// Each measured, with a drawer of twenty-one sizes of which none is quite right.
fn loaded(sheet: &Arc<Sheet>) -> Vec<LoadedCheck> {
    let checks = (0..CHECKS).map(|at| {
        let off = i64::try_from(at).expect("ten") * 3_700;
        let mut record = measured(&format!("main-{at}"), 1_262_000 + off);
        record.stock = (0..21).map(|i| line(1_000_000 + i * 40_000)).collect();
        record.gauges.push(gauge("mike", GaugeKind::Micrometer));
        record.tolerance_nm = 20_000;
        LoadedCheck::of(record, Arc::clone(sheet)).expect("a sound record")
    });
    checks.collect()
}

/// How often all of them land where each does with its chance.
fn simulated(chances: &[f64]) -> f64 {
    let mut seed = 20_261_127_u64;
    let mut dice = || {
        // Knuth's linear congruential generator.
        seed = seed
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (seed >> 11) as f64 / (1_u64 << 53) as f64
    };
    let all = (0..BOXES).filter(|_| {
        let landed = chances.iter().filter(|p| dice() < **p).count();
        landed == chances.len()
    });
    all.count() as f64 / BOXES as f64
}

fn bench(c: &mut Criterion) {
    let sheet = ten();
    let checks = loaded(&sheet);
    let run = || close_once(&sheet, &checks).expect("sound records");
    let _warm = run();
    let start = Instant::now();
    let found = run();
    let took = start.elapsed();
    let closing = found.iter().find(|c| c.checks.len() == CHECKS);
    let closing = closing.expect("all are set in one closing");
    let chances: Vec<f64> = closing.checks.iter().map(|c| c.chance).collect();
    let start = Instant::now();
    let came = simulated(&chances);
    let simulated_took = start.elapsed();
    let stated = closing.chance.expect("they share no pieces");
    assert!((stated - came).abs() < 0.02, "{stated} and {came}");
    assert!(!closing.advice.is_empty());
    println!(
        "{stated:.4} with {} pieces of advice in {took:.2?}; {BOXES} boxes say {came:.4}, without advice, in {simulated_took:.2?}",
        closing.advice.len()
    );
    c.bench_function("close once, ten checks with advice", |b| b.iter(run));
}

criterion_group! {
    name = benches;
    config = Criterion::default().sample_size(20);
    targets = bench
}
criterion_main!(benches);
