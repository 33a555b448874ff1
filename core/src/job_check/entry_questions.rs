//! Readings that look like a slip of the pen or of the unit.

use super::record::{ReadingMark, ReadingRecord, Record};
use super::spec::Spec;
use crate::choose::required::Effect;
use crate::measure::Method;
use crate::sheet::{MeasuredWith, SetBy};
use crate::units::entry_errors::{Expected, Slip, question};
use crate::units::length::Length;

impl Record {
    /// The travels to expect, for questioning slips: those of the window, and those of a stack of
    /// any of the drawer's sizes still missing.
    fn expected(&self, spec: &Spec<'_>, method: Method) -> Option<Expected> {
        let (window, _) = spec.length?;
        let adjustments = spec.check.final_adjustments();
        let shift: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
        let limit = |one: Option<Length>, other: Option<Length>| {
            one.or(other).unwrap_or_default().nm() - shift
        };
        let low = limit(window.low(), window.high());
        let high = limit(window.high(), window.low());
        let (mut from, mut to) = (low, high);
        let missing = |s: &&SetBy| {
            method == Method::NoShim
                || (self.head.round == 0 && s.measured_with == MeasuredWith::Nothing)
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

    /// The slip a reading looks like, where it is one that slips show in and nobody has said
    /// otherwise.
    pub fn slip(&self, spec: &Spec<'_>, reading: &ReadingRecord) -> Option<Slip> {
        if !matches!(reading.way, Method::DialTravel | Method::NoShim) {
            return None;
        }
        let answered = self
            .marks
            .iter()
            .any(|m| m.reading_no == reading.reading_no && m.mark == ReadingMark::Kept);
        if answered || reading.round != self.head.round || self.struck(reading.reading_no).is_some()
        {
            return None;
        }
        let fellows: Vec<Length> = self
            .valid_readings()
            .filter(|r| r.reading_no != reading.reading_no && r.way == reading.way)
            .filter_map(|r| r.taken.figure())
            .collect();
        let expected = self.expected(spec, reading.way)?;
        question(reading.taken.figure()?, expected, &fellows)
    }
}
