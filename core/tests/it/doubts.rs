//! What a rebuilder would ask about a sheet: each doubt by a sheet that has it, and none about the demo's.

use anvil_rules::sheet::{Doubt, Sheet, Waived, checked, doubts, read};
use serde_json::{Value, json};

use crate::common::sheet;

fn part(key: &str, kind: &str, width: &str, more: &Value) -> Value {
    let mut part = json!({"key": key, "name": key, "kind": kind, "width": width});
    for (field, value) in more.as_object().unwrap() {
        if !value.is_null() {
            part[field] = value.clone();
        }
    }
    part
}

fn gear(key: &str, mate: &str, teeth: u32) -> Value {
    let mates = (!mate.is_empty()).then_some(mate);
    part(
        key,
        "gear",
        "20 mm",
        &json!({"teeth": teeth, "mates": mates, "gap_before": "5 mm"}),
    )
}

/// A sheet of two shafts with these parts and this check.
fn of(input: &[Value], output: &[Value], check: &Value) -> Sheet {
    let text = json!({
        "format": "dry-anvil-sheet", "version": 1, "key": "trial", "name": "Trial", "kind": "manual", "unit": "mm",
        "shafts": [
            {"key": "input", "name": "Input", "parts": input},
            {"key": "output", "name": "Output", "parts": output},
        ],
        "families": [{"key": "shims", "name": "Shims", "kind": "shim", "tolerance": "0.01 mm", "sizes": [{"thickness": "1 mm"}]}],
        "checks": [check],
    });
    read(&text.to_string()).unwrap_or_else(|faults| panic!("{faults:?}"))
}

fn float() -> Value {
    json!({"key": "float", "name": "Float", "kind": "end_float", "window": {"low": "0.1 mm", "high": "0.2 mm"}, "method": "dial_travel"})
}

fn about(found: &[Doubt]) -> Vec<&str> {
    found.iter().map(|d| d.about.as_str()).collect()
}

/// Three pairs, the mates in this order.
fn box_with(order: [usize; 3]) -> Sheet {
    let input = [gear("a", "x", 20), gear("b", "y", 25), gear("c", "z", 30)];
    let mates = [gear("x", "", 40), gear("y", "", 36), gear("z", "", 31)];
    of(&input, &order.map(|i| mates[i].clone()), &float())
}

#[test]
fn nobody_would_ask_about_the_demos_boxes() {
    for name in ["tolvane-t5", "ormhal-a4", "skelt-m5", "brannoch-r2"] {
        assert_eq!(doubts(&sheet(name)), [], "{name}");
    }
}

#[test]
fn mates_lie_side_by_side_or_a_list_is_turned_or_two_cross() {
    assert_eq!(doubts(&box_with([0, 1, 2])), []);
    let turned = doubts(&box_with([2, 1, 0]));
    assert_eq!(about(&turned), ["turned input output"]);
    assert_eq!(turned[0].place, "/shafts/1");
    let crossed = doubts(&box_with([0, 2, 1]));
    assert_eq!(about(&crossed), ["crossed c"]);
    assert_eq!(crossed[0].place, "/shafts/0/parts/2/mates");
    // Said at the other of the two it is the same.
    let input = [gear("a", "", 20), gear("b", "", 25), gear("c", "", 30)];
    let output = [gear("y", "b", 36), gear("x", "a", 40), gear("z", "c", 31)];
    assert_eq!(
        about(&doubts(&of(&input, &output, &float()))),
        ["crossed b"]
    );
}

#[test]
fn the_drawing_and_the_teeth_agree_with_the_pairs() {
    let input = [gear("a", "x", 20), gear("b", "y", 25), gear("c", "z", 30)];
    let mut far = gear("z", "", 31);
    far["gap_before"] = json!("25.1 mm");
    let found = doubts(&of(
        &input,
        &[gear("x", "", 40), gear("y", "", 36), far.clone()],
        &float(),
    ));
    assert_eq!(about(&found), ["apart c"]);
    assert!(found[0].message.contains("20.1 mm"), "{}", found[0].message);
    // A hair less, and they touch.
    far["gap_before"] = json!("24.9 mm");
    assert_eq!(
        doubts(&of(
            &input,
            &[gear("x", "", 40), gear("y", "", 36), far],
            &float()
        )),
        []
    );
    let many = doubts(&of(
        &input,
        &[gear("x", "", 40), gear("y", "", 36), gear("z", "", 45)],
        &float(),
    ));
    assert_eq!(about(&many), ["teeth c"]);
    assert!(many[0].message.contains("75 teeth"), "{}", many[0].message);
}

