//! What to order: the fewest sizes that will surely do.
//!
//! With a stack of total `s` fitted the clearance is `c' = c − k (s − s0) = k (T − s)`, where
//! `T = s0 + k c` is the thickness that would leave none. What is known of `T` is a range; each
//! total lands in the window for a range of `T`, less by the tolerance of its pieces. So to order is
//! to cover the one range with the fewest of the others, and what is on hand covers for nothing.

use serde::Serialize;
use thiserror::Error;

use crate::choose::MOST_PIECES;
use crate::choose::required::Effect;
use crate::units::csv_text;
use crate::units::length::Length;
use crate::verdict::window::Window;

/// More stacks than this are not laid out.
const MOST_TOTALS: usize = 200_000;
/// Where stacks are allowed, no more sizes than this are tried together.
const MOST_SIZES: usize = 3;

/// What is asked of an order.
#[derive(Clone, Debug)]
pub struct PurchaseRequest<'a> {
    /// The least that the thickness which would leave no clearance may be, in nanometres.
    pub from_nm: f64,
    /// The most that it may be.
    pub to_nm: f64,
    /// What a thicker piece does.
    pub effect: Effect,
    /// The window to land in.
    pub window: Window,
    /// The ± limits of a piece's thickness.
    pub tolerance: Length,
    /// The most pieces a stack may have.
    pub most_pieces: u32,
    /// The sizes on hand, and how many of each.
    pub on_hand: &'a [(Length, u32)],
    /// The sizes that can be ordered.
    pub made: &'a [Length],
}

/// Why an order cannot be worked out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Error)]
pub enum PurchaseError {
    /// A range that is none.
    #[error("range: both ends must be finite, and the first not above the second")]
    BadRange,
    /// Pieces outside their range.
    #[error("pieces: a stack has from 1 to {MOST_PIECES} pieces")]
    BadPieces,
    /// More stacks than can be laid out.
    #[error(
        "sizes: so many sizes in stacks of so many pieces cannot be searched: allow fewer pieces"
    )]
    TooMany,
}

/// What to order.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Purchase {
    /// The sizes, thinnest first; none where what is on hand will do.
    pub sizes: Vec<Length>,
    /// However the range comes out, a piece lands at least so far inside the window, in nanometres.
    pub room_nm: f64,
    /// What no size that is made covers, in nanometres: parts of the range, lowest first.
    pub uncovered: Vec<Span>,
}

/// A part of a range, in nanometres.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Span {
    /// Its lower end.
    pub from_nm: f64,
    /// Its upper end.
    pub to_nm: f64,
}

/// The range of the thickness that would leave no clearance: `s0 + k (c ± U)`.
#[must_use]
pub fn range_of(clearance_nm: f64, expanded_nm: f64, fitted: Length, effect: Effect) -> Span {
    let middle = fitted.as_f64() + effect.k() * clearance_nm;
    Span {
        from_nm: middle - expanded_nm,
        to_nm: middle + expanded_nm,
    }
}

/// Whether a single piece of this size may yet be the one that a check takes: whether, for anything
/// that the range may come out at, it lands in the window.
///
/// ```
/// use anvil_arithmetic::choose::purchase::{may_take, Span};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::choose::required::Effect;
/// use anvil_arithmetic::verdict::window::Window;
/// // Between 1.30 and 1.40 mm would leave nothing; float from 0.05 to 0.10 is right.
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let window = Window::new(Some(mm(5)), Some(mm(10))).unwrap();
/// let range = Span { from_nm: 1_300_000.0, to_nm: 1_400_000.0 };
/// let takes = |size| may_take(range, Effect::Closes, window, size);
/// assert_eq!([119, 120, 135, 136].map(|size| takes(mm(size))), [false, true, true, false]);
/// ```
#[must_use]
pub fn may_take(range: Span, effect: Effect, window: Window, size: Length) -> bool {
    let left = [range.from_nm, range.to_nm].map(|x| effect.k() * (x - size.as_f64()));
    left[0].max(left[1]) >= window.low_nm() && left[0].min(left[1]) <= window.high_nm()
}

