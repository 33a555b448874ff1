//! The open checks of a box or of the whole bench as groups that share pieces: for choosing for all of them at once.

use std::collections::BTreeMap;

use anvil_arithmetic::allocate::{
    self, Allocation, Assignment, Group, Moved, Objective, Outcome, Place, Progress, Reason,
};
use anvil_arithmetic::choose::{Pieces, SizeCount};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Availability, Stock};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{Ends, TargetRange};
use chrono::DateTime;
use petgraph::unionfind::UnionFind;
use serde::{Deserialize, Serialize};

use super::loaded::{LeftOut, LoadedCheck};
use super::record::{Setting, SettingPiece, SettingState};
use super::rules::stock_taken;
use crate::sheet::CheckKind;

/// The most checks that are chosen for in one go: with more, the answer would take longer than somebody waits.
pub const MOST_AT_ONCE: usize = 1_000;

/// How many of the first checks are taken at once, by the number of each one's job: up to [`MOST_AT_ONCE`], of whole jobs;
/// all of the first job's, however many they are.
///
/// ```
/// use anvil_rules::job::check::coupling::{MOST_AT_ONCE, taken_at_once};
/// assert_eq!(taken_at_once(&[7, 7, 9]), 3);
/// let many: Vec<i32> = (0..2_000).map(|n| n / 3).collect();
/// assert_eq!(taken_at_once(&many), 999);
/// assert_eq!(taken_at_once(&[7; 1_200]), 1_200);
/// # assert_eq!(MOST_AT_ONCE, 1_000);
/// ```
#[must_use]
pub fn taken_at_once(job_nos: &[i32]) -> usize {
    let Some(beyond) = job_nos.get(MOST_AT_ONCE) else {
        return job_nos.len();
    };
    let first = |job: &i32| job_nos.iter().position(|no| no == job);
    match first(beyond) {
        // One job alone has as many.
        Some(0) | None => job_nos.iter().filter(|no| *no == beyond).count(),
        Some(at) => at,
    }
}

/// The open checks that can be chosen for together, and those that cannot.
pub struct OpenChecks {
    /// The checks, in the order of the bench and the sheet.
    pub checks: Vec<LoadedCheck>,
    /// For each group its checks, by number.
    pub members: Vec<Members>,
    /// The same for the core.
    pub groups: Vec<Group>,
    /// The keys of the drawers.
    pub families: Vec<String>,
    /// What is in them and not set aside for anything else.
    pub drawers: Vec<Vec<Stock>>,
    /// The checks that cannot be chosen for now, and why.
    pub left_out: Vec<LeftOut>,
    /// So many more are not looked at: see [`MOST_AT_ONCE`].
    pub beyond: usize,
}

/// The checks of a group.
pub struct Members {
    /// All of them, by number, as the core has them.
    pub checks: Vec<usize>,
    /// For each place of the group the check that its pieces set, by number.
    pub places: Vec<usize>,
}

/// Pieces that a person has settled on for a check.
#[derive(Clone, Debug, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pin {
    pub job_no: i32,
    pub check_key: String,
    pub pieces: Vec<SizeCount>,
}

/// The drawers shared out.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct AllocationView {
    /// How good it is.
    pub tally: Objective,
    /// No sharing-out is better than this.
    pub bound: Objective,
    /// It is proven that none is better.
    pub proven: bool,
    /// How many branches were looked at.
    pub looked_at: u64,
    /// How good choosing one by one would be.
    pub one_by_one: Objective,
    /// How many checks were chosen for.
    pub asked: usize,
    /// The chance in window the shop asks for.
    pub floor: f64,
    /// The checks.
    pub lines: Vec<AllocationLine>,
    /// The checks that cannot be chosen for now.
    pub left_out: Vec<LeftOut>,
    /// So many checks of later jobs were not looked at: there are too many for one go.
    pub beyond: usize,
}

/// One check of a sharing-out.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct AllocationLine {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// The version of the check.
    pub version: i32,
    /// The clearance now, in nanometres.
    pub clearance_nm: f64,
    pub window: Ends,
    /// Where in it to aim.
    pub aim: TargetRange,
    /// The drawer its own pieces come from; none where only the pieces of others move it.
    pub family_name: Option<String>,
    /// The checks that the same pieces move.
    pub coupled_with: Vec<String>,
    /// What is set aside for it now.
    pub set_aside: Option<Vec<Pieces>>,
    /// A person has settled on its pieces.
    pub pinned: bool,
    /// What it gets, sharing.
    pub together: Option<LineChoice>,
    /// What it would get, choosing one by one in this order.
    pub alone: Option<LineChoice>,
    /// It gets something else because of these.
    pub why: Option<Why>,
}

