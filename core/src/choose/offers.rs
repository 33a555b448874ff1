//! One check that pieces of more than one family would set, offered in one list.

use std::cmp::Ordering;
use std::collections::BTreeSet;

use serde::{Deserialize, Serialize};

use super::{Choice, ChooseError, Request, choose};
use crate::length::Length;

/// A choice out of one of the families.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub struct Offer {
    /// Which of the requests it answers, counted from 0.
    pub of: usize,
    /// The total thickness of what would come out for it, in nanometres.
    pub out_nm: Length,
    /// What would go in.
    pub choice: Choice,
}

/// The best choices over all of the requests, each of its own family, ranked as one family's are: those that
/// reach the shop's floor before the rest; among those, nearest the target, fewest pieces, readiest source;
/// among the rest, by chance. Each request comes with the number of its family, and says what would come out
/// for its pieces; of what comes to the same within a family, the best stands for all.
pub fn offers(requests: &[(usize, Request<'_>)], best: usize) -> Result<Vec<Offer>, ChooseError> {
    let mut all = Vec::new();
    for (of, (_, request)) in requests.iter().enumerate() {
        let ranked = choose(request)?.ranked;
        all.extend(ranked.into_iter().map(|choice| Offer {
            of,
            out_nm: request.fitted,
            choice,
        }));
    }
    all.sort_by(|a, b| order(&a.choice, &b.choice).then(a.of.cmp(&b.of)));
    let mut seen = BTreeSet::new();
    all.retain(|o: &Offer| {
        let more = o.choice.total_nm.nm() - o.out_nm.nm();
        seen.insert((requests[o.of].0, more))
    });
    all.truncate(best);
    Ok(all)
}

/// Less is better.
fn order(a: &Choice, b: &Choice) -> Ordering {
    let count = |c: &Choice| c.pieces.iter().map(|p| p.count).sum::<u32>();
    let chance = if a.reaches_floor && b.reaches_floor {
        Ordering::Equal
    } else {
        b.chance.total_cmp(&a.chance)
    };
    b.reaches_floor
        .cmp(&a.reaches_floor)
        .then(chance)
        .then(a.off_target_nm.total_cmp(&b.off_target_nm))
        .then(count(a).cmp(&count(b)))
        .then(a.source.cmp(&b.source))
        .then(b.chance.total_cmp(&a.chance))
}
