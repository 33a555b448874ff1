//! The shape of a sheet: what its JSON Schema says, read off the schema itself, so that nothing is said twice.
//!
//! Only the keywords that the schema of a sheet uses are known here (JSON Schema 2020-12); a test holds the
//! schema to them, and the faults found to those of a general validator.

use std::sync::LazyLock;

use anvil_arithmetic::units::written::{LENGTH_FORMAT, Written};
use serde_json::{Map, Value};

use super::{Fault, Kind, Placed};
use crate::sheet::json_schema;

/// Made once: to make it takes longer than to look through any sheet.
static SCHEMA: LazyLock<Value> = LazyLock::new(json_schema);

/// The faults of shape, in the order of the schema's own fields.
pub(crate) fn schema_faults(value: &Value) -> Vec<Placed> {
    let mut faults = Vec::new();
    Looker {
        faults: &mut faults,
    }
    .look(&SCHEMA, value, "");
    faults
}

struct Looker<'f> {
    faults: &'f mut Vec<Placed>,
}

impl Looker<'_> {
    fn add(&mut self, place: &str, kind: Kind, message: impl Into<String>) {
        let place = if place.is_empty() { "/" } else { place };
        self.faults.push(Placed {
            fault: Fault {
                place: place.to_owned(),
                message: message.into(),
            },
            kind,
        });
    }

    fn look(&mut self, schema: &Value, value: &Value, place: &str) {
        let schema = resolved(schema);
        let Value::Object(asked) = schema else {
            return;
        };
        if let Some(wanted) = asked.get("type").and_then(Value::as_str)
            && !is_of(wanted, value)
        {
            let message = if value.is_null() {
                "null is not written in a sheet: leave it out, or fill it in".to_owned()
            } else {
                format!("this must be {}", called(wanted))
            };
            return self.add(place, Kind::Other, message);
        }
        if let Some(options) = asked.get("oneOf").and_then(Value::as_array) {
            self.one_of(options, value, place);
        }
        if let Some(options) = asked.get("enum").and_then(Value::as_array)
            && !options.contains(value)
        {
            self.add(
                place,
                Kind::Other,
                format!("this must be one of {}", listed(options)),
            );
        }
        match value {
            Value::Object(fields) => self.object(asked, fields, place),
            Value::Array(items) => self.array(asked, items, place),
            Value::String(text) => self.text(asked, text, place),
            Value::Number(number) => self.number(asked, number.as_f64().unwrap_or(f64::NAN), place),
            Value::Null | Value::Bool(_) => {}
        }
    }

    fn object(&mut self, asked: &Map<String, Value>, fields: &Map<String, Value>, place: &str) {
        let known = asked.get("properties").and_then(Value::as_object);
        for needed in asked
            .get("required")
            .and_then(Value::as_array)
            .into_iter()
            .flatten()
        {
            if let Some(name) = needed.as_str().filter(|n| !fields.contains_key(*n)) {
                self.add(
                    place,
                    Kind::Other,
                    format!("“{name}” is missing here: fill it in"),
                );
            }
        }
        for (name, value) in fields {
            if let Some(schema) = known.and_then(|k| k.get(name)) {
                let name = name.replace('~', "~0").replace('/', "~1");
                self.look(schema, value, &format!("{place}/{name}"));
            } else if asked.get("additionalProperties") == Some(&Value::Bool(false)) {
                self.add(
                    place,
                    Kind::Other,
                    format!("a sheet has no “{name}” here: check the spelling, or take it out"),
                );
            }
        }
    }

    fn array(&mut self, asked: &Map<String, Value>, items: &[Value], place: &str) {
        let limit = |name: &str| asked.get(name).and_then(Value::as_u64);
        let count = items.len() as u64;
        if let Some(limit) = limit("minItems").filter(|l| count < *l) {
            self.add(
                place,
                Kind::Other,
                format!("at least {limit} is needed here"),
            );
        }
        if let Some(limit) = limit("maxItems").filter(|l| count > *l) {
            // What is in them is not looked at: that could go on for ever.
            return self.add(
                place,
                Kind::TooMany,
                format!("there may be up to {limit} here"),
            );
        }
        if let Some(schema) = asked.get("items") {
            for (i, item) in items.iter().enumerate() {
                self.look(schema, item, &format!("{place}/{i}"));
            }
        }
    }

    fn text(&mut self, asked: &Map<String, Value>, text: &str, place: &str) {
        let limit = |name: &str| asked.get(name).and_then(Value::as_u64);
        let count = text.chars().count() as u64;
        if limit("minLength").is_some_and(|l| count < l) {
            self.add(place, Kind::Empty, "this is empty: say what it is called");
        }
        if let Some(limit) = limit("maxLength").filter(|l| count > *l) {
            self.add(
                place,
                Kind::Other,
                format!("this may have up to {limit} characters: shorten it"),
            );
        }
        if asked.contains_key("pattern") && !is_key(text) {
            self.add(
                place,
                Kind::Key,
                "a key has from 1 to 40 small letters, digits and hyphens, and begins with a letter or digit",
            );
        }
        if asked.get("format").is_some_and(|f| f == LENGTH_FORMAT)
            && let Err(fault) = Written::try_from(text.to_owned())
        {
            self.add(place, Kind::Length, fault.to_string());
        }
    }

    fn number(&mut self, asked: &Map<String, Value>, number: f64, place: &str) {
        let limit = |name: &str| asked.get(name).and_then(Value::as_f64);
        if let Some(limit) = limit("minimum").filter(|l| number < *l) {
            self.add(place, Kind::Other, format!("this must be {limit} or more"));
        }
        if let Some(limit) = limit("maximum").filter(|l| number > *l) {
            self.add(place, Kind::Other, format!("this must be {limit} or less"));
        }
    }

    /// Exactly one of the options fits; they exclude each other, so the first that fits will do.
    fn one_of(&mut self, options: &[Value], value: &Value, place: &str) {
        let fits = |option: &Value| {
            let mut faults = Vec::new();
            Looker {
                faults: &mut faults,
            }
            .look(option, value, place);
            let constant = resolved(option).get("const");
            faults.is_empty() && constant.is_none_or(|c| c == value)
        };
        if options.iter().any(fits) {
            return;
        }
        let words: Vec<Value> = options
            .iter()
            .filter_map(|o| resolved(o).get("const").cloned())
            .collect();
        let message = if place.ends_with("/target") {
            "a target is \"middle\", \"tight\", \"loose\", {\"at\": a length} or {\"between\": [two lengths]}".to_owned()
        } else {
            format!("this must be one of {}", listed(&words))
        };
        self.add(place, Kind::Other, message);
    }
}

