//! Pieces of other families that would set a check as well: a pressure plate or steels in place of a ring.

use anvil_arithmetic::choose::{self, Choice, Choices, OfFamily, Offer, SizeCount, offers};
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::stock::drawer::{Stock, u_of_tolerance};
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use serde::Serialize;

use super::offer::SHOWN;
use super::record::{OtherDrawer, Record, Setting, SettingPiece, SettingState};
use super::spec::Spec;
use crate::sheet::OrSetBy;

/// A choice of pieces of one of several families.
#[derive(Clone, Debug, Serialize, utoipa::ToSchema)]
pub struct OfferView {
    /// The family's key.
    pub family_key: String,
    /// What people call it.
    pub family_name: String,
    /// What comes out for it of those that are in, in nanometres together; none for the first family, whose
    /// pieces all come out.
    pub out_nm: Option<Length>,
    /// How many steps of the job's build come out to change its pieces.
    pub steps_out: usize,
    /// It stands before the next, which is no better and no worse, since less of the build comes out for it.
    pub less_taken_apart: bool,
    /// Where its drawer is.
    pub place: String,
    /// What goes in.
    pub choice: choose::Choice,
}

/// The number of the first family among those that are offered together.
const FIRST: usize = usize::MAX;

/// Some pieces of one thickness that are in, and what would be asked to swap them.
struct Swap {
    drawer: usize,
    /// How thick one of those that are in is.
    each_nm: i64,
    u_each_nm: f64,
    /// How many come out.
    count: u32,
    stock: Vec<Stock>,
}

impl Swap {
    /// What comes out, together.
    fn out(&self) -> Length {
        Length::from_nm(self.each_nm * i64::from(self.count))
    }
}

impl Record {
    /// What is in of another family: thickness and how many, as the sheet says and as was swapped since.
    fn in_now(&self, other: &OrSetBy) -> Vec<(i64, u32)> {
        let mut inside = vec![(other.fitted.length().nm(), other.pieces)];
        let swapped =
            |s: &&Setting| s.state == SettingState::Fitted && s.family_key == other.family;
        for setting in self.settings.iter().filter(swapped) {
            let count = |p: &SettingPiece| u32::try_from(p.count).unwrap_or(0);
            let n: u32 = setting.pieces.iter().map(count).sum();
            if n == 0 {
                continue;
            }
            let out = setting.fitted_before_nm / i64::from(n);
            if let Some(of) = inside.iter_mut().find(|i| i.0 == out) {
                of.1 = of.1.saturating_sub(n);
            }
            for piece in &setting.pieces {
                match inside.iter_mut().find(|i| i.0 == piece.thickness_nm) {
                    Some(same) => same.1 += count(piece),
                    None => inside.push((piece.thickness_nm, count(piece))),
                }
            }
        }
        inside.retain(|i| i.1 > 0);
        inside
    }

    fn drawer_of(&self, family: &str) -> Option<(usize, &OtherDrawer)> {
        let mut drawers = self.others.iter().enumerate();
        drawers.find(|(_, d)| d.family_key == family)
    }

    /// Every number of pieces of the other families that could be swapped.
    fn swaps(&self, spec: &Spec<'_>) -> Vec<Swap> {
        let mut swaps = Vec::new();
        for other in &spec.check.or_set_by {
            let Some((drawer, lines)) = self.drawer_of(&other.family) else {
                continue;
            };
            let u_each_nm = u_of_tolerance(Length::from_nm(lines.tolerance_nm));
            for (each_nm, most) in self.in_now(other) {
                for count in 1..=most.min(choose::MOST_PIECES) {
                    let mut stock = Self::sizes(&lines.stock, u_each_nm, count);
                    // One like those that are in changes nothing.
                    stock.retain(|s| s.thickness_nm.nm() != each_nm);
                    swaps.push(Swap {
                        drawer,
                        each_nm,
                        u_each_nm,
                        count,
                        stock,
                    });
                }
            }
        }
        swaps
    }

