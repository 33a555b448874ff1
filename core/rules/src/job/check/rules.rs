//! What may be done with a check as it stands: each rule says yes, or why not and what would do.

use anvil_arithmetic::choose::SizeCount;
use anvil_arithmetic::materials::thermal::BENCH_C;
use anvil_arithmetic::measure::depth_ring::{BarOn, DepthReading};
use anvil_arithmetic::measure::{Method, OfKind, Reading, with_measured};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::bias::ENOUGH_BOXES;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;
use serde::Serialize;

use super::assess::Assessment;
use super::fits::GrooveSays;
use super::record::{ReadingMark, Record, Setting, SettingState};
use super::spec::{Spec, as_final};
use crate::job::standing::Standing;
use crate::sheet::fit::{FURTHEST_APART, could_fit};
use crate::sheet::pack::is_plate;
use crate::sheet::{CheckKind, PartKind};
use crate::shop::drawers::THICKEST;
use crate::texts::shown;

/// More readings of one check than this are a gauge running away.
pub const MOST_READINGS: usize = 500;
/// The longest reason that is kept, in characters.
pub const LONGEST_REASON: usize = 500;

/// A reason, trimmed; `asked_for` says why one is needed, where it is.
///
/// # Errors
/// Where it is asked for and empty, or longer than anyone reads.
pub fn reason(text: &str, asked_for: Option<&str>) -> Ruled<String> {
    let text = shown(text);
    if let Some(why) = asked_for.filter(|_| text.is_empty()) {
        return Err(Refusal::field("reason", why));
    }
    if text.chars().count() > LONGEST_REASON {
        return Err(Refusal::field(
            "reason",
            format!("A reason has up to {LONGEST_REASON} characters: shorten it."),
        ));
    }
    Ok(text.to_owned())
}

/// Nothing changes under a signature.
///
/// # Errors
/// Where the check is signed off.
pub fn not_signed(record: &Record) -> Ruled<()> {
    match record.signature() {
        None => Ok(()),
        Some(s) => Err(Refusal::conflict(
            "signed",
            format!(
                "{} signed this check off. Reopen it with a reason to change anything.",
                s.who
            ),
        )),
    }
}

/// What pieces were chosen on stays as it is until they are fitted or let go.
///
/// # Errors
/// Where pieces are chosen.
pub fn nothing_chosen(record: &Record) -> Ruled<()> {
    match record.open_setting() {
        None => Ok(()),
        Some(_) => Err(Refusal::conflict(
            "pieces-chosen",
            "Pieces are chosen on these readings. Fit them, or let them go first.",
        )),
    }
}

/// What is measured, aimed at or counted with may change: neither signed nor chosen on.
///
/// # Errors
/// See [`not_signed`] and [`nothing_chosen`].
pub fn may_change(record: &Record) -> Ruled<()> {
    not_signed(record)?;
    nothing_chosen(record)
}

/// Whether a check can be measured by a method at all as it stands.
///
/// # Errors
/// Where there is nothing there for the method to measure, or nothing to hold its figure against.
pub fn may_measure_by(record: &Record, spec: &Spec<'_>, method: Method) -> Ruled<()> {
    let no = |why: &str| Err(Refusal::field("way", why));
    match method {
        Method::NoShim if spec.check.set_by.is_none() => {
            no("No shim sets this check, so there is none to leave out: measure the travel.")
        }
        Method::NoShim if record.head.round > 0 => {
            no("Pieces are fitted now: measure the travel with them in.")
        }
        Method::YesNo if spec.check.proof.is_none() => {
            no("The sheet asks no question for this check: measure it.")
        }
        _ if !measures_kind(spec, method) => {
            no("That way measures no such thing: take one of those that the check offers.")
        }
        _ if method != Method::YesNo && spec.check.proof.is_some() => {
            no("This check is a question: it is answered yes or no.")
        }
        Method::TurningTorque if spec.torque.is_none() => no(
            "The sheet gives no turning torque for this check, so there is nothing to hold it against.",
        ),
        _ => Ok(()),
    }
}

