//! Drawers over HTTP: every act a record, undone by another; pieces of their own; what comes from an
//! order goes to who waits for it.

use crate::house::Shop;
use serde_json::{Value, json};

const SHIMS: &str = "t5-input-shim";

fn line(thickness_nm: i64, count: i64) -> Value {
    json!([{"family_key": SHIMS, "thickness_nm": thickness_nm, "count": count}])
}

async fn size(shop: &Shop, thickness_nm: i64, grade: &str) -> Value {
    let drawers = shop.get("/api/drawers").await.ok();
    let drawer = drawers
        .as_array()
        .unwrap()
        .iter()
        .find(|d| d["key"] == SHIMS);
    let sizes = drawer.unwrap()["sizes"].as_array().unwrap().clone();
    let of = |s: &Value| s["thickness_nm"] == thickness_nm && s["grade"] == grade;
    sizes.into_iter().find(of).unwrap_or(Value::Null)
}

async fn moves(shop: &Shop) -> Vec<Value> {
    let moves = shop.get(&format!("/api/drawers/{SHIMS}/moves")).await.ok();
    moves.as_array().unwrap().clone()
}

#[tokio::test]
async fn what_is_taken_scrapped_and_ordered_is_a_record_and_is_undone() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.20 mm", 5).await.ok();
    let act = async |act: &str, count: i64| {
        let body =
            json!({"act": act, "lines": line(1_200_000, count), "reason": "bent", "who": "RT"});
        shop.post("/api/drawers/acts", None, body).await
    };
    for (name, count, on_hand, on_order) in [
        ("take", 1, 4, 0),
        ("scrap", 1, 3, 0),
        ("return", 2, 5, 0),
        ("order", 4, 5, 4),
        ("cut_order", 1, 5, 3),
        ("come", 2, 7, 1),
    ] {
        act(name, count).await.ok();
        let now = size(&shop, 1_200_000, "marked").await;
        assert_eq!(
            (&now["on_hand"], &now["on_order"]),
            (&json!(on_hand), &json!(on_order)),
            "{name}"
        );
    }
    let record = moves(&shop).await;
    let whys: Vec<_> = record.iter().map(|m| m["why"].as_str().unwrap()).collect();
    let newest_first = [
        "came",
        "order_cut",
        "ordered",
        "returned",
        "scrapped",
        "taken",
    ];
    assert_eq!(whys[..6], newest_first);
    assert_eq!(record[5]["reason"], "bent");
    // Undone once, as a record of its own; not twice.
    let undo = json!({"act_key": record[0]["act_key"], "who": "MEL"});
    shop.post("/api/drawers/undo", None, undo.clone())
        .await
        .ok();
    let now = size(&shop, 1_200_000, "marked").await;
    assert_eq!((&now["on_hand"], &now["on_order"]), (&json!(5), &json!(3)));
    assert_eq!(moves(&shop).await[0]["why"], "undone");
    shop.post("/api/drawers/undo", None, undo)
        .await
        .refused(409, "undone");
    let nothing = json!({"act_key": "no such act at all", "who": "MEL"});
    assert_eq!(
        shop.post("/api/drawers/undo", None, nothing)
            .await
            .status
            .code,
        404
    );
    // Refused whole, with the field.
    for (name, count, status, kind) in [
        ("take", 6, 409, "not-free"),
        ("take", 0, 422, "bad-field"),
        ("take", -2, 422, "bad-field"),
        ("come", 4, 409, "not-on-order"),
    ] {
        act(name, count).await.refused(status, kind);
    }
    let unknown = json!({"act": "take", "lines": line(1_234_000, 1), "who": "RT"});
    assert_eq!(
        shop.post("/api/drawers/acts", None, unknown)
            .await
            .status
            .code,
        404
    );
    let twice = json!({"act": "take", "lines": [line(1_200_000, 1)[0], line(1_200_000, 1)[0]], "who": "RT"});
    shop.post("/api/drawers/acts", None, twice)
        .await
        .refused(422, "bad-field");
    assert_eq!(shop.stock(SHIMS, 1_200_000).await, (5, 0));
}

