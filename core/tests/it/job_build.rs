//! The build of a job: what comes next and what may be said, over the demo's boxes and walks through them at random.

use std::collections::{BTreeMap, BTreeSet};

use anvil_arithmetic::measure::proof::YesNo;
use anvil_arithmetic::refusal::Nature;
use anvil_rules::job::build::{
    Build, BuildAct, BuildEntry, CheckFact, HoldOf, Next, StepDone, StepState, StepView, Target,
    Then, Turns, gears, own_times,
};
use anvil_rules::job::check::closing_plan::plan_view;
use anvil_rules::sheet::{Part, Shaft, Sheet, doubts, proposed_steps, read};
use chrono::{DateTime, Duration, Utc};
use proptest::prelude::*;
use serde_json::{Value, json};

use super::common::{BOXES, sheet};

use crate::budget::cases;

/// Somebody at a bench, with a clock.
struct Bench {
    sheet: Sheet,
    entries: Vec<BuildEntry>,
    checks: Vec<CheckFact>,
    now: DateTime<Utc>,
}

impl Bench {
    fn at(name: &str) -> Self {
        Self::with(sheet(name))
    }

    fn with(sheet: Sheet) -> Self {
        let checks = sheet.checks.iter().map(|c| CheckFact {
            key: c.key.clone(),
            signed_by: None,
            elsewhere: false,
        });
        Self {
            checks: checks.collect(),
            sheet,
            entries: Vec::new(),
            now: DateTime::UNIX_EPOCH,
        }
    }

    fn build(&self) -> Build<'_> {
        Build::of(&self.sheet, &self.entries, &self.checks, self.now).unwrap()
    }

    fn next(&self) -> Next {
        self.build().next()
    }

    fn pass(&mut self, minutes: f64) {
        #[allow(clippy::cast_possible_truncation)] // minutes of a bench
        let seconds = (minutes * 60.0) as i64;
        self.now += Duration::seconds(seconds);
    }

    /// What the rules say to an act; what they take is on record.
    fn act(&mut self, act: &BuildAct) -> Result<(), (Nature, String)> {
        let taken = self.build().taken(act);
        let taken = taken.map_err(|r| (r.nature, r.message))?;
        self.entries.push(BuildEntry {
            act: taken,
            who: "RT".into(),
            at: self.now,
        });
        Ok(())
    }

    fn done(&mut self, step: &str) {
        self.act(&done(step))
            .unwrap_or_else(|e| panic!("{step}: {e:?}"));
    }

    /// Does a step before its turn.
    fn out_of_order(&mut self, step: &str) {
        let how = StepDone {
            step: step.into(),
            why: "it lay ready".into(),
            ..StepDone::default()
        };
        self.act(&BuildAct::Done(how))
            .unwrap_or_else(|e| panic!("{step}: {e:?}"));
    }

    fn refused(&mut self, act: &BuildAct) -> (Nature, String) {
        self.act(act).expect_err("this is refused")
    }

    fn sign(&mut self, check: &str) {
        let fact = self.checks.iter_mut().find(|c| c.key == check).unwrap();
        fact.signed_by = Some("OB".into());
    }

    /// Does whatever is next, once; whether there was anything.
    fn step(&mut self) -> bool {
        let key = |at: usize| self.sheet.build[at].key.clone();
        let act = match self.next() {
            Next::Finished => return false,
            Next::Missed { step } => BuildAct::Skipped {
                step: key(step),
                why: "passed".into(),
            },
            Next::Out { step } => BuildAct::Out {
                step: key(step),
                why: String::new(),
            },
            Next::Hold {
                hold: HoldOf::Check { check },
                ..
            } => {
                self.sign(&check);
                return true;
            }
            Next::Hold {
                hold: HoldOf::Proof { step, ask },
                ..
            } => {
                let all = self.sheet.build.iter().flat_map(|s| &s.prove);
                let answer = all.into_iter().find(|a| a.ask == ask).unwrap().wanted;
                BuildAct::Proved { step, ask, answer }
            }
            Next::Wait { .. } => {
                self.pass(200.0);
                return true;
            }
            Next::Step { step } => {
                let view = self.build().view(&BTreeMap::new());
                let begun = view.steps[step].began_at.is_some();
                if self.sheet.build[step].wait.is_some() && !begun {
                    BuildAct::Began { step: key(step) }
                } else {
                    done(&key(step))
                }
            }
        };
        let foretold = self.build().view(&BTreeMap::new()).then;
        self.act(&act).unwrap_or_else(|e| panic!("{act:?}: {e:?}"));
        if let BuildAct::Done(how) = &act {
            let foretold =
                foretold.expect("it is told what follows a step that is done as the sheet has it");
            self.is_as(&foretold, &how.step);
        }
        true
    }

    /// The build is as it was told to be once that step was done.
    fn is_as(&self, foretold: &Then, done: &str) {
        let mut is = self.build().view(&BTreeMap::new());
        assert_eq!(foretold.next, is.next);
        assert_eq!(foretold.meanwhile, is.meanwhile);
        assert_eq!(foretold.selector, is.selector);
        let step = is.next.step().map(|at| is.steps.remove(at));
        // Who did it is known only once it is done.
        let step = step.map(|s| StepView {
            was_done: s.was_done.filter(|_| s.step.key != done),
            ..s
        });
        assert_eq!(foretold.step, step);
    }

    fn done_keys(&self) -> BTreeSet<String> {
        let view = self.build().view(&BTreeMap::new());
        let done = |s: &StepState| matches!(s, StepState::Done | StepState::LeftOut);
        let steps = view.steps.into_iter().filter(|s| done(&s.state));
        steps.map(|s| s.step.key).collect()
    }
}

