//! One sheet for several builds: what is in each, and that every fault of one is named at its place in the whole.

use anvil_rules::job::check::revision::{Beside, OnSheet};
use anvil_rules::sheet::{Fault, Sheet, checked, differences, doubts, json_schema, read};
use serde_json::{Value, json};
use std::sync::Arc;

use super::common::{BOXES, blank, measured, sheet, whole};

fn file(name: &str) -> Value {
    serde_json::to_value(whole(name)).unwrap()
}

fn faults(sheet: &Value) -> Vec<Fault> {
    read(&sheet.to_string()).err().unwrap_or_default()
}

fn at<'f>(list: &'f mut Value, key: &str) -> &'f mut Value {
    let list = list.as_array_mut().unwrap();
    list.iter_mut().find(|e| e["key"] == key).unwrap()
}

#[test]
fn each_build_has_its_own_teeth_plates_and_windows() {
    let van = whole("tolvane-t5");
    let teeth = |build: &str, part: &str| {
        let built = van.as_built(build);
        let parts: Vec<_> = built
            .shafts
            .iter()
            .flat_map(|s| &s.parts)
            .cloned()
            .collect();
        let of: Vec<_> = parts.iter().filter(|p| p.key == part).collect();
        assert_eq!(of.len(), 1, "{part} of {build}");
        of[0].teeth
    };
    assert_eq!(teeth("long", "main-pinion"), Some(17));
    assert_eq!(teeth("short", "main-pinion"), Some(15));
    assert_eq!(teeth("short", "diff-ring"), Some(69));
    let low = |build: &str| {
        let built = van.as_built(build);
        let window = built.check("diff-preload").unwrap().window.clone().unwrap();
        window.low.unwrap().text().to_owned()
    };
    assert_eq!(
        (low("long"), low("short")),
        ("-0.13 mm".into(), "-0.11 mm".into())
    );
    // A build that is not known is the usual one, and so is the sheet of a build that was made already.
    assert_eq!(van.as_built(""), van.as_built("long"));
    assert_eq!(van.as_built("short").as_built(""), van.as_built("short"));
    let five = whole("ormhal-a4").as_built("early");
    assert_eq!(five.pack_of("direct-pack").unwrap().frictions, Some(5));
}

#[test]
fn every_build_of_every_box_is_a_sound_sheet_without_doubts() {
    for name in BOXES {
        let all = whole(name);
        for build in &all.variants {
            let built = all.as_built(&build.key);
            assert_eq!(built.variants, std::slice::from_ref(build));
            let open: Vec<_> = doubts(&built)
                .into_iter()
                .filter(|d| d.why.is_none())
                .collect();
            assert_eq!(open, [], "{name}, {}", build.key);
            assert!(checked(built).is_ok(), "{name}, {}", build.key);
        }
    }
}

#[test]
fn what_a_build_does_not_have_is_not_named_in_it() {
    let mut van = file("tolvane-t5");
    at(&mut van["items"], "magnet")["only_in"] = json!(["long"]);
    let all: Sheet = read(&van.to_string()).unwrap();
    let step = |build: &str| {
        let built = all.as_built(build);
        built
            .build
            .iter()
            .filter(|s| s.puts.contains(&"magnet".to_owned()))
            .count()
    };
    assert_eq!((step("long"), step("short")), (1, 0));
    assert_eq!(all.as_built("short").name_of_part("magnet"), None);
    // A step that one build does not have is waited for through: what it waited for comes before.
    let mut bike = file("skelt-m5");
    let steps = bike["build"].as_array().unwrap().clone();
    let (b, middle) = steps
        .iter()
        .enumerate()
        .find(|(_, s)| s["needs"].as_array().is_some_and(|n| !n.is_empty()) && s["puts"].is_null())
        .unwrap();
    let after = steps.iter().position(|s| {
        s["needs"]
            .as_array()
            .is_some_and(|n| n.contains(&middle["key"]))
    });
    if let Some(after) = after {
        bike["build"][b]["not_in"] = json!(["road"]);
        let road = serde_json::from_value::<Sheet>(bike)
            .unwrap()
            .as_built("road");
        let key = steps[after]["key"].as_str().unwrap();
        let needs = &road.build.iter().find(|s| s.key == key).unwrap().needs;
        for before in middle["needs"].as_array().unwrap() {
            assert!(
                needs.iter().any(|n| before == n),
                "{key} waits for {before}"
            );
        }
    } else {
        panic!("no step of the box is waited for and puts nothing in");
    }
}

