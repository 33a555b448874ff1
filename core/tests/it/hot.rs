//! A check at the temperatures it works at: two of them, the bench's own, and a window that holds hot.

use anvil_arithmetic::measure::Method;
use anvil_rules::job::check::record::Record;
use anvil_rules::job::check::rules::may_say_bench;
use anvil_rules::job::check::spec::Spec;
use anvil_rules::sheet::{HotAt, Sheet, read};
use serde_json::{Value, json};

use crate::common::blank;

fn written(window_at: Value) -> Value {
    let mut hot = json!({
        "case": [{"what": "Case", "material": "aluminium", "length": "210 mm"}],
        "inside": [{"what": "Shaft", "material": "steel", "length": "208 mm"}],
    });
    if !window_at.is_null() {
        hot["window_at"] = window_at;
    }
    json!({
        "format": "dry-anvil-sheet", "version": 1, "key": "hot-box", "name": "A box", "kind": "manual", "unit": "mm",
        "shafts": [{"key": "s", "name": "Shaft", "parts": [
            {"key": "a", "name": "Bearing", "kind": "bearing", "width": "20 mm"},
            {"key": "b", "name": "Cover", "kind": "housing", "width": "20 mm"}]}],
        "families": [{"key": "f", "name": "Shims", "kind": "shim", "tolerance": "0.005 mm",
            "sizes": [{"thickness": "1 mm"}]}],
        "checks": [{"key": "c", "name": "Float", "kind": "end_float", "between": ["a", "b"], "method": "dial_travel",
            "window": {"low": "0.02 mm", "high": "0.1 mm"}, "hot": hot,
            "set_by": {"family": "f", "effect": 1, "measured_with": "as_found"}}],
    })
}

fn sheet(window_at: Value) -> Sheet {
    read(&written(window_at).to_string()).unwrap()
}

fn by(sheet: &Sheet, bench_c: Option<f64>, method: Method) -> i64 {
    let mut record: Record = blank("c");
    record.head.bench_c = bench_c;
    let spec = Spec::of(sheet, "c").unwrap().on_job(&record);
    spec.adjustments(method).iter().map(|a| a.by.nm()).sum()
}

/// Worked by hand: `23 × 210 = 4.83 µm/K` of case, `11.7 × 208 = 2.4336 µm/K` of shaft.
#[test]
fn what_was_measured_cold_is_brought_to_where_its_window_holds() {
    let at_20 = sheet(Value::Null);
    assert_eq!(by(&at_20, None, Method::DialTravel), 0);
    // At 8 °C it is 12 K short of 20: 12 × (4.83 − 2.4336) = 28.757 µm.
    assert_eq!(by(&at_20, Some(8.0), Method::DialTravel), 28_757);
    // What a drawing states is at 20 °C, however cold the bench.
    assert_eq!(by(&at_20, Some(8.0), Method::StackSum), 0);
    // Case at 75, inside at 95: 55 × 4.83 − 75 × 2.4336 = 83.13 µm.
    let warm = sheet(json!({"case_c": 75, "inside_c": 95}));
    assert_eq!(by(&warm, None, Method::DialTravel), 83_130);
    // From 8 °C: 67 × 4.83 − 87 × 2.4336 = 111.887 µm.
    assert_eq!(by(&warm, Some(8.0), Method::DialTravel), 111_887);
}

#[test]
fn the_cold_figure_stands_beside_the_hot_one() {
    let warm = sheet(json!({"case_c": 75, "inside_c": 95}));
    let spec = Spec::of(&warm, "c").unwrap();
    let hot = Record::hot(&spec, Some(140_000.0), Some(60_000.0)).unwrap();
    assert_eq!(
        hot.window_at,
        Some(HotAt {
            case_c: 75.0,
            inside_c: 95.0
        })
    );
    assert!((hot.window_nm.unwrap() - 60_000.0).abs() < 1e-6);
    assert!(
        (hot.cold_nm.unwrap() + 23_130.0).abs() < 1e-6,
        "{:?}",
        hot.cold_nm
    );
    // Warmed alike it is at 20 °C what the cold figure says.
    let line = hot.expected.unwrap();
    let at_20 = line.from_nm + line.growth_nm_per_k * (20.0 - line.from_c);
    assert!((at_20 + 23_130.0).abs() < 1e-6);
}

#[test]
fn temperatures_that_cannot_be_are_named_at_their_field() {
    let refused = read(&written(json!({"case_c": 90, "inside_c": 140})).to_string()).unwrap_err();
    let named = refused.iter().any(|f| {
        f.place == "/checks/0/hot/window_at/inside_c" && f.message.contains("no bearing bears it")
    });
    assert!(named, "{refused:?}");
    let at_20 = sheet(Value::Null);
    let spec = Spec::of(&at_20, "c").unwrap();
    let record = blank("c");
    for bench in [-60.0, 95.0, f64::NAN] {
        let refusal = may_say_bench(&record, &spec, bench).unwrap_err();
        assert!(format!("{refusal:?}").contains("bench_c"), "{refusal:?}");
    }
    assert!(may_say_bench(&record, &spec, 8.0).is_ok());
    let mut cold = written(Value::Null);
    cold["checks"][0].as_object_mut().unwrap().remove("hot");
    let none = read(&cold.to_string()).unwrap();
    let why = may_say_bench(&record, &Spec::of(&none, "c").unwrap(), 8.0).unwrap_err();
    assert!(
        format!("{why:?}").contains("warmth changes nothing"),
        "{why:?}"
    );
}
