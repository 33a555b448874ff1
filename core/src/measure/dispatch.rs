//! Readings of one way put together: what they give, and what there is to draw.

use serde::{Deserialize, Serialize};

use crate::measure::centring::Centring;
use crate::measure::depth_ring::{self, Depth, Ring};
use crate::measure::feeler::{self, Try};
use crate::measure::input::Reading;
use crate::measure::known_shim::{self, SetUp, WithShim};
use crate::measure::pinions::{self, EndPlay, Pinions, PinionsError, PinionsFound};
use crate::measure::selector_gaps::{self, GearGaps, Selector};
use crate::measure::stack_sum::{self, Sum, Term};
use crate::measure::turning_torque::{self, Torque, TorqueEnds, TorqueFound, TorqueGauge};
use crate::measure::{Adjustment, MeasureError, Method, by_hand, dial};
use crate::uncertainty::estimate::Estimate;
use crate::uncertainty::gauge::Gauge;
use crate::units::length::Length;
use crate::verdict::window::Window;
use crate::verdict::{Verdict, judge};

/// What readings are worked out with.
#[derive(Clone, Copy, Debug)]
pub struct Basis<'a> {
    /// The gauge, with its known repeatability; none for fingers.
    pub gauge: Option<Gauge>,
    /// What differs between trial and final build.
    pub adjustments: &'a [Adjustment],
    /// The terms of the check's stack sum, as on the sheet.
    pub terms: &'a [Term],
    /// The standard uncertainty of a known shim's thickness in nanometres.
    pub u_shim_nm: f64,
    /// A leaf measures how far a retainer stands off: its pinch, which is that much below nothing.
    pub stands_off: bool,
    /// The window that the check is held against, where it is of a length.
    pub window: Option<Window>,
    /// What a carrier's pinions are held to, where it is a check of those.
    pub pinions: Option<Pinions>,
    /// What a selector holds, where it is a check of that.
    pub selector: Option<&'a Selector>,
}

/// What there is to draw of a way beside its estimate.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Detail {
    /// Nothing more.
    Plain,
    /// Depths round a circle.
    Ring {
        /// The ring.
        ring: Ring,
    },
    /// A stack added up.
    Sum {
        /// The sum.
        sum: Sum,
    },
    /// Known shims.
    SetUps {
        /// One for each shim.
        set_ups: Vec<SetUp>,
    },
    /// Pinions one by one.
    Pinions {
        /// Each of them, and all beside one another.
        pinions: PinionsFound,
    },
    /// The gears that a selector holds.
    Centring {
        /// Their offsets, and how the shims could be shared out.
        centring: Centring,
    },
    /// What the leaves leave open.
    Leaves {
        /// The thickest that goes, nanometres.
        goes_nm: Length,
        /// The thinnest that does not.
        refused_nm: Option<Length>,
    },
}

/// What the readings of one way give.
#[derive(Clone, Debug, PartialEq)]
pub struct MethodResult {
    /// The estimate, or why there is none.
    pub estimate: Result<Estimate, MeasureError>,
    /// What there is to draw.
    pub detail: Detail,
}

impl MethodResult {
    /// The verdict on them; of pinions, on all of them together.
    #[must_use]
    pub fn verdict(&self, window: Window, adjustments: &[Adjustment]) -> Option<Verdict> {
        let estimate = self.estimate.as_ref().ok()?;
        let mut verdict = judge(estimate, window);
        if let Detail::Pinions { pinions } = &self.detail {
            let shift = crate::measure::shift_nm(adjustments);
            pinions.weigh(&mut verdict, estimate.dof, shift, window);
        }
        Some(verdict)
    }
}

