//! The spec sheet: what a shop knows about one model of box, as one JSON file.
//!
//! The format serves all four kinds of box; `docs/FORMATS.md` describes it for people and
//! `docs/sheet.schema.json`, made from these types, for programs. Lengths are written in bench
//! notation with their unit (`"0.10 mm"`, `"4 thou"`).

pub mod backlash;
mod build;
pub mod chart;
mod check;
mod diff;
mod doubts;
mod family;
pub mod fit;
mod gears;
mod identify;
mod item;
mod look_at;
pub mod pack;
mod part;
mod part_card;
mod propose;
mod rests_on;
mod schema;
pub(crate) mod validate;
mod variant;
mod wear;

use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Unit;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::texts::in_sentence;

pub use anvil_arithmetic::measure::Method;
pub use backlash::Backlash;
pub use build::{Ask, Bolt, BuildStep, Fasteners, Loose, Stage, Wait, WaitKind};
pub use chart::{Chart, ChartRow};
pub use check::{
    Adjustment, Check, CheckKind, Hot, HotAt, HotPart, MeasuredWith, MovedBy, OrSetBy, Pinions,
    Proof, ProofSays, Ready, Selector, SelectorGear, SetBy, StackTerm, TorqueWindow, WrittenTarget,
    WrittenWindow,
};
pub use diff::{Difference, differences};
pub use doubts::{Doubt, Waived, doubts};
pub use family::{Family, Size};
pub use fit::{Fit, FitSide};
pub use gears::{GearPath, Hand, Turning};
pub use identify::{Identify, IdentifyKind, Tells};
pub use item::{Face, Facing, Item, ItemKind, SelectorPositions};
pub use look_at::{LookAt, Symptom};
pub use pack::{Pack, Plate};
pub use part::{Part, PartKind, Shaft};
pub use part_card::{PartCard, WearCard};
pub use propose::proposed_steps;
pub use schema::json_schema;
pub use validate::{Fault, checked, read};
pub use variant::{Variant, WindowIn};
pub use wear::WearLimit;

/// What `format` says in every sheet.
pub const FORMAT: &str = "dry-anvil-sheet";
/// The version of the format that this program writes, and the newest it reads.
pub const VERSION: u32 = 1;

/// What kind of box a sheet is for.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum BoxKind {
    /// Manual gearbox or transaxle.
    Manual,
    Automatic,
    /// Motorcycle gearbox.
    Motorcycle,
    TransferCase,
}

/// A spec sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schemars(title = "Dry Anvil spec sheet")]
#[schema(as = sheet::Sheet)]
pub struct Sheet {
    /// Always `dry-anvil-sheet`.
    pub format: String,
    /// The version of the format, now 1.
    pub version: u32,
    /// A short name for addresses: small letters, digits and hyphens.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call the box.
    #[schemars(length(min = 1, max = 80))]
    pub name: String,
    /// The kind of box.
    pub kind: BoxKind,
    /// The unit the box's literature uses.
    pub unit: Unit,
    /// Where the figures come from.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub source: String,
    /// Anything else worth knowing.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub notes: String,
    /// How to tell that the box is what its papers say.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub identification: Vec<String>,
    /// Questions by which a build of the box is told from another, and the box from other boxes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 24))]
    pub identify: Vec<Identify>,
    /// The builds that it serves, the usual one first; none where there is only one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub variants: Vec<Variant>,
    /// What can hurt somebody or the box.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
    /// The shafts, in the order they are drawn.
    #[schemars(length(min = 1, max = 12))]
    pub shafts: Vec<Shaft>,
    /// The families of selective parts.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub families: Vec<Family>,
    /// What must be measured and signed off, in the order of setting.
    #[schemars(length(min = 1, max = 80))]
    pub checks: Vec<Check>,
    /// Clutch packs.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub packs: Vec<Pack>,
    /// The parts off the rails.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 300))]
    pub items: Vec<Item>,
    /// The positions of the selector.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub positions: Option<SelectorPositions>,
    /// Its gears, as the ways that power takes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 40))]
    pub gears: Vec<GearPath>,
    /// How the input turns, seen from the left end of its rail.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub input_turns: Option<Turning>,
    /// Where to look first for a complaint.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 60))]
    pub look_at: Vec<LookAt>,
    /// The build, step by step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 500))]
    pub build: Vec<BuildStep>,
    /// What a rebuilder would ask about, and its writer leaves as it is.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub waived: Vec<Waived>,
}

impl Sheet {
    /// The checks that share pieces with one: those whose pieces move it, and those that its own
    /// pieces move.
    #[must_use]
    pub fn coupled_with(&self, check: &Check) -> Vec<&Check> {
        let moves = |by: &Check, of: &Check| by.moved_by.iter().any(|m| m.check == of.key);
        self.checks
            .iter()
            .filter(|other| moves(check, other) || moves(other, check))
            .collect()
    }

