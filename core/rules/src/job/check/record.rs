//! Everything recorded of one check of one job. Records are only ever added; what stands follows from all of them.

use std::collections::BTreeMap;

use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::measure::{Method, selector_gaps};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::uncertainty::bias::counted_in;
use anvil_arithmetic::uncertainty::distribution::{Distribution, Shape};
use anvil_arithmetic::uncertainty::estimate::{Component, Estimate, Source};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_arithmetic::verdict::still::Expected;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use super::past::MeasuredBefore;
use super::workflow::Phase;
use crate::job::standing::Standing;
use crate::sheet::pack::{PackFault, counted_springs};
use crate::sheet::{Pack, PartKind, Selector};
use crate::shop::gauge_register::RegisteredGauge;

/// What was said of a reading after it was taken.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum ReadingMark {
    /// It does not count.
    Struck,
    /// It counts after all.
    Restored,
    /// It is right as it is, though it looks like a slip.
    Kept,
}

/// How far a choice of pieces has come.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum SettingState {
    /// Set aside or on order, to be fitted.
    Chosen,
    /// In the box.
    Fitted,
    /// Back in the drawer.
    LetGo,
    /// Said to be fitted, and then that it was not.
    NotFitted,
}

/// Signed off, or taken back.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum SignAct {
    /// Somebody put their initials under it.
    Signed,
    /// The signature was taken back, with the reason.
    Reopened,
}

/// What must be known of a check before its records can be read.
#[derive(Clone, Debug)]
pub struct Head {
    /// The job's title.
    pub title: String,
    /// Whose box it is.
    pub customer: String,
    /// The sheet it was opened with.
    pub sheet_key: String,
    /// The revision of that sheet.
    pub revision: i32,
    /// The key of the build that the box is; empty where there is only one, or it is not known which.
    pub variant: String,
    /// The version of the check.
    pub version: i32,
    /// The round of measuring it is in; 0 is before the first fitting.
    pub round: i32,
    /// What is fitted now, where that is known.
    pub fitted_nm: Option<i64>,
    /// The phase, as last worked out.
    pub phase: Phase,
    /// The way that counts, where somebody has said so.
    pub way: Option<Method>,
    /// How warm box and parts are while they are measured, °C, where somebody has said so; 20 otherwise.
    pub bench_c: Option<f64>,
    /// Where its job is.
    pub standing: Standing,
}

/// One reading, as taken.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct ReadingRecord {
    /// Its number within the check.
    pub reading_no: i32,
    /// The round it belongs to.
    pub round: i32,
    /// As typed.
    pub typed: String,
    /// The unit a bare figure was in.
    pub bench_unit: Unit,
    /// The way it was taken.
    pub way: Method,
    /// What it says.
    pub taken: Reading,
    /// The gauge it was taken with; none for fingers.
    pub gauge_key: Option<String>,
    /// Who took it.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// What was said of a reading afterwards.
#[derive(Clone, Debug, Deserialize)]
pub struct Mark {
    pub reading_no: i32,
    pub mark: ReadingMark,
    /// Why.
    pub reason: String,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// A choice of pieces.
#[derive(Clone, Debug, Deserialize)]
pub struct Setting {
    /// Its number within the check.
    pub setting_no: i32,
    /// The round whose readings it was chosen on.
    pub round: i32,
    /// The family its pieces are of.
    pub family_key: String,
    /// Their total thickness in nanometres.
    pub total_nm: i64,
    /// What was fitted before.
    pub fitted_before_nm: i64,
    /// The clearance it was chosen on.
    pub measured_nm: f64,
    /// The clearance it was expected to give.
    pub predicted_nm: f64,
    /// The standard uncertainty of that.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The chance in window it was expected to have.
    pub chance: f64,
    /// The usual difference that the prediction counts with, in nanometres.
    #[serde(default)]
    pub usual_nm: f64,
    /// Who chose it.
    pub chosen_by: String,
    /// When.
    pub chosen_at: DateTime<Utc>,
    /// How far it has come.
    pub state: SettingState,
    /// Who fitted it or let it go.
    pub ended_by: Option<String>,
    /// When.
    pub ended_at: Option<DateTime<Utc>>,
    /// Who said that it was not fitted after all.
    #[serde(default)]
    pub undone_by: Option<String>,
    /// When.
    #[serde(default)]
    pub undone_at: Option<DateTime<Utc>>,
    pub pieces: Vec<SettingPiece>,
}

/// Some pieces of a setting.
#[derive(Clone, Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SettingPiece {
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
    /// How many.
    pub count: i32,
    /// How many of them are set aside in the drawer; the rest have still to come.
    pub reserved: i32,
}