#[tokio::test]
async fn a_piece_on_order_goes_to_the_check_that_waits_for_it() {
    let shop = Shop::open().await;
    let check = measured(&shop).await;
    shop.count(SHIMS, "1.25 mm", 0).await.ok();
    let act = async |act: &str| {
        let body = json!({"act": act, "lines": line(1_250_000, 1), "who": "RT"});
        shop.post("/api/drawers/acts", None, body).await
    };
    act("order").await.ok();
    let offered = shop.get(&check).await.ok();
    let all = offered["choices"]["ranked"].as_array().unwrap();
    let ours = all.iter().find(|c| c["total_nm"] == 1_250_000).unwrap();
    assert_eq!(ours["source"], "on_order");
    let pieces = json!({"pieces": [{"thickness_nm": 1_250_000, "count": 1}], "who": "RT"});
    let waiting = shop.act(&check, "choose", pieces).await.ok();
    assert_eq!(waiting["phase"], "await_part");
    let held = size(&shop, 1_250_000, "marked").await;
    assert_eq!(held["held_by"][0]["awaited"], 1);
    assert_eq!(held["held_by"][0]["check_name"], "Input shaft end float");
    // Nothing is left to order: the one that is coming is the one that is waited for.
    let order = shop.get("/api/order").await.ok();
    let listed = |order: &Value| {
        let lines = order["lines"].as_array().unwrap();
        lines.iter().any(|l| l["thickness_nm"] == 1_250_000)
    };
    assert!(!listed(&order));
    act("cut_order").await.ok();
    assert!(listed(&shop.get("/api/order").await.ok()));
    act("order").await.ok();
    act("come").await.ok();
    assert_eq!(shop.get(&check).await.ok()["phase"], "fit");
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (1, 1));
    // What is set aside is not free to take, nor can its coming be undone.
    act("take").await.refused(409, "not-free");
    let came = moves(&shop).await[0]["act_key"].clone();
    let undo = json!({"act_key": came, "who": "RT"});
    shop.post("/api/drawers/undo", None, undo)
        .await
        .refused(409, "not-free");
}

/// A check measured with a 1.10 in it, that wants about 1.25.
async fn measured(shop: &Shop) -> String {
    let check = format!("{}/input-float", shop.job().await);
    shop.say_fitted(&check, "1.10").await;
    shop.read(&check, &["0.24", "0.24"]).await;
    check
}

#[tokio::test]
async fn a_measured_piece_is_its_own_and_is_fitted_as_itself() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 2).await.ok();
    let mike = async |body: Value| {
        let at = format!("/api/drawers/{SHIMS}/miked");
        shop.post(&at, None, body).await
    };
    let one = |measured: &str| json!({"marked_nm": 1_250_000, "measured": measured, "unit": "mm", "used": false, "who": "RT"});
    let slip = mike(one("12.53")).await.refused(422, "bad-field");
    assert_eq!(slip["field"], "measured");
    // It measures just what it is marked, and is its own all the same: it is known better.
    mike(one("1.250")).await.ok();
    let own = size(&shop, 1_250_000, "miked").await;
    assert_eq!(
        (&own["on_hand"], &own["nominal_nm"]),
        (&json!(1), &json!(1_250_000))
    );
    assert_eq!(size(&shop, 1_250_000, "marked").await["on_hand"], 1);
    let used = json!({"measured": "1.262", "unit": "mm", "used": true, "place": "A1", "who": "RT"});
    mike(used).await.ok();
    assert_eq!(size(&shop, 1_262_000, "used").await["place"], "A1");

    let check = measured(&shop).await;
    let of = |grade: &str| json!({"pieces": [{"thickness_nm": 1_250_000, "grade": grade, "count": 1}], "who": "RT"});
    let chosen = shop.act(&check, "choose", of("miked")).await.ok();
    assert_eq!(chosen["setting"]["pieces"][0]["grade"], "miked");
    let surer = chosen["setting"]["expanded_nm"].as_f64().unwrap();
    assert_eq!(size(&shop, 1_250_000, "miked").await["reserved"], 1);
    assert_eq!(size(&shop, 1_250_000, "marked").await["reserved"], 0);
    shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    let chosen = shop.act(&check, "choose", of("marked")).await.ok();
    assert!(surer < chosen["setting"]["expanded_nm"].as_f64().unwrap());
    shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    shop.act(&check, "choose", of("miked")).await.ok();
    shop.act(&check, "fit", json!({"who": "RT"})).await.ok();
    assert_eq!(size(&shop, 1_250_000, "miked").await["on_hand"], 0);
    // Gone, it cannot be had again: there is no other like it.
    shop.read(&check, &["0.24", "0.24"]).await;
    let again = shop.get(&check).await.ok();
    let all = again["choices"]["ranked"].as_array().unwrap();
    assert!(
        all.iter().all(|c| c["pieces"][0]["grade"] != "miked"),
        "{all:?}"
    );
}

