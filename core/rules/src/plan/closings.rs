//! The plan of a box: which checks to measure in which closing of the case, so that it is split as
//! seldom as can be.
//!
//! A check that pieces set is measured in one closing and, with its pieces in, again in a later
//! one; one that nothing sets is measured once. What names no closing is measured on the bench, and
//! costs none. A check is measured no earlier than in the closing in which those it comes after are
//! measured for the last time. Of all such plans: the fewest closings; then the preloads set as
//! early as can be, since a float set against an end plate that a preload will later move is wasted
//! work (common practice, no source); then the sheet's order.

use std::cmp::Reverse;
use std::collections::{BinaryHeap, HashMap};

use serde::Serialize;

/// The most plans that are looked at before the best so far has to do.
const MOST_STATES: usize = 100_000;

/// A check as the plan sees it.
#[derive(Clone, Debug)]
pub struct Task {
    /// The closing it is measured in; empty on the bench.
    pub closing: String,
    /// The checks that must be signed off first, by number.
    pub after: Vec<usize>,
    pub preload: bool,
    /// What is left to do.
    pub left: Left,
}

/// How often a check has still to be measured.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Left {
    /// Signed off.
    Nothing,
    /// Once: nothing sets it, or its pieces are chosen already.
    Once,
    /// Measured, its pieces fitted, and measured again.
    Twice,
}

/// What is done with a check in a closing, or on the bench before it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Visit {
    /// The check, by number.
    pub check: usize,
    /// It is signed off on this.
    pub last: bool,
}

/// One closing of the case, with what is done on the bench before it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Closing {
    /// What the sheet calls it; empty for what is left on the bench when all closings are done.
    pub closing: String,
    /// What is measured on the bench first.
    pub bench: Vec<Visit>,
    /// What is measured in it, preloads first.
    pub visits: Vec<Visit>,
}

/// Which checks are measured in which closing of the case, in order.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Plan {
    /// The closings, in order.
    pub closings: Vec<Closing>,
    /// How often the case is closed.
    pub count: usize,
    /// No plan closes it less often than this.
    pub at_least: usize,
}

/// How often each check has still to be measured: 0, 1 or 2.
type State = Vec<u8>;

/// The plan with the fewest closings.
///
/// ```
/// use anvil_rules::plan::closings::{plan, in_order, Left, Task};
/// // Two floats that can be measured in one closing, and a check in another between them.
/// let task = |closing: &str| Task { closing: closing.into(), after: vec![], preload: false, left: Left::Twice };
/// let tasks = [task("whole"), task("cover off"), task("whole")];
/// assert_eq!(plan(&tasks).count, 4);
/// assert_eq!(in_order(&tasks).count, 6);
/// ```
#[must_use]
pub fn plan(tasks: &[Task]) -> Plan {
    let planner = Planner::new(tasks);
    let start = planner.start();
    let at_least = planner.least(&start);
    let mut best: HashMap<State, Cost> = HashMap::new();
    let mut open = BinaryHeap::new();
    // The state before the closings, settled on the bench.
    let first = planner.bench(&start).0;
    let cost = Cost::default();
    best.insert(first.clone(), cost);
    open.push(Reverse((
        planner.bound(&first, cost),
        first,
        Vec::<u8>::new(),
    )));
    while let Some(Reverse((bound, state, path))) = open.pop() {
        let so_far = best[&state];
        if bound > planner.bound(&state, so_far) {
            continue;
        }
        if done(&state) {
            return planner.told(&path, path.len());
        }
        if best.len() > MOST_STATES {
            return planner.told(&planner.greedy(&state, path), at_least);
        }
        for closing in 0..planner.closings.len() {
            let (after, _) = planner.close(&state, closing);
            if after == state {
                continue;
            }
            let cost = so_far.then(&planner, &state, &after);
            if best.get(&after).is_none_or(|known| cost < *known) {
                best.insert(after.clone(), cost);
                let mut path = path.clone();
                path.push(u8::try_from(closing).unwrap_or(u8::MAX));
                open.push(Reverse((planner.bound(&after, cost), after, path)));
            }
        }
    }
    // What comes after itself is never done; a sheet with such a ring is refused when it is read.
    planner.told(&[], at_least)
}

