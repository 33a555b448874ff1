//! Selector centring: where along its line a shaft makes the sliding gears stand best between their
//! neighbours, and how the shims at its ends get it there with the float kept.
//!
//! At each gear, with the detent home, the gaps each side give the offset `e = (left − right) / 2`. Moving
//! the shaft to the left by `x` takes `x` off all of them. The best `x` makes the worst weighted offset least
//! (trade practice); a gear with no stop of its own weighs most.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::length::Length;
use crate::units::working::{Line, Working};

/// The most gears of a box.
pub const MOST_GEARS: usize = 24;
/// The most shims at both ends together: every way of sharing them out is tried.
pub const MOST_SHIMS: usize = 14;
/// How many arrangements are given.
const BEST: usize = 5;

/// A gear as the selector holds it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Gaps {
    /// What people call it.
    pub name: String,
    /// The gap at its left with the detent home.
    pub left: Length,
    /// The gap at its right.
    pub right: Length,
    /// How much it weighs: one, or more where it floats between two with no stop of its own.
    pub weight: u32,
}

/// Why gaps cannot be centred.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum CentringError {
    /// No gear, or too many.
    #[error("gears: give the gaps of from 1 to {MOST_GEARS} gears")]
    Gears,
    /// A gap below nothing.
    #[error("{0}: a gap is zero or more")]
    Gap(String),
    /// A weight of nothing, or beyond reason.
    #[error("{0}: a gear weighs from 1 to 100")]
    Weight(String),
    /// Too many shims.
    #[error("shims: up to {MOST_SHIMS} at both ends together can be shared out")]
    Shims,
    /// A shim of nothing.
    #[error("shims: a shim is thicker than nothing")]
    NoShim,
}

/// A gear's offset, now and moved.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Offset {
    /// What people call it.
    pub name: String,
    /// The gap at its left now, in nanometres.
    pub left_nm: Length,
    /// The gap at its right now.
    pub right_nm: Length,
    /// How much it weighs.
    pub weight: u32,
    /// How far it stands off the middle now, in nanometres: to the right of it above zero.
    pub now_nm: f64,
    /// And in the best arrangement.
    pub then_nm: f64,
}

/// One way of sharing the shims out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Arrangement {
    /// The shims at the left, thickest first, in nanometres.
    pub left_nm: Vec<Length>,
    /// The shims at the right.
    pub right_nm: Vec<Length>,
    /// How far the shaft moves to the left, in nanometres; below zero to the right.
    pub shift_nm: Length,
    /// The worst offset then, weighted, in nanometres.
    pub worst_nm: f64,
    /// The gears that touch then, where any does.
    pub fouls: Vec<String>,
}

/// Where a shaft stands best.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Centring {
    /// The gears, with their offsets now and in the best arrangement.
    pub gears: Vec<Offset>,
    /// The worst weighted offset now, in nanometres.
    pub worst_now_nm: f64,
    /// The move to the left that would be best if shims of every thickness were there, in nanometres.
    pub best_shift_nm: f64,
    /// The worst weighted offset then.
    pub best_worst_nm: f64,
    /// The ways of sharing out the shims that are there, the best first, the one now among them.
    pub arrangements: Vec<Arrangement>,
    /// The arithmetic.
    pub working: Working,
}

impl Centring {
    /// The worst weighted offset that a move of the shaft to the left would leave, in nanometres.
    #[must_use]
    pub fn worst_after(&self, to_left: Length) -> f64 {
        let weighted = |o: &Offset| f64::from(o.weight) * (o.now_nm - to_left.as_f64()).abs();
        self.gears.iter().map(weighted).fold(0.0, f64::max)
    }
}

/// Twice the offset, in whole nanometres, so that nothing is rounded.
fn twice(gear: &Gaps) -> i64 {
    gear.left.nm() - gear.right.nm()
}

/// Twice the worst weighted offset after a move to the left by `x`.
fn worst(gears: &[Gaps], x: i64) -> i64 {
    gears
        .iter()
        .map(|g| i64::from(g.weight) * (twice(g) - 2 * x).abs())
        .max()
        .unwrap_or(0)
}

/// The move that makes the worst weighted offset least, and that offset. Two weighted offsets are alike where
/// their lines cross, at `(w₁e₁ + w₂e₂) / (w₁ + w₂)`; the pair that crosses highest decides.
fn best(gears: &[Gaps]) -> (f64, f64) {
    let e = |g: &Gaps| twice(g) as f64 / 2.0;
    let mut found = (e(&gears[0]), 0.0);
    for (i, a) in gears.iter().enumerate() {
        for b in &gears[i + 1..] {
            let (wa, wb) = (f64::from(a.weight), f64::from(b.weight));
            let height = wa * wb * (e(a) - e(b)).abs() / (wa + wb);
            if height > found.1 {
                found = ((wa * e(a) + wb * e(b)) / (wa + wb), height);
            }
        }
    }
    found
}