#[tokio::test]
async fn a_file_says_what_it_would_change_before_it_does() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.20 mm", 5).await.ok();
    let text = "family,thickness,on_hand,place,status,grade,marked,on_order\n\
                t5-input-shim,1.20 mm,4,A1,current,marked,,2\n\
                t5-input-shim,1.213 mm,1,A1,current,miked,1.20 mm,\n";
    let look = async || {
        shop.post("/api/drawers/preview", None, json!({"text": text}))
            .await
    };
    let seen = look().await.ok();
    let changes = seen["changes"].as_array().unwrap();
    assert_eq!(changes.len(), 2);
    assert_eq!(changes[0]["was"]["on_hand"], 5);
    assert_eq!(
        (&changes[0]["is"]["on_hand"], &changes[0]["is"]["on_order"]),
        (&json!(4), &json!(2))
    );
    assert_eq!(
        (&changes[1]["was"], &changes[1]["grade"]),
        (&Value::Null, &json!("miked"))
    );
    assert_eq!(
        shop.stock(SHIMS, 1_200_000).await,
        (5, 0),
        "looking changes nothing"
    );
    shop.post(
        "/api/drawers/import",
        None,
        json!({"text": text, "who": "RT"}),
    )
    .await
    .ok();
    let after = look().await.ok();
    assert_eq!(
        (&after["changes"], &after["unchanged"]),
        (&json!([]), &json!(2))
    );
    let orderly = "family,thickness,on_hand,grade,on_order\nt5-input-shim,1.2 mm,1,used,3\n";
    let refused = shop
        .post("/api/drawers/preview", None, json!({"text": orderly}))
        .await;
    let faults = refused.refused(422, "faulty-file")["faults"].clone();
    assert_eq!(faults[0]["place"], "line 2, on_order");
    let strange = json!({"text": "family,thickness,on_hand\nnone,1 mm,3\n"});
    shop.post("/api/drawers/preview", None, strange)
        .await
        .refused(422, "bad-field");
}

#[tokio::test]
async fn a_drawer_is_counted_through_in_one_go_and_that_is_undone() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.20 mm", 5).await.ok();
    let first = size(&shop, 1_250_000, "marked").await["on_hand"].clone();
    shop.count(SHIMS, "1.25 mm", 2).await.ok();
    let lines = async |counts: &[(i64, i64)]| {
        let mut lines = Vec::new();
        for (thickness_nm, on_hand) in counts {
            let version = size(&shop, *thickness_nm, "marked").await["version"].clone();
            lines.push(
                json!({"thickness_nm": thickness_nm, "on_hand": on_hand, "version": version}),
            );
        }
        json!({"lines": lines, "who": "MEL"})
    };
    let path = format!("/api/drawers/{SHIMS}/counts");
    let on_hand = async |nm: i64| size(&shop, nm, "marked").await["on_hand"].clone();
    let before = on_hand(1_300_000).await;
    assert_ne!(before, json!(7));
    let body = lines(&[(1_200_000, 4), (1_250_000, 2), (1_300_000, 7)]).await;
    let stale = body.clone();
    shop.post(&path, None, body).await.ok();
    assert_eq!(
        (on_hand(1_200_000).await, on_hand(1_300_000).await),
        (json!(4), json!(7))
    );
    // What was counted as it was is no change; the others are one act.
    let record = moves(&shop).await;
    assert_eq!(
        (&record[0]["why"], &record[1]["why"]),
        (&json!("counted"), &json!("counted"))
    );
    assert_eq!(record[0]["act_key"], record[1]["act_key"]);
    assert_ne!(record[0]["act_key"], record[2]["act_key"]);
    // Somebody else has counted since: nothing of it is kept.
    shop.post(&path, None, stale)
        .await
        .refused(412, "changed-meanwhile");
    let mut unknown = lines(&[(1_200_000, 9)]).await;
    unknown["lines"][0]["thickness_nm"] = json!(1_234_000);
    unknown["lines"][0]["version"] = json!(0);
    shop.post(&path, None, unknown)
        .await
        .refused(404, "not-found");
    let below = lines(&[(1_250_000, 1), (1_200_000, -1)]).await;
    shop.post(&path, None, below)
        .await
        .refused(422, "bad-field");
    assert_eq!(on_hand(1_250_000).await, json!(2));
    let undo = json!({"act_key": record[0]["act_key"], "who": "RT"});
    shop.post("/api/drawers/undo", None, undo).await.ok();
    assert_eq!(
        (on_hand(1_200_000).await, on_hand(1_300_000).await),
        (json!(5), before)
    );
    // A single count is undone the same.
    let undo = json!({"act_key": record[2]["act_key"], "who": "RT"});
    shop.post("/api/drawers/undo", None, undo).await.ok();
    assert_eq!(on_hand(1_250_000).await, first);
}

