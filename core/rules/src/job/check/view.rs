//! One check, as the Gap screen needs it.

use super::assess::Assessment;
use super::clashes::that_may_clash;
use super::comparisons::{ByBook, ChartSays, Hot};
use super::entry_questions::EntryQuestion;
use super::fits::{FitSays, GrooveSays};
use super::loaded::LoadedCheck;
use super::methods::{self, MethodView};
use super::offering::Offering;
use super::other_families::OfferView;
use super::record::{BiasDecision, Record, Setting, SettingPiece, SettingState, Signing};
use super::rules::Allowed;
use super::spec::{Spec, as_final};
use super::workflow::Phase;
use crate::sheet::pack::{DrawnPack, PackFault};
use crate::sheet::{
    Backlash, CheckKind, MeasuredWith, Pack, PartKind, Pinions, Proof, Selector, SelectorGear,
};
use anvil_arithmetic::choose::harm::Harm;
use anvil_arithmetic::choose::required::{Effect, RequiredThickness, required_thickness};
use anvil_arithmetic::choose::{Choices, Fallbacks};
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::measure::backlash::Mesh;
use anvil_arithmetic::measure::feeler::Advice;
use anvil_arithmetic::measure::proof::{ProofFound, YesNo};
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::measure::turning_torque::{TorqueEnds, TorqueFound};
use anvil_arithmetic::refusal::Ruled;
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::uncertainty::student_t::t95;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use anvil_arithmetic::verdict::prediction::{PredictionError, prediction_error};
use anvil_arithmetic::verdict::window::{Ends, TargetRange};
use anvil_arithmetic::verdict::{Call, Verdict, call_of};
use chrono::{DateTime, NaiveDate, Utc};
use serde::Serialize;
use utoipa::ToSchema;

use super::history::{HistoryLine, history};

/// One check, as the Gap screen needs it.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct CheckView {
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
    /// A yes by hand and a figure could contradict each other here.
    pub may_clash: bool,
    /// The book gives a chart and no window: the window is what the chart leaves with what is in.
    pub by_chart: bool,
    /// Where its figures come from: its own source, or else the sheet's; empty where nobody has said.
    pub source: String,
    /// Its figures are to be looked up there before it is signed off.
    pub look_up: bool,
    /// The clutch pack it signs off, where it is of one.
    pub pack: Option<PackView>,
    /// The pinions of a carrier, where they are measured one by one.
    pub pinions: Option<PinionsView>,
    /// On which side missing its window is worse, where it is.
    pub harm: Option<Harm>,
    /// What a ring gear's backlash is held to, where it is a check of that.
    pub mesh: Option<Mesh>,
    /// What a selector must hold in the middle, where it is a check of that.
    pub selector: Option<SelectorView>,
    /// Of a seat's height: whether the ring's groove is clear, where it has one and the height is measured.
    pub groove: Option<GrooveSays>,
    /// Of a fit: what it comes to besides its verdict.
    pub fit: Option<FitSays>,
    /// How it is usually taken.
    pub method: Method,
    /// How to take it.
    pub how: String,
    /// The shim that goes in where it is measured with a known one, as its sheet has it, in nanometres.
    pub known_shim_nm: Option<Length>,
    /// What to see to before a reading is believed.
    pub ready: Vec<ReadyView>,
    /// How warm box and parts are while they are measured, °C, where somebody has said so.
    pub bench_c: Option<f64>,
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
    /// The question it asks, where it is answered yes or no.
    pub proof: Option<ProofView>,
    /// Where in the window the shop aims.
    pub aim: Option<TargetRange>,
    /// The window and target of the job's own, where it has them.
    pub own_aim: Option<OwnTarget>,
    /// The usual difference that is counted with, where one is.
    pub usual: Option<BiasDecision>,
    /// For `If-Match`.
    pub version: i32,
    /// What may be done with it now.
    pub allowed: Allowed,
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
    pub ways: Vec<MethodView>,
    /// The way that counts, where there is one.
    pub way: Option<Method>,
    /// What the way that counts says.
    pub estimate: Option<Estimate>,
    /// The turning torque, where that is what counts.
    pub torque: Option<TorqueFound>,
    /// Why they say nothing yet, where they do not.
    pub no_estimate: Option<String>,
    /// The verdict on them.
    pub verdict: Option<Verdict>,
    /// The thickness wanted.
    pub wanted: Option<RequiredThickness>,
    /// The ranked choices.
    pub choices: Option<Choices>,
    /// Where pieces of more than one family would set it: the choices of all of them, ranked.
    pub offered: Vec<OfferView>,
    /// What could be added to what is in, which stays.
    pub added: Option<Choices>,
    /// The clearance hot and cold, where the sheet says what spans it.
    pub hot: Option<Hot>,
    /// What the sheet's chart says, where it has one.
    pub chart: Option<ChartSays>,
    /// The ways out, where no choice reaches the shop's floor.
    pub ways_out: Option<Fallbacks>,
    /// The chance in window the shop asks for.
    pub floor: f64,
    /// The last choice, chosen or fitted.
    pub setting: Option<SettingView>,
    /// This round's measurement against that choice's prediction.
    pub off_prediction: Option<PredictionError>,
    /// The difference between trial and final build that explains how far it is off.
    pub off_by: Option<String>,
    /// The signature that stands, where the check is signed.
    pub signed: Option<SignatureView>,
    /// What has happened, oldest first.
    pub history: Vec<HistoryLine>,
}

