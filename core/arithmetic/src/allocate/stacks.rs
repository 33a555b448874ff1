//! The stacks of pieces that drawers have, and what their pieces add to a doubt.

use crate::allocate::{Cost, Group, Moved, Place};
use crate::stock::drawer::{Grade, Stock};
use crate::stock::pieces::PiecesDoubt;

/// More stacks than this are not laid out.
pub(super) const MOST_OPTIONS: usize = 500_000;

/// The sizes of all drawers in one row, ascending within each drawer.
pub(super) struct Lines<'a> {
    pub stock: Vec<&'a Stock>,
    /// Where each drawer begins and ends.
    pub drawers: Vec<std::ops::Range<usize>>,
    /// How many of each there are to share out.
    pub quantity: Vec<i64>,
}

impl<'a> Lines<'a> {
    /// All lines of all drawers, numbered through.
    pub fn new(drawers: &'a [Vec<Stock>]) -> Self {
        let mut stock: Vec<&Stock> = Vec::new();
        let mut ranges = Vec::new();
        for drawer in drawers {
            let from = stock.len();
            stock.extend(drawer.iter().filter(|s| s.quantity > 0));
            stock[from..].sort_by(|a, b| a.order(b));
            ranges.push(from..stock.len());
        }
        Self {
            quantity: stock.iter().map(|s| i64::from(s.quantity)).collect(),
            stock,
            drawers: ranges,
        }
    }
}

/// The clearances from which and to which something holds.
pub(super) type Band = (f64, f64);

/// A stack laid out: its cost, how many pieces it has, and the pieces with the counts by place.
pub(super) type Laid = (Cost, usize, Vec<u16>);

/// No pieces at these places add less to the doubt of a check, and none add a larger variance.
pub(super) fn least_and_most(
    check: &Moved,
    places: &[Place],
    lines: &Lines<'_>,
) -> (PiecesDoubt, f64) {
    let of_place = |place: &Place| {
        let us = || {
            lines.drawers[place.drawer]
                .clone()
                .map(|l| lines.stock[l].u_nm)
        };
        let least = us().reduce(f64::min).unwrap_or(0.0);
        let most = us().fold(0.0, f64::max) * f64::from(place.most_pieces);
        // Each piece by itself adds the least of all: pieces that are off alike add no less variance, nor a narrower
        // rectangle, but nothing beside it.
        let alone = PiecesDoubt::of_size(least, place.least_pieces, Grade::Miked);
        let flat = alone.squares.sqrt();
        let surest = PiecesDoubt {
            variance: if check.shape.is_some() {
                flat
            } else {
                alone.variance
            },
            squares: alone.squares,
        };
        (surest, most * most)
    };
    let each = places.iter().zip(&check.effects);
    each.fold((PiecesDoubt::NONE, 0.0), |sum, (place, effect)| {
        let (least, most) = of_place(place);
        (
            sum.0 + least.by_effect(*effect),
            sum.1 + effect * effect * most,
        )
    })
}

/// What the pieces of a stack add to a doubt.
pub(super) fn of_pieces(lines: &Lines<'_>, stack: &[u16]) -> PiecesDoubt {
    PiecesDoubt::of_stack(stack.iter().map(|l| lines.stock[usize::from(*l)]))
}

/// The stacks of one drawer whose totals lie in a range.
pub(super) struct Stacks<'l, 'a> {
    lines: &'l Lines<'a>,
    drawer: std::ops::Range<usize>,
    range: (i64, i64),
    thickest: i64,
    stack: Vec<u16>,
}

impl<'l, 'a> Stacks<'l, 'a> {
    pub(super) fn new(lines: &'l Lines<'a>, drawer: usize, range: (i64, i64)) -> Self {
        let drawer = lines.drawers[drawer].clone();
        Self {
            thickest: lines.stock[drawer.clone()]
                .last()
                .map_or(0, |s| s.thickness_nm.nm()),
            lines,
            drawer,
            range,
            stack: Vec::new(),
        }
    }

    /// The least and greatest clearance that any stack could give.
    pub(super) fn reach(&self, check: &Moved, group: &Group, place: &Place) -> (f64, f64) {
        let most = self.thickest.saturating_mul(i64::from(place.most_pieces));
        let ends = [0, most].map(|total| check.predicted_nm(group, |_| total));
        (ends[0].min(ends[1]), ends[0].max(ends[1]))
    }

    /// Every stack of `count` pieces, thinnest first, with its total.
    pub(super) fn each(&mut self, count: usize, found: &mut impl FnMut(&[u16], i64)) {
        self.stack.clear();
        self.grow(count, self.drawer.start, 0, found);
    }

    fn grow(&mut self, left: usize, from: usize, total: i64, found: &mut impl FnMut(&[u16], i64)) {
        if left == 0 {
            if (self.range.0..=self.range.1).contains(&total) {
                found(&self.stack, total);
            }
            return;
        }
        let lines = self.lines;
        let size = |line: usize| lines.stock[line].thickness_nm.nm();
        let more = i64::try_from(left - 1).unwrap_or(i64::MAX);
        // All that follow are at least as thick as this one, and none is thicker than the thickest.
        let least = self.range.0 - total - self.thickest.saturating_mul(more);
        let first = self.lines.stock[from..self.drawer.end]
            .partition_point(|s| s.thickness_nm.nm() < least);
        for line in from + first..self.drawer.end {
            if total.saturating_add(size(line).saturating_mul(more + 1)) > self.range.1 {
                break;
            }
            let Ok(number) = u16::try_from(line) else {
                break;
            };
            let used = self
                .stack
                .iter()
                .rev()
                .take_while(|l| **l == number)
                .count();
            if i64::try_from(used).unwrap_or(i64::MAX) >= lines.quantity[line] {
                continue;
            }
            self.stack.push(number);
            self.grow(left - 1, line, total + size(line), found);
            self.stack.pop();
        }
    }
}
