//! A sheet's revisions: written over only what was seen, told apart, and a job moved between them.

use crate::house::{Answered, Shop};
use rocket::http::Method;
use serde_json::{Value, json};

async fn keep(shop: &Shop, sheet: &Value, over: i32) -> Answered {
    let body = json!({"text": sheet.to_string(), "who": "RT", "over": over});
    shop.post("/api/sheets", None, body).await
}

async fn file(shop: &Shop) -> Value {
    shop.get("/api/sheets/tolvane-t5/file").await.ok()
}

/// Where a job is, from where its checks are.
fn job_of(checks: &str) -> String {
    checks.trim_end_matches("/checks").to_owned()
}

async fn move_to(shop: &Shop, job: &str, revision: i32) -> Answered {
    let version = shop.get(job).await.ok()["version"].clone();
    let body = json!({"revision": revision, "who": "RT"});
    shop.send(
        Method::Put,
        &format!("{job}/revision"),
        Some(&version),
        body,
    )
    .await
}

#[tokio::test]
async fn a_sheet_is_written_over_only_what_was_seen() {
    let shop = Shop::open().await;
    let mut sheet = file(&shop).await;
    sheet["notes"] = json!("First");
    assert_eq!(keep(&shop, &sheet, 1).await.ok()["revision"], 2);
    sheet["notes"] = json!("Second");
    keep(&shop, &sheet, 1).await.refused(409, "sheet-changed");
    // The same text again is no change, whoever began from what.
    sheet["notes"] = json!("First");
    assert_eq!(keep(&shop, &sheet, 1).await.ok()["revision"], 2);
    let refused = keep(&shop, &file(&shop).await, 0).await;
    assert_eq!(refused.ok()["revision"], 2);
    sheet["notes"] = json!("As new");
    let refused = keep(&shop, &sheet, 0).await.refused(409, "sheet-changed");
    assert!(refused["title"].as_str().unwrap().contains("another key"));

    let revisions = shop.get("/api/sheets/tolvane-t5/revisions").await.ok();
    assert_eq!(revisions[0]["revision"], 2);
    assert_eq!(revisions[0]["who"], "RT");
    assert_eq!(revisions[1]["who"], Value::Null);
    let changes = shop
        .get("/api/sheets/tolvane-t5/changes?from=1&to=2")
        .await
        .ok();
    assert_eq!(changes.as_array().unwrap().len(), 1);
    assert_eq!(changes[0]["place"], "notes");
    assert_eq!(changes[0]["now"], "First");
    shop.get("/api/sheets/tolvane-t5/changes?from=1&to=9")
        .await
        .refused(404, "not-found");
    let first = shop
        .get("/api/sheets/tolvane-t5/file?revision=1")
        .await
        .ok();
    assert_ne!(first["notes"], "First");
}

#[tokio::test]
async fn a_draft_is_looked_through_and_nothing_is_kept() {
    let shop = Shop::open().await;
    let mut draft = file(&shop).await;
    draft["shafts"][0]["parts"][0]["width"] = json!("-3 mm");
    let look = shop.post("/api/sheets/look", None, draft).await.ok();
    assert_eq!(look["faults"].as_array().unwrap().len(), 1);
    assert_eq!(look["faults"][0]["place"], "/shafts/0/parts/0/width");
    assert_eq!(look["rail"]["shafts"][0]["blocks"][0]["unread"], true);
    let list = shop.get("/api/sheets").await.ok();
    assert_eq!(list[0]["revision"], 1);
}