/// A question, and what was answered this round.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct ProofView {
    pub question: String,
    /// The answer wanted.
    pub wanted: YesNo,
    /// What the other answer usually means.
    pub otherwise: Vec<String>,
    /// What was answered, where anything was.
    pub found: Option<ProofFound>,
}

impl ProofView {
    fn of(proof: &Proof, found: Option<ProofFound>) -> Self {
        Self {
            question: proof.question.clone(),
            wanted: proof.wanted,
            otherwise: proof.otherwise.clone(),
            found,
        }
    }
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
    /// As they lie in the drum.
    pub drawn: DrawnPack,
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

/// A window and target of the job's own.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct OwnTarget {
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
    pub tick: String,
    pub why: String,
    /// Who has seen to it this round, where somebody has.
    pub by: Option<String>,
}

/// What differs between trial and final build.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct AdjustmentView {
    pub what: String,
    /// How much the clearance grows by it, in nanometres.
    pub by_nm: Length,
    /// The ± limits of that.
    pub tolerance_nm: Length,
    /// Whether it was said to be as in the final build while it is measured, and so is not counted; none where nobody can
    /// say so.
    pub as_final: Option<bool>,
    /// What is ticked to say so.
    pub tick: String,
}

/// A gauge that can be taken up.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct GaugeView {
    pub key: String,
    /// What people call it.
    pub name: String,
    pub kind: GaugeKind,
    /// The unit it is read in.
    pub unit: String,
    /// The ways it can be used in.
    pub ways: Vec<Method>,
    /// Those of them that it is taken up for unless another is chosen.
    pub usual_for: Vec<Method>,
    /// The step of its scale in nanometres, where it reads lengths.
    pub resolution_nm: Option<i64>,
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
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// What a thicker piece does.
    pub effect: Effect,
    /// The most pieces in a stack.
    pub most_pieces: u32,
    /// The ± limits of a piece that are counted with, in nanometres: the wider of the drawer's and the sheet's.
    pub tolerance_nm: i64,
    /// The drawer and the sheet give different ones.
    pub disputed: bool,
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
    pub reading_no: i32,
    /// The round it belongs to.
    pub round: i32,
    /// As typed.
    pub typed: String,
    /// The way it was taken.
    pub way: Method,
    /// What it says.
    pub taken: Reading,
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
    pub question: Option<EntryQuestion>,
}

