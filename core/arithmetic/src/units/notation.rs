//! Lengths as people at a bench write them: `6 1/2 thou`, `.0065"`, `0,15 mm`, `150 µm`.

use thiserror::Error;

use crate::units::length::{LONGEST, Length, Unit};
use crate::units::rounding::divide_half_even;

/// Whether a minus sign makes sense for the figure asked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sign {
    /// A thickness or a travel: never below zero.
    NotNegative,
    /// A clearance or an adjustment, where below zero is preload.
    Any,
}

/// Why a text is no length.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum Fault {
    /// Nothing was typed.
    #[error("nothing is typed: type a figure, such as 0.15 or 6 1/2 thou")]
    Empty,
    /// There is a unit, or some text, but no figure before it.
    #[error("there is no figure here: type one, such as 0.15 or 6 1/2 thou")]
    NoFigure,
    /// A bare figure where the unit must be said.
    #[error("the unit is missing: write mm, µm, thou or in after the figure")]
    NoUnit,
    /// A minus sign where nothing can be negative.
    #[error("a minus sign has no meaning here: this is a length of zero or more")]
    Negative,
    /// `1e-3`.
    #[error("exponents are not read: write the figure out, such as 0.001")]
    Exponent,
    /// `1,234.5` or `1'234`.
    #[error("thousands separators are not read: write the figure without them")]
    ThousandsSeparator,
    /// `0.1.5`.
    #[error("there are two decimal points: keep one")]
    TwoPoints,
    /// `6 5 thou`.
    #[error(
        "there are two figures: keep one (a whole number and a fraction, such as 6 1/2, is one)"
    )]
    TwoFigures,
    /// `6 thou mm`.
    #[error("there are two units: keep one of mm, µm, thou or in")]
    TwoUnits,
    /// A unit that is not of the bench.
    #[error("“{0}” is not a unit read here: use mm, µm, thou (or mil, 1/1000 inch) or in")]
    UnknownUnit(String),
    /// `4 tenths`: of a thou at one bench, of a millimetre at another.
    #[error(
        "“tenths” are tenths of a thou or of a millimetre: write which, such as 0.4 thou or 0.4 mm"
    )]
    Tenths,
    /// `1,250 thou`.
    #[error(
        "this may be a whole number with a comma at its thousands or a decimal: write it without the comma, or with a point"
    )]
    CommaAtThousands,
    /// `1/64` where a bare figure is no inch.
    #[error("such a fraction is mostly of an inch: write the unit after it, such as 1/64 in")]
    FractionOfWhat,
    /// `1/0`.
    #[error("a fraction cannot have nought under its line")]
    ZeroDenominator,
    /// `1.5/2`.
    #[error("a fraction is two whole numbers, such as 1/64")]
    BadFraction,
    /// More digits than any gauge shows.
    #[error("there are more than 15 digits: no gauge shows so many")]
    TooManyDigits,
    /// Over ten metres.
    #[error("this is more than 10 m: check the figure and its unit")]
    TooLong,
    /// Something that is neither figure nor unit.
    #[error("“{0}” does not belong in a length")]
    Unexpected(char),
}

/// A text that is no length: why, and at which character (the first is 1).
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{fault} (at character {position})")]
pub struct NotationError {
    /// What is wrong, and what would be right.
    pub fault: Fault,
    /// The character it was found at, counted from 1.
    pub position: usize,
}