/// Works out the readings of one way. Torques are no clearance and give none here; see [`torques`].
#[must_use]
pub fn measure(way: Method, taken: &[Reading], basis: &Basis<'_>) -> MethodResult {
    let adjustments = basis.adjustments;
    let plain = |estimate| MethodResult {
        estimate,
        detail: Detail::Plain,
    };
    if way == Method::ByHand {
        let felt: Vec<(Length, Length)> = taken
            .iter()
            .filter_map(|t| match t {
                Reading::ByHand { from_nm, to_nm } => Some((*from_nm, *to_nm)),
                _ => None,
            })
            .collect();
        return plain(by_hand::estimate(&felt, adjustments));
    }
    let Some(gauge) = basis.gauge else {
        return plain(Err(MeasureError::NoGauge));
    };
    let split = |found: Result<(Estimate, Detail), MeasureError>| match found {
        Ok((estimate, detail)) => MethodResult {
            estimate: Ok(estimate),
            detail,
        },
        Err(e) => plain(Err(e)),
    };
    match way {
        Method::DialTravel | Method::NoShim => {
            let trials: Vec<_> = taken.iter().filter_map(Reading::trial).collect();
            plain(dial::estimate_trials(&trials, gauge, adjustments))
        }
        Method::Feeler => {
            let tries = tries(taken);
            let detail = feeler::open(&tries)
                .ok()
                .filter(|_| !tries.is_empty())
                .map_or(Detail::Plain, |(goes_nm, refused_nm)| Detail::Leaves {
                    goes_nm,
                    refused_nm,
                });
            let estimate = feeler::estimate(&tries, gauge, adjustments);
            MethodResult {
                estimate: if basis.stands_off {
                    estimate.map(|e| e.stood_off(crate::measure::shift_nm(adjustments)))
                } else {
                    estimate
                },
                detail,
            }
        }
        Method::DepthFromBar => {
            let depths: Vec<Depth> = taken.iter().filter_map(depth).collect();
            split(
                depth_ring::estimate(&depths, gauge, adjustments)
                    .map(|(estimate, ring)| (estimate, Detail::Ring { ring })),
            )
        }
        Method::StackSum => {
            let terms = with_measured(basis.terms, taken);
            split(
                stack_sum::estimate(&terms, gauge, adjustments)
                    .map(|(estimate, sum)| (estimate, Detail::Sum { sum })),
            )
        }
        Method::KnownShim => {
            let floats: Vec<WithShim> = taken.iter().filter_map(with_shim).collect();
            let (estimate, set_ups) =
                known_shim::estimate(&floats, gauge, basis.u_shim_nm, adjustments);
            MethodResult {
                estimate,
                detail: Detail::SetUps { set_ups },
            }
        }
        Method::OneByOne => {
            let plays: Vec<EndPlay> = taken.iter().filter_map(end_play).collect();
            let Some(of) = basis.pinions else {
                return plain(Err(PinionsError::NotSaid.into()));
            };
            match pinions::estimate(&plays, of, gauge, basis.window, adjustments) {
                Ok((estimate, pinions)) => MethodResult {
                    estimate,
                    detail: Detail::Pinions { pinions },
                },
                Err(e) => plain(Err(e)),
            }
        }
        Method::SelectorGaps => {
            let gaps: Vec<GearGaps> = taken.iter().filter_map(gear_gaps).collect();
            let none = Selector::default();
            split(
                selector_gaps::estimate(&gaps, basis.selector.unwrap_or(&none), gauge)
                    .map(|(estimate, centring)| (estimate, Detail::Centring { centring })),
            )
        }
        Method::TurningTorque | Method::YesNo | Method::ByHand => {
            plain(Err(MeasureError::NoReadings))
        }
    }
}

/// The leaves tried.
#[must_use]
pub fn tries(taken: &[Reading]) -> Vec<Try> {
    taken
        .iter()
        .filter_map(|t| match t {
            Reading::Leaf { fit, .. } => Some(Try {
                size: t.figure()?,
                fit: *fit,
            }),
            _ => None,
        })
        .collect()
}

