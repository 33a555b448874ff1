//! Clutch packs: the plates in their drum from the piston outwards, what is wrong with how they lie, and
//! the clearance they leave.
//!
//! `c = groove depth − Σ plates`, with the snap ring among the plates where the depth is to the far wall
//! of its groove (common practice, no source).

use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::doubts::Waived;
use super::part::PartKind;

/// The rule of thumb where the book is silent: a hundredth of an inch a friction (from memory; it varies by
/// maker).
const THUMB_NM: i64 = 254_000;
/// Within a fifth of that is still taken for right: ours, for want of a source.
const THUMB_SHARE: i64 = 5;

/// A pack as drawn.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DrawnPack {
    pub key: String,
    /// What people call it.
    pub name: String,
    /// The check that signs it off.
    pub check: String,
    /// The depth from the drum's floor to the groove, in nanometres.
    pub groove_nm: Length,
    /// The plates from the piston outwards.
    pub plates: Vec<DrawnPlate>,
    /// The clearance that the stated thicknesses leave, in nanometres; below zero where they do not go in.
    pub clearance_nm: Length,
    /// How many frictions.
    pub frictions: u32,
    /// How many steels.
    pub steels: u32,
    /// What is wrong with how they lie.
    pub faults: Vec<PackFault>,
    /// The rule of thumb, for a book that is silent; none without a friction.
    pub thumb: Option<Thumb>,
}

/// A plate as drawn.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct DrawnPlate {
    pub kind: PartKind,
    /// What people call it, where its kind does not say enough.
    pub name: String,
    /// Its face towards the piston, in nanometres from the drum's floor.
    pub from_nm: Length,
    /// Its other face.
    pub to_nm: Length,
}

/// A window by rule of thumb.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Thumb {
    /// The tight limit in nanometres.
    pub low_nm: Length,
    /// What is aimed at.
    pub at_nm: Length,
    /// The loose limit.
    pub high_nm: Length,
}

/// Something wrong with how plates lie.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PackFault {
    /// The plate at fault, counted from 0 at the piston; none where it is the count.
    pub plate: Option<usize>,
    /// What is wrong, and what would be right.
    pub message: String,
}

/// The window by rule of thumb: about 0.010 in a friction (from memory; varies by maker), a fifth of it
/// either way. None without a friction.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_rules::sheet::pack::thumb;
/// assert_eq!(thumb(6).unwrap().at_nm, Length::from_nm(6 * 254_000));
/// ```
#[must_use]
pub fn thumb(frictions: u32) -> Option<Thumb> {
    if frictions == 0 {
        return None;
    }
    let at = THUMB_NM * i64::from(frictions);
    let give = at / THUMB_SHARE;
    Some(Thumb {
        low_nm: Length::from_nm(at - give),
        at_nm: Length::from_nm(at),
        high_nm: Length::from_nm(at + give),
    })
}

const fn called(kind: PartKind) -> &'static str {
    match kind {
        PartKind::Friction => "friction",
        PartKind::Steel => "steel",
        PartKind::WavePlate => "wave plate",
        PartKind::PressurePlate => "pressure plate",
        PartKind::SnapRing => "snap ring",
        PartKind::ThrustPlate => "thrust plate",
        PartKind::Spacer => "spacer",
        _ => "plate",
    }
}

/// What can lie in a pack.
const PLATES: [PartKind; 7] = [
    PartKind::Friction,
    PartKind::Steel,
    PartKind::WavePlate,
    PartKind::PressurePlate,
    PartKind::SnapRing,
    PartKind::ThrustPlate,
    PartKind::Spacer,
];

/// Whether a part can lie in a pack.
#[must_use]
pub fn is_plate(kind: PartKind) -> bool {
    PLATES.contains(&kind)
}

pub(crate) fn count(plates: &[PartKind], kind: PartKind) -> u32 {
    u32::try_from(plates.iter().filter(|k| **k == kind).count()).unwrap_or(u32::MAX)
}