/// A choice of pieces.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SettingView {
    pub setting_no: i32,
    /// `chosen` or `fitted`.
    pub state: SettingState,
    /// What people call the family that its pieces are of.
    pub family_name: String,
    /// What comes out for it, in nanometres, where it is of another family than the first.
    pub out_nm: Option<i64>,
    /// How thick what stays in is, beside which they go, in nanometres.
    pub stays_nm: i64,
    pub pieces: Vec<SettingPiece>,
    /// Their total thickness in nanometres.
    pub total_nm: i64,
    /// The clearance it is expected to give, in nanometres.
    pub predicted_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_nm: f64,
    /// The chance in window it is expected to have.
    pub chance: f64,
    /// The call on the clearance it is expected to give.
    pub lands: Call,
    /// Who chose it.
    pub chosen_by: String,
    /// When.
    pub chosen_at: DateTime<Utc>,
}

/// Who signed the check off, on what figure, and why.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct SignatureView {
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

impl CheckView {
    /// A check as the Gap screen needs it, from what was found of this very record.
    ///
    /// # Errors
    /// Where the record contradicts itself.
    #[allow(clippy::too_many_lines)] // a field for each thing that the screen shows
    pub fn of(record: &Record, spec: &Spec<'_>, found: Assessment) -> Ruled<Self> {
        let allowed = Allowed::of(record, spec, &found);
        let Assessment {
            methods: methods_found,
            method,
            estimate,
            torque,
            proof,
            no_estimate,
            verdict,
            call: _,
            phase,
        } = found;
        let set_by = spec.check.set_by.as_ref();
        let stock = record.stock(set_by.map_or(1, |s| s.most_pieces));
        let request = estimate
            .as_ref()
            .and_then(|e| record.request(spec, method, e, &stock));
        let choosing = matches!(phase, Phase::Choose | Phase::Sign);
        let Offering {
            choices,
            ways_out,
            offered,
            added,
        } = if choosing {
            record.offering(spec, request.as_ref(), estimate.as_ref())?
        } else {
            Offering::default()
        };
        let setting = record.open_setting().or(record.fitted_setting());
        let just_fitted = record
            .just_fitted()
            .filter(|_| record.open_setting().is_none());
        let off = just_fitted
            .zip(estimate.as_ref())
            .map(|(s, e)| prediction_error(e, s.predicted_nm, s.u_nm, s.dof));
        let off_by = off.as_ref().and_then(|off| spec.explains(off));
        let signed = record.signature().map(signature_view);
        let book = spec.check.window.as_ref().and_then(|w| w.window().ok());
        let by_book = book
            .filter(|b| spec.length.is_some_and(|l| l.0 != *b))
            .map(|b| record.by_book(b, estimate.as_ref(), request.as_ref(), choices.as_ref()))
            .transpose()?;
        let hot = Record::hot(
            spec,
            estimate.as_ref().map(|e| e.clearance_nm),
            record.expected_nm(choices.as_ref()),
        );
        let counts = methods_found.iter().find(|m| Some(m.method) == method);
        let fit = counts
            .map(|m| FitSays::of(spec, estimate.as_ref(), &m.measured.detail))
            .transpose()?;
        Ok(Self {
            groove: GrooveSays::of(spec, estimate.as_ref()),
            fit: fit.flatten(),
            hot,
            job_no: record.job_no,
            title: record.head.title.clone(),
            sheet_key: record.head.sheet_key.clone(),
            check_key: record.check_key.clone(),
            name: spec.check.name.clone(),
            kind: spec.check.kind,
            rule: spec.check.rule.clone(),
            may_clash: that_may_clash(spec.sheet).contains(&spec.check.key.as_str()),
            by_chart: spec.by_chart(),
            source: spec.source().to_owned(),
            look_up: spec.check.look_up,
            pack: spec.pack().map(|p| pack_view(record, p)),
            pinions: spec.check.pinions.as_ref().map(PinionsView::from),
            harm: spec.check.harm,
            mesh: spec.check.backlash.as_ref().map(Backlash::mesh),
            selector: spec
                .check
                .selector
                .as_ref()
                .map(|s| selector_view(record, s)),
            method: spec.check.method,
            how: spec.check.how.clone(),
            known_shim_nm: spec.check.known_shim.as_ref().map(Written::length),
            ready: ready_views(record, spec),
            adjustments: adjustment_views(spec, method.unwrap_or(spec.check.method)),
            bench_c: record.head.bench_c,
            terms: spec.terms(),
            cautions: spec.check.cautions.clone(),
            window: spec.length.map_or(Ends::default(), |l| l.0.into()),
            torque_window: spec.torque,
            by_book,
            proof: spec.check.proof.as_ref().map(|p| ProofView::of(p, proof)),
            aim: spec.length.map(|l| l.1),
            own_aim: record
                .target_overrides
                .last()
                .filter(|a| !a.as_sheet)
                .map(|a| OwnTarget {
                    reason: a.reason.clone(),
                    who: a.who.clone(),
                    at: a.at,
                }),
            usual: record.bias().cloned(),
            version: record.head.version,
            allowed,
            phase,
            round: record.head.round,
            set_by: set_by.map(|s| set_by_view(record, spec, s)),
            coupled_with: coupled_names(spec),
            fitted_nm: record.head.fitted_nm,
            readings: reading_views(record, spec),
            gauges: gauge_views(record, Utc::now().date_naive()),
            next_leaf: methods::next_leaf(record, spec),
            ways: methods::method_views(record, spec, &methods_found),
            way: method,
            torque,
            wanted: request
                .as_ref()
                .map(|r| required_thickness(r.clearance_nm, r.aim, r.fitted, r.effect)),
            estimate,
            no_estimate,
            verdict,
            chart: request.as_ref().filter(|_| choosing).and_then(|r| {
                let best = choices.as_ref().and_then(|c| c.ranked.first());
                Record::chart_says(spec, method.unwrap_or(spec.check.method), r, best)
            }),
            choices,
            offered,
            added,
            ways_out,
            floor: record.required_probability,
            setting: setting.map(|s| setting_view(s, spec)),
            off_prediction: off,
            off_by,
            signed,
            history: history(record),
        })
    }

