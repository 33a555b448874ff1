//! What lies in the drawers and on order, and what is done with it.

use anvil_arithmetic::calculators::list_input;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Grade, Range};
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};

use crate::sheet::PartKind;

/// A drawer: one family with its sizes.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct Drawer {
    /// The family's key.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// What kind of part it is.
    pub kind: PartKind,
    /// The ± limits of a piece's thickness in nanometres.
    pub tolerance_nm: i64,
    /// Where these figures come from.
    pub figures: FiguresFrom,
    /// Its sizes, thinnest first.
    pub sizes: Vec<DrawerSize>,
    /// How they lie along its range.
    pub range: Range,
}

/// Where a family's figures come from: its limits, its kind, and which sizes are no longer made.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct FiguresFrom {
    /// Their revision, counted from 1.
    pub revision: i32,
    /// The sheet that says so; none where that is not known.
    pub sheet_key: Option<String>,
    /// Which of that sheet's revisions says so.
    pub sheet_revision: Option<i32>,
    /// Who took them over.
    pub who: Option<String>,
    /// When.
    pub at: DateTime<Utc>,
}

/// The pieces of one thickness and grade: how many, for whom, and where.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct DrawerSize {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
    /// What a measured piece was marked as, in nanometres, where that is known.
    pub nominal_nm: Option<i64>,
    /// The standard uncertainty of a measured thickness in nanometres.
    pub u_nm: Option<f64>,
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many of them are set aside for checks.
    pub reserved: i32,
    /// How many are ordered and have still to come.
    pub on_order: i32,
    /// When the last of those were ordered.
    pub ordered_at: Option<DateTime<Utc>>,
    /// The checks they are set aside for, or that wait for them.
    pub held_by: Vec<HeldBy>,
    /// How many more are chosen for checks and have still to come.
    pub awaited: i64,
    /// Where the drawer is.
    pub place: String,
    /// It is no longer made.
    pub discontinued: bool,
    /// For `If-Match`.
    pub version: i32,
}

/// Pieces set aside for a check, or that it waits for.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct HeldBy {
    pub job_no: i32,
    pub check_key: String,
    /// What people call the check.
    pub check_name: String,
    /// How many are set aside.
    pub reserved: i32,
    /// How many more it waits for.
    pub awaited: i32,
    /// How many of those are not on order: what is on order comes to the oldest job first.
    pub to_order: i32,
}

/// Pieces of one size that checks wait for.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct AwaitedSize {
    pub family_key: String,
    /// What people call the family.
    pub family_name: String,
    /// The thickness of one piece in nanometres.
    pub thickness_nm: i64,
    /// How many are on order.
    pub on_order: i32,
    /// When the last of those were ordered.
    pub ordered_at: Option<DateTime<Utc>>,
    /// The checks that wait, the oldest job first.
    pub held_by: Vec<HeldBy>,
}

/// Says of each check how many of the pieces of one size it still waits for are not on order; the oldest job comes first.
pub fn say_what_to_order(held_by: &mut [HeldBy], on_order: i32) {
    let mut ordered = on_order;
    for held in held_by {
        held.to_order = (held.awaited - ordered).max(0);
        ordered = (ordered - held.awaited).max(0);
    }
}

/// One change of a count.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct Move {
    pub family_key: String,
    /// The size in nanometres.
    pub thickness_nm: i64,
    /// How that is known.
    pub grade: Grade,
    /// How many there were.
    pub on_hand_was: i32,
    /// How many there are.
    pub on_hand: i32,
    /// How many were on order.
    pub on_order_was: i32,
    /// How many are on order.
    pub on_order: i32,
    /// What was done.
    pub why: StockChange,
    /// Why, as somebody said.
    pub reason: String,
    /// The act it is of, where that can be undone.
    pub act_key: Option<String>,
    /// It has been undone.
    pub undone: bool,
    /// The job it was for, where it was for one.
    pub job_no: Option<i32>,
    /// The check of that job.
    pub check_key: Option<String>,
    pub who: String,
    /// When.
    pub at: DateTime<Utc>,
}

/// No selective piece, and no stack of them, is thicker than this: 100 mm.
pub const THICKEST: Length = Length::from_nm(100_000_000);

/// What is on record of a line of a drawer.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum StockChange {
    /// Somebody counted what is there.
    Counted,
    /// A file said how many there are.
    Imported,
    /// Went into a box.
    Fitted,
    /// Came out of a box, sound.
    PutBack,
    /// Taken out for something that is no job here.
    Taken,
    /// Put in, or back.
    Returned,
    /// Thrown away.
    Scrapped,
    /// Ordered from the maker.
    Ordered,
    /// Taken off an order again.
    OrderCut,
    /// Came from an order.
    Came,
    /// Measured by micrometer, and from then on a line of its own.
    Miked,
    /// A change was undone.
    Undone,
}