fn done(step: &str) -> BuildAct {
    BuildAct::Done(StepDone {
        step: step.into(),
        ..StepDone::default()
    })
}

fn out(step: &str) -> BuildAct {
    BuildAct::Out {
        step: step.into(),
        why: String::new(),
    }
}

fn yes(step: &str, ask: &str, answer: YesNo) -> BuildAct {
    BuildAct::Proved {
        step: step.into(),
        ask: ask.into(),
        answer,
    }
}

const OIL_WAYS: &str = "Oil ways clear right through?";

#[test]
fn every_box_of_the_demo_goes_together_by_doing_what_is_next() {
    for name in BOXES {
        let mut bench = Bench::at(name);
        let mut presses = 0;
        while bench.step() {
            presses += 1;
            assert!(presses < 400, "{name} never ends: {:?}", bench.next());
        }
        let view = bench.build().view(&BTreeMap::new());
        assert_eq!(view.done, bench.sheet.build.len(), "{name}");
        assert!(view.parts.iter().all(|p| p.is_in), "{name}");
        let build = bench.build();
        assert_eq!(
            (build.steps_open().0, build.unanswered()),
            (0, vec![]),
            "{name}"
        );
        // Nothing was out of its order, so nothing asked why.
        let whys = bench.entries.iter().filter(|e| match &e.act {
            BuildAct::Done(d) => !d.why.is_empty(),
            BuildAct::Skipped { .. } => true,
            _ => false,
        });
        assert_eq!(whys.count(), 0, "{name}");
    }
}

#[test]
fn a_question_is_asked_at_once_and_its_wrong_answer_holds_what_comes_after() {
    let mut bench = Bench::at("skelt-m5");
    bench.done("clean");
    let proof = HoldOf::Proof {
        step: "clean".into(),
        ask: OIL_WAYS.into(),
    };
    let asked = Next::Hold {
        step: 0,
        hold: proof.clone(),
    };
    assert_eq!(bench.next(), asked);
    bench.act(&yes("clean", OIL_WAYS, YesNo::No)).unwrap();
    assert_eq!(bench.next(), asked);
    let (nature, message) = bench.refused(&BuildAct::Began {
        step: "warm".into(),
    });
    assert_eq!(nature, Nature::Conflict("held"));
    assert!(message.contains(OIL_WAYS), "{message}");
    // Passed over with a reason, it holds nothing more; taken out and done again, it is asked anew.
    let pass = |why: &str| BuildAct::PassedOver {
        hold: proof.clone(),
        why: why.into(),
    };
    assert_eq!(bench.refused(&pass(" ")).0, Nature::Field("why"));
    bench.act(&yes("clean", OIL_WAYS, YesNo::Yes)).unwrap();
    assert_eq!(bench.refused(&pass("late")).0, Nature::Conflict("not-open"));
    bench.act(&out("clean")).unwrap();
    bench.done("clean");
    assert_eq!(bench.next(), asked);
    bench.act(&pass("seen to by the washer")).unwrap();
    assert_eq!(bench.next(), Next::Step { step: 1 });
}

#[test]
fn while_something_takes_its_time_whatever_is_ready_is_in_order() {
    let mut bench = Bench::at("skelt-m5");
    bench.done("clean");
    bench.act(&yes("clean", OIL_WAYS, YesNo::Yes)).unwrap();
    // Out of its order it asks why.
    let early = bench.refused(&done("left-in"));
    assert_eq!(early.0, Nature::Field("why"));
    assert!(
        early.1.contains("Right case half into the oven"),
        "{}",
        early.1
    );
    let unbegun = bench.refused(&done("warm"));
    assert!(unbegun.1.contains("not begun"), "{}", unbegun.1);
    bench
        .act(&BuildAct::Began {
            step: "warm".into(),
        })
        .unwrap();
    let again = bench.refused(&BuildAct::Began {
        step: "warm".into(),
    });
    assert_eq!(again.0, Nature::Conflict("begun-already"));
    let view = bench.build().view(&BTreeMap::new());
    assert_eq!(view.steps[1].state, StepState::Waiting);
    let meanwhile: Vec<&str> = view
        .meanwhile
        .iter()
        .map(|at| view.steps[*at].step.key.as_str())
        .collect();
    assert_eq!(
        meanwhile,
        ["left-in", "seal-in", "in-fourth-on", "out-third-on"]
    );
    bench.done("in-fourth-on");
    bench.pass(12.0);
    let soon = bench.refused(&done("warm"));
    assert!(soon.1.contains("20 min are left"), "{}", soon.1);
    bench.pass(20.0);
    assert_eq!(bench.next(), Next::Step { step: 1 });
    bench.done("warm");
}

#[test]
fn a_hold_that_is_reopened_stops_what_is_above_it_and_not_done() {
    let mut bench = Bench::at("skelt-m5");
    while !matches!(&bench.next(), Next::Hold { hold: HoldOf::Check { check }, .. } if check == "needle-seat")
    {
        assert!(bench.step());
    }
    // By the sheet the check is next; what does not rest on it can go on meanwhile.
    let view = bench.build().view(&BTreeMap::new());
    assert_eq!(view.meanwhile, [3]);
    bench.done("right-in");
    bench.sign("needle-seat");
    while bench.next() != (Next::Step { step: 23 }) {
        assert!(bench.step());
    }
    let state = |b: &Bench| {
        let view = b.build().view(&BTreeMap::new());
        let close = view.steps.into_iter().find(|s| s.step.key == "trial-close");
        close.unwrap().state
    };
    assert_eq!(state(&bench), StepState::Ready);
    bench.checks[0].signed_by = None;
    assert_eq!(state(&bench), StepState::Held);
    bench.checks[0].elsewhere = true;
    assert_eq!(state(&bench), StepState::Ready);
}

