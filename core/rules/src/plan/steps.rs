//! The build as a graph: which steps are ready, what comes out to get at one again, and what closing something off puts out
//! of reach.
//!
//! A step *needs* others that come before it, and *covers* steps that nobody can get at once it is done. A *hold* on a step
//! stops everything that rests on that step, until it is signed or passed over.

use petgraph::algo::toposort;
use petgraph::graph::{DiGraph, NodeIndex};
use serde::Serialize;
use thiserror::Error;

/// A step as the plan sees it: by the places of the others in the list.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Step {
    /// The steps that have to be done before it.
    pub needs: Vec<usize>,
    /// The steps that nobody can get at once this one is done.
    pub covers: Vec<usize>,
    /// The holds on it, by their own numbers.
    pub holds: Vec<usize>,
}

/// Why steps are no build.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum StepsError {
    /// A step that is named and not there, by its place and the other's.
    #[error("step {step} names step {other}, and there are {count}")]
    NoSuchStep {
        step: usize,
        other: usize,
        count: usize,
    },
    /// A step that waits for itself, directly or through others.
    #[error("step {step} waits for itself, through what it needs")]
    Cycle { step: usize },
    /// A step that puts out of reach what it needs to rest on, or itself.
    #[error("step {step} covers itself")]
    CoversItself { step: usize },
}

/// Whether a step can be done now.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(tag = "state", rename_all = "snake_case")]
pub enum Readiness {
    Done,
    /// Nothing stands before it.
    Ready,
    /// These have to be done first.
    Waits {
        /// Their places in the list.
        needs: Vec<usize>,
    },
    /// All it needs is done, and these holds on what it rests on are open.
    Held {
        /// Their numbers.
        holds: Vec<usize>,
    },
    /// These are done and cover it: they have to come out again.
    OutOfReach {
        /// Their places in the list.
        by: Vec<usize>,
    },
}

/// The steps of a build.
#[derive(Clone, Debug)]
pub struct Steps {
    steps: Vec<Step>,
    /// An order in which every step comes after all it needs.
    order: Vec<usize>,
}

impl Steps {
    /// Takes the steps of a build.
    ///
    /// # Errors
    /// Where a step names one that is not there, waits for itself, or covers itself.
    pub fn new(steps: Vec<Step>) -> Result<Self, StepsError> {
        let count = steps.len();
        let mut graph = DiGraph::<(), ()>::new();
        let nodes: Vec<NodeIndex> = steps.iter().map(|_| graph.add_node(())).collect();
        for (at, step) in steps.iter().enumerate() {
            let named = step.needs.iter().chain(&step.covers);
            if let Some(&other) = named.into_iter().find(|o| **o >= count) {
                return Err(StepsError::NoSuchStep {
                    step: at,
                    other,
                    count,
                });
            }
            if step.covers.contains(&at) {
                return Err(StepsError::CoversItself { step: at });
            }
            for &need in &step.needs {
                graph.add_edge(nodes[need], nodes[at], ());
            }
        }
        let order = toposort(&graph, None).map_err(|cycle| StepsError::Cycle {
            step: cycle.node_id().index(),
        })?;
        Ok(Self {
            steps,
            order: order.into_iter().map(NodeIndex::index).collect(),
        })
    }

    /// Whether each step can be done now, of which steps are done and which holds are neither signed nor passed over.
    ///
    /// ```
    /// use anvil_rules::plan::steps::{Readiness, Step, Steps};
    /// // A seal behind a cover, and the cover held by the check that is made through its hole.
    /// let seal = Step::default();
    /// let shaft = Step { holds: vec![0], ..Step::default() };
    /// let cover = Step { needs: vec![1], covers: vec![0], ..Step::default() };
    /// let build = Steps::new(vec![seal, shaft, cover]).unwrap();
    /// let held = build.readiness(&[false, true, false], &[true]);
    /// assert_eq!(held[2], Readiness::Held { holds: vec![0] });
    /// let closed = build.readiness(&[false, true, true], &[false]);
    /// assert_eq!(closed[0], Readiness::OutOfReach { by: vec![2] });
    /// ```
    #[must_use]
    pub fn readiness(&self, done: &[bool], open: &[bool]) -> Vec<Readiness> {
        let is_done = |step: usize| done.get(step).copied().unwrap_or(false);
        let is_open = |hold: &usize| open.get(*hold).copied().unwrap_or(false);
        // The open holds that each step rests on, in the order in which what is needed comes first.
        let mut under: Vec<Vec<usize>> = vec![Vec::new(); self.steps.len()];
        for &at in &self.order {
            let mut holds = Vec::new();
            for &need in &self.steps[at].needs {
                holds.extend(self.steps[need].holds.iter().copied().filter(is_open));
                holds.extend(&under[need]);
            }
            holds.sort_unstable();
            holds.dedup();
            under[at] = holds;
        }
        let of = |at: usize| {
            if is_done(at) {
                return Readiness::Done;
            }
            let by = self.done_that(at, &is_done, |s| &s.covers);
            let needs = self.steps[at].needs.iter().copied();
            let needs: Vec<usize> = needs.filter(|n| !is_done(*n)).collect();
            if !by.is_empty() {
                Readiness::OutOfReach { by }
            } else if !needs.is_empty() {
                Readiness::Waits { needs }
            } else if !under[at].is_empty() {
                Readiness::Held {
                    holds: under[at].clone(),
                }
            } else {
                Readiness::Ready
            }
        };
        (0..self.steps.len()).map(of).collect()
    }

