//! The plan of closings over HTTP: from where a job stands, and for a fresh box of a sheet.

use crate::house::Shop;
use serde_json::{Value, json};

#[tokio::test]
async fn a_plan_goes_on_from_where_the_job_stands() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let plan = format!("{}/plan", checks.trim_end_matches("/checks"));
    let names = |view: &Value| -> Vec<String> {
        let closings = view["plan"]["closings"].as_array().unwrap().iter();
        closings
            .map(|c| c["closing"].as_str().unwrap().to_owned())
            .collect()
    };
    let fresh = shop.get(&plan).await.ok();
    assert_eq!(
        names(&fresh),
        [
            "case, without gears",
            "case, without gears",
            "case, all shafts",
            "case, all shafts",
            "end cover off",
            "end cover off"
        ]
    );
    assert_eq!(
        (&fresh["plan"]["count"], &fresh["in_order"]["count"]),
        (&json!(6), &json!(6))
    );
    assert_eq!(fresh["says"], true);
    let of_sheet = shop.get("/api/sheets/tolvane-t5/plan").await.ok();
    assert_eq!(of_sheet["plan"], fresh["plan"]);

    // Measured, both checks of the first closing have only to be measured again.
    for (check, readings) in [
        ("diff-preload", ["1.59 mm", "1.60 mm"]),
        ("idler-thrust", ["0.70 mm", "0.70 mm"]),
    ] {
        for float in readings {
            let entry = if check == "diff-preload" {
                json!({"kind": "known_shim", "shim": "0.60 mm", "float": float})
            } else {
                json!({"kind": "travel", "travel": float})
            };
            let way = if check == "diff-preload" {
                "known_shim"
            } else {
                "dial_travel"
            };
            let body = json!({"way": way, "entry": entry, "unit": "mm", "who": "RT"});
            shop.post(&format!("{checks}/{check}/readings"), None, body)
                .await
                .ok();
        }
    }
    let begun = shop.get(&plan).await.ok();
    assert_eq!(names(&begun).len(), 5);
    let number = |key: &str| {
        let list = begun["checks"].as_array().unwrap();
        list.iter().position(|c| c["check_key"] == key).unwrap()
    };
    let first = begun["plan"]["closings"][0]["visits"].as_array().unwrap();
    assert!(first.iter().all(|v| v["last"] == true), "{first:?}");
    // The preload comes first in its closing.
    assert_eq!(first[0]["check"], json!(number("diff-preload")));

    // In the window as it is, a check waits only for its signature, and is in no closing more.
    shop.say_fitted(&format!("{checks}/input-float"), "1.10")
        .await;
    shop.read(&format!("{checks}/input-float"), &["0.09", "0.09"])
        .await;
    let later = shop.get(&plan).await.ok();
    assert_eq!(later["checks"][number("input-float")]["done"], true);
    shop.get("/api/jobs/9999/plan")
        .await
        .refused(404, "not-found");
    shop.get("/api/sheets/none/plan")
        .await
        .refused(404, "not-found");
}