/// The fewest sizes of the maker's list with which, whatever the range comes out at, one of them or
/// one on hand lands in the window; of the sets so small, the one that leaves the most room to the
/// limits. Where stacks are allowed, an ordered size may be stacked with itself and with what is on
/// hand; then up to three sizes are tried.
///
/// ```
/// use anvil_arithmetic::choose::purchase::{purchase, PurchaseRequest};
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::choose::required::Effect;
/// use anvil_arithmetic::verdict::window::Window;
/// // Between 1.30 and 1.40 mm would leave nothing; float from 0.05 to 0.10 is right.
/// let mm = |hundredths: i64| Length::from_nm(hundredths * 10_000);
/// let made: Vec<Length> = (20..30).map(|i| mm(i * 5)).collect();
/// let found = purchase(&PurchaseRequest {
///     from_nm: 1_300_000.0, to_nm: 1_400_000.0, effect: Effect::Closes,
///     window: Window::new(Some(mm(5)), Some(mm(10))).unwrap(), tolerance: Length::ZERO,
///     most_pieces: 1, on_hand: &[], made: &made,
/// }).unwrap();
/// assert_eq!(found.sizes, [mm(125), mm(130)]);
/// ```
///
/// # Errors
/// Where the range runs backwards, the pieces are outside theirs, or there are too many stacks to lay out.
pub fn purchase(request: &PurchaseRequest<'_>) -> Result<Purchase, PurchaseError> {
    request.check()?;
    let most = request.most_pieces as usize;
    let mut by_hand = vec![(0, 0)];
    for (size, quantity) in request.on_hand {
        by_hand = stacked(&by_hand, *size, (*quantity as usize).min(most), most)?;
    }
    let mut made = request.made.to_vec();
    made.sort_unstable();
    made.dedup();
    let find = |inset: f64| {
        if most == 1 {
            Ok(request.fewest(&by_hand, &made, inset))
        } else {
            request.few(&by_hand, &made, inset)
        }
    };
    let Some(mut sizes) = find(0.0)? else {
        let mut all = by_hand;
        for size in &made {
            all = stacked(&all, *size, most, most)?;
        }
        return Ok(Purchase {
            sizes: Vec::new(),
            room_nm: 0.0,
            uncovered: request.uncovered(&all, 0.0),
        });
    };
    // The most room that as few sizes allow, to the nanometre.
    let width = request.window.width_nm().unwrap_or(2e8);
    let (mut room, mut too_much) = (0.0, width / 2.0 + 1.0);
    while too_much - room > 1.0 {
        let middle = f64::midpoint(room, too_much);
        match find(middle)? {
            Some(found) if found.len() <= sizes.len() => {
                sizes = found;
                room = middle;
            }
            _ => too_much = middle,
        }
    }
    Ok(Purchase {
        sizes,
        room_nm: room,
        uncovered: Vec::new(),
    })
}

