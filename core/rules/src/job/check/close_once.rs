//! Closing the case once: the chance that all that is set in a closing lands in its window, and what would raise it most.

use std::collections::BTreeMap;

use anvil_arithmetic::choose::{self, Pieces, SizeCount};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Availability, Grade};
use anvil_arithmetic::stock::pieces::PiecesDoubt;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::working::{Line, Working};
use anvil_arithmetic::verdict::judge;
use anvil_arithmetic::verdict::window::Window;
use serde::Serialize;

use super::loaded::LoadedCheck;
use super::record::Setting;
use super::workflow::Phase;
use crate::sheet::Sheet;
use crate::shop::gauge_register::u_of_registered_micrometer;

/// A closing of the case, with the chance that everything set in it lands.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct ClosingChance {
    /// What the sheet calls it.
    pub closing: String,
    /// The checks that have still to land, each with its own chance.
    pub checks: Vec<Landing>,
    /// What people call those of which nothing can be said yet.
    pub unknown: Vec<String>,
    /// The chance that all of them land; none where some share pieces, for then they are not independent.
    pub chance: Option<f64>,
    /// The chance that all of them land is never less than this.
    pub at_least: f64,
    /// What would raise it, what raises it most for the least work first.
    pub advice: Vec<ClosingAdvice>,
    /// The arithmetic.
    pub working: Working,
}

/// A check of a closing, with the chance that it lands in its window.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct Landing {
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// 0 to 1.
    pub chance: f64,
    pub by: LandsBy,
}

/// What the chance of a check to land goes by.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LandsBy {
    /// It is measured as it is, and nothing is changed.
    Measured,
    /// The pieces that are chosen.
    Chosen,
    /// The best choice on hand, for none is made yet.
    Best,
    /// The pieces that are fitted, not measured since.
    Fitted,
}

/// Something that would raise the chance of a closing.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct ClosingAdvice {
    pub check_key: String,
    /// What people call the check.
    pub name: String,
    pub what: Raise,
    /// The chance of that check then.
    pub chance: f64,
    /// How much that adds to the chance of the closing, 0 to 1.
    pub gain: f64,
}

/// What to do.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Raise {
    /// One more reading like those there are.
    OneMoreReading,
    /// The piece measured by micrometer: its limits are what is wide.
    MikePiece {
        /// What it is marked, in nanometres.
        thickness_nm: Length,
    },
    /// Another piece that is on hand.
    OtherPiece {
        /// All pieces together, in nanometres.
        total_nm: Length,
    },
}

impl Raise {
    /// How much work it is, in presses of a hand: a reading wants the gauge set up, a piece is taken out of the drawer.
    /// Common practice, no source.
    const fn work(&self) -> f64 {
        match self {
            Self::OneMoreReading => 2.0,
            Self::MikePiece { .. } | Self::OtherPiece { .. } => 1.0,
        }
    }
}

/// A chance that is raised by less than this is not worth the work.
const WORTH_IT: f64 = 0.005;
/// A chance is shown to so much.
const SEEN: f64 = 0.005;
/// So much advice is shown.
const MOST_ADVICE: usize = 3;

/// A check with what could be done about it.
struct Standing {
    landing: Landing,
    shares: bool,
    could: Vec<(Raise, f64)>,
    /// What its drawer could give it, where nothing is set aside for it yet.
    drawn: Option<Drawn>,
    /// What it would come to with its gauge off by so much.
    by_error: Option<ByError>,
}

/// The chance of a check as the one gauge that took its readings is off, in equal steps from the least that it may read to
/// the most.
#[derive(Clone)]
struct ByError {
    gauge: String,
    chances: Vec<f64>,
}

/// So many steps: what a closing comes to is then out by less than a thousandth.
const STEPS: usize = 64;

