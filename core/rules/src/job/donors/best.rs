//! The best box from several dismantled ones.

use std::collections::BTreeMap;

use anvil_arithmetic::allocate::Place;
use anvil_arithmetic::allocate::donors::{
    AddedWidth, BestBox, BoxProgress, BoxTally, Boxes, Candidate, SummedCheck, best_box, box_of,
    part_by_part,
};
use anvil_arithmetic::choose::Pieces;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::student_t::{probability_between, t95};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Ends;
use serde::{Deserialize, Serialize};

use super::sets::sets;
use super::used::{UsedPart, UsedState};
use super::view::DonorsView;
use crate::job::check::coupling::stock_for;
use crate::job::check::loaded::LoadedCheck;
use crate::sheet::{Check, CheckKind, Sheet, StackTerm};

/// Where a person wants a part from.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PartPin {
    /// The part's key.
    pub part: String,
    /// The number of the job whose box it is to come out of; none for a new one.
    #[serde(default)]
    pub from: Option<i32>,
}

/// Where a part comes from in the best box.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct BoxPick {
    /// The part's key.
    pub part: String,
    /// The number of the job whose box it comes out of, its own among them; none for a new one.
    pub from: Option<i32>,
    /// It is so already, or will be: what is new at every overhaul is put on no record.
    pub is_so: bool,
}

/// How far the search for the best box has come.
#[derive(Clone, Copy, Debug, Serialize, utoipa::ToSchema)]
pub struct DonorProgress {
    /// The best found so far.
    pub tally: BoxTally,
    /// No box is better than this.
    pub bound: BoxTally,
    /// How many branches were looked at.
    pub looked_at: u64,
}

/// The best box from several.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct BestView {
    /// For each part where it comes from.
    pub picks: Vec<BoxPick>,
    /// How good that box is.
    pub tally: BoxTally,
    /// No box is better than this.
    pub bound: BoxTally,
    /// It is proven that none is better.
    pub proven: bool,
    /// How many branches were looked at.
    pub looked_at: u64,
    /// How good the box is in which every part is the best by itself.
    pub part_by_part: BoxTally,
    /// The checks whose clearance is the sum of its parts.
    pub checks: Vec<DonorCheck>,
    /// How many of them reach the chance that the shop asks for.
    pub sure: usize,
    /// The chance that all of them land at once, 0 to 1: each with its own pieces, and with parts of its own.
    pub all_at_once: f64,
    /// Those that are measured once it is together: the parts do not say beforehand.
    pub left_out: Vec<LeftOutOfSum>,
    /// Where another part is better by itself, and what it would cost.
    pub given_up: Vec<GivenUp>,
}

/// A check whose clearance is a sum, in the best box.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct DonorCheck {
    pub check_key: String,
    /// What people call it.
    pub name: String,
    pub kind: CheckKind,
    pub window: Ends,
    /// What the parts leave, before any piece is fitted, in nanometres.
    pub left_nm: Length,
    /// It can be set with what the drawers have, all at once.
    pub is_set: bool,
    /// With these pieces.
    pub pieces: Vec<Pieces>,
    /// What it comes to then, in nanometres.
    pub predicted_nm: f64,
    /// The half-width of the 95 % interval of that.
    pub expanded_nm: f64,
    /// The chance that it lies in the window then, 0 to 1.
    pub chance: f64,
    /// That chance reaches what the shop asks for.
    pub reaches_floor: bool,
}

/// A check that is not summed.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct LeftOutOfSum {
    /// What people call it.
    pub name: String,
    pub why: String,
}

/// A part that is better by itself and not taken.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct GivenUp {
    /// The parts, by name.
    pub parts: Vec<String>,
    /// Where they come from in the best box; none for new ones.
    pub from: Option<i32>,
    /// Where those come from that are better by themselves.
    pub better: Option<i32>,
    /// The checks that could not be set with those.
    pub checks: Vec<String>,
}

/// Parts that come out of one box, or are all new: their rows, and for each candidate where it comes from.
struct PartSet {
    parts: Vec<String>,
    from: Vec<Option<i32>>,
}

