//! What has happened to a check.

use anvil_core::length::Length;
use anvil_core::measure::entry::Taken;
use chrono::{DateTime, Utc};

use super::pack::laid_words;
use super::selector::shims_words;
use super::{Happened, HistoryLine, Reading, Record, typed_with_unit};

fn line(
    at: DateTime<Utc>,
    who: &str,
    what: Happened,
    figures_nm: Vec<f64>,
    reason: &str,
) -> HistoryLine {
    HistoryLine {
        at,
        who: who.to_owned(),
        what,
        figures_nm,
        said: String::new(),
        reason: reason.to_owned(),
    }
}

impl Record {
    pub(super) fn history(&self) -> Vec<HistoryLine> {
        let figure = |r: &Reading| r.taken.figure().map(Length::as_f64).into_iter().collect();
        let mut lines: Vec<HistoryLine> = Vec::new();
        lines.extend(self.readings.iter().map(|r| {
            let plain = matches!(r.taken, Taken::Travel { .. });
            HistoryLine {
                said: if plain {
                    String::new()
                } else {
                    typed_with_unit(r)
                },
                ..line(r.at, &r.who, Happened::Read, figure(r), "")
            }
        }));
        lines.extend(self.ticks.iter().map(|t| HistoryLine {
            said: t.tick.clone(),
            ..line(
                t.at,
                &t.who,
                if t.done {
                    Happened::Ticked
                } else {
                    Happened::Unticked
                },
                Vec::new(),
                "",
            )
        }));
        lines.extend(self.marks.iter().map(|m| {
            let what = match m.mark.as_str() {
                "struck" => Happened::Struck,
                "restored" => Happened::Restored,
                _ => Happened::Kept,
            };
            let of = self.readings.iter().find(|r| r.reading_no == m.reading_no);
            line(
                m.at,
                &m.who,
                what,
                of.map(figure).unwrap_or_default(),
                &m.reason,
            )
        }));
        lines.extend(self.said.iter().map(|s| {
            line(
                s.at,
                &s.who,
                Happened::SaidFitted,
                vec![s.fitted_nm as f64],
                "",
            )
        }));
        lines.extend(self.said_of_aims());
        for s in &self.settings {
            lines.push(line(
                s.chosen_at,
                &s.chosen_by,
                Happened::Chosen,
                vec![s.total_nm as f64, s.predicted_nm],
                "",
            ));
            if let (Some(by), Some(at)) = (&s.ended_by, s.ended_at) {
                let what = if s.state == "fitted" {
                    Happened::Fitted
                } else {
                    Happened::LetGo
                };
                lines.push(line(at, by, what, vec![s.total_nm as f64], ""));
            }
        }
        lines.extend(self.signings.iter().map(|s| {
            let what = if s.act == "signed" {
                Happened::Signed
            } else {
                Happened::Reopened
            };
            line(
                s.at,
                &s.who,
                what,
                s.achieved_nm.into_iter().collect(),
                &s.reason,
            )
        }));
        lines.sort_by_key(|l| l.at);
        lines
    }

    /// What was said of where to aim, and of the usual difference.
    fn said_of_aims(&self) -> Vec<HistoryLine> {
        let aims = self.aims.iter().map(|a| {
            let what = if a.as_sheet {
                Happened::AimedAsSheet
            } else {
                Happened::Aimed
            };
            let limits = [a.low_nm, a.high_nm].into_iter().flatten();
            line(
                a.at,
                &a.who,
                what,
                limits.map(|nm| nm as f64).collect(),
                &a.reason,
            )
        });
        let usuals = self.usuals.iter().map(|u| {
            let what = if u.counts {
                Happened::UsualCounts
            } else {
                Happened::UsualLeft
            };
            line(u.at, &u.who, what, vec![u.mean_nm], "")
        });
        let laid = self.laid.iter().map(|l| HistoryLine {
            said: laid_words(&l.plates, l.soaked, l.springs),
            ..line(l.at, &l.who, Happened::LaidOut, Vec::new(), "")
        });
        let shims = self.shims.iter().map(|s| {
            let what = if s.moved {
                Happened::MovedShims
            } else {
                Happened::SaidShims
            };
            HistoryLine {
                said: shims_words(s),
                ..line(s.at, &s.who, what, Vec::new(), "")
            }
        });
        aims.chain(usuals).chain(laid).chain(shims).collect()
    }
}
