//! What is sent of a check.

use std::collections::BTreeMap;

use anvil_core::chart;
use anvil_core::choose::{self, Choices, WaysOut};
use anvil_core::confirm::OffPrediction;
use anvil_core::drawer::Grade;
use anvil_core::estimate::Estimate;
use anvil_core::judge::{Call, Verdict};
use anvil_core::length::Length;
use anvil_core::measure::Way;
use anvil_core::measure::entry::Taken;
use anvil_core::measure::feeler::Advice;
use anvil_core::measure::stack::Term;
use anvil_core::measure::torque::{TorqueEnds, TorqueFound};
use anvil_core::next::Phase;
use anvil_core::pack::{DrawnPack, PackFault};
use anvil_core::sheet::{CheckKind, MeasuredWith, PartKind, Pinions, SelectorGear};
use anvil_core::slips::Slip;
use anvil_core::thermal::HotAndCold;
use anvil_core::wanted::{Effect, Wanted};
use anvil_core::window::{Aim, Ends};
use anvil_core::working::Working;
use chrono::{DateTime, NaiveDate, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use crate::store::check::{SettingPiece, UsualSaid};
use crate::store::gauge::GaugeKind;
use crate::ways::WayView;

/// One check, as the Gap screen needs it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct GapView {
    /// The job.
    pub job_no: i32,
    /// The job's title.
    pub title: String,
    /// The sheet the job was opened with.
    pub sheet_key: String,
    /// The check's key.
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// What kind of check it is.
    pub kind: CheckKind,
    /// Where the window comes from, where it is no book's; empty where it is.
    pub rule: String,
    /// The clutch pack it signs off, where it is of one.
    pub pack: Option<PackView>,
    /// The pinions of a carrier, where they are measured one by one.
    pub pinions: Option<PinionsView>,
    /// What a selector must hold in the middle, where it is a check of that.
    pub selector: Option<SelectorView>,
    /// How it is usually taken.
    pub method: Way,
    /// How to take it.
    pub how: String,
    /// What to see to before a reading is believed.
    pub ready: Vec<ReadyView>,
    /// What differs between trial and final build.
    pub adjustments: Vec<AdjustmentView>,
    /// The terms of its stack sum.
    pub terms: Vec<Term>,
    /// What can hurt somebody or the box.
    pub cautions: Vec<String>,
    /// The window this shop works to; open at both ends where the check is of a torque alone.
    pub window: Ends,
    /// The window of its turning torque, where it has one.
    pub torque_window: Option<TorqueEnds>,
    /// What the book's window says, where the shop or the job works to another.
    pub by_book: Option<ByBook>,
    /// Where in the window the shop aims.
    pub aim: Option<Aim>,
    /// The window and target of the job's own, where it has them.
    pub own_aim: Option<OwnAim>,
    /// The usual difference that is counted with, where one is.
    pub usual: Option<UsualSaid>,
    /// For `If-Match`.
    pub version: i32,
    /// How far the check has come.
    pub phase: Phase,
    /// The round of measuring; 0 is before the first fitting.
    pub round: i32,
    /// What sets it, where anything does.
    pub set_by: Option<SetByView>,
    /// The checks that share pieces with it; they are best chosen for together.
    pub coupled_with: Vec<String>,
    /// What is fitted now, in nanometres, where that is known.
    pub fitted_nm: Option<i64>,
    /// All readings, in order.
    pub readings: Vec<ReadingView>,
    /// The gauges that can be taken up, the usual ones first.
    pub gauges: Vec<GaugeView>,
    /// The leaf to try next, where it is measured by leaves.
    pub next_leaf: Option<Advice>,
    /// The ways this round was measured in.
    pub ways: Vec<WayView>,
    /// The way that counts, where there is one.
    pub way: Option<Way>,
    /// What the way that counts says.
    pub estimate: Option<Estimate>,
    /// The turning torque, where that is what counts.
    pub torque: Option<TorqueFound>,
    /// Why they say nothing yet, where they do not.
    pub no_estimate: Option<String>,
    /// The verdict on them.
    pub verdict: Option<Verdict>,
    /// The thickness wanted.
    pub wanted: Option<Wanted>,
    /// The ranked choices.
    pub choices: Option<Choices>,
    /// Where pieces of more than one family would set it: the choices of all of them, ranked.
    pub offered: Vec<OfferView>,
    /// The clearance hot and cold, where the sheet says what spans it.
    pub hot: Option<Hot>,
    /// What the sheet's chart says, where it has one.
    pub chart: Option<ChartSays>,
    /// The ways out, where no choice reaches the shop's floor.
    pub ways_out: Option<WaysOut>,
    /// The chance in window the shop asks for.
    pub floor: f64,
    /// The last choice, chosen or fitted.
    pub setting: Option<SettingView>,
    /// This round's measurement against that choice's prediction.
    pub off_prediction: Option<OffPrediction>,
    /// The signature that stands, where the check is signed.
    pub signed: Option<SignatureView>,
    /// What has happened, oldest first.
    pub history: Vec<HistoryLine>,
}

