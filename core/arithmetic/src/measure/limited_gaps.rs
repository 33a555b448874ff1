//! Gaps of a selector with limits of their own: engagement of dogs, clearance behind them, a fork's pad in its groove,
//! teeth in line with their mate's. Where one shaft, or two, stand so that the worst of them has most to spare, with the
//! shims that are at the ends and those in the drawer.
//!
//! Moving a shaft to the left by `x` takes `x` off every gap of one sign and adds it to the other (trade practice). A gap
//! between the two shafts moves with both.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::length::Length;
use crate::units::working::{Line, Working};
use crate::verdict::Call;

/// The most gaps that are weighed against each other.
pub const MOST_GAPS: usize = 60;
/// The heaviest that a gap may weigh.
pub const HEAVIEST: u32 = 10;
/// The least common multiple of all weights: shares of a margin are whole numbers of it.
const WHOLE: i64 = 2_520;
/// The most shims at one end, where the drawer has more.
const MOST_AT_AN_END: usize = 4;
/// More ways to lay shims at the ends of one shaft than this are not searched.
const MOST_STACKS: usize = 60_000;
/// How many ways are given.
const BEST: usize = 5;

/// A gap with its limits.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LimitedGap {
    /// What people call it: the part, and in which position.
    pub name: String,
    /// What it is now; below zero only where teeth stand off to the other side.
    pub now: Length,
    /// By how much it grows for each 1 that the first and the second shaft move to the left: −1, 0 or 1.
    pub grows: [i8; 2],
    /// No less than this.
    pub least: Option<Length>,
    /// No more than this.
    pub most: Option<Length>,
    /// How much its margin weighs, from 1 to 10: more than one where nothing else stops the gear.
    pub weight: u32,
}

/// The shims of one shaft.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct ShaftEnds {
    /// Those that hold it off the left side of the case.
    pub left: Vec<Length>,
    /// Those that hold it off the other.
    pub right: Vec<Length>,
    /// Those in the drawer that could be taken, each with how many there are.
    pub drawer: Vec<(Length, u32)>,
    /// By how much its float may get less.
    pub tighter: Length,
    /// By how much its float may get more.
    pub looser: Length,
}

/// Why gaps cannot be weighed against each other.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum LimitedGapsError {
    #[error("give from 1 to {MOST_GAPS} gaps")]
    Gaps,
    /// Nothing is asked of a gap.
    #[error("{0}: say how small or how large it may be")]
    NoLimit(String),
    #[error("{0}: the least is above the most: swap the two")]
    Reversed(String),
    #[error("{0}: a gap weighs from 1 to {HEAVIEST}")]
    Weight(String),
    /// It moves with no shaft, or with twice one.
    #[error("{0}: it grows or shrinks as a shaft moves to the left")]
    Still(String),
    #[error("a shim is thicker than nothing")]
    NoShim,
    #[error("a float may get tighter or looser by nothing or more")]
    Float,
    #[error("so many shims can be laid in too many ways: give fewer sizes")]
    TooMany,
}

/// A gap as it is and as it would be.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GapThen {
    /// What people call it.
    pub name: String,
    /// As measured, in nanometres.
    pub now_nm: Length,
    /// After the best move, in nanometres.
    pub then_nm: Length,
    /// No less than this, in nanometres.
    pub least_nm: Option<Length>,
    /// No more than this, in nanometres.
    pub most_nm: Option<Length>,
    /// By how much it grows for each 1 that the first and the second shaft move to the left.
    pub grows: [i8; 2],
    /// How much it weighs.
    pub weight: u32,
    /// To the nearer limit now, in nanometres; below zero beyond it.
    pub spare_now_nm: Length,
    /// The same after the best move, in nanometres.
    pub spare_then_nm: Length,
    /// Where it lies then.
    pub lands: Call,
}

