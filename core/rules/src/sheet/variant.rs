//! One sheet for several builds of a box: what each build is called, what is in one and not in another, and the sheet of
//! one build alone.

use std::collections::{BTreeMap, BTreeSet};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    BuildStep, Check, Family, GearPath, Item, Pack, Part, Sheet, WrittenTarget, WrittenWindow,
};

/// A build of the box.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Variant)]
pub struct Variant {
    /// A short name, unique among the variants.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// Anything else about it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// A window that some builds have in place of the check's own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::WindowIn)]
pub struct WindowIn {
    /// The variants that have it.
    #[schemars(length(min = 1, max = 12))]
    pub only_in: Vec<String>,
    pub window: WrittenWindow,
    /// Where in it to aim; as the check says where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target: Option<WrittenTarget>,
}

/// What may be in some builds of a box and not in others.
pub(crate) trait Scoped {
    /// The variants that have it; all where none is named.
    fn only_in(&self) -> &[String];
    /// The variants that do not.
    fn not_in(&self) -> &[String];

    /// In the sheet of one build everything is in that build.
    fn unscoped(&mut self);

    fn is_in(&self, variant: &str) -> bool {
        let names = |list: &[String]| list.iter().any(|v| v == variant);
        (self.only_in().is_empty() || names(self.only_in())) && !names(self.not_in())
    }
}

macro_rules! scoped {
    ($($of:ty),*) => {
        $(impl Scoped for $of {
            fn only_in(&self) -> &[String] {
                &self.only_in
            }
            fn not_in(&self) -> &[String] {
                &self.not_in
            }
            fn unscoped(&mut self) {
                self.only_in.clear();
                self.not_in.clear();
            }
        })*
    };
}
scoped!(Part, Item, BuildStep, Check, Family, Pack, GearPath);

/// Which entries of a sheet's lists are in the sheet of one build, so that a place in that can be found in the whole.
#[derive(Debug, Default)]
pub(crate) struct Kept(BTreeMap<String, Vec<usize>>);

impl Kept {
    /// Keeps what is in a build.
    fn keep_built<T: Scoped>(&mut self, list: &mut Vec<T>, of: &str, variant: &str) {
        self.keep(list, of, |t| t.is_in(variant));
        list.iter_mut().for_each(Scoped::unscoped);
    }

    fn keep<T>(&mut self, list: &mut Vec<T>, of: &str, is_kept: impl Fn(&T) -> bool) {
        let places = (0..list.len()).filter(|i| is_kept(&list[*i]));
        self.0.insert(of.to_owned(), places.collect());
        list.retain(is_kept);
    }