#[test]
fn steps_that_cannot_be_done_now_say_what_comes_first() {
    let mut bench = Bench::at("skelt-m5");
    let unknown = bench.refused(&done("polish"));
    assert_eq!(unknown.0, Nature::Missing);
    let early = bench.refused(&done("shafts-in"));
    assert_eq!(early.0, Nature::Conflict("needs-first"));
    assert!(early.1.contains("End shims of both shafts"), "{}", early.1);
    bench.done("clean");
    let twice = bench.refused(&done("clean"));
    assert_eq!(twice.0, Nature::Conflict("done-already"));
    assert!(twice.1.contains("by RT"), "{}", twice.1);
    assert_eq!(bench.refused(&out("warm")).0, Nature::Conflict("not-done"));
    let long = BuildAct::Skipped {
        step: "warm".into(),
        why: "x".repeat(301),
    };
    assert_eq!(bench.refused(&long).0, Nature::Field("why"));
}

#[test]
fn counts_torques_and_ways_are_looked_at() {
    let mut bench = Bench::at("skelt-m5");
    while bench.next() != (Next::Step { step: 18 }) {
        assert!(bench.step());
    }
    let forks = |left_over, why: &str| {
        BuildAct::Done(StepDone {
            step: "forks-in".into(),
            left_over: Some(left_over),
            why: why.into(),
            ..StepDone::default()
        })
    };
    let (nature, message) = bench.refused(&forks(1, ""));
    assert_eq!(nature, Nature::Field("why"));
    assert!(message.contains("1 of 3 left over"), "{message}");
    assert_eq!(bench.refused(&forks(4, "x")).0, Nature::Field("left_over"));
    bench.act(&forks(1, "one came with the new fork")).unwrap();
    while bench.next() != (Next::Step { step: 26 }) {
        assert!(bench.step());
    }
    let nut = |n_m: f64, way: &str, why: &str| {
        BuildAct::Done(StepDone {
            step: "sprocket-on".into(),
            torque_n_m: Some(n_m),
            way: way.into(),
            why: why.into(),
            ..StepDone::default()
        })
    };
    let (nature, message) = bench.refused(&nut(86.0, "", ""));
    assert_eq!(nature, Nature::Field("why"));
    assert!(message.contains("68 N·m"), "{message}");
    assert_eq!(
        bench.refused(&nut(-3.0, "", "")).0,
        Nature::Field("torque_n_m")
    );
    assert_eq!(
        bench.refused(&nut(68.0, "by eye", "")).0,
        Nature::Field("way")
    );
    let way = bench.sheet.build[26].alternatives[0].clone();
    bench.act(&nut(70.0, &way, "")).unwrap();
}

#[test]
fn taking_apart_goes_back_step_by_step_and_says_what_falls() {
    let mut bench = Bench::at("skelt-m5");
    while bench.next() != (Next::Step { step: 24 }) {
        assert!(bench.step());
    }
    let times = BTreeMap::new();
    let to_pins = bench
        .build()
        .tear_back(Target::Part("fork-pins"), &times)
        .unwrap();
    let steps = bench.sheet.build.clone();
    let keys: Vec<&str> = to_pins
        .out
        .iter()
        .map(|at| steps[*at].key.as_str())
        .collect();
    assert_eq!(
        keys,
        ["trial-close", "detent", "rods-in", "drum-in", "forks-in"]
    );
    let falls: Vec<&str> = to_pins.falls.iter().map(|f| f.check.as_str()).collect();
    assert_eq!(falls, ["input-float", "output-float", "centring", "dogs"]);
    assert_eq!(to_pins.back_in_minutes, Some(6.0 + 2.0 + 3.0 + 4.0 + 4.0));
    // A check leads to the step that puts in the piece that sets it.
    let shim = bench.build().step_to(Target::Check("input-float")).unwrap();
    assert_eq!(bench.sheet.build[shim].key, "shims-on");
    assert_eq!(
        bench
            .build()
            .step_to(Target::Part("nothing"))
            .unwrap_err()
            .nature,
        Nature::Missing
    );
    let back = |why: &str| BuildAct::TornBack {
        to: "forks-in".into(),
        why: why.into(),
    };
    assert_eq!(bench.refused(&back("")).0, Nature::Field("why"));
    bench.act(&back("a pin fell")).unwrap();
    assert_eq!(
        bench.refused(&done("sealed")).0,
        Nature::Conflict("taking-apart")
    );
    assert_eq!(
        bench.refused(&out("detent")).0,
        Nature::Conflict("comes-first")
    );
    for key in keys {
        assert!(bench.build().view(&times).tearing.is_some());
        bench.act(&out(key)).unwrap();
    }
    let view = bench.build().view(&times);
    assert_eq!((view.tearing, view.next), (None, Next::Step { step: 18 }));
    // And forward again.
    while bench.step() {}
    assert_eq!(bench.build().view(&times).done, bench.sheet.build.len());
}

#[test]
fn what_rests_on_a_step_is_named_where_somebody_undoes_it() {
    let mut bench = Bench::at("skelt-b2");
    bench.done("clean");
    bench.done("pinion-bearing");
    let (nature, message) = bench.refused(&out("clean"));
    assert_eq!(nature, Nature::Conflict("rests-on-it"));
    assert!(message.contains("Inner bearing on the pinion"), "{message}");
    bench.act(&out("pinion-bearing")).unwrap();
    let nothing = bench.refused(&BuildAct::TornBack {
        to: "oil".into(),
        why: "x".into(),
    });
    assert_eq!(nothing.0, Nature::Conflict("nothing-out"));
    assert_eq!(
        bench.refused(&BuildAct::LeftOff {}).0,
        Nature::Conflict("not-tearing")
    );
}