/// What lies at the ends of one shaft in one way.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Laid {
    /// The shims at its left, the thickest first, in nanometres.
    pub left_nm: Vec<Length>,
    /// Those at its right.
    pub right_nm: Vec<Length>,
    /// How far the shaft moves to the left, in nanometres; below zero to the right.
    pub shift_nm: Length,
    /// By how much its float gets less, in nanometres; more below zero.
    pub tighter_nm: Length,
    /// How many come out of the drawer.
    pub from_drawer: u32,
    /// How many change ends.
    pub change_ends: u32,
}

/// One way of laying the shims.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct PlacementWay {
    /// Of each shaft.
    pub shafts: Vec<Laid>,
    /// What the worst gap has to spare, weighted, in nanometres.
    pub worst_nm: f64,
}

/// Where the shafts stand best.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Placement {
    /// The gaps now and in the best way.
    pub gaps: Vec<GapThen>,
    /// What the worst gap has to spare now, weighted, in nanometres.
    pub worst_now_nm: f64,
    /// The ways, the best first.
    pub ways: Vec<PlacementWay>,
    /// The arithmetic.
    pub working: Working,
}

impl LimitedGap {
    /// What it is after moves of the shafts to the left, in nanometres.
    fn after(&self, moves: [i64; 2]) -> i64 {
        let each = self.grows.iter().zip(moves).map(|(g, x)| i64::from(*g) * x);
        self.now.nm() + each.sum::<i64>()
    }

    /// To the nearer limit, in nanometres; below zero beyond it.
    fn spare(&self, nm: i64) -> i64 {
        let least = self.least.map_or(i64::MAX, |l| nm - l.nm());
        let most = self.most.map_or(i64::MAX, |m| m.nm() - nm);
        least.min(most)
    }

    /// That, weighted, in parts of a nanometre of which [`WHOLE`] make one: what is over counts for less, and what is
    /// missing for more.
    fn weighted(&self, spare: i64) -> i64 {
        let weight = i64::from(self.weight);
        if spare < 0 {
            spare * weight * WHOLE
        } else {
            spare * (WHOLE / weight)
        }
    }

    /// Where it lies, being so much.
    fn lands(&self, nm: i64) -> Call {
        if self.spare(nm) >= 0 {
            Call::In
        } else if self.least.is_some_and(|l| nm < l.nm()) {
            Call::Tight
        } else {
            Call::Loose
        }
    }

    /// What it has to spare as it is, weighted, in nanometres.
    #[must_use]
    pub fn weighted_spare_nm(&self) -> f64 {
        self.weighted(self.spare(self.now.nm())) as f64 / WHOLE as f64
    }

    fn checked(&self) -> Result<(), LimitedGapsError> {
        let name = || self.name.clone();
        if self.least.is_none() && self.most.is_none() {
            return Err(LimitedGapsError::NoLimit(name()));
        }
        if self.least.zip(self.most).is_some_and(|(l, m)| l > m) {
            return Err(LimitedGapsError::Reversed(name()));
        }
        if !(1..=HEAVIEST).contains(&self.weight) {
            return Err(LimitedGapsError::Weight(name()));
        }
        let one = |g: &i8| (-1..=1).contains(g);
        if self.grows == [0, 0] || !self.grows.iter().all(one) {
            return Err(LimitedGapsError::Still(name()));
        }
        Ok(())
    }
}

impl Placement {
    /// What the worst gap would have to spare, weighted, in nanometres, after a move of the first shaft to the left.
    #[must_use]
    pub fn worst_after(&self, to_left: Length) -> f64 {
        let gap = |g: &GapThen| LimitedGap {
            name: g.name.clone(),
            now: g.now_nm,
            grows: g.grows,
            least: g.least_nm,
            most: g.most_nm,
            weight: g.weight,
        };
        let gaps: Vec<LimitedGap> = self.gaps.iter().map(gap).collect();
        worst(&gaps, [to_left.nm(), 0]) as f64 / WHOLE as f64
    }
}

