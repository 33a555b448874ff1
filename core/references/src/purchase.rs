//! What to order: every set of the sizes that are made.

use anvil_arithmetic::choose::purchase::PurchaseRequest;
use anvil_arithmetic::units::length::Length;

/// Every total of at most `left` pieces, in nanometres.
fn walk(sizes: &[(i64, u32)], left: u32, total: i64, totals: &mut Vec<i64>) {
    if total > 0 {
        totals.push(total);
    }
    for (at, (size, quantity)) in sizes.iter().enumerate() {
        for copies in 1..=left.min(*quantity) {
            let total = total + size * i64::from(copies);
            walk(&sizes[at + 1..], left - copies, total, totals);
        }
    }
}

/// Whether every whole micrometre of the range, and the points half-way between, are served.
pub fn serves(r: &PurchaseRequest<'_>, ordered: &[Length]) -> bool {
    let mut totals = Vec::new();
    let sizes: Vec<(i64, u32)> = r
        .on_hand
        .iter()
        .map(|(s, n)| (s.nm(), *n))
        .chain(ordered.iter().map(|s| (s.nm(), r.most_pieces)))
        .collect();
    walk(&sizes, r.most_pieces, 0, &mut totals);
    let lands = |t: f64| {
        totals.iter().any(|s| {
            let c = r.effect.k() * (t - *s as f64);
            let less = r.tolerance.as_f64();
            c >= r.window.low_nm() + less && c <= r.window.high_nm() - less
        })
    };
    #[allow(clippy::cast_possible_truncation)] // a few hundred steps
    let steps = ((r.to_nm - r.from_nm) / 500.0).round() as i64;
    (0..=steps).all(|i| lands(r.from_nm + i as f64 * 500.0))
}

/// The fewest sizes by trying every set of them.
pub fn by_trying(r: &PurchaseRequest<'_>) -> Option<usize> {
    let sets = 0..1_u32 << r.made.len();
    sets.filter(|set| {
        let ordered: Vec<Length> = (0..r.made.len())
            .filter(|i| set & (1 << i) != 0)
            .map(|i| r.made[i])
            .collect();
        serves(r, &ordered)
    })
    .map(|set| set.count_ones() as usize)
    .min()
}
