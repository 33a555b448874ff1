//! Planet pinions one by one: the end play of each in the window, and all of them alike (trade practice).

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::estimate::{Unadjusted, finish, mean_nm, of_gauge, shift_nm, spread};
use crate::measure::fields::{FieldFault, LONGEST_TRAVEL, Shown, Taken, Typed, counted, up_to};
use crate::measure::{Adjustment, MeasureError, Method, scatter};
use crate::uncertainty::estimate::{Component, Estimate, combined_uncertainty};
use crate::uncertainty::gauge::Gauge;
use crate::uncertainty::student_t::{probability_between, t95};
use crate::units::length::{Length, Unit};
use crate::units::working::Line;
use crate::verdict::window::Window;
use crate::verdict::{Call, Verdict, call_between};

/// What a carrier's pinions are held to.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pinions {
    /// How many there are.
    pub count: u16,
    /// How far the loosest and the tightest may differ, in nanometres.
    pub alike_nm: Length,
}

/// The end play of one planet pinion, as typed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PinionInput {
    /// Which one, counted from 1.
    pub pinion: u16,
    /// Its end play.
    pub play: String,
}

/// The end play of one planet pinion.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PinionReading {
    /// Which one, counted from 1.
    pub pinion: u16,
    /// Its end play.
    pub play_nm: Length,
}

impl Typed for PinionInput {
    type Reading = PinionReading;
    const METHODS: &'static [Method] = &[Method::OneByOne];

    fn text(&self) -> String {
        format!("pinion {}: {}", self.pinion, self.play.trim())
    }

    fn read(&self, unit: Unit) -> Result<PinionReading, FieldFault> {
        Ok(PinionReading {
            pinion: counted("pinion", self.pinion)?,
            play_nm: up_to("play", &self.play, unit, LONGEST_TRAVEL)?,
        })
    }
}

impl Taken for PinionReading {
    fn shown(&self) -> Shown {
        Shown::length(Some(self.play_nm))
    }
}

/// Why readings of pinions give no estimate.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum PinionsError {
    /// The sheet does not say how many there are.
    #[error("the sheet does not say how many pinions there are, nor how alike they must be")]
    NotSaid,
    /// A pinion that the carrier does not have.
    #[error("pinion {pinion}: the carrier has {count}, counted from 1")]
    NoSuchPinion {
        /// The pinion named.
        pinion: u16,
        /// How many there are.
        count: u16,
    },
    /// Some have no reading yet.
    #[error("every pinion is measured: still without a reading, {}", list(.0))]
    Untried(Vec<u16>),
}

fn list(pinions: &[u16]) -> String {
    let numbers: Vec<String> = pinions.iter().map(u16::to_string).collect();
    numbers.join(", ")
}

/// What was found of the pinions.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PinionsFound {
    /// Those with a reading, in order.
    pub each: Vec<PinionFound>,
    /// How many there are.
    pub count: u16,
    /// How far the loosest and the tightest may differ, in nanometres.
    pub alike_nm: Length,
    /// How far those measured differ, in nanometres.
    pub spread_nm: f64,
    /// The standard uncertainty of that.
    pub u_spread_nm: f64,
    /// Its degrees of freedom; none means infinite.
    pub dof: Option<f64>,
    /// Whether they are alike; too loose where one is far looser than the rest, too tight where one is far
    /// tighter.
    pub alike: Call,
    /// The one furthest from the others, where they are not surely alike.
    pub odd: Option<u16>,
}

/// What was found of one pinion.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PinionFound {
    /// Which one, counted from 1.
    pub pinion: u16,
    /// The mean of its readings in nanometres.
    pub play_nm: f64,
    /// Its standard uncertainty.
    pub u_nm: f64,
    /// How many readings it has.
    pub readings: usize,
}

