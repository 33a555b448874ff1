//! Readings that look like a slip of the pen or of the unit.
//!
//! One that is far from its fellows is asked about by itself. Whoever reads in the wrong unit reads everything in it:
//! readings alike and far from what is expected are asked about together, by their mean.

use anvil_arithmetic::choose::required::Effect;
use anvil_arithmetic::measure::depth_ring::BarOn;
use anvil_arithmetic::measure::fields::{Says, Shown};
use anvil_arithmetic::measure::selector_gaps::{GapsReading, Limits};
use anvil_arithmetic::measure::{Method, OfKind, Reading};
use anvil_arithmetic::units::entry_errors::{
    Cause, Expected, FAR, far_from, question, question_of_torque,
};
use anvil_arithmetic::units::length::Length;
use serde::Serialize;

use super::past::WantedBefore;
use super::record::{ReadingMark, ReadingRecord, Record};
use super::spec::Spec;
use crate::sheet::{MeasuredWith, SetBy};

/// A question to put to the person: did you mean this?
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct EntryQuestion {
    /// What it would be without the slip.
    pub meant: Meant,
    /// What was read: of several readings their mean.
    pub read: Meant,
    /// Which slip it looks like.
    pub cause: Cause,
    /// The numbers of the readings it is about.
    pub readings: Vec<i32>,
}

/// A length or a torque.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, utoipa::ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Meant {
    Length { nm: f64 },
    Torque { n_m: f64 },
}

/// What one reading shows of one thing, in nanometres or newton metres.
#[derive(Clone, Copy)]
struct Figure {
    reading_no: i32,
    amount: f64,
    says: Says,
}

impl Figure {
    /// Far from what is expected on a side that it says something of.
    fn is_far(&self, expected: (f64, f64)) -> bool {
        let above = self.amount > expected.1;
        let tells = match self.says {
            Says::Exactly => true,
            Says::AtLeast => above,
            Says::Less => !above,
        };
        tells && far_from(self.amount, expected)
    }
}

impl Record {
    /// The question that a reading of this round raises, where nobody has answered it. One about several readings is
    /// raised by the last of them.
    pub fn question(&self, spec: &Spec<'_>, reading: &ReadingRecord) -> Option<EntryQuestion> {
        let standing = self
            .valid_readings()
            .any(|r| r.reading_no == reading.reading_no);
        if !standing || self.is_kept(reading.reading_no) {
            return None;
        }
        match reading.taken.shown() {
            Shown::Nothing => None,
            Shown::Length { of, .. } => {
                let expected = self.expected(spec, reading)?;
                let figures = self.figures(reading.way, |shown| match shown {
                    Shown::Length {
                        length,
                        of: other,
                        says,
                    } if other == of => Some((length.as_f64(), says)),
                    _ => None,
                });
                self.about(reading.reading_no, &figures, expected, question_of_length)
            }
            Shown::Torque(_) => {
                let window = spec.torque?;
                let expected = closed(window.low_n_m, window.high_n_m);
                let figures = self.figures(reading.way, |shown| match shown {
                    Shown::Torque(torque) => Some((torque.0, Says::Exactly)),
                    _ => None,
                });
                let ask = |n_m: f64, expected, fellows: &[f64]| {
                    let (meant, cause) = question_of_torque(n_m, expected, fellows)?;
                    Some((Meant::Torque { n_m: meant }, Meant::Torque { n_m }, cause))
                };
                self.about(reading.reading_no, &figures, expected, ask)
            }
            Shown::Gaps(left, right) => match limits_of(spec, &reading.taken) {
                Some((taken, limits)) => self.about_limited_gaps(reading, taken, limits),
                None => self.about_gaps(reading, [left, right]),
            },
        }
    }

