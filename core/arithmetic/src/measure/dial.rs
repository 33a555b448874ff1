//! Dial travel: the indicator is zeroed with the shaft home, the shaft is moved until it stops,
//! and the travel is read off; several times, turning the shaft between trials. Where the dial is
//! not zeroed, both ends are read: `travel = out − in`. With no shim fitted it is the same travel. Where the shaft is
//! turned by quarters, the rock is told from the float.

use serde::{Deserialize, Serialize};
use statrs::distribution::{ContinuousCDF, StudentsT};

use crate::measure::depth_ring::{Ring, least_squares, ring};
use crate::measure::estimate::{Unadjusted, finish, mean_line, mean_nm, of_gauge, spread};
use crate::measure::fields::{
    FieldFault, LONGEST_TRAVEL, Shown, Taken, Typed, bounded, fault, signed,
};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Bound, Estimate, Lies};
use crate::uncertainty::gauge::Gauge;
use crate::uncertainty::student_t::t95;
use crate::units::force::Force;
use crate::units::length::{Length, Unit};
use crate::units::working::Line;

/// A travel off a dial zeroed with the shaft home, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TravelInput {
    pub travel: String,
    /// The plunger's tilt in degrees; empty for none.
    #[serde(default)]
    pub tilt: String,
    /// How hard the shaft was pulled; empty where it was not noted.
    #[serde(default)]
    pub pull: String,
    /// How many quarter turns from where the first travel was taken, 0 to 3; none where that is not said.
    #[serde(default)]
    pub turned: Option<u8>,
}

/// A travel off a dial zeroed with the shaft home.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TravelReading {
    pub travel_nm: Length,
    /// The plunger's tilt in degrees.
    #[serde(default)]
    pub tilt_deg: f64,
    /// How hard the shaft was pulled in newtons, where it was noted.
    #[serde(default)]
    pub pull_n: Option<f64>,
    /// How many quarter turns from where the first travel was taken, 0 to 3, where that was said.
    #[serde(default)]
    pub turned: Option<u8>,
}

/// A travel off a dial that was not zeroed, read at both ends, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PairInput {
    /// The dial with the shaft home.
    pub home: String,
    /// The dial with the shaft out.
    pub out: String,
    /// The plunger's tilt in degrees; empty for none.
    #[serde(default)]
    pub tilt: String,
    /// How hard the shaft was pulled; empty where it was not noted.
    #[serde(default)]
    pub pull: String,
    /// How many quarter turns from where the first travel was taken, 0 to 3; none where that is not said.
    #[serde(default)]
    pub turned: Option<u8>,
}

/// A travel off a dial that was not zeroed: read at both ends.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PairReading {
    /// The dial with the shaft home.
    pub home_nm: Length,
    /// The dial with the shaft out.
    pub out_nm: Length,
    /// The plunger's tilt in degrees.
    #[serde(default)]
    pub tilt_deg: f64,
    /// How hard the shaft was pulled in newtons, where it was noted.
    #[serde(default)]
    pub pull_n: Option<f64>,
    /// How many quarter turns from where the first travel was taken, 0 to 3, where that was said.
    #[serde(default)]
    pub turned: Option<u8>,
}

impl Typed for TravelInput {
    type Reading = TravelReading;
    const METHODS: &'static [Method] = &[Method::DialTravel, Method::NoShim];

    fn text(&self) -> String {
        self.travel.trim().to_owned()
    }

    fn read(&self, unit: Unit) -> Result<TravelReading, FieldFault> {
        Ok(TravelReading {
            travel_nm: travelled(&self.travel, unit)?,
            tilt_deg: degrees(&self.tilt)?,
            pull_n: pulled(&self.pull)?,
            turned: quarters(self.turned)?,
        })
    }
}

impl Typed for PairInput {
    type Reading = PairReading;
    const METHODS: &'static [Method] = TravelInput::METHODS;

    fn text(&self) -> String {
        format!("{} to {}", self.home.trim(), self.out.trim())
    }

    fn read(&self, unit: Unit) -> Result<PairReading, FieldFault> {
        let home_nm = signed("home", &self.home, unit)?;
        let out_nm = signed("out", &self.out, unit)?;
        if out_nm < home_nm {
            return Err(fault(
                "out",
                "the dial reads less out than home, so the travel would be below nothing: swap the two, or set the plunger so that it goes in as the shaft comes out",
            ));
        }
        Ok(PairReading {
            home_nm,
            out_nm,
            tilt_deg: degrees(&self.tilt)?,
            pull_n: pulled(&self.pull)?,
            turned: quarters(self.turned)?,
        })
    }
}