#[tokio::test]
async fn a_job_is_moved_to_a_newer_revision_and_back() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let job = job_of(&checks);
    // One check signed on the old window, one signed whose rules stay.
    let signed = async |check: &str, reading: &str| {
        let check = format!("{checks}/{check}");
        shop.read(&check, &[reading, reading, reading]).await;
        shop.act(&check, "sign", json!({"reason": "Seen", "who": "RT"}))
            .await
            .ok();
    };
    signed("second-side", "0.22").await;
    let other = "diff-side";
    signed(other, "0.17").await;

    let mut sheet = file(&shop).await;
    let list = sheet["checks"].as_array_mut().unwrap();
    let of = |list: &[Value], key: &str| list.iter().position(|c| c["key"] == key).unwrap();
    let second = of(list, "second-side");
    list[second]["window"]["high"] = json!("0.20 mm");
    list[second]["how"] = json!("With the finger gauge");
    let other = of(list, other);
    list[other]["name"] = json!("Side gear clearance");
    let gone = list.pop().unwrap();
    let mut added = gone.clone();
    added["key"] = json!("new-float");
    added["name"] = json!("New float");
    list.insert(0, added);
    sheet["build"] = json!([]);
    assert_eq!(keep(&shop, &sheet, 1).await.ok()["revision"], 2);

    let asked = shop.get(&format!("{job}/revision?to=2")).await.ok();
    assert_eq!(asked["added"], json!(["New float"]));
    assert_eq!(asked["gone"], json!([gone["name"]]));
    assert_eq!(asked["reopened"], json!(["Second gear side clearance"]));
    assert_eq!(asked["hindered"], json!([]));
    shop.get(&format!("{job}/revision?to=7"))
        .await
        .refused(404, "not-found");

    let now = move_to(&shop, &job, 2).await.ok();
    assert_eq!(
        (&now["revision"], &now["signed_count"]),
        (&json!(2), &json!(1))
    );
    assert_eq!(now["checks"][0]["check_key"], "new-float");
    assert_eq!(now["check_count"], now["checks"].as_array().unwrap().len());
    let second = shop.get(&format!("{checks}/second-side")).await.ok();
    assert_eq!(second["window"]["high_nm"], 200_000);
    assert_eq!(second["phase"], "sign");
    assert_eq!(second["verdict"]["call"], "loose");
    let history = second.to_string();
    assert!(history.contains("The job moved from revision 1 to revision 2"));
    let note = &now["notes"][0];
    assert_eq!(note["said"], "Moved from revision 1 to revision 2");

    // A reading of the check that the old revision does not have keeps the job here.
    shop.read(&format!("{checks}/new-float"), &["0.2"]).await;
    let refused = move_to(&shop, &job, 1).await.refused(409, "cannot-move");
    assert!(refused["title"].as_str().unwrap().contains("New float"));
    let other_job = job_of(&shop.job().await);
    move_to(&shop, &other_job, 1).await.ok();
    let back = move_to(&shop, &other_job, 2).await.ok();
    assert_eq!(back["revision"], 2);
    // What was seen before somebody else changed it is not moved.
    let body = json!({"revision": 1, "who": "RT"});
    let stale = shop
        .send(
            Method::Put,
            &format!("{other_job}/revision"),
            Some(&json!(1)),
            body,
        )
        .await;
    stale.refused(412, "changed-meanwhile");
}

#[tokio::test]
async fn pieces_that_are_chosen_hold_a_job_on_its_revision() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let job = job_of(&checks);
    let check = format!("{checks}/main-float");
    let view = shop.read(&check, &["1.37", "1.37", "1.37"]).await;
    let pieces: Vec<Value> = view["choices"]["ranked"][0]["pieces"]
        .as_array()
        .unwrap()
        .iter()
        .map(|p| json!({"thickness_nm": p["thickness_nm"], "grade": p["grade"], "count": p["count"]}))
        .collect();
    shop.act(&check, "choose", json!({"pieces": pieces, "who": "RT"}))
        .await
        .ok();
    let mut sheet = file(&shop).await;
    let list = sheet["checks"].as_array_mut().unwrap();
    let main = list.iter_mut().find(|c| c["key"] == "main-float").unwrap();
    main["set_by"]["family"] = json!("t5-input-shim");
    keep(&shop, &sheet, 1).await.ok();
    let refused = move_to(&shop, &job, 2).await.refused(409, "cannot-move");
    assert!(refused["title"].as_str().unwrap().contains("Let them go"));
    shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    assert_eq!(move_to(&shop, &job, 2).await.ok()["revision"], 2);
}
