//! One check put together: its records, what the core makes of them, and what is sent.

mod beside;
mod history;
mod others;
mod selector;
mod views;

use anvil_core::choose::{self, Choices, Pieces, SizeCount, WaysOut};
use anvil_core::confirm::off_prediction;
use anvil_core::drawer::{Grade, Source, Stock, u_of_tolerance};
use anvil_core::estimate::Estimate;
use anvil_core::judge::{Call, Verdict};
use anvil_core::length::{Length, Unit};
use anvil_core::measure::Way;
use anvil_core::measure::entry::Taken;
use anvil_core::measure::stack::Term;
use anvil_core::measure::torque::{TorqueEnds, TorqueFound};
use anvil_core::next::{Phase, Progress};
use anvil_core::sheet::{Check, CheckKind, MeasuredWith, Pack, Sheet};
use anvil_core::slips::{Expected, Slip, question};
use anvil_core::usual::counted_in;
use anvil_core::wanted::{Effect, wanted};
use anvil_core::window::{Aim, Ends, Window};
use chrono::Utc;

mod pack;

pub use views::*;

use crate::problem::{Answer, Problem};
use crate::store::check::{
    Mark, Reading, Record, Setting, SettingPiece, Signing, StockLine, UsualSaid,
};
use crate::ways::{self, Found};

/// How many choices are shown.
const SHOWN: usize = 6;

/// A check as the sheet has it, with what the sheet says of it worked out.
pub struct Spec<'a> {
    sheet: &'a Sheet,
    /// The check.
    pub check: &'a Check,
    /// The window the shop works to and where in it it aims, where the check is of a length.
    pub length: Option<(Window, Aim)>,
    /// The window of its turning torque.
    pub torque: Option<TorqueEnds>,
}

impl<'a> Spec<'a> {
    /// The check of that key.
    pub fn of(sheet: &'a Sheet, key: &str) -> Answer<Self> {
        let check = sheet.check(key).ok_or_else(|| {
            Problem::missing(format!("The sheet {} has no check “{key}”.", sheet.key))
        })?;
        let length = check
            .working_window()
            .map(|window| check.aim(window).map(|aim| (window, aim)))
            .transpose()
            .map_err(Problem::server)?;
        let torque = check.torque.map(|t| TorqueEnds {
            low_n_m: t.low_n_m,
            high_n_m: t.high_n_m,
        });
        Ok(Self {
            sheet,
            check,
            length,
            torque,
        })
    }

    /// The same with the window and target that the job has of its own, where it has.
    #[must_use]
    pub fn on_job(mut self, record: &Record) -> Self {
        if let Some(own) = record.own_aim() {
            self.length = Some(own);
        }
        self
    }

    /// The terms of its stack sum.
    pub fn terms(&self) -> Vec<Term> {
        self.sheet.terms_of(self.check)
    }

    /// The clutch pack that it signs off.
    pub fn pack(&self) -> Option<&'a Pack> {
        self.sheet.pack_of(&self.check.key)
    }

    /// The keys of the drawers it may draw from, its first one first.
    pub fn families(&self) -> Vec<String> {
        let first = self.check.set_by.iter().map(|s| s.family.clone());
        let others = self.check.or_set_by.iter().map(|o| o.family.clone());
        first.chain(others).collect()
    }

    /// The key of the drawer it draws from first.
    pub fn family(&self) -> Option<&'a str> {
        self.check.set_by.as_ref().map(|s| s.family.as_str())
    }

    /// A leaf measures how far its retainer stands off, and not a clearance.
    pub fn stands_off(&self) -> bool {
        self.check.kind == CheckKind::RetainerPinch
    }

    /// Something can be done about it: pieces set it, or shims can change ends.
    fn is_adjustable(&self) -> bool {
        let set = self.check.set_by.is_some() || self.check.selector.is_some();
        set && self.length.is_some()
    }
}

/// What the core makes of a record.
pub struct Assessed {
    /// The ways this round was measured in.
    pub ways: Vec<Found>,
    /// The way that counts.
    pub way: Option<Way>,
    /// What it says.
    pub estimate: Option<Estimate>,
    /// The turning torque, where that is what counts.
    pub torque: Option<TorqueFound>,
    /// Why there is no estimate, where there are readings.
    pub no_estimate: Option<String>,
    /// The verdict on the length.
    pub verdict: Option<Verdict>,
    /// The call on whichever counts.
    pub call: Option<Call>,
    /// How far the check has come.
    pub phase: Phase,
}

