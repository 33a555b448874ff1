//! The ways of measuring: the table of methods. Each ends in an [`Estimate`].
//!
//! One file a method, with what is typed for it, what is read of that and what it comes to: [`dial`], [`feeler`],
//! [`depth_ring`] (from a bar), [`stack_sum`], [`known_shim`], [`turning_torque`], [`pinions`] (one by one),
//! [`backlash`] (at teeth), [`selector_gaps`], [`by_hand`], and [`proof`], a question answered yes or no. A travel with no shim fitted is a dial
//! travel. A new method is such a file and its rows here: its name, its kinds of reading, its gauges, and how it is
//! asked. [`comparison`] lays two methods side by side.

pub mod backlash;
pub mod by_hand;
pub mod centring;
pub mod comparison;
pub mod depth_ring;
pub mod dial;
mod estimate;
pub mod feeler;
pub mod fields;
pub mod known_shim;
pub mod limited_gaps;
pub mod next_term;
pub mod pinions;
pub mod proof;
mod scatter;
pub mod selector_gaps;
pub mod stack_sum;
pub mod turning_torque;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::backlash::{BacklashError, BacklashFound, Mesh};
use crate::measure::centring::Centring;
use crate::measure::depth_ring::Ring;
use crate::measure::dial::Trial;
use crate::measure::feeler::{LeafReading, Try};
use crate::measure::fields::{FieldFault, Shown, Taken, Typed};
use crate::measure::known_shim::SetUp;
use crate::measure::limited_gaps::Placement;
use crate::measure::next_term::{NextTerm, next_terms};
use crate::measure::pinions::{Pinions, PinionsError, PinionsFound};
use crate::measure::selector_gaps::Selector;
use crate::measure::stack_sum::{Sum, Term, TermReading};
use crate::measure::turning_torque::{TorqueEnds, TorqueFound, TorqueGauge};
use crate::refusal::{Refusal, Ruled};
use crate::uncertainty::estimate::{Bound, Estimate};
use crate::uncertainty::gauge::{Gauge, GaugeKind};
use crate::units::force::Torque;
use crate::units::length::{Length, Unit};
use crate::verdict::still::{Expected, judge_still};
use crate::verdict::window::Window;
use crate::verdict::{Call, Remedy, Verdict, judge, judge_bound};

pub(crate) use estimate::mean_nm;
pub use scatter::{Pool, Scatter, scatter};

/// A way of taking a check.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Serialize,
    Deserialize,
    schemars::JsonSchema,
    strum::EnumString,
    strum::IntoStaticStr,
    strum::VariantArray,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Method {
    DialTravel,
    Feeler,
    DepthFromBar,
    StackSum,
    NoShim,
    KnownShim,
    TurningTorque,
    OneByOne,
    AtTeeth,
    SelectorGaps,
    YesNo,
    ByHand,
}

