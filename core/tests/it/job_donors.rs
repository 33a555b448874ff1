//! Used parts: what a dismantled box has, what may be taken out of it, and what the best box takes.

use anvil_arithmetic::units::length::Length;
use anvil_rules::job::check::loaded::LoadedCheck;
use anvil_rules::job::donors::{
    DismantledBox, DonorProblem, PartPin, UsedState, given_again, own_again, put_back, shelf_of,
    shelved, taken, view,
};
use anvil_rules::job::parts::{Finding, Measured, PartAct, PartEntry, PartState};
use anvil_rules::sheet::Sheet;
use chrono::DateTime;

use super::common::{blank, line, sheet};

fn said(acts: Vec<PartAct>) -> Vec<PartEntry> {
    let entry = |act| PartEntry {
        act,
        who: "RT".into(),
        at: DateTime::UNIX_EPOCH,
    };
    acts.into_iter().map(entry).collect()
}

fn found(part: &str, state: PartState) -> PartAct {
    PartAct::Found(Finding::of(part, state))
}

fn marked(part: &str, word: &str) -> PartAct {
    PartAct::Found(Finding {
        conditions: vec![word.into()],
        ..Finding::of(part, PartState::Reused)
    })
}

fn sized(part: &str, nm: i64) -> PartAct {
    PartAct::Found(Finding {
        size: "as typed".into(),
        measured: Some(Measured {
            size_nm: Length::from_nm(nm),
            u_nm: 2_000.0,
        }),
        ..Finding::of(part, PartState::Reused)
    })
}

fn a_box<'a>(job_no: i32, sheet: &'a Sheet, entries: &'a [PartEntry]) -> DismantledBox<'a> {
    DismantledBox {
        job_no,
        title: "Old van",
        sheet,
        entries,
        for_parts: true,
        is_gone: false,
    }
}

#[test]
fn what_a_used_part_is_good_for() {
    use UsedState::{Given, Missing, NoGood, NotLookedAt, Sound, Worn};
    let sheet = sheet("tolvane-t5");
    // Pads of 5.94 when new, 5.68 at the limit: half of that is used up at 5.81.
    let entries = said(vec![
        found("in-1", PartState::Reused),
        marked("in-2", "polished"),
        found("in-3", PartState::Renewed),
        found("in-4", PartState::Missing),
        found("in-5", PartState::Reworked),
        sized("fork-12", 5_900_000),
        sized("fork-34", 5_790_000),
        sized("fork-5", 5_100_000),
        PartAct::Found(Finding {
            counted: Some(45),
            ..Finding::of("idler-rollers", PartState::Reused)
        }),
        found("main-1", PartState::Reused),
        PartAct::Given {
            part: "main-1".into(),
            to: 7,
        },
        found("main-2", PartState::Reused),
        PartAct::Given {
            part: "main-2".into(),
            to: 9,
        },
        PartAct::GivenBack {
            part: "main-2".into(),
        },
        found("main-3", PartState::Reused),
        PartAct::TakenBack {
            part: "main-3".into(),
            why: String::new(),
        },
    ]);
    let other = a_box(2, &sheet, &entries);
    let beside = view(&a_box(1, &sheet, &[]), &[other]);
    let state = |part: &str| {
        let mut rows = beside.rows.iter();
        rows.find(|r| r.part == part).unwrap().cells[1].state
    };
    for (part, expected) in [
        ("in-1", Sound),
        ("in-2", Worn),
        ("in-3", NoGood),
        ("in-4", Missing),
        ("in-5", Sound),
        ("fork-12", Sound),
        ("fork-34", Worn),
        ("fork-5", NoGood),
        ("idler-rollers", NoGood),
        ("main-1", Given),
        ("main-2", Sound),
        ("main-3", NotLookedAt),
    ] {
        assert_eq!(state(part), expected, "{part}");
    }
    assert!(put_back(&other, "main-1", 7).is_some());
    assert!(
        put_back(&other, "main-1", 8).is_none(),
        "it is in the box of job 7"
    );
}

#[test]
fn what_another_build_has_in_its_place_is_not_taken() {
    let whole = super::common::whole("tolvane-t5");
    let (long, short) = (whole.as_built("long"), whole.as_built("short"));
    let entries = said(vec![
        found("main-pinion", PartState::Reused),
        found("main-1", PartState::Reused),
    ]);
    let other = a_box(2, &short, &entries);
    let own = a_box(1, &long, &[]);
    let beside = view(&own, &[other]);
    let state = |part: &str| {
        let mut rows = beside.rows.iter();
        rows.find(|r| r.part == part).unwrap().cells[1].state
    };
    assert_eq!(state("main-pinion"), UsedState::Another);
    assert_eq!(state("main-1"), UsedState::Sound);
    let refused = taken(&own, Some(&other), "main-pinion").unwrap_err();
    assert!(refused.to_string().contains("another part"), "{refused}");
    assert!(taken(&own, Some(&other), "main-1").is_ok());
}