    /// The questions about the readings of a method that nobody has answered.
    pub fn questions<'r>(
        &'r self,
        spec: &'r Spec<'_>,
        method: Option<Method>,
    ) -> impl Iterator<Item = EntryQuestion> + 'r {
        let of_method = self.valid_readings().filter(move |r| Some(r.way) == method);
        of_method.filter_map(|reading| self.question(spec, reading))
    }

    fn is_kept(&self, reading_no: i32) -> bool {
        let mut marks = self.marks.iter();
        marks.any(|m| m.reading_no == reading_no && m.mark == ReadingMark::Kept)
    }

    /// What this round's standing readings of a method show.
    fn figures(&self, method: Method, pick: impl Fn(Shown) -> Option<(f64, Says)>) -> Vec<Figure> {
        let of_method = self.valid_readings().filter(|r| r.way == method);
        let figure = |r: &ReadingRecord| {
            let (amount, says) = pick(r.taken.shown())?;
            Some(Figure {
                reading_no: r.reading_no,
                amount,
                says,
            })
        };
        of_method.filter_map(figure).collect()
    }

    /// The question about one of several figures: by itself, or by the mean of those that are as far off.
    fn about(
        &self,
        reading_no: i32,
        figures: &[Figure],
        expected: (f64, f64),
        ask: impl Fn(f64, (f64, f64), &[f64]) -> Option<(Meant, Meant, Cause)>,
    ) -> Option<EntryQuestion> {
        let this = figures.iter().find(|f| f.reading_no == reading_no)?;
        if this.amount == 0.0 {
            return nought(this, figures, expected);
        }
        if !this.is_far(expected) {
            return None;
        }
        let alike: Vec<&Figure> = figures
            .iter()
            .filter(|f| f.is_far(expected) && !far_from(f.amount, (this.amount, this.amount)))
            .collect();
        let numbers: Vec<i32> = alike.iter().map(|f| f.reading_no).collect();
        // One that is right says that those like it are.
        if numbers.iter().any(|n| self.is_kept(*n)) || numbers.last() != Some(&reading_no) {
            return None;
        }
        let others = figures.iter().filter(|f| f.reading_no != reading_no);
        let fellows: Vec<f64> = others
            .filter(|f| f.says == Says::Exactly && numbers.len() == 1)
            .map(|f| f.amount)
            .collect();
        let mean = alike.iter().map(|f| f.amount).sum::<f64>() / alike.len() as f64;
        let (meant, read, cause) = ask(mean, expected, &fellows)?;
        Some(EntryQuestion {
            meant,
            read,
            cause,
            readings: numbers,
        })
    }

    /// The question about gaps of which the sheet says how wide they may be.
    fn about_limited_gaps(
        &self,
        reading: &ReadingRecord,
        taken: GapsReading,
        limits: [Limits; 2],
    ) -> Option<EntryQuestion> {
        let sides = [|g: &GapsReading| g.left_nm, |g: &GapsReading| g.right_nm];
        let limited = sides.into_iter().zip(limits).filter(|(_, l)| !l.are_open());
        let mut asked = limited.filter_map(|(side, limits)| {
            let [least, most] = [limits.least_nm, limits.most_nm].map(|l| l.map(Length::as_f64));
            let fellows: Vec<f64> = self
                .valid_readings()
                .filter(|r| r.reading_no != reading.reading_no)
                .filter_map(|r| GapsReading::of(&r.taken))
                .filter(|g| g.gear == taken.gear)
                .map(|g| side(g).as_f64())
                .collect();
            question_of_length(side(&taken).as_f64(), closed(least, most), &fellows)
        });
        asked.next().map(|(meant, read, cause)| EntryQuestion {
            meant,
            read,
            cause,
            readings: vec![reading.reading_no],
        })
    }

    /// The question about a gear's gaps. No sheet says how wide a gap is, so only the others say what to expect.
    fn about_gaps(&self, reading: &ReadingRecord, gaps: [Length; 2]) -> Option<EntryQuestion> {
        let others: Vec<f64> = self
            .valid_readings()
            .filter(|r| r.reading_no != reading.reading_no)
            .filter_map(|r| match r.taken.shown() {
                Shown::Gaps(left, right) => Some([left.as_f64(), right.as_f64()]),
                _ => None,
            })
            .flatten()
            .collect();
        let least = others.iter().copied().reduce(f64::min)?;
        let most = others.iter().copied().reduce(f64::max)?;
        gaps.into_iter().find_map(|gap| {
            let (meant, read, cause) = question_of_length(gap.as_f64(), (least, most), &others)?;
            Some(EntryQuestion {
                meant,
                read,
                cause,
                readings: vec![reading.reading_no],
            })
        })
    }

    /// What a reading may be expected to show, in nanometres: what is in the window, with the pieces that are still
    /// missing; where enough boxes were set before, what they showed.
    fn expected(&self, spec: &Spec<'_>, reading: &ReadingRecord) -> Option<(f64, f64)> {
        if let Reading::Term(term) = &reading.taken {
            let at = usize::from(term.term).checked_sub(1)?;
            let length = spec.terms().get(at)?.length_nm.as_f64();
            return Some((length, length));
        }
        let (window, _) = spec.length?;
        let adjustments = spec.adjustments(reading.way);
        let shift: i64 = adjustments.iter().map(|a| a.by.nm()).sum();
        let limit = |limit: Option<Length>| limit.map(Length::as_f64);
        let (low, high) = closed(limit(window.low()), limit(window.high()));
        let (low, high) = (low - shift as f64, high - shift as f64);
        let (from, to) = match spec.check.set_by.as_ref() {
            Some(set_by) if self.is_without_pieces(set_by, reading.way) => {
                let before = self.measured_before.of(set_by.effect());
                before.map_or_else(
                    || self.with_missing(set_by, low, high),
                    |before| without(before, set_by.effect(), shift as f64),
                )
            }
            _ => (low, high),
        };
        let (from, to) = match &reading.taken {
            // A plate stands off by what it will be pinched.
            Reading::Leaf(_) if spec.stands_off() => (-to, -from),
            Reading::Depth(depth) if spec.is_seat() && depth.bar_on == BarOn::Face => (-to, -from),
            Reading::KnownShim(shim) => {
                let shim = shim.shim_nm.as_f64();
                (from + shim, to + shim)
            }
            _ => (from, to),
        };
        Some((from.max(0.0), to.max(0.0)))
    }

    /// Read with none of the pieces in that set the check.
    fn is_without_pieces(&self, set_by: &SetBy, method: Method) -> bool {
        method == Method::NoShim
            || (self.head.round == 0 && set_by.measured_with == MeasuredWith::Nothing)
    }

    /// What lands in the window once any of the drawer's stacks is in.
    fn with_missing(&self, set_by: &SetBy, low: f64, high: f64) -> (f64, f64) {
        let sizes = || self.stock.iter().map(|s| s.thickness_nm as f64);
        let thinnest =
            sizes().reduce(f64::min).unwrap_or(0.0) * f64::from(set_by.least_pieces.min(1));
        let thickest = sizes().reduce(f64::max).unwrap_or(0.0) * f64::from(set_by.most_pieces);
        match set_by.effect() {
            Effect::Closes => (low + thinnest, high + thickest),
            Effect::Opens => (low - thickest, high - thinnest),
        }
    }
}

