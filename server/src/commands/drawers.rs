//! The writes on drawers: counting, taking, returning, scrapping, ordering, measuring a piece, and
//! undoing any of it. Each is a record; what comes in is set aside for the checks that wait for it.

use std::collections::BTreeSet;

use anvil_arithmetic::stock::csv::{Row, changes};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::job::check::rules::reason;
use anvil_rules::sheet::PartKind;
use anvil_rules::shop::drawers::{self as rules, ActOn, DrawerAct, StockChange};
use anvil_rules::shop::gauge_register::u_of_registered_micrometer;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::Write;
use super::locked_check::settle_waiting;
use crate::db::drawer::{self, Line, Noted};
use crate::db::{Store, Tx, family, gauge, locks};
use crate::http::extract::{IdempotencyKey, IfMatch};
use crate::http::problem::{ApiResult, Problem};

/// Pieces of one line of a drawer.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActLine {
    pub family_key: String,
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// How that is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many.
    pub count: i32,
}

/// Something done with pieces of the drawers.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StockAct {
    pub act: DrawerAct,
    /// With which: all of it, or nothing.
    pub lines: Vec<ActLine>,
    /// Why, where somebody says.
    #[serde(default)]
    pub reason: String,
    /// The initials.
    pub who: String,
}

/// Does something with pieces of the drawers.
///
/// # Errors
/// See [`rules::may_act`]; and where the pieces are not free, or not on order.
pub async fn act(store: &Store, key: &IdempotencyKey, act: &StockAct) -> ApiResult<()> {
    let why = &reason(&act.reason, None)?;
    let mut lines = act.lines.clone();
    lines.sort_by(|a, b| sort_key(a).cmp(&sort_key(b)));
    let asked: Vec<ActOn<'_>> = lines
        .iter()
        .map(|l| (l.family_key.as_str(), l.thickness_nm, l.grade, l.count))
        .collect();
    rules::may_act(act.act, &asked)?;
    let lines = &lines;
    Write::once(store, key, &act.who, ("stock", act), |mut tx| async move {
        let families = families(lines.iter().map(|l| &l.family_key));
        let waiting = locks::hold(store, &mut tx, &[], &families).await?;
        for line in lines {
            let of = Line {
                family: &line.family_key,
                thickness_nm: line.thickness_nm.nm(),
                grade: line.grade,
            };
            let noted = Noted {
                reason: why,
                act_key: Some(&key.0),
                ..Noted::of(of, (0, 0), act.act.change(), &act.who)
            };
            drawer::change(store, &mut tx, noted, act.act.by(line.count)).await?;
        }
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// The families of lines, each once.
fn families<'a>(of: impl Iterator<Item = &'a String>) -> Vec<String> {
    of.cloned().collect::<BTreeSet<_>>().into_iter().collect()
}

fn sort_key(line: &ActLine) -> (&str, Length, &'static str) {
    (&line.family_key, line.thickness_nm, line.grade.into())
}

/// A piece measured by micrometer.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeasuredPiece {
    /// The size it is marked as, where it comes out of this drawer; none where it comes from
    /// elsewhere, out of a box for one.
    pub marked_nm: Option<Length>,
    /// What it measures, in bench notation.
    pub measured: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// The key of the micrometer; the one that is taken up where it is left out.
    #[serde(default)]
    pub gauge_key: Option<String>,
    /// It has been in a box.
    pub used: bool,
    /// Where it is put.
    #[serde(default)]
    pub place: String,
    /// The initials.
    pub who: String,
}

/// Puts a piece measured by micrometer in a drawer as its own line, and takes it off the line that
/// it comes from.
///
/// # Errors
/// Where the figure is none or far from the mark, there is no such drawer, or no micrometer in the register.
pub async fn add_measured_piece(
    store: &Store,
    key: &IdempotencyKey,
    family: &str,
    piece: &MeasuredPiece,
) -> ApiResult<()> {
    let measured = rules::thickness("measured", &piece.measured, piece.unit)?;
    rules::may_measure(piece.marked_nm, measured)?;
    let request = ("miked", &(family, piece));
    Write::once(store, key, &piece.who, request, |mut tx| async move {
        if !drawer::families(store, &mut *tx)
            .await?
            .contains_key(family)
        {
            return Err(Problem::missing(format!("There is no drawer “{family}”.")));
        }
        let waiting = locks::hold(store, &mut tx, &[], &[family.to_owned()]).await?;
        let new = NewPiece {
            line: Line {
                family,
                thickness_nm: measured.nm(),
                grade: if piece.used {
                    Grade::Used
                } else {
                    Grade::Miked
                },
            },
            marked_nm: piece.marked_nm,
            gauge_key: piece.gauge_key.as_deref(),
            place: piece.place.trim(),
            reason: "",
        };
        new.put_in(store, &mut tx, (key, &piece.who)).await?;
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// A measured piece as its own line.
pub struct NewPiece<'a> {
    pub line: Line<'a>,
    /// The size it is marked as, where it comes out of this drawer.
    pub marked_nm: Option<Length>,
    /// The key of the micrometer; none for the one that is taken up.
    pub gauge_key: Option<&'a str>,
    /// Where it is put.
    pub place: &'a str,
    /// What was done to it.
    pub reason: &'a str,
}

impl NewPiece<'_> {
    /// Puts it in its drawer, which is held, and takes it off the line that it comes from.
    ///
    /// # Errors
    /// Where none of that line is free, or there is no micrometer in the register.
    pub async fn put_in(
        &self,
        store: &Store,
        tx: &mut Tx,
        (key, who): (&IdempotencyKey, &str),
    ) -> ApiResult<()> {
        let register = gauge::list(store, &mut **tx).await?;
        let u_nm = u_of_registered_micrometer(&register, self.gauge_key)?;
        let noted = |line| Noted {
            reason: self.reason,
            act_key: Some(&key.0),
            ..Noted::of(line, (0, 0), StockChange::Miked, who)
        };
        if let Some(marked) = self.marked_nm {
            let from = Line {
                thickness_nm: marked.nm(),
                grade: Grade::Marked,
                ..self.line
            };
            drawer::change(store, tx, noted(from), (-1, 0)).await?;
        }
        let about = (self.marked_nm.map(Length::nm), u_nm);
        drawer::open_line(store, tx, self.line, about, self.place).await?;
        Ok(drawer::change(store, tx, noted(self.line), (1, 0)).await?)
    }
}

/// Undoes an act: all that it changed is changed back, as a record of its own.
///
/// # Errors
/// Where there is no such act, it is undone already, or its pieces are gone meanwhile.
pub async fn undo(store: &Store, key: &IdempotencyKey, act_key: &str, who: &str) -> ApiResult<()> {
    Write::once(store, key, who, ("undo", &act_key), |mut tx| async move {
        let moves = drawer::moves_of(store, &mut tx, act_key).await?;
        if moves.is_empty() {
            return Err(Problem::missing("There is no such change to undo."));
        }
        let families = families(moves.iter().map(|m| &m.0));
        let waiting = locks::hold(store, &mut tx, &[], &families).await?;
        if drawer::is_undone(store, &mut tx, act_key).await? {
            return Err(Problem::conflict("undone", "That has been undone already."));
        }
        for (family, thickness_nm, grade, on_hand, on_order) in &moves {
            let line = Line {
                family,
                thickness_nm: *thickness_nm,
                grade: *grade,
            };
            let noted = Noted {
                undoes: Some(act_key),
                ..Noted::of(line, (0, 0), StockChange::Undone, who)
            };
            drawer::change(store, &mut tx, noted, (-on_hand, -on_order)).await?;
        }
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// A count of one size.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Count {
    /// The thickness, in bench notation.
    pub thickness: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// How the thickness is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many there are, those set aside included.
    pub on_hand: i32,
    /// Where the drawer is.
    #[serde(default)]
    pub place: String,
    /// The size is no longer made.
    #[serde(default)]
    pub discontinued: bool,
    /// The initials.
    pub who: String,
}

/// Sets how many of a size there are; a size that is not in the drawer is put in.
///
/// # Errors
/// Where the size has changed since it was seen, or more of it are set aside.
pub async fn count(
    store: &Store,
    key: &IdempotencyKey,
    seen: &IfMatch,
    family: &str,
    count: &Count,
) -> ApiResult<()> {
    let thickness = rules::thickness("thickness", &count.thickness, count.unit)?;
    rules::may_count(count.on_hand)?;
    let request = ("count", &(family, count));
    Write::once(store, key, &count.who, request, |mut tx| async move {
        let row = Row {
            family: family.to_owned(),
            thickness_nm: thickness,
            grade: count.grade,
            marked_nm: None,
            on_hand: count.on_hand,
            on_order: None,
            place: count.place.trim().to_owned(),
            discontinued: count.discontinued,
        };
        let line = Line {
            family,
            thickness_nm: thickness.nm(),
            grade: count.grade,
        };
        let waiting = locks::hold(store, &mut tx, &[], &[family.to_owned()]).await?;
        // Looked at under the lock: of two who saw the same version, the second is told.
        seen.still(drawer::version(store, &mut tx, line).await?, "This size")?;
        let counted = (
            StockChange::Counted,
            count.who.as_str(),
            Some(key.0.as_str()),
        );
        put_counts(store, &mut tx, &[row], counted).await?;
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// A drawer gone through size by size.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StockTaking {
    /// The sizes that were counted; the others stay as they are.
    pub lines: Vec<CountedLine>,
    /// The initials.
    pub who: String,
}

/// One size of it.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CountedLine {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// How that is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// How many there are, those set aside included.
    pub on_hand: i32,
    /// The version of the size that was seen.
    pub version: i32,
}

/// Sets how many there are of the sizes of a drawer, all of them or none.
///
/// # Errors
/// Where one of them has changed since it was seen, or more of it are set aside.
pub async fn take_stock(
    store: &Store,
    key: &IdempotencyKey,
    family: &str,
    counted: &StockTaking,
) -> ApiResult<()> {
    for line in &counted.lines {
        rules::may_count(line.on_hand)?;
    }
    let request = ("stock-taking", &(family, counted));
    Write::once(store, key, &counted.who, request, |mut tx| async move {
        let waiting = locks::hold(store, &mut tx, &[], &[family.to_owned()]).await?;
        let now = drawer::rows(store, &mut *tx).await?;
        let mut rows = Vec::with_capacity(counted.lines.len());
        for line in &counted.lines {
            let of = Line {
                family,
                thickness_nm: line.thickness_nm.nm(),
                grade: line.grade,
            };
            let what = format!("The size {}", line.thickness_nm);
            IfMatch::at(line.version).still(drawer::version(store, &mut tx, of).await?, &what)?;
            let Some(row) = now
                .iter()
                .find(|r| r.is_line(family, line.thickness_nm, line.grade))
            else {
                return Err(Problem::missing(format!("{what} is not in the drawer.")));
            };
            rows.push(Row {
                on_hand: line.on_hand,
                ..row.clone()
            });
        }
        let as_counted = (
            StockChange::Counted,
            counted.who.as_str(),
            Some(key.0.as_str()),
        );
        put_counts(store, &mut tx, &rows, as_counted).await?;
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// A drawer that no sheet has brought.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewDrawer {
    /// What the pieces are called.
    pub name: String,
    /// What kind of part they are.
    pub kind: PartKind,
    /// How far one may be off its mark, ±, in bench notation.
    pub tolerance: String,
    /// The sizes, such as `1.10 to 1.25 by 0.05; 1.40`.
    pub sizes: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// Where the drawer is.
    #[serde(default)]
    pub place: String,
    /// The initials.
    pub who: String,
}

/// Opens a drawer that no sheet has brought; none of its sizes is in it yet.
///
/// # Errors
/// Where it has no name, or its limits or sizes cannot be read.
pub async fn open(store: &Store, key: &IdempotencyKey, asked: &NewDrawer) -> ApiResult<()> {
    let tolerance = rules::may_open(&asked.name, &asked.tolerance, asked.unit)?;
    let sizes = &rules::sizes("sizes", &asked.sizes, asked.unit)?;
    Write::once(
        store,
        key,
        &asked.who,
        ("drawer", asked),
        |mut tx| async move {
            let there = drawer::families(store, &mut *tx).await?;
            let family = rules::key_of(&asked.name, |key| there.contains_key(key));
            let opened = family::NewFamily {
                key: &family,
                name: asked.name.trim(),
                kind: asked.kind,
                tolerance,
            };
            family::open_alone(store, &mut tx, &opened, &asked.who).await?;
            let rows = new_rows(&family, sizes, 0, &asked.place);
            let counted = (StockChange::Counted, asked.who.as_str(), None);
            put_counts(store, &mut tx, &rows, counted).await?;
            Ok((tx, ()))
        },
    )
    .await
}

/// Sizes to be put in a drawer.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewSizes {
    /// The sizes, such as `1.10 to 1.25 by 0.05; 1.40`.
    pub sizes: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
    /// How many of each are there.
    #[serde(default)]
    pub on_hand: i32,
    /// Where the drawer is.
    #[serde(default)]
    pub place: String,
    /// The initials.
    pub who: String,
}

/// Makes places for sizes in a drawer, with so many in each; those that are there already stay as they are.
///
/// # Errors
/// Where there is no such drawer, the sizes cannot be read, or all of them are there already.
pub async fn add_sizes(
    store: &Store,
    key: &IdempotencyKey,
    family: &str,
    asked: &NewSizes,
) -> ApiResult<()> {
    let sizes = rules::sizes("sizes", &asked.sizes, asked.unit)?;
    rules::may_count(asked.on_hand)?;
    let rows = &new_rows(family, &sizes, asked.on_hand, &asked.place);
    let request = ("sizes", &(family, asked));
    Write::once(store, key, &asked.who, request, |mut tx| async move {
        let waiting = locks::hold(store, &mut tx, &[], &[family.to_owned()]).await?;
        let now = drawer::rows(store, &mut *tx).await?;
        let is_new = |row: &&Row| {
            !now.iter()
                .any(|n| n.is_line(family, row.thickness_nm, row.grade))
        };
        let new: Vec<Row> = rows.iter().filter(is_new).cloned().collect();
        if new.is_empty() {
            return Err(Problem::field(
                "sizes",
                "They are in the drawer already: press one to count it.",
            ));
        }
        let counted = (
            StockChange::Counted,
            asked.who.as_str(),
            Some(key.0.as_str()),
        );
        put_counts(store, &mut tx, &new, counted).await?;
        settle_waiting(store, &mut tx, &waiting).await?;
        Ok((tx, ()))
    })
    .await
}

/// Sizes as marked, so many of each.
fn new_rows(family: &str, sizes: &[Length], on_hand: i32, place: &str) -> Vec<Row> {
    let row = |thickness_nm: &Length| Row {
        family: family.to_owned(),
        thickness_nm: *thickness_nm,
        grade: Grade::Marked,
        marked_nm: None,
        on_hand,
        on_order: None,
        place: place.trim().to_owned(),
        discontinued: false,
    };
    sizes.iter().map(row).collect()
}

/// Counts what a file says there is.
///
/// # Errors
/// Where there is no such drawer, or more of a size are set aside than the file says there are.
pub async fn import(
    store: &Store,
    key: &IdempotencyKey,
    (rows, text): (&[Row], &str),
    who: &str,
) -> ApiResult<()> {
    Write::once(store, key, who, ("csv", &text), |mut tx| async move {
        take_counts(store, &mut tx, rows, who).await?;
        Ok((tx, ()))
    })
    .await
}

/// Counts what a file says there is, and sets aside what checks were waiting for.
///
/// # Errors
/// See [`import`].
pub async fn take_counts(store: &Store, tx: &mut Tx, rows: &[Row], who: &str) -> ApiResult<()> {
    let families = families(rows.iter().map(|r| &r.family));
    let waiting = locks::hold(store, tx, &[], &families).await?;
    let now = drawer::rows(store, &mut **tx).await?;
    let changed: Vec<Row> = changes(&now, rows)
        .into_iter()
        .map(|c| c.is.clone())
        .collect();
    put_counts(store, tx, &changed, (StockChange::Imported, who, None)).await?;
    settle_waiting(store, tx, &waiting).await
}

/// Stores counts in the order in which all hold the lines.
async fn put_counts(
    store: &Store,
    tx: &mut Tx,
    rows: &[Row],
    counted: (StockChange, &str, Option<&str>),
) -> ApiResult<()> {
    let mut sorted: Vec<_> = rows.iter().collect();
    let key = |r: &Row| (r.thickness_nm, <&str>::from(r.grade));
    sorted.sort_by(|a, b| (&a.family, key(a)).cmp(&(&b.family, key(b))));
    let measured = rows.iter().any(|r| r.grade != Grade::Marked);
    let u_nm = if measured {
        Some(u_of_registered_micrometer(
            &gauge::list(store, &mut **tx).await?,
            None,
        )?)
    } else {
        None
    };
    for row in sorted {
        let u_nm = u_nm.filter(|_| row.grade != Grade::Marked);
        drawer::count(store, tx, row, u_nm, counted).await?;
    }
    Ok(())
}
