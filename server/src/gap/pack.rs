//! Clutch packs on a check: how they were laid out, against the sheet.

use anvil_core::pack::{PackFault, counted_springs, in_words};
use anvil_core::sheet::{Pack, PartKind};

use super::views::{LaidView, PackView};
use crate::store::check::{Laid, Record};

impl Laid {
    /// What is wrong with it.
    fn faults(&self, pack: &Pack) -> Vec<PackFault> {
        let mut faults = pack.laid_faults(&self.plates);
        faults.extend(counted_springs(self.springs, pack.return_springs));
        faults
    }
}

impl Record {
    /// The pack was laid out last as the sheet has it.
    pub fn is_laid_right(&self, pack: &Pack) -> bool {
        self.laid
            .last()
            .is_some_and(|laid| laid.faults(pack).is_empty())
    }

    pub(super) fn pack_view(&self, pack: &Pack) -> PackView {
        PackView {
            drawn: pack.drawn(),
            springs: pack.return_springs,
            laid: self.laid.last().map(|laid| LaidView {
                plates: laid.plates.clone(),
                soaked: laid.soaked,
                springs: laid.springs,
                faults: laid.faults(pack),
                who: laid.who.clone(),
                at: laid.at,
            }),
        }
    }
}

/// A pack laid out, in a line.
pub(super) fn laid_words(plates: &[PartKind], soaked: bool, springs: Option<u32>) -> String {
    let wet = if soaked { "soaked" } else { "dry" };
    let springs = springs.map_or(String::new(), |n| format!(", {n} return springs"));
    format!("{}, {wet}{springs}", in_words(plates))
}
