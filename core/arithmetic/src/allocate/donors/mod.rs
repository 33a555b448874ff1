//! The best box from several dismantled ones.
//!
//! Every place of the box is filled by one candidate: what lay there in one of the boxes, with what stays together with
//! it, or new parts. Of all ways to fill them, the one with which the most checks can be set at once from the drawers; of
//! those, the one with the fewest new parts; of those, with the fewest worn ones; of those, with the fewest that come out of
//! another box; of those, with the least wear used up.
//!
//! The search is exact. Each check is a sum of widths, so what its candidates cost it, each at its cheapest, is worked out
//! over all sums that can come of them; that cost is shared out among its places until the places say by themselves what
//! the box costs at least (a dual bound, in whole numbers). What that leaves open is branched on. Sizes that several
//! checks want more of than there are get a price. Stopped early, the answer says how far from the best it can be.

mod branch;
mod scarce;
mod sums;

use petgraph::unionfind::UnionFind;
use serde::Serialize;
use thiserror::Error;

use super::{AllocateError, Allocation, Group, Moved, Place, allocate};
use crate::stock::drawer::Stock;
use crate::units::length::Length;
use crate::verdict::Call;
use crate::verdict::window::{TargetRange, Window};

use branch::{A_LONG_LOOK, Component};

/// The most candidates for one place.
pub const MOST_CANDIDATES: usize = 64;
/// The most places of a box.
pub const MOST_PLACES: usize = 1_000;
/// The most that one candidate may count as new, worn or used up.
const MOST_COUNT: u32 = 10_000;

/// What could go into a place of the box.
#[derive(Clone, Debug, Default)]
pub struct Candidate {
    /// How many parts of it are new.
    pub new: u32,
    /// How many parts of it are worn.
    pub worn: u32,
    /// How many parts of it come out of another box.
    pub fetched: u32,
    /// How much of their wear is used up, in thousandths, together.
    pub used_up: u32,
    /// What it adds to the checks that are summed.
    pub widths: Vec<AddedWidth>,
}

/// What a candidate adds to the clearance of a check.
#[derive(Clone, Copy, Debug)]
pub struct AddedWidth {
    /// The check, counted from 0.
    pub check: usize,
    /// By how much it widens the gap; less than nothing where it fills it.
    pub adds: Length,
    /// The standard uncertainty of that in nanometres.
    pub u_nm: f64,
}

/// A check whose clearance is a sum.
#[derive(Clone, Debug)]
pub struct SummedCheck {
    /// What the terms come to that are the same in every box.
    pub rest: Length,
    /// The standard uncertainty of that in nanometres.
    pub u_nm: f64,
    pub window: Window,
    /// Where in it to aim.
    pub aim: TargetRange,
    /// The chance in window that is asked for; from 0.5 to below 1.
    pub required_probability: f64,
    /// The pieces that set it, and whether they close the gap (+1) or open it (−1); none where nothing does.
    pub set_by: Option<(Place, i8)>,
}

/// Boxes, checks and drawers.
#[derive(Clone, Debug)]
pub struct Boxes {
    /// For each place its candidates.
    pub places: Vec<Vec<Candidate>>,
    pub checks: Vec<SummedCheck>,
    pub drawers: Vec<Vec<Stock>>,
}

/// How good a box is; the earlier figures come first.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct BoxTally {
    /// How many of the summed checks can be set at once.
    pub set: usize,
    /// How many of its parts are new.
    pub new: u64,
    /// How many of the others are worn.
    pub worn: u64,
    /// How many of them come out of another box.
    pub fetched: u64,
    /// How much of their wear is used up, in thousandths, together.
    pub used_up: u64,
}

/// The best box found.
#[derive(Clone, Debug, PartialEq)]
pub struct BestBox {
    /// For each place its candidate, counted from 0.
    pub picks: Vec<usize>,
    /// For each check its pieces and what it comes to; none where it cannot be set, or nothing sets it.
    pub set: Vec<Option<super::Assignment>>,
    pub tally: BoxTally,
    /// No box is better than this; the same as `tally` where `proven`.
    pub bound: BoxTally,
    /// It is proven that none is better.
    pub proven: bool,
    /// How many branches were looked at.
    pub looked_at: u64,
}

/// How far the search has come.
#[derive(Clone, Copy, Debug)]
pub struct BoxProgress {
    pub tally: BoxTally,
    pub bound: BoxTally,
    pub looked_at: u64,
}

/// Why no best box can be worked out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum BoxesError {
    #[error("places: place {0} has no candidate: there is always a new part")]
    NoCandidate(usize),
    #[error("places: at most {MOST_PLACES} places with up to {MOST_CANDIDATES} candidates each")]
    TooMany,
    #[error(
        "candidates: a candidate of place {0} is of a check that is not there, or counts too much"
    )]
    BadCandidate(usize),
    #[error("checks: check {0} is further out than any gearbox is wide")]
    TooFar(usize),
    #[error(transparent)]
    Sharing(#[from] AllocateError),
}

