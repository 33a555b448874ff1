//! Reading a sheet, and naming every fault by its place in the file.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::LazyLock;

use jsonschema::error::ValidationErrorKind;
use jsonschema::{ValidationError, Validator};
use serde::Serialize;
use serde_json::Value;

use super::{Check, CheckKind, FORMAT, Method, PartKind, Sheet, VERSION, Written, json_schema};
use crate::length::Length;

/// The name that the schema gives to lengths in bench notation.
pub(super) const LENGTH_FORMAT: &str = "bench-length";

/// One fault of a sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
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
/// let faults = anvil_core::sheet::read("{\"format\":\"dry-anvil-sheet\",\"version\":9}").unwrap_err();
/// assert_eq!(faults[0].place, "/version");
/// ```
pub fn read(text: &str) -> Result<Sheet, Vec<Fault>> {
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let value: Value = serde_json::from_str(text).map_err(|e| {
        vec![Fault {
            place: format!("line {}, column {}", e.line(), e.column()),
            message: format!("this is not JSON: {e}"),
        }]
    })?;
    check_format(&value).map_err(|f| vec![f])?;
    check_schema(&value)?;
    let sheet: Sheet = serde_json::from_value(value).map_err(|e| {
        vec![Fault {
            place: "/".into(),
            message: e.to_string(),
        }]
    })?;
    let faults = beyond_schema(&sheet);
    if faults.is_empty() {
        Ok(sheet)
    } else {
        Err(faults)
    }
}

pub(super) fn check_format(value: &Value) -> Result<(), Fault> {
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

/// Made once: to make it takes longer than to look through any sheet.
static VALIDATOR: LazyLock<Option<Validator>> = LazyLock::new(|| {
    jsonschema::options()
        .with_format(LENGTH_FORMAT, |text: &str| length_fault(text).is_none())
        .should_validate_formats(true)
        .build(&json_schema())
        .ok()
});

/// What kind of thing is wrong with one field.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    /// It is no length.
    Length,
    /// It is empty.
    Empty,
    /// It cannot be a key.
    Key,
    /// Anything else.
    Other,
}

/// A fault of a field, and its kind.
pub(super) struct Placed {
    pub(super) fault: Fault,
    pub(super) kind: Kind,
}

fn check_schema(value: &Value) -> Result<(), Vec<Fault>> {
    let faults: Vec<Fault> = schema_faults(value).into_iter().map(|p| p.fault).collect();
    if faults.is_empty() {
        Ok(())
    } else {
        Err(faults)
    }
}

/// The faults that the schema sees.
pub(super) fn schema_faults(value: &Value) -> Vec<Placed> {
    let Some(validator) = VALIDATOR.as_ref() else {
        let fault = Fault {
            place: "/".into(),
            message: "the program's own schema is broken".into(),
        };
        return vec![Placed {
            fault,
            kind: Kind::Other,
        }];
    };
    validator
        .iter_errors(value)
        .map(|error| {
            let place = error.instance_path().to_string();
            let kind = match error.kind() {
                ValidationErrorKind::Format { .. } => Kind::Length,
                ValidationErrorKind::MinLength { .. } => Kind::Empty,
                ValidationErrorKind::Pattern { .. } if place.ends_with("/key") => Kind::Key,
                _ => Kind::Other,
            };
            let fault = Fault {
                message: said(&error, &place, value),
                place: if place.is_empty() { "/".into() } else { place },
            };
            Placed { fault, kind }
        })
        .collect()
}

