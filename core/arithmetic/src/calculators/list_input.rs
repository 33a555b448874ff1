//! Lists as people type them in one field: readings and sizes, the terms of a stack, lengths of a
//! material.

use std::collections::BTreeSet;

use thiserror::Error;

use crate::materials::expansion::Material;
use crate::measure::centring::Gaps;
use crate::measure::known_shim::ShimReading;
use crate::measure::limited_gaps::LimitedGap;
use crate::measure::stack_sum::Term;
use crate::units::length::{Length, Unit};
use crate::units::notation::{self, Sign};

/// More than this in one field is no list for a bench.
const MOST: usize = 400;

/// Something in a list that cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum ListError {
    /// One item is wrong.
    #[error("“{item}”: {why}")]
    Item {
        /// The item as typed.
        item: String,
        /// What is wrong with it, and what would be right.
        why: String,
    },
    /// There is none.
    #[error("there is none here yet: {0}")]
    Empty(&'static str),
    /// There are too many.
    #[error("up to {MOST} can be taken here")]
    TooMany,
}

fn item(item: &str, why: impl std::fmt::Display) -> ListError {
    ListError::Item {
        item: item.trim().to_owned(),
        why: why.to_string(),
    }
}

fn length(text: &str, unit: Unit, sign: Sign) -> Result<Length, ListError> {
    notation::parse(text, Some(unit), sign).map_err(|e| item(text, e))
}

/// Reads lengths in bench notation, a line each, or between semicolons or spaces; a bare figure is in
/// `unit`.
///
/// ```
/// use anvil_arithmetic::units::length::{Length, Unit};
/// use anvil_arithmetic::calculators::list_input::lengths;
/// use anvil_arithmetic::units::notation::Sign;
/// let found = lengths("23.5 24 22 1/2 thou; 1.27", Unit::Mm, Sign::NotNegative).unwrap();
/// let thou: Vec<_> = found.iter().map(|l| l.in_unit(Unit::Thou)).collect();
/// assert_eq!(thou, ["23.5", "24", "22.5", "50"]);
/// assert_eq!(
///     lengths("1.20\n1.2o", Unit::Mm, Sign::NotNegative).unwrap_err().to_string().split(':').next(),
///     Some("“1.2o”")
/// );
/// ```
///
/// # Errors
/// The first line that is no length, with its number.
pub fn lengths(text: &str, unit: Unit, sign: Sign) -> Result<Vec<Length>, ListError> {
    let mut found = Vec::new();
    for chunk in text.split([';', '\n']).filter(|c| !c.trim().is_empty()) {
        match length(chunk, unit, sign) {
            Ok(one) => found.push(one),
            Err(why) => {
                let several = several(chunk);
                // A lone one keeps the reason why it cannot be read.
                if several.len() < 2 {
                    return Err(why);
                }
                for one in several {
                    found.push(length(&one, unit, sign)?);
                }
            }
        }
    }
    if found.len() > MOST {
        return Err(ListError::TooMany);
    }
    Ok(found)
}

/// Reads the sizes that pieces are made in, each once and the thinnest first: lengths as [`lengths`] reads them, and
/// ranges in even steps. A bare figure is in `unit`, or in the unit that its range names.
///
/// ```
/// use anvil_arithmetic::calculators::list_input::sizes;
/// use anvil_arithmetic::units::length::Unit;
/// let found = sizes("1.10 to 1.25 by 0.05; 1.40", Unit::Mm).unwrap();
/// let mm: Vec<_> = found.iter().map(|l| l.in_unit(Unit::Mm)).collect();
/// assert_eq!(mm, ["1.1", "1.15", "1.2", "1.25", "1.4"]);
/// assert_eq!(sizes("33 to 39 by 3 thou", Unit::Mm).unwrap()[2].in_unit(Unit::Thou), "39");
/// ```
///
/// # Errors
/// The first item that is no size, or a range whose steps do not end at its end.
pub fn sizes(text: &str, unit: Unit) -> Result<Vec<Length>, ListError> {
    let mut found = BTreeSet::new();
    for chunk in text.split([';', '\n']).filter(|c| !c.trim().is_empty()) {
        let these = match range(chunk, unit)? {
            Some(these) => these,
            None => lengths(chunk, unit, Sign::NotNegative)?,
        };
        if these.contains(&Length::ZERO) {
            return Err(item(chunk, "a piece is thicker than nothing"));
        }
        found.extend(these);
        if found.len() > MOST {
            return Err(ListError::TooMany);
        }
    }
    if found.is_empty() {
        return Err(ListError::Empty(
            "write the sizes, such as 1.10 to 1.25 by 0.05; 1.40",
        ));
    }
    Ok(found.into_iter().collect())
}