/// The pinions, and the estimate of the one that is least sure to be in the window.
///
/// Scatter is pooled over all of them; where there is none, and the gauge's is not
/// known, as with a leaf that takes up all the play, the gauge's step stands for it.
///
/// # Formula
/// Scatter `s² = Σ Σ (x − x̄ᵢ)² / Σ (nᵢ − 1)` over all of them (JCGM 100:2008, 4.2.4 and H.3.6).
///
/// # Errors
/// Where there is no reading, or one is below nothing or of a pinion that the carrier does not have. The inner one: where
/// a pinion has no reading yet.
pub fn estimate(
    taken: &[PinionReading],
    of: Pinions,
    gauge: Gauge,
    window: Option<Window>,
    adjustments: &[Adjustment],
) -> Result<(Result<Estimate, MeasureError>, PinionsFound), MeasureError> {
    if taken.is_empty() {
        return Err(MeasureError::NoReadings);
    }
    if let Some(bad) = taken.iter().find(|t| !(1..=of.count).contains(&t.pinion)) {
        return Err(PinionsError::NoSuchPinion {
            pinion: bad.pinion,
            count: of.count,
        }
        .into());
    }
    if let Some(trial) = taken.iter().position(|t| t.play_nm < Length::ZERO) {
        return Err(MeasureError::Negative { trial: trial + 1 });
    }
    let plays = |pinion: u16| -> Vec<Length> {
        let its = taken.iter().filter(|t| t.pinion == pinion);
        its.map(|t| t.play_nm).collect()
    };
    let measured: Vec<(u16, Vec<Length>)> = (1..=of.count)
        .map(|p| (p, plays(p)))
        .filter(|(_, own)| !own.is_empty())
        .collect();
    let groups: Vec<Vec<Length>> = measured.iter().map(|(_, own)| own.clone()).collect();
    let told = scatter::within(&groups).filter(|(squares, _)| *squares > 0.0);
    let scatter = scatter(told, gauge.repeatability(), gauge.resolution().as_f64()).ok();
    let parts = |readings: usize| -> Vec<Component> {
        let of_scatter = scatter.map(|s| s.part(readings));
        of_scatter.into_iter().chain(of_gauge(gauge, 1)).collect()
    };
    let each: Vec<PinionFound> = measured
        .iter()
        .map(|(pinion, own)| PinionFound {
            pinion: *pinion,
            play_nm: mean_nm(own),
            u_nm: combined_uncertainty(&parts(own.len())).0,
            readings: own.len(),
        })
        .collect();
    let found = compared(&each, of, combined_uncertainty(&parts(1)).1);
    let untried: Vec<u16> = (1..=of.count)
        .filter(|p| !each.iter().any(|e| e.pinion == *p))
        .collect();
    if !untried.is_empty() {
        return Ok((Err(PinionsError::Untried(untried).into()), found));
    }
    let shift = shift_nm(adjustments);
    let in_window = |p: &PinionFound| {
        window.map_or(-p.play_nm, |w| {
            let (low, high) = (w.low_nm(), w.high_nm());
            let inside = (p.play_nm + shift - low).min(high - p.play_nm - shift);
            inside / p.u_nm
        })
    };
    let worst = each
        .iter()
        .min_by(|a, b| in_window(a).total_cmp(&in_window(b)))
        .copied()
        .ok_or(MeasureError::NoReadings)?;
    let mut line = Line::new();
    for p in &each {
        let between = if p.pinion == 1 { "" } else { ", " };
        line = line
            .text(format!("{between}pinion {}: ", p.pinion))
            .length(p.play_nm);
    }
    let apart = Line::new()
        .text("loosest less tightest ")
        .length(found.spread_nm)
        .text(", alike up to ")
        .length(of.alike_nm.as_f64());
    let counts = Line::new()
        .text(format!(
            "pinion {} is nearest to a limit, or furthest beyond one: ",
            worst.pinion
        ))
        .length(worst.play_nm);
    let figures: Vec<f64> = each.iter().map(|p| p.play_nm).collect();
    let estimate = finish(
        Unadjusted {
            trial_nm: worst.play_nm,
            readings: worst.readings,
            spread_nm: spread(&figures),
            parts: parts(worst.readings),
            scatter,
            working: vec![line, apart, counts],
        },
        adjustments,
    );
    Ok((estimate, found))
}

