//! What differs between two revisions of a sheet, in words.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::units::written::Written;
use serde::Serialize;
use serde_json::{Map, Value};

use crate::sheet::{Check, Sheet};

/// One thing that differs between two revisions of a sheet.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Difference {
    /// Where, in words: `check “Input float” · window · low`.
    pub place: String,
    /// What it was; none where it is new.
    pub was: Option<String>,
    /// What it is; none where it is gone.
    pub now: Option<String>,
    /// The key of the check that it belongs to, where it belongs to one.
    pub check: Option<String>,
}

/// What differs from one revision of a sheet to another, in the sheet's order.
///
/// Things with a key are told apart by it, so a part that was only moved is not a part gone and another
/// come. Lengths are compared as lengths: `0.10 mm` and `0.1 mm` are the same.
#[must_use]
pub fn differences(was: &Sheet, now: &Sheet) -> Vec<Difference> {
    let (was, now) = (value(was), value(now));
    let mut walk = Walk {
        names: BTreeMap::new(),
        found: Vec::new(),
        check: None,
    };
    walk.names_of(&was);
    walk.names_of(&now);
    walk.compare(&mut Vec::new(), &was, &now);
    walk.found
}

impl Check {
    /// Whether readings of this check mean the same, and are judged the same, by another revision's:
    /// a signature given on one stands on the other.
    #[must_use]
    pub fn judged_as(&self, other: &Self) -> bool {
        let Self {
            kind,
            window,
            shop_window,
            torque,
            proof,
            adjustments,
            stack,
            pinions,
            selector,
            groove,
            backlash,
            fit,
            // How it is taken, chosen for and shown; a signature says nothing of it. Named one by one, so that a
            // new field has to be put on one side or the other.
            key: _,
            name: _,
            between: _,
            rule: _,
            source: _,
            look_up: _,
            target: _,
            harm: _,
            method: _,
            how: _,
            known_shim: _,
            set_by: _,
            or_set_by: _,
            moved_by: _,
            hot: _,
            ready: _,
            chart,
            after: _,
            rests_on: _,
            not_on: _,
            closing: _,
            cautions: _,
            windows: _,
            only_in: _,
            not_in: _,
        } = self;
        *kind == other.kind
            && *window == other.window
            && *shop_window == other.shop_window
            && *torque == other.torque
            && *proof == other.proof
            && *adjustments == other.adjustments
            && *stack == other.stack
            && *pinions == other.pinions
            && *selector == other.selector
            && *groove == other.groove
            && *backlash == other.backlash
            && *fit == other.fit
            // Beside a window a chart judges nothing.
            && self.by_chart() == other.by_chart()
            && (!self.by_chart() || *chart == other.chart)
    }
}

/// A sheet, or a part of one, as it is written. What is plain data can always be written.
fn value(of: &impl Serialize) -> Value {
    serde_json::to_value(of).unwrap_or_default()
}

fn same(a: &Value, b: &Value) -> bool {
    match (a, b) {
        (Value::String(a), Value::String(b)) => {
            a == b
                || Written::try_from(a.clone())
                    .ok()
                    .zip(Written::try_from(b.clone()).ok())
                    .is_some_and(|(a, b)| a.length() == b.length())
        }
        (Value::Array(a), Value::Array(b)) => {
            a.len() == b.len() && a.iter().zip(b).all(|(a, b)| same(a, b))
        }
        (Value::Object(a), Value::Object(b)) => {
            a.len() == b.len()
                && a.iter()
                    .all(|(field, a)| b.get(field).is_some_and(|b| same(a, b)))
        }
        _ => a == b,
    }
}

struct Walk {
    /// What people call the things of each key.
    names: BTreeMap<String, String>,
    found: Vec<Difference>,
    check: Option<String>,
}

