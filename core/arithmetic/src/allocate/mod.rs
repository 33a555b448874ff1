//! Choosing for many checks at once from the same drawers.
//!
//! Of all ways to share the pieces out, the one that puts the most checks in their windows; of
//! those, the one in which the most reach their required probability of chance; of those, the one with the least
//! total distance from the targets over the checks inside (the others take no piece and add
//! nothing); of those, the fewest pieces. Checks that the same pieces move are one [`Group`] and
//! are chosen for together.
//!
//! The search is exact. Each scarce size is given a price; at any prices, what the groups would
//! take on their own, less the worth of the stock, is a bound that no sharing-out can beat. Prices
//! are raised where more is wanted than there is, in whole numbers, so that the bound has no
//! rounding in it. What the prices leave open is settled by branching on how much of one size a
//! group takes. Stopped early, the answer says how far from the best it can be at most.

mod branch_and_bound;
mod candidates;
pub mod donors;
mod lagrangian;
mod one_by_one;
mod pairs;
mod stacks;
mod state_space;

use serde::Serialize;
use thiserror::Error;

pub use one_by_one::{Reason, one_by_one, predict, reasons, tally_of};

use crate::choose::required::{Effect, MOST_EFFECT};
use crate::choose::{MOST_PIECES, Pieces, Request, SizeCount};
use crate::stock::drawer::Stock;
use crate::stock::pieces::PiecesDoubt;
use crate::uncertainty::distribution::Shape;
use crate::units::length::Length;
use crate::verdict::Call;
use crate::verdict::window::{TargetRange, Window};

/// A place that takes pieces: a shaft's end, a bearing cup, a groove.
#[derive(Clone, Debug)]
pub struct Place {
    /// Which drawer its pieces come from, counted from 0.
    pub drawer: usize,
    /// The total thickness of what is fitted now; zero for nothing.
    pub fitted: Length,
    /// The standard uncertainty of that thickness in nanometres.
    pub u_fitted_nm: f64,
    /// The fewest pieces a stack may have; zero allows none at all.
    pub least_pieces: u32,
    /// The most pieces a stack may have.
    pub most_pieces: u32,
}

/// A check that pieces of a group move.
#[derive(Clone, Debug)]
pub struct Moved {
    /// The clearance now, in nanometres.
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The shape of what is known of it; none for Student's t of these degrees of freedom.
    pub shape: Option<Shape>,
    /// The window to land in.
    pub window: Window,
    /// Where in it to aim.
    pub aim: TargetRange,
    /// The chance in window that is asked for; from 0.5 to below 1.
    pub required_probability: f64,
    /// For each place of the group, by how much its clearance shrinks as the pieces there thicken by one:
    /// +1 closes it by as much, −1 opens it, 0 leaves it alone.
    pub effects: Vec<f64>,
    /// The relative standard uncertainty of those effects, where they were measured together; zero where they are exact.
    pub u_effects: f64,
    /// It is given up first, where not all checks of a group can be met.
    pub yields: bool,
}

/// Checks that the pieces of the same places move.
#[derive(Clone, Debug)]
pub struct Group {
    /// The places, one for a check on its own.
    pub places: Vec<Place>,
    pub checks: Vec<Moved>,
    /// What a person has settled on: for each place its sizes, and how many of each. Where the
    /// drawers have no such pieces, the group takes nothing.
    pub pinned: Option<Vec<Vec<SizeCount>>>,
}