fn best(
    own: &[PartEntry],
    others: &[&[PartEntry]],
    pins: &[PartPin],
) -> Vec<(String, Option<i32>)> {
    let sheet = sheet("tolvane-t5");
    let others: Vec<DismantledBox<'_>> = (2..)
        .zip(others)
        .map(|(no, entries)| a_box(no, &sheet, entries))
        .collect();
    let beside = view(&a_box(1, &sheet, own), &others);
    let problem = DonorProblem::of(&sheet, &beside, Vec::new(), (pins, &[])).unwrap();
    let best = problem.best(|_| true).unwrap();
    assert!(best.proven);
    best.picks.into_iter().map(|p| (p.part, p.from)).collect()
}

fn from(best: &[(String, Option<i32>)], part: &str) -> Option<i32> {
    best.iter().find(|b| b.0 == part).unwrap().1
}

#[test]
fn what_stays_together_comes_out_of_one_box() {
    let own = said(vec![found("idler-gear", PartState::Renewed)]);
    let gear_only = said(vec![found("idler-gear", PartState::Reused)]);
    let whole = ["idler-gear", "idler-shaft", "idler-rollers"];
    let worn: Vec<PartAct> = whole.iter().map(|p| marked(p, "polished")).collect();
    let worn = said(worn);
    let got = best(&own, &[&gear_only, &worn], &[]);
    for part in whole {
        assert_eq!(from(&got, part), Some(3), "{part}");
    }
    // Nobody has looked at the rest: it stays where it is.
    assert_eq!(from(&got, "in-1"), Some(1));
    let got = best(&own, &[&gear_only], &[]);
    for part in whole {
        assert_eq!(
            from(&got, part),
            None,
            "{part}: the shaft of box 2 was not looked at"
        );
    }
    let pin = PartPin {
        part: "idler-rollers".into(),
        from: None,
    };
    let got = best(&own, &[&gear_only, &worn], &[pin]);
    assert_eq!(from(&got, "idler-gear"), None);
}

fn wide(part: &str, nm: i64) -> PartAct {
    PartAct::Found(Finding {
        width: "as typed".into(),
        width_measured: Some(Measured {
            size_nm: Length::from_nm(nm),
            u_nm: 2_000.0,
        }),
        ..Finding::of(part, PartState::Reused)
    })
}

/// 29.15 less a gear of 21.00 leaves 8.15: with a window of 0.16 to 0.31 that wants a spacer of 7.84 to 7.99. The drawer has
/// 8.40 only, which sets what a worn gear of 20.55 leaves.
#[test]
fn a_worn_gear_goes_in_where_its_better_one_cannot_be_set_and_that_is_said() {
    let sheet = std::sync::Arc::new(sheet("tolvane-t5"));
    let own = said(vec![wide("main-5", 21_000_000)]);
    let narrow = PartAct::Found(Finding {
        conditions: vec!["worn faces".into()],
        ..match wide("main-5", 20_550_000) {
            PartAct::Found(of) => of,
            other => panic!("{other:?}"),
        }
    });
    let other = said(vec![narrow]);
    let beside = view(&a_box(1, &sheet, &own), &[a_box(2, &sheet, &other)]);
    let checks = |sizes: &[i64]| {
        let mut fifth = blank("fifth-thrust");
        fifth.stock = sizes.iter().map(|nm| line(*nm)).collect();
        let idler = blank("idler-thrust");
        let diff = blank("diff-preload");
        let all = [fifth, idler, diff].map(|r| LoadedCheck::of(r, std::sync::Arc::clone(&sheet)));
        all.into_iter().map(Result::unwrap).collect::<Vec<_>>()
    };
    let best = |sizes: &[i64]| {
        let problem = DonorProblem::of(&sheet, &beside, checks(sizes), (&[], &[])).unwrap();
        problem.best(|_| true).unwrap()
    };
    let of = best(&[8_400_000]);
    assert!(of.proven);
    assert_eq!((of.tally.set, of.part_by_part.set), (1, 0));
    let fifth = &of.checks[0];
    assert_eq!((fifth.left_nm.nm(), fifth.is_set), (8_600_000, true));
    assert_eq!(fifth.pieces[0].thickness_nm.nm(), 8_400_000);
    assert!((fifth.predicted_nm - 200_000.0).abs() < 1e-6);
    // The idler's drawer is empty, and the differential is no sum.
    assert!(!of.checks[1].is_set);
    let [left_out] = &of.left_out[..] else {
        panic!("{:?}", of.left_out)
    };
    assert!(left_out.why.contains("not a sum"), "{left_out:?}");
    let [given_up] = &of.given_up[..] else {
        panic!("{:?}", of.given_up)
    };
    assert_eq!((given_up.from, given_up.better), (Some(2), Some(1)));
    assert_eq!(given_up.checks, ["Fifth gear thrust clearance"]);
    assert!(fifth.reaches_floor, "{fifth:?}");
    // A spacer that leaves it a micrometre above its limit sets it and is little better than a toss: it is not sure.
    let low = fifth.window.low_nm.unwrap().nm();
    let of = best(&[8_600_000 - low - 1_000]);
    let fifth = &of.checks[0];
    assert!(fifth.is_set && of.tally.set == 1, "{fifth:?}");
    assert!((0.5..0.8).contains(&fifth.chance), "{fifth:?}");
    assert!(!fifth.reaches_floor && of.sure == 0, "{fifth:?}");
    let all: f64 = of.checks.iter().map(|c| c.chance).product();
    assert!((of.all_at_once - all).abs() < 1e-12 && of.all_at_once <= fifth.chance);
    // With a spacer for it, its own gear stays and nothing is given up.
    let of = best(&[7_920_000, 8_400_000]);
    assert_eq!((of.tally.set, of.given_up.len()), (1, 0));
    assert_eq!(
        of.picks.iter().find(|p| p.part == "main-5").unwrap().from,
        Some(1)
    );
}

