//! What is found of a job's parts, over the demo's boxes: what may be said, what stands, what it makes due, what has to be
//! got.

use std::collections::BTreeSet;

use anvil_arithmetic::refusal::Nature;
use anvil_arithmetic::units::length::{Length, Unit};
use anvil_arithmetic::verdict::Call;
use anvil_rules::job::build::parts;
use anvil_rules::job::parts::{
    BenchPart, Finding, Measured, OnJob, PartAct, PartEntry, PartState, PartsView, SupplyState,
    TypedSize, condition_words, judge_wear, rows_to_order, taken, view, worn_by,
};
use anvil_rules::sheet::{Sheet, WearLimit, read};
use anvil_rules::shop::gauge_register::{GaugeCard, RegisteredGauge};
use chrono::DateTime;
use serde_json::json;

use super::common::{BOXES, sheet};

struct Tray {
    sheet: Sheet,
    entries: Vec<PartEntry>,
}

impl Tray {
    fn of(name: &str) -> Self {
        Self {
            sheet: sheet(name),
            entries: Vec::new(),
        }
    }

    fn say(&mut self, act: &PartAct) -> Result<(), (Nature, String)> {
        let act = taken(&self.sheet, &self.entries, act, &register())
            .map_err(|r| (r.nature, r.message))?;
        self.entries.push(PartEntry {
            act,
            who: "RT".into(),
            at: DateTime::UNIX_EPOCH,
        });
        Ok(())
    }

    fn view(&self) -> PartsView {
        let on_job = parts(&self.sheet, &[], &[], DateTime::UNIX_EPOCH).unwrap();
        view(&self.sheet, on_job, &self.entries, &[], &[], &[])
    }

    fn part(&self, key: &str) -> OnJob {
        let all = self.view().parts.into_iter();
        let mut all = all.filter(|p| p.of.card.key == key);
        all.next().unwrap()
    }

    fn to_get(&self, key: &str) -> Option<(u32, String)> {
        let all = self.view().to_get.into_iter();
        let mut all = all.filter(|t| t.part == key);
        all.next().map(|t| (t.count, t.why))
    }
}

/// A shop's register with one micrometer: a step of 1 µm, an error of 3 µm.
fn register() -> Vec<RegisteredGauge> {
    let card: GaugeCard = serde_json::from_value(json!({
        "key": "mic", "name": "Micrometer", "kind": "micrometer", "unit": "mm",
        "resolution": "0.001 mm", "permissible_error": "0.003 mm", "usual": true
    }))
    .unwrap();
    vec![card.read().unwrap()]
}

fn found(part: &str, state: PartState) -> PartAct {
    PartAct::Found(Finding::of(part, state))
}

/// The same with a word of why.
fn for_a_reason(part: &str, state: PartState) -> PartAct {
    PartAct::Found(Finding {
        why: "looked at again".into(),
        ..Finding::of(part, state)
    })
}

fn back(part: &str) -> PartAct {
    PartAct::TakenBack {
        part: part.into(),
        why: String::new(),
    }
}

#[test]
fn every_part_of_every_box_can_be_looked_at_in_words_of_its_kind() {
    for name in BOXES {
        let mut tray = Tray::of(name);
        let keys: Vec<String> = tray
            .view()
            .parts
            .iter()
            .map(|p| p.of.card.key.clone())
            .collect();
        for key in &keys {
            let words = condition_words(&tray.sheet, key);
            assert!(words.len() >= 3, "{name}: {key}");
            let only: BTreeSet<_> = words.iter().collect();
            assert_eq!(only.len(), words.len());
            tray.say(&for_a_reason(key, PartState::Reused)).unwrap();
        }
        let view = tray.view();
        assert_eq!(view.looked_at, keys.len());
        assert_eq!(view.to_get, [], "all of it goes back in");
        assert!(view.parts.iter().all(|p| p.clashes.is_empty()));
    }
}