impl Taken for TravelReading {
    fn shown(&self) -> Shown {
        Shown::length(Some(self.travel_nm))
    }
}

impl Taken for PairReading {
    fn shown(&self) -> Shown {
        Shown::length(self.out_nm.checked_sub(self.home_nm))
    }
}

impl TravelReading {
    pub(super) fn trial(&self) -> Trial {
        Trial {
            travel: self.travel_nm,
            pair: false,
            tilt_deg: self.tilt_deg,
            pull_n: self.pull_n,
            turned: self.turned,
        }
    }
}

impl PairReading {
    /// The trial; none where the two ends are further apart than a length can say.
    pub(super) fn trial(&self) -> Option<Trial> {
        Some(Trial {
            travel: self.figure()?,
            pair: true,
            tilt_deg: self.tilt_deg,
            pull_n: self.pull_n,
            turned: self.turned,
        })
    }
}

fn travelled(text: &str, unit: Unit) -> Result<Length, FieldFault> {
    bounded("travel", text, unit, LONGEST_TRAVEL, |length| {
        format!("{length} is further than any dial travels (100 mm)")
    })
}

fn degrees(text: &str) -> Result<f64, FieldFault> {
    let bare = text.trim().trim_end_matches('°').trim().replace(',', ".");
    if bare.is_empty() {
        return Ok(0.0);
    }
    match bare.parse::<f64>() {
        Ok(angle) if (0.0..MOST_TILT_DEG).contains(&angle) => Ok(angle),
        _ => Err(fault(
            "tilt",
            "the plunger's tilt is in degrees, from 0 to below 60, such as 5",
        )),
    }
}

fn pulled(text: &str) -> Result<Option<f64>, FieldFault> {
    if text.trim().is_empty() {
        return Ok(None);
    }
    Force::read(text)
        .map(|force| Some(force.0))
        .map_err(|why| fault("pull", why))
}

fn quarters(turned: Option<u8>) -> Result<Option<u8>, FieldFault> {
    match turned {
        Some(4..) => Err(fault(
            "turned",
            "a shaft is turned by 0, 1, 2 or 3 quarters from where the first travel was taken",
        )),
        turned => Ok(turned),
    }
}

/// One travel, however it was read.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct Trial {
    /// How far the shaft moved.
    pub travel: Length,
    /// Read at both ends, so that the scale's step counts twice.
    pub pair: bool,
    /// How far the plunger leans from the shaft's axis, in degrees; it then reads long.
    pub tilt_deg: f64,
    /// How hard the shaft was pulled in newtons, where it was noted.
    pub pull_n: Option<f64>,
    /// How many quarter turns from where the first travel was taken, 0 to 3, where that was said.
    pub turned: Option<u8>,
}

impl Trial {
    /// What the shaft moved, the plunger's tilt taken out, in nanometres.
    fn true_nm(&self) -> f64 {
        self.travel.as_f64() * self.tilt_deg.to_radians().cos()
    }
}

/// A plunger leaning further than this measures nothing.
const MOST_TILT_DEG: f64 = 60.0;

/// Estimates a clearance from travels off a zeroed dial; see [`estimate_trials`].
///
/// ```
/// use anvil_arithmetic::uncertainty::gauge::Gauge;
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::measure::dial::estimate;
/// let gauge = Gauge::new(Length::from_nm(10_000), Length::from_nm(12_000), None).unwrap();
/// let travels = [310_000, 316_000, 310_000].map(Length::from_nm);
/// let found = estimate(&travels, gauge, &[]).unwrap();
/// assert_eq!(found.clearance_nm, 312_000.0);
/// assert_eq!(found.spread_nm, 6_000.0);
/// ```
///
/// # Errors
/// As of [`estimate_trials`].
pub fn estimate(
    travels: &[Length],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    let trials: Vec<Trial> = travels
        .iter()
        .map(|travel| Trial {
            travel: *travel,
            ..Trial::default()
        })
        .collect();
    estimate_trials(&trials, gauge, adjustments)
}

