//! Steps of a build to start from, out of the rails: parts from the inside out, checks at their closings.

use super::{BuildStep, PartKind, Shaft, Sheet};
use crate::texts::in_sentence;

/// More steps than this no sheet has.
const MOST: usize = 500;

/// The steps that the rails of a sheet suggest: what lies on a shaft goes on from its middle outward, each gear with what
/// holds it; then the items; then the closings in the order of the checks, each held for its own.
///
/// Case walls stand there from the start. Everything is to be looked through: no drawing says what goes in past what.
#[must_use]
pub fn proposed_steps(sheet: &Sheet) -> Vec<BuildStep> {
    let mut steps: Vec<BuildStep> = Vec::new();
    // The steps that nothing rests on yet.
    let mut ends: Vec<String> = Vec::new();
    for shaft in &sheet.shafts {
        let groups = groups(shaft);
        let Some(first) = groups.first() else {
            continue;
        };
        let begun = format!("put-{}", steps.len() + 1);
        let mut last = begun.clone();
        for group in &groups {
            let key = format!("put-{}", steps.len() + 1);
            // Each side of the shaft is built up on what lies in its middle.
            let under = if group.side == first.side || group.follows {
                last.clone()
            } else {
                ends.push(last.clone());
                begun.clone()
            };
            steps.push(BuildStep {
                what: format!(
                    "{} on the {}",
                    named(shaft, group),
                    in_sentence(&shaft.name)
                ),
                puts: group
                    .parts
                    .iter()
                    .map(|p| shaft.parts[*p].key.clone())
                    .collect(),
                needs: if key == begun {
                    Vec::new()
                } else {
                    vec![under]
                },
                key: key.clone(),
                ..BuildStep::default()
            });
            last = key;
        }
        ends.push(last);
    }
    if !sheet.items.is_empty() {
        let key = "items".to_owned();
        steps.push(BuildStep {
            what: "What lies off the rails: split this by where each goes in".into(),
            puts: sheet.items.iter().map(|i| i.key.clone()).collect(),
            key: key.clone(),
            ..BuildStep::default()
        });
        ends.push(key);
    }
    hold_on_the_bench(sheet, &mut steps);
    let mut closings: Vec<&str> = Vec::new();
    for check in sheet.checks.iter().filter(|c| !c.closing.is_empty()) {
        if !closings.contains(&check.closing.as_str()) {
            closings.push(&check.closing);
        }
    }
    for (n, closing) in closings.into_iter().enumerate() {
        let of_it = sheet.checks.iter().filter(|c| c.closing == closing);
        let key = format!("close-{}", n + 1);
        steps.push(BuildStep {
            what: format!("Closed for measuring: {closing}"),
            needs: std::mem::replace(&mut ends, vec![key.clone()]),
            hold: of_it.map(|c| c.key.clone()).collect(),
            key,
            ..BuildStep::default()
        });
    }
    steps.truncate(MOST);
    steps
}

/// Parts of a shaft that go on together.
struct Group {
    /// Left of the middle, or right of it.
    side: bool,
    /// It goes on over another of its side.
    follows: bool,
    parts: Vec<usize>,
}

const fn is_large(kind: PartKind) -> bool {
    !matches!(
        kind,
        PartKind::Washer
            | PartKind::Shim
            | PartKind::SnapRing
            | PartKind::Spacer
            | PartKind::Collar
    )
}

/// The parts of a shaft from the middle outward: each large one with the small ones outside it.
fn groups(shaft: &Shaft) -> Vec<Group> {
    let there = |at: &usize| shaft.parts[*at].kind != PartKind::Housing;
    let all: Vec<usize> = (0..shaft.parts.len()).filter(there).collect();
    let large: Vec<usize> = all
        .iter()
        .copied()
        .filter(|at| is_large(shaft.parts[*at].kind))
        .collect();
    let Some(&middle) = large.get(large.len() / 2).or(all.first()) else {
        return Vec::new();
    };
    let right = all.iter().copied().filter(|at| *at >= middle);
    let left = all.iter().rev().copied().filter(|at| *at < middle);
    let mut found: Vec<Group> = Vec::new();
    for (side, at) in right.map(|at| (true, at)).chain(left.map(|at| (false, at))) {
        let goes_on = found.last().is_some_and(|g| g.side == side);
        match found.last_mut() {
            // What is small goes on with the large part that it lies outside of.
            Some(group) if goes_on && !is_large(shaft.parts[at].kind) => group.parts.push(at),
            _ => found.push(Group {
                side,
                follows: goes_on,
                parts: vec![at],
            }),
        }
    }
    found
}

fn named(shaft: &Shaft, group: &Group) -> String {
    let names: Vec<String> = group
        .parts
        .iter()
        .enumerate()
        .map(|(n, at)| {
            let name = &shaft.parts[*at].name;
            if n == 0 {
                name.clone()
            } else {
                in_sentence(name)
            }
        })
        .collect();
    match names.split_last() {
        Some((last, rest)) if !rest.is_empty() => format!("{} and {last}", rest.join(", ")),
        _ => names.concat(),
    }
}

/// A check that needs no closing is made once the later of its two parts is on.
fn hold_on_the_bench(sheet: &Sheet, steps: &mut [BuildStep]) {
    for check in sheet.checks.iter().filter(|c| c.closing.is_empty()) {
        let lies = |step: &BuildStep| {
            let between = check.between.iter().flatten();
            between.into_iter().any(|part| step.puts.contains(part))
        };
        let at = steps.iter().rposition(lies).or(steps.len().checked_sub(1));
        if let Some(step) = at.and_then(|at| steps.get_mut(at)) {
            step.hold.push(check.key.clone());
        }
    }
}
