//! Selector gaps: how far the worst of the gears that a selector holds stands off the middle.
//!
//! At each gear, with the detent home, the gaps each side are taken; see [`crate::measure::centring`].

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::centring::{Centring, CentringError, Gaps, centre};
use crate::measure::estimate::{Unadjusted, finish, mean_nm, of_gauge, spread};
use crate::measure::fields::{FieldFault, LONGEST_TRAVEL, Shown, Taken, Typed, counted, up_to};
use crate::measure::limited_gaps::{LimitedGap, LimitedGapsError, Placement, ShaftEnds, place};
use crate::measure::{MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::{Length, Unit};

/// What a selector holds, and the shims at the ends of the shaft.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Selector {
    /// The gears, in the order of the drum.
    pub gears: Vec<Held>,
    /// The shims at the left end in nanometres, where that is known.
    pub left_nm: Vec<Length>,
    /// Those at the right.
    pub right_nm: Vec<Length>,
}

/// A gear that a selector holds.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Held {
    /// What people call it.
    pub name: String,
    /// How much it weighs.
    pub weight: u32,
    /// What its gaps may be, at the left and at the right, where they are not to be alike.
    pub limits: [Limits; 2],
}

impl Selector {
    /// Its gaps have limits of their own; they are to be alike otherwise.
    #[must_use]
    pub fn is_limited(&self) -> bool {
        let mut all = self.gears.iter().flat_map(|g| g.limits);
        all.any(|l| !l.are_open())
    }
}

/// What a gap may be; open where an end is none.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Limits {
    /// No less than this, in nanometres.
    pub least_nm: Option<Length>,
    /// No more than this, in nanometres.
    pub most_nm: Option<Length>,
}

impl Limits {
    /// The gap may be anything.
    #[must_use]
    pub const fn are_open(&self) -> bool {
        self.least_nm.is_none() && self.most_nm.is_none()
    }
}

/// The gaps each side of a gear that the selector holds, with the detent home, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GapsInput {
    /// Which gear of the sheet, counted from 1.
    pub gear: u16,
    /// The gap at its left.
    pub left: String,
    /// The gap at its right.
    pub right: String,
}

/// The gaps each side of a gear that the selector holds, with the detent home.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GapsReading {
    /// Which gear of the sheet, counted from 1.
    pub gear: u16,
    /// The gap at its left.
    pub left_nm: Length,
    /// The gap at its right.
    pub right_nm: Length,
}

impl Typed for GapsInput {
    type Reading = GapsReading;
    const METHODS: &'static [Method] = &[Method::SelectorGaps];

    fn text(&self) -> String {
        let (left, right) = (self.left.trim(), self.right.trim());
        format!("gear {}: {left} left, {right} right", self.gear)
    }

    fn read(&self, unit: Unit) -> Result<GapsReading, FieldFault> {
        Ok(GapsReading {
            gear: counted("gear", self.gear)?,
            left_nm: up_to("left", &self.left, unit, LONGEST_TRAVEL)?,
            right_nm: up_to("right", &self.right, unit, LONGEST_TRAVEL)?,
        })
    }
}

impl Taken for GapsReading {
    fn shown(&self) -> Shown {
        Shown::Gaps(self.left_nm, self.right_nm)
    }
}