/// Estimates a clearance from travels.
///
/// Mean and scatter come from the travels, each corrected for the plunger's tilt; where the gauge's repeatability
/// is known it stands in for the readings' own scatter (JCGM 100, 4.2.4), unless they scatter more than it explains
/// (chi-square, 5 %). Scale step (once, or twice for a pair), permissible error and adjustments are added root-sum-
/// square. Where pulls were noted and the travel follows them, it is said.
///
/// # Formula
/// `true = reading × cos θ` (plane trigonometry); the mean; `u² = s²/n + r²/12 + e²/3 + Σ t²/3`, the step `r` counted
/// twice for a pair (JCGM 100:2008, 4.2.3, 4.3.7, F.2.2.1). The slope against the pull by least squares, Student's t, 5 %.
///
/// # Errors
/// Where there is no travel, one is below nothing, none moved, a plunger leans too far, or the scatter is unknown.
pub fn estimate_trials(
    trials: &[Trial],
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<Estimate, MeasureError> {
    if trials.is_empty() {
        return Err(MeasureError::NoReadings);
    }
    if let Some(at) = trials.iter().position(|t| t.travel < Length::ZERO) {
        return Err(MeasureError::Negative { trial: at + 1 });
    }
    let upright = |t: &Trial| (0.0..MOST_TILT_DEG).contains(&t.tilt_deg);
    if let Some(at) = trials.iter().position(|t| !upright(t)) {
        return Err(MeasureError::BadTilt { trial: at + 1 });
    }
    if trials.iter().all(|t| t.travel == Length::ZERO) {
        return Err(MeasureError::NoFloat);
    }
    let tilted = trials.iter().any(|t| t.tilt_deg > 0.0);
    let true_nm: Vec<f64> = trials.iter().map(Trial::true_nm).collect();
    let n = trials.len();
    let mean = if tilted {
        true_nm.iter().sum::<f64>() / n as f64
    } else {
        mean_nm(&trials.iter().map(|t| t.travel).collect::<Vec<_>>())
    };
    // Three travels lie on any such curve: they need a gauge whose scatter is known.
    let rock = Rock::of(trials).filter(|_| n > 3 || gauge.repeatability().is_some());
    let mean = rock.as_ref().map_or(mean, |r| r.ring.mean_nm);
    let own = left_over(trials, mean, rock.as_ref());
    let looks = if trials.iter().any(|t| t.pair) { 2 } else { 1 };
    let step_nm = gauge.resolution().as_f64() * (looks as f64).sqrt();
    let scatter = scatter(own, gauge.repeatability(), step_nm)?;
    let mut working = Vec::new();
    if tilted {
        working.extend(trials.iter().zip(&true_nm).map(|(t, true_nm)| {
            Line::new()
                .length(t.travel.as_f64())
                .text(" × cos ")
                .number(t.tilt_deg, 1)
                .text("° = ")
                .length(*true_nm)
        }));
    }
    let mut of_mean = scatter.part(n);
    if let Some(rock) = &rock {
        of_mean.u_nm = scatter.s_nm * rock.share.sqrt();
        working.push(rock.line());
    } else {
        working.push(mean_line(&true_nm, mean));
    }
    let found = Unadjusted {
        trial_nm: mean,
        readings: n,
        spread_nm: spread(&true_nm),
        parts: [of_mean]
            .into_iter()
            .chain(of_gauge(gauge, looks))
            .collect(),
        scatter: Some(scatter),
        working,
    };
    let mut estimate = finish(found, adjustments)?;
    estimate.notes.extend(follows_the_pull(trials, &true_nm));
    estimate.notes.extend(match &rock {
        Some(rock) => rock.note(scatter.s_nm, scatter.dof),
        None => turned_too_little(trials),
    });
    Ok(estimate)
}

/// Rock of the shaft, or run-out of the face it is measured on, told from its float by turning it.
struct Rock {
    ring: Ring,
    /// The share of one reading's variance in that of the fitted mean, and in that of the amplitude.
    share: f64,
    share_of_amplitude: f64,
}

impl Rock {
    /// None where some travels do not say how far the shaft was turned, or it was not turned to three quarters.
    ///
    /// # Formula
    /// `t(φ) = m + a cos φ + b sin φ` by least squares over the quarters: `m` is the float, `√(a² + b²)` the rock.
    fn of(trials: &[Trial]) -> Option<Self> {
        let point = |t: &Trial| {
            let turns = f64::from(t.turned?) / 4.0;
            Some((std::f64::consts::TAU * turns, t.true_nm()))
        };
        let points = trials.iter().map(point).collect::<Option<Vec<_>>>()?;
        let fitted = least_squares(&points)?;
        let missing = (0..4_u8).filter(|q| trials.iter().all(|t| t.turned != Some(*q)));
        let missing = missing.map(|q| u16::from(q) + 1).collect();
        Some(Self {
            share: fitted.inverse[0][0],
            share_of_amplitude: fitted.inverse[1][1].max(fitted.inverse[2][2]),
            ring: ring(&points, Some(&fitted), missing),
        })
    }

    fn line(&self) -> Line {
        Line::new()
            .text("over the quarters: float ")
            .length(self.ring.mean_nm)
            .text(", rock ± ")
            .length(self.ring.rise_nm / 2.0)
            .text(", most at ")
            .number(self.ring.deepest_deg, 0)
            .text("°")
    }

    /// Says so where the rock is more than the scatter of the readings explains, at 95 %.
    fn note(&self, s_nm: f64, dof: Option<f64>) -> Option<Line> {
        let amplitude = self.ring.rise_nm / 2.0;
        let explained = t95(dof) * s_nm * self.share_of_amplitude.sqrt();
        (amplitude > explained).then(|| {
            Line::new()
                .text("It rocks by ± ")
                .length(amplitude)
                .text(" as it is turned: the face runs out, or the shaft is not square to it. That is taken out of the float.")
        })
    }
}

/// Some travels say how far the shaft was turned, and not enough of them.
fn turned_too_little(trials: &[Trial]) -> Option<Line> {
    let said = trials.iter().filter(|t| t.turned.is_some()).count();
    (said > 0).then(|| {
        Line::new().text(if said < trials.len() {
            "Some travels do not say how far the shaft was turned, so rock cannot be told from float: turn it for each."
        } else {
            "Rock is told from float once the shaft was turned to three quarters; all four are better."
        })
    })
}

/// The squares that the mean, or the fit over the quarters, leaves over, and their degrees of freedom; none of too few.
fn left_over(trials: &[Trial], mean: f64, rock: Option<&Rock>) -> Option<(f64, f64)> {
    let n = trials.len() as f64;
    let (squares, dof) = if let Some(rock) = rock {
        let off = rock.ring.places.iter().map(|p| p.depth_nm - p.fitted_nm);
        (off.map(|o| o * o).sum(), n - 3.0)
    } else {
        let off = trials.iter().map(|t| (t.true_nm() - mean).powi(2));
        (off.sum(), n - 1.0)
    };
    (dof > 0.0).then_some((squares, dof))
}

/// The rock drawn, where it can be told.
pub(super) fn rock(trials: &[Trial]) -> Option<Ring> {
    Rock::of(trials).map(|rock| rock.ring)
}

/// What a travel of nothing proves: no float, and no word of how much preload. `shift_nm` is what trial to final adds.
pub(super) fn bound(estimate: &Result<Estimate, MeasureError>, shift_nm: f64) -> Option<Bound> {
    matches!(estimate, Err(MeasureError::NoFloat)).then_some(Bound {
        limit_nm: shift_nm,
        lies: Lies::Below,
    })
}

/// Says so where the travel follows how hard the shaft is pulled: the slope of the least-squares
/// line is not nought (Student's t, 5 %).
fn follows_the_pull(trials: &[Trial], true_nm: &[f64]) -> Option<Line> {
    let points: Vec<(f64, f64)> = trials
        .iter()
        .zip(true_nm)
        .filter_map(|(t, nm)| Some((t.pull_n?, *nm)))
        .collect();
    let n = points.len() as f64;
    if n < 3.0 {
        return None;
    }
    let mean = |pick: fn(&(f64, f64)) -> f64| points.iter().map(pick).sum::<f64>() / n;
    let (x, y) = (mean(|p| p.0), mean(|p| p.1));
    let sxx: f64 = points.iter().map(|p| (p.0 - x).powi(2)).sum();
    if sxx <= 0.0 {
        return None;
    }
    let slope = points.iter().map(|p| (p.0 - x) * (p.1 - y)).sum::<f64>() / sxx;
    let left: f64 = points
        .iter()
        .map(|p| (p.1 - y - slope * (p.0 - x)).powi(2))
        .sum();
    let u = (left / (n - 2.0) / sxx).sqrt();
    let sure = StudentsT::new(0.0, 1.0, n - 2.0).map_or(f64::INFINITY, |t| t.inverse_cdf(0.975));
    if slope.abs() <= sure * u {
        return None;
    }
    let each = |line: Line| {
        line.length(slope.abs() * 10.0)
            .text(" for every 10 N more pull")
    };
    Some(if slope > 0.0 {
        each(Line::new().text("The travel grows by "))
            .text(": the force flexes the case. Stop pulling as soon as the needle stops.")
    } else {
        each(Line::new().text("The travel shrinks by "))
            .text(": no shaft does that. The gauge or its stand moves; fix it and measure anew.")
    })
}

/// The scatter of travels about their mean, or about what is fitted over the quarters: the sum of squared deviations in
/// square nanometres, and its degrees of freedom; none of too few.
pub(super) fn own_scatter(trials: &[Trial]) -> Option<(f64, f64)> {
    let mean = trials.iter().map(Trial::true_nm).sum::<f64>() / trials.len() as f64;
    left_over(trials, mean, Rock::of(trials).as_ref())
}
