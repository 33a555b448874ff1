//! What stands beside a seat's height and a fit: whether the ring's groove is clear, the temperatures that let a part drop
//! in, and what can be done where it is loose.

use anvil_arithmetic::calculators::fit::{BEARING_LIMIT_C, Fitted, HeatFit, REFERENCE_C, heat_fit};
use anvil_arithmetic::measure::Detail;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::window::Window;
use anvil_arithmetic::verdict::{Verdict, conformance_probability, judge};
use serde::Serialize;

use super::spec::Spec;
use crate::sheet::Fit;

/// Whether a ring's groove is wholly clear: the part is home then.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct GrooveSays {
    /// How far above the face the groove's near edge lies, in nanometres.
    pub edge_nm: Length,
    /// The verdict on the part's height against that edge: in where the groove is clear.
    pub verdict: Verdict,
}

impl GrooveSays {
    /// Whether it is clear, where the sheet has a groove and the height is measured.
    #[must_use]
    pub fn of(spec: &Spec<'_>, estimate: Option<&Estimate>) -> Option<Self> {
        let edge_nm = spec.check.groove.as_ref()?.length();
        let no_higher = Window::new(None, Some(edge_nm)).ok()?;
        Some(Self {
            edge_nm,
            verdict: judge(estimate?, no_higher),
        })
    }
}

/// What a fit comes to besides its verdict.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct FitSays {
    /// The bore's diameter as known, in nanometres.
    pub bore_nm: Length,
    /// The part's.
    pub part_nm: Length,
    /// How hot, or how cold, lets it drop in; none where the sheet does not say with what clearance.
    pub heat: Option<Fitted>,
    /// What can be done where it is looser than it may be, the least work first; empty where it is not.
    pub ways_out: Vec<FitRemedy>,
}

/// What can be done about a part that is loose in its bore.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum FitRemedy {
    /// Retaining compound, which fills so much.
    Compound {
        /// The widest clearance that it fills, in nanometres.
        up_to_nm: Length,
        /// The chance that this one is no wider, 0 to 1.
        chance: f64,
    },
    /// Another part, which may be made nearer to its upper limit.
    OtherPart {
        /// The diameter in nanometres that brings the fit to what is aimed at.
        diameter_nm: f64,
    },
    /// The bore is made larger and sleeved.
    Sleeve,
}

impl FitSays {
    /// What the fit comes to, where it is one and its two sides are known.
    ///
    /// # Errors
    /// Where the sheet's figures contradict themselves.
    pub fn of(
        spec: &Spec<'_>,
        estimate: Option<&Estimate>,
        detail: &Detail,
    ) -> Ruled<Option<Self>> {
        let (Some(fit), Some(estimate), Detail::Sum { sum, .. }) =
            (&spec.check.fit, estimate, detail)
        else {
            return Ok(None);
        };
        let [bore, part] = &sum.terms[..] else {
            return Ok(None);
        };
        #[allow(clippy::cast_possible_truncation)]
        // diameters are far from the end of whole nanometres
        let whole = |nm: f64| Length::from_nm(nm.round() as i64);
        let (bore_nm, part_nm) = (whole(bore.length_nm), whole(part.length_nm));
        Ok(Some(Self {
            bore_nm,
            part_nm,
            heat: heat(fit, bore_nm, part_nm)?,
            ways_out: ways_out(spec, fit, estimate, bore.length_nm),
        }))
    }
}

fn heat(fit: &Fit, bore_nm: Length, part_nm: Length) -> Ruled<Option<Fitted>> {
    let Some(drop_in) = &fit.drop_in else {
        return Ok(None);
    };
    heat_fit(&HeatFit {
        bore_nm,
        bore_of: fit.bore.material,
        part_nm,
        part_of: fit.part.material,
        clearance_nm: drop_in.length(),
        part_c: REFERENCE_C,
        limit_c: BEARING_LIMIT_C,
    })
    .map(Some)
    .map_err(Refusal::fault)
}

fn ways_out(spec: &Spec<'_>, fit: &Fit, estimate: &Estimate, bore_nm: f64) -> Vec<FitRemedy> {
    let Some((window, aim)) = spec.length else {
        return Vec::new();
    };
    if estimate.clearance_nm <= window.high_nm() {
        return Vec::new();
    }
    let compound = fit.compound_up_to.as_ref().and_then(|up_to| {
        let up_to_nm = up_to.length();
        let fills = Window::new(None, Some(up_to_nm)).ok()?;
        let (c, u) = (estimate.clearance_nm, estimate.u_nm);
        let chance = conformance_probability(c, u, estimate.dof, fills);
        Some(FitRemedy::Compound { up_to_nm, chance })
    });
    let other = FitRemedy::OtherPart {
        diameter_nm: bore_nm - aim.middle_nm(),
    };
    compound
        .into_iter()
        .chain([other, FitRemedy::Sleeve])
        .collect()
}