#[test]
fn what_is_always_new_is_got_until_somebody_says_otherwise() {
    let mut tray = Tray::of("tolvane-t5");
    let new = |tray: &Tray| tray.to_get("idler-bolt");
    assert_eq!(new(&tray), Some((1, "new at every overhaul".into())));
    let (nature, says) = tray
        .say(&found("idler-bolt", PartState::Reused))
        .unwrap_err();
    assert_eq!(nature, Nature::Field("why"));
    assert!(says.contains("new at every overhaul"), "{says}");
    tray.say(&for_a_reason("idler-bolt", PartState::Reused))
        .unwrap();
    assert_eq!(new(&tray), None);
    tray.say(&back("idler-bolt")).unwrap();
    assert_eq!(new(&tray), Some((1, "new at every overhaul".into())));
}

#[test]
fn what_is_not_used_again_is_got_with_the_reason() {
    let mut tray = Tray::of("tolvane-t5");
    let worn = Finding {
        conditions: vec!["rough".into(), " rough ".into(), "blued".into()],
        why: "sang for a year".into(),
        ..Finding::of("main-rear", PartState::Renewed)
    };
    tray.say(&PartAct::Found(worn)).unwrap();
    assert_eq!(
        tray.to_get("main-rear"),
        Some((1, "rough, blued, sang for a year".into()))
    );
    tray.say(&found("main-front", PartState::Missing)).unwrap();
    assert_eq!(tray.to_get("main-front"), Some((1, "was missing".into())));
    // Loose pieces that are short are got one by one.
    let short = Finding {
        counted: Some(44),
        ..Finding::of("idler-rollers", PartState::Reused)
    };
    tray.say(&PartAct::Found(short)).unwrap();
    assert_eq!(
        tray.to_get("idler-rollers"),
        Some((2, "44 of 46 were there".into()))
    );
}

#[test]
fn what_is_taken_back_leaves_what_stood_before() {
    let mut tray = Tray::of("skelt-m5");
    assert_eq!(
        tray.say(&back("in-first")).unwrap_err().0,
        Nature::Conflict("not-looked-at")
    );
    tray.say(&found("in-first", PartState::Reused)).unwrap();
    // What was decided is turned round for a reason.
    let (nature, says) = tray
        .say(&found("in-first", PartState::Missing))
        .unwrap_err();
    assert_eq!(nature, Nature::Field("why"));
    assert!(says.contains("is used again so far"), "{says}");
    tray.say(&for_a_reason("in-first", PartState::Missing))
        .unwrap();
    tray.say(&back("in-first")).unwrap();
    let part = tray.part("in-first");
    assert_eq!(
        (part.found.unwrap().finding.state, part.findings),
        (PartState::Reused, 1)
    );
    tray.say(&back("in-first")).unwrap();
    assert_eq!(tray.part("in-first").found, None);
}

#[test]
fn what_has_no_reason_or_no_part_is_refused() {
    let mut tray = Tray::of("skelt-m5");
    let mut refused = |act: &PartAct| tray.say(act).unwrap_err();
    assert_eq!(
        refused(&found("gone", PartState::Reused)).0,
        Nature::Missing
    );
    assert_eq!(refused(&back("gone")).0, Nature::Missing);
    for state in [PartState::Reworked, PartState::Swapped] {
        assert_eq!(refused(&found("in-first", state)).0, Nature::Field("why"));
    }
    for conditions in [
        vec![String::new()],
        vec!["x".repeat(41)],
        (0..13).map(|n| format!("worn {n}")).collect(),
    ] {
        let of = Finding {
            conditions,
            ..Finding::of("in-first", PartState::Reused)
        };
        assert_eq!(refused(&PartAct::Found(of)).0, Nature::Field("conditions"));
    }
}

#[test]
fn what_somebody_else_found_meanwhile_is_not_written_over_unseen() {
    let mut tray = Tray::of("skelt-m5");
    let seen = |seen, state| {
        PartAct::Found(Finding {
            seen: Some(seen),
            why: "looked at again".into(),
            ..Finding::of("in-first", state)
        })
    };
    tray.say(&seen(0, PartState::Renewed)).unwrap();
    let (nature, says) = tray.say(&seen(0, PartState::Reused)).unwrap_err();
    assert_eq!(nature, Nature::Conflict("found-since"));
    assert!(
        says.contains("RT") && says.contains("was renewed"),
        "{says}"
    );
    tray.say(&seen(1, PartState::Reused)).unwrap();
}

