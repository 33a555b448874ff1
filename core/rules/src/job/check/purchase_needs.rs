//! What to buy for the open checks of a box, or of the whole bench.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::allocate::Allocation;
use anvil_arithmetic::choose::purchase::{self, Purchase, PurchaseLine, PurchaseRequest, Span};
use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::Grade;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use serde::Serialize;

use super::coupling::OpenChecks;
use super::loaded::{LeftOut, LoadedCheck};
use super::record::StockLine;
use super::workflow::Phase;
use crate::shop::drawers::AwaitedSize;
use crate::texts::in_sentence;

/// What to order.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct PurchaseView {
    /// What each check needs.
    pub needs: Vec<PurchaseNeed>,
    /// All of it as one order.
    pub lines: Vec<PurchaseLine>,
    /// The checks of which nothing can be said.
    pub left_out: Vec<LeftOut>,
    /// So many checks of later jobs were not looked at: there are too many for one go.
    pub beyond: usize,
    /// How many open checks have their pieces on hand.
    pub served: usize,
    /// Sharing out what is on hand was not proven the best in the time there was: so many more checks could have theirs
    /// on hand at the most, or as many of them nearer their targets.
    pub more_served: Option<usize>,
}

/// What a check needs.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct PurchaseNeed {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    pub check_key: String,
    /// What people call it.
    pub name: String,
    /// The drawer.
    pub family_name: String,
    /// The thickness that would hit the target, at least and at most, in nanometres.
    pub wanted: Span,
    /// How many boxes before it say so; none where it is measured.
    pub boxes: Option<i64>,
    /// What will surely do; what nothing covers is of the thickness that would hit the target.
    pub order: Purchase,
}

type Lines = BTreeMap<(String, Length), PurchaseLine>;

/// What to buy for the open checks: for those that the drawers do not serve in `together`, where `unmeasured` for those
/// not measured yet too by what boxes before them wanted, and what is `awaited` by `job_no`, or by anybody.
///
/// # Errors
/// Where a record contradicts itself.
pub fn needs(
    open: &OpenChecks,
    together: &Allocation,
    unmeasured: bool,
    (awaited, job_no): (&[AwaitedSize], Option<i32>),
) -> Ruled<PurchaseView> {
    let mut view = PurchaseView {
        needs: Vec::new(),
        lines: Vec::new(),
        left_out: open.left_out.clone(),
        beyond: open.beyond,
        served: 0,
        more_served: (!together.proven)
            .then(|| together.bound.inside.saturating_sub(together.tally.inside)),
    };
    let mut served = vec![false; open.checks.len()];
    let mut unserved = vec![false; open.checks.len()];
    let mut used: BTreeMap<(String, Length, Grade), u32> = BTreeMap::new();
    for (members, taken) in open.members.iter().zip(&together.groups) {
        for (p, number) in members.places.iter().enumerate() {
            match taken {
                Some(taken) => {
                    served[*number] = true;
                    for piece in &taken.stacks[p] {
                        let family = open.checks[*number].family().unwrap_or_default();
                        *used
                            .entry((family.to_owned(), piece.thickness_nm, piece.grade))
                            .or_default() += piece.count;
                    }
                }
                None => unserved[*number] = true,
            }
        }
    }
    view.served = served.iter().filter(|s| **s).count();
    let mut lines = Lines::new();
    // Each check before another may take any piece that could be right for it: what is left is
    // surely there.
    let mut taken_of: BTreeMap<String, Taken> = BTreeMap::new();
    for (number, known) in open.checks.iter().enumerate() {
        let family = known.family().unwrap_or_default();
        let taken = taken_of.entry(family.to_owned()).or_default();
        let Some(request) = known.purchase_request(&used, taken) else {
            continue;
        };
        let (range, boxes) = if unserved[number] {
            (known.range(), None)
        } else if unmeasured && known.is_fresh() {
            let before = known.record.measured_before;
            let range = before.of(request.effect).map(|past| Span {
                from_nm: past.from_nm,
                to_nm: past.to_nm,
            });
            (range, Some(before.boxes))
        } else {
            continue;
        };
        let same = |o: &LeftOut| {
            (o.job_no, &o.check_key) == (known.record.job_no, &known.record.check_key)
        };
        let Some(range) = range else {
            if let Some(out) = view.left_out.iter_mut().find(|o| same(o)) {
                out.why = format!(
                    "not measured yet, and the shop has set too few like it ({}) to say",
                    boxes.unwrap_or(0)
                );
            }
            continue;
        };
        view.left_out.retain(|o| !same(o));
        let need = known.need(&request, range, boxes)?;
        for size in &need.order.sizes {
            let line = lines
                .entry((family.to_owned(), *size))
                .or_insert_with(|| known.purchase_line(*size, &need.family_name));
            line.count += 1;
            line.wanted_for
                .push(format!("job {}, {}", need.job_no, in_sentence(&need.name)));
        }
        let may_take = Taker {
            range,
            effect: request.effect,
            window: request.window,
            most_pieces: request.most_pieces,
        };
        let sizes: BTreeSet<Length> = request.on_hand.iter().map(|s| s.0).collect();
        for size in sizes {
            *taken.entry(size).or_default() += may_take.most(size);
        }
        view.needs.push(need);
    }
    view.awaited(awaited, job_no, &mut lines);
    view.lines = lines.into_values().collect();
    Ok(view)
}