/// The pieces for a check, and what they would give.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct LineChoice {
    /// Its own pieces, thickest first.
    pub pieces: Vec<Pieces>,
    /// What it would come to.
    pub outcome: Outcome,
    /// The half-width of its 95 % interval in nanometres.
    pub expanded_nm: f64,
}

/// Why a check gets something else together than one by one: lines by number.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct Why {
    /// It leaves its piece for these.
    pub leaves_for: Vec<usize>,
    /// These leave it theirs.
    pub gets_from: Vec<usize>,
}

impl OpenChecks {
    /// Groups what is known of checks, and works out what the drawers have for them.
    ///
    /// # Errors
    /// Where a record contradicts itself.
    pub fn of(checks: Vec<LoadedCheck>, pins: &[Pin]) -> Ruled<Self> {
        let mut open = Self {
            members: Vec::new(),
            groups: Vec::new(),
            families: Vec::new(),
            drawers: Vec::new(),
            left_out: Vec::new(),
            beyond: 0,
            checks: Vec::new(),
        };
        for numbers in coupled(&checks) {
            if !numbers.iter().any(|n| checks[*n].choosing()) {
                // In the window as they are.
                continue;
            }
            let why: Vec<Option<String>> = numbers.iter().map(|n| checks[*n].not_now()).collect();
            if why.iter().all(Option::is_none) {
                let own = |n: &usize| checks[*n].check.set_by.is_some();
                open.members.push(Members {
                    places: numbers.iter().copied().filter(own).collect(),
                    checks: numbers,
                });
                continue;
            }
            let name_of = |at: usize| checks[numbers[at]].check.name.clone();
            for (at, n) in numbers.iter().enumerate() {
                if checks[*n].family().is_none() {
                    continue;
                }
                let because = why[at].clone().unwrap_or_else(|| {
                    let other = why
                        .iter()
                        .position(Option::is_some)
                        .map_or_else(String::new, name_of);
                    format!("its pieces also move {other}, which is not ready")
                });
                open.left_out.push(checks[*n].left_out(because));
            }
        }
        open.members.retain(|m| !m.places.is_empty());
        let places = open.members.iter().flat_map(|m| &m.places);
        let setting: Vec<&LoadedCheck> = places.map(|n| &checks[*n]).collect();
        (open.families, open.drawers) = stock_for(&setting);
        for members in &open.members {
            open.groups
                .push(group(&checks, members, &open.families, pins)?);
        }
        open.checks = checks;
        Ok(open)
    }

    /// Shares out; a long job, for a thread of its own.
    ///
    /// # Errors
    /// As of [`allocate`](anvil_arithmetic::allocate::allocate).
    pub fn share(&self, go_on: impl FnMut(&Progress) -> bool) -> Ruled<Allocation> {
        allocate::allocate(&self.groups, &self.drawers, go_on).map_err(Refusal::fault)
    }

    /// What choosing one by one comes to, to hold that against.
    ///
    /// # Errors
    /// As of [`allocate`](anvil_arithmetic::allocate::allocate).
    pub fn one_by_one(&self) -> Ruled<Allocation> {
        allocate::one_by_one(&self.groups, &self.drawers).map_err(Refusal::fault)
    }