    /// The place in the whole sheet of a place in the sheet of one build; both are JSON Pointers.
    pub(crate) fn in_whole(&self, place: &str) -> String {
        let mut whole = String::new();
        for part in place.split('/').skip(1) {
            let kept = part.parse::<usize>().ok();
            let kept = kept.and_then(|at| self.0.get(&whole)?.get(at));
            whole.push('/');
            match kept {
                Some(at) => whole.push_str(&at.to_string()),
                None => whole.push_str(part),
            }
        }
        if whole.is_empty() {
            place.to_owned()
        } else {
            whole
        }
    }
}

/// The keys of what is in the whole sheet and not in one build.
fn left_out<'a, T: Scoped + 'a>(
    all: impl Iterator<Item = &'a T> + Clone,
    key: impl Fn(&'a T) -> &'a str,
    variant: &str,
) -> BTreeSet<String> {
    let kept: BTreeSet<&str> = all.clone().filter(|t| t.is_in(variant)).map(&key).collect();
    all.map(key)
        .filter(|k| !kept.contains(k))
        .map(str::to_owned)
        .collect()
}

/// The keys of what is in the whole sheet and not in one build.
struct Gone {
    /// Of parts and items.
    parts: BTreeSet<String>,
    checks: BTreeSet<String>,
    steps: BTreeSet<String>,
    families: BTreeSet<String>,
}

impl Gone {
    fn of(sheet: &Sheet, variant: &str) -> Self {
        let parts = || sheet.shafts.iter().flat_map(|s| &s.parts);
        let mut gone = left_out(parts(), |p| &p.key, variant);
        gone.extend(left_out(sheet.items.iter(), |i| &i.key, variant));
        // A key may be an item's in one build and a part's in another.
        let there = |key: &String| {
            parts().any(|p| p.key == *key && p.is_in(variant))
                || sheet
                    .items
                    .iter()
                    .any(|i| i.key == *key && i.is_in(variant))
        };
        gone.retain(|key| !there(key));
        let checks = left_out(sheet.checks.iter(), |c| &c.key, variant);
        let steps = left_out(sheet.build.iter(), |s| &s.key, variant);
        let families = left_out(sheet.families.iter(), |f| &f.key, variant);
        Self {
            parts: gone,
            checks,
            steps,
            families,
        }
    }

    /// Checks with the window of their build, that name nothing that is gone.
    fn out_of_checks(&self, sheet: &mut Sheet, kept: &mut Kept, variant: &str) {
        for (c, check) in sheet.checks.iter_mut().enumerate() {
            let of = kept.in_whole(&format!("/checks/{c}"));
            let has = |w: &WindowIn| w.only_in.iter().any(|v| v == variant);
            if let Some(own) = check.windows.iter().find(|w| has(w)) {
                check.window = Some(own.window.clone());
                check.target = own.target.clone().or(check.target.take());
            }
            check.windows.clear();
            kept.keep(&mut check.stack, &format!("{of}/stack"), |t| {
                t.part.as_ref().is_none_or(|p| !self.parts.contains(p))
            });
            kept.keep(&mut check.after, &format!("{of}/after"), |k| {
                !self.checks.contains(k)
            });
            for (list, field) in [
                (&mut check.rests_on, "rests_on"),
                (&mut check.not_on, "not_on"),
            ] {
                kept.keep(list, &format!("{of}/{field}"), |k| !self.parts.contains(k));
            }
            kept.keep(&mut check.moved_by, &format!("{of}/moved_by"), |m| {
                !self.checks.contains(&m.check)
            });
            kept.keep(&mut check.or_set_by, &format!("{of}/or_set_by"), |o| {
                !self.families.contains(&o.family)
            });
            if let Some(proof) = &mut check.proof {
                let of = format!("{of}/proof");
                kept.keep(&mut proof.again_after, &format!("{of}/again_after"), |k| {
                    !self.checks.contains(k)
                });
                kept.keep(&mut proof.says, &format!("{of}/says"), |s| {
                    !self.checks.contains(&s.check)
                });
            }
        }
    }

    fn out_of_steps(&self, sheet: &mut Sheet, kept: &mut Kept, whole: &Sheet) {
        for (s, step) in sheet.build.iter_mut().enumerate() {
            step.needs
                .extend(whole.waited_for_through(&step.needs, &self.steps));
            let of = kept.in_whole(&format!("/build/{s}"));
            for (list, field, gone) in [
                (&mut step.puts, "puts", &self.parts),
                (&mut step.needs, "needs", &self.steps),
                (&mut step.covers, "covers", &self.steps),
                (&mut step.hold, "hold", &self.checks),
            ] {
                kept.keep(list, &format!("{of}/{field}"), |k| !gone.contains(k));
            }
            for (a, ask) in step.prove.iter_mut().enumerate() {
                let of = format!("{of}/prove/{a}/again_after");
                kept.keep(&mut ask.again_after, &of, |k| !self.steps.contains(k));
            }
        }
    }

    /// What the build is told by, and where to look for complaints of it.
    fn out_of_questions(&self, sheet: &mut Sheet, kept: &mut Kept, whole: &Sheet, variant: &str) {
        for (q, question) in sheet.identify.iter_mut().enumerate() {
            let of = format!("/identify/{q}/answers");
            kept.keep(&mut question.answers, &of, |a| a.of(Some(variant)));
            question.answers.iter_mut().for_each(|a| a.only_in.clear());
        }
        // Of what this build is not asked, nothing is known of it.
        kept.keep(&mut sheet.identify, "/identify", |q| !q.answers.is_empty());
        let gears: BTreeSet<&str> = sheet.gears.iter().map(|g| g.name.as_str()).collect();
        let no_gear: BTreeSet<String> = whole.gears.iter().map(|g| g.name.clone()).collect();
        let no_gear: BTreeSet<&String> = no_gear
            .iter()
            .filter(|g| !gears.contains(g.as_str()))
            .collect();
        let of_one = |key: &String| self.parts.contains(key);
        kept.keep(&mut sheet.look_at, "/look_at", |l| {
            !no_gear.contains(&l.gear) && (l.parts.is_empty() || !l.parts.iter().all(of_one))
        });
        for (l, look) in sheet.look_at.iter_mut().enumerate() {
            let of = kept.in_whole(&format!("/look_at/{l}/parts"));
            kept.keep(&mut look.parts, &of, |k| !self.parts.contains(k));
        }
    }
}

impl Sheet {
    /// The variant of that key.
    #[must_use]
    pub fn variant(&self, key: &str) -> Option<&Variant> {
        self.variants.iter().find(|v| v.key == key)
    }

    /// The variant that a box is taken for of which it is not known what it is: the first; none where there is only one
    /// build.
    #[must_use]
    pub fn usual_variant(&self) -> Option<&Variant> {
        self.variants.first()
    }

    /// The sheet of one build alone, which every rule of a job works by. What names something that this build does not
    /// have no longer names it: a term of a stack, a step that is waited for, a part that is put in.
    ///
    /// A sheet of only one build is that build. Of a variant that it does not have, or none, it is the first.
    #[must_use]
    pub fn as_built(&self, variant: &str) -> Self {
        match self.variant(variant).or_else(|| self.usual_variant()) {
            Some(of) => self.built(&of.key).0,
            None => self.clone(),
        }
    }

    pub(crate) fn built(&self, variant: &str) -> (Self, Kept) {
        let gone = Gone::of(self, variant);
        let mut kept = Kept::default();
        let mut sheet = self.clone();
        sheet.variants.retain(|v| v.key == variant);
        for (s, shaft) in sheet.shafts.iter_mut().enumerate() {
            kept.keep_built(&mut shaft.parts, &format!("/shafts/{s}/parts"), variant);
            for part in &mut shaft.parts {
                for of in [&mut part.kept_with, &mut part.mates, &mut part.twin] {
                    of.take_if(|key| gone.parts.contains(key));
                }
                part.facing.take_if(|f| gone.parts.contains(&f.towards));
            }
        }
        kept.keep_built(&mut sheet.families, "/families", variant);
        kept.keep_built(&mut sheet.checks, "/checks", variant);
        kept.keep(&mut sheet.packs, "/packs", |p| {
            p.is_in(variant) && !gone.checks.contains(&p.check)
        });
        sheet.packs.iter_mut().for_each(Scoped::unscoped);
        kept.keep_built(&mut sheet.items, "/items", variant);
        kept.keep_built(&mut sheet.gears, "/gears", variant);
        kept.keep_built(&mut sheet.build, "/build", variant);
        for (i, item) in sheet.items.iter_mut().enumerate() {
            let of = kept.in_whole(&format!("/items/{i}"));
            kept.keep(&mut item.kept_with, &format!("{of}/kept_with"), |k| {
                !gone.parts.contains(k)
            });
            item.twin.take_if(|key| gone.parts.contains(key));
            item.facing.take_if(|f| gone.parts.contains(&f.towards));
        }
        gone.out_of_checks(&mut sheet, &mut kept, variant);
        gone.out_of_steps(&mut sheet, &mut kept, self);
        gone.out_of_questions(&mut sheet, &mut kept, self, variant);
        (sheet, kept)
    }

    /// What those of some steps wait for that a build does not have: what waits for them waits for that.
    fn waited_for_through(&self, needs: &[String], gone: &BTreeSet<String>) -> Vec<String> {
        let mut seen: BTreeSet<&str> = needs.iter().map(String::as_str).collect();
        let mut open: Vec<&str> = needs.iter().map(String::as_str).collect();
        let mut through = Vec::new();
        while let Some(key) = open.pop() {
            if !gone.contains(key) {
                continue;
            }
            let steps = self.build.iter().filter(|s| s.key == key);
            for further in steps.flat_map(|s| &s.needs) {
                if seen.insert(further) {
                    open.push(further);
                    through.push(further.clone());
                }
            }
        }
        through
    }
}
