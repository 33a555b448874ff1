//! What is typed for each way of measuring, and what it says.

use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::measure::Method;
use crate::measure::depth_ring::MOST_PLACES;
use crate::measure::dial::Trial;
use crate::measure::feeler::Fit;
use crate::measure::proof::YesNo;
use crate::measure::turning_torque::{Force, N_M_PER_LBF_FT, N_PER_KGF, N_PER_LBF, Torque};
use crate::refusal::{Refusal, Ruled};
use crate::units::length::{Length, Unit};
use crate::units::notation::{self, Sign};

/// One reading as typed, field by field.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum ReadingInput {
    /// A travel off a dial zeroed with the shaft home.
    Travel {
        /// The travel.
        travel: String,
        /// The plunger's tilt in degrees; empty for none.
        #[serde(default)]
        tilt: String,
        /// How hard the shaft was pulled; empty where it was not noted.
        #[serde(default)]
        pull: String,
    },
    /// A travel off a dial that was not zeroed: read at both ends.
    Pair {
        /// The dial with the shaft home.
        home: String,
        /// The dial with the shaft out.
        out: String,
        /// The plunger's tilt in degrees; empty for none.
        #[serde(default)]
        tilt: String,
        /// How hard the shaft was pulled; empty where it was not noted.
        #[serde(default)]
        pull: String,
    },
    /// A feeler leaf, or leaves on each other.
    Leaf {
        /// Their sizes, with `+` between them.
        leaves: String,
        /// How it went.
        fit: Fit,
    },
    /// A depth from a bar.
    Depth {
        /// Which place, counted from 1.
        place: u16,
        /// Of how many, equally spaced.
        of: u16,
        /// The depth from the bar's upper face.
        depth: String,
        /// How thick the bar is; empty for none.
        #[serde(default)]
        bar: String,
    },
    /// A term of a stack sum, measured.
    Term {
        /// Which term of the sheet, counted from 1.
        term: u16,
        /// What it measures.
        length: String,
    },
    /// A float with a known shim in.
    KnownShim {
        /// The shim; empty or 0 with none in.
        shim: String,
        /// The float.
        float: String,
    },
    /// A torque off a wrench.
    Torque {
        /// The torque with its unit; a bare figure is in N·m.
        torque: String,
    },
    /// A pull on a spring scale.
    Pull {
        /// The pull with its unit; a bare figure is in newtons.
        force: String,
        /// The radius it pulls at.
        radius: String,
    },
    /// The end play of one planet pinion.
    Pinion {
        /// Which one, counted from 1.
        pinion: u16,
        /// Its end play.
        play: String,
    },
    /// The gaps each side of a gear that the selector holds, with the detent home.
    Gaps {
        /// Which gear of the sheet, counted from 1.
        gear: u16,
        /// The gap at its left.
        left: String,
        /// The gap at its right.
        right: String,
    },
    /// The answer to a proof's question.
    Answer {
        /// It is so, or it is not.
        answer: YesNo,
    },
    /// By feel.
    ByHand {
        /// From.
        from: String,
        /// To; empty for about `from`.
        #[serde(default)]
        to: String,
    },
}