    /// The settings that the pins are, by the number of their check.
    ///
    /// # Errors
    /// Where a pin names pieces that the drawers do not have.
    pub fn settings(&self, who: &str) -> Ruled<Vec<(usize, Setting)>> {
        let mut settings = Vec::new();
        let taken = self.share(|_| true)?;
        for ((members, group), taken) in self.members.iter().zip(&self.groups).zip(taken.groups) {
            let Some(taken) = taken else {
                return Err(stock_taken());
            };
            for (p, number) in members.places.iter().enumerate() {
                let record = &self.checks[*number].record;
                let at = members.checks.iter().position(|c| c == number);
                let Some((outcome, moved)) =
                    at.and_then(|at| Some((taken.outcomes.get(at)?, group.checks.get(at)?)))
                else {
                    continue;
                };
                let pieces: Vec<SettingPiece> = taken.stacks[p]
                    .iter()
                    .map(|piece| {
                        let count = i32::try_from(piece.count).unwrap_or(i32::MAX);
                        SettingPiece {
                            thickness_nm: piece.thickness_nm.nm(),
                            grade: piece.grade,
                            count,
                            reserved: count,
                        }
                    })
                    .collect();
                let usual_nm = record.bias().map_or(0.0, |u| u.mean_nm);
                let total = |p: &SettingPiece| p.thickness_nm * i64::from(p.count);
                settings.push((
                    *number,
                    Setting {
                        setting_no: record.settings.last().map_or(1, |s| s.setting_no + 1),
                        round: record.head.round,
                        family_key: self.families[group.places[p].drawer].clone(),
                        total_nm: pieces.iter().map(total).sum(),
                        fitted_before_nm: group.places[p].fitted.nm(),
                        measured_nm: moved.clearance_nm - usual_nm,
                        usual_nm,
                        predicted_nm: outcome.predicted_nm,
                        u_nm: outcome.u_nm,
                        dof: outcome.dof,
                        chance: outcome.chance,
                        chosen_by: who.to_owned(),
                        chosen_at: DateTime::UNIX_EPOCH, // the database has the clock
                        state: SettingState::Chosen,
                        ended_by: None,
                        ended_at: None,
                        undone_by: None,
                        undone_at: None,
                        pieces,
                    },
                ));
            }
        }
        Ok(settings)
    }

    /// What was shared out, as the screen shows it.
    pub fn view(&self, together: &Allocation, alone: &Allocation) -> AllocationView {
        let reasons =
            allocate::reasons(&self.groups, &self.drawers, &alone.groups, &together.groups);
        let first_line: Vec<usize> = self
            .members
            .iter()
            .scan(0, |at, m| {
                let first = *at;
                *at += m.checks.len();
                Some(first)
            })
            .collect();
        let mut lines = Vec::new();
        for (g, members) in self.members.iter().enumerate() {
            for (at, n) in members.checks.iter().enumerate() {
                let known = &self.checks[*n];
                let spec = &known.check;
                let Some((window, aim)) = known.length() else {
                    continue;
                };
                let choice = |taken: &Option<Assignment>| line_choice(taken.as_ref()?, members, at);
                let others = members.checks.iter().filter(|o| *o != n);
                let why = |reason: &Reason| Why {
                    leaves_for: reason.leaves_for.iter().map(|o| first_line[*o]).collect(),
                    gets_from: reason.gets_from.iter().map(|o| first_line[*o]).collect(),
                };
                lines.push(AllocationLine {
                    job_no: known.record.job_no,
                    title: known.record.head.title.clone(),
                    check_key: known.record.check_key.clone(),
                    name: spec.name.clone(),
                    version: known.record.head.version,
                    clearance_nm: self.groups[g].checks[at].clearance_nm,
                    window: window.into(),
                    aim,
                    family_name: known
                        .family()
                        .and_then(|f| known.sheet.family(f))
                        .map(|f| f.name.clone()),
                    coupled_with: others.map(|o| self.checks[*o].check.name.clone()).collect(),
                    set_aside: known.record.open_setting().map(|s| {
                        let pieces = s.pieces.iter().map(|p| Pieces {
                            thickness_nm: Length::from_nm(p.thickness_nm),
                            grade: p.grade,
                            count: u32::try_from(p.count).unwrap_or(0),
                            source: Availability::OnHand,
                        });
                        pieces.collect()
                    }),
                    pinned: self.groups[g].pinned.is_some(),
                    together: choice(&together.groups[g]),
                    alone: choice(&alone.groups[g]),
                    why: reasons[g].as_ref().map(why),
                });
            }
        }
        AllocationView {
            tally: together.tally,
            bound: together.bound,
            proven: together.proven,
            looked_at: together.looked_at,
            one_by_one: alone.tally,
            asked: lines.len(),
            floor: self
                .checks
                .first()
                .map_or(0.95, |c| c.record.required_probability),
            lines,
            left_out: self.left_out.clone(),
            beyond: self.beyond,
        }
    }
}