/// How warm it was at the bench may be said.
///
/// # Errors
/// Where the check is signed or chosen on, the sheet does not say what warms, or no bench is so cold or so warm.
pub fn may_say_bench(record: &Record, spec: &Spec<'_>, bench_c: f64) -> Ruled<()> {
    may_change(record)?;
    if spec.check.hot.is_none() {
        return Err(Refusal::field(
            "bench_c",
            "The sheet does not say what lies across this check, so warmth changes nothing here.",
        ));
    }
    let (coldest, warmest) = BENCH_C;
    if !(coldest..=warmest).contains(&bench_c) {
        return Err(Refusal::field(
            "bench_c",
            format!(
                "A bench is from {coldest} to {warmest} °C; a box fresh from the oven is left to cool first."
            ),
        ));
    }
    Ok(())
}

/// Whether a method measures what kind of check it is: two diameters make a fit, depths a seat's height, and teeth a
/// backlash.
fn measures_kind(spec: &Spec<'_>, method: Method) -> bool {
    match spec.check.kind {
        CheckKind::Fit => matches!(method, Method::StackSum | Method::ByHand),
        CheckKind::Backlash => matches!(method, Method::AtTeeth | Method::ByHand),
        CheckKind::SeatHeight => {
            matches!(
                method,
                Method::DepthFromBar | Method::StackSum | Method::ByHand
            )
        }
        _ => method != Method::AtTeeth,
    }
}

/// The methods that are offered for a check, in the order of the list: of a length where it has a window for one, of
/// a torque where it has one for that, and those that need terms, pinions or a selector where the sheet has them.
#[must_use]
pub fn offered_methods(record: &Record, spec: &Spec<'_>) -> Vec<Method> {
    let length = spec.length.is_some() && spec.check.selector.is_none();
    let offered = |method: &Method| {
        let there = match method {
            _ if !measures_kind(spec, *method) => false,
            Method::TurningTorque | Method::YesNo => true,
            Method::StackSum => length && !spec.terms().is_empty(),
            Method::OneByOne => spec.check.pinions.is_some(),
            Method::SelectorGaps => spec.check.selector.is_some(),
            _ => length,
        };
        there && may_measure_by(record, spec, *method).is_ok()
    };
    Method::ALL.iter().copied().filter(offered).collect()
}

/// A reading may be taken: returns the key of the gauge it is taken with; none for fingers.
///
/// # Errors
/// Where the check is signed or chosen on, the method does not fit it, the sheet has no such term, pinion or gear, or
/// the register has no such gauge.
pub fn may_read(
    record: &Record,
    spec: &Spec<'_>,
    method: Method,
    reading: &Reading,
    gauge_key: Option<&str>,
) -> Ruled<Option<String>> {
    may_change(record)?;
    if record.readings.len() >= MOST_READINGS {
        return Err(Refusal::conflict(
            "too-many-readings",
            format!(
                "There are {MOST_READINGS} readings of this check already: that is as many as it keeps."
            ),
        ));
    }
    may_measure_by(record, spec, method)?;
    is_there(reading, spec)?;
    goes_with_the_others(record, spec, reading)?;
    if method.gauges().is_empty() {
        return Ok(None);
    }
    let gauge = match gauge_key {
        None => record.gauge_for(method),
        Some(key) => Some(
            record
                .gauges
                .iter()
                .find(|g| g.gauge_key == key && !g.retired)
                .ok_or_else(|| {
                    Refusal::field(
                        "gauge_key",
                        format!("The register has no gauge “{key}” in use."),
                    )
                })?,
        ),
    };
    let gauge = gauge.ok_or_else(|| {
        Refusal::field(
            "gauge_key",
            "The register has no gauge for this way of measuring: enter one under Gauges.",
        )
    })?;
    if !method.gauges().contains(&gauge.kind) {
        return Err(Refusal::field(
            "gauge_key",
            format!("{} is not a gauge for this way of measuring.", gauge.name),
        ));
    }
    Ok(Some(gauge.gauge_key.clone()))
}

