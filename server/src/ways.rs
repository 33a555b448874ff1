//! The ways a check was measured in: each put together with its gauge, and which of them counts.

use anvil_core::drawer::u_of_tolerance;
use anvil_core::estimate::Estimate;
use anvil_core::gauge::{Figures, Gauge, Repeatability};
use anvil_core::judge::Verdict;
use anvil_core::length::Length;
use anvil_core::measure::compare::{Comparison, compare};
use anvil_core::measure::entry::Taken;
use anvil_core::measure::feeler::{self, Advice};
use anvil_core::measure::stack::Term;
use anvil_core::measure::torque::{TorqueFound, TorqueGauge};
use anvil_core::measure::{
    Basis, Detail, Measured, Pool, Way, measure, own_scatter, torques, tries,
};
use anvil_core::sheet::Pinions;
use anvil_core::window::Window;
use serde::Serialize;
use utoipa::ToSchema;

use crate::gap::Spec;
use crate::problem::{Answer, Problem};
use crate::store::check::{Reading, Record};
use crate::store::gauge::{GaugeKind, GaugeRow};

/// One way a check was measured in, this round.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct WayView {
    /// The way.
    pub way: Way,
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
#[derive(Clone, Copy, Debug, PartialEq, Serialize, ToSchema)]
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

/// A way worked out.
pub struct Found {
    /// The way.
    pub way: Way,
    /// What its readings say.
    pub measured: Measured,
    /// The turning torque, where it is one.
    pub torque: Option<Result<TorqueFound, String>>,
    readings: usize,
    gauge: Option<Gauge>,
    gauges: Vec<String>,
    scatter_from: ScatterFrom,
    first_reading: i32,
}

impl Found {
    /// The estimate, where there is one.
    pub fn estimate(&self) -> Option<&Estimate> {
        self.measured.estimate.as_ref().ok()
    }

    /// The verdict on its clearance.
    pub fn verdict(&self, spec: &Spec<'_>) -> Option<Verdict> {
        let (window, _) = spec.length?;
        self.measured
            .verdict(window, &spec.check.final_adjustments())
    }

    /// Whether its figure can sign a check off.
    fn signs(&self) -> bool {
        match &self.torque {
            Some(torque) => torque.is_ok(),
            None => self.estimate().is_some_and(|e| e.signs),
        }
    }
}

/// The kinds of gauge that a way is taken with, the usual first.
pub const fn kinds(way: Way) -> &'static [GaugeKind] {
    match way {
        Way::DialTravel | Way::NoShim | Way::KnownShim => {
            &[GaugeKind::Dial, GaugeKind::Depth, GaugeKind::Micrometer]
        }
        Way::Feeler => &[GaugeKind::Feeler],
        Way::DepthFromBar => &[GaugeKind::Depth, GaugeKind::Dial, GaugeKind::Micrometer],
        Way::StackSum => &[GaugeKind::Micrometer, GaugeKind::Depth, GaugeKind::Dial],
        Way::TurningTorque => &[GaugeKind::TorqueWrench, GaugeKind::SpringScale],
        Way::OneByOne | Way::SelectorGaps => {
            &[GaugeKind::Feeler, GaugeKind::Dial, GaugeKind::Depth]
        }
        Way::ByHand => &[],
    }
}

/// The terms of a check's stack sum.
pub fn terms(spec: &Spec<'_>) -> Vec<Term> {
    spec.terms()
}

/// Works out each way that this round's standing readings were taken in, in the order of the first
/// reading of each. A stack sum needs no reading: where it is the sheet's way it is there at once, until pieces
/// are fitted, of which the sheet's figures say nothing.
pub fn found(record: &Record, spec: &Spec<'_>) -> Answer<Vec<Found>> {
    let mut ways: Vec<Way> = Vec::new();
    for reading in record.standing() {
        if !ways.contains(&reading.way) {
            ways.push(reading.way);
        }
    }
    let summed =
        spec.check.method == Way::StackSum && record.head.round == 0 && !spec.terms().is_empty();
    if summed && !ways.contains(&Way::StackSum) {
        ways.push(Way::StackSum);
    }
    ways.into_iter().map(|way| one(record, spec, way)).collect()
}