/// Why a sharing-out cannot be worked out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum AllocateError {
    /// A required probability outside its range.
    #[error("the chance asked for is from 50 % to below 100 %, such as 95 %")]
    BadFloor,
    /// Pieces outside their range.
    #[error(
        "pieces: a stack has from 1 to {MOST_PIECES} pieces, and its least is not above its most"
    )]
    BadPieces,
    /// A piece of no thickness.
    #[error("sizes: size {at} of drawer {drawer} is not thicker than nothing")]
    ThinSize {
        /// The drawer, counted from 1.
        drawer: usize,
        /// The line of it, counted from 1.
        at: usize,
    },
    /// A figure that is none.
    #[error(
        "clearance: the clearance and the uncertainties must be finite, and the uncertainties zero or more"
    )]
    NotFinite,
    /// An effect out of all proportion, or effects and places that differ in number.
    #[error(
        "effects: for each place one effect from −{MOST_EFFECT} to {MOST_EFFECT}, such as +1, and of each place at least one not 0; their doubt is zero or more"
    )]
    BadEffects,
    /// A drawer that is not there.
    #[error("drawer: there is no drawer {0}, counted from 1")]
    NoDrawer(usize),
    /// More stacks than can be searched.
    #[error(
        "sizes: so many sizes in stacks of so many pieces cannot be searched: allow fewer pieces"
    )]
    TooMany,
}

/// How good a sharing-out is; the earlier figures come first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Objective {
    /// How many checks land in their windows.
    pub inside: usize,
    /// How many of those reach their required probability of chance.
    pub sure: usize,
    /// The sum of the distances from the targets over the checks inside, in nanometres.
    pub distance_nm: f64,
}

/// What a check would come to.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Outcome {
    /// The clearance, in nanometres.
    pub predicted_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The half-width of its 95 % interval in nanometres.
    pub expanded_nm: f64,
    /// The chance that it lies in the window, 0 to 1.
    pub chance: f64,
    /// Whether that chance reaches the required probability.
    pub reaches_floor: bool,
    /// Where the prediction lies, without regard to its uncertainty.
    pub lands: Call,
    /// How far it is from what is aimed at, in nanometres.
    pub off_target_nm: f64,
}

/// The pieces for a group, and what each of its checks would come to.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Assignment {
    /// The pieces of each place, thickest first.
    pub stacks: Vec<Vec<Pieces>>,
    /// What each check would come to.
    pub outcomes: Vec<Outcome>,
}

/// The best sharing-out found.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Allocation {
    /// For each group its pieces; none where it takes none.
    pub groups: Vec<Option<Assignment>>,
    /// How good it is.
    pub tally: Objective,
    /// No sharing-out is better than this; the same as `tally` where `proven`.
    pub bound: Objective,
    /// It is proven that none is better.
    pub proven: bool,
    /// How many branches were looked at.
    pub looked_at: u64,
}

/// How far a search has come.
#[derive(Clone, Copy, Debug)]
pub struct Progress {
    /// The best found so far, of all drawers together.
    pub tally: Objective,
    /// No sharing-out is better than this.
    pub bound: Objective,
    /// How many branches were looked at.
    pub looked_at: u64,
}

/// Shares the drawers out among the groups, exactly. `go_on` is asked now and then, and stops the
/// search where it says `false`: what is returned is then the best found, with a bound.
///
/// ```
/// use anvil_arithmetic::allocate::{allocate, Group, Moved, Place};
/// use anvil_arithmetic::stock::drawer::{Grade, Availability, Stock};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::verdict::window::{TargetRange, Window};
/// // Two checks want 1.00 mm, of which there is one; the second does as well with 1.05 mm.
/// let mm = |nm| Length::from_nm(nm);
/// let stock = [(1_000_000, 1), (1_050_000, 1)].map(|(nm, quantity)| Stock {
///     thickness_nm: mm(nm), grade: Grade::Marked, u_nm: 0.0, quantity, source: Availability::OnHand });
/// let check = |high| Group {
///     places: vec![Place { drawer: 0, fitted: Length::ZERO, u_fitted_nm: 0.0,
///         least_pieces: 1, most_pieces: 1 }],
///     checks: vec![Moved { clearance_nm: 1_100_000.0, u_nm: 0.0, dof: None, shape: None, required_probability: 0.95,
///         window: Window::new(Some(mm(40_000)), Some(mm(high))).unwrap(),
///         aim: TargetRange { from_nm: 100_000.0, to_nm: 100_000.0 }, effects: vec![1.0],
///         u_effects: 0.0, yields: false }],
///     pinned: None,
/// };
/// let shared = allocate(&[check(120_000), check(150_000)], &[stock.to_vec()], |_| true).unwrap();
/// assert!(shared.proven && shared.tally.inside == 2);
/// ```
///
/// # Errors
/// What [`AllocateError`] names: a figure that is none, an effect or a drawer that is not there, too many stacks to search.
pub fn allocate(
    groups: &[Group],
    drawers: &[Vec<Stock>],
    mut go_on: impl FnMut(&Progress) -> bool,
) -> Result<Allocation, AllocateError> {
    for group in groups {
        group.check(drawers)?;
    }
    for (d, drawer) in drawers.iter().enumerate() {
        if let Some(at) = drawer.iter().position(|s| s.thickness_nm <= Length::ZERO) {
            return Err(AllocateError::ThinSize {
                drawer: d + 1,
                at: at + 1,
            });
        }
        if drawer
            .iter()
            .any(|s| !(s.u_nm.is_finite() && s.u_nm >= 0.0))
        {
            return Err(AllocateError::NotFinite);
        }
    }
    branch_and_bound::allocate(groups, drawers, &mut go_on)
}