/// A signing-off or a reopening.
#[derive(Clone, Debug, Deserialize)]
pub struct Signing {
    /// Which of the two.
    pub act: SignAct,
    /// The call that was signed.
    pub call: Option<Call>,
    /// The clearance that was signed.
    pub achieved_nm: Option<f64>,
    /// The chance that it is in the window.
    pub chance: Option<f64>,
    /// The way it was measured in.
    #[serde(default)]
    pub way: Option<Method>,
    /// The torque that was signed, in newton metres.
    #[serde(default)]
    pub achieved_n_m: Option<f64>,
    /// Why.
    pub reason: String,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
    /// The gauge whose scatter it adds to, with the squared deviations and their degrees of freedom.
    #[serde(default)]
    pub gauge_key: Option<String>,
    /// See `gauge_key`.
    #[serde(default)]
    pub squares: Option<f64>,
    /// See `gauge_key`.
    #[serde(default)]
    pub scatter_dof: Option<f64>,
}

/// What was seen to, or not, before readings were believed.
#[derive(Clone, Debug, Deserialize)]
pub struct ChecklistEntry {
    /// The round of measuring.
    pub round: i32,
    pub tick: String,
    /// It is so.
    pub done: bool,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// Scatter pooled over signed checks.
#[derive(Clone, Debug, Deserialize)]
pub struct PoolRow {
    pub gauge_key: String,
    pub way: Method,
    /// The sum of squared deviations, square nanometres.
    pub squares: f64,
    /// The degrees of freedom.
    pub dof: f64,
}

/// What was said to be fitted.
#[derive(Clone, Debug, Deserialize)]
pub struct FittedEntry {
    /// The thickness in nanometres.
    pub fitted_nm: i64,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// A window and target of the job's own, or the sheet's again.
#[derive(Clone, Debug, Deserialize)]
pub struct TargetOverride {
    /// The sheet's stand again.
    pub as_sheet: bool,
    /// The tight limit in nanometres; open where there is none.
    pub low_nm: Option<i64>,
    /// The loose limit in nanometres; open where there is none.
    pub high_nm: Option<i64>,
    /// The tight end of what is aimed at, in nanometres.
    pub aim_from_nm: Option<f64>,
    /// The loose end of what is aimed at, in nanometres.
    pub aim_to_nm: Option<f64>,
    /// Why.
    pub reason: String,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// The usual difference, counted with because somebody said so.
#[derive(Clone, Debug, Deserialize, Serialize, utoipa::ToSchema)]
pub struct BiasDecision {
    pub counts: bool,
    /// Achieved less predicted, in nanometres.
    pub mean_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom.
    pub dof: f64,
    /// How many boxes it is of.
    pub boxes: i32,
    /// Who said so.
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// A clutch pack as somebody laid it out.
#[derive(Clone, Debug, Deserialize)]
pub struct Assembly {
    /// The kinds of its plates from the piston outwards.
    pub plates: Vec<PartKind>,
    /// The frictions were soaked.
    pub soaked: bool,
    /// How many return springs were fitted, where they were counted.
    pub springs: Option<u32>,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// How the shims lay at the two ends of a selector's shaft.
#[derive(Clone, Debug, Deserialize)]
pub struct ShimsEntry {
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
    /// When.
    pub at: DateTime<Utc>,
}

/// A drawer beside the first that a check may draw from.
#[derive(Clone, Debug)]
pub struct OtherDrawer {
    pub family_key: String,
    /// The ± limits of a piece of it in nanometres; the wider of what the drawer and the sheet say, once a sheet is heeded.
    pub tolerance_nm: i64,
    /// Its sizes.
    pub stock: Vec<StockLine>,
}

/// One size of a drawer.
#[derive(Clone, Debug, Deserialize)]
pub struct StockLine {
    pub family_key: String,
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
    /// What a measured piece was marked as, where that is known.
    pub nominal_nm: Option<i64>,
    /// The standard uncertainty of a measured thickness in nanometres.
    pub u_nm: Option<f64>,
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many of them are set aside.
    pub reserved: i32,
    /// How many are ordered, still to come, and not chosen for any check.
    pub coming: i32,
    /// Where the drawer is.
    pub place: String,
    /// It is no longer made.
    pub discontinued: bool,
}

/// Everything recorded of a check, with the drawer it draws from.
#[derive(Clone, Debug)]
pub struct Record {
    pub job_no: i32,
    pub check_key: String,
    pub head: Head,
    /// All readings, in order.
    pub readings: Vec<ReadingRecord>,
    /// All that was said of them, in order.
    pub marks: Vec<Mark>,
    /// All settings, in order.
    pub settings: Vec<Setting>,
    /// All signings, in order.
    pub signings: Vec<Signing>,
    /// All that was said to be fitted, in order.
    pub fitted_entries: Vec<FittedEntry>,
    /// The drawer.
    pub stock: Vec<StockLine>,
    /// The other drawers that it may draw from.
    pub others: Vec<OtherDrawer>,
    /// How the shims lay at the ends of its shaft, each time.
    pub shims: Vec<ShimsEntry>,
    /// The ± limits of a piece of the family in nanometres; the wider of what the drawer and the sheet say, once a sheet is heeded.
    pub tolerance_nm: i64,
    /// The same as the drawer has them.
    pub drawer_tolerance_nm: i64,
    /// The register, the usual ones first.
    pub gauges: Vec<RegisteredGauge>,
    /// The shop's own scatter of each gauge used each way.
    pub pools: Vec<PoolRow>,
    /// All ticks, in order.
    pub checklist: Vec<ChecklistEntry>,
    /// All that was said of where to aim, in order.
    pub target_overrides: Vec<TargetOverride>,
    /// All that was said of the usual difference, in order.
    pub bias_decisions: Vec<BiasDecision>,
    /// How its clutch pack was laid out, each time.
    pub assemblies: Vec<Assembly>,
    /// What was measured on boxes of its sheet before.
    pub measured_before: MeasuredBefore,
    /// The chance in window the shop asks for.
    pub required_probability: f64,
    /// How many steps of the job's build come out to change its pieces, by the key of their family; nothing where none is
    /// begun, or one family alone sets it.
    pub steps_out: BTreeMap<String, usize>,
}

impl ReadingRecord {
    /// What was typed, with the unit that a bare figure was in.
    pub fn as_typed(&self) -> String {
        let one_figure = matches!(
            self.taken,
            Reading::Travel(_) | Reading::Pair(_) | Reading::ByHand(_)
        );
        let bare = self
            .typed
            .replace(" to ", "")
            .replace("about ", "")
            .chars()
            .all(|c| !c.is_alphabetic() && !"\"”″“'’".contains(c));
        if bare && one_figure {
            format!("{} {}", self.typed, self.bench_unit.sign())
        } else {
            self.typed.clone()
        }
    }
}

impl Signing {
    /// The record of a reopening.
    pub fn reopened(reason: String, who: &str, at: DateTime<Utc>) -> Self {
        Self {
            act: SignAct::Reopened,
            call: None,
            achieved_nm: None,
            chance: None,
            way: None,
            achieved_n_m: None,
            gauge_key: None,
            squares: None,
            scatter_dof: None,
            reason,
            who: who.to_owned(),
            at,
        }
    }
}

impl Assembly {
    /// What is wrong with it, against the sheet.
    pub fn faults(&self, pack: &Pack) -> Vec<PackFault> {
        let mut faults = pack.laid_faults(&self.plates);
        faults.extend(counted_springs(
            self.springs,
            pack.return_springs,
            pack.springs_fitted,
        ));
        faults
    }
}

impl Record {
    /// Why a reading is struck out, where it is.
    pub fn struck(&self, reading_no: i32) -> Option<&Mark> {
        self.marks
            .iter()
            .rev()
            .find(|m| m.reading_no == reading_no && m.mark != ReadingMark::Kept)
            .filter(|m| m.mark == ReadingMark::Struck)
    }

