//! Selection charts: tables that give the piece for a measured depth.
//!
//! A row holds `from ≤ depth < to`, the last its end too. Ends that differ by the chart's own step
//! (0.769 and 0.770) meet. Charts may run up or down, and the pieces grow or shrink with the depth
//! as it does (common practice, no source).

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::units::csv_text;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::notation::{self, Sign};
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A row of a chart.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Row {
    /// The smallest depth, in nanometres.
    pub from_nm: Length,
    /// The depth at which the next row begins, in nanometres.
    pub to_nm: Length,
    /// The piece to fit, in nanometres; the thinnest of them where any of a range will do.
    pub piece_nm: Length,
    /// The thickest that will do, in nanometres; the same where it is one piece.
    pub piece_to_nm: Length,
}

impl Row {
    /// Whether a piece so thick, in nanometres, is what the row asks for.
    #[must_use]
    pub fn asks_for(&self, thickness_nm: Length) -> bool {
        (self.piece_nm..=self.piece_to_nm).contains(&thickness_nm)
    }
}

/// A fault of a chart, and the row it is in.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ChartFault {
    /// The row, counted from 1; 0 for the chart as a whole.
    pub row: usize,
    /// What is wrong there, and what would be right.
    pub message: String,
}

/// What a chart says for a depth.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Answer {
    /// This row's piece.
    Row {
        /// The row, counted from 1.
        row: usize,
        piece_nm: Length,
        /// The thickest that will do; the same where it is one piece.
        piece_to_nm: Length,
    },
    /// The depth is below the chart.
    Below,
    /// The depth is above the chart.
    Above,
}

/// The faults of a chart, in the order of its rows; none where it is sound.
///
/// ```
/// use anvil_rules::sheet::chart::{faults, Row};
/// use anvil_arithmetic::units::length::Length;
/// let row = |from: i64, to: i64, piece: i64| {
///     let [from_nm, to_nm, piece_nm] = [from, to, piece].map(|um| Length::from_nm(um * 1_000));
///     Row { from_nm, to_nm, piece_nm, piece_to_nm: piece_nm }
/// };
/// let step = Length::from_nm(1_000);
/// assert!(faults(&[row(700, 769, 400), row(770, 839, 470)], step).is_empty());
/// let hole = faults(&[row(700, 760, 400), row(770, 839, 470)], step);
/// assert_eq!(hole[0].row, 2);
/// ```
#[must_use]
pub fn faults(rows: &[Row], step: Length) -> Vec<ChartFault> {
    let mut found = Vec::new();
    let mut add = |row: usize, message: String| found.push(ChartFault { row, message });
    if rows.is_empty() {
        add(
            0,
            "the chart has no rows: give from, to and the piece of each".into(),
        );
    }
    if step <= Length::ZERO {
        add(
            0,
            "the chart's step must be more than nothing, such as 0.001 mm".into(),
        );
    }
    let mut sound = Vec::new();
    for (at, row) in rows.iter().enumerate() {
        if row.piece_nm <= Length::ZERO {
            add(at + 1, "its piece is not thicker than nothing".into());
        }
        if row.piece_to_nm < row.piece_nm {
            add(
                at + 1,
                format!(
                    "its pieces run from {} down to {}: the thinner comes first",
                    row.piece_nm, row.piece_to_nm
                ),
            );
        }
        if row.from_nm >= row.to_nm {
            add(
                at + 1,
                format!(
                    "it runs from {} to {}: from must be the smaller",
                    row.from_nm, row.to_nm
                ),
            );
        } else {
            sound.push((at, row));
        }
    }
    found.extend(out_of_order(&sound));
    found.extend(holes_and_overlaps(&sound, step));
    sound.retain(|(_, row)| row.piece_nm > Length::ZERO);
    found.extend(off_the_line(&sound));
    found.sort_by_key(|fault| fault.row);
    found
}

/// A row and its place in the chart, counted from 0.
type At<'a> = (usize, &'a Row);

