//! A sheet while it is written, and two revisions beside one another.

use anvil_rules::drawing::draft::{Draft, draft};
use anvil_rules::sheet::{Sheet, differences, read};
use proptest::prelude::*;
use serde_json::{Value, json};

fn demo() -> Value {
    let path = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../../demo/sheets/tolvane-t5.json"
    );
    let whole = read(&std::fs::read_to_string(path).unwrap()).unwrap();
    serde_json::to_value(whole.as_built("")).unwrap()
}

fn sheet(value: &Value) -> Sheet {
    read(&value.to_string()).unwrap()
}

fn places(draft: &Draft) -> Vec<&str> {
    draft.faults.iter().map(|f| f.place.as_str()).collect()
}

fn put(value: &mut Value, place: &str, new: Value) {
    *value.pointer_mut(place).unwrap() = new;
}

#[test]
fn a_whole_sheet_has_no_fault_and_is_drawn_as_ever() {
    let draft = draft(&demo());
    assert_eq!(draft.faults, []);
    assert_eq!(
        draft.rail.unwrap(),
        anvil_rules::drawing::shafts::rail(&sheet(&demo()))
    );
}

#[test]
fn one_field_that_cannot_be_read_hides_neither_the_drawing_nor_other_faults() {
    let mut half = demo();
    put(&mut half, "/shafts/0/parts/1/width", json!("19 yards"));
    put(&mut half, "/shafts/1/parts/2/width", json!("0 mm"));
    put(&mut half, "/shafts/1/parts/0/name", json!(""));
    put(&mut half, "/checks/0/window/low", json!("1 mm"));
    put(&mut half, "/checks/5/window/low", json!("?"));
    put(
        &mut half,
        "/checks/6/between",
        json!(["in-front", "main-5"]),
    );
    let draft = draft(&half);
    let mut found = places(&draft);
    found.sort_unstable();
    assert_eq!(
        found,
        [
            "/checks/0/window",
            "/checks/5/window/low",
            "/checks/6/between",
            "/shafts/0/parts/1/width",
            "/shafts/1/parts/0/name",
            "/shafts/1/parts/2/width"
        ]
    );
    let rail = draft.rail.unwrap();
    let unread: Vec<_> = rail
        .shafts
        .iter()
        .flat_map(|s| &s.blocks)
        .filter(|b| b.unread)
        .map(|b| (b.part.as_str(), b.to_nm > b.from_nm))
        .collect();
    assert_eq!(unread, [("in-1", true), ("main-washer1", true)]);
}

#[test]
fn every_check_of_a_ring_is_named_and_none_that_only_waits_for_it() {
    let mut ring = demo();
    let key = |i: usize| demo()["checks"][i]["key"].clone();
    for i in 0..4 {
        ring["checks"][i].as_object_mut().unwrap().remove("after");
    }
    put(&mut ring["checks"], "/0", {
        let mut c = demo()["checks"][0].clone();
        c["after"] = json!([key(1)]);
        c
    });
    ring["checks"][1]["after"] = json!([key(0)]);
    ring["checks"][2]["after"] = json!([key(3), key(0)]);
    let found = draft(&ring);
    assert_eq!(places(&found), ["/checks/0/after/0", "/checks/1/after/0"]);
}

#[test]
fn what_has_not_the_shape_of_a_sheet_is_refused_and_not_drawn() {
    let other = draft(&json!({"format": "a letter"}));
    assert_eq!(places(&other), ["/format"]);
    assert_eq!(other.rail, None);
    let mut odd = demo();
    odd["shafts"] = json!("two of them");
    let odd = draft(&odd);
    assert_eq!(places(&odd), ["/shafts"]);
    assert_eq!(odd.rail, None);
}

/// What is far too long is said first, and nothing else of it is looked at: that would take minutes.
#[test]
fn of_what_is_far_too_long_only_that_is_said() {
    let mut long = demo();
    let check = long["checks"][0].clone();
    long["checks"] = vec![check; 3_000].into();
    let told = draft(&long);
    assert_eq!(places(&told), ["/checks"]);
    assert!(
        told.faults[0].message.contains("up to"),
        "{:?}",
        told.faults
    );
    assert_eq!(told.rail, None);
}

