//! The methods a check was measured by: each put together with its gauge, and which of them counts.

use anvil_arithmetic::measure::comparison::{Comparison, compare};
use anvil_arithmetic::measure::feeler::{self, Advice};
use anvil_arithmetic::measure::proof::{ProofAnswer, ProofFound, YesNo, proof};
use anvil_arithmetic::measure::turning_torque::{PullReading, TorqueFound, TorqueGauge};
use anvil_arithmetic::measure::{
    Basis, Detail, MeasureError, Method, MethodResult, OfKind, Pool, Reading, measure, own_scatter,
    torques, tries,
};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::u_of_tolerance;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::uncertainty::gauge::{Figures, Gauge, Repeatability};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Verdict;
use anvil_arithmetic::verdict::still::Expected;
use anvil_arithmetic::verdict::window::Window;
use serde::Serialize;

use super::record::{ReadingRecord, Record};
use super::spec::Spec;
use crate::sheet::{Backlash, Pinions};
use crate::shop::gauge_register::RegisteredGauge;

/// One way a check was measured in, this round.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct MethodView {
    /// The way.
    #[serde(rename = "way")]
    pub method: Method,
    /// Its figure is the one that counts.
    pub counts: bool,
    /// How many of its readings stand.
    pub readings: usize,
    /// What it was taken with.
    pub gauges: Vec<String>,
    /// What those can see, together; none for fingers, wrenches and scales.
    pub figures: Option<Figures>,
    /// Where the known scatter comes from.
    pub scatter_from: ScatterFrom,
    /// What its readings say.
    pub estimate: Option<Estimate>,
    /// Why they say nothing yet, where they do not.
    pub no_estimate: Option<String>,
    /// The verdict on them.
    pub verdict: Option<Verdict>,
    /// What there is to draw.
    pub detail: Detail,
    /// The tilt found is larger than the window is wide.
    pub tilt_called: bool,
    /// The turning torque, where this is one.
    pub torque: Option<TorqueFound>,
    /// Against the way that counts.
    pub against: Option<Comparison>,
}

/// Where the known scatter of a gauge used one way comes from.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum ScatterFrom {
    /// It is not known.
    Unknown,
    /// The register states it.
    Register {
        /// The standard deviation in nanometres.
        s_nm: f64,
    },
    /// The shop's own signed checks.
    History {
        /// The standard deviation in nanometres.
        s_nm: f64,
        /// Its degrees of freedom.
        dof: f64,
    },
}

/// A method worked out.
pub struct MethodOutcome {
    /// The way.
    pub method: Method,
    /// What its readings say.
    pub measured: MethodResult,
    /// The turning torque, where it is one.
    pub torque: Option<Result<TorqueFound, String>>,
    /// The answer, where it is one.
    pub proof: Option<ProofFound>,
    /// What the pieces fitted last were to give, where they are measured now.
    expected: Option<Expected>,
    readings: usize,
    gauge: Option<Gauge>,
    gauges: Vec<String>,
    /// The one gauge that took all of its readings.
    by_one: Option<String>,
    scatter_from: ScatterFrom,
    first_reading: i32,
}

impl MethodOutcome {
    /// The estimate, where there is one.
    pub fn estimate(&self) -> Option<&Estimate> {
        self.measured.estimate.as_ref().ok()
    }

    /// The one gauge that all of it rests on, so that it is off by that one's error, where its chance is that of its
    /// estimate alone.
    pub(super) fn by_one_gauge(&self) -> Option<&str> {
        let alone = matches!(
            self.method,
            Method::DialTravel
                | Method::NoShim
                | Method::KnownShim
                | Method::Feeler
                | Method::DepthFromBar
                | Method::StackSum
        );
        self.by_one.as_deref().filter(|_| alone)
    }

    /// The verdict on its clearance.
    pub fn verdict(&self, spec: &Spec<'_>) -> Option<Verdict> {
        let (window, _) = spec.length?;
        let adjustments = spec.adjustments(self.method);
        self.measured
            .verdict(window, &adjustments, self.expected.as_ref())
    }