/// One reading as taken, in whole nanometres.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "openapi", derive(utoipa::ToSchema))]
pub enum Reading {
    /// See [`ReadingInput::Travel`].
    Travel {
        /// The travel.
        travel_nm: Length,
        /// The plunger's tilt.
        #[serde(default)]
        tilt_deg: f64,
        /// How hard the shaft was pulled.
        #[serde(default)]
        pull_n: Option<f64>,
    },
    /// See [`ReadingInput::Pair`].
    Pair {
        /// The dial with the shaft home.
        home_nm: Length,
        /// The dial with the shaft out.
        out_nm: Length,
        /// The plunger's tilt.
        #[serde(default)]
        tilt_deg: f64,
        /// How hard the shaft was pulled.
        #[serde(default)]
        pull_n: Option<f64>,
    },
    /// See [`ReadingInput::Leaf`].
    Leaf {
        /// The leaves, as laid on each other.
        leaves_nm: Vec<Length>,
        /// How it went.
        fit: Fit,
    },
    /// See [`ReadingInput::Depth`].
    Depth {
        /// Which place, counted from 1.
        place: u16,
        /// Of how many.
        of: u16,
        /// The depth.
        depth_nm: Length,
        /// The bar.
        bar_nm: Length,
    },
    /// See [`ReadingInput::Term`].
    Term {
        /// Which term, counted from 1.
        term: u16,
        /// What it measures.
        length_nm: Length,
    },
    /// See [`ReadingInput::KnownShim`].
    KnownShim {
        /// The shim.
        shim_nm: Length,
        /// The float.
        float_nm: Length,
    },
    /// See [`ReadingInput::Torque`].
    Torque {
        /// The torque.
        torque_n_m: Torque,
    },
    /// See [`ReadingInput::Pull`].
    Pull {
        /// The pull.
        force_n: Force,
        /// The radius.
        radius_nm: Length,
    },
    /// See [`ReadingInput::Pinion`].
    Pinion {
        /// Which one, counted from 1.
        pinion: u16,
        /// Its end play.
        play_nm: Length,
    },
    /// See [`ReadingInput::Gaps`].
    Gaps {
        /// Which gear, counted from 1.
        gear: u16,
        /// The gap at its left.
        left_nm: Length,
        /// The gap at its right.
        right_nm: Length,
    },
    /// The answer to a proof's question.
    Answer {
        /// It is so, or it is not.
        answer: YesNo,
    },
    /// See [`ReadingInput::ByHand`].
    ByHand {
        /// From.
        from_nm: Length,
        /// To.
        to_nm: Length,
    },
}

/// A field that does not say what it should.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("{why}")]
pub struct FieldFault {
    /// The field.
    pub field: &'static str,
    /// What is wrong, and what would be right.
    pub why: String,
}

fn fault(field: &'static str, why: impl std::fmt::Display) -> FieldFault {
    FieldFault {
        field,
        why: why.to_string(),
    }
}

/// No depth, travel, leaf, shim or radius at a bench is longer: 2 m for a radius, 1 m for the rest.
const LONGEST_RADIUS: Length = Length::from_nm(2_000_000_000);
const LONGEST: Length = Length::from_nm(1_000_000_000);
/// No dial indicator travels further than this: 100 mm.
const LONGEST_TRAVEL: Length = Length::from_nm(100_000_000);
/// Leaves laid on each other spring: two are enough.
const MOST_LEAVES: usize = 4;

impl ReadingInput {
    /// Whether a check taken in this way has readings of this kind.
    #[must_use]
    pub const fn fits(&self, way: Method) -> bool {
        match self {
            Self::Travel { .. } | Self::Pair { .. } => {
                matches!(way, Method::DialTravel | Method::NoShim)
            }
            Self::Leaf { .. } => matches!(way, Method::Feeler),
            Self::Depth { .. } => matches!(way, Method::DepthFromBar),
            Self::Term { .. } => matches!(way, Method::StackSum),
            Self::KnownShim { .. } => matches!(way, Method::KnownShim),
            Self::Torque { .. } | Self::Pull { .. } => matches!(way, Method::TurningTorque),
            Self::Pinion { .. } => matches!(way, Method::OneByOne),
            Self::Gaps { .. } => matches!(way, Method::SelectorGaps),
            Self::Answer { .. } => matches!(way, Method::YesNo),
            Self::ByHand { .. } => matches!(way, Method::ByHand),
        }
    }

    /// What was typed, in one line, for the record.
    #[must_use]
    pub fn text(&self) -> String {
        let t = |text: &String| text.trim().to_owned();
        match self {
            Self::Travel { travel, .. } => t(travel),
            Self::Pair { home, out, .. } => format!("{} to {}", t(home), t(out)),
            Self::Leaf { leaves, fit } => format!(
                "{} {}",
                t(leaves),
                match fit {
                    Fit::Goes => "goes",
                    Fit::Refused => "does not go",
                    Fit::Just => "just fills it",
                }
            ),
            Self::Depth {
                place, depth, bar, ..
            } => format!("place {place}: {} over bar {}", t(depth), t(bar)),
            Self::Term { term, length } => format!("term {term}: {}", t(length)),
            Self::KnownShim { shim, float } => format!("{} in, float {}", t(shim), t(float)),
            Self::Torque { torque } => t(torque),
            Self::Pull { force, radius } => format!("{} at {}", t(force), t(radius)),
            Self::Pinion { pinion, play } => format!("pinion {pinion}: {}", t(play)),
            Self::Gaps { gear, left, right } => {
                format!("gear {gear}: {} left, {} right", t(left), t(right))
            }
            Self::Answer { answer } => <&str>::from(answer).to_owned(),
            Self::ByHand { from, to } if to.trim().is_empty() => format!("about {}", t(from)),
            Self::ByHand { from, to } => format!("{} to {}", t(from), t(to)),
        }
    }