fn one(record: &Record, spec: &Spec<'_>, way: Way) -> Answer<Found> {
    let readings: Vec<&Reading> = record.standing().filter(|r| r.way == way).collect();
    let taken: Vec<Taken> = readings.iter().map(|r| r.taken.clone()).collect();
    let mut keys: Vec<&str> = readings
        .iter()
        .filter_map(|r| r.gauge_key.as_deref())
        .collect();
    keys.sort_unstable();
    keys.dedup();
    let mut rows: Vec<&GaugeRow> = record
        .gauges
        .iter()
        .filter(|g| keys.contains(&g.gauge_key.as_str()))
        .collect();
    if rows.is_empty() {
        // A sum of the sheet's own figures: what would measure its terms.
        rows.extend(record.gauge_for(way));
    }
    let names = rows.iter().map(|g| g.name.clone()).collect();
    let lengths = rows
        .iter()
        .filter_map(|g| g.figures())
        .map(Gauge::try_from)
        .collect::<Result<Vec<_>, _>>()
        .map_err(Problem::server)?;
    let worst = Gauge::worst(&lengths);
    let (known, scatter_from) = known_scatter(record, way, &keys, worst);
    let gauge = worst
        .map(|g| Gauge::new(g.resolution(), g.permissible_error(), known))
        .transpose()
        .map_err(Problem::server)?;
    let terms = terms(spec);
    let adjustments = spec.check.final_adjustments();
    let tolerance = Length::from_nm(record.tolerance_nm);
    let selector = spec.check.selector.as_ref();
    let selector = selector.map(|s| record.with_shims(s));
    let basis = Basis {
        gauge,
        adjustments: &adjustments,
        terms: &terms,
        u_shim_nm: u_of_tolerance(tolerance),
        stands_off: spec.stands_off(),
        window: spec.length.map(|l| l.0),
        pinions: spec.check.pinions.as_ref().map(Pinions::held_to),
        selector: selector.as_ref(),
    };
    let measured = measure(way, &taken, &basis);
    let torque = (way == Way::TurningTorque).then(|| {
        torques(
            &taken,
            torque_gauge(&rows, &taken),
            spec.torque.unwrap_or_default(),
        )
        .map_err(|e| e.to_string())
    });
    Ok(Found {
        way,
        measured,
        torque,
        readings: readings.len(),
        gauge,
        gauges: if readings.is_empty() || way == Way::ByHand {
            Vec::new()
        } else {
            names
        },
        scatter_from,
        first_reading: readings.first().map_or(i32::MAX, |r| r.reading_no),
    })
}

