//! Gear ratios from tooth counts, and the turn test: which gear a box is in, by how far the output
//! turns.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::units::working::{Line, Working};

/// The most teeth a gear of any box has.
const MOST_TEETH: u32 = 400;

/// A gear of a box, by its tooth counts: pairs of driver and driven in the order of the drive.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Train {
    /// What people call the gear: first, reverse, direct.
    pub name: String,
    /// The pairs: driver's teeth, driven's teeth. None is direct drive.
    pub pairs: Vec<[u32; 2]>,
    /// The output turns the other way from the input in first: an idler more or less.
    #[serde(default)]
    pub backwards: bool,
}

/// A gear's ratio.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Ratio {
    /// What people call the gear.
    pub name: String,
    /// Input turns for one output turn, as a fraction in lowest terms.
    pub turns: [u64; 2],
    /// The same as a figure.
    pub ratio: f64,
    /// Output turns for one input turn, below zero where it turns backwards.
    pub output_turns: f64,
    /// The arithmetic.
    pub working: Working,
}

/// Why tooth counts make no ratio.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum RatioError {
    /// A gear without teeth, or with more than any gear has.
    #[error("{gear}: a gear has from 1 to 400 teeth, and one here has {teeth}: count them again")]
    NoTeeth {
        /// The gear at fault.
        gear: String,
        /// What was written.
        teeth: u32,
    },
    /// More pairs than any box has in one drive.
    #[error("{gear}: a drive goes through up to six pairs")]
    TooManyPairs {
        /// The gear at fault.
        gear: String,
    },
}

/// Reads gears as people write them, one a line: the name, then pairs of driver and driven, and
/// `back` where the output turns backwards.
///
/// ```
/// let gears = anvil_arithmetic::calculators::ratio::read("first 17:34 15:30\nreverse 17:34 14:36 back\nfourth").unwrap();
/// assert_eq!((gears[0].pairs[1], gears[1].backwards, gears[2].pairs.len()), ([15, 30], true, 0));
/// let named = anvil_arithmetic::calculators::ratio::read("1 17:34\n2nd 19:32\nthird: 21:30\n4:").unwrap();
/// let names: Vec<_> = named.iter().map(|g| g.name.as_str()).collect();
/// assert_eq!(names, ["1", "2nd", "third", "4"]);
/// let fault = anvil_arithmetic::calculators::ratio::read("first 17:34\nsecond 17-34").unwrap_err();
/// assert_eq!(fault.to_string(), "line 2: “17-34” is no pair: write driver and driven with a colon, such as 17:34");
/// ```
///
/// # Errors
/// The first line that is no gear, with its number.
pub fn read(text: &str) -> Result<Vec<Train>, LineFault> {
    let lines = text
        .lines()
        .enumerate()
        .filter(|(_, l)| !l.trim().is_empty());
    lines
        .map(|(number, line)| {
            let fault = |word: &str| LineFault {
                line: number + 1,
                word: word.to_owned(),
            };
            let mut train = Train {
                name: String::new(),
                pairs: Vec::new(),
                backwards: false,
            };
            for word in line.split_whitespace() {
                if word.eq_ignore_ascii_case("back") {
                    train.backwards = true;
                } else if train.pairs.is_empty() && is_name(word, train.name.is_empty()) {
                    let space = if train.name.is_empty() { "" } else { " " };
                    train.name = train.name + space + word.trim_end_matches(':');
                } else {
                    let (first, second) = word.split_once(':').ok_or_else(|| fault(word))?;
                    let teeth = |text: &str| text.parse::<u32>().map_err(|_| fault(word));
                    train.pairs.push([teeth(first)?, teeth(second)?]);
                }
            }
            if train.name.is_empty() {
                train.name = format!("gear {}", number + 1);
            }
            Ok(train)
        })
        .collect()
}

/// Whether a word before the pairs is of the gear's name: `1`, `2nd` and `1:` too, where they stand first.
fn is_name(word: &str, first: bool) -> bool {
    let digit = |c: char| c.is_ascii_digit();
    let plain = |c: char| c.is_alphanumeric() || c == ':';
    let numbered = first && word.chars().all(plain) && !word.trim_end_matches(':').contains(':');
    numbered || !word.starts_with(digit)
}

