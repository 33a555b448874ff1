//! Sheets and drawers as files: what is written is read back, and every fault is named by its place.

#![allow(clippy::too_many_lines)] // a table of cases is as long as it is

use anvil_arithmetic::stock::csv::{Row, changes, read, write};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::entry_errors::{Cause, Expected, question};
use anvil_arithmetic::units::length::Length;
use anvil_rules::drawing::shafts::rail;
use anvil_rules::sheet::{self, Sheet};
use proptest::prelude::*;
use serde_json::{Value, json};

fn minimal() -> Value {
    json!({
        "format": "dry-anvil-sheet", "version": 1, "key": "a-box", "name": "A box", "kind": "transfer_case", "unit": "thou",
        "shafts": [
            {"key": "out", "name": "Output", "parts": [
                {"key": "left", "name": "Left cone", "kind": "taper_bearing", "width": "20 mm"},
                {"key": "right", "name": "Right cone", "kind": "taper_bearing", "width": "0.75 in"}]},
            {"key": "idle", "name": "Idler", "parts": [{"key": "gear", "name": "Gear", "kind": "gear", "width": "30 mm"}]}],
        "families": [{"key": "f", "name": "Spacers", "kind": "spacer", "tolerance": "0.2 thou", "sizes": [{"thickness": "100 thou"}]}],
        "checks": [
            {"key": "preload", "name": "Preload", "kind": "bearing_preload", "between": ["left", "right"],
             "window": {"low": "-4 thou", "high": "0 in"}, "method": "known_shim",
             "set_by": {"family": "f", "effect": -1, "measured_with": "nothing"}},
            {"key": "torque", "name": "Turning torque", "kind": "turning_torque", "method": "turning_torque",
             "torque": {"high_n_m": 2.5}, "after": ["preload"]}],
        "build": [{"key": "one", "what": "Cones in", "hold": ["preload"]}, {"key": "two", "what": "Close", "needs": ["one"]}]
    })
}

fn faults(change: impl FnOnce(&mut Value)) -> Vec<(String, String)> {
    let mut value = minimal();
    change(&mut value);
    match sheet::read(&value.to_string()) {
        Ok(_) => vec![],
        Err(faults) => faults.into_iter().map(|f| (f.place, f.message)).collect(),
    }
}

#[test]
fn a_sheet_goes_out_as_it_came_in() {
    let sheet = sheet::read(&minimal().to_string()).unwrap();
    let again: Sheet = sheet::read(&serde_json::to_string(&sheet).unwrap()).unwrap();
    assert_eq!(sheet, again);
    assert_eq!(
        sheet.checks[0].working_window().unwrap().low(),
        Some(Length::from_nm(-101_600))
    );
    assert!(sheet::read(&format!("\u{feff}{}", minimal())).is_ok());
}

/// The demo's sheets, one for each kind of box, and the committed schema, which programs outside read.
#[test]
fn the_demo_sheets_fit_the_committed_schema() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let text = |path: &str| std::fs::read_to_string(root.join(path)).unwrap();
    let schema: Value = serde_json::from_str(&text("docs/sheet.schema.json")).unwrap();
    for (name, shafts, checks) in [
        ("tolvane-t5", 4, 8),
        ("ormhal-a4", 2, 5),
        ("skelt-m5", 2, 7),
        ("brannoch-r2", 3, 6),
    ] {
        let demo = text(&format!("demo/sheets/{name}.json"));
        let value = serde_json::from_str(&demo).unwrap();
        assert!(jsonschema::is_valid(&schema, &value), "{name}");
        let sheet = sheet::read(&demo).unwrap();
        assert_eq!((sheet.shafts.len(), sheet.checks.len()), (shafts, checks));
    }
}

