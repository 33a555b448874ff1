//! What could be fitted: the question put to the chooser, its answer, and a choice held to what is in the drawer.

use anvil_arithmetic::choose::{self, Choices, Pieces, SizeCount};
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Availability, Grade, Stock, u_of_tolerance};
use anvil_arithmetic::stock::pieces::PiecesDoubt;
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;

use super::record::{Record, SettingPiece, SettingState, StockLine};
use super::spec::Spec;
use crate::sheet::CheckKind;

/// How many choices are shown.
pub const SHOWN: usize = 6;

impl Record {
    /// The sizes of the first drawer as the chooser sees them.
    pub fn stock(&self, most_pieces: u32) -> Vec<Stock> {
        Self::sizes(&self.stock, self.u_marked(), most_pieces)
    }

    /// The sizes of a drawer as the chooser sees them: what is free there, else what could be had.
    /// A measured piece that is taken cannot be had: there is no other like it. Nor can a size that is no longer made.
    pub(super) fn sizes(lines: &[StockLine], u_marked: f64, most_pieces: u32) -> Vec<Stock> {
        lines
            .iter()
            .filter_map(|line| {
                let count = |n: i32| u32::try_from(n).unwrap_or(0);
                let (quantity, source) = match (count(line.on_hand - line.reserved), line.grade) {
                    (0, Grade::Miked | Grade::Used) => return None,
                    (0, Grade::Marked) if line.coming > 0 => {
                        (count(line.coming), Availability::OnOrder)
                    }
                    (0, Grade::Marked) if line.discontinued => return None,
                    (0, Grade::Marked) => (most_pieces, Availability::ToOrder),
                    (free, _) => (free, Availability::OnHand),
                };
                Some(seen(line, u_marked, quantity, source))
            })
            .collect()
    }

    /// The sizes of the first drawer that are no longer made, and of which none is left or coming.
    pub(super) fn gone(&self, most_pieces: u32) -> Vec<Stock> {
        let gone = |l: &&StockLine| {
            l.discontinued && l.grade == Grade::Marked && l.on_hand <= l.reserved && l.coming == 0
        };
        let lines = self.stock.iter().filter(gone);
        lines
            .map(|line| self.line(line, most_pieces, Availability::Discontinued))
            .collect()
    }

    /// A line of the drawer as the chooser sees it.
    pub fn line(&self, line: &StockLine, quantity: u32, source: Availability) -> Stock {
        seen(line, self.u_marked(), quantity, source)
    }

    /// The standard uncertainty of a piece as marked, in nanometres.
    pub(super) fn u_marked(&self) -> f64 {
        u_of_tolerance(Length::from_nm(self.tolerance_nm))
    }

    /// What the drawer knows of how far a piece is off, in nanometres; none for one that is as marked.
    pub(super) fn u_of_piece(&self, thickness_nm: i64, grade: Grade) -> Option<f64> {
        let mut lines = self.stock.iter();
        lines
            .find(|l| (l.thickness_nm, l.grade) == (thickness_nm, grade))?
            .u_nm
    }

    /// The standard uncertainty of what is fitted: of the pieces fitted here, or of the one found.
    pub fn u_fitted(&self, family: &str, fitted_nm: i64) -> f64 {
        let fitted = self
            .settings
            .iter()
            .rev()
            .filter(|s| s.state == SettingState::Fitted && s.family_key == family);
        let mut sum = PiecesDoubt::NONE;
        for setting in fitted {
            sum = sum + self.doubt_of(&setting.counts(), None);
            if setting.stays_nm() == 0 {
                return sum.variance.sqrt();
            }
        }
        if fitted_nm > 0 {
            sum = sum + PiecesDoubt::one(self.u_marked());
        }
        sum.variance.sqrt()
    }

    /// What is not known of these pieces; `mike` is what those as marked would be known to by micrometer, in nanometres.
    pub(super) fn doubt_of(&self, pieces: &[SizeCount], mike: Option<f64>) -> PiecesDoubt {
        let each = |p: &SizeCount| match self.u_of_piece(p.thickness_nm.nm(), p.grade).or(mike) {
            Some(u_nm) => PiecesDoubt::of_size(u_nm, p.count, Grade::Miked),
            None => PiecesDoubt::of_size(self.u_marked(), p.count, Grade::Marked),
        };
        pieces
            .iter()
            .map(each)
            .fold(PiecesDoubt::NONE, |sum, more| sum + more)
    }