impl PurchaseRequest<'_> {
    fn check(&self) -> Result<(), PurchaseError> {
        if !(self.from_nm.is_finite() && self.to_nm.is_finite() && self.from_nm <= self.to_nm) {
            return Err(PurchaseError::BadRange);
        }
        if self.most_pieces == 0 || self.most_pieces > MOST_PIECES {
            return Err(PurchaseError::BadPieces);
        }
        Ok(())
    }

    /// The range of the thickness that leaves none for which a total lands in the window, at least
    /// `inset` inside.
    fn span(&self, total: i64, inset: f64) -> (f64, f64) {
        let less = inset + self.tolerance.as_f64();
        let (low, high) = (self.window.low_nm() + less, self.window.high_nm() - less);
        let total = total as f64;
        match self.effect {
            Effect::Closes => (total + low, total + high),
            Effect::Opens => (total - high, total - low),
        }
    }

    /// The parts of the range that no total covers.
    fn uncovered(&self, stacks: &[Stack], inset: f64) -> Vec<Span> {
        let stacks = stacks.iter().filter(|s| s.1 > 0);
        let mut spans: Vec<(f64, f64)> = stacks.map(|s| self.span(s.0, inset)).collect();
        spans.retain(|s| s.0 <= s.1);
        spans.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut open = Vec::new();
        let mut reached = self.from_nm;
        let mut any = false;
        for (from, to) in spans {
            if from > reached || (!any && from > self.from_nm) {
                let gap_to = from.min(self.to_nm);
                if gap_to > reached || (!any && reached <= self.to_nm) {
                    open.push(Span {
                        from_nm: reached,
                        to_nm: gap_to,
                    });
                }
                reached = reached.max(from);
            }
            if to >= reached {
                reached = to;
                any = true;
            }
            if reached >= self.to_nm && any {
                return open;
            }
        }
        open.push(Span {
            from_nm: reached,
            to_nm: self.to_nm,
        });
        open
    }

    /// The fewest single pieces, exactly: at each point not covered for nothing, the size that
    /// covers it and reaches furthest.
    fn fewest(&self, by_hand: &[Stack], made: &[Length], inset: f64) -> Option<Vec<Length>> {
        let pieces = by_hand.iter().filter(|s| s.1 > 0);
        let free: Vec<(f64, f64)> = pieces.map(|s| self.span(s.0, inset)).collect();
        let mut sizes = Vec::new();
        let mut at = self.from_nm;
        // Whether the point itself is covered, and not only all below it.
        let mut covered = false;
        loop {
            let reach = |spans: &mut dyn Iterator<Item = (f64, f64)>| {
                spans
                    .filter(|s| s.0 <= at && s.1 >= at && (s.1 > at || !covered))
                    .map(|s| s.1)
                    .fold(None, |best: Option<f64>, to| {
                        Some(best.map_or(to, |b| b.max(to)))
                    })
            };
            if let Some(to) = reach(&mut free.iter().copied()) {
                at = to;
                covered = true;
            } else {
                let spans = made.iter().map(|m| (*m, self.span(m.nm(), inset)));
                let best = spans
                    .filter(|(_, s)| s.0 <= at && s.1 >= at && (s.1 > at || !covered))
                    .max_by(|a, b| a.1.1.total_cmp(&b.1.1))?;
                sizes.push(best.0);
                at = best.1.1;
                covered = true;
            }
            if at >= self.to_nm {
                sizes.sort_unstable();
                return Some(sizes);
            }
        }
    }

    /// Up to three sizes, tried one by one: those that stack with one another and with what is on
    /// hand.
    fn few(
        &self,
        by_hand: &[Stack],
        made: &[Length],
        inset: f64,
    ) -> Result<Option<Vec<Length>>, PurchaseError> {
        for count in 0..=MOST_SIZES.min(made.len()) {
            let mut picked = Vec::new();
            if self.pick(count, made, by_hand, inset, &mut picked)? {
                return Ok(Some(picked));
            }
        }
        Ok(None)
    }

    fn pick(
        &self,
        count: usize,
        made: &[Length],
        stacks: &[Stack],
        inset: f64,
        picked: &mut Vec<Length>,
    ) -> Result<bool, PurchaseError> {
        if count == 0 {
            return Ok(self.uncovered(stacks, inset).is_empty());
        }
        let most = self.most_pieces as usize;
        for (at, size) in made.iter().enumerate() {
            let more = stacked(stacks, *size, most, most)?;
            picked.push(*size);
            if self.pick(count - 1, &made[at + 1..], &more, inset, picked)? {
                return Ok(true);
            }
            picked.pop();
        }
        Ok(false)
    }
}

/// A line of an order, as it goes to the maker.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct PurchaseLine {
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// The thickness of one piece in nanometres.
    pub thickness_nm: Length,
    /// How many.
    pub count: u32,
    /// The maker's own number for it, where the sheet has it.
    pub number: String,
    /// The jobs and checks it is for.
    pub wanted_for: Vec<String>,
}

/// An order as CSV (RFC 4180): `family`, `name`, `thickness` with its unit, `count`, `number`,
/// `wanted_for`.
#[must_use]
pub fn csv(lines: &[PurchaseLine], more: Vec<[String; 6]>) -> String {
    let headings = [
        "family",
        "name",
        "thickness",
        "count",
        "number",
        "wanted_for",
    ];
    let rows = lines.iter().map(|l| {
        [
            l.family_key.clone(),
            l.family_name.clone(),
            l.thickness_nm.to_string(),
            l.count.to_string(),
            l.number.clone(),
            l.wanted_for.join("; "),
        ]
    });
    csv_text::written(headings, rows.chain(more))
}

/// The total of a stack, and how many pieces it has.
type Stack = (i64, usize);

/// Stacks, and the same with up to so many pieces of one size more.
fn stacked(
    stacks: &[Stack],
    size: Length,
    copies: usize,
    most: usize,
) -> Result<Vec<Stack>, PurchaseError> {
    let mut next = stacks.to_vec();
    for copies in 1..=copies {
        let own = size.nm() * i64::try_from(copies).unwrap_or(i64::MAX);
        let fitting = stacks.iter().filter(|s| s.1 + copies <= most);
        next.extend(fitting.map(|s| (s.0 + own, s.1 + copies)));
    }
    next.sort_unstable();
    // Of stacks alike in total, the one of the fewest pieces does all that the others do.
    next.dedup_by_key(|s| s.0);
    if next.len() > MOST_TOTALS {
        return Err(PurchaseError::TooMany);
    }
    Ok(next)
}