impl Record {
    /// Why a reading is struck out, where it is.
    fn struck(&self, reading_no: i32) -> Option<&Mark> {
        self.marks
            .iter()
            .rev()
            .find(|m| m.reading_no == reading_no && m.mark != "kept")
            .filter(|m| m.mark == "struck")
    }

    /// This round's readings that stand.
    pub fn standing(&self) -> impl Iterator<Item = &Reading> {
        self.readings
            .iter()
            .filter(|r| r.round == self.head.round && self.struck(r.reading_no).is_none())
    }

    /// The choice that waits to be fitted.
    pub fn open_setting(&self) -> Option<&Setting> {
        self.settings.iter().find(|s| s.state == "chosen")
    }

    /// What is in the box now.
    pub fn fitted_setting(&self) -> Option<&Setting> {
        self.settings.iter().rev().find(|s| s.state == "fitted")
    }

    /// The window and target of the job's own, where it has them.
    pub fn own_aim(&self) -> Option<(Window, Aim)> {
        let said = self.aims.last().filter(|a| !a.as_sheet)?;
        let limit = |nm: Option<i64>| nm.map(Length::from_nm);
        let window = Window::new(limit(said.low_nm), limit(said.high_nm)).ok()?;
        let aim = Aim {
            from_nm: said.aim_from_nm?,
            to_nm: said.aim_to_nm?,
        };
        Some((window, aim))
    }

    /// The usual difference that counts here, where one does.
    pub fn usual(&self) -> Option<&UsualSaid> {
        self.usuals.last().filter(|u| u.counts)
    }

    /// A clearance as it will be, the usual difference counted in where it counts: the figure, its
    /// standard uncertainty and degrees of freedom.
    pub fn expected_of(&self, estimate: &Estimate) -> (f64, f64, Option<f64>) {
        let measured = (estimate.clearance_nm, estimate.u_nm, estimate.dof);
        match self.usual() {
            Some(u) => counted_in(measured, (u.mean_nm, u.u_nm, u.dof)),
            None => measured,
        }
    }

    /// The signature that stands.
    pub fn signature(&self) -> Option<&Signing> {
        self.signings.last().filter(|s| s.act == "signed")
    }

    /// What the core makes of it.
    pub fn assess(&self, spec: &Spec<'_>) -> Answer<Assessed> {
        let ways = ways::found(self, spec)?;
        let counts = ways::counting(self, spec, &ways);
        let estimate = counts.and_then(Found::estimate).cloned();
        let torque = counts
            .and_then(|c| c.torque.as_ref())
            .and_then(|t| t.as_ref().ok())
            .cloned();
        let no_estimate = counts.and_then(|c| match &c.torque {
            Some(torque) => torque.as_ref().err().cloned(),
            None => c.measured.estimate.as_ref().err().map(ToString::to_string),
        });
        let verdict = counts.and_then(|c| c.verdict(spec));
        let of_length = verdict.as_ref().map(|v| v.call);
        let call = torque.as_ref().map(|t| t.call).or(of_length);
        let by_feel = estimate.as_ref().is_some_and(|e| !e.signs);
        let open = self.open_setting();
        let phase = Progress {
            signed: self.signature().is_some(),
            chosen: open.is_some(),
            awaiting_part: open.is_some_and(|s| s.pieces.iter().any(|p| p.reserved < p.count)),
            fitted: self.fitted_setting().is_some() || self.shims.iter().any(|s| s.moved),
            // Fingers do not count as having measured.
            measured: (estimate.is_some() && !by_feel) || torque.is_some(),
            inside: call == Some(Call::In),
            adjustable: spec.is_adjustable(),
        }
        .phase();
        Ok(Assessed {
            way: counts.map(|c| c.way),
            ways,
            estimate,
            torque,
            no_estimate,
            verdict,
            call,
            phase,
        })
    }

    /// The sizes of the first drawer as the chooser sees them.
    pub fn stock(&self, most_pieces: u32) -> Vec<Stock> {
        Self::sizes(&self.stock, self.u_marked(), most_pieces)
    }