/// The pinions of a carrier.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PinionsView {
    /// How many there are.
    pub count: u16,
    /// How far the loosest and the tightest may differ, in nanometres.
    pub alike_nm: Length,
}

impl From<&Pinions> for PinionsView {
    fn from(pinions: &Pinions) -> Self {
        Self {
            count: pinions.count,
            alike_nm: pinions.alike.length(),
        }
    }
}

/// What a selector must hold in the middle.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SelectorView {
    /// The gears, in the order of the drum.
    pub gears: Vec<SelectorGear>,
    /// How the shims lie now, where that is known.
    pub shims: Option<ShimsView>,
}

/// How shims lie at the two ends of a shaft.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ShimsView {
    /// Those at the left, in nanometres.
    pub left_nm: Vec<Length>,
    /// Those at the right.
    pub right_nm: Vec<Length>,
    /// They were moved so; found so otherwise.
    pub moved: bool,
    /// The worst offset that the move was expected to leave, in nanometres.
    pub predicted_nm: Option<f64>,
    /// Who said so.
    pub who: String,
}

/// A choice of pieces of one of several families.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct OfferView {
    /// The family's key.
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// What comes out for it of those that are in, in nanometres together; none for the first family, whose
    /// pieces all come out.
    pub out_nm: Option<Length>,
    /// Where its drawer is.
    pub place: String,
    /// What goes in.
    pub choice: choose::Choice,
}

/// A clutch pack on a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct PackView {
    /// As the sheet has it.
    pub drawn: DrawnPack,
    /// How many return springs there are pockets for, where the sheet says.
    pub springs: Option<u32>,
    /// How it was laid out last, where it was.
    pub laid: Option<LaidView>,
}

/// A pack as somebody laid it out.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct LaidView {
    /// The plates from the piston outwards.
    pub plates: Vec<PartKind>,
    /// The frictions were soaked; dry otherwise.
    pub soaked: bool,
    /// How many return springs were fitted, where they were counted.
    pub springs: Option<u32>,
    /// What is wrong with it.
    pub faults: Vec<PackFault>,
    /// Who laid it out.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What the book's window says of a check that is worked to another.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ByBook {
    /// The book's window.
    pub window: Ends,
    /// The verdict on what counts, by it.
    pub verdict: Option<Verdict>,
    /// The chance of each choice to land in it, by total thickness in nanometres.
    pub chances: BTreeMap<i64, f64>,
    /// The best choice on hand by it, where none reaches the shop's floor in the window worked to.
    pub best: Option<choose::Choice>,
}

/// A window and target of the job's own.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct OwnAim {
    /// Why.
    pub reason: String,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// Something to see to before a reading is believed.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ReadyView {
    /// What.
    pub tick: String,
    /// Why.
    pub why: String,
    /// Who has seen to it this round, where somebody has.
    pub by: Option<String>,
}

/// What differs between trial and final build.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AdjustmentView {
    /// What.
    pub what: String,
    /// How much the clearance grows by it, in nanometres.
    pub by_nm: Length,
    /// The ± limits of that.
    pub tolerance_nm: Length,
}

/// A gauge that can be taken up.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct GaugeView {
    /// Its key.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind it is.
    pub kind: GaugeKind,
    /// The unit it is read in.
    pub unit: String,
    /// The ways it can be used in.
    pub ways: Vec<Way>,
    /// Those of them that it is taken up for unless another is chosen.
    pub usual_for: Vec<Way>,
    /// The step of its scale in nanometres, where it reads lengths.
    pub resolution_nm: Option<i64>,
    /// Its permissible error, ± nanometres.
    pub permissible_error_nm: Option<i64>,
    /// The leaves of a feeler set.
    pub leaves_nm: Vec<i64>,
    /// It speaks for itself.
    pub live: bool,
    /// The day it was due to be checked, where that has passed.
    pub overdue_since: Option<NaiveDate>,
}

