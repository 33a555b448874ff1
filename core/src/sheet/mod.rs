//! The spec sheet: what a shop knows about one model of box, as one JSON file.
//!
//! The format serves all four kinds of box; `docs/FORMATS.md` describes it for people and
//! `docs/sheet.schema.json`, made from these types, for programs. Lengths are written in bench
//! notation with their unit (`"0.10 mm"`, `"4 thou"`).

mod differences;
mod draft;
mod faults;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::length::{Length, Unit};
use crate::measure::Adjustment as FinalAdjustment;
use crate::measure::stack::Term;
use crate::notation::{self, NotationError, Sign};
use crate::wanted::Effect;
use crate::window::{Aim, Target, TargetError, Window, WindowError};

pub use crate::measure::Way as Method;
pub use differences::{Difference, differences};
pub use draft::{Draft, draft};
pub use faults::{Fault, read};

/// What `format` says in every sheet.
pub const FORMAT: &str = "dry-anvil-sheet";
/// The version of the format that this program writes, and the newest it reads.
pub const VERSION: u32 = 1;

/// A length as written in a sheet: a figure and its unit.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(try_from = "String", into = "String")]
pub struct Written {
    text: String,
    length: Length,
}

impl Written {
    /// The length.
    #[must_use]
    pub const fn length(&self) -> Length {
        self.length
    }
}

impl TryFrom<String> for Written {
    type Error = NotationError;
    fn try_from(text: String) -> Result<Self, NotationError> {
        let length = notation::parse(&text, None, Sign::Any)?;
        Ok(Self { text, length })
    }
}

impl From<Written> for String {
    fn from(written: Written) -> Self {
        written.text
    }
}

impl JsonSchema for Written {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Length".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "type": "string",
            "format": faults::LENGTH_FORMAT,
            "description": "A length with its unit: mm, µm, thou (1/1000 inch) or in. Preload is negative.",
            "examples": ["0.10 mm", "4 thou", "1/64 in", "150 µm"]
        })
    }
}

#[cfg(feature = "openapi")]
impl utoipa::PartialSchema for Written {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        String::schema()
    }
}

#[cfg(feature = "openapi")]
impl utoipa::ToSchema for Written {
    fn name() -> std::borrow::Cow<'static, str> {
        "sheet.Length".into()
    }
}

/// What kind of box a sheet is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum BoxKind {
    /// Manual gearbox or transaxle.
    Manual,
    /// Automatic.
    Automatic,
    /// Motorcycle gearbox.
    Motorcycle,
    /// Transfer case.
    TransferCase,
}

/// A spec sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[schemars(title = "Dry Anvil spec sheet")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Sheet))]
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
    /// The build, step by step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub build: Vec<BuildStep>,
}

/// A shaft: whatever carries a stack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Shaft))]
pub struct Shaft {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// The diameter of the bare shaft.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub diameter: Option<Written>,
    /// Its parts, from left to right.
    #[schemars(length(min = 1, max = 200))]
    pub parts: Vec<Part>,
}