#[test]
fn every_fault_is_named_by_its_place() {
    type Change = fn(&mut Value);
    let cases: [(Change, &str, &str); 43] = [
        (
            |v| v["format"] = json!("other"),
            "/format",
            "dry-anvil-sheet",
        ),
        (|v| v["version"] = json!(2), "/version", "newer program"),
        (
            |v| v["shafts"][0]["parts"][0]["width"] = json!("0 mm"),
            "/shafts/0/parts/0/width",
            "more than nothing",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["width"] = json!("-5 mm"),
            "/shafts/0/parts/0/width",
            "more than nothing",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["width"] = json!("20"),
            "/shafts/0/parts/0/width",
            "unit is missing",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["width"] = json!(20),
            "/shafts/0/parts/0/width",
            "this must be text",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["wdith"] = json!("20 mm"),
            "/shafts/0/parts/0",
            "wdith",
        ),
        (
            |v| v["shafts"][1]["parts"][0]["key"] = json!("left"),
            "/shafts/1/parts/0/key",
            "another part",
        ),
        (
            |v| v["checks"][0]["between"] = json!(["left", "gear"]),
            "/checks/0/between",
            "different shafts",
        ),
        (
            |v| v["checks"][0]["between"] = json!(["left", "none"]),
            "/checks/0/between/1",
            "no part",
        ),
        (
            |v| v["checks"][0]["window"] = json!({}),
            "/checks/0/window",
            "at least one limit",
        ),
        (
            |v| v["checks"][0]["window"] = json!({"low": "1 mm", "high": "0 mm"}),
            "/checks/0/window",
            "above the high",
        ),
        (
            |v| v["checks"][0]["stack"] = json!([{"what": "bore", "sign": 1, "length": "0 mm"}]),
            "/checks/0/stack/0/length",
            "more than nothing",
        ),
        (
            |v| {
                v["checks"][0]["stack"] =
                    json!([{"what": "bore", "sign": 1, "length": "9 mm", "tolerance": "0 mm"}]);
            },
            "/checks/0/stack/0/tolerance",
            "nothing made is exact",
        ),
        (
            |v| {
                v["checks"][0]["stack"] =
                    json!([{"what": "cone", "sign": -1, "length": "9 mm", "part": "none"}]);
            },
            "/checks/0/stack/0/part",
            "no part",
        ),
        (
            |v| v["checks"][0]["method"] = json!("stack_sum"),
            "/checks/0/stack",
            "needs its terms",
        ),
        (
            |v| v["checks"][0]["target"] = json!("centre"),
            "/checks/0/target",
            "a target is",
        ),
        (
            |v| v["checks"][0]["between"] = json!(null),
            "/checks/0/between",
            "null",
        ),
        (
            |v| v["checks"][0]["target"] = json!({"at": "1 mm"}),
            "/checks/0/target",
            "outside the window",
        ),
        (
            |v| v["checks"][0]["set_by"]["family"] = json!("none"),
            "/checks/0/set_by/family",
            "no family",
        ),
        (
            |v| v["checks"][0]["set_by"]["effect"] = json!(2),
            "/checks/0/set_by/effect",
            "one of 1, -1",
        ),
        (
            |v| v["checks"][1]["torque"] = json!({"low_n_m": 3.0, "high_n_m": 1.0}),
            "/checks/1/torque",
            "above the high",
        ),
        (
            |v| v["checks"][0]["after"] = json!(["torque"]),
            "/checks/0/after/0",
            "in a ring",
        ),
        (
            |v| v["checks"][0]["moved_by"] = json!([{"check": "preload", "effect": 1}]),
            "/checks/0/moved_by/0/check",
            "its own pieces",
        ),
        (
            |v| v["checks"][0]["moved_by"] = json!([{"check": "torque", "effect": 1}]),
            "/checks/0/moved_by/0/check",
            "no pieces set",
        ),
        (
            |v| v["checks"][1]["moved_by"] = json!([{"check": "none", "effect": -1}]),
            "/checks/1/moved_by/0/check",
            "no check has the key",
        ),
        (
            |v| {
                v["checks"][0]["chart"] = json!({"measured": "Depth", "resolution": "1 thou", "rows": [
                    {"from": "10 thou", "to": "20 thou", "piece": "80 thou"},
                    {"from": "25 thou", "to": "30 thou", "piece": "90 thou"}]});
            },
            "/checks/0/chart/rows/1",
            "a hole",
        ),
        (
            |v| {
                v["checks"][0]["hot"] = json!({
                    "case": [{"what": "Case", "material": "aluminium", "length": "300 mm"}],
                    "inside": [{"what": "Shaft", "material": "steel", "length": "30 mm"}]});
            },
            "/checks/0/hot",
            "span the same",
        ),
        (
            |v| v["build"][0]["needs"] = json!(["three"]),
            "/build/0/needs/0",
            "no step",
        ),
        (
            |v| v["build"][0]["hold"] = json!(["none"]),
            "/build/0/hold/0",
            "no check",
        ),
        (
            |v| {
                v["families"][0]["sizes"] =
                    json!([{"thickness": "1 in"}, {"thickness": "25.4 mm"}]);
            },
            "/families/0/sizes/1/thickness",
            "listed twice",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["kept_with"] = json!("left"),
            "/shafts/0/parts/0/kept_with",
            "name the other",
        ),
        (
            |v| v["shafts"][0]["parts"][0]["kept_with"] = json!("cup"),
            "/shafts/0/parts/0/kept_with",
            "no part has the key “cup”",
        ),
        (
            |v| v["checks"][0]["or_set_by"] = json!([{"family": "none", "fitted": "2 mm"}]),
            "/checks/0/or_set_by/0/family",
            "no family has the key “none”",
        ),
        (
            |v| v["checks"][0]["or_set_by"] = json!([{"family": "f", "fitted": "2 mm"}]),
            "/checks/0/or_set_by/0/family",
            "sets this check already",
        ),
        (
            |v| v["checks"][0]["or_set_by"] = json!([{"family": "f", "fitted": "0 mm"}]),
            "/checks/0/or_set_by/0/fitted",
            "more than nothing",
        ),
        (
            |v| v["checks"][1]["or_set_by"] = json!([{"family": "f", "fitted": "2 mm"}]),
            "/checks/1/or_set_by",
            "fill in set_by",
        ),
        (
            |v| v["checks"][0]["method"] = json!("one_by_one"),
            "/checks/0/pinions",
            "how many pinions",
        ),
        (
            |v| {
                v["checks"][0]["method"] = json!("one_by_one");
                v["checks"][0]["pinions"] = json!({"count": 4, "alike": "0 mm"});
            },
            "/checks/0/pinions/alike",
            "more than nothing",
        ),
        (
            |v| v["checks"][0]["method"] = json!("one_by_one"),
            "/checks/0/set_by",
            "washers of its own",
        ),
        (
            |v| v["checks"][0]["method"] = json!("selector_gaps"),
            "/checks/0/selector",
            "needs the gears",
        ),
        (
            |v| v["checks"][0]["selector"] = json!({"gears": [{"name": "second"}]}),
            "/checks/0/set_by",
            "moved from end to end",
        ),
        (
            |v| {
                v["checks"][0]["selector"] = json!({"gears": [{"name": "second"}]});
                v["checks"][0]["window"] = json!({"low": "0.1 mm", "high": "0.2 mm"});
            },
            "/checks/0/window/low",
            "leave the low limit out",
        ),
    ];
    for (change, place, says) in cases {
        let found = faults(change);
        assert!(
            found.iter().any(|(p, m)| p == place && m.contains(says)),
            "{place} {says}: {found:?}"
        );
    }
    let two = faults(|v| {
        v["checks"][0]["after"] = json!(["none"]);
        v["families"][0]["tolerance"] = json!("-1 thou");
    });
    assert_eq!(two.len(), 2, "{two:?}");
    let broken = sheet::read("{\n  \"format\": }").unwrap_err();
    assert_eq!(broken[0].place, "line 2, column 13");
}