/// The chances at each step of a gauge's error, from what a check comes to where it is off by so many nanometres; none
/// where its readings are not of one gauge, or that has no error of its own.
fn by_error(
    check: &LoadedCheck,
    estimate: &Estimate,
    chance_at: impl Fn(f64) -> f64,
) -> Option<ByError> {
    let found = &check.assessment;
    let method = found
        .methods
        .iter()
        .find(|m| Some(m.method) == found.method)?;
    let gauge = method.by_one_gauge()?.to_owned();
    let most = estimate.gauge_error_nm();
    let step = |n: usize| ((2 * n + 1) as f64 / STEPS as f64 - 1.0) * most;
    (most.abs() > 0.0).then(|| ByError {
        gauge,
        chances: (0..STEPS).map(|n| chance_at(step(n))).collect(),
    })
}

/// The same as it is measured, with nothing changed.
fn as_found(check: &LoadedCheck, estimate: &Estimate, window: Window) -> Option<ByError> {
    let rest = estimate.without_gauge_error().distribution();
    let (low, high) = (window.low_nm(), window.high_nm());
    by_error(check, estimate, |off| {
        rest.between(estimate.clearance_nm + off, low, high)
    })
}

/// The chance that all of these land: those measured by one gauge together, for its error is the same in all of them.
///
/// # Formula
/// `Π_g (1/2e) ∫ Π pᵢ(x) dx` over the gauges, `x` from `−e` to `e`; `pᵢ` of what no other has a part in.
fn all_land(standing: &[Standing]) -> f64 {
    let mut alone = 1.0;
    let mut by_gauge: BTreeMap<&str, Vec<&Standing>> = BTreeMap::new();
    for stands in standing {
        match &stands.by_error {
            Some(by) => by_gauge.entry(&by.gauge).or_default().push(stands),
            None => alone *= stands.landing.chance,
        }
    }
    let of_gauge = |of: &Vec<&Standing>| {
        let at = |n: usize| -> f64 {
            let each = of.iter().filter_map(|s| s.by_error.as_ref());
            each.map(|by| by.chances[n]).product()
        };
        if let [one] = of[..] {
            one.landing.chance
        } else {
            (0..STEPS).map(at).sum::<f64>() / STEPS as f64
        }
    };
    alone * by_gauge.values().map(of_gauge).product::<f64>()
}

/// What a drawer could give a check: the best first, and last what it comes to with nothing of it.
struct Drawn {
    family: String,
    /// How many of each size are free.
    free: Vec<SizeCount>,
    offers: Vec<Offer>,
}

/// Pieces, with the chance that the check lands with them.
#[derive(Clone)]
struct Offer {
    pieces: Vec<SizeCount>,
    chance: f64,
    by_error: Option<ByError>,
}

/// What is left of each size, by its family, thickness and grade.
type Left = BTreeMap<(String, i64, Grade), i64>;

/// Takes pieces out of what is left, or puts them back; whether there were as many.
fn take(left: &mut Left, family: &str, pieces: &[SizeCount], sign: i64) -> bool {
    let mut are = true;
    for piece in pieces {
        let key = (family.to_owned(), piece.thickness_nm.nm(), piece.grade);
        let free = left.entry(key).or_default();
        *free -= sign * i64::from(piece.count);
        are &= *free >= 0;
    }
    are
}

/// Gives each check of a closing what the drawers can give all of them at once: the best of each where those are there
/// together, else what makes it likeliest that all of them land.
fn at_once(standing: &mut [Standing]) {
    let mut left = Left::new();
    let drawn: Vec<(usize, &Drawn)> = standing
        .iter()
        .enumerate()
        .filter_map(|(at, s)| Some((at, s.drawn.as_ref()?)))
        .collect();
    for (_, of) in &drawn {
        for size in &of.free {
            let key = (of.family.clone(), size.thickness_nm.nm(), size.grade);
            left.insert(key, size.count.into());
        }
    }
    let mut all = left.clone();
    let fit = drawn.iter().all(|(_, of)| {
        let first = of.offers.first();
        first.is_none_or(|offer| take(&mut all, &of.family, &offer.pieces, 1))
    });
    if fit {
        return;
    }
    let mut best = (-1.0, Vec::new());
    likeliest(&drawn, &mut left, &mut Vec::new(), (1.0, &mut best));
    let given: Vec<(usize, Offer)> = drawn
        .iter()
        .zip(best.1)
        .map(|((at, of), offer)| (*at, of.offers[offer].clone()))
        .collect();
    for (at, offer) in given {
        let stands = &mut standing[at];
        let first = stands.drawn.as_ref().and_then(|d| d.offers.first());
        if first.is_some_and(|first| first.pieces != offer.pieces) {
            stands.landing.chance = offer.chance;
            stands.by_error = offer.by_error;
            // What would raise the chance was asked of other pieces.
            stands.could.clear();
        }
    }
}

