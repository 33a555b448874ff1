//! Used parts: boxes that give theirs stand beside a job's, the best box of them is found, and what is over lies on the shelf.

use rocket::http::ContentType;
use serde_json::{Value, json};

use super::house::Shop;

/// A box of the van's that gives its parts, all sound but those named.
async fn donor(shop: &Shop, title: &str, said: &[Value]) -> i64 {
    let card = json!({"sheet_key": "tolvane-t5", "title": title, "customer": "The shop", "variant": "long",
        "for_parts": true, "who": "RT"});
    let job_no = shop.post("/api/jobs", None, card).await.ok()["job_no"].clone();
    let job_no = job_no.as_i64().unwrap();
    for finding in said {
        found(shop, job_no, finding.clone()).await;
    }
    job_no
}

async fn found(shop: &Shop, job_no: i64, mut finding: Value) {
    finding["act"] = json!("found");
    let body = json!({"act": finding, "who": "RT"});
    let path = format!("/api/jobs/{job_no}/parts");
    shop.post(&path, None, body).await.ok();
}

async fn own_job(shop: &Shop) -> i64 {
    let card = json!({"sheet_key": "tolvane-t5", "title": "Hill van", "customer": "A baker", "variant": "long",
        "who": "RT"});
    let job = shop.post("/api/jobs", None, card).await.ok();
    job["job_no"].as_i64().unwrap()
}

async fn best(shop: &Shop, job_no: i64, asked: Value) -> Value {
    let path = format!("/api/jobs/{job_no}/donors/best");
    let request = shop.client.post(path).header(ContentType::JSON);
    let answer = request.body(asked.to_string()).dispatch().await;
    let text = answer.into_string().await.unwrap();
    let last: Value = serde_json::from_str(text.lines().last().unwrap()).unwrap();
    assert!(last["best"].is_object(), "{last}");
    last["best"].clone()
}

fn pick<'a>(best: &'a Value, part: &str) -> &'a Value {
    let mut picks = best["picks"].as_array().unwrap().iter();
    &picks.find(|p| p["part"] == part).unwrap()["from"]
}

fn cell<'a>(view: &'a Value, part: &str, at: usize) -> &'a Value {
    let mut rows = view["rows"].as_array().unwrap().iter();
    &rows.find(|r| r["part"] == part).unwrap()["cells"][at]
}

/// Takes parts; how the boxes stand beside each other then.
async fn take(shop: &Shop, job_no: i64, parts: Value) -> super::house::Answered {
    let path = format!("/api/jobs/{job_no}/donors/take");
    let body = json!({"parts": parts, "who": "RT"});
    let answer = shop.post(&path, None, body).await;
    if answer.status.code != 200 {
        return answer;
    }
    shop.get(&format!("/api/jobs/{job_no}/donors")).await
}