#[test]
fn the_rail_is_to_scale_with_each_cut_opened() {
    let sheet = sheet::read(&minimal().to_string()).unwrap();
    let drawn = rail(&sheet);
    let [left, right] = &drawn.shafts[0].blocks[..] else {
        panic!("two parts")
    };
    assert_eq!(
        (left.to_nm - left.from_nm, right.to_nm - right.from_nm),
        (20_000_000, 19_050_000)
    );
    let cut = &drawn.shafts[0].cuts[0];
    assert_eq!((cut.from_nm, cut.to_nm), (left.to_nm, right.from_nm));
    assert!(cut.to_nm > cut.from_nm);
    assert_eq!(
        (drawn.shafts[1].cuts.len(), drawn.longest_nm),
        (0, drawn.shafts[0].length_nm)
    );
}

#[test]
fn slips_of_every_kind_are_questioned_and_honest_readings_are_not() {
    let nm = Length::from_nm;
    let expected = Expected {
        from: nm(100_000),
        to: nm(200_000),
    };
    let fellows = [nm(406_000), nm(407_000)];
    for (typed, meant, cause) in [
        (4_060_000, 406_000, Cause::OneDecimal),
        (40_600, 406_000, Cause::OneDecimal),
        (40_600_000, 406_000, Cause::TwoDecimals),
        (406, 406_000, Cause::ThreeDecimals),
        (10_312_400, 406_000, Cause::InchForMm),
        // 0.16 mm said for 0.016 in (common practice, no source), among readings of 0.41 mm.
        (160_000, 406_400, Cause::HundredthsForThou),
        (16_000_000, 406_400, Cause::ThouForMm),
    ] {
        let expected = if typed == 160_000 {
            Expected {
                from: nm(350_000),
                to: nm(500_000),
            }
        } else {
            expected
        };
        let slip = question(nm(typed), expected, &fellows).unwrap_or_else(|| panic!("{typed}"));
        assert_eq!((slip.meant_nm, slip.cause), (nm(meant), cause), "{typed}");
    }
    assert_eq!(question(nm(420_000), expected, &fellows), None);
    assert_eq!(question(nm(150_000), expected, &[]), None);
    assert_eq!(
        question(nm(310_000), expected, &[]),
        None,
        "a worn box reads loose, and that is no slip"
    );
    assert_eq!(question(Length::ZERO, expected, &fellows), None);
}