/// The pinions beside one another.
fn compared(each: &[PinionFound], of: Pinions, dof: Option<f64>) -> PinionsFound {
    let by_play = |a: &&PinionFound, b: &&PinionFound| a.play_nm.total_cmp(&b.play_nm);
    let (tightest, loosest) = (each.iter().min_by(by_play), each.iter().max_by(by_play));
    let (spread_nm, u_spread_nm) = match (tightest, loosest) {
        (Some(t), Some(l)) if t.pinion != l.pinion => (l.play_nm - t.play_nm, t.u_nm.hypot(l.u_nm)),
        _ => (0.0, 0.0),
    };
    let expanded = t95(dof) * u_spread_nm;
    let (from, to) = (spread_nm - expanded, spread_nm + expanded);
    let called = call_between(from, to, f64::NEG_INFINITY, of.alike_nm.as_f64());
    let apart = |p: &PinionFound| {
        let others = each.iter().filter(|o| o.pinion != p.pinion);
        let sum: f64 = others.map(|o| o.play_nm).sum();
        p.play_nm - sum / (each.len() as f64 - 1.0)
    };
    let odd = each
        .iter()
        .max_by(|a, b| apart(a).abs().total_cmp(&apart(b).abs()))
        .filter(|_| called != Call::In);
    let alike = match odd {
        Some(odd) if called == Call::Loose && apart(odd) < 0.0 => Call::Tight,
        _ => called,
    };
    PinionsFound {
        each: each.to_vec(),
        count: of.count,
        alike_nm: of.alike_nm,
        spread_nm,
        u_spread_nm,
        dof,
        alike,
        odd: odd.map(|p| p.pinion),
    }
}

impl PinionsFound {
    /// The uncertainty of the worst before the trial build is made the final one, in nanometres.
    fn u_worst_nm(&self, of_worst: &Estimate, shift: f64) -> f64 {
        let play = of_worst.clearance_nm - shift;
        let off = |p: &&PinionFound| (p.play_nm - play).abs();
        let worst = self.each.iter().min_by(|a, b| off(a).total_cmp(&off(b)));
        worst.map_or(of_worst.u_nm, |p| p.u_nm)
    }

    /// The verdict on all of them, from that on the worst: in only where each is in and all are alike.
    ///
    /// The chance is what is left when the chances of each to be out are added up: the least that it can be,
    /// however their errors hang together.
    ///
    /// # Formula
    /// `P(all in) ≥ 1 − Σ P(i out)` (Boole's inequality).
    pub(super) fn weigh(
        &self,
        verdict: &mut Verdict,
        of_worst: &Estimate,
        shift: f64,
        window: Window,
    ) {
        // What is known of each has the shape of what is known of the worst.
        let shape = of_worst.distribution();
        let ends = (window.low_nm(), window.high_nm());
        let inside = |p: &PinionFound| {
            // What trial to final adds is as uncertain for each.
            let rest = of_worst.u_nm.powi(2) - self.u_worst_nm(of_worst, shift).powi(2);
            let u = (p.u_nm * p.u_nm + rest.max(0.0)).sqrt();
            let by = if u > 0.0 { of_worst.u_nm / u } else { 1.0 };
            let [low, high] = [ends.0, ends.1].map(|end| (end - p.play_nm - shift) * by);
            shape.between(0.0, low, high)
        };
        let out: f64 = self.each.iter().map(|p| 1.0 - inside(p)).sum();
        let most = self.alike_nm.as_f64();
        let (spread, u) = (self.spread_nm, self.u_spread_nm);
        let alike = probability_between(spread, u, self.dof, f64::NEG_INFINITY, most);
        verdict.chance = (alike - out).clamp(0.0, 1.0);
        let worse = |call: Call| match call {
            Call::In => 0,
            Call::Inconclusive => 1,
            Call::Tight | Call::Loose | Call::Failed => 2,
        };
        if worse(self.alike) > worse(verdict.call) {
            verdict.call = self.alike;
            verdict.settled_by = None;
            verdict.one_more = None;
        }
    }
}
