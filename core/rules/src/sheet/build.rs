//! The build, step by step.

use anvil_arithmetic::calculators::rollers::{NeedleRow, RowError, row};
use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Something to be done when the box is put together, in its order.
#[derive(
    Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::BuildStep)]
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
    /// The parts and items that it puts in.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub puts: Vec<String>,
    /// Which position the selector must be in.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub selector: String,
    /// Which position the selector is moved to when it is done.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub leaves: String,
    /// How the box lies: upright, upside down, on end.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub attitude: String,
    /// How many pieces are laid out for it, and none left at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub count: Option<u32>,
    /// Loose pieces in rows, by what they lie between.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub loose: Option<Loose>,
    /// Bolts, nuts or screws.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fasteners: Option<Fasteners>,
    /// Time that has to pass before it is done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wait: Option<Wait>,
    /// Tools beside the usual, with their sizes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tools: Vec<String>,
    /// How long it takes, in minutes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = 0.1, max = 1440))]
    pub minutes: Option<f64>,
    /// The torque, newton metres.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub torque_n_m: Option<f64>,
    /// The thread is left-handed.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub left_hand_thread: bool,
    /// The steps that must be done before it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub needs: Vec<String>,
    /// The steps that nobody can get at once it is done.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub covers: Vec<String>,
    /// What is answered by hand once it is done.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub prove: Vec<Ask>,
    /// What has to be new again whenever it is taken apart: tab washers, sealant, split pins.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub new_again: Vec<String>,
    /// The checks that must be signed off before the next step.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hold: Vec<String>,
    /// Other ways of doing it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub alternatives: Vec<String>,
    /// What helps where it goes wrong.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub tip: String,
    /// What can hurt somebody or the box here.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cautions: Vec<String>,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

impl BuildStep {
    /// How far it is tightened in the end, in newton metres, where it ends with a torque.
    #[must_use]
    pub fn last_torque_n_m(&self) -> Option<f64> {
        let stages = self.fasteners.iter().flat_map(|f| &f.stages);
        let last = stages.last().map(|stage| match stage {
            Stage::Torque { n_m } => Some(*n_m),
            _ => None,
        });
        last.unwrap_or(self.torque_n_m)
    }
}

/// Rows of loose rollers or balls.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Loose)]
pub struct Loose {
    #[schemars(range(min = 1, max = 8))]
    pub rows: u32,
    #[schemars(range(min = 1, max = 200))]
    pub per_row: u32,
    /// The diameter of what they run on; with that of a roller, the row is worked out from both.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shaft: Option<Written>,
    /// The diameter of one roller.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub roller: Option<Written>,
}

impl Loose {
    /// How many are laid out for all rows.
    #[must_use]
    pub const fn in_all(&self) -> u32 {
        self.rows * self.per_row
    }

    /// The row as the diameters make it, where both are known.
    pub(crate) fn row(&self) -> Option<Result<NeedleRow, RowError>> {
        let (shaft, roller) = (self.shaft.as_ref()?, self.roller.as_ref()?);
        let of = (shaft.length(), roller.length());
        Some(row(of.0, of.1, self.rows, Some(self.per_row)))
    }
}

/// Bolts, nuts or screws that are tightened together.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Fasteners)]
pub struct Fasteners {
    #[schemars(range(min = 1, max = 60))]
    pub count: u32,
    /// Their thread, such as M8 or M10x1.25.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub thread: String,
    /// How they are tightened, one stage after the other.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 6))]
    pub stages: Vec<Stage>,
    /// Where they stand on the joint, in the order in which they are tightened; across and down, in hundredths of it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 60))]
    pub bolts: Vec<Bolt>,
    /// What keeps them from coming loose: tab, stake, compound.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub locked_by: String,
    /// What holds the shaft while they are tightened.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub held_by: String,
    /// They are replaced whenever they are taken out.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub new: bool,
}

/// One stage of tightening.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields, tag = "to", rename_all = "snake_case")]
#[schema(as = sheet::Stage)]
pub enum Stage {
    /// Until the head seats.
    Seat {},
    /// To so much.
    Torque { n_m: f64 },
    /// Back by so much.
    BackOff { degrees: f64 },
    /// Further by so much.
    Angle { degrees: f64 },
}

/// Where a bolt stands on its joint.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Bolt)]
pub struct Bolt {
    #[schemars(range(min = 0, max = 100))]
    pub across: f64,
    #[schemars(range(min = 0, max = 100))]
    pub down: f64,
}

/// Time that has to pass.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Wait)]
pub struct Wait {
    pub kind: WaitKind,
    #[schemars(range(min = 0.5, max = 2880))]
    pub minutes: f64,
    /// How warm or cold, in degrees Celsius.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(range(min = -80, max = 200))]
    pub at_c: Option<f64>,
    /// What is told again before the time is up: it comes out hot.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub before_it_ends: String,
}

/// What time passes with.
#[derive(
    Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum WaitKind {
    Oven,
    Freezer,
    Soak,
    Cure,
    Cool,
}

/// A question that is answered by hand, yes or no.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Ask)]
pub struct Ask {
    #[schemars(length(min = 1, max = 200))]
    pub ask: String,
    /// The answer that it should have.
    pub wanted: YesNo,
    /// What it usually means where it has the other.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub else_means: String,
    /// The steps after which it is asked again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub again_after: Vec<String>,
}