/// The best box, exactly. `go_on` is asked now and then, and stops the search where it says `false`: what is returned is
/// then the best found, with a bound.
///
/// # Errors
/// What [`BoxesError`] names.
///
/// # Formula
/// `c = c₀ + Σ a(candidate of each place)`; a check can be set where its drawer has pieces of total `t` with
/// `c − k t` in its window.
pub fn best_box(
    boxes: &Boxes,
    mut go_on: impl FnMut(&BoxProgress) -> bool,
) -> Result<BestBox, BoxesError> {
    boxes.check()?;
    let weights = Weights::of(boxes)?;
    let mut picks: Vec<usize> = (boxes.places.iter())
        .map(|of| cheapest(of, weights))
        .collect();
    let mut parts: Vec<Component<'_>> = Vec::new();
    for (places, checks) in components(boxes) {
        parts.push(Component::new(boxes, weights, places, checks)?);
    }
    let alone: Cost = (picks.iter().zip(&boxes.places).enumerate())
        .filter(|(p, _)| !parts.iter().any(|c| c.has(*p)))
        .map(|(_, (pick, of))| weights.cost(&of[*pick]))
        .sum();
    let told = |parts: &[Component<'_>]| {
        let cost: Cost = parts.iter().map(Component::cost).sum();
        let bound: Cost = parts.iter().map(Component::bound).sum();
        BoxProgress {
            tally: weights.tally(alone + cost, boxes.checks.len()),
            bound: weights.tally(alone + bound, boxes.checks.len()),
            looked_at: parts.iter().map(|c| c.looked_at).sum(),
        }
    };
    for at in 0..parts.len() {
        // The others stand still while one is searched.
        let others = told(&parts);
        let (cost, bound) = (parts[at].cost(), parts[at].bound());
        parts[at].search(&mut |c| {
            let with = |told: BoxTally, was: Cost, now: Cost| {
                let others = weights.of_tally(told, boxes.checks.len()) - was;
                weights.tally(others + now, boxes.checks.len())
            };
            go_on(&BoxProgress {
                tally: with(others.tally, cost, c.cost()),
                bound: with(others.bound, bound, c.bound()),
                looked_at: others.looked_at + c.looked_at,
            })
        })?;
    }
    for part in &parts {
        part.put(&mut picks);
    }
    let BoxProgress {
        bound, looked_at, ..
    } = told(&parts);
    let shared = boxes.shared(&picks)?;
    let tally = boxes.tally_of(&picks, &shared);
    Ok(BestBox {
        set: shared.set,
        proven: bound == tally,
        tally,
        bound,
        looked_at,
        picks,
    })
}

/// The box in which every place has the candidate that is best by itself, without a look at the checks.
///
/// # Errors
/// As of [`best_box`].
pub fn part_by_part(boxes: &Boxes) -> Result<BestBox, BoxesError> {
    boxes.check()?;
    let weights = Weights::of(boxes)?;
    let picks = (boxes.places.iter())
        .map(|of| cheapest(of, weights))
        .collect();
    box_of(boxes, picks)
}

/// The box of these candidates, and how many of its checks can be set at once.
///
/// # Errors
/// As of [`best_box`].
pub fn box_of(boxes: &Boxes, picks: Vec<usize>) -> Result<BestBox, BoxesError> {
    let shared = boxes.shared(&picks)?;
    let tally = boxes.tally_of(&picks, &shared);
    Ok(BestBox {
        picks,
        set: shared.set,
        tally,
        bound: tally,
        proven: true,
        looked_at: 0,
    })
}

/// A cost in whole numbers: the figures of a [`BoxTally`] one after another.
type Cost = i64;
/// What one thousandth of wear costs, so that its share among the places of a check is still a whole number.
const UNIT: Cost = 1_024;

/// What each figure of a tally costs, so that no sum of the later ones comes up to one of the earlier.
#[derive(Clone, Copy, Debug)]
struct Weights {
    fetched: Cost,
    worn: Cost,
    new: Cost,
    out: Cost,
}

impl Weights {
    fn of(boxes: &Boxes) -> Result<Self, BoxesError> {
        let most = |of: fn(&Candidate) -> u32| -> Cost {
            let of_place = |p: &Vec<Candidate>| p.iter().map(of).max().map_or(0, Cost::from);
            1 + boxes.places.iter().map(of_place).sum::<Cost>()
        };
        let weights = || {
            let fetched = UNIT.checked_mul(most(|c| c.used_up))?;
            let worn = fetched.checked_mul(most(|c| c.fetched))?;
            let new = worn.checked_mul(most(|c| c.worn))?;
            let out = new.checked_mul(most(|c| c.new))?;
            // Room for the sum of all, and for as much again in what the checks take and give.
            let checks = Cost::try_from(1 + boxes.checks.len()).ok()?;
            out.checked_mul(checks)?.checked_mul(16)?;
            Some(Self {
                fetched,
                worn,
                new,
                out,
            })
        };
        weights().ok_or(BoxesError::TooMany)
    }