    /// A check as it was loaded.
    ///
    /// # Errors
    /// Where its record contradicts itself.
    pub fn of_loaded(loaded: LoadedCheck) -> Ruled<Self> {
        let spec = Spec::of(&loaded.sheet, &loaded.record.check_key)?.on_job(&loaded.record);
        Self::of(&loaded.record, &spec, loaded.assessment)
    }
}

fn reading_views(record: &Record, spec: &Spec<'_>) -> Vec<ReadingView> {
    let gauge_name = |key: Option<&String>| {
        record
            .gauges
            .iter()
            .find(|g| Some(&g.gauge_key) == key)
            .map_or_else(String::new, |g| g.name.clone())
    };
    record
        .readings
        .iter()
        .map(|r| ReadingView {
            reading_no: r.reading_no,
            round: r.round,
            typed: r.as_typed(),
            way: r.way,
            figure_nm: r.taken.figure(),
            taken: r.taken.clone(),
            gauge: gauge_name(r.gauge_key.as_ref()),
            who: r.who.clone(),
            at: r.at,
            struck: record.struck(r.reading_no).map(|m| m.reason.clone()),
            question: record.question(spec, r),
        })
        .collect()
}

fn ready_views(record: &Record, spec: &Spec<'_>) -> Vec<ReadyView> {
    let by = |tick: &str| record.seen_to(tick).map(|t| t.who.clone());
    let ready = spec.sheet.ready_of(spec.check).into_iter();
    ready
        .map(|r| ReadyView {
            by: by(&r.tick),
            tick: r.tick,
            why: r.why,
        })
        .collect()
}

fn gauge_views(record: &Record, today: NaiveDate) -> Vec<GaugeView> {
    record
        .gauges
        .iter()
        .filter(|g| !g.retired)
        .map(|g| GaugeView {
            key: g.gauge_key.clone(),
            name: g.name.clone(),
            kind: g.kind,
            unit: g.unit.clone(),
            ways: Method::ALL
                .iter()
                .copied()
                .filter(|method| method.gauges().contains(&g.kind))
                .collect(),
            usual_for: Method::ALL
                .iter()
                .copied()
                .filter(|method| {
                    record
                        .gauge_for(*method)
                        .is_some_and(|u| u.gauge_key == g.gauge_key)
                })
                .collect(),
            resolution_nm: g.resolution_nm,
            permissible_error_nm: g.permissible_error_nm,
            leaves_nm: g.leaves_nm.clone(),
            live: !g.live_at.is_empty(),
            overdue_since: g.due_on.filter(|due| *due < today),
        })
        .collect()
}

