//! What a box really is: what was seen of it goes on record, names what contradicts it, and moves the job to what it is.

use rocket::http::Method;
use serde_json::{Value, json};

use super::house::{Answered, Shop};

fn seen(question: &str, answer: &str) -> Value {
    json!({"answer": {"question": question, "answer": answer}, "who": "RT"})
}

/// A sheet of another box, by which the van's is told from others.
async fn other_sheet(shop: &Shop) {
    let mut sheet = shop.get("/api/sheets/tolvane-t5/file").await.ok();
    sheet["key"] = json!("tolvane-t6");
    sheet["name"] = json!("Tolvane T6 transaxle");
    sheet["identify"][0]["answers"] = json!([{"text": "T6"}]);
    let checks = sheet["checks"].as_array_mut().unwrap();
    let at = checks
        .iter()
        .position(|c| c["key"] == "main-float")
        .unwrap();
    checks[at]["key"] = json!("main-float-t6");
    let text = sheet
        .to_string()
        .replace("\"main-float\"", "\"main-float-t6\"");
    let body = json!({"text": text, "who": "RT", "over": 0});
    shop.post("/api/sheets", None, body).await.ok();
}

async fn move_to(shop: &Shop, job: &str, to: Value) -> Answered {
    let version = shop.get(job).await.ok()["version"].clone();
    let mut body = to;
    body["who"] = json!("RT");
    let path = format!("{job}/revision");
    shop.send(Method::Put, &path, Some(&version), body).await
}

#[tokio::test]
async fn what_is_seen_at_the_door_tells_the_sheet_and_goes_with_the_job() {
    let shop = Shop::open().await;
    other_sheet(&shop).await;
    let ask = async |answers: Value| {
        let body = json!({"answers": answers});
        shop.post("/api/identity", None, body).await
    };
    let first = ask(json!([])).await.ok();
    assert_eq!(
        (&first["possible"], &first["next"]),
        (&json!(4), &json!("casting"))
    );
    let t6 = ask(json!([{"question": "casting", "answer": "t6"}]))
        .await
        .ok();
    assert_eq!(
        (&t6["possible"], &t6["next"]),
        (&json!(2), &json!("pinion-teeth"))
    );
    assert_eq!(t6["candidates"][0]["sheet"], "Tolvane T6 transaxle");
    let wrong = ask(json!([{"question": "pinion-teeth", "answer": "about 15"}])).await;
    assert_eq!(wrong.refused(422, "bad-field")["field"], "answer");
    let unknown = ask(json!([{"question": "colour", "answer": "red"}])).await;
    assert_eq!(unknown.refused(422, "bad-field")["field"], "question");

    let mut card = json!({"sheet_key": "tolvane-t6", "title": "Hill van", "customer": "A baker", "who": "RT",
        "variant": "tall", "identity": [{"question": "casting", "answer": "T6"}]});
    let refused = shop.post("/api/jobs", None, card.clone()).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "variant");
    card["variant"] = json!("short");
    let job = format!(
        "/api/jobs/{}",
        shop.post("/api/jobs", None, card).await.ok()["job_no"]
    );
    let on = shop.get(&job).await.ok();
    assert_eq!(
        (&on["build_of"]["key"], &on["build_known"]),
        (&json!("short"), &json!(true))
    );
    let low = |b: &Value| {
        let checks = b["checks"].as_array().unwrap();
        let preload = checks
            .iter()
            .find(|c| c["check_key"] == "diff-preload")
            .unwrap();
        preload["window"]["low_nm"].clone()
    };
    assert_eq!(low(&on), -110_000);
    let identity = shop.get(&format!("{job}/identity")).await.ok();
    assert_eq!(
        (&identity["variant"], &identity["known"]),
        (&json!("short"), &json!(true))
    );
    assert_eq!(
        identity["questions"][0]["given"],
        json!({"kind": "text", "text": "T6"})
    );
    let report = shop.get(&format!("{job}/report")).await.ok();
    assert_eq!(report["build_of"], "15-tooth final drive");
    assert_eq!(report["seen"][0]["ask"], "Mark cast in the case");
}

