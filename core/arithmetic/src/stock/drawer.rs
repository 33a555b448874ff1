//! The stock of one family of selective parts, as the chooser sees it.

use std::cmp::Ordering;

use serde::{Deserialize, Serialize};

use crate::units::length::Length;

/// Where a piece would come from; earlier is preferred.
#[derive(
    Clone,
    Copy,
    Debug,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Availability {
    /// In the drawer now.
    OnHand,
    /// Ordered already, and still to come.
    OnOrder,
    /// Made, but has to be ordered.
    ToOrder,
    /// No longer made: only to be had with luck.
    Discontinued,
}

/// How the thickness of a piece is known.
#[derive(
    Clone,
    Copy,
    Debug,
    Default,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    strum::EnumString,
    strum::IntoStaticStr,
    utoipa::ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Grade {
    /// New, and of the thickness it is marked with, within its family's limits.
    #[default]
    Marked,
    /// New, and measured by micrometer.
    Miked,
    /// Out of a box, sound, and measured by micrometer: what it was marked with no longer counts.
    Used,
}

/// One size that pieces can be had in.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Stock {
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// How that is known; as marked where nothing is said.
    #[serde(default)]
    pub grade: Grade,
    /// The standard uncertainty of that thickness in nanometres.
    pub u_nm: f64,
    /// How many can be used.
    pub quantity: u32,
    /// Where they would come from.
    pub source: Availability,
}

impl Stock {
    /// The order of lines in a drawer: by thickness, then the readiest first. Lines alike in all but quantity are equal.
    #[must_use]
    pub fn order(&self, other: &Self) -> Ordering {
        (self.thickness_nm, self.source)
            .cmp(&(other.thickness_nm, other.source))
            .then(self.u_nm.total_cmp(&other.u_nm))
            .then(self.grade.cmp(&other.grade))
    }
}

/// The standard uncertainty in nanometres of a piece known only to lie within `±tolerance`.
///
/// # Formula
/// `t/√3` (JCGM 100:2008, 4.3.7).
#[must_use]
pub fn u_of_tolerance(tolerance: Length) -> f64 {
    tolerance.as_f64() / 3_f64.sqrt()
}

/// The standard uncertainty in nanometres of a thickness read once off a micrometer of resolution
/// `r` and permissible error `±e`.
///
/// ```
/// use anvil_arithmetic::stock::drawer::u_of_micrometer;
/// use anvil_arithmetic::units::length::Length;
/// let u = u_of_micrometer(Length::from_nm(1_000), Length::from_nm(2_000));
/// assert!((u - 1_190.2).abs() < 0.1);
/// ```
///
/// # Formula
/// `√(r²/12 + e²/3)` (JCGM 100:2008, 4.3.7, 5.1.2 and F.2.2.1).
#[must_use]
pub fn u_of_micrometer(resolution: Length, permissible_error: Length) -> f64 {
    (resolution.as_f64() / 12_f64.sqrt()).hypot(permissible_error.as_f64() / 3_f64.sqrt())
}

/// How the sizes of a drawer lie along its range.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Range {
    /// The usual step from one size to the next in nanometres: the median of the steps between the
    /// sizes there are places for; none with fewer than two.
    pub step_nm: Option<Length>,
    /// The stretches with no free piece that are longer than the usual step.
    pub gaps: Vec<Gap>,
}

/// A stretch of a drawer's range with no free piece in it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Gap {
    /// The free piece below it, or the thinnest size there is a place for.
    pub from_nm: Length,
    /// The free piece above it, or the thickest size there is a place for.
    pub to_nm: Length,
}

/// Where a drawer has gaps: `places` are the sizes that there is a place for, `free` those with a
/// free piece, both in any order.
///
/// ```
/// use anvil_arithmetic::stock::drawer::range;
/// use anvil_arithmetic::units::length::Length;
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let found = range(&[mm(100), mm(104), mm(108), mm(112)], &[mm(100), mm(112)]);
/// assert_eq!(found.step_nm, Some(mm(4)));
/// assert_eq!((found.gaps[0].from_nm, found.gaps[0].to_nm), (mm(100), mm(112)));
/// ```
#[must_use]
pub fn range(places: &[Length], free: &[Length]) -> Range {
    let sorted = |sizes: &[Length]| {
        let mut sizes = sizes.to_vec();
        sizes.sort_unstable();
        sizes.dedup();
        sizes
    };
    let (places, free) = (sorted(places), sorted(free));
    let mut steps: Vec<i64> = places.windows(2).map(|w| w[1].nm() - w[0].nm()).collect();
    steps.sort_unstable();
    let mut range = Range {
        step_nm: steps.get(steps.len() / 2).copied().map(Length::from_nm),
        gaps: Vec::new(),
    };
    let (Some(step), Some(first), Some(last)) = (range.step_nm, places.first(), places.last())
    else {
        return range;
    };
    let gap = |from: &Length, to: &Length| Gap {
        from_nm: *from,
        to_nm: *to,
    };
    let (Some(thinnest), Some(thickest)) = (free.first(), free.last()) else {
        range.gaps.push(gap(first, last));
        return range;
    };
    if first < thinnest {
        range.gaps.push(gap(first, thinnest));
    }
    let between = free
        .windows(2)
        .filter(|w| w[1].nm() - w[0].nm() > step.nm());
    range.gaps.extend(between.map(|w| gap(&w[0], &w[1])));
    if last > thickest {
        range.gaps.push(gap(thickest, last));
    }
    range
}