/// The sheet has the term, pinion or gear that a reading is of.
fn is_there(reading: &Reading, spec: &Spec<'_>) -> Ruled<()> {
    let (field, number, there, what) = match reading {
        Reading::Term(term) if !(1..=spec.terms().len()).contains(&term.term.into()) => {
            let terms = spec.terms().len();
            return Err(Refusal::field(
                "term",
                format!("The sheet's sum has {terms} terms, counted from 1."),
            ));
        }
        Reading::Pinion(reading) => {
            let pinions = spec.check.pinions.as_ref().map_or(0, |p| p.count.into());
            ("pinion", reading.pinion, pinions, "pinions")
        }
        Reading::Tooth(reading) => {
            let places = spec.check.backlash.as_ref().map_or(0, |b| b.places);
            (
                "place",
                reading.place,
                places.into(),
                "places round the gear",
            )
        }
        Reading::Gaps(reading) => {
            let gears = spec.check.selector.as_ref().map_or(0, |s| s.gears.len());
            ("gear", reading.gear, gears, "gears for this check")
        }
        _ => return Ok(()),
    };
    if usize::from(number) > there {
        return Err(Refusal::field(
            field,
            format!("The sheet has {there} {what}, counted from 1."),
        ));
    }
    Ok(())
}

/// A reading is of the same kind of thing as those that stand: depths with the bar on one of face and part, and a bore
/// and a part that could be each other's.
fn goes_with_the_others(record: &Record, spec: &Spec<'_>, reading: &Reading) -> Ruled<()> {
    match reading {
        Reading::Depth(depth) if !spec.is_seat() && depth.bar_on == BarOn::Part => {
            Err(Refusal::field(
                "bar_on",
                "Only how far a part stands proud is measured with the bar on the part: lay it on the face.",
            ))
        }
        Reading::Depth(depth) => {
            let mut others = record
                .valid_readings()
                .filter_map(|r| DepthReading::of(&r.taken));
            if others.all(|d| d.bar_on == depth.bar_on) {
                return Ok(());
            }
            Err(Refusal::field(
                "bar_on",
                "The depths before it were taken with the bar on the other of the two: take all round one way, and strike the others out.",
            ))
        }
        Reading::Term(term) => {
            let Some(fit) = &spec.check.fit else {
                return Ok(());
            };
            let taken: Vec<Reading> = record.valid_readings().map(|r| r.taken.clone()).collect();
            let known = with_measured(&fit.terms(), &taken, &[]);
            let Some(other) = known.get(usize::from(term.term == 1)) else {
                return Ok(());
            };
            let measured = other.measured_nm.last().copied();
            let other_nm = measured.unwrap_or(other.length_nm);
            if could_fit(term.length_nm, other_nm) {
                return Ok(());
            }
            Err(Refusal::field(
                "length",
                format!(
                    "{} is {other_nm}, and further than {FURTHEST_APART} from it nothing fits: check the figure and its unit.",
                    other.what
                ),
            ))
        }
        _ => Ok(()),
    }
}

/// A method may be made the one that counts.
///
/// # Errors
/// Where the check is signed or chosen on, or this round has no reading of the method.
pub fn may_count(record: &Record, method: Method) -> Ruled<()> {
    may_change(record)?;
    let measured = record.valid_readings().any(|r| r.way == method);
    if !measured && method != Method::StackSum {
        return Err(Refusal::field(
            "way",
            "This round has no reading of that way: measure first, then let it count.",
        ));
    }
    Ok(())
}