/// Where the shaft stands best, and how the shims at its two ends get it nearest: all are shared out anew
/// between the ends, so that the float stays what it is.
///
/// ```
/// use anvil_arithmetic::measure::centring::{centre, Gaps};
/// use anvil_arithmetic::units::length::Length;
/// let um = |um: i64| Length::from_nm(um * 1_000);
/// let gear = |left, right| Gaps { name: "second".into(), left: um(left), right: um(right), weight: 1 };
/// // 0.9 and 1.3 at one gear, 0.7 and 1.1 at the other: 0.2 to the right evens both out.
/// let found = centre(&[gear(900, 1_300), gear(700, 1_100)], &[um(500)], &[um(300)]).unwrap();
/// assert_eq!(found.best_shift_nm, -200_000.0);
/// // 0.5 lies at the left and 0.3 at the right: with both at the left it moves 0.3 to the right, the nearest.
/// assert_eq!((found.arrangements[0].shift_nm, found.arrangements[0].worst_nm), (um(-300), 100_000.0));
/// ```
///
/// # Errors
/// Where there are no gears or too many, a gap is below nothing, a weight is not from 1 to 100, or a shim is nothing or one
/// too many.
pub fn centre(
    gears: &[Gaps],
    left: &[Length],
    right: &[Length],
) -> Result<Centring, CentringError> {
    if gears.is_empty() || gears.len() > MOST_GEARS {
        return Err(CentringError::Gears);
    }
    for gear in gears {
        if gear.left < Length::ZERO || gear.right < Length::ZERO {
            return Err(CentringError::Gap(gear.name.clone()));
        }
        if !(1..=100).contains(&gear.weight) {
            return Err(CentringError::Weight(gear.name.clone()));
        }
    }
    let arrangements = arrange(gears, left, right)?;
    let shift = arrangements[0].shift_nm.nm();
    let (best_shift_nm, best_worst_nm) = best(gears);
    let worst_now_nm = worst(gears, 0) as f64 / 2.0;
    let offsets = gears
        .iter()
        .map(|g| Offset {
            name: g.name.clone(),
            left_nm: g.left,
            right_nm: g.right,
            weight: g.weight,
            now_nm: twice(g) as f64 / 2.0,
            then_nm: twice(g) as f64 / 2.0 - shift as f64,
        })
        .collect();
    let working = working(gears, best_shift_nm, best_worst_nm, &arrangements[0]);
    Ok(Centring {
        gears: offsets,
        worst_now_nm,
        best_shift_nm,
        best_worst_nm,
        arrangements,
        working,
    })
}

/// Every way of sharing the shims out between the ends, the best first: least worst offset, then least move,
/// then fewest shims that change ends.
fn arrange(
    gears: &[Gaps],
    left: &[Length],
    right: &[Length],
) -> Result<Vec<Arrangement>, CentringError> {
    let shims: Vec<Length> = left.iter().chain(right).copied().collect();
    if shims.len() > MOST_SHIMS {
        return Err(CentringError::Shims);
    }
    if shims.iter().any(|s| *s <= Length::ZERO) {
        return Err(CentringError::NoShim);
    }
    let now: i64 = left.iter().map(|s| s.nm()).sum();
    let stays = (1_u32 << left.len()) - 1;
    let mut ways: Vec<(i64, i64, u32, u32)> = (0..1_u32 << shims.len())
        .map(|at_left| {
            let then: i64 = shims
                .iter()
                .enumerate()
                .filter(|(i, _)| at_left >> i & 1 == 1)
                .map(|(_, s)| s.nm())
                .sum();
            // What is taken out at the left lets the shaft move to the left.
            let x = now - then;
            (worst(gears, x), x, (at_left ^ stays).count_ones(), at_left)
        })
        .collect();
    ways.sort_by_key(|(worst, x, moved, at)| (*worst, x.abs(), *moved, *at));
    // One arrangement for each place that the shaft can be moved to.
    let mut seen = std::collections::BTreeSet::new();
    ways.retain(|(_, x, ..)| seen.insert(*x));
    let kept = ways
        .iter()
        .enumerate()
        .filter(|(i, (_, x, ..))| *i < BEST || *x == 0)
        .map(|(_, way)| way);
    Ok(kept
        .map(|(worst, x, _, at_left)| {
            let side = |wanted: u32| {
                let mut side: Vec<Length> = shims
                    .iter()
                    .enumerate()
                    .filter(|(i, _)| at_left >> i & 1 == wanted)
                    .map(|(_, s)| *s)
                    .collect();
                side.sort_unstable_by(|a, b| b.cmp(a));
                side
            };
            Arrangement {
                left_nm: side(1),
                right_nm: side(0),
                shift_nm: Length::from_nm(*x),
                worst_nm: *worst as f64 / 2.0,
                fouls: gears
                    .iter()
                    .filter(|g| g.left.nm() - x <= 0 || g.right.nm() + x <= 0)
                    .map(|g| g.name.clone())
                    .collect(),
            }
        })
        .collect())
}

fn working(gears: &[Gaps], shift: f64, worst: f64, first: &Arrangement) -> Working {
    let mut lines: Working = gears
        .iter()
        .map(|g| {
            let times = if g.weight > 1 {
                format!(", weighs {}", g.weight)
            } else {
                String::new()
            };
            Line::new()
                .text(format!("{}: (", g.name))
                .length(g.left.as_f64())
                .signed_length(-g.right.as_f64())
                .text(") ÷ 2 = ")
                .length(twice(g) as f64 / 2.0)
                .text(times)
        })
        .collect();
    lines.push(
        Line::new()
            .text("best move to the left ")
            .length(shift)
            .text(", worst offset then ")
            .length(worst),
    );
    lines.push(
        Line::new()
            .text("with these shims ")
            .length(first.shift_nm.as_f64())
            .text(", worst offset ")
            .length(first.worst_nm),
    );
    lines
}
