//! What a rebuilder would ask about a sheet that has no fault: gears whose mates cross, a clearance cut where nothing
//! holds the gear, a spacer that would set the bearings the other way. Its writer can leave each as it is, with a word of
//! why.

use anvil_arithmetic::units::length::Length;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{BuildStep, Check, CheckKind, Part, PartKind, Shaft, Sheet};

/// A thing to look at: not wrong by itself, but no box that was drawn so would run as the sheet says.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[schema(as = sheet::Doubt)]
pub struct Doubt {
    /// The place in the file as a JSON Pointer.
    pub place: String,
    /// Rule and key, by which a word of why is kept: `crossed in-fourth`.
    pub about: String,
    /// What does not fit together, and what would.
    pub message: String,
    /// Why the sheet's writer leaves it as it is.
    pub why: Option<String>,
}

impl Doubt {
    fn new(place: impl Into<String>, about: String, message: impl Into<String>) -> Self {
        Self {
            place: place.into(),
            about,
            message: message.into(),
            why: None,
        }
    }
}

/// A doubt that the writer of the sheet leaves as it is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = sheet::Waived)]
pub struct Waived {
    /// The doubt, as [`Doubt::about`] names it.
    #[schemars(length(min = 1, max = 120))]
    pub about: String,
    /// Why it is so.
    #[schemars(length(min = 1, max = 300))]
    pub why: String,
}

/// A gear and its mate: shaft and place in its list of each.
struct Pair<'a> {
    gear: (usize, usize, &'a Part),
    mate: (usize, usize, &'a Part),
}

/// What to look at in a sheet, what its writer leaves as it is among it.
///
/// Common practice, no source: what turns with a mate lies beside it, what is loose is held on both sides, a fork has one
/// groove.
#[must_use]
pub fn doubts(sheet: &Sheet) -> Vec<Doubt> {
    if sheet.variants.is_empty() {
        return of_build(sheet);
    }
    let mut found: Vec<Doubt> = Vec::new();
    for variant in &sheet.variants {
        let (built, kept) = sheet.built(&variant.key);
        for mut doubt in of_build(&built) {
            doubt.place = kept.in_whole(&doubt.place);
            if !found.contains(&doubt) {
                found.push(doubt);
            }
        }
    }
    found
}

/// The doubts about a sheet of one build.
fn of_build(sheet: &Sheet) -> Vec<Doubt> {
    let mut found = Vec::new();
    let shafts = sheet.shafts.len();
    for a in 0..shafts {
        for b in a + 1..shafts {
            pairs_of(sheet, a, b, &mut found);
        }
    }
    for (s, shaft) in sheet.shafts.iter().enumerate() {
        hubs(s, shaft, &mut found);
    }
    for (c, check) in sheet.checks.iter().enumerate() {
        let place = format!("/checks/{c}");
        side_clearance(sheet, check, &place, &mut found);
        forks(check, &place, &mut found);
        cones(sheet, check, &place, &mut found);
    }
    for (b, step) in sheet.build.iter().enumerate() {
        rows(step, &format!("/build/{b}"), &mut found);
    }
    for (p, pack) in sheet.packs.iter().enumerate() {
        found.extend(pack.doubts().into_iter().map(|odd| {
            let plate = odd.plate.unwrap_or(0);
            Doubt::new(
                format!("/packs/{p}/plates/{plate}/kind"),
                pack.about(plate),
                odd.message,
            )
        }));
    }
    for doubt in &mut found {
        let left = sheet.waived.iter().find(|w| w.about == doubt.about);
        doubt.why = left.map(|w| w.why.clone());
    }
    found
}

/// Whether one more roller would go into the rows of a step.
fn rows(step: &BuildStep, place: &str, found: &mut Vec<Doubt>) {
    let row = step.loose.as_ref().and_then(|l| l.row()?.ok());
    found.extend(row.filter(|r| r.one_missing).map(|row| {
        Doubt::new(
            format!("{place}/loose/per_row"),
            format!("row {}", step.key),
            format!(
                "there is room for {} in a row, and {} are written: count them, or measure the roller",
                row.most, row.count
            ),
        )
    }));
}

/// The pairs of two shafts, in the order of the first one's list.
fn mates(sheet: &Sheet, a: usize, b: usize) -> Vec<Pair<'_>> {
    let placed = |s: usize| {
        let parts = sheet.shafts[s].parts.iter().enumerate();
        parts.map(move |(p, part)| (s, p, part))
    };
    let of = |from: usize, to: usize| {
        placed(from).filter_map(move |gear| {
            let key = gear.2.mates.as_deref()?;
            let mate = placed(to).find(|(_, _, part)| part.key == key)?;
            Some(Pair { gear, mate })
        })
    };
    let mut pairs: Vec<Pair<'_>> = of(a, b)
        .chain(of(b, a).map(|pair| Pair {
            gear: pair.mate,
            mate: pair.gear,
        }))
        .collect();
    pairs.sort_by_key(|pair| (pair.gear.1, pair.mate.1));
    pairs.dedup_by_key(|pair| (pair.gear.1, pair.mate.1));
    pairs
}

