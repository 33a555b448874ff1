//! Wrong presses put right over HTTP, each by another record.

use crate::house::{Answered, Shop, fresh_key};
use rocket::http::Method;
use serde_json::{Value, json};

const SHIMS: &str = "t5-input-shim";
const PIECE: i64 = 1_250_000;

/// A write that answers with nothing but that it is done.
fn done(answered: &Answered) {
    assert_eq!(answered.status.code, 204, "{}", answered.body);
}

fn pieces(thickness_nm: i64) -> Value {
    json!([{"thickness_nm": thickness_nm, "grade": "marked", "count": 1}])
}

async fn job(shop: &Shop) -> String {
    let checks = shop.job().await;
    checks.trim_end_matches("/checks").to_owned()
}

/// A check of a job of its own, measured with a 1.10 in it, that wants about 1.25.
async fn measured(shop: &Shop) -> (String, String) {
    let job = job(shop).await;
    let check = format!("{job}/checks/input-float");
    shop.say_fitted(&check, "1.10").await;
    shop.read(&check, &["0.24", "0.24", "0.25"]).await;
    (job, check)
}

async fn chosen(shop: &Shop, check: &str, thickness_nm: i64) -> Value {
    let body = json!({"pieces": pieces(thickness_nm), "who": "RT"});
    shop.act(check, "choose", body).await.ok()
}

#[tokio::test]
async fn a_fitting_is_taken_back_with_all_that_went_with_it() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 2).await.ok();
    let (_, check) = measured(&shop).await;
    let before = chosen(&shop, &check, PIECE).await;
    let by = json!({"who": "RT"});
    shop.act(&check, "undo-fit", by.clone())
        .await
        .refused(409, "nothing-fitted");
    shop.act(&check, "fit", by.clone()).await.ok();
    assert_eq!(shop.stock(SHIMS, PIECE).await, (1, 0));
    let after = shop.act(&check, "undo-fit", by.clone()).await.ok();
    assert_eq!(shop.stock(SHIMS, PIECE).await, (2, 1));
    for same in ["phase", "round", "fitted_nm", "verdict"] {
        assert_eq!(after[same], before[same], "{same}");
    }
    assert_eq!(after["setting"]["pieces"], before["setting"]["pieces"]);
    let history = after["history"].as_array().unwrap();
    let happened: Vec<&str> = history.iter().filter_map(|l| l["what"].as_str()).collect();
    assert_eq!(
        happened[happened.len() - 4..],
        ["chosen", "fitted", "not_fitted", "chosen"]
    );
    // Fitted for good and measured: what was read with it in cannot be read without it.
    shop.act(&check, "fit", by.clone()).await.ok();
    shop.read(&check, &["0.09"]).await;
    shop.act(&check, "undo-fit", by)
        .await
        .refused(409, "measured-since");
}

#[tokio::test]
async fn what_went_back_in_the_drawer_comes_out_with_the_fitting() {
    let shop = Shop::open().await;
    for size in ["1.20 mm", "1.25 mm"] {
        shop.count(SHIMS, size, 1).await.ok();
    }
    let (_, check) = measured(&shop).await;
    chosen(&shop, &check, 1_200_000).await;
    shop.act(&check, "fit", json!({"who": "RT"})).await.ok();
    shop.read(&check, &["0.15", "0.15", "0.15"]).await;
    chosen(&shop, &check, PIECE).await;
    let sound = json!({"put_back": true, "who": "RT"});
    shop.act(&check, "fit", sound).await.ok();
    assert_eq!(shop.stock(SHIMS, 1_200_000).await, (1, 0));
    shop.act(&check, "undo-fit", json!({"who": "RT"}))
        .await
        .ok();
    assert_eq!(shop.stock(SHIMS, 1_200_000).await, (0, 0));
    assert_eq!(shop.stock(SHIMS, PIECE).await, (1, 1));
}

