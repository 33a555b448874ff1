//! What prices leave open, settled by what is left of the contested sizes.
//!
//! Groups take their pieces in turn. Two ways of serving those before that leave the same of every size that those to
//! come could run short of are one state: the cheaper stands for both (dynamic programming). Where only a few sizes are
//! contested, of a piece or two each, there are few such states, however many ways lead to them; the bound that prices
//! give is weak just there, for half of each of two checks costs it nothing. The same prices bound every state from below
//! (Lagrangian relaxation), so that what cannot become better than what is known is not followed.

use std::collections::HashMap;

use foldhash::fast::FixedState;

use crate::allocate::Cost;
use crate::allocate::lagrangian::{Market, Relaxed};

/// What came of it.
pub(super) enum Settled {
    /// For each group the option it takes; none where it takes nothing.
    Better(Vec<Option<usize>>),
    /// Nothing costs less than what is known.
    NoBetter,
    /// There are more steps than were allowed.
    TooMany,
    /// It was told to stop.
    Stopped,
}

/// How much is left of each contested size, side by side in whole bits.
type Left = [u64; WORDS];
const WORDS: usize = 4;

/// Where in [`Left`] a contested size stands.
#[derive(Clone, Copy)]
struct Field {
    line: usize,
    word: usize,
    shift: u32,
    mask: u64,
}

impl Field {
    const fn get(self, left: &Left) -> u64 {
        left[self.word] >> self.shift & self.mask
    }

    const fn set(self, left: &mut Left, to: u64) {
        left[self.word] = left[self.word] & !(self.mask << self.shift) | to << self.shift;
    }
}

/// Something that a group could take: how many of which contested sizes, by number of their fields.
struct Column {
    option: Option<usize>,
    cost: Cost,
    uses: Vec<(usize, u64)>,
}

/// A group that is taken in its turn.
struct Turn {
    group: usize,
    columns: Vec<Column>,
    /// The most that all after it could take of each contested size together.
    to_come: Vec<u64>,
    /// What all after it cost at least, with prices, and with all that they could take of uncontested sizes.
    least_to_come: Cost,
}

/// The best that can be had where that is below `known`, taking no more than so many steps from state to state; `go_on` is asked now
/// and then. Every option that could be part of something better is laid out.
pub(super) fn settle(
    market: &Market<'_, '_>,
    now: &Relaxed,
    known: Cost,
    most_steps: usize,
    go_on: &mut dyn FnMut() -> bool,
) -> Settled {
    let Some((fields, turns)) = turns(market, now, known, most_steps) else {
        return Settled::TooMany;
    };
    let prices: Vec<Cost> = fields.iter().map(|f| market.prices[f.line]).collect();
    let mut start: Left = [0; WORDS];
    for field in &fields {
        let quantity = u64::try_from(market.quantity[field.line]).unwrap_or(0);
        field.set(&mut start, quantity.min(field.mask));
    }
    let mut states: Vec<(Left, Cost)> = vec![(start, 0)];
    let mut steps: Vec<Vec<(u32, u16)>> = Vec::with_capacity(turns.len());
    let mut taken = 0;
    for turn in &turns {
        let mut found: HashMap<Left, u32, FixedState> = HashMap::default();
        let mut next: Vec<(Left, Cost)> = Vec::new();
        let mut step: Vec<(u32, u16)> = Vec::new();
        for (from, (left, cost)) in states.iter().enumerate() {
            if from.is_multiple_of(4096) && !go_on() {
                return Settled::Stopped;
            }
            taken += turn.columns.len();
            if taken > most_steps {
                return Settled::TooMany;
            }
            for (number, column) in turn.columns.iter().enumerate() {
                let cost = cost + column.cost;
                let Some(left) = turn.after(&fields, *left, column) else {
                    continue;
                };
                let worth: Cost = fields
                    .iter()
                    .zip(&prices)
                    .filter(|(_, price)| **price > 0)
                    .map(|(field, price)| price * Cost::from(field.get(&left)))
                    .sum();
                if cost + turn.least_to_come - worth >= known {
                    continue;
                }
                let by = (
                    u32::try_from(from).unwrap_or(u32::MAX),
                    u16::try_from(number).unwrap_or(u16::MAX),
                );
                if let Some(at) = found.get(&left) {
                    let at = *at as usize;
                    if cost < next[at].1 {
                        next[at].1 = cost;
                        step[at] = by;
                    }
                } else {
                    found.insert(left, u32::try_from(next.len()).unwrap_or(u32::MAX));
                    next.push((left, cost));
                    step.push(by);
                }
            }
        }
        states = next;
        steps.push(step);
    }
    // All that is left is worth nothing to anybody: one state at the most.
    if states.is_empty() {
        return Settled::NoBetter;
    }
    let mut picks = vec![None; market.options.len()];
    let mut at = 0;
    for (turn, step) in turns.iter().zip(&steps).rev() {
        let (from, column) = step[at];
        picks[turn.group] = turn.columns[usize::from(column)].option;
        at = from as usize;
    }
    Settled::Better(picks)
}