    /// The sizes of a drawer as the chooser sees them: what is free there, else what could be had.
    /// A measured piece that is taken cannot be had: there is no other like it.
    fn sizes(lines: &[StockLine], u_marked: f64, most_pieces: u32) -> Vec<Stock> {
        lines
            .iter()
            .filter_map(|line| {
                let count = |n: i32| u32::try_from(n).unwrap_or(0);
                let (quantity, source) = match (count(line.on_hand - line.reserved), line.grade) {
                    (0, Grade::Miked | Grade::Used) => return None,
                    (0, Grade::Marked) if line.coming > 0 => (count(line.coming), Source::OnOrder),
                    (0, Grade::Marked) if line.discontinued => (most_pieces, Source::Discontinued),
                    (0, Grade::Marked) => (most_pieces, Source::ToOrder),
                    (free, _) => (free, Source::OnHand),
                };
                Some(seen(line, u_marked, quantity, source))
            })
            .collect()
    }

    /// A line of the drawer as the chooser sees it.
    pub fn line(&self, line: &StockLine, quantity: u32, source: Source) -> Stock {
        seen(line, self.u_marked(), quantity, source)
    }

    /// The standard uncertainty of a piece as marked, in nanometres.
    fn u_marked(&self) -> f64 {
        u_of_tolerance(Length::from_nm(self.tolerance_nm))
    }

