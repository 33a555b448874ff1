//! Builds over HTTP: one fact a press, two people on one step, what falls when a box is taken apart, and what is handed
//! over.

use serde_json::{Value, json};

use super::house::{Shop, fresh_key};
use rocket::http::Method;

const WAYS: &str = "No bore where a bearing has turned?";

/// The address of a job's build, from that of its checks.
fn build_of(checks: &str) -> String {
    checks.replace("/checks", "/build")
}

#[allow(clippy::needless_pass_by_value)] // a body is made for it
fn by(who: &str, act: Value) -> Value {
    json!({"act": act, "who": who})
}

fn done(step: &str) -> Value {
    by("RT", json!({"act": "done", "step": step}))
}

async fn say(shop: &Shop, build: &str, body: Value) -> Value {
    shop.post(build, None, body).await.ok()
}

/// Does what is next until that is `until`, holds passed over.
async fn up_to(shop: &Shop, build: &str, until: &str) -> Value {
    for _ in 0..200 {
        let view = shop.get(build).await.ok();
        let next = &view["next"];
        let at = next["step"].as_u64().map(|at| usize::try_from(at).unwrap());
        let of = at.map(|at| &view["steps"][at]);
        let key = of
            .map(|s| s["step"]["key"].as_str().unwrap())
            .unwrap_or_default();
        let act = match next["kind"].as_str().unwrap() {
            "step" if key == until => return view,
            "step"
                if of.unwrap()["step"]["wait"].is_object() && of.unwrap()["began_at"].is_null() =>
            {
                json!({"act": "began", "step": key})
            }
            "step" => json!({"act": "done", "step": key}),
            "wait" => json!({"act": "done", "step": key, "why": "warm enough"}),
            "hold" if next["hold"]["kind"] == "check" => {
                json!({"act": "passed_over", "hold": next["hold"], "why": "a trial"})
            }
            "hold" => {
                let asked = &next["hold"]["ask"];
                let holds = of.unwrap()["holds"].as_array().unwrap();
                let hold = holds.iter().find(|h| h["of"] == next["hold"]).unwrap();
                json!({"act": "proved", "step": next["hold"]["step"], "ask": asked, "answer": hold["wanted"]})
            }
            _ => return view,
        };
        say(shop, build, by("RT", act)).await;
    }
    panic!("{until} never comes next");
}

#[tokio::test]
async fn one_press_is_one_fact_and_two_people_do_not_do_one_step() {
    let shop = Shop::open().await;
    let build = build_of(&shop.job().await);
    let fresh = shop.get(&build).await.ok();
    assert_eq!(
        (&fresh["begun"], &fresh["done"]),
        (&json!(false), &json!(0))
    );
    let key = fresh_key();
    for _ in 0..2 {
        // Sent again under its key, as where an answer was lost, it is the same fact.
        let sent = shop.send_with(Method::Post, &build, &key, None, done("clean"));
        assert_eq!(sent.await.ok()["done"], 1);
    }
    let twice = shop
        .post(
            &build,
            None,
            by("OB", json!({"act": "done", "step": "clean"})),
        )
        .await;
    let twice = twice.refused(409, "done-already");
    assert!(
        twice["title"].as_str().unwrap().contains("by RT"),
        "{twice}"
    );
    let other = shop.send_with(Method::Post, &build, &key, None, done("magnet-in"));
    other.await.refused(422, "key-used");
    let nobody = shop
        .post(
            &build,
            None,
            by("ZZ", json!({"act": "done", "step": "clean"})),
        )
        .await;
    assert_eq!(nobody.refused(422, "bad-field")["field"], "who");
    for (body, status, kind) in [
        (json!({"act": "done", "step": "polish"}), 404, "not-found"),
        (
            json!({"act": "done", "step": "case-closed"}),
            409,
            "needs-first",
        ),
        (json!({"act": "done"}), 422, "bad-request"),
        (
            json!({"act": "danced", "step": "clean"}),
            422,
            "bad-request",
        ),
    ] {
        shop.post(&build, None, by("RT", body))
            .await
            .refused(status, kind);
    }
    let acts: i64 = sqlx::query_scalar("select count(*) from build_act")
        .fetch_one(&shop.pool)
        .await
        .unwrap();
    assert_eq!(acts, 1);
    let none = build.replace("/1/", "/99/");
    shop.get(&none).await.refused(404, "not-found");
}

