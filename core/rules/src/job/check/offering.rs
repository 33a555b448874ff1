//! What could be fitted of all families, and the setting that choosing some of it is.

use anvil_arithmetic::choose::{self, Choices, Fallbacks, SizeCount};
use anvil_arithmetic::measure::Method;
use anvil_arithmetic::refusal::{Refusal, Ruled};
use anvil_arithmetic::uncertainty::estimate::Estimate;
use anvil_arithmetic::units::length::Length;
use chrono::{DateTime, Utc};

use super::assess::Assessment;
use super::offer::{fitted_unknown, none_on_hand};
use super::other_families::OfferView;
use super::record::{Record, Setting, SettingState};
use super::rules::may_choose;
use super::spec::Spec;

/// What could be fitted.
#[derive(Default)]
pub struct Offering {
    /// Of the first family.
    pub choices: Option<Choices>,
    /// Where none of those on hand reaches the floor.
    pub ways_out: Option<Fallbacks>,
    /// Of all families, where there is more than one.
    pub offered: Vec<OfferView>,
    /// To be added to what is in, which stays.
    pub added: Option<Choices>,
}

impl Record {
    /// The clearance that the pieces chosen are expected to give, or else the best choice.
    pub fn expected_nm(&self, choices: Option<&Choices>) -> Option<f64> {
        let open = self.open_setting().map(|s| s.predicted_nm);
        open.or_else(|| Some(choices?.ranked.first()?.predicted_nm))
    }

    /// What could be fitted.
    ///
    /// # Errors
    /// Where the record contradicts itself.
    pub fn offering(
        &self,
        spec: &Spec<'_>,
        request: Option<&choose::Request<'_>>,
        estimate: Option<&Estimate>,
    ) -> Ruled<Offering> {
        let mut choices = request
            .map(choose::choose)
            .transpose()
            .map_err(Refusal::fault)?;
        if let Some((choices, request)) = choices.as_mut().zip(request.filter(|_| spec.by_chart()))
        {
            spec.rank_by_chart(request, choices);
        }
        // Measured with it in, a piece of the size that is in changes nothing.
        if let Some((choices, fitted)) = choices.as_mut().zip(self.just_fitted()) {
            choices
                .ranked
                .retain(|c| c.total_nm.nm() != fitted.total_nm);
        }
        let none_fits = choices.as_ref().is_some_and(none_on_hand);
        let ways_out = request
            .filter(|_| none_fits)
            .map(|request| {
                let gone = self.gone(request.most_pieces);
                choose::fallbacks(request, self.u_marked(), &gone)
            })
            .transpose()
            .map_err(Refusal::fault)?;
        Ok(Offering {
            offered: self.offered(spec, choices.as_ref(), estimate)?,
            added: match request {
                Some(request) => self.could_be_added(spec, request)?,
                None => None,
            },
            choices,
            ways_out,
        })
    }
}

/// Pieces to be set aside, and by whom.
pub struct NewSetting<'a> {
    /// Each size once, with how many of it.
    pub pieces: &'a [SizeCount],
    /// Where they are of another family than the first: its key, and what comes out for them, together.
    pub instead_of: Option<(&'a str, Length)>,
    /// They are added to what is in, which stays.
    pub stays: bool,
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
            None if new.stays => {
                let stock = self.stock(choose::MOST_PIECES);
                let request = self.request(spec, found.method, estimate, &stock);
                let request = request.ok_or_else(fitted_unknown)?;
                self.choice_beside(spec, &request, new.pieces)?
            }
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
            total_nm: choice.total_nm.nm() + if new.stays { fitted_before_nm } else { 0 },
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
            undone_by: None,
            undone_at: None,
            pieces,
        })
    }
}
