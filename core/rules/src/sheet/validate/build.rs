//! Parts off the rails, which way round parts go, and the steps of the build.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::calculators::rollers::RowError;
use anvil_arithmetic::materials::threads::most_torque_n_m;
use fixedbitset::FixedBitSet;
use petgraph::algo::toposort;
use petgraph::graph::{DiGraph, NodeIndex};

use super::Faults;
use crate::sheet::{BuildStep, Facing, Fasteners, Loose, PartKind, Sheet, Stage};

/// No nut of a gearbox is tightened further than this, in newton metres.
const MOST_TORQUE_N_M: f64 = 1_000.0;

impl Faults {
    pub(super) fn items(&mut self, sheet: &Sheet) {
        let parts = sheet.shafts.iter().flat_map(|s| &s.parts);
        let mut seen: BTreeSet<&str> = parts.map(|p| p.key.as_str()).collect();
        for (i, item) in sheet.items.iter().enumerate() {
            if !seen.insert(&item.key) {
                let key = &item.key;
                self.add(
                    format!("/items/{i}/key"),
                    format!("there is another part or item of the key “{key}”: keys must differ"),
                );
            }
        }
        for (s, shaft) in sheet.shafts.iter().enumerate() {
            for (p, part) in shaft.parts.iter().enumerate() {
                let place = format!("/shafts/{s}/parts/{p}");
                self.twin(sheet, &place, &part.key, part.twin.as_deref());
                self.facing(sheet, &place, &part.key, part.facing.as_ref());
            }
        }
        for (i, item) in sheet.items.iter().enumerate() {
            let place = format!("/items/{i}");
            self.twin(sheet, &place, &item.key, item.twin.as_deref());
            self.facing(sheet, &place, &item.key, item.facing.as_ref());
            for (k, key) in item.kept_with.iter().enumerate() {
                if *key == item.key {
                    self.add(
                        format!("{place}/kept_with/{k}"),
                        "an item is not kept with itself: name the other",
                    );
                } else {
                    self.part_there(sheet, format!("{place}/kept_with/{k}"), key);
                }
            }
        }
        if let Some(positions) = &sheet.positions {
            let names = positions.names.iter().enumerate();
            self.unique_name(
                "position",
                names.map(|(i, n)| (format!("/positions/names/{i}"), n)),
            );
        }
    }

    pub(super) fn part_there(&mut self, sheet: &Sheet, place: String, key: &str) {
        if sheet.name_of_part(key).is_none() {
            self.add(place, format!("no part or item has the key “{key}”"));
        }
    }

    fn twin(&mut self, sheet: &Sheet, place: &str, key: &str, twin: Option<&str>) {
        match twin {
            Some(twin) if twin == key => self.add(
                format!("{place}/twin"),
                "a part is not its own twin: name the other",
            ),
            Some(twin) => self.part_there(sheet, format!("{place}/twin"), twin),
            None => {}
        }
    }

    fn facing(&mut self, sheet: &Sheet, place: &str, key: &str, facing: Option<&Facing>) {
        let Some(facing) = facing else { return };
        let place = format!("{place}/facing/towards");
        if facing.towards == key {
            self.add(place, "a face looks towards another part, or to a side");
        } else if !Facing::DIRECTIONS.contains(&facing.towards.as_str())
            && sheet.name_of_part(&facing.towards).is_none()
        {
            self.add(
                place,
                format!(
                    "say left, right, up, out, in, load, or the key of a part: no part has the key “{}”",
                    facing.towards
                ),
            );
        }
    }

    pub(super) fn unique_name<'a>(
        &mut self,
        what: &str,
        names: impl Iterator<Item = (String, &'a String)>,
    ) {
        let mut seen = Vec::new();
        for (place, name) in names {
            if name.trim().is_empty() {
                self.add(place, format!("a {what} has a name: write it"));
            } else if seen.contains(&name) {
                self.add(
                    place,
                    format!("there is another {what} “{name}”: names must differ"),
                );
            } else {
                seen.push(name);
            }
        }
    }

