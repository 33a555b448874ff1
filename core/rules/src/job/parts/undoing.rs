//! What undoes what was said of a part.

use super::record::{PartAct, PartEntry, findings};
use crate::job::undo::Undo;
use crate::sheet::Sheet;

impl PartAct {
    /// The part's key.
    #[must_use]
    pub fn part(&self) -> &str {
        match self {
            Self::Found(finding) => &finding.part,
            Self::TakenBack { part, .. }
            | Self::Ordered { part, .. }
            | Self::Come { part, .. }
            | Self::WillNotCome { part, .. }
            | Self::SupplyBack { part }
            | Self::Given { part, .. }
            | Self::GivenBack { part }
            | Self::Shelved { part, .. }
            | Self::OffShelf { part } => part,
        }
    }

    /// What undoes it, by what stood of the part before. None where it was itself an undoing of what was said of getting it,
    /// and for what is done to a part from another box, which is undone there.
    #[must_use]
    pub fn undoing(&self, sheet: &Sheet, before: &[PartEntry]) -> Option<Undo<Self>> {
        let part = || self.part().to_owned();
        let name = sheet.name_of_part(self.part()).unwrap_or(self.part());
        let how_many = |count: Option<u32>| count.map(|n| format!("{n} × ")).unwrap_or_default();
        Some(match self {
            Self::Found(finding) => Undo::of(
                format!("{name} {}.", finding.state.words()),
                Self::TakenBack {
                    part: part(),
                    why: "pressed by mistake".into(),
                },
            ),
            Self::TakenBack { .. } => {
                let stood = *findings(before).get(self.part())?;
                let mut again = stood.clone();
                again.seen = None;
                // What comes from another box is taken there again.
                again
                    .from
                    .is_none()
                    .then(|| Undo::of(format!("{name}: taken back."), Self::Found(again)))?
            }
            Self::Ordered { count, .. } => Undo::of(
                format!("{}{name}: on order.", how_many(*count)),
                Self::SupplyBack { part: part() },
            ),
            Self::Come { count, .. } => Undo::of(
                format!("{}{name}: here.", how_many(*count)),
                Self::SupplyBack { part: part() },
            ),
            Self::WillNotCome { .. } => Undo::of(
                format!("{name} will not come."),
                Self::SupplyBack { part: part() },
            ),
            Self::SupplyBack { .. }
            | Self::Given { .. }
            | Self::GivenBack { .. }
            | Self::Shelved { .. }
            | Self::OffShelf { .. } => return None,
        })
    }
}