#[tokio::test]
async fn the_best_box_of_two_donors_is_found_taken_and_given_back() {
    let shop = Shop::open().await;
    let own = own_job(&shop).await;
    let pitted = json!({"part": "in-3", "state": "renewed", "conditions": ["pitted"]});
    found(&shop, own, pitted).await;
    found(&shop, own, json!({"part": "main-5", "state": "missing"})).await;
    let worn = donor(
        &shop,
        "Old van",
        &[
            json!({"part": "in-3", "state": "reused", "conditions": ["polished"]}),
            json!({"part": "baulk-3", "state": "reused"}),
            json!({"part": "main-5", "state": "reused", "width": "20.96 mm"}),
        ],
    )
    .await;
    // Its gear is better, but the ring that stays with it is gone.
    let single = donor(
        &shop,
        "Milk van",
        &[
            json!({"part": "in-3", "state": "reused"}),
            json!({"part": "baulk-3", "state": "missing"}),
        ],
    )
    .await;
    let view = shop.get(&format!("/api/jobs/{own}/donors")).await.ok();
    let numbers: Vec<&Value> = view["boxes"]
        .as_array()
        .unwrap()
        .iter()
        .map(|b| &b["job_no"])
        .collect();
    assert_eq!(numbers, [own, single, worn]);
    assert_eq!(cell(&view, "in-3", 0)["state"], "no_good");
    assert_eq!(cell(&view, "in-3", 1)["state"], "sound");
    assert_eq!(cell(&view, "in-3", 2)["state"], "worn");
    assert_eq!(cell(&view, "main-5", 2)["width_nm"], 20_960_000);

    let found = best(&shop, own, json!({})).await;
    assert_eq!(found["proven"], true, "{found}");
    for part in ["in-3", "baulk-3", "main-5"] {
        assert_eq!(pick(&found, part), &json!(worn), "{part}");
    }
    let fifth = &found["checks"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["check_key"] == "fifth-thrust")
        .unwrap()
        .clone();
    // 29.15 − 20.96, with what the drawers have of spacers.
    assert_eq!(
        (&fifth["left_nm"], &fifth["is_set"]),
        (&json!(8_190_000), &json!(true))
    );
    let without = best(&shop, own, json!({"without": [worn]})).await;
    assert_eq!(pick(&without, "in-3"), &Value::Null);
    let pinned = best(
        &shop,
        own,
        json!({"pinned": [{"part": "main-5", "from": null}]}),
    )
    .await;
    assert_eq!(pick(&pinned, "main-5"), &Value::Null);
    let path = format!("/api/jobs/{own}/donors/best");
    let not_there = json!({"pinned": [{"part": "main-5", "from": single}]});
    let refused = shop.post(&path, None, not_there).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "pinned");

    let parts = json!([{"part": "in-3", "from": worn}, {"part": "baulk-3", "from": worn}, {"part": "main-5", "from": worn}]);
    let taken = take(&shop, own, parts.clone()).await.ok();
    assert_eq!(cell(&taken, "main-5", 2)["given_to"], own);
    let of_own = shop.get(&format!("/api/jobs/{own}/parts")).await.ok();
    let gear = of_own["parts"]
        .as_array()
        .unwrap()
        .iter()
        .find(|p| p["key"] == "main-5")
        .unwrap();
    assert_eq!(
        (&gear["found"]["state"], &gear["found"]["from"]),
        (&json!("from_another"), &json!(worn))
    );
    assert_eq!(gear["found"]["width_measured"]["size_nm"], 20_960_000);
    let to_get = of_own["to_get"].as_array().unwrap();
    assert!(
        !to_get
            .iter()
            .any(|t| t["part"] == "main-5" || t["part"] == "in-3"),
        "{to_get:?}"
    );
    // Nothing of it changes the second time, and nobody else can have it.
    take(&shop, own, parts).await.ok();
    let second = own_job(&shop).await;
    let again = take(&shop, second, json!([{"part": "main-5", "from": worn}])).await;
    assert!(
        again.refused(409, "given")["title"]
            .as_str()
            .unwrap()
            .contains(&format!("job {own}"))
    );
    // Put right under Strip, it is where it was.
    let back =
        json!({"act": {"act": "taken_back", "part": "main-5", "why": "does not fit"}, "who": "RT"});
    shop.post(&format!("/api/jobs/{own}/parts"), None, back)
        .await
        .ok();
    take(&shop, second, json!([{"part": "main-5", "from": worn}]))
        .await
        .ok();
    let undone = take(
        &shop,
        own,
        json!([{"part": "in-3", "from": own}, {"part": "baulk-3", "from": own}]),
    )
    .await
    .ok();
    assert_eq!(cell(&undone, "in-3", 2)["given_to"], Value::Null);
    assert_eq!(cell(&undone, "main-5", 2)["state"], "given");
}

#[tokio::test]
async fn a_used_part_makes_its_signed_checks_due() {
    let shop = Shop::open().await;
    let own = own_job(&shop).await;
    let side = format!("/api/jobs/{own}/checks/diff-side");
    shop.say_fitted(&side, "1.74").await;
    shop.read(&side, &["0.17", "0.17", "0.17"]).await;
    shop.see_to_all(&side).await;
    shop.act(&side, "sign", json!({"reason": "", "who": "OB"}))
        .await
        .ok();
    let washer = json!({"part": "diff-side-left", "state": "reused"});
    let from = donor(&shop, "Old van", &[washer]).await;
    take(
        &shop,
        own,
        json!([{"part": "diff-side-left", "from": from}]),
    )
    .await
    .ok();
    let fallen = shop.get(&side).await.ok();
    assert_eq!(fallen["phase"], "sign");
}

