//! One check over HTTP against a real `PostgreSQL`: the whole way, and every way it can go wrong.

use crate::house::{Shop, fresh_key, travel};
use rocket::http::Method;
use serde_json::{Value, json};

const SHIMS: &str = "t5-input-shim";

fn piece(thickness_nm: i64) -> Value {
    json!({"pieces": [{"thickness_nm": thickness_nm, "count": 1}], "who": "RT"})
}

#[tokio::test]
async fn from_readings_to_sign_off() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/input-float";
    shop.say_fitted(&check, "1.10").await;

    let measured = shop.read(&check, &["0.24", "9.5 thou", "250 µm"]).await;
    // (0.24 + 0.2413 + 0.25) / 3 mm
    let mean = measured["estimate"]["clearance_nm"].as_f64().unwrap();
    assert!((mean - 731_300.0 / 3.0).abs() < 1e-6);
    assert_eq!(
        (
            measured["verdict"]["call"].as_str(),
            measured["phase"].as_str()
        ),
        (Some("loose"), Some("choose"))
    );
    let best = &measured["choices"]["ranked"][0];
    assert_eq!(best["total_nm"], 1_250_000);

    let before = shop.stock(SHIMS, 1_250_000).await;
    let chosen = shop.act(&check, "choose", piece(1_250_000)).await.ok();
    assert_eq!(
        (
            chosen["phase"].as_str(),
            chosen["setting"]["pieces"][0]["reserved"].as_i64()
        ),
        (Some("fit"), Some(1))
    );
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (before.0, before.1 + 1));
    let late = travel("0.2", "RT");
    shop.post(&format!("{check}/readings"), None, late)
        .await
        .refused(409, "pieces-chosen");

    let fitted = shop.act(&check, "fit", json!({"who": "RT"})).await.ok();
    assert_eq!(
        (fitted["phase"].as_str(), fitted["fitted_nm"].as_i64()),
        (Some("measure_again"), Some(1_250_000))
    );
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (before.0 - 1, before.1));

    let again = shop.read(&check, &["0.09", "0.09", "0.10"]).await;
    assert_eq!(
        (again["verdict"]["call"].as_str(), again["phase"].as_str()),
        (Some("in"), Some("sign"))
    );
    assert_eq!(again["off_prediction"]["reading"], "agrees");
    let signed = shop.act(&check, "sign", json!({"who": "MEL"})).await.ok();
    assert_eq!(
        (signed["phase"].as_str(), signed["signed"]["who"].as_str()),
        (Some("signed"), Some("MEL"))
    );

    let denied = travel("0.2", "RT");
    shop.post(&format!("{check}/readings"), None, denied)
        .await
        .refused(409, "signed");
    shop.act(&check, "reopen", json!({"who": "RT"}))
        .await
        .refused(422, "bad-field");
    let reopened = shop
        .act(
            &check,
            "reopen",
            json!({"who": "RT", "reason": "the cover came off again"}),
        )
        .await
        .ok();
    assert_eq!(
        (reopened["phase"].as_str(), reopened["signed"].is_null()),
        (Some("sign"), true)
    );
    let happened: Vec<_> = reopened["history"]
        .as_array()
        .unwrap()
        .iter()
        .map(|h| h["what"].as_str().unwrap())
        .collect();
    let expected = [
        "said_fitted",
        "read",
        "read",
        "read",
        "chosen",
        "fitted",
        "read",
        "read",
        "read",
        "ticked",
        "ticked",
        "ticked",
        "ticked",
        "signed",
        "reopened",
    ];
    assert_eq!(happened, expected);
}

#[tokio::test]
async fn the_same_key_writes_once() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let path = format!("{check}/readings");
    let key = fresh_key();
    let body = |typed: &str| travel(typed, "RT");
    let (one, two) = tokio::join!(
        shop.send_with(Method::Post, &path, &key, None, body("0.2")),
        shop.send_with(Method::Post, &path, &key, None, body("0.2")),
    );
    one.ok();
    two.ok();
    let third = shop
        .send_with(Method::Post, &path, &key, None, body("0.2"))
        .await
        .ok();
    assert_eq!(third["readings"].as_array().unwrap().len(), 1);
    shop.send_with(Method::Post, &path, &key, None, body("0.3"))
        .await
        .refused(422, "key-used");
    let refused = shop
        .send_with(Method::Post, &path, "short", None, body("0.3"))
        .await;
    refused.refused(428, "header-missing");

    let card = json!({"sheet_key": "tolvane-t5", "title": "Van", "customer": "B", "who": "OB"});
    let key = fresh_key();
    let first = shop
        .send_with(Method::Post, "/api/jobs", &key, None, card.clone())
        .await
        .ok();
    let second = shop
        .send_with(Method::Post, "/api/jobs", &key, None, card)
        .await
        .ok();
    assert_eq!(first, second);
}