fn depth(taken: &Reading) -> Option<Depth> {
    match taken {
        Reading::Depth {
            place,
            of,
            depth_nm,
            bar_nm,
        } => Some(Depth {
            place: place.checked_sub(1)?,
            of: *of,
            depth: *depth_nm,
            bar: *bar_nm,
        }),
        _ => None,
    }
}

fn end_play(taken: &Reading) -> Option<EndPlay> {
    match taken {
        Reading::Pinion { pinion, play_nm } => Some(EndPlay {
            pinion: *pinion,
            play: *play_nm,
        }),
        _ => None,
    }
}

fn gear_gaps(taken: &Reading) -> Option<GearGaps> {
    match taken {
        Reading::Gaps {
            gear,
            left_nm,
            right_nm,
        } => Some(GearGaps {
            gear: *gear,
            left: *left_nm,
            right: *right_nm,
        }),
        _ => None,
    }
}

fn with_shim(taken: &Reading) -> Option<WithShim> {
    match taken {
        Reading::KnownShim { shim_nm, float_nm } => Some(WithShim {
            shim: *shim_nm,
            float: *float_nm,
        }),
        _ => None,
    }
}

/// The sheet's terms with what was measured of them.
#[must_use]
pub fn with_measured(terms: &[Term], taken: &[Reading]) -> Vec<Term> {
    let mut terms = terms.to_vec();
    for reading in taken {
        if let Reading::Term { term, length_nm } = reading {
            let at = usize::from(*term).checked_sub(1);
            if let Some(term) = at.and_then(|at| terms.get_mut(at)) {
                term.measured_nm.push(*length_nm);
            }
        }
    }
    terms
}

/// Works out turning torques. `gauge` is a wrench's figures, or a scale's in newtons, which count at
/// the largest radius pulled at.
pub fn torques(
    taken: &[Reading],
    gauge: TorqueGauge,
    window: TorqueEnds,
) -> Result<TorqueFound, MeasureError> {
    let found: Vec<Torque> = taken
        .iter()
        .filter_map(|t| match t {
            Reading::Torque { torque_n_m } => Some(*torque_n_m),
            Reading::Pull { force_n, radius_nm } => Some(force_n.at(*radius_nm)),
            _ => None,
        })
        .collect();
    turning_torque::estimate(&found, gauge, window)
}

/// The scatter of readings of one way about what they give: the sum of squared deviations in square
/// nanometres, and its degrees of freedom. None where the way has no scatter of its own to pool.
///
/// ```
/// use anvil_core::units::length::Length;
/// use anvil_core::measure::input::Reading;
/// use anvil_core::measure::{Method, own_scatter};
/// let travel = |nm| Reading::Travel { travel_nm: Length::from_nm(nm), tilt_deg: 0.0, pull_n: None };
/// let taken = [travel(200_000), travel(210_000), travel(205_000)];
/// assert_eq!(own_scatter(Method::DialTravel, &taken), Some((5e7, 2.0)));
/// ```
#[must_use]
pub fn own_scatter(way: Method, taken: &[Reading]) -> Option<(f64, f64)> {
    match way {
        Method::DialTravel | Method::NoShim => {
            let trials: Vec<f64> = taken
                .iter()
                .filter_map(Reading::trial)
                .map(|t| t.true_nm())
                .collect();
            let n = trials.len() as f64;
            let mean = trials.iter().sum::<f64>() / n;
            let squares = trials.iter().map(|t| (t - mean).powi(2)).sum();
            (n > 1.0).then_some((squares, n - 1.0))
        }
        Method::DepthFromBar => {
            let depths: Vec<Depth> = taken.iter().filter_map(depth).collect();
            depth_ring::residual(&depths)
        }
        Method::KnownShim => {
            let floats: Vec<WithShim> = taken.iter().filter_map(with_shim).collect();
            known_shim::within(&floats)
        }
        Method::Feeler
        | Method::StackSum
        | Method::TurningTorque
        | Method::YesNo
        | Method::OneByOne
        | Method::SelectorGaps
        | Method::ByHand => None,
    }
}