#[test]
fn the_selector_is_turned_the_fewest_notches_there_and_back() {
    let mut bench = Bench::at("ormhal-a4");
    while !matches!(&bench.next(), Next::Step { step } if bench.sheet.build[*step].key == "body-on")
    {
        assert!(bench.step());
    }
    let selector = bench.build().view(&BTreeMap::new()).selector.unwrap();
    assert_eq!(
        (
            selector.now.as_deref(),
            selector.wanted.as_deref(),
            selector.notches
        ),
        (Some("neutral"), Some("low"), Some(3))
    );
    assert_eq!(
        (selector.then.as_deref(), selector.then_notches),
        (Some("neutral"), Some(-3))
    );
    let view = bench.build().view(&BTreeMap::new());
    let body = view.steps.iter().find(|s| s.step.key == "body-on").unwrap();
    assert_eq!(body.last_chance, [""; 0]);
}

#[test]
fn a_closing_tells_what_can_no_longer_be_got_at() {
    let mut bench = Bench::at("tolvane-t5");
    let last_chance = |bench: &Bench| {
        let view = bench.build().view(&BTreeMap::new());
        let mut steps = view.steps.into_iter();
        steps.find(|s| s.step.key == "diff-in").unwrap().last_chance
    };
    bench.done("clean");
    assert!(bench.step(), "what is asked after it is answered");
    assert_eq!(last_chance(&bench), [""; 0], "others come before it");
    // Nobody has thought of the magnet.
    bench.sign("diff-side");
    for step in ["diff-gears", "diff-ring-on", "diff-bearings"] {
        bench.out_of_order(step);
    }
    assert_eq!(last_chance(&bench), ["Magnet wiped and back in its pocket"]);
}

#[test]
fn a_step_that_the_sheet_no_longer_has_is_told_and_not_lost() {
    let mut bench = Bench::at("skelt-b2");
    bench.done("clean");
    bench.sheet.build.remove(0);
    for step in &mut bench.sheet.build {
        step.needs.retain(|n| n != "clean");
    }
    let view = bench.build().view(&BTreeMap::new());
    assert_eq!(view.gone, ["clean"]);
    assert_eq!((view.done, view.begun), (0, true));
}

#[test]
fn a_shops_own_time_is_the_middle_of_three_or_more() {
    let job = |minutes: &[i64]| {
        let mut at = DateTime::UNIX_EPOCH;
        let mut entries = Vec::new();
        for (n, minutes) in minutes.iter().enumerate() {
            at += Duration::minutes(*minutes);
            entries.push(BuildEntry {
                act: done(&format!("s{n}")),
                who: "RT".into(),
                at,
            });
        }
        entries
    };
    let jobs = [job(&[0, 4]), job(&[0, 9]), job(&[0, 6]), job(&[0, 500])];
    assert_eq!(own_times(&jobs), BTreeMap::from([("s1".to_owned(), 6.0)]));
    assert!(own_times(&jobs[..2]).is_empty());
}

#[test]
fn a_sheet_without_steps_says_where_they_are_written() {
    let mut bench = Bench::at("skelt-b2");
    bench.sheet.build.clear();
    let none = Build::of(&bench.sheet, &[], &bench.checks, bench.now).unwrap_err();
    assert_eq!(none.nature, Nature::Missing);
    assert!(none.message.contains("write them on the sheet"));
}

#[test]
fn steps_are_proposed_that_make_a_sound_sheet_and_put_every_part_in() {
    for name in BOXES {
        let mut sheet = sheet(name);
        sheet.build = proposed_steps(&sheet);
        let text = serde_json::to_string(&sheet).unwrap();
        let sheet = read(&text).unwrap_or_else(|f| panic!("{name}: {f:#?}"));
        let held: BTreeSet<&str> = sheet
            .build
            .iter()
            .flat_map(|s| &s.hold)
            .map(String::as_str)
            .collect();
        assert_eq!(held.len(), sheet.checks.len(), "{name}");
        let mut bench = Bench::with(sheet);
        while bench.step() {}
        assert_eq!(bench.done_keys().len(), bench.sheet.build.len(), "{name}");
    }
}

/// The row of the idler's rollers, against the angle that each takes on the pitch circle, summed up.
#[test]
fn a_row_of_rollers_is_worked_out_and_one_short_is_pointed_at() {
    let bench = Bench::at("tolvane-t5");
    let view = bench.build().view(&BTreeMap::new());
    let mut steps = view.steps.into_iter();
    let row = steps
        .find(|s| s.step.key == "idler-rows")
        .unwrap()
        .row
        .unwrap();
    let each = 2.0 * (1.4_f64 / 10.4).asin();
    let most = (1..100)
        .take_while(|n| f64::from(*n) * each <= 2.0 * std::f64::consts::PI)
        .count();
    assert_eq!((row.most as usize, row.count as usize), (most, most));
    let mut value = serde_json::to_value(&bench.sheet).unwrap();
    let steps = value["build"].as_array_mut().unwrap();
    let at = steps.iter().position(|s| s["key"] == "idler-rows").unwrap();
    steps[at]["loose"]["per_row"] = json!(22);
    let short: Sheet = read(&value.to_string()).unwrap();
    let found = doubts(&short);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert_eq!(found[0].place, format!("/build/{at}/loose/per_row"));
    assert!(
        found[0].message.contains("room for 23"),
        "{}",
        found[0].message
    );
}

#[test]
fn the_plan_of_closings_names_the_steps_that_close_the_case() {
    let van = sheet("tolvane-t5");
    let plan = plan_view(&van, |_| None);
    let said: Vec<_> = plan
        .steps
        .iter()
        .map(|c| (c.closing.as_str(), c.step.key.as_str()))
        .collect();
    assert_eq!(
        said,
        [
            ("case, without gears", "diff-in"),
            ("case, all shafts", "case-closed"),
            ("end cover off", "nuts"),
        ]
    );
    for check in &plan.checks {
        let step = check
            .step
            .as_ref()
            .expect("a step is held for every check of the van");
        let of = &van.build[step.number - 1];
        assert!(of.key == step.key && of.hold.contains(&check.check_key));
    }
}