#[test]
fn a_fault_of_one_build_is_named_at_its_place_in_the_whole_sheet() {
    // The mate is there in one build only.
    let mut van = file("tolvane-t5");
    let ring = van["shafts"][3]["parts"].as_array().unwrap();
    let at_69 = ring.iter().position(|p| p["teeth"] == 69).unwrap();
    van["shafts"][3]["parts"][at_69]["key"] = json!("other-ring");
    let found = faults(&van);
    assert!(!found.is_empty());
    for fault in &found {
        assert!(
            fault.message.starts_with("in 15-tooth final drive: "),
            "{fault:?}"
        );
    }
    let of_gears = found.iter().filter(|f| f.place.starts_with("/gears/"));
    assert!(of_gears.count() > 0, "{found:?}");

    // A place after one that the build leaves out is counted in the whole.
    let mut auto = file("ormhal-a4");
    let packs = auto["packs"].as_array().unwrap();
    let early = packs
        .iter()
        .position(|p| p["frictions"] == 5 && p["check"] == "direct-pack")
        .unwrap();
    auto["packs"][early]["check"] = json!("no-such");
    let found = faults(&auto);
    assert!(
        found
            .iter()
            .any(|f| f.place == format!("/packs/{early}/check")),
        "{found:?}"
    );

    for (change, place, says) in [
        (
            (&|v: &mut Value| at(&mut v["items"], "magnet")["only_in"] = json!(["tall"]))
                as &dyn Fn(&mut Value),
            "/items/0/only_in/0",
            "the sheet has no variant “tall”",
        ),
        (
            &|v| at(&mut v["items"], "magnet")["not_in"] = json!(["long", "short"]),
            "/items/0",
            "in none of the variants",
        ),
        (
            &|v| {
                for part in v["shafts"][2]["parts"].as_array_mut().unwrap() {
                    part["only_in"] = json!(["long"]);
                }
            },
            "/shafts/2/parts",
            "in 15-tooth final drive nothing is on this shaft",
        ),
        (
            &|v| v["variants"][1]["key"] = json!("long"),
            "/variants/1/key",
            "keys must differ",
        ),
        (
            &|v| v["identify"][1]["answers"][0] = json!({"text": "24"}),
            "/identify/1/answers/0/count",
            "whole number",
        ),
        (
            &|v| {
                v["identify"][3]["answers"][0] = json!({"at_least": "178 mm", "at_most": "177 mm"});
            },
            "/identify/3/answers/0/at_least",
            "swap them",
        ),
        (
            &|v| {
                at(&mut v["checks"], "diff-preload")["windows"][0]["only_in"] =
                    json!(["short", "short"]);
            },
            "/checks/3/windows/0/only_in/1",
            "named twice",
        ),
    ] {
        let mut van = file("tolvane-t5");
        change(&mut van);
        let found = faults(&van);
        assert!(
            found
                .iter()
                .any(|f| f.place == place && f.message.contains(says)),
            "{place}: {found:?}"
        );
    }
}

#[test]
fn the_schema_knows_builds_and_questions() {
    let schema = json_schema();
    assert!(schema["properties"]["variants"].is_object());
    assert!(schema["properties"]["identify"].is_object());
}

/// The van's two builds, side by side.
fn moved(records: Vec<anvil_rules::job::check::record::Record>) -> Beside {
    let van = whole("tolvane-t5");
    let on = |variant: &str| OnSheet {
        sheet_key: "tolvane-t5".into(),
        revision: 1,
        variant: variant.into(),
    };
    Beside {
        from: on("long"),
        to: on("short"),
        was: Arc::new(van.as_built("long")),
        now: Arc::new(van.as_built("short")),
        records,
    }
}

#[test]
fn a_job_moved_to_another_build_is_judged_by_that() {
    let signed = super::common::signed(measured("diff-preload", -60_000));
    let other = super::common::signed(measured("main-float", 190_000));
    let mut records = vec![signed, other];
    let van = sheet("tolvane-t5");
    let rest = van
        .checks
        .iter()
        .filter(|c| !["diff-preload", "main-float"].contains(&c.key.as_str()));
    records.extend(rest.map(|c| blank(&c.key)));
    let beside = moved(records);
    let looked = beside.revising();
    assert_eq!(looked.to_words, "“15-tooth final drive”");
    assert_eq!(looked.reopened, ["Differential bearing preload"]);
    assert_eq!((looked.added, looked.gone), (vec![], vec![]));
    let places: Vec<_> = looked
        .differences
        .iter()
        .map(|d| d.place.as_str())
        .collect();
    assert!(
        places
            .iter()
            .any(|p| p.contains("diff") && p.contains("teeth") || p.contains("ring")),
        "{places:?}"
    );
    assert_eq!(differences(&beside.was, &beside.was), []);
    assert_eq!(beside.hindered(), Vec::<String>::new());
}

#[test]
fn a_job_moves_to_another_sheet_where_nothing_of_the_old_is_on_record() {
    let (van, bike) = (sheet("tolvane-t5"), sheet("skelt-m5"));
    let on = |key: &str| OnSheet {
        sheet_key: key.into(),
        revision: 1,
        variant: String::new(),
    };
    let beside = |records| Beside {
        from: on("tolvane-t5"),
        to: on("skelt-m5"),
        was: Arc::new(van.clone()),
        now: Arc::new(bike.clone()),
        records,
    };
    let blanks = || van.checks.iter().map(|c| blank(&c.key)).collect::<Vec<_>>();
    assert_eq!(beside(blanks()).hindered(), Vec::<String>::new());
    let mut records = blanks();
    let at = records
        .iter()
        .position(|r| r.check_key == "main-float")
        .unwrap();
    records[at] = measured("main-float", 190_000);
    let hindered = beside(records).hindered();
    assert_eq!(hindered.len(), 1);
    assert!(
        hindered[0].contains("the sheet “Skelt M5 motorcycle gearbox”"),
        "{hindered:?}"
    );
}
