//! Handing a box over: what was not seen to, and whether it may go.

use anvil_arithmetic::refusal::{Refusal, Ruled};

use crate::job::build::Build;
use crate::job::check::rules::reason;
use crate::job::standing::Standing;

/// What a box has that nobody has seen to, each in words: steps of its build, questions not answered as they should be,
/// gears not tried or turning otherwise, and parts not looked at. `build` is none where its sheet has no steps; of `parts`
/// so many were `looked_at`.
#[must_use]
pub fn not_seen_to(build: Option<&Build<'_>>, looked_at: usize, parts: usize) -> Vec<String> {
    let mut found = Vec::new();
    if let Some(build) = build {
        let (open, all) = build.steps_open();
        if open > 0 {
            found.push(of_all(open, all, "step", "of the build"));
        }
        found.extend(build.unanswered().into_iter().map(|ask| format!("“{ask}”")));
        let gears = build.gears_not_right();
        if !gears.is_empty() {
            found.push(format!("gears by hand: {}", gears.join(", ")));
        }
    }
    if looked_at < parts {
        found.push(of_all(parts - looked_at, parts, "part", "at the strip"));
    }
    found
}

/// `1 part of 7 at the strip`, `3 steps of 12 of the build`.
fn of_all(open: usize, all: usize, thing: &str, place: &str) -> String {
    let s = if open == 1 { "" } else { "s" };
    format!("{open} {thing}{s} of {all} {place}")
}

/// A job that stands so, and may be `for_parts`, may be handed over; why, as it is kept, where something was not seen to. Of
/// its `checks` so many are `signed`.
///
/// # Errors
/// Where it is not on the bench, is for parts, a check is not signed off, or something was not seen to and nothing is said of
/// why.
pub fn may_hand_over(
    (standing, for_parts): (Standing, bool),
    (signed, checks): (i32, i32),
    not_seen_to: &[String],
    why: &str,
) -> Ruled<String> {
    if standing == Standing::HandedOver {
        return Err(Refusal::conflict(
            "handed-over",
            "This job is handed over already.",
        ));
    }
    standing.is_on_bench()?;
    if for_parts {
        return Err(Refusal::conflict(
            "for-parts",
            "This box is for parts: nobody gets it back. Put what is sound on the shelf, and the job away.",
        ));
    }
    if signed < checks {
        return Err(Refusal::conflict(
            "checks-open",
            format!("{} checks are not signed off yet.", checks - signed),
        ));
    }
    let wanted = format!(
        "Not seen to: {}. See to it, or say why it is handed over all the same.",
        not_seen_to.join("; ")
    );
    reason(why, (!not_seen_to.is_empty()).then_some(wanted.as_str()))
}
