//! The card a box comes in with: told apart, kept when it changes, found by the number on the box, and what was found on
//! earlier boxes with the same complaint.

use chrono::{TimeDelta, Utc};
use rocket::http::Method;
use serde_json::{Value, json};

use super::house::Shop;

fn card(title: &str, intake: &Value) -> Value {
    json!({"sheet_key": "tolvane-t5", "title": title, "customer": "A baker", "intake": intake, "who": "RT"})
}

#[tokio::test]
async fn a_card_is_kept_as_it_was_and_says_what_is_wrong_at_its_field() {
    let shop = Shop::open().await;
    let day = |days| {
        (Utc::now() + TimeDelta::days(days))
            .date_naive()
            .to_string()
    };
    let past = shop
        .post(
            "/api/jobs",
            None,
            card("Van 4", &json!({"promised": day(-3)})),
        )
        .await
        .refused(422, "bad-field");
    assert_eq!(past["field"], "promised");
    let sixth = json!({"complaints": [{"symptom": "whines", "gear": "sixth"}]});
    let none = shop
        .post("/api/jobs", None, card("Van 4", &sixth))
        .await
        .refused(422, "bad-field");
    assert_eq!(none["field"], "complaints");
    let intake = json!({"complaints": [{"symptom": "whines", "gear": "third"}, {"symptom": "leaks"}],
        "agreed": "up to the price of a used box", "promised": day(4), "stamped": "T·4471"});
    let new = shop
        .post("/api/jobs", None, card("Van 4", &intake))
        .await
        .ok();
    let job = format!("/api/jobs/{}", new["job_no"]);
    let seen = shop.get(&job).await.ok();
    assert_eq!(seen["intake"], intake);
    assert_eq!(seen["promised"], intake["promised"]);
    assert_eq!(seen["complaints"], json!(["whines in third", "leaks"]));
    let listed = shop.get("/api/jobs?search=t%C2%B74471").await.ok();
    assert_eq!(listed["jobs"][0]["job_no"], new["job_no"]);
    assert_eq!(seen["same_box"], json!([]));
    // The same box comes again.
    let again = json!({"stamped": "T·4471"});
    let second = shop
        .post("/api/jobs", None, card("Van 4 again", &again))
        .await
        .ok();
    let second = shop
        .get(&format!("/api/jobs/{}", second["job_no"]))
        .await
        .ok();
    assert_eq!(second["same_box"][0]["job_no"], new["job_no"]);
    assert_eq!(second["same_box"].as_array().unwrap().len(), 1);

    // Only the words change: the rest of the card stays. Then the rest changes, and what it was is on record.
    let put = async |intake: Option<Value>| {
        let version = shop.get(&job).await.ok()["version"].clone();
        let mut card = json!({"title": "Van 4", "customer": "A baker", "complaint": "worse uphill", "who": "OB"});
        if let Some(intake) = intake {
            card["intake"] = intake;
        }
        let path = format!("{job}/card");
        shop.send(Method::Put, &path, Some(&version), card)
            .await
            .ok()
    };
    assert_eq!(put(None).await["intake"], intake);
    let fresh = put(Some(json!({"stamped": "T·4472"}))).await;
    assert_eq!(fresh["intake"], json!({"stamped": "T·4472"}));
    assert_eq!(fresh["cards_were"][0]["intake"], intake);
}

#[tokio::test]
async fn what_was_found_on_boxes_handed_over_comes_first() {
    let shop = Shop::open().await;
    let whines = json!({"complaints": [{"symptom": "whines", "gear": "third"}]});
    let open = async |title: &str| {
        let new = shop
            .post("/api/jobs", None, card(title, &whines))
            .await
            .ok();
        new["job_no"].as_i64().unwrap()
    };
    let found = json!({"act": {"act": "found", "part": "in-rear", "state": "renewed", "conditions": ["blued"]}, "who": "RT"});
    let (one, other, now) = (
        open("Van 1").await,
        open("Van 2").await,
        open("Van 3").await,
    );
    for job in [one, other] {
        shop.post(&format!("/api/jobs/{job}/parts"), None, found.clone())
            .await
            .ok();
    }
    // One of the two is handed over; the other is on the bench, and tells nothing yet.
    sqlx::query("update job set finished_at = now(), finished_by = 'RT' where job_no = $1")
        .bind(i32::try_from(one).unwrap())
        .execute(&shop.pool)
        .await
        .unwrap();
    let view = shop.get(&format!("/api/jobs/{now}/parts")).await.ok();
    let look = &view["look_first"][0];
    assert_eq!(
        (&look["complaint"], &look["earlier"]),
        (&json!("whines in third"), &json!(1))
    );
    assert_eq!(look["parts"][0]["name"], "Rear bearing, input shaft");
    assert_eq!(
        look["parts"][0]["why"][0],
        "on 1 of 1 earlier boxes with this: blued"
    );
    shop.post(&format!("/api/jobs/{now}/parts"), None, found)
        .await
        .ok();
    let report = shop.get(&format!("/api/jobs/{now}/report")).await.ok();
    let part = &report["look_first"][0]["parts"][0];
    assert_eq!(
        (&part["found"], &part["explains"]),
        (&json!("blued, was renewed"), &json!(true))
    );
}

#[tokio::test]
async fn what_can_be_complained_of_is_told_for_each_sheet() {
    let shop = Shop::open().await;
    let all = shop.get("/api/sheets/tolvane-t5/complaints").await.ok();
    let of = |symptom: &str| {
        let mut all = all.as_array().unwrap().iter();
        all.find(|c| c["symptom"] == symptom).unwrap()["gears"].clone()
    };
    assert_eq!(
        of("jumps_out"),
        json!(["first", "second", "third", "fourth", "fifth", "reverse"])
    );
    assert_eq!(of("leaks"), json!([]));
    shop.get("/api/sheets/none/complaints")
        .await
        .refused(404, "not-found");
}