#[tokio::test]
async fn what_is_over_lies_on_the_shelf_with_its_sizes() {
    let shop = Shop::open().await;
    let from = donor(
        &shop,
        "Old van",
        &[
            json!({"part": "main-5", "state": "reused", "width": "20.96 mm"}),
            json!({"part": "in-1", "state": "renewed", "conditions": ["chipped"]}),
        ],
    )
    .await;
    let shelf = format!("/api/jobs/{from}/shelf");
    let put = json!({"place": "shelf 2, blue bin", "who": "RT"});
    let nowhere = shop
        .post(&shelf, None, json!({"place": " ", "who": "RT"}))
        .await;
    assert_eq!(nowhere.refused(422, "bad-field")["field"], "place");
    let bad = json!({"parts": ["in-1"], "place": "shelf 2", "who": "RT"});
    assert_eq!(
        shop.post(&shelf, None, bad).await.refused(422, "bad-field")["field"],
        "parts"
    );
    shop.post(&shelf, None, put.clone()).await.ok();
    let there = shop.get("/api/shelf").await.ok();
    assert_eq!(there.as_array().unwrap().len(), 1);
    assert_eq!(
        (&there[0]["part"], &there[0]["width_nm"]),
        (&json!("main-5"), &json!(20_960_000))
    );
    let on = shop.get(&format!("/api/jobs/{from}")).await.ok();
    assert_eq!(
        (&on["for_parts"], &on["next_phase"], &on["checks"]),
        (&json!(true), &json!("for_parts"), &json!([]))
    );
    let away = json!({"reason": "scrapped", "who": "RT"});
    shop.post(
        &format!("/api/jobs/{from}/put-away"),
        Some(&on["version"]),
        away,
    )
    .await
    .ok();

    let own = own_job(&shop).await;
    found(&shop, own, json!({"part": "main-5", "state": "missing"})).await;
    let view = shop.get(&format!("/api/jobs/{own}/donors")).await.ok();
    assert_eq!(
        (
            &view["boxes"][1]["on_shelf"],
            &cell(&view, "main-5", 1)["place"]
        ),
        (&json!(true), &json!("shelf 2, blue bin"))
    );
    assert_eq!(cell(&view, "in-2", 1)["state"], "gone");
    let found = best(&shop, own, json!({})).await;
    assert_eq!(pick(&found, "main-5"), &json!(from));
    take(&shop, own, json!([{"part": "main-5", "from": from}]))
        .await
        .ok();
    assert_eq!(shop.get("/api/shelf").await.ok(), json!([]));
    take(&shop, own, json!([{"part": "main-5", "from": own}]))
        .await
        .ok();
    let off = json!({"parts": ["main-5"], "place": "", "who": "RT"});
    shop.post(&shelf, None, off.clone()).await.ok();
    assert_eq!(
        shop.post(&shelf, None, off).await.refused(422, "bad-field")["field"],
        "parts"
    );
    let gone = take(&shop, own, json!([{"part": "main-5", "from": from}])).await;
    gone.refused(409, "not-usable");
}

#[tokio::test]
async fn what_cannot_be_is_said() {
    let shop = Shop::open().await;
    let mut other = shop.get("/api/sheets/tolvane-t5/file").await.ok();
    other["key"] = json!("tolvane-t6");
    other["name"] = json!("Tolvane T6 transaxle");
    let body = json!({"text": other.to_string(), "who": "RT", "over": 0});
    shop.post("/api/sheets", None, body).await.ok();
    let card = json!({"sheet_key": "tolvane-t6", "title": "Of another model", "customer": "The shop", "for_parts": true, "who": "RT"});
    let t6 = shop.post("/api/jobs", None, card).await.ok()["job_no"].clone();
    found(
        &shop,
        t6.as_i64().unwrap(),
        json!({"part": "main-5", "state": "reused"}),
    )
    .await;
    let own = own_job(&shop).await;
    let refused = take(&shop, own, json!([{"part": "main-5", "from": t6}])).await;
    let problem = refused.refused(422, "bad-field");
    assert_eq!(problem["field"], "from");
    assert!(
        problem["title"]
            .as_str()
            .unwrap()
            .contains("Tolvane T6 transaxle")
    );
    let twice = json!([{"part": "main-5", "from": null}, {"part": "main-5", "from": null}]);
    assert_eq!(
        take(&shop, own, twice).await.refused(422, "bad-field")["field"],
        "parts"
    );
    take(&shop, own, json!([{"part": "no-such", "from": null}]))
        .await
        .refused(404, "not-found");
    // A box that is for parts is nobody's to have back, and a customer's box gives nothing to the shelf.
    let version = shop.get(&format!("/api/jobs/{t6}")).await.ok()["version"].clone();
    let hand_over = shop
        .post(
            &format!("/api/jobs/{t6}/hand-over"),
            Some(&version),
            json!({"who": "RT"}),
        )
        .await;
    hand_over.refused(409, "for-parts");
    let shelf = json!({"place": "shelf 1", "who": "RT"});
    shop.post(&format!("/api/jobs/{own}/shelf"), None, shelf)
        .await
        .refused(409, "not-for-parts");
    // By hand, nothing is said to have come from another box.
    let typed = json!({"act": {"act": "found", "part": "main-5", "state": "from_another", "from": 1}, "who": "RT"});
    let path = format!("/api/jobs/{own}/parts");
    assert_eq!(
        shop.post(&path, None, typed)
            .await
            .refused(422, "bad-field")["field"],
        "act"
    );
}

