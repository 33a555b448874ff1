//! What a check rests on: the demo's sheets against lists that were written by hand, and each kind on a box of its own.

use std::collections::BTreeSet;

use anvil_rules::sheet::{Sheet, read};
use serde_json::{Value, json};

use super::common::{BOXES, sheet, whole};

/// By hand, from what each box is like; `all SHAFT` is every part of a shaft, `-KEY` without one.
const BY_HAND: [(&str, &str, &str); 26] = [
    (
        "ormhal-a4",
        "forward-pack",
        "forward-drum piston-forward plates-forward ring-forward",
    ),
    (
        "ormhal-a4",
        "direct-pack",
        "direct-drum piston-direct plates-direct ring-direct",
    ),
    ("ormhal-a4", "pinions", "carrier-front"),
    ("ormhal-a4", "train-play", "all train"),
    ("ormhal-a4", "input-play", "all line pump-gasket"),
    ("tolvane-t5", "second-side", "main-2 main-ring2"),
    ("tolvane-t5", "baulk-gap", "in-3 in-hub baulk-3"),
    ("tolvane-t5", "diff-side", "diff-side-left diff-case"),
    ("tolvane-t5", "diff-preload", "all diff"),
    (
        "tolvane-t5",
        "idler-thrust",
        "idler-shims idler-gear idler-washer",
    ),
    // What goes on once the case is closed moves nothing in it.
    ("tolvane-t5", "input-float", "all input -in-5 -in-nut"),
    (
        "tolvane-t5",
        "main-float",
        "all main -main-spacer -main-5 -main-hub5 -main-nut",
    ),
    ("tolvane-t5", "fifth-thrust", "main-spacer main-5"),
    ("skelt-m5", "needle-seat", "in-right in-case"),
    ("skelt-m5", "second-side", "out-washer out-second"),
    ("skelt-m5", "third-side", "out-keep-3 out-third"),
    ("skelt-m5", "input-float", "all input"),
    ("skelt-m5", "output-float", "all output"),
    (
        "skelt-m5",
        "centring",
        "fork-left fork-right rod-front rod-rear drum out-first out-slide-left out-third out-slide-right out-second \
         out-shim-left out-shim-right",
    ),
    (
        "skelt-m5",
        "dogs",
        "fork-right rod-front rod-rear drum out-slide-left out-third out-slide-right out-second out-shim-left out-shim-right",
    ),
    (
        "skelt-b2",
        "pinion-height",
        "p-inner p-shim p-pinion w-ring",
    ),
    ("skelt-b2", "pinion-drag", "all pinion"),
    ("skelt-b2", "ring-float", "all wheel"),
    ("skelt-b2", "ring-mesh", "all wheel p-pinion p-inner p-shim"),
    ("brannoch-r2", "cover-fit", "in-cover in-rear"),
    (
        "brannoch-r2",
        "retainer-pinch",
        "in-retainer in-pinch-shim in-front",
    ),
];

fn listed(sheet: &Sheet, said: &str) -> BTreeSet<String> {
    let mut keys = BTreeSet::new();
    let mut words = said.split_whitespace();
    while let Some(word) = words.next() {
        if word == "all" {
            let key = words.next().unwrap();
            let shaft = sheet.shafts.iter().find(|s| s.key == key).unwrap();
            keys.extend(shaft.parts.iter().map(|p| p.key.clone()));
        } else if let Some(out) = word.strip_prefix('-') {
            assert!(keys.remove(out), "{out}");
        } else {
            keys.insert(word.to_owned());
        }
    }
    keys
}

fn on(sheet: &Sheet, check: &str) -> BTreeSet<String> {
    let check = sheet.check(check).unwrap();
    let keys = sheet.rests_on(check).into_iter();
    keys.map(str::to_owned).collect()
}

