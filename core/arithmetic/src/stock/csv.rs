//! Drawers in and out as CSV (RFC 4180).
//!
//! Columns: `family`, `thickness` (with its unit), `on_hand`, `place`, `status` (`current` or
//! `discontinued`), `grade` (`marked`, `miked` or `used`), `marked` (what a measured piece is marked
//! as) and `on_order`; the first three must be there. Reading takes commas, semicolons or tabs, a byte-order mark, and decimal
//! commas; writing uses commas and points.

use std::collections::{BTreeMap, HashSet};

use serde::Serialize;

use crate::stock::drawer::Grade;
use crate::units::csv_text;
use crate::units::length::Length;
use crate::units::notation::{self, Sign};

/// One size of a drawer, as a row of the file.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Row {
    /// The key of the family.
    pub family: String,
    /// The thickness of one piece.
    pub thickness_nm: Length,
    /// How that is known.
    pub grade: Grade,
    /// What a measured piece is marked as, where that is known.
    pub marked_nm: Option<Length>,
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many are on order; none leaves that as it is.
    pub on_order: Option<i32>,
    /// Where the drawer is.
    pub place: String,
    /// The size is no longer made.
    pub discontinued: bool,
}

/// One fault of the file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LineFault {
    /// The line it is on, counted from 1.
    pub line: u64,
    /// The column it is in, by its heading.
    pub column: String,
    /// What is wrong, and what would be right.
    pub message: String,
}

/// The headings, in the order they are written.
const HEADINGS: [&str; 8] = [
    "family",
    "thickness",
    "on_hand",
    "place",
    "status",
    "grade",
    "marked",
    "on_order",
];
/// More of one size than this is a slip.
const MOST_ON_HAND: i32 = 100_000;

/// More rows than this are no shop's drawers, or two files in one.
pub const MOST_ROWS: usize = 10_000;

/// Reads drawers from CSV. A file with any fault is refused whole, with every fault listed.
///
/// ```
/// let rows = anvil_arithmetic::stock::csv::read("family;thickness;on_hand\nc-shim;1,25 mm;4\n").unwrap();
/// assert_eq!(rows[0].thickness_nm.nm(), 1_250_000);
/// ```
///
/// # Errors
/// Every line that is no line of a drawer, with its column; or more than [`MOST_ROWS`] of them.
pub fn read(text: &str) -> Result<Vec<Row>, Vec<LineFault>> {
    let mut reader = csv_text::reader(text, true);
    let columns = columns(&mut reader)?;
    let mut rows: Vec<Row> = Vec::new();
    let mut seen: HashSet<(String, Length, Grade)> = HashSet::new();
    let mut faults = Vec::new();
    for (number, record) in reader.records().enumerate() {
        if number == MOST_ROWS {
            return Err(vec![LineFault {
                line: 0,
                column: String::new(),
                message: format!("a file has up to {MOST_ROWS} rows: take it in in parts"),
            }]);
        }
        match record {
            Ok(record) if record.iter().all(str::is_empty) => {}
            Ok(record) => {
                let line = record.position().map_or(0, csv::Position::line);
                match row(&record, &columns, line) {
                    Ok(row) if !seen.insert(row.own_key()) => {
                        faults.push(LineFault {
                            line,
                            column: "thickness".into(),
                            message: format!(
                                "{} of {} is listed twice: keep one row",
                                row.thickness_nm, row.family
                            ),
                        });
                    }
                    Ok(row) => rows.push(row),
                    Err(mut found) => faults.append(&mut found),
                }
            }
            Err(e) => faults.push(LineFault {
                line: e.position().map_or(0, csv::Position::line),
                column: String::new(),
                message: format!("this line cannot be read: {e}"),
            }),
        }
    }
    if rows.is_empty() && faults.is_empty() {
        faults.push(LineFault {
            line: 1,
            column: String::new(),
            message: "there are no rows under the headings".into(),
        });
    }
    if faults.is_empty() {
        Ok(rows)
    } else {
        Err(faults)
    }
}

/// Where each heading stands in the file.
fn columns(
    reader: &mut csv::Reader<&[u8]>,
) -> Result<[Option<usize>; HEADINGS.len()], Vec<LineFault>> {
    let heading_fault = |column: &str, message: String| LineFault {
        line: 1,
        column: column.into(),
        message,
    };
    let headers = reader
        .headers()
        .map_err(|e| {
            vec![heading_fault(
                "",
                format!("the headings cannot be read: {e}"),
            )]
        })?
        .clone();
    let found = HEADINGS.map(|h| headers.iter().position(|c| c.eq_ignore_ascii_case(h)));
    let missing: Vec<LineFault> = HEADINGS[..3]
        .iter()
        .zip(&found)
        .filter(|(_, at)| at.is_none())
        .map(|(h, _)| {
            let expected = HEADINGS.join(", ");
            heading_fault(
                h,
                format!("the heading “{h}” is missing: the first line must name {expected}"),
            )
        })
        .collect();
    if missing.is_empty() {
        Ok(found)
    } else {
        Err(missing)
    }
}