#[tokio::test]
async fn every_bad_reading_names_its_field_and_nothing_is_kept() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let path = format!("{check}/readings");
    for (typed, says) in [
        ("", "nothing is typed"),
        ("loose", "there is no figure"),
        ("-0.1", "minus sign"),
        ("1 m", "not a unit"),
        ("1000", "100 mm"),
        ("0.1 furlong", "not a unit"),
        ("1e-3", "exponents"),
        ("1,234.5", "thousands"),
        ("0.1 mm in", "two units"),
        ("0.1.2", "two decimal points"),
    ] {
        let body = travel(typed, "RT");
        let problem = shop.post(&path, None, body).await.refused(422, "bad-field");
        assert_eq!(problem["field"], "travel");
        assert!(
            problem["title"].as_str().unwrap().contains(says),
            "{typed}: {problem}"
        );
    }
    let nobody = travel("0.1", "ZZ");
    let problem = shop
        .post(&path, None, nobody)
        .await
        .refused(422, "bad-field");
    assert_eq!(problem["field"], "who");
    assert_eq!(shop.get(&check).await.ok()["readings"], json!([]));
}

#[tokio::test]
async fn two_hundred_readings_and_a_limit() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let many: Vec<String> = (0..200).map(|i| format!("0.2{}", i % 4)).collect();
    let many: Vec<&str> = many.iter().map(String::as_str).collect();
    let view = shop.read(&check, &many).await;
    assert_eq!(view["estimate"]["readings"], 200);
    assert!((view["estimate"]["clearance_nm"].as_f64().unwrap() - 215_000.0).abs() < 1e-6);
    assert_eq!(view["verdict"]["call"], "in");
}

#[tokio::test]
async fn a_slip_is_questioned_struck_and_restored_never_deleted() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let view = shop.read(&check, &["0.21", "0.22", "2.1"]).await;
    let question = &view["readings"][2]["question"];
    assert_eq!(
        (question["meant"]["nm"].as_f64(), question["cause"].as_str()),
        (Some(210_000.0), Some("one_decimal"))
    );
    let marks = format!("{check}/readings/3/marks");
    let struck = json!({"mark": "struck", "reason": "", "who": "RT"});
    shop.post(&marks, None, struck)
        .await
        .refused(422, "bad-field");
    let struck = json!({"mark": "struck", "reason": "decimal place lost", "who": "RT"});
    let view = shop.post(&marks, None, struck).await.ok();
    assert_eq!(
        (
            view["estimate"]["readings"].as_i64(),
            view["readings"].as_array().unwrap().len()
        ),
        (Some(2), 3)
    );
    assert_eq!(view["readings"][2]["struck"], "decimal place lost");
    let view = shop
        .post(&marks, None, json!({"mark": "restored", "who": "RT"}))
        .await
        .ok();
    // Asked about, it counts for nothing until somebody says that it is right.
    assert_eq!(view["estimate"]["readings"], 2);
    let view = shop
        .post(&marks, None, json!({"mark": "kept", "who": "RT"}))
        .await
        .ok();
    assert_eq!(view["estimate"]["readings"], 3);
    assert!(view["readings"][2]["question"].is_null());
    let none = json!({"mark": "struck", "reason": "x", "who": "RT"});
    shop.post(&format!("{check}/readings/9/marks"), None, none)
        .await
        .refused(404, "not-found");
}

#[tokio::test]
async fn two_people_sign_and_one_is_told_who_was_first() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    shop.read(&check, &["0.21", "0.22", "0.22"]).await;
    shop.see_to_all(&check).await;
    let seen = shop.get(&check).await.ok()["version"].clone();
    let path = format!("{check}/sign");
    let (a, b) = tokio::join!(
        shop.post(&path, Some(&seen), json!({"who": "OB"})),
        shop.post(&path, Some(&seen), json!({"who": "MEL"})),
    );
    let (winner, loser) = if a.status.code == 200 { (a, b) } else { (b, a) };
    let first = winner.ok()["signed"]["who"].as_str().unwrap().to_owned();
    let told = loser.refused(409, "signed");
    assert!(told["title"].as_str().unwrap().starts_with(&first));
    let signings: i64 = sqlx::query_scalar("select count(*) from signing")
        .fetch_one(&shop.pool)
        .await
        .unwrap();
    assert_eq!(signings, 1);
    shop.post(
        &format!("{check}/reopen"),
        Some(&json!(1)),
        json!({"who": "RT", "reason": "x"}),
    )
    .await
    .refused(412, "changed-meanwhile");
    shop.post(
        &format!("{check}/reopen"),
        None,
        json!({"who": "RT", "reason": "x"}),
    )
    .await
    .refused(428, "header-missing");
}

