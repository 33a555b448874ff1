//! The sizes beside the best choice, and the ways out when nothing in the drawer fits.

use serde::{Deserialize, Serialize};

use crate::choose::required::required_thickness;
use crate::choose::{Choice, ChooseError, MOST_PIECES, Request, SizeCount, choose};
use crate::stock::drawer::{Availability, Stock, range};
use crate::stock::pieces::PiecesDoubt;
use crate::units::length::Length;
use crate::verdict::Call;

/// The best with one piece swapped for the next size up or down; the swap that changes least.
pub(super) fn next_size(request: &Request<'_>, best: &Choice, thinner: bool) -> Option<Choice> {
    let stack: Vec<Stock> = best
        .pieces
        .iter()
        .flat_map(|p| {
            let mut lines = request.stock.iter();
            let found = lines.find(|s| p.are_of(s) && s.quantity > 0);
            found.into_iter().cycle().take(p.count as usize).cloned()
        })
        .collect();
    let spare = |s: &Stock| {
        let used = stack
            .iter()
            .filter(|t| (t.thickness_nm, t.grade, t.source) == (s.thickness_nm, s.grade, s.source))
            .count();
        (used as u64) < u64::from(s.quantity)
    };
    let mut nearest: Option<(i64, usize, &Stock)> = None;
    for (at, piece) in stack.iter().enumerate() {
        for other in request.stock.iter().filter(|s| spare(s)) {
            let step = other.thickness_nm.nm() - piece.thickness_nm.nm();
            let step = if thinner { -step } else { step };
            let better =
                nearest.is_none_or(|(least, _, kept)| (step, other.source) < (least, kept.source));
            if step > 0 && better {
                nearest = Some((step, at, other));
            }
        }
    }
    let (_, at, other) = nearest?;
    let swapped: Vec<&Stock> = stack
        .iter()
        .enumerate()
        .map(|(i, s)| if i == at { other } else { s })
        .collect();
    Some(request.describe(&swapped))
}

/// What can be done when no setting reaches the shop's required probability.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Fallbacks {
    /// The thickness that would hit the target, in nanometres.
    pub wanted_nm: f64,
    /// The thinnest single piece that would reach the required probability, in nanometres; none where no
    /// thickness would, because the measurement is not sure enough for the window.
    pub from_nm: Option<f64>,
    /// The thickest single piece that would reach the required probability, in nanometres.
    pub to_nm: Option<f64>,
    /// The best choice of more pieces on hand than the sheet allows, where that would do.
    pub stack_more: Option<Choice>,
    /// The best choice with sizes that are no longer made, where that would do.
    pub no_longer_made: Option<Choice>,
    /// A thicker piece that could be ground to the thickness wanted: the one that is fitted, or else one on
    /// hand.
    pub grind: Option<Grind>,
    /// The usual step of the sizes, in nanometres, where single pieces go in steps wider than the
    /// window: whether one lands in it is luck.
    pub step_nm: Option<Length>,
}

/// A piece to be ground thinner.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Grind {
    /// The piece to start from, in nanometres.
    pub from_nm: Length,
    /// How much to take off, in nanometres.
    pub by_nm: f64,
    /// It is the one that is fitted now.
    #[serde(default)]
    pub fitted: bool,
}

/// The ways out: what would fit, stacking more, grinding one down.
///
/// `u_piece_nm` is the standard uncertainty of a piece bought or ground to size, `gone` what is no longer made.
///
/// # Errors
/// As of [`choose`](super::choose).
pub fn fallbacks(
    request: &Request<'_>,
    u_piece_nm: f64,
    gone: &[Stock],
) -> Result<Fallbacks, ChooseError> {
    request.check()?;
    let wanted_nm = required_thickness(
        request.clearance_nm,
        request.aim,
        request.fitted,
        request.effect,
    )
    .thickness_nm;
    let fits = fitting_range(request, u_piece_nm);
    let on_hand: Vec<Stock> = request
        .stock
        .iter()
        .filter(|s| s.source == Availability::OnHand)
        .cloned()
        .collect();
    let stack_more = if request.most_pieces < MOST_PIECES {
        let more = Request {
            least_pieces: request.most_pieces + 1,
            most_pieces: (request.most_pieces + 2).min(MOST_PIECES),
            best: 1,
            stock: &on_hand,
            ..request.clone()
        };
        that_would_do(&more)?
    } else {
        None
    };
    let with_gone: Vec<Stock> = on_hand.iter().chain(gone).cloned().collect();
    let no_longer_made = if gone.is_empty() {
        None
    } else {
        that_would_do(&Request {
            best: 1,
            stock: &with_gone,
            ..request.clone()
        })?
    };
    let grind = grind(request, &on_hand, wanted_nm);
    Ok(Fallbacks {
        wanted_nm,
        from_nm: fits.map(|f| f.0),
        to_nm: fits.map(|f| f.1),
        stack_more,
        no_longer_made,
        grind,
        step_nm: coarse_step(request),
    })
}