/// A part on a shaft.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Part))]
pub struct Part {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// What it is.
    pub kind: PartKind,
    /// Its width along the shaft.
    pub width: Written,
    /// The ± limits of its width.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub width_tolerance: Option<Written>,
    /// Its outer diameter.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub diameter: Option<Written>,
    /// Bare shaft before it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap_before: Option<Written>,
    /// How many teeth it has.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub teeth: Option<u32>,
    /// What it is made of, for sums with heat in them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub material: Option<Material>,
    /// It is replaced at every overhaul.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub always_new: bool,
    /// The part that it stays with: a bearing's inner is kept with the outer that it has run in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept_with: Option<String>,
    /// Which way round it goes, and anything else.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// What a part is, told apart by outline and hatching on the rail.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // the names are the trade's own
pub enum PartKind {
    Bearing,
    TaperBearing,
    NeedleBearing,
    Gear,
    Hub,
    Sleeve,
    Washer,
    Shim,
    SnapRing,
    Spacer,
    ThrustPlate,
    PressurePlate,
    Friction,
    Steel,
    WavePlate,
    Drum,
    Planet,
    DiffCase,
    Seal,
    Retainer,
    Housing,
    Collar,
}

/// A material, for thermal growth.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // the names say it
pub enum Material {
    Steel,
    CastIron,
    Aluminium,
    Magnesium,
    Bronze,
}

/// A family of selective parts: one drawer.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Family))]
pub struct Family {
    /// A short name; sheets that share it share the drawer.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 60))]
    pub name: String,
    /// What kind of part it is.
    pub kind: PartKind,
    /// The ± limits of a piece's thickness about its nominal.
    pub tolerance: Written,
    /// The sizes made.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sizes: Vec<Size>,
}

/// One size made.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Size))]
pub struct Size {
    /// Its thickness.
    pub thickness: Written,
    /// The maker's own number for it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub number: String,
    /// It is no longer made.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub discontinued: bool,
}

/// What kind of check it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
#[allow(missing_docs)] // the names are the trade's own
pub enum CheckKind {
    EndFloat,
    ThrustClearance,
    GearSideClearance,
    BearingPreload,
    ClutchPackClearance,
    PinionEndPlay,
    RetainerPinch,
    SelectorCentring,
    TurningTorque,
}

/// One thing to be measured and signed off.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Check))]
pub struct Check {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    #[schemars(length(min = 1, max = 80))]
    pub name: String,
    /// What kind of check it is.
    pub kind: CheckKind,
    /// The two parts it lies between, left and right, on one shaft.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub between: Option<[String; 2]>,
    /// The window, for every check of a length.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub window: Option<WrittenWindow>,
    /// Where the window comes from, where it is no book's: a rule of thumb, or one of the shop's.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub rule: String,
    /// The shop's own tighter window, where it keeps one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shop_window: Option<WrittenWindow>,
    /// The window of a turning torque.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque: Option<TorqueWindow>,
    /// Where in the window to aim; the middle where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target: Option<WrittenTarget>,
    /// How it is usually taken.
    pub method: Method,
    /// How to take it: where the gauge stands, what to push.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub how: String,
    /// What sets it; a check without can only be measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub set_by: Option<SetBy>,
    /// What else would set it: each is offered beside the first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 4))]
    pub or_set_by: Vec<OrSetBy>,
    /// The pinions of a carrier, where they are measured one by one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pinions: Option<Pinions>,
    /// What a selector must hold in the middle.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub selector: Option<Selector>,
    /// Other checks whose pieces move this one too; they are chosen for together.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub moved_by: Vec<MovedBy>,
    /// What lies side by side across the check, for its clearance hot and cold.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hot: Option<Hot>,
    /// What must be so before a reading is believed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ready: Vec<Ready>,
    /// What differs between the trial build and the final one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub adjustments: Vec<Adjustment>,
    /// A selection chart.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub chart: Option<Chart>,
    /// The terms of a stack sum.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stack: Vec<StackTerm>,
    /// The checks that must be signed off first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub after: Vec<String>,
    /// Which closing of the case it is measured in; checks of one closing go together. One that names
    /// none is measured on the bench.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub closing: String,
    /// What can hurt somebody or the box here.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
}

/// A window as written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::WrittenWindow))]
pub struct WrittenWindow {
    /// The tight limit; open where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<Written>,
    /// The loose limit; open where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<Written>,
}

/// The window of a turning torque, in newton metres.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::TorqueWindow))]
pub struct TorqueWindow {
    /// The lowest, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low_n_m: Option<f64>,
    /// The highest, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high_n_m: Option<f64>,
}

/// Where in the window to aim, as written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::WrittenTarget))]
pub enum WrittenTarget {
    /// Half-way.
    Middle,
    /// A quarter in from the tight limit.
    Tight,
    /// A quarter in from the loose limit.
    Loose,
    /// A stated clearance.
    At(Written),
    /// Anywhere from the first to the second.
    Between([Written; 2]),
}

/// What sets a check.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::SetBy))]
pub struct SetBy {
    /// The key of the family of pieces.
    pub family: String,
    /// What a thicker piece does to the gap: +1 closes it, −1 opens it.
    #[schemars(extend("enum" = [1, -1]))]
    pub effect: i8,
    /// The fewest pieces; zero where none at all will do.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 0, max = 8))]
    pub least_pieces: u32,
    /// The most pieces in a stack.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 1, max = 8))]
    pub most_pieces: u32,
    /// What is in place while the first readings are taken.
    pub measured_with: MeasuredWith,
    /// The part on the rail that the piece is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
}

/// Another family of pieces that would set a check: pieces of it are in already, and some are swapped.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::OrSetBy))]
pub struct OrSetBy {
    /// The key of the family. A thicker piece does what one of the first family does.
    pub family: String,
    /// How thick one of those that are in is.
    pub fitted: Written,
    /// How many are in.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 1, max = 8))]
    pub pieces: u32,
}

/// The pinions of a planet carrier.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Pinions))]
pub struct Pinions {
    /// How many there are.
    #[schemars(range(min = 2, max = 24))]
    pub count: u16,
    /// How far the loosest and the tightest may differ.
    pub alike: Written,
}

/// What a selector holds in the middle between its neighbours.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Selector))]
pub struct Selector {
    /// The gears, in the order of the drum.
    #[schemars(length(min = 1, max = 24))]
    pub gears: Vec<SelectorGear>,
}

/// A gear as the selector holds it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::SelectorGear))]
pub struct SelectorGear {
    /// What people call it.
    #[schemars(length(min = 1, max = 40))]
    pub name: String,
    /// How much its offset weighs: more than one where it floats between two with no stop of its own.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 1, max = 100))]
    pub weight: u32,
    /// The fork that moves it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub fork: String,
    /// The index mark of the drum that stands at the pointer then.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub mark: String,
}

/// What lies side by side across a check: as the case grows the gap opens, as what is inside grows
/// it closes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Hot))]
pub struct Hot {
    /// The case, along the check.
    #[schemars(length(min = 1, max = 40))]
    pub case: Vec<HotPart>,
    /// What it holds, along the check.
    #[schemars(length(min = 1, max = 40))]
    pub inside: Vec<HotPart>,
}

/// A length of one material.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::HotPart))]
pub struct HotPart {
    /// What it is.
    pub what: String,
    /// What it is made of.
    pub material: Material,
    /// How long it is along the check, at 20 °C.
    pub length: Written,
}

impl Hot {
    /// By how much the clearance grows per kelvin, in nanometres.
    #[must_use]
    pub fn growth_nm_per_k(&self) -> f64 {
        let of = |parts: &[HotPart]| {
            crate::thermal::growth_nm_per_k(parts.iter().map(|p| (p.material, p.length.length())))
        };
        of(&self.case) - of(&self.inside)
    }
}

/// Another check's pieces, and what they do to this one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::MovedBy))]
pub struct MovedBy {
    /// The key of the check that those pieces set.
    pub check: String,
    /// What a thicker piece there does to this gap: +1 closes it, −1 opens it.
    #[schemars(extend("enum" = [1, -1]))]
    pub effect: i8,
}

const fn one() -> u32 {
    1
}

#[allow(clippy::trivially_copy_pass_by_ref)] // the signature serde asks for
const fn is_one(n: &u32) -> bool {
    *n == 1
}

/// What is in place while the first readings are taken.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum MeasuredWith {
    /// No selective piece at all.
    Nothing,
    /// Whatever came out of the box; its thickness is asked for.
    AsFound,
}

