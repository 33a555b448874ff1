//! What automatics, motorcycles and transfer cases ask for beside a manual: pinions one by one, a selector's
//! shims, pieces of several families, spacers, retainers, bearings that stay together.

use crate::house::Shop;
use serde_json::{Value, json};

fn entry(way: &str, entry: &Value, unit: &str) -> Value {
    json!({"way": way, "entry": entry, "unit": unit, "who": "RT"})
}

fn pinion(pinion: u16, play: &str) -> Value {
    entry(
        "one_by_one",
        &json!({"kind": "pinion", "pinion": pinion, "play": play}),
        "mm",
    )
}

fn gaps(gear: u16, left: &str, right: &str) -> Value {
    entry(
        "selector_gaps",
        &json!({"kind": "gaps", "gear": gear, "left": left, "right": right}),
        "mm",
    )
}

async fn read(shop: &Shop, check: &str, readings: &[Value]) -> Value {
    let mut last = Value::Null;
    for reading in readings {
        let to = format!("{check}/readings");
        last = shop.post(&to, None, reading.clone()).await.ok();
    }
    last
}

#[tokio::test]
async fn pinions_are_measured_one_by_one_and_must_be_alike() {
    let shop = Shop::open().await;
    let check = format!("{}/pinions", shop.job_on("ormhal-a4").await);
    let plays = ["0.30", "0.30", "0.45"];
    let three: Vec<Value> = (1..).zip(plays).map(|(n, p)| pinion(n, p)).collect();
    let view = read(&shop, &check, &three).await;
    assert_eq!(
        view["no_estimate"],
        "every pinion is measured: still without a reading, 4"
    );
    let view = read(&shop, &check, &[pinion(4, "0.31")]).await;
    assert_eq!(
        view["verdict"]["call"], "loose",
        "pinion 3 is unlike the rest"
    );
    let found = &view["ways"][0]["detail"]["pinions"];
    assert_eq!(
        (&found["odd"], &found["alike"]),
        (&json!(3), &json!("loose"))
    );
    let signed = shop.act(&check, "sign", json!({"who": "RT"})).await;
    signed.refused(422, "bad-field");
    // Its washers replaced, it is measured again.
    let body = json!({"mark": "struck", "reason": "washers replaced", "who": "RT"});
    let marks = format!("{check}/readings/3/marks");
    shop.post(&marks, None, body).await.ok();
    let view = read(&shop, &check, &[pinion(3, "0.32")]).await;
    assert_eq!(view["verdict"]["call"], "in");
    shop.act(&check, "sign", json!({"who": "RT"})).await.ok();
}

#[tokio::test]
async fn a_pinion_or_gear_that_is_not_there_is_named() {
    let shop = Shop::open().await;
    let bus = shop.job_on("ormhal-a4").await;
    for (check, wrong, field) in [
        ("pinions", pinion(5, "0.30"), "pinion"),
        ("pinions", pinion(0, "0.30"), "pinion"),
        ("pinions", pinion(1, "0.3o"), "play"),
        ("train-play", gaps(1, "0.5", "0.5"), "gear"),
    ] {
        let to = format!("{bus}/{check}/readings");
        let answer = shop.post(&to, None, wrong).await;
        assert_eq!(answer.refused(422, "bad-field")["field"], field);
    }
    let wrong = json!({"left": "0.5", "right": "", "unit": "mm", "moved": false, "who": "RT"});
    let answer = shop.act(&format!("{bus}/pinions"), "shims", wrong).await;
    answer.refused(409, "no-selector");
}