    /// Reads what was typed; a bare length is in `unit`.
    ///
    /// ```
    /// use anvil_core::units::length::{Length, Unit};
    /// use anvil_core::measure::input::{ReadingInput, Reading};
    /// let pair = ReadingInput::Pair { home: "1.02".into(), out: "1.17".into(), tilt: String::new(), pull: String::new() };
    /// let Reading::Pair { home_nm, .. } = pair.read(Unit::Mm).unwrap() else { panic!() };
    /// assert_eq!(home_nm, Length::from_nm(1_020_000));
    /// let back = ReadingInput::Pair { home: "1.17".into(), out: "1.02".into(), tilt: String::new(), pull: String::new() };
    /// assert_eq!(back.read(Unit::Mm).unwrap_err().field, "out");
    /// ```
    pub fn read(&self, unit: Unit) -> Result<Reading, FieldFault> {
        Ok(match self {
            Self::Travel { travel, tilt, pull } => Reading::Travel {
                travel_nm: up_to("travel", travel, unit, LONGEST_TRAVEL)?,
                tilt_deg: degrees(tilt)?,
                pull_n: pulled(pull)?,
            },
            Self::Pair {
                home,
                out,
                tilt,
                pull,
            } => pair(home, out, tilt, pull, unit)?,
            Self::Leaf { leaves, fit } => Reading::Leaf {
                leaves_nm: leaves_of(leaves, unit)?,
                fit: *fit,
            },
            Self::Depth {
                place,
                of,
                depth,
                bar,
            } => depth_of(*place, *of, depth, bar, unit)?,
            Self::Term { term, length } => {
                let length_nm = up_to("length", length, unit, LONGEST)?;
                if length_nm == Length::ZERO {
                    return Err(fault("length", "a part has a width above nothing"));
                }
                Reading::Term {
                    term: *term,
                    length_nm,
                }
            }
            Self::KnownShim { shim, float } => Reading::KnownShim {
                shim_nm: if shim.trim().is_empty() {
                    Length::ZERO
                } else {
                    up_to("shim", shim, unit, LONGEST_TRAVEL)?
                },
                float_nm: up_to("float", float, unit, LONGEST_TRAVEL)?,
            },
            Self::Torque { torque } => Reading::Torque {
                torque_n_m: Torque(quantity("torque", torque, TORQUES)?),
            },
            Self::Pull { force, radius } => {
                let radius_nm = up_to("radius", radius, unit, LONGEST_RADIUS)?;
                if radius_nm == Length::ZERO {
                    return Err(fault("radius", "a pull at no radius turns nothing"));
                }
                Reading::Pull {
                    force_n: Force(quantity("force", force, FORCES)?),
                    radius_nm,
                }
            }
            Self::Pinion { pinion, play } => Reading::Pinion {
                pinion: counted("pinion", *pinion)?,
                play_nm: up_to("play", play, unit, LONGEST_TRAVEL)?,
            },
            Self::Gaps { gear, left, right } => Reading::Gaps {
                gear: counted("gear", *gear)?,
                left_nm: up_to("left", left, unit, LONGEST_TRAVEL)?,
                right_nm: up_to("right", right, unit, LONGEST_TRAVEL)?,
            },
            Self::Answer { answer } => Reading::Answer { answer: *answer },
            Self::ByHand { from, to } => {
                let from_nm = signed("from", from, unit)?;
                let to_nm = if to.trim().is_empty() {
                    from_nm
                } else {
                    signed("to", to, unit)?
                };
                if to_nm < from_nm {
                    return Err(fault(
                        "to",
                        "the range runs backwards: give the smaller figure first",
                    ));
                }
                Reading::ByHand { from_nm, to_nm }
            }
        })
    }
}