/// What the best box is searched for in.
pub struct DonorProblem {
    sets: Vec<PartSet>,
    checks: Vec<LoadedCheck>,
    left_out: Vec<LeftOutOfSum>,
    boxes: Boxes,
    /// The names of the parts.
    names: Vec<(String, String)>,
    /// For each part that is not new at every overhaul where the one that is in comes from; none for a new one.
    stands: BTreeMap<String, Option<i32>>,
}

impl DonorProblem {
    /// The parts of boxes that stand beside each other, and the checks of the job; `without` are boxes that are left out.
    ///
    /// # Errors
    /// Where a pin names a part or a box that is not there, or one that cannot be taken.
    pub fn of(
        sheet: &Sheet,
        view: &DonorsView,
        checks: Vec<LoadedCheck>,
        (pins, without): (&[PartPin], &[i32]),
    ) -> Ruled<Self> {
        let (summed, others): (Vec<_>, Vec<_>) =
            (checks.into_iter()).partition(|c| not_summed(sheet, c).is_none());
        let left_out = others.iter().filter_map(|c| {
            Some(LeftOutOfSum {
                name: c.check.name.clone(),
                why: not_summed(sheet, c)?,
            })
        });
        let left_out = left_out.collect();
        let setting: Vec<&LoadedCheck> = summed.iter().filter(|c| c.family().is_some()).collect();
        let (families, drawers) = stock_for(&setting);
        let own = view.boxes.first().map_or(0, |b| b.job_no);
        let mut problem = Self {
            sets: Vec::new(),
            left_out,
            boxes: Boxes {
                places: Vec::new(),
                checks: (summed.iter())
                    .map(|c| summed_check(view, c, &families))
                    .collect::<Ruled<_>>()?,
                drawers,
            },
            checks: summed,
            names: (view.rows.iter())
                .map(|r| (r.part.clone(), r.name.clone()))
                .collect(),
            stands: (view.rows.iter().filter(|r| !r.always_new))
                .map(|r| (r.part.clone(), r.stands(own)))
                .collect(),
        };
        for pin in pins {
            problem.named(&pin.part)?;
        }
        for set in sets(sheet) {
            problem.add(view, &set, pins, without)?;
        }
        Ok(problem)
    }

    fn named(&self, part: &str) -> Ruled<&str> {
        let mut names = self.names.iter();
        let found = names.find(|n| n.0 == part).map(|n| n.1.as_str());
        found.ok_or_else(|| Refusal::field("pinned", format!("The sheet has no part “{part}”.")))
    }

    /// What could go into the places of a set.
    fn add(
        &mut self,
        view: &DonorsView,
        set: &[String],
        pins: &[PartPin],
        without: &[i32],
    ) -> Ruled<()> {
        let rows: Vec<_> = view.rows.iter().filter(|r| set.contains(&r.part)).collect();
        let always_new = rows.iter().all(|r| r.always_new);
        let own = view.boxes.first().map_or(0, |b| b.job_no);
        let mut all: Vec<(Option<i32>, Candidate)> = Vec::new();
        for (at, of) in view.boxes.iter().enumerate() {
            if always_new || without.contains(&of.job_no) {
                continue;
            }
            let cells: Vec<&UsedPart> = rows.iter().map(|r| &r.cells[at]).collect();
            let is_own = of.job_no == own;
            // What nobody has looked at in the box itself is taken for sound until somebody does.
            let unseen = |c: &UsedPart| is_own && c.state == UsedState::NotLookedAt;
            if !cells.iter().all(|c| c.is_for(own) || unseen(c)) {
                continue;
            }
            let mut candidate = Candidate::default();
            for (row, cell) in rows.iter().zip(cells) {
                candidate.worn += u32::from(cell.state == UsedState::Worn);
                candidate.fetched += u32::from(!is_own);
                candidate.used_up += thousandths(cell.used.unwrap_or(0.0));
                let measured = cell.width_nm.map(|w| (w, cell.u_width_nm));
                self.widths(&row.part, measured, &mut candidate.widths);
            }
            all.push((Some(of.job_no), candidate));
        }
        let mut new = Candidate {
            new: u32::try_from(rows.len()).unwrap_or(u32::MAX),
            ..Candidate::default()
        };
        for row in &rows {
            self.widths(&row.part, None, &mut new.widths);
        }
        all.push((None, new));
        for pin in pins.iter().filter(|p| set.contains(&p.part)) {
            all.retain(|c| c.0 == pin.from);
            if all.is_empty() {
                let name = self.named(&pin.part)?;
                let of = pin
                    .from
                    .map_or_else(String::new, |no| format!(" of job {no}"));
                return Err(Refusal::field(
                    "pinned",
                    format!(
                        "{name}{of} cannot be taken, or what it stays with cannot: choose another, or leave it open."
                    ),
                ));
            }
        }
        let (from, candidates) = all.into_iter().unzip();
        self.sets.push(PartSet {
            parts: set.to_vec(),
            from,
        });
        self.boxes.places.push(candidates);
        Ok(())
    }