    /// The checks of the same kind that are held to the same window: those of sister gears.
    #[must_use]
    pub fn sisters_of(&self, check: &Check) -> Vec<&Check> {
        let gears = matches!(
            check.kind,
            CheckKind::GearSideClearance | CheckKind::ThrustClearance
        );
        let alike = |other: &&Check| {
            gears
                && other.key != check.key
                && other.kind == check.kind
                && other.working_window() == check.working_window()
        };
        self.checks.iter().filter(alike).collect()
    }

    /// The check of that key.
    #[must_use]
    pub fn check(&self, key: &str) -> Option<&Check> {
        self.checks.iter().find(|c| c.key == key)
    }

    /// The clutch pack that a check signs off.
    #[must_use]
    pub fn pack_of(&self, check: &str) -> Option<&Pack> {
        self.packs.iter().find(|p| p.check == check)
    }

    /// The terms of a check's stack sum: its own, or else those of its clutch pack or of its fit.
    #[must_use]
    pub fn terms_of(&self, check: &Check) -> Vec<Term> {
        match (&check.fit, self.pack_of(&check.key)) {
            _ if !check.stack.is_empty() => check.stack.iter().map(StackTerm::term).collect(),
            (Some(fit), _) => fit.terms(),
            (None, Some(pack)) => pack.terms(),
            (None, None) => Vec::new(),
        }
    }

    /// What to see to before readings of a check are believed: what the check says, and that each bearing
    /// of its shaft lies with its own, where a preload or a float hangs on it.
    #[must_use]
    pub fn ready_of(&self, check: &Check) -> Vec<Ready> {
        let mut ready = check.ready.clone();
        let hangs = matches!(check.kind, CheckKind::BearingPreload | CheckKind::EndFloat);
        let Some(between) = check.between.as_ref().filter(|_| hangs) else {
            return ready;
        };
        let on_it = |s: &&Shaft| s.parts.iter().any(|p| between.contains(&p.key));
        let shaft = self.shafts.iter().find(on_it);
        let parts = || self.shafts.iter().flat_map(|s| &s.parts);
        for part in shaft.iter().flat_map(|s| &s.parts) {
            let mate = part.kept_with.as_ref();
            if let Some(mate) = mate.and_then(|key| parts().find(|p| p.key == *key)) {
                ready.push(Ready {
                    tick: format!("{} lies with its own: {}", part.name, mate.name),
                    why: "an inner and an outer have worn into each other; changed about, they neither measure nor run as they will when they are put right".into(),
                });
            }
        }
        ready
    }

    /// What people call a part or an item.
    #[must_use]
    pub fn name_of_part(&self, key: &str) -> Option<&str> {
        let parts = self.shafts.iter().flat_map(|s| &s.parts);
        let parts = parts.map(|p| (&p.key, &p.name));
        let items = self.items.iter().map(|i| (&i.key, &i.name));
        let mut all = parts.chain(items);
        all.find(|(k, _)| *k == key).map(|(_, name)| name.as_str())
    }

    /// What people call the part or item of that key, with its shaft where another has the same name.
    #[must_use]
    pub fn told_apart(&self, key: &str) -> Option<String> {
        let name = self.name_of_part(key)?;
        let on = |k: &str| {
            let mut shafts = self.shafts.iter();
            shafts.find(|s| s.parts.iter().any(|p| p.key == k))
        };
        let parts = self.shafts.iter().flat_map(|s| &s.parts);
        let alike = parts.filter(|p| p.name == name).count();
        Some(match on(key) {
            Some(shaft) if alike > 1 => format!("{name}, {}", in_sentence(&shaft.name)),
            _ => name.to_owned(),
        })
    }

    /// The family of that key.
    #[must_use]
    pub fn family(&self, key: &str) -> Option<&Family> {
        self.families.iter().find(|f| f.key == key)
    }
}

/// A sheet may be kept as the next revision: `over` is the revision that was worked on, zero for a new sheet, none where
/// it does not matter; `now` the newest there is.
///
/// # Errors
/// Where the sheet has changed since it was seen.
pub fn may_follow(key: &str, over: Option<i32>, now: i32) -> Ruled<()> {
    match over {
        Some(0) if now != 0 => Err(Refusal::conflict(
            "sheet-changed",
            format!("There is a sheet “{key}” already: give this one another key."),
        )),
        Some(over) if over != now => Err(Refusal::conflict(
            "sheet-changed",
            format!(
                "The sheet is at revision {now} by now, and you began from {over}. Nothing is lost: look at what changed, then keep yours over it, or put it away."
            ),
        )),
        _ => Ok(()),
    }
}
