//! Backlash at several teeth round a ring gear: the mean, the run-out, and how much it grows as the ring gear moves
//! away from its pinion.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_nm, of_gauge, spread};
use crate::measure::fields::{
    FieldFault, LONGEST_TRAVEL, Shown, Taken, Typed, counted, fault, signed, up_to,
};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::uncertainty::student_t::{probability_between, t95};
use crate::units::length::{Length, Unit};
use crate::units::working::Line;
use crate::verdict::{Call, Verdict, call_between};

/// Fewer places round the gear than this tell no run-out.
pub const FEWEST_PLACES: u16 = 4;

/// What a ring gear's backlash is held to.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mesh {
    /// At how many places round the gear it is taken, evenly spaced.
    pub places: u16,
    /// How far the widest and the narrowest may differ, in nanometres.
    pub run_out_nm: Length,
    /// By how much it grows as the ring gear moves away from the pinion by one.
    pub per_move: f64,
    /// The standard uncertainty of that.
    pub u_per_move: f64,
}

/// The backlash at one place round the gear, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ToothInput {
    /// At which place, counted from 1.
    pub place: u16,
    /// The backlash there.
    pub play: String,
    /// How far the ring gear stands from where it is set, away from the pinion; below zero where nearer. Empty where it
    /// stands as it is set.
    #[serde(default)]
    pub moved: String,
}

/// The backlash at one place round the gear.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ToothReading {
    /// At which place, counted from 1.
    pub place: u16,
    /// The backlash there.
    pub play_nm: Length,
    /// How far the ring gear was moved away from the pinion for it; zero as it is set.
    pub moved_nm: Length,
}

impl Typed for ToothInput {
    type Reading = ToothReading;
    const METHODS: &'static [Method] = &[Method::AtTeeth];

    fn text(&self) -> String {
        let moved = self.moved.trim();
        let moved = if moved.is_empty() {
            String::new()
        } else {
            format!(", ring gear moved by {moved}")
        };
        format!("place {}: {}{moved}", self.place, self.play.trim())
    }

    fn read(&self, unit: Unit) -> Result<ToothReading, FieldFault> {
        let moved_nm = if self.moved.trim().is_empty() {
            Length::ZERO
        } else {
            let moved = signed("moved", &self.moved, unit)?;
            if moved == Length::ZERO {
                return Err(fault(
                    "moved",
                    "moved by nothing is the same set-up again, and tells nothing of the slope: leave it empty, or move the ring gear",
                ));
            }
            if moved.nm().unsigned_abs() > MOST_MOVED.nm().unsigned_abs() {
                return Err(fault(
                    "moved",
                    format!(
                        "{moved} is more than the {MOST_MOVED} that teeth still mesh over: check the figure and its unit"
                    ),
                ));
            }
            moved
        };
        Ok(ToothReading {
            place: counted("place", self.place)?,
            play_nm: up_to("play", &self.play, unit, LONGEST_TRAVEL)?,
            moved_nm,
        })
    }
}

/// A ring gear moved further than this is out of its mesh: 5 mm.
const MOST_MOVED: Length = Length::from_nm(5_000_000);

impl Taken for ToothReading {
    fn shown(&self) -> Shown {
        Shown::length_of(Some(self.play_nm), self.moved_nm.nm())
    }
}

/// Why readings of backlash give no estimate.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum BacklashError {
    /// The sheet does not say at how many places.
    #[error("the sheet does not say at how many teeth it is taken, nor what run-out is allowed")]
    NotSaid,
    /// A place that is not there.
    #[error("place {place}: the sheet has {places} round the gear, counted from 1")]
    NoSuchPlace {
        /// The place named.
        place: u16,
        /// How many there are.
        places: u16,
    },
    /// Some have no reading yet.
    #[error("one tooth tells no run-out: still without a reading, place {}", list(.0))]
    Untried(Vec<u16>),
    /// Further away it has less play.
    #[error(
        "the ring gear was moved away from the pinion, and the backlash did not grow: look which way it went, and which set-up each figure is of"
    )]
    Backwards,
}

fn list(places: &[u16]) -> String {
    let numbers: Vec<String> = places.iter().map(u16::to_string).collect();
    numbers.join(", ")
}

/// What was found round the gear.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct BacklashFound {
    /// The places with a reading as the gear is set, in order.
    pub each: Vec<ToothFound>,
    /// How many places there are.
    pub places: u16,
    /// How far the widest and the narrowest differ, in nanometres.
    pub run_out_nm: f64,
    /// The standard uncertainty of that.
    pub u_run_out_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// How far they may differ, in nanometres.
    pub allowed_nm: Length,
    /// Whether they do not differ by more.
    pub true_running: Call,
    /// By how much it grows as the ring gear moves away by one: as found by a second set-up, or the sheet's.
    pub per_move: f64,
    /// The standard uncertainty of that.
    pub u_per_move: f64,
    /// It was found by a second set-up.
    pub found_here: bool,
    /// A second set-up that is begun still wants these places.
    pub moved_untried: Vec<u16>,
}

