//! One check that pieces of more than one family would set, offered in one list.

use std::cmp::Ordering;
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
    /// How many steps of the build come out to change its pieces.
    pub steps_out: usize,
}

/// A choice out of one of the families.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Offer {
    /// Which of those asked it answers, counted from 0.
    pub of: usize,
    /// The total thickness of what would come out for it, in nanometres.
    pub out_nm: Length,
    /// What would go in.
    pub choice: Choice,
    /// It stands before one no better and no worse, for which more of the build comes out.
    pub less_taken_apart: bool,
}

/// Two settings whose distances from the target round to the same so many nanometres are alike: a micrometre, which no
/// gauge on a bench tells apart.
const ALIKE_NM: f64 = 1_000.0;

/// The best choices over all of the families, ranked as one family's are: those that reach the shop's required probability
/// before the rest; among those, nearest the target to the micrometre, then those for which less of the build comes out,
/// then fewest pieces, readiest source; among the rest, by chance. Of what comes to the same within a family, the best
/// stands for all.
#[must_use]
pub fn offers(asked: &[OfFamily<'_>], best: usize) -> Vec<Offer> {
    let of_each = asked.iter().enumerate().flat_map(|(of, asked)| {
        let offer = move |choice: &Choice| Offer {
            of,
            out_nm: asked.out,
            choice: choice.clone(),
            less_taken_apart: false,
        };
        asked.ranked.iter().map(offer)
    });
    let mut all: Vec<Offer> = of_each.collect();
    all.sort_by(|a, b| {
        let (a_merit, b_merit) = (merit(&a.choice), merit(&b.choice));
        let steps_out = |o: &Offer| asked[o.of].steps_out;
        alike(&a_merit, &b_merit)
            .then(steps_out(a).cmp(&steps_out(b)))
            .then_with(|| a_merit.order(&b_merit))
            .then(b_merit.chance.total_cmp(&a_merit.chance))
            .then(a.of.cmp(&b.of))
    });
    let mut seen = BTreeSet::new();
    all.retain(|o| {
        let more = o.choice.total_nm.nm() - o.out_nm.nm();
        seen.insert((asked[o.of].family, more))
    });
    for at in 1..all.len() {
        let (before, after) = (&all[at - 1], &all[at]);
        all[at - 1].less_taken_apart = alike(&merit(&before.choice), &merit(&after.choice)).is_eq()
            && asked[before.of].steps_out < asked[after.of].steps_out;
    }
    all.truncate(best);
    all
}

/// Which of two lands better, as far as a bench can tell; less is better.
fn alike(a: &Merit, b: &Merit) -> Ordering {
    a.lands(b, |m| (m.distance / ALIKE_NM).round())
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
