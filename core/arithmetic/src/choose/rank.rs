//! The order of settings, and the short list of the best.

use std::cmp::Ordering;

use crate::choose::MOST_PIECES;
use crate::stock::drawer::Availability;

/// What a choice ranks by, whatever family it is of.
#[derive(Clone, Copy, Debug)]
pub(super) struct Merit {
    pub reaches_floor: bool,
    pub chance: f64,
    pub distance: f64,
    pub pieces: usize,
    pub source: Availability,
}

impl Merit {
    /// Less is better: those that reach the required probability before the rest; among those, nearest the target, among the
    /// rest, by chance; then fewest pieces, then readiest source.
    pub fn order(&self, other: &Self) -> Ordering {
        self.lands(other, |m| m.distance)
            .then(self.pieces.cmp(&other.pieces))
            .then(self.source.cmp(&other.source))
    }

    /// Which of two lands better, with how far each is from the target as `distance` has it; less is better.
    pub fn lands(&self, other: &Self, distance: impl Fn(&Self) -> f64) -> Ordering {
        other.reaches_floor.cmp(&self.reaches_floor).then_with(|| {
            let chance = if self.reaches_floor {
                Ordering::Equal
            } else {
                other.chance.total_cmp(&self.chance)
            };
            chance.then(distance(self).total_cmp(&distance(other)))
        })
    }
}

/// A stack with what its rank depends on.
#[derive(Clone, Debug)]
pub(super) struct Candidate {
    pub total: i64,
    pub reaches_floor: bool,
    pub distance: f64,
    /// The chance in window; where missing on one side is worse, what the harm to be expected leaves of 1.
    pub chance: f64,
    pub source: Availability,
    /// The lines of stock and their thicknesses, ascending by thickness.
    pub pieces: Stack,
}

/// A stack of up to eight lines of stock, without a heap of its own: millions are looked at.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Stack {
    lines: [u16; MOST_PIECES as usize],
    sizes: [i64; MOST_PIECES as usize],
    len: usize,
}

impl Stack {
    /// Lays one more piece on; there is room for eight.
    pub fn push(&mut self, line: u16, size: i64) {
        self.lines[self.len] = line;
        self.sizes[self.len] = size;
        self.len += 1;
    }

    /// How many pieces lie on each other.
    pub const fn len(&self) -> usize {
        self.len
    }

    /// The lines of stock the pieces are of, thinnest first.
    pub fn lines(&self) -> &[u16] {
        &self.lines[..self.len]
    }

    /// The thickness of the thinnest piece; nothing where there is none.
    pub fn thinnest(&self) -> i64 {
        self.sizes().first().copied().unwrap_or(0)
    }

    fn sizes(&self) -> &[i64] {
        &self.sizes[..self.len]
    }
}

impl Candidate {
    fn merit(&self) -> Merit {
        Merit {
            reaches_floor: self.reaches_floor,
            chance: self.chance,
            distance: self.distance,
            pieces: self.pieces.len(),
            source: self.source,
        }
    }

    /// Less is better.
    pub fn order(&self, other: &Self) -> Ordering {
        self.merit()
            .order(&other.merit())
            // Thin shims are springy: of two equal stacks, the one with the thicker thinnest piece.
            .then_with(|| other.pieces.sizes().cmp(self.pieces.sizes()))
            .then(other.chance.total_cmp(&self.chance))
            .then(self.pieces.lines().cmp(other.pieces.lines()))
    }
}

/// The best candidates so far, one for each total.
pub(super) struct Shortlist {
    keep: usize,
    best: Vec<Candidate>,
}

impl Shortlist {
    /// An empty list that keeps so many.
    pub fn new(keep: usize) -> Self {
        Self {
            keep,
            best: Vec::with_capacity(keep + 1),
        }
    }

    /// Takes it up in its place where it is among the best, and the better of two with one total.
    pub fn offer(&mut self, candidate: Candidate) {
        if let Some(same) = self.best.iter().position(|b| b.total == candidate.total) {
            if candidate.order(&self.best[same]).is_ge() {
                return;
            }
            self.best.remove(same);
        } else if self.best.len() == self.keep
            && self.worst().is_some_and(|w| candidate.order(w).is_ge())
        {
            return;
        }
        let at = self.best.partition_point(|b| b.order(&candidate).is_lt());
        self.best.insert(at, candidate);
        self.best.truncate(self.keep);
    }

    /// The best stack that is so thick in all, in nanometres; none where that is not among the best.
    pub fn of_total(&self, total: i64) -> Option<&Candidate> {
        self.best.iter().find(|b| b.total == total)
    }

    /// The last on a full list; none while there is room.
    pub fn worst(&self) -> Option<&Candidate> {
        if self.best.len() < self.keep {
            None
        } else {
            self.best.last()
        }
    }

    /// All that were kept, the best first.
    pub fn into_best(self) -> Vec<Candidate> {
        self.best
    }
}