#[test]
fn its_own_part_stays_where_no_other_is_better() {
    let own = said(vec![
        sized("fork-12", 5_850_000),
        marked("in-2", "polished"),
        found("in-4", PartState::Reused),
    ]);
    let other = said(vec![
        sized("fork-12", 5_930_000),
        found("in-2", PartState::Reused),
        found("in-4", PartState::Reused),
    ]);
    let got = best(&own, &[&other], &[]);
    assert_eq!(from(&got, "fork-12"), Some(1), "both are sound");
    assert_eq!(from(&got, "in-4"), Some(1));
    assert_eq!(from(&got, "in-2"), Some(2), "a sound one for a worn one");
}

#[test]
fn the_shelf_has_what_is_sound_and_here() {
    let sheet = sheet("tolvane-t5");
    let mut entries = said(vec![
        found("main-5", PartState::Reused),
        found("in-1", PartState::Renewed),
        found("in-2", PartState::Reused),
        PartAct::Given {
            part: "in-2".into(),
            to: 7,
        },
    ]);
    let acts = shelved(&a_box(2, &sheet, &entries), &[], " shelf 2 ").unwrap();
    let only = PartAct::Shelved {
        part: "main-5".into(),
        place: "shelf 2".into(),
    };
    assert_eq!(acts, [only]);
    entries.extend(said(acts));
    let mut of = a_box(2, &sheet, &entries);
    of.is_gone = true;
    let there = shelf_of(&of);
    assert_eq!(there.len(), 1);
    assert_eq!(
        (there[0].part.as_str(), there[0].of.place.as_str()),
        ("main-5", "shelf 2")
    );
    assert!(
        shelved(&of, &[], "shelf 2").is_err(),
        "it lies there already"
    );
    for place in ["", &"x".repeat(41)] {
        let refused = shelved(&of, &[], place).unwrap_err();
        assert!(refused.to_string().contains("where they lie"), "{refused}");
    }
}

fn out_of(part: &str, job_no: i32) -> PartAct {
    PartAct::Found(Finding {
        from: Some(job_no),
        ..Finding::of(part, PartState::FromAnother)
    })
}

#[test]
fn its_own_part_is_back_whatever_was_taken_since() {
    use PartState::{Missing, Renewed, Reused};
    for (acts, back) in [
        (vec![found("in-1", Reused), out_of("in-1", 2)], 1),
        (
            vec![found("in-1", Reused), out_of("in-1", 2), out_of("in-1", 3)],
            2,
        ),
        // A new one between them does not count either; what was not there is not there again.
        (
            vec![
                found("in-1", Missing),
                out_of("in-1", 2),
                found("in-1", Renewed),
            ],
            2,
        ),
        (vec![found("in-1", Reused), found("in-1", Renewed)], 1),
    ] {
        let entries = said(acts);
        assert_eq!(own_again(&entries, "in-1").len(), back, "{entries:?}");
    }
}

#[test]
fn what_stood_before_stands_again_only_where_its_giver_has_it() {
    let sheet = sheet("tolvane-t5");
    let own = a_box(1, &sheet, &[]);
    let here = said(vec![found("in-1", PartState::Reused)]);
    let again = given_again(&own, &a_box(2, &sheet, &here), "in-1").unwrap();
    let given = PartAct::Given {
        part: "in-1".into(),
        to: 1,
    };
    assert_eq!(again, given);
    let elsewhere = said(vec![
        found("in-1", PartState::Reused),
        PartAct::Given {
            part: "in-1".into(),
            to: 7,
        },
    ]);
    let refused = given_again(&own, &a_box(2, &sheet, &elsewhere), "in-1").unwrap_err();
    assert!(refused.message.contains("job 7"), "{refused}");
    assert!(refused.message.contains("Say what goes in instead"));
    let somebodys = DismantledBox {
        for_parts: false,
        ..a_box(2, &sheet, &here)
    };
    let refused = taken(&own, Some(&somebodys), "in-1").unwrap_err();
    assert!(refused.message.contains("somebody"), "{refused}");
}