/// What a `$ref` stands for.
fn resolved(schema: &Value) -> &Value {
    let name = schema.get("$ref").and_then(Value::as_str);
    match name.and_then(|n| SCHEMA.pointer(n.trim_start_matches('#'))) {
        Some(meant) => meant,
        None => schema,
    }
}

fn is_of(kind: &str, value: &Value) -> bool {
    match kind {
        "object" => value.is_object(),
        "array" => value.is_array(),
        "string" => value.is_string(),
        "boolean" => value.is_boolean(),
        "number" => value.is_number(),
        // A whole number may be written with a point (JSON Schema 2020-12, 4.2.3).
        "integer" => value.as_f64().is_some_and(|n| n.fract() == 0.0),
        _ => true,
    }
}

fn called(kind: &str) -> &'static str {
    match kind {
        "object" => "a group of fields",
        "array" => "a list",
        "string" => "text",
        "boolean" => "true or false",
        "integer" => "a whole number",
        _ => "a number",
    }
}

fn listed(words: &[Value]) -> String {
    let words: Vec<String> = words.iter().map(ToString::to_string).collect();
    words.join(", ")
}

/// The one pattern that a sheet's schema has: `^[a-z0-9][a-z0-9-]{0,39}$`.
fn is_key(text: &str) -> bool {
    let plain = |b: u8| b.is_ascii_lowercase() || b.is_ascii_digit();
    (1..=40).contains(&text.len())
        && text.bytes().all(|b| plain(b) || b == b'-')
        && text.bytes().next().is_some_and(plain)
}
