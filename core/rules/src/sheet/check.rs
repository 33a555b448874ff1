//! What must be measured and signed off.

use anvil_arithmetic::choose::harm::Harm;
use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::materials::expansion::Material;
use anvil_arithmetic::materials::thermal::{growth_nm_per_k, warmed_nm};
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::measure::selector_gaps::Limits;
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::measure::{Adjustment as FinalAdjustment, Method};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::window::{Target, TargetError, TargetRange, Window, WindowError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::backlash::Backlash;
use super::chart::Chart;
use super::fit::Fit;
use super::variant::WindowIn;

/// What is measured: it decides the words, the sign and what may be said of it.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum CheckKind {
    EndFloat,
    ThrustClearance,
    GearSideClearance,
    BearingPreload,
    ClutchPackClearance,
    PinionEndPlay,
    RetainerPinch,
    SelectorCentring,
    /// Gaps of a selector with limits of their own: what the worst of them has to spare.
    SelectorLimits,
    /// How far a part stands proud of a face, above zero, or below it.
    SeatHeight,
    /// How far a bevel pinion stands from a bar or dummy.
    PinionHeight,
    /// The play between the teeth of a ring gear and its pinion.
    Backlash,
    /// A part in its bore: clearance on the diameter above zero, interference below.
    Fit,
    TurningTorque,
    PassFail,
}

/// One thing to be measured and signed off.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Check)]
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
    /// Where its figures come from, where that is not the sheet's own source: a page, a table, a letter.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    #[schemars(length(max = 200))]
    pub source: String,
    /// Its figures are not to be trusted as they stand here: look them up before it is signed off.
    #[serde(default, skip_serializing_if = "is_false")]
    pub look_up: bool,
    /// The shop's own tighter window, where it keeps one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shop_window: Option<WrittenWindow>,
    /// The window of a turning torque.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque: Option<TorqueWindow>,
    /// The question of a check that is answered yes or no.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub proof: Option<Proof>,
    /// Where in the window to aim; the middle where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target: Option<WrittenTarget>,
    /// Where missing the window on one side is worse than on the other: pieces are ranked by the harm to be expected.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub harm: Option<Harm>,
    /// How it is usually taken.
    pub method: Method,
    /// How to take it: where the gauge stands, what to push.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub how: String,
    /// The shim that goes in where it is measured with a known one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub known_shim: Option<Written>,
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
    /// Of a seat height: how far above the face the near edge of the ring's groove lies. The part is home where it
    /// stands no higher.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub groove: Option<Written>,
    /// Of a ring gear's backlash: where it is taken, its run-out, and how it follows the shims.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub backlash: Option<Backlash>,
    /// Of a fit: the bore and the part that goes in it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fit: Option<Fit>,
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
    /// Parts that it rests on beside those that it names and those that its kind is known to rest on: with another in the
    /// place of one of them it is due again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 40))]
    pub rests_on: Vec<String>,
    /// Parts that it does not rest on, though its kind usually does.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 40))]
    pub not_on: Vec<String>,
    /// Which closing of the case it is measured in; checks of one closing go together. One that names
    /// none is measured on the bench.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub closing: String,
    /// What can hurt somebody or the box here.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
    /// Windows that some variants have in place of this one.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub windows: Vec<WindowIn>,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// A window as written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::WrittenWindow)]
pub struct WrittenWindow {
    /// The tight limit; open where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low: Option<Written>,
    /// The loose limit; open where it is left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high: Option<Written>,
}

/// The window of a turning torque, in newton metres.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::TorqueWindow)]
pub struct TorqueWindow {
    /// The lowest, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub low_n_m: Option<f64>,
    /// The highest, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub high_n_m: Option<f64>,
}

/// Where in the window to aim, as written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = sheet::WrittenTarget)]
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
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::SetBy)]
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
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::OrSetBy)]
pub struct OrSetBy {
    /// The key of the family. A thicker piece does what one of the first family does.
    pub family: String,
    /// How thick one of those that are in is.
    pub fitted: Written,
    /// How many are in.
    #[serde(default = "one", skip_serializing_if = "is_one")]
    #[schemars(range(min = 1, max = 8))]
    pub pieces: u32,
    /// The key of the part or item that they are, so that the build knows what comes out to change them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
}

/// A question that is answered yes or no by hand.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Proof)]
pub struct Proof {
    /// The question, such as “Does the shaft turn free all round?”.
    #[schemars(length(min = 1, max = 200))]
    pub question: String,
    /// The answer wanted.
    #[serde(default)]
    pub wanted: YesNo,
    /// What the other answer usually means, the likeliest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub otherwise: Vec<String>,
    /// The checks after whose signature it is asked again: free before the pinch, and free after it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 24))]
    pub again_after: Vec<String>,
    /// What the answer wanted says of figures measured elsewhere on the box: a weak limit, whose clash with a figure is told.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub says: Vec<ProofSays>,
}