impl ReadingInput {
    /// What was typed as a reading of a method; a bare length is in `unit`.
    ///
    /// # Errors
    /// Where a field cannot be read, or this kind of reading is not of the method.
    pub fn read_for(&self, method: Method, unit: Unit) -> Ruled<Reading> {
        let reading = self.read(unit).map_err(|e| Refusal::field(e.field, e))?;
        if !self.fits(method) {
            return Err(Refusal::field(
                "way",
                "That kind of reading is not of this way of measuring: choose the way first.",
            ));
        }
        Ok(reading)
    }
}

impl Reading {
    /// The length that a slip of the pen would show in, where the reading is one length.
    #[must_use]
    pub fn figure(&self) -> Option<Length> {
        match self {
            Self::Travel { travel_nm, .. } => Some(*travel_nm),
            Self::Pair {
                home_nm, out_nm, ..
            } => out_nm.checked_sub(*home_nm),
            Self::Depth {
                depth_nm, bar_nm, ..
            } => depth_nm.checked_sub(*bar_nm),
            Self::KnownShim { float_nm, .. } => Some(*float_nm),
            Self::Term { length_nm, .. } => Some(*length_nm),
            Self::Leaf { leaves_nm, .. } => leaves_nm
                .iter()
                .try_fold(Length::ZERO, |sum, l| sum.checked_add(*l)),
            Self::Pinion { play_nm, .. } => Some(*play_nm),
            Self::Torque { .. }
            | Self::Pull { .. }
            | Self::Gaps { .. }
            | Self::Answer { .. }
            | Self::ByHand { .. } => None,
        }
    }

    /// The trial of a dial, where it is one.
    pub(crate) fn trial(&self) -> Option<Trial> {
        let (tilt_deg, pull_n, pair) = match self {
            Self::Travel {
                tilt_deg, pull_n, ..
            } => (*tilt_deg, *pull_n, false),
            Self::Pair {
                tilt_deg, pull_n, ..
            } => (*tilt_deg, *pull_n, true),
            _ => return None,
        };
        Some(Trial {
            travel: self.figure()?,
            pair,
            tilt_deg,
            pull_n,
        })
    }
}

/// A number counted from 1.
fn counted(field: &'static str, number: u16) -> Result<u16, FieldFault> {
    if number == 0 {
        return Err(fault(field, "these are counted from 1"));
    }
    Ok(number)
}

fn pair(home: &str, out: &str, tilt: &str, pull: &str, unit: Unit) -> Result<Reading, FieldFault> {
    let (home_nm, out_nm) = (signed("home", home, unit)?, signed("out", out, unit)?);
    if out_nm < home_nm {
        return Err(fault(
            "out",
            "the dial reads less out than home, so the travel would be below nothing: swap the two, or set the plunger so that it goes in as the shaft comes out",
        ));
    }
    Ok(Reading::Pair {
        home_nm,
        out_nm,
        tilt_deg: degrees(tilt)?,
        pull_n: pulled(pull)?,
    })
}

fn depth_of(
    place: u16,
    of: u16,
    depth: &str,
    bar: &str,
    unit: Unit,
) -> Result<Reading, FieldFault> {
    if !(3..=MOST_PLACES).contains(&of) || !(1..=of).contains(&place) {
        return Err(fault(
            "place",
            format!("there are from 3 to {MOST_PLACES} places, counted from 1"),
        ));
    }
    let depth_nm = up_to("depth", depth, unit, LONGEST)?;
    let bar_nm = if bar.trim().is_empty() {
        Length::ZERO
    } else {
        up_to("bar", bar, unit, LONGEST)?
    };
    if depth_nm < bar_nm {
        return Err(fault(
            "depth",
            format!(
                "the depth is less than the bar is thick ({bar_nm}): read it from the bar's upper face"
            ),
        ));
    }
    Ok(Reading::Depth {
        place,
        of,
        depth_nm,
        bar_nm,
    })
}

fn signed(field: &'static str, text: &str, unit: Unit) -> Result<Length, FieldFault> {
    notation::parse(text, Some(unit), Sign::Any).map_err(|e| fault(field, e))
}