    /// Why there is no figure, where there is none.
    pub fn why_none(&self, spec: &Spec<'_>) -> Option<String> {
        let error = self.measured.estimate.as_ref().err()?;
        let window = spec.length.map(|l| l.0);
        let (MeasureError::NoFloat, Some(bound)) = (error, self.measured.bound) else {
            return Some(error.to_string());
        };
        let begins_here = window.is_some_and(|w| w.low_nm() >= bound.limit_nm);
        let refuted = self.expected.is_some() && self.verdict(spec).is_none();
        Some(if self.method == Method::NoShim {
            "nothing moves with nothing in: how tight it is cannot be felt. Fit a known shim that opens the gap, and measure with that".to_owned()
        } else if begins_here {
            "nothing moves at all: it is on the tight limit or tight, and nothing says which. Fit a known shim that opens the gap, and measure with that".to_owned()
        } else if refuted {
            "nothing moves at all, where these pieces were to leave some: something is not home, or another piece is in. Look, and measure anew".to_owned()
        } else {
            error.to_string()
        })
    }

    /// Whether it could be made the one that counts: its figure is of what the check has a window for, and can sign it
    /// off.
    pub fn could_count(&self, spec: &Spec<'_>) -> bool {
        let bounded = || self.measured.bound.is_some() && self.verdict(spec).is_some();
        self.is_of(spec)
            && match self.estimate() {
                Some(estimate) => estimate.can_sign_off,
                None => bounded(),
            }
    }

    /// An answer where the check has a question, a length where it has a window for one, a torque otherwise.
    fn is_of(&self, spec: &Spec<'_>) -> bool {
        match self.method {
            Method::YesNo => spec.check.proof.is_some(),
            Method::TurningTorque => spec.length.is_none() && spec.check.proof.is_none(),
            _ => spec.length.is_some(),
        }
    }

    /// Whether its figure can sign a check off.
    fn signs(&self) -> bool {
        match &self.torque {
            Some(torque) => torque.is_ok(),
            None if self.proof.is_some() => true,
            None => self.estimate().is_some_and(|e| e.can_sign_off),
        }
    }
}

/// Works out each way that this round's standing readings were taken in, in the order of the first
/// reading of each. A stack sum needs no reading: where it is the sheet's way it is there at once, until pieces
/// are fitted, of which the sheet's figures say nothing.
///
/// # Errors
/// Where the record names a gauge that is no gauge.
pub fn outcomes(record: &Record, spec: &Spec<'_>) -> Ruled<Vec<MethodOutcome>> {
    let mut ways: Vec<Method> = Vec::new();
    for reading in record.valid_readings() {
        if !ways.contains(&reading.way) {
            ways.push(reading.way);
        }
    }
    let summed =
        spec.check.method == Method::StackSum && record.head.round == 0 && !spec.terms().is_empty();
    if summed && !ways.contains(&Method::StackSum) {
        ways.push(Method::StackSum);
    }
    ways.into_iter()
        .map(|method| outcome(record, spec, method))
        .collect()
}