/// What can be done with pieces of a drawer.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DrawerAct {
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

impl DrawerAct {
    /// What it is on record as.
    #[must_use]
    pub const fn change(self) -> StockChange {
        match self {
            Self::Take => StockChange::Taken,
            Self::Return => StockChange::Returned,
            Self::Scrap => StockChange::Scrapped,
            Self::Order => StockChange::Ordered,
            Self::CutOrder => StockChange::OrderCut,
            Self::Come => StockChange::Came,
        }
    }

    /// By how much it changes what is in the drawer and on order.
    #[must_use]
    pub const fn by(self, count: i32) -> (i32, i32) {
        match self {
            Self::Take | Self::Scrap => (-count, 0),
            Self::Return => (count, 0),
            Self::Order => (0, count),
            Self::CutOrder => (0, -count),
            Self::Come => (count, -count),
        }
    }
}

/// A size as it stands.
#[derive(Clone, Copy, Debug)]
pub struct StockCounts {
    /// How many are in the drawer.
    pub on_hand: i32,
    /// How many of them are set aside.
    pub reserved: i32,
    /// How many are on order.
    pub on_order: i32,
    /// It is no longer made.
    pub discontinued: bool,
}

impl StockCounts {
    /// A count may say that there are so many.
    ///
    /// # Errors
    /// Where more than that are set aside.
    pub fn may_be_counted(&self, on_hand: i32, thickness: Length) -> Ruled<()> {
        if self.reserved > on_hand {
            return Err(Refusal::conflict(
                "reserved",
                format!(
                    "{} of the {thickness} pieces are set aside for checks, so there cannot be only {on_hand}: let a choice go first.",
                    self.reserved
                ),
            ));
        }
        Ok(())
    }

    /// How many there would be in the drawer and on order, changed by so many.
    ///
    /// # Errors
    /// Where pieces that are set aside would be taken, fewer than none be on order, or something be ordered that is no
    /// longer made.
    pub fn changed_by(
        &self,
        (on_hand, on_order): (i32, i32),
        thickness: Length,
    ) -> Ruled<(i32, i32)> {
        let after = (self.on_hand + on_hand, self.on_order + on_order);
        if after.0 < self.reserved {
            let aside = match self.reserved {
                0 => String::new(),
                n => format!("; {n} more set aside for checks"),
            };
            return Err(Refusal::conflict(
                "not-free",
                format!(
                    "{} of {thickness} are free to take{aside}. Take fewer, or count them again.",
                    self.on_hand - self.reserved
                ),
            ));
        }
        if after.1 < 0 {
            return Err(Refusal::conflict(
                "not-on-order",
                format!("Only {} of {thickness} are on order.", self.on_order),
            ));
        }
        if on_order > 0 && self.discontinued {
            return Err(Refusal::conflict(
                "discontinued",
                format!("{thickness} is no longer made, so it cannot be ordered."),
            ));
        }
        Ok(after)
    }
}

/// More pieces than this in one go is a slip.
const MOST_AT_ONCE: i32 = 10_000;
/// More pieces of one size than this are no drawer.
const MOST_ON_HAND: i32 = 100_000;
/// A piece that measures so much more or less than it is marked is a slip of the pen, in nanometres: 0.1 mm.
const FAR_FROM_MARK: i64 = 100_000;

/// A key of a drawer with the number that tells it from another is no longer than 40.
const LONGEST_KEY: usize = 36;
/// A drawer's name has up to so many letters.
const MOST_OF_A_NAME: usize = 60;

/// Pieces of one line of a drawer, as something is to be done with them.
pub type ActOn<'a> = (&'a str, Length, Grade, i32);