/// Gaps of which the sheet says how wide they may be, with what it says; none where it says nothing.
fn limits_of(spec: &Spec<'_>, taken: &Reading) -> Option<(GapsReading, [Limits; 2])> {
    let selector = spec.check.selector.as_ref()?.with_shims(&[], &[]);
    let taken = GapsReading::of(taken).filter(|_| selector.is_limited())?;
    let held = selector
        .gears
        .get(usize::from(taken.gear).checked_sub(1)?)?;
    Some((*taken, held.limits))
}

/// What may be expected of a window: from nothing where it is open below, to twice its limit where above.
fn closed(low: Option<f64>, high: Option<f64>) -> (f64, f64) {
    match (low, high) {
        (Some(low), Some(high)) => (low, high),
        (Some(low), None) => (low, low.max(FAR * low)),
        (None, high) => (0.0, high.unwrap_or_default()),
    }
}

/// The clearance in the trial build, with no piece in, of boxes that wanted such thicknesses, and a quarter beyond: the
/// next box may be the one that wants the most.
fn without(before: WantedBefore, effect: Effect, shift: f64) -> (f64, f64) {
    let ends = [before.from_nm, before.to_nm].map(|nm| effect.k() * nm - shift);
    (ends[0].min(ends[1]) / 1.25, ends[0].max(ends[1]) * 1.25)
}

/// The question about a reading of nothing among others that lie beyond what is expected.
fn nought(this: &Figure, figures: &[Figure], expected: (f64, f64)) -> Option<EntryQuestion> {
    let others = figures.iter().filter(|f| f.reading_no != this.reading_no);
    let others: Vec<f64> = others
        .filter(|f| f.says == Says::Exactly)
        .map(|f| f.amount)
        .collect();
    let least = others.iter().copied().reduce(f64::min)?;
    let mean = others.iter().sum::<f64>() / others.len() as f64;
    (this.says == Says::Exactly && least > expected.1).then(|| EntryQuestion {
        meant: Meant::Length { nm: mean },
        read: Meant::Length { nm: 0.0 },
        cause: Cause::Nought,
        readings: vec![this.reading_no],
    })
}

fn question_of_length(
    nm: f64,
    (from, to): (f64, f64),
    fellows: &[f64],
) -> Option<(Meant, Meant, Cause)> {
    #[allow(clippy::cast_possible_truncation)] // no length at a bench is so long
    let length = |nm: f64| Length::from_nm(nm.round() as i64);
    let fellows: Vec<Length> = fellows.iter().map(|f| length(*f)).collect();
    let expected = Expected {
        from: length(from),
        to: length(to),
    };
    let slip = question(length(nm), expected, &fellows)?;
    let meant = Meant::Length {
        nm: slip.meant_nm.as_f64(),
    };
    Some((meant, Meant::Length { nm }, slip.cause))
}