/// Something may be ticked, or its tick taken off.
///
/// # Errors
/// Where the check is signed, or the sheet has no such thing to see to.
pub fn may_tick(record: &Record, spec: &Spec<'_>, tick: &str) -> Ruled<()> {
    not_signed(record)?;
    let ready = spec.sheet.ready_of(spec.check);
    let differences = &spec.check.adjustments;
    let differs = differences.iter().any(|a| as_final(&a.what) == tick);
    if differs || ready.iter().any(|r| r.tick == tick) {
        return Ok(());
    }
    Err(Refusal::field(
        "tick",
        "The sheet has no such thing to see to.",
    ))
}

/// Something may be said of a reading: returns the reason, trimmed.
///
/// # Errors
/// Where it is struck out without a reason, the check is signed or chosen on, or the reading is of an earlier round.
pub fn may_mark(record: &Record, reading_no: i32, mark: ReadingMark, why: &str) -> Ruled<String> {
    let asked_for = (mark == ReadingMark::Struck)
        .then_some("Say why the reading is struck out; it stays on the record.");
    let why = reason(why, asked_for)?;
    may_change(record)?;
    let mut readings = record.readings.iter();
    match readings.find(|r| r.reading_no == reading_no) {
        None => Err(Refusal::missing(format!(
            "This check has no reading {reading_no}."
        ))),
        Some(r) if r.round != record.head.round => Err(Refusal::conflict(
            "earlier-round",
            "That reading was taken before the pieces were fitted, and they were chosen on it. It stays as it is.",
        )),
        Some(_) => Ok(why),
    }
}

/// What was found in the box may be said.
///
/// # Errors
/// Where the check is signed or chosen on, pieces were fitted here, or no piece is so thick.
pub fn may_say_fitted(record: &Record, fitted: Length) -> Ruled<()> {
    if fitted > THICKEST {
        return Err(Refusal::field(
            "fitted",
            format!("{fitted} is thicker than any selective piece: check the figure and its unit."),
        ));
    }
    may_change(record)?;
    if record.head.round > 0 {
        return Err(Refusal::conflict(
            "fitted-known",
            "What is fitted now is what was chosen and fitted here.",
        ));
    }
    Ok(())
}

/// Too few boxes say how a check comes out.
#[must_use]
pub fn too_few_boxes() -> Refusal {
    Refusal::conflict(
        "too-few-boxes",
        format!(
            "Fewer than {ENOUGH_BOXES} finished boxes say how this check comes out, so nothing is usual yet."
        ),
    )
}

/// Pieces may be chosen, each size named once.
///
/// # Errors
/// Where a size is named twice or none of it is taken, the check is signed or chosen on, or nothing is measured.
pub fn may_choose(record: &Record, assessment: &Assessment, pieces: &[SizeCount]) -> Ruled<()> {
    let mut unlike: Vec<_> = pieces.iter().map(|p| (p.thickness_nm, p.grade)).collect();
    unlike.sort_unstable();
    unlike.dedup();
    if unlike.len() != pieces.len() || pieces.iter().any(|p| p.count == 0) {
        return Err(Refusal::field(
            "pieces",
            "Name each size once, with how many of it.",
        ));
    }
    may_change(record)?;
    if assessment.estimate.is_none() {
        return Err(Refusal::conflict(
            "not-measured",
            assessment.no_estimate.as_ref().map_or_else(
                || "There is no reading yet: measure first, then choose.".to_owned(),
                |why| format!("There is no figure to choose by: {why}."),
            ),
        ));
    }
    Ok(())
}

/// Somebody else was faster.
#[must_use]
pub fn stock_taken() -> Refusal {
    Refusal::conflict(
        "stock-taken",
        "Another check has just taken one of those pieces. The choices on the screen are what there is now.",
    )
}

/// The chosen pieces may be let go, or fitted: returns what is chosen.
///
/// # Errors
/// Where nothing is chosen, or something is to be fitted that has still to come.
pub fn may_end_setting(record: &Record, state: SettingState) -> Ruled<&Setting> {
    let setting = record.open_setting().ok_or_else(|| {
        Refusal::conflict("nothing-chosen", "No pieces are chosen for this check.")
    })?;
    let short = setting.pieces.iter().any(|p| p.reserved < p.count);
    if state == SettingState::Fitted && short {
        return Err(Refusal::conflict(
            "part-awaited",
            "Some of the pieces have still to come. Count them into the drawer when they do.",
        ));
    }
    Ok(setting)
}