/// Why gaps give no estimate.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SelectorError {
    /// The sheet names no gears.
    #[error("the sheet names no gears that the selector holds")]
    NotSaid,
    /// A gear that the sheet does not have.
    #[error("gear {gear}: the sheet has {count}, counted from 1")]
    NoSuchGear {
        /// The gear named.
        gear: u16,
        /// How many there are.
        count: usize,
    },
    /// Some have no gaps yet.
    #[error("the gaps of every gear are taken: still without, {}", .0.join(", "))]
    Untried(Vec<String>),
    /// See [`CentringError`].
    #[error(transparent)]
    Centring(#[from] CentringError),
    /// See [`LimitedGapsError`].
    #[error(transparent)]
    Limits(#[from] LimitedGapsError),
}

/// Each gear's gaps, taken together.
struct TakenGaps {
    gaps: Vec<Gaps>,
    /// How often each gear's were taken.
    counts: Vec<usize>,
    /// The scatter of the gaps that were taken more than once, or the gauge's.
    scatter: Option<scatter::Scatter>,
}

impl TakenGaps {
    fn of(taken: &[GapsReading], selector: &Selector, gauge: Gauge) -> Result<Self, MeasureError> {
        let count = selector.gears.len();
        if count == 0 {
            return Err(SelectorError::NotSaid.into());
        }
        if taken.is_empty() {
            return Err(MeasureError::NoReadings);
        }
        if let Some(bad) = taken.iter().find(|t| !(1..=count).contains(&t.gear.into())) {
            return Err(SelectorError::NoSuchGear {
                gear: bad.gear,
                count,
            }
            .into());
        }
        let mut untried = Vec::new();
        let mut gaps = Vec::new();
        let mut groups = Vec::new();
        let mut counts = Vec::new();
        for (at, held) in selector.gears.iter().enumerate() {
            let own: Vec<&GapsReading> = taken
                .iter()
                .filter(|t| usize::from(t.gear) == at + 1)
                .collect();
            if own.is_empty() {
                untried.push(held.name.clone());
                continue;
            }
            let sides = [|g: &GapsReading| g.left_nm, |g: &GapsReading| g.right_nm];
            let means = sides.map(|side| {
                let gaps: Vec<Length> = own.iter().map(|g| side(g)).collect();
                let mean = mean_nm(&gaps);
                groups.push(gaps);
                #[allow(clippy::cast_possible_truncation)] // a mean of lengths is a length
                Length::from_nm(mean.round() as i64)
            });
            counts.push(own.len());
            gaps.push(Gaps {
                name: held.name.clone(),
                left: means[0],
                right: means[1],
                weight: held.weight,
            });
        }
        if !untried.is_empty() {
            return Err(SelectorError::Untried(untried).into());
        }
        let told = scatter::within(&groups).filter(|(squares, _)| *squares > 0.0);
        let scatter = scatter(told, gauge.repeatability(), gauge.resolution().as_f64()).ok();
        Ok(Self {
            gaps,
            counts,
            scatter,
        })
    }

    /// The doubt of a figure that is one gap of a gear so many times over.
    fn parts(&self, gear: usize, times: f64, gauge: Gauge) -> Vec<Component> {
        let scatter = self.scatter.as_ref().map(|s| s.part(self.counts[gear]));
        scatter
            .into_iter()
            .chain(of_gauge(gauge, 1))
            .map(|part| Component {
                u_nm: part.u_nm * times,
                ..part
            })
            .collect()
    }
}

/// The worst weighted offset, with the centring that it comes of.
///
/// A gear's offset is half the difference of two gaps, each with the gauge's step and error and the scatter
/// of all the gaps that were taken more than once.
///
/// # Formula
/// `e = (left − right)/2`, weighted; `u = w √(u_left² + u_right²) / 2`.
///
/// # Errors
/// Where the sheet names no gears, a gear has no gaps yet, or as of [`centre`].
pub fn estimate(
    taken: &[GapsReading],
    selector: &Selector,
    gauge: Gauge,
) -> Result<(Estimate, Centring), MeasureError> {
    let found = TakenGaps::of(taken, selector, gauge)?;
    let centring =
        centre(&found.gaps, &selector.left_nm, &selector.right_nm).map_err(SelectorError::from)?;
    let weighted = |o: &crate::measure::centring::Offset| f64::from(o.weight) * o.now_nm.abs();
    let offsets: Vec<f64> = centring.gears.iter().map(weighted).collect();
    let worst = (0..offsets.len())
        .max_by(|a, b| offsets[*a].total_cmp(&offsets[*b]))
        .unwrap_or(0);
    // Two gaps, halved and weighted.
    let times = f64::from(found.gaps[worst].weight) / std::f64::consts::SQRT_2;
    let estimate = finish(
        Unadjusted {
            trial_nm: offsets[worst],
            readings: found.counts[worst],
            spread_nm: spread(&offsets),
            parts: found.parts(worst, times, gauge),
            scatter: None,
            working: centring.working.clone(),
        },
        &[],
    )?;
    Ok((estimate, centring))
}

/// What the worst gap has to spare, weighted, with where the shims put the shaft best.
///
/// # Formula
/// The distance to the nearer limit, over the gear's weight where it is kept and times it where it is not; `u` of one gap
/// as often.
///
/// # Errors
/// Where the sheet names no gears, a gear has no gaps yet, or as of [`place`].
pub fn spare(
    taken: &[GapsReading],
    selector: &Selector,
    gauge: Gauge,
) -> Result<(Estimate, Placement), MeasureError> {
    let found = TakenGaps::of(taken, selector, gauge)?;
    let mut gaps = Vec::new();
    let mut of_gear = Vec::new();
    for (at, (gear, held)) in found.gaps.iter().zip(&selector.gears).enumerate() {
        // Moving the shaft to the left takes off the left of a gear what it adds to its right.
        let sides = [("left", gear.left, -1), ("right", gear.right, 1)];
        for ((side, now, grows), limits) in sides.into_iter().zip(held.limits) {
            if limits.are_open() {
                continue;
            }
            of_gear.push(at);
            gaps.push(LimitedGap {
                name: format!("{}, {side}", held.name),
                now,
                grows: [grows, 0],
                least: limits.least_nm,
                most: limits.most_nm,
                weight: held.weight,
            });
        }
    }
    let ends = ShaftEnds {
        left: selector.left_nm.clone(),
        right: selector.right_nm.clone(),
        ..ShaftEnds::default()
    };
    let placement = place(&gaps, &[ends]).map_err(SelectorError::from)?;
    let spares: Vec<f64> = gaps.iter().map(LimitedGap::weighted_spare_nm).collect();
    let worst = (0..spares.len())
        .min_by(|a, b| spares[*a].total_cmp(&spares[*b]))
        .unwrap_or(0);
    let weight = f64::from(gaps[worst].weight);
    let times = if spares[worst] < 0.0 {
        weight
    } else {
        1.0 / weight
    };
    let estimate = finish(
        Unadjusted {
            trial_nm: spares[worst],
            readings: found.counts[of_gear[worst]],
            spread_nm: spread(&spares),
            parts: found.parts(of_gear[worst], times, gauge),
            scatter: None,
            working: placement.working.clone(),
        },
        &[],
    )?;
    Ok((estimate, placement))
}