/// A range in even steps, where it is one: from, to, by.
fn range(chunk: &str, unit: Unit) -> Result<Option<Vec<Length>>, ListError> {
    let words: Vec<&str> = chunk.split_whitespace().collect();
    let at = |word: &str| words.iter().position(|w| w.eq_ignore_ascii_case(word));
    let Some(to) = at("to") else { return Ok(None) };
    let by = at("by").filter(|by| *by > to);
    let Some(by) = by else {
        return Err(item(
            chunk,
            "say in what steps, such as 1.10 to 1.25 by 0.05",
        ));
    };
    let parts = [&words[..to], &words[to + 1..by], &words[by + 1..]].map(|p| p.join(" "));
    let named = |part: &str| {
        let unit = part.trim_start_matches(|c: char| !c.is_alphabetic() && !"\"'”″µ".contains(c));
        (!unit.is_empty()).then(|| unit.to_owned())
    };
    let carried = parts
        .iter()
        .rev()
        .find_map(|p| named(p))
        .unwrap_or_default();
    let figure = |part: &String| {
        let bare = named(part).is_none();
        let text = if bare {
            format!("{part} {carried}")
        } else {
            part.clone()
        };
        length(&text, unit, Sign::NotNegative)
    };
    let (from, last, step) = (figure(&parts[0])?, figure(&parts[1])?, figure(&parts[2])?);
    if step == Length::ZERO || last < from {
        return Err(item(
            chunk,
            "a range goes up, from the thinnest to the thickest, in steps of more than nothing",
        ));
    }
    let steps = (last.nm() - from.nm()) / step.nm();
    let ends = Length::from_nm(from.nm() + steps * step.nm());
    if ends != last {
        return Err(item(
            chunk,
            format!("steps of {step} from {from} come to {ends}, and not to {last}"),
        ));
    }
    if usize::try_from(steps).is_ok_and(|n| n >= MOST) {
        return Err(ListError::TooMany);
    }
    Ok(Some(
        (0..=steps)
            .map(|n| Length::from_nm(from.nm() + n * step.nm()))
            .collect(),
    ))
}

/// Several lengths with spaces between: a fraction belongs to the whole figure before it, and a unit to
/// all bare figures before it.
fn several(chunk: &str) -> Vec<String> {
    let mut found: Vec<String> = Vec::new();
    let mut bare = 0;
    for word in chunk.split_whitespace() {
        let last = found.last_mut().filter(|_| bare > 0);
        let whole = |text: &str| text.bytes().all(|b| b.is_ascii_digit());
        if !word.contains(|c: char| c.is_ascii_digit()) {
            for one in found.iter_mut().rev().take(bare.max(1)) {
                *one = format!("{one} {word}");
            }
            if found.is_empty() {
                found.push(word.to_owned());
            }
            bare = 0;
        } else if let Some(last) = last.filter(|l| word.contains('/') && whole(l)) {
            *last = format!("{last} {word}");
        } else {
            found.push(word.to_owned());
            let is_bare = word
                .trim_start_matches(['-', '−'])
                .chars()
                .all(|c| c.is_ascii_digit() || ".,/".contains(c));
            bare = if is_bare { bare + 1 } else { 0 };
        }
    }
    found
}

/// Splits lines of a head and what stands after its colon.
fn lines<'a>(
    text: &'a str,
    right: &'static str,
) -> Result<Vec<(&'a str, &'a str, &'a str)>, ListError> {
    let lines = text.lines().filter(|l| !l.trim().is_empty());
    let found: Vec<_> = lines
        .map(|line| {
            let (head, rest) = line.split_once(':').ok_or_else(|| {
                item(
                    line,
                    format!("write a colon before the figure, such as {right}"),
                )
            })?;
            Ok((line, head.trim(), rest.trim()))
        })
        .collect::<Result<_, ListError>>()?;
    match found.len() {
        0 => Err(ListError::Empty(right)),
        n if n > MOST => Err(ListError::TooMany),
        _ => Ok(found),
    }
}

/// A sum of lengths, `17.2 + 3.6`.
fn sum(text: &str, unit: Unit) -> Result<Length, ListError> {
    text.split('+').try_fold(Length::ZERO, |sum, part| {
        let part = length(part, unit, Sign::NotNegative)?;
        sum.checked_add(part)
            .ok_or_else(|| item(text, "that is longer than any gearbox"))
    })
}