    /// The standard uncertainty of what is fitted: of the pieces fitted here, or of the one found.
    fn u_fitted(&self, family: &str, fitted_nm: i64) -> f64 {
        let mut fitted = self.settings.iter().rev().filter(|s| s.state == "fitted");
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
        way: Option<Way>,
        estimate: &Estimate,
        stock: &'s [Stock],
    ) -> Option<choose::Request<'s>> {
        let set_by = spec.check.set_by.as_ref()?;
        let (window, aim) = spec.length?;
        // Measured with every shim out, whatever was found in the box.
        let fitted_nm = if way == Some(Way::NoShim) {
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
            floor: self.floor,
            least_pieces: set_by.least_pieces,
            most_pieces: set_by.most_pieces,
            best: SHOWN,
            stock,
        })
    }

    /// The travels to expect, for questioning slips: those of the window, and those of a stack of
    /// any of the drawer's sizes still missing.
    fn expected(&self, spec: &Spec<'_>, way: Way) -> Option<Expected> {
        let (window, _) = spec.length?;
        let adjustments = spec.check.final_adjustments();
        let shift: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
        let limit = |one: Option<Length>, other: Option<Length>| {
            one.or(other).unwrap_or_default().nm() - shift
        };
        let low = limit(window.low(), window.high());
        let high = limit(window.high(), window.low());
        let (mut from, mut to) = (low, high);
        let missing = |s: &&anvil_core::sheet::SetBy| {
            way == Way::NoShim || (self.head.round == 0 && s.measured_with == MeasuredWith::Nothing)
        };
        if let Some(set_by) = spec.check.set_by.as_ref().filter(missing) {
            let sizes = || self.stock.iter().map(|s| s.thickness_nm);
            let thinnest = sizes().min().unwrap_or(0) * i64::from(set_by.least_pieces.min(1));
            let thickest = sizes().max().unwrap_or(0) * i64::from(set_by.most_pieces);
            match set_by.effect() {
                Effect::Closes => (from, to) = (low + thinnest, high + thickest),
                Effect::Opens => (from, to) = (low - thickest, high - thinnest),
            }
        }
        Some(Expected {
            from: Length::from_nm(from.max(0)),
            to: Length::from_nm(to.max(0)),
        })
    }

    fn reading_views(&self, spec: &Spec<'_>) -> Vec<ReadingView> {
        let gauge_name = |key: Option<&String>| {
            self.gauges
                .iter()
                .find(|g| Some(&g.gauge_key) == key)
                .map_or_else(String::new, |g| g.name.clone())
        };
        self.readings
            .iter()
            .map(|r| ReadingView {
                reading_no: r.reading_no,
                round: r.round,
                typed: typed_with_unit(r),
                way: r.way,
                figure_nm: r.taken.figure(),
                taken: r.taken.clone(),
                gauge: gauge_name(r.gauge_key.as_ref()),
                who: r.who.clone(),
                at: r.at,
                struck: self.struck(r.reading_no).map(|m| m.reason.clone()),
                question: self.slip(spec, r),
            })
            .collect()
    }

    /// The slip a reading looks like, where it is one that slips show in and nobody has said
    /// otherwise.
    fn slip(&self, spec: &Spec<'_>, reading: &Reading) -> Option<Slip> {
        if !matches!(reading.way, Way::DialTravel | Way::NoShim) {
            return None;
        }
        let answered = self
            .marks
            .iter()
            .any(|m| m.reading_no == reading.reading_no && m.mark == "kept");
        if answered || reading.round != self.head.round || self.struck(reading.reading_no).is_some()
        {
            return None;
        }
        let fellows: Vec<Length> = self
            .standing()
            .filter(|r| r.reading_no != reading.reading_no && r.way == reading.way)
            .filter_map(|r| r.taken.figure())
            .collect();
        let expected = self.expected(spec, reading.way)?;
        question(reading.taken.figure()?, expected, &fellows)
    }

    fn ready_views(&self, spec: &Spec<'_>) -> Vec<ReadyView> {
        let by = |tick: &str| {
            self.ticks
                .iter()
                .rev()
                .find(|t| t.tick == tick && t.round == self.head.round)
                .filter(|t| t.done)
                .map(|t| t.who.clone())
        };
        let ready = spec.sheet.ready_of(spec.check).into_iter();
        ready
            .map(|r| ReadyView {
                by: by(&r.tick),
                tick: r.tick,
                why: r.why,
            })
            .collect()
    }

    fn gauge_views(&self) -> Vec<GaugeView> {
        let today = Utc::now().date_naive();
        self.gauges
            .iter()
            .filter(|g| !g.retired)
            .map(|g| GaugeView {
                key: g.gauge_key.clone(),
                name: g.name.clone(),
                kind: g.kind,
                unit: g.unit.clone(),
                ways: Way::ALL
                    .into_iter()
                    .filter(|way| ways::kinds(*way).contains(&g.kind))
                    .collect(),
                usual_for: Way::ALL
                    .into_iter()
                    .filter(|way| {
                        self.gauge_for(*way)
                            .is_some_and(|u| u.gauge_key == g.gauge_key)
                    })
                    .collect(),
                resolution_nm: g.resolution_nm,
                permissible_error_nm: g.permissible_error_nm,
                leaves_nm: g.leaves_nm.clone(),
                live: !g.live_at.is_empty(),
                overdue_since: g.due_on.filter(|due| *due < today),
            })
            .collect()
    }

    fn set_by_view(&self, spec: &Spec<'_>, s: &anvil_core::sheet::SetBy) -> SetByView {
        SetByView {
            family_key: s.family.clone(),
            family_name: spec
                .sheet
                .family(&s.family)
                .map_or_else(|| s.family.clone(), |f| f.name.clone()),
            effect: s.effect(),
            most_pieces: s.most_pieces,
            measured_with: s.measured_with,
            sizes: self
                .stock
                .iter()
                .map(|l| SizeView {
                    thickness_nm: l.thickness_nm,
                    grade: l.grade,
                    nominal_nm: l.nominal_nm,
                    place: l.place.clone(),
                    free: l.on_hand - l.reserved,
                    coming: l.coming,
                })
                .collect(),
        }
    }

    /// The clearance that the pieces chosen are expected to give, or else the best choice.
    fn expected_nm(&self, choices: Option<&Choices>) -> Option<f64> {
        let open = self.open_setting().map(|s| s.predicted_nm);
        open.or_else(|| Some(choices?.ranked.first()?.predicted_nm))
    }

    /// What could be fitted.
    fn offering(
        &self,
        spec: &Spec<'_>,
        request: Option<&choose::Request<'_>>,
        estimate: Option<&Estimate>,
    ) -> Answer<Offering> {
        let choices = request
            .map(choose::choose)
            .transpose()
            .map_err(Problem::server)?;
        let none_fits = choices.as_ref().is_some_and(none_on_hand);
        let ways_out = request
            .filter(|_| none_fits)
            .map(|request| choose::ways_out(request, self.u_marked()))
            .transpose()
            .map_err(Problem::server)?;
        Ok(Offering {
            offered: self.offered(spec, choices.as_ref(), estimate)?,
            choices,
            ways_out,
        })
    }

    /// All that the Gap screen needs, from what was found of this very record.
    pub fn view(self, spec: &Spec<'_>, found: Assessed) -> Answer<GapView> {
        let Assessed {
            ways,
            way,
            estimate,
            torque,
            no_estimate,
            verdict,
            call: _,
            phase,
        } = found;
        let set_by = spec.check.set_by.as_ref();
        let stock = self.stock(set_by.map_or(1, |s| s.most_pieces));
        let request = estimate
            .as_ref()
            .and_then(|e| self.request(spec, way, e, &stock));
        let choosing = matches!(phase, Phase::Choose | Phase::Sign);
        let Offering {
            choices,
            ways_out,
            offered,
        } = if choosing {
            self.offering(spec, request.as_ref(), estimate.as_ref())?
        } else {
            Offering::default()
        };
        let setting = self.open_setting().or(self.fitted_setting());
        let off = setting
            .filter(|s| s.state == "fitted" && s.round + 1 == self.head.round)
            .zip(estimate.as_ref())
            .map(|(s, e)| off_prediction(e, s.predicted_nm, s.u_nm, s.dof));
        let signed = self.signature().map(signature_view);
        let book = spec.check.window.as_ref().and_then(|w| w.window().ok());
        let by_book = book
            .filter(|b| spec.length.is_some_and(|l| l.0 != *b))
            .map(|b| self.by_book(b, estimate.as_ref(), request.as_ref(), choices.as_ref()))
            .transpose()?;
        let hot = Self::hot(
            spec,
            estimate.as_ref().map(|e| e.clearance_nm),
            self.expected_nm(choices.as_ref()),
        );
        Ok(GapView {
            hot,
            job_no: self.job_no,
            title: self.head.title.clone(),
            sheet_key: self.head.sheet_key.clone(),
            check_key: self.check_key.clone(),
            name: spec.check.name.clone(),
            kind: spec.check.kind,
            rule: spec.check.rule.clone(),
            pack: spec.pack().map(|p| self.pack_view(p)),
            pinions: spec.check.pinions.as_ref().map(PinionsView::from),
            selector: spec.check.selector.as_ref().map(|s| self.selector_view(s)),
            method: spec.check.method,
            how: spec.check.how.clone(),
            ready: self.ready_views(spec),
            adjustments: adjustment_views(spec),
            terms: ways::terms(spec),
            cautions: spec.check.cautions.clone(),
            window: spec.length.map_or(Ends::default(), |l| l.0.into()),
            torque_window: spec.torque,
            by_book,
            aim: spec.length.map(|l| l.1),
            own_aim: self.aims.last().filter(|a| !a.as_sheet).map(|a| OwnAim {
                reason: a.reason.clone(),
                who: a.who.clone(),
                at: a.at,
            }),
            usual: self.usual().cloned(),
            version: self.head.version,
            phase,
            round: self.head.round,
            set_by: set_by.map(|s| self.set_by_view(spec, s)),
            coupled_with: coupled_names(spec),
            fitted_nm: self.head.fitted_nm,
            readings: self.reading_views(spec),
            gauges: self.gauge_views(),
            next_leaf: ways::next_leaf(&self, spec),
            ways: ways::views(&self, spec, &ways),
            way,
            torque,
            wanted: request
                .as_ref()
                .map(|r| wanted(r.clearance_nm, r.aim, r.fitted, r.effect)),
            estimate,
            no_estimate,
            verdict,
            chart: request.as_ref().filter(|_| choosing).and_then(|r| {
                Self::chart_says(spec, r, choices.as_ref().and_then(|c| c.ranked.first()))
            }),
            choices,
            offered,
            ways_out,
            floor: self.floor,
            setting: setting.map(|s| setting_view(s, spec)),
            off_prediction: off,
            signed,
            history: self.history(),
        })
    }

    /// The choice of these pieces, with its prediction, from what is in the drawer now.
    pub fn choice_of(
        &self,
        spec: &Spec<'_>,
        way: Option<Way>,
        estimate: &Estimate,
        pieces: &[SizeCount],
    ) -> Answer<(choose::Choice, Vec<SettingPiece>)> {
        let stock = self.stock(choose::MOST_PIECES);
        let request = self.request(spec, way, estimate, &stock).ok_or_else(|| {
            Problem::conflict(
                "fitted-unknown",
                "What is fitted now is not known: say what it measures first.",
            )
        })?;
        Self::predicted(&request, pieces)
    }

    /// What these pieces would give, and which of them are on hand to be set aside.
    fn predicted(
        request: &choose::Request<'_>,
        pieces: &[SizeCount],
    ) -> Answer<(choose::Choice, Vec<SettingPiece>)> {
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
                    .map_or(Source::OnHand, |s| s.source),
            })
            .collect();
        let choice = choose::predict(request, &with_source).ok_or_else(|| {
            Problem::conflict(
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
                    reserved: if p.source == Source::OnHand { count } else { 0 },
                }
            })
            .collect();
        Ok((choice, set_aside))
    }
}