/// Something to see to before a reading is believed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Ready {
    /// What to see to.
    pub tick: String,
    /// Why.
    pub why: String,
}

/// What differs between the trial build and the final one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Adjustment))]
pub struct Adjustment {
    /// What differs.
    pub what: String,
    /// How much the clearance grows towards the final build; below zero it shrinks.
    pub by: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
}

/// A selection chart: measured depth gives the piece.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Chart))]
pub struct Chart {
    /// What is measured to read it.
    pub measured: String,
    /// The chart's own step.
    pub resolution: Written,
    /// Its rows.
    #[schemars(length(min = 1, max = 200))]
    pub rows: Vec<ChartRow>,
}

impl Chart {
    /// Its rows as lengths.
    #[must_use]
    pub fn lengths(&self) -> Vec<crate::chart::Row> {
        let row = |r: &ChartRow| crate::chart::Row {
            from_nm: r.from.length(),
            to_nm: r.to.length(),
            piece_nm: r.piece.length(),
        };
        self.rows.iter().map(row).collect()
    }
}

impl From<Length> for Written {
    fn from(length: Length) -> Self {
        Self {
            text: length.to_string(),
            length,
        }
    }
}

/// A row of a selection chart: from ≤ depth < to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::ChartRow))]
pub struct ChartRow {
    /// The smallest depth.
    pub from: Written,
    /// The depth at which the next row begins.
    pub to: Written,
    /// The piece to fit.
    pub piece: Written,
}