impl Group {
    fn check(&self, drawers: &[Vec<Stock>]) -> Result<(), AllocateError> {
        let sound = |u: f64| u.is_finite() && u >= 0.0;
        for place in &self.places {
            if place.drawer >= drawers.len() {
                return Err(AllocateError::NoDrawer(place.drawer + 1));
            }
            let most = place.most_pieces;
            if most == 0 || most > MOST_PIECES || place.least_pieces > most {
                return Err(AllocateError::BadPieces);
            }
            if !sound(place.u_fitted_nm) {
                return Err(AllocateError::NotFinite);
            }
        }
        for check in &self.checks {
            if !(0.5..1.0).contains(&check.required_probability) {
                return Err(AllocateError::BadFloor);
            }
            if !(check.clearance_nm.is_finite()
                && sound(check.u_nm)
                && check.dof.is_none_or(|d| d > 0.0))
            {
                return Err(AllocateError::NotFinite);
            }
        }
        let moves_none = |p: usize| self.checks.iter().all(|c| !c.is_moved_from(p));
        if self
            .pinned
            .as_ref()
            .is_some_and(|p| p.len() != self.places.len())
        {
            return Err(AllocateError::BadPieces);
        }
        let ragged = self.checks.iter().any(|c| {
            let far = |e: &f64| !e.is_finite() || e.abs() > MOST_EFFECT;
            c.effects.len() != self.places.len() || c.effects.iter().any(far) || !sound(c.u_effects)
        });
        if ragged || (0..self.places.len()).any(moves_none) {
            return Err(AllocateError::BadEffects);
        }
        Ok(())
    }

    /// What the checks would come to with these stacks.
    fn outcomes(&self, stacks: &[Vec<&Stock>]) -> Vec<Outcome> {
        self.checks
            .iter()
            .map(|check| {
                let predicted_nm = check.predicted_nm(self, |p| {
                    stacks[p].iter().map(|s| s.thickness_nm.nm()).sum()
                });
                let of_pieces = self.added_to(
                    check,
                    |p| PiecesDoubt::of_stack(stacks[p].iter().copied()),
                    check.clearance_nm - predicted_nm,
                );
                let request = check.request(self);
                let doubt = request.doubt(of_pieces);
                let chance = request.chance(predicted_nm, doubt);
                Outcome {
                    predicted_nm,
                    u_nm: doubt.u_nm,
                    dof: doubt.dof,
                    expanded_nm: request.expanded_nm(doubt),
                    chance,
                    reaches_floor: chance >= check.required_probability,
                    lands: request.lands(predicted_nm),
                    off_target_nm: check.aim.distance_nm(predicted_nm),
                }
            })
            .collect()
    }