/// Something may be done with pieces of these lines: family, thickness, grade and how many.
///
/// # Errors
/// Where a line is named twice, the counts are no whole pieces, or a measured piece is to be ordered.
pub fn may_act(act: DrawerAct, lines: &[ActOn<'_>]) -> Ruled<()> {
    let mut keys: Vec<_> = lines.iter().map(|l| (l.0, l.1, l.2)).collect();
    keys.sort_unstable();
    keys.dedup();
    if keys.is_empty() || keys.len() != lines.len() {
        return Err(Refusal::field(
            "lines",
            "Name each size once, and at least one.",
        ));
    }
    for (_, _, grade, count) in lines {
        if !(1..=MOST_AT_ONCE).contains(count) {
            return Err(Refusal::field(
                "count",
                format!("Whole pieces, from 1 to {MOST_AT_ONCE}."),
            ));
        }
        if *grade != Grade::Marked
            && matches!(
                act,
                DrawerAct::Order | DrawerAct::CutOrder | DrawerAct::Come
            )
        {
            return Err(Refusal::field(
                "grade",
                "A measured piece cannot be ordered: order the size it is marked as.",
            ));
        }
    }
    Ok(())
}

/// There may be so many pieces of a size.
///
/// # Errors
/// Where it is no count of pieces.
pub fn may_count(on_hand: i32) -> Ruled<()> {
    if (0..=MOST_ON_HAND).contains(&on_hand) {
        return Ok(());
    }
    Err(Refusal::field(
        "on_hand",
        "Count whole pieces, from 0 to 100 000.",
    ))
}

/// The sizes of a list as typed, such as `1.10 to 1.25 by 0.05; 1.40`; none thicker than a selective piece.
///
/// # Errors
/// Where it is no list of sizes.
pub fn sizes(field: &'static str, typed: &str, unit: Unit) -> Ruled<Vec<Length>> {
    let sizes = list_input::sizes(typed, unit).map_err(|e| Refusal::field(field, e))?;
    match sizes.last().filter(|thickest| **thickest > THICKEST) {
        None => Ok(sizes),
        Some(thickest) => Err(Refusal::field(
            field,
            format!("{thickest} is no selective piece: they are thinner than {THICKEST}."),
        )),
    }
}

/// The key of a new drawer: its name in small letters, figures and hyphens, with a number where there is one of it
/// already.
#[must_use]
pub fn key_of(name: &str, taken: impl Fn(&str) -> bool) -> String {
    let mut key = String::new();
    for c in name.chars() {
        if c.is_ascii_alphanumeric() {
            key.push(c.to_ascii_lowercase());
        } else if !key.ends_with('-') && !key.is_empty() {
            key.push('-');
        }
        if key.len() == LONGEST_KEY {
            break;
        }
    }
    let key = match key.trim_end_matches('-') {
        "" => "drawer",
        key => key,
    };
    let numbered = (2..).map(|n| format!("{key}-{n}"));
    std::iter::once(key.to_owned())
        .chain(numbered)
        .find(|key| !taken(key))
        .unwrap_or_default()
}

/// A drawer's name and the limits of its pieces, as typed.
///
/// # Errors
/// Where there is no name, or the limits are no length.
pub fn may_open(name: &str, tolerance: &str, unit: Unit) -> Ruled<Length> {
    if !(1..=MOST_OF_A_NAME).contains(&name.trim().chars().count()) {
        return Err(Refusal::field(
            "name",
            format!("Say what the pieces are called, in up to {MOST_OF_A_NAME} letters."),
        ));
    }
    notation::parse(tolerance, Some(unit), Sign::NotNegative)
        .map_err(|e| Refusal::field("tolerance", e))
}

/// A piece's thickness as typed; more than nothing, and thinner than anything that is no selective piece.
///
/// # Errors
/// Where it is none.
pub fn thickness(field: &'static str, typed: &str, unit: Unit) -> Ruled<Length> {
    let thickness = notation::parse(typed, Some(unit), Sign::NotNegative)
        .map_err(|e| Refusal::field(field, e))?;
    if thickness == Length::ZERO || thickness > THICKEST {
        return Err(Refusal::field(
            field,
            format!("A piece is thicker than nothing and thinner than {THICKEST}."),
        ));
    }
    Ok(thickness)
}

/// A piece that was so thick may measure so once it is ground.
///
/// # Errors
/// Where that is no thinner, or nothing is known of how thick it was.
pub fn may_grind(was: Option<Length>, measured: Length) -> Ruled<()> {
    match was {
        Some(was) if measured < was => Ok(()),
        Some(was) => Err(Refusal::field(
            "measured",
            format!(
                "Grinding takes off: from {was} it cannot come to {measured}. Check the figure and its unit."
            ),
        )),
        None => Err(Refusal::field(
            "marked_nm",
            "What is fitted is not known: say which size was ground.",
        )),
    }
}

/// A piece marked so may measure so.
///
/// # Errors
/// Where it can hardly be the same piece.
pub fn may_measure(marked: Option<Length>, measured: Length) -> Ruled<()> {
    let far = |marked: &Length| (measured.nm() - marked.nm()).abs() > FAR_FROM_MARK;
    match marked.filter(far) {
        None => Ok(()),
        Some(marked) => Err(Refusal::field(
            "measured",
            format!(
                "A piece marked {marked} can hardly measure {measured}: check the figure and its unit. If it is another piece, put it in by itself."
            ),
        )),
    }
}
