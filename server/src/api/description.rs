//! The description of the interface, with what holds of every operation: how long a text may be, and what can go wrong.

use anvil_rules::texts::longest;
use rocket::http::Status;
use serde_json::{Map, Value, json};

/// Adds to a description what holds of every operation.
pub fn complete(mut description: Value) -> Value {
    put_together(&mut description);
    widen(&mut description);
    let sent = sent_schemas(&description);
    description["components"]["responses"] = answers();
    if let Some(schemas) = description
        .pointer_mut("/components/schemas")
        .and_then(Value::as_object_mut)
    {
        for (name, schema) in schemas {
            if sent.contains(name) {
                bound(schema);
            }
        }
    }
    let paths = description["paths"].as_object_mut();
    let operations = paths
        .into_iter()
        .flatten()
        .filter_map(|(_, verbs)| verbs.as_object_mut())
        .flatten();
    for (_, operation) in operations {
        let body = operation.get("requestBody").is_some();
        let parameters = operation
            .get_mut("parameters")
            .and_then(Value::as_array_mut);
        let (mut key, mut seen) = (false, false);
        for parameter in parameters.into_iter().flatten() {
            let name = parameter["name"].as_str().unwrap_or_default().to_owned();
            key |= name == "Idempotency-Key";
            seen |= name == "If-Match";
            bound_parameter(&name, &mut parameter["schema"]);
        }
        let problems = problems(body, key, seen);
        add_problems(&mut operation["responses"], &problems);
    }
    description
}

/// What can go wrong with an operation, by what it takes.
fn problems(body: bool, key: bool, seen: bool) -> Vec<u16> {
    let mut all = vec![403, 404, 422, 500, 503];
    if body {
        all.extend([400, 408, 413]);
    }
    if key {
        all.extend([409, 428]);
    }
    if seen {
        all.extend([412, 428]);
    }
    all
}

fn add_problems(responses: &mut Value, codes: &[u16]) {
    let Some(responses) = responses.as_object_mut() else {
        return;
    };
    let stated = responses
        .keys()
        .filter_map(|code| code.parse().ok())
        .filter(|code| PROBLEMS.contains(code));
    let mut all: Vec<u16> = stated.chain(codes.iter().copied()).collect();
    all.sort_unstable();
    all.dedup();
    for code in all {
        let same = json!({"$ref": format!("#/components/responses/{code}")});
        responses.remove(&code.to_string());
        responses.insert(code.to_string(), same);
    }
}

/// Every status of a problem.
const PROBLEMS: [u16; 11] = [400, 403, 404, 408, 409, 412, 413, 422, 428, 500, 503];

/// What is answered with a problem of each status.
fn answers() -> Value {
    let answer = |code: u16| {
        let reason = Status::from_code(code).and_then(|s| s.reason());
        let problem = json!({
            "description": reason.unwrap_or_default(),
            "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
        });
        (code.to_string(), problem)
    };
    PROBLEMS
        .into_iter()
        .map(answer)
        .collect::<Map<_, _>>()
        .into()
}

/// The names of the schemas that are sent to the server.
pub fn sent_schemas(description: &Value) -> Vec<String> {
    let mut open = Vec::new();
    let paths = description["paths"].as_object();
    for operation in paths
        .into_iter()
        .flatten()
        .filter_map(|(_, verbs)| verbs.as_object())
        .flatten()
    {
        references(&operation.1["requestBody"], &mut open);
    }
    let mut all: Vec<String> = Vec::new();
    while let Some(name) = open.pop() {
        if !all.contains(&name) {
            references(&description["components"]["schemas"][&name], &mut open);
            all.push(name);
        }
    }
    all
}

fn references(value: &Value, found: &mut Vec<String>) {
    match value {
        Value::Object(fields) => {
            for (key, value) in fields {
                match value.as_str().filter(|_| key == "$ref") {
                    Some(path) => found.extend(path.rsplit('/').next().map(ToOwned::to_owned)),
                    None => references(value, found),
                }
            }
        }
        Value::Array(values) => values.iter().for_each(|v| references(v, found)),
        _ => {}
    }
}