/// What was said to be fitted may be said not to have been: returns it.
///
/// # Errors
/// Where nothing was fitted last, or readings were taken since, which the pieces are in.
pub fn may_undo_fitting(record: &Record) -> Ruled<&Setting> {
    not_signed(record)?;
    let round = record.head.round;
    let last = record.settings.last();
    let fitted = last.filter(|s| s.state == SettingState::Fitted && s.round + 1 == round);
    let fitted = fitted.ok_or_else(|| {
        Refusal::conflict(
            "nothing-fitted",
            "Nothing was fitted last for this check, so there is no fitting to take back.",
        )
    })?;
    if record.readings.iter().any(|r| r.round == round) {
        return Err(Refusal::conflict(
            "measured-since",
            "It was measured again since the pieces were fitted. Choose and fit what is right now.",
        ));
    }
    Ok(fitted)
}

/// The round that fitting elsewhere began of a check may be taken back; `name` is what people call it, `fitted` what is
/// taken back there. Whether there was one.
///
/// # Errors
/// Where it was measured since.
pub fn is_moved_back(record: &Record, name: &str, fitted: &Setting) -> Ruled<bool> {
    let round = record.head.round;
    let own = record.fitted_setting();
    let by_own = own.is_some_and(|s| s.round + 1 == round && s.ended_at > fitted.ended_at);
    if round == 0 || by_own {
        return Ok(false);
    }
    if record
        .readings
        .iter()
        .any(|r| r.round == round && Some(r.at) > fitted.ended_at)
    {
        return Err(Refusal::conflict(
            "measured-since",
            format!(
                "These pieces also move {name}, which was measured since they were fitted. Choose and fit what is right now."
            ),
        ));
    }
    Ok(!record.readings.iter().any(|r| r.round == round))
}

/// A check of a job that is put away takes nothing.
///
/// # Errors
/// Where its job is put away.
pub fn not_put_away(record: &Record) -> Ruled<()> {
    if record.head.standing == Standing::PutAway {
        return Err(Refusal::conflict(
            "put-away",
            format!(
                "Job {} is put away. Bring it back to the bench first.",
                record.job_no
            ),
        ));
    }
    Ok(())
}

/// Why signing a check off as it stands needs a reason, where it does.
#[must_use]
pub fn reason_to_sign(
    record: &Record,
    spec: &Spec<'_>,
    assessment: &Assessment,
) -> Option<&'static str> {
    if spec.pack().is_some_and(|p| !record.is_laid_right(p)) {
        return Some(if record.assemblies.is_empty() {
            "Nobody has counted the plates of this pack: lay them out, or say why it is signed off all the same."
        } else {
            "The pack as laid out is not as the sheet has it: lay it out again, or say why it is signed off all the same."
        });
    }
    match assessment.call {
        Some(Call::In) if spec.lacks_pieces(record, assessment.method) => Some(
            "The sheet wants a piece here, and none is in: choose one, or say why it is signed off without.",
        ),
        Some(Call::In) if hides_its_groove(spec, assessment) => Some(
            "The ring's groove is not plainly clear, so the part may not be home: drive it home, or say why it is signed off all the same.",
        ),
        Some(Call::In) if record.questions(spec, assessment.method).next().is_some() => Some(
            "A reading looks like a slip, and nobody has said that it is right: answer that, or say why it is signed off all the same.",
        ),
        Some(Call::In) if leaves_ticks_open(record, spec) => Some(
            "Something that is to be seen to before a reading is believed is not ticked: tick it, or say why it is signed off all the same.",
        ),
        Some(Call::In) => None,
        Some(Call::Failed) => {
            Some("It is not as it should be: say why it is signed off all the same.")
        }
        _ => Some("It is not plainly in the window: say why it is signed off all the same."),
    }
}