/// A term of a stack sum.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::StackTerm))]
pub struct StackTerm {
    /// What it is.
    pub what: String,
    /// +1 where it opens the gap (a housing's depth), −1 where it fills it (a part's width).
    #[schemars(extend("enum" = [1, -1]))]
    pub sign: i8,
    /// Its length.
    pub length: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
    /// The part on the rail that it is the width of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
}

/// A clutch pack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Pack))]
pub struct Pack {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    pub name: String,
    /// The depth from the drum's floor to the snap-ring groove: to its far wall where the ring is among
    /// the plates, to its near one where it is not.
    pub groove_depth: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub groove_tolerance: Option<Written>,
    /// The plates from the piston outwards.
    #[schemars(length(min = 1, max = 60))]
    pub plates: Vec<Plate>,
    /// How many frictions the book counts; the plates must agree.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frictions: Option<u32>,
    /// How many steels the book counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steels: Option<u32>,
    /// How many return springs there are pockets for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub return_springs: Option<u32>,
    /// The check that signs the pack off.
    pub check: String,
}

/// A plate of a clutch pack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::Plate))]
pub struct Plate {
    /// What it is.
    pub kind: PartKind,
    /// Its thickness; a wave plate's as compressed.
    pub thickness: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
    /// What people call it, where its kind does not say enough.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
}

/// A step of the build.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema), schema(as = sheet::BuildStep))]
pub struct BuildStep {
    /// A short name, unique among the steps.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What to do.
    pub what: String,
    /// Why it is done so, or now.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// Which face is up or out.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub facing: String,
    /// What goes on it.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub lubricant: String,
    /// Which position the selectors must be in.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub selector: String,
    /// How many pieces are laid out for it, and none left at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<u32>,
    /// The torque, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque_n_m: Option<f64>,
    /// The thread is left-handed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub left_hand_thread: bool,
    /// The steps that must be done before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub needs: Vec<String>,
    /// The checks that must be signed off before the next step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hold: Vec<String>,
    /// Other ways of doing it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub alternatives: Vec<String>,
    /// What can hurt somebody or the box here.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
}

impl WrittenWindow {
    /// The window.
    pub fn window(&self) -> Result<Window, WindowError> {
        Window::new(
            self.low.as_ref().map(Written::length),
            self.high.as_ref().map(Written::length),
        )
    }
}

impl WrittenTarget {
    /// The target.
    #[must_use]
    pub fn target(&self) -> Target {
        match self {
            Self::Middle => Target::Middle,
            Self::Tight => Target::Tight,
            Self::Loose => Target::Loose,
            Self::At(at) => Target::At(at.length()),
            Self::Between([from, to]) => Target::Between(from.length(), to.length()),
        }
    }
}

impl SetBy {
    /// What a thicker piece does.
    #[must_use]
    pub const fn effect(&self) -> Effect {
        if self.effect < 0 {
            Effect::Opens
        } else {
            Effect::Closes
        }
    }
}

impl Check {
    /// The window this shop works to, where the check is of a length: its own where it keeps one.
    #[must_use]
    pub fn working_window(&self) -> Option<Window> {
        self.shop_window
            .as_ref()
            .or(self.window.as_ref())
            .and_then(|w| w.window().ok())
    }