    /// This round's readings that stand.
    pub fn valid_readings(&self) -> impl Iterator<Item = &ReadingRecord> {
        self.readings
            .iter()
            .filter(|r| r.round == self.head.round && self.struck(r.reading_no).is_none())
    }

    /// The choice that waits to be fitted.
    pub fn open_setting(&self) -> Option<&Setting> {
        self.settings
            .iter()
            .find(|s| s.state == SettingState::Chosen)
    }

    /// What is in the box now.
    pub fn fitted_setting(&self) -> Option<&Setting> {
        self.settings
            .iter()
            .rev()
            .find(|s| s.state == SettingState::Fitted)
    }

    /// The setting that was fitted last, where what is measured now is with it in and nothing else was changed since.
    pub fn just_fitted(&self) -> Option<&Setting> {
        self.fitted_setting()
            .filter(|s| s.round + 1 == self.head.round)
    }

    /// What that setting was to give.
    pub fn expected_of_fitted(&self) -> Option<Expected> {
        self.just_fitted().map(|s| Expected {
            clearance_nm: s.predicted_nm,
            u_nm: s.u_nm,
            dof: s.dof,
        })
    }

    /// The window and target of the job's own, where it has them.
    pub fn own_target(&self) -> Option<(Window, TargetRange)> {
        let said = self.target_overrides.last().filter(|a| !a.as_sheet)?;
        let limit = |nm: Option<i64>| nm.map(Length::from_nm);
        let window = Window::new(limit(said.low_nm), limit(said.high_nm)).ok()?;
        let aim = TargetRange {
            from_nm: said.aim_from_nm?,
            to_nm: said.aim_to_nm?,
        };
        Some((window, aim))
    }

