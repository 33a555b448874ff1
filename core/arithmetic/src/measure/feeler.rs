//! Feeler bracket: the largest leaf that goes, `G`, and the smallest that does not, `N`, put the
//! clearance in `[G, N)`: the midpoint, with `u = (N − G)/√12` (JCGM 100:2008, 4.3.7). It is in the
//! window only if the whole bracket is. [`advise`] names the leaf to try next.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_line, mean_nm, shift_nm, spread};
use crate::measure::fields::{FieldFault, LONGEST_TRAVEL, Says, Shown, Taken, Typed, fault, up_to};
use crate::measure::{Adjustment, MeasureError, Method};
use crate::uncertainty::estimate::{Bound, Bracket, Component, Estimate, Lies, Source};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::{Length, Unit};
use crate::units::working::Line;
use crate::verdict::window::Window;

/// How a leaf went.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fit {
    Goes,
    /// It does not.
    Refused,
    /// It goes and takes up all the float: a reading of its size.
    Just,
}

/// Leaves laid on each other spring: two are enough.
const MOST_LEAVES: usize = 4;

/// A feeler leaf, or leaves on each other, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LeafInput {
    /// Their sizes, with `+` between them.
    pub leaves: String,
    /// How it went.
    pub fit: Fit,
}

/// A feeler leaf, or leaves on each other.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct LeafReading {
    /// The leaves, as laid on each other.
    pub leaves_nm: Vec<Length>,
    /// How it went.
    pub fit: Fit,
}

impl Typed for LeafInput {
    type Reading = LeafReading;
    const METHODS: &'static [Method] = &[Method::Feeler];

    fn text(&self) -> String {
        let fit = match self.fit {
            Fit::Goes => "goes",
            Fit::Refused => "does not go",
            Fit::Just => "just fills it",
        };
        format!("{} {fit}", self.leaves.trim())
    }

    fn read(&self, unit: Unit) -> Result<LeafReading, FieldFault> {
        let leaves_nm: Vec<Length> = self
            .leaves
            .split('+')
            .map(|leaf| up_to("leaves", leaf, unit, LONGEST_TRAVEL))
            .collect::<Result<_, _>>()?;
        if leaves_nm.contains(&Length::ZERO) {
            return Err(fault("leaves", "a leaf is thicker than nothing"));
        }
        if leaves_nm.len() > MOST_LEAVES {
            return Err(fault(
                "leaves",
                format!("more than {MOST_LEAVES} leaves spring: use a thicker one"),
            ));
        }
        Ok(LeafReading {
            leaves_nm,
            fit: self.fit,
        })
    }
}

impl Taken for LeafReading {
    fn shown(&self) -> Shown {
        let add = |sum: Length, leaf: &Length| sum.checked_add(*leaf);
        let sum = self.leaves_nm.iter().try_fold(Length::ZERO, add);
        sum.map_or(Shown::Nothing, |length| Shown::Length {
            length,
            of: 0,
            says: match self.fit {
                Fit::Goes => Says::AtLeast,
                Fit::Refused => Says::Less,
                Fit::Just => Says::Exactly,
            },
        })
    }
}

/// A leaf, or leaves laid on each other, tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Try {
    /// The thickness tried.
    pub size: Length,
    /// How it went.
    pub fit: Fit,
}

/// Why leaves tried give no estimate.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum FeelerError {
    /// Something thicker went than was refused.
    #[error(
        "{goes} goes, yet {refused} does not: one of the two is wrong. Wipe the leaves, try both again, and strike the wrong one out"
    )]
    GoAboveNoGo {
        /// The thickest that went.
        goes: Length,
        /// The thinnest that was refused.
        refused: Length,
    },
    /// Only leaves that go.
    #[error("{goes} goes and nothing has been refused yet: try a thicker leaf")]
    NothingRefused {
        /// The thickest that went.
        goes: Length,
    },
}

/// What the leaves tried so far leave open: `goes ≤ c < refused`.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::feeler::{open, Fit, Try};
/// let size = |nm| Length::from_nm(nm);
/// let tries = [(100_000, Fit::Goes), (150_000, Fit::Refused), (120_000, Fit::Goes)]
///     .map(|(nm, fit)| Try { size: size(nm), fit });
/// assert_eq!(open(&tries).unwrap(), (size(120_000), Some(size(150_000))));
/// ```
///
/// # Errors
/// Where a leaf went that is no thinner than one that did not.
pub fn open(tries: &[Try]) -> Result<(Length, Option<Length>), FeelerError> {
    let goes = tries
        .iter()
        .filter(|t| t.fit != Fit::Refused)
        .map(|t| t.size)
        .max()
        .unwrap_or(Length::ZERO);
    let refused = tries
        .iter()
        .filter(|t| t.fit == Fit::Refused)
        .map(|t| t.size)
        .min();
    match refused {
        Some(refused) if goes >= refused => Err(FeelerError::GoAboveNoGo { goes, refused }),
        _ => Ok((goes, refused)),
    }
}

