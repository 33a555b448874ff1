//! One check with all that is known of it, and whether pieces can be chosen for it.

use std::sync::Arc;

use anvil_arithmetic::choose;
use anvil_arithmetic::refusal::Ruled;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::{TargetRange, Window};
use serde::Serialize;

use super::assess::Assessment;
use super::record::Record;
use super::spec::Spec;
use super::workflow::Phase;
use crate::sheet::{Check, Sheet};

/// A check with what is known of it.
pub struct LoadedCheck {
    pub record: Record,
    pub sheet: Arc<Sheet>,
    /// The check on it.
    pub check: Check,
    /// What the core makes of them.
    pub assessment: Assessment,
}

/// A check that cannot be chosen for now.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct LeftOut {
    pub job_no: i32,
    /// What is on the bench.
    pub title: String,
    pub check_key: String,
    /// What people call it.
    pub name: String,
    pub why: String,
}

impl LoadedCheck {
    /// Works out what a record of a check of a sheet means.
    ///
    /// # Errors
    /// Where the sheet has no such check, or the record contradicts itself.
    pub fn of(record: Record, sheet: Arc<Sheet>) -> Ruled<Self> {
        let spec = Spec::of(&sheet, &record.check_key)?;
        let check = spec.check.clone();
        let assessment = record.assess(&spec.on_job(&record))?;
        Ok(Self {
            record,
            sheet,
            check,
            assessment,
        })
    }

    /// The key of the drawer it draws from.
    pub fn family(&self) -> Option<&str> {
        self.check.set_by.as_ref().map(|s| s.family.as_str())
    }

    /// The check as its sheet has it, with what the job has of its own.
    pub fn spec(&self) -> Option<Spec<'_>> {
        let spec = Spec::of(&self.sheet, &self.record.check_key).ok()?;
        Some(spec.on_job(&self.record))
    }

    /// Its window, and where in it to aim.
    pub fn length(&self) -> Option<(Window, TargetRange)> {
        self.spec()?.length
    }

    /// What is asked of the chooser, where it is measured and what is fitted is known.
    pub fn request(&self) -> Option<choose::Request<'static>> {
        let estimate = self.assessment.estimate.as_ref()?;
        self.record
            .request(&self.spec()?, self.assessment.method, estimate, &[])
    }

    /// What is fitted with what was measured, where that is known.
    pub fn fitted(&self) -> Option<Length> {
        self.record.fitted_as_measured(self.assessment.method)
    }

    /// What the pieces of another check do to this one: by how much it shrinks as they thicken by one. Those at the two
    /// ends of a ring gear's shaft each move it by half of what they thicken.
    ///
    /// # Formula
    /// `b = b0 + m (L − R) / 2` for a backlash.
    pub fn effect_of(&self, other: &Self) -> f64 {
        let spec = &self.check;
        let effect = if self.record.check_key == other.record.check_key {
            spec.set_by.as_ref().map_or(0.0, |s| f64::from(s.effect))
        } else {
            let mut moved = spec.moved_by.iter();
            let moved = moved.find(|m| m.check == other.record.check_key);
            moved.map_or(0.0, |m| m.effect)
        };
        self.per_move().map_or(effect, |(m, _)| effect * m / 2.0)
    }

    /// Of a backlash: by how much it grows as the ring gear moves away by one, and the standard uncertainty of that; as
    /// found on the bench, or else the sheet's.
    pub fn per_move(&self) -> Option<(f64, f64)> {
        let found = self.assessment.backlash();
        let found = found.map(|b| (b.per_move, b.u_per_move));
        let stated = || {
            let mesh = self.check.backlash.as_ref()?.mesh();
            Some((mesh.per_move, mesh.u_per_move))
        };
        found.or_else(stated)
    }

    /// Whether its pieces move other checks too, or those of others move it.
    pub fn is_coupled(&self) -> bool {
        !self.sheet.coupled_with(&self.check).is_empty()
    }

    /// Why no pieces can be chosen for it now, where they cannot.
    pub fn not_now(&self) -> Option<String> {
        if self.record.signature().is_some() {
            return Some("signed off; reopen it to choose again".into());
        }
        let chosen = self.record.open_setting();
        if chosen.is_some_and(|s| s.pieces.iter().any(|p| p.reserved < p.count)) {
            return Some("waits for a piece on order; let that go to choose again".into());
        }
        match &self.assessment.estimate {
            None => Some(match &self.assessment.no_estimate {
                Some(why) => why.clone(),
                None => "not measured yet".into(),
            }),
            Some(e) if !e.can_sign_off => Some("measured by feel only".into()),
            Some(_) if self.check.set_by.is_some() && self.fitted().is_none() => {
                Some("what is fitted now is not known: say what it measures first".into())
            }
            Some(_) => None,
        }
    }

    /// That it cannot be chosen for now, and why.
    pub fn left_out(&self, why: String) -> LeftOut {
        LeftOut {
            job_no: self.record.job_no,
            title: self.record.head.title.clone(),
            check_key: self.record.check_key.clone(),
            name: self.check.name.clone(),
            why,
        }
    }

    /// Whether it waits for pieces, or for what comes before them.
    pub fn choosing(&self) -> bool {
        waits_for_pieces(self.record.head.phase)
    }
}

const fn waits_for_pieces(phase: Phase) -> bool {
    matches!(
        phase,
        Phase::Measure | Phase::Choose | Phase::AwaitPart | Phase::Fit
    )
}

/// Whether pieces could be chosen for a check that stands at a phase, or move it.
pub fn worth_a_look(sheet: &Sheet, check_key: &str, phase: Phase) -> bool {
    let Some(check) = sheet.check(check_key).filter(|_| phase != Phase::Elsewhere) else {
        return false;
    };
    let coupled = !sheet.coupled_with(check).is_empty();
    coupled || (check.set_by.is_some() && waits_for_pieces(phase))
}