#[test]
fn what_changing_pieces_takes_apart_is_counted_for_each_family() {
    let mut bench = Bench::at("ormhal-a4");
    while bench.build().done_count() == 0
        || !bench
            .entries
            .iter()
            .any(|e| matches!(&e.act, BuildAct::Done(d) if d.step == "drums-nested"))
    {
        assert!(bench.step());
    }
    let check = bench.sheet.check("forward-pack").unwrap();
    let out: Vec<(String, usize)> = bench.build().steps_out(check).into_iter().collect();
    let count = |target| {
        bench
            .build()
            .tear_back(target, &BTreeMap::new())
            .unwrap()
            .out
            .len()
    };
    let (ring, plates) = (
        count(Target::Part("ring-forward")),
        count(Target::Part("plates-forward")),
    );
    assert_eq!(plates, ring + 1, "the ring comes out to get at the plates");
    assert_eq!(
        out,
        [
            ("a4-forward-plate".to_owned(), plates),
            ("a4-forward-ring".to_owned(), ring),
            ("a4-forward-steel".to_owned(), plates),
        ]
    );
}

/// Every fault of the parts list and of the steps stands at its field.
#[test]
#[allow(clippy::too_many_lines)] // a table of cases
fn faults_of_parts_and_steps_stand_at_their_field() {
    type Case = (fn(&mut Value), &'static str, &'static str);
    let cases: [Case; 20] = [
        (
            |v| v["items"][0]["key"] = json!("in-first"),
            "/items/0/key",
            "keys must differ",
        ),
        (
            |v| v["items"][1]["twin"] = json!("none"),
            "/items/1/twin",
            "no part or item",
        ),
        (
            |v| v["items"][1]["kept_with"] = json!(["bearing-plate"]),
            "/items/1/kept_with/0",
            "name the other",
        ),
        (
            |v| v["items"][0]["facing"]["towards"] = json!("north"),
            "/items/0/facing/towards",
            "say left, right",
        ),
        (
            |v| v["positions"]["names"] = json!(["first", "first"]),
            "/positions/names/1",
            "names must differ",
        ),
        (
            |v| v["build"][2]["puts"] = json!(["in-first", "in-right"]),
            "/build/6/puts/0",
            "puts it in already",
        ),
        (
            |v| v["build"][9]["puts"] = json!([]),
            "/shafts/0/parts/8/name",
            "no step of the build puts",
        ),
        (
            |v| v["build"][0]["needs"] = json!(["oil"]),
            "/build/0/needs/0",
            "wait",
        ),
        (
            |v| v["build"][0]["covers"] = json!(["clean"]),
            "/build/0/covers/0",
            "the step itself",
        ),
        (
            |v| v["build"][0]["covers"] = json!(["gone"]),
            "/build/0/covers/0",
            "no step has the key",
        ),
        (
            |v| v["build"][0]["covers"] = json!(["oil"]),
            "/build/28/what",
            "nobody can get at it",
        ),
        (
            |v| v["build"][19]["selector"] = json!("reverse"),
            "/build/19/selector",
            "no position “reverse”",
        ),
        (
            |v| v["build"][18]["loose"] = json!({"rows": 2, "per_row": 2}),
            "/build/18/count",
            "make 4",
        ),
        (
            |v| v["build"][0]["loose"] = json!({"rows": 1, "per_row": 23, "roller": "2.8 mm"}),
            "/build/0/loose/shaft",
            "write both, or neither",
        ),
        (
            |v| {
                v["build"][0]["loose"] =
                    json!({"rows": 1, "per_row": 24, "shaft": "18 mm", "roller": "2.8 mm"});
            },
            "/build/0/loose/per_row",
            "24 do not fit in a row: 23 do",
        ),
        (
            |v| {
                v["checks"][0]["or_set_by"] =
                    json!([{"family": "no", "fitted": "1 mm", "part": "gone"}]);
            },
            "/checks/0/or_set_by/0/part",
            "no part or item",
        ),
        (
            |v| v["build"][0]["hold"] = json!(["none"]),
            "/build/0/hold/0",
            "no check",
        ),
        (
            |v| v["build"][24]["fasteners"]["stages"][1]["n_m"] = json!(900),
            "/build/24/fasteners/stages/1/n_m",
            "900 N·m breaks an M6",
        ),
        (
            |v| v["build"][24]["fasteners"]["count"] = json!(12),
            "/build/24/fasteners/bolts",
            "11 places for 12",
        ),
        (
            |v| v["build"][0]["prove"][0]["again_after"] = json!(["gone"]),
            "/build/0/prove/0/again_after/0",
            "no step has the key",
        ),
    ];
    for (change, place, says) in cases {
        let mut value = serde_json::to_value(sheet("skelt-m5")).unwrap();
        change(&mut value);
        let faults = read(&value.to_string()).expect_err(place);
        let found = faults.iter().find(|f| f.place == place);
        let found = found.unwrap_or_else(|| panic!("{place}: {faults:#?}"));
        assert!(found.message.contains(says), "{place}: {}", found.message);
    }
}

