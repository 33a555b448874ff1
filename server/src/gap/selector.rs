//! A selector's shims: how they lie at the two ends of its shaft.

use anvil_core::length::Length;
use anvil_core::measure::selector;
use anvil_core::sheet::Selector;

use super::views::{SelectorView, ShimsView};
use crate::store::check::{Record, ShimsSaid};

impl Record {
    /// A selector with the shims as they lie now, as far as that is known.
    pub fn with_shims(&self, of: &Selector) -> selector::Selector {
        match self.shims.last() {
            Some(said) => of.with_shims(&said.left_nm, &said.right_nm),
            None => of.with_shims(&[], &[]),
        }
    }

    pub(super) fn selector_view(&self, of: &Selector) -> SelectorView {
        SelectorView {
            gears: of.gears.clone(),
            shims: self.shims.last().map(|said| ShimsView {
                left_nm: said.left_nm.clone(),
                right_nm: said.right_nm.clone(),
                moved: said.moved,
                predicted_nm: said.predicted_nm,
                who: said.who.clone(),
            }),
        }
    }
}

/// How shims lie, in a line.
pub(super) fn shims_words(said: &ShimsSaid) -> String {
    let side = |shims: &[Length]| match shims {
        [] => "none".to_owned(),
        some => some
            .iter()
            .map(ToString::to_string)
            .collect::<Vec<_>>()
            .join(" + "),
    };
    format!(
        "left {}, right {}",
        side(&said.left_nm),
        side(&said.right_nm)
    )
}