#[test]
fn what_stays_together_is_used_again_together() {
    let mut tray = Tray::of("tolvane-t5");
    tray.say(&found("idler-rollers", PartState::Reused))
        .unwrap();
    assert_eq!(tray.part("idler-rollers").clashes, [""; 0]);
    tray.say(&found("idler-gear", PartState::Missing)).unwrap();
    let clash = |tray: &Tray, key: &str| tray.part(key).clashes;
    assert_eq!(
        clash(&tray, "idler-rollers"),
        ["It stays with idler gear, which was missing: both go back, or both are new."]
    );
    tray.say(&for_a_reason("idler-rollers", PartState::Renewed))
        .unwrap();
    assert_eq!(clash(&tray, "idler-rollers"), [""; 0]);
}

fn limit(text: serde_json::Value) -> WearLimit {
    serde_json::from_value(text).unwrap()
}

/// By hand: u = 6 µm, so U = 11.76 µm; the limit 5.68 mm is too close to call from 5.668 24 to 5.691 76.
#[test]
fn a_size_is_worn_out_only_beyond_its_doubt() {
    let pads = limit(json!({"what": "pads", "new": "5.94 mm", "at_least": "5.68 mm"}));
    let judged = |um: i64| {
        let measured = Measured {
            size_nm: Length::from_nm(um * 1_000),
            u_nm: 6_000.0,
        };
        judge_wear(&pads, measured).unwrap()
    };
    for (um, call) in [
        (5_692, Call::In),
        (5_691, Call::Inconclusive),
        (5_680, Call::Inconclusive),
        (5_669, Call::Inconclusive),
        (5_668, Call::Tight),
    ] {
        assert_eq!(judged(um).call, call, "{um}");
    }
    assert!((judged(5_810).used.unwrap() - 0.5).abs() < 1e-9);
    assert!((judged(5_680).used.unwrap() - 1.0).abs() < 1e-9);
    // Larger than new is as new.
    assert_eq!(judged(5_950).used, Some(0.0));
    let bore = limit(json!({"what": "bore", "new": "28.07 mm", "at_most": "28.13 mm"}));
    let at = |um: i64| {
        let measured = Measured {
            size_nm: Length::from_nm(um * 1_000),
            u_nm: 1_000.0,
        };
        judge_wear(&bore, measured).unwrap()
    };
    assert_eq!((at(28_140).call, at(28_100).call), (Call::Loose, Call::In));
    assert!((at(28_100).used.unwrap() - 0.5).abs() < 1e-9);
}

#[test]
fn a_size_is_taken_with_its_unit_and_told_where_it_goes_back_worn_out() {
    let mut tray = Tray::of("tolvane-t5");
    let sized = |size: &str, unit, why: &str| {
        PartAct::Found(Finding {
            size: size.into(),
            unit,
            why: why.into(),
            ..Finding::of("fork-12", PartState::Reused)
        })
    };
    for (size, says) in [("5.6x", "x"), ("0", "Nothing was measured"), ("-5.6", "")] {
        let (nature, message) = tray.say(&sized(size, None, "")).unwrap_err();
        assert_eq!(nature, Nature::Field("size"));
        assert!(message.contains(says), "{message}");
    }
    let (nature, says) = tray
        .say(&sized("223 thou", Some(Unit::Mm), ""))
        .unwrap_err();
    assert_eq!(nature, Nature::Field("why"));
    assert!(says.contains("beyond its limit"), "{says}");
    // Somebody says why, and it is believed; and within its limit nothing is said.
    tray.say(&sized("223 thou", Some(Unit::Mm), "the box is for trials"))
        .unwrap();
    let part = tray.part("fork-12");
    let worn = part.worn.unwrap();
    assert_eq!((worn.size_nm.nm(), worn.call), (5_664_200, Call::Tight));
    assert!(tray.part("fork-12").clashes.is_empty());
    tray.say(&sized("5.80", None, "")).unwrap();
    assert!(tray.part("fork-12").clashes.is_empty());
    assert!(
        tray.view()
            .told()
            .iter()
            .any(|p| p.of.card.key == "fork-12")
    );
    // No size is asked of a gear, and without a micrometer nobody knows how sure one is.
    let typed = |text| TypedSize {
        text,
        unit: Unit::Mm,
        gauge_key: None,
    };
    let gear = worn_by(&tray.sheet, "in-3", typed("20"), &register());
    assert_eq!(gear.unwrap_err().nature, Nature::Field("size"));
    let none = worn_by(&tray.sheet, "fork-12", typed("5.7"), &[]);
    assert!(none.unwrap_err().message.contains("no micrometer"));
}