impl Turn {
    /// What is left once a column is taken, no more of each size than those to come could take; none where there is too
    /// little.
    fn after(&self, fields: &[Field], mut left: Left, column: &Column) -> Option<Left> {
        for (at, count) in &column.uses {
            let there = fields[*at].get(&left);
            fields[*at].set(&mut left, there.checked_sub(*count)?);
        }
        for (field, most) in fields.iter().zip(&self.to_come) {
            if field.get(&left) > *most {
                field.set(&mut left, *most);
            }
        }
        Some(left)
    }
}

/// The groups in the order of their turns; none where the contested sizes are too many to keep, or what could be taken
/// is more than so many steps by itself.
fn turns(
    market: &Market<'_, '_>,
    now: &Relaxed,
    known: Cost,
    most_steps: usize,
) -> Option<(Vec<Field>, Vec<Turn>)> {
    let room = known - now.bound;
    let lines = market.quantity.len();
    // What each group could take, as how many of which sizes.
    let mut groups: Vec<Vec<Column>> = Vec::with_capacity(market.options.len());
    let mut columns = 0;
    for g in 0..market.options.len() {
        let of_group = alive(market, g, now.best[g] + room);
        columns += of_group.len();
        if columns > most_steps {
            return None;
        }
        groups.push(of_group);
    }
    let most_of: Vec<Vec<u64>> = groups.iter().map(|c| most_used(c, lines)).collect();
    let wanted = |line: usize| most_of.iter().map(|m| m[line]).sum::<u64>();
    let contested: Vec<bool> = (0..lines)
        .map(|l| wanted(l) > u64::try_from(market.quantity[l]).unwrap_or(0))
        .collect();
    let fields = fields(market, &contested)?;
    let order = order(&most_of, &fields);
    let mut to_come = vec![0; fields.len()];
    let mut least_to_come = 0;
    let mut groups: Vec<Option<Vec<Column>>> = groups.into_iter().map(Some).collect();
    let mut turns = Vec::with_capacity(groups.len());
    for group in order.into_iter().rev() {
        let columns = groups[group].take().unwrap_or_default();
        turns.push(Turn {
            group,
            columns: told_apart(columns, &fields),
            to_come: to_come.clone(),
            least_to_come,
        });
        for (at, field) in fields.iter().enumerate() {
            to_come[at] += most_of[group][field.line];
        }
        // What it could take of uncontested sizes is there; of the others the state says what is.
        let others = (0..lines).filter(|l| !contested[*l]);
        let worth: Cost = others
            .map(|l| market.prices[l] * Cost::from(most_of[group][l]))
            .sum();
        least_to_come += now.best[group] - worth;
    }
    turns.reverse();
    Some((fields, turns))
}