#[tokio::test]
async fn a_selectors_shims_change_ends_and_the_float_stays() {
    let shop = Shop::open().await;
    let check = format!("{}/centring", shop.job_on("skelt-m5").await);
    let shims = |left: &str, right: &str, moved: bool| json!({"left": left, "right": right, "unit": "mm", "moved": moved, "who": "OB"});
    let lie = shims("0.50", "0.30; 0.15", false);
    let view = shop.act(&check, "shims", lie).await.ok();
    assert_eq!(
        view["selector"]["shims"]["right_nm"],
        json!([300_000, 150_000])
    );
    let early = shop
        .act(&check, "shims", shims("0.50 0.15", "0.30", true))
        .await;
    early.refused(409, "not-measured");
    let found = [("0.60", "0.98"), ("0.74", "1.02"), ("0.52", "0.88")];
    let taken: Vec<Value> = (1..).zip(found).map(|(g, (l, r))| gaps(g, l, r)).collect();
    let view = read(&shop, &check, &taken).await;
    // Third stands 0.18 off and weighs 2.
    assert_eq!(view["estimate"]["clearance_nm"], 360_000.0);
    assert_eq!(
        (&view["phase"], &view["verdict"]["call"]),
        (&json!("choose"), &json!("loose"))
    );
    let best = &view["ways"][0]["detail"]["centring"]["arrangements"][0];
    assert_eq!(best["left_nm"], json!([500_000, 150_000]));
    let lost = shop
        .act(&check, "shims", shims("0.50 0.15", "", true))
        .await;
    assert_eq!(lost.refused(422, "bad-field")["field"], "left");
    let thick = shop.act(&check, "shims", shims("0.5", "5000", false)).await;
    assert_eq!(thick.refused(422, "bad-field")["field"], "right");
    let view = shop
        .act(&check, "shims", shims("0.50 0.15", "0.30", true))
        .await
        .ok();
    assert_eq!(
        (&view["phase"], &view["round"]),
        (&json!("measure_again"), &json!(1))
    );
    assert_eq!(view["selector"]["shims"]["predicted_nm"], best["worst_nm"]);
    let after = [("0.75", "0.82"), ("0.88", "0.86"), ("0.67", "0.74")];
    let taken: Vec<Value> = (1..).zip(after).map(|(g, (l, r))| gaps(g, l, r)).collect();
    let view = read(&shop, &check, &taken).await;
    assert_eq!(
        (&view["phase"], &view["estimate"]["clearance_nm"]),
        (&json!("sign"), &json!(70_000.0))
    );
    // Others out of the drawer may take their place, as thick together; the gaps are then taken anew.
    let thicker = shims("0.50 0.20", "0.30", true);
    let refused = shop.act(&check, "shims", thicker).await;
    assert_eq!(refused.refused(422, "bad-field")["field"], "left");
    let view = shop
        .act(&check, "shims", shims("0.50 0.10", "0.20 0.15", true))
        .await
        .ok();
    assert_eq!(view["phase"], "measure_again");
    let taken: Vec<Value> = (1..).zip(after).map(|(g, (l, r))| gaps(g, l, r)).collect();
    read(&shop, &check, &taken).await;
    let view = shop.act(&check, "sign", json!({"who": "OB"})).await.ok();
    let said = view["history"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|h| h["what"] == "moved_shims")
        .count();
    assert_eq!(said, 2);
    let late = shop
        .act(&check, "shims", shims("0.30", "0.50; 0.15", true))
        .await;
    late.refused(409, "signed");
}

/// A forward pack with too much clearance: 0.44 over its target.
async fn loose_pack(shop: &Shop) -> (String, Value) {
    let check = format!("{}/forward-pack", shop.job_on("ormhal-a4").await);
    for (family, size) in [
        ("a4-forward-ring", "1.90 mm"),
        ("a4-forward-steel", "2.00 mm"),
        ("a4-forward-plate", "4.70 mm"),
    ] {
        shop.count(family, size, 4).await.ok();
    }
    let version = shop.get(&check).await.ok()["version"].clone();
    let fitted = json!({"typed": "1.70", "unit": "mm", "who": "RT"});
    let put = rocket::http::Method::Put;
    shop.send(put, &format!("{check}/fitted"), Some(&version), fitted)
        .await
        .ok();
    let view = shop.read(&check, &["1.84", "1.85", "1.84"]).await;
    (check, view)
}

