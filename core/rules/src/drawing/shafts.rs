//! The drawing of a box: its shafts in a row of rails, each part a block to scale, each check a
//! cut opened up between two parts.

use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use serde::{Deserialize, Serialize};

use crate::sheet::{PartKind, Shaft, Sheet};

/// The rails of a box, all to one scale.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Rail {
    /// The length of the longest shaft as drawn, in nanometres.
    pub longest_nm: i64,
    /// The shafts, in the sheet's order.
    pub shafts: Vec<RailShaft>,
}

/// One shaft as drawn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RailShaft {
    /// The shaft's key.
    pub key: String,
    /// What people call it.
    pub name: String,
    /// Its length as drawn, the openings of its cuts included, in nanometres.
    pub length_nm: i64,
    /// The diameter of the bare shaft in nanometres.
    pub diameter_nm: i64,
    /// The largest diameter on it in nanometres.
    pub largest_nm: i64,
    /// Its parts from left to right.
    pub blocks: Vec<Block>,
    /// Its checks from left to right.
    pub cuts: Vec<Cut>,
}

/// One part as drawn.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Block {
    /// The part's key.
    pub part: String,
    /// What people call it.
    pub name: String,
    pub kind: PartKind,
    /// Its left face in nanometres from the shaft's end.
    pub from_nm: i64,
    /// Its right face.
    pub to_nm: i64,
    /// Its outer diameter in nanometres.
    pub diameter_nm: i64,
    /// How many teeth it has.
    pub teeth: Option<u32>,
    /// To which side its telling face looks: −1 left, +1 right; none where it looks neither way.
    pub faces: Option<i8>,
    /// Its width is not known (yet): it is drawn, but not to scale.
    pub unread: bool,
}

/// One check as drawn: a gap opened up so that it can be seen.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Cut {
    /// The check's key.
    pub check: String,
    /// Where the gap begins, in nanometres from the shaft's end.
    pub from_nm: i64,
    /// Where it ends.
    pub to_nm: i64,
}

/// A cut is opened to this share of the longest shaft, whatever its real size.
const OPENING: i64 = 45;
/// The least width, in nanometres, that a part of unknown width is drawn with.
const UNREAD: i64 = 4_000_000;
const PLAIN_SHAFT: Length = Length::from_nm(24_000_000);

/// Lays out the rails of a sheet.
///
/// Widths and diameters are to one scale; only the cuts are opened up. Several checks at one
/// place share its opening.
#[must_use]
pub fn rail(sheet: &Sheet) -> Rail {
    let bare = sheet.shafts.iter().map(bare_length).max().unwrap_or(0);
    let opening = (bare / OPENING).max(1);
    let shafts: Vec<RailShaft> = sheet
        .shafts
        .iter()
        .map(|s| lay(s, sheet, opening))
        .collect();
    Rail {
        longest_nm: shafts.iter().map(|s| s.length_nm).max().unwrap_or(0),
        shafts,
    }
}

fn nm(written: Option<&Written>, otherwise: Length) -> i64 {
    written.map_or(otherwise, Written::length).nm()
}

fn bare_length(shaft: &Shaft) -> i64 {
    shaft
        .parts
        .iter()
        .map(|p| p.width.length().nm() + nm(p.gap_before.as_ref(), Length::ZERO))
        .sum()
}

fn lay(shaft: &Shaft, sheet: &Sheet, opening: i64) -> RailShaft {
    let place = |key: &str| shaft.parts.iter().position(|p| p.key == key);
    // A check between parts that are not neighbours is cut before the right-hand one.
    let checks_before = |at: usize| {
        sheet.checks.iter().filter(move |c| {
            c.between.as_ref().is_some_and(|[left, right]| {
                place(left)
                    .zip(place(right))
                    .is_some_and(|(l, r)| l.max(r) == at)
            })
        })
    };
    let mut at = 0;
    let mut blocks = Vec::with_capacity(shaft.parts.len());
    let mut cuts = Vec::new();
    for (index, part) in shaft.parts.iter().enumerate() {
        at += nm(part.gap_before.as_ref(), Length::ZERO);
        let mut here = checks_before(index).peekable();
        if here.peek().is_some() {
            cuts.extend(here.map(|check| Cut {
                check: check.key.clone(),
                from_nm: at,
                to_nm: at + opening,
            }));
            at += opening;
        }
        let width = part.width.length().nm();
        let unread = width <= 0;
        let to_nm = at + if unread { opening.max(UNREAD) } else { width };
        blocks.push(Block {
            part: part.key.clone(),
            name: part.name.clone(),
            kind: part.kind,
            from_nm: at,
            to_nm,
            diameter_nm: nm(part.diameter.as_ref(), usual_diameter(part.kind)),
            teeth: part.teeth,
            faces: shaft.faces(part),
            unread,
        });
        at = to_nm;
    }
    let diameter_nm = nm(shaft.diameter.as_ref(), PLAIN_SHAFT);
    RailShaft {
        key: shaft.key.clone(),
        name: shaft.name.clone(),
        length_nm: at,
        diameter_nm,
        largest_nm: blocks
            .iter()
            .map(|b| b.diameter_nm)
            .max()
            .unwrap_or(0)
            .max(diameter_nm),
        blocks,
        cuts,
    }
}

/// A diameter to draw where the sheet gives none.
const fn usual_diameter(kind: PartKind) -> Length {
    let mm = match kind {
        PartKind::Gear | PartKind::Drum | PartKind::DiffCase => 80,
        PartKind::Hub | PartKind::Sleeve | PartKind::Planet => 70,
        PartKind::Washer | PartKind::Shim | PartKind::SnapRing | PartKind::ThrustPlate => 48,
        PartKind::NeedleBearing | PartKind::Spacer | PartKind::Collar | PartKind::Seal => 36,
        _ => 62,
    };
    Length::from_nm(mm * 1_000_000)
}