/// What an answer by hand says of a figure: a shaft that turns free has no hard preload.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::ProofSays)]
pub struct ProofSays {
    /// The key of the check whose figure it is.
    pub check: String,
    /// It could hardly be so were that tighter than this.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub no_tighter: Option<Written>,
    /// It could hardly be so were that looser than this.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub no_looser: Option<Written>,
}

impl Proof {
    /// The answer that a call stands for; none where nobody has answered.
    #[must_use]
    pub fn answer_of(&self, call: Option<Call>) -> Option<YesNo> {
        match call? {
            Call::In => Some(self.wanted),
            Call::Failed => Some(self.wanted.other()),
            Call::Tight | Call::Loose | Call::Inconclusive => None,
        }
    }
}

/// The pinions of a planet carrier.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Pinions)]
pub struct Pinions {
    /// How many there are.
    #[schemars(range(min = 2, max = 24))]
    pub count: u16,
    /// How far the loosest and the tightest may differ.
    pub alike: Written,
}

/// What a selector holds in the middle between its neighbours.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Selector)]
pub struct Selector {
    /// The gears, in the order of the drum.
    #[schemars(length(min = 1, max = 24))]
    pub gears: Vec<SelectorGear>,
}

/// A gear as the selector holds it.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::SelectorGear)]
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
    /// What the gap at its left may be, where the gaps are not to be alike.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub left: Option<WrittenWindow>,
    /// What the gap at its right may be.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub right: Option<WrittenWindow>,
}

/// What lies side by side across a check: as the case grows the gap opens, as what is inside grows
/// it closes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Hot)]
pub struct Hot {
    /// The case, along the check.
    #[schemars(length(min = 1, max = 40))]
    pub case: Vec<HotPart>,
    /// What it holds, along the check.
    #[schemars(length(min = 1, max = 40))]
    pub inside: Vec<HotPart>,
    /// How warm the two are where the window holds; at 20 °C where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub window_at: Option<HotAt>,
}

/// A case and what it holds at work, each as warm as it is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::HotAt)]
pub struct HotAt {
    /// How warm the outside of it is.
    pub case_c: f64,
    /// How warm shafts and bearings are.
    pub inside_c: f64,
}

impl HotAt {
    /// Both as warm as each other.
    #[must_use]
    pub const fn all(c: f64) -> Self {
        Self {
            case_c: c,
            inside_c: c,
        }
    }
}

/// A length of one material.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::HotPart)]
pub struct HotPart {
    pub what: String,
    /// What it is made of.
    pub material: Material,
    /// How long it is along the check, at 20 °C.
    pub length: Written,
}

impl Hot {
    /// By how much the clearance grows per kelvin where all of it warms alike, in nanometres.
    #[must_use]
    pub fn growth_nm_per_k(&self) -> f64 {
        let (case, inside) = self.growths_nm_per_k();
        case - inside
    }

    /// By how much the clearance grows from one state to another, in nanometres. The case counts as rigid: what stretches
    /// it under a preload is not in it.
    ///
    /// # Formula
    /// `Δc = α_case L ΔT_case − Σ αᵢ lᵢ ΔT_inside` (linear growth).
    #[must_use]
    pub fn growth_nm(&self, from: HotAt, to: HotAt) -> f64 {
        let (case, inside) = self.growths_nm_per_k();
        warmed_nm(
            (case, to.case_c - from.case_c),
            (inside, to.inside_c - from.inside_c),
        )
    }

    fn growths_nm_per_k(&self) -> (f64, f64) {
        let of = |parts: &[HotPart]| {
            growth_nm_per_k(parts.iter().map(|p| (p.material, p.length.length())))
        };
        (of(&self.case), of(&self.inside))
    }
}

/// Another check's pieces, and what they do to this one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::MovedBy)]
pub struct MovedBy {
    /// The key of the check that those pieces set.
    pub check: String,
    /// What a thicker piece there does to this gap: +1 closes it by as much, −1 opens it, 0.5 closes it by half of that.
    /// For a backlash +1 or −1, which way; how much, its own figures say.
    #[schemars(range(min = -4.0, max = 4.0))]
    pub effect: f64,
}

const fn one() -> u32 {
    1
}

#[allow(clippy::trivially_copy_pass_by_ref)] // the signature serde asks for
const fn is_false(said: &bool) -> bool {
    !*said
}

