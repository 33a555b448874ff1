//! Choosing pieces for one check.
//!
//! A *setting* is a total thickness; the best stack stands for each. Settings are ranked: those
//! whose chance in window reaches the shop's required probability before the rest; among those, nearest the
//! target, then fewest pieces, then on hand before to be ordered before discontinued; among the
//! rest, by chance. The search is exact: it meets in the middle over half-stacks sorted by
//! thickness and widens outward from the target, so it looks at few of the many stacks but proves
//! that none of the others is better.

mod fallbacks;
mod families;
pub(crate) mod half_stacks;
pub mod harm;
pub mod purchase;
mod rank;
pub mod required;
mod search;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::choose::harm::Harm;
use crate::choose::required::Effect;
use crate::stock::drawer::{Availability, Grade, Stock};
use crate::stock::pieces::PiecesDoubt;
use crate::uncertainty::distribution::Shape;
use crate::uncertainty::estimate::{Component, Source, combined_uncertainty};
use crate::uncertainty::student_t::{probability_between, t95};
use crate::units::length::Length;
use crate::units::working::{Line, Working};
use crate::verdict::Call;
use crate::verdict::window::{TargetRange, Window};

pub use fallbacks::{Fallbacks, Grind, Holder, Swap, fallbacks, swaps};
pub use families::{OfFamily, Offer, offers};

/// The most pieces that can be asked for in one stack.
pub const MOST_PIECES: u32 = 8;
/// The most half-stacks the search will lay out; 200 sizes and six pieces stay below it.
const MOST_HALVES: u64 = 2_000_000;

/// Eight pieces so thick, and all that comes of them, stay far from the end of whole nanometres: 1 m.
const THICKEST: Length = Length::from_nm(1_000_000_000);

/// A clearance so far inside a window open to one side that nothing is left to chance: 1000 km.
const FAR_INSIDE: f64 = 1e15;

/// A bound from one distribution and a chance from another differ by what their grids leave out, which is less than this.
pub(crate) const SLACK: f64 = 1.0001;

/// What is asked of the chooser.
#[derive(Clone, Debug)]
pub struct Request<'a> {
    /// The clearance now, in nanometres.
    pub clearance_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The shape of what is known of it; none for Student's t of these degrees of freedom.
    pub shape: Option<Shape>,
    /// The total thickness of what is fitted now; zero for nothing.
    pub fitted: Length,
    /// The standard uncertainty of that thickness in nanometres.
    pub u_fitted_nm: f64,
    /// What a thicker piece does.
    pub effect: Effect,
    /// The window to land in.
    pub window: Window,
    /// Where in it to aim.
    pub aim: TargetRange,
    /// The chance in window below which a choice ranks after the rest; from 0.5 to below 1.
    pub required_probability: f64,
    /// Where missing on one side is worse: settings rank by the harm to be expected then, and the window has both limits.
    pub harm: Option<Harm>,
    /// The fewest pieces a stack may have; zero allows none at all.
    pub least_pieces: u32,
    /// The most pieces a stack may have.
    pub most_pieces: u32,
    /// How many settings to return.
    pub best: usize,
    /// The sizes to choose from.
    pub stock: &'a [Stock],
}

/// Why a request cannot be answered.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum ChooseError {
    /// A required probability outside its range.
    #[error("the chance asked for is from 50 % to below 100 %, such as 95 %")]
    BadFloor,
    /// Pieces outside their range.
    #[error("a stack has from 1 to {MOST_PIECES} pieces, and its least is not above its most")]
    BadPieces,
    /// A piece of no thickness.
    #[error("size {at} is not thicker than nothing")]
    ThinSize {
        /// Which line of the stock, counted from 1.
        at: usize,
    },
    /// A piece, or what is fitted, of a thickness that no gearbox holds.
    #[error("size {at} is thicker than 1 m: check the figure and its unit")]
    ThickSize {
        /// Which line of the stock, counted from 1.
        at: usize,
    },
    #[error("what is fitted is from nothing to 1 m thick: check the figure and its unit")]
    BadFitted,
    /// An uncertainty or clearance that is no figure.
    #[error(
        "the clearance and the uncertainties must be finite, and the uncertainties zero or more"
    )]
    NotFinite,
    #[error(
        "degrees of freedom are more than nothing; leave them out where there is no end of them"
    )]
    NoFreedom,
    #[error("the target range starts above its end: swap the two figures")]
    AimReversed,
    #[error(
        "harm: one side is from 1.1 to 100 times as bad as the other, in a window with both limits"
    )]
    BadHarm,
    /// More stacks than can be searched.
    #[error("so many sizes in stacks of so many pieces cannot be searched: allow fewer pieces")]
    TooMany,
}

