//! What undoes an act on a build.

use super::record::Standing;
use super::{Build, BuildAct, StepDone, said};
use crate::job::undo::Undo;

impl BuildAct {
    /// What undoes it, by how the build stood before. None where nothing on record says that it was not so: a hold that was
    /// passed over, a question or a gear that was tried for the first time, a box that was taken apart so far that
    /// signatures fell, what came out, of which more was proven than going in again would say, and what was itself an undoing.
    #[must_use]
    pub fn undoing(&self, before: &Build<'_>) -> Option<Undo<Self>> {
        let Standing {
            answers, shifted, ..
        } = &before.standing;
        let slip = |step: &String, done: &str| {
            let act = Self::NotDone { step: step.clone() };
            let at = before.places.get(step.as_str())?;
            Some(Undo::of(format!("{done}: {}.", before.step(*at).what), act))
        };
        match self {
            Self::Began { step } => slip(step, "Begun"),
            Self::Done(StepDone { step, .. }) => slip(step, "Done"),
            Self::Skipped { step, .. } => slip(step, "Left out"),
            Self::Proved { step, ask, .. } => {
                let (answer, ..) = answers.get(&(step.clone(), ask.clone()))?;
                Some(Undo::of(
                    format!("Answered otherwise; it was {}.", said(*answer)),
                    Self::Proved {
                        step: step.clone(),
                        ask: ask.clone(),
                        answer: *answer,
                    },
                ))
            }
            Self::Shifted { gear, .. } => {
                let (turns, _) = shifted.get(gear)?;
                Some(Undo::of(
                    format!("{gear}: tried."),
                    Self::Shifted {
                        gear: gear.clone(),
                        turns: *turns,
                    },
                ))
            }
            Self::TornBack { .. } => {
                let undo = Undo::of("The box is being taken apart.", Self::LeftOff {});
                before.falls_by(self).is_empty().then_some(undo)
            }
            Self::NotDone { .. }
            | Self::Out { .. }
            | Self::PassedOver { .. }
            | Self::LeftOff {} => None,
        }
    }
}
