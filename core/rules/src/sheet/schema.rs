//! The JSON Schema of a sheet.

use super::Sheet;

/// The JSON Schema of a sheet, as committed in `docs/sheet.schema.json`.
#[must_use]
pub fn json_schema() -> serde_json::Value {
    let mut schema = schemars::schema_for!(Sheet).to_value();
    left_out_not_null(&mut schema);
    schema
}

/// What is optional is left out of a sheet, never null. Said so, a validator names the place of a
/// fault inside an optional part, not the part as a whole.
fn left_out_not_null(schema: &mut serde_json::Value) {
    use serde_json::Value;
    let is_null = |v: &Value| v.get("type").is_some_and(|t| t == "null");
    match schema {
        Value::Object(fields) => {
            if let Some(Value::Array(kinds)) = fields.get_mut("type") {
                kinds.retain(|k| k != "null");
                if let [only] = kinds.as_slice() {
                    let only = only.clone();
                    fields.insert("type".into(), only);
                }
            }
            if let Some(Value::Array(options)) = fields.get_mut("anyOf") {
                options.retain(|o| !is_null(o));
                if let [Value::Object(only)] = options.as_slice() {
                    let only = only.clone();
                    fields.remove("anyOf");
                    fields.extend(only);
                }
            }
            fields.values_mut().for_each(left_out_not_null);
        }
        Value::Array(items) => items.iter_mut().for_each(left_out_not_null),
        _ => {}
    }
}
