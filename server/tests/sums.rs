//! The sums without a job, and the log that they are put on.

mod house;

use house::Shop;
use serde_json::{Value, json};
use sqlx::PgPool;

#[sqlx::test]
async fn sums_answer_and_name_the_field_that_is_wrong(pool: PgPool) {
    let shop = Shop::open(pool).await;
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
    assert!((found["bore_c"].as_f64().unwrap() - 76.13).abs() < 0.01);
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

#[sqlx::test]
async fn a_job_keeps_a_log(pool: PgPool) {
    let shop = Shop::open(pool).await;
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