    fn cost(&self, of: &Candidate) -> Cost {
        self.new * Cost::from(of.new)
            + self.worn * Cost::from(of.worn)
            + self.fetched * Cost::from(of.fetched)
            + UNIT * Cost::from(of.used_up)
    }

    /// The tally that a cost is of, of so many checks.
    fn tally(&self, cost: Cost, checks: usize) -> BoxTally {
        let out = usize::try_from(cost / self.out).unwrap_or(0);
        let whole = |n: Cost| u64::try_from(n).unwrap_or(0);
        BoxTally {
            set: checks.saturating_sub(out),
            new: whole(cost % self.out / self.new),
            worn: whole(cost % self.new / self.worn),
            fetched: whole(cost % self.worn / self.fetched),
            used_up: whole((cost % self.fetched + UNIT - 1) / UNIT),
        }
    }

    fn of_tally(&self, tally: BoxTally, checks: usize) -> Cost {
        let whole = |n: u64| Cost::try_from(n).unwrap_or(0);
        self.out * Cost::try_from(checks - tally.set).unwrap_or(0)
            + self.new * whole(tally.new)
            + self.worn * whole(tally.worn)
            + self.fetched * whole(tally.fetched)
            + UNIT * whole(tally.used_up)
    }
}

/// The candidate that costs least by itself, of several the first.
fn cheapest(of: &[Candidate], weights: Weights) -> usize {
    let costs = of.iter().map(|c| weights.cost(c)).enumerate();
    costs
        .min_by_key(|(at, cost)| (*cost, *at))
        .map_or(0, |c| c.0)
}

/// What the checks come to with a choice of candidates.
struct Shared {
    set: Vec<Option<super::Assignment>>,
    /// How many of them are in their windows.
    inside: usize,
    proven: bool,
}

impl Boxes {
    fn check(&self) -> Result<(), BoxesError> {
        // A metre and more in every term of a sum stays far from the end of whole nanometres.
        const FARTHEST: i64 = 100_000_000_000;
        let too_far = |length: Length| length.nm().abs() > FARTHEST;
        if self.places.len() > MOST_PLACES {
            return Err(BoxesError::TooMany);
        }
        for (at, of) in self.places.iter().enumerate() {
            if of.is_empty() {
                return Err(BoxesError::NoCandidate(at + 1));
            }
            if of.len() > MOST_CANDIDATES {
                return Err(BoxesError::TooMany);
            }
            let sound = |c: &Candidate| {
                [c.new, c.worn, c.fetched, c.used_up]
                    .into_iter()
                    .all(|n| n <= MOST_COUNT)
                    && c.widths.iter().all(|w| {
                        w.check < self.checks.len()
                            && !too_far(w.adds)
                            && w.u_nm.is_finite()
                            && w.u_nm >= 0.0
                    })
            };
            if !of.iter().all(sound) {
                return Err(BoxesError::BadCandidate(at + 1));
            }
        }
        for (at, check) in self.checks.iter().enumerate() {
            let ends = [check.window.low(), check.window.high(), Some(check.rest)];
            if ends.into_iter().flatten().any(too_far) {
                return Err(BoxesError::TooFar(at + 1));
            }
        }
        // What the drawers have is looked at where they are shared out.
        let first = vec![0; self.places.len()];
        let groups: Vec<Group> = (0..self.checks.len())
            .filter_map(|j| self.group(j, &first))
            .collect();
        allocate(&groups, &self.drawers, |_| false)?;
        Ok(())
    }

    /// What the candidates of a box leave for a check, before any piece is fitted, and the standard uncertainty of that in
    /// nanometres.
    #[must_use]
    pub fn left_by(&self, check: usize, picks: &[usize]) -> (Length, f64) {
        let (left, u_nm) = self.clearance(check, picks);
        (Length::from_nm(left), u_nm)
    }

    /// Whether a check of a box is in its window, with the pieces that it was given.
    #[must_use]
    pub fn is_set(&self, of: &BestBox, check: usize) -> bool {
        let outcomes = of.set[check].iter().flat_map(|s| &s.outcomes);
        let own = &self.checks[check];
        let (left, _) = self.clearance(check, &of.picks);
        (own.set_by.is_none() && is_in(own.window, left))
            || outcomes.into_iter().any(|o| o.lands == Call::In)
    }