impl Walk {
    fn names_of(&mut self, value: &Value) {
        match value {
            Value::Object(fields) => {
                let text = |field: &str| fields.get(field).and_then(Value::as_str);
                if let (Some(key), Some(name)) = (text("key"), text("name")) {
                    self.names.insert(key.into(), name.into());
                }
                fields.values().for_each(|v| self.names_of(v));
            }
            Value::Array(items) => items.iter().for_each(|v| self.names_of(v)),
            _ => {}
        }
    }

    fn add(&mut self, path: &[String], was: Option<String>, now: Option<String>) {
        self.found.push(Difference {
            place: path.join(" · "),
            was,
            now,
            check: self.check.clone(),
        });
    }

    fn compare(&mut self, path: &mut Vec<String>, was: &Value, now: &Value) {
        if same(was, now) {
            return;
        }
        match (was, now) {
            (Value::Object(a), Value::Object(b)) => self.fields(path, a, b),
            (Value::Array(a), Value::Array(b)) => match (identities(a), identities(b)) {
                (Some(of_a), Some(of_b)) => self.items(path, (a, &of_a), (b, &of_b)),
                _ => self.rows(path, a, b),
            },
            _ => {
                let (was, now) = (self.text(was), self.text(now));
                self.add(path, Some(was), Some(now));
            }
        }
    }

    fn fields(&mut self, path: &mut Vec<String>, a: &Map<String, Value>, b: &Map<String, Value>) {
        let new = b.keys().filter(|field| !a.contains_key(*field));
        for field in a.keys().chain(new) {
            path.push(in_words(field));
            match (a.get(field), b.get(field)) {
                (Some(a), Some(b)) => self.compare(path, a, b),
                // A list left out is an empty one.
                (Some(Value::Array(a)), None) => self.compare_lists(path, a, &[]),
                (None, Some(Value::Array(b))) => self.compare_lists(path, &[], b),
                (a, b) => {
                    let (was, now) = (a.map(|v| self.text(v)), b.map(|v| self.text(v)));
                    self.add(path, was, now);
                }
            }
            path.pop();
        }
    }

    fn compare_lists(&mut self, path: &mut Vec<String>, a: &[Value], b: &[Value]) {
        self.compare(path, &Value::Array(a.to_vec()), &Value::Array(b.to_vec()));
    }

    /// Items told apart by what they are called.
    fn items(
        &mut self,
        path: &mut Vec<String>,
        (a, of_a): (&[Value], &[String]),
        (b, of_b): (&[Value], &[String]),
    ) {
        let list = path.pop().unwrap_or_default();
        let at = |of: &[String], id: &String| of.iter().position(|o| o == id);
        let new = of_b.iter().filter(|id| !of_a.contains(id));
        for id in of_a.iter().chain(new) {
            let (was, now) = (at(of_a, id).map(|i| &a[i]), at(of_b, id).map(|i| &b[i]));
            let label = now.or(was).map_or_else(|| id.clone(), |v| self.label(v));
            path.push(format!("{} “{label}”", singular(&list)));
            if list == "checks" {
                self.check = Some(id.clone());
            }
            match (was, now) {
                (Some(was), Some(now)) => self.compare(path, was, now),
                (was, now) => {
                    let (was, now) = (was.map(|v| self.text(v)), now.map(|v| self.text(v)));
                    self.add(path, was, now);
                }
            }
            if list == "checks" {
                self.check = None;
            }
            path.pop();
        }
        let stayed = |of: &[String], other: &[String]| -> Vec<String> {
            of.iter().filter(|id| other.contains(id)).cloned().collect()
        };
        let (was, now) = (stayed(of_a, of_b), stayed(of_b, of_a));
        if was != now {
            let named = |ids: &[String]| {
                let names: Vec<_> = ids.iter().map(|id| self.name(id)).collect();
                Some(names.join(", "))
            };
            let (was, now) = (named(&was), named(&now));
            path.push(format!("order of the {list}"));
            self.add(path, was, now);
            path.pop();
        }
        path.push(list);
    }