/// What a person is told of a schema's fault.
fn said(error: &ValidationError<'_>, place: &str, sheet: &Value) -> String {
    match error.kind() {
        ValidationErrorKind::Format { .. } => {
            let text = sheet.pointer(place).and_then(Value::as_str);
            if let Some(fault) = text.and_then(length_fault) {
                return fault;
            }
        }
        ValidationErrorKind::MinLength { .. } => {
            return "this is empty: say what it is called".into();
        }
        ValidationErrorKind::MaxLength { limit } => {
            return format!("this may have up to {limit} characters: shorten it");
        }
        ValidationErrorKind::Pattern { .. } if place.ends_with("/key") => {
            return "a key has from 1 to 40 small letters, digits and hyphens, and begins with a letter or digit".into();
        }
        ValidationErrorKind::MinItems { limit } => {
            return format!("at least {limit} is needed here");
        }
        ValidationErrorKind::MaxItems { limit } => {
            return format!("there may be up to {limit} here");
        }
        _ => {}
    }
    if place.ends_with("/target") {
        return "a target is \"middle\", \"tight\", \"loose\", {\"at\": a length} or {\"between\": [two lengths]}".to_owned();
    }
    shortened(&error.to_string())
}

fn length_fault(text: &str) -> Option<String> {
    Written::try_from(text.to_owned())
        .err()
        .map(|e| e.to_string())
}

/// A schema's message may quote a whole object; nobody reads that.
fn shortened(message: &str) -> String {
    const MOST: usize = 240;
    if message.chars().count() <= MOST {
        return message.to_owned();
    }
    let tail: String = message
        .chars()
        .skip(message.chars().count() - 120)
        .collect();
    let head: String = message.chars().take(MOST - 120).collect();
    format!("{head} … {tail}")
}

/// The faults of a sheet that no schema sees.
pub(super) fn beyond_schema(sheet: &Sheet) -> Vec<Fault> {
    Faults::of(sheet)
}

/// The faults that no schema sees: names that lead nowhere, windows upside down, rings of waiting.
struct Faults(Vec<Fault>);