#[tokio::test]
async fn a_piece_taken_from_another_job_is_told_there_and_comes_back() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 1).await.ok();
    shop.count(SHIMS, "1.30 mm", 1).await.ok();
    let (their_job, theirs) = measured(&shop).await;
    let (my_job, mine) = measured(&shop).await;
    chosen(&shop, &theirs, PIECE).await;
    let number = |job: &str| job.rsplit('/').next().unwrap().parse::<i32>().unwrap();
    let version = async |check: &str| shop.get(check).await.ok()["version"].clone();
    let line = async |job: &str, check: &str, pieces: Value| json!({"job_no": number(job), "check_key": "input-float", "version": version(check).await, "pieces": pieces});
    let key = fresh_key();
    let body = json!({
        "choices": [line(&my_job, &mine, pieces(PIECE)).await, line(&their_job, &theirs, pieces(1_300_000)).await],
        "from_job": number(&my_job), "who": "RT",
    });
    done(
        &shop
            .send_with(Method::Post, "/api/share/choose", &key, None, body)
            .await,
    );
    let told = shop.get(&their_job).await.ok()["told"].clone();
    assert_eq!(told[0]["was"][0]["thickness_nm"], PIECE);
    assert_eq!(told[0]["now"][0]["thickness_nm"], 1_300_000);
    assert_eq!(told[0]["other_jobs"], json!([number(&my_job)]));
    // Not on the screen where it was pressed.
    assert_eq!(shop.get(&my_job).await.ok()["told"], json!([]));
    let undo = json!({"act_key": key, "who": "MEL"});
    done(&shop.post("/api/share/undo", None, undo.clone()).await);
    let set = async |check: &str| shop.get(check).await.ok()["setting"].clone();
    assert_eq!(set(&theirs).await["pieces"][0]["thickness_nm"], PIECE);
    assert_eq!(set(&mine).await, Value::Null);
    assert_eq!(shop.get(&their_job).await.ok()["told"], json!([]));
    assert_eq!(shop.stock(SHIMS, 1_300_000).await, (1, 0));
    shop.post("/api/share/undo", None, undo)
        .await
        .refused(409, "undone");
    let nothing = json!({"act_key": "no such act at all", "who": "MEL"});
    let missing = shop.post("/api/share/undo", None, nothing).await;
    assert_eq!(missing.status.code, 404);
}

#[tokio::test]
async fn what_was_told_is_seen_and_what_was_done_since_stands() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 1).await.ok();
    shop.count(SHIMS, "1.30 mm", 1).await.ok();
    let (job, check) = measured(&shop).await;
    chosen(&shop, &check, PIECE).await;
    let number = job.rsplit('/').next().unwrap().parse::<i32>().unwrap();
    let version = shop.get(&check).await.ok()["version"].clone();
    let key = fresh_key();
    let one = json!({"job_no": number, "check_key": "input-float", "version": version, "pieces": pieces(1_300_000)});
    let body = json!({"choices": [one], "who": "RT"});
    done(
        &shop
            .send_with(Method::Post, "/api/share/choose", &key, None, body)
            .await,
    );
    let seen = json!({"act_key": key, "job_no": number, "check_key": "input-float", "who": "MEL"});
    done(&shop.post("/api/share/seen", None, seen).await);
    assert_eq!(shop.get(&job).await.ok()["told"], json!([]));
    shop.act(&check, "let-go", json!({"who": "MEL"})).await.ok();
    shop.post(
        "/api/share/undo",
        None,
        json!({"act_key": key, "who": "RT"}),
    )
    .await
    .refused(412, "changed");
}

#[tokio::test]
async fn a_job_is_put_away_and_brought_back_and_its_card_is_mended() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 1).await.ok();
    let (job, check) = measured(&shop).await;
    let number = job.rsplit('/').next().unwrap().parse::<i64>().ok();
    let version = async || shop.get(&job).await.ok()["version"].clone();
    let put_away = async |reason: &str| {
        let body = json!({"reason": reason, "who": "RT"});
        shop.post(&format!("{job}/put-away"), Some(&version().await), body)
            .await
    };
    let listed = async |filter: &str| {
        let list = shop.get(&format!("/api/jobs{filter}")).await.ok();
        let jobs = list["jobs"].as_array().unwrap();
        jobs.iter().any(|j| j["job_no"].as_i64() == number)
    };
    assert_eq!(
        put_away("").await.refused(422, "bad-field")["field"],
        "reason"
    );
    chosen(&shop, &check, PIECE).await;
    put_away("opened by mistake")
        .await
        .refused(409, "pieces-chosen");
    shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    put_away("opened by mistake").await.ok();
    assert!(!listed("").await && listed("?put_away=true").await);
    let away = shop.get(&check).await.ok();
    assert_eq!(away["allowed"]["methods"], json!([]));
    let reading = crate::house::travel("0.2", "RT");
    shop.post(&format!("{check}/readings"), None, reading)
        .await
        .refused(409, "put-away");
    put_away("once more").await.refused(409, "not-on-the-bench");
    let by = json!({"who": "MEL"});
    let back = format!("{job}/bring-back");
    shop.post(&back, Some(&version().await), by.clone())
        .await
        .ok();
    assert!(listed("").await);
    shop.post(&back, Some(&version().await), by)
        .await
        .refused(409, "not-put-away");

    let seen = version().await;
    let card = json!({"title": "Another title", "customer": "Another customer", "complaint": "ATF leaks", "who": "RT"});
    let of_card = format!("{job}/card");
    let send = async |version: &Value| {
        shop.send(Method::Put, &of_card, Some(version), card.clone())
            .await
    };
    let fresh = send(&seen).await.ok();
    assert_eq!(
        (&fresh["title"], &fresh["complaint"]),
        (&json!("Another title"), &json!("ATF leaks"))
    );
    assert_eq!(fresh["cards_were"].as_array().unwrap().len(), 1);
    send(&seen).await.refused(412, "changed-meanwhile");
}