/// Tries every way to give the checks from `picked.len()` on what is left; `best` is the likeliest so far, with the offer
/// of each. No way is likelier than with the best offer for each.
fn likeliest(
    drawn: &[(usize, &Drawn)],
    left: &mut Left,
    picked: &mut Vec<usize>,
    (chance, best): (f64, &mut (f64, Vec<usize>)),
) {
    let Some((_, of)) = drawn.get(picked.len()) else {
        if chance > best.0 {
            *best = (chance, picked.clone());
        }
        return;
    };
    let most = |(_, of): &(usize, &Drawn)| of.offers.iter().map(|o| o.chance).fold(0.0, f64::max);
    let rest: f64 = drawn[picked.len() + 1..].iter().map(most).product();
    for (number, offer) in of.offers.iter().enumerate() {
        if chance * offer.chance * rest <= best.0 {
            continue;
        }
        if take(left, &of.family, &offer.pieces, 1) {
            picked.push(number);
            likeliest(drawn, left, picked, (chance * offer.chance, best));
            picked.pop();
        }
        take(left, &of.family, &offer.pieces, -1);
    }
}

/// Each closing of a sheet, in its order, in which something measured has still to land.
///
/// # Formula
/// `Π pᵢ` where nothing is shared between them but a gauge, whose error is the same in all that it took; `1 − Σ (1 − pᵢ)`
/// at least, always (Boole's inequality); both with pieces that the drawers can give all of them at once.
///
/// # Errors
/// Where a record contradicts itself.
pub fn close_once(sheet: &Sheet, checks: &[LoadedCheck]) -> Ruled<Vec<ClosingChance>> {
    let mut closings: Vec<&str> = Vec::new();
    for check in sheet.checks.iter().filter(|c| !c.closing.is_empty()) {
        if !closings.contains(&check.closing.as_str()) {
            closings.push(&check.closing);
        }
    }
    let mut found = Vec::new();
    for closing in closings {
        let of_closing = checks.iter().filter(|c| c.check.closing == closing);
        let mut standing = Vec::new();
        let mut unknown = Vec::new();
        for check in of_closing {
            match check.record.head.phase {
                Phase::Signed | Phase::Elsewhere => {}
                _ => match stands(check)? {
                    Some(stands) => standing.push(stands),
                    None => unknown.push(check.check.name.clone()),
                },
            }
        }
        at_once(&mut standing);
        if !standing.is_empty() {
            found.push(together(closing, standing, unknown));
        }
    }
    Ok(found)
}

fn together(closing: &str, standing: Vec<Standing>, unknown: Vec<String>) -> ClosingChance {
    let chances: Vec<f64> = standing.iter().map(|s| s.landing.chance).collect();
    let product: f64 = chances.iter().product();
    let all = all_land(&standing);
    let at_least = (1.0 - chances.iter().map(|p| 1.0 - p).sum::<f64>()).max(0.0);
    let shared = standing.iter().filter(|s| s.shares).count() > 1;
    let mut advice: Vec<ClosingAdvice> = standing
        .iter()
        .flat_map(|s| s.could.iter().map(move |could| (s, could)))
        .map(|(s, (what, chance))| ClosingAdvice {
            check_key: s.landing.check_key.clone(),
            name: s.landing.name.clone(),
            what: what.clone(),
            chance: *chance,
            gain: if shared || s.landing.chance <= 0.0 {
                chance - s.landing.chance
            } else {
                all / s.landing.chance * (chance - s.landing.chance)
            },
        })
        .filter(|a| a.gain >= WORTH_IT)
        .collect();
    advice.sort_by(|a, b| {
        let worth = |x: &ClosingAdvice| x.gain / x.what.work();
        worth(b).total_cmp(&worth(a))
    });
    advice.truncate(MOST_ADVICE);
    let mut line = Line::new();
    for (at, chance) in chances.iter().enumerate() {
        if at > 0 {
            line = line.text(if shared { " and " } else { " × " });
        }
        line = line.chance(*chance);
    }
    let line = if shared {
        line.text(": not less than 1 less all that is missing = ")
            .chance(at_least)
    } else {
        line.text(" = ").chance(product)
    };
    let mut working = vec![line];
    if !shared && (all - product).abs() >= SEEN {
        working.push(
            Line::new()
                .text("taken with one gauge, they are off alike: ")
                .chance(all),
        );
    }
    ClosingChance {
        closing: closing.to_owned(),
        checks: standing.into_iter().map(|s| s.landing).collect(),
        unknown,
        chance: (!shared).then_some(all),
        at_least,
        advice,
        working,
    }
}