/// A whole number that is not negative may have 32 bits: more than the format that it is described by.
fn widen(value: &mut Value) {
    match value {
        Value::Object(fields) => {
            if fields.get("format").is_some_and(|f| f == "int32")
                && fields.get("minimum").is_some_and(|m| *m == 0)
            {
                fields.insert("format".into(), json!("int64"));
                fields.entry("maximum").or_insert(json!(u32::MAX));
            }
            fields.iter_mut().for_each(|(_, value)| widen(value));
        }
        Value::Array(values) => values.iter_mut().for_each(widen),
        _ => {}
    }
}

/// Where a schema is another with a field more, and that other takes no more fields, nothing would satisfy both: the two
/// become one.
fn put_together(description: &mut Value) {
    let Some(schemas) = description.pointer("/components/schemas").cloned() else {
        return;
    };
    let closed = |part: &Value| {
        let name = part.get("$ref")?.as_str()?.rsplit('/').next()?;
        schemas
            .get(name)
            .filter(|s| s.get("additionalProperties") == Some(&json!(false)))
            .cloned()
    };
    for schema in description["components"]["schemas"]
        .as_object_mut()
        .into_iter()
        .flatten()
    {
        put_together_in(schema.1, &closed);
    }
}

fn put_together_in(schema: &mut Value, closed: &impl Fn(&Value) -> Option<Value>) {
    if let Some(parts) = schema.get("allOf").and_then(Value::as_array)
        && parts.iter().any(|part| closed(part).is_some())
    {
        let mut whole = json!({"type": "object", "required": [], "properties": {}, "additionalProperties": false});
        for part in parts {
            let part = closed(part).unwrap_or_else(|| part.clone());
            let required = part["required"].as_array().cloned().unwrap_or_default();
            whole["required"]
                .as_array_mut()
                .into_iter()
                .for_each(|all| all.extend(required.clone()));
            for (name, property) in part["properties"].as_object().into_iter().flatten() {
                whole["properties"][name] = property.clone();
            }
        }
        whole["description"] = schema
            .get("description")
            .cloned()
            .unwrap_or_else(|| json!(""));
        *schema = whole;
    }
    match schema {
        Value::Object(fields) => fields
            .iter_mut()
            .for_each(|(_, value)| put_together_in(value, closed)),
        Value::Array(values) => values
            .iter_mut()
            .for_each(|value| put_together_in(value, closed)),
        _ => {}
    }
}

/// Says of each text in a schema how long it may be.
fn bound(schema: &mut Value) {
    let Some(schema) = schema.as_object_mut() else {
        return;
    };
    for (key, value) in schema {
        match (key.as_str(), value) {
            ("properties", Value::Object(properties)) => {
                for (name, property) in properties {
                    bound_text(property, longest(name));
                    bound(property);
                }
            }
            (_, Value::Array(values)) => values.iter_mut().for_each(bound),
            (_, value) => bound(value),
        }
    }
}

/// A property that is a text, or a list of texts.
fn bound_text(property: &mut Value, most: usize) {
    let Some(schema) = property.as_object_mut() else {
        return;
    };
    if is_text(schema) {
        schema.insert("maxLength".into(), most.into());
    }
    if let Some(items) = schema.get_mut("items") {
        bound_text(items, most);
    }
}

/// Whether a schema is of a text, or of one that may be left out.
pub fn is_text(schema: &Map<String, Value>) -> bool {
    let named = |kind: &Value| kind == "string";
    let text = schema.get("type").is_some_and(|kind| {
        named(kind) || kind.as_array().is_some_and(|all| all.iter().any(named))
    });
    text && ["enum", "const", "format"]
        .iter()
        .all(|key| !schema.contains_key(*key))
}

fn bound_parameter(name: &str, schema: &mut Value) {
    match name {
        "Idempotency-Key" => {
            *schema =
                json!({"type": "string", "minLength": 8, "maxLength": 80, "pattern": "^[ -~]+$"});
        }
        "If-Match" => *schema = json!({"type": "string", "pattern": "^\"[0-9]{1,9}\"$"}),
        _ => bound_text(schema, longest(name)),
    }
}
