//! What is in stays, and pieces are added to it.

use anvil_arithmetic::choose::{self, Choices, SizeCount};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::units::length::Length;
use anvil_arithmetic::verdict::Call;

use super::record::{Record, Setting, SettingPiece, SettingState};
use super::spec::Spec;

impl Setting {
    /// How thick what stays in is, beside which its pieces go, in nanometres; nothing where all that was in comes out.
    #[must_use]
    pub fn stays_nm(&self) -> i64 {
        let each = |p: &SettingPiece| p.thickness_nm * i64::from(p.count);
        (self.total_nm - self.pieces.iter().map(each).sum::<i64>()).max(0)
    }

    /// Its pieces, as the chooser counts them.
    #[must_use]
    pub fn counts(&self) -> Vec<SizeCount> {
        let each = self.pieces.iter().map(|p| SizeCount {
            thickness_nm: Length::from_nm(p.thickness_nm),
            grade: p.grade,
            count: u32::try_from(p.count).unwrap_or(0),
        });
        each.collect()
    }
}

impl Record {
    /// How many pieces of its first family are in: those fitted here, and one for what was found in the box.
    fn pieces_in(&self, spec: &Spec<'_>) -> u32 {
        let family = spec.family();
        let mut fitted =
            self.settings.iter().rev().filter(|s| {
                s.state == SettingState::Fitted && Some(s.family_key.as_str()) == family
            });
        let mut pieces = 0;
        for setting in &mut fitted {
            let count = |p: &SettingPiece| u32::try_from(p.count).unwrap_or(0);
            pieces += setting.pieces.iter().map(count).sum::<u32>();
            if setting.stays_nm() == 0 {
                return pieces;
            }
        }
        pieces + u32::from(self.head.fitted_nm.is_some_and(|nm| nm > 0))
    }

    /// What to ask of the chooser where what is in stays, of what it is asked where all of it comes out; none where
    /// nothing is in, or the sheet allows no more pieces than are.
    ///
    /// # Formula
    /// `c' = c − k t` for pieces `t` added; what stays adds no doubt, for it was measured with.
    pub fn adding<'s>(
        &self,
        spec: &Spec<'_>,
        request: &choose::Request<'s>,
    ) -> Option<choose::Request<'s>> {
        // A chart asks for one piece, and for nothing beside it.
        if spec.by_chart() {
            return None;
        }
        let are_in = self.pieces_in(spec);
        let most = request.most_pieces.checked_sub(are_in)?;
        (most > 0 && request.fitted > Length::ZERO).then(|| choose::Request {
            fitted: Length::ZERO,
            u_fitted_nm: 0.0,
            least_pieces: request.least_pieces.saturating_sub(are_in).max(1),
            most_pieces: most,
            ..request.clone()
        })
    }

    /// What could be added to what is in; none where nothing that could lands in the window.
    ///
    /// # Errors
    /// Where the record contradicts itself.
    pub fn could_be_added(
        &self,
        spec: &Spec<'_>,
        request: &choose::Request<'_>,
    ) -> Ruled<Option<Choices>> {
        let Some(asked) = self.adding(spec, request) else {
            return Ok(None);
        };
        let mut choices = choose::choose(&asked).map_err(Refusal::fault)?;
        choices.ranked.retain(|c| c.lands == Call::In);
        Ok(Some(choices).filter(|c| !c.ranked.is_empty()))
    }

    /// The choice of these pieces beside what is in, with its prediction.
    ///
    /// # Errors
    /// Where nothing is in, the sheet allows no so many, or the drawer has no such pieces.
    pub(super) fn choice_beside(
        &self,
        spec: &Spec<'_>,
        request: &choose::Request<'_>,
        pieces: &[SizeCount],
    ) -> Ruled<(choose::Choice, Vec<SettingPiece>)> {
        let count: u32 = pieces.iter().map(|p| p.count).sum();
        let asked = self
            .adding(spec, request)
            .filter(|asked| count <= asked.most_pieces)
            .ok_or_else(|| {
                Refusal::field(
                    "stays",
                    format!(
                        "The sheet allows {} pieces here and {} are in: fewer go beside them, or what is in comes out.",
                        request.most_pieces,
                        self.pieces_in(spec)
                    ),
                )
            })?;
        Self::predicted(&asked, pieces)
    }
}