/// The chance of a check to land, and what could be done about it; none where nothing can be said of it yet.
fn stands(check: &LoadedCheck) -> Ruled<Option<Standing>> {
    let found = &check.assessment;
    let chosen = check.record.open_setting();
    let known = match found.estimate.as_ref().filter(|e| e.can_sign_off) {
        None => without_a_figure(check),
        Some(estimate) => {
            let choosing = chosen.is_some() || found.phase == Phase::Choose;
            if check.check.set_by.is_some() && choosing {
                with_pieces(check, estimate, chosen)?
            } else {
                as_it_is(check, estimate)
            }
        }
    };
    Ok(known.map(
        |Known {
             chance,
             by,
             could,
             drawn,
             by_error,
         }| Standing {
            landing: Landing {
                check_key: check.record.check_key.clone(),
                name: check.check.name.clone(),
                chance,
                by,
            },
            shares: check.is_coupled(),
            could,
            drawn,
            by_error,
        },
    ))
}

/// The chance of a check to land, what it goes by, what could be done with the chance that it has then, and what its drawer
/// could give it.
struct Known {
    chance: f64,
    by: LandsBy,
    could: Vec<(Raise, f64)>,
    drawn: Option<Drawn>,
    by_error: Option<ByError>,
}

impl Known {
    const fn of(chance: f64, by: LandsBy) -> Self {
        Self {
            chance,
            by,
            could: Vec::new(),
            drawn: None,
            by_error: None,
        }
    }
}

/// A torque, a limit, or pieces that are in and not measured since.
fn without_a_figure(check: &LoadedCheck) -> Option<Known> {
    let by_torque = check.assessment.chance();
    let fitted = || Some((check.record.just_fitted()?.chance, LandsBy::Fitted));
    let measured = by_torque.map(|chance| (chance, LandsBy::Measured));
    let (chance, by) = measured.or_else(fitted)?;
    Some(Known::of(chance, by))
}

/// Measured, with nothing to be changed.
fn as_it_is(check: &LoadedCheck, estimate: &Estimate) -> Option<Known> {
    let (chance, (window, _)) = check.assessment.chance().zip(check.length())?;
    let then = more(estimate).map(|e| (Raise::OneMoreReading, judge(&e, window).chance));
    Some(Known {
        could: then.into_iter().collect(),
        by_error: as_found(check, estimate, window),
        ..Known::of(chance, LandsBy::Measured)
    })
}

