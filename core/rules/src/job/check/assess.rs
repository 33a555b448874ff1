//! What a record means: each method worked out, which of them counts, the verdict, and how far the check is.

use std::borrow::Cow;

use anvil_arithmetic::measure::backlash::BacklashFound;
use anvil_arithmetic::measure::proof::ProofFound;
use anvil_arithmetic::measure::turning_torque::TorqueFound;
use anvil_arithmetic::measure::{Detail, Method};
use anvil_arithmetic::refusal::Ruled;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::{Call, Verdict};

use super::methods::{self, MethodOutcome};
use super::record::{ReadingRecord, Record};
use super::spec::Spec;
use super::workflow::{Phase, Progress};

/// What the core makes of a record.
pub struct Assessment {
    /// The ways this round was measured in.
    pub methods: Vec<MethodOutcome>,
    /// The way that counts.
    pub method: Option<Method>,
    /// What it says.
    pub estimate: Option<Estimate>,
    /// The turning torque, where that is what counts.
    pub torque: Option<TorqueFound>,
    /// The answer, where that is what counts.
    pub proof: Option<ProofFound>,
    /// Why there is no estimate, where there are readings.
    pub no_estimate: Option<String>,
    /// The verdict on the length.
    pub verdict: Option<Verdict>,
    /// The call on whichever counts.
    pub call: Option<Call>,
    /// How far the check has come.
    pub phase: Phase,
}

impl Record {
    /// What the core makes of it.
    ///
    /// # Errors
    /// Where the record contradicts itself.
    pub fn assess(&self, spec: &Spec<'_>) -> Ruled<Assessment> {
        self.counted(spec).assess_counted(spec)
    }

    /// The record without the readings that stray from their fellows and are asked about: until somebody has answered,
    /// they count for nothing. Where nothing else was read that way, what was read counts, and signing it wants a reason.
    pub fn counted(&self, spec: &Spec<'_>) -> Cow<'_, Self> {
        let questions = self
            .valid_readings()
            .filter_map(|reading| self.question(spec, reading));
        // Several that are alike are no strays: it may be the others that are wrong.
        let alone = questions.filter(|q| q.readings.len() == 1);
        let asked: Vec<i32> = alone.flat_map(|q| q.readings).collect();
        // A fellow that read nothing at all is no figure to go by.
        let unasked = |r: &&ReadingRecord| {
            !asked.contains(&r.reading_no) && r.taken.figure() != Some(Length::ZERO)
        };
        let others: Vec<Method> = self
            .valid_readings()
            .filter(unasked)
            .map(|r| r.way)
            .collect();
        let strays = |r: &ReadingRecord| asked.contains(&r.reading_no) && others.contains(&r.way);
        if !self.valid_readings().any(strays) {
            return Cow::Borrowed(self);
        }
        let mut counted = self.clone();
        counted.readings.retain(|r| !strays(r));
        Cow::Owned(counted)
    }

    fn assess_counted(&self, spec: &Spec<'_>) -> Ruled<Assessment> {
        let methods = methods::outcomes(self, spec)?;
        let counts = methods::counting(self, spec, &methods);
        let estimate = counts.and_then(MethodOutcome::estimate).cloned();
        let torque = counts
            .and_then(|c| c.torque.as_ref())
            .and_then(|t| t.as_ref().ok())
            .cloned();
        let proof = counts.and_then(|c| c.proof);
        let no_estimate = counts.and_then(|c| match &c.torque {
            Some(torque) => torque.as_ref().err().cloned(),
            None if c.proof.is_some() => None,
            None => c.why_none(spec),
        });
        let verdict = counts.and_then(|c| c.verdict(spec));
        let of_length = verdict.as_ref().map(|v| v.call);
        let of_answer = proof.map(|p| p.call);
        let call = torque.as_ref().map(|t| t.call).or(of_answer).or(of_length);
        // Nothing moves, and what was expected says how likely that is right.
        let still = verdict.as_ref().is_some_and(|v| v.expected.is_some());
        let open_call = call == Some(Call::Inconclusive);
        let by_feel = estimate.as_ref().is_some_and(|e| !e.can_sign_off);
        let open = self.open_setting();
        let phase = Progress {
            signed: self.signature().is_some(),
            chosen: open.is_some(),
            awaiting_part: open.is_some_and(|s| s.pieces.iter().any(|p| p.reserved < p.count)),
            fitted: self.fitted_setting().is_some() || self.shims.iter().any(|s| s.moved),
            // Fingers do not count as having measured.
            // Nor does what is only known to be too loose, where a piece has to be chosen for it.
            measured: (estimate.is_some() && !by_feel)
                || torque.is_some()
                || proof.is_some()
                || (verdict.as_ref().is_some_and(|v| v.bound.is_some())
                    && (call == Some(Call::In) || (still && open_call) || !spec.is_adjustable())),
            inside: call == Some(Call::In) || (still && open_call),
            adjustable: spec.is_adjustable(),
        }
        .phase();
        Ok(Assessment {
            method: counts.map(|c| c.method),
            methods,
            estimate,
            torque,
            proof,
            no_estimate,
            verdict,
            call,
            phase,
        })
    }
}

impl Assessment {
    /// What was found round a ring gear, where that is what counts.
    pub fn backlash(&self) -> Option<&BacklashFound> {
        let counts = self
            .methods
            .iter()
            .find(|m| Some(m.method) == self.method)?;
        match &counts.measured.detail {
            Detail::Backlash { backlash } => Some(backlash),
            _ => None,
        }
    }

    /// The chance that what counts lies in its window, 0 to 1.
    pub fn chance(&self) -> Option<f64> {
        let of_length = self.verdict.as_ref().map(|v| v.chance);
        of_length.or(self.torque.as_ref().map(|t| t.chance))
    }

    /// How many readings what counts is of.
    pub fn readings(&self) -> Option<usize> {
        let of_length = self.estimate.as_ref().map(|e| e.readings);
        of_length
            .or(self.torque.as_ref().map(|t| t.readings))
            .or(self.proof.map(|p| p.answers))
    }
}
