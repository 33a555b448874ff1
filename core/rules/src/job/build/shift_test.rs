//! The shift test: each gear as the teeth on the rail have it, and which gear it is that turns so.

use serde::{Deserialize, Serialize};

use crate::sheet::{GearPath, Hand, Part, Shaft, Sheet, Turning};

/// How far a turn of the output may be off, unless the person says otherwise.
pub const WITHIN: f64 = 0.05;
/// Outputs closer than this share of each other no hand tells apart.
const ALIKE: f64 = 0.02;
/// Nobody turns an input further than this to tell gears apart.
const MOST_TO_TELL: u32 = 20;
/// What neutral is called among the gears.
pub const NEUTRAL: &str = "neutral";

/// The gears of a box, to be tried one by one.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct ShiftTest {
    /// So many turns of the input tell them apart.
    pub turns_in: u32,
    /// Neutral first, then as the sheet has them.
    pub gears: Vec<GearTurns>,
}

/// A gear as it should turn.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct GearTurns {
    pub name: String,
    /// The selector's position; empty where it has no name of its own.
    pub position: String,
    /// Turns of the input for one of the output, by the teeth; none in neutral.
    pub ratio: Option<f64>,
    /// Turns of the output for one of the input; below zero where it turns against it.
    pub turns_out: f64,
    /// It turns against the other gears, whichever way those turn.
    pub against_the_others: bool,
    /// The parts that power goes through, in their order.
    pub path: Vec<String>,
    /// The side that each shaft is pushed to while the engine pulls.
    pub pushes: Vec<Push>,
    /// Other gears that turn so alike that turning does not tell them apart.
    pub alike: Vec<String>,
    /// How it was tried last.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tried: Option<Tried>,
}

/// Where a shaft is pushed to by the lean of its teeth.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Push {
    /// What people call the shaft.
    pub shaft: String,
    /// −1 to the left of its rail, +1 to the right; none where its gears push either way, and the angles decide.
    pub to: Option<i8>,
}

/// How a gear was tried.
#[derive(Clone, Debug, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Tried {
    /// Turns in and out, where they were counted.
    pub turns: Option<Turns>,
    /// It turned as it should.
    pub as_it_should: bool,
    /// The gears that turn so; none where no gear of the box does.
    pub is: Vec<String>,
    pub who: String,
}

/// Turns counted by hand.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Turns {
    /// Of the input.
    pub turns_in: f64,
    /// Of the output; below zero where it turns against the input.
    pub turns_out: f64,
    /// How far the output may be off, in turns.
    #[serde(default = "within")]
    pub within: f64,
}

const fn within() -> f64 {
    WITHIN
}

impl ShiftTest {
    /// The test of a sheet's gears; none where it names none.
    #[must_use]
    pub fn of(sheet: &Sheet) -> Option<Self> {
        let gears = gears(sheet);
        let apart = |turns: u32| {
            let far = |a: &GearTurns, b: &GearTurns| {
                let off = f64::from(turns) * (a.turns_out - b.turns_out).abs();
                a.name == b.name || a.alike.contains(&b.name) || off > 2.0 * WITHIN
            };
            gears.iter().all(|a| gears.iter().all(|b| far(a, b)))
        };
        let turns_in = (1..MOST_TO_TELL).find(|turns| apart(*turns));
        (!gears.is_empty()).then(|| Self {
            turns_in: turns_in.unwrap_or(MOST_TO_TELL),
            gears,
        })
    }
}