/// Reads a length in bench notation.
///
/// `bench` is the unit a bare figure is in; with `None` the unit must be written. Figures are
/// decimal, with a point or a comma, or whole numbers and fractions. What is finer than a
/// nanometre goes to the nearest one, half to even.
///
/// ```
/// use anvil_arithmetic::units::length::Unit;
/// use anvil_arithmetic::units::notation::{parse, Sign};
/// let nm = |text| parse(text, Some(Unit::Thou), Sign::NotNegative).unwrap().nm();
/// assert_eq!(nm("6 1/2"), 165_100);
/// assert_eq!(nm(".0065\""), 165_100);
/// assert_eq!(nm("0,15 mm"), 150_000);
/// let fault = parse("1e3", Some(Unit::Mm), Sign::NotNegative).unwrap_err();
/// assert_eq!(fault.position, 2);
/// ```
///
/// # Errors
/// Where it is no length in bench notation; says why, and at which letter.
pub fn parse(text: &str, bench: Option<Unit>, sign: Sign) -> Result<Length, NotationError> {
    let mut reader = Reader::new(text);
    reader.skip_spaces();
    if reader.peek().is_none() {
        return Err(reader.fail(Fault::Empty));
    }
    let negative = reader.sign(sign)?;
    let start = reader.at;
    let figure = reader.figure()?;
    reader.skip_spaces();
    let written = reader.unit()?;
    let Some(unit_nm) = written.or(bench.map(Unit::nm)) else {
        return Err(reader.fail(Fault::NoUnit));
    };
    if figure.comma_at_thousands && [Unit::Thou.nm(), Unit::Um.nm()].contains(&unit_nm) {
        return Err(reader.fail_at(Fault::CommaAtThousands, start));
    }
    if figure.fine_fraction && written.is_none() && unit_nm != Unit::Inch.nm() {
        return Err(reader.fail_at(Fault::FractionOfWhat, start));
    }
    let numerator = figure
        .numerator
        .checked_mul(i128::from(unit_nm))
        .ok_or_else(|| reader.fail_at(Fault::TooLong, 0))?;
    let nm = divide_half_even(numerator, figure.denominator);
    if nm > i128::from(LONGEST.nm()) {
        return Err(reader.fail_at(Fault::TooLong, 0));
    }
    let nm = i64::try_from(nm).map_err(|_| reader.fail_at(Fault::TooLong, 0))?;
    Ok(Length::from_nm(if negative { -nm } else { nm }))
}

impl std::str::FromStr for Length {
    type Err = NotationError;

    /// Reads bench notation; a bare figure is in millimetres. See [`parse`].
    fn from_str(text: &str) -> Result<Self, NotationError> {
        parse(text, Some(Unit::Mm), Sign::Any)
    }
}

/// A figure as the ratio of two whole numbers.
struct Figure {
    numerator: i128,
    denominator: i128,
    /// A comma stands where one at the thousands would.
    comma_at_thousands: bool,
    /// A fraction as inches are divided: by 16 and more, or by 8 with no whole number before it.
    fine_fraction: bool,
}

impl Figure {
    /// A whole number and a fraction.
    fn mixed(whole: i128, numerator: i128, denominator: i128) -> Self {
        Self {
            numerator: whole * denominator + numerator,
            denominator,
            comma_at_thousands: false,
            fine_fraction: denominator >= if whole > 0 { 16 } else { 8 },
        }
    }
}

const MOST_DIGITS: usize = 15;

struct Reader {
    chars: Vec<char>,
    at: usize,
}

impl Reader {
    fn new(text: &str) -> Self {
        Self {
            chars: text.chars().collect(),
            at: 0,
        }
    }

    fn peek(&self) -> Option<char> {
        self.chars.get(self.at).copied()
    }

    fn fail(&self, fault: Fault) -> NotationError {
        self.fail_at(fault, self.at)
    }

    #[allow(clippy::unused_self)] // reads as "the reader fails at"
    fn fail_at(&self, fault: Fault, at: usize) -> NotationError {
        NotationError {
            fault,
            position: at + 1,
        }
    }

    /// Skips blanks, the narrow and unbreakable ones of word processors too.
    fn skip_spaces(&mut self) -> bool {
        let start = self.at;
        while self.peek().is_some_and(char::is_whitespace) {
            self.at += 1;
        }
        self.at > start
    }

    fn sign(&mut self, allowed: Sign) -> Result<bool, NotationError> {
        match self.peek() {
            Some('-' | '\u{2212}' | '\u{2013}') => {
                if allowed == Sign::NotNegative {
                    return Err(self.fail(Fault::Negative));
                }
                self.at += 1;
                self.skip_spaces();
                Ok(true)
            }
            Some('+') => {
                self.at += 1;
                self.skip_spaces();
                Ok(false)
            }
            _ => Ok(false),
        }
    }

    fn digits(&mut self) -> Result<Option<(i128, usize)>, NotationError> {
        let start = self.at;
        let mut value = 0_i128;
        while let Some(digit) = self.peek().and_then(|c| c.to_digit(10)) {
            if self.at - start >= MOST_DIGITS {
                return Err(self.fail_at(Fault::TooManyDigits, start));
            }
            value = value * 10 + i128::from(digit);
            self.at += 1;
        }
        let count = self.at - start;
        Ok((count > 0).then_some((value, count)))
    }

