//! Which parts a check rests on: with another in the place of one of them, or with one of them changed, it has to be made
//! again (common practice, no source).

use std::collections::BTreeSet;

use super::{Check, CheckKind, Item, ItemKind, Part, PartKind, SelectorGear, Shaft, Sheet};

type Keys<'a> = BTreeSet<&'a str>;

impl Sheet {
    /// The keys of the parts that a check rests on.
    ///
    /// What it names: the terms of its stack, the parts that it lies between, what sets it, and the same of the checks
    /// whose pieces move it. Besides, by its kind: of a shaft's float, preload or torque the whole shaft; of a pinion's
    /// height the pinion and the gear that it was lapped with; of a backlash both gears, what holds the one and where the
    /// other stands; of a selector its forks, rods and drum, the dogs that meet and the shims that move their shafts; of a
    /// pack its plates and what holds them; of planet pinions their carriers. Then the covers and gaskets that close the
    /// case that it is measured in. At last what the sheet adds or takes off.
    #[must_use]
    pub fn rests_on<'a>(&'a self, check: &'a Check) -> BTreeSet<&'a str> {
        let mut on = named(check);
        if on.is_empty() {
            on = self.put_where_held(check, in_the_way);
        }
        for by in &check.moved_by {
            on.extend(self.check(&by.check).map(named).unwrap_or_default());
        }
        match check.kind {
            CheckKind::EndFloat | CheckKind::BearingPreload | CheckKind::TurningTorque => {
                on.extend(self.whole_shafts(&on));
            }
            CheckKind::PinionHeight => {
                let shaft = self.whole_shafts(&on);
                let gears = self.of_kind(PartKind::Gear);
                let pinions = gears.filter(|key| shaft.contains(key)).collect();
                on.extend(self.mates_of(&pinions));
                on.extend(pinions);
            }
            CheckKind::PinionEndPlay => on.extend(self.of_kind(PartKind::Planet)),
            CheckKind::Backlash => {
                on.extend(self.whole_shafts(&on));
                let pinions = self.mates_of(&on);
                on.extend(self.what_stands(&pinions));
                on.extend(pinions);
            }
            CheckKind::SelectorCentring | CheckKind::SelectorLimits => {
                let selector = check.selector.iter().flat_map(|s| &s.gears);
                on.extend(self.moves(&selector.collect::<Vec<_>>()));
            }
            CheckKind::ClutchPackClearance => on.extend(self.put_before_held(check)),
            CheckKind::ThrustClearance
            | CheckKind::GearSideClearance
            | CheckKind::RetainerPinch
            | CheckKind::SeatHeight
            | CheckKind::Fit
            | CheckKind::PassFail => {}
        }
        if !check.closing.is_empty() {
            let together = self.checks.iter().filter(|c| c.closing == check.closing);
            on.extend(together.flat_map(|c| self.put_where_held(c, closes)));
        }
        on.extend(check.rests_on.iter().map(String::as_str));
        on.retain(|key| !check.not_on.iter().any(|not| not == key));
        on
    }

    /// The checks that rest on a part.
    #[must_use]
    pub fn checks_on(&self, part: &str) -> Vec<&Check> {
        let checks = self.checks.iter();
        checks.filter(|c| self.rests_on(c).contains(part)).collect()
    }

