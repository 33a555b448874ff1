//! The description of the interface: what it promises, and that it tells what is served.

use std::collections::BTreeSet;

use dry_anvil::api::description::{is_text, sent_schemas};
use dry_anvil::api::{TABLE, openapi_json, routes};
use serde_json::Value;

fn described() -> Value {
    serde_json::from_str(&openapi_json()).unwrap()
}

/// Every place of a value that an address in its description leads to.
fn texts_without_a_length(place: &str, value: &Value, found: &mut Vec<String>) {
    if let Some(schema) = value.as_object() {
        if is_text(schema) && !schema.contains_key("maxLength") {
            found.push(place.to_owned());
        }
        for (key, value) in schema {
            texts_without_a_length(&format!("{place}/{key}"), value, found);
        }
    }
    for (number, value) in value.as_array().into_iter().flatten().enumerate() {
        texts_without_a_length(&format!("{place}/{number}"), value, found);
    }
}

#[test]
fn every_text_that_is_sent_has_a_length() {
    let description = described();
    let mut without = Vec::new();
    let sent = sent_schemas(&description);
    assert!(sent.len() > 50, "{}", sent.len());
    for name in sent {
        texts_without_a_length(
            &name,
            &description["components"]["schemas"][&name],
            &mut without,
        );
    }
    assert!(without.is_empty(), "{without:#?}");
}

#[test]
fn no_schema_asks_for_what_another_part_of_it_refuses() {
    let description = described();
    let schemas = &description["components"]["schemas"];
    let travel = &schemas["ReadingInput"]["oneOf"][0];
    assert_eq!(travel["properties"]["kind"]["enum"][0], "travel");
    assert!(travel["properties"]["travel"].is_object());
    assert_eq!(travel["additionalProperties"], false);
    for (name, schema) in schemas.as_object().unwrap() {
        let parts = schema["allOf"].as_array().into_iter().flatten();
        for part in parts.filter_map(|p| p["$ref"].as_str()) {
            let other = description.pointer(&part[1..]).unwrap();
            assert!(
                other.get("additionalProperties").is_none(),
                "{name}: {part}"
            );
        }
    }
}

#[test]
fn what_goes_wrong_is_a_problem_everywhere() {
    let description = described();
    for (path, verbs) in description["paths"].as_object().unwrap() {
        for (verb, operation) in verbs.as_object().unwrap() {
            let answers = operation["responses"].as_object().unwrap();
            for code in ["403", "404", "422", "500", "503"] {
                assert!(answers.contains_key(code), "{verb} {path}: {code}");
            }
            assert_eq!(
                answers.contains_key("400"),
                operation.get("requestBody").is_some(),
                "{verb} {path}"
            );
            for (code, answer) in answers.iter().filter(|(code, _)| code.as_str() >= "4") {
                let told = format!("/components/responses/{code}");
                assert_eq!(answer["$ref"], format!("#{told}"), "{verb} {path}");
                let content = &description.pointer(&told).unwrap()["content"];
                let kinds: Vec<&String> = content.as_object().unwrap().keys().collect();
                assert_eq!(kinds, ["application/problem+json"], "{verb} {path}: {code}");
            }
        }
    }
}

/// Lines of the table: verb and address.
type Lines = BTreeSet<(String, String)>;

#[test]
fn the_table_is_what_is_served_and_what_is_described() {
    let table: Lines = TABLE
        .iter()
        .map(|(v, p)| ((*v).into(), (*p).into()))
        .collect();
    assert_eq!(table.len(), TABLE.len(), "a line is there twice");
    let served: Lines = routes()
        .iter()
        .map(|r| {
            let path = r.uri.path().replace('<', "{").replace('>', "}");
            (r.method.to_string(), path)
        })
        .collect();
    assert_eq!(served, table);
    let json = serde_json::from_str::<Value>(&openapi_json()).unwrap();
    let paths = json["paths"].as_object().unwrap();
    let told: Lines = paths
        .iter()
        .flat_map(|(path, verbs)| {
            let path = path.strip_prefix("/api").unwrap();
            let verbs = verbs.as_object().unwrap().keys();
            verbs.map(move |v| (v.to_uppercase(), path.to_owned()))
        })
        .collect();
    assert_eq!(told, table);
}