#[test]
fn faults_of_wear_limits_stand_at_their_field() {
    let text = serde_json::to_value(sheet("tolvane-t5")).unwrap();
    let item = text["items"]
        .as_array()
        .unwrap()
        .iter()
        .position(|i| i["key"] == "fork-12")
        .unwrap();
    for (wear, field, says) in [
        (json!({"what": "pads"}), "at_least", "how small"),
        (
            json!({"what": "pads", "at_least": "6 mm", "at_most": "5 mm"}),
            "at_least",
            "swap them",
        ),
        (
            json!({"what": "pads", "new": "5.5 mm", "at_least": "5.68 mm"}),
            "new",
            "a new one would be worn out",
        ),
        (
            json!({"what": "bore", "new": "5.7 mm", "at_most": "5.68 mm"}),
            "new",
            "a new one would be worn out",
        ),
    ] {
        let mut text = text.clone();
        text["items"][item]["wear"] = wear;
        let faults = read(&text.to_string()).unwrap_err();
        assert_eq!(
            faults[0].place,
            format!("/items/{item}/wear/{field}"),
            "{faults:?}"
        );
        assert!(faults[0].message.contains(says), "{faults:?}");
    }
}

fn ordered(part: &str, count: Option<u32>) -> PartAct {
    PartAct::Ordered {
        part: part.into(),
        count,
        from: " Harbour Chandlery ".into(),
        price: String::new(),
    }
}

fn come(part: &str, count: Option<u32>) -> PartAct {
    PartAct::Come {
        part: part.into(),
        count,
    }
}

fn not_to_be_had(part: &str, why: &str) -> PartAct {
    PartAct::WillNotCome {
        part: part.into(),
        why: why.into(),
    }
}

impl Tray {
    fn supply(&self, part: &str) -> (SupplyState, u32, u32, u32) {
        let of = self.view().to_get.into_iter().find(|t| t.part == part);
        let of = of.unwrap().supply;
        (of.state, of.to_order, of.on_order, of.come)
    }
}

/// Eight bolts that are new at every overhaul, got in two lots and off a shelf.
#[test]
fn what_has_to_be_got_is_ordered_comes_and_is_booked_in_once() {
    use SupplyState::{Come, Needed, Ordered, WillNotCome};
    let mut tray = Tray::of("tolvane-t5");
    let bolts = "ring-bolts";
    assert_eq!(tray.supply(bolts), (Needed, 8, 0, 0));
    tray.say(&ordered(bolts, Some(5))).unwrap();
    assert_eq!(tray.supply(bolts), (Needed, 3, 5, 0));
    let (nature, _) = tray.say(&ordered(bolts, Some(4))).unwrap_err();
    assert_eq!(nature, Nature::Field("count"));
    tray.say(&ordered(bolts, None)).unwrap();
    assert_eq!(tray.supply(bolts), (Ordered, 0, 8, 0));
    let (nature, message) = tray.say(&ordered(bolts, None)).unwrap_err();
    assert_eq!(nature, Nature::Conflict("ordered-already"));
    assert!(message.contains("said RT"), "{message}");
    tray.say(&come(bolts, Some(6))).unwrap();
    assert_eq!(tray.supply(bolts), (Ordered, 0, 2, 6));
    // The rest will not come there, and is ordered elsewhere.
    let (nature, _) = tray.say(&not_to_be_had(bolts, " ")).unwrap_err();
    assert_eq!(nature, Nature::Field("why"));
    tray.say(&not_to_be_had(bolts, "no longer made")).unwrap();
    assert_eq!(tray.supply(bolts), (WillNotCome, 2, 0, 6));
    tray.say(&ordered(bolts, None)).unwrap();
    assert_eq!(tray.supply(bolts), (Ordered, 0, 2, 6));
    tray.say(&come(bolts, None)).unwrap();
    assert_eq!(tray.supply(bolts), (Come, 0, 0, 8));
    // Somebody else opens the same parcel.
    for act in [
        come(bolts, None),
        ordered(bolts, None),
        not_to_be_had(bolts, "late"),
    ] {
        let (nature, message) = tray.say(&act).unwrap_err();
        assert_eq!(nature, Nature::Conflict("come-already"));
        assert!(message.contains("booked in by RT"), "{message}");
    }
    // A wrong press is taken back, step by step.
    let back = PartAct::SupplyBack { part: bolts.into() };
    tray.say(&back).unwrap();
    assert_eq!(tray.supply(bolts), (Ordered, 0, 2, 6));
    for _ in 0..5 {
        tray.say(&back).unwrap();
    }
    assert_eq!(tray.supply(bolts), (Needed, 8, 0, 0));
    assert_eq!(
        tray.say(&back).unwrap_err().0,
        Nature::Conflict("nothing-said")
    );
    // Off the shelf: it was on no order.
    tray.say(&come(bolts, Some(8))).unwrap();
    assert_eq!(tray.supply(bolts), (Come, 0, 0, 8));
}