/// The closings that the sheet's own order takes: each check begun only when those before it on
/// the sheet are signed off, or are measured in the same closing.
#[must_use]
pub fn in_order(tasks: &[Task]) -> Plan {
    let planner = Planner::new(tasks);
    let mut state = planner.start();
    let mut path = Vec::new();
    let mut closings = Vec::new();
    loop {
        let bench = planner.walk(&mut state, None);
        let waits = |t: &usize| planner.waits_for_later(&state, *t);
        let Some(next) = (0..tasks.len()).find(|t| state[*t] > 0 && !waits(t)) else {
            if !bench.is_empty() {
                closings.push(Closing {
                    closing: String::new(),
                    bench,
                    visits: Vec::new(),
                });
            }
            break;
        };
        let Some(closing) = planner.of[next] else {
            break; // waits for itself; refused when the sheet is read
        };
        let visits = planner.walk(&mut state, Some(closing));
        if visits.is_empty() {
            break;
        }
        path.push(closing);
        closings.push(Closing {
            closing: planner.closings[closing].to_owned(),
            bench,
            visits,
        });
    }
    Plan {
        count: path.len(),
        at_least: path.len(),
        closings,
    }
}

/// What a plan costs so far: closings, then how late the preloads are set, then how late the checks
/// first on the sheet are begun.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
struct Cost {
    closings: usize,
    preloads: usize,
    order: usize,
}

impl Cost {
    fn then(self, planner: &Planner<'_>, before: &[u8], after: &[u8]) -> Self {
        let closings = self.closings + 1;
        let n = planner.tasks.len();
        let mut next = Self { closings, ..self };
        for (t, task) in planner.tasks.iter().enumerate() {
            if before[t] > 0 && after[t] == 0 && task.preload {
                next.preloads += closings;
            }
            if before[t] > after[t] {
                next.order += closings * (n - t);
            }
        }
        next
    }
}

fn done(state: &[u8]) -> bool {
    state.iter().all(|left| *left == 0)
}

struct Planner<'a> {
    tasks: &'a [Task],
    /// The names of the closings, as they first stand on the sheet.
    closings: Vec<&'a str>,
    /// The closing of each check; none on the bench.
    of: Vec<Option<usize>>,
    /// In which order the checks of one closing are measured: preloads first, then as on the sheet.
    turn: Vec<usize>,
}

impl<'a> Planner<'a> {
    fn new(tasks: &'a [Task]) -> Self {
        let mut closings: Vec<&str> = Vec::new();
        let of = tasks
            .iter()
            .map(|task| {
                if task.closing.is_empty() {
                    return None;
                }
                let name = task.closing.as_str();
                Some(closings.iter().position(|c| *c == name).unwrap_or_else(|| {
                    closings.push(name);
                    closings.len() - 1
                }))
            })
            .collect();
        let mut turn: Vec<usize> = (0..tasks.len()).collect();
        turn.sort_by_key(|t| (!tasks[*t].preload, *t));
        Self {
            tasks,
            closings,
            of,
            turn,
        }
    }

    fn start(&self) -> State {
        let left = |t: &Task| match t.left {
            Left::Nothing => 0,
            Left::Once => 1,
            Left::Twice => 2,
        };
        self.tasks.iter().map(left).collect()
    }

    fn free(&self, state: &[u8], t: usize) -> bool {
        self.tasks[t].after.iter().all(|a| state[*a] == 0)
    }

    /// Whether it comes after one that stands later on the sheet: then that one's turn is first.
    fn waits_for_later(&self, state: &[u8], t: usize) -> bool {
        let mut after = self.tasks[t].after.iter();
        after.any(|a| *a > t && state[*a] > 0)
    }

    /// All that can be measured on the bench, until nothing more can: there, fitting costs nothing.
    fn bench(&self, state: &[u8]) -> (State, Vec<Visit>) {
        let mut state = state.to_vec();
        let mut visits = Vec::new();
        loop {
            let next = self
                .turn
                .iter()
                .copied()
                .find(|t| state[*t] > 0 && self.of[*t].is_none() && self.free(&state, *t));
            let Some(t) = next else {
                return (state, visits);
            };
            state[t] -= 1;
            visits.push(Visit {
                check: t,
                last: state[t] == 0,
            });
        }
    }

    /// All that can be measured in one closing: each check once, since fitting opens the case. Then
    /// all that can be measured on the bench.
    fn close(&self, state: &[u8], closing: usize) -> (State, Vec<Visit>) {
        let mut after = state.to_vec();
        let mut visits: Vec<Visit> = Vec::new();
        loop {
            let next = self.turn.iter().copied().find(|t| {
                after[*t] > 0
                    && self.of[*t] == Some(closing)
                    && self.free(&after, *t)
                    && visits.iter().all(|v| v.check != *t)
            });
            let Some(t) = next else { break };
            after[t] -= 1;
            visits.push(Visit {
                check: t,
                last: after[t] == 0,
            });
        }
        if visits.is_empty() {
            return (state.to_vec(), visits);
        }
        (self.bench(&after).0, visits)
    }