/// The best choice, where it reaches the required probability; none where there are too many stacks to search.
fn that_would_do(request: &Request<'_>) -> Result<Option<Choice>, ChooseError> {
    match choose(request) {
        Ok(found) => Ok(found.ranked.into_iter().find(|c| c.reaches_floor)),
        Err(ChooseError::TooMany) => Ok(None),
        Err(other) => Err(other),
    }
}

/// What could be ground to the thickness wanted: the single piece that is fitted, or the least too thick on
/// hand.
fn grind(request: &Request<'_>, on_hand: &[Stock], wanted_nm: f64) -> Option<Grind> {
    if wanted_nm <= 0.0 {
        return None;
    }
    let single = request.most_pieces == 1;
    let fitted = Some(request.fitted).filter(|f| single && f.as_f64() > wanted_nm);
    let thinnest = || {
        let thicker = |s: &&Stock| s.quantity > 0 && s.thickness_nm.as_f64() > wanted_nm;
        let thickness = |s: &Stock| s.thickness_nm;
        on_hand.iter().filter(thicker).map(thickness).min()
    };
    let from_nm = fitted.or_else(thinnest)?;
    Some(Grind {
        from_nm,
        by_nm: from_nm.as_f64() - wanted_nm,
        fitted: fitted.is_some(),
    })
}

/// The step of the sizes, where it is wider than the window and pieces are not stacked.
fn coarse_step(request: &Request<'_>) -> Option<Length> {
    let sizes: Vec<Length> = request.stock.iter().map(|s| s.thickness_nm).collect();
    let step = range(&sizes, &[]).step_nm?;
    let width = request.window.width_nm()?;
    (request.most_pieces == 1 && step.as_f64() > width).then_some(step)
}

/// A check that pieces are set aside for.
#[derive(Clone, Debug)]
pub struct Holder<'a> {
    /// What was asked for it; its stock is what it could have instead, its own pieces included.
    pub request: Request<'a>,
    /// The pieces set aside for it.
    pub held: Vec<SizeCount>,
}

/// One piece taken over from another check, which takes something else.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Swap {
    /// Which of the holders, counted from 0.
    pub holder: usize,
    /// What this check would get.
    pub mine: Choice,
    /// What the other would have instead.
    pub theirs: Choice,
}

/// What could be taken over from other checks so that this one reaches the shop's required probability and they
/// still land in their windows; those that leave the other above the required probability too come first, then
/// those with the least distance from both targets.
///
/// # Errors
/// As of [`choose`](super::choose), for either check.
pub fn swaps(request: &Request<'_>, holders: &[Holder<'_>]) -> Result<Vec<Swap>, ChooseError> {
    let mut found = Vec::new();
    for (holder, other) in holders.iter().enumerate() {
        for held in &other.held {
            let is_it = |s: &Stock| (s.thickness_nm, s.grade) == (held.thickness_nm, held.grade);
            let Some(piece) = other.request.stock.iter().find(|s| is_it(s)) else {
                continue;
            };
            let mut stock: Vec<Stock> = request.stock.to_vec();
            stock.retain(|s| s.source == Availability::OnHand && !is_it(s));
            stock.push(Stock {
                quantity: held.count.min(piece.quantity),
                ..piece.clone()
            });
            let mine = best(request, &stock)?;
            let Some(mine) = mine.filter(|c| c.reaches_floor) else {
                continue;
            };
            let mut rest: Vec<Stock> = other.request.stock.to_vec();
            for taken in &mine.pieces {
                if let Some(line) = rest.iter_mut().find(|s| taken.are_of(s)) {
                    line.quantity = line.quantity.saturating_sub(taken.count);
                }
            }
            if let Some(theirs) = best(&other.request, &rest)?.filter(|c| c.lands == Call::In) {
                found.push(Swap {
                    holder,
                    mine,
                    theirs,
                });
            }
        }
    }
    let off = |s: &Swap| s.mine.off_target_nm + s.theirs.off_target_nm;
    found.sort_by(|a, b| {
        let below = |s: &Swap| !s.theirs.reaches_floor;
        below(a).cmp(&below(b)).then(off(a).total_cmp(&off(b)))
    });
    found.dedup_by(|a, b| a.holder == b.holder && a.mine.pieces == b.mine.pieces);
    Ok(found)
}

fn best(request: &Request<'_>, stock: &[Stock]) -> Result<Option<Choice>, ChooseError> {
    let found = choose(&Request {
        best: 1,
        stock,
        ..request.clone()
    })?;
    Ok(found.ranked.into_iter().next())
}

/// The thicknesses of a single piece that would reach the required probability.
fn fitting_range(request: &Request<'_>, u_piece_nm: f64) -> Option<(f64, f64)> {
    let doubt = request.doubt(PiecesDoubt::one(u_piece_nm));
    let (from, to) = request.band(|c| request.chance(c, doubt) >= request.required_probability)?;
    // Open to one side: no clearance is too much, and no piece at all gives the most there is.
    let none_at_all = request.predicted_nm(0);
    let from = if from.is_finite() {
        from
    } else {
        to.min(none_at_all)
    };
    let to = if to.is_finite() {
        to
    } else {
        from.max(none_at_all)
    };
    let totals = [from, to].map(|c| request.total_for(c).max(0.0));
    Some((totals[0].min(totals[1]), totals[0].max(totals[1])))
}
