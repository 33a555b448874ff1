//! The shims at the two ends of a ring gear's shaft: their total sets one check and their split the mesh.

use anvil_arithmetic::allocate::{self, Group, Outcome, Progress};
use anvil_arithmetic::choose::{Pieces, SizeCount};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Ends;
use serde::Serialize;

use super::coupling::{Members, OpenChecks};
use super::loaded::LoadedCheck;
use crate::sheet::CheckKind;

/// What the drawers have for both ends at once.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct SplitView {
    /// Why nothing can be chosen now, where nothing can.
    pub not_now: Option<String>,
    /// The two ends, each by the check that its pieces set.
    pub ends: Vec<SplitEnd>,
    /// The checks that they move.
    pub checks: Vec<SplitCheck>,
    /// By how much the backlash grows as the ring gear moves away by one.
    pub per_move: f64,
    /// The standard uncertainty of that.
    pub u_per_move: f64,
    /// It was found by a second set-up on the bench; else it is the sheet's.
    pub found_here: bool,
    /// The best for both ends, then what changing one end alone would do.
    pub rows: Vec<SplitRow>,
    /// It is proven that none is better than the first.
    pub proven: bool,
}

/// One end of the shaft.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct SplitEnd {
    /// The check that its pieces set.
    pub check_key: String,
    pub version: i32,
    pub family_name: String,
    /// What is in there, together.
    pub fitted_nm: Length,
}

/// A check that the pieces of both ends move.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct SplitCheck {
    pub check_key: String,
    pub name: String,
    pub kind: CheckKind,
    pub window: Ends,
}

/// Pieces for the ends, and what each check would come to.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct SplitRow {
    /// For each end its pieces; none where it stays as it is.
    pub stacks: Vec<Option<Vec<Pieces>>>,
    /// For each check what it would come to.
    pub outcomes: Vec<Outcome>,
}

impl OpenChecks {
    /// What could be fitted at the two ends of the shaft that a check is one of; none where no mesh hangs on it.
    ///
    /// # Errors
    /// As of [`allocate`](anvil_arithmetic::allocate::allocate).
    pub fn split(
        &self,
        check_key: &str,
        mut go_on: impl FnMut(&Progress) -> bool,
    ) -> Ruled<Option<SplitView>> {
        let key_of = |n: &usize| self.checks[*n].record.check_key.as_str();
        let found = self.members.iter().zip(&self.groups).find(|(members, _)| {
            let mut keys = members.checks.iter().map(key_of);
            keys.any(|key| key == check_key)
        });
        let Some((members, group)) = found else {
            return Ok(self.no_split(check_key));
        };
        let mesh = members
            .checks
            .iter()
            .find_map(|n| Some((&self.checks[*n], self.checks[*n].per_move()?)));
        let Some((mesh, (per_move, u_per_move))) = mesh else {
            return Ok(None);
        };
        let shared = allocate::allocate(std::slice::from_ref(group), &self.drawers, &mut go_on)
            .map_err(Refusal::fault)?;
        let mut rows = Vec::new();
        if let Some(best) = shared.groups.into_iter().next().flatten() {
            rows.push(SplitRow {
                stacks: best.stacks.into_iter().map(Some).collect(),
                outcomes: best.outcomes,
            });
        }
        for end in 0..group.places.len() {
            rows.extend(self.one_end(group, end)?);
        }
        Ok(Some(SplitView {
            not_now: None,
            ends: self.ends(members, group),
            checks: self.split_checks(members),
            per_move,
            u_per_move,
            found_here: mesh
                .assessment
                .backlash()
                .is_some_and(|found| found.found_here),
            rows,
            proven: shared.proven,
        }))
    }

    /// The checks of a mesh that cannot be chosen for now.
    fn no_split(&self, check_key: &str) -> Option<SplitView> {
        let own = |key: &str| self.checks.iter().find(|c| c.record.check_key == key);
        let check = own(check_key)?;
        let coupled = check.sheet.coupled_with(&check.check);
        let keys = std::iter::once(check_key).chain(coupled.iter().map(|c| c.key.as_str()));
        let mesh = keys.filter_map(own).find_map(LoadedCheck::per_move)?;
        let left_out = self.left_out.iter().find(|l| l.check_key == check_key);
        Some(SplitView {
            not_now: Some(left_out.map_or_else(
                || "both are in their windows as they are".to_owned(),
                |l| l.why.clone(),
            )),
            ends: Vec::new(),
            checks: Vec::new(),
            per_move: mesh.0,
            u_per_move: mesh.1,
            found_here: false,
            rows: Vec::new(),
            proven: false,
        })
    }

    fn ends(&self, members: &Members, group: &Group) -> Vec<SplitEnd> {
        let places = members.places.iter().zip(&group.places);
        places
            .map(|(n, place)| {
                let known = &self.checks[*n];
                let family = known.family().and_then(|f| known.sheet.family(f));
                SplitEnd {
                    check_key: known.record.check_key.clone(),
                    version: known.record.head.version,
                    family_name: family.map_or_else(String::new, |f| f.name.clone()),
                    fitted_nm: place.fitted,
                }
            })
            .collect()
    }

    fn split_checks(&self, members: &Members) -> Vec<SplitCheck> {
        let each = members.checks.iter().filter_map(|n| {
            let known = &self.checks[*n];
            Some(SplitCheck {
                check_key: known.record.check_key.clone(),
                name: known.check.name.clone(),
                kind: known.check.kind,
                window: known.length()?.0.into(),
            })
        });
        each.collect()
    }

    /// What one end alone would have to take for the total, the other staying as it is, and what that does to the mesh;
    /// none where the drawer has nothing for it.
    fn one_end(&self, group: &Group, end: usize) -> Ruled<Option<SplitRow>> {
        let alone = |totals_only: bool, pinned: Option<Vec<Vec<SizeCount>>>| Group {
            places: vec![group.places[end].clone()],
            checks: group
                .checks
                .iter()
                .filter(|c| !(totals_only && c.yields))
                .map(|c| allocate::Moved {
                    effects: vec![c.effects[end]],
                    ..c.clone()
                })
                .collect(),
            pinned,
        };
        let take = |group: Group| {
            let found = allocate::allocate(&[group], &self.drawers, |_| true);
            let mut groups = found.map_err(Refusal::fault)?.groups;
            Ok::<_, Refusal>(groups.pop().flatten())
        };
        if group.checks.iter().any(|c| c.effects[end].abs() <= 0.0) {
            return Ok(None);
        }
        let Some(for_total) = take(alone(true, None))? else {
            return Ok(None);
        };
        let counts = for_total.stacks[0].iter().map(|p| SizeCount {
            thickness_nm: p.thickness_nm,
            grade: p.grade,
            count: p.count,
        });
        let settled = alone(false, Some(vec![counts.collect()]));
        Ok(take(settled)?.map(|taken| SplitRow {
            stacks: (0..group.places.len())
                .map(|p| (p == end).then(|| taken.stacks[0].clone()))
                .collect(),
            outcomes: taken.outcomes,
        }))
    }
}