    /// What a part adds to the checks, at its own width where that was measured, else at the sheet's.
    fn widths(&self, part: &str, measured: Option<(Length, f64)>, to: &mut Vec<AddedWidth>) {
        for (at, check) in self.checks.iter().enumerate() {
            for term in chosen_terms(&check.check).filter(|t| t.part.as_deref() == Some(part)) {
                let (length, u_nm) = measured.unwrap_or_else(|| (term.length.length(), u_of(term)));
                to.push(AddedWidth {
                    check: at,
                    adds: Length::from_nm(i64::from(term.sign) * length.nm()),
                    u_nm,
                });
            }
        }
    }

    /// Searches for the best box; a long job, for a thread of its own.
    ///
    /// # Errors
    /// As of [`best_box`].
    pub fn best(&self, mut go_on: impl FnMut(&DonorProgress) -> bool) -> Ruled<BestView> {
        let told = |p: &BoxProgress| {
            go_on(&DonorProgress {
                tally: p.tally,
                bound: p.bound,
                looked_at: p.looked_at,
            })
        };
        let best = best_box(&self.boxes, told).map_err(Refusal::fault)?;
        let naive = part_by_part(&self.boxes).map_err(Refusal::fault)?;
        let checks = self.checks_of(&best);
        Ok(BestView {
            sure: checks.iter().filter(|c| c.reaches_floor).count(),
            all_at_once: checks.iter().map(|c| c.chance).product(),
            picks: self.picks(&best.picks),
            tally: best.tally,
            bound: best.bound,
            proven: best.proven,
            looked_at: best.looked_at,
            part_by_part: naive.tally,
            given_up: self.given_up(&best, &naive)?,
            checks,
            left_out: self.left_out.clone(),
        })
    }

    fn picks(&self, picks: &[usize]) -> Vec<BoxPick> {
        let from = |part: &String| {
            let at = self.sets.iter().position(|s| s.parts.contains(part))?;
            self.sets[at].from[picks[at]]
        };
        let parts = self.names.iter().map(|(part, _)| part);
        parts
            .map(|part| {
                let from = from(part);
                let stands = self.stands.get(part);
                BoxPick {
                    part: part.clone(),
                    from,
                    is_so: stands.is_none_or(|stands| *stands == from),
                }
            })
            .collect()
    }

    /// Whether a check is in its window in a box.
    fn is_set(&self, of: &BestBox, check: usize) -> bool {
        self.boxes.is_set(of, check)
    }

    fn checks_of(&self, best: &BestBox) -> Vec<DonorCheck> {
        let checks = self.checks.iter().zip(&self.boxes.checks).enumerate();
        checks
            .map(|(at, (loaded, summed))| {
                let (left_nm, u_nm) = self.boxes.left_by(at, &best.picks);
                let given = best.set[at].as_ref();
                let outcome = given.and_then(|g| g.outcomes.first());
                let predicted_nm = outcome.map_or(left_nm.as_f64(), |o| o.predicted_nm);
                // What nothing sets, or nothing that is there, is as its parts leave it.
                let chance = outcome.map_or_else(
                    || {
                        let (low, high) = (summed.window.low_nm(), summed.window.high_nm());
                        probability_between(predicted_nm, u_nm, None, low, high)
                    },
                    |o| o.chance,
                );
                DonorCheck {
                    check_key: loaded.check.key.clone(),
                    name: loaded.check.name.clone(),
                    kind: loaded.check.kind,
                    window: summed.window.into(),
                    left_nm,
                    is_set: self.is_set(best, at),
                    pieces: given
                        .and_then(|g| g.stacks.first().cloned())
                        .unwrap_or_default(),
                    predicted_nm,
                    expanded_nm: outcome.map_or(t95(None) * u_nm, |o| o.expanded_nm),
                    chance,
                    reaches_floor: chance >= summed.required_probability,
                }
            })
            .collect()
    }