impl ChooseError {
    /// The field of the [`Request`] at fault.
    #[must_use]
    pub const fn field(self) -> &'static str {
        match self {
            Self::BadFloor => "required_probability",
            Self::BadPieces => "most_pieces",
            Self::ThinSize { .. } | Self::ThickSize { .. } | Self::TooMany => "stock",
            Self::BadFitted => "fitted_nm",
            Self::NoFreedom => "dof",
            Self::AimReversed => "aim",
            Self::BadHarm => "harm",
            Self::NotFinite => "clearance_nm",
        }
    }
}

/// How surely a prediction is known.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Doubt {
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// What pieces add to what is known of the clearance: those fitted, and those that would go in.
    pub added: PiecesDoubt,
}

/// One setting that can be had, with what it would give.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Choice {
    /// The pieces, thickest first.
    pub pieces: Vec<Pieces>,
    /// Their total thickness in nanometres.
    pub total_nm: Length,
    /// The clearance they would give, in nanometres.
    pub predicted_nm: f64,
    /// Its standard uncertainty in nanometres.
    pub u_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// The half-width of its 95 % interval in nanometres.
    pub expanded_nm: f64,
    /// What its pieces add to the doubt.
    #[serde(skip)]
    pub of_pieces: PiecesDoubt,
    /// The chance that it lies in the window, 0 to 1.
    pub chance: f64,
    /// The harm to be expected of it, 0 to 1, where missing on one side is worse.
    pub harm: Option<f64>,
    /// Whether that chance reaches the shop's required probability.
    pub reaches_floor: bool,
    /// Prediction less the tight limit in nanometres; none where the window is open there.
    pub to_low_nm: Option<f64>,
    /// The loose limit less the prediction in nanometres; none where the window is open there.
    pub to_high_nm: Option<f64>,
    /// How far the prediction is from what is aimed at, in nanometres.
    pub off_target_nm: f64,
    /// Where the prediction lies, without regard to its uncertainty.
    pub lands: Call,
    /// Where its pieces would come from; the least ready of them.
    pub source: Availability,
    /// The arithmetic.
    pub working: Working,
}

/// Some pieces of one size.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Pieces {
    pub thickness_nm: Length,
    /// How that is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many.
    pub count: u32,
    /// Where they would come from.
    pub source: Availability,
}

impl Pieces {
    /// Whether they are of this line of stock.
    #[must_use]
    pub fn are_of(&self, line: &Stock) -> bool {
        self.thickness_nm == line.thickness_nm
            && self.grade == line.grade
            && self.source == line.source
    }
}

/// Some pieces of one size, as a person names them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SizeCount {
    pub thickness_nm: Length,
    /// How that is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many.
    pub count: u32,
}

/// The ranked settings, and the next sizes beside the best.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Choices {
    /// The best settings, best first.
    pub ranked: Vec<Choice>,
    /// The best with one piece swapped for the next thinner size.
    pub thinner: Option<Choice>,
    /// The best with one piece swapped for the next thicker size.
    pub thicker: Option<Choice>,
}

