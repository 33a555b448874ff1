//! Half-stacks, laid out by total thickness.

use crate::stock::drawer::Stock;

/// The most pieces in half a stack.
pub(super) const HALF: usize = 4;

/// A multiset of up to four lines of stock, by ascending line number.
#[derive(Clone, Copy, Debug)]
pub(super) struct Half {
    pub sum: i64,
    pub u2: f64,
    lines: [u16; HALF],
    len: u8,
}

impl Half {
    /// The lines of stock it takes, ascending; one twice where two of it are taken.
    pub fn lines(&self) -> &[u16] {
        &self.lines[..usize::from(self.len)]
    }
}

/// All half-stacks of one count, sorted by sum, with the runs of equal sums marked.
pub(super) struct Halves {
    pub all: Vec<Half>,
    /// `(sum, first, past the last)` of each run.
    pub runs: Vec<(i64, usize, usize)>,
}

impl Halves {
    /// All multisets of `count` lines that the quantities allow.
    pub fn new(stock: &[Stock], count: usize) -> Self {
        let mut all = Vec::new();
        let empty = Half {
            sum: 0,
            u2: 0.0,
            lines: [0; HALF],
            len: 0,
        };
        grow(stock, count, 0, empty, &mut all);
        // Of equal sums, the one with the thicker thin pieces first: it makes the better stack.
        all.sort_unstable_by(|a: &Half, b: &Half| (a.sum, b.lines()).cmp(&(b.sum, a.lines())));
        let mut runs: Vec<(i64, usize, usize)> = Vec::new();
        for (at, half) in all.iter().enumerate() {
            match runs.last_mut() {
                Some(run) if run.0 == half.sum => run.2 = at + 1,
                _ => runs.push((half.sum, at, at + 1)),
            }
        }
        Self { all, runs }
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
        next.u2 += piece.u_nm * piece.u_nm;
        grow(stock, count, line, next, all);
    }
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
