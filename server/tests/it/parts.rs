//! The parts of a job over HTTP: what was found, by whom; what another part reopens; what a handed-over box takes.

use serde_json::{Value, json};
use sqlx::PgPool;

use super::house::{Shop, fresh_key};
use rocket::http::Method;

fn found(part: &str, state: &str) -> Value {
    json!({"act": {"act": "found", "part": part, "state": state}, "who": "RT"})
}

fn one<'v>(view: &'v Value, key: &str) -> &'v Value {
    let mut parts = view["parts"].as_array().unwrap().iter();
    parts.find(|p| p["key"] == key).unwrap()
}

#[sqlx::test]
async fn a_part_that_is_another_reopens_what_was_signed_on_it(pool: PgPool) {
    let shop = Shop::open(pool).await;
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
    let view = shop
        .post(&parts, None, found("diff-side-left", "renewed"))
        .await
        .ok();
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

#[sqlx::test]
async fn what_cannot_be_is_refused_and_nothing_is_lost(pool: PgPool) {
    let shop = Shop::open(pool).await;
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
