//! The parts of a job over HTTP: what was found, by whom; what another part reopens; what a handed-over box takes.

use serde_json::{Value, json};

use super::house::{Shop, fresh_key};
use rocket::http::Method;

fn found(part: &str, state: &str) -> Value {
    json!({"act": {"act": "found", "part": part, "state": state}, "who": "RT"})
}

fn one<'v>(view: &'v Value, key: &str) -> &'v Value {
    let mut parts = view["parts"].as_array().unwrap().iter();
    parts.find(|p| p["key"] == key).unwrap()
}

#[tokio::test]
async fn a_part_that_is_another_reopens_what_was_signed_on_it() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let parts = checks.replace("/checks", "/parts");
    let side = format!("{checks}/diff-side");
    shop.say_fitted(&side, "1.74").await;
    shop.read(&side, &["0.17", "0.17", "0.17"]).await;
    shop.see_to_all(&side).await;
    shop.act(&side, "sign", json!({"reason": "", "who": "OB"}))
        .await
        .ok();
    // Used again: what was measured on it stands.
    shop.post(&parts, None, found("diff-side-left", "reused"))
        .await
        .ok();
    assert_eq!(shop.get(&side).await.ok()["phase"], "signed");
    // Otherwise than it was said before: for a reason.
    let mut renewed = found("diff-side-left", "renewed");
    let bare = shop.post(&parts, None, renewed.clone()).await;
    assert_eq!(bare.refused(422, "bad-field")["field"], "why");
    renewed["act"]["why"] = json!("scored");
    let view = shop.post(&parts, None, renewed).await.ok();
    let part = one(&view, "diff-side-left");
    assert_eq!(
        (
            &part["found"]["state"],
            &part["found"]["who"],
            &part["findings"]
        ),
        (&json!("renewed"), &json!("RT"), &json!(2))
    );
    assert!(
        part["checks"]
            .as_array()
            .unwrap()
            .contains(&json!("Side gear thrust clearance"))
    );
    let fallen = shop.get(&side).await.ok();
    assert_eq!(fallen["phase"], "sign");
    let history = fallen["history"].to_string();
    assert!(history.contains("was renewed"), "{history}");
}

#[tokio::test]
async fn what_cannot_be_is_refused_and_nothing_is_lost() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let (job, parts) = (
        checks.replace("/checks", ""),
        checks.replace("/checks", "/parts"),
    );
    let gone = shop.post(&parts, None, found("gone", "reused")).await;
    gone.refused(404, "not-found");
    let bare = shop.post(&parts, None, found("main-rear", "swapped")).await;
    assert_eq!(bare.refused(422, "bad-field")["field"], "why");
    let key = fresh_key();
    for _ in 0..2 {
        let view = shop
            .send_with(
                Method::Post,
                &parts,
                &key,
                None,
                found("main-rear", "renewed"),
            )
            .await
            .ok();
        assert_eq!(
            one(&view, "main-rear")["findings"],
            1,
            "pressed twice, said once"
        );
    }
    let mut late = found("main-rear", "reused");
    late["act"]["seen"] = json!(0);
    late["who"] = json!("OB");
    shop.post(&parts, None, late)
        .await
        .refused(409, "found-since");
    let report = shop.get(&format!("{job}/report")).await.ok();
    assert_eq!(report["findings"].as_array().unwrap().len(), 1);
    assert_eq!(report["findings"][0]["name"], "Rear bearing");
    sqlx::query("update job set finished_at = now(), finished_by = 'RT'")
        .execute(&shop.pool)
        .await
        .unwrap();
    let late = shop.post(&parts, None, found("main-rear", "reused")).await;
    late.refused(409, "not-on-the-bench");
}

#[tokio::test]
async fn what_has_to_be_got_is_told_over_the_whole_bench_and_on_the_order() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let (job, parts) = (
        checks.replace("/checks", ""),
        checks.replace("/checks", "/parts"),
    );
    let say = async |act: Value| {
        shop.post(&parts, None, json!({"act": act, "who": "OB"}))
            .await
    };
    // Of a job whose parts nobody has looked at nothing is told: all of it is still to be seen.
    assert_eq!(shop.get("/api/parts").await.ok(), json!([]));
    assert_eq!(shop.get(&job).await.ok()["parts_to_order"], Value::Null);
    say(json!({"act": "ordered", "part": "ring-bolts", "count": 5, "from": "Harbour Chandlery", "price": "1.20"}))
        .await
        .ok();
    let told = shop.get("/api/parts").await.ok();
    let bolts = told
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p["part"] == "ring-bolts")
        .unwrap();
    assert_eq!(bolts["supply"]["from"], "Harbour Chandlery");
    assert_eq!(
        (&bolts["supply"]["to_order"], &bolts["supply"]["on_order"]),
        (&json!(3), &json!(5))
    );
    let seen = shop.get(&job).await.ok();
    assert_eq!(seen["parts_on_order"], 5);
    let before = seen["parts_to_order"].as_i64().unwrap();
    let listed = shop.get("/api/jobs").await.ok();
    assert_eq!(listed["jobs"][0]["parts_on_order"], 5);
    let csv = shop.get("/api/order/csv").await.body.to_string();
    assert!(
        csv.contains("Bolts of the final drive ring, Tolvane T5 transaxle"),
        "{csv}"
    );
    // The same parcel, opened by two people.
    say(json!({"act": "come", "part": "ring-bolts"})).await.ok();
    let twice = say(json!({"act": "come", "part": "ring-bolts"}))
        .await
        .refused(409, "come-already");
    assert!(twice["title"].as_str().unwrap().contains("booked in by OB"));
    assert_eq!(shop.get(&job).await.ok()["parts_to_order"], before - 3);
    say(json!({"act": "will_not_come", "part": "seal-left", "why": ""}))
        .await
        .refused(422, "bad-field");
    say(json!({"act": "ordered", "part": "in-9"}))
        .await
        .refused(404, "not-found");
    // Off the bench it is no longer asked for.
    sqlx::query("update job set put_away_at = now()")
        .execute(&shop.pool)
        .await
        .unwrap();
    assert_eq!(shop.get("/api/parts").await.ok(), json!([]));
}
