//! Known shim: for a preload, which cannot be felt. A shim of known thickness `a` is added on the
//! side that opens the gap, and the float `f` is measured: `c = f − a`. Two set-ups must agree; where
//! they do not, the figure is not used until one is struck out.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_line, mean_nm, of_gauge, spread};
use crate::measure::fields::{FieldFault, LONGEST_TRAVEL, Shown, Taken, Typed, fault, up_to};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate, Source, explained_nm};
use crate::uncertainty::gauge::Gauge;
use crate::units::length::{Length, Unit};
use crate::units::working::Line;

/// A float, measured with a known shim in, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShimInput {
    /// The shim; “none” or 0 with none in. It is said with every float: the same float says another thing without it.
    pub shim: String,
    pub float: String,
}

/// A float, measured with a known shim in.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ShimReading {
    /// The shim's thickness; zero with none in.
    pub shim_nm: Length,
    /// The float that was felt.
    pub float_nm: Length,
}

impl Typed for ShimInput {
    type Reading = ShimReading;
    const METHODS: &'static [Method] = &[Method::KnownShim];

    fn text(&self) -> String {
        format!("{} in, float {}", self.shim.trim(), self.float.trim())
    }

    fn read(&self, unit: Unit) -> Result<ShimReading, FieldFault> {
        Ok(ShimReading {
            shim_nm: match self.shim.trim() {
                "" => {
                    return Err(fault(
                        "shim",
                        "say how thick the shim is that is in, or “none”",
                    ));
                }
                none if none.eq_ignore_ascii_case("none") => Length::ZERO,
                shim => up_to("shim", shim, unit, LONGEST_TRAVEL)?,
            },
            float_nm: up_to("float", &self.float, unit, LONGEST_TRAVEL)?,
        })
    }
}

impl Taken for ShimReading {
    fn shown(&self) -> Shown {
        Shown::length_of(Some(self.float_nm), self.shim_nm.nm())
    }
}

/// The floats of one set-up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SetUp {
    /// The shim's thickness in nanometres; zero with none in.
    pub shim_nm: Length,
    /// The mean float in nanometres.
    pub float_nm: f64,
    /// The clearance it gives without the shim, in nanometres. Where nothing moved: no more than this.
    pub gives_nm: f64,
    /// The standard uncertainty of that in nanometres.
    pub u_nm: f64,
    /// Nothing moved, so that it only proves a limit.
    pub at_most: bool,
}

/// Why floats with a known shim give no estimate.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum KnownShimError {
    /// A negative figure.
    #[error("a shim and a float are zero or more: check reading {trial}")]
    Negative {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// Nothing moved in any set-up.
    #[error(
        "nothing moves even with {shim} in: that proves only that the preload is that much or more. Try a thicker shim"
    )]
    StillTight {
        /// The thickest shim tried.
        shim: Length,
    },
    /// Two set-ups that cannot both be right.
    #[error(
        "the set-ups contradict each other: with {first} in it comes to {first_gives}, with {second} in to {second_gives}. Look for a burr on the shim, the shim fouling the cage, a cup not home; then strike the wrong one out. Until then no figure is used"
    )]
    Contradiction {
        /// The shim of the first.
        first: Length,
        first_gives: String,
        /// The shim of the second.
        second: Length,
        second_gives: String,
    },
}

/// The set-ups, by the shim's thickness. `u_shim_nm` is the standard uncertainty of a shim's thickness.
fn set_ups(
    taken: &[ShimReading],
    gauge: Gauge,
    s_nm: Option<f64>,
    u_shim_nm: f64,
) -> Vec<(SetUp, Vec<Length>)> {
    grouped(taken)
        .into_iter()
        .map(|(shim, floats)| {
            let float_nm = mean_nm(&floats);
            let scatter = s_nm.unwrap_or(0.0) / (floats.len() as f64).sqrt();
            let of_shim = if shim > Length::ZERO { u_shim_nm } else { 0.0 };
            let u_nm = [
                scatter,
                gauge.u_resolution_nm(),
                gauge.u_error_nm(),
                of_shim,
            ]
            .iter()
            .map(|u| u * u)
            .sum::<f64>()
            .sqrt();
            let set_up = SetUp {
                shim_nm: shim,
                float_nm,
                gives_nm: float_nm - shim.as_f64(),
                u_nm,
                at_most: floats.iter().all(|f| *f == Length::ZERO),
            };
            (set_up, floats)
        })
        .collect()
}