    /// The done steps of whose list `at` is a part.
    fn done_that<'s>(
        &'s self,
        at: usize,
        is_done: &impl Fn(usize) -> bool,
        list: impl Fn(&'s Step) -> &'s Vec<usize>,
    ) -> Vec<usize> {
        let steps = self.steps.iter().enumerate();
        steps
            .filter(|(other, step)| is_done(*other) && list(step).contains(&at))
            .map(|(other, _)| other)
            .collect()
    }

    /// What comes out to get at a step again, the last done first: every done step that needs it or covers it, directly or
    /// through others. `done` are the steps that are done, in the order in which they were.
    ///
    /// ```
    /// use anvil_rules::plan::steps::{Step, Steps};
    /// let needs = |needs: Vec<usize>| Step { needs, ..Step::default() };
    /// let cover = Step { needs: vec![1], covers: vec![2], ..Step::default() };
    /// // Shaft, its nut, a switch beside it, the cover over nut and switch.
    /// let build = Steps::new(vec![needs(vec![]), needs(vec![0]), needs(vec![]), cover]).unwrap();
    /// assert_eq!(build.tear_back(&[0, 1, 2, 3], 2), [3]);
    /// assert_eq!(build.tear_back(&[0, 1, 2, 3], 0), [3, 1]);
    /// ```
    #[must_use]
    pub fn tear_back(&self, done: &[usize], step: usize) -> Vec<usize> {
        let mut out = vec![false; self.steps.len()];
        let mut reached = vec![step];
        while let Some(at) = reached.pop() {
            for &other in done {
                let Some(of) = self.steps.get(other) else {
                    continue;
                };
                let stands_on = of.needs.contains(&at) || of.covers.contains(&at);
                if stands_on && other != step && !out[other] {
                    out[other] = true;
                    reached.push(other);
                }
            }
        }
        done.iter().rev().copied().filter(|s| out[*s]).collect()
    }

    /// Whether something that is done needs or covers a step.
    #[must_use]
    pub fn is_rested_on(&self, done: &[usize], step: usize) -> bool {
        let stands_on = |of: &Step| of.needs.contains(&step) || of.covers.contains(&step);
        let mut others = done.iter().filter(|other| **other != step);
        others.any(|other| self.steps.get(*other).is_some_and(stands_on))
    }

    /// What is not done yet and can no longer be once a step is: what it covers, and what needs something of that. In the
    /// order of the list.
    ///
    /// ```
    /// use anvil_rules::plan::steps::{Step, Steps};
    /// let seal = Step::default();
    /// let spring = Step { needs: vec![0], ..Step::default() };
    /// let cover = Step { covers: vec![0], ..Step::default() };
    /// let build = Steps::new(vec![seal, spring, cover]).unwrap();
    /// assert_eq!(build.last_chance(&[false, false, false], 2), [0, 1]);
    /// assert_eq!(build.last_chance(&[true, false, false], 2), [0; 0]);
    /// ```
    #[must_use]
    pub fn last_chance(&self, done: &[bool], step: usize) -> Vec<usize> {
        let is_done = |at: usize| done.get(at).copied().unwrap_or(false);
        let Some(closing) = self.steps.get(step) else {
            return Vec::new();
        };
        let mut lost = vec![false; self.steps.len()];
        for &at in &self.order {
            let covered = closing.covers.contains(&at);
            let through = self.steps[at].needs.iter().any(|n| lost[*n]);
            lost[at] = at != step && !is_done(at) && (covered || through);
        }
        (0..lost.len()).filter(|at| lost[*at]).collect()
    }
}

/// How a selector's positions lie.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Positions {
    /// From a first to a last.
    Line(usize),
    /// The first follows the last again.
    Ring(usize),
}

impl Positions {
    /// The fewest notches from one position to another: forward above zero, back below; none where there is no such
    /// position. Half-way round a ring it goes forward.
    ///
    /// ```
    /// use anvil_rules::plan::steps::Positions;
    /// assert_eq!(Positions::Line(6).notches(5, 1), Some(-4));
    /// assert_eq!(Positions::Ring(6).notches(5, 1), Some(2));
    /// ```
    #[must_use]
    pub fn notches(self, from: usize, to: usize) -> Option<isize> {
        let (Self::Line(count) | Self::Ring(count)) = self;
        if from >= count || to >= count {
            return None;
        }
        let signed = |n: usize| isize::try_from(n).ok();
        let straight = signed(to)? - signed(from)?;
        let Self::Ring(_) = self else {
            return Some(straight);
        };
        let forward = (to + count - from) % count;
        let back = count - forward;
        if forward <= back {
            signed(forward)
        } else {
            signed(back).map(|b| -b)
        }
    }
}
