//! A check as its sheet has it.

use std::collections::BTreeSet;

use anvil_arithmetic::materials::thermal::REFERENCE_C;
use anvil_arithmetic::measure::stack_sum::Term;
use anvil_arithmetic::measure::turning_torque::TorqueEnds;
use anvil_arithmetic::measure::{Adjustment, Method};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::prediction::{Agreement, PredictionError};
use anvil_arithmetic::verdict::window::{Target, TargetRange, Window};

use super::record::Record;
use crate::sheet::{Check, CheckKind, HotAt, Pack, Sheet};

/// A check as the sheet has it, with what the sheet says of it worked out.
pub struct Spec<'a> {
    pub sheet: &'a Sheet,
    pub check: &'a Check,
    /// The window the shop works to and where in it it aims, where the check is of a length.
    pub length: Option<(Window, TargetRange)>,
    /// The window of its turning torque.
    pub torque: Option<TorqueEnds>,
    /// Where pieces are to land, where that is not the same: a chart without a window judges each thickness by its own
    /// rows.
    chart: Option<(Window, TargetRange)>,
    /// How warm it is at the bench, °C.
    bench_c: f64,
    /// What differs between trial and final build is, of these by their names, as in the final build while it is measured.
    as_final: BTreeSet<String>,
}

/// What is ticked where a difference between trial and final build is as in the final build while it is measured.
#[must_use]
pub fn as_final(what: &str) -> String {
    format!("as in the final build: {what}")
}

impl<'a> Spec<'a> {
    /// The check of that key.
    ///
    /// # Errors
    /// Where the sheet has no such check, or its window and target contradict each other.
    pub fn of(sheet: &'a Sheet, key: &str) -> Ruled<Self> {
        let check = sheet.check(key).ok_or_else(|| {
            Refusal::missing(format!("The sheet {} has no check “{key}”.", sheet.key))
        })?;
        let length = check
            .working_window()
            .map(|window| check.aim(window).map(|aim| (window, aim)))
            .transpose()
            .map_err(Refusal::fault)?;
        let torque = check.torque.map(|t| TorqueEnds {
            low_n_m: t.low_n_m,
            high_n_m: t.high_n_m,
        });
        Ok(Self {
            sheet,
            check,
            length,
            torque,
            chart: length.filter(|_| check.by_chart()),
            bench_c: REFERENCE_C,
            as_final: BTreeSet::new(),
        })
    }

    /// The same with the window and target that the job has of its own, where it has.
    #[must_use]
    pub fn on_job(mut self, record: &Record) -> Self {
        if let Some(own) = record.own_target() {
            self.length = Some(own);
            self.chart = None;
        }
        let fitted = record.head.fitted_nm.map(Length::from_nm);
        if let Some(window) = fitted.and_then(|f| self.chart_leaves(f)) {
            self.length = Target::Middle.aim(window).ok().map(|aim| (window, aim));
        }
        self.bench_c = record.head.bench_c.unwrap_or(REFERENCE_C);
        let whats = self.check.adjustments.iter().map(|a| &a.what);
        let is_in = |what: &&String| record.seen_to(&as_final(what)).is_some();
        self.as_final = whats.filter(is_in).cloned().collect();
        self
    }

    /// The book gives a chart and no window, and the job none of its own.
    pub fn by_chart(&self) -> bool {
        self.chart.is_some()
    }

    /// The clearances at which a chart without a window asks for a stack of that thickness; none where it asks for no
    /// such, or there is a window.
    pub fn chart_leaves(&self, total: Length) -> Option<Window> {
        self.chart?;
        self.check.chart_leaves(Some(total))
    }

    /// Where pieces are to land, and where in that to aim.
    pub fn lands_in(&self) -> Option<(Window, TargetRange)> {
        self.chart.or(self.length)
    }

    /// The terms of its stack sum.
    pub fn terms(&self) -> Vec<Term> {
        self.sheet.terms_of(self.check)
    }

    /// What differs between what is measured so and the final build at the temperatures that its window holds at: what the
    /// sheet says, a wave plate that lies against its free height, and what grows from the bench on.
    pub fn adjustments(&self, method: Method) -> Vec<Adjustment> {
        let mut all = self.trial_to_final(method);
        // A sum of the drawing's own figures knows nothing of what is in.
        if method != Method::StackSum {
            all.retain(|a| !self.as_final.contains(&a.what));
        }
        all
    }

    /// The difference between trial and final build that explains how far what was measured is from what its pieces were to
    /// give: added though it is in already, or left out though it is not.
    pub fn explains(&self, off: &PredictionError) -> Option<String> {
        let differs = self.check.final_adjustments().into_iter().find(|a| {
            let counted_twice = if self.as_final.contains(&a.what) {
                -1.0
            } else {
                1.0
            };
            (off.off_nm - counted_twice * a.by.as_f64()).abs() <= off.explained_nm
        });
        differs
            .filter(|_| off.reading != Agreement::Agrees)
            .map(|a| a.what)
    }