fn row(
    record: &csv::StringRecord,
    columns: &[Option<usize>; HEADINGS.len()],
    line: u64,
) -> Result<Row, Vec<LineFault>> {
    let cell = |at: usize| {
        let cell = columns[at].and_then(|c| record.get(c));
        csv_text::said(cell.unwrap_or(""))
    };
    let mut faults = Vec::new();
    let mut fault = |at: usize, message: String| {
        faults.push(LineFault {
            line,
            column: HEADINGS[at].into(),
            message,
        });
    };
    if cell(0).is_empty() {
        fault(0, "the family is missing: write its key".into());
    }
    let thickness = match notation::parse(cell(1), None, Sign::NotNegative) {
        Ok(Length::ZERO) => {
            fault(1, "a piece must be thicker than nothing".into());
            Length::ZERO
        }
        Ok(length) => length,
        Err(e) => {
            fault(1, e.to_string());
            Length::ZERO
        }
    };
    let mut whole = |at: usize| match cell(at).parse::<i32>() {
        Ok(n) if (0..=MOST_ON_HAND).contains(&n) => n,
        Ok(n) => {
            fault(
                at,
                format!("{n} pieces cannot be: write a whole number from 0 to {MOST_ON_HAND}"),
            );
            0
        }
        Err(_) => {
            let text = cell(at);
            fault(
                at,
                format!("“{text}” is not a count: write a whole number, such as 4"),
            );
            0
        }
    };
    let on_hand = whole(2);
    let on_order = (!cell(7).is_empty()).then(|| whole(7));
    let discontinued = match cell(4).to_lowercase().as_str() {
        "" | "current" => false,
        "discontinued" => true,
        other => {
            fault(
                4,
                format!("“{other}” is not a status: write current or discontinued"),
            );
            false
        }
    };
    let grade = match cell(5).to_lowercase().as_str() {
        "" | "marked" => Grade::Marked,
        "miked" => Grade::Miked,
        "used" => Grade::Used,
        other => {
            fault(
                5,
                format!("“{other}” is not a grade: write marked, miked or used"),
            );
            Grade::Marked
        }
    };
    let marked = match cell(6) {
        "" => None,
        text => match notation::parse(text, None, Sign::NotNegative) {
            Ok(length) => Some(length).filter(|l| *l > Length::ZERO),
            Err(e) => {
                fault(6, e.to_string());
                None
            }
        },
    };
    if grade != Grade::Marked && on_order.is_some_and(|n| n > 0) {
        fault(
            7,
            "a measured piece cannot be ordered: order the size it is marked as".into(),
        );
    }
    if faults.is_empty() {
        Ok(Row {
            family: cell(0).to_owned(),
            thickness_nm: thickness,
            grade,
            marked_nm: marked.filter(|_| grade != Grade::Marked),
            on_hand,
            on_order,
            place: cell(3).to_owned(),
            discontinued,
        })
    } else {
        Err(faults)
    }
}

impl Row {
    /// What tells its line from every other.
    fn key(&self) -> (&str, Length, Grade) {
        (&self.family, self.thickness_nm, self.grade)
    }

    /// Whether it is this line of this drawer.
    #[must_use]
    pub fn is_line(&self, family: &str, thickness_nm: Length, grade: Grade) -> bool {
        self.key() == (family, thickness_nm, grade)
    }

    fn own_key(&self) -> (String, Length, Grade) {
        (self.family.clone(), self.thickness_nm, self.grade)
    }
}

/// What taking in a row would change: the line as it is, where there is one, and as it would be.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Change<'a> {
    /// The line as it is; none where it is new.
    pub was: Option<&'a Row>,
    /// The line as it would be.
    pub is: &'a Row,
}

/// What taking in a file would change, in the file's order; lines that stay as they are left out.
/// A line that the file does not name stays as it is.
///
/// ```
/// use anvil_arithmetic::stock::csv::{changes, read};
/// let now = read("family,thickness,on_hand\nc,1.20 mm,2\nc,1.25 mm,4\n").unwrap();
/// let file = read("family,thickness,on_hand\nc,1.25 mm,3\nc,1.20 mm,2\n").unwrap();
/// let found = changes(&now, &file);
/// assert_eq!(found.len(), 1);
/// assert_eq!((found[0].was.unwrap().on_hand, found[0].is.on_hand), (4, 3));
/// ```
#[must_use]
pub fn changes<'a>(now: &'a [Row], file: &'a [Row]) -> Vec<Change<'a>> {
    let lines: BTreeMap<_, _> = now.iter().map(|row| (row.key(), row)).collect();
    let found = file.iter().map(|is| Change {
        was: lines.get(&is.key()).copied(),
        is,
    });
    found
        .filter(|change| {
            change.was.is_none_or(|was| {
                let is = change.is;
                let marked = is.marked_nm.or(was.marked_nm);
                let on_order = is.on_order.or(was.on_order);
                (was.on_hand, was.on_order, was.marked_nm) != (is.on_hand, on_order, marked)
                    || was.place != is.place
                    || was.discontinued != is.discontinued
            })
        })
        .collect()
}

/// Writes drawers as CSV; what [`read`] takes back unchanged.
#[must_use]
pub fn write(rows: &[Row]) -> String {
    let rows = rows.iter().map(|r| {
        let status = if r.discontinued {
            "discontinued"
        } else {
            "current"
        };
        let grade = match r.grade {
            Grade::Marked => "marked",
            Grade::Miked => "miked",
            Grade::Used => "used",
        };
        [
            r.family.clone(),
            r.thickness_nm.to_string(),
            r.on_hand.to_string(),
            r.place.clone(),
            status.to_owned(),
            grade.to_owned(),
            r.marked_nm.map_or_else(String::new, |m| m.to_string()),
            r.on_order.map_or_else(String::new, |n| n.to_string()),
        ]
    });
    csv_text::written(HEADINGS, rows)
}