fn outcome(record: &Record, spec: &Spec<'_>, method: Method) -> Ruled<MethodOutcome> {
    let readings: Vec<&ReadingRecord> = record
        .valid_readings()
        .filter(|r| r.way == method)
        .collect();
    let taken: Vec<Reading> = readings.iter().map(|r| r.taken.clone()).collect();
    let mut keys: Vec<&str> = readings
        .iter()
        .filter_map(|r| r.gauge_key.as_deref())
        .collect();
    keys.sort_unstable();
    keys.dedup();
    let mut rows: Vec<&RegisteredGauge> = record
        .gauges
        .iter()
        .filter(|g| keys.contains(&g.gauge_key.as_str()))
        .collect();
    if rows.is_empty() {
        // A sum of the sheet's own figures: what would measure its terms.
        rows.extend(record.gauge_for(method));
    }
    let names = rows.iter().map(|g| g.name.clone()).collect();
    let lengths = rows
        .iter()
        .filter_map(|g| g.figures())
        .map(Gauge::try_from)
        .collect::<Result<Vec<_>, _>>()
        .map_err(Refusal::fault)?;
    let worst = Gauge::worst(&lengths);
    let (known, scatter_from) = known_scatter(record, method, &keys, worst);
    let gauge = worst
        .map(|g| Gauge::new(g.resolution(), g.permissible_error(), known))
        .transpose()
        .map_err(Refusal::fault)?;
    // A bore and what goes into it are measured with other faces of a gauge, if by one at all.
    let face = |r: &ReadingRecord| match (&r.taken, &spec.check.fit) {
        (Reading::Term(of), Some(_)) => usize::from(of.term),
        _ => 0,
    };
    let by: Vec<usize> = readings
        .iter()
        .map(|r| {
            let key = r.gauge_key.as_deref().unwrap_or_default();
            keys.iter().position(|k| *k == key).unwrap_or(0) + face(r) * keys.len()
        })
        .collect();
    let terms = spec.terms();
    let adjustments = spec.adjustments(method);
    let tolerance = Length::from_nm(record.tolerance_nm);
    let selector = spec.check.selector.as_ref();
    let selector = selector.map(|s| record.with_shims(s));
    let basis = Basis {
        gauge,
        by: &by,
        adjustments: &adjustments,
        terms: &terms,
        u_shim_nm: u_of_tolerance(tolerance),
        stands_off: spec.stands_off(),
        proud: spec.is_seat(),
        window: spec.length.map(|l| l.0),
        pinions: spec.check.pinions.as_ref().map(Pinions::held_to),
        mesh: spec.check.backlash.as_ref().map(Backlash::mesh),
        selector: selector.as_ref(),
    };
    let measured = measure(method, &taken, &basis);
    let wanted = spec.check.proof.as_ref().map(|p| p.wanted);
    let proof = wanted.and_then(|wanted| proof(&answers(&taken), wanted));
    let torque = (method == Method::TurningTorque).then(|| {
        torques(
            &taken,
            torque_gauge(&rows, &taken),
            spec.torque.unwrap_or_default(),
        )
        .map_err(|e| e.to_string())
    });
    Ok(MethodOutcome {
        method,
        measured,
        torque,
        proof,
        expected: record.expected_of_fitted(),
        readings: readings.len(),
        gauge,
        gauges: if readings.is_empty() || method.gauges().is_empty() {
            Vec::new()
        } else {
            names
        },
        by_one: match keys[..] {
            [key] if readings.iter().all(|r| r.gauge_key.is_some()) => Some(key.to_owned()),
            _ => None,
        },
        scatter_from,
        first_reading: readings.first().map_or(i32::MAX, |r| r.reading_no),
    })
}

/// The answers given, the first first.
fn answers(taken: &[Reading]) -> Vec<YesNo> {
    let answers = taken.iter().filter_map(ProofAnswer::of);
    answers.map(|given| given.answer).collect()
}

/// The repeatability to count with: the shop's own history of one gauge used this way, or the
/// register's figure.
fn known_scatter(
    record: &Record,
    method: Method,
    keys: &[&str],
    worst: Option<Gauge>,
) -> (Option<Repeatability>, ScatterFrom) {
    let stated = worst.and_then(Gauge::repeatability);
    let pool = match keys {
        [key] => record
            .pools
            .iter()
            .find(|p| p.gauge_key == *key && p.way == method)
            .map(|p| Pool {
                squares: p.squares,
                dof: p.dof,
            }),
        _ => None,
    };
    let known = pool.unwrap_or_default().or_stated(stated);
    let from = match known {
        None => ScatterFrom::Unknown,
        Some(Repeatability {
            s_nm,
            dof: Some(dof),
        }) if known != stated => ScatterFrom::History { s_nm, dof },
        Some(Repeatability { s_nm, .. }) => ScatterFrom::Register { s_nm },
    };
    (known, from)
}

/// The worst of the wrenches and scales used, in newton metres: a scale's newtons count at the
/// largest radius that was pulled at.
fn torque_gauge(rows: &[&RegisteredGauge], taken: &[Reading]) -> TorqueGauge {
    let radius_m = taken
        .iter()
        .filter_map(PullReading::of)
        .map(|pull| pull.radius_nm.as_f64() / 1e9)
        .fold(0.0, f64::max);
    let arm = |row: &RegisteredGauge| {
        if row.kind == GaugeKind::SpringScale {
            radius_m
        } else {
            1.0
        }
    };
    let worst = |pick: fn(&RegisteredGauge) -> Option<f64>| {
        rows.iter()
            .filter_map(|row| Some(pick(row)? * arm(row)))
            .reduce(f64::max)
    };
    TorqueGauge {
        resolution_n_m: worst(|r| r.resolution_si).unwrap_or(0.0),
        permissible_error_n_m: worst(|r| r.permissible_error_si).unwrap_or(0.0),
        repeatability_n_m: worst(|r| r.repeatability_si),
    }
}

