//! One check that pieces of more than one family would set, offered in one list.

use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use crate::choose::Choice;
use crate::choose::rank::Merit;
use crate::units::length::Length;

/// What the chooser has found for pieces of one family.
#[derive(Clone, Copy, Debug)]
pub struct OfFamily<'a> {
    /// The number of the family.
    pub family: usize,
    /// The total thickness of what would come out.
    pub out: Length,
    /// The choices, best first.
    pub ranked: &'a [Choice],
}

/// A choice out of one of the families.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Offer {
    /// Which of those asked it answers, counted from 0.
    pub of: usize,
    /// The total thickness of what would come out for it, in nanometres.
    pub out_nm: Length,
    /// What would go in.
    pub choice: Choice,
}

/// The best choices over all of the families, ranked as one family's are: those that reach the shop's required probability
/// before the rest; among those, nearest the target, fewest pieces, readiest source; among the rest, by chance.
/// Of what comes to the same within a family, the best stands for all.
#[must_use]
pub fn offers(asked: &[OfFamily<'_>], best: usize) -> Vec<Offer> {
    let of_each = asked.iter().enumerate().flat_map(|(of, asked)| {
        let offer = move |choice: &Choice| Offer {
            of,
            out_nm: asked.out,
            choice: choice.clone(),
        };
        asked.ranked.iter().map(offer)
    });
    let mut all: Vec<Offer> = of_each.collect();
    all.sort_by(|a, b| {
        let (a_merit, b_merit) = (merit(&a.choice), merit(&b.choice));
        a_merit
            .order(&b_merit)
            .then(b_merit.chance.total_cmp(&a_merit.chance))
            .then(a.of.cmp(&b.of))
    });
    let mut seen = BTreeSet::new();
    all.retain(|o| {
        let more = o.choice.total_nm.nm() - o.out_nm.nm();
        seen.insert((asked[o.of].family, more))
    });
    all.truncate(best);
    all
}

fn merit(choice: &Choice) -> Merit {
    Merit {
        reaches_floor: choice.reaches_floor,
        chance: choice.chance,
        distance: choice.off_target_nm,
        pieces: choice.pieces.iter().map(|p| p.count as usize).sum(),
        source: choice.source,
    }
}
