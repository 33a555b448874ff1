//! Choosing one by one, to hold a sharing-out against: what each group gets then, and why it gets
//! something else together.

use serde::Serialize;

use crate::allocate::{AllocateError, Allocation, Assignment, Group, Objective, allocate};
use crate::choose::SizeCount;
use crate::stock::drawer::Stock;
use crate::verdict::Call;

/// Each group in turn, in the order given, takes the best for itself of what those before it have
/// left.
///
/// # Errors
/// As of [`allocate`](super::allocate).
pub fn one_by_one(groups: &[Group], drawers: &[Vec<Stock>]) -> Result<Allocation, AllocateError> {
    let mut left = drawers.to_vec();
    let mut taken = Vec::with_capacity(groups.len());
    for group in groups {
        let mut found = allocate(std::slice::from_ref(group), &left, |_| true)?;
        let own = found.groups.pop().flatten();
        let used = own.as_ref().map(|t| uses(group, t, &left));
        for (drawer, line) in used.into_iter().flatten() {
            left[drawer][line].quantity -= 1;
        }
        taken.push(own);
    }
    let tally = tally_of(&taken);
    Ok(Allocation {
        groups: taken,
        tally,
        bound: tally,
        proven: false,
        looked_at: 0,
    })
}

/// What these pieces would give a group's checks, where the drawers have them.
///
/// # Errors
/// As of [`allocate`](super::allocate).
pub fn predict(
    group: &Group,
    drawers: &[Vec<Stock>],
    pieces: &[Vec<SizeCount>],
) -> Result<Option<Assignment>, AllocateError> {
    let pinned = Group {
        pinned: Some(pieces.to_vec()),
        ..group.clone()
    };
    Ok(allocate(&[pinned], drawers, |_| true)?
        .groups
        .pop()
        .flatten())
}

/// How good these pieces are together.
#[must_use]
pub fn tally_of(taken: &[Option<Assignment>]) -> Objective {
    let mut tally = Objective::default();
    let outcomes = taken.iter().flatten().flat_map(|t| &t.outcomes);
    for outcome in outcomes.filter(|o| o.lands == Call::In) {
        tally.inside += 1;
        tally.sure += usize::from(outcome.reaches_floor);
        tally.distance_nm += outcome.off_target_nm;
    }
    tally
}

/// Why a group gets something else together than one by one.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Reason {
    /// The groups for which it leaves what it would have taken: there is no more of that.
    pub leaves_for: Vec<usize>,
    /// The groups that would have taken what it gets, had they been before it.
    pub gets_from: Vec<usize>,
}

/// For each group the reason why it gets something else; none where it gets the same.
#[must_use]
pub fn reasons(
    groups: &[Group],
    drawers: &[Vec<Stock>],
    alone: &[Option<Assignment>],
    together: &[Option<Assignment>],
) -> Vec<Option<Reason>> {
    let of = |taken: &[Option<Assignment>], g: usize| -> Vec<(usize, usize)> {
        taken[g]
            .iter()
            .flat_map(|t| uses(&groups[g], t, drawers))
            .collect()
    };
    let wanted: Vec<_> = (0..groups.len()).map(|g| of(alone, g)).collect();
    let got: Vec<_> = (0..groups.len()).map(|g| of(together, g)).collect();
    let all_taken = |(drawer, line): (usize, usize)| {
        let used = got
            .iter()
            .flatten()
            .filter(|u| **u == (drawer, line))
            .count();
        used >= drawers[drawer][line].quantity as usize
    };
    (0..groups.len())
        .map(|g| {
            let same = match (&alone[g], &together[g]) {
                (Some(a), Some(b)) => a.stacks == b.stacks,
                (a, b) => a.is_none() && b.is_none(),
            };
            if same {
                return None;
            }
            let sharing = |mine: &[(usize, usize)], theirs: &[Vec<(usize, usize)>]| {
                (0..groups.len())
                    .filter(|o| *o != g)
                    .filter(|o| mine.iter().any(|u| all_taken(*u) && theirs[*o].contains(u)))
                    .collect()
            };
            let lost: Vec<_> = wanted[g]
                .iter()
                .filter(|u| !got[g].contains(u))
                .copied()
                .collect();
            let won: Vec<_> = got[g]
                .iter()
                .filter(|u| !wanted[g].contains(u))
                .copied()
                .collect();
            Some(Reason {
                leaves_for: sharing(&lost, &got),
                gets_from: sharing(&won, &wanted),
            })
        })
        .collect()
}

/// The drawer and the line of each piece that a group takes.
fn uses(group: &Group, taken: &Assignment, drawers: &[Vec<Stock>]) -> Vec<(usize, usize)> {
    let mut used: Vec<(usize, usize)> = Vec::new();
    for (place, stack) in group.places.iter().zip(&taken.stacks) {
        for piece in stack {
            let lines = drawers[place.drawer].iter().enumerate();
            let mut of_size = lines
                .filter(|(_, s)| piece.are_of(s))
                .flat_map(|(line, s)| std::iter::repeat_n(line, s.quantity as usize));
            for _ in 0..piece.count {
                used.extend(of_size.next().map(|line| (place.drawer, line)));
            }
        }
    }
    used
}