/// What is to be asked about the order of plates, from the piston outwards: two frictions or two steels together, a wave
/// plate or a pressure plate among the frictions, anything outside the last snap ring. A sheet may mean it so; its writer
/// says why.
///
/// ```
/// use anvil_rules::sheet::pack::order_faults;
/// use anvil_rules::sheet::PartKind::{Friction, Steel};
/// assert!(order_faults(&[Steel, Friction, Steel, Friction]).is_empty());
/// assert_eq!(order_faults(&[Steel, Friction, Friction])[0].plate, Some(2));
/// ```
#[must_use]
pub fn order_faults(plates: &[PartKind]) -> Vec<PackFault> {
    let mut faults = Vec::new();
    let mut add = |plate: usize, message: String| {
        faults.push(PackFault {
            plate: Some(plate),
            message,
        });
    };
    let first_friction = plates.iter().position(|k| *k == PartKind::Friction);
    let last_friction = plates.iter().rposition(|k| *k == PartKind::Friction);
    // Two rings with a spacer between hold a pack as well as one.
    let ring = plates.iter().rposition(|k| *k == PartKind::SnapRing);
    let among =
        |i: usize| first_friction.is_some_and(|f| i > f) && last_friction.is_some_and(|l| i < l);
    for (i, kind) in plates.iter().enumerate() {
        let before = i.checked_sub(1).map(|b| plates[b]);
        match kind {
            PartKind::Friction | PartKind::Steel if before == Some(*kind) => add(
                i,
                format!(
                    "two {}s lie together: put a {} between them",
                    called(*kind),
                    if *kind == PartKind::Steel {
                        "friction"
                    } else {
                        "steel"
                    }
                ),
            ),
            PartKind::WavePlate if among(i) => add(
                i,
                "a wave plate lies at an end of the pack, not among the frictions".into(),
            ),
            PartKind::PressurePlate if among(i) => add(
                i,
                "a pressure plate lies at an end of the pack, not among the frictions".into(),
            ),
            _ if *kind != PartKind::SnapRing && ring.is_some_and(|r| i > r) => add(
                i,
                format!(
                    "this {} lies outside the snap ring, which holds the pack in",
                    called(*kind)
                ),
            ),
            _ => {}
        }
    }
    faults
}

/// What is wrong with plates as they were laid in the drum: their counts against the sheet, the first that the sheet has
/// another for, and what is odd in their order where the sheet does not have it so.
#[must_use]
pub fn laid_faults(laid: &[PartKind], sheet: &[PartKind]) -> Vec<PackFault> {
    let as_on_sheet = |plate: usize| laid.get(..=plate) == sheet.get(..=plate);
    let mut faults = order_faults(laid);
    faults.retain(|f| !f.plate.is_some_and(as_on_sheet));
    for kind in PLATES {
        let (is, wanted) = (count(laid, kind), count(sheet, kind));
        if is != wanted {
            faults.push(PackFault {
                plate: None,
                message: counted(is, wanted, kind),
            });
        }
    }
    let other = laid.iter().zip(sheet).position(|(is, wanted)| is != wanted);
    if let Some(other) = other.filter(|o| !faults.iter().any(|f| f.plate == Some(*o))) {
        faults.push(PackFault {
            plate: Some(other),
            message: format!("the sheet has a {} here", called(sheet[other])),
        });
    }
    // From the piston outwards, as they are found on the bench; the counts last.
    faults.sort_by_key(|f| f.plate.unwrap_or(usize::MAX));
    faults
}

impl Pack {
    /// By how much its wave plates stand higher free than compressed: a clearance taken by hand is so much too small.
    #[must_use]
    pub fn sprung(&self) -> Length {
        let each = self.plates.iter().filter_map(|p| {
            let free = p.free.as_ref()?.length();
            Some(free.nm() - p.thickness.length().nm())
        });
        Length::from_nm(each.sum())
    }

    /// The kinds of its plates.
    #[must_use]
    pub fn kinds(&self) -> Vec<PartKind> {
        self.plates.iter().map(|p| p.kind).collect()
    }

    /// The clearance that the stated thicknesses leave: the groove's depth less every plate.
    #[must_use]
    pub fn clearance(&self) -> Length {
        let filled: i64 = self.plates.iter().map(|p| p.thickness.length().nm()).sum();
        Length::from_nm(self.groove_depth.length().nm() - filled)
    }

    /// What is wrong with plates as they were laid in the drum.
    #[must_use]
    pub fn laid_faults(&self, laid: &[PartKind]) -> Vec<PackFault> {
        laid_faults(laid, &self.kinds())
    }

    /// What is to be asked about the order of the sheet's own pack.
    pub(crate) fn doubts(&self) -> Vec<PackFault> {
        order_faults(&self.kinds())
    }

    /// By what a word of why is kept for an odd plate of it, counted from 0.
    pub(crate) fn about(&self, plate: usize) -> String {
        format!("plate {} {}", self.key, plate + 1)
    }