    /// Goes through the checks in the sheet's order as far as one closing, or the bench, allows.
    fn walk(&self, state: &mut State, closing: Option<usize>) -> Vec<Visit> {
        let mut visits: Vec<Visit> = Vec::new();
        loop {
            let mut here = (0..self.tasks.len())
                .filter(|t| state[*t] > 0 && !self.waits_for_later(state, *t))
                .take_while(|t| {
                    self.of[*t] == closing
                        && (self.free(state, *t) || visits.iter().any(|v| v.check == *t))
                });
            // In one closing each check is measured once, since fitting opens the case.
            let next = here.find(|t| closing.is_none() || visits.iter().all(|v| v.check != *t));
            let Some(t) = next else { break };
            state[t] -= 1;
            visits.push(Visit {
                check: t,
                last: state[t] == 0,
            });
        }
        visits
    }

    /// No plan from here takes fewer closings: each closing is needed as often as the longest chain
    /// of its own checks takes.
    fn least(&self, state: &[u8]) -> usize {
        let mut ends = vec![0_usize; self.tasks.len()];
        let mut begun = vec![0_usize; self.closings.len()];
        for _ in 0..self.tasks.len() {
            let mut changed = false;
            for t in 0..self.tasks.len() {
                let Some(closing) = self.of[t].filter(|_| state[t] > 0) else {
                    continue;
                };
                let same = |a: &&usize| state[**a] > 0 && self.of[**a] == Some(closing);
                // Measured no earlier than in the closing in which those before it are signed off.
                let first = self.tasks[t]
                    .after
                    .iter()
                    .filter(same)
                    .map(|a| ends[*a])
                    .max()
                    .unwrap_or(1)
                    .max(1);
                let end = first + usize::from(state[t]) - 1;
                if end > ends[t] {
                    ends[t] = end;
                    changed = true;
                }
                begun[closing] = begun[closing].max(ends[t]);
            }
            if !changed {
                break;
            }
        }
        begun.iter().sum()
    }

    fn bound(&self, state: &[u8], cost: Cost) -> Cost {
        let mut bound = Cost {
            closings: cost.closings + self.least(state),
            ..cost
        };
        for (t, task) in self.tasks.iter().enumerate() {
            let left = usize::from(state[t]);
            if left == 0 || self.of[t].is_none() {
                continue;
            }
            if task.preload {
                bound.preloads += cost.closings + left;
            }
            bound.order += (1..=left)
                .map(|l| (cost.closings + l) * (self.tasks.len() - t))
                .sum::<usize>();
        }
        bound
    }

    /// The rest of a plan, each time the closing that leaves the least to do.
    fn greedy(&self, state: &[u8], mut path: Vec<u8>) -> Vec<u8> {
        let mut state = state.to_vec();
        while !done(&state) {
            let next = (0..self.closings.len())
                .map(|c| (c, self.close(&state, c).0))
                .filter(|(_, after)| *after != state)
                .min_by_key(|(_, after)| {
                    let left: usize = after.iter().map(|l| usize::from(*l)).sum();
                    (self.least(after), left)
                });
            let Some((closing, after)) = next else { break };
            path.push(u8::try_from(closing).unwrap_or(u8::MAX));
            state = after;
        }
        path
    }

    fn told(&self, path: &[u8], at_least: usize) -> Plan {
        let mut state = self.start();
        let mut closings = Vec::new();
        for closing in path.iter().map(|c| usize::from(*c)) {
            let (settled, bench) = self.bench(&state);
            let (after, visits) = self.close(&settled, closing);
            // What the bench allows afterwards is told before the next closing.
            state = settled;
            for visit in &visits {
                state[visit.check] -= 1;
            }
            debug_assert!(self.bench(&state).0 == after);
            closings.push(Closing {
                closing: self.closings[closing].to_owned(),
                bench,
                visits,
            });
        }
        let (_, bench) = self.bench(&state);
        if !bench.is_empty() {
            closings.push(Closing {
                closing: String::new(),
                bench,
                visits: Vec::new(),
            });
        }
        Plan {
            closings,
            count: path.len(),
            at_least,
        }
    }
}