#[test]
fn differences_are_told_by_name_and_lengths_by_what_they_are() {
    let was = demo();
    let mut now = demo();
    put(&mut now, "/checks/0/window/high", json!("0.30 mm"));
    // The same length otherwise written is no difference.
    put(&mut now, "/shafts/0/parts/0/width", json!("17.0 mm"));
    put(&mut now, "/shafts/0/parts/1/teeth", json!(14));
    let parts = now["shafts"][1]["parts"].as_array_mut().unwrap();
    let moved = parts.remove(3);
    parts.insert(1, moved);
    now["shafts"][2]["parts"].as_array_mut().unwrap().remove(4);
    now["cautions"]
        .as_array_mut()
        .unwrap()
        .push(json!("Hot oil"));
    let check = was["checks"][0].clone();
    let name = check["name"].as_str().unwrap();
    let found = differences(&sheet(&was), &sheet(&now));
    let told: Vec<_> = found
        .iter()
        .map(|d| (d.place.as_str(), d.was.as_deref(), d.now.as_deref()))
        .collect();
    let at = |place: &str| told.iter().find(|t| t.0 == place).copied();
    let window = format!("check “{name}” · window · high");
    assert_eq!(
        at(&window),
        Some((window.as_str(), Some("0.34 mm"), Some("0.30 mm")))
    );
    let teeth = "shaft “Input shaft” · part “First, input” · teeth";
    assert_eq!(at(teeth), Some((teeth, Some("13"), Some("14"))));
    let order = at("shaft “Main shaft” · order of the parts").unwrap();
    assert!(
        order
            .2
            .unwrap()
            .starts_with("Final drive pinion, First gear, Front bearing")
    );
    let gone = at("shaft “Reverse idler” · part “Bearing wall”").unwrap();
    assert_eq!((gone.1.is_some(), gone.2), (true, None));
    assert_eq!(at("caution “Hot oil”").unwrap().2, Some("Hot oil"));
    assert_eq!(told.len(), 5, "{told:#?}");
    assert_eq!(
        found
            .iter()
            .find(|d| d.place == window)
            .unwrap()
            .check
            .as_deref(),
        check["key"].as_str()
    );
    assert_eq!(differences(&sheet(&was), &sheet(&was)), []);
}

#[test]
fn a_signature_stands_where_only_words_changed() {
    let was = sheet(&demo());
    let changed = |place: &str, new: Value| {
        let mut now = demo();
        put(&mut now, place, new);
        was.checks[0].judged_as(&sheet(&now).checks[0])
    };
    assert!(changed("/checks/0/name", json!("Second gear, side")));
    assert!(changed("/checks/0/window/high", json!("0.340 mm")));
    assert!(!changed("/checks/0/window/high", json!("0.35 mm")));
}

proptest! {
    /// Whatever is typed into whatever field, the draft answers, and what it calls whole can be read.
    #[test]
    fn whatever_is_typed_the_draft_answers(pick in any::<prop::sample::Index>(), text in "[ -~µ½]{0,12}") {
        let mut value = demo();
        let mut leaves = Vec::new();
        strings(&value, String::new(), &mut leaves);
        let place = pick.get(&leaves).clone();
        put(&mut value, &place, json!(text));
        let found = draft(&value);
        prop_assert_eq!(found.faults.is_empty(), read(&value.to_string()).is_ok(), "{} {:?}", place, found.faults);
        if found.faults.is_empty() {
            prop_assert!(found.rail.is_some());
        }
    }

    /// Two revisions differ in words exactly where one edit was made, and in nothing the other way round.
    #[test]
    fn one_edit_is_one_difference(pick in any::<prop::sample::Index>(), mm in 1_u32..90) {
        let mut value = demo();
        let mut leaves = Vec::new();
        strings(&value, String::new(), &mut leaves);
        leaves.retain(|p| p.starts_with("/shafts") && p.ends_with("/width"));
        let place = pick.get(&leaves).clone();
        let text = format!("{mm}.5 mm");
        let same = value.pointer(&place).unwrap() == &json!(text);
        put(&mut value, &place, json!(text.clone()));
        let (was, now) = (sheet(&demo()), sheet(&value));
        let found = differences(&was, &now);
        prop_assert_eq!(found.len(), usize::from(!same));
        for d in &found {
            prop_assert_eq!(d.now.as_deref(), Some(text.as_str()));
        }
        let back = differences(&now, &was);
        prop_assert_eq!(back.len(), found.len());
    }
}

fn strings(value: &Value, place: String, into: &mut Vec<String>) {
    match value {
        Value::String(_) => into.push(place),
        Value::Array(items) => {
            for (i, v) in items.iter().enumerate() {
                strings(v, format!("{place}/{i}"), into);
            }
        }
        Value::Object(fields) => {
            for (f, v) in fields {
                strings(v, format!("{place}/{f}"), into);
            }
        }
        _ => {}
    }
}