    pub(super) fn build(&mut self, sheet: &Sheet) {
        let keys = sheet.build.iter().enumerate();
        self.unique(
            "step",
            keys.map(|(i, s)| (format!("/build/{i}/key"), s.key.as_str())),
        );
        for (i, step) in sheet.build.iter().enumerate() {
            self.step(sheet, i, step);
        }
        self.put_in_once(sheet);
        let waits: Vec<_> = sheet
            .build
            .iter()
            .map(|s| (s.key.as_str(), s.needs.as_slice()))
            .collect();
        let before = self.0.len();
        self.order("step", &waits, |i, n| format!("/build/{i}/needs/{n}"));
        if self.0.len() == before {
            self.out_of_reach(sheet);
        }
    }

    fn step(&mut self, sheet: &Sheet, i: usize, step: &BuildStep) {
        for (h, key) in step.hold.iter().enumerate() {
            if sheet.check(key).is_none() {
                self.add(
                    format!("/build/{i}/hold/{h}"),
                    format!("no check has the key “{key}”"),
                );
            }
        }
        for (p, key) in step.puts.iter().enumerate() {
            self.part_there(sheet, format!("/build/{i}/puts/{p}"), key);
        }
        let others = step.covers.iter().enumerate();
        let others = others.map(|(c, key)| (format!("/build/{i}/covers/{c}"), key));
        let again = step.prove.iter().enumerate().flat_map(|(a, ask)| {
            let keys = ask.again_after.iter().enumerate();
            keys.map(move |(k, key)| (format!("/build/{i}/prove/{a}/again_after/{k}"), key))
        });
        for (place, key) in others.chain(again) {
            if *key == step.key {
                self.add(place, "this is the step itself: name another");
            } else if sheet.build.iter().all(|s| s.key != *key) {
                self.add(place, format!("no step has the key “{key}”"));
            }
        }
        for (field, position) in [("selector", &step.selector), ("leaves", &step.leaves)] {
            let there = |of: &crate::sheet::SelectorPositions| of.names.contains(position);
            let known = sheet.positions.as_ref();
            if !position.is_empty() && known.is_some_and(|p| !there(p)) {
                let names = known.map(|p| p.names.join(", ")).unwrap_or_default();
                self.add(
                    format!("/build/{i}/{field}"),
                    format!("the selector has no position “{position}”: it has {names}"),
                );
            }
        }
        if let Some(loose) = &step.loose {
            self.rows(&format!("/build/{i}/loose"), loose);
        }
        if let (Some(loose), Some(count)) = (&step.loose, step.count)
            && loose.in_all() != count
        {
            self.add(
                format!("/build/{i}/count"),
                format!(
                    "{} rows of {} make {}, and not {count}: leave this out, or put the rows right",
                    loose.rows,
                    loose.per_row,
                    loose.in_all()
                ),
            );
        }
        if let Some(torque) = step.torque_n_m {
            self.torque(&format!("/build/{i}/torque_n_m"), torque, "");
        }
        if let Some(fasteners) = &step.fasteners {
            self.fasteners(&format!("/build/{i}/fasteners"), fasteners);
        }
    }

    /// Rows whose diameters are known hold as many as were written.
    fn rows(&mut self, place: &str, loose: &Loose) {
        match (&loose.shaft, &loose.roller) {
            (Some(_), None) => self.add(
                format!("{place}/roller"),
                "with the shaft's diameter goes that of one roller: write both, or neither",
            ),
            (None, Some(_)) => self.add(
                format!("{place}/shaft"),
                "with a roller's diameter goes that of the shaft: write both, or neither",
            ),
            _ => match loose.row() {
                Some(Err(fault @ RowError::TooMany { .. })) => {
                    self.add(format!("{place}/per_row"), fault.to_string());
                }
                Some(Err(fault)) => self.add(format!("{place}/shaft"), fault.to_string()),
                None | Some(Ok(_)) => {}
            },
        }
    }

    fn torque(&mut self, place: &str, n_m: f64, thread: &str) {
        let bears = most_torque_n_m(thread);
        if !(n_m > 0.0 && n_m <= MOST_TORQUE_N_M) {
            self.add(
                place,
                format!("a torque lies above nothing and up to {MOST_TORQUE_N_M} N·m"),
            );
        } else if let Some(most) = bears.filter(|most| n_m > *most) {
            self.add(
                place,
                format!(
                    "{n_m} N·m breaks an {thread}: the strongest bolt of that thread yields at about {most:.0} N·m"
                ),
            );
        }
    }

