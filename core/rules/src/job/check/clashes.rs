//! A yes by hand and a figure that cannot both be so: told on both, and for a person to settle.

use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::units::written::Written;
use serde::Serialize;

use super::loaded::LoadedCheck;
use crate::sheet::{CheckKind, ProofSays, Sheet};

/// A yes by hand and a figure that cannot both be so.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Clash {
    /// The key of the check that was answered.
    pub proof_key: String,
    /// What people call it.
    pub proof: String,
    /// The key of the check with the figure.
    pub check_key: String,
    /// What people call that.
    pub check: String,
    /// What is measured there.
    pub kind: CheckKind,
    /// The figure, in nanometres.
    pub clearance_nm: f64,
    /// The half-width of its 95 % interval in nanometres.
    pub expanded_nm: f64,
    /// How tight, or how loose, it could at most be by the answer, in nanometres.
    pub limit_nm: Length,
    /// The figure is tighter than that; else looser.
    pub tighter: bool,
}

impl ProofSays {
    /// The limit that a figure lies beyond, and whether it is tighter; none where both may be so.
    ///
    /// # Formula
    /// Beyond where the whole of `[c − U, c + U]` is: a hand is a weak limit, and what is not sure does not contradict it.
    fn contradicted_by(&self, estimate: &Estimate) -> Option<(Length, bool)> {
        let (c, expanded) = (estimate.clearance_nm, estimate.expanded_uncertainty_nm());
        let tighter = self.no_tighter.as_ref().map(Written::length);
        let looser = self.no_looser.as_ref().map(Written::length);
        let tighter = tighter.filter(|l| c + expanded < l.as_f64());
        let looser = looser.filter(|l| c - expanded > l.as_f64());
        tighter
            .map(|l| (l, true))
            .or_else(|| looser.map(|l| (l, false)))
    }
}

/// The keys of the checks of a sheet that answers and figures could clash in.
#[must_use]
pub fn that_may_clash(sheet: &Sheet) -> Vec<&str> {
    let says = |key: &str| sheet.checks.iter().any(|c| c.says_of(key).is_some());
    let keys = sheet.checks.iter().filter(|c| {
        let answers = c.proof.as_ref().is_some_and(|p| !p.says.is_empty());
        answers || says(&c.key)
    });
    keys.map(|c| c.key.as_str()).collect()
}

/// Where what was answered and what was measured on one box cannot both be so.
#[must_use]
pub fn clashes(checks: &[LoadedCheck]) -> Vec<Clash> {
    let mut found = Vec::new();
    for answered in checks {
        let Some(proof) = &answered.check.proof else {
            continue;
        };
        // Only the answer wanted says anything: the other one may have many reasons.
        let so = answered.assessment.proof.map(|p| p.answer) == Some(proof.wanted);
        for says in proof.says.iter().filter(|_| so) {
            let measured = checks.iter().find(|c| c.check.key == says.check);
            let figure = measured.and_then(|m| Some((m, m.assessment.estimate.as_ref()?)));
            let Some((measured, estimate)) = figure.filter(|(_, e)| e.can_sign_off) else {
                continue;
            };
            if let Some((limit_nm, tighter)) = says.contradicted_by(estimate) {
                found.push(Clash {
                    proof_key: answered.check.key.clone(),
                    proof: answered.check.name.clone(),
                    check_key: measured.check.key.clone(),
                    check: measured.check.name.clone(),
                    kind: measured.check.kind,
                    clearance_nm: estimate.clearance_nm,
                    expanded_nm: estimate.expanded_uncertainty_nm(),
                    limit_nm,
                    tighter,
                });
            }
        }
    }
    found
}