#[tokio::test]
async fn ring_plate_and_steels_are_offered_together() {
    let shop = Shop::open().await;
    let (check, view) = loose_pack(&shop).await;
    let offered = view["offered"].as_array().unwrap();
    let named = |o: &Value| {
        (
            o["family_key"].as_str().unwrap().to_owned(),
            o["out_nm"].as_i64(),
        )
    };
    let on_hand: Vec<_> = offered
        .iter()
        .filter(|o| o["choice"]["source"] == "on_hand")
        .map(named)
        .collect();
    // Two steels of 2.00 for two of 1.80 come nearest to the target; then one more, then a ring or a plate.
    assert_eq!(on_hand[0], ("a4-forward-steel".to_owned(), Some(3_600_000)));
    assert!(on_hand.contains(&("a4-forward-ring".to_owned(), None)));
    assert!(on_hand.contains(&("a4-forward-plate".to_owned(), Some(4_500_000))));
    let steels = |count: u32, out: i64| {
        json!({
            "pieces": [{"thickness_nm": 2_000_000, "count": count}], "family_key": "a4-forward-steel", "out_nm": out, "who": "RT"
        })
    };
    // Six are not in.
    let many = shop.act(&check, "choose", steels(6, 10_800_000)).await;
    assert_eq!(many.refused(422, "bad-field")["field"], "out_nm");
    let half = json!({"pieces": [{"thickness_nm": 2_000_000, "count": 1}], "family_key": "a4-forward-steel", "who": "RT"});
    shop.act(&check, "choose", half)
        .await
        .refused(422, "bad-field");
    let view = shop.act(&check, "choose", steels(2, 3_600_000)).await.ok();
    assert_eq!(
        (&view["phase"], &view["setting"]["out_nm"]),
        (&json!("fit"), &json!(3_600_000))
    );
    assert_eq!(shop.stock("a4-forward-steel", 2_000_000).await, (4, 2));
    let view = shop.act(&check, "fit", json!({"who": "RT"})).await.ok();
    assert_eq!(shop.stock("a4-forward-steel", 2_000_000).await, (2, 0));
    assert_eq!(view["fitted_nm"], 1_700_000, "the ring is what it was");
    let view = shop.read(&check, &["1.44", "1.44", "1.45"]).await;
    assert_eq!(view["verdict"]["call"], "in");
    assert_eq!(view["off_prediction"]["reading"], "agrees");
    // Three of 1.80 are left: four cannot be swapped.
    let four = shop.act(&check, "choose", steels(4, 7_200_000)).await;
    four.refused(422, "bad-field");
}

#[tokio::test]
async fn what_another_family_has_set_aside_goes_back_by_itself() {
    let shop = Shop::open().await;
    let (check, _) = loose_pack(&shop).await;
    let plate = json!({"pieces": [{"thickness_nm": 4_700_000, "count": 1}], "family_key": "a4-forward-plate", "out_nm": 4_500_000, "who": "RT"});
    shop.act(&check, "choose", plate).await.ok();
    assert_eq!(shop.stock("a4-forward-plate", 4_700_000).await, (4, 1));
    let view = shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    assert_eq!(
        (
            shop.stock("a4-forward-plate", 4_700_000).await,
            &view["phase"]
        ),
        ((4, 0), &json!("choose"))
    );
}

#[tokio::test]
async fn what_was_ground_is_a_line_of_its_own_and_fitted_and_that_is_undone() {
    let shop = Shop::open().await;
    let check = format!("{}/inter-preload", shop.job_on("brannoch-r2").await);
    let version = shop.get(&check).await.ok()["version"].clone();
    let fitted = json!({"typed": "308", "unit": "thou", "who": "RT"});
    let put = rocket::http::Method::Put;
    shop.send(put, &format!("{check}/fitted"), Some(&version), fitted)
        .await
        .ok();
    let known = json!({"kind": "known_shim", "shim": "10", "float": "13"});
    read(
        &shop,
        &check,
        &[
            entry("known_shim", &known, "thou"),
            entry("known_shim", &known, "thou"),
        ],
    )
    .await;
    let ground = |measured: &str| json!({"measured": measured, "unit": "thou", "who": "RT"});
    for (measured, said) in [("308", "cannot come to"), ("3o2", "is not a unit")] {
        let refused = shop.act(&check, "ground", ground(measured)).await;
        let refused = refused.refused(422, "bad-field");
        assert_eq!(refused["field"], "measured");
        assert!(
            refused["title"].as_str().unwrap().contains(said),
            "{refused}"
        );
    }
    let nm = 302_800 * 254 / 10;
    let view = shop.act(&check, "ground", ground("302.8")).await.ok();
    assert_eq!(
        (&view["fitted_nm"], &view["phase"]),
        (&json!(nm), &json!("measure_again"))
    );
    assert_eq!(view["setting"]["pieces"][0]["grade"], "used");
    // It went through its drawer: in as a line of its own, and out of it again.
    let record = shop.get("/api/drawers/r2-spacer/moves").await.ok();
    let told: Vec<_> = record.as_array().unwrap().iter().take(2).collect();
    assert_eq!(
        (&told[0]["why"], &told[1]["why"]),
        (&json!("fitted"), &json!("miked"))
    );
    assert_eq!(
        (&told[1]["reason"], &told[1]["thickness_nm"]),
        (&json!("ground"), &json!(nm))
    );
    let view = shop
        .act(&check, "undo-fit", json!({"who": "RT"}))
        .await
        .ok();
    assert_eq!(
        (&view["fitted_nm"], &view["phase"]),
        (&json!(308 * 25_400), &json!("fit"))
    );
    // One out of the drawer leaves its own line.
    shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
    shop.count("r2-spacer", "306 thou", 2).await.ok();
    let one = json!({"marked_nm": 306 * 25_400, "measured": "303", "unit": "thou", "who": "RT"});
    let view = shop.act(&check, "ground", one).await.ok();
    assert_eq!(view["setting"]["pieces"][0]["grade"], "miked");
    assert_eq!(shop.stock("r2-spacer", 306 * 25_400).await.0, 1);
}

