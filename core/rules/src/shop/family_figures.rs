//! What a drawer and a sheet say of one family of pieces, where they do not say the same.
//!
//! A family has one truth: the drawer's. A sheet that says otherwise changes nothing by itself; it is told at both, with
//! whom it concerns, until the drawer follows the sheet or the sheet is mended.

use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::Length;
use serde::Serialize;

use super::drawers::Drawer;
use crate::sheet::{Family, PartKind};

/// What a sheet says of a family otherwise than its drawer.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct FamilyConflict {
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// The ± limits of a piece by either, where they differ.
    pub tolerance: Option<Tolerances>,
    /// The kind of part by either, where they differ.
    pub kind: Option<Kinds>,
    /// The sizes that only the sheet says are no longer made, in nanometres.
    pub gone: Vec<Length>,
    /// The sizes that only the drawer says are no longer made, in nanometres.
    pub made: Vec<Length>,
}

/// The ± limits of a piece in nanometres.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Tolerances {
    pub sheet_nm: Length,
    pub drawer_nm: Length,
}

/// The kind of part that a family is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Kinds {
    pub sheet: PartKind,
    pub drawer: PartKind,
}

/// A check of an open job that draws from a family.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Concerned {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    pub check_key: String,
    /// What people call the check.
    pub name: String,
}

impl Drawer {
    /// What a sheet says of this family otherwise; none where they agree. A size that only one of them has is no
    /// conflict: a shop may keep sizes of its own.
    #[must_use]
    pub fn conflict(&self, family: &Family) -> Option<FamilyConflict> {
        let tolerance = Tolerances {
            sheet_nm: family.tolerance.length(),
            drawer_nm: Length::from_nm(self.tolerance_nm),
        };
        let kind = Kinds {
            sheet: family.kind,
            drawer: self.kind,
        };
        let differing = |gone: bool| -> Vec<Length> {
            let sizes = family.sizes.iter().filter(|s| s.discontinued == gone);
            sizes
                .map(|s| s.thickness.length())
                .filter(|t| self.is_discontinued(*t) == Some(!gone))
                .collect()
        };
        let found = FamilyConflict {
            family_key: self.key.clone(),
            family_name: self.name.clone(),
            tolerance: (tolerance.sheet_nm != tolerance.drawer_nm).then_some(tolerance),
            kind: (kind.sheet != kind.drawer).then_some(kind),
            gone: differing(true),
            made: differing(false),
        };
        found.is_one().then_some(found)
    }

    /// Whether a size as marked is no longer made; none where the drawer has no such size.
    fn is_discontinued(&self, thickness: Length) -> Option<bool> {
        let is_it = |thickness_nm: i64, grade: Grade| {
            thickness_nm == thickness.nm() && grade == Grade::Marked
        };
        let mut sizes = self.sizes.iter();
        let size = sizes.find(|s| is_it(s.thickness_nm, s.grade));
        size.map(|s| s.discontinued)
    }
}

impl FamilyConflict {
    fn is_one(&self) -> bool {
        self.tolerance.is_some()
            || self.kind.is_some()
            || !self.gone.is_empty()
            || !self.made.is_empty()
    }
}