#[test]
fn the_demos_checks_rest_on_what_was_looked_up_by_hand() {
    let mut looked_at = 0;
    for (name, check, said) in BY_HAND {
        let sheet = sheet(name);
        assert_eq!(on(&sheet, check), listed(&sheet, said), "{name}, {check}");
        looked_at += 1;
    }
    let rest = [
        ("brannoch-r2", "inter-preload", "all inter"),
        ("brannoch-r2", "turns-free", "in-front in-gear"),
        ("brannoch-r2", "input-float", "all input"),
        ("brannoch-r2", "front-float", "all front"),
    ];
    for (name, check, said) in rest {
        let sheet = sheet(name);
        assert_eq!(on(&sheet, check), listed(&sheet, said), "{name}, {check}");
        looked_at += 1;
    }
    let checks: usize = BOXES.iter().map(|name| sheet(name).checks.len()).sum();
    assert_eq!(looked_at, checks, "each check of each box");
}

/// The same said from the part: what is found of it makes those checks due.
#[test]
fn a_part_has_the_checks_that_rest_on_it() {
    for name in BOXES {
        let sheet = sheet(name);
        let mut pairs = 0;
        for card in sheet.part_cards() {
            for check in sheet.checks_on(&card.key) {
                assert!(sheet.rests_on(check).contains(card.key.as_str()));
                pairs += 1;
            }
        }
        let all = sheet.checks.iter().map(|c| sheet.rests_on(c).len());
        assert_eq!(pairs, all.sum::<usize>(), "{name}");
    }
}

fn changed(name: &str, change: impl FnOnce(&mut Value)) -> Result<Sheet, Vec<String>> {
    let mut text = serde_json::to_value(whole(name)).unwrap();
    change(&mut text);
    read(&text.to_string()).map_err(|faults| {
        let told = faults.into_iter();
        told.map(|f| format!("{}: {}", f.place, f.message))
            .collect()
    })
}

fn check_at(text: &Value, key: &str) -> usize {
    let mut checks = text["checks"].as_array().unwrap().iter();
    checks.position(|c| c["key"] == key).unwrap()
}

#[test]
fn a_sheet_adds_what_its_kind_does_not_know_and_takes_off_what_does_not_matter() {
    let sheet = changed("tolvane-t5", |text| {
        let at = check_at(text, "second-side");
        text["checks"][at]["rests_on"] = json!(["end-cover"]);
        text["checks"][at]["not_on"] = json!(["main-ring2"]);
    });
    let sheet = sheet.unwrap();
    assert_eq!(
        on(&sheet, "second-side"),
        listed(&sheet, "main-2 end-cover")
    );
    let faults = changed("tolvane-t5", |text| {
        let at = check_at(text, "second-side");
        text["checks"][at]["rests_on"] = json!(["end-cover", "end-cover", "nowhere"]);
        text["checks"][at]["not_on"] = json!(["end-cover"]);
    });
    assert_eq!(
        faults.unwrap_err(),
        [
            "/checks/0/rests_on/1: “end-cover” is there already",
            "/checks/0/rests_on/2: no part or item has the key “nowhere”",
            "/checks/0/not_on/0: it rests on “end-cover”, or it does not: take it out of one of the two",
        ]
    );
}

/// Of a build that does not have a part nothing is said of it.
#[test]
fn what_a_build_does_not_have_it_does_not_rest_on() {
    let sheet = changed("skelt-m5", |text| {
        let at = check_at(text, "input-float");
        text["checks"][at]["rests_on"] = json!(["thrust-ring"]);
        let items = text["items"].as_array_mut().unwrap();
        items.push(json!({"key": "thrust-ring", "name": "Thrust ring", "kind": "ring", "only_in": ["post"]}));
        let steps = text["build"].as_array_mut().unwrap();
        let step = steps.iter_mut().find(|s| s["key"] == "shims-on");
        let puts = step.unwrap()["puts"].as_array_mut().unwrap();
        puts.push(json!("thrust-ring"));
    });
    let sheet = sheet.unwrap();
    let mut seen = BTreeSet::new();
    for variant in &sheet.variants {
        let built = sheet.as_built(&variant.key);
        let has = built.items.iter().any(|i| i.key == "thrust-ring");
        assert_eq!(on(&built, "input-float").contains("thrust-ring"), has);
        seen.insert(has);
    }
    assert_eq!(seen.len(), 2, "one build has them, another does not");
}