/// What the drawers have for these checks, by the key of their family: what is free, and what is set aside for them now.
#[must_use]
pub fn stock_for(checks: &[&LoadedCheck]) -> (Vec<String>, Vec<Vec<Stock>>) {
    let (mut families, mut drawers): (Vec<String>, Vec<Vec<Stock>>) = (Vec::new(), Vec::new());
    for check in checks {
        let record = &check.record;
        let Some(family) = check.family() else {
            continue;
        };
        if families.iter().any(|f| f == family) {
            continue;
        }
        let lines = record.stock.iter().map(|line| {
            let own: i32 = checks
                .iter()
                .filter(|o| o.family() == Some(family))
                .filter_map(|o| o.record.open_setting())
                .filter(|s| s.family_key == family)
                .flat_map(|s| &s.pieces)
                .filter(|p| (p.thickness_nm, p.grade) == (line.thickness_nm, line.grade))
                .map(|p| p.reserved)
                .sum();
            let quantity = u32::try_from(line.on_hand - line.reserved + own).unwrap_or(0);
            record.line(line, quantity, Availability::OnHand)
        });
        drawers.push(lines.filter(|s| s.quantity > 0).collect());
        families.push(family.to_owned());
    }
    (families, drawers)
}

fn line_choice(taken: &Assignment, members: &Members, at: usize) -> Option<LineChoice> {
    let place = members.places.iter().position(|n| *n == members.checks[at]);
    let outcome = taken.outcomes.get(at)?.clone();
    Some(LineChoice {
        pieces: place.map_or_else(Vec::new, |p| taken.stacks[p].clone()),
        expanded_nm: outcome.expanded_nm,
        outcome,
    })
}

/// A group for the core.
fn group(
    checks: &[LoadedCheck],
    members: &Members,
    families: &[String],
    pins: &[Pin],
) -> Ruled<Group> {
    let mut group = Group {
        places: Vec::new(),
        checks: Vec::new(),
        pinned: None,
    };
    let mut pinned = Vec::new();
    for n in &members.places {
        let known = &checks[*n];
        let fitted = known
            .fitted()
            .ok_or_else(|| Refusal::fault("not known what is fitted"))?;
        let set_by = known.check.set_by.as_ref();
        let set_by = set_by.ok_or_else(|| Refusal::fault("no pieces set it"))?;
        let family = families.iter().position(|f| *f == set_by.family);
        group.places.push(Place {
            drawer: family.ok_or_else(|| Refusal::fault("no drawer"))?,
            fitted,
            u_fitted_nm: known.record.u_fitted(&set_by.family, fitted.nm()),
            least_pieces: set_by.least_pieces,
            most_pieces: set_by.most_pieces,
        });
        let pin = pins
            .iter()
            .find(|p| p.job_no == known.record.job_no && p.check_key == known.record.check_key);
        if let Some(pin) = pin {
            pinned.push(pin.pieces.clone());
        }
    }
    if !pinned.is_empty() {
        if pinned.len() < members.places.len() {
            return Err(Refusal::field(
                "pinned",
                "The same pieces move several checks: pin the pieces of all of them, or of none.",
            ));
        }
        group.pinned = Some(pinned);
    }
    for n in &members.checks {
        let known = &checks[*n];
        let (window, aim) = known.length().ok_or_else(|| Refusal::fault("no window"))?;
        let estimate = known
            .assessment
            .estimate
            .as_ref()
            .ok_or_else(|| Refusal::fault("no estimate"))?;
        let (clearance_nm, u_nm, dof) = known.record.expected_of(estimate);
        group.checks.push(Moved {
            clearance_nm,
            u_nm,
            dof,
            shape: known.record.shape_of(estimate),
            window,
            aim,
            required_probability: known.record.required_probability,
            effects: members
                .places
                .iter()
                .map(|p| known.effect_of(&checks[*p]))
                .collect(),
            u_effects: known.per_move().map_or(0.0, |(m, u)| u / m),
            yields: known.check.kind == CheckKind::Backlash,
        });
    }
    Ok(group)
}

/// The checks of one job that pieces move together, each group by number.
fn coupled(checks: &[LoadedCheck]) -> Vec<Vec<usize>> {
    let moves = |by: &LoadedCheck, of: &LoadedCheck| {
        let mut moved = by.check.moved_by.iter();
        moved.any(|m| m.check == of.record.check_key)
    };
    let mut union = UnionFind::new(checks.len());
    let mut of_jobs: BTreeMap<i32, Vec<usize>> = BTreeMap::new();
    for (n, check) in checks.iter().enumerate() {
        let before = of_jobs.entry(check.record.job_no).or_default();
        for o in &*before {
            let other = &checks[*o];
            if moves(check, other) || moves(other, check) {
                union.union(n, *o);
            }
        }
        before.push(n);
    }
    let mut groups: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    for n in 0..checks.len() {
        groups.entry(union.find(n)).or_default().push(n);
    }
    let mut groups: Vec<Vec<usize>> = groups.into_values().collect();
    groups.sort_unstable();
    groups
}