/// Not all is ticked that is to be seen to before a reading is believed.
fn leaves_ticks_open(record: &Record, spec: &Spec<'_>) -> bool {
    let ready = spec.sheet.ready_of(spec.check);
    ready.iter().any(|r| record.seen_to(&r.tick).is_none())
}

/// Its ring's groove is not plainly clear.
fn hides_its_groove(spec: &Spec<'_>, assessment: &Assessment) -> bool {
    let groove = GrooveSays::of(spec, assessment.estimate.as_ref());
    groove.is_some_and(|g| g.verdict.call != Call::In)
}

/// A check may be signed off: returns the reason, trimmed.
///
/// # Errors
/// Where it is signed already, pieces are chosen, nothing that can sign is measured, or a reason is needed and not
/// given.
pub fn may_sign(
    record: &Record,
    spec: &Spec<'_>,
    assessment: &Assessment,
    why: &str,
) -> Ruled<String> {
    let why = reason(why, None)?;
    may_change(record)?;
    if assessment.method.is_none() || assessment.call.is_none() {
        return Err(Refusal::conflict(
            "not-measured",
            "There is no reading since the last fitting: measure, then sign.",
        ));
    }
    if assessment
        .estimate
        .as_ref()
        .is_some_and(|e| !e.can_sign_off)
    {
        return Err(Refusal::conflict(
            "by-hand",
            "An estimate by hand is kept, but signs nothing off: measure it with a gauge.",
        ));
    }
    reason(&why, reason_to_sign(record, spec, assessment))
}

/// A signed check may be reopened: returns the reason, trimmed.
///
/// # Errors
/// Where it is not signed, or no reason is given.
pub fn may_reopen(record: &Record, why: &str) -> Ruled<String> {
    let why = reason(
        why,
        Some("Say why the check is reopened; its history stays."),
    )?;
    if record.signature().is_none() {
        return Err(Refusal::conflict(
            "not-signed",
            "This check is not signed off, so there is nothing to reopen.",
        ));
    }
    Ok(why)
}

/// The most plates in a pack.
const MOST_PLATES: usize = 60;
/// More return springs than this are a slip of the key.
const MOST_SPRINGS: u32 = 200;

/// The check has a clutch pack that may be laid out.
///
/// # Errors
/// Where it is signed, or the sheet has no pack for it.
pub fn has_pack_to_lay(record: &Record, spec: &Spec<'_>) -> Ruled<()> {
    not_signed(record)?;
    if spec.pack().is_none() {
        return Err(Refusal::conflict(
            "no-pack",
            "The sheet has no clutch pack for this check.",
        ));
    }
    Ok(())
}

/// A clutch pack may be laid out so; what is wrong with it against the sheet is told, not refused.
///
/// # Errors
/// See [`has_pack_to_lay`]; and where these are no plates, too many of them, or too many springs.
pub fn may_lay(
    record: &Record,
    spec: &Spec<'_>,
    plates: &[PartKind],
    springs: Option<u32>,
) -> Ruled<()> {
    are_a_pack(plates)?;
    if springs.is_some_and(|n| n > MOST_SPRINGS) {
        return Err(Refusal::field(
            "springs",
            format!("A pack has up to {MOST_SPRINGS} return springs: count them again."),
        ));
    }
    has_pack_to_lay(record, spec)
}

/// These can lie in a drum.
///
/// # Errors
/// Where these are no plates, or too many of them.
pub fn are_a_pack(plates: &[PartKind]) -> Ruled<()> {
    if plates.is_empty() || plates.len() > MOST_PLATES {
        return Err(Refusal::field(
            "plates",
            format!("A pack has from 1 to {MOST_PLATES} plates."),
        ));
    }
    if !plates.iter().all(|k| is_plate(*k)) {
        return Err(Refusal::field(
            "plates",
            "In a pack lie frictions, steels, wave, pressure and thrust plates, spacers and the snap ring.",
        ));
    }
    Ok(())
}

