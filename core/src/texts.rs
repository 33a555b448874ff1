//! What people write that is no figure: what can be kept of it, and what can be seen.

use serde_json::Value;

/// Marks that show nothing and are no blank either.
const UNSEEN: [char; 8] = [
    '\u{ad}', '\u{200b}', '\u{200c}', '\u{200d}', '\u{200e}', '\u{200f}', '\u{2060}', '\u{feff}',
];

/// A text without what shows nothing at its ends; empty where nothing of it shows.
///
/// ```
/// use anvil_core::texts::shown;
/// assert_eq!(shown("\u{200b} Van 3\u{feff}\n"), "Van 3");
/// assert_eq!(shown(" \u{200b}\u{2060}"), "");
/// ```
#[must_use]
pub fn shown(text: &str) -> &str {
    text.trim_matches(|c: char| c.is_whitespace() || c.is_control() || UNSEEN.contains(&c))
}

/// Where in what was sent a text holds a character that no database keeps (NUL): names and numbers from the outside
/// inwards, with strokes between; none where all can be kept.
///
/// ```
/// use anvil_core::texts::unstorable;
/// use serde_json::json;
/// assert_eq!(unstorable(&json!({"title": "Van 3"})), None);
/// assert_eq!(unstorable(&json!({"lines": ["a", "b\u{0}"]})), Some("lines/1".to_owned()));
/// ```
#[must_use]
pub fn unstorable(value: &Value) -> Option<String> {
    let within = |name: &str, value: &Value| {
        let rest = unstorable(value)?;
        Some(if rest.is_empty() {
            name.to_owned()
        } else {
            format!("{name}/{rest}")
        })
    };
    match value {
        Value::String(text) => text.contains('\0').then(String::new),
        Value::Array(values) => {
            let mut numbered = values.iter().enumerate();
            numbered.find_map(|(at, value)| within(&at.to_string(), value))
        }
        Value::Object(fields) => fields.iter().find_map(|(name, value)| {
            if name.contains('\0') {
                return Some(name.replace('\0', "␀"));
            }
            within(name, value)
        }),
        _ => None,
    }
}