#[tokio::test]
async fn out_of_the_window_is_signed_only_with_a_reason() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    shop.act(&check, "sign", json!({"who": "RT"}))
        .await
        .refused(409, "not-measured");
    shop.read(&check, &["0.60", "0.61", "0.60"]).await;
    let problem = shop
        .act(&check, "sign", json!({"who": "RT"}))
        .await
        .refused(422, "bad-field");
    assert_eq!(problem["field"], "reason");
    let signed = shop
        .act(
            &check,
            "sign",
            json!({"who": "RT", "reason": "the owner accepts the wear"}),
        )
        .await
        .ok();
    assert_eq!(
        (signed["signed"]["call"].as_str(), signed["phase"].as_str()),
        (Some("loose"), Some("signed"))
    );
}

#[tokio::test]
async fn many_at_once_never_reserve_a_piece_twice() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 2).await.ok();
    let mut checks = Vec::new();
    for _ in 0..6 {
        let check = shop.job().await + "/input-float";
        shop.say_fitted(&check, "1.10").await;
        let version = shop.read(&check, &["0.24", "0.24"]).await["version"].clone();
        checks.push((format!("{check}/choose"), version));
    }
    let tries = checks
        .iter()
        .map(|(path, version)| shop.post(path, Some(version), piece(1_250_000)));
    let answers = rocket::futures::future::join_all(tries).await;
    let mut reserved = 0;
    for answer in answers {
        match answer.status.code {
            200 => {
                reserved += answer.ok()["setting"]["pieces"][0]["reserved"]
                    .as_i64()
                    .unwrap();
            }
            // Taken between looking and setting aside.
            _ => assert_eq!(answer.refused(409, "stock-taken")["status"], 409),
        }
    }
    assert_eq!(reserved, 2);
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (2, 2));
    shop.count(SHIMS, "1.25 mm", 1)
        .await
        .refused(409, "reserved");
}

#[tokio::test]
async fn a_piece_on_order_is_set_aside_when_it_is_counted_in() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 0).await.ok();
    let job = shop.job().await;
    let check = format!("{job}/input-float");
    shop.say_fitted(&check, "1.10").await;
    shop.read(&check, &["0.24", "0.24"]).await;
    let ordered = shop.act(&check, "choose", piece(1_250_000)).await.ok();
    assert_eq!(ordered["phase"], "await_part");
    shop.act(&check, "fit", json!({"who": "RT"}))
        .await
        .refused(409, "part-awaited");
    shop.count(SHIMS, "1.25 mm", 3).await.ok();
    assert_eq!(shop.get(&check).await.ok()["phase"], "fit");
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (3, 1));
    let free = shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    assert_eq!(free["phase"], "choose");
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (3, 0));
    // A second fitting may put the first pieces back.
    for put_back in [false, true] {
        shop.act(&check, "choose", piece(1_250_000)).await.ok();
        shop.act(&check, "fit", json!({"who": "RT", "put_back": put_back}))
            .await
            .ok();
        shop.read(&check, &["0.24", "0.24"]).await;
    }
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (2, 0));
}

#[tokio::test]
async fn a_preload_is_measured_with_its_ring_and_a_stack_is_chosen() {
    let shop = Shop::open().await;
    let job = shop.job().await;
    let mut preload = json!(null);
    for float in ["1.58", "1.58", "1.59"] {
        let entry = json!({"kind": "known_shim", "shim": "0.60", "float": float});
        let body = json!({"way": "known_shim", "entry": entry, "unit": "mm", "who": "RT"});
        preload = shop
            .post(&format!("{job}/diff-preload/readings"), None, body)
            .await
            .ok();
    }
    // 1.5833 − 0.60 ring = 0.9833; wanted 0.9833 + 0.09 = 1.0733
    assert!((preload["wanted"]["thickness_nm"].as_f64().unwrap() - 1_073_333.33).abs() < 1.0);
    assert_eq!(preload["choices"]["ranked"][0]["total_nm"], 1_080_000);
    let stack = shop
        .read(&format!("{job}/idler-thrust"), &["0.72", "0.72", "0.73"])
        .await;
    let pieces = stack["choices"]["ranked"][0]["pieces"].as_array().unwrap();
    assert!(
        pieces.len() > 1 && stack["choices"]["ranked"][0]["reaches_floor"] == true,
        "{pieces:?}"
    );
}