    /// The clearance of a check with a choice of candidates, with nothing chosen from the drawers, and its uncertainty.
    fn clearance(&self, check: usize, picks: &[usize]) -> (i64, f64) {
        let of = &self.checks[check];
        let widths = picks
            .iter()
            .zip(&self.places)
            .flat_map(|(o, p)| &p[*o].widths);
        let own = widths.filter(|w| w.check == check);
        let start = (of.rest.nm(), of.u_nm * of.u_nm);
        let (sum, u2) = own.fold(start, |(sum, u2), w| {
            (sum + w.adds.nm(), u2 + w.u_nm * w.u_nm)
        });
        (sum, u2.sqrt())
    }

    /// A check as the drawers are shared out for it; none where nothing sets it.
    fn group(&self, check: usize, picks: &[usize]) -> Option<Group> {
        let of = &self.checks[check];
        let (place, effect) = of.set_by.clone()?;
        let (clearance_nm, u_nm) = self.clearance(check, picks);
        Some(Group {
            places: vec![place],
            checks: vec![Moved {
                clearance_nm: clearance_nm as f64,
                u_nm,
                dof: None,
                shape: None,
                window: of.window,
                aim: of.aim,
                required_probability: of.required_probability,
                effects: vec![f64::from(effect)],
                u_effects: 0.0,
                yields: false,
            }],
            pinned: None,
        })
    }

    /// What the drawers give all checks with a choice of candidates.
    fn shared(&self, picks: &[usize]) -> Result<Shared, AllocateError> {
        let all: Vec<usize> = (0..self.checks.len()).collect();
        self.shared_among(&all, picks, |p| p.looked_at < A_LONG_LOOK)
    }

    fn shared_among(
        &self,
        checks: &[usize],
        picks: &[usize],
        go_on: impl FnMut(&super::Progress) -> bool,
    ) -> Result<Shared, AllocateError> {
        let groups: Vec<Option<Group>> = checks.iter().map(|j| self.group(*j, picks)).collect();
        let asked: Vec<Group> = groups.iter().flatten().cloned().collect();
        let Allocation {
            groups: given,
            tally,
            proven,
            ..
        } = allocate(&asked, &self.drawers, go_on)?;
        let as_they_are = checks.iter().filter(|j| {
            let check = &self.checks[**j];
            let (c, _) = self.clearance(**j, picks);
            check.set_by.is_none() && is_in(check.window, c)
        });
        let inside = tally.inside + as_they_are.count();
        let mut given = given.into_iter();
        Ok(Shared {
            set: (groups.iter())
                .map(|g| g.as_ref().and_then(|_| given.next().flatten()))
                .collect(),
            inside,
            proven,
        })
    }

    fn tally_of(&self, picks: &[usize], shared: &Shared) -> BoxTally {
        let picked = picks.iter().zip(&self.places).map(|(o, p)| &p[*o]);
        let start = BoxTally {
            set: shared.inside,
            ..BoxTally::default()
        };
        picked.fold(start, |sum, c| BoxTally {
            new: sum.new + u64::from(c.new),
            worn: sum.worn + u64::from(c.worn),
            fetched: sum.fetched + u64::from(c.fetched),
            used_up: sum.used_up + u64::from(c.used_up),
            ..sum
        })
    }
}

fn is_in(window: Window, nm: i64) -> bool {
    let c = Length::from_nm(nm);
    window.low().is_none_or(|low| low <= c) && window.high().is_none_or(|high| c <= high)
}

/// Places, checks and drawers that hang together: for each such part its places and its checks.
fn components(boxes: &Boxes) -> Vec<(Vec<usize>, Vec<usize>)> {
    let (places, checks) = (boxes.places.len(), boxes.checks.len());
    let mut union = UnionFind::new(places + checks + boxes.drawers.len());
    for (p, of) in boxes.places.iter().enumerate() {
        for width in of.iter().flat_map(|c| &c.widths) {
            union.union(p, places + width.check);
        }
    }
    for (j, check) in boxes.checks.iter().enumerate() {
        if let Some((place, _)) = &check.set_by {
            union.union(places + j, places + checks + place.drawer);
        }
    }
    let mut found: Vec<(Vec<usize>, Vec<usize>)> = Vec::new();
    let mut of_root: Vec<(usize, usize)> = Vec::new();
    for j in 0..checks {
        let root = union.find(places + j);
        if let Some((_, at)) = of_root.iter().find(|(r, _)| *r == root) {
            found[*at].1.push(j);
        } else {
            of_root.push((root, found.len()));
            found.push((Vec::new(), vec![j]));
        }
    }
    for p in 0..places {
        let root = union.find(p);
        if let Some((_, at)) = of_root.iter().find(|(r, _)| *r == root) {
            found[*at].0.push(p);
        }
    }
    found
}