/// What could be fitted.
#[derive(Default)]
struct Offering {
    /// Of the first family.
    choices: Option<Choices>,
    /// Where none of those on hand reaches the floor.
    ways_out: Option<WaysOut>,
    /// Of all families, where there is more than one.
    offered: Vec<OfferView>,
}

/// A line of a drawer as the chooser sees it; `u_marked` is the uncertainty of a piece as marked.
fn seen(line: &StockLine, u_marked: f64, quantity: u32, source: Source) -> Stock {
    Stock {
        thickness_nm: Length::from_nm(line.thickness_nm),
        grade: line.grade,
        u_nm: line.u_nm.unwrap_or(u_marked),
        quantity,
        source,
    }
}

/// Whether nothing on hand reaches the shop's floor.
fn none_on_hand(choices: &Choices) -> bool {
    let mut ranked = choices.ranked.iter();
    !ranked.any(|c| c.reaches_floor && c.source == Source::OnHand)
}

fn coupled_names(spec: &Spec<'_>) -> Vec<String> {
    let coupled = spec.sheet.coupled_with(spec.check);
    coupled.iter().map(|c| c.name.clone()).collect()
}

fn adjustment_views(spec: &Spec<'_>) -> Vec<AdjustmentView> {
    let adjustments = spec.check.final_adjustments();
    adjustments
        .into_iter()
        .map(|a| AdjustmentView {
            what: a.what,
            by_nm: a.by,
            tolerance_nm: a.tolerance,
        })
        .collect()
}