/// Reads the terms of a stack sum, one a line: `+` for what opens the gap, `-` for what fills it, what it
/// is, a colon, its length (or lengths with `+` between), and its limits after `±` or `+-`.
///
/// ```
/// use anvil_arithmetic::units::length::{Length, Unit};
/// use anvil_arithmetic::calculators::list_input::terms;
/// // An 18.0 mm race and a 1.5 mm spacer stand in for a 19.5 mm race (common practice, no source).
/// let found = terms("+ case: 120.40 ± 0.03\n- race and spacer: 18.0 + 1.5 +- 0.02", Unit::Mm).unwrap();
/// assert_eq!(found[1].length_nm, Length::from_nm(19_500_000));
/// assert_eq!((found[0].opens, found[1].opens), (true, false));
/// assert_eq!(found[1].tolerance_nm, Some(Length::from_nm(20_000)));
/// ```
///
/// # Errors
/// The first line that is no term, with its number.
pub fn terms(text: &str, unit: Unit) -> Result<Vec<Term>, ListError> {
    const RIGHT: &str = "+ case depth: 120.40 ± 0.03";
    lines(text, RIGHT)?
        .into_iter()
        .map(|(line, head, rest)| {
            let opens = match head.chars().next() {
                Some('+') => true,
                Some('-' | '−' | '–') => false,
                _ => {
                    return Err(item(
                        line,
                        format!(
                            "begin with + where it opens the gap, with - where it fills it, such as {RIGHT}"
                        ),
                    ));
                }
            };
            let rest = rest.replace("+-", "±").replace("+/-", "±");
            let (long, limits) = rest
                .split_once('±')
                .map_or((rest.as_str(), None), |(long, limits)| (long, Some(limits)));
            let length_nm = sum(long, unit)?;
            if length_nm == Length::ZERO {
                return Err(item(line, "a part has a width above nothing"));
            }
            let tolerance_nm = limits
                .map(|t| length(t, unit, Sign::NotNegative))
                .transpose()?
                .filter(|t| *t > Length::ZERO);
            Ok(Term {
                what: head.trim_start_matches(['+', '-', '−', '–']).trim().to_owned(),
                opens,
                length_nm,
                tolerance_nm,
                measured_nm: Vec::new(),
                by: Vec::new(),
            })
        })
        .collect()
}

/// Reads lengths of materials, one a line: the material, a colon, its length (or lengths with `+`).
///
/// ```
/// use anvil_arithmetic::units::length::{Length, Unit};
/// use anvil_arithmetic::calculators::list_input::materials;
/// use anvil_arithmetic::materials::expansion::Material;
/// let found = materials("aluminium: 300", Unit::Mm).unwrap();
/// assert_eq!(found, [(Material::Aluminium, Length::from_nm(300_000_000))]);
/// assert!(materials("brass: 3", Unit::Mm).unwrap_err().to_string().contains("aluminium"));
/// ```
///
/// # Errors
/// The first line whose material or length is not known, with its number.
pub fn materials(text: &str, unit: Unit) -> Result<Vec<(Material, Length)>, ListError> {
    lines(text, "aluminium: 300 mm")?
        .into_iter()
        .map(|(line, head, rest)| {
            let of = match head.to_lowercase().as_str() {
                "steel" => Material::Steel,
                "cast iron" | "iron" => Material::CastIron,
                "aluminium" | "aluminum" => Material::Aluminium,
                "magnesium" => Material::Magnesium,
                "bronze" => Material::Bronze,
                _ => {
                    return Err(item(
                        line,
                        "the materials known here are steel, cast iron, aluminium, magnesium and bronze",
                    ));
                }
            };
            Ok((of, sum(rest, unit)?))
        })
        .collect()
}

/// Reads set-ups with a known shim, one a line: the shim, a colon, the float felt with it in.
///
/// ```
/// use anvil_arithmetic::units::length::Unit;
/// use anvil_arithmetic::calculators::list_input::set_ups;
/// let found = set_ups("3: 1\n0: 0", Unit::Thou).unwrap();
/// assert_eq!(found[0].shim_nm.in_unit(Unit::Thou), "3");
/// ```
///
/// # Errors
/// The first line that is no set-up, with its number.
pub fn set_ups(text: &str, unit: Unit) -> Result<Vec<ShimReading>, ListError> {
    lines(text, "3 thou: 1 thou")?
        .into_iter()
        .map(|(_, shim, float)| {
            Ok(ShimReading {
                shim_nm: length(shim, unit, Sign::NotNegative)?,
                float_nm: length(float, unit, Sign::NotNegative)?,
            })
        })
        .collect()
}

