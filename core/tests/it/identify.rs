//! What a box really is, and the question to ask next, against trying every answer to every question.

use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::uncertainty::gauge::GaugeKind;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_rules::identify::{Candidate, Given, IdentityAnswer, candidates, given, identified};
use anvil_rules::sheet::{IdentifyKind, Sheet};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::common::{BOXES, gauge, whole};

fn answer(question: &str, given: Given) -> IdentityAnswer {
    IdentityAnswer {
        question: question.into(),
        given,
    }
}

fn count(question: &str, count: u32) -> IdentityAnswer {
    answer(question, Given::Count { count })
}

fn text(question: &str, text: &str) -> IdentityAnswer {
    answer(question, Given::Text { text: text.into() })
}

fn length(question: &str, inch: f64, doubt_um: f64) -> IdentityAnswer {
    #[expect(clippy::cast_possible_truncation)]
    let size_nm = Length::from_nm((inch * 25_400_000.0).round() as i64);
    let u_nm = doubt_um * 1e3;
    answer(question, Given::Length { size_nm, u_nm })
}

fn all() -> Vec<Sheet> {
    BOXES.map(whole).to_vec()
}

fn builds(sheets: &[Sheet]) -> Vec<Candidate<'_>> {
    candidates(sheets.iter().map(|s| (1, s)))
}

#[test]
fn a_mark_tells_the_sheet_and_a_count_the_build() {
    let sheets = all();
    let of = builds(&sheets);
    let first = identified(&of, &[]);
    assert_eq!(first.possible, 9);
    // The mark in the case tells five sheets apart; no other question tells as much.
    assert_eq!(first.next.as_deref(), Some("casting"));
    let van = identified(&of, &[text("casting", "t 5")]);
    assert_eq!(van.possible, 2);
    assert!(
        van.candidates[..2]
            .iter()
            .all(|c| c.sheet_key == "tolvane-t5" && c.may_be)
    );
    assert_eq!(van.next.as_deref(), Some("pinion-teeth"));
    let short = identified(&of, &[text("casting", "T5"), count("pinion-teeth", 15)]);
    assert_eq!((short.possible, short.next), (1, None));
    assert_eq!(short.candidates[0].name, "15-tooth final drive");
    assert_eq!(short.candidates[0].agrees, ["casting", "pinion-teeth"]);
    let long = short
        .candidates
        .iter()
        .find(|c| c.variant == "long")
        .unwrap();
    let against: Vec<_> = long
        .against
        .iter()
        .map(|a| (a.question.as_str(), a.tells.as_str()))
        .collect();
    assert_eq!(against, [("pinion-teeth", "17")]);
    // A sheet that says nothing of how its box is told is none of them.
    let mut silent = whole("skelt-b2");
    silent.identify.clear();
    assert_eq!(builds(&[silent, whole("tolvane-t5")]).len(), 2);
    // What contradicts everything leaves nothing, and says of each why.
    let none = identified(&of, &[text("casting", "T5"), count("input-splines", 31)]);
    assert_eq!((none.possible, none.next), (0, None));
    assert!(none.candidates.iter().all(|c| !c.may_be));
    // The nearest comes first.
    assert_eq!(none.candidates[0].sheet_key, "tolvane-t5");
}

#[test]
fn a_length_too_close_to_call_rules_nothing_out() {
    let sheets = [whole("brannoch-r2")];
    let of = builds(&sheets);
    let possible = |inch: f64, doubt_um: f64| {
        identified(&of, &[length("input-plain", inch, doubt_um)]).possible
    };
    // 1.3741 in lies in both windows; 1.3750 in is the wide one alone, and 1.3746 is with a doubt of 0.01 mm either.
    assert_eq!(possible(1.3741, 1.0), 2);
    assert_eq!(possible(1.3750, 1.0), 1);
    assert_eq!(possible(1.3746, 1.0), 1);
    assert_eq!(possible(1.3746, 10.0), 2);
    assert_eq!(possible(1.2, 1.0), 0);
    // What cannot be seen is answered, and rules nothing out.
    let unseen = identified(&of, &[answer("dowel", Given::NotSeen)]);
    assert_eq!(unseen.possible, 2);
    assert_eq!(unseen.next.as_deref(), None);
    let dowel = unseen.questions.iter().find(|q| q.key == "dowel").unwrap();
    assert_eq!(
        (dowel.given.clone(), dowel.leaves),
        (Some(Given::NotSeen), None)
    );
}

#[test]
fn the_length_that_may_leave_both_is_not_asked_before_what_tells_them_apart() {
    let sheets = [whole("brannoch-r2")];
    let of = builds(&sheets);
    let told = identified(&of, &[]);
    assert_eq!(told.next.as_deref(), Some("dowel"));
    let leaves = |key: &str| told.questions.iter().find(|q| q.key == key).unwrap().leaves;
    // The two windows overlap: a shaft in both tells nothing.
    assert_eq!(
        (
            leaves("input-plain"),
            leaves("dowel"),
            leaves("cover-bolts")
        ),
        (Some(2), Some(1), Some(2))
    );
}

