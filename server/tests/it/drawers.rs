//! Drawers over HTTP: every act a record, undone by another; pieces of their own; what comes from an
//! order goes to who waits for it.

use crate::house::Shop;
use serde_json::{Value, json};
use sqlx::PgPool;

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

#[sqlx::test]
async fn what_is_taken_scrapped_and_ordered_is_a_record_and_is_undone(pool: PgPool) {
    let shop = Shop::open(pool).await;
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

#[sqlx::test]
async fn a_piece_on_order_goes_to_the_check_that_waits_for_it(pool: PgPool) {
    let shop = Shop::open(pool).await;
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

#[sqlx::test]
async fn a_measured_piece_is_its_own_and_is_fitted_as_itself(pool: PgPool) {
    let shop = Shop::open(pool).await;
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

#[sqlx::test]
async fn a_file_says_what_it_would_change_before_it_does(pool: PgPool) {
    let shop = Shop::open(pool).await;
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
