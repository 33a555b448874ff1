//! What stands beside the choice: the book's window, hot and cold, the sheet's chart.

use anvil_core::chart;
use anvil_core::choose::{self, Choices, Pieces};
use anvil_core::drawer::{Grade, Source, Stock};
use anvil_core::estimate::Estimate;
use anvil_core::judge::{chance, judge};
use anvil_core::thermal::hot_and_cold;
use anvil_core::window::Window;
use anvil_core::working::Line;

use super::{ByBook, ChartSays, Hot, Record, Spec, none_on_hand};
use crate::problem::{Answer, Problem};

impl Record {
    /// What the book's window says beside the one that is worked to.
    pub(super) fn by_book(
        &self,
        book: Window,
        estimate: Option<&Estimate>,
        request: Option<&choose::Request<'_>>,
        choices: Option<&Choices>,
    ) -> Answer<ByBook> {
        let listed = choices.into_iter().flat_map(|c| {
            let beside = c.thinner.iter().chain(&c.thicker);
            c.ranked.iter().chain(beside)
        });
        let chances = listed
            .map(|c| (c.total_nm.nm(), chance(c.predicted_nm, c.u_nm, c.dof, book)))
            .chain(
                self.open_setting()
                    .map(|s| (s.total_nm, chance(s.predicted_nm, s.u_nm, s.dof, book))),
            )
            .collect();
        let best = match request.filter(|_| choices.is_some_and(none_on_hand)) {
            Some(request) => {
                let mut on_hand = request.stock.to_vec();
                on_hand.retain(|s| s.source == Source::OnHand);
                let asked = choose::Request {
                    window: book,
                    best: 1,
                    stock: &on_hand,
                    ..request.clone()
                };
                let found = choose::choose(&asked).map_err(Problem::server)?;
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
    pub(super) fn hot(
        spec: &Spec<'_>,
        measured_nm: Option<f64>,
        expected_nm: Option<f64>,
    ) -> Option<Hot> {
        let hot = spec.check.hot.as_ref()?;
        let growth = hot.growth_nm_per_k();
        let mut line = Line::new();
        for (sign, parts) in [(" + ", &hot.case), (" − ", &hot.inside)] {
            for (p, part) in parts.iter().enumerate() {
                if sign == " − " || p > 0 {
                    line = line.text(sign);
                }
                line = line
                    .text(format!("{}: ", part.what.to_lowercase()))
                    .number(part.material.expansion_per_k() * 1e6, 1)
                    .text(" µm/m·K × ")
                    .length(part.length.length().as_f64());
            }
        }
        let line = line
            .text(" = ")
            .number(growth / 1e3, 2)
            .text(" µm a kelvin");
        let at = |nm: Option<f64>| nm.map(|nm| hot_and_cold(nm, growth));
        Some(Hot {
            measured: at(measured_nm),
            expected: at(expected_nm),
            working: vec![line],
        })
    }

    /// What the sheet's chart says: read at the depth with no piece in, in the trial build.
    pub(super) fn chart_says(
        spec: &Spec<'_>,
        request: &choose::Request<'_>,
        best: Option<&choose::Choice>,
    ) -> Option<ChartSays> {
        let chart = spec.check.chart.as_ref()?;
        let adjustments = spec.check.final_adjustments();
        let to_final: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
        let none_in = request.clearance_nm + request.effect.k() * request.fitted.as_f64();
        let depth_nm = none_in - to_final as f64;
        let answer = chart::look_up(&chart.lengths(), depth_nm);
        let piece = match answer {
            chart::Answer::Row { piece_nm, .. } => Some(piece_nm),
            _ => None,
        };
        let of_size = |s: &&Stock| Some(s.thickness_nm) == piece && s.grade == Grade::Marked;
        let choice = request.stock.iter().find(of_size).and_then(|s| {
            let pieces = Pieces {
                thickness_nm: s.thickness_nm,
                grade: s.grade,
                count: 1,
                source: s.source,
            };
            choose::predict(request, &[pieces])
        });
        Some(ChartSays {
            measured: chart.measured.clone(),
            depth_nm,
            answer,
            choice,
            agrees: piece.is_some() && best.map(|b| b.total_nm) == piece,
        })
    }
}