/// What a group could take of what could still be better: below `most` with prices. Uses are by line here.
fn alive(market: &Market<'_, '_>, group: usize, most: Cost) -> Vec<Column> {
    let options = &market.options[group];
    let mut columns = Vec::new();
    if let Some(cost) = market.none(group).filter(|n| *n < most) {
        columns.push(Column {
            option: None,
            cost,
            uses: Vec::new(),
        });
    }
    for (at, opt) in options.all().iter().enumerate() {
        if opt.cost >= most {
            break;
        }
        let lines = options.lines_of(opt);
        if market.priced(group, opt) >= most || !market.allowed(group, lines) {
            continue;
        }
        let mut uses: Vec<(usize, u64)> = Vec::with_capacity(lines.len());
        for line in lines {
            let line = usize::from(*line);
            match uses.iter_mut().find(|u| u.0 == line) {
                Some(of) => of.1 += 1,
                None => uses.push((line, 1)),
            }
        }
        columns.push(Column {
            option: Some(at),
            cost: opt.cost,
            uses,
        });
    }
    columns
}

/// The most of each size that any of the columns takes.
fn most_used(columns: &[Column], lines: usize) -> Vec<u64> {
    let mut most = vec![0; lines];
    for (line, count) in columns.iter().flat_map(|c| &c.uses) {
        most[*line] = most[*line].max(*count);
    }
    most
}

/// A field for each contested size, wide enough for all there is of it; none where they do not fit.
fn fields(market: &Market<'_, '_>, contested: &[bool]) -> Option<Vec<Field>> {
    let (mut word, mut used) = (0, 0);
    let mut fields = Vec::new();
    for line in (0..contested.len()).filter(|l| contested[*l]) {
        let quantity = u64::try_from(market.quantity[line]).unwrap_or(0);
        let bits = (u64::BITS - quantity.leading_zeros()).max(1);
        if used + bits > u64::BITS {
            (word, used) = (word + 1, 0);
        }
        if word == WORDS {
            return None;
        }
        fields.push(Field {
            line,
            word,
            shift: used,
            mask: u64::MAX >> (u64::BITS - bits),
        });
        used += bits;
    }
    Some(fields)
}

/// The order of turns in which the fewest contested sizes are at any time both begun and still wanted.
fn order(most_of: &[Vec<u64>], fields: &[Field]) -> Vec<usize> {
    let mut left: Vec<usize> = (0..most_of.len()).collect();
    let mut begun = vec![false; fields.len()];
    let uses = |g: usize, at: usize| most_of[g][fields[at].line] > 0;
    let mut wanted_by: Vec<usize> = (0..fields.len())
        .map(|at| left.iter().filter(|g| uses(**g, at)).count())
        .collect();
    let mut order = Vec::with_capacity(left.len());
    while !left.is_empty() {
        let open_after = |g: usize| {
            let wanted = |at: usize| wanted_by[at] > usize::from(uses(g, at));
            (0..fields.len())
                .filter(|at| (begun[*at] || uses(g, *at)) && wanted(*at))
                .count()
        };
        let Some(at) = (0..left.len()).min_by_key(|at| open_after(left[*at])) else {
            break;
        };
        let group = left.swap_remove(at);
        for at in (0..fields.len()).filter(|at| uses(group, *at)) {
            begun[at] = true;
            wanted_by[at] -= 1;
        }
        order.push(group);
    }
    order
}

/// Columns with their uses of contested sizes only; of those that take the same of them the cheapest.
fn told_apart(columns: Vec<Column>, fields: &[Field]) -> Vec<Column> {
    let mut kept: HashMap<Vec<(usize, u64)>, Column> = HashMap::new();
    for column in columns {
        let mut uses: Vec<(usize, u64)> = column
            .uses
            .iter()
            .filter_map(|(line, count)| {
                let at = fields.iter().position(|f| f.line == *line)?;
                Some((at, *count))
            })
            .collect();
        uses.sort_unstable();
        let kept_at = kept.get(&uses).map(|k| k.cost);
        if kept_at.is_none_or(|cost| column.cost < cost) {
            let column = Column {
                uses: uses.clone(),
                ..column
            };
            kept.insert(uses, column);
        }
    }
    let mut columns: Vec<Column> = kept.into_values().collect();
    columns.sort_by(|a, b| a.cost.cmp(&b.cost).then(a.option.cmp(&b.option)));
    columns
}
