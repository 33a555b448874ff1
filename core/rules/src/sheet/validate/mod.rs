//! Reading a sheet, and naming every fault by its place in the file.

mod build;
mod checks;
mod dependencies;
mod families;
mod gears;
mod look_at;
mod packs;
mod shafts;
mod shape;
mod variants;
mod wear;

use std::collections::BTreeSet;

use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use serde::Serialize;
use serde_json::Value;

use super::{FORMAT, Sheet, VERSION};
use crate::texts::unstorable;

pub(crate) use shape::schema_faults;

/// One fault of a sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Fault {
    /// The place in the file as a JSON Pointer (RFC 6901), or the line and column where the file
    /// is no JSON at all.
    pub place: String,
    /// What is wrong there, and what would be right.
    pub message: String,
}

/// Reads a sheet from its file. A sheet with any fault is refused whole, with every fault listed.
///
/// ```
/// let faults = anvil_rules::sheet::read("{\"format\":\"dry-anvil-sheet\",\"version\":9}").unwrap_err();
/// assert_eq!(faults[0].place, "/version");
/// ```
///
/// # Errors
/// Every fault with its place in the file.
pub fn read(text: &str) -> Result<Sheet, Vec<Fault>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let value: Value = serde_json::from_str(text).map_err(|e| {
        vec![Fault {
            place: format!("line {}, column {}", e.line(), e.column()),
            message: format!("this is not JSON: {e}"),
        }]
    })?;
    if let Some(place) = unstorable(&value) {
        return Err(vec![Fault {
            place: format!("/{place}"),
            message: "it holds a character that cannot be kept (NUL): take it out".into(),
        }]);
    }
    check_format(&value).map_err(|f| vec![f])?;
    check_schema(&value)?;
    let sheet: Sheet = serde_json::from_value(value).map_err(|e| {
        vec![Fault {
            place: "/".into(),
            message: e.to_string(),
        }]
    })?;
    checked(sheet)
}

/// A sheet made otherwise than from a file, if nothing is wrong with it.
///
/// # Errors
/// Every fault by its place.
pub fn checked(sheet: Sheet) -> Result<Sheet, Vec<Fault>> {
    let faults = beyond_schema(&sheet);
    if faults.is_empty() {
        Ok(sheet)
    } else {
        Err(faults)
    }
}

pub(crate) fn check_format(value: &Value) -> Result<(), Fault> {
    let fault = |place: &str, message: String| Fault {
        place: place.into(),
        message,
    };
    if value.get("format").and_then(Value::as_str) != Some(FORMAT) {
        return Err(fault(
            "/format",
            format!("this is not a spec sheet: its format must say “{FORMAT}”"),
        ));
    }
    match value.get("version").and_then(Value::as_u64) {
        Some(version) if version == u64::from(VERSION) => Ok(()),
        Some(version) if version > u64::from(VERSION) => Err(fault(
            "/version",
            format!(
                "this sheet is of version {version} and this program reads up to version {VERSION}: use a newer program, or save the sheet as version {VERSION}"
            ),
        )),
        _ => Err(fault("/version", format!("the version must be {VERSION}"))),
    }
}

/// What kind of thing is wrong with one field.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    /// It is no length.
    Length,
    Empty,
    /// It cannot be a key.
    Key,
    /// More of them than are looked at.
    TooMany,
    /// Anything else.
    Other,
}

/// A fault of a field, and its kind.
pub(crate) struct Placed {
    pub(crate) fault: Fault,
    pub(crate) kind: Kind,
}

fn check_schema(value: &Value) -> Result<(), Vec<Fault>> {
    let faults: Vec<Fault> = schema_faults(value).into_iter().map(|p| p.fault).collect();
    if faults.is_empty() {
        Ok(())
    } else {
        Err(faults)
    }
}

/// The faults of a sheet that no schema sees.
pub(crate) fn beyond_schema(sheet: &Sheet) -> Vec<Fault> {
    Faults::of(sheet)
}

/// The faults that no schema sees: names that lead nowhere, windows upside down, rings of waiting.
struct Faults(Vec<Fault>);

impl Faults {
    fn of(sheet: &Sheet) -> Vec<Fault> {
        let mut faults = Self(Vec::new());
        faults.variants(sheet);
        if sheet.variants.is_empty() {
            faults.0.extend(Self::of_build(sheet));
        } else if faults.0.is_empty() {
            faults.0 = variants::of_each_build(sheet, Self::of_build);
        }
        faults.0
    }

    /// The faults of a sheet of one build.
    fn of_build(sheet: &Sheet) -> Vec<Fault> {
        let mut faults = Self(Vec::new());
        let shaft_of = faults.parts(sheet);
        faults.families(sheet);
        faults.checks(sheet, &shaft_of);
        faults.packs(sheet);
        faults.items(sheet);
        faults.gears(sheet);
        faults.look_at(sheet);
        faults.wear(sheet);
        faults.build(sheet);
        faults.0
    }

    fn add(&mut self, place: impl Into<String>, message: impl Into<String>) {
        self.0.push(Fault {
            place: place.into(),
            message: message.into(),
        });
    }

    fn unique<'a>(&mut self, what: &str, keys: impl Iterator<Item = (String, &'a str)>) {
        let mut seen = BTreeSet::new();
        for (place, key) in keys {
            if !seen.insert(key) {
                self.add(
                    place,
                    format!("there is another {what} of the key “{key}”: keys must differ"),
                );
            }
        }
    }

    fn more_than_nothing(&mut self, place: String, what: &str, length: &Written) {
        if length.length() <= Length::ZERO {
            self.add(place, format!("{what} must be more than nothing"));
        }
    }

    fn not_negative(&mut self, place: String, what: &str, length: Option<&Written>) {
        if length.is_some_and(|l| l.length() < Length::ZERO) {
            self.add(place, format!("{what} is zero or more"));
        }
    }
}