/// The kinds of reading, each with the struct that is typed and the one that is read of it; both enums only hand on.
macro_rules! kinds_of_reading {
    ($($kind:ident: $file:ident::$input:ident => $reading:ident),+ $(,)?) => {
        /// One reading as typed, field by field.
        #[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
        #[serde(tag = "kind", rename_all = "snake_case")]
        #[derive(utoipa::ToSchema)]
        pub enum ReadingInput {
            $($kind($file::$input)),+
        }

        /// One reading as taken, in whole nanometres.
        #[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
        #[serde(tag = "kind", rename_all = "snake_case")]
        #[derive(utoipa::ToSchema)]
        pub enum Reading {
            $($kind($file::$reading)),+
        }

        impl ReadingInput {
            /// Whether a check taken in this way has readings of this kind.
            #[must_use]
            pub fn fits(&self, method: Method) -> bool {
                match self {
                    $(Self::$kind(_) => <$file::$input as Typed>::METHODS.contains(&method)),+
                }
            }

            /// What was typed, in one line, for the record.
            #[must_use]
            pub fn text(&self) -> String {
                match self {
                    $(Self::$kind(typed) => typed.text()),+
                }
            }

            /// Reads what was typed; a bare length is in `unit`.
            ///
            /// ```
            /// use anvil_arithmetic::measure::dial::PairInput;
            /// use anvil_arithmetic::measure::{Reading, ReadingInput};
            /// use anvil_arithmetic::units::length::{Length, Unit};
            /// let pair = |home: &str, out: &str| -> ReadingInput {
            ///     let (home, out, none) = (home.to_owned(), out.to_owned(), String::new);
            ///     PairInput { home, out, tilt: none(), pull: none(), turned: None }.into()
            /// };
            /// let Ok(Reading::Pair(read)) = pair("1.02", "1.17").read(Unit::Mm) else { panic!() };
            /// assert_eq!(read.home_nm, Length::from_nm(1_020_000));
            /// assert_eq!(pair("1.17", "1.02").read(Unit::Mm).unwrap_err().field, "out");
            /// ```
            ///
            /// # Errors
            /// The first field that does not say what it should.
            pub fn read(&self, unit: Unit) -> Result<Reading, FieldFault> {
                match self {
                    $(Self::$kind(typed) => typed.read(unit).map(Reading::$kind)),+
                }
            }
        }

        impl Reading {
            /// What a slip of the pen would show in.
            #[must_use]
            pub fn shown(&self) -> Shown {
                match self {
                    $(Self::$kind(taken) => taken.shown()),+
                }
            }

            /// The length that it comes to, where the reading is one length.
            #[must_use]
            pub fn figure(&self) -> Option<Length> {
                match self {
                    $(Self::$kind(taken) => taken.figure()),+
                }
            }
        }

        $(
            impl From<$file::$input> for ReadingInput {
                fn from(typed: $file::$input) -> Self {
                    Self::$kind(typed)
                }
            }

            impl From<$file::$reading> for Reading {
                fn from(taken: $file::$reading) -> Self {
                    Self::$kind(taken)
                }
            }

            impl OfKind for $file::$reading {
                fn of(reading: &Reading) -> Option<&Self> {
                    match reading {
                        Reading::$kind(taken) => Some(taken),
                        _ => None,
                    }
                }
            }
        )+
    };
}

kinds_of_reading! {
    Travel: dial::TravelInput => TravelReading,
    Pair: dial::PairInput => PairReading,
    Leaf: feeler::LeafInput => LeafReading,
    Depth: depth_ring::DepthInput => DepthReading,
    Term: stack_sum::TermInput => TermReading,
    KnownShim: known_shim::ShimInput => ShimReading,
    Torque: turning_torque::TorqueInput => TorqueReading,
    Pull: turning_torque::PullInput => PullReading,
    Pinion: pinions::PinionInput => PinionReading,
    Tooth: backlash::ToothInput => ToothReading,
    Gaps: selector_gaps::GapsInput => GapsReading,
    Answer: proof::ProofAnswer => ProofAnswer,
    ByHand: by_hand::RangeInput => RangeReading,
}

/// A kind of reading, told among all of them.
pub trait OfKind: Sized {
    /// The reading as this kind; none where it is another.
    fn of(reading: &Reading) -> Option<&Self>;
}

/// The readings of one kind.
pub(crate) fn all<T: OfKind + Clone>(taken: &[Reading]) -> Vec<T> {
    taken.iter().filter_map(T::of).cloned().collect()
}

impl ReadingInput {
    /// What was typed as a reading of a method; a bare length is in `unit`.
    ///
    /// # Errors
    /// Where a field cannot be read, or this kind of reading is not of the method.
    pub fn read_for(&self, method: Method, unit: Unit) -> Ruled<Reading> {
        let reading = self.read(unit).map_err(|e| Refusal::field(e.field, e))?;
        if !self.fits(method) {
            return Err(Refusal::field(
                "way",
                "That kind of reading is not of this way of measuring: choose the way first.",
            ));
        }
        Ok(reading)
    }
}

