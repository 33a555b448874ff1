//! The shape of a sheet, held to a general JSON Schema validator: the same files are right and wrong, and
//! wrong in the same places.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::units::written::{LENGTH_FORMAT, Written};
use anvil_rules::sheet::{json_schema, read};
use jsonschema::Validator;
use serde_json::{Value, json};

/// The keywords that the core knows, and those that only describe.
const KNOWN: [&str; 24] = [
    "$defs",
    "$ref",
    "$schema",
    "additionalProperties",
    "const",
    "description",
    "enum",
    "examples",
    "format",
    "items",
    "maxItems",
    "maxLength",
    "maximum",
    "minItems",
    "minLength",
    "minimum",
    "oneOf",
    "pattern",
    "properties",
    "required",
    "title",
    "type",
    "default",
    "anyOf",
];

fn validator() -> Validator {
    jsonschema::options()
        .with_format(LENGTH_FORMAT, |text: &str| {
            Written::try_from(text.to_owned()).is_ok()
        })
        .should_validate_formats(true)
        .build(&json_schema())
        .unwrap()
}

fn demo_sheets() -> Vec<Value> {
    let dir = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/sheets");
    let files = std::fs::read_dir(dir).unwrap();
    files
        .map(|f| {
            serde_json::from_str(&std::fs::read_to_string(f.unwrap().path()).unwrap()).unwrap()
        })
        .collect()
}

/// Every place of a value, as JSON Pointers, one of each shape: list entries after the second are like it.
fn places(value: &Value, at: &str, found: &mut Vec<String>) {
    found.push(at.to_owned());
    match value {
        Value::Object(fields) => {
            for (name, value) in fields {
                places(value, &format!("{at}/{name}"), found);
            }
        }
        Value::Array(items) => {
            for (i, item) in items.iter().enumerate().take(2) {
                places(item, &format!("{at}/{i}"), found);
            }
        }
        _ => {}
    }
}

/// A place with its list entries taken for one.
fn shape_of(place: &str) -> String {
    let is_number = |part: &str| part.parse::<usize>().is_ok();
    let parts = place.split('/');
    let parts: Vec<&str> = parts.map(|p| if is_number(p) { "*" } else { p }).collect();
    parts.join("/")
}

fn wrong_places(sheet: &Value) -> BTreeSet<String> {
    match read(&sheet.to_string()) {
        Ok(_) => BTreeSet::new(),
        Err(faults) => faults.into_iter().map(|f| f.place).collect(),
    }
}

#[test]
fn the_schema_uses_no_keyword_that_the_core_does_not_know() {
    fn look(value: &Value, names: bool, unknown: &mut BTreeSet<String>) {
        match value {
            Value::Object(fields) => {
                for (name, value) in fields {
                    if !names && !KNOWN.contains(&name.as_str()) {
                        unknown.insert(name.clone());
                    }
                    look(
                        value,
                        !names && matches!(name.as_str(), "properties" | "$defs"),
                        unknown,
                    );
                }
            }
            Value::Array(items) => items.iter().for_each(|i| look(i, false, unknown)),
            _ => {}
        }
    }
    let schema = json_schema();
    let mut unknown = BTreeSet::new();
    look(&schema, false, &mut unknown);
    assert_eq!(unknown, BTreeSet::new());
    let text = schema.to_string();
    assert!(!text.contains("anyOf"), "a choice of shapes is not read");
    for part in text.split("\"pattern\":\"").skip(1) {
        assert!(
            part.starts_with("^[a-z0-9][a-z0-9-]{0,39}$\""),
            "only keys have a pattern"
        );
    }
}

#[test]
fn faults_lie_where_a_general_validator_finds_them() {
    let validator = validator();
    let instead = [
        json!(null),
        json!(-1),
        json!(0.5),
        json!(1e9),
        json!(true),
        json!(""),
        json!("No key!"),
        json!("0.10 mm"),
        json!("6 furlongs"),
        json!([]),
        json!({}),
        json!({"odd": 1}),
        json!({"at": "1 mm"}),
        json!({"between": ["1 mm"]}),
        json!("x".repeat(200)),
    ];
    let mut wrong = 0;
    let mut seen: BTreeMap<String, u32> = BTreeMap::new();
    for sheet in demo_sheets() {
        assert_eq!(wrong_places(&sheet), BTreeSet::new());
        let mut all = Vec::new();
        places(&sheet, "", &mut all);
        all.retain(|p| !matches!(p.as_str(), "" | "/format" | "/version"));
        // Of each shape two, whichever sheet they are of.
        all.retain(|p| {
            let of_shape = seen.entry(shape_of(p)).or_default();
            *of_shape += 1;
            *of_shape <= 2
        });
        for place in all {
            let mut tried: Vec<Value> = instead
                .iter()
                .map(|instead| {
                    let mut sheet = sheet.clone();
                    *sheet.pointer_mut(&place).unwrap() = instead.clone();
                    sheet
                })
                .collect();
            // The same left out, and something beside it that is not known.
            let (above, name) = place.rsplit_once('/').unwrap();
            for odd in [false, true] {
                let mut sheet = sheet.clone();
                if let Some(Value::Object(fields)) = sheet.pointer_mut(above) {
                    fields.remove(name);
                    if odd {
                        fields.insert(format!("{name}_"), json!(1));
                    }
                    tried.push(sheet);
                }
            }
            for sheet in tried {
                let theirs: BTreeSet<String> = validator
                    .iter_errors(&sheet)
                    .map(|e| match e.instance_path().to_string() {
                        place if place.is_empty() => "/".into(),
                        place => place,
                    })
                    .collect();
                if theirs.is_empty() {
                    // Right by the schema; what is wrong beyond it is tested elsewhere.
                    continue;
                }
                wrong += 1;
                assert_eq!(wrong_places(&sheet), theirs, "at {place}");
            }
        }
    }
    assert!(wrong > 5_000, "only {wrong} wrong sheets were looked at");
}