#[test]
fn a_hub_stands_beside_a_gear_and_a_side_clearance_where_the_gear_is_held() {
    let plain = |key, kind| part(key, kind, "10 mm", &json!({}));
    let alone = [
        plain("bearing", "bearing"),
        plain("hub", "hub"),
        plain("sleeve", "spacer"),
        gear("a", "", 20),
    ];
    assert_eq!(
        about(&doubts(&of(&alone, &[gear("x", "", 40)], &float()))),
        ["hub hub"]
    );
    // A ring and a washer between are no neighbours.
    let beside = [
        plain("hub", "hub"),
        plain("ring", "snap_ring"),
        plain("washer", "washer"),
        gear("a", "", 20),
    ];
    assert_eq!(doubts(&of(&beside, &[gear("x", "", 40)], &float())), []);
    let side = |left: &str, right: &str| {
        json!({"key": "side", "name": "Side", "kind": "gear_side_clearance", "between": [left, right],
            "window": {"low": "0.1 mm", "high": "0.3 mm"}, "method": "feeler"})
    };
    let parts = [
        plain("ring", "snap_ring"),
        plain("washer", "washer"),
        gear("a", "", 20),
        gear("slides", "", 25),
    ];
    let of = |left, right| doubts(&of(&parts, &[gear("x", "", 40)], &side(left, right)));
    assert_eq!(
        about(&of("a", "slides")),
        ["side side"],
        "the way of a sliding gear"
    );
    assert_eq!(about(&of("ring", "washer")), ["side side"], "no gear");
}

#[test]
fn a_fork_takes_a_gear_on_either_side_and_no_third() {
    let forks = |names: [&str; 3]| {
        let gears: Vec<Value> = (1..)
            .zip(names)
            .map(|(n, fork)| json!({"name": format!("{n}"), "fork": fork}))
            .collect();
        let check = json!({"key": "centring", "name": "Centring", "kind": "selector_centring", "window": {"high": "0.2 mm"},
            "method": "selector_gaps", "selector": {"gears": gears}});
        doubts(&of(&[gear("a", "", 20)], &[gear("x", "", 40)], &check))
    };
    assert_eq!(
        about(&forks(["left", "left", "left"])),
        ["fork centring left"]
    );
    assert_eq!(forks(["left", "left", "right"]), []);
    assert_eq!(forks(["", "", ""]), []);
}

/// Two taper bearings with a spacer between their cones; cups outside, as in a case, or between, as in a gear.
fn cones(cups_outside: bool, effect: i8) -> Vec<Doubt> {
    let taper = |key: &str, with: Option<&str>| {
        part(key, "taper_bearing", "15 mm", &json!({"kept_with": with}))
    };
    let [left, right] = [
        (taper("cup-l", None), taper("cone-l", Some("cup-l"))),
        (taper("cup-r", None), taper("cone-r", Some("cup-r"))),
    ];
    let spacer = part("spacer", "spacer", "8 mm", &json!({}));
    let parts = if cups_outside {
        [left.0, left.1, spacer, right.1, right.0]
    } else {
        [left.1, left.0, spacer, right.0, right.1]
    };
    let check = json!({"key": "preload", "name": "Preload", "kind": "bearing_preload", "window": {"low": "-0.08 mm", "high": "-0.03 mm"},
        "method": "known_shim", "set_by": {"family": "shims", "effect": effect, "measured_with": "as_found", "part": "spacer"}});
    doubts(&of(&parts, &[gear("x", "", 40)], &check))
}

#[test]
fn what_a_spacer_between_cones_does_follows_from_where_the_cups_lie() {
    assert_eq!(about(&cones(true, -1)), ["effect preload"]);
    assert_eq!(about(&cones(false, 1)), ["effect preload"]);
    assert_eq!(cones(true, 1), []);
    assert_eq!(cones(false, -1), []);
}

#[test]
fn a_doubt_is_left_with_a_word_of_why() {
    let mut sheet = box_with([2, 1, 0]);
    let [first] = &doubts(&sheet)[..] else {
        panic!("one doubt")
    };
    assert_eq!(first.why, None);
    sheet.waived.push(Waived {
        about: first.about.clone(),
        why: "drawn as it lies on the bench".into(),
    });
    let sheet = checked(sheet).unwrap();
    assert_eq!(
        doubts(&sheet)[0].why.as_deref(),
        Some("drawn as it lies on the bench")
    );
}

#[test]
fn a_mate_is_a_gear_on_another_shaft() {
    let faults = |input: &[Value]| {
        let text = json!({
            "format": "dry-anvil-sheet", "version": 1, "key": "trial", "name": "Trial", "kind": "manual", "unit": "mm",
            "shafts": [
                {"key": "input", "name": "Input", "parts": input},
                {"key": "output", "name": "Output", "parts": [gear("x", "", 40), part("ring", "snap_ring", "1 mm", &json!({}))]},
            ],
            "checks": [float()],
        });
        let faults = read(&text.to_string()).unwrap_err();
        faults
            .into_iter()
            .map(|f| (f.place, f.message))
            .collect::<Vec<_>>()
    };
    for (part, said) in [
        (gear("a", "nothing", 20), "no part has the key"),
        (gear("a", "a", 20), "on the same shaft"),
        (gear("a", "ring", 20), "has no teeth"),
        (
            part("a", "washer", "2 mm", &json!({"mates": "x"})),
            "only a gear has a mate",
        ),
    ] {
        let found = faults(&[part]);
        assert_eq!(found.len(), 1, "{found:?}");
        assert_eq!(found[0].0, "/shafts/0/parts/0/mates");
        assert!(found[0].1.contains(said), "{found:?}");
    }
}