    /// Where this shop aims in that window.
    pub fn aim(&self, window: Window) -> Result<Aim, TargetError> {
        match &self.target {
            Some(target) => target.target().aim(window),
            // A gear is wanted in the middle between its neighbours, off it by nothing.
            None if self.selector.is_some() => Target::At(Length::ZERO).aim(window),
            None => Target::Middle.aim(window),
        }
    }

    /// The adjustments in the form that measuring takes them.
    #[must_use]
    pub fn final_adjustments(&self) -> Vec<FinalAdjustment> {
        self.adjustments
            .iter()
            .map(|a| FinalAdjustment {
                what: a.what.clone(),
                by: a.by.length(),
                tolerance: a.tolerance.as_ref().map_or(Length::ZERO, Written::length),
            })
            .collect()
    }
}

impl Pinions {
    /// In the form that measuring takes it.
    #[must_use]
    pub const fn held_to(&self) -> crate::measure::pinions::Pinions {
        crate::measure::pinions::Pinions {
            count: self.count,
            alike_nm: self.alike.length(),
        }
    }
}

impl Selector {
    /// In the form that measuring takes it, with the shims as they lie at the two ends.
    #[must_use]
    pub fn with_shims(
        &self,
        left: &[Length],
        right: &[Length],
    ) -> crate::measure::selector::Selector {
        crate::measure::selector::Selector {
            gears: self.gears.iter().map(SelectorGear::held).collect(),
            left_nm: left.to_vec(),
            right_nm: right.to_vec(),
        }
    }
}

impl SelectorGear {
    fn held(&self) -> crate::measure::selector::Held {
        crate::measure::selector::Held {
            name: self.name.clone(),
            weight: self.weight,
        }
    }
}

impl StackTerm {
    /// The term in the form that measuring takes it.
    #[must_use]
    pub fn term(&self) -> Term {
        Term {
            what: self.what.clone(),
            opens: self.sign > 0,
            length_nm: self.length.length(),
            tolerance_nm: self.tolerance.as_ref().map(Written::length),
            measured_nm: Vec::new(),
        }
    }
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

    /// The terms of a check's stack sum: its own, or else those of its clutch pack.
    #[must_use]
    pub fn terms_of(&self, check: &Check) -> Vec<Term> {
        match self.pack_of(&check.key) {
            Some(pack) if check.stack.is_empty() => pack.terms(),
            _ => check.stack.iter().map(StackTerm::term).collect(),
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

    /// The family of that key.
    #[must_use]
    pub fn family(&self, key: &str) -> Option<&Family> {
        self.families.iter().find(|f| f.key == key)
    }
}

/// The JSON Schema of a sheet, as committed in `docs/sheet.schema.json`.
#[must_use]
pub fn json_schema() -> serde_json::Value {
    let mut schema = schemars::schema_for!(Sheet).to_value();
    left_out_not_null(&mut schema);
    schema
}

/// What is optional is left out of a sheet, never null. Said so, a validator names the place of a
/// fault inside an optional part, not the part as a whole.
fn left_out_not_null(schema: &mut serde_json::Value) {
    use serde_json::Value;
    let is_null = |v: &Value| v.get("type").is_some_and(|t| t == "null");
    match schema {
        Value::Object(fields) => {
            if let Some(Value::Array(kinds)) = fields.get_mut("type") {
                kinds.retain(|k| k != "null");
                if let [only] = kinds.as_slice() {
                    let only = only.clone();
                    fields.insert("type".into(), only);
                }
            }
            if let Some(Value::Array(options)) = fields.get_mut("anyOf") {
                options.retain(|o| !is_null(o));
                if let [Value::Object(only)] = options.as_slice() {
                    let only = only.clone();
                    fields.remove("anyOf");
                    fields.extend(only);
                }
            }
            fields.values_mut().for_each(left_out_not_null);
        }
        Value::Array(items) => items.iter_mut().for_each(left_out_not_null),
        _ => {}
    }
}
