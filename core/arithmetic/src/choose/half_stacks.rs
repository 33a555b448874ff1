//! Half-stacks, laid out by total thickness.

use crate::stock::drawer::{Availability, Stock};
use crate::stock::pieces::PiecesDoubt;

/// The most pieces in half a stack.
pub(super) const HALF: usize = 4;

/// A multiset of up to four lines of stock, by ascending line number.
#[derive(Clone, Copy, Debug)]
pub(super) struct Half {
    pub sum: i64,
    /// What its pieces add to a doubt.
    added: PiecesDoubt,
    /// The least ready of them.
    source: Availability,
    lines: [u16; HALF],
    len: u8,
}

impl Half {
    /// The lines of stock it takes, ascending; one twice where two of it are taken.
    pub fn lines(&self) -> &[u16] {
        &self.lines[..usize::from(self.len)]
    }
}

/// The classes of one sum: `(sum, first, past the last)`.
pub(super) type Run = (i64, usize, usize);

/// Halves of one sum that are as sure and as ready as each other.
#[derive(Clone, Copy, Debug)]
pub(super) struct Class {
    /// What the pieces of each add to a doubt.
    pub added: PiecesDoubt,
    /// The least ready of its pieces.
    pub source: Availability,
    /// No more of any of them are of one size.
    pub alike: u32,
    pub from: usize,
    pub to: usize,
}

/// All half-stacks of one count, sorted by sum, with those alike beside each other.
pub(super) struct Halves {
    pub all: Vec<Half>,
    pub classes: Vec<Class>,
    pub runs: Vec<Run>,
}

impl Halves {
    /// All multisets of `count` lines that the quantities allow.
    pub fn new(stock: &[Stock], count: usize) -> Self {
        let mut all = Vec::new();
        let empty = Half {
            sum: 0,
            added: PiecesDoubt::NONE,
            source: Availability::OnHand,
            lines: [0; HALF],
            len: 0,
        };
        grow(stock, count, 0, empty, &mut all);
        for half in &mut all {
            let (lines, len) = (half.lines, usize::from(half.len));
            let pieces = lines[..len].iter().map(|l| &stock[usize::from(*l)]);
            half.added = PiecesDoubt::of_stack(pieces.clone());
            half.source = pieces.map(|s| s.source).max().unwrap_or(half.source);
        }
        let class = |h: &Half| {
            let added = [h.added.variance, h.added.squares].map(f64::to_bits);
            (h.sum, added, h.source)
        };
        // Of those alike, the one with the thicker thin pieces first: it makes the better stack.
        all.sort_unstable_by(|a: &Half, b: &Half| {
            (class(a), b.lines()).cmp(&(class(b), a.lines()))
        });
        let mut classes: Vec<Class> = Vec::new();
        let mut runs: Vec<Run> = Vec::new();
        let mut from = 0;
        for alike in all.chunk_by(|a, b| class(a) == class(b)) {
            let (first, to) = (&alike[0], from + alike.len());
            match runs.last_mut() {
                Some(run) if run.0 == first.sum => run.2 += 1,
                _ => runs.push((first.sum, classes.len(), classes.len() + 1)),
            }
            classes.push(Class {
                added: first.added,
                source: first.source,
                alike: alike.iter().map(most_of_one).max().unwrap_or(0),
                from,
                to,
            });
            from = to;
        }
        Self { all, classes, runs }
    }
}

fn grow(stock: &[Stock], count: usize, from: usize, so_far: Half, all: &mut Vec<Half>) {
    let len = usize::from(so_far.len);
    if len == count {
        all.push(so_far);
        return;
    }
    for (line, piece) in stock.iter().enumerate().skip(from) {
        let number = u16::try_from(line).unwrap_or(u16::MAX);
        let used = so_far.lines().iter().filter(|l| **l == number).count();
        if used as u64 >= u64::from(piece.quantity) {
            continue;
        }
        let mut next = so_far;
        next.lines[len] = number;
        next.len += 1;
        next.sum += piece.thickness_nm.nm();
        grow(stock, count, line, next, all);
    }
}

/// How many of a half are of one size at the most.
fn most_of_one(half: &Half) -> u32 {
    let runs = half.lines().chunk_by(|a, b| a == b);
    runs.map(|run| u32::try_from(run.len()).unwrap_or(u32::MAX))
        .max()
        .unwrap_or(0)
}

/// How many multisets of `count` there are of `lines` lines, or the largest number there is.
pub(crate) fn multisets(lines: u64, count: u64) -> u64 {
    (1..=count).fold(1_u64, |n, i| n.saturating_mul(lines + i - 1) / i)
}

/// Whether two halves make one stack in its canonical order, within the quantities.
pub(super) fn joins(low: &Half, high: &Half, stock: &[Stock]) -> bool {
    let (Some(last), Some(first)) = (low.lines().last(), high.lines().first()) else {
        return true;
    };
    if last > first {
        return false;
    }
    if last < first {
        return true;
    }
    let same = |half: &Half| half.lines().iter().filter(|l| *l == last).count();
    (same(low) + same(high)) as u64 <= u64::from(stock[usize::from(*last)].quantity)
}
