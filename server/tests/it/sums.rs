//! The sums without a job, and the log that they are put on.

use crate::house::Shop;
use serde_json::{Value, json};

#[tokio::test]
async fn sums_answer_and_name_the_field_that_is_wrong() {
    let shop = Shop::open().await;
    let ask =
        async |sum: &str, body: Value| shop.post(&format!("/api/calc/{sum}"), None, body).await;
    let rollers = |change: Value| {
        let mut body = json!({"shaft": "0.875 in", "roller": "0.156 in", "rows": 2, "unit": "mm"});
        body.as_object_mut()
            .unwrap()
            .extend(change.as_object().unwrap().clone());
        body
    };
    let row = ask("rollers", rollers(json!({}))).await.ok();
    assert_eq!((&row["most"], &row["in_all"]), (&json!(20), &json!(40)));
    for (change, field) in [
        (json!({"shaft": "wide"}), "shaft"),
        (json!({"shaft": "0"}), "shaft"),
        (json!({"roller": "1 in"}), "roller"),
        (json!({"rows": 0}), "rows"),
        (json!({"count": 21}), "count"),
    ] {
        let refused = ask("rollers", rollers(change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
    let gears =
        json!({"gears": "first 17:34 15:30\nfourth", "input_turns": 1.0, "output_turns": 0.26});
    let named = ask("ratios", gears).await.ok();
    assert_eq!(
        (&named["ratios"][0]["ratio"], &named["test"]["gear"]),
        (&json!(4.0), &json!(0))
    );
    for (body, field) in [
        (json!({"gears": "first 17:"}), "gears"),
        (json!({"gears": "first 17:0"}), "gears"),
        (json!({"gears": ""}), "gears"),
        (
            json!({"gears": "fourth", "input_turns": 0.0, "output_turns": 1.0}),
            "input_turns",
        ),
        (
            json!({"gears": "fourth", "input_turns": 1.0, "output_turns": 1e9}),
            "output_turns",
        ),
    ] {
        assert_eq!(
            ask("ratios", body).await.refused(422, "bad-field")["field"],
            field
        );
    }
    let fit = |change: Value| {
        let mut body = json!({"bore": "61.97", "bore_of": "aluminium", "part": "62", "part_of": "steel",
            "clearance": "0.05", "part_c": 20.0, "limit_c": 120.0, "unit": "mm"});
        body.as_object_mut()
            .unwrap()
            .extend(change.as_object().unwrap().clone());
        body
    };
    let found = ask("heat-fit", fit(json!({}))).await.ok();
    assert_eq!(found["bore_c"], 77.0);
    for (change, field) in [
        (json!({"bore": "0"}), "bore"),
        (json!({"part": "-1"}), "part"),
        (json!({"clearance": "x"}), "clearance"),
        (json!({"part_c": -400.0}), "part_c"),
        (json!({"limit_c": 900.0}), "limit_c"),
    ] {
        assert_eq!(
            ask("heat-fit", fit(change)).await.refused(422, "bad-field")["field"],
            field
        );
    }
    let units =
        json!({"length": "25/32 in", "unit": "mm", "torque": 30.0, "torque_unit": "pound_foot"});
    let same = ask("units", units).await.ok();
    assert_eq!(
        (&same["length_nm"], &same["fraction"]["parts"]),
        (&json!(19_843_750), &json!(25))
    );
    assert!((same["torques"][0]["figure"].as_f64().unwrap() - 40.674_538).abs() < 1e-6);
    let wild = json!({"unit": "mm", "torque": -1.0});
    assert_eq!(
        ask("units", wild).await.refused(422, "bad-field")["field"],
        "torque"
    );
}

#[tokio::test]
async fn a_job_keeps_a_log() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let job = checks.trim_end_matches("/checks").to_owned();
    let note = async |said: &str, address: &str| {
        let body = json!({"said": said, "address": address, "who": "RT"});
        shop.post(&format!("{job}/notes"), None, body).await
    };
    note("Counter shaft has been welded", "").await.ok();
    let view = note("Needle rows: 20 fit", "/sums/needle-rows?shaft=1")
        .await
        .ok();
    let notes = view["notes"].as_array().unwrap();
    let said: Vec<_> = notes.iter().map(|n| n["said"].as_str().unwrap()).collect();
    assert_eq!(
        said,
        ["Needle rows: 20 fit", "Counter shaft has been welded"]
    );
    assert_eq!(notes[0]["address"], "/sums/needle-rows?shaft=1");
    for (said, address, field) in [
        (" ", "", "said"),
        ("Look here", "https://elsewhere.example", "address"),
        ("Look here", "//elsewhere.example", "address"),
    ] {
        assert_eq!(
            note(said, address).await.refused(422, "bad-field")["field"],
            field
        );
    }
    let gone = json!({"said": "x", "who": "RT"});
    shop.post("/api/jobs/9999/notes", None, gone)
        .await
        .refused(404, "not-found");
}

#[tokio::test]
async fn the_sums_of_setting_answer_and_name_the_field_that_is_wrong() {
    let shop = Shop::open().await;
    let with = |start: &Value, change: Value| {
        let mut body = start.clone();
        body.as_object_mut()
            .unwrap()
            .extend(change.as_object().unwrap().clone());
        body
    };
    let ask =
        async |sum: &str, body: Value| shop.post(&format!("/api/calc/{sum}"), None, body).await;
    // Common practice, no source: window 6 to 12, readings 40.5, 41, 39.5, target 9, pieces of 5 only: six.
    let piece = json!({"readings": "40.5 41 39.5", "step": "0.5", "target": "9", "low": "6", "high": "12",
        "fitted": "", "effect": "closes", "sizes": "5", "tolerance": "0.1", "most_pieces": 8, "unit": "thou"});
    let found = ask("piece", piece.clone()).await.ok();
    assert_eq!(found["choices"]["ranked"][0]["pieces"][0]["count"], 6);
    let chance = |found: &Value| found["choices"]["ranked"][0]["chance"].as_f64().unwrap();
    let off = ask("piece", with(&piece, json!({"error": "2"}))).await.ok();
    assert!(
        chance(&off) < chance(&found) - 0.05,
        "the gauge's error counts"
    );
    for (change, field) in [
        (json!({"readings": ""}), "readings"),
        (json!({"readings": "40 4o"}), "readings"),
        (json!({"step": ""}), "step"),
        (json!({"low": "13"}), "low"),
        (json!({"step": "0"}), "step"),
        (json!({"error": "-1"}), "error"),
        (json!({"target": "15"}), "target"),
        (json!({"fitted": "-3"}), "fitted"),
        (json!({"tolerance": "-0.1"}), "tolerance"),
        (json!({"sizes": "5 0"}), "sizes"),
        (json!({"sizes": "5 50000000"}), "sizes"),
        (json!({"target": "", "low": "", "high": ""}), "target"),
        (json!({"sizes": "5 five"}), "sizes"),
        (json!({"most_pieces": 99}), "most_pieces"),
    ] {
        let refused = ask("piece", with(&piece, change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
    let pinch = json!({"off": "5", "pinch": "2", "fitted": "", "unit": "thou"});
    assert_eq!(
        ask("pinch", pinch.clone()).await.ok()["thickness_nm"],
        76_200.0
    );
    let refused = ask("pinch", with(&pinch, json!({"off": "-5"}))).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "off");

    // Common practice, no source: 3 thou in, 1 thou float: 2 thou preload; 9 float with 5 in contradicts none without.
    let shims =
        json!({"set_ups": "3: 1\n3: 1", "step": "0.1", "low": "-4", "high": "0", "unit": "thou"});
    let known = ask("known-shim", shims.clone()).await.ok();
    assert!((known["estimate"]["clearance_nm"].as_f64().unwrap() + 50_800.0).abs() < 1.0);
    assert_eq!(known["verdict"]["call"], "in");
    let against = ask("known-shim", with(&shims, json!({"set_ups": "5: 9\n0: 0"})))
        .await
        .ok();
    assert!(
        against["no_estimate"]
            .as_str()
            .unwrap()
            .contains("contradict")
    );
    for (change, field) in [
        (json!({"set_ups": "3, 1"}), "set_ups"),
        (json!({"step": "0"}), "step"),
        (json!({"error": "-1"}), "error"),
    ] {
        let refused = ask("known-shim", with(&shims, change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }

    let stack = json!({"terms": "+ case: 40.00 ± 0.03\n- race and spacer: 18.0 + 1.5 ± 0.02\n- shaft: 20.40 ± 0.02",
        "low": "0.05", "high": "0.15", "unit": "mm"});
    let sum = ask("stack", stack.clone()).await.ok();
    assert!((sum["estimate"]["clearance_nm"].as_f64().unwrap() - 100_000.0).abs() < 1.0);
    assert_eq!(sum["detail"]["sum"]["terms"][1]["length_nm"], 19_500_000.0);
    let refused = ask("stack", with(&stack, json!({"terms": "case: 40"}))).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "terms");

    // 300 mm of aluminium over steel, 70 K: 0.24 mm (common practice, no source).
    let hot = json!({"clearance": "-0.10", "case": "aluminium: 300", "inside": "steel: 300", "low": "", "high": "", "unit": "mm"});
    let line = ask("hot", hot.clone()).await.ok();
    assert!((line["growth_nm_per_k"].as_f64().unwrap() * 70.0 - 240_000.0).abs() < 5_000.0);
    // Worked by hand: at 8 °C it was −0.10, at 20 it is −0.10 + 12 × 3.39 µm; the case 60 K warmer and the steel 80 K adds
    // 300 × (60 × 23 − 80 × 11.7) nm = 0.1332 mm.
    let warm = json!({"bench_c": 8, "case_c": 80, "inside_c": 100, "low": "0.01", "high": "0.09"});
    let there = ask("hot", with(&hot, warm)).await.ok()["there"].take();
    let at = |value: &Value| value.as_f64().unwrap();
    let grows = 133_200.0;
    let cold = -100_000.0 + 12.0 * 3_390.0;
    assert!(
        (at(&there["clearance_nm"]) - (cold + grows)).abs() < 1.0,
        "{there}"
    );
    assert!((at(&there["cold"]["low_nm"]) - (10_000.0 - grows)).abs() < 1.0);
    assert!((at(&there["cold"]["high_nm"]) - (90_000.0 - grows)).abs() < 1.0);
    for (change, field) in [
        (json!({"case": "brass: 3"}), "case"),
        (json!({"clearance": "?"}), "clearance"),
        (json!({"bench_c": 80}), "bench_c"),
        (json!({"case_c": 400}), "case_c"),
        (json!({"case_c": 80, "inside_c": -200}), "inside_c"),
        (json!({"inside_c": 80}), "case_c"),
    ] {
        let refused = ask("hot", with(&hot, change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }

    // Worked by hand: 0.4 to the left leaves 0.2 to spare at both, the second shaft stands still.
    let dogs = json!({"gaps": "dogs: 1.8; 1+; 2.0\nbehind: 0.9; 1-; 0.3", "left": "0.5 0.4", "right": "0.3", "unit": "mm"});
    let placed = ask("limited-gaps", dogs.clone()).await.ok();
    assert_eq!(placed["ways"][0]["shafts"][0]["shift_nm"], 400_000);
    assert_eq!(placed["ways"][0]["worst_nm"], 200_000.0);
    assert_eq!(placed["gaps"][1]["lands"], "in");
    for (change, field) in [
        (json!({"gaps": "dogs: 1.8; left; 2.0"}), "gaps"),
        (json!({"gaps": "dogs: 1.8; 1+"}), "gaps"),
        (json!({"gaps": "dogs: -1; 1+; 2"}), "gaps"),
        (json!({"left": "none"}), "left"),
        (json!({"drawer": "0"}), "left"),
        (json!({"looser": "much"}), "looser"),
    ] {
        let refused = ask("limited-gaps", with(&dogs, change)).await;
        assert_eq!(refused.refused(422, "bad-field")["field"], field);
    }

    let pull = json!({"pulls": "20 N; 20 N", "radius": "75 mm", "step_n": 0.5, "low_n_m": 1.0, "high_n_m": 2.0, "unit": "mm"});
    let torque = ask("pull", pull.clone()).await.ok();
    assert!((torque["found"]["torque_n_m"].as_f64().unwrap() - 1.5).abs() < 1e-9);
    assert_eq!(
        (&torque["found"]["call"], &torque["judged"]),
        (&json!("in"), &json!(true))
    );
    for (change, field) in [
        (json!({"pulls": ""}), "pulls"),
        (json!({"pulls": "20 yards"}), "pulls"),
        (json!({"radius": "far"}), "radius"),
        (json!({"step_n": 0.0}), "step_n"),
    ] {
        let refused = ask("pull", with(&pull, change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }

    let centring = json!({"gears": "second: 0.9; 1.3\nthird: 0.7; 1.1; floats", "left": "0.5", "right": "0.3", "unit": "mm"});
    let found = ask("centring", centring.clone()).await.ok();
    assert_eq!(found["best_shift_nm"], -200_000.0);
    assert_eq!(found["arrangements"][0]["shift_nm"], -300_000);
    for (change, field) in [
        (json!({"gears": "second: 0.9"}), "gears"),
        (json!({"gears": ""}), "gears"),
        (json!({"left": "thick"}), "left"),
        (
            json!({"right": "0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1 0.1"}),
            "left",
        ),
    ] {
        let refused = ask("centring", with(&centring, change))
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
}