    /// The pack as drawn while its sheet is written: with what is to be asked about it that its writer has not said to be
    /// so.
    #[must_use]
    pub fn drawn_to_write(&self, waived: &[Waived]) -> DrawnPack {
        let mut faults = self.doubts();
        faults.retain(|f| {
            let about = f.plate.map(|plate| self.about(plate));
            !waived.iter().any(|w| Some(&w.about) == about.as_ref())
        });
        DrawnPack {
            faults,
            ..self.drawn()
        }
    }

    /// The terms of its sum: the groove's depth, and the plates of each kind and thickness together. Plates of
    /// one making are off the same way more often than not, so their limits are added, not taken
    /// root-sum-square.
    #[must_use]
    pub fn terms(&self) -> Vec<Term> {
        let mut terms = vec![Term {
            what: "Drum, to the groove".into(),
            opens: true,
            length_nm: self.groove_depth.length(),
            tolerance_nm: self.groove_tolerance.as_ref().map(Written::length),
            measured_nm: Vec::new(),
            by: Vec::new(),
        }];
        let mut groups: Vec<(&str, PartKind, i64, Option<i64>, i64)> = Vec::new();
        for plate in &self.plates {
            let thickness = plate.thickness.length().nm();
            let tolerance = plate.tolerance.as_ref().map(|t| t.length().nm());
            let alike = groups.iter_mut().find(|g| {
                (g.0, g.1, g.2, g.3) == (plate.name.as_str(), plate.kind, thickness, tolerance)
            });
            match alike {
                Some(group) => group.4 += 1,
                None => groups.push((&plate.name, plate.kind, thickness, tolerance, 1)),
            }
        }
        terms.extend(
            groups
                .into_iter()
                .map(|(name, kind, thickness, tolerance, n)| {
                    let kind = if name.is_empty() { called(kind) } else { name };
                    Term {
                        what: if n > 1 {
                            format!("{n} {kind}s, together")
                        } else {
                            kind.to_owned()
                        },
                        opens: false,
                        length_nm: Length::from_nm(n * thickness),
                        tolerance_nm: tolerance.map(|t| Length::from_nm(n * t)),
                        measured_nm: Vec::new(),
                        by: Vec::new(),
                    }
                }),
        );
        terms
    }

    /// The pack as these plates lie in it, with what is wrong with them: each as thick as its kind is on the sheet, the
    /// second of a kind as the second there; of a kind that the sheet has none of, as the first plate there.
    #[must_use]
    pub fn drawn_as(&self, laid: &[PartKind]) -> DrawnPack {
        let plate = |(i, kind): (usize, &PartKind)| {
            let before = laid[..i].iter().filter(|k| *k == kind).count();
            let mut of_kind = self.plates.iter().filter(|p| p.kind == *kind);
            let last = of_kind.clone().next_back();
            let like = of_kind.nth(before).or(last).or(self.plates.first())?;
            Some(Plate {
                kind: *kind,
                name: if like.kind == *kind {
                    like.name.clone()
                } else {
                    String::new()
                },
                ..like.clone()
            })
        };
        let laid_pack = Self {
            plates: laid.iter().enumerate().filter_map(plate).collect(),
            ..self.clone()
        };
        DrawnPack {
            faults: self.laid_faults(laid),
            ..laid_pack.drawn()
        }
    }

    /// The pack as drawn, with what is wrong with it.
    #[must_use]
    pub fn drawn(&self) -> DrawnPack {
        let mut at = 0;
        let plates: Vec<DrawnPlate> = self
            .plates
            .iter()
            .map(|p| {
                let from = at;
                at += p.thickness.length().nm();
                DrawnPlate {
                    kind: p.kind,
                    name: p.name.clone(),
                    from_nm: Length::from_nm(from),
                    to_nm: Length::from_nm(at),
                }
            })
            .collect();
        let kinds = self.kinds();
        let frictions = count(&kinds, PartKind::Friction);
        DrawnPack {
            key: self.key.clone(),
            name: self.name.clone(),
            check: self.check.clone(),
            groove_nm: self.groove_depth.length(),
            clearance_nm: self.clearance(),
            frictions,
            steels: count(&kinds, PartKind::Steel),
            faults: Vec::new(),
            thumb: thumb(frictions),
            plates,
        }
    }
}