/// Measured, with the pieces that are chosen or else the best on hand.
fn with_pieces(
    check: &LoadedCheck,
    estimate: &Estimate,
    chosen: Option<&Setting>,
) -> Ruled<Option<Known>> {
    let record = &check.record;
    let method = check.assessment.method;
    let as_chosen = |s: &Setting| Known::of(s.chance, LandsBy::Chosen);
    // What is best for a coupled one alone is not what it will get.
    let Some(spec) = check
        .spec()
        .filter(|_| chosen.is_some() || !check.is_coupled())
    else {
        return Ok(None);
    };
    let stock = record.stock(choose::MOST_PIECES);
    let of_first = chosen.is_none_or(|s| spec.family() == Some(s.family_key.as_str()));
    let asked = record.request(&spec, method, estimate, &stock);
    // Beside pieces that stay, nothing of this is asked anew.
    let alone = chosen.is_none_or(|s| s.stays_nm() == 0);
    let Some(request) = asked.filter(|_| of_first && alone) else {
        return Ok(chosen.map(as_chosen));
    };
    let choices = choose::choose(&request).map_err(Refusal::fault)?;
    let on_hand = |c: &&choose::Choice| c.source == Availability::OnHand;
    let best = choices.ranked.iter().find(on_hand);
    let (pieces, predicted_nm, by) = match (chosen, best) {
        (Some(setting), _) => (setting.counts(), setting.predicted_nm, LandsBy::Chosen),
        (None, Some(best)) => (
            best.pieces.iter().map(count_of).collect(),
            best.predicted_nm,
            LandsBy::Best,
        ),
        (None, None) => return Ok(None),
    };
    let doubt_of = |mike: Option<f64>| record.doubt_of(&pieces, mike);
    let chance_of = |request: &choose::Request<'_>, of_pieces: PiecesDoubt| {
        request.chance(predicted_nm, request.doubt(of_pieces))
    };
    let mut could = Vec::new();
    let more = more(estimate);
    if let Some(asked) = more.and_then(|more| record.request(&spec, method, &more, &stock)) {
        could.push((Raise::OneMoreReading, chance_of(&asked, doubt_of(None))));
    }
    let marked = pieces.iter().find(|p| p.grade == Grade::Marked);
    let micrometer = u_of_registered_micrometer(&record.gauges, None).ok();
    if let Some((piece, u_nm)) = marked.zip(micrometer) {
        let thickness_nm = piece.thickness_nm;
        let chance = chance_of(&request, doubt_of(Some(u_nm)));
        could.push((Raise::MikePiece { thickness_nm }, chance));
    }
    let total: i64 = pieces.iter().map(thick).sum();
    let others = choices
        .ranked
        .iter()
        .filter(|c| on_hand(c) && c.total_nm.nm() != total);
    if let Some(other) = others.max_by(|a, b| a.chance.total_cmp(&b.chance)) {
        let total_nm = other.total_nm;
        could.push((Raise::OtherPiece { total_nm }, other.chance));
    }
    let chance = chance_of(&request, doubt_of(None));
    let rest = record.request(&spec, method, &estimate.without_gauge_error(), &stock);
    let at_error = |predicted_nm: f64, of_pieces: PiecesDoubt| {
        let rest = rest.as_ref()?;
        let doubt = rest.doubt(of_pieces);
        by_error(check, estimate, |off| {
            rest.chance(predicted_nm + off, doubt)
        })
    };
    let drawn = (by == LandsBy::Best).then(|| {
        let of = |c: &choose::Choice| Offer {
            pieces: c.pieces.iter().map(count_of).collect(),
            chance: c.chance,
            by_error: at_error(c.predicted_nm, c.of_pieces),
        };
        let as_it_is = Offer {
            pieces: Vec::new(),
            chance: judge(estimate, request.window).chance,
            by_error: as_found(check, estimate, request.window),
        };
        let ranked = choices.ranked.iter().filter(on_hand).map(of);
        let there = stock.iter().filter(|s| s.source == Availability::OnHand);
        Drawn {
            family: spec.family().unwrap_or_default().to_owned(),
            free: there
                .map(|s| SizeCount {
                    thickness_nm: s.thickness_nm,
                    grade: s.grade,
                    count: s.quantity,
                })
                .collect(),
            offers: ranked.chain([as_it_is]).collect(),
        }
    });
    Ok(Some(Known {
        chance,
        by,
        could,
        drawn,
        by_error: at_error(predicted_nm, doubt_of(None)),
    }))
}

const fn thick(pieces: &SizeCount) -> i64 {
    pieces.thickness_nm.nm() * pieces.count as i64
}

/// The same with one more reading, where one more would tell anything.
fn more(estimate: &Estimate) -> Option<Estimate> {
    let tells = estimate.bracket.is_none() && estimate.readings > 0;
    tells.then(|| estimate.with_more(1))
}

const fn count_of(pieces: &Pieces) -> SizeCount {
    SizeCount {
        thickness_nm: pieces.thickness_nm,
        grade: pieces.grade,
        count: pieces.count,
    }
}
