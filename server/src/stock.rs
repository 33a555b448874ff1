//! The writes on drawers: counting, taking, returning, scrapping, ordering, measuring a piece, and
//! undoing any of it. Each is a record; what comes in is set aside for the checks that wait for it.

use anvil_core::drawer::{Grade, u_of_micrometer};
use anvil_core::length::{Length, Unit};
use anvil_core::notation::{self, Sign};
use anvil_core::stock_csv::Row;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::guard::WriteKey;
use crate::problem::{Answer, Problem};
use crate::store::drawer::{self, Line, Noted};
use crate::store::gauge::{self, GaugeKind};
use crate::store::{Store, Tx, shop, writes};
use crate::work::{reason, settle_waiting};

/// More pieces than this in one go is a slip.
const MOST_AT_ONCE: i32 = 10_000;
/// No selective piece, and no stack of them, is thicker than this: 100 mm.
pub const THICKEST: Length = Length::from_nm(100_000_000);
/// A piece that measures so much more or less than it is marked is a slip of the pen: 0.1 mm.
const FAR_FROM_MARK: i64 = 100_000;

/// What can be done with pieces of a drawer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Act {
    /// Taken out for something that is no job here.
    Take,
    /// Put in, or back.
    Return,
    /// Thrown away.
    Scrap,
    /// Ordered from the maker.
    Order,
    /// Taken off an order again.
    CutOrder,
    /// Come from an order.
    Come,
}

impl Act {
    const fn why(self) -> &'static str {
        match self {
            Self::Take => "taken",
            Self::Return => "returned",
            Self::Scrap => "scrapped",
            Self::Order => "ordered",
            Self::CutOrder => "order_cut",
            Self::Come => "came",
        }
    }

    /// By how much it changes what is in the drawer and on order.
    const fn by(self, count: i32) -> (i32, i32) {
        match self {
            Self::Take | Self::Scrap => (-count, 0),
            Self::Return => (count, 0),
            Self::Order => (0, count),
            Self::CutOrder => (0, -count),
            Self::Come => (count, -count),
        }
    }
}

/// Pieces of one line of a drawer.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ActLine {
    /// The key of the family.
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
    /// What.
    pub act: Act,
    /// With which: all of it, or nothing.
    pub lines: Vec<ActLine>,
    /// Why, where somebody says.
    #[serde(default)]
    pub reason: String,
    /// The initials.
    pub who: String,
}

/// Does something with pieces of the drawers.
pub async fn act(store: &Store, key: &WriteKey, act: &StockAct) -> Answer<()> {
    let why = reason(&act.reason, None)?;
    let mut lines = act.lines.clone();
    lines.sort_by(|a, b| sort_key(a).cmp(&sort_key(b)));
    if lines.is_empty() || lines.windows(2).any(|w| sort_key(&w[0]) == sort_key(&w[1])) {
        return Err(Problem::field(
            "lines",
            "Name each size once, and at least one.",
        ));
    }
    for line in &lines {
        if !(1..=MOST_AT_ONCE).contains(&line.count) {
            return Err(Problem::field(
                "count",
                format!("Whole pieces, from 1 to {MOST_AT_ONCE}."),
            ));
        }
        if line.grade != Grade::Marked && matches!(act.act, Act::Order | Act::CutOrder | Act::Come)
        {
            return Err(Problem::field(
                "grade",
                "A measured piece cannot be ordered: order the size it is marked as.",
            ));
        }
    }
    let body = serde_json::to_string(act).map_err(Problem::server)?;
    let mut tx = store.begin().await?;
    let claimed = writes::claim(store, &mut tx, &key.0, &format!("stock {body}")).await?;
    if claimed.is_some() {
        return Ok(());
    }
    shop::known(store, &mut tx, &act.who).await?;
    let families = lines.iter().map(|l| l.family_key.as_str());
    let waiting = hold_waiting(store, &mut tx, families).await?;
    for line in &lines {
        let of = Line {
            family: &line.family_key,
            thickness_nm: line.thickness_nm.nm(),
            grade: line.grade,
        };
        let noted = Noted {
            reason: &why,
            act_key: Some(&key.0),
            ..Noted::of(of, (0, 0), act.act.why(), &act.who)
        };
        drawer::change(store, &mut tx, noted, act.act.by(line.count)).await?;
    }
    settle_waiting(store, &mut tx, waiting).await?;
    tx.commit().await?;
    Ok(())
}

fn sort_key(line: &ActLine) -> (&str, Length, &'static str) {
    let grade = drawer::grade_name(line.grade);
    (&line.family_key, line.thickness_nm, grade)
}

/// The checks that wait for pieces of any of these families, held.
async fn hold_waiting<'a>(
    store: &Store,
    tx: &mut Tx,
    families: impl Iterator<Item = &'a str>,
) -> Answer<Vec<(i32, String)>> {
    let mut families: Vec<&str> = families.collect();
    families.sort_unstable();
    families.dedup();
    let mut waiting = Vec::new();
    for family in families {
        waiting.extend(drawer::hold_waiting(store, tx, family).await?);
    }
    Ok(waiting)
}