/// What leaves say that all go: the clearance is the thickest of them or more, in the final build `shift_nm` more.
pub(super) fn bound(tries: &[Try], shift_nm: f64) -> Option<Bound> {
    match open(tries) {
        Ok((goes, None)) if goes > Length::ZERO => Some(Bound {
            limit_nm: goes.as_f64() + shift_nm,
            lies: Lies::Above,
        }),
        _ => None,
    }
}

/// Estimates a clearance from leaves tried. `gauge` is the set: the error of its leaves, and its
/// finest step.
///
/// ```
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::feeler::{estimate, Fit, Try};
/// let set = Gauge::new(Length::from_nm(10_000), Length::ZERO, None).unwrap();
/// let tries = [(100_000, Fit::Goes), (160_000, Fit::Refused)]
///     .map(|(nm, fit)| Try { size: Length::from_nm(nm), fit });
/// let found = estimate(&tries, set, &[]).unwrap();
/// assert_eq!(found.clearance_nm, 130_000.0);
/// assert!((found.u_nm - 60_000.0 / 12_f64.sqrt()).abs() < 1e-9);
/// ```
///
/// # Formula
/// `(G + N)/2`, `u = (N − G)/√12` (JCGM 100:2008, 4.3.7).
///
/// # Errors
/// As of [`open`]; and where no leaf was tried, or none was refused.
pub fn estimate(
    tries: &[Try],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    if tries.is_empty() {
        return Err(MeasureError::NoReadings);
    }
    let (goes, refused) = open(tries)?;
    let just: Vec<Length> = tries
        .iter()
        .filter(|t| t.fit == Fit::Just)
        .map(|t| t.size)
        .collect();
    let error = Component {
        from: Source::PermissibleError,
        u_nm: gauge.u_error_nm(),
        dof: None,
    };
    if !just.is_empty() {
        return estimate_just(&just, error, gauge, adjustments);
    }
    let refused = refused.ok_or(FeelerError::NothingRefused { goes })?;
    let (from, to) = (goes.as_f64(), refused.as_f64());
    let bracket = Component {
        from: Source::Bracket,
        u_nm: (to - from) / 12_f64.sqrt(),
        dof: None,
    };
    let working = vec![
        Line::new()
            .length(from)
            .text(" goes, ")
            .length(to)
            .text(" does not: (")
            .length(from)
            .text(" + ")
            .length(to)
            .text(") ÷ 2 = ")
            .length(f64::midpoint(from, to)),
        Line::new()
            .text("u = (")
            .length(to)
            .text(" − ")
            .length(from)
            .text(") ÷ √12 = ")
            .length(bracket.u_nm),
    ];
    let found = Unadjusted {
        trial_nm: f64::midpoint(from, to),
        readings: tries.len(),
        spread_nm: to - from,
        parts: vec![bracket, error],
        scatter: None,
        working,
    };
    let mut estimate = finish(found, adjustments)?;
    let shift = shift_nm(adjustments);
    estimate.bracket = Some(Bracket {
        from_nm: from + shift,
        to_nm: to + shift,
    });
    // The last two spoke of a spread in a bell; a bracket has ends.
    estimate.working.pop();
    if let Some(last) = estimate.working.last_mut() {
        *last = Line::new()
            .text("somewhere from ")
            .clearance(from + shift)
            .text(" to ")
            .clearance(to + shift);
    }
    Ok(estimate)
}

/// A leaf that takes up all the float is a reading of its size, to within the set's step.
fn estimate_just(
    sizes: &[Length],
    error: Component,
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    let mean = mean_nm(sizes);
    let n = sizes.len();
    let figures: Vec<f64> = sizes.iter().map(|s| s.as_f64()).collect();
    let squares: f64 = figures.iter().map(|f| (f - mean).powi(2)).sum();
    let step = Component {
        from: Source::Resolution,
        u_nm: gauge.u_resolution_nm(),
        dof: None,
    };
    let own = (n > 1 && squares > 0.0).then(|| Component {
        from: Source::Scatter,
        u_nm: (squares / (n as f64 - 1.0) / n as f64).sqrt(),
        dof: Some(n as f64 - 1.0),
    });
    let found = Unadjusted {
        trial_nm: mean,
        readings: n,
        spread_nm: spread(&figures),
        scatter: None,
        parts: own.into_iter().chain([step, error]).collect(),
        working: vec![mean_line(&figures, mean)],
    };
    finish(found, adjustments)
}

/// What to try next.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Advice {
    /// Try this leaf, or these two on each other.
    Try {
        /// The leaves, thickest first.
        leaves_nm: Vec<Length>,
        /// Together.
        size_nm: Length,
        /// With it, so many tries settle the verdict at the most.
        at_most: u32,
    },
    /// The verdict is settled.
    Settled,
    /// A limit lies between two neighbouring sizes that the set can make: its leaves cannot settle it.
    CannotSettle,
}