/// What a spreadsheet would run at a cell's start is written so that it does not, and is read back as it was.
#[test]
fn no_cell_is_run_by_a_spreadsheet() {
    for (place, written) in [
        ("=1+1", "'=1+1"),
        ("+cmd", "'+cmd"),
        ("-B3", "'-B3"),
        ("@sum", "'@sum"),
        ("\ttab", "'\ttab"),
        ("\rline", "'\rline"),
        ("'=1+1", "''=1+1"),
        ("-3", "-3"),
        ("'quoted", "'quoted"),
        ("A1 = B2", "A1 = B2"),
    ] {
        let row = Row {
            family: "c".into(),
            thickness_nm: Length::from_nm(1_250_000),
            grade: Grade::Marked,
            marked_nm: None,
            on_hand: 1,
            on_order: None,
            place: place.into(),
            discontinued: false,
        };
        let text = write(std::slice::from_ref(&row));
        let cells = csv::Reader::from_reader(text.as_bytes())
            .records()
            .next()
            .unwrap()
            .unwrap();
        assert_eq!(&cells[3], written);
        assert_eq!(read(&text).unwrap(), [row]);
    }
}

/// A file of more rows than any shop has sizes is refused in one line, however wrong it is.
#[test]
fn a_file_has_an_end() {
    let file = |rows: usize| {
        let lines = (1..=rows).map(|i| format!("c,{}.{:03} mm,1\n", 1 + i / 1_000, i % 1_000));
        format!("family,thickness,on_hand\n{}", lines.collect::<String>())
    };
    assert_eq!(read(&file(10_000)).unwrap().len(), 10_000);
    let refused = read(&file(10_001)).unwrap_err();
    assert_eq!(refused.len(), 1);
    assert!(
        refused[0].message.contains("up to 10000 rows"),
        "{}",
        refused[0].message
    );
    let wrong = "family,thickness,on_hand\n".to_owned() + &"c,thick,many\n".repeat(50_000);
    assert_eq!(read(&wrong).unwrap_err().len(), 1);
}

