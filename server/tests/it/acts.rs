//! Acts at their one address: what each answers, that it is done once, and that its undoing leaves check, box and drawers as
//! they were.

use rocket::http::Method;
use serde_json::{Value, json};

use super::house::{Shop, fresh_key, travel};

/// What a view says, but for when it was said, by whom, as which version, and the history of it.
fn said(view: &Value) -> Value {
    const ASIDE: [&str; 11] = [
        "setting_no",
        "version",
        "history",
        "at",
        "chosen_at",
        "chosen_by",
        "opened_at",
        "marks",
        "cards_were",
        "since",
        "now",
    ];
    match view {
        Value::Object(fields) => fields
            .iter()
            .filter(|(name, _)| !ASIDE.contains(&name.as_str()))
            .map(|(name, value)| (name.clone(), said(value)))
            .collect::<serde_json::Map<_, _>>()
            .into(),
        Value::Array(list) => list.iter().map(said).collect(),
        other => other.clone(),
    }
}

/// The drawers, the box and one of its checks, as they are.
async fn all_of(shop: &Shop, check: &str) -> Value {
    let job = check.split("/checks").next().unwrap();
    let parts = format!("{job}/parts");
    let mut all = Vec::new();
    for path in ["/api/drawers", job, check, &parts] {
        let mut view = said(&shop.get(path).await.ok());
        // A note that was struck out is struck out.
        if let Some(notes) = view.get_mut("notes").and_then(Value::as_array_mut) {
            notes.retain(|note| note["struck_by"].is_null());
        }
        // A choice that was let go leaves nothing chosen.
        if view["setting"]["state"] == "let_go" {
            view["setting"] = Value::Null;
        }
        all.push(view);
    }
    all.into()
}

/// Does an act as the screens do; the whole answer.
async fn act(shop: &Shop, check: &str, act: &Value) -> super::house::Answered {
    let job = check.split("/checks").next().unwrap();
    let seen = match act["of"].as_str() {
        Some("check") => shop.get(check).await.ok()["version"].clone(),
        _ => shop.get(job).await.ok()["version"].clone(),
    };
    let body = json!({"act": act, "who": "RT"});
    shop.sent(
        Method::Post,
        &format!("{job}/acts"),
        &fresh_key(),
        Some(&seen),
        body,
    )
    .await
}

/// Done and undone, an act leaves all as it was.
async fn goes_and_comes(shop: &Shop, check: &str, did: Value) {
    let before = all_of(shop, check).await;
    let done = act(shop, check, &did).await.ok();
    let undoing = done["undoing"]["act"].clone();
    assert!(undoing.is_object(), "{did} has an undoing");
    let changed = all_of(shop, check).await;
    assert!(changed != before, "{did} does something");
    act(shop, check, &undoing).await.ok();
    let after = all_of(shop, check).await;
    for (i, (now, was)) in after
        .as_array()
        .unwrap()
        .iter()
        .zip(before.as_array().unwrap())
        .enumerate()
    {
        let differ: Vec<String> = was
            .as_object()
            .into_iter()
            .flatten()
            .filter(|(name, value)| now[name.as_str()] != **value)
            .map(|(name, value)| format!("{name}: {value}, now {}", now[name.as_str()]))
            .collect();
        assert!(
            now == was,
            "{did}, undone, leaves {i} otherwise: {differ:?}"
        );
    }
}