/// Rows that stand where the chart's run does not have them: the fewest that would have to move, the later of two.
fn out_of_order(rows: &[At<'_>]) -> Vec<ChartFault> {
    let up = runs_up(rows);
    let depth = |row: &Row| {
        if up {
            row.from_nm.nm()
        } else {
            -row.from_nm.nm()
        }
    };
    // The longest run in order that ends at each row, and the row before it in that run.
    let mut runs: Vec<(usize, Option<usize>)> = Vec::with_capacity(rows.len());
    for (at, (_, row)) in rows.iter().enumerate() {
        let before = (0..at).filter(|b| depth(rows[*b].1) <= depth(row));
        let longest = before.max_by_key(|b| (runs[*b].0, std::cmp::Reverse(*b)));
        runs.push((longest.map_or(1, |b| runs[b].0 + 1), longest));
    }
    let ends = (0..rows.len()).max_by_key(|at| (runs[*at].0, std::cmp::Reverse(*at)));
    let in_order: Vec<usize> = std::iter::successors(ends, |at| runs[*at].1).collect();
    let order = if up { "up" } else { "down" };
    let stray = rows.iter().enumerate();
    stray
        .filter(|(at, _)| !in_order.contains(at))
        .map(|(_, (row, _))| ChartFault {
            row: row + 1,
            message: format!("the chart runs {order}, and this row is out of order"),
        })
        .collect()
}

/// Depths that no row has, and depths that two rows have, wherever in the chart they stand.
fn holes_and_overlaps(rows: &[At<'_>], step: Length) -> Vec<ChartFault> {
    let up = runs_up(rows);
    let mut by_depth = rows.to_vec();
    by_depth.sort_by_key(|(at, row)| (row.from_nm, row.to_nm, *at));
    let mut found = Vec::new();
    for pair in by_depth.windows(2) {
        let ((at_lower, lower), (at_upper, upper)) = (pair[0], pair[1]);
        let (row, other) = if up {
            (at_upper, at_lower)
        } else {
            (at_lower, at_upper)
        };
        let gap = upper.from_nm.nm() - lower.to_nm.nm();
        // A row between them that cannot be read may be what fills it.
        let told = at_lower.min(at_upper) + 1..at_lower.max(at_upper);
        let unread = told.into_iter().any(|at| rows.iter().all(|r| r.0 != at));
        let message = if gap > step.nm() && step > Length::ZERO && !unread {
            format!(
                "there is a hole between {} and {}: depths there have no piece",
                lower.to_nm, upper.from_nm
            )
        } else if gap < 0 {
            format!(
                "depths from {} to {} are in row {} too",
                upper.from_nm,
                lower.to_nm.min(upper.to_nm),
                other + 1
            )
        } else {
            continue;
        };
        found.push(ChartFault {
            row: row + 1,
            message,
        });
    }
    found
}

fn runs_up(rows: &[At<'_>]) -> bool {
    let up = rows
        .windows(2)
        .filter(|w| w[1].1.from_nm >= w[0].1.from_nm)
        .count();
    2 * up >= rows.len().saturating_sub(1)
}

/// Rows whose piece is off the line that the others lie on: thickness against depth has a slope of
/// one, up or down, within a row's width.
fn off_the_line(rows: &[At<'_>]) -> Vec<ChartFault> {
    if rows.len() < 3 {
        return Vec::new();
    }
    let middle = |r: &Row| i64::midpoint(r.from_nm.nm(), r.to_nm.nm());
    let with = |sign: i64| off_with(rows, sign, middle);
    // Up or down with the depth, whichever the fewer rows are against.
    let (growing, shrinking) = (with(1), with(-1));
    if growing.len() <= shrinking.len() {
        growing
    } else {
        shrinking
    }
}

fn off_with(rows: &[At<'_>], sign: i64, middle: impl Fn(&Row) -> i64) -> Vec<ChartFault> {
    let piece = |r: &Row| i64::midpoint(r.piece_nm.nm(), r.piece_to_nm.nm());
    let off = |r: &Row| piece(r) - sign * middle(r);
    let mut all: Vec<i64> = rows.iter().map(|(_, r)| off(r)).collect();
    all.sort_unstable();
    let usual = all[all.len() / 2];
    rows.iter()
        .filter(|(_, r)| (off(r) - usual).abs() > r.to_nm.nm() - r.from_nm.nm())
        .map(|(at, r)| ChartFault {
            row: at + 1,
            message: format!(
                "its piece, {}, is off the line that the others lie on: about {} would be on it",
                r.piece_nm,
                Length::from_nm(usual + sign * middle(r))
            ),
        })
        .collect()
}

/// What a sound chart says for a depth, in nanometres.
///
/// ```
/// use anvil_rules::sheet::chart::{look_up, Answer, Row};
/// use anvil_arithmetic::units::length::Length;
/// // Common practice, no source: 0.778 in gives a piece of 193 to 194 thou.
/// let inch = |thou: i64| Length::from_nm(thou * 25_400);
/// let rows = [(770, 776, 187), (777, 782, 193)].map(|(a, b, piece)| Row {
///     from_nm: inch(a), to_nm: inch(b), piece_nm: inch(piece), piece_to_nm: inch(piece + 1) });
/// let said = look_up(&rows, inch(778).as_f64());
/// assert_eq!(said, Answer::Row { row: 2, piece_nm: inch(193), piece_to_nm: inch(194) });
/// ```
#[must_use]
pub fn look_up(rows: &[Row], depth_nm: f64) -> Answer {
    let mut by_depth: Vec<At<'_>> = rows.iter().enumerate().collect();
    if !runs_up(&by_depth) {
        by_depth.reverse();
    }
    let said = |(at, row): &At<'_>| Answer::Row {
        row: at + 1,
        piece_nm: row.piece_nm,
        piece_to_nm: row.piece_to_nm,
    };
    match by_depth
        .iter()
        .rposition(|(_, r)| r.from_nm.as_f64() <= depth_nm)
    {
        None => Answer::Below,
        Some(at) if at + 1 < by_depth.len() => said(&by_depth[at]),
        Some(at) if depth_nm <= by_depth[at].1.to_nm.as_f64() => said(&by_depth[at]),
        Some(_) => Answer::Above,
    }
}

/// The clearances that a chart leaves, from and to, in nanometres as it is measured: with every piece that it asks for,
/// or only with stacks of one thickness. None where it asks for no such.
///
/// ```
/// use anvil_arithmetic::choose::required::Effect;
/// use anvil_rules::sheet::chart::{leaves, Row};
/// use anvil_arithmetic::units::length::Length;
/// let row = |from: i64, to: i64, piece: i64| {
///     let [from_nm, to_nm, piece_nm] = [from, to, piece].map(|um| Length::from_nm(um * 1_000));
///     Row { from_nm, to_nm, piece_nm, piece_to_nm: piece_nm }
/// };
/// let rows = [row(700, 760, 610), row(760, 830, 680)];
/// let um = |(from, to): (i64, i64)| (from / 1_000, to / 1_000);
/// assert_eq!(leaves(&rows, Effect::Closes, None).map(um), Some((80, 150)));
/// assert_eq!(leaves(&rows, Effect::Closes, Some(Length::from_nm(610_000))).map(um), Some((90, 150)));
/// ```
///
/// # Formula
/// `c = d − k s`: the depth with nothing in, less the piece, over all depths of the rows that ask for it.
#[must_use]
pub fn leaves(rows: &[Row], effect: Effect, of: Option<Length>) -> Option<(i64, i64)> {
    let mut by_depth: Vec<&Row> = rows.iter().collect();
    by_depth.sort_by_key(|r| r.from_nm);
    let span = |(at, row): (usize, &&Row)| {
        let (thin, thick) = match of {
            None => (row.piece_nm.nm(), row.piece_to_nm.nm()),
            Some(one) if row.asks_for(one) => (one.nm(), one.nm()),
            Some(_) => return None,
        };
        // Ends that differ by the chart's own step meet.
        let next = by_depth.get(at + 1).map_or(row.to_nm, |next| next.from_nm);
        let (from, to) = (row.from_nm.nm(), next.nm());
        Some(match effect {
            Effect::Closes => (from - thick, to - thin),
            Effect::Opens => (from + thin, to + thick),
        })
    };
    let spans = by_depth.iter().enumerate().filter_map(span);
    spans.reduce(|(low, high), (from, to)| (low.min(from), high.max(to)))
}

/// No book's chart is longer.
const MOST_ROWS: usize = 200;

/// Reads the rows of a chart from CSV: `from`, `to`, `piece`, and where any of a range will do `piece_to`, each a length
/// with its unit, or in `unit` where it has none; with or without a line of headings; commas, semicolons or tabs.
///
/// ```
/// use anvil_rules::sheet::chart::read_csv;
/// use anvil_arithmetic::units::length::Unit;
/// let rows = read_csv("from;to;piece\n1,70;1,74;1.60\n", Unit::Mm).unwrap();
/// assert_eq!(rows[0].piece_nm.nm(), 1_600_000);
/// ```
///
/// # Errors
/// Every row that is no row of a chart.
pub fn read_csv(
    text: &str,
    unit: anvil_arithmetic::units::length::Unit,
) -> Result<Vec<Row>, Vec<ChartFault>> {
    let mut reader = csv_text::reader(text, false);
    let (mut rows, mut faults) = (Vec::new(), Vec::new());
    for record in reader.records() {
        let number = rows.len() + faults.len() + 1;
        if number > MOST_ROWS + 1 {
            return Err(vec![ChartFault {
                row: 0,
                message: format!("a chart has up to {MOST_ROWS} rows"),
            }]);
        }
        let record = match record {
            Ok(record) => record,
            Err(e) => {
                faults.push(ChartFault {
                    row: number,
                    message: format!("it cannot be read: {e}"),
                });
                continue;
            }
        };
        let heading = number == 1
            && record
                .get(0)
                .is_some_and(|c| c.eq_ignore_ascii_case("from"));
        if heading || record.iter().all(str::is_empty) {
            continue;
        }
        match row(&record, unit) {
            Ok(row) => rows.push(row),
            Err(message) => faults.push(ChartFault {
                row: number,
                message,
            }),
        }
    }
    if faults.is_empty() {
        Ok(rows)
    } else {
        Err(faults)
    }
}

fn row(
    record: &csv::StringRecord,
    unit: anvil_arithmetic::units::length::Unit,
) -> Result<Row, String> {
    if !(3..=4).contains(&record.len()) {
        return Err(format!(
            "it has {} cells: a row has three, from, to and piece, and a fourth where pieces up to another will do",
            record.len()
        ));
    }
    let cell = |at: usize, name: &str| {
        let text = record.get(at).unwrap_or("");
        notation::parse(text, Some(unit), Sign::NotNegative).map_err(|e| format!("{name}: {e}"))
    };
    let piece_nm = cell(2, "piece")?;
    let range = record.get(3).is_some_and(|c| !c.is_empty());
    Ok(Row {
        from_nm: cell(0, "from")?,
        to_nm: cell(1, "to")?,
        piece_nm,
        piece_to_nm: if range {
            cell(3, "piece_to")?
        } else {
            piece_nm
        },
    })
}

/// A selection chart: measured depth gives the piece.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Chart)]
pub struct Chart {
    /// What is measured to read it.
    pub measured: String,
    /// The chart's own step.
    pub resolution: Written,
    #[schemars(length(min = 1, max = 200))]
    pub rows: Vec<ChartRow>,
}

impl Chart {
    /// Its rows as lengths.
    #[must_use]
    pub fn lengths(&self) -> Vec<crate::sheet::chart::Row> {
        let row = |r: &ChartRow| crate::sheet::chart::Row {
            from_nm: r.from.length(),
            to_nm: r.to.length(),
            piece_nm: r.piece.length(),
            piece_to_nm: r.piece_to.as_ref().unwrap_or(&r.piece).length(),
        };
        self.rows.iter().map(row).collect()
    }
}

/// A row of a selection chart: from ≤ depth < to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::ChartRow)]
pub struct ChartRow {
    /// The smallest depth.
    pub from: Written,
    /// The depth at which the next row begins.
    pub to: Written,
    /// The piece to fit; the thinnest of them where any of a range will do.
    pub piece: Written,
    /// The thickest that will do, where that is another.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub piece_to: Option<Written>,
}