/// Plates in a line, those alike one after the other counted: `pressure plate, 6 × (steel, friction), snap ring`.
///
/// ```
/// use anvil_rules::sheet::pack::in_words;
/// use anvil_rules::sheet::PartKind::{Friction, PressurePlate, Steel};
/// assert_eq!(in_words(&[PressurePlate, Steel, Friction, Steel, Friction]), "pressure plate, 2 × (steel, friction)");
/// ```
#[must_use]
pub fn in_words(plates: &[PartKind]) -> String {
    let mut words = Vec::new();
    let mut at = 0;
    while at < plates.len() {
        let pair = plates.get(at..at + 2);
        let times = pair.map_or(0, |pair| {
            plates[at..]
                .chunks_exact(2)
                .take_while(|c| *c == pair)
                .count()
        });
        if times > 1 {
            let [a, b] = [plates[at], plates[at + 1]].map(called);
            words.push(format!("{times} × ({a}, {b})"));
            at += 2 * times;
        } else {
            words.push(called(plates[at]).to_owned());
            at += 1;
        }
    }
    words.join(", ")
}

/// `7 frictions are laid and the sheet says 6`.
#[must_use]
pub fn counted(is: u32, wanted: u32, kind: PartKind) -> String {
    let s = if is == 1 { "" } else { "s" };
    let are = if is == 1 { "is" } else { "are" };
    format!(
        "{is} {}{s} {are} laid and the sheet says {wanted}: count them again",
        called(kind)
    )
}

/// What is wrong with a count of return springs against what the book fits, which may be fewer than there are pockets.
/// Springs that nobody counted are at fault where the sheet says how many there are. Another number is signed with a
/// reason: more make a firmer release.
///
/// ```
/// use anvil_rules::sheet::pack::counted_springs;
/// assert!(counted_springs(Some(24), Some(24), None).is_none());
/// assert!(counted_springs(Some(12), Some(24), Some(12)).is_none());
/// assert!(counted_springs(Some(11), Some(24), Some(12)).unwrap().message.contains("the book fits 12"));
/// ```
#[must_use]
pub fn counted_springs(
    fitted: Option<u32>,
    pockets: Option<u32>,
    by_book: Option<u32>,
) -> Option<PackFault> {
    let wanted = by_book.or(pockets)?;
    let of_pockets = match pockets.filter(|p| *p != wanted) {
        Some(pockets) => format!("the book fits {wanted} in {pockets} pockets"),
        None => format!("the book fits {wanted}, one in each pocket"),
    };
    let message = match fitted {
        Some(fitted) if fitted == wanted => return None,
        Some(fitted) if pockets.is_some_and(|p| fitted > p) => {
            format!("{fitted} return springs, more than there are pockets: count them again")
        }
        Some(fitted) => {
            format!("{fitted} return springs, where {of_pockets}: count them again, or say why")
        }
        None => format!("count the return springs: {of_pockets}"),
    };
    Some(PackFault {
        plate: None,
        message,
    })
}

/// A clutch pack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Pack)]
pub struct Pack {
    /// A short name, unique in the sheet.
    #[schemars(regex(pattern = r"^[a-z0-9][a-z0-9-]{0,39}$"))]
    pub key: String,
    /// What people call it.
    pub name: String,
    /// The depth from the drum's floor to the snap-ring groove: to its far wall where the ring is among
    /// the plates, to its near one where it is not.
    pub groove_depth: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub groove_tolerance: Option<Written>,
    /// The plates from the piston outwards.
    #[schemars(length(min = 1, max = 60))]
    pub plates: Vec<Plate>,
    /// How many frictions the book counts; the plates must agree.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub frictions: Option<u32>,
    /// How many steels the book counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steels: Option<u32>,
    /// How many return springs there are pockets for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub return_springs: Option<u32>,
    /// How many of them the book fits, where that is fewer.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub springs_fitted: Option<u32>,
    /// The check that signs the pack off.
    pub check: String,
    /// The variants that have it; all where none is named.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub only_in: Vec<String>,
    /// The variants that do not have it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(length(max = 12))]
    pub not_in: Vec<String>,
}

/// A plate of a clutch pack.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Plate)]
pub struct Plate {
    pub kind: PartKind,
    /// Its thickness; a wave plate's as compressed.
    pub thickness: Written,
    /// The ± limits of that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tolerance: Option<Written>,
    /// Of a wave plate: how high it stands free. A pack that is lifted by hand lies against that.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub free: Option<Written>,
    /// What people call it, where its kind does not say enough.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub name: String,
}