    /// Rows that only their place tells apart.
    fn rows(&mut self, path: &mut Vec<String>, a: &[Value], b: &[Value]) {
        for i in 0..a.len().max(b.len()) {
            path.push(format!("row {}", i + 1));
            match (a.get(i), b.get(i)) {
                (Some(a), Some(b)) => self.compare(path, a, b),
                (a, b) => {
                    let (was, now) = (a.map(|v| self.text(v)), b.map(|v| self.text(v)));
                    self.add(path, was, now);
                }
            }
            path.pop();
        }
    }

    fn name(&self, key: &str) -> String {
        let plain = key.split(" (").next().unwrap_or(key);
        let named = self.names.get(key).or_else(|| self.names.get(plain));
        named.cloned().unwrap_or_else(|| key.to_owned())
    }

    fn label(&self, item: &Value) -> String {
        match item {
            Value::Object(fields) => ["name", "what", "ask", "tick", "thickness", "check"]
                .iter()
                .find_map(|field| fields.get(*field).and_then(Value::as_str))
                .map_or_else(String::new, |text| self.name(text)),
            _ => self.text(item),
        }
    }

    /// A value in a line: names for keys, and of a thing what it has.
    fn text(&self, value: &Value) -> String {
        match value {
            Value::String(text) => match self.names.get(text) {
                Some(name) => name.clone(),
                None if is_word(text) => text.replace('_', " "),
                None => text.clone(),
            },
            Value::Bool(true) => "yes".into(),
            Value::Bool(false) => "no".into(),
            Value::Array(items) => {
                let each: Vec<_> = items.iter().map(|v| self.text(v)).collect();
                each.join(", ")
            }
            Value::Object(fields) => {
                let each: Vec<_> = fields
                    .iter()
                    .filter(|(field, _)| !matches!(field.as_str(), "key" | "name"))
                    .map(|(field, v)| format!("{} {}", in_words(field), self.text(v)))
                    .collect();
                each.join(", ")
            }
            other => other.to_string(),
        }
    }
}

/// What tells the items of a list apart; none where only their places do.
fn identities(items: &[Value]) -> Option<Vec<String>> {
    let of = |item: &Value| match item {
        Value::String(text) => Some(text.clone()),
        Value::Object(fields) => ["key", "what", "tick", "thickness", "check"]
            .iter()
            .find_map(|field| fields.get(*field).and_then(Value::as_str))
            .map(str::to_owned),
        _ => None,
    };
    let ids: Vec<String> = items.iter().map(of).collect::<Option<_>>()?;
    let different: BTreeSet<&String> = ids.iter().collect();
    if different.len() == ids.len() {
        return Some(ids);
    }
    // A key that several builds of a box use each for their own is told apart by which of them it is.
    let scoped = |item: &Value| {
        let list = |field: &str| item.get(field).and_then(Value::as_array).cloned();
        list("only_in").or_else(|| list("not_in"))
    };
    items.iter().any(|item| scoped(item).is_some()).then(|| {
        let nth = |i: usize| ids[..i].iter().filter(|id| **id == ids[i]).count();
        let id = |i: usize| match nth(i) {
            0 => ids[i].clone(),
            n => format!("{} ({})", ids[i], n + 1),
        };
        (0..ids.len()).map(id).collect()
    })
}

/// A word of the format's own, such as `turning_torque`.
fn is_word(text: &str) -> bool {
    text.bytes().all(|b| b.is_ascii_lowercase() || b == b'_')
}

/// A field's name as a person reads it.
fn in_words(field: &str) -> String {
    field.replace("_n_m", " N·m").replace('_', " ")
}

fn singular(list: &str) -> &str {
    match list {
        "families" => "pieces",
        "build" => "step",
        "identification" => "sign",
        "ready" => "tick",
        "identify" => "question",
        "after" => "after",
        "case" | "inside" => list,
        _ => list.strip_suffix('s').unwrap_or(list),
    }
}
