//! A family of pieces has one truth: a sheet that says otherwise changes nothing until somebody says so.

use rocket::http::Method;
use serde_json::{Value, json};

use crate::house::{Answered, Shop, fresh_key};

const FAMILY: &str = "t5-input-shim";

async fn keep(shop: &Shop, sheet: &Value) {
    let body = json!({"text": sheet.to_string(), "who": "RT"});
    shop.post("/api/sheets", None, body).await.ok();
}

async fn sheet(shop: &Shop) -> Value {
    shop.get("/api/sheets/tolvane-t5/file").await.ok()
}

fn family(sheet: &mut Value) -> &mut Value {
    let mut families = sheet["families"].as_array_mut().unwrap().iter_mut();
    families.find(|f| f["key"] == FAMILY).unwrap()
}

async fn drawer(shop: &Shop) -> Value {
    let drawers = shop.get("/api/drawers").await.ok();
    let mut all = drawers.as_array().unwrap().iter();
    all.find(|d| d["key"] == FAMILY).unwrap().clone()
}

async fn conflicts(shop: &Shop) -> Vec<Value> {
    let found = shop.get("/api/drawers/conflicts").await.ok();
    found.as_array().unwrap().clone()
}

async fn follow(shop: &Shop, sheet_key: &str, revision: i32) -> Answered {
    let body = json!({"sheet_key": sheet_key, "revision": revision, "who": "RT"});
    let path = format!("/api/drawers/{FAMILY}/figures");
    shop.send(Method::Put, &path, None, body).await
}

/// The best choice of a measured input float, and the ± limits counted with.
async fn best(shop: &Shop, check: &str) -> (f64, Value) {
    let view = shop.get(check).await.ok();
    let best = &view["choices"]["ranked"][0];
    (best["chance"].as_f64().unwrap(), view["set_by"].clone())
}

#[tokio::test]
async fn a_drawer_follows_a_sheet_when_somebody_says_so() {
    let shop = Shop::open().await;
    let check = format!("{}/input-float", shop.job().await);
    shop.read(&check, &["0.20", "0.20", "0.20"]).await;
    shop.say_fitted(&check, "0.90").await;
    let (sure, set_by) = best(&shop, &check).await;
    assert_eq!(
        (set_by["tolerance_nm"].clone(), set_by["disputed"].clone()),
        (json!(5_000), json!(false))
    );
    assert_eq!(conflicts(&shop).await, [] as [Value; 0]);

    let mut changed = sheet(&shop).await;
    family(&mut changed)["tolerance"] = json!("0.04 mm");
    let sizes = family(&mut changed)["sizes"].as_array_mut().unwrap();
    sizes[0]["discontinued"] = json!(true);
    let gone_nm = (sizes[0]["thickness"]
        .as_str()
        .unwrap()
        .trim_end_matches(" mm")
        .parse::<f64>()
        .unwrap()
        * 1e6)
        .round();
    keep(&shop, &changed).await;
    // The drawer is as it was, and both are told; until they agree the wider counts.
    let found = conflicts(&shop).await;
    assert_eq!(found.len(), 1);
    assert_eq!(
        (&found[0]["sheet_key"], &found[0]["revision"]),
        (&json!("tolvane-t5"), &json!(2))
    );
    let conflict = &found[0]["conflict"];
    assert_eq!(
        conflict["tolerance"],
        json!({"sheet_nm": 40_000, "drawer_nm": 5_000})
    );
    assert_eq!(
        (
            conflict["gone"][0].as_f64(),
            conflict["made"].as_array().map(Vec::len)
        ),
        (Some(gone_nm), Some(0))
    );
    let concerned = found[0]["concerned"].as_array().unwrap();
    assert!(
        concerned.iter().any(|c| c["check_key"] == "input-float"),
        "{concerned:?}"
    );
    assert_eq!(drawer(&shop).await["tolerance_nm"], 5_000);

    follow(&shop, "tolvane-t5", 1)
        .await
        .refused(409, "sheet-changed");
    follow(&shop, "skelt-m5", 1).await.refused(404, "not-found");
    assert_eq!(follow(&shop, "tolvane-t5", 2).await.ok(), json!([]));
    let now = drawer(&shop).await;
    assert_eq!(now["tolerance_nm"], 40_000);
    assert_eq!(now["sizes"][0]["discontinued"], true);
    let figures = &now["figures"];
    assert_eq!(
        (
            &figures["revision"],
            &figures["sheet_revision"],
            &figures["who"]
        ),
        (&json!(2), &json!(2), &json!("RT"))
    );
    // The open check, on its older revision of the sheet, is as sure as the pieces are.
    let (less_sure, set_by) = best(&shop, &check).await;
    assert_eq!(set_by["tolerance_nm"], 40_000);
    assert!(less_sure < sure - 0.01, "{less_sure} after {sure}");
}

#[tokio::test]
async fn two_sheets_that_share_a_family_are_told_where_they_differ() {
    let shop = Shop::open().await;
    let mut other = sheet(&shop).await;
    other["key"] = json!("another-box");
    other["name"] = json!("Another box");
    family(&mut other)["tolerance"] = json!("0.012 mm");
    keep(&shop, &other).await;
    let found = conflicts(&shop).await;
    assert_eq!(found.len(), 1);
    assert_eq!(found[0]["sheet_name"], "Another box");
    // The drawer follows the second: now the first is the one that says otherwise.
    let left = follow(&shop, "another-box", 1).await.ok();
    assert_eq!(left[0]["sheet_key"], "tolvane-t5");
    assert_eq!(
        left[0]["conflict"]["tolerance"],
        json!({"sheet_nm": 5_000, "drawer_nm": 12_000})
    );
    // A job on the sheet that says less is counted with what the drawer says.
    let check = format!("{}/input-float", shop.job().await);
    assert_eq!(
        shop.get(&check).await.ok()["set_by"]["tolerance_nm"],
        12_000
    );
    assert_eq!(shop.get(&check).await.ok()["set_by"]["disputed"], true);
}

#[tokio::test]
async fn the_same_press_sent_twice_is_one_revision() {
    let shop = Shop::open().await;
    let mut changed = sheet(&shop).await;
    family(&mut changed)["tolerance"] = json!("0.007 mm");
    keep(&shop, &changed).await;
    let body = json!({"sheet_key": "tolvane-t5", "revision": 2, "who": "RT"});
    let (path, key) = (format!("/api/drawers/{FAMILY}/figures"), fresh_key());
    for _ in 0..2 {
        shop.send_with(Method::Put, &path, &key, None, body.clone())
            .await
            .ok();
    }
    assert_eq!(drawer(&shop).await["figures"]["revision"], 2);
}