/// A piece measured by micrometer.
#[derive(Clone, Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MikedPiece {
    /// The size it is marked as, where it comes out of this drawer; none where it comes from
    /// elsewhere, out of a box for one.
    pub marked_nm: Option<Length>,
    /// What it measures, in bench notation.
    pub measured: String,
    /// The unit a bare figure is in.
    pub unit: Unit,
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
pub async fn mike(store: &Store, key: &WriteKey, family: &str, piece: &MikedPiece) -> Answer<()> {
    let measured = thickness("measured", &piece.measured, piece.unit)?;
    let far = |marked: &Length| (measured.nm() - marked.nm()).abs() > FAR_FROM_MARK;
    if let Some(marked) = piece.marked_nm.filter(far) {
        return Err(Problem::field(
            "measured",
            format!(
                "A piece marked {marked} can hardly measure {measured}: check the figure and its unit. If it is another piece, put it in by itself."
            ),
        ));
    }
    let body = serde_json::to_string(piece).map_err(Problem::server)?;
    let mut tx = store.begin().await?;
    let claimed = writes::claim(store, &mut tx, &key.0, &format!("mike {family} {body}")).await?;
    if claimed.is_some() {
        return Ok(());
    }
    shop::known(store, &mut tx, &piece.who).await?;
    if !drawer::families(store, &mut *tx)
        .await?
        .contains_key(family)
    {
        return Err(Problem::missing(format!("There is no drawer “{family}”.")));
    }
    let u_nm = u_of_usual_micrometer(store, &mut tx).await?;
    let families = [family.to_owned()];
    drawer::hold_families(store, &mut tx, &families).await?;
    let line = |thickness: Length, grade| Line {
        family,
        thickness_nm: thickness.nm(),
        grade,
    };
    let noted = |line| Noted {
        act_key: Some(&key.0),
        ..Noted::of(line, (0, 0), "miked", &piece.who)
    };
    if let Some(marked) = piece.marked_nm {
        drawer::change(store, &mut tx, noted(line(marked, Grade::Marked)), (-1, 0)).await?;
    }
    let own = line(
        measured,
        if piece.used {
            Grade::Used
        } else {
            Grade::Miked
        },
    );
    let about = (piece.marked_nm.map(Length::nm), u_nm);
    drawer::open_line(store, &mut tx, own, about, piece.place.trim()).await?;
    drawer::change(store, &mut tx, noted(own), (1, 0)).await?;
    tx.commit().await?;
    Ok(())
}

/// A thickness as typed; more than nothing, and thinner than anything that is no selective piece.
pub fn thickness(field: &'static str, typed: &str, unit: Unit) -> Answer<Length> {
    let thickness = notation::parse(typed, Some(unit), Sign::NotNegative)
        .map_err(|e| Problem::field(field, e))?;
    if thickness == Length::ZERO || thickness > THICKEST {
        return Err(Problem::field(
            field,
            format!("A piece is thicker than nothing and thinner than {THICKEST}."),
        ));
    }
    Ok(thickness)
}

/// The standard uncertainty of a thickness read off the micrometer that is taken up.
async fn u_of_usual_micrometer(store: &Store, tx: &mut Tx) -> Answer<f64> {
    let gauges = gauge::list(store, &mut **tx).await?;
    let micrometer = gauges
        .iter()
        .find(|g| g.kind == GaugeKind::Micrometer && !g.retired);
    let figures = micrometer.and_then(|g| Some((g.resolution_nm?, g.permissible_error_nm?)));
    let (resolution, error) = figures.ok_or_else(|| {
        Problem::field(
            "measured",
            "The register has no micrometer: enter one under Gauges, so that it is known how sure the figure is.",
        )
    })?;
    Ok(u_of_micrometer(
        Length::from_nm(resolution),
        Length::from_nm(error),
    ))
}

/// Undoes an act: all that it changed is changed back, as a record of its own.
pub async fn undo(store: &Store, key: &WriteKey, act_key: &str, who: &str) -> Answer<()> {
    let mut tx = store.begin().await?;
    let claimed = writes::claim(store, &mut tx, &key.0, &format!("undo {act_key} {who}")).await?;
    if claimed.is_some() {
        return Ok(());
    }
    shop::known(store, &mut tx, who).await?;
    let moves = drawer::moves_of(store, &mut tx, act_key).await?;
    if moves.is_empty() {
        return Err(Problem::missing("There is no such change to undo."));
    }
    let waiting = hold_waiting(store, &mut tx, moves.iter().map(|m| m.0.as_str())).await?;
    let families: Vec<String> = moves.iter().map(|m| m.0.clone()).collect();
    drawer::hold_families(store, &mut tx, &families).await?;
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
            ..Noted::of(line, (0, 0), "undone", who)
        };
        drawer::change(store, &mut tx, noted, (-on_hand, -on_order)).await?;
    }
    settle_waiting(store, &mut tx, waiting).await?;
    tx.commit().await?;
    Ok(())
}

/// Counts sizes of the drawers, and sets aside what checks were waiting for.
pub async fn count(store: &Store, tx: &mut Tx, rows: &[Row], why: &str, who: &str) -> Answer<()> {
    let waiting = hold_waiting(store, tx, rows.iter().map(|r| r.family.as_str())).await?;
    let mut sorted: Vec<_> = rows.iter().collect();
    let key = |r: &Row| (r.thickness_nm, drawer::grade_name(r.grade));
    sorted.sort_by(|a, b| (&a.family, key(a)).cmp(&(&b.family, key(b))));
    let measured = rows.iter().any(|r| r.grade != Grade::Marked);
    let u_nm = if measured {
        Some(u_of_usual_micrometer(store, tx).await?)
    } else {
        None
    };
    for row in sorted {
        let u_nm = u_nm.filter(|_| row.grade != Grade::Marked);
        drawer::count(store, tx, row, u_nm, (why, who)).await?;
    }
    settle_waiting(store, tx, waiting).await
}