/// What the worst gap has to spare after moves of the shafts, weighted.
fn worst(gaps: &[LimitedGap], moves: [i64; 2]) -> i64 {
    let each = gaps.iter().map(|g| g.weighted(g.spare(g.after(moves))));
    each.min().unwrap_or(0)
}

/// Where the shafts stand best: the worst weighted margin is largest, then the fewest shims come out of the drawer, then
/// the fewest change ends, then the shafts move least. Exact: every stack of the shims there are is in it.
///
/// ```
/// use anvil_arithmetic::measure::limited_gaps::{place, LimitedGap, ShaftEnds};
/// use anvil_arithmetic::units::length::Length;
/// let um = |um: i64| Length::from_nm(um * 1_000);
/// let gap = |name: &str, now, grows, least| LimitedGap {
///     name: name.into(), now: um(now), grows: [grows, 0], least: Some(um(least)), most: None, weight: 1,
/// };
/// // The dogs engage by 1.8 where 2.0 is wanted; behind them 0.9 is left, of which 0.3 is needed.
/// let gaps = [gap("dogs", 1_800, 1, 2_000), gap("behind", 900, -1, 300)];
/// let ends = ShaftEnds { left: vec![um(500), um(400)], right: vec![um(300)], ..ShaftEnds::default() };
/// let found = place(&gaps, &[ends]).unwrap();
/// // The 0.4 to the right: it moves 0.4 to the left, and both have 0.2 to spare.
/// assert_eq!(found.ways[0].shafts[0].shift_nm, um(400));
/// assert_eq!(found.ways[0].worst_nm, 200_000.0);
/// ```
///
/// # Formula
/// `max over x of min over gaps of w(gᵢ + aᵢ·x)`, `w` the distance to the nearer limit, over the gap's weight where it is
/// kept and times it where it is not (trade practice, its weighing our own).
///
/// # Errors
/// Where a gap has no limit, or limits or a weight that cannot be, a shim is nothing, or there are too many shims to lay in
/// all ways.
pub fn place(gaps: &[LimitedGap], shafts: &[ShaftEnds]) -> Result<Placement, LimitedGapsError> {
    if gaps.is_empty() || gaps.len() > MOST_GAPS {
        return Err(LimitedGapsError::Gaps);
    }
    for gap in gaps {
        gap.checked()?;
    }
    let still = || {
        vec![Laid {
            left_nm: Vec::new(),
            right_nm: Vec::new(),
            shift_nm: Length::ZERO,
            tighter_nm: Length::ZERO,
            from_drawer: 0,
            change_ends: 0,
        }]
    };
    let of = |at: usize| shafts.get(at).map_or_else(|| Ok(still()), ways_to_lay);
    let (first, second) = (of(0)?, of(1)?);
    let best = best_pairs(gaps, &first, &second);
    let moves = |(a, b): (usize, usize)| [first[a].shift_nm.nm(), second[b].shift_nm.nm()];
    let ways: Vec<PlacementWay> = best
        .iter()
        .map(|&(a, b)| PlacementWay {
            shafts: [&first[a], &second[b]]
                .into_iter()
                .take(shafts.len())
                .cloned()
                .collect(),
            worst_nm: worst(gaps, moves((a, b))) as f64 / WHOLE as f64,
        })
        .collect();
    let then = best.first().map_or([0, 0], |b| moves(*b));
    let gaps_then = gaps
        .iter()
        .map(|g| GapThen {
            name: g.name.clone(),
            now_nm: g.now,
            then_nm: Length::from_nm(g.after(then)),
            least_nm: g.least,
            most_nm: g.most,
            grows: g.grows,
            weight: g.weight,
            spare_now_nm: Length::from_nm(g.spare(g.now.nm())),
            spare_then_nm: Length::from_nm(g.spare(g.after(then))),
            lands: g.lands(g.after(then)),
        })
        .collect();
    Ok(Placement {
        gaps: gaps_then,
        worst_now_nm: worst(gaps, [0, 0]) as f64 / WHOLE as f64,
        working: working(gaps, then),
        ways,
    })
}