/// Stress areas of ISO 898-1, table 4, in square millimetres (from memory): what a bolt bears follows from them.
#[test]
fn what_a_thread_bears_follows_its_stress_area() {
    for (thread, area) in [
        ("M6", 20.1),
        ("M8", 36.6),
        ("M10", 58.0),
        ("M12", 84.3),
        ("M16", 157.0),
        ("M20", 245.0),
        ("M8x1", 39.2),
        ("M10x1.25", 61.2),
    ] {
        let bears = anvil_arithmetic::materials::threads::most_torque_n_m(thread).unwrap();
        let (diameter, _) = anvil_arithmetic::materials::threads::metric(thread).unwrap();
        let right = 0.2 * diameter * area * 1.1;
        assert!(
            (bears / right - 1.0).abs() < 0.005,
            "{thread}: {bears} {right}"
        );
    }
}

/// A slip of the key is not "taken apart again": nothing came out, and what was tried of the gears stands.
#[test]
fn what_was_a_slip_was_not_done() {
    let mut bench = Bench::at("skelt-m5");
    let first = bench.sheet.build[0].key.clone();
    let slip = |step: &str| BuildAct::NotDone { step: step.into() };
    assert_eq!(bench.refused(&slip(&first)).0, Nature::Conflict("not-done"));
    bench
        .act(&BuildAct::Shifted {
            gear: "neutral".into(),
            turns: None,
        })
        .unwrap();
    let tried = |bench: &Bench| bench.build().gears_not_right().len();
    let with_neutral = tried(&bench);
    let undone = done(&first).undoing(&bench.build()).unwrap();
    assert_eq!(undone.act, slip(&first));
    bench.done(&first);
    bench.act(&slip(&first)).unwrap();
    assert_eq!((bench.done_keys().len(), tried(&bench)), (0, with_neutral));
    // Taken out, what was tried of the gears is to be tried again.
    bench.done(&first);
    bench.act(&out(&first)).unwrap();
    assert_eq!(tried(&bench), with_neutral + 1);
    // Nobody takes back what nobody said.
    let hold = HoldOf::Proof {
        step: first.clone(),
        ask: "?".into(),
    };
    for (slip, said) in [
        (BuildAct::NotPassedOver { hold }, "not-passed-over"),
        (
            BuildAct::NotAnswered {
                step: first.clone(),
                ask: "?".into(),
            },
            "not-answered",
        ),
        (
            BuildAct::NotTried {
                gear: "sixth".into(),
            },
            "not-tried",
        ),
    ] {
        assert_eq!(bench.refused(&slip).0, Nature::Conflict(said));
    }
    // Under what rests on it, it is no slip any more.
    while bench.done_keys().len() < 3 {
        bench.step();
    }
    let sheet = bench.sheet.clone();
    let rests = sheet.build.iter().find(|s| {
        bench.done_keys().contains(&s.key) && s.needs.iter().any(|n| bench.done_keys().contains(n))
    });
    let below = rests.expect("two steps, one on the other").needs[0].clone();
    assert_eq!(
        bench.refused(&slip(&below)).0,
        Nature::Conflict("rests-on-it")
    );
}

#[derive(Clone, Debug)]
enum Try {
    Next,
    Done(prop::sample::Index),
    Out(prop::sample::Index),
    Back(prop::sample::Index),
    Skip(prop::sample::Index),
    No,
    Wait,
    Pass,
    Gear(prop::sample::Index, bool),
}

fn tries() -> impl Strategy<Value = Vec<Try>> {
    let one = prop_oneof![
        6 => Just(Try::Next),
        2 => any::<prop::sample::Index>().prop_map(Try::Done),
        2 => any::<prop::sample::Index>().prop_map(Try::Out),
        1 => any::<prop::sample::Index>().prop_map(Try::Back),
        1 => any::<prop::sample::Index>().prop_map(Try::Skip),
        1 => Just(Try::No),
        1 => Just(Try::Wait),
        1 => Just(Try::Pass),
        1 => any::<(prop::sample::Index, bool)>().prop_map(|(at, counted)| Try::Gear(at, counted)),
    ];
    prop::collection::vec(one, 1..70)
}

/// An act that has an undoing, done and undone, leaves a build as it was.
fn undone_leaves_it_as_it_was(bench: &Bench, act: &BuildAct) {
    let mut then = Bench {
        sheet: bench.sheet.clone(),
        entries: bench.entries.clone(),
        checks: bench.checks.clone(),
        now: bench.now,
    };
    let seen = |bench: &Bench| bench.build().view(&BTreeMap::new());
    let before = seen(&then);
    let undo = act.undoing(&then.build());
    if let (Ok(()), Some(undo)) = (then.act(act), undo) {
        then.act(&undo.act)
            .unwrap_or_else(|e| panic!("{act:?}, undone: {e:?}"));
        let after = seen(&then);
        assert!(after == before, "{act:?}, undone, is another build");
    }
}