#[tokio::test]
async fn an_act_and_its_undoing_leave_all_as_it_was() {
    let shop = Shop::open().await;
    let check = format!("{}/input-float", shop.job().await);
    let on = |did: Value| json!({"of": "check", "check": "input-float", "did": did});
    let pieces = json!([{"thickness_nm": 1_250_000, "count": 1}]);
    shop.say_fitted(&check, "1.00").await;
    shop.read(&check, &["0.35", "0.36", "0.35"]).await;
    for (leaf, fit) in [("0.35", "goes"), ("0.40", "refused")] {
        let entry = json!({"kind": "leaf", "leaves": leaf, "fit": fit});
        let body = json!({"way": "feeler", "entry": entry, "unit": "mm", "who": "RT"});
        shop.post(&format!("{check}/readings"), None, body)
            .await
            .ok();
    }
    for did in [
        json!({"act": "fitted", "typed": "1.20", "unit": "mm"}),
        json!({"act": "way", "way": "feeler"}),
        json!({"act": "mark", "reading_no": 2, "mark": "struck", "reason": "slipped"}),
        json!({"act": "aim", "window": "own", "low": "0.02 mm", "high": "0.2 mm", "school": "middle", "unit": "mm",
               "reason": "runs hot"}),
        json!({"act": "choose", "pieces": pieces}),
        json!({"act": "sign", "reason": "as it is"}),
    ] {
        goes_and_comes(&shop, &check, on(did)).await;
    }
    // Set otherwise already, it is set so again.
    let aim = json!({"act": "aim", "window": "own", "low": "0.03 mm", "high": "0.21 mm", "school": "at", "from": "0.1 mm",
                     "unit": "mm", "reason": "towed"});
    act(&shop, &check, &on(aim)).await.ok();
    goes_and_comes(
        &shop,
        &check,
        on(json!({"act": "aim", "window": "sheet", "school": "tight", "unit": "mm", "reason": "not towed"})),
    )
    .await;
    act(
        &shop,
        &check,
        &on(json!({"act": "choose", "pieces": pieces})),
    )
    .await
    .ok();
    for did in [
        json!({"act": "let_go"}),
        json!({"act": "fit", "put_back": false}),
        json!({"act": "fit", "put_back": true}),
    ] {
        goes_and_comes(&shop, &check, on(did)).await;
    }
    for did in [
        json!({"act": "note", "said": "wet at the joint"}),
        json!({"act": "card", "title": "Van 4", "customer": "A baker",
               "intake": {"agreed": "up to 300", "waits_for": {"what": "the grinder"}}}),
    ] {
        goes_and_comes(&shop, &check, json!({"of": "job", "did": did})).await;
    }
    act(&shop, &check, &on(json!({"act": "let_go"}))).await.ok();
    let away = json!({"of": "job", "did": {"act": "put_away", "reason": "opened twice"}});
    goes_and_comes(&shop, &check, away).await;
    for did in [
        json!({"act": "found", "part": "in-3", "state": "renewed", "conditions": ["pitted"]}),
        json!({"act": "found", "part": "in-3", "state": "reused"}),
    ] {
        goes_and_comes(&shop, &check, json!({"of": "part", "did": did})).await;
    }
    let found =
        json!({"act": "found", "part": "in-3", "state": "renewed", "conditions": ["pitted"]});
    act(&shop, &check, &json!({"of": "part", "did": found}))
        .await
        .ok();
    for did in [
        json!({"act": "ordered", "part": "in-3", "from": "Gull", "price": "41"}),
        json!({"act": "come", "part": "in-3"}),
        json!({"act": "will_not_come", "part": "in-3", "why": "no longer made"}),
        json!({"act": "taken_back", "part": "in-3"}),
    ] {
        goes_and_comes(&shop, &check, json!({"of": "part", "did": did})).await;
    }
}

/// Whoever sends an act again because the answer was lost is told again what undoes it, and it is done once.
#[tokio::test]
async fn an_act_sent_again_is_done_once_and_undone_alike() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let check = format!("{checks}/input-float");
    shop.say_fitted(&check, "1.00").await;
    shop.read(&check, &["0.35", "0.36", "0.35"]).await;
    let version = shop.get(&check).await.ok()["version"].clone();
    let job = checks.replace("/checks", "");
    let choose = json!({"act": {"of": "check", "check": "input-float", "did":
        {"act": "choose", "pieces": [{"thickness_nm": 1_250_000, "count": 1}]}}, "who": "RT"});
    let note = json!({"act": {"of": "job", "did": {"act": "note", "said": "wet"}}, "who": "RT"});
    let path = format!("{job}/acts");
    for (body, seen) in [(choose, Some(&version)), (note, None)] {
        let key = fresh_key();
        let once = shop
            .sent(Method::Post, &path, &key, seen, body.clone())
            .await
            .ok();
        let again = shop
            .sent(Method::Post, &path, &key, seen, body.clone())
            .await
            .ok();
        assert!(once["undoing"]["act"].is_object(), "{body}");
        assert_eq!(once["undoing"], again["undoing"]);
        assert_eq!(said(&once["on"]), said(&again["on"]));
        assert_eq!(once["stale"], again["stale"]);
    }
    assert_eq!(
        shop.get(&job).await.ok()["notes"].as_array().unwrap().len(),
        1
    );
    assert_eq!(shop.stock("t5-input-shim", 1_250_000).await.1, 1);
}

#[tokio::test]
async fn what_rests_on_what_was_seen_says_so_and_is_refused_where_that_has_changed() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let check = format!("{checks}/input-float");
    let job = checks.replace("/checks", "");
    let path = format!("{job}/acts");
    let on = |did: Value| json!({"act": {"of": "check", "check": "input-float", "did": did}, "who": "RT"});
    let sign = on(json!({"act": "sign", "reason": "as it is"}));
    let read = {
        let mut reading = travel("0.10", "RT");
        reading.as_object_mut().unwrap().remove("who");
        reading["act"] = json!("read");
        on(reading)
    };
    let send = async |seen: Option<&Value>, body: Value| {
        shop.sent(Method::Post, &path, &fresh_key(), seen, body)
            .await
    };
    let seen = shop.get(&check).await.ok()["version"].clone();
    // A reading is a fact, whatever has changed.
    send(None, read.clone()).await.ok();
    send(None, read).await.ok();
    send(None, sign.clone())
        .await
        .refused(428, "header-missing");
    send(Some(&seen), sign.clone())
        .await
        .refused(412, "changed-meanwhile");
    let now = shop.get(&check).await.ok()["version"].clone();
    let signed = send(Some(&now), sign).await.ok();
    assert_eq!(signed["on"]["of"], "check");
    assert_eq!(signed["on"]["view"]["phase"], "signed");
    assert_eq!(signed["undoing"]["act"]["did"]["act"], "reopen");
    assert!(signed["stale"].as_array().unwrap().contains(&json!("jobs")));
    // Nothing that is no act is taken for one.
    let odd = send(None, json!({"act": {"of": "lever"}, "who": "RT"})).await;
    odd.refused(422, "bad-request");
}