#[tokio::test]
async fn a_spacer_is_ground_and_bearings_stay_with_their_own() {
    let shop = Shop::open().await;
    let check = format!("{}/inter-preload", shop.job_on("brannoch-r2").await);
    shop.count("r2-spacer", "308 thou", 1).await.ok();
    let version = shop.get(&check).await.ok()["version"].clone();
    let fitted = json!({"typed": "308", "unit": "thou", "who": "RT"});
    let put = rocket::http::Method::Put;
    shop.send(put, &format!("{check}/fitted"), Some(&version), fitted)
        .await
        .ok();
    let float = |float: &str| {
        entry(
            "known_shim",
            &json!({"kind": "known_shim", "shim": "10", "float": float}),
            "thou",
        )
    };
    let view = read(&shop, &check, &[float("13"), float("13.5"), float("13")]).await;
    // 13.17 less 10 is 3.17 of float; a thicker spacer opens: 308 − (3.17 + 2.2) thou.
    let wanted = view["wanted"]["thickness_nm"].as_f64().unwrap() / 25_400.0;
    assert!(
        (wanted - (308.0 - 3.0 - 1.0 / 6.0 - 2.2)).abs() < 1e-6,
        "{wanted}"
    );
    let grind = &view["ways_out"]["grind"];
    assert_eq!(
        (&grind["fitted"], &grind["from_nm"]),
        (&json!(true), &json!(308 * 25_400))
    );
    assert!((grind["by_nm"].as_f64().unwrap() / 25_400.0 - 5.366_666_7).abs() < 1e-4);
    let ticks: Vec<&str> = view["ready"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| r["tick"].as_str().unwrap())
        .collect();
    assert!(
        ticks.contains(&"Front cone lies with its own: Front cup"),
        "{ticks:?}"
    );
    let tick = json!({"tick": "Rear cone lies with its own: Rear cup", "done": true, "who": "OB"});
    let view = shop.post(&format!("{check}/ticks"), None, tick).await.ok();
    assert_eq!(
        view["ready"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|r| r["by"] == "OB")
            .count(),
        1
    );
    // The turning torque is a second opinion beside the shim.
    let turned = entry(
        "turning_torque",
        &json!({"kind": "torque", "torque": "0.4"}),
        "mm",
    );
    let view = read(&shop, &check, &[turned]).await;
    assert_eq!(view["way"], "known_shim");
    assert_eq!(view["ways"][1]["torque"]["call"], "loose");
}

#[tokio::test]
async fn a_retainer_is_pinched_by_what_it_stands_off() {
    let shop = Shop::open().await;
    let check = format!("{}/retainer-pinch", shop.job_on("brannoch-r2").await);
    shop.count("r2-pinch-shim", "3 thou", 2).await.ok();
    let leaf = |leaves: &str, fit: &str| {
        entry(
            "feeler",
            &json!({"kind": "leaf", "leaves": leaves, "fit": fit}),
            "thou",
        )
    };
    // The plate stands 5 off and 2.3 of pinch is wanted: of what is there a shim of 3 comes nearest.
    let view = read(&shop, &check, &[leaf("5", "just")]).await;
    assert_eq!(view["estimate"]["clearance_nm"], -5.0 * 25_400.0);
    assert_eq!(view["verdict"]["call"], "tight");
    assert_eq!(view["choices"]["ranked"][0]["total_nm"], 3 * 25_400);
    // Leaves still to try are sought on the side where they settle it.
    let other = format!("{}/retainer-pinch", shop.job_on("brannoch-r2").await);
    let view = read(&shop, &other, &[leaf("2", "goes"), leaf("6", "refused")]).await;
    assert_eq!(view["next_leaf"]["kind"], "try");
    let next = view["next_leaf"]["size_nm"].as_i64().unwrap();
    assert!((2 * 25_400..=6 * 25_400).contains(&next), "{next}");
}