proptest! {
    #[test]
    fn drawers_go_out_and_come_back(rows in prop::collection::btree_map(
        ("[a-z][a-z0-9-]{0,8}", 1_i64..9_000_000_000), (0..100_000, "[A-Za-z0-9 ,;\"]{0,8}", any::<bool>(), 0..3_usize), 1..20)) {
        let rows: Vec<Row> = rows.into_iter().map(|((family, nm), (on_hand, place, discontinued, grade))| Row {
            family, thickness_nm: Length::from_nm(nm), on_hand, place: place.trim().to_owned(), discontinued,
            grade: [Grade::Marked, Grade::Miked, Grade::Used][grade],
            marked_nm: (grade > 0).then(|| Length::from_nm(nm + 1)),
            on_order: (grade == 0).then_some(on_hand / 2),
        }).collect();
        // A place may hold the other delimiters: the headings decide.
        prop_assert_eq!(read(&write(&rows)).unwrap(), rows);
    }

    #[test]
    fn no_file_at_all_panics(text in "\\PC{0,200}", csv in "family[,;]thickness[,;]on_hand\n([a-z0-9 .,;\"-]{0,20}\n){0,5}") {
        let _ = sheet::read(&text);
        let (a, b) = (read(&text), read(&csv));
        prop_assert!(a.is_err() || b.is_ok() || b.is_err());
    }

    #[test]
    fn what_a_file_changes_and_what_it_leaves_make_the_file(
        now in drawer_rows(), file in drawer_rows(),
    ) {
        let found = changes(&now, &file);
        for row in &file {
            let change = found.iter().find(|c| c.is == row);
            let was = now.iter().find(|n| {
                (&n.family, n.thickness_nm, n.grade) == (&row.family, row.thickness_nm, row.grade)
            });
            match (change, was) {
                (Some(change), was) => prop_assert_eq!(change.was, was),
                // What is left alone is there already, just so.
                (None, Some(was)) => {
                    prop_assert_eq!((was.on_hand, &was.place), (row.on_hand, &row.place));
                    prop_assert_eq!(was.discontinued, row.discontinued);
                }
                (None, None) => prop_assert!(false, "{row:?} is new and not told of"),
            }
        }
        prop_assert!(changes(&file, &file).is_empty());
    }
}

/// A few rows over few sizes, so that two drawers share some of them.
fn drawer_rows() -> impl Strategy<Value = Vec<Row>> {
    let row = (0..3_i64, 0..3_usize, 0..2_i32, any::<bool>());
    prop::collection::vec(row, 0..8).prop_map(|rows| {
        let mut drawer: Vec<Row> = Vec::new();
        for (size, grade, on_hand, discontinued) in rows {
            let row = Row {
                family: "c".into(),
                thickness_nm: Length::from_nm(1_000_000 + size * 50_000),
                grade: [Grade::Marked, Grade::Miked, Grade::Used][grade],
                marked_nm: None,
                on_hand,
                on_order: None,
                place: if discontinued { "A1" } else { "" }.into(),
                discontinued,
            };
            let key = |r: &Row| (r.thickness_nm, r.grade);
            if drawer.iter().all(|r| key(r) != key(&row)) {
                drawer.push(row);
            }
        }
        drawer
    })
}