#[tokio::test]
async fn a_drawer_is_opened_without_a_sheet_and_given_sizes() {
    let shop = Shop::open().await;
    let new = |name: &str, sizes: &str| {
        json!({"name": name, "kind": "shim", "tolerance": "0.004", "sizes": sizes, "unit": "mm",
            "place": "D4", "who": "RT"})
    };
    let sizes_of = |drawers: &Value, key: &str| -> Option<Vec<(i64, Value)>> {
        let drawer = drawers.as_array()?.iter().find(|d| d["key"] == key)?;
        let sizes = drawer["sizes"].as_array()?.iter();
        Some(
            sizes
                .map(|s| (s["thickness_nm"].as_i64().unwrap(), s["place"].clone()))
                .collect(),
        )
    };
    let drawers = shop
        .post(
            "/api/drawers",
            None,
            new("Bus shims", "0.62 to 0.70 by 0.04"),
        )
        .await
        .ok();
    let d4 = |nm: i64| (nm, json!("D4"));
    assert_eq!(
        sizes_of(&drawers, "bus-shims").unwrap(),
        [d4(620_000), d4(660_000), d4(700_000)]
    );
    let drawer = drawers
        .as_array()
        .unwrap()
        .iter()
        .find(|d| d["key"] == "bus-shims")
        .unwrap();
    assert_eq!(
        (&drawer["figures"]["sheet_key"], &drawer["figures"]["who"]),
        (&Value::Null, &json!("RT"))
    );
    assert_eq!(drawer["tolerance_nm"], 4_000);
    // Another of that name gets a key of its own.
    let again = shop
        .post("/api/drawers", None, new("Bus shims", "0.62"))
        .await
        .ok();
    assert_eq!(sizes_of(&again, "bus-shims-2").unwrap().len(), 1);
    for (body, field) in [
        (new("", "0.62"), "name"),
        (new("Van shims", "0.62 to 0.70"), "sizes"),
    ] {
        let refused = shop
            .post("/api/drawers", None, body)
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
    // Sizes that are there keep what they have.
    shop.count("bus-shims", "0.66 mm", 3).await.ok();
    let more = json!({"sizes": "0.66 to 0.82 by 0.08", "unit": "mm", "place": "D5", "who": "RT"});
    let drawers = shop
        .post("/api/drawers/bus-shims/sizes", None, more.clone())
        .await
        .ok();
    let found = sizes_of(&drawers, "bus-shims").unwrap();
    assert_eq!(
        found.iter().map(|s| s.0).collect::<Vec<_>>(),
        [620_000, 660_000, 700_000, 740_000, 820_000]
    );
    assert_eq!((&found[1].1, &found[4].1), (&json!(""), &json!("D5")));
    assert_eq!(shop.stock("bus-shims", 660_000).await.0, 3);
    // So many of each that is new; where all are there already, it is said.
    let two =
        json!({"sizes": "0.66; 0.90", "on_hand": 2, "unit": "mm", "place": "D5", "who": "RT"});
    shop.post("/api/drawers/bus-shims/sizes", None, two.clone())
        .await
        .ok();
    assert_eq!(shop.stock("bus-shims", 660_000).await.0, 3);
    assert_eq!(shop.stock("bus-shims", 900_000).await.0, 2);
    let again = shop
        .post("/api/drawers/bus-shims/sizes", None, two)
        .await
        .refused(422, "bad-field");
    assert!(
        again["title"].as_str().unwrap().contains("already"),
        "{again}"
    );
    let nowhere = shop
        .post("/api/drawers/no-such/sizes", None, more)
        .await
        .refused(422, "bad-field");
    assert_eq!(nowhere["field"], "family");
}
