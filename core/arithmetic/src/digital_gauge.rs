//! A digital gauge that speaks one plain line a reading: a figure and its unit, such as `+0.123 mm`.
//!
//! The same reader serves a gauge over the network and one on a serial port.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::length::Length;
use crate::units::notation::{self, NotationError, Sign};

/// A line longer than this is no reading.
const LONGEST_LINE: usize = 64;

/// Why a line is no reading.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum LineError {
    /// Longer than any reading.
    #[error(
        "the line has more than {LONGEST_LINE} characters: a reading is a figure and its unit, such as 0.123 mm"
    )]
    TooLong,
    /// Bytes that are no text.
    #[error("the line is no text: check the gauge's speed and cable")]
    NoText,
    /// Text that is no length.
    #[error(transparent)]
    NoLength(#[from] NotationError),
}

/// Reads one line of a gauge. The unit must be there; a plus sign may be.
///
/// ```
/// use anvil_arithmetic::units::length::Length;
/// use anvil_arithmetic::digital_gauge::read_line;
/// assert_eq!(read_line("+0.0125 in\r").unwrap(), Length::from_nm(317_500));
/// assert_eq!(read_line("-0,02 mm").unwrap(), Length::from_nm(-20_000));
/// assert!(read_line("0.02").is_err());
/// ```
///
/// # Errors
/// Where the line is too long, is no text, or is no length with its unit.
pub fn read_line(line: &str) -> Result<Length, LineError> {
    if line.len() > LONGEST_LINE {
        return Err(LineError::TooLong);
    }
    let text = line.trim();
    let text = text.strip_prefix('+').unwrap_or(text);
    Ok(notation::parse(text, None, Sign::Any)?)
}

/// What came of some bytes of a gauge.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Heard {
    /// The newest reading among them; older ones are passed over, never queued.
    pub newest: Option<Length>,
    /// How many readings there were.
    pub readings: u64,
    /// How many lines were no reading.
    pub garbled: u64,
    /// Why the last of those was none.
    pub why: Option<String>,
}

/// Puts the bytes of a gauge together to lines, however they come cut up.
#[derive(Clone, Debug, Default)]
pub struct Lines {
    line: Vec<u8>,
    overlong: bool,
}

impl Lines {
    /// Takes in bytes as they come.
    ///
    /// ```
    /// use anvil_arithmetic::digital_gauge::Lines;
    /// use anvil_arithmetic::units::length::Length;
    /// let mut lines = Lines::default();
    /// assert_eq!(lines.hear(b"0.10 mm\n0.1").newest, Some(Length::from_nm(100_000)));
    /// let heard = lines.hear(b"2 mm\r\n#?!\n");
    /// assert_eq!((heard.newest, heard.garbled), (Some(Length::from_nm(120_000)), 1));
    /// ```
    pub fn hear(&mut self, bytes: &[u8]) -> Heard {
        let mut heard = Heard::default();
        for byte in bytes {
            match byte {
                b'\n' | b'\r' => self.end(&mut heard),
                _ if self.line.len() < LONGEST_LINE => self.line.push(*byte),
                _ => self.overlong = true,
            }
        }
        heard
    }

    fn end(&mut self, heard: &mut Heard) {
        let line = std::mem::take(&mut self.line);
        let overlong = std::mem::take(&mut self.overlong);
        if line.iter().all(u8::is_ascii_whitespace) && !overlong {
            return;
        }
        let found = if overlong {
            Err(LineError::TooLong)
        } else {
            std::str::from_utf8(&line)
                .map_err(|_| LineError::NoText)
                .and_then(read_line)
        };
        match found {
            Ok(length) => {
                heard.newest = Some(length);
                heard.readings += 1;
            }
            Err(e) => {
                heard.garbled += 1;
                heard.why = Some(e.to_string());
            }
        }
    }
}

/// Where a moving gauge comes to rest: the lowest and the highest of its rests, held until cleared.
///
/// Extremes of single readings would be long by their noise; a rest is the mean of a span in which
/// the readings stay together, so that noise averages out.
#[derive(Clone, Debug, Default)]
pub struct Rests {
    recent: std::collections::VecDeque<(u64, i64)>,
    low: Option<Length>,
    high: Option<Length>,
    resting: bool,
}

/// A rest lasts at least so long, in milliseconds.
const REST_MS: u64 = 500;
/// Readings of a rest stay within this (common practice, no source: a hundredth and a half).
const REST_WITHIN_NM: i64 = 15_000;
/// A rest is told from at least so many readings.
const REST_READINGS: usize = 3;

impl Rests {
    /// Takes in a reading at a time in milliseconds, which never runs backwards.
    ///
    /// ```
    /// use anvil_arithmetic::digital_gauge::Rests;
    /// use anvil_arithmetic::units::length::Length;
    /// let mut rests = Rests::default();
    /// for ms in 0..100 { rests.feed(ms * 10, Length::from_nm(2_000)); }
    /// for ms in 100..200 { rests.feed(ms * 10, Length::from_nm(250_000)); }
    /// assert_eq!(rests.low(), Some(Length::from_nm(2_000)));
    /// assert_eq!(rests.travel(), Some(Length::from_nm(248_000)));
    /// ```
    pub fn feed(&mut self, at_ms: u64, reading: Length) {
        self.recent.push_back((at_ms, reading.nm()));
        // One reading older than the span is kept, to know that the span is full.
        while self.recent.get(1).is_some_and(|r| r.0 + REST_MS <= at_ms) {
            self.recent.pop_front();
        }
        let full = self.recent.front().is_some_and(|r| r.0 + REST_MS <= at_ms);
        let figures = || self.recent.iter().map(|r| r.1);
        let (least, most) = (figures().min().unwrap_or(0), figures().max().unwrap_or(0));
        self.resting = full && self.recent.len() >= REST_READINGS && most - least <= REST_WITHIN_NM;
        if self.resting {
            let sum: i128 = figures().map(i128::from).sum();
            let count = i128::try_from(self.recent.len()).unwrap_or(1);
            let mean = i64::try_from(crate::units::rounding::divide_half_even(sum, count))
                .unwrap_or(least);
            let mean = Length::from_nm(mean);
            self.low = Some(self.low.map_or(mean, |l| l.min(mean)));
            self.high = Some(self.high.map_or(mean, |h| h.max(mean)));
        }
    }

    /// Forgets what was held.
    pub fn clear(&mut self) {
        *self = Self::default();
    }

    /// Whether it rests now.
    #[must_use]
    pub const fn resting(&self) -> bool {
        self.resting
    }

    /// The lowest rest.
    #[must_use]
    pub const fn low(&self) -> Option<Length> {
        self.low
    }

    /// The highest rest.
    #[must_use]
    pub const fn high(&self) -> Option<Length> {
        self.high
    }

    /// From the lowest rest to the highest.
    #[must_use]
    pub fn travel(&self) -> Option<Length> {
        self.high?.checked_sub(self.low?)
    }
}