#[tokio::test]
async fn two_presses_at_once_are_one_step() {
    let shop = Shop::open().await;
    let build = build_of(&shop.job().await);
    let press = || shop.post(&build, None, done("clean"));
    let (a, b) = rocket::tokio::join!(press(), press());
    let mut codes = [a.status.code, b.status.code];
    codes.sort_unstable();
    assert_eq!(codes, [200, 409]);
}

#[tokio::test]
async fn the_bench_counts_steps_and_says_the_next() {
    let shop = Shop::open().await;
    let build = build_of(&shop.job().await);
    let row = async || shop.get("/api/jobs").await.ok()["jobs"][0].clone();
    assert_eq!(row().await["next_step"], Value::Null);
    say(&shop, &build, done("clean")).await;
    let asked = row().await;
    assert_eq!(asked["next_step"], WAYS);
    assert_eq!(
        (&asked["steps_done"], &asked["step_count"]),
        (&json!(1), &json!(32))
    );
    let yes = json!({"act": "proved", "step": "clean", "ask": WAYS, "answer": "yes"});
    say(&shop, &build, by("RT", yes)).await;
    assert_eq!(
        row().await["next_step"],
        "Magnet wiped and back in its pocket"
    );
    // A check comes next: the bench says that.
    up_to(&shop, &build, "diff-gears").await;
    say(&shop, &build, done("diff-gears")).await;
    let held = row().await;
    assert_eq!(held["next_step"], Value::Null);
    assert_eq!(held["next_name"], "Second gear side clearance");
}

#[tokio::test]
async fn taking_a_box_apart_reopens_what_falls_and_the_choice_says_what_it_costs() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let build = build_of(&checks);
    let side = format!("{checks}/diff-side");
    shop.say_fitted(&side, "1.74").await;
    shop.read(&side, &["0.17", "0.17", "0.17"]).await;
    shop.see_to_all(&side).await;
    shop.act(&side, "sign", json!({"reason": "", "who": "OB"}))
        .await
        .ok();
    up_to(&shop, &build, "diff-in").await;
    let cost = shop
        .get(&format!("{build}/tear-back?check=diff-side"))
        .await
        .ok();
    assert_eq!(cost["to"], "diff-gears");
    assert_eq!(
        cost["falls"],
        json!([{"check": "diff-side", "name": "Side gear thrust clearance", "signed_by": "OB"}])
    );
    assert_eq!(
        cost["new_again"],
        json!([
            "Bolts of the final drive ring",
            "ring bolts",
            "bolts of “Final drive ring on its seat, new bolts”"
        ])
    );
    let both = shop
        .get(&format!("{build}/tear-back?step=clean&part=x"))
        .await;
    assert_eq!(both.refused(422, "bad-field")["field"], "step");
    let back = |why: &str| {
        by(
            "RT",
            json!({"act": "torn_back", "to": "diff-gears", "why": why}),
        )
    };
    let refused = shop.post(&build, None, back("")).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "why");
    let tearing = say(&shop, &build, back("a tooth is chipped")).await;
    assert_eq!(tearing["next"]["kind"], "out");
    let fallen = shop.get(&side).await.ok();
    assert_eq!(fallen["phase"], "sign");
    let history = fallen["history"].as_array().unwrap();
    let reopened = history.iter().find(|h| h["what"] == "reopened").unwrap();
    assert!(
        reopened
            .to_string()
            .contains("Taken apart again: a tooth is chipped"),
        "{reopened}"
    );
    let row = &shop.get("/api/jobs").await.ok()["jobs"][0];
    assert_eq!(
        (&row["signed_count"], &row["steps_done"]),
        (&json!(0), &json!(6))
    );
    assert!(
        row["next_step"]
            .as_str()
            .unwrap()
            .starts_with("Take out again")
    );
}