    /// All parts of the shafts that some of these lie on.
    fn whole_shafts(&self, some: &Keys<'_>) -> Keys<'_> {
        let has_some = |s: &&Shaft| s.parts.iter().any(|p| some.contains(p.key.as_str()));
        let shafts = self.shafts.iter().filter(has_some);
        shafts.flat_map(|s| &s.parts).map(key_of).collect()
    }

    /// The parts on rails that are of a kind.
    fn of_kind(&self, kind: PartKind) -> impl Iterator<Item = &str> {
        let all = self.shafts.iter().flat_map(|s| &s.parts);
        all.filter(move |p| p.kind == kind).map(key_of)
    }

    /// The gears that mesh with those among these.
    fn mates_of(&self, gears: &Keys<'_>) -> Keys<'_> {
        let all = self.shafts.iter().flat_map(|s| &s.parts);
        let pairs = all.filter_map(|p| Some((p.key.as_str(), p.mates.as_deref()?)));
        let mates =
            pairs.filter_map(
                |(one, other)| match (gears.contains(one), gears.contains(other)) {
                    (true, false) => Some(other),
                    (false, true) => Some(one),
                    _ => None,
                },
            );
        mates.collect()
    }

    /// What the height of these pinions is measured on and set by.
    fn what_stands(&self, pinions: &Keys<'_>) -> Keys<'_> {
        let of_height = |c: &&Check| c.kind == CheckKind::PinionHeight;
        let heights = self.checks.iter().filter(of_height).map(named);
        heights
            .filter(|named| {
                let on = self.whole_shafts(named);
                pinions.iter().any(|p| on.contains(p))
            })
            .flatten()
            .collect()
    }

    /// What moves these gears of a selector, and what they meet.
    fn moves(&self, of: &[&SelectorGear]) -> Keys<'_> {
        let forks = || self.items.iter().filter(|i| i.kind == ItemKind::Fork);
        let is_named = |i: &&Item| of.iter().any(|g| g.fork.eq_ignore_ascii_case(&i.name));
        let named_forks: Vec<&Item> = forks().filter(is_named).collect();
        let forks = if named_forks.is_empty() {
            forks().collect()
        } else {
            named_forks
        };
        let drive = |i: &&Item| matches!(i.kind, ItemKind::Rod | ItemKind::SelectorDrum);
        let items = forks.into_iter().chain(self.items.iter().filter(drive));
        let mut on: Keys<'_> = items.map(|i| i.key.as_str()).collect();
        for path in &self.gears {
            let is_path = |g: &&SelectorGear| {
                let name = g.name.split(',').next().unwrap_or_default().trim();
                name.eq_ignore_ascii_case(&path.name)
            };
            if of.iter().any(is_path) {
                for gear in path.pairs.iter().flatten() {
                    on.extend(self.dogs_about(gear));
                }
            }
        }
        on
    }

    /// A gear with what could be engaged with it at either side, and the shims of its shaft.
    fn dogs_about(&self, gear: &str) -> Vec<&str> {
        let Some((shaft, at)) = self.shafts.iter().find_map(|s| {
            let at = s.parts.iter().position(|p| p.key == gear)?;
            Some((s, at))
        }) else {
            return Vec::new();
        };
        let (before, after) = shaft.parts.split_at(at);
        let dogs = |p: &&Part| {
            matches!(p.kind, PartKind::Gear | PartKind::Sleeve | PartKind::Hub) && p.key != gear
        };
        let next = before.iter().rev().find(dogs);
        let neighbours = next.into_iter().chain(after.iter().find(dogs));
        let shims = shaft.parts.iter().filter(|p| p.kind == PartKind::Shim);
        let all = neighbours.chain(shims).chain(&shaft.parts[at..=at]);
        all.map(key_of).collect()
    }

    /// What the steps that a check is held at put in, where it is `wanted`.
    fn put_where_held(&self, check: &Check, wanted: fn(ItemKind) -> bool) -> Keys<'_> {
        let steps = self.build.iter().filter(|s| s.hold.contains(&check.key));
        self.put_by(steps.flat_map(|s| &s.puts), wanted)
    }

    /// The same with the steps that those need first.
    fn put_before_held(&self, check: &Check) -> Keys<'_> {
        let held: Vec<_> = (self.build.iter())
            .filter(|s| s.hold.contains(&check.key))
            .collect();
        let needed = |key: &String| held.iter().any(|s| s.key == *key || s.needs.contains(key));
        let steps = self.build.iter().filter(|s| needed(&s.key));
        self.put_by(steps.flat_map(|s| &s.puts), in_the_way)
    }

    /// Parts on rails, and items that are `wanted`.
    fn put_by<'a>(
        &'a self,
        keys: impl Iterator<Item = &'a String>,
        wanted: fn(ItemKind) -> bool,
    ) -> Keys<'a> {
        let item = |key: &str| self.items.iter().find(|i| i.key == key);
        let all_of_rails = wanted(ItemKind::Other);
        keys.map(String::as_str)
            .filter(|key| item(key).map_or(all_of_rails, |i| wanted(i.kind)))
            .collect()
    }
}

fn key_of(part: &Part) -> &str {
    &part.key
}

/// What a check names.
fn named(check: &Check) -> Keys<'_> {
    let in_stack = check.stack.iter().filter_map(|t| t.part.as_deref());
    let beside = check.between.iter().flatten().map(String::as_str);
    let set_by = check.set_by.iter().filter_map(|s| s.part.as_deref());
    let or_set_by = check.or_set_by.iter().filter_map(|s| s.part.as_deref());
    let all = in_stack.chain(beside).chain(set_by).chain(or_set_by);
    all.collect()
}

/// A length may go through it: not through what only holds, seals or guides.
const fn in_the_way(kind: ItemKind) -> bool {
    matches!(
        kind,
        ItemKind::Gasket | ItemKind::Ring | ItemKind::Cover | ItemKind::Piston | ItemKind::Other
    )
}

/// It closes the case.
const fn closes(kind: ItemKind) -> bool {
    matches!(kind, ItemKind::Gasket | ItemKind::Cover)
}