/// How much work a way is: shims out of the drawer, shims that change ends, and how far the shafts move.
type Work = (u32, u32, i64);

fn work(of: [&Laid; 2]) -> Work {
    let moves = of.iter().map(|l| l.shift_nm.nm().abs()).sum();
    let sum = |each: fn(&Laid) -> u32| of.iter().map(|l| each(l)).sum();
    (sum(|l| l.from_drawer), sum(|l| l.change_ends), moves)
}

/// The best of the ways to lay both shafts, by their numbers; at least the best of all, and the best for other places of
/// the shafts. Both lists run up by how far the shaft moves.
fn best_pairs(gaps: &[LimitedGap], first: &[Laid], second: &[Laid]) -> Vec<(usize, usize)> {
    let value = |a: usize, b: usize| worst(gaps, [first[a].shift_nm.nm(), second[b].shift_nm.nm()]);
    let mut found: Vec<(i64, Work, usize, usize)> = Vec::new();
    for (a, laid) in first.iter().enumerate() {
        // The least of concave functions is concave: it rises to its top and falls from there.
        let (mut low, mut high) = (0, second.len() - 1);
        while low < high {
            let middle = usize::midpoint(low, high);
            if value(a, middle) < value(a, middle + 1) {
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        let top = value(a, low);
        let alike = (low..second.len()).take_while(|b| value(a, *b) == top);
        let least = alike.map(|b| (work([laid, &second[b]]), b)).min();
        found.extend(least.map(|(work, b)| (top, work, a, b)));
    }
    found.sort_by_key(|(top, work, a, b)| (std::cmp::Reverse(*top), *work, *a, *b));
    found.truncate(BEST);
    found.into_iter().map(|(.., a, b)| (a, b)).collect()
}

/// The ways to lay the shims of one shaft, one for each place that it can be moved to, in that order.
fn ways_to_lay(ends: &ShaftEnds) -> Result<Vec<Laid>, LimitedGapsError> {
    let there = ends.left.iter().chain(&ends.right);
    let sizes = there.clone().chain(ends.drawer.iter().map(|d| &d.0));
    if sizes.clone().any(|s| *s <= Length::ZERO) {
        return Err(LimitedGapsError::NoShim);
    }
    if ends.tighter < Length::ZERO || ends.looser < Length::ZERO {
        return Err(LimitedGapsError::Float);
    }
    // How many of each size could be used, and how many lie where.
    let mut pool: BTreeMap<i64, (u32, u32, u32)> = BTreeMap::new();
    for shim in &ends.left {
        pool.entry(shim.nm()).or_default().1 += 1;
    }
    for shim in &ends.right {
        pool.entry(shim.nm()).or_default().2 += 1;
    }
    for (size, count) in &ends.drawer {
        pool.entry(size.nm()).or_default().0 += count;
    }
    let pool: Vec<Kind> = pool
        .into_iter()
        .map(|(nm, (drawer, left, right))| Kind {
            nm,
            drawer,
            left,
            right,
        })
        .collect();
    let most = if ends.drawer.is_empty() {
        ends.left.len() + ends.right.len()
    } else {
        MOST_AT_AN_END.max(ends.left.len()).max(ends.right.len())
    };
    let mut stacks = Vec::new();
    stacks_of(&pool, most, &mut vec![0; pool.len()], 0, 0, &mut stacks)?;
    stacks.sort();
    let now: i64 = ends.left.iter().map(|s| s.nm()).sum();
    let total: i64 = there.map(|s| s.nm()).sum();
    let mut ways: BTreeMap<i64, (Cost, usize, usize)> = BTreeMap::new();
    for (l, left) in stacks.iter().enumerate() {
        let (from, to) = (
            total - ends.looser.nm() - left.0,
            total + ends.tighter.nm() - left.0,
        );
        let begins = stacks.partition_point(|s| s.0 < from);
        for (r, right) in stacks.iter().enumerate().skip(begins) {
            if right.0 > to {
                break;
            }
            let Some(cost) = cost(&pool, &left.1, &right.1, left.0 + right.0 - total) else {
                continue;
            };
            // What is taken out at the left lets the shaft move to the left.
            let way = (cost, l, r);
            let kept = ways.entry(now - left.0).or_insert(way);
            *kept = (*kept).min(way);
        }
    }
    let laid = ways.into_iter().map(|(shift, (cost, l, r))| Laid {
        left_nm: pieces(&pool, &stacks[l].1),
        right_nm: pieces(&pool, &stacks[r].1),
        shift_nm: Length::from_nm(shift),
        tighter_nm: Length::from_nm(stacks[l].0 + stacks[r].0 - total),
        from_drawer: cost.0,
        change_ends: cost.1,
    });
    Ok(laid.collect())
}

/// A size of shim: how many are in the drawer, and how many lie at either end.
struct Kind {
    nm: i64,
    drawer: u32,
    left: u32,
    right: u32,
}

/// The work of laying two stacks: shims out of the drawer, shims that change ends, how many shims, how far the float is off.
type Cost = (u32, u32, u32, i64);

/// That of these two; none where there are not so many of a size.
fn cost(pool: &[Kind], left: &[u32], right: &[u32], tighter: i64) -> Option<Cost> {
    let (mut new, mut moved, mut count) = (0, 0, 0);
    for (at, kind) in pool.iter().enumerate() {
        let (l, r) = (left[at], right[at]);
        let there = kind.left + kind.right;
        if l + r > there + kind.drawer {
            return None;
        }
        let stay = l.min(kind.left) + r.min(kind.right);
        let from_drawer = (l + r).saturating_sub(there);
        new += from_drawer;
        moved += l + r - stay - from_drawer;
        count += l + r;
    }
    Some((new, moved, count, tighter.abs()))
}

/// A stack's thickness, and how many of each size are in it.
type Stack = (i64, Vec<u32>);

/// Every stack of up to `most` shims.
fn stacks_of(
    pool: &[Kind],
    most: usize,
    counts: &mut Vec<u32>,
    at: usize,
    nm: i64,
    found: &mut Vec<Stack>,
) -> Result<(), LimitedGapsError> {
    let Some(kind) = pool.get(at) else {
        if found.len() == MOST_STACKS {
            return Err(LimitedGapsError::TooMany);
        }
        found.push((nm, counts.clone()));
        return Ok(());
    };
    let there = kind.drawer + kind.left + kind.right;
    for count in 0..=there.min(u32::try_from(most).unwrap_or(u32::MAX)) {
        counts[at] = count;
        let thicker = nm + i64::from(count) * kind.nm;
        stacks_of(pool, most - count as usize, counts, at + 1, thicker, found)?;
    }
    counts[at] = 0;
    Ok(())
}

/// A stack's shims, the thickest first.
fn pieces(pool: &[Kind], counts: &[u32]) -> Vec<Length> {
    let each = pool.iter().zip(counts).rev();
    each.flat_map(|(kind, count)| (0..*count).map(|_| Length::from_nm(kind.nm)))
        .collect()
}

fn working(gaps: &[LimitedGap], moves: [i64; 2]) -> Working {
    let line = |gap: &LimitedGap| {
        let mut line = Line::new()
            .text(format!("{}: ", gap.name))
            .length(gap.now.as_f64());
        for (grows, x) in gap.grows.iter().zip(moves) {
            let by = i64::from(*grows) * x;
            if by != 0 {
                line = line.signed_length(by as f64);
            }
        }
        let then = gap.after(moves);
        line = line.text(" = ").length(then as f64);
        let spare = gap.spare(then);
        line = line
            .text(if spare < 0 {
                ", beyond its limit by "
            } else {
                ", to spare "
            })
            .length(spare.abs() as f64);
        if gap.weight > 1 {
            line = line.text(format!(", weighs {}", gap.weight));
        }
        line
    };
    gaps.iter().map(line).collect()
}