/// Which of the ways counts: the one somebody chose; else the sheet's; else the first taken that can
/// sign; else the first taken.
pub fn counting<'f>(
    record: &Record,
    spec: &Spec<'_>,
    found: &'f [MethodOutcome],
) -> Option<&'f MethodOutcome> {
    let of = |method: Method| found.iter().find(|f| f.method == method);
    // A length is asked for where the check has a window for one.
    let right = |f: &&MethodOutcome| f.is_of(spec);
    record
        .head
        .way
        .and_then(of)
        .filter(right)
        .or_else(|| of(spec.check.method).filter(right))
        .or_else(|| {
            let mut others: Vec<&MethodOutcome> = found.iter().filter(right).collect();
            others.sort_by_key(|f| (!f.signs(), f.first_reading));
            others.first().copied()
        })
}

/// What a way's readings add to the pool of scatter: their own squares and degrees of freedom.
pub fn own_scatter_of(record: &Record, method: Method) -> Option<(String, f64, f64)> {
    let readings: Vec<&ReadingRecord> = record
        .valid_readings()
        .filter(|r| r.way == method)
        .collect();
    let key = readings.first()?.gauge_key.clone()?;
    if readings.iter().any(|r| r.gauge_key.as_ref() != Some(&key)) {
        return None;
    }
    let taken: Vec<Reading> = readings.iter().map(|r| r.taken.clone()).collect();
    let (squares, dof) = own_scatter(method, &taken)?;
    Some((key, squares, dof))
}

/// The methods as a screen shows them.
pub fn method_views(record: &Record, spec: &Spec<'_>, found: &[MethodOutcome]) -> Vec<MethodView> {
    let counts = counting(record, spec, found);
    let window = spec.length.map(|l| l.0);
    found
        .iter()
        .map(|f| {
            let estimate = f.estimate().cloned();
            let this = counts.is_some_and(|c| c.method == f.method);
            let against = counts.filter(|_| !this).and_then(|c| {
                let (first, second) = (as_fitted(record, spec, c)?, as_fitted(record, spec, f)?);
                Some(compare(&second, &first))
            });
            let tilt_called = match (&f.measured.detail, window.and_then(Window::width_nm)) {
                (Detail::Ring { ring }, Some(width)) if f.method == Method::DepthFromBar => {
                    ring.rise_nm > width
                }
                _ => false,
            };
            MethodView {
                method: f.method,
                counts: this,
                readings: f.readings,
                gauges: f.gauges.clone(),
                figures: f.gauge.map(Figures::from),
                scatter_from: f.scatter_from,
                verdict: f.verdict(spec),
                no_estimate: match &f.torque {
                    Some(torque) => torque.as_ref().err().cloned(),
                    None => f.why_none(spec),
                },
                estimate,
                detail: f.measured.detail.clone(),
                tilt_called,
                torque: f.torque.as_ref().and_then(|t| t.as_ref().ok()).cloned(),
                against,
            }
        })
        .collect()
}

/// An estimate as things are fitted now: one with no shim is brought to it by the formula.
fn as_fitted(record: &Record, spec: &Spec<'_>, found: &MethodOutcome) -> Option<Estimate> {
    let mut estimate = found.estimate()?.clone();
    if found.method == Method::NoShim {
        let set_by = spec.check.set_by.as_ref()?;
        let fitted = record.head.fitted_nm? as f64;
        estimate.clearance_nm -= set_by.effect().k() * fitted;
    }
    Some(estimate)
}

/// The leaf to try next, or first; none where those tried contradict each other.
pub fn next_leaf(record: &Record, spec: &Spec<'_>) -> Option<Advice> {
    let method = Method::Feeler;
    let window = spec.length?.0;
    let readings: Vec<&ReadingRecord> = record
        .valid_readings()
        .filter(|r| r.way == method)
        .collect();
    let taken: Vec<Reading> = readings.iter().map(|r| r.taken.clone()).collect();
    let open = feeler::open(&tries(&taken)).ok()?;
    let key = readings.last().and_then(|r| r.gauge_key.as_deref());
    let set = record
        .gauges
        .iter()
        .find(|g| Some(g.gauge_key.as_str()) == key)
        .or_else(|| record.gauge_for(Method::Feeler))?;
    // A leaf under a retainer stands for a clearance that far below nothing.
    let mut adjustments = spec.adjustments(Method::Feeler);
    let window = if spec.stands_off() {
        for adjustment in &mut adjustments {
            adjustment.by = Length::from_nm(-adjustment.by.nm());
        }
        window.mirrored()
    } else {
        window
    };
    let leaves: Vec<Length> = set.leaves_nm.iter().copied().map(Length::from_nm).collect();
    Some(feeler::advise(open, &leaves, window, &adjustments))
}