/// What sets a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SetByView {
    /// The key of the family.
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// What a thicker piece does.
    pub effect: Effect,
    /// The most pieces in a stack.
    pub most_pieces: u32,
    /// What is in place while the first readings are taken.
    pub measured_with: MeasuredWith,
    /// The sizes of the drawer.
    pub sizes: Vec<SizeView>,
}

/// A size of the drawer that sets a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SizeView {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
    /// What a measured piece was marked as, in nanometres, where that is known.
    pub nominal_nm: Option<i64>,
    /// Where it lies.
    pub place: String,
    /// How many can be had from the drawer.
    pub free: i32,
    /// How many are on order and not chosen for any check.
    pub coming: i32,
}

/// A reading, with what was said of it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ReadingView {
    /// Its number.
    pub reading_no: i32,
    /// The round it belongs to.
    pub round: i32,
    /// As typed.
    pub typed: String,
    /// The way it was taken.
    pub way: Way,
    /// What it says.
    pub taken: Taken,
    /// The length it comes to in nanometres, where it is one length.
    pub figure_nm: Option<Length>,
    /// The name of the gauge.
    pub gauge: String,
    /// Who took it.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
    /// Why it was struck out, where it was.
    pub struck: Option<String>,
    /// The slip it looks like, where nobody has said otherwise.
    pub question: Option<Slip>,
}

/// A choice of pieces.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SettingView {
    /// Its number.
    pub setting_no: i32,
    /// `chosen` or `fitted`.
    pub state: String,
    /// What people call the family that its pieces are of.
    pub family_name: String,
    /// What comes out for it, in nanometres, where it is of another family than the first.
    pub out_nm: Option<i64>,
    /// Its pieces.
    pub pieces: Vec<SettingPiece>,
    /// Their total thickness in nanometres.
    pub total_nm: i64,
    /// The clearance it is expected to give, in nanometres.
    pub predicted_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_nm: f64,
    /// The chance in window it is expected to have.
    pub chance: f64,
    /// Who chose it.
    pub chosen_by: String,
    /// When.
    pub chosen_at: DateTime<Utc>,
}

/// A signature.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SignatureView {
    /// Who.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
    /// The call that was signed.
    pub call: Option<Call>,
    /// The clearance that was signed, in nanometres.
    pub achieved_nm: Option<f64>,
    /// The torque that was signed, in newton metres.
    pub achieved_n_m: Option<f64>,
    /// Why, where it was not plainly in the window.
    pub reason: String,
}

/// Something that happened to a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct HistoryLine {
    /// When.
    pub at: DateTime<Utc>,
    /// Who.
    pub who: String,
    /// What.
    pub what: Happened,
    /// The figures that go with it, in nanometres.
    pub figures_nm: Vec<f64>,
    /// What was typed or ticked, where it is more than one length.
    pub said: String,
    /// The reason given, where one was.
    pub reason: String,
}

/// What can happen to a check.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum Happened {
    Read,
    Ticked,
    Unticked,
    Struck,
    Restored,
    Kept,
    SaidFitted,
    LaidOut,
    SaidShims,
    MovedShims,
    Aimed,
    AimedAsSheet,
    UsualCounts,
    UsualLeft,
    Chosen,
    LetGo,
    Fitted,
    Signed,
    Reopened,
}

/// A clearance hot and cold.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct Hot {
    /// As measured, where it is.
    pub measured: Option<HotAndCold>,
    /// As the pieces chosen would leave it, or else the best choice.
    pub expected: Option<HotAndCold>,
    /// The arithmetic of the growth.
    pub working: Working,
}

/// What a selection chart says, beside what is worked out.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ChartSays {
    /// What is measured to read it.
    pub measured: String,
    /// The depth it was read at, in nanometres: what was measured, with no piece in.
    pub depth_nm: f64,
    /// What it says.
    pub answer: chart::Answer,
    /// What its piece would give, where the drawer has it.
    pub choice: Option<choose::Choice>,
    /// Its piece is the one that the calculation puts first.
    pub agrees: bool,
}