/// What known shims found: the estimate or why there is none, and each set-up, kept either way.
pub type Outcome = (Result<Estimate, MeasureError>, Vec<SetUp>);

/// Estimates a clearance from floats measured with known shims in.
///
/// ```
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::known_shim::{estimate, ShimReading};
/// // Common practice, no source: 3 thou in, 1 thou float: 2 thou preload.
/// let thou = |t: i64| Length::from_nm(t * 25_400);
/// let gauge = Gauge::new(Length::from_nm(2_540), Length::ZERO, None).unwrap();
/// let taken = [ShimReading { shim_nm: thou(3), float_nm: thou(1) }; 2];
/// let (found, _) = estimate(&taken, gauge, 0.0, &[]);
/// assert_eq!(found.unwrap().clearance_nm, -2.0 * 25_400.0);
/// ```
///
/// # Formula
/// `c = f − a`, floats `f` with a shim of thickness `a` in (trade practice); two set-ups agree where
/// `|c₁ − c₂| ≤ t95(ν) √(u₁² + u₂²)`, each without the error of the gauge that read both.
pub fn estimate(
    taken: &[ShimReading],
    gauge: Gauge,
    u_shim_nm: f64,
    adjustments: &[Adjustment],
) -> Outcome {
    if taken.is_empty() {
        return (Err(MeasureError::NoReadings), Vec::new());
    }
    let negative = |t: &ShimReading| t.shim_nm < Length::ZERO || t.float_nm < Length::ZERO;
    if let Some(at) = taken.iter().position(negative) {
        return (
            Err(KnownShimError::Negative { trial: at + 1 }.into()),
            Vec::new(),
        );
    }
    let scattered = scatter(
        within(taken),
        gauge.repeatability(),
        gauge.resolution().as_f64(),
    );
    let s_nm = scattered.as_ref().ok().map(|s| s.s_nm);
    let all = set_ups(taken, gauge, s_nm, u_shim_nm);
    let set_ups: Vec<SetUp> = all.iter().map(|(s, _)| s.clone()).collect();
    let dof = scattered.as_ref().ok().and_then(|s| s.dof);
    let found = contradiction(&set_ups, dof, gauge.u_error_nm())
        .and(scattered)
        .and_then(|scatter| from_set_ups(&all, &scatter, gauge, u_shim_nm, adjustments));
    (found, set_ups)
}

/// The scatter within the set-ups, those that moved: sum of squares and degrees of freedom.
pub(crate) fn within(taken: &[ShimReading]) -> Option<(f64, f64)> {
    let moved = |floats: &Vec<Length>| floats.iter().any(|f| *f != Length::ZERO);
    let groups = grouped(taken).into_iter().map(|(_, floats)| floats);
    scatter::within(&groups.filter(moved).collect::<Vec<_>>())
}

/// The floats by the shim that was in, the thinnest first.
fn grouped(taken: &[ShimReading]) -> Vec<(Length, Vec<Length>)> {
    let mut shims: Vec<Length> = taken.iter().map(|t| t.shim_nm).collect();
    shims.sort_unstable();
    shims.dedup();
    let floats = |shim: Length| {
        taken
            .iter()
            .filter(|t| t.shim_nm == shim)
            .map(|t| t.float_nm)
            .collect()
    };
    shims.into_iter().map(|shim| (shim, floats(shim))).collect()
}

