//! Which checks have to be made again when a part is another, or not as it was.

use crate::sheet::{Check, CheckKind, Sheet};

/// The checks whose stack, shaft or pack holds a part: those that name it in their stack, lie beside it, or are set by it;
/// and what a whole shaft does, its end float or its preload, where it lies on that shaft.
#[must_use]
pub fn due_with<'a>(sheet: &'a Sheet, part: &str) -> Vec<&'a Check> {
    let shaft_of = |key: &str| {
        let mut shafts = sheet.shafts.iter();
        shafts.position(|s| s.parts.iter().any(|p| p.key == key))
    };
    let on = shaft_of(part);
    let of_shaft = |check: &Check| {
        matches!(
            check.kind,
            CheckKind::EndFloat | CheckKind::BearingPreload | CheckKind::TurningTorque
        ) && on.is_some()
            && check
                .between
                .iter()
                .flatten()
                .any(|key| shaft_of(key) == on)
    };
    let names = |check: &Check| {
        let in_stack = check.stack.iter().filter_map(|t| t.part.as_deref());
        let beside = check.between.iter().flatten().map(String::as_str);
        let set_by = check.set_by.iter().filter_map(|s| s.part.as_deref());
        let or_set_by = check.or_set_by.iter().filter_map(|s| s.part.as_deref());
        let mut all = in_stack.chain(beside).chain(set_by).chain(or_set_by);
        all.any(|key| key == part)
    };
    let checks = sheet.checks.iter();
    checks.filter(|c| names(c) || of_shaft(c)).collect()
}