    /// What these stacks cost.
    fn cost_with(&self, stacks: &[Vec<&Stock>]) -> Cost {
        let outcomes = self.outcomes(stacks).into_iter().zip(&self.checks);
        let of_checks = outcomes.map(|(o, check)| match o.lands {
            Call::In => far(o.off_target_nm) + if o.reaches_floor { 0 } else { BELOW },
            _ => check.cost_out(),
        });
        let count = stacks.iter().map(Vec::len).sum::<usize>();
        of_checks.sum::<Cost>() + PIECE * count as Cost
    }

    /// What the pieces of the places add to the doubt of a check, and what is not known of how they move it by so much.
    fn added_to(
        &self,
        check: &Moved,
        of_place: impl Fn(usize) -> PiecesDoubt,
        moved_nm: f64,
    ) -> PiecesDoubt {
        let of_effects = PiecesDoubt::normal((check.u_effects * moved_nm).powi(2));
        (0..self.places.len())
            .filter(|p| check.is_moved_from(*p))
            .map(|p| of_place(p).by_effect(check.effects[p]))
            .fold(of_effects, |sum, more| sum + more)
    }

    /// What it costs to take nothing.
    fn cost_of_none(&self) -> Cost {
        self.checks.iter().map(Moved::cost_out).sum()
    }
}

impl Moved {
    /// Pieces at that place move it.
    fn is_moved_from(&self, place: usize) -> bool {
        self.effects[place].abs() > 0.0
    }

    /// What it costs where it is not in its window.
    fn cost_out(&self) -> Cost {
        OUT + if self.yields { 0 } else { FIRST }
    }

    /// `c' = c − Σ A (s − s0)`.
    fn predicted_nm(&self, group: &Group, total_nm: impl Fn(usize) -> i64) -> f64 {
        let moved: f64 = (0..self.effects.len())
            .filter(|p| self.is_moved_from(*p))
            .map(|p| self.effects[p] * (total_nm(p) - group.places[p].fitted.nm()) as f64)
            .sum();
        self.clearance_nm - moved
    }

    /// The check as a request of its own, for its uncertainty and its band.
    fn request(&self, group: &Group) -> Request<'static> {
        let fitted = group.places.iter().zip(&self.effects);
        let u2: f64 = fitted.map(|(p, e)| (e * p.u_fitted_nm).powi(2)).sum();
        Request {
            clearance_nm: self.clearance_nm,
            u_nm: self.u_nm,
            dof: self.dof,
            shape: self.shape.clone(),
            fitted: Length::ZERO,
            u_fitted_nm: u2.sqrt(),
            effect: Effect::Closes,
            window: self.window,
            aim: self.aim,
            required_probability: self.required_probability,
            harm: None,
            least_pieces: 0,
            most_pieces: MOST_PIECES,
            best: 0,
            stock: &[],
        }
    }
}

/// What a sharing-out costs, so that the less is the better: the figures of a [`Objective`] one after
/// another in one whole number.
type Cost = i128;
/// One piece more.
const PIECE: Cost = 1;
/// A thousandth of a nanometre further from the target; no stack has so many pieces.
const FAR: Cost = 1 << 12;
/// A check that does not reach its required probability; no distances add up to it.
const BELOW: Cost = 1 << 72;
/// A check out of its window that others should have yielded to; no count of those below the required probability adds
/// up to it.
const FIRST: Cost = 1 << 86;
/// A check that is not in its window; no count of what is less adds up to it.
const OUT: Cost = 1 << 100;

/// A distance as a cost, to the nearest thousandth of a nanometre.
#[allow(clippy::cast_possible_truncation)] // no window is so wide
fn far(distance_nm: f64) -> Cost {
    (distance_nm * 1e3).round() as Cost * FAR
}

/// The tally that a cost stands for, of so many checks.
fn tally(cost: Cost, checks: usize) -> Objective {
    let out = usize::try_from(cost / OUT).unwrap_or(checks).min(checks);
    let below = usize::try_from(cost % FIRST / BELOW).unwrap_or(0);
    Objective {
        inside: checks - out,
        sure: (checks - out).saturating_sub(below),
        distance_nm: (cost % BELOW / FAR) as f64 / 1e3,
    }
}