    /// What is fitted with what was measured so, where that is known.
    pub fn fitted_as_measured(&self, method: Option<Method>) -> Option<Length> {
        // Measured with every shim out, whatever was found in the box.
        let fitted_nm = if method == Some(Method::NoShim) {
            0
        } else {
            self.head.fitted_nm?
        };
        Some(Length::from_nm(fitted_nm))
    }

    /// What to ask of the chooser, where the check is set by pieces, measured, and what is fitted
    /// is known.
    pub fn request<'s>(
        &self,
        spec: &Spec<'_>,
        method: Option<Method>,
        estimate: &Estimate,
        stock: &'s [Stock],
    ) -> Option<choose::Request<'s>> {
        let set_by = spec.check.set_by.as_ref()?;
        // The total of both ends sets another check: its pieces are chosen with those.
        if spec.check.kind == CheckKind::Backlash {
            return None;
        }
        let (window, aim) = spec.lands_in()?;
        let fitted = self.fitted_as_measured(method)?;
        let (clearance_nm, u_nm, dof) = self.expected_of(estimate);
        Some(choose::Request {
            clearance_nm,
            u_nm,
            dof,
            shape: self.shape_of(estimate),
            fitted,
            u_fitted_nm: self.u_fitted(&set_by.family, fitted.nm()),
            effect: set_by.effect(),
            window,
            aim,
            required_probability: self.required_probability,
            harm: spec
                .check
                .harm
                .filter(|_| window.low().is_some() && window.high().is_some()),
            least_pieces: set_by.least_pieces,
            most_pieces: set_by.most_pieces,
            best: SHOWN,
            stock,
        })
    }

    /// The choice of these pieces, with its prediction, from what is in the drawer now.
    ///
    /// # Errors
    /// Where the drawer has no such pieces, too few of them, or more are asked for than the sheet allows.
    pub fn choice_of(
        &self,
        spec: &Spec<'_>,
        method: Option<Method>,
        estimate: &Estimate,
        pieces: &[SizeCount],
    ) -> Ruled<(choose::Choice, Vec<SettingPiece>)> {
        let stock = self.stock(choose::MOST_PIECES);
        let request = self
            .request(spec, method, estimate, &stock)
            .ok_or_else(fitted_unknown)?;
        let (choice, set_aside) = Self::predicted(&request, pieces)?;
        Ok((spec.held_to_chart(&request, choice), set_aside))
    }

    /// What these pieces would give, and which of them are on hand to be set aside.
    pub(super) fn predicted(
        request: &choose::Request<'_>,
        pieces: &[SizeCount],
    ) -> Ruled<(choose::Choice, Vec<SettingPiece>)> {
        let stock = request.stock;
        let with_source: Vec<Pieces> = pieces
            .iter()
            .map(|p| Pieces {
                thickness_nm: p.thickness_nm,
                grade: p.grade,
                count: p.count,
                source: stock
                    .iter()
                    .find(|s| (s.thickness_nm, s.grade) == (p.thickness_nm, p.grade))
                    .map_or(Availability::OnHand, |s| s.source),
            })
            .collect();
        let choice = choose::predict(request, &with_source).ok_or_else(|| {
            Refusal::conflict(
                "not-in-drawer",
                "Those pieces are not to be had: another check has taken them, or the drawer has no such size. The choices on the screen are what there is now.",
            )
        })?;
        let set_aside = with_source
            .iter()
            .map(|p| {
                let count = i32::try_from(p.count).unwrap_or(i32::MAX);
                SettingPiece {
                    thickness_nm: p.thickness_nm.nm(),
                    grade: p.grade,
                    count,
                    reserved: if p.source == Availability::OnHand {
                        count
                    } else {
                        0
                    },
                }
            })
            .collect();
        Ok((choice, set_aside))
    }
}

/// A line of a drawer as the chooser sees it; `u_marked` is the uncertainty of a piece as marked.
fn seen(line: &StockLine, u_marked: f64, quantity: u32, source: Availability) -> Stock {
    Stock {
        thickness_nm: Length::from_nm(line.thickness_nm),
        grade: line.grade,
        u_nm: line.u_nm.unwrap_or(u_marked),
        quantity,
        source,
    }
}

/// Nobody has said what is in.
pub(super) fn fitted_unknown() -> Refusal {
    Refusal::conflict(
        "fitted-unknown",
        "What is fitted now is not known: say what it measures first.",
    )
}

/// Whether nothing on hand reaches the shop's floor.
pub fn none_on_hand(choices: &Choices) -> bool {
    let mut ranked = choices.ranked.iter();
    !ranked.any(|c| c.reaches_floor && c.source == Availability::OnHand)
}