#[test]
fn what_came_and_is_not_needed_any_more_is_still_told() {
    let mut tray = Tray::of("tolvane-t5");
    let (nature, message) = tray.say(&ordered("in-3", None)).unwrap_err();
    assert_eq!(nature, Nature::Conflict("come-already"));
    assert!(message.contains("None of it has to be got"), "{message}");
    tray.say(&found("in-3", PartState::Renewed)).unwrap();
    tray.say(&ordered("in-3", None)).unwrap();
    tray.say(&come("in-3", None)).unwrap();
    tray.say(&for_a_reason("in-3", PartState::Reused)).unwrap();
    let (count, why) = tray.to_get("in-3").unwrap();
    assert_eq!((count, &*why), (0, "not needed any more"));
    // Undoing the finding leaves what was said of getting it.
    tray.say(&back("in-3")).unwrap();
    assert_eq!(tray.supply("in-3"), (SupplyState::Come, 0, 0, 1));
}

/// Whatever is said in whatever order, no more is on order and here than is wanted, and nothing is counted twice.
#[test]
fn the_counts_of_getting_a_part_always_add_up() {
    let mut runner = proptest::test_runner::TestRunner::default();
    let acts = proptest::collection::vec((0_u8..4, proptest::option::of(0_u32..12)), 0..40);
    runner
        .run(&acts, |acts| {
            let mut tray = Tray::of("tolvane-t5");
            for (kind, count) in acts {
                let act = match kind {
                    0 => ordered("ring-bolts", count),
                    1 => come("ring-bolts", count),
                    2 => not_to_be_had("ring-bolts", "late"),
                    _ => PartAct::SupplyBack {
                        part: "ring-bolts".into(),
                    },
                };
                drop(tray.say(&act));
                let (state, to_order, on_order, come) = tray.supply("ring-bolts");
                proptest::prop_assert_eq!(to_order + on_order + come, 8);
                proptest::prop_assert_eq!(state == SupplyState::Come, come == 8);
                proptest::prop_assert!(state != SupplyState::Ordered || to_order == 0);
            }
            Ok(())
        })
        .unwrap();
}

#[test]
fn the_same_part_of_several_jobs_is_one_row_of_the_order() {
    let part = |job_no: i32, tray: &Tray, key: &str| BenchPart {
        job_no,
        title: format!("Van {job_no}"),
        sheet_key: "tolvane-t5".into(),
        sheet: "Tolvane T5 transaxle".into(),
        promised: None,
        of: tray
            .view()
            .to_get
            .into_iter()
            .find(|t| t.part == key)
            .unwrap(),
    };
    let mut other = Tray::of("tolvane-t5");
    other.say(&ordered("ring-bolts", Some(5))).unwrap();
    other.say(&come("seal-left", None)).unwrap();
    let one = Tray::of("tolvane-t5");
    let rows = rows_to_order(&[
        part(3, &one, "ring-bolts"),
        part(4, &other, "ring-bolts"),
        part(4, &other, "seal-left"),
    ]);
    assert_eq!(rows.len(), 1);
    assert_eq!(
        rows[0][1..4],
        [
            "Bolts of the final drive ring, Tolvane T5 transaxle",
            "",
            "11"
        ]
    );
    assert_eq!(rows[0][5], "job 3, Van 3; job 4, Van 4");
}