/// Whether the pairs of two shafts lie beside each other, in one order, at one distance of the shafts.
fn pairs_of(sheet: &Sheet, a: usize, b: usize, found: &mut Vec<Doubt>) {
    let pairs = mates(sheet, a, b);
    let (first, second) = (&sheet.shafts[a], &sheet.shafts[b]);
    let crossed: Vec<&[Pair<'_>]> = pairs
        .windows(2)
        .filter(|two| two[1].mate.1 < two[0].mate.1)
        .collect();
    if pairs.len() > 1 && crossed.len() == pairs.len() - 1 {
        found.push(Doubt::new(
            format!("/shafts/{b}"),
            format!("turned {} {}", first.key, second.key),
            format!(
                "its gears lie in the other order than their mates on {}: one of the two lists runs from right to left, so that no pair meets; turn one of them",
                first.name
            ),
        ));
        return;
    }
    for two in &crossed {
        let [left, right] = [&two[0], &two[1]];
        found.push(Doubt::new(
            place_of(right.gear),
            format!("crossed {}", right.gear.2.key),
            format!(
                "it lies right of {}, and its mate, {}, left of that one’s: the two pairs cross",
                left.gear.2.name, right.mate.2.name
            ),
        ));
    }
    if crossed.is_empty() {
        apart(sheet, &pairs, found);
    }
    teeth(&pairs, found);
}

/// Where the widths on the sheet put a gear and its mate: beside each other as the other pairs are, or apart.
fn apart(sheet: &Sheet, pairs: &[Pair<'_>], found: &mut Vec<Doubt>) {
    let off = |pair: &Pair<'_>| {
        let [gear, mate] = [pair.gear, pair.mate].map(|(s, p, _)| middle(&sheet.shafts[s], p));
        gear - mate
    };
    // Of two, nobody can say which lies apart.
    if pairs.len() < 3 {
        return;
    }
    let Some(usual) = median(pairs.iter().map(off).collect()) else {
        return;
    };
    for pair in pairs {
        let reach = i64::midpoint(
            pair.gear.2.width.length().nm(),
            pair.mate.2.width.length().nm(),
        );
        let away = (off(pair) - usual).abs();
        if away >= reach {
            found.push(Doubt::new(
                place_of(pair.gear),
                format!("apart {}", pair.gear.2.key),
                format!(
                    "as drawn it lies {} along the shaft from {}, further than either is wide, where the other pairs lie side by side: look at the widths and the bare shaft before them",
                    Length::from_nm(away),
                    pair.mate.2.name
                ),
            ));
        }
    }
}

/// Pairs between the same two shafts have one centre distance: their teeth make about the same sum.
fn teeth(pairs: &[Pair<'_>], found: &mut Vec<Doubt>) {
    let sum = |pair: &Pair<'_>| Some(i64::from(pair.gear.2.teeth?) + i64::from(pair.mate.2.teeth?));
    let sums: Vec<i64> = pairs.iter().filter_map(sum).collect();
    if sums.len() < 3 {
        return;
    }
    let Some(usual) = median(sums) else {
        return;
    };
    for pair in pairs {
        let Some(sum) = sum(pair).filter(|sum| (sum - usual).abs() * 8 > usual) else {
            continue;
        };
        found.push(Doubt::new(
            place_of(pair.gear),
            format!("teeth {}", pair.gear.2.key),
            format!(
                "with {} it has {sum} teeth, where the other pairs of these two shafts have about {usual}: one distance of the shafts takes both only with teeth of another size",
                pair.mate.2.name
            ),
        ));
    }
}

/// A hub turns with one of the gears beside it.
fn hubs(s: usize, shaft: &Shaft, found: &mut Vec<Doubt>) {
    let rides = |part: &&Part| {
        !matches!(
            part.kind,
            PartKind::Washer | PartKind::SnapRing | PartKind::Shim | PartKind::NeedleBearing
        )
    };
    let gears = |part: Option<&Part>| {
        part.is_some_and(|p| matches!(p.kind, PartKind::Gear | PartKind::Planet | PartKind::Drum))
    };
    if !shaft.parts.iter().any(|p| p.kind == PartKind::Gear) {
        return;
    }
    for (p, part) in shaft.parts.iter().enumerate() {
        let left = shaft.parts[..p].iter().rev().find(rides);
        let right = shaft.parts[p + 1..].iter().find(rides);
        if part.kind == PartKind::Hub && !gears(left) && !gears(right) {
            found.push(Doubt::new(
                format!("/shafts/{s}/parts/{p}"),
                format!("hub {}", part.key),
                "no gear lies beside it that it could turn with: a hub stands between the gears that it takes",
            ));
        }
    }
}

/// A gear's side clearance lies between it and what holds it, and not where a sliding gear has its way.
fn side_clearance(sheet: &Sheet, check: &Check, place: &str, found: &mut Vec<Doubt>) {
    let (CheckKind::GearSideClearance, Some([left, right])) = (check.kind, &check.between) else {
        return;
    };
    let part = |key: &String| {
        let mut parts = sheet.shafts.iter().flat_map(|s| &s.parts);
        parts.find(|p| p.key == *key)
    };
    let (Some(left), Some(right)) = (part(left), part(right)) else {
        return;
    };
    let high = check
        .window
        .as_ref()
        .and_then(|w| Some(w.high.as_ref()?.length().nm()));
    let bare = right.gap_before.as_ref().map_or(0, |g| g.length().nm());
    let about = format!("side {}", check.key);
    if left.kind != PartKind::Gear && right.kind != PartKind::Gear {
        found.push(Doubt::new(
            format!("{place}/between"),
            about,
            "neither part is a gear: a gear’s side clearance lies between it and the washer, ring or shoulder that holds it",
        ));
    } else if high.is_some_and(|high| bare > 4 * high && bare > 1_000_000) {
        found.push(Doubt::new(
            format!("{place}/between"),
            about,
            format!(
                "the drawing has {} of bare shaft there, which is the way of a sliding gear: a side clearance lies between the gear and what holds it",
                Length::from_nm(bare)
            ),
        ));
    }
}

/// A fork has one groove, and what slides in it takes a gear on either side.
fn forks(check: &Check, place: &str, found: &mut Vec<Doubt>) {
    let gears = check.selector.iter().flat_map(|s| &s.gears);
    let mut named: Vec<(&str, Vec<&str>)> = Vec::new();
    for gear in gears {
        let fork = gear.fork.trim();
        if fork.is_empty() {
            continue;
        }
        match named.iter_mut().find(|(name, _)| *name == fork) {
            Some((_, of)) => of.push(&gear.name),
            None => named.push((fork, vec![&gear.name])),
        }
    }
    for (fork, of) in named.into_iter().filter(|(_, of)| of.len() > 2) {
        found.push(Doubt::new(
            format!("{place}/selector"),
            format!("fork {} {fork}", check.key),
            format!(
                "the {fork} is said to take {}: a fork has one groove, and what slides in it takes one gear to the left and one to the right",
                of.join(", ")
            ),
        ));
    }
}

/// A spacer between two cones pushes them apart: towards cups that lie outside, or away from cups that lie between.
fn cones(sheet: &Sheet, check: &Check, place: &str, found: &mut Vec<Doubt>) {
    let Some(setter) = &check.set_by else {
        return;
    };
    let Some(key) = setter.part.as_deref() else {
        return;
    };
    let Some((shaft, at)) = sheet.shafts.iter().find_map(|shaft| {
        let at = shaft.parts.iter().position(|p| p.key == key)?;
        Some((shaft, at))
    }) else {
        return;
    };
    // Each bearing with both halves on this shaft: where its cone lies, and where its cup.
    let bearings = shaft.parts.iter().enumerate().filter_map(|(cone, part)| {
        let cup = part.kept_with.as_deref()?;
        let cup = shaft.parts.iter().position(|p| p.key == cup)?;
        (part.kind == PartKind::TaperBearing).then_some((cone, cup))
    });
    let bearings: Vec<(usize, usize)> = bearings.collect();
    let left = bearings.iter().rev().find(|(cone, _)| *cone < at);
    let right = bearings.iter().find(|(cone, _)| *cone > at);
    let (Some((left_cone, left_cup)), Some((right_cone, right_cup))) = (left, right) else {
        return;
    };
    let outside = match (left_cup < left_cone, right_cup > right_cone) {
        (true, true) => true,
        (false, false) => false,
        _ => return,
    };
    let closes = setter.effect > 0;
    if outside == closes {
        return;
    }
    let (where_, does, said) = if outside {
        ("outside the cones", "closes", "opens")
    } else {
        ("between the cones", "opens", "closes")
    };
    found.push(Doubt::new(
        format!("{place}/set_by/effect"),
        format!("effect {}", check.key),
        format!(
            "the cups are drawn {where_}, where a longer piece ({}) {does} the bearings, and the sheet says that it {said} them: one of the two is the wrong way round",
            shaft.parts[at].name
        ),
    ));
}

fn place_of((shaft, part, _): (usize, usize, &Part)) -> String {
    format!("/shafts/{shaft}/parts/{part}/mates")
}

/// The middle of a part along its shaft as drawn, in nanometres from the shaft's left end.
fn middle(shaft: &Shaft, part: usize) -> i64 {
    let long =
        |p: &Part| p.width.length().nm() + p.gap_before.as_ref().map_or(0, |g| g.length().nm());
    let before: i64 = shaft.parts[..=part].iter().map(long).sum();
    before - shaft.parts[part].width.length().nm() / 2
}

fn median(mut of: Vec<i64>) -> Option<i64> {
    of.sort_unstable();
    of.get(of.len() / 2).copied()
}