    fn figure(&mut self) -> Result<Figure, NotationError> {
        let start = self.at;
        let whole = self.digits()?;
        match self.peek() {
            Some('.' | ',') => return self.decimal(whole.map_or(0, |w| w.0), whole.is_some()),
            Some(c) if is_stroke(c) => {
                let Some((numerator, _)) = whole else {
                    return Err(self.fail(Fault::NoFigure));
                };
                return self.fraction(0, numerator);
            }
            Some(c) if vulgar(c).is_some() => return Ok(self.vulgar(whole.map_or(0, |w| w.0))),
            Some('-' | '\u{2010}' | '\u{2011}') if whole.is_some() && self.fraction_follows() => {
                self.at += 1;
                let numerator = self.digits()?.map_or(0, |d| d.0);
                return self.fraction(whole.map_or(0, |w| w.0), numerator);
            }
            Some('\'' | '\u{2019}')
                if self
                    .chars
                    .get(self.at + 1)
                    .is_some_and(char::is_ascii_digit) =>
            {
                return Err(self.fail(Fault::ThousandsSeparator));
            }
            _ => {}
        }
        let Some((whole, _)) = whole else {
            return Err(self.fail_at(Fault::NoFigure, start));
        };
        let after_whole = self.at;
        let spaced = self.skip_spaces();
        if spaced && self.peek().is_some_and(|c| vulgar(c).is_some()) {
            return Ok(self.vulgar(whole));
        }
        if spaced && self.peek().is_some_and(|c| c.is_ascii_digit()) {
            let second = self.at;
            let numerator = self.digits()?.map_or(0, |d| d.0);
            return match self.peek() {
                Some(c) if is_stroke(c) => self.fraction(whole, numerator),
                _ if self.at - second == 3 => {
                    Err(self.fail_at(Fault::ThousandsSeparator, after_whole))
                }
                _ => Err(self.fail_at(Fault::TwoFigures, second)),
            };
        }
        Ok(Figure::mixed(whole, 0, 1))
    }

    /// Reads `½`, which stands next.
    fn vulgar(&mut self, whole: i128) -> Figure {
        let (numerator, denominator) = self.peek().and_then(vulgar).unwrap_or((0, 1));
        self.at += 1;
        Figure::mixed(whole, numerator, denominator)
    }

    /// Whether a fraction stands behind the next character: digits, a stroke and a digit.
    fn fraction_follows(&self) -> bool {
        let rest = self.chars.get(self.at + 1..).unwrap_or_default();
        let digits = rest.iter().take_while(|c| c.is_ascii_digit()).count();
        let digit = |c: &char| c.is_ascii_digit();
        digits > 0
            && rest.get(digits).is_some_and(|c| is_stroke(*c))
            && rest.get(digits + 1).is_some_and(digit)
    }

    fn decimal(&mut self, whole: i128, has_whole: bool) -> Result<Figure, NotationError> {
        let point_at = self.at;
        let point = self.peek();
        self.at += 1;
        let fraction = self.digits()?;
        if fraction.is_none() && !has_whole {
            return Err(self.fail_at(Fault::NoFigure, point_at));
        }
        match self.peek() {
            Some(c @ ('.' | ',')) => {
                let fault = if Some(c) == point {
                    Fault::TwoPoints
                } else {
                    Fault::ThousandsSeparator
                };
                return Err(self.fail(fault));
            }
            Some(c) if is_stroke(c) => return Err(self.fail(Fault::BadFraction)),
            _ => {}
        }
        let (digits, places) = fraction.unwrap_or((0, 0));
        let denominator = 10_i128.pow(u32::try_from(places).unwrap_or(0));
        Ok(Figure {
            comma_at_thousands: point == Some(',') && places == 3 && (1..1_000).contains(&whole),
            fine_fraction: false,
            ..Figure::mixed(whole, digits, denominator)
        })
    }

    /// Reads `/64` and what follows; the numerator is read already.
    fn fraction(&mut self, whole: i128, numerator: i128) -> Result<Figure, NotationError> {
        self.at += 1;
        let start = self.at;
        let Some((denominator, _)) = self.digits()? else {
            return Err(self.fail_at(Fault::BadFraction, start));
        };
        if denominator == 0 {
            return Err(self.fail_at(Fault::ZeroDenominator, start));
        }
        // A full stop may end the text; a decimal point has a figure after it.
        let next = self.chars.get(self.at + 1);
        let goes_on = next.is_some_and(char::is_ascii_digit);
        if self
            .peek()
            .is_some_and(|c| is_stroke(c) || matches!(c, '.' | ',') && goes_on)
        {
            return Err(self.fail(Fault::BadFraction));
        }
        Ok(Figure::mixed(whole, numerator, denominator))
    }