    /// Whether a difference between trial and final build is as in the final build while it is measured; none of what
    /// follows from the bench's warmth, or from the sheet.
    pub fn is_as_final(&self, what: &str) -> Option<bool> {
        let of_sheet = self.check.adjustments.iter().any(|a| a.what == what);
        of_sheet.then(|| self.as_final.contains(what))
    }

    /// The same as though nothing were as in the final build yet.
    pub fn trial_to_final(&self, method: Method) -> Vec<Adjustment> {
        let mut all = self.check.final_adjustments();
        if self.by_chart() {
            // Its depths are of the trial build: how far the rest may be off moves none of them to another row.
            for adjustment in &mut all {
                adjustment.tolerance = Length::ZERO;
            }
        }
        let exact = |what: String, by: Length| Adjustment {
            what,
            by,
            tolerance: Length::ZERO,
        };
        if let Some(sprung) = self.pack().map(Pack::sprung).filter(|s| *s > Length::ZERO)
            && method != Method::StackSum
        {
            all.push(exact("wave plate, free to compressed".to_owned(), sprung));
        }
        let Some(hot) = &self.check.hot else {
            return all;
        };
        // What is on a drawing is stated at 20 °C.
        let from = if method == Method::StackSum {
            REFERENCE_C
        } else {
            self.bench_c
        };
        let to = hot.window_at.unwrap_or(HotAt::all(REFERENCE_C));
        let grows = hot.growth_nm(HotAt::all(from), to);
        if grows.abs() >= 0.5 {
            let to = if (to.case_c - to.inside_c).abs() < 0.05 {
                format!("{} °C", to.case_c)
            } else {
                format!(
                    "{} °C in the case and {} °C inside it",
                    to.case_c, to.inside_c
                )
            };
            #[allow(clippy::cast_possible_truncation)] // no part grows out of a length
            let by = Length::from_nm(grows.round() as i64);
            all.push(exact(format!("from {from} °C to {to}"), by));
        }
        all
    }

    /// Where its figures come from: its own source, or else the sheet's.
    pub fn source(&self) -> &'a str {
        let own = self.check.source.as_str();
        if own.is_empty() {
            &self.sheet.source
        } else {
            own
        }
    }

    /// The clutch pack that it signs off.
    pub fn pack(&self) -> Option<&'a Pack> {
        self.sheet.pack_of(&self.check.key)
    }

    /// The keys of the drawers it may draw from, its first one first.
    pub fn families(&self) -> Vec<String> {
        let first = self.check.set_by.iter().map(|s| s.family.clone());
        let others = self.check.or_set_by.iter().map(|o| o.family.clone());
        first.chain(others).collect()
    }

    /// The key of the drawer it draws from first.
    pub fn family(&self) -> Option<&'a str> {
        self.check.set_by.as_ref().map(|s| s.family.as_str())
    }

    /// The sheet wants pieces here, and none is in as it was measured.
    pub fn lacks_pieces(&self, record: &Record, method: Option<Method>) -> bool {
        let bare = record.head.fitted_nm == Some(0)
            || (method == Some(Method::NoShim) && record.head.round == 0);
        let wanted = self.check.set_by.as_ref().filter(|s| s.least_pieces > 0);
        bare && wanted.is_some() && self.length.is_some()
    }

    /// A leaf measures how far its retainer stands off, and not a clearance.
    pub fn stands_off(&self) -> bool {
        self.check.kind == CheckKind::RetainerPinch
    }

    /// It is how far a part stands proud of a face.
    pub fn is_seat(&self) -> bool {
        self.check.kind == CheckKind::SeatHeight
    }

    /// Something can be done about it: pieces set it, or shims can change ends.
    pub fn is_adjustable(&self) -> bool {
        let set = self.check.set_by.is_some() || self.check.selector.is_some();
        set && self.length.is_some()
    }
}

impl Record {
    /// Counts with the wider of the limits that the drawer and the sheet give a family's pieces, so that nothing is
    /// surer than it is while they disagree.
    #[must_use]
    pub fn heeding(mut self, spec: &Spec<'_>) -> Self {
        let stated = |key: &str| {
            let family = spec.sheet.family(key);
            family.map_or(0, |f| f.tolerance.length().nm())
        };
        if let Some(first) = spec.family() {
            self.tolerance_nm = self.drawer_tolerance_nm.max(stated(first));
        }
        for other in &mut self.others {
            other.tolerance_nm = other.tolerance_nm.max(stated(&other.family_key));
        }
        self
    }

    /// The drawer and the sheet give the family's pieces different limits.
    pub fn disputes(&self, spec: &Spec<'_>) -> bool {
        let family = spec.family().and_then(|key| spec.sheet.family(key));
        family.is_some_and(|f| f.tolerance.length().nm() != self.drawer_tolerance_nm)
    }
}
