//! What people write that is no figure: what can be kept of it, and what can be seen.

use serde_json::Value;

/// Whether a character shows nothing: blanks, controls, what Unicode lets be ignored in drawing
/// (`Default_Ignorable_Code_Point`, UAX 44; its ranges from memory), and the empty Braille pattern.
fn unseen(c: char) -> bool {
    c.is_whitespace()
        || c.is_control()
        || matches!(c,
            '\u{ad}' | '\u{34f}' | '\u{61c}' | '\u{115f}'..='\u{1160}' | '\u{17b4}'..='\u{17b5}'
            | '\u{180b}'..='\u{180f}' | '\u{200b}'..='\u{200f}' | '\u{202a}'..='\u{202e}'
            | '\u{2060}'..='\u{206f}' | '\u{2800}' | '\u{3164}' | '\u{fe00}'..='\u{fe0f}' | '\u{feff}'
            | '\u{ffa0}' | '\u{fff0}'..='\u{fff8}' | '\u{1bca0}'..='\u{1bca3}' | '\u{1d173}'..='\u{1d17a}'
            | '\u{e0000}'..='\u{e0fff}')
}

/// A text without what shows nothing at its ends; empty where nothing of it shows.
///
/// ```
/// use anvil_rules::texts::shown;
/// assert_eq!(shown("\u{200b} Van 3\u{feff}\n"), "Van 3");
/// assert_eq!(shown(" \u{200b}\u{2060}"), "");
/// assert_eq!(shown("\u{3164}\u{e0041}\u{2800}"), "", "a filler, a tag, no dot of Braille");
/// ```
#[must_use]
pub fn shown(text: &str) -> &str {
    text.trim_matches(unseen)
}

/// A name within a sentence: its first letter small, unless it is an abbreviation or a number.
///
/// ```
/// use anvil_rules::texts::in_sentence;
/// assert_eq!(in_sentence("Input shaft end float"), "input shaft end float");
/// assert_eq!(in_sentence("ATF pump clearance"), "ATF pump clearance");
/// ```
#[must_use]
pub fn in_sentence(name: &str) -> String {
    let mut letters = name.chars();
    let first = letters.next().filter(|c| c.is_uppercase());
    let next = letters.clone().next();
    match first {
        Some(first) if next.is_none_or(|n| n.is_lowercase() || n.is_whitespace()) => {
            first.to_lowercase().chain(letters).collect()
        }
        _ => name.to_owned(),
    }
}

/// The most characters of a text that is sent, by the name of the field that holds it.
///
/// Nobody writes longer ones by hand; what is longer is a mistake, and would be carried along for ever.
#[must_use]
pub fn longest(field: &str) -> usize {
    match field {
        // Whole files: as much as is taken at all.
        "text" | "rows" => 2 * 1024 * 1024,
        // Lists typed by hand.
        "gaps" | "gears" | "leaves" | "pulls" | "readings" | "set_ups" | "sizes" | "terms" => {
            10_000
        }
        "address" | "said" => 2_000,
        "agreed" | "complaint" | "reason" => 500,
        "customer" | "stamped" | "title" => 80,
        "who" => 8,
        _ => 200,
    }
}

/// Where in what was sent a text is longer than its field may hold, and how long that is; none where all fit.
///
/// ```
/// use anvil_rules::texts::too_long;
/// use serde_json::json;
/// assert_eq!(too_long(&json!({"title": "Van 3", "plates": ["steel"]})), None);
/// assert_eq!(too_long(&json!({"who": "RT", "title": "a".repeat(81)})), Some(("title".to_owned(), 80)));
/// ```
#[must_use]
pub fn too_long(value: &Value) -> Option<(String, usize)> {
    first_text(value, "", &|field, text| {
        let most = longest(field);
        (text.len() > most && text.chars().count() > most).then_some(most)
    })
}

/// Where in what was sent a text holds a character that no database keeps (NUL): names and numbers from the outside
/// inwards, with strokes between; none where all can be kept.
///
/// ```
/// use anvil_rules::texts::unstorable;
/// use serde_json::json;
/// assert_eq!(unstorable(&json!({"title": "Van 3"})), None);
/// assert_eq!(unstorable(&json!({"lines": ["a", "b\u{0}"]})), Some("lines/1".to_owned()));
/// ```
#[must_use]
pub fn unstorable(value: &Value) -> Option<String> {
    first_text(value, "", &|_, text| text.contains('\0').then_some(())).map(|(place, ())| place)
}

/// The first text in which something is `found`, given the name of the field that holds it; with its place.
fn first_text<T>(
    value: &Value,
    field: &str,
    found: &impl Fn(&str, &str) -> Option<T>,
) -> Option<(String, T)> {
    let within = |name: &str, field: &str, value: &Value| {
        let (rest, what) = first_text(value, field, found)?;
        let place = if rest.is_empty() {
            name.to_owned()
        } else {
            format!("{name}/{rest}")
        };
        Some((place, what))
    };
    match value {
        Value::String(text) => found(field, text).map(|what| (String::new(), what)),
        Value::Array(values) => {
            let mut numbered = values.iter().enumerate();
            numbered.find_map(|(at, value)| within(&at.to_string(), field, value))
        }
        Value::Object(fields) => fields.iter().find_map(|(name, value)| {
            // A name is a text too.
            let of_name = found("", name).map(|what| (name.replace('\0', "␀"), what));
            of_name.or_else(|| within(name, name, value))
        }),
        _ => None,
    }
}