/// What was found at one place.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ToothFound {
    /// Which one, counted from 1.
    pub place: u16,
    /// The mean of its readings in nanometres.
    pub play_nm: f64,
    /// How many readings it has.
    pub readings: usize,
}

/// One set-up: how far the ring gear was moved, and the mean at each place.
struct SetUp {
    moved_nm: f64,
    each: Vec<ToothFound>,
}

impl SetUp {
    fn mean_nm(&self) -> f64 {
        self.each.iter().map(|e| e.play_nm).sum::<f64>() / self.each.len() as f64
    }

    /// As many readings as would give a mean of one place after another the same scatter.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a count of readings
    fn readings(&self) -> usize {
        let places = self.each.len() as f64;
        let inverse: f64 = self.each.iter().map(|e| 1.0 / e.readings as f64).sum();
        (places * places / inverse + 1e-9).floor() as usize
    }

    fn untried(&self, places: u16) -> Vec<u16> {
        (1..=places)
            .filter(|p| !self.each.iter().any(|e| e.place == *p))
            .collect()
    }
}

/// The mean backlash as the gear is set, with its run-out and what it grows by.
///
/// Scatter is that of readings at the same tooth, pooled over all of them; what differs from tooth to tooth is run-out
/// and no scatter. A shift of the ring gear counts as exact.
///
/// # Formula
/// `m = Σ (x − x̄)(b − b̄) / Σ (x − x̄)²` over the set-ups, `u(m) = u(b) / √Σ (x − x̄)²`: the gauge's own error is the
/// same in all and falls out.
///
/// # Errors
/// Where there is no reading as the gear is set, or one is of a place that is not there. The inner one: where a place has
/// no reading yet, or a second set-up contradicts the first.
pub fn estimate(
    taken: &[ToothReading],
    mesh: Mesh,
    gauge: Gauge,
    adjustments: &[Adjustment],
) -> Result<(Result<Estimate, MeasureError>, BacklashFound), MeasureError> {
    if let Some(bad) = taken.iter().find(|t| !(1..=mesh.places).contains(&t.place)) {
        return Err(BacklashError::NoSuchPlace {
            place: bad.place,
            places: mesh.places,
        }
        .into());
    }
    let mut groups = Vec::new();
    let set_ups = set_ups(taken, mesh.places, &mut groups);
    let (moved, set): (Vec<&SetUp>, Vec<&SetUp>) =
        set_ups.iter().partition(|s| s.moved_nm.abs() > 0.0);
    let set = *set.first().ok_or(MeasureError::NoReadings)?;
    let told = scatter::within(&groups).filter(|(squares, _)| *squares > 0.0);
    let scatter = scatter(told, gauge.repeatability(), gauge.resolution().as_f64()).ok();
    let seen = |readings: usize| -> Vec<Component> {
        let step = of_gauge(gauge, 1).take(1);
        scatter
            .map(|s| s.part(readings))
            .into_iter()
            .chain(step)
            .collect()
    };
    let (u_one, dof) = combined_uncertainty(&seen(1));
    let mut found = compared(set, mesh, (u_one, dof));
    let done: Vec<&SetUp> = moved
        .iter()
        .filter(|s| s.untried(mesh.places).is_empty())
        .copied()
        .collect();
    let open = moved.iter().map(|s| s.untried(mesh.places));
    found.moved_untried = open.flatten().collect();
    let untried = set.untried(mesh.places);
    if !untried.is_empty() {
        return Ok((Err(BacklashError::Untried(untried).into()), found));
    }
    let readings = set.readings();
    let mean = set.mean_nm();
    let mut line = Line::new().text("(");
    for (i, e) in set.each.iter().enumerate() {
        line = line.text(if i == 0 { "" } else { " + " }).length(e.play_nm);
    }
    let line = line.text(format!(") ÷ {} = ", set.each.len())).length(mean);
    let run_out = Line::new()
        .text("run-out: widest less narrowest ")
        .length(found.run_out_nm)
        .text(", up to ")
        .length(mesh.run_out_nm.as_f64());
    let mut working = vec![line, run_out];
    if !done.is_empty() {
        let u_b = combined_uncertainty(&seen(readings)).0;
        let Some((per_move, u_per_move)) = slope(set, &done, u_b) else {
            return Ok((Err(BacklashError::Backwards.into()), found));
        };
        (found.per_move, found.u_per_move, found.found_here) = (per_move, u_per_move, true);
        working.push(slope_line(set, &done, per_move, t95(dof) * u_per_move));
    }
    let figures: Vec<f64> = set.each.iter().map(|e| e.play_nm).collect();
    let parts = scatter
        .map(|s| s.part(readings))
        .into_iter()
        .chain(of_gauge(gauge, 1))
        .collect();
    let estimate = finish(
        Unadjusted {
            trial_nm: mean,
            readings: taken.iter().filter(|t| t.moved_nm == Length::ZERO).count(),
            spread_nm: spread(&figures),
            parts,
            scatter: None,
            working,
        },
        adjustments,
    );
    Ok((estimate, found))
}