    /// The usual difference that counts here, where one does.
    pub fn bias(&self) -> Option<&BiasDecision> {
        self.bias_decisions.last().filter(|u| u.counts)
    }

    /// A clearance as it will be, the usual difference counted in where it counts: the figure, its
    /// standard uncertainty and degrees of freedom.
    pub fn expected_of(&self, estimate: &Estimate) -> (f64, f64, Option<f64>) {
        let measured = (estimate.clearance_nm, estimate.u_nm, estimate.dof);
        match self.bias() {
            Some(u) => counted_in(measured, (u.mean_nm, u.u_nm, u.dof)),
            None => measured,
        }
    }

    /// The shape of what is known of that.
    pub fn shape_of(&self, estimate: &Estimate) -> Option<Shape> {
        let known = match self.bias() {
            None => estimate.distribution(),
            Some(bias) => {
                let bias = Component {
                    from: Source::Bias,
                    u_nm: bias.u_nm,
                    dof: Some(bias.dof),
                };
                Distribution::of(&[&estimate.parts[..], &[bias]].concat())
            }
        };
        Shape::new(known)
    }

    /// The signature that stands.
    pub fn signature(&self) -> Option<&Signing> {
        self.signings.last().filter(|s| s.act == SignAct::Signed)
    }

    /// The gauge that a way is taken with unless another is chosen: the usual one of the first kind
    /// that there is any of.
    pub fn gauge_for(&self, method: Method) -> Option<&RegisteredGauge> {
        method
            .gauges()
            .iter()
            .find_map(|kind| self.gauges.iter().find(|g| g.kind == *kind && !g.retired))
    }

    /// What comes out for the pieces that are chosen, where it went in from the same first drawer here; what comes out
    /// for pieces of another family was in the box, not in a drawer.
    pub fn comes_out(&self, first: Option<&str>) -> Option<&Setting> {
        let family = &self.open_setting()?.family_key;
        let mut before = self.settings.iter().rev();
        before
            .find(|s| s.state == SettingState::Fitted && s.family_key == *family)
            .filter(|_| first == Some(family.as_str()))
            .filter(|_| self.open_setting().is_some_and(|s| s.stays_nm() == 0))
    }

    /// Nothing was ever said of the check.
    pub fn is_blank(&self) -> bool {
        self.readings.is_empty()
            && self.settings.is_empty()
            && self.signings.is_empty()
            && self.fitted_entries.is_empty()
            && self.target_overrides.is_empty()
            && self.bias_decisions.is_empty()
            && self.checklist.is_empty()
            && self.assemblies.is_empty()
            && self.shims.is_empty()
            && self.head.way.is_none()
    }

    /// Who has seen to something in this round of measuring, where it stands as seen to.
    pub fn seen_to(&self, tick: &str) -> Option<&ChecklistEntry> {
        let mut said = self.checklist.iter().rev();
        said.find(|t| t.tick == tick && t.round == self.head.round)
            .filter(|t| t.done)
    }

    /// A selector with the shims as they lie now, as far as that is known.
    pub fn with_shims(&self, of: &Selector) -> selector_gaps::Selector {
        match self.shims.last() {
            Some(said) => of.with_shims(&said.left_nm, &said.right_nm),
            None => of.with_shims(&[], &[]),
        }
    }

    /// The pack was laid out last as the sheet has it.
    pub fn is_laid_right(&self, pack: &Pack) -> bool {
        self.assemblies
            .last()
            .is_some_and(|laid| laid.faults(pack).is_empty())
    }
}