    /// The unit after the figure in nanometres, if any, and then the end of the text.
    fn unit(&mut self) -> Result<Option<i64>, NotationError> {
        let start = self.at;
        let Some(first) = self.peek() else {
            return Ok(None);
        };
        let Some(word) = self.unit_word() else {
            return Err(match first {
                c if c.is_ascii_digit() => self.fail(Fault::TwoFigures),
                '.' | ',' => self.fail(Fault::TwoPoints),
                c => self.fail(Fault::Unexpected(c)),
            });
        };
        let exponent = word
            .strip_prefix(['e', 'E'])
            .is_some_and(|rest| rest.is_empty() && self.peek_is_exponent_tail());
        if exponent {
            return Err(self.fail_at(Fault::Exponent, start));
        }
        let Some(unit_nm) = unit_named(&word) else {
            let fault = match word.to_lowercase().as_str() {
                "tenth" | "tenths" => Fault::Tenths,
                _ => Fault::UnknownUnit(word),
            };
            return Err(self.fail_at(fault, start));
        };
        // An abbreviation may end in a full stop.
        if self.peek() == Some('.') {
            self.at += 1;
        }
        self.skip_spaces();
        if let Some(next) = self.peek() {
            let at = self.at;
            return Err(match self.unit_word() {
                Some(second) if unit_named(&second).is_some() => self.fail_at(Fault::TwoUnits, at),
                _ if next.is_ascii_digit() => self.fail_at(Fault::TwoFigures, at),
                _ => self.fail_at(Fault::Unexpected(next), at),
            });
        }
        Ok(Some(unit_nm))
    }

    fn peek_is_exponent_tail(&self) -> bool {
        self.peek()
            .is_some_and(|c| c.is_ascii_digit() || matches!(c, '-' | '+' | '\u{2212}'))
    }

    /// A run of letters, or an inch mark; two single marks make one inch mark.
    fn unit_word(&mut self) -> Option<String> {
        let start = self.at;
        if self.peek().is_some_and(is_inch_mark) {
            self.at += 1;
            return Some("\"".into());
        }
        if self.peek().is_some_and(is_foot_mark) {
            self.at += 1;
            if self.peek().is_some_and(is_foot_mark) {
                self.at += 1;
                return Some("\"".into());
            }
            return Some("'".into());
        }
        while self.peek().is_some_and(char::is_alphabetic) {
            self.at += 1;
        }
        (self.at > start).then(|| self.chars[start..self.at].iter().collect())
    }
}

fn is_inch_mark(c: char) -> bool {
    matches!(c, '"' | '\u{201c}' | '\u{201d}' | '\u{201e}' | '\u{2033}')
}

fn is_foot_mark(c: char) -> bool {
    matches!(c, '\'' | '\u{2018}' | '\u{2019}' | '\u{2032}')
}

/// The stroke of a fraction, or the one that word processors make of it.
fn is_stroke(c: char) -> bool {
    matches!(c, '/' | '\u{2044}' | '\u{2215}')
}

/// A fraction that is one character.
fn vulgar(c: char) -> Option<(i128, i128)> {
    Some(match c {
        '½' => (1, 2),
        '⅓' => (1, 3),
        '⅔' => (2, 3),
        '¼' => (1, 4),
        '¾' => (3, 4),
        '⅕' => (1, 5),
        '⅖' => (2, 5),
        '⅗' => (3, 5),
        '⅘' => (4, 5),
        '⅙' => (1, 6),
        '⅚' => (5, 6),
        '⅛' => (1, 8),
        '⅜' => (3, 8),
        '⅝' => (5, 8),
        '⅞' => (7, 8),
        _ => return None,
    })
}

/// One centimetre; no figure is shown in it, but some write it.
const CENTIMETRE: i64 = 10_000_000;

/// What a unit is in nanometres.
fn unit_named(word: &str) -> Option<i64> {
    // Both the micro sign (U+00B5) and the Greek letter (U+03BC) lower-case to themselves.
    let unit = match word.to_lowercase().as_str() {
        "\"" | "in" | "inch" | "inches" => Unit::Inch,
        "thou" | "thous" | "mil" | "mils" | "thousandth" | "thousandths" => Unit::Thou,
        "mm" | "millimetre" | "millimetres" | "millimeter" | "millimeters" => Unit::Mm,
        "\u{b5}m" | "\u{3bc}m" | "\u{b5}" | "\u{3bc}" | "um" | "micron" | "microns" => Unit::Um,
        "cm" | "centimetre" | "centimetres" | "centimeter" | "centimeters" => {
            return Some(CENTIMETRE);
        }
        _ => return None,
    };
    Some(unit.nm())
}