/// The readings by how far the ring gear was moved for them, as it is set first.
fn set_ups(taken: &[ToothReading], places: u16, groups: &mut Vec<Vec<Length>>) -> Vec<SetUp> {
    let mut moves: Vec<Length> = taken.iter().map(|t| t.moved_nm).collect();
    moves.sort_by_key(|m| (*m != Length::ZERO, *m));
    moves.dedup();
    moves
        .into_iter()
        .map(|moved| {
            let each = (1..=places).filter_map(|place| {
                let own: Vec<Length> = taken
                    .iter()
                    .filter(|t| t.place == place && t.moved_nm == moved)
                    .map(|t| t.play_nm)
                    .collect();
                if own.is_empty() {
                    return None;
                }
                let found = ToothFound {
                    place,
                    play_nm: mean_nm(&own),
                    readings: own.len(),
                };
                groups.push(own);
                Some(found)
            });
            SetUp {
                moved_nm: moved.as_f64(),
                each: each.collect(),
            }
        })
        .collect()
}

/// By how much the backlash grows as the ring gear moves away, with its standard uncertainty; none where it does not.
fn slope(set: &SetUp, moved: &[&SetUp], u_b_nm: f64) -> Option<(f64, f64)> {
    let points: Vec<(f64, f64)> = std::iter::once(&set)
        .chain(moved)
        .map(|s| (s.moved_nm, s.mean_nm()))
        .collect();
    let n = points.len() as f64;
    let x = points.iter().map(|p| p.0).sum::<f64>() / n;
    let b = points.iter().map(|p| p.1).sum::<f64>() / n;
    let squares: f64 = points.iter().map(|p| (p.0 - x).powi(2)).sum();
    let m = points.iter().map(|p| (p.0 - x) * (p.1 - b)).sum::<f64>() / squares;
    (m > 0.0).then(|| (m, u_b_nm / squares.sqrt()))
}

fn slope_line(set: &SetUp, moved: &[&SetUp], per_move: f64, expanded: f64) -> Line {
    let mut line = Line::new();
    for s in moved {
        line = line
            .text("moved by ")
            .signed_length(s.moved_nm)
            .text(" it is ")
            .length(s.mean_nm())
            .text(", ");
    }
    line.text("from ")
        .length(set.mean_nm())
        .text(": grows by ")
        .number(per_move, 3)
        .text(" ± ")
        .number(expanded, 3)
        .text(" of each shift")
}

/// The places beside one another.
fn compared(set: &SetUp, mesh: Mesh, (u_one, dof): (f64, Option<f64>)) -> BacklashFound {
    let plays: Vec<f64> = set.each.iter().map(|e| e.play_nm).collect();
    let run_out_nm = spread(&plays);
    let fewest = set.each.iter().map(|e| e.readings).min().unwrap_or(1);
    let u_run_out_nm = u_one * (2.0 / fewest as f64).sqrt();
    let expanded = t95(dof) * u_run_out_nm;
    let true_running = match call_between(
        run_out_nm - expanded,
        run_out_nm + expanded,
        f64::NEG_INFINITY,
        mesh.run_out_nm.as_f64(),
    ) {
        Call::Loose => Call::Failed,
        call => call,
    };
    BacklashFound {
        each: set.each.clone(),
        places: mesh.places,
        run_out_nm,
        u_run_out_nm,
        dof,
        allowed_nm: mesh.run_out_nm,
        true_running,
        per_move: mesh.per_move,
        u_per_move: mesh.u_per_move,
        found_here: false,
        moved_untried: Vec::new(),
    }
}

impl BacklashFound {
    /// The verdict on mean and run-out, from that on the mean: in only where both are. No piece out of a drawer mends a
    /// gear that does not run true.
    ///
    /// # Formula
    /// `P(both) ≥ P(mean in) + P(run-out in) − 1` (Boole's inequality).
    pub(super) fn weigh(&self, verdict: &mut Verdict) {
        let most = self.allowed_nm.as_f64();
        let (spread, u) = (self.run_out_nm, self.u_run_out_nm);
        let runs_true = probability_between(spread, u, self.dof, f64::NEG_INFINITY, most);
        verdict.chance = (verdict.chance + runs_true - 1.0).clamp(0.0, 1.0);
        let worse = match self.true_running {
            Call::In => false,
            Call::Inconclusive => verdict.call == Call::In,
            _ => true,
        };
        if worse {
            verdict.call = self.true_running;
            verdict.settled_by = None;
            verdict.one_more = None;
        }
    }
}