/// The best settings that the stock allows, ranked, exactly.
///
/// ```
/// use anvil_arithmetic::choose::{choose, Request};
/// use anvil_arithmetic::stock::drawer::{Grade, Availability, Stock};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::choose::required::Effect;
/// use anvil_arithmetic::verdict::window::{TargetRange, Window};
/// // Common practice, no source: window 6 to 12 thou, mean 40 1/3, target 9, pieces of 5 only.
/// let thou = |t: f64| t * 25_400.0;
/// let five = Stock { thickness_nm: Length::from_nm(127_000), grade: Grade::Marked, u_nm: 0.0, quantity: 9, source: Availability::OnHand };
/// let found = choose(&Request {
///     clearance_nm: thou(121.0 / 3.0), u_nm: thou(0.2), dof: None, shape: None,
///     fitted: Length::ZERO, u_fitted_nm: 0.0, effect: Effect::Closes,
///     window: Window::new(Some(Length::from_nm(152_400)), Some(Length::from_nm(304_800))).unwrap(),
///     aim: TargetRange { from_nm: thou(9.0), to_nm: thou(9.0) },
///     required_probability: 0.95, harm: None, least_pieces: 1, most_pieces: 8, best: 3, stock: &[five],
/// }).unwrap();
/// assert_eq!(found.ranked[0].pieces[0].count, 6);
/// ```
///
/// # Errors
/// What [`ChooseError`] names: a figure that is none, pieces outside their range, a size of nothing, too many stacks to
/// search.
pub fn choose(request: &Request<'_>) -> Result<Choices, ChooseError> {
    request.check()?;
    let ranked = search::best(request)?;
    let (thinner, thicker) = match ranked.first() {
        Some(best) => (
            fallbacks::next_size(request, best, true),
            fallbacks::next_size(request, best, false),
        ),
        None => (None, None),
    };
    Ok(Choices {
        ranked,
        thinner,
        thicker,
    })
}

/// What one stack of the stock would give; none where the stock has no such pieces.
///
/// Pieces are found by thickness, grade and source, within the quantities.
///
/// # Formula
/// `c' = c − k (s − s0)`; `u'² = u² + u(s)² + u(s0)²` (JCGM 100:2008, 5.1.2), with `u(s)` as [`PiecesDoubt::of_size`] has it.
#[must_use]
pub fn predict(request: &Request<'_>, pieces: &[Pieces]) -> Option<Choice> {
    request.check().ok()?;
    let mut stack = Vec::new();
    for wanted in pieces {
        let mut lines = request.stock.iter();
        let line = lines.find(|s| wanted.are_of(s) && s.quantity >= wanted.count)?;
        stack.extend(std::iter::repeat_n(line, wanted.count as usize));
    }
    let allowed = request.least_pieces as usize..=request.most_pieces.max(MOST_PIECES) as usize;
    allowed
        .contains(&stack.len())
        .then(|| request.describe(&stack))
}

