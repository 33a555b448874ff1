//! What an act puts on a check's record, where it may be done.

use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::bias::Bias;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::units::notation::{self, Sign};
use chrono::{DateTime, Utc};

use super::act::NewReading;
use super::assess::Assessment;
use super::methods::own_scatter_of;
use super::record::{
    BiasDecision, Mark, ReadingMark, ReadingRecord, Record, Setting, SettingState, ShimsEntry,
    SignAct, Signing, TargetOverride,
};
use super::rules;
use super::shims::ShimsInput;
use super::spec::Spec;
use super::target::TargetOverrideInput;

/// Whose act it is, by the initials, and when.
pub type By<'a> = (&'a str, DateTime<Utc>);

impl Record {
    /// A reading as typed.
    ///
    /// # Errors
    /// Where it cannot be read; see [`rules::may_read`].
    pub fn reading_of(
        &self,
        spec: &Spec<'_>,
        new: &NewReading,
        by: By<'_>,
    ) -> Ruled<ReadingRecord> {
        let taken = new.entry.read_for(new.way, new.unit)?;
        let gauge_key = rules::may_read(self, spec, new.way, &taken, new.gauge_key.as_deref())?;
        Ok(ReadingRecord {
            reading_no: self.readings.last().map_or(1, |r| r.reading_no + 1),
            round: self.head.round,
            typed: new.entry.text(),
            bench_unit: new.unit,
            way: new.way,
            taken,
            gauge_key,
            who: by.0.to_owned(),
            at: by.1,
        })
    }

    /// A word on a reading.
    ///
    /// # Errors
    /// See [`rules::may_mark`].
    pub fn mark_of(
        &self,
        (reading_no, mark, why): (i32, ReadingMark, &str),
        by: By<'_>,
    ) -> Ruled<Mark> {
        Ok(Mark {
            reading_no,
            mark,
            reason: rules::may_mark(self, reading_no, mark, why)?,
            who: by.0.to_owned(),
            at: by.1,
        })
    }

    /// What is said to be fitted now, as typed.
    ///
    /// # Errors
    /// Where it is no length; see [`rules::may_say_fitted`].
    pub fn fitted_of(&self, typed: &str, unit: Unit) -> Ruled<Length> {
        let fitted = notation::parse(typed, Some(unit), Sign::NotNegative)
            .map_err(|e| Refusal::field("fitted", e))?;
        rules::may_say_fitted(self, fitted)?;
        Ok(fitted)
    }

    /// A window and target of the job's own; `spec` is the sheet's.
    ///
    /// # Errors
    /// Where no reason is given, the check is signed or chosen on, or the window or target is none.
    pub fn target_of(
        &self,
        spec: &Spec<'_>,
        asked: &TargetOverrideInput,
        by: By<'_>,
    ) -> Ruled<TargetOverride> {
        let reason = asked.reason()?;
        rules::may_change(self)?;
        let own = asked.resolve(spec)?;
        Ok(TargetOverride {
            as_sheet: own.is_none(),
            low_nm: own.and_then(|o| o.0.low()).map(Length::nm),
            high_nm: own.and_then(|o| o.0.high()).map(Length::nm),
            aim_from_nm: own.map(|o| o.1.from_nm),
            aim_to_nm: own.map(|o| o.1.to_nm),
            reason,
            who: by.0.to_owned(),
            at: by.1,
        })
    }

    /// That the usual difference of boxes before counts here, or no longer does.
    ///
    /// # Errors
    /// Where the check is signed or chosen on, or too few boxes are finished.
    pub fn bias_of(&self, counts: bool, usual: Option<&Bias>, by: By<'_>) -> Ruled<BiasDecision> {
        rules::may_change(self)?;
        let found = usual.ok_or_else(rules::too_few_boxes)?;
        Ok(BiasDecision {
            counts,
            mean_nm: found.mean_nm,
            u_nm: found.u_nm,
            dof: found.dof,
            boxes: i32::try_from(found.boxes).unwrap_or(i32::MAX),
            who: by.0.to_owned(),
            at: by.1,
        })
    }

    /// A signature under what was found, with what it adds to the scatter that is known of its gauge.
    ///
    /// # Errors
    /// See [`rules::may_sign`].
    pub fn signing_of(
        &self,
        spec: &Spec<'_>,
        found: &Assessment,
        why: &str,
        by: By<'_>,
    ) -> Ruled<Signing> {
        let reason = rules::may_sign(self, spec, found, why)?;
        let counted = self.counted(spec);
        let own = |method: Method| own_scatter_of(&counted, method);
        let scatter = found.method.and_then(own);
        Ok(Signing {
            act: SignAct::Signed,
            call: found.call,
            achieved_nm: found.estimate.as_ref().map(|e| e.clearance_nm),
            chance: found.chance(),
            way: found.method,
            achieved_n_m: found.torque.as_ref().map(|t| t.torque_n_m),
            gauge_key: scatter.as_ref().map(|s| s.0.clone()),
            squares: scatter.as_ref().map(|s| s.1),
            scatter_dof: scatter.as_ref().map(|s| s.2),
            reason,
            who: by.0.to_owned(),
            at: by.1,
        })
    }

    /// How the shims of a selector's shaft lie, or that they were moved so by what was `found`: then a new round of measuring
    /// begins.
    ///
    /// # Errors
    /// Where a figure is none; see [`rules::may_say_shims`] and [`Record::shared_out`].
    pub fn shims_of(
        &self,
        spec: &Spec<'_>,
        new: &ShimsInput,
        found: Option<&Assessment>,
        by: By<'_>,
    ) -> Ruled<ShimsEntry> {
        let (left_nm, right_nm) = new.read()?;
        rules::may_say_shims(self, spec)?;
        let mut said = ShimsEntry {
            left_nm,
            right_nm,
            moved: new.moved,
            predicted_nm: None,
            who: by.0.to_owned(),
            at: by.1,
        };
        if let Some(found) = found.filter(|_| new.moved) {
            said.predicted_nm = Some(self.shared_out(found, &said)?);
        }
        Ok(said)
    }

    /// What was noted as fitted and was not, and the choice of the same pieces that it is again.
    ///
    /// # Errors
    /// See [`rules::may_undo_fitting`].
    pub fn unfitted(&self, by: By<'_>) -> Ruled<(Setting, Setting)> {
        let fitted = rules::may_undo_fitting(self)?.clone();
        let again = Setting {
            setting_no: fitted.setting_no + 1,
            state: SettingState::Chosen,
            chosen_by: by.0.to_owned(),
            chosen_at: by.1,
            ended_by: None,
            ended_at: None,
            ..fitted.clone()
        };
        Ok((fitted, again))
    }
}