impl Method {
    /// Every method, in the order in which they are offered.
    pub const ALL: &'static [Self] = <Self as strum::VariantArray>::VARIANTS;

    /// The kinds of gauge that it is taken with, the usual first; none for fingers.
    #[must_use]
    pub const fn gauges(self) -> &'static [GaugeKind] {
        use GaugeKind::{Depth, Dial, Feeler, Micrometer, SpringScale, TorqueWrench};
        match self {
            Self::DialTravel | Self::NoShim | Self::KnownShim => &[Dial, Depth, Micrometer],
            Self::Feeler => &[Feeler],
            Self::DepthFromBar => &[Depth, Dial, Micrometer],
            Self::StackSum => &[Micrometer, Depth, Dial],
            Self::TurningTorque => &[TorqueWrench, SpringScale],
            Self::AtTeeth => &[Dial, Feeler],
            Self::OneByOne | Self::SelectorGaps => &[Feeler, Dial, Depth],
            Self::YesNo | Self::ByHand => &[],
        }
    }
}

/// Works out the readings of one way. Torques and answers are no clearance and give none here; see [`torques`] and
/// [`proof::proof`].
#[must_use]
pub fn measure(method: Method, taken: &[Reading], basis: &Basis<'_>) -> MethodResult {
    if method == Method::ByHand {
        return MethodResult::plain(by_hand::estimate(&all(taken), basis.adjustments));
    }
    let Some(gauge) = basis.gauge else {
        return MethodResult::plain(Err(MeasureError::NoGauge));
    };
    let adjustments = basis.adjustments;
    match method {
        Method::DialTravel | Method::NoShim => {
            let trials = trials(taken);
            let estimate = dial::estimate_trials(&trials, gauge, adjustments);
            MethodResult {
                bound: dial::bound(&estimate, estimate::shift_nm(adjustments)),
                detail: dial::rock(&trials).map_or(Detail::Plain, |ring| Detail::Ring { ring }),
                ..MethodResult::plain(estimate)
            }
        }
        Method::Feeler => {
            let tries = tries(taken);
            let shift_nm = estimate::shift_nm(adjustments);
            let mut estimate = feeler::estimate(&tries, gauge, adjustments);
            let mut bound = feeler::bound(&tries, shift_nm);
            if basis.stands_off {
                estimate = estimate.map(|e| e.stood_off(shift_nm));
                bound = bound.map(|b| b.stood_off(shift_nm));
            }
            MethodResult {
                estimate,
                bound,
                detail: feeler::open(&tries)
                    .ok()
                    .filter(|_| !tries.is_empty())
                    .map_or(Detail::Plain, |(goes_nm, refused_nm)| Detail::Leaves {
                        goes_nm,
                        refused_nm,
                    }),
            }
        }
        Method::DepthFromBar => MethodResult::drawn(
            if basis.proud {
                depth_ring::height(&all(taken), gauge, adjustments)
            } else {
                depth_ring::estimate(&all(taken), gauge, adjustments)
            }
            .map(|(estimate, ring)| (estimate, Detail::Ring { ring })),
        ),
        Method::StackSum => MethodResult::drawn(summed(taken, gauge, basis)),
        Method::KnownShim => {
            let (estimate, set_ups) =
                known_shim::estimate(&all(taken), gauge, basis.u_shim_nm, adjustments);
            MethodResult {
                detail: Detail::SetUps { set_ups },
                ..MethodResult::plain(estimate)
            }
        }
        Method::OneByOne => {
            let Some(of) = basis.pinions else {
                return MethodResult::plain(Err(PinionsError::NotSaid.into()));
            };
            match pinions::estimate(&all(taken), of, gauge, basis.window, adjustments) {
                Ok((estimate, pinions)) => MethodResult {
                    detail: Detail::Pinions { pinions },
                    ..MethodResult::plain(estimate)
                },
                Err(e) => MethodResult::plain(Err(e)),
            }
        }
        Method::AtTeeth => {
            let Some(mesh) = basis.mesh else {
                return MethodResult::plain(Err(BacklashError::NotSaid.into()));
            };
            match backlash::estimate(&all(taken), mesh, gauge, adjustments) {
                Ok((estimate, backlash)) => MethodResult {
                    detail: Detail::Backlash { backlash },
                    ..MethodResult::plain(estimate)
                },
                Err(e) => MethodResult::plain(Err(e)),
            }
        }
        Method::SelectorGaps => {
            let none = Selector::default();
            let selector = basis.selector.unwrap_or(&none);
            let taken = all(taken);
            MethodResult::drawn(if selector.is_limited() {
                selector_gaps::spare(&taken, selector, gauge)
                    .map(|(estimate, placement)| (estimate, Detail::Limits { placement }))
            } else {
                selector_gaps::estimate(&taken, selector, gauge)
                    .map(|(estimate, centring)| (estimate, Detail::Centring { centring }))
            })
        }
        Method::TurningTorque | Method::YesNo | Method::ByHand => {
            MethodResult::plain(Err(MeasureError::NoReadings))
        }
    }
}