proptest! {
    #![proptest_config(cases(24))]

    /// Whatever is pressed, the box can be believed: what is done rests on what is done, nothing is done twice, and by doing
    /// what is next it always comes to an end.
    #[test]
    fn whatever_is_pressed_the_box_can_be_believed(which in 0..BOXES.len(), tries in tries()) {
        let mut bench = Bench::at(BOXES[which]);
        let count = bench.sheet.build.len();
        for attempt in tries {
            let key = |at: &prop::sample::Index| bench.sheet.build[at.index(count)].key.clone();
            let act = match &attempt {
                Try::Next => {
                    bench.step();
                    continue;
                }
                Try::Wait => {
                    bench.pass(10.0);
                    continue;
                }
                Try::Done(at) => BuildAct::Done(StepDone { step: key(at), why: "so".into(), ..StepDone::default() }),
                Try::Out(at) => out(&key(at)),
                Try::Skip(at) => BuildAct::Skipped { step: key(at), why: "so".into() },
                Try::Back(at) => BuildAct::TornBack { to: key(at), why: "so".into() },
                Try::Pass => match bench.next() {
                    Next::Hold { hold, .. } => BuildAct::PassedOver { hold, why: "so".into() },
                    _ => continue,
                },
                Try::Gear(at, counted) => {
                    let gears = &bench.sheet.gears;
                    let gear = if gears.is_empty() { "neutral" } else { gears[at.index(gears.len())].name.as_str() };
                    let turns = Turns { turns_in: 2.0, turns_out: 0.5, within: 0.05 };
                    BuildAct::Shifted { gear: gear.into(), turns: counted.then_some(turns) }
                }
                Try::No => match bench.next() {
                    Next::Hold { hold: HoldOf::Proof { step, ask }, .. } => yes(&step, &ask, YesNo::No),
                    _ => BuildAct::LeftOff {},
                },
            };
            let before = bench.done_keys();
            undone_leaves_it_as_it_was(&bench, &act);
            if bench.act(&act).is_err() {
                prop_assert_eq!(before, bench.done_keys());
            }
            let now = bench.done_keys();
            let left_out: BTreeSet<String> = bench.entries.iter().filter_map(|e| match &e.act {
                BuildAct::Skipped { step, .. } => Some(step.clone()),
                _ => None,
            }).collect();
            for step in &bench.sheet.build {
                // A step that was left out needs nothing under it.
                if now.contains(&step.key) && !left_out.contains(&step.key) {
                    for need in &step.needs {
                        prop_assert!(now.contains(need), "{} without {}", step.key, need);
                    }
                }
            }
        }
        for press in 0.. {
            if !bench.step() {
                break;
            }
            prop_assert!(press < 600, "it never ends: {:?}", bench.next());
        }
        prop_assert_eq!(bench.done_keys().len(), count);
        let build = bench.build();
        prop_assert_eq!((build.steps_open().0, build.unanswered()), (0, vec![]));
    }
}

/// By hand, from the teeth: 49/13 · 67/17 = 14.855; reverse goes through an idler, so it turns against the others.
#[test]
fn the_shift_test_knows_each_gear_by_its_teeth() {
    let mut bench = Bench::at("tolvane-t5");
    let test = bench.build().view(&BTreeMap::new()).shift.unwrap();
    assert_eq!(test.turns_in, 2);
    let gear = |name: &str| test.gears.iter().find(|g| g.name == name).unwrap();
    assert!((gear("first").ratio.unwrap() - 49.0 / 13.0 * 67.0 / 17.0).abs() < 1e-12);
    assert!(gear("neutral").turns_out.abs() < 1e-12);
    assert!(gear("third").turns_out > 0.0 && gear("reverse").turns_out < 0.0);
    let odd: Vec<&str> = test
        .gears
        .iter()
        .filter(|g| g.against_the_others)
        .map(|g| g.name.as_str())
        .collect();
    assert_eq!(odd, ["reverse"]);
    assert_eq!(
        gear("reverse").path,
        [
            "in-r",
            "idler-gear",
            "main-hub12",
            "main-pinion",
            "diff-ring"
        ]
    );
    // The input's teeth lean left and it turns clockwise, seen from the left: it is pushed to the left, as a left-hand
    // screw would go. The main shaft's gear is pushed to the right by that; its pinion, turning the other way and leaning
    // right, to the left: the angles decide.
    let pushes = |name: &str| -> Vec<(String, Option<i8>)> {
        let pushes = gear(name).pushes.iter();
        pushes.map(|p| (p.shaft.clone(), p.to)).collect()
    };
    assert_eq!(
        pushes("first"),
        [
            ("Input shaft".to_owned(), Some(-1)),
            ("Main shaft".to_owned(), None),
            ("Differential".to_owned(), Some(1)),
        ]
    );
    // What was counted names the gear that it is.
    let tried = |gear: &str, turns_in: f64, turns_out: f64| BuildAct::Shifted {
        gear: gear.into(),
        turns: Some(Turns {
            turns_in,
            turns_out,
            within: 0.05,
        }),
    };
    bench.act(&tried("second", 10.0, 1.96)).unwrap();
    bench.act(&tried("reverse", 10.0, 0.67)).unwrap();
    bench.act(&tried("fifth", 10.0, 7.0)).unwrap();
    bench
        .act(&BuildAct::Shifted {
            gear: "neutral".into(),
            turns: None,
        })
        .unwrap();
    let test = bench.build().view(&BTreeMap::new()).shift.unwrap();
    let of = |name: &str| {
        let gear = test.gears.iter().find(|g| g.name == name).unwrap();
        let tried = gear.tried.clone().unwrap();
        (tried.as_it_should, tried.is)
    };
    assert_eq!(of("second"), (false, vec!["third".to_owned()]));
    assert_eq!(of("reverse"), (false, vec!["first".to_owned()]));
    assert_eq!(of("fifth"), (false, vec![]));
    assert_eq!(of("neutral"), (true, vec![]));
    for (act, nature) in [
        (tried("sixth", 1.0, 1.0), Nature::Missing),
        (tried("first", 0.0, 1.0), Nature::Field("turns_in")),
        (tried("first", 1.0, 900.0), Nature::Field("turns_out")),
        (tried("first", 1.0, f64::NAN), Nature::Field("turns_out")),
    ] {
        assert_eq!(bench.refused(&act).0, nature, "{act:?}");
    }
    // Taken apart, it is to be tried again.
    bench.done("clean");
    bench.act(&out("clean")).unwrap();
    let test = bench.build().view(&BTreeMap::new()).shift.unwrap();
    assert!(test.gears.iter().all(|g| g.tried.is_none()));
}