    /// What would be asked of a swap. Pieces of one making are off the same way more often than not, so what
    /// is not known of those that come out is added up.
    fn swap_request<'s>(
        &self,
        spec: &Spec<'_>,
        estimate: &Estimate,
        swap: &'s Swap,
    ) -> Option<choose::Request<'s>> {
        let effect = spec.check.set_by.as_ref()?.effect();
        let (window, aim) = spec.length?;
        let (clearance_nm, u_nm, dof) = self.expected_of(estimate);
        Some(choose::Request {
            clearance_nm,
            u_nm,
            dof,
            shape: self.shape_of(estimate),
            fitted: swap.out(),
            u_fitted_nm: swap.u_each_nm * f64::from(swap.count),
            effect,
            window,
            aim,
            required_probability: self.required_probability,
            harm: None,
            least_pieces: swap.count,
            most_pieces: swap.count,
            best: SHOWN,
            stock: &swap.stock,
        })
    }

    /// The choices of all families that would set the check, in one list; none where there is but one. `first`
    /// are those of the first family, where it could be asked.
    pub(super) fn offered(
        &self,
        spec: &Spec<'_>,
        first: Option<&Choices>,
        estimate: Option<&Estimate>,
    ) -> Ruled<Vec<OfferView>> {
        let Some(estimate) = estimate.filter(|_| !spec.check.or_set_by.is_empty()) else {
            return Ok(Vec::new());
        };
        let steps_out = |family: &str| self.steps_out.get(family).copied().unwrap_or(0);
        let swaps = self.swaps(spec);
        let ranked = swaps
            .iter()
            .filter_map(|swap| self.swap_request(spec, estimate, swap))
            .map(|request| Ok(choose::choose(&request).map_err(Refusal::fault)?.ranked))
            .collect::<Ruled<Vec<Vec<Choice>>>>()?;
        let of_first = first.map(|choices| OfFamily {
            family: FIRST,
            // All of its pieces come out: what matters is what their totals differ by.
            out: Length::ZERO,
            ranked: &choices.ranked,
            steps_out: spec.family().map_or(0, steps_out),
        });
        let mut asked: Vec<OfFamily<'_>> = of_first.into_iter().collect();
        let own = asked.len();
        asked.extend(swaps.iter().zip(&ranked).map(|(swap, ranked)| OfFamily {
            family: swap.drawer,
            out: swap.out(),
            ranked,
            steps_out: steps_out(&self.others[swap.drawer].family_key),
        }));
        let found = offers(&asked, SHOWN);
        let view = |offer: Offer| {
            let Offer {
                of,
                out_nm,
                choice,
                less_taken_apart,
            } = offer;
            let swap = of.checked_sub(own).and_then(|s| swaps.get(s));
            let (family_key, lines) = match swap.map(|s| &self.others[s.drawer]) {
                Some(drawer) => (drawer.family_key.clone(), &drawer.stock),
                None => (spec.family().unwrap_or_default().to_owned(), &self.stock),
            };
            let mut places = lines.iter().map(|l| l.place.clone());
            let named = spec.sheet.family(&family_key).map(|f| f.name.clone());
            OfferView {
                family_name: named.unwrap_or_else(|| family_key.clone()),
                steps_out: steps_out(&family_key),
                less_taken_apart,
                family_key,
                out_nm: swap.map(|_| out_nm),
                place: places.find(|p| !p.is_empty()).unwrap_or_default(),
                choice,
            }
        };
        Ok(found.into_iter().map(view).collect())
    }

    /// The choice of pieces of another family for some that come out, with its prediction.
    ///
    /// # Errors
    /// As of `choice_of`, and where the sheet names no such family or the piece that comes out.
    pub fn choice_of_other(
        &self,
        spec: &Spec<'_>,
        estimate: &Estimate,
        (family, out): (&str, Length),
        pieces: &[SizeCount],
    ) -> Ruled<(choose::Choice, Vec<SettingPiece>)> {
        let count: u32 = pieces.iter().map(|p| p.count).sum();
        let drawer = self.drawer_of(family).map(|d| d.0);
        let swaps = self.swaps(spec);
        let meant = |s: &&Swap| Some(s.drawer) == drawer && s.count == count && s.out() == out;
        let request = swaps
            .iter()
            .find(meant)
            .and_then(|swap| self.swap_request(spec, estimate, swap));
        let request = request.ok_or_else(|| {
            Refusal::field(
                "out_nm",
                "No so many pieces that measure that together are in: the choices on the screen are what there is now.",
            )
        })?;
        Self::predicted(&request, pieces)
    }
}