    /// Where the best box does without a part that is better by itself: which checks could not be set with it.
    fn given_up(&self, best: &BestBox, naive: &BestBox) -> Ruled<Vec<GivenUp>> {
        let mut all = Vec::new();
        for (at, set) in self.sets.iter().enumerate() {
            let (own, better) = (best.picks[at], naive.picks[at]);
            let counts = |o: usize| {
                let c = &self.boxes.places[at][o];
                (c.new, c.worn, c.fetched, c.used_up)
            };
            if counts(own) <= counts(better) {
                continue;
            }
            let mut picks = best.picks.clone();
            picks[at] = better;
            let other = box_of(&self.boxes, picks).map_err(Refusal::fault)?;
            let lost = (0..self.checks.len())
                .filter(|c| self.is_set(best, *c) && !self.is_set(&other, *c));
            let names = self.names.iter().filter(|n| set.parts.contains(&n.0));
            all.push(GivenUp {
                parts: names.map(|n| n.1.clone()).collect(),
                from: set.from[own],
                better: set.from[better],
                checks: lost.map(|c| self.checks[c].check.name.clone()).collect(),
            });
        }
        Ok(all)
    }
}

fn thousandths(share: f64) -> u32 {
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // from 0 to 10,000
    let whole = (share * 1_000.0).clamp(0.0, 10_000.0).round() as u32;
    whole
}

/// The terms of a check that are not the pieces that set it.
fn chosen_terms(check: &Check) -> impl Iterator<Item = &StackTerm> {
    let set_by = check.set_by.as_ref().and_then(|s| s.part.as_deref());
    let terms = check.stack.iter();
    terms.filter(move |t| set_by.is_none() || t.part.as_deref() != set_by)
}

/// The standard uncertainty of a term that is known by its limits: `u = a / √3` (JCGM 100:2008, 4.3.7).
fn u_of(term: &StackTerm) -> f64 {
    let limits = term.tolerance.as_ref().map(|a| a.length().as_f64());
    limits.unwrap_or(0.0) / 3.0_f64.sqrt()
}

/// Why the parts do not say beforehand what a check comes to; none where they do.
fn not_summed(sheet: &Sheet, check: &LoadedCheck) -> Option<String> {
    let on_job = check.length();
    if check.check.stack.is_empty() {
        Some("it is not a sum of parts on the sheet".to_owned())
    } else if on_job.is_none() {
        Some("it has no window".to_owned())
    } else if !sheet.coupled_with(&check.check).is_empty() {
        Some("pieces move it together with other checks".to_owned())
    } else {
        None
    }
}

/// A check with what is the same in every box.
fn summed_check(view: &DonorsView, check: &LoadedCheck, families: &[String]) -> Ruled<SummedCheck> {
    let (window, aim) = check.length().ok_or_else(|| Refusal::fault("no window"))?;
    let of_parts = |t: &&StackTerm| {
        let part = t.part.as_ref();
        part.is_some_and(|key| view.rows.iter().any(|r| r.part == *key))
    };
    let rest: Vec<&StackTerm> = chosen_terms(&check.check)
        .filter(|t| !of_parts(t))
        .collect();
    let sum = rest
        .iter()
        .map(|t| i64::from(t.sign) * t.length.length().nm());
    let set_by = check.check.set_by.as_ref().map(|set_by| {
        let drawer = families.iter().position(|f| *f == set_by.family);
        let drawer = drawer.ok_or_else(|| Refusal::fault("no drawer"))?;
        let place = Place {
            drawer,
            fitted: Length::ZERO,
            u_fitted_nm: 0.0,
            least_pieces: set_by.least_pieces,
            most_pieces: set_by.most_pieces,
        };
        Ok::<_, Refusal>((place, set_by.effect))
    });
    Ok(SummedCheck {
        rest: Length::from_nm(sum.sum()),
        u_nm: rest.iter().map(|t| u_of(t).powi(2)).sum::<f64>().sqrt(),
        window,
        aim,
        required_probability: check.record.required_probability,
        set_by: set_by.transpose()?,
    })
}