/// Eight pairs of up to 300 teeth are more than a whole number of 64 bits; a chain does not turn its shafts round.
#[test]
fn a_long_drive_is_right_and_a_chain_does_not_turn_it_round() {
    let path = |chain: bool| {
        let mut sheet = sheet("tolvane-t5");
        let part = sheet.shafts[0].parts[0].clone();
        let toothed = |key: String, teeth: u32| Part {
            key,
            teeth: Some(teeth),
            chain,
            helix: None,
            ..part.clone()
        };
        sheet.shafts = (0..9)
            .map(|s| Shaft {
                key: format!("s{s}"),
                parts: vec![
                    toothed(format!("in-{s}"), 293 + s),
                    toothed(format!("out-{s}"), 300 - s),
                ],
                ..sheet.shafts[0].clone()
            })
            .collect();
        let pairs = (0..8).map(|s| [format!("out-{s}"), format!("in-{}", s + 1)]);
        sheet.gears.truncate(1);
        sheet.gears[0].pairs = pairs.collect();
        sheet
    };
    // By logarithms: a sum has nothing to overflow.
    let ln: f64 = (0..8)
        .map(|s: i32| f64::from(294 + s).ln() - f64::from(300 - s).ln())
        .sum();
    for chain in [false, true] {
        let found = gears(&path(chain)).swap_remove(1);
        let ratio = found.ratio.unwrap();
        assert!((ratio.ln() - ln).abs() < 1e-12, "{ratio}");
        assert!(found.turns_out > 0.0, "eight meshes turn it round evenly");
    }
    let mut odd = path(false);
    odd.gears[0].pairs.truncate(7);
    assert!(gears(&odd)[1].turns_out < 0.0);
    let mut chained = path(true);
    chained.gears[0].pairs.truncate(7);
    assert!(gears(&chained)[1].turns_out > 0.0);
}

#[test]
fn faults_of_gears_stand_at_their_field() {
    type Case = (fn(&mut Value), &'static str, &'static str);
    let cases: [Case; 7] = [
        (
            |v| v["gears"][1]["name"] = json!("first"),
            "/gears/1/name",
            "names must differ",
        ),
        (
            |v| v["gears"][1]["position"] = json!("sixth"),
            "/gears/1/position",
            "no position",
        ),
        (
            |v| v["gears"][0]["pairs"][0][0] = json!("none"),
            "/gears/0/pairs/0/0",
            "no part has the key",
        ),
        (
            |v| v["gears"][0]["pairs"][0][1] = json!("in-shim"),
            "/gears/0/pairs/0/1",
            "has no teeth",
        ),
        (
            |v| v["gears"][0]["pairs"][0][1] = json!("in-second"),
            "/gears/0/pairs/0/1",
            "on one shaft",
        ),
        (
            |v| {
                v["gears"][0]["pairs"] =
                    json!([["in-first", "out-first"], ["in-second", "out-second"]]);
            },
            "/gears/0/pairs/1/0",
            "power does not come",
        ),
        (
            |v| {
                v["shafts"][0]["parts"]
                    .as_array_mut()
                    .unwrap()
                    .iter_mut()
                    .filter(|p| p["key"] == "in-first")
                    .for_each(|p| p["chain"] = json!(true));
            },
            "/gears/0/pairs/0/1",
            "a chain runs on one of",
        ),
    ];
    for (change, place, says) in cases {
        let mut value = serde_json::to_value(sheet("skelt-m5")).unwrap();
        change(&mut value);
        let faults = read(&value.to_string()).expect_err(place);
        let found = faults.iter().find(|f| f.place == place);
        let found = found.unwrap_or_else(|| panic!("{place}: {faults:#?}"));
        assert!(found.message.contains(says), "{place}: {}", found.message);
    }
}

/// Shaft done, the slinger on it left out, the cover done over that: at the shaft again, the cover comes out too. For each
/// box some steps are left out, and to each step everything comes out that stands on it, found from the other end: by what
/// each done step stands on itself, through what was left out.
#[test]
fn what_is_left_out_passes_on_what_it_stands_on() {
    let mut through = 0;
    for name in BOXES {
        for left_out in 2..5 {
            let mut bench = Bench::at(name);
            let mut turn = 0;
            while turn < 400 {
                turn += 1;
                if let Next::Step { step } = bench.next()
                    && turn % left_out == 0
                {
                    let step = bench.sheet.build[step].key.clone();
                    bench
                        .act(&BuildAct::Skipped {
                            step,
                            why: "not on this box".into(),
                        })
                        .unwrap();
                } else if !bench.step() {
                    break;
                }
            }
            let place = |key: &String| bench.sheet.build.iter().position(|s| s.key == *key);
            let done = |key: &str| {
                let mut acts = bench.entries.iter().map(|e| &e.act);
                acts.any(|act| matches!(act, BuildAct::Done(d) if d.step == key))
            };
            for (at, step) in bench.sheet.build.iter().enumerate() {
                let out = bench
                    .build()
                    .tear_back(Target::Step(&step.key), &BTreeMap::new())
                    .unwrap()
                    .out;
                for (other, of) in bench.sheet.build.iter().enumerate() {
                    // All that it stands on, directly or through others, whatever became of those.
                    let (mut under, mut open) = (vec![other], vec![other]);
                    while let Some(next) = open.pop() {
                        let of = &bench.sheet.build[next];
                        for below in of.needs.iter().chain(&of.covers).filter_map(place) {
                            if !under.contains(&below) {
                                under.push(below);
                                open.push(below);
                            }
                        }
                    }
                    let direct = of.needs.iter().chain(&of.covers).filter_map(place);
                    let stands = done(&of.key) && under.contains(&at);
                    through += usize::from(stands && direct.clone().all(|d| d != at));
                    assert_eq!(
                        out.contains(&other),
                        stands,
                        "{name}, every {left_out}th left out: {} at {}",
                        of.key,
                        step.key
                    );
                }
            }
        }
    }
    assert!(through > 1_000, "{through}");
}