#[tokio::test]
async fn a_note_is_struck_out_and_restored_and_stays() {
    let shop = Shop::open().await;
    let job = job(&shop).await;
    let note = json!({"said": "wrong job", "who": "RT"});
    let noted = shop.post(&format!("{job}/notes"), None, note).await.ok();
    let at = format!("{job}/notes/{}/marks", noted["notes"][0]["note_no"]);
    for (struck, by) in [(true, json!("MEL")), (false, Value::Null)] {
        let mark = json!({"struck": struck, "who": "MEL"});
        let fresh = shop.post(&at, None, mark).await.ok();
        assert_eq!(fresh["notes"][0]["struck_by"], by);
        assert_eq!(fresh["notes"][0]["said"], "wrong job");
    }
    let none = json!({"struck": true, "who": "MEL"});
    let missing = shop
        .post(&format!("{job}/notes/999999/marks"), None, none)
        .await;
    assert_eq!(missing.status.code, 404);
}

#[tokio::test]
async fn what_is_chosen_and_not_on_hand_is_to_order_until_it_is_ordered() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 0).await.ok();
    let (job, check) = measured(&shop).await;
    chosen(&shop, &check, PIECE).await;
    let awaited = async || shop.get("/api/order/awaited").await.ok()[0].clone();
    let now = awaited().await;
    assert_eq!(now["held_by"][0]["to_order"], 1);
    assert_eq!(format!("/api/jobs/{}", now["held_by"][0]["job_no"]), job);
    assert_eq!(now["ordered_at"], Value::Null);
    let lines = json!([{"family_key": SHIMS, "thickness_nm": PIECE, "count": 1}]);
    let order = json!({"act": "order", "lines": lines, "who": "RT"});
    shop.post("/api/drawers/acts", None, order).await.ok();
    let now = awaited().await;
    assert_eq!(
        (&now["held_by"][0]["to_order"], &now["on_order"]),
        (&json!(0), &json!(1))
    );
    assert!(now["ordered_at"].is_string());
}

#[tokio::test]
async fn the_shop_and_its_people_are_changed_and_stay_on_record() {
    let shop = Shop::open().await;
    let before = shop.get("/api/shop").await.ok();
    let put = async |version: &Value, floor: f64| {
        let body = json!({"name": "Another name", "place": "", "unit": "thou", "floor": floor, "who": "RT"});
        shop.send(Method::Put, "/api/shop", Some(version), body)
            .await
    };
    let refused = put(&before["version"], 1.0).await.refused(422, "bad-field");
    assert_eq!(refused["field"], "floor");
    let fresh = put(&before["version"], 0.8).await.ok();
    assert_eq!(
        (&fresh["name"], &fresh["floor"]),
        (&json!("Another name"), &json!(0.8))
    );
    put(&before["version"], 0.9)
        .await
        .refused(412, "changed-meanwhile");
    let (was,): (f64,) = sqlx::query_as("select floor from shop_was")
        .fetch_one(&shop.pool)
        .await
        .unwrap();
    assert_eq!(json!(was), before["floor"]);

    let person = async |initials: &str, gone: bool| {
        let body = json!({"initials": initials, "name": "Somebody", "gone": gone, "who": "RT"});
        shop.send(Method::Put, "/api/people", None, body).await
    };
    assert_eq!(
        person("R2", false).await.refused(422, "bad-field")["field"],
        "initials"
    );
    let fresh = person("xyz", false).await.ok();
    let people = fresh["people"].as_array().unwrap();
    assert!(
        people
            .iter()
            .any(|p| p["initials"] == "XYZ" && p["gone"] == false)
    );
    let all: Vec<String> = people
        .iter()
        .map(|p| p["initials"].as_str().unwrap().to_owned())
        .collect();
    let (last, others) = all.split_last().unwrap();
    for one in others {
        person(one, true).await.ok();
    }
    person(last, true).await.refused(409, "last-person");
}