impl Faults {
    fn of(sheet: &Sheet) -> Vec<Fault> {
        let mut faults = Self(Vec::new());
        let shaft_of = faults.parts(sheet);
        faults.families(sheet);
        faults.checks(sheet, &shaft_of);
        faults.packs(sheet);
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

    /// Checks the parts and returns which shaft each is on.
    fn parts<'a>(&mut self, sheet: &'a Sheet) -> BTreeMap<&'a str, usize> {
        self.unique(
            "shaft",
            sheet
                .shafts
                .iter()
                .enumerate()
                .map(|(i, s)| (format!("/shafts/{i}/key"), s.key.as_str())),
        );
        let all = || {
            sheet.shafts.iter().enumerate().flat_map(|(s, shaft)| {
                shaft
                    .parts
                    .iter()
                    .enumerate()
                    .map(move |(p, part)| (s, format!("/shafts/{s}/parts/{p}"), part))
            })
        };
        self.unique(
            "part",
            all().map(|(_, place, part)| (format!("{place}/key"), part.key.as_str())),
        );
        for (_, place, part) in all() {
            self.more_than_nothing(format!("{place}/width"), "a part's width", &part.width);
            if let Some(diameter) = &part.diameter {
                self.more_than_nothing(format!("{place}/diameter"), "a part's diameter", diameter);
            }
            self.not_negative(
                format!("{place}/gap_before"),
                "a gap before a part",
                part.gap_before.as_ref(),
            );
            self.not_negative(
                format!("{place}/width_tolerance"),
                "a tolerance (a ± figure)",
                part.width_tolerance.as_ref(),
            );
        }
        let shaft_of: BTreeMap<&str, usize> = all()
            .map(|(shaft, _, part)| (part.key.as_str(), shaft))
            .collect();
        for (_, place, part) in all() {
            let Some(mate) = part.kept_with.as_deref() else {
                continue;
            };
            let place = format!("{place}/kept_with");
            if mate == part.key {
                self.add(place, "a part is not kept with itself: name the other");
            } else if !shaft_of.contains_key(mate) {
                self.add(place, format!("no part has the key “{mate}”"));
            }
        }
        shaft_of
    }

    fn families(&mut self, sheet: &Sheet) {
        self.unique(
            "family",
            sheet
                .families
                .iter()
                .enumerate()
                .map(|(i, f)| (format!("/families/{i}/key"), f.key.as_str())),
        );
        for (i, family) in sheet.families.iter().enumerate() {
            self.not_negative(
                format!("/families/{i}/tolerance"),
                "a tolerance (a ± figure)",
                Some(&family.tolerance),
            );
            let mut seen = BTreeSet::new();
            for (s, size) in family.sizes.iter().enumerate() {
                let place = format!("/families/{i}/sizes/{s}/thickness");
                self.more_than_nothing(place.clone(), "a piece's thickness", &size.thickness);
                if !seen.insert(size.thickness.length()) {
                    self.add(
                        place,
                        format!("the size {} is listed twice", size.thickness.length()),
                    );
                }
            }
        }
    }

    fn checks(&mut self, sheet: &Sheet, shaft_of: &BTreeMap<&str, usize>) {
        self.unique(
            "check",
            sheet
                .checks
                .iter()
                .enumerate()
                .map(|(i, c)| (format!("/checks/{i}/key"), c.key.as_str())),
        );
        for (i, check) in sheet.checks.iter().enumerate() {
            let place = format!("/checks/{i}");
            self.check_place(&place, check, shaft_of);
            self.check_window(&place, check);
            self.check_setting(&place, check, sheet, shaft_of);
            self.check_or_set_by(&place, check, sheet);
            self.check_one_by_one(&place, check);
            self.check_selector(&place, check);
            for (a, adjustment) in check.adjustments.iter().enumerate() {
                self.not_negative(
                    format!("{place}/adjustments/{a}/tolerance"),
                    "a tolerance (a ± figure)",
                    adjustment.tolerance.as_ref(),
                );
            }
            self.check_stack(&place, check, sheet, shaft_of);
            self.check_moved_by(&place, check, sheet);
            self.check_hot(&place, check);
            if let Some(chart) = &check.chart {
                for fault in crate::chart::faults(&chart.lengths(), chart.resolution.length()) {
                    let row = fault.row.checked_sub(1).map(|r| format!("/rows/{r}"));
                    let place = format!("{place}/chart{}", row.unwrap_or_default());
                    self.add(place, fault.message);
                }
            }
        }
        let waits: Vec<_> = sheet
            .checks
            .iter()
            .map(|c| (c.key.as_str(), c.after.as_slice()))
            .collect();
        self.order("check", &waits, |i, a| format!("/checks/{i}/after/{a}"));
    }

    fn check_place(&mut self, place: &str, check: &Check, shaft_of: &BTreeMap<&str, usize>) {
        let Some(between) = &check.between else {
            return;
        };
        let shafts: Vec<_> = between
            .iter()
            .enumerate()
            .filter_map(|(b, part)| {
                let shaft = shaft_of.get(part.as_str());
                if shaft.is_none() {
                    self.add(
                        format!("{place}/between/{b}"),
                        format!("no part has the key “{part}”"),
                    );
                }
                shaft
            })
            .collect();
        if shafts.len() == 2 && shafts[0] != shafts[1] {
            self.add(
                format!("{place}/between"),
                "the two parts are on different shafts: a check lies on one",
            );
        }
        if between[0] == between[1] {
            self.add(
                format!("{place}/between"),
                "the two parts are the same: name the ones left and right of the gap",
            );
        }
    }

    fn check_stack(
        &mut self,
        place: &str,
        check: &Check,
        sheet: &Sheet,
        shaft_of: &BTreeMap<&str, usize>,
    ) {
        for (t, term) in check.stack.iter().enumerate() {
            let place = format!("{place}/stack/{t}");
            self.more_than_nothing(format!("{place}/length"), "a term's length", &term.length);
            if let Some(tolerance) = &term.tolerance {
                self.more_than_nothing(
                    format!("{place}/tolerance"),
                    "a tolerance (a ± figure; nothing made is exact)",
                    tolerance,
                );
            }
            if let Some(part) = term.part.as_deref().filter(|p| !shaft_of.contains_key(p)) {
                self.add(
                    format!("{place}/part"),
                    format!("no part has the key “{part}”"),
                );
            }
        }
        let of_pack = sheet.pack_of(&check.key).is_some();
        if check.method == Method::StackSum && check.stack.is_empty() && !of_pack {
            self.add(
                format!("{place}/stack"),
                "a check taken by stack sum needs its terms",
            );
        }
    }

    fn check_hot(&mut self, place: &str, check: &Check) {
        let Some(hot) = &check.hot else {
            return;
        };
        let mut sums = Vec::new();
        for (side, parts) in [("case", &hot.case), ("inside", &hot.inside)] {
            for (p, part) in parts.iter().enumerate() {
                let place = format!("{place}/hot/{side}/{p}/length");
                self.more_than_nothing(place, "a part's length", &part.length);
            }
            sums.push(parts.iter().map(|p| p.length.length().nm()).sum::<i64>());
        }
        if (sums[0] - sums[1]).abs() > sums[0] / 10 {
            self.add(
                format!("{place}/hot"),
                format!(
                    "the case is {} long and what it holds {}: side by side they span the same, within a tenth",
                    Length::from_nm(sums[0]),
                    Length::from_nm(sums[1])
                ),
            );
        }
    }

    fn check_moved_by(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        for (m, moved) in check.moved_by.iter().enumerate() {
            let place = format!("{place}/moved_by/{m}/check");
            let key = &moved.check;
            let twice = check.moved_by[..m].iter().any(|o| o.check == *key);
            match sheet.check(key) {
                _ if *key == check.key => {
                    self.add(
                        place,
                        "its own pieces are named in set_by; name another check here",
                    );
                }
                _ if twice => self.add(place, format!("“{key}” is named twice: keep one")),
                None => self.add(place, format!("no check has the key “{key}”")),
                Some(other) if other.set_by.is_none() => self.add(
                    place,
                    format!("no pieces set “{key}”, so none of them moves this check"),
                ),
                Some(_) => {}
            }
        }
    }

    fn check_window(&mut self, place: &str, check: &Check) {
        if check.kind == CheckKind::TurningTorque {
            match check.torque {
                None => self.add(
                    format!("{place}/torque"),
                    "a turning torque needs its window in newton metres",
                ),
                Some(t) if t.low_n_m.is_none() && t.high_n_m.is_none() => {
                    self.add(
                        format!("{place}/torque"),
                        "a window needs at least one limit",
                    );
                }
                Some(t)
                    if t.low_n_m
                        .zip(t.high_n_m)
                        .is_some_and(|(low, high)| low > high) =>
                {
                    self.add(
                        format!("{place}/torque"),
                        "the low limit is above the high limit",
                    );
                }
                Some(_) => {}
            }
            return;
        }
        let Some(book) = &check.window else {
            self.add(
                format!("{place}/window"),
                "the window is missing: give low, high or both",
            );
            return;
        };
        let mut working = None;
        for (name, written) in [
            ("window", Some(book)),
            ("shop_window", check.shop_window.as_ref()),
        ] {
            match written.map(super::WrittenWindow::window) {
                Some(Ok(window)) => working = Some(window),
                Some(Err(e)) => self.add(format!("{place}/{name}"), e.to_string()),
                None => {}
            }
        }
        if let Some(Err(e)) = working.map(|w| check.aim(w)) {
            self.add(format!("{place}/target"), e.to_string());
        }
    }

    fn check_setting(
        &mut self,
        place: &str,
        check: &Check,
        sheet: &Sheet,
        shaft_of: &BTreeMap<&str, usize>,
    ) {
        let Some(set_by) = &check.set_by else { return };
        if sheet.family(&set_by.family).is_none() {
            self.add(
                format!("{place}/set_by/family"),
                format!("no family has the key “{}”", set_by.family),
            );
        }
        if set_by.least_pieces > set_by.most_pieces {
            self.add(
                format!("{place}/set_by/least_pieces"),
                "the fewest pieces are more than the most",
            );
        }
        if let Some(part) = set_by.part.as_deref().filter(|p| !shaft_of.contains_key(p)) {
            self.add(
                format!("{place}/set_by/part"),
                format!("no part has the key “{part}”"),
            );
        }
    }

    fn check_or_set_by(&mut self, place: &str, check: &Check, sheet: &Sheet) {
        for (o, other) in check.or_set_by.iter().enumerate() {
            let place = format!("{place}/or_set_by/{o}");
            let family = &other.family;
            let first = check.set_by.as_ref().map(|s| &s.family);
            let before = check.or_set_by[..o].iter().map(|o| &o.family);
            if sheet.family(family).is_none() {
                self.add(
                    format!("{place}/family"),
                    format!("no family has the key “{family}”"),
                );
            } else if first.into_iter().chain(before).any(|f| f == family) {
                self.add(
                    format!("{place}/family"),
                    format!("“{family}” sets this check already: name another family"),
                );
            }
            self.more_than_nothing(
                format!("{place}/fitted"),
                "what one of those that are in measures",
                &other.fitted,
            );
        }
        if !check.or_set_by.is_empty() && check.set_by.is_none() {
            self.add(
                format!("{place}/or_set_by"),
                "something else sets it only beside what sets it first: fill in set_by",
            );
        }
    }

    fn check_one_by_one(&mut self, place: &str, check: &Check) {
        match &check.pinions {
            Some(pinions) => self.more_than_nothing(
                format!("{place}/pinions/alike"),
                "how far the pinions may differ",
                &pinions.alike,
            ),
            None if check.method == Method::OneByOne => self.add(
                format!("{place}/pinions"),
                "a check taken one by one needs how many pinions there are, and how alike they must be",
            ),
            None => {}
        }
        if check.method == Method::OneByOne && check.set_by.is_some() {
            self.add(
                format!("{place}/set_by"),
                "each pinion has washers of its own, so no one drawer sets them all: leave it out",
            );
        }
    }

    fn check_selector(&mut self, place: &str, check: &Check) {
        if check.selector.is_none() {
            if check.method == Method::SelectorGaps {
                self.add(
                    format!("{place}/selector"),
                    "a check of selector gaps needs the gears that the selector holds",
                );
            }
            return;
        }
        if check.set_by.is_some() {
            self.add(
                format!("{place}/set_by"),
                "the shims that are in are moved from end to end, so no drawer sets it: the shaft's float does",
            );
        }
        let low = check.window.as_ref().and_then(|w| w.low.as_ref());
        if low.is_some_and(|low| low.length() > Length::ZERO) {
            self.add(
                format!("{place}/window/low"),
                "a gear cannot stand too near the middle: leave the low limit out",
            );
        }
    }

    fn packs(&mut self, sheet: &Sheet) {
        self.unique(
            "pack",
            sheet
                .packs
                .iter()
                .enumerate()
                .map(|(i, p)| (format!("/packs/{i}/key"), p.key.as_str())),
        );
        for (i, pack) in sheet.packs.iter().enumerate() {
            let place = format!("/packs/{i}");
            if sheet.check(&pack.check).is_none() {
                self.add(
                    format!("{place}/check"),
                    format!("no check has the key “{}”", pack.check),
                );
            } else if sheet.packs[..i].iter().any(|p| p.check == pack.check) {
                self.add(
                    format!("{place}/check"),
                    "that check signs another pack off already: each pack has its own",
                );
            }
            self.more_than_nothing(
                format!("{place}/groove_depth"),
                "the depth to the groove",
                &pack.groove_depth,
            );
            for (p, plate) in pack.plates.iter().enumerate() {
                let place = format!("{place}/plates/{p}");
                self.more_than_nothing(
                    format!("{place}/thickness"),
                    "a plate's thickness",
                    &plate.thickness,
                );
                if !crate::pack::is_plate(plate.kind) {
                    self.add(
                        format!("{place}/kind"),
                        "in a pack lie frictions, steels, wave, pressure and thrust plates, spacers and the snap ring",
                    );
                }
            }
            for fault in pack.faults() {
                let under = fault.plate.map(|p| format!("/plates/{p}/kind"));
                self.add(
                    format!("{place}{}", under.unwrap_or_default()),
                    fault.message,
                );
            }
            let kinds = pack.kinds();
            for (field, kind, said) in [
                ("frictions", PartKind::Friction, pack.frictions),
                ("steels", PartKind::Steel, pack.steels),
            ] {
                let is = crate::pack::count(&kinds, kind);
                if let Some(wanted) = said.filter(|w| *w != is) {
                    self.add(
                        format!("{place}/{field}"),
                        crate::pack::counted(is, wanted, kind),
                    );
                }
            }
            if pack.clearance() < Length::ZERO {
                self.add(
                    format!("{place}/groove_depth"),
                    format!(
                        "the plates are {} thicker than the drum is deep: check the depth and the thicknesses",
                        Length::from_nm(-pack.clearance().nm())
                    ),
                );
            }
        }
    }

    fn build(&mut self, sheet: &Sheet) {
        self.unique(
            "step",
            sheet
                .build
                .iter()
                .enumerate()
                .map(|(i, s)| (format!("/build/{i}/key"), s.key.as_str())),
        );
        for (i, step) in sheet.build.iter().enumerate() {
            for (h, key) in step.hold.iter().enumerate() {
                if sheet.check(key).is_none() {
                    self.add(
                        format!("/build/{i}/hold/{h}"),
                        format!("no check has the key “{key}”"),
                    );
                }
            }
        }
        let waits: Vec<_> = sheet
            .build
            .iter()
            .map(|s| (s.key.as_str(), s.needs.as_slice()))
            .collect();
        self.order("step", &waits, |i, n| format!("/build/{i}/needs/{n}"));
    }

    /// Every name waited for exists, and nothing waits for itself in a ring.
    fn order(
        &mut self,
        what: &str,
        waits: &[(&str, &[String])],
        place: impl Fn(usize, usize) -> String,
    ) {
        let number: BTreeMap<&str, usize> =
            waits.iter().enumerate().map(|(i, w)| (w.0, i)).collect();
        for (i, (_, after)) in waits.iter().enumerate() {
            for (a, key) in after.iter().enumerate() {
                if !number.contains_key(key.as_str()) {
                    self.add(place(i, a), format!("no {what} has the key “{key}”"));
                }
            }
        }
        // Whatever waits for nothing unfinished is finished; what is never finished waits in a ring.
        let mut done = vec![false; waits.len()];
        loop {
            let free: Vec<usize> = (0..waits.len())
                .filter(|i| {
                    !done[*i]
                        && waits[*i]
                            .1
                            .iter()
                            .all(|k| number.get(k.as_str()).is_none_or(|n| done[*n]))
                })
                .collect();
            if free.is_empty() {
                break;
            }
            for i in free {
                done[i] = true;
            }
        }
        // Each of a ring is named, not those that only wait for it: whoever looks at one sees it there.
        let stuck = |key: &String| number.get(key.as_str()).copied().filter(|n| !done[*n]);
        let leads_to = |from: usize, to: usize| {
            let (mut reached, mut ahead) = (BTreeSet::new(), vec![from]);
            while let Some(at) = ahead.pop() {
                if at == to {
                    return true;
                }
                if reached.insert(at) {
                    ahead.extend(waits[at].1.iter().filter_map(stuck));
                }
            }
            false
        };
        let ring: Vec<(usize, usize)> = (0..waits.len())
            .filter(|i| !done[*i])
            .filter_map(|i| {
                let back = |key: &String| stuck(key).is_some_and(|n| leads_to(n, i));
                waits[i].1.iter().position(back).map(|a| (i, a))
            })
            .collect();
        let names: Vec<&str> = ring.iter().map(|(i, _)| waits[*i].0).collect();
        for (i, a) in &ring {
            self.add(
                place(*i, *a),
                format!(
                    "these wait for one another in a ring, so none can come first: {}",
                    names.join(", ")
                ),
            );
        }
    }
}