/// Reads the gaps at each gear, one a line: its name, a colon, the gap at the left, a semicolon, the gap at
/// the right; after another semicolon `floats` where it has no stop of its own (it weighs twice then) or a
/// weight.
///
/// ```
/// use anvil_arithmetic::units::length::Unit;
/// use anvil_arithmetic::calculators::list_input::gaps;
/// let found = gaps("second: 0.9; 1.3\nthird: 0.6; 1.0; floats", Unit::Mm).unwrap();
/// assert_eq!((found[0].weight, found[1].weight), (1, 2));
/// ```
///
/// # Errors
/// The first line that has no two gaps, with its number.
pub fn gaps(text: &str, unit: Unit) -> Result<Vec<Gaps>, ListError> {
    const RIGHT: &str = "second: 0.9; 1.3";
    lines(text, RIGHT)?
        .into_iter()
        .map(|(line, name, rest)| {
            let parts: Vec<&str> = rest.split(';').map(str::trim).collect();
            let (Some(left), Some(right), true) = (parts.first(), parts.get(1), parts.len() < 4)
            else {
                return Err(item(
                    line,
                    format!(
                        "write the gaps left and right with a semicolon between, such as {RIGHT}"
                    ),
                ));
            };
            let weight = match parts.get(2).copied().unwrap_or_default() {
                "" => 1,
                "floats" => 2,
                figure => figure.parse().map_err(|_| {
                    item(
                        line,
                        "at the end stands “floats”, a weight such as 3, or nothing",
                    )
                })?,
            };
            Ok(Gaps {
                name: name.to_owned(),
                left: length(left, unit, Sign::NotNegative)?,
                right: length(right, unit, Sign::NotNegative)?,
                weight,
            })
        })
        .collect()
}

/// Reads gaps with limits, a line each: what people call it, a colon, the gap, how it moves, the least and the most that it
/// may be, and its weight, with semicolons between. `1+` grows as the first shaft moves to the left and `2-` shrinks as the
/// second does; `1+2-` is a gap between the two. A limit left empty is open.
///
/// ```
/// use anvil_arithmetic::units::length::Unit;
/// use anvil_arithmetic::calculators::list_input::limited_gaps;
/// let found = limited_gaps("dogs of third: 1.8; 1+; 2.0; ; 2\npad: 0.1; 1-; 0.05; 0.30", Unit::Mm).unwrap();
/// assert_eq!((found[0].grows, found[0].weight), ([1, 0], 2));
/// assert!(found[0].most.is_none() && found[1].most.is_some());
/// ```
///
/// # Errors
/// The first line that is no gap with limits, with what is wrong in it.
pub fn limited_gaps(text: &str, unit: Unit) -> Result<Vec<LimitedGap>, ListError> {
    const RIGHT: &str = "dogs of third: 1.8; 1+; 2.0; 3.5";
    lines(text, RIGHT)?
        .into_iter()
        .map(|(line, name, rest)| {
            let mut parts = rest.split(';').map(str::trim);
            let mut part = || parts.next().unwrap_or_default();
            let (now, moves, least, most, weight) = (part(), part(), part(), part(), part());
            let grows = match moves {
                "1+" => [1, 0],
                "1-" => [-1, 0],
                "2+" => [0, 1],
                "2-" => [0, -1],
                "1+2-" => [1, -1],
                "1-2+" => [-1, 1],
                _ => {
                    return Err(item(
                        line,
                        "say how it moves: 1+ grows and 1- shrinks as the first shaft moves to the left, 2+ and 2- as the second does",
                    ));
                }
            };
            // Only what may lie on both sides of nothing can be below it.
            let limit = |text: &str| match text {
                "" => Ok(None),
                text => length(text, unit, Sign::Any).map(Some),
            };
            let (least, most) = (limit(least)?, limit(most)?);
            let sign = if least.is_some_and(|l| l < Length::ZERO) {
                Sign::Any
            } else {
                Sign::NotNegative
            };
            let weight = match weight {
                "" => 1,
                figure => figure
                    .parse()
                    .map_err(|_| item(line, "a weight is a figure from 1 to 10, such as 2"))?,
            };
            Ok(LimitedGap {
                name: name.to_owned(),
                now: length(now, unit, sign)?,
                grows,
                least,
                most,
                weight,
            })
        })
        .collect()
}