fn typed_with_unit(reading: &Reading) -> String {
    let one_figure = matches!(
        reading.taken,
        Taken::Travel { .. } | Taken::Pair { .. } | Taken::ByHand { .. }
    );
    let bare = reading
        .typed
        .replace(" to ", "")
        .replace("about ", "")
        .chars()
        .all(|c| !c.is_alphabetic() && !"\"”″“'’".contains(c));
    if bare && one_figure {
        let unit = crate::store::shop::unit_named(&reading.bench_unit);
        format!("{} {}", reading.typed, Unit::sign(unit))
    } else {
        reading.typed.clone()
    }
}

fn setting_view(setting: &Setting, spec: &Spec<'_>) -> SettingView {
    let family = setting.family_key.as_str();
    let other = spec.family() != Some(family);
    SettingView {
        family_name: spec
            .sheet
            .family(family)
            .map_or(family, |f| &f.name)
            .to_owned(),
        out_nm: other.then_some(setting.fitted_before_nm),
        setting_no: setting.setting_no,
        state: setting.state.clone(),
        pieces: setting.pieces.clone(),
        total_nm: setting.total_nm,
        predicted_nm: setting.predicted_nm,
        expanded_nm: anvil_core::judge::t95(setting.dof) * setting.u_nm,
        chance: setting.chance,
        chosen_by: setting.chosen_by.clone(),
        chosen_at: setting.chosen_at,
    }
}

fn signature_view(signing: &Signing) -> SignatureView {
    SignatureView {
        who: signing.who.clone(),
        at: signing.at,
        call: signing.call.as_deref().and_then(call_named),
        achieved_nm: signing.achieved_nm,
        achieved_n_m: signing.achieved_n_m,
        reason: signing.reason.clone(),
    }
}

/// The name a call has in the database.
pub const fn call_name(call: Call) -> &'static str {
    match call {
        Call::In => "in",
        Call::Tight => "tight",
        Call::Loose => "loose",
        Call::TooClose => "too_close",
    }
}

fn call_named(name: &str) -> Option<Call> {
    serde_json::from_value(name.into()).ok()
}

/// The name a phase has in the database.
pub const fn phase_name(phase: Phase) -> &'static str {
    match phase {
        Phase::Measure => "measure",
        Phase::Choose => "choose",
        Phase::AwaitPart => "await_part",
        Phase::Fit => "fit",
        Phase::MeasureAgain => "measure_again",
        Phase::Sign => "sign",
        Phase::Signed => "signed",
    }
}

/// The phase of that name; none for checks that are not measured here.
pub fn phase_named(name: &str) -> Option<Phase> {
    serde_json::from_value(name.into()).ok()
}