impl PurchaseView {
    /// Adds what checks have chosen and wait for, as far as it is not on order yet.
    fn awaited(&mut self, awaited: &[AwaitedSize], job_no: Option<i32>, lines: &mut Lines) {
        for size in awaited {
            for held in size.held_by.iter().filter(|h| h.awaited > 0) {
                if job_no.is_some_and(|j| j != held.job_no) {
                    continue;
                }
                self.left_out
                    .retain(|o| (o.job_no, &o.check_key) != (held.job_no, &held.check_key));
                let Ok(missing @ 1..) = u32::try_from(held.to_order) else {
                    continue;
                };
                let thickness = Length::from_nm(size.thickness_nm);
                let line = lines
                    .entry((size.family_key.clone(), thickness))
                    .or_insert_with(|| PurchaseLine {
                        family_key: size.family_key.clone(),
                        family_name: size.family_name.clone(),
                        thickness_nm: thickness,
                        count: 0,
                        number: String::new(),
                        wanted_for: Vec::new(),
                    });
                line.count += missing;
                let check = in_sentence(&held.check_name);
                line.wanted_for
                    .push(format!("job {}, {check}", held.job_no));
            }
        }
    }
}

/// What an order needs to know of a check, apart from the range.
struct Asked {
    effect: Effect,
    window: Window,
    aim_nm: f64,
    tolerance: Length,
    most_pieces: u32,
    on_hand: Vec<(Length, u32)>,
    made: Vec<Length>,
}

/// How many of each size those before may take out of a drawer.
type Taken = BTreeMap<Length, u32>;

/// A check that will take something out of a drawer.
struct Taker {
    range: Span,
    effect: Effect,
    window: Window,
    most_pieces: u32,
}

impl Taker {
    /// How many of a size it may take.
    fn most(&self, size: Length) -> u32 {
        let right =
            self.most_pieces > 1 || purchase::may_take(self.range, self.effect, self.window, size);
        if right { self.most_pieces } else { 0 }
    }
}

impl LoadedCheck {
    /// Not measured yet, and pieces set it.
    fn is_fresh(&self) -> bool {
        self.record.head.phase == Phase::Measure
            && self.assessment.estimate.is_none()
            && self.check.set_by.is_some()
            && self.length().is_some()
    }

    /// What to ask, where those `before` it may each take what they need of the same drawer.
    fn purchase_request(
        &self,
        used: &BTreeMap<(String, Length, Grade), u32>,
        before: &Taken,
    ) -> Option<Asked> {
        let set_by = self.check.set_by.as_ref()?;
        let (window, aim) = self.length()?;
        let size = |line: &StockLine| Length::from_nm(line.thickness_nm);
        let left = |line: &StockLine| {
            let free = u32::try_from(line.on_hand - line.reserved + line.coming).unwrap_or(0);
            let key = (set_by.family.clone(), size(line), line.grade);
            free.saturating_sub(used.get(&key).copied().unwrap_or(0))
                .saturating_sub(before.get(&size(line)).copied().unwrap_or(0))
        };
        let stock = &self.record.stock;
        let made = |l: &&StockLine| l.grade == Grade::Marked && !l.discontinued;
        Some(Asked {
            effect: set_by.effect(),
            window,
            aim_nm: aim.middle_nm(),
            tolerance: Length::from_nm(self.record.tolerance_nm),
            most_pieces: set_by.most_pieces,
            on_hand: stock.iter().map(|l| (size(l), left(l))).collect(),
            made: stock.iter().filter(made).map(size).collect(),
        })
    }

    /// The range of the thickness that would leave no clearance, as measured.
    fn range(&self) -> Option<Span> {
        let estimate = self.assessment.estimate.as_ref()?;
        let expanded = self.assessment.verdict.as_ref()?.expanded_nm;
        let set_by = self.check.set_by.as_ref()?;
        Some(purchase::range_of(
            estimate.clearance_nm,
            expanded,
            self.fitted()?,
            set_by.effect(),
        ))
    }

    fn need(&self, asked: &Asked, range: Span, boxes: Option<i64>) -> Ruled<PurchaseNeed> {
        let mut found = purchase::purchase(&PurchaseRequest {
            from_nm: range.from_nm,
            to_nm: range.to_nm,
            effect: asked.effect,
            window: asked.window,
            tolerance: asked.tolerance,
            most_pieces: asked.most_pieces,
            on_hand: &asked.on_hand,
            made: &asked.made,
        })
        .map_err(Refusal::fault)?;
        let to_target = asked.effect.k() * asked.aim_nm;
        for part in &mut found.uncovered {
            part.from_nm -= to_target;
            part.to_nm -= to_target;
        }
        let family = self.family().unwrap_or_default();
        let family_name = self.sheet.family(family).map_or(family, |f| &f.name);
        Ok(PurchaseNeed {
            job_no: self.record.job_no,
            title: self.record.head.title.clone(),
            check_key: self.record.check_key.clone(),
            name: self.check.name.clone(),
            family_name: family_name.to_owned(),
            wanted: Span {
                from_nm: range.from_nm - to_target,
                to_nm: range.to_nm - to_target,
            },
            boxes,
            order: found,
        })
    }

    fn purchase_line(&self, size: Length, family_name: &str) -> PurchaseLine {
        let family = self.family().unwrap_or_default();
        let of_sheet = self.sheet.family(family).and_then(|f| {
            let mut sizes = f.sizes.iter();
            sizes.find(|s| s.thickness.length() == size)
        });
        PurchaseLine {
            family_key: family.to_owned(),
            family_name: family_name.to_owned(),
            thickness_nm: size,
            count: 0,
            number: of_sheet.map(|s| s.number.clone()).unwrap_or_default(),
            wanted_for: Vec::new(),
        }
    }
}
