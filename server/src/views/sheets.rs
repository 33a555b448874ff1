//! A spec sheet, to look at.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Ends;
use anvil_rules::drawing::shafts::{Rail, rail};
use anvil_rules::sheet::pack::DrawnPack;
use anvil_rules::sheet::{
    BoxKind, Check, CheckKind, Identify, Pack, PartCard, Sheet, Variant, chart,
};
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

/// A spec sheet, to look at.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetView {
    pub key: String,
    pub revision: i32,
    /// When that came in.
    pub came_in: DateTime<Utc>,
    /// What people call the box.
    pub name: String,
    /// The kind of box.
    pub kind: BoxKind,
    /// Where the figures come from.
    pub source: String,
    /// Anything else worth knowing.
    pub notes: String,
    /// How to tell the box.
    pub identification: Vec<String>,
    /// Questions by which it is told what a box is.
    pub identify: Vec<Identify>,
    /// The builds that it serves, the usual one first; none where there is only one.
    pub variants: Vec<Variant>,
    /// The key of the build that is shown; empty where there is only one.
    pub variant: String,
    /// What can hurt somebody or the box.
    pub cautions: Vec<String>,
    /// The drawing.
    pub rail: Rail,
    /// The checks, in the order of setting.
    pub checks: Vec<SheetCheck>,
    /// Its clutch packs, as drawn.
    pub packs: Vec<DrawnPack>,
    /// Its parts, on the rails and off them.
    pub parts: Vec<PartCard>,
    /// What is to be done, in order.
    pub build: Vec<String>,
}

/// A check on a sheet.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetCheck {
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind of check it is.
    pub kind: CheckKind,
    /// How it is usually taken.
    pub method: Method,
    /// The window; none for a torque.
    pub window: Option<Ends>,
    /// The book gives its chart and no window: the window is what the chart leaves.
    pub by_chart: bool,
    /// What sets it, where anything does.
    pub set_by: Option<String>,
    /// The most pieces in a stack.
    pub most_pieces: Option<u32>,
    /// Its selection chart, where it has one.
    pub chart: Option<ChartTable>,
}

/// What sets a check: its families by name.
fn set_by(sheet: &Sheet, check: &Check) -> Option<String> {
    let first = check.set_by.iter().map(|s| &s.family);
    let others = check.or_set_by.iter().map(|o| &o.family);
    let called = |key: &String| sheet.family(key).map(|f| f.name.clone());
    let families: Vec<String> = first.chain(others).filter_map(called).collect();
    (!families.is_empty()).then(|| families.join(", or "))
}

/// A selection chart.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChartTable {
    /// What is measured to read it.
    pub measured: String,
    /// Its own step in nanometres.
    pub step_nm: Length,
    pub rows: Vec<chart::Row>,
}

impl SheetView {
    /// A revision of a sheet as one build of the box, and when it came in; of no build, the usual one.
    pub fn of(revision: i32, whole: &Sheet, came_in: DateTime<Utc>, variant: &str) -> Self {
        let shown = whole.variant(variant).or_else(|| whole.usual_variant());
        let variant = shown.map_or_else(String::new, |v| v.key.clone());
        let sheet = whole.as_built(&variant);
        let rail = rail(&sheet);
        let parts = sheet.part_cards();
        let packs = sheet.packs.iter().map(Pack::drawn).collect();
        let checks = sheet
            .checks
            .iter()
            .map(|c| SheetCheck {
                key: c.key.clone(),
                name: c.name.clone(),
                kind: c.kind,
                method: c.method,
                window: c.working_window().map(Ends::from),
                by_chart: c.by_chart(),
                set_by: set_by(&sheet, c),
                most_pieces: c.set_by.as_ref().map(|s| s.most_pieces),
                chart: c.chart.as_ref().map(|c| ChartTable {
                    measured: c.measured.clone(),
                    step_nm: c.resolution.length(),
                    rows: c.lengths(),
                }),
            })
            .collect();
        let Sheet {
            key,
            name,
            kind,
            source,
            notes,
            identification,
            identify,
            cautions,
            build,
            ..
        } = sheet;
        SheetView {
            key,
            revision,
            came_in,
            name,
            kind,
            source,
            notes,
            identification,
            identify,
            variants: whole.variants.clone(),
            variant,
            cautions,
            rail,
            checks,
            packs,
            parts,
            build: build.into_iter().map(|s| s.what).collect(),
        }
    }
}