#[tokio::test]
async fn a_box_is_not_handed_over_half_built() {
    let shop = Shop::open().await;
    let checks = shop.job_on("skelt-b2").await;
    let (job, build) = (checks.replace("/checks", ""), build_of(&checks));
    say(&shop, &build, done("clean")).await;
    let keys = ["pinion-height", "pinion-drag", "ring-float", "ring-mesh"];
    for key in keys {
        sqlx::query("update job_check set phase = 'signed' where check_key = $1")
            .bind(key)
            .execute(&shop.pool)
            .await
            .unwrap();
    }
    sqlx::query("update job set signed = checks")
        .execute(&shop.pool)
        .await
        .unwrap();
    let version = shop.get(&job).await.ok()["version"].clone();
    let over = shop
        .post(
            &format!("{job}/hand-over"),
            Some(&version),
            json!({"who": "RT"}),
        )
        .await
        .refused(422, "bad-field");
    assert!(
        over["title"]
            .as_str()
            .unwrap()
            .contains("11 steps of 12 of the build"),
        "{over}"
    );
    up_to(&shop, &build, "none").await;
    let version = shop.get(&job).await.ok()["version"].clone();
    shop.post(
        &format!("{job}/hand-over"),
        Some(&version),
        json!({"who": "RT", "reason": "its parts were looked at on the bench"}),
    )
    .await
    .ok();
    let late = shop
        .post(&build, None, by("RT", json!({"act": "out", "step": "oil"})))
        .await;
    late.refused(409, "not-on-the-bench");
    let report = shop.get(&format!("{job}/report")).await.ok();
    assert_eq!(report["build"]["done"], 12);
    let log = report["build_log"].as_array().unwrap();
    assert!(
        log.iter()
            .any(|l| l["said"] == "done: Drain plug in, 0.2 l of gear oil"),
        "{log:#?}"
    );
}

#[tokio::test]
async fn what_was_noted_at_a_step_is_offered_for_the_sheet() {
    let shop = Shop::open().await;
    let build = build_of(&shop.job().await);
    let noted = json!({"act": "done", "step": "clean", "note": " Look under the magnet "});
    say(&shop, &build, by("RT", noted)).await;
    let notes = shop.get("/api/sheets/tolvane-t5/notes").await.ok();
    assert_eq!(
        (&notes[0]["step"], &notes[0]["note"], &notes[0]["who"]),
        (
            &json!("clean"),
            &json!("Look under the magnet"),
            &json!("RT")
        )
    );
    assert_eq!(shop.get("/api/sheets/none/notes").await.ok(), json!([]));
}

#[tokio::test]
async fn a_revision_without_a_step_that_is_done_loses_nothing() {
    let shop = Shop::open().await;
    let checks = shop.job_on("skelt-b2").await;
    let (job, build) = (checks.replace("/checks", ""), build_of(&checks));
    say(&shop, &build, done("clean")).await;
    let mut sheet = shop.get("/api/sheets/skelt-b2/file").await.ok();
    let steps = sheet["build"].as_array_mut().unwrap();
    steps.remove(0);
    for step in steps {
        if let Some(needs) = step.get_mut("needs") {
            needs.as_array_mut().unwrap().retain(|n| n != "clean");
        }
    }
    let body = json!({"text": sheet.to_string(), "over": 1, "who": "RT"});
    shop.post("/api/sheets", None, body).await.ok();
    let version = shop.get(&job).await.ok()["version"].clone();
    shop.send(
        Method::Put,
        &format!("{job}/revision"),
        Some(&version),
        json!({"revision": 2, "who": "RT"}),
    )
    .await
    .ok();
    let view = shop.get(&build).await.ok();
    assert_eq!(
        (&view["gone"], &view["done"]),
        (&json!(["clean"]), &json!(0))
    );
}
