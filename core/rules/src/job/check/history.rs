//! What has happened to a check.

use super::record::{ReadingMark, ReadingRecord, Record, SettingState, ShimsEntry, SignAct};
use crate::sheet::PartKind;
use crate::sheet::pack::in_words;
use anvil_arithmetic::measure::Reading;
use anvil_arithmetic::units::length::Length;
use chrono::{DateTime, Utc};
use serde::Serialize;
use utoipa::ToSchema;

/// Something that happened to a check.
#[derive(Clone, Debug, Serialize, ToSchema)]
pub struct HistoryLine {
    /// When.
    pub at: DateTime<Utc>,
    pub who: String,
    pub what: Happened,
    /// The figures that go with it, in nanometres.
    pub figures_nm: Vec<f64>,
    /// What was typed or ticked, where it is more than one length.
    pub said: String,
    /// The reason given, where one was.
    pub reason: String,
}

/// What can happen to a check.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Happened {
    Read,
    Ticked,
    Unticked,
    Struck,
    Restored,
    Kept,
    SaidFitted,
    LaidOut,
    SaidShims,
    MovedShims,
    Aimed,
    AimedAsSheet,
    UsualCounts,
    UsualLeft,
    Chosen,
    LetGo,
    Fitted,
    /// Not fitted after all.
    NotFitted,
    Signed,
    Reopened,
}

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

/// What has happened to a check, oldest first.
pub(super) fn history(record: &Record) -> Vec<HistoryLine> {
    let figure = |r: &ReadingRecord| r.taken.figure().map(Length::as_f64).into_iter().collect();
    let mut lines: Vec<HistoryLine> = Vec::new();
    lines.extend(record.readings.iter().map(|r| {
        let plain = matches!(r.taken, Reading::Travel(_));
        HistoryLine {
            said: if plain { String::new() } else { r.as_typed() },
            ..line(r.at, &r.who, Happened::Read, figure(r), "")
        }
    }));
    lines.extend(record.checklist.iter().map(|t| HistoryLine {
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
    lines.extend(record.marks.iter().map(|m| {
        let what = match m.mark {
            ReadingMark::Struck => Happened::Struck,
            ReadingMark::Restored => Happened::Restored,
            ReadingMark::Kept => Happened::Kept,
        };
        let of = record
            .readings
            .iter()
            .find(|r| r.reading_no == m.reading_no);
        line(
            m.at,
            &m.who,
            what,
            of.map(figure).unwrap_or_default(),
            &m.reason,
        )
    }));
    lines.extend(record.fitted_entries.iter().map(|s| {
        line(
            s.at,
            &s.who,
            Happened::SaidFitted,
            vec![s.fitted_nm as f64],
            "",
        )
    }));
    lines.extend(said_of_targets(record));
    for s in &record.settings {
        lines.push(line(
            s.chosen_at,
            &s.chosen_by,
            Happened::Chosen,
            vec![s.total_nm as f64, s.predicted_nm],
            "",
        ));
        if let (Some(by), Some(at)) = (&s.ended_by, s.ended_at) {
            let what = match s.state {
                SettingState::Fitted | SettingState::NotFitted => Happened::Fitted,
                SettingState::Chosen | SettingState::LetGo => Happened::LetGo,
            };
            lines.push(line(at, by, what, vec![s.total_nm as f64], ""));
        }
        if let (Some(by), Some(at)) = (&s.undone_by, s.undone_at) {
            lines.push(line(
                at,
                by,
                Happened::NotFitted,
                vec![s.total_nm as f64],
                "",
            ));
        }
    }
    lines.extend(record.signings.iter().map(|s| {
        let what = if s.act == SignAct::Signed {
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
fn said_of_targets(record: &Record) -> Vec<HistoryLine> {
    let aims = record.target_overrides.iter().map(|a| {
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
    let usuals = record.bias_decisions.iter().map(|u| {
        let what = if u.counts {
            Happened::UsualCounts
        } else {
            Happened::UsualLeft
        };
        line(u.at, &u.who, what, vec![u.mean_nm], "")
    });
    let laid = record.assemblies.iter().map(|l| HistoryLine {
        said: laid_words(&l.plates, l.soaked, l.springs),
        ..line(l.at, &l.who, Happened::LaidOut, Vec::new(), "")
    });
    let shims = record.shims.iter().map(|s| {
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
/// A pack laid out, in a line.
fn laid_words(plates: &[PartKind], soaked: bool, springs: Option<u32>) -> String {
    let wet = if soaked { "soaked" } else { "dry" };
    let springs = springs.map_or(String::new(), |n| format!(", {n} return springs"));
    format!("{}, {wet}{springs}", in_words(plates))
}

/// How shims lie, in a line.
fn shims_words(said: &ShimsEntry) -> String {
    let side = |shims: &[Length]| match shims {
        [] => "none".to_owned(),
        some => some
            .iter()
            .map(ToString::to_string)
            .collect::<Vec<_>>()
            .join(" + "),
    };
    format!(
        "left {}, right {}",
        side(&said.left_nm),
        side(&said.right_nm)
    )
}