/// The sum of the terms, with what to measure next of them.
fn summed(
    taken: &[Reading],
    gauge: Gauge,
    basis: &Basis<'_>,
) -> Result<(Estimate, Detail), MeasureError> {
    let terms = with_measured(basis.terms, taken, basis.by);
    let (estimate, sum) = stack_sum::estimate(&terms, gauge, basis.adjustments)?;
    let known = (&estimate, &sum);
    let next = match basis.window {
        Some(window) => next_terms(&terms, gauge, basis.adjustments, known, window)?,
        None => Vec::new(),
    };
    Ok((estimate, Detail::Sum { sum, next }))
}

/// The scatter of readings of one way about what they give: the sum of squared deviations in square
/// nanometres, and its degrees of freedom. None where the way has no scatter of its own to pool.
///
/// ```
/// use anvil_arithmetic::measure::dial::TravelReading;
/// use anvil_arithmetic::measure::{Method, own_scatter};
/// use anvil_arithmetic::units::length::Length;
/// let travel = |nm| TravelReading { travel_nm: Length::from_nm(nm), tilt_deg: 0.0, pull_n: None, turned: None }.into();
/// let taken = [travel(200_000), travel(210_000), travel(205_000)];
/// assert_eq!(own_scatter(Method::DialTravel, &taken), Some((5e7, 2.0)));
/// ```
#[must_use]
pub fn own_scatter(method: Method, taken: &[Reading]) -> Option<(f64, f64)> {
    match method {
        Method::DialTravel | Method::NoShim => dial::own_scatter(&trials(taken)),
        Method::DepthFromBar => depth_ring::residual(&all(taken)),
        Method::KnownShim => known_shim::within(&all(taken)),
        Method::Feeler
        | Method::StackSum
        | Method::TurningTorque
        | Method::YesNo
        | Method::OneByOne
        | Method::AtTeeth
        | Method::SelectorGaps
        | Method::ByHand => None,
    }
}

/// Travels, however they were read, as taken.
fn trials(taken: &[Reading]) -> Vec<Trial> {
    taken
        .iter()
        .filter_map(|reading| match reading {
            Reading::Travel(travel) => Some(travel.trial()),
            Reading::Pair(pair) => pair.trial(),
            _ => None,
        })
        .collect()
}

/// The leaves tried.
#[must_use]
pub fn tries(taken: &[Reading]) -> Vec<Try> {
    let leaves = taken.iter().filter_map(LeafReading::of);
    leaves
        .filter_map(|leaf| {
            Some(Try {
                size: leaf.figure()?,
                fit: leaf.fit,
            })
        })
        .collect()
}

