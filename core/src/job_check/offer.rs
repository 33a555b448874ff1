//! What could be fitted: the question put to the chooser, its answer, and a choice held to what is in the drawer.

use super::other_families::OfferView;
use chrono::{DateTime, Utc};

use super::assess::Assessment;
use super::record::{Record, Setting, SettingPiece, SettingState, StockLine};
use super::rules::may_choose;
use super::spec::Spec;
use crate::choose::{self, Choices, Fallbacks, Pieces, SizeCount};
use crate::measure::Method;
use crate::refusal::{Refusal, Ruled};
use crate::stock::drawer::{Availability, Grade, Stock, u_of_tolerance};
use crate::uncertainty::estimate::Estimate;
use crate::units::length::Length;

/// How many choices are shown.
pub const SHOWN: usize = 6;

impl Record {
    /// The sizes of the first drawer as the chooser sees them.
    pub fn stock(&self, most_pieces: u32) -> Vec<Stock> {
        Self::sizes(&self.stock, self.u_marked(), most_pieces)
    }

    /// The sizes of a drawer as the chooser sees them: what is free there, else what could be had.
    /// A measured piece that is taken cannot be had: there is no other like it.
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
                    (0, Grade::Marked) if line.discontinued => {
                        (most_pieces, Availability::Discontinued)
                    }
                    (0, Grade::Marked) => (most_pieces, Availability::ToOrder),
                    (free, _) => (free, Availability::OnHand),
                };
                Some(seen(line, u_marked, quantity, source))
            })
            .collect()
    }

    /// A line of the drawer as the chooser sees it.
    pub fn line(&self, line: &StockLine, quantity: u32, source: Availability) -> Stock {
        seen(line, self.u_marked(), quantity, source)
    }

    /// The standard uncertainty of a piece as marked, in nanometres.
    fn u_marked(&self) -> f64 {
        u_of_tolerance(Length::from_nm(self.tolerance_nm))
    }

    /// The standard uncertainty of what is fitted: of the pieces fitted here, or of the one found.
    fn u_fitted(&self, family: &str, fitted_nm: i64) -> f64 {
        let mut fitted = self
            .settings
            .iter()
            .rev()
            .filter(|s| s.state == SettingState::Fitted);
        let Some(setting) = fitted.find(|s| s.family_key == family) else {
            return if fitted_nm == 0 { 0.0 } else { self.u_marked() };
        };
        let variance = setting.pieces.iter().map(|p| {
            let mut lines = self.stock.iter();
            let line = lines.find(|l| (l.thickness_nm, l.grade) == (p.thickness_nm, p.grade));
            let u = line.and_then(|l| l.u_nm).unwrap_or_else(|| self.u_marked());
            f64::from(p.count) * u * u
        });
        variance.sum::<f64>().sqrt()
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
        let (window, aim) = spec.length?;
        // Measured with every shim out, whatever was found in the box.
        let fitted_nm = if method == Some(Method::NoShim) {
            0
        } else {
            self.head.fitted_nm?
        };
        let (clearance_nm, u_nm, dof) = self.expected_of(estimate);
        Some(choose::Request {
            clearance_nm,
            u_nm,
            dof,
            fitted: Length::from_nm(fitted_nm),
            u_fitted_nm: self.u_fitted(&set_by.family, fitted_nm),
            effect: set_by.effect(),
            window,
            aim,
            required_probability: self.required_probability,
            least_pieces: set_by.least_pieces,
            most_pieces: set_by.most_pieces,
            best: SHOWN,
            stock,
        })
    }

    /// The clearance that the pieces chosen are expected to give, or else the best choice.
    pub fn expected_nm(&self, choices: Option<&Choices>) -> Option<f64> {
        let open = self.open_setting().map(|s| s.predicted_nm);
        open.or_else(|| Some(choices?.ranked.first()?.predicted_nm))
    }

    /// What could be fitted.
    pub fn offering(
        &self,
        spec: &Spec<'_>,
        request: Option<&choose::Request<'_>>,
        estimate: Option<&Estimate>,
    ) -> Ruled<Offering> {
        let choices = request
            .map(choose::choose)
            .transpose()
            .map_err(Refusal::fault)?;
        let none_fits = choices.as_ref().is_some_and(none_on_hand);
        let ways_out = request
            .filter(|_| none_fits)
            .map(|request| choose::fallbacks(request, self.u_marked()))
            .transpose()
            .map_err(Refusal::fault)?;
        Ok(Offering {
            offered: self.offered(spec, choices.as_ref(), estimate)?,
            choices,
            ways_out,
        })
    }

    /// The choice of these pieces, with its prediction, from what is in the drawer now.
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
            .ok_or_else(|| {
                Refusal::conflict(
                    "fitted-unknown",
                    "What is fitted now is not known: say what it measures first.",
                )
            })?;
        Self::predicted(&request, pieces)
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

/// Pieces to be set aside, and by whom.
pub struct NewSetting<'a> {
    /// Each size once, with how many of it.
    pub pieces: &'a [SizeCount],
    /// Where they are of another family than the first: its key, and what comes out for them, together.
    pub instead_of: Option<(&'a str, Length)>,
    /// The initials.
    pub who: &'a str,
    /// When.
    pub at: DateTime<Utc>,
}

impl Record {
    /// The setting that choosing these pieces is, with its prediction.
    ///
    /// # Errors
    /// See [`may_choose`]; and where what is fitted now is not known, or the pieces are not to be had.
    pub fn setting_of(
        &self,
        spec: &Spec<'_>,
        found: &Assessment,
        new: &NewSetting<'_>,
    ) -> Ruled<Setting> {
        may_choose(self, found, new.pieces)?;
        let Some(estimate) = &found.estimate else {
            return Err(Refusal::fault("chosen without an estimate"));
        };
        let (choice, pieces) = match new.instead_of {
            None => self.choice_of(spec, found.method, estimate, new.pieces)?,
            Some(other) => self.choice_of_other(spec, estimate, other, new.pieces)?,
        };
        let fitted_before_nm = match new.instead_of {
            Some((_, out)) => out.nm(),
            None if found.method == Some(Method::NoShim) => 0,
            None => self.head.fitted_nm.unwrap_or(0),
        };
        let family = new.instead_of.map(|i| i.0).or(spec.family());
        Ok(Setting {
            setting_no: self.settings.last().map_or(1, |s| s.setting_no + 1),
            round: self.head.round,
            family_key: family.unwrap_or_default().to_owned(),
            total_nm: choice.total_nm.nm(),
            fitted_before_nm,
            measured_nm: estimate.clearance_nm,
            predicted_nm: choice.predicted_nm,
            u_nm: choice.u_nm,
            dof: choice.dof,
            chance: choice.chance,
            usual_nm: self.bias().map_or(0.0, |u| u.mean_nm),
            chosen_by: new.who.to_owned(),
            chosen_at: new.at,
            state: SettingState::Chosen,
            ended_by: None,
            ended_at: None,
            pieces,
        })
    }
}

/// What could be fitted.
#[derive(Default)]
pub struct Offering {
    /// Of the first family.
    pub choices: Option<Choices>,
    /// Where none of those on hand reaches the floor.
    pub ways_out: Option<Fallbacks>,
    /// Of all families, where there is more than one.
    pub offered: Vec<OfferView>,
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

/// Whether nothing on hand reaches the shop's floor.
pub fn none_on_hand(choices: &Choices) -> bool {
    let mut ranked = choices.ranked.iter();
    !ranked.any(|c| c.reaches_floor && c.source == Availability::OnHand)
}
