//! A digital gauge that speaks one plain line a reading: a figure and its unit, such as `+0.123 mm`.
//!
//! The same reader serves a gauge over the network and one on a serial port.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::length::Length;
use crate::notation::{self, NotationError, Sign};

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
/// use anvil_core::{length::Length, live::read_line};
/// assert_eq!(read_line("+0.0125 in\r").unwrap(), Length::from_nm(317_500));
/// assert_eq!(read_line("-0,02 mm").unwrap(), Length::from_nm(-20_000));
/// assert!(read_line("0.02").is_err());
/// ```
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
    /// use anvil_core::{length::Length, live::Lines};
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