/// The gears of a sheet as they should turn, neutral first; none where the sheet names none.
///
/// # Formula
/// `i = ∏ z_driven / z_driver`; each outside mesh turns the direction round, a chain or belt does not, and pushes nothing
/// along its shafts. A driving gear whose teeth lean as a
/// right-hand thread is pushed the way that a right-hand screw turned like it would go, the driven one the other way
/// (right-hand rule, machine design, from memory).
#[must_use]
pub fn gears(sheet: &Sheet) -> Vec<GearTurns> {
    if sheet.gears.is_empty() {
        return Vec::new();
    }
    let mut found: Vec<GearTurns> = vec![GearTurns {
        name: NEUTRAL.into(),
        position: String::new(),
        ratio: None,
        turns_out: 0.0,
        against_the_others: false,
        path: Vec::new(),
        pushes: Vec::new(),
        alike: Vec::new(),
        tried: None,
    }];
    found.extend(sheet.gears.iter().map(|gear| turns_of(sheet, gear)));
    let against = found.iter().filter(|g| g.turns_out < 0.0).count();
    let with = found.iter().filter(|g| g.turns_out > 0.0).count();
    let all: Vec<(String, f64)> = found
        .iter()
        .map(|g| (g.name.clone(), g.turns_out))
        .collect();
    for gear in &mut found {
        // The fewer are the odd ones: most boxes have one reverse.
        gear.against_the_others =
            (gear.turns_out < 0.0 && against < with) || (gear.turns_out > 0.0 && with < against);
        gear.alike = all
            .iter()
            .filter(|(name, turns)| {
                let most = turns.abs().max(gear.turns_out.abs());
                *name != gear.name && (turns - gear.turns_out).abs() <= ALIKE * most
            })
            .map(|(name, _)| name.clone())
            .collect();
    }
    found
}

fn turns_of(sheet: &Sheet, gear: &GearPath) -> GearTurns {
    let find = |key: &str| -> Option<(&Shaft, &Part)> {
        let shafts = sheet.shafts.iter();
        shafts
            .flat_map(|s| s.parts.iter().map(move |p| (s, p)))
            .find(|(_, p)| p.key == *key)
    };
    // Of the fraction that the ratio is: the teeth of all that drive below its line, of all that are driven above it.
    // Exact as long as there are fewer than 2^53 of either; eight pairs of 300 are more than a whole number of 64 bits.
    let (mut above, mut below, mut direction) = (1.0, 1.0, 1_i8);
    let turning = sheet.input_turns.map(|t| match t {
        Turning::Clockwise => 1_i8,
        Turning::Anticlockwise => -1,
    });
    let mut path: Vec<String> = Vec::new();
    let mut pushes: Vec<Push> = Vec::new();
    let mut push = |shaft: &Shaft, to: i8| match pushes.iter_mut().find(|p| p.shaft == shaft.name) {
        Some(before) if before.to != Some(to) => before.to = None,
        Some(_) => {}
        None => pushes.push(Push {
            shaft: shaft.name.clone(),
            to: Some(to),
        }),
    };
    for [driver, driven] in &gear.pairs {
        let (Some(a), Some(b)) = (find(driver), find(driven)) else {
            continue;
        };
        below *= f64::from(a.1.teeth.unwrap_or(1));
        above *= f64::from(b.1.teeth.unwrap_or(1));
        for key in [driver, driven] {
            if path.last() != Some(key) {
                path.push(key.clone());
            }
        }
        if a.1.chain {
            continue;
        }
        // A right-hand screw that turns clockwise, seen from the left, goes to the right.
        let lean =
            a.1.helix
                .map(|hand| if hand == Hand::Right { 1_i8 } else { -1 });
        if let (Some(lean), Some(turning)) = (lean, turning) {
            let to = lean * turning * direction;
            push(a.0, to);
            push(b.0, -to);
        }
        direction = -direction;
    }
    let ratio: f64 = above / below;
    GearTurns {
        name: gear.name.clone(),
        position: gear.position.clone(),
        ratio: Some(ratio),
        turns_out: f64::from(direction) / ratio,
        against_the_others: false,
        path,
        pushes,
        alike: Vec::new(),
        tried: None,
    }
}

/// The gears that turn so, within what the person gives.
///
/// ```
/// use anvil_rules::job::build::{Turns, gears_that_turn};
/// # let text = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/sheets/skelt-m5.json")).unwrap();
/// let sheet = anvil_rules::sheet::read(&text).unwrap();
/// let turned = |turns_in, turns_out| gears_that_turn(&sheet, Turns { turns_in, turns_out, within: 0.05 });
/// assert_eq!(turned(2.0, -1.09), ["second"]);
/// assert_eq!(turned(2.0, 0.0), ["neutral"]);
/// assert_eq!(turned(1.0, 3.0), [""; 0]);
/// ```
#[must_use]
pub fn gears_that_turn(sheet: &Sheet, counted: Turns) -> Vec<String> {
    let gears = gears(sheet).into_iter();
    gears
        .filter(|g| (g.turns_out * counted.turns_in - counted.turns_out).abs() <= counted.within)
        .map(|g| g.name)
        .collect()
}
