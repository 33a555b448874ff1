//! What stands beside the choice: the book's window, hot and cold, the sheet's chart.

use std::collections::BTreeMap;

use anvil_arithmetic::choose::{self, Choices, Pieces};
use anvil_arithmetic::materials::thermal::HotAndCold;
use anvil_arithmetic::materials::thermal::{REFERENCE_C, hot_and_cold};
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock};
use anvil_arithmetic::stock::pieces::PiecesDoubt;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::working::Line;
use anvil_arithmetic::units::working::Working;
use anvil_arithmetic::verdict::Verdict;
use anvil_arithmetic::verdict::window::Ends;
use anvil_arithmetic::verdict::window::Window;
use anvil_arithmetic::verdict::{conformance_probability, judge};
use serde::Serialize;

use super::offer::none_on_hand;
use super::record::Record;
use super::spec::Spec;
use crate::sheet::HotAt;
use crate::sheet::chart;
use crate::texts::in_sentence;

/// What the book's window says of a check that is worked to another.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct ByBook {
    /// The book's window.
    pub window: Ends,
    /// The verdict on what counts, by it.
    pub verdict: Option<Verdict>,
    /// The chance of each choice to land in it, by total thickness in nanometres.
    // A name in JSON is a text.
    #[schema(value_type = BTreeMap<String, f64>)]
    pub chances: BTreeMap<i64, f64>,
    /// The best choice on hand by it, where none reaches the shop's floor in the window worked to.
    pub best: Option<choose::Choice>,
}

/// A clearance hot and cold.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct Hot {
    /// As measured, where it is.
    pub measured: Option<HotAndCold>,
    /// As the pieces chosen would leave it, or else the best choice.
    pub expected: Option<HotAndCold>,
    /// The temperatures that the window holds at, where they are not 20 °C.
    pub window_at: Option<HotAt>,
    /// The clearance there, in nanometres.
    pub window_nm: Option<f64>,
    /// The same at 20 °C.
    pub cold_nm: Option<f64>,
    /// The arithmetic of the growth.
    pub working: Working,
}

/// What a selection chart says, beside what is worked out.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct ChartSays {
    /// What is measured to read it.
    pub measured: String,
    /// The depth it was read at, in nanometres: what was measured, with no piece in.
    pub depth_nm: f64,
    /// What it says.
    pub answer: chart::Answer,
    /// What its piece would give, where the drawer has it; of a range the one nearest what is aimed at.
    pub choice: Option<choose::Choice>,
    /// Its piece is the one that the calculation puts first.
    pub agrees: bool,
}

impl Record {
    /// What the book's window says beside the one that is worked to.
    ///
    /// # Errors
    /// Where the request contradicts itself.
    pub fn by_book(
        &self,
        book: Window,
        estimate: Option<&Estimate>,
        request: Option<&choose::Request<'_>>,
        choices: Option<&Choices>,
    ) -> Ruled<ByBook> {
        let listed = choices.into_iter().flat_map(|c| {
            let beside = c.thinner.iter().chain(&c.thicker);
            c.ranked.iter().chain(beside)
        });
        let ends = (book.low_nm(), book.high_nm());
        let by_book = |nm: f64, of_pieces: PiecesDoubt, (u_nm, dof)| match request {
            Some(request) => request.chance_between(nm, request.doubt(of_pieces), ends),
            None => conformance_probability(nm, u_nm, dof, book),
        };
        let chances = listed
            .map(|c| {
                let chance = by_book(c.predicted_nm, c.of_pieces, (c.u_nm, c.dof));
                (c.total_nm.nm(), chance)
            })
            .chain(self.open_setting().map(|s| {
                let of_pieces = self.doubt_of(&s.counts(), None);
                let chance = by_book(s.predicted_nm, of_pieces, (s.u_nm, s.dof));
                (s.total_nm, chance)
            }))
            .collect();
        let best = match request.filter(|_| choices.is_some_and(none_on_hand)) {
            Some(request) => {
                let mut on_hand = request.stock.to_vec();
                on_hand.retain(|s| s.source == Availability::OnHand);
                let asked = choose::Request {
                    window: book,
                    best: 1,
                    stock: &on_hand,
                    ..request.clone()
                };
                let found = choose::choose(&asked).map_err(Refusal::fault)?;
                found.ranked.into_iter().next()
            }
            None => None,
        };
        Ok(ByBook {
            window: book.into(),
            verdict: estimate.map(|e| judge(e, book)),
            chances,
            best: best.filter(|c| c.reaches_floor),
        })
    }