fn set_by_view(record: &Record, spec: &Spec<'_>, s: &crate::sheet::SetBy) -> SetByView {
    SetByView {
        family_key: s.family.clone(),
        family_name: spec
            .sheet
            .family(&s.family)
            .map_or_else(|| s.family.clone(), |f| f.name.clone()),
        effect: s.effect(),
        most_pieces: s.most_pieces,
        tolerance_nm: record.tolerance_nm,
        disputed: record.disputes(spec),
        measured_with: s.measured_with,
        sizes: record
            .stock
            .iter()
            .map(|l| SizeView {
                thickness_nm: l.thickness_nm,
                grade: l.grade,
                nominal_nm: l.nominal_nm,
                place: l.place.clone(),
                free: l.on_hand - l.reserved,
                coming: l.coming,
            })
            .collect(),
    }
}

fn coupled_names(spec: &Spec<'_>) -> Vec<String> {
    let coupled = spec.sheet.coupled_with(spec.check);
    coupled.iter().map(|c| c.name.clone()).collect()
}

fn adjustment_views(spec: &Spec<'_>, method: Method) -> Vec<AdjustmentView> {
    let adjustments = spec.trial_to_final(method);
    adjustments
        .into_iter()
        .map(|a| AdjustmentView {
            as_final: spec.is_as_final(&a.what),
            tick: as_final(&a.what),
            what: a.what,
            by_nm: a.by,
            tolerance_nm: a.tolerance,
        })
        .collect()
}

fn setting_view(setting: &Setting, spec: &Spec<'_>) -> SettingView {
    let family = setting.family_key.as_str();
    let other = spec.family() != Some(family);
    SettingView {
        family_name: spec
            .sheet
            .family(family)
            .map_or(family, |f| &f.name)
            .to_owned(),
        out_nm: other.then_some(setting.fitted_before_nm),
        stays_nm: setting.stays_nm(),
        setting_no: setting.setting_no,
        state: setting.state,
        pieces: setting.pieces.clone(),
        total_nm: setting.total_nm,
        predicted_nm: setting.predicted_nm,
        expanded_nm: t95(setting.dof) * setting.u_nm,
        chance: setting.chance,
        lands: spec.length.map_or(Call::In, |(window, _)| {
            call_of(
                setting.predicted_nm,
                t95(setting.dof) * setting.u_nm,
                window,
            )
        }),
        chosen_by: setting.chosen_by.clone(),
        chosen_at: setting.chosen_at,
    }
}

fn signature_view(signing: &Signing) -> SignatureView {
    SignatureView {
        who: signing.who.clone(),
        at: signing.at,
        call: signing.call,
        achieved_nm: signing.achieved_nm,
        achieved_n_m: signing.achieved_n_m,
        reason: signing.reason.clone(),
    }
}

fn pack_view(record: &Record, pack: &Pack) -> PackView {
    PackView {
        drawn: pack.drawn(),
        springs: pack.springs_fitted.or(pack.return_springs),
        laid: record.assemblies.last().map(|laid| LaidView {
            plates: laid.plates.clone(),
            drawn: pack.drawn_as(&laid.plates),
            soaked: laid.soaked,
            springs: laid.springs,
            faults: laid.faults(pack),
            who: laid.who.clone(),
            at: laid.at,
        }),
    }
}

fn selector_view(record: &Record, of: &Selector) -> SelectorView {
    SelectorView {
        gears: of.gears.clone(),
        shims: record.shims.last().map(|said| ShimsView {
            left_nm: said.left_nm.clone(),
            right_nm: said.right_nm.clone(),
            moved: said.moved,
            predicted_nm: said.predicted_nm,
            who: said.who.clone(),
        }),
    }
}