impl Request<'_> {
    fn check(&self) -> Result<(), ChooseError> {
        if !(0.5..1.0).contains(&self.required_probability) {
            return Err(ChooseError::BadFloor);
        }
        if self.most_pieces == 0
            || self.most_pieces > MOST_PIECES
            || self.least_pieces > self.most_pieces
        {
            return Err(ChooseError::BadPieces);
        }
        let limits = (self.window.low(), self.window.high());
        let harmed = |harm: Harm| harm.is_sound() && matches!(limits, (Some(_), Some(_)));
        if self.harm.is_some_and(|harm| !harmed(harm)) {
            return Err(ChooseError::BadHarm);
        }
        if let Some(at) = self
            .stock
            .iter()
            .position(|s| s.thickness_nm <= Length::ZERO)
        {
            return Err(ChooseError::ThinSize { at: at + 1 });
        }
        let thick = |s: &Stock| s.thickness_nm > THICKEST;
        if let Some(at) = self.stock.iter().position(thick) {
            return Err(ChooseError::ThickSize { at: at + 1 });
        }
        if !(Length::ZERO..=THICKEST).contains(&self.fitted) {
            return Err(ChooseError::BadFitted);
        }
        if self.dof.is_some_and(|d| d.is_nan() || d <= 0.0) {
            return Err(ChooseError::NoFreedom);
        }
        if self.aim.checked().is_err() {
            return Err(ChooseError::AimReversed);
        }
        let us = [self.u_nm, self.u_fitted_nm];
        let sound = |u: f64| u.is_finite() && u >= 0.0;
        let finite = self.clearance_nm.is_finite()
            && us.into_iter().all(sound)
            && self.stock.iter().all(|s| sound(s.u_nm));
        if finite {
            Ok(())
        } else {
            Err(ChooseError::NotFinite)
        }
    }

    /// The clearance that a total thickness would give: `c' = c − k (s − s0)`.
    fn predicted_nm(&self, total_nm: i64) -> f64 {
        self.clearance_nm - self.effect.k() * (total_nm - self.fitted.nm()) as f64
    }

    /// The total thickness that would give a clearance.
    fn total_for(&self, clearance_nm: f64) -> f64 {
        self.fitted.as_f64() + self.effect.k() * (self.clearance_nm - clearance_nm)
    }

    /// How surely a prediction is known whose pieces add this.
    ///
    /// # Formula
    /// Root-sum-square and Welch–Satterthwaite (JCGM 100:2008, 5.1.2 and G.4).
    pub fn doubt(&self, of_pieces: PiecesDoubt) -> Doubt {
        let added = of_pieces + PiecesDoubt::one(self.u_fitted_nm);
        let part = |from, u_nm, dof| Component { from, u_nm, dof };
        let (u_nm, dof) = combined_uncertainty(&[
            part(Source::Scatter, self.u_nm, self.dof),
            part(Source::Pieces, added.variance.sqrt(), None),
        ]);
        Doubt { u_nm, dof, added }
    }

    /// The chance that a prediction with such doubt lies from `low` to `high`, all in nanometres.
    ///
    /// # Formula
    /// `P(low ≤ c' ≤ high)` of what is known of the clearance and of the pieces, folded together (JCGM 101:2008, 7;
    /// JCGM 106:2012, 7).
    pub fn chance_between(&self, predicted_nm: f64, doubt: Doubt, (low, high): (f64, f64)) -> f64 {
        match &self.shape {
            Some(shape) => shape.between(&doubt.added.parts(), predicted_nm, low, high),
            None => probability_between(predicted_nm, doubt.u_nm, doubt.dof, low, high),
        }
    }

    /// The half-width of the 95 % interval of a prediction with such doubt, in nanometres.
    pub fn expanded_nm(&self, doubt: Doubt) -> f64 {
        match &self.shape {
            Some(shape) => shape.expanded_nm(&doubt.added.parts()),
            None => t95(doubt.dof) * doubt.u_nm,
        }
    }

    /// The chance that a prediction with such doubt lies in the window; `predicted_nm` in nanometres.
    pub fn chance(&self, predicted_nm: f64, doubt: Doubt) -> f64 {
        let ends = (self.window.low_nm(), self.window.high_nm());
        self.chance_between(predicted_nm, doubt, ends)
    }

    /// The harm to be expected of a prediction with such doubt, where missing on one side is worse.
    fn expected_harm(&self, predicted_nm: f64, doubt: Doubt) -> Option<f64> {
        let harm = self.harm?;
        let (low, high) = (self.window.low_nm(), self.window.high_nm());
        let tight = self.chance_between(predicted_nm, doubt, (f64::NEG_INFINITY, low));
        let loose = self.chance_between(predicted_nm, doubt, (high, f64::INFINITY));
        Some(harm.expected(tight, loose))
    }

    /// The clearances inside the window for which `reaches` holds, where it holds for any: it must
    /// hold best in the middle and less towards the limits. An open end stays open.
    pub(crate) fn band(&self, reaches: impl Fn(f64) -> bool) -> Option<(f64, f64)> {
        let (low, high) = (self.window.low_nm(), self.window.high_nm());
        let best = match (low.is_finite(), high.is_finite()) {
            (true, true) => f64::midpoint(low, high),
            (true, false) => low + FAR_INSIDE,
            _ => high - FAR_INSIDE,
        };
        if !reaches(best) {
            return None;
        }
        let edge = |limit: f64| {
            if limit.is_infinite() || reaches(limit) {
                return limit;
            }
            let (mut inside, mut outside) = (best, limit);
            while (outside - inside).abs() > 0.5 {
                let middle = f64::midpoint(inside, outside);
                if reaches(middle) {
                    inside = middle;
                } else {
                    outside = middle;
                }
            }
            inside
        };
        Some((edge(low), edge(high)))
    }

    /// Where a clearance lies, without regard to its uncertainty.
    pub(crate) fn lands(&self, clearance_nm: f64) -> Call {
        if self.window.holds(clearance_nm) {
            Call::In
        } else if clearance_nm < self.window.low_nm() {
            Call::Tight
        } else {
            Call::Loose
        }
    }

    /// A choice of this request held to another window; to none, it has no chance at all.
    pub fn held_to(&self, choice: Choice, window: Option<Window>) -> Choice {
        let Some(window) = window else {
            return Choice {
                chance: 0.0,
                reaches_floor: false,
                ..choice
            };
        };
        let own = Self {
            window,
            ..self.clone()
        };
        let predicted_nm = choice.predicted_nm;
        let chance = own.chance(predicted_nm, own.doubt(choice.of_pieces));
        Choice {
            chance,
            reaches_floor: chance >= own.required_probability,
            to_low_nm: window.low().map(|l| predicted_nm - l.as_f64()),
            to_high_nm: window.high().map(|h| h.as_f64() - predicted_nm),
            lands: own.lands(predicted_nm),
            ..choice
        }
    }

    /// Everything about a stack of the given lines of stock.
    fn describe(&self, stack: &[&Stock]) -> Choice {
        let pieces = pieces(stack);
        let total = stack.iter().map(|s| s.thickness_nm.nm()).sum::<i64>();
        let predicted_nm = self.predicted_nm(total);
        let mut sorted = stack.to_vec();
        sorted.sort_by(|a, b| a.order(b));
        let of_pieces = PiecesDoubt::of_stack(sorted);
        let doubt = self.doubt(of_pieces);
        let chance = self.chance(predicted_nm, doubt);
        Choice {
            working: self.working(&pieces, total, predicted_nm),
            pieces,
            total_nm: Length::from_nm(total),
            predicted_nm,
            u_nm: doubt.u_nm,
            dof: doubt.dof,
            expanded_nm: self.expanded_nm(doubt),
            of_pieces,
            chance,
            harm: self.expected_harm(predicted_nm, doubt),
            reaches_floor: chance >= self.required_probability,
            to_low_nm: self.window.low().map(|l| predicted_nm - l.as_f64()),
            to_high_nm: self.window.high().map(|h| h.as_f64() - predicted_nm),
            off_target_nm: self.aim.distance_nm(predicted_nm),
            lands: self.lands(predicted_nm),
            source: stack
                .iter()
                .map(|s| s.source)
                .max()
                .unwrap_or(Availability::OnHand),
        }
    }

    fn working(&self, pieces: &[Pieces], total: i64, predicted_nm: f64) -> Working {
        let mut lines = Vec::new();
        if pieces.iter().map(|p| p.count).sum::<u32>() > 1 {
            let mut line = Line::new();
            for (i, piece) in pieces.iter().enumerate() {
                if i > 0 {
                    line = line.text(" + ");
                }
                if piece.count > 1 {
                    line = line.text(format!("{} × ", piece.count));
                }
                line = line.length(piece.thickness_nm.as_f64());
            }
            lines.push(line.text(" = ").length(total as f64));
        }
        let alike = |p: &&Pieces| p.count > 1 && p.grade == Grade::Marked;
        for piece in pieces.iter().filter(alike) {
            let line = self.stock.iter().find(|s| piece.are_of(s));
            let limits = line.map_or(0.0, |s| f64::from(piece.count) * s.u_nm * 3_f64.sqrt());
            if limits > 0.0 {
                let line = Line::new().text(format!("{} × ", piece.count));
                lines.push(
                    line.length(piece.thickness_nm.as_f64())
                        .text(" out of one packet are off alike: ± ")
                        .length(limits),
                );
            }
        }
        let sign = match self.effect {
            Effect::Closes => " − (",
            Effect::Opens => " + (",
        };
        lines.push(
            Line::new()
                .clearance(self.clearance_nm)
                .text(sign)
                .length(total as f64)
                .text(" − ")
                .length(self.fitted.as_f64())
                .text(") = ")
                .clearance(predicted_nm),
        );
        lines
    }
}

/// The pieces of a stack, thickest first, those of one size together.
pub(crate) fn pieces(stack: &[&Stock]) -> Vec<Pieces> {
    let mut by_size = stack.to_vec();
    by_size.sort_by_key(|s| (std::cmp::Reverse(s.thickness_nm), s.source, s.grade));
    let mut pieces: Vec<Pieces> = Vec::new();
    for stock in by_size {
        match pieces.last_mut() {
            Some(last) if last.are_of(stock) => last.count += 1,
            _ => pieces.push(Pieces {
                thickness_nm: stock.thickness_nm,
                grade: stock.grade,
                count: 1,
                source: stock.source,
            }),
        }
    }
    pieces
}