#[allow(clippy::trivially_copy_pass_by_ref)] // the signature serde asks for
const fn is_one(n: &u32) -> bool {
    *n == 1
}

/// What is in place while the first readings are taken.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum MeasuredWith {
    /// No selective piece at all.
    Nothing,
    /// Whatever came out of the box; its thickness is asked for.
    AsFound,
}

/// Something to see to before a reading is believed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ready {
    /// What to see to.
    pub tick: String,
    pub why: String,
}

/// What differs between the trial build and the final one.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Adjustment)]
pub struct Adjustment {
    /// What differs.
    pub what: String,
    /// How much the clearance grows towards the final build; below zero it shrinks.
    pub by: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
}

/// A term of a stack sum.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::StackTerm)]
pub struct StackTerm {
    pub what: String,
    /// +1 where it opens the gap (a housing's depth), −1 where it fills it (a part's width).
    #[schemars(extend("enum" = [1, -1]))]
    pub sign: i8,
    pub length: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
    /// The part on the rail that it is the width of.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
}

impl WrittenWindow {
    /// The window.
    ///
    /// # Errors
    /// Where the lower limit is above the upper.
    pub fn window(&self) -> Result<Window, WindowError> {
        Window::new(
            self.low.as_ref().map(Written::length),
            self.high.as_ref().map(Written::length),
        )
    }
}

impl WrittenTarget {
    /// Where it aims, as it is counted with.
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
    /// The window this shop works to, where the check is of a length: its own where it keeps one, and what the chart leaves
    /// where the book gives only that.
    #[must_use]
    pub fn working_window(&self) -> Option<Window> {
        if self.by_chart() {
            return self.chart_leaves(None);
        }
        self.shop_window
            .as_ref()
            .or(self.window.as_ref())
            .and_then(|w| w.window().ok())
    }

    /// The book gives a chart and no window: what the chart asks for is right.
    #[must_use]
    pub fn by_chart(&self) -> bool {
        self.window.is_none() && self.chart.is_some() && self.set_by.is_some()
    }

    /// What the chart leaves in the final build: with every piece that it asks for, or with stacks of one thickness; none
    /// where it asks for no such. See [`leaves`](super::chart::leaves).
    #[must_use]
    pub fn chart_leaves(&self, of: Option<Length>) -> Option<Window> {
        let (chart, set_by) = (self.chart.as_ref()?, self.set_by.as_ref()?);
        let to_final: i64 = self.adjustments.iter().map(|a| a.by.length().nm()).sum();
        let (low, high) = super::chart::leaves(&chart.lengths(), set_by.effect(), of)?;
        let end = |nm: i64| Some(Length::from_nm(nm + to_final));
        Window::new(end(low), end(high)).ok()
    }

    /// Where this shop aims in that window.
    ///
    /// # Errors
    /// Where what is stated lies outside the window, or the window has no middle.
    pub fn aim(&self, window: Window) -> Result<TargetRange, TargetError> {
        match &self.target {
            Some(target) => target.target().aim(window),
            // A gear is wanted in the middle between its neighbours, off it by nothing.
            None if self.kind == CheckKind::SelectorLimits => {
                Target::At(window.low().unwrap_or(Length::ZERO)).aim(window)
            }
            None if self.selector.is_some() => Target::At(Length::ZERO).aim(window),
            None => Target::Middle.aim(window),
        }
    }

    /// What a yes to its question says of another check's figure.
    #[must_use]
    pub fn says_of(&self, key: &str) -> Option<&ProofSays> {
        self.proof.as_ref()?.says.iter().find(|s| s.check == key)
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
    pub const fn held_to(&self) -> anvil_arithmetic::measure::pinions::Pinions {
        anvil_arithmetic::measure::pinions::Pinions {
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
    ) -> anvil_arithmetic::measure::selector_gaps::Selector {
        anvil_arithmetic::measure::selector_gaps::Selector {
            gears: self.gears.iter().map(SelectorGear::held).collect(),
            left_nm: left.to_vec(),
            right_nm: right.to_vec(),
        }
    }
}

impl SelectorGear {
    fn held(&self) -> anvil_arithmetic::measure::selector_gaps::Held {
        anvil_arithmetic::measure::selector_gaps::Held {
            name: self.name.clone(),
            weight: self.weight,
            limits: [&self.left, &self.right].map(|window| {
                let end = |end: Option<&Written>| end.map(Written::length);
                let window = window.as_ref();
                Limits {
                    least_nm: end(window.and_then(|w| w.low.as_ref())),
                    most_nm: end(window.and_then(|w| w.high.as_ref())),
                }
            }),
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
            by: Vec::new(),
        }
    }
}