    fn fasteners(&mut self, place: &str, of: &Fasteners) {
        for (s, stage) in of.stages.iter().enumerate() {
            match stage {
                Stage::Torque { n_m } => {
                    self.torque(&format!("{place}/stages/{s}/n_m"), *n_m, &of.thread);
                }
                Stage::BackOff { degrees } | Stage::Angle { degrees } => {
                    if !(*degrees > 0.0 && *degrees <= 720.0) {
                        self.add(
                            format!("{place}/stages/{s}/degrees"),
                            "an angle lies above nothing and up to two turns, 720°",
                        );
                    }
                }
                Stage::Seat {} => {}
            }
        }
        if !of.bolts.is_empty() && of.bolts.len() != of.count as usize {
            self.add(
                format!("{place}/bolts"),
                format!(
                    "{} places for {} fasteners: give a place to each, or to none",
                    of.bolts.len(),
                    of.count
                ),
            );
        }
    }

    /// Each part is put in by one step, where steps say what they put in; a case stands there from the start.
    fn put_in_once(&mut self, sheet: &Sheet) {
        if sheet.build.iter().all(|s| s.puts.is_empty()) {
            return;
        }
        let mut by: BTreeMap<&str, &str> = BTreeMap::new();
        for (i, step) in sheet.build.iter().enumerate() {
            for (p, key) in step.puts.iter().enumerate() {
                if let Some(before) = by.insert(key, &step.what) {
                    self.add(
                        format!("/build/{i}/puts/{p}"),
                        format!("“{before}” puts it in already: a part goes in once"),
                    );
                }
            }
        }
        let there = |kind: &PartKind| *kind == PartKind::Housing;
        let mut never = Vec::new();
        for (s, shaft) in sheet.shafts.iter().enumerate() {
            for (p, part) in shaft.parts.iter().enumerate() {
                if !there(&part.kind) && !by.contains_key(part.key.as_str()) {
                    never.push((format!("/shafts/{s}/parts/{p}/name"), &part.name));
                }
            }
        }
        for (i, item) in sheet.items.iter().enumerate() {
            if !by.contains_key(item.key.as_str()) {
                never.push((format!("/items/{i}/name"), &item.name));
            }
        }
        for (place, name) in never {
            self.add(
                place,
                format!("no step of the build puts {name} in: name it at the step that does"),
            );
        }
    }

    /// A step that rests, through others, on one that covers it can never be done. No step waits for itself.
    fn out_of_reach(&mut self, sheet: &Sheet) {
        let number: BTreeMap<&str, usize> = sheet
            .build
            .iter()
            .enumerate()
            .map(|(i, s)| (s.key.as_str(), i))
            .collect();
        let at = |key: &String| number.get(key.as_str()).copied();
        let mut waits = DiGraph::<(), ()>::new();
        let nodes: Vec<NodeIndex> = sheet.build.iter().map(|_| waits.add_node(())).collect();
        for (i, step) in sheet.build.iter().enumerate() {
            for below in step.needs.iter().filter_map(at) {
                waits.add_edge(nodes[below], nodes[i], ());
            }
        }
        let Ok(order) = toposort(&waits, None) else {
            return;
        };
        // All that each step rests on: what each of those that it needs rests on, and those.
        let count = sheet.build.len();
        let mut under = vec![FixedBitSet::with_capacity(count); count];
        for node in order {
            let i = node.index();
            for below in sheet.build[i].needs.iter().filter_map(at) {
                let all = under[below].clone();
                under[i].union_with(&all);
                under[i].insert(below);
            }
        }
        for (below, other) in sheet.build.iter().enumerate() {
            for i in other.covers.iter().filter_map(at) {
                if under[i].contains(below) {
                    self.add(
                        format!("/build/{i}/what"),
                        format!(
                            "nobody can get at it: it comes after “{}”, which covers it",
                            other.what
                        ),
                    );
                }
            }
        }
    }
}