/// The sheet's terms with what was measured of them, `by` which gauge as of [`Basis::by`].
#[must_use]
pub fn with_measured(terms: &[Term], taken: &[Reading], by: &[usize]) -> Vec<Term> {
    let by = by.iter().copied().chain(std::iter::repeat(0));
    let measured = taken.iter().zip(by);
    stack_sum::with_readings(
        terms,
        measured.filter_map(|(reading, by)| Some((TermReading::of(reading)?, by))),
    )
}

/// Works out turning torques. `gauge` is a wrench's figures, or a scale's in newtons, which count at
/// the largest radius pulled at.
///
/// # Errors
/// As of [`turning_torque::estimate`].
pub fn torques(
    taken: &[Reading],
    gauge: TorqueGauge,
    window: TorqueEnds,
) -> Result<TorqueFound, MeasureError> {
    let found: Vec<Torque> = taken
        .iter()
        .filter_map(|reading| match reading {
            Reading::Torque(torque) => Some(torque.torque_n_m),
            Reading::Pull(pull) => Some(pull.force_n.at(pull.radius_nm)),
            _ => None,
        })
        .collect();
    turning_torque::estimate(&found, gauge, window)
}

/// What readings are worked out with.
#[derive(Clone, Copy, Debug, Default)]
pub struct Basis<'a> {
    /// The gauge, with its known repeatability; none for fingers.
    pub gauge: Option<Gauge>,
    /// Which gauge took each reading, by a number of its own: what one gauge took is off by its error alike. One took all
    /// where it is not said.
    pub by: &'a [usize],
    /// What differs between trial and final build.
    pub adjustments: &'a [Adjustment],
    /// The terms of the check's stack sum, as on the sheet.
    pub terms: &'a [Term],
    /// The standard uncertainty of a known shim's thickness in nanometres.
    pub u_shim_nm: f64,
    /// A leaf measures how far a retainer stands off: its pinch, which is that much below nothing.
    pub stands_off: bool,
    /// A depth from a bar measures how far a part stands proud of a face, or below it.
    pub proud: bool,
    /// The window that the check is held against, where it is of a length.
    pub window: Option<Window>,
    /// What a carrier's pinions are held to, where it is a check of those.
    pub pinions: Option<Pinions>,
    /// What a ring gear's backlash is held to, where it is a check of that.
    pub mesh: Option<Mesh>,
    /// What a selector holds, where it is a check of that.
    pub selector: Option<&'a Selector>,
}