/// The shims of a selector's shaft may be said or moved.
///
/// # Errors
/// Where the check is signed, or the sheet names no gears for it.
pub fn may_say_shims(record: &Record, spec: &Spec<'_>) -> Ruled<()> {
    not_signed(record)?;
    if spec.check.selector.is_none() {
        return Err(Refusal::conflict(
            "no-selector",
            "The sheet names no gears that a selector holds for this check.",
        ));
    }
    Ok(())
}

/// Whether fitting pieces elsewhere begins a new round of a check that they move; `name` is what people call it.
///
/// # Errors
/// Where it is signed off.
pub fn is_moved_on(record: &Record, name: &str) -> Ruled<bool> {
    if record.signature().is_some() {
        return Err(Refusal::conflict(
            "moves-signed",
            format!(
                "These pieces also move {name}, which is signed off: reopen it first, and measure it again afterwards."
            ),
        ));
    }
    // Where pieces are chosen, fitting them begins the new round.
    Ok(record.open_setting().is_none() && record.valid_readings().next().is_some())
}

/// Why a question that was answered is asked again once a check is signed that may have changed the answer; `name` is
/// what people call that check. None where nobody has answered yet.
#[must_use]
pub fn asked_again(record: &Record, name: &str) -> Option<String> {
    let answered = record.valid_readings().next().is_some();
    answered.then(|| format!("Asked again: {name} was signed off since."))
}

/// What may be done with a check now, for a screen to offer.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[allow(clippy::struct_excessive_bools)] // independent answers, each to a question of its own
pub struct Allowed {
    /// Readings may be taken, struck out and restored, and it may be said which method counts.
    pub change: bool,
    /// The methods to measure it by.
    pub methods: Vec<Method>,
    /// Of those measured by, the ones that may be made the one that counts.
    pub count: Vec<Method>,
    /// What was found in the box may be said.
    pub say_fitted: bool,
    /// Another window or target may be set for this job.
    pub set_target: bool,
    /// Pieces may be chosen.
    pub choose: bool,
    /// The pieces that came out at an earlier fitting may go back in the drawer when these are fitted.
    pub put_back: bool,
    /// What was fitted last may be said not to have been.
    pub undo_fit: bool,
    /// It may be signed off.
    pub sign: bool,
    /// Why signing it needs a reason; none where it does not.
    pub reason_to_sign: Option<String>,
    /// The plates of its pack may be laid out.
    pub lay: bool,
    /// The shims of its selector's shaft may be said or moved.
    pub say_shims: bool,
}

impl Allowed {
    /// What may be done with a check that stands so.
    #[must_use]
    pub fn of(record: &Record, spec: &Spec<'_>, assessment: &Assessment) -> Self {
        if not_put_away(record).is_err() {
            return Self::default();
        }
        let change = may_change(record).is_ok();
        let counts = |m: &super::methods::MethodOutcome| {
            Some(m.method) != assessment.method && m.could_count(spec)
        };
        let first = |s: &Setting| spec.family() == Some(s.family_key.as_str());
        Self {
            change,
            methods: offered_methods(record, spec),
            count: if change {
                let may = assessment.methods.iter().filter(|m| counts(m));
                may.map(|m| m.method).collect()
            } else {
                Vec::new()
            },
            say_fitted: may_say_fitted(record, Length::ZERO).is_ok(),
            set_target: change && spec.length.is_some(),
            choose: spec.check.set_by.is_some() && may_choose(record, assessment, &[]).is_ok(),
            put_back: record.head.round > 0 && record.open_setting().is_some_and(first),
            undo_fit: may_undo_fitting(record).is_ok(),
            sign: may_sign(record, spec, assessment, "a reason").is_ok(),
            reason_to_sign: reason_to_sign(record, spec, assessment).map(str::to_owned),
            lay: has_pack_to_lay(record, spec).is_ok(),
            say_shims: may_say_shims(record, spec).is_ok(),
        }
    }
}