/// Fails where two set-ups cannot both be right.
///
/// # Formula
/// Two floats that one gauge read are off alike by its error, which their difference does not have (JCGM 100:2008, 5.2).
/// Where nothing moved in one of them, only the other has it.
fn contradiction(set_ups: &[SetUp], dof: Option<f64>, u_error_nm: f64) -> Result<(), MeasureError> {
    let alone = |s: &SetUp| (s.u_nm * s.u_nm - u_error_nm * u_error_nm).max(0.0).sqrt();
    for (at, first) in set_ups.iter().enumerate() {
        for second in &set_ups[at + 1..] {
            let explained = if first.at_most || second.at_most {
                explained_nm((first.u_nm, dof), (second.u_nm, dof))
            } else {
                explained_nm((alone(first), dof), (alone(second), dof))
            };
            let off = first.gives_nm - second.gives_nm;
            // Where nothing moved, only a figure above that limit contradicts.
            let apart = match (first.at_most, second.at_most) {
                (true, true) => false,
                (true, false) => -off > explained,
                (false, true) => off > explained,
                (false, false) => off.abs() > explained,
            };
            if apart {
                return Err(KnownShimError::Contradiction {
                    first: first.shim_nm,
                    first_gives: first.said(),
                    second: second.shim_nm,
                    second_gives: second.said(),
                }
                .into());
            }
        }
    }
    Ok(())
}

impl SetUp {
    fn said(&self) -> String {
        #[allow(clippy::cast_possible_truncation)] // ten metres at the most
        let size = Length::from_nm(self.gives_nm.abs().round() as i64);
        let word = if self.gives_nm < 0.0 {
            "preload"
        } else {
            "float"
        };
        let limit = match (self.at_most, self.gives_nm < 0.0) {
            (true, true) => " or more",
            (true, false) => " or less",
            (false, _) => "",
        };
        format!("{size} {word}{limit}")
    }
}

fn from_set_ups(
    all: &[(SetUp, Vec<Length>)],
    scatter: &scatter::Scatter,
    gauge: Gauge,
    u_shim_nm: f64,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    let moving: Vec<&(SetUp, Vec<Length>)> = all.iter().filter(|(s, _)| !s.at_most).collect();
    if moving.is_empty() {
        let thickest = all.iter().map(|(s, _)| s.shim_nm).max().unwrap_or_default();
        return Err(if thickest > Length::ZERO {
            KnownShimError::StillTight { shim: thickest }.into()
        } else {
            MeasureError::NoFloat
        });
    }
    let mut gives: Vec<f64> = Vec::new();
    let mut working = Vec::new();
    for (set_up, floats) in &moving {
        let figures: Vec<f64> = floats.iter().map(|f| f.as_f64()).collect();
        working.push(mean_line(&figures, set_up.float_nm));
        working.push(
            Line::new()
                .length(set_up.float_nm)
                .text(" − shim ")
                .length(set_up.shim_nm.as_f64())
                .text(" = ")
                .clearance(set_up.gives_nm),
        );
        gives.extend(figures.iter().map(|f| f - set_up.shim_nm.as_f64()));
    }
    let n = gives.len();
    let mean = gives.iter().sum::<f64>() / n as f64;
    if moving.len() > 1 {
        working.push(
            Line::new()
                .text("the set-ups agree; together ")
                .clearance(mean),
        );
    }
    let shims = moving
        .iter()
        .filter(|(s, _)| s.shim_nm > Length::ZERO)
        .map(|(_, floats)| Component {
            from: Source::Tolerance,
            u_nm: floats.len() as f64 / n as f64 * u_shim_nm,
            dof: None,
        });
    let found = Unadjusted {
        trial_nm: mean,
        readings: n,
        spread_nm: spread(&gives),
        parts: [scatter.part(n)]
            .into_iter()
            .chain(of_gauge(gauge, 1))
            .chain(shims)
            .collect(),
        scatter: Some(*scatter),
        working,
    };
    finish(found, adjustments)
}