/// What there is to draw of a way beside its estimate.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Detail {
    /// Nothing more.
    Plain,
    /// Depths round a circle, or travels over the quarters that a shaft was turned by.
    Ring { ring: Ring },
    /// A stack added up.
    Sum {
        /// The terms, each with its share.
        sum: Sum,
        /// What measuring those would do that are known by their limits only, the most telling first; empty where there
        /// is no window to hold the sum against.
        next: Vec<NextTerm>,
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
    /// Backlash round a ring gear.
    Backlash {
        /// Each place, the run-out, and what it grows by.
        backlash: BacklashFound,
    },
    /// The gears that a selector holds.
    Centring {
        /// Their offsets, and how the shims could be shared out.
        centring: Centring,
    },
    /// The gaps of a selector with limits of their own.
    Limits {
        /// What each has to spare, and how the shims could lie.
        placement: Placement,
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
    /// What is known where there is none: on which side of a limit it lies.
    pub bound: Option<Bound>,
    /// What there is to draw.
    pub detail: Detail,
}

impl MethodResult {
    /// A result with nothing more to draw.
    fn plain(estimate: Result<Estimate, MeasureError>) -> Self {
        Self {
            estimate,
            bound: None,
            detail: Detail::Plain,
        }
    }

    /// A result that is drawn where there is one.
    fn drawn(found: Result<(Estimate, Detail), MeasureError>) -> Self {
        match found {
            Ok((estimate, detail)) => Self {
                detail,
                ..Self::plain(Ok(estimate))
            },
            Err(e) => Self::plain(Err(e)),
        }
    }

    /// The verdict on them; of pinions, on all of them together. `expected` is what the pieces that are in were to give,
    /// where that is known: where nothing moves, nothing else tells how tight it is.
    #[must_use]
    pub fn verdict(
        &self,
        window: Window,
        adjustments: &[Adjustment],
        expected: Option<&Expected>,
    ) -> Option<Verdict> {
        let Ok(estimate) = &self.estimate else {
            let bound = self.bound?;
            let still = || judge_still(bound, expected?, window);
            return judge_bound(bound, window).or_else(still);
        };
        let mut verdict = judge(estimate, window);
        if let (Detail::Sum { next, .. }, Call::Inconclusive) = (&self.detail, verdict.call)
            && let Some(next) = next.first()
        {
            verdict.settled_by = Some(Remedy::MeasureTerm { term: next.term });
            verdict.one_more = None;
        }
        if let Detail::Pinions { pinions } = &self.detail {
            let shift = estimate::shift_nm(adjustments);
            pinions.weigh(&mut verdict, estimate, shift, window);
        }
        if let Detail::Backlash { backlash } = &self.detail {
            backlash.weigh(&mut verdict);
        }
        Some(verdict)
    }
}

/// What differs between the trial build the readings were taken in and the final build, and by
/// how much it moves the clearance: `c_final = c_trial + Σ by`.
#[derive(Clone, Debug, PartialEq)]
pub struct Adjustment {
    /// What differs, in words.
    pub what: String,
    /// How much the clearance grows (or shrinks, below zero) towards the final build.
    pub by: Length,
    /// The ± limits of `by`; taken as a rectangular spread, `t/√3`.
    pub tolerance: Length,
}

/// Why readings give no estimate.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum MeasureError {
    /// There is nothing to work on.
    #[error("there is no reading yet: take one")]
    NoReadings,
    /// A travel below zero.
    #[error(
        "reading {trial} is below zero: a travel is zero or more, so zero the dial with the shaft home"
    )]
    Negative {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// Nothing moved.
    #[error(
        "nothing moves at all: what does not move may be tight, and how tight cannot be felt. Take the shim out and measure without, or fit a known shim that opens the gap"
    )]
    NoFloat,
    /// One reading and no idea of the scatter.
    #[error(
        "one reading says nothing of its own scatter and this gauge has no stated repeatability: take a second reading"
    )]
    ScatterUnknown,
    /// Nothing to measure with.
    #[error("the gauge register has no gauge for this way: enter one under Gauges")]
    NoGauge,
    /// A tolerance below zero.
    #[error("adjustment “{what}”: its tolerance is a ± figure, so it is zero or more")]
    NegativeTolerance {
        /// The adjustment's own words.
        what: String,
    },
    /// A plunger further from parallel than any reading survives.
    #[error("reading {trial}: the plunger's tilt is an angle from 0° to below 60°")]
    BadTilt {
        /// Which reading, counted from 1.
        trial: usize,
    },
    /// See [`feeler::FeelerError`].
    #[error(transparent)]
    Feeler(#[from] feeler::FeelerError),
    /// See [`depth_ring::RingError`].
    #[error(transparent)]
    Ring(#[from] depth_ring::RingError),
    /// See [`stack_sum::StackError`].
    #[error(transparent)]
    Stack(#[from] stack_sum::StackError),
    /// See [`known_shim::KnownShimError`].
    #[error(transparent)]
    KnownShim(#[from] known_shim::KnownShimError),
    /// See [`turning_torque::TorqueError`].
    #[error(transparent)]
    Torque(#[from] turning_torque::TorqueError),
    /// See [`pinions::PinionsError`].
    #[error(transparent)]
    Pinions(#[from] pinions::PinionsError),
    /// See [`backlash::BacklashError`].
    #[error(transparent)]
    Backlash(#[from] backlash::BacklashError),
    /// See [`selector_gaps::SelectorError`].
    #[error(transparent)]
    Selector(#[from] selector_gaps::SelectorError),
    /// See [`by_hand::ByHandError`].
    #[error(transparent)]
    ByHand(#[from] by_hand::ByHandError),
}
