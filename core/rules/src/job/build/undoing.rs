//! What undoes an act on a build.

use super::record::Standing;
use super::{Build, BuildAct, StepDone, said};
use crate::job::undo::Undo;

impl BuildAct {
    /// What undoes it, by how the build stood before. None for a box that was taken apart so far that signatures fell, for what
    /// came out, of which more was proven than going in again would say, and for what was itself an undoing.
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
                let was = answers.get(&(step.clone(), ask.clone()));
                let (step, ask) = (step.clone(), ask.clone());
                Some(match was {
                    Some((answer, ..)) => Undo::of(
                        format!("Answered otherwise; it was {}.", said(*answer)),
                        Self::Proved {
                            step,
                            ask,
                            answer: *answer,
                        },
                    ),
                    None => Undo::of("Answered.", Self::NotAnswered { step, ask }),
                })
            }
            Self::Shifted { gear, .. } => {
                let gear = gear.clone();
                let act = match shifted.get(&gear) {
                    Some((turns, _)) => Self::Shifted {
                        gear: gear.clone(),
                        turns: *turns,
                    },
                    None => Self::NotTried { gear: gear.clone() },
                };
                Some(Undo::of(format!("Tried: {gear}."), act))
            }
            Self::PassedOver { hold, .. } => Some(Undo::of(
                format!("Passed over: {}", before.name_of_hold(hold)),
                Self::NotPassedOver { hold: hold.clone() },
            )),
            Self::TornBack { .. } => {
                let undo = Undo::of("The box is being taken apart.", Self::LeftOff {});
                before.falls_by(self).is_empty().then_some(undo)
            }
            Self::Out { .. }
            | Self::LeftOff {}
            | Self::NotDone { .. }
            | Self::NotPassedOver { .. }
            | Self::NotAnswered { .. }
            | Self::NotTried { .. } => None,
        }
    }
}