/// The repeatability to count with: the shop's own history of one gauge used this way, or the
/// register's figure.
fn known_scatter(
    record: &Record,
    way: Way,
    keys: &[&str],
    worst: Option<Gauge>,
) -> (Option<Repeatability>, ScatterFrom) {
    let stated = worst.and_then(Gauge::repeatability);
    let pool = match keys {
        [key] => record
            .pools
            .iter()
            .find(|p| p.gauge_key == *key && p.way == way)
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
fn torque_gauge(rows: &[&GaugeRow], taken: &[Taken]) -> TorqueGauge {
    let radius_m = taken
        .iter()
        .filter_map(|t| match t {
            Taken::Pull { radius_nm, .. } => Some(radius_nm.as_f64() / 1e9),
            _ => None,
        })
        .fold(0.0, f64::max);
    let arm = |row: &GaugeRow| {
        if row.kind == GaugeKind::SpringScale {
            radius_m
        } else {
            1.0
        }
    };
    let worst = |pick: fn(&GaugeRow) -> Option<f64>| {
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
pub fn counting<'f>(record: &Record, spec: &Spec<'_>, found: &'f [Found]) -> Option<&'f Found> {
    let of = |way: Way| found.iter().find(|f| f.way == way);
    // A length is asked for where the check has a window for one.
    let right = |f: &&Found| (f.way == Way::TurningTorque) != spec.length.is_some();
    record
        .head
        .way
        .as_deref()
        .and_then(way_named)
        .and_then(of)
        .filter(right)
        .or_else(|| of(spec.check.method).filter(right))
        .or_else(|| {
            let mut others: Vec<&Found> = found.iter().filter(right).collect();
            others.sort_by_key(|f| (!f.signs(), f.first_reading));
            others.first().copied()
        })
}

/// The way of that name in the database.
pub fn way_named(name: &str) -> Option<Way> {
    serde_json::from_value(name.into()).ok()
}

/// What a way's readings add to the pool of scatter: their own squares and degrees of freedom.
pub fn scatter_of(record: &Record, way: Way) -> Option<(String, f64, f64)> {
    let readings: Vec<&Reading> = record.standing().filter(|r| r.way == way).collect();
    let key = readings.first()?.gauge_key.clone()?;
    if readings.iter().any(|r| r.gauge_key.as_ref() != Some(&key)) {
        return None;
    }
    let taken: Vec<Taken> = readings.iter().map(|r| r.taken.clone()).collect();
    let (squares, dof) = own_scatter(way, &taken)?;
    Some((key, squares, dof))
}

/// The ways as the screen needs them.
pub fn views(record: &Record, spec: &Spec<'_>, found: &[Found]) -> Vec<WayView> {
    let counts = counting(record, spec, found);
    let window = spec.length.map(|l| l.0);
    found
        .iter()
        .map(|f| {
            let estimate = f.estimate().cloned();
            let this = counts.is_some_and(|c| c.way == f.way);
            let against = counts.filter(|_| !this).and_then(|c| {
                let (first, second) = (as_fitted(record, spec, c)?, as_fitted(record, spec, f)?);
                Some(compare(&second, &first))
            });
            let tilt_called = match (&f.measured.detail, window.and_then(Window::width_nm)) {
                (Detail::Ring { ring }, Some(width)) => ring.rise_nm > width,
                _ => false,
            };
            WayView {
                way: f.way,
                counts: this,
                readings: f.readings,
                gauges: f.gauges.clone(),
                figures: f.gauge.map(Figures::from),
                scatter_from: f.scatter_from,
                verdict: f.verdict(spec),
                no_estimate: match &f.torque {
                    Some(torque) => torque.as_ref().err().cloned(),
                    None => f.measured.estimate.as_ref().err().map(ToString::to_string),
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
fn as_fitted(record: &Record, spec: &Spec<'_>, found: &Found) -> Option<Estimate> {
    let mut estimate = found.estimate()?.clone();
    if found.way == Way::NoShim {
        let set_by = spec.check.set_by.as_ref()?;
        let fitted = record.head.fitted_nm? as f64;
        estimate.clearance_nm -= set_by.effect().k() * fitted;
    }
    Some(estimate)
}

/// The leaf to try next, or first; none where those tried contradict each other.
pub fn next_leaf(record: &Record, spec: &Spec<'_>) -> Option<Advice> {
    let way = Way::Feeler;
    let window = spec.length?.0;
    let readings: Vec<&Reading> = record.standing().filter(|r| r.way == way).collect();
    let taken: Vec<Taken> = readings.iter().map(|r| r.taken.clone()).collect();
    let open = feeler::open(&tries(&taken)).ok()?;
    let key = readings.last().and_then(|r| r.gauge_key.as_deref());
    let set = record
        .gauges
        .iter()
        .find(|g| Some(g.gauge_key.as_str()) == key)
        .or_else(|| record.gauge_for(Way::Feeler))?;
    // A leaf under a retainer stands for a clearance that far below nothing.
    let mut adjustments = spec.check.final_adjustments();
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