fn up_to(field: &'static str, text: &str, unit: Unit, most: Length) -> Result<Length, FieldFault> {
    let length =
        notation::parse(text, Some(unit), Sign::NotNegative).map_err(|e| fault(field, e))?;
    if length > most {
        let why = match field {
            "travel" => {
                format!(
                    "{length} is further than any dial travels (100 mm): check the figure and its unit"
                )
            }
            _ => format!("{length} is more than {most}: check the figure and its unit"),
        };
        return Err(fault(field, why));
    }
    Ok(length)
}

fn leaves_of(text: &str, unit: Unit) -> Result<Vec<Length>, FieldFault> {
    let leaves: Vec<Length> = text
        .split('+')
        .map(|leaf| up_to("leaves", leaf, unit, LONGEST_TRAVEL))
        .collect::<Result<_, _>>()?;
    if leaves.contains(&Length::ZERO) {
        return Err(fault("leaves", "a leaf is thicker than nothing"));
    }
    if leaves.len() > MOST_LEAVES {
        return Err(fault(
            "leaves",
            format!("more than {MOST_LEAVES} leaves spring: use a thicker one"),
        ));
    }
    Ok(leaves)
}

fn degrees(text: &str) -> Result<f64, FieldFault> {
    let bare = text.trim().trim_end_matches('°').trim().replace(',', ".");
    if bare.is_empty() {
        return Ok(0.0);
    }
    match bare.parse::<f64>() {
        Ok(angle) if (0.0..60.0).contains(&angle) => Ok(angle),
        _ => Err(fault(
            "tilt",
            "the plunger's tilt is in degrees, from 0 to below 60, such as 5",
        )),
    }
}

fn pulled(text: &str) -> Result<Option<f64>, FieldFault> {
    if text.trim().is_empty() {
        return Ok(None);
    }
    quantity("pull", text, FORCES).map(Some)
}

/// Units of torque, in newton metres, longest names first.
const TORQUES: &[(&str, f64)] = &[
    ("lbf·ft", N_M_PER_LBF_FT),
    ("lbfft", N_M_PER_LBF_FT),
    ("ftlb", N_M_PER_LBF_FT),
    ("lbft", N_M_PER_LBF_FT),
    ("lbf·in", N_M_PER_LBF_FT / 12.0),
    ("lbfin", N_M_PER_LBF_FT / 12.0),
    ("inlb", N_M_PER_LBF_FT / 12.0),
    ("lbin", N_M_PER_LBF_FT / 12.0),
    ("kgf·cm", N_PER_KGF / 100.0),
    ("kgfcm", N_PER_KGF / 100.0),
    ("n·cm", 0.01),
    ("ncm", 0.01),
    ("n·m", 1.0),
    ("nm", 1.0),
    ("", 1.0),
];

/// Units of force, in newtons.
const FORCES: &[(&str, f64)] = &[
    ("lbf", N_PER_LBF),
    ("lb", N_PER_LBF),
    ("kgf", N_PER_KGF),
    ("kg", N_PER_KGF),
    ("n", 1.0),
    ("", 1.0),
];

/// No turning torque or pull at a bench is larger.
const MOST: f64 = 10_000.0;

fn quantity(field: &'static str, text: &str, units: &[(&str, f64)]) -> Result<f64, FieldFault> {
    let text = text.trim();
    let end = text
        .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',')))
        .unwrap_or(text.len());
    let (figure, unit) = text.split_at(end);
    let known: Vec<&str> = units
        .iter()
        .map(|u| u.0)
        .filter(|u| u.contains('·') || units.len() < 8)
        .collect();
    let wanted = || {
        fault(
            field,
            format!(
                "“{text}” is not read: write a figure above nothing and one of {}",
                known
                    .iter()
                    .filter(|u| !u.is_empty())
                    .copied()
                    .collect::<Vec<_>>()
                    .join(", ")
            ),
        )
    };
    let unit: String = unit
        .to_lowercase()
        .chars()
        .filter(|c| !c.is_whitespace() && !matches!(c, '.' | '*' | '-'))
        .collect();
    let factor = units
        .iter()
        .find(|(name, _)| *name == unit)
        .ok_or_else(wanted)?
        .1;
    let value: f64 = figure.replace(',', ".").parse().map_err(|_| wanted())?;
    let value = value * factor;
    if value > 0.0 && value <= MOST {
        Ok(value)
    } else {
        Err(wanted())
    }
}