    /// The clearance hot and cold: as measured, and as what is chosen or best would leave it.
    pub fn hot(spec: &Spec<'_>, measured_nm: Option<f64>, expected_nm: Option<f64>) -> Option<Hot> {
        let hot = spec.check.hot.as_ref()?;
        let growth = hot.growth_nm_per_k();
        let mut line = Line::new();
        for (sign, parts) in [(" + ", &hot.case), (" − ", &hot.inside)] {
            for (p, part) in parts.iter().enumerate() {
                if sign == " − " || p > 0 {
                    line = line.text(sign);
                }
                line = line
                    .text(format!("{}: ", in_sentence(&part.what)))
                    .number(part.material.expansion_per_k() * 1e6, 1)
                    .text(" µm/m·K × ")
                    .length(part.length.length().as_f64());
            }
        }
        let line = line
            .text(" = ")
            .number(growth / 1e3, 2)
            .text(" µm a kelvin");
        let mut working = vec![line];
        // The figures hold where the window does, which may be hot.
        let at = hot.window_at.unwrap_or(HotAt::all(REFERENCE_C));
        let from_cold = hot.growth_nm(HotAt::all(REFERENCE_C), at);
        if hot.window_at.is_some() {
            working.push(
                Line::new()
                    .text(format!(
                        "case to {} °C, what it holds to {} °C, from 20 °C: ",
                        at.case_c, at.inside_c
                    ))
                    .signed_length(from_cold),
            );
        }
        let cold = |nm: Option<f64>| nm.map(|nm| hot_and_cold(nm - from_cold, growth));
        Some(Hot {
            measured: cold(measured_nm),
            expected: cold(expected_nm),
            window_at: hot.window_at,
            window_nm: expected_nm
                .or(measured_nm)
                .filter(|_| hot.window_at.is_some()),
            cold_nm: expected_nm
                .or(measured_nm)
                .map(|nm| nm - from_cold)
                .filter(|_| hot.window_at.is_some()),
            working,
        })
    }

    /// What the sheet's chart says: read at the depth with no piece in, in the trial build.
    pub fn chart_says(
        spec: &Spec<'_>,
        method: Method,
        request: &choose::Request<'_>,
        best: Option<&choose::Choice>,
    ) -> Option<ChartSays> {
        let chart = spec.check.chart.as_ref()?;
        let adjustments = spec.trial_to_final(method);
        let to_final: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
        let none_in = request.clearance_nm + request.effect.k() * request.fitted.as_f64();
        let depth_nm = none_in - to_final as f64;
        let rows = chart.lengths();
        let answer = chart::look_up(&rows, depth_nm);
        let row = match answer {
            chart::Answer::Row { row, .. } => rows.get(row - 1),
            _ => None,
        };
        // One size is asked for by its mark; of a range a measured piece will do as well.
        let will_do = |s: &&Stock| {
            row.is_some_and(|r| {
                let ranges = r.piece_nm < r.piece_to_nm;
                r.asks_for(s.thickness_nm) && (ranges || s.grade == Grade::Marked)
            })
        };
        let those = request.stock.iter().filter(will_do).filter_map(|s| {
            let pieces = Pieces {
                thickness_nm: s.thickness_nm,
                grade: s.grade,
                count: 1,
                source: s.source,
            };
            choose::predict(request, &[pieces])
        });
        let choice = those.min_by(|a, b| a.off_target_nm.total_cmp(&b.off_target_nm));
        Some(ChartSays {
            measured: chart.measured.clone(),
            depth_nm,
            answer,
            choice,
            agrees: row.is_some_and(|r| best.is_some_and(|b| r.asks_for(b.total_nm))),
        })
    }
}