#[test]
fn an_answer_is_of_the_kind_that_is_asked_for() {
    let register = [gauge("mic-1", GaugeKind::Micrometer)];
    let of = |kind, typed| given(kind, typed, Unit::Mm, (&register, None));
    assert_eq!(
        of(IdentifyKind::Count, " 26 ").unwrap(),
        Given::Count { count: 26 }
    );
    assert_eq!(
        of(IdentifyKind::YesNo, "no").unwrap(),
        Given::YesNo { yes: false }
    );
    let Given::Length { size_nm, u_nm } = of(IdentifyKind::Length, "1.375 in").unwrap() else {
        panic!("a length")
    };
    assert_eq!(size_nm.nm(), 34_925_000);
    assert!(u_nm > 0.0);
    for (kind, typed, says) in [
        (IdentifyKind::Count, "26.5", "whole number such as 26"),
        (IdentifyKind::Count, "2600", "whole number"),
        (IdentifyKind::Text, "  ", "cast or stamped"),
        (IdentifyKind::Length, "0", "Nothing was measured"),
        (IdentifyKind::Length, "-3", ""),
        (IdentifyKind::YesNo, "maybe", "yes or no"),
    ] {
        let refusal = of(kind, typed).unwrap_err();
        assert_eq!(refusal.nature, Nature::Field("answer"));
        assert!(refusal.message.contains(says), "{}", refusal.message);
    }
}

const KINDS: [&str; 3] = ["count", "yes_no", "length"];

/// Builds of one sheet with questions of which each build says something or nothing.
fn box_of(tells: &[Vec<Option<u32>>]) -> Sheet {
    let mut sheet: Value = serde_json::to_value(whole("skelt-b2")).unwrap();
    let builds = tells.len();
    sheet["variants"] = (0..builds)
        .map(|b| json!({"key": format!("b{b}"), "name": format!("Build {b}")}))
        .collect();
    let questions = tells[0].len();
    sheet["identify"] = (0..questions)
        .map(|q| {
            let kind = KINDS[q % 3];
            let answers: Vec<Value> = (0..builds)
                .filter_map(|b| {
                    let says = tells[b][q]?;
                    let mut of = match kind {
                        "count" => json!({"count": says}),
                        "yes_no" => json!({"yes": says % 2 == 0}),
                        _ => json!({"at_least": format!("{} mm", says), "at_most": format!("{} mm", says + 2)}),
                    };
                    of["only_in"] = json!([format!("b{b}")]);
                    Some(of)
                })
                .collect();
            json!({"key": format!("q{q}"), "ask": format!("Question {q}"), "kind": kind, "answers": answers})
        })
        .collect();
    serde_json::from_value(sheet).unwrap()
}

/// Every answer that could be given to a question: all counts, both words, lengths a tenth of a millimetre apart.
fn every_answer(q: usize) -> Vec<Given> {
    match KINDS[q % 3] {
        "count" => (0..=6).map(|count| Given::Count { count }).collect(),
        "yes_no" => [true, false].map(|yes| Given::YesNo { yes }).to_vec(),
        _ => (0..=90)
            .map(|tenths| Given::Length {
                size_nm: Length::from_nm(tenths * 100_000),
                u_nm: 0.0,
            })
            .collect(),
    }
}

proptest! {
    /// A build is possible where every answer is one that it may give, worked out here by itself; the question asked next
    /// leaves no more, whatever is answered, than any other question would.
    #[test]
    fn the_next_question_is_the_best_of_all(
        tells in prop::collection::vec(prop::collection::vec(prop::option::of(0_u32..6), 5), 2..6),
        given in prop::collection::vec(prop::option::of(0_u32..6), 5),
    ) {
        let sheet = [box_of(&tells)];
        let of = builds(&sheet);
        let answers: Vec<IdentityAnswer> = given.iter().enumerate().filter_map(|(q, says)| {
            let says = (*says)?;
            Some(answer(&format!("q{q}"), match KINDS[q % 3] {
                "count" => Given::Count { count: says },
                "yes_no" => Given::YesNo { yes: says % 2 == 0 },
                _ => Given::Length { size_nm: Length::from_nm(i64::from(says) * 1_000_000 + 500_000), u_nm: 0.0 },
            }))
        }).collect();
        let told = identified(&of, &answers);

        let agrees = |b: usize, q: usize, given: &Given| {
            let Some(says) = tells[b][q] else { return true };
            match given {
                Given::Count { count } => *count == says,
                Given::YesNo { yes } => *yes == (says % 2 == 0),
                Given::Length { size_nm, .. } => {
                    let (low, high) = (i64::from(says) * 1_000_000, i64::from(says + 2) * 1_000_000);
                    (low..=high).contains(&size_nm.nm())
                }
                Given::Text { .. } | Given::NotSeen => true,
            }
        };
        let question = |a: &IdentityAnswer| a.question[1..].parse::<usize>().unwrap();
        let possible: Vec<usize> = (0..tells.len())
            .filter(|b| answers.iter().all(|a| agrees(*b, question(a), &a.given)))
            .collect();
        prop_assert_eq!(told.possible, possible.len());
        for judged in &told.candidates {
            let b = judged.variant[1..].parse::<usize>().unwrap();
            prop_assert_eq!(judged.may_be, possible.contains(&b));
        }
        let worst = |q: usize| {
            let left = |g: &Given| possible.iter().filter(|b| agrees(**b, q, g)).count();
            // A question to which no build that is left has an answer tells nothing.
            let known = possible.iter().any(|b| tells[*b][q].is_some());
            if known { every_answer(q).iter().map(left).max().unwrap() } else { possible.len() }
        };
        let open: Vec<usize> = (0..5).filter(|q| given[*q].is_none() && tells.iter().any(|t| t[*q].is_some())).collect();
        let best = open.iter().map(|q| worst(*q)).min().filter(|w| *w < possible.len());
        let next = told.next.as_ref().map(|n| worst(n[1..].parse().unwrap()));
        prop_assert_eq!(next, best);
    }
}