/// In three presses one gear was in two boxes: what stands again is given again by who has it back since.
#[tokio::test]
async fn a_part_that_stands_again_is_in_one_box() {
    let shop = Shop::open().await;
    let (own, other) = (own_job(&shop).await, own_job(&shop).await);
    let sound = [json!({"part": "in-3", "state": "reused"})];
    let one = donor(&shop, "Old van", &sound).await;
    let two = donor(&shop, "Milk van", &sound).await;
    let from = |box_no: i64| json!([{"part": "in-3", "from": box_no}]);
    let taken_back = json!({"act": {"act": "taken_back", "part": "in-3"}, "who": "RT"});
    let path = format!("/api/jobs/{own}/parts");
    take(&shop, own, from(one)).await.ok();
    take(&shop, own, from(two)).await.ok();
    shop.post(&path, None, taken_back.clone()).await.ok();
    let view = shop.get(&format!("/api/jobs/{own}/donors")).await.ok();
    let given: Vec<&Value> = (1..3)
        .map(|at| &cell(&view, "in-3", at)["given_to"])
        .collect();
    assert_eq!(given, [&Value::Null, &json!(own)], "newest first");
    take(&shop, other, from(one)).await.refused(409, "given");
    // Where the earlier giver's is in a third box by then, nothing stands that cannot.
    take(&shop, own, from(two)).await.ok();
    take(&shop, other, from(one)).await.ok();
    let refused = shop.post(&path, None, taken_back).await;
    let title = refused.refused(409, "given")["title"].clone();
    let title = title.as_str().unwrap();
    assert!(title.contains(&format!("job {other}")), "{title}");
    let view = shop.get(&format!("/api/jobs/{own}/donors")).await.ok();
    assert_eq!(cell(&view, "in-3", 1)["given_to"], own);
    // All of it undone at once: its own stands, and both are free but for whose they are.
    let view = take(&shop, own, from(own)).await.ok();
    assert_eq!(cell(&view, "in-3", 1)["given_to"], Value::Null);
    assert_eq!(cell(&view, "in-3", 2)["given_to"], other);
    let parts = shop.get(&path).await.ok();
    let mut parts = parts["parts"].as_array().unwrap().iter();
    let gear = parts.find(|p| p["key"] == "in-3").unwrap();
    assert_eq!(gear["found"], Value::Null, "nobody has looked at its own");
    // The database says the same, and holds to it.
    let places =
        sqlx::query_as::<_, (i32, String, i32)>("select from_job, part, in_job from used_part");
    let places = places.fetch_all(&shop.pool).await.unwrap();
    let number = |job_no: i64| i32::try_from(job_no).unwrap();
    assert_eq!(places, [(number(one), "in-3".to_owned(), number(other))]);
    let twice =
        "insert into used_part (shop_id, from_job, part, in_job) values (1, $1, 'in-3', $2)";
    let twice = sqlx::query(twice).bind(number(one)).bind(number(own));
    let refused = twice.execute(&shop.pool).await.unwrap_err().to_string();
    assert!(refused.contains("used_part_pkey"), "{refused}");
    // A customer's box gives nothing.
    let somebodys = own_job(&shop).await;
    found(&shop, somebodys, sound[0].clone()).await;
    let refused = take(&shop, own, from(somebodys)).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "from");
}