/// A line of gears that cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("line {line}: “{word}” is no pair: write driver and driven with a colon, such as 17:34")]
pub struct LineFault {
    /// The line, counted from 1.
    pub line: usize,
    /// What stands there.
    pub word: String,
}

impl Train {
    /// The ratio: the product of driven over driver, exactly.
    ///
    /// ```
    /// use anvil_arithmetic::calculators::ratio::Train;
    /// // 17 drives 34 on the layshaft, whose 15 drives 30: twice and twice again.
    /// let first = Train { name: "first".into(), pairs: vec![[17, 34], [15, 30]], backwards: false };
    /// let ratio = first.ratio().unwrap();
    /// assert_eq!(ratio.turns, [4, 1]);
    /// assert_eq!(ratio.output_turns, 0.25);
    /// ```
    ///
    /// # Formula
    /// `i = Π driven / Π driver`, the sign turned by each outside mesh.
    ///
    /// # Errors
    /// Where a wheel has no teeth or more than 400, or the drive goes through more than six pairs.
    pub fn ratio(&self) -> Result<Ratio, RatioError> {
        let gear = || self.name.clone();
        if self.pairs.len() > 6 {
            return Err(RatioError::TooManyPairs { gear: gear() });
        }
        let (mut above, mut below) = (1_u64, 1_u64);
        for pair in &self.pairs {
            for teeth in pair {
                if !(1..=MOST_TEETH).contains(teeth) {
                    return Err(RatioError::NoTeeth {
                        gear: gear(),
                        teeth: *teeth,
                    });
                }
            }
            below *= u64::from(pair[0]);
            above *= u64::from(pair[1]);
        }
        let common = greatest_common_divisor(above, below);
        let turns = [above / common, below / common];
        let ratio = turns[0] as f64 / turns[1] as f64;
        let mut line = Line::new();
        for (p, pair) in self.pairs.iter().enumerate() {
            let times = if p == 0 { "" } else { " × " };
            line = line.text(format!("{times}{}/{}", pair[1], pair[0]));
        }
        if self.pairs.is_empty() {
            line = line.text("direct");
        }
        let working = vec![line.text(" = ").number(ratio, 3)];
        Ok(Ratio {
            name: gear(),
            turns,
            ratio,
            output_turns: if self.backwards { -1.0 } else { 1.0 } / ratio,
            working,
        })
    }
}

fn greatest_common_divisor(a: u64, b: u64) -> u64 {
    if b == 0 {
        a
    } else {
        greatest_common_divisor(b, a % b)
    }
}

/// What a turn test says: the gears from the likeliest, and whether the first is told from the rest.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct TurnTest {
    /// The gear it is in, by number.
    pub gear: usize,
    /// By how much of an output turn it is off.
    pub off_turns: f64,
    /// No other gear is within the error of what was seen.
    pub sure: bool,
}

/// Names the gear from how far the output turned for so many turns of the input, below zero where
/// it turned backwards. `give` is how far what was seen may be off, in output turns. None where
/// there is no gear that turns so.
///
/// ```
/// use anvil_arithmetic::calculators::ratio::{turn_test, Train};
/// let gear = |name: &str, pairs: &[[u32; 2]]| Train { name: name.into(), pairs: pairs.to_vec(), backwards: false }.ratio().unwrap();
/// let gears = [gear("first", &[[17, 32], [14, 29]]), gear("direct", &[])];
/// // "Just over a quarter turn" (common practice, no source): first.
/// let found = turn_test(&gears, 1.0, 0.26, 0.03).unwrap();
/// assert!(found.gear == 0 && found.sure);
/// ```
#[must_use]
pub fn turn_test(gears: &[Ratio], input: f64, output: f64, give: f64) -> Option<TurnTest> {
    let off = |gear: &Ratio| (gear.output_turns * input - output).abs();
    let (gear, nearest) = gears
        .iter()
        .enumerate()
        .min_by(|a, b| off(a.1).total_cmp(&off(b.1)))?;
    let off_turns = off(nearest);
    let alike = gears.iter().filter(|g| off(g) <= give).count();
    (off_turns <= give).then_some(TurnTest {
        gear,
        off_turns,
        sure: alike == 1,
    })
}