/// A size that a set can make.
#[derive(Clone, Debug)]
struct Makes {
    size: Length,
    leaves: Vec<Length>,
}

/// All sizes of one leaf or two, ascending; one leaf before two of the same size.
fn sizes(set: &[Length]) -> Vec<Makes> {
    let mut leaves: Vec<Length> = set.iter().copied().filter(|l| *l > Length::ZERO).collect();
    leaves.sort_unstable();
    leaves.dedup();
    let mut all: Vec<Makes> = leaves
        .iter()
        .map(|l| Makes {
            size: *l,
            leaves: vec![*l],
        })
        .collect();
    for (at, thick) in leaves.iter().enumerate() {
        for thin in &leaves[..at] {
            if let Some(size) = thick.checked_add(*thin) {
                all.push(Makes {
                    size,
                    leaves: vec![*thick, *thin],
                });
            }
        }
    }
    all.sort_by_key(|m| (m.size, m.leaves.len()));
    all.dedup_by_key(|m| m.size);
    all
}

/// The leaf, or pair of leaves, of the shop's set to try next so that the verdict is settled in the
/// fewest tries, whatever the clearance is; one leaf before two where both do.
///
/// Only the sizes next to a limit can matter: the largest at or below it and the smallest at or
/// above it. Among those few, every order of trying is looked through.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::feeler::{advise, Advice};
/// use anvil_arithmetic::verdict::window::Window;
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let set: Vec<_> = [5, 10, 15, 20, 25, 30].map(mm).to_vec();
/// let window = Window::new(Some(mm(10)), Some(mm(25))).unwrap();
/// let first = advise((mm(0), None), &set, window, &[]);
/// assert!(matches!(first, Advice::Try { at_most: 2, .. }));
/// assert_eq!(advise((mm(15), Some(mm(20))), &set, window, &[]), Advice::Settled);
/// ```
#[must_use]
pub fn advise(
    open: (Length, Option<Length>),
    set: &[Length],
    window: Window,
    adjustments: &[Adjustment],
) -> Advice {
    let shift: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
    let limit = |l: Option<Length>| l.map(|l| l.nm() - shift);
    let ends = Ends {
        low: limit(window.low()),
        high: limit(window.high()),
    };
    let from = open.0.nm();
    let to = open.1.map_or(i64::MAX, Length::nm);
    if ends.settled(from, to) {
        return Advice::Settled;
    }
    let all = sizes(set);
    let between: Vec<&Makes> = all
        .iter()
        .filter(|m| from < m.size.nm() && m.size.nm() < to)
        .collect();
    let mut useful: Vec<&Makes> = Vec::new();
    for limit in [ends.low, ends.high].into_iter().flatten() {
        useful.extend(between.iter().rev().find(|m| m.size.nm() <= limit).copied());
        useful.extend(between.iter().find(|m| m.size.nm() >= limit).copied());
        // A leaf of the limit's own size that goes may still be the limit itself.
        useful.extend(between.iter().find(|m| m.size.nm() > limit).copied());
    }
    useful.sort_by_key(|m| m.size);
    useful.dedup_by_key(|m| m.size);
    let nm: Vec<i64> = useful.iter().map(|m| m.size.nm()).collect();
    let middle = |at: usize| {
        let to = if to == i64::MAX { nm[nm.len() - 1] } else { to };
        (nm[at] - i64::midpoint(from, to)).abs()
    };
    (0..nm.len())
        .map(|at| {
            let goes = ends.most_tries(&nm[at + 1..], nm[at], to);
            let refused = ends.most_tries(&nm[..at], from, nm[at]);
            (
                1 + goes.max(refused),
                useful[at].leaves.len(),
                middle(at),
                at,
            )
        })
        .min()
        .map_or(Advice::CannotSettle, |(tries, _, _, at)| Advice::Try {
            leaves_nm: useful[at].leaves.clone(),
            size_nm: useful[at].size,
            at_most: tries,
        })
}

/// The limits of the window in the trial build.
struct Ends {
    low: Option<i64>,
    high: Option<i64>,
}

impl Ends {
    /// Whether a clearance anywhere in `[from, to)` has the same verdict.
    fn settled(&self, from: i64, to: i64) -> bool {
        let inside = self.low.is_none_or(|l| from >= l) && self.high.is_none_or(|h| to <= h);
        let tight = self.low.is_some_and(|l| to <= l);
        let loose = self.high.is_some_and(|h| from > h);
        inside || tight || loose
    }

    /// How many tries of the sizes in between settle it at the most, tried in the best order;
    /// nothing where it is settled or no size can tell more.
    fn most_tries(&self, sizes: &[i64], from: i64, to: i64) -> u32 {
        if self.settled(from, to) {
            return 0;
        }
        (0..sizes.len())
            .map(|at| {
                let goes = self.most_tries(&sizes[at + 1..], sizes[at], to);
                let refused = self.most_tries(&sizes[..at], from, sizes[at]);
                1 + goes.max(refused)
            })
            .min()
            .unwrap_or(0)
    }
}