#[tokio::test]
async fn what_contradicts_the_box_is_told_and_the_job_moves_to_what_it_is() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    let tell = async |body: Value| shop.post(&format!("{job}/identity"), None, body).await;
    let on = shop.get(&job).await.ok();
    // Nobody has said what it is: it is taken for the usual build.
    assert_eq!(
        (&on["build_of"]["key"], &on["build_known"]),
        (&json!("long"), &json!(false))
    );
    assert_eq!(
        tell(seen("pinion-teeth", "x"))
            .await
            .refused(422, "bad-field")["field"],
        "answer"
    );
    let told = tell(seen("pinion-teeth", "15")).await.ok();
    assert_eq!(told["possible"], 1);
    assert_eq!(told["candidates"][0]["variant"], "short");
    let on = shop.get(&job).await.ok();
    assert_eq!(
        on["contradicted"][0]["given"],
        json!({"kind": "count", "count": 15})
    );
    assert_eq!(on["contradicted"][0]["tells"], "17");

    // Counted again: the last answer stands. Taken back, none does.
    assert_eq!(
        tell(seen("pinion-teeth", "17")).await.ok()["candidates"][0]["variant"],
        "long"
    );
    let back = json!({"answer": {"question": "pinion-teeth"}, "taken_back": true, "who": "RT"});
    assert_eq!(tell(back).await.ok()["possible"], 2);
    let unseen = json!({"answer": {"question": "pinion-teeth", "not_seen": true}, "who": "RT"});
    let told = tell(unseen).await.ok();
    assert_eq!(
        (&told["possible"], &told["next"]),
        (&json!(2), &json!("ring-across"))
    );
    let across = json!({"answer": {"question": "ring-across", "answer": "182.9", "unit": "mm"}, "who": "RT"});
    assert_eq!(tell(across).await.ok()["possible"], 1);

    let looked = shop
        .get(&format!("{job}/revision?to=1&variant=short"))
        .await
        .ok();
    assert_eq!(looked["to_words"], "“15-tooth final drive”");
    let places: Vec<&str> = looked["differences"]
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|d| d["place"].as_str())
        .collect();
    assert!(
        places
            .iter()
            .any(|p| p.contains("“Final drive pinion” · teeth")),
        "{places:?}"
    );
    let refused = move_to(&shop, &job, json!({"variant": "tall"})).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "variant");
    let moved = move_to(&shop, &job, json!({"revision": 1, "variant": "short"}))
        .await
        .ok();
    assert_eq!(
        (&moved["build_of"]["key"], &moved["contradicted"]),
        (&json!("short"), &json!([]))
    );
    let blocks = moved["rail"]["shafts"][1]["blocks"].as_array().unwrap();
    assert_eq!(
        (&blocks[0]["part"], &blocks[0]["teeth"]),
        (&json!("main-pinion"), &json!(15))
    );
    let log = moved["notes"][0]["said"].as_str().unwrap();
    assert_eq!(
        log,
        "Moved from “17-tooth final drive” to “15-tooth final drive”"
    );
    // A newer revision of the sheet leaves it the build that it is.
    let mut sheet = shop.get("/api/sheets/tolvane-t5/file").await.ok();
    sheet["notes"] = json!("Looked through");
    let body = json!({"text": sheet.to_string(), "who": "RT", "over": 1});
    shop.post("/api/sheets", None, body).await.ok();
    let moved = move_to(&shop, &job, json!({"revision": 2})).await.ok();
    assert_eq!(
        (&moved["build_of"]["key"], &moved["revision"]),
        (&json!("short"), &json!(2))
    );
}

#[tokio::test]
async fn a_job_on_the_wrong_sheet_moves_where_nothing_hinders_it() {
    let shop = Shop::open().await;
    other_sheet(&shop).await;
    let checks = shop.job().await;
    let job = checks.trim_end_matches("/checks").to_owned();
    let to = json!({"sheet_key": "tolvane-t6", "variant": "long"});
    shop.read(&format!("{checks}/main-float"), &["0.20 mm"])
        .await;
    let look = format!("{job}/revision?sheet=tolvane-t6&variant=long");
    let looked = shop.get(&look).await.ok();
    assert_eq!(looked["added"], json!(["Main shaft end float"]));
    let hindered = looked["hindered"][0].as_str().unwrap();
    assert!(
        hindered.contains("“17-tooth final drive” of the sheet “Tolvane T6 transaxle”"),
        "{hindered}"
    );
    let refused = move_to(&shop, &job, to.clone())
        .await
        .refused(409, "cannot-move");
    assert_eq!(refused["title"], looked["hindered"][0]);
    // Another job, of which nothing is recorded.
    let fresh = shop.job_on("tolvane-t5").await;
    let fresh = fresh.trim_end_matches("/checks");
    let moved = move_to(&shop, fresh, to).await.ok();
    assert_eq!(moved["sheet_key"], "tolvane-t6");
    assert!(
        moved["checks"]
            .as_array()
            .unwrap()
            .iter()
            .any(|c| c["check_key"] == "main-float-t6")
    );
    // And back.
    let back = move_to(&shop, fresh, json!({"sheet_key": "tolvane-t5"}))
        .await
        .ok();
    assert_eq!(
        (&back["sheet_key"], &back["build_known"]),
        (&json!("tolvane-t5"), &json!(false))
    );
    // A job that is put away is asked nothing.
    let version = back["version"].clone();
    let away = json!({"reason": "opened twice", "who": "RT"});
    shop.post(&format!("{fresh}/put-away"), Some(&version), away)
        .await
        .ok();
    let refused = shop
        .post(&format!("{fresh}/identity"), None, seen("casting", "T5"))
        .await;
    refused.refused(409, "not-on-the-bench");
}
