//! Clutch packs on a job: laid out, counted against the sheet, summed, and signed off.

use crate::house::Shop;
use serde_json::{Value, json};

/// A job on the automatic; the address of its checks.
async fn bus(shop: &Shop) -> String {
    shop.job_on("ormhal-a4").await
}

fn laid(plates: &[&str], springs: Option<u32>) -> Value {
    json!({"plates": plates, "soaked": true, "springs": springs, "who": "MEL"})
}

const FORWARD: [&str; 13] = [
    "wave_plate",
    "steel",
    "friction",
    "steel",
    "friction",
    "steel",
    "friction",
    "steel",
    "friction",
    "steel",
    "friction",
    "pressure_plate",
    "snap_ring",
];

#[tokio::test]
async fn a_pack_is_laid_out_and_what_is_wrong_stays_with_it() {
    let shop = Shop::open().await;
    let check = format!("{}/forward-pack", bus(&shop).await);
    let fresh = shop.get(&check).await.ok();
    assert_eq!(fresh["pack"]["laid"], Value::Null);
    assert_eq!(fresh["pack"]["drawn"]["clearance_nm"], 1_400_000);
    let short: Vec<&str> = FORWARD
        .iter()
        .copied()
        .filter(|p| *p != "wave_plate")
        .collect();
    let view = shop.act(&check, "pack", laid(&short, Some(23))).await.ok();
    let faults: Vec<&str> = view["pack"]["laid"]["faults"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["message"].as_str().unwrap())
        .collect();
    // The plates in their order, the counts after them.
    assert_eq!(faults[0], "the sheet has a wave plate here");
    assert!(
        faults[1].starts_with("0 wave plates are laid"),
        "{faults:?}"
    );
    assert!(faults[2].contains("the book fits"));

    for (body, field) in [
        (laid(&[], None), "plates"),
        (laid(&["gear"], None), "plates"),
        (laid(&FORWARD, Some(900)), "springs"),
    ] {
        let refused = shop
            .act(&check, "pack", body)
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
    // Measured in the window: not signed without a reason while the pack is not right.
    shop.read(&check, &["1.40", "1.41", "1.40"]).await;
    let bare = json!({"who": "RT"});
    let refused = shop.act(&check, "sign", bare.clone()).await;
    let problem = refused.refused(422, "bad-field");
    assert!(
        problem["title"]
            .as_str()
            .unwrap()
            .contains("lay it out again")
    );
    let right = shop
        .act(&check, "pack", laid(&FORWARD, Some(24)))
        .await
        .ok();
    assert_eq!(right["pack"]["laid"]["faults"], json!([]));
    assert_eq!(right["pack"]["laid"]["who"], "MEL");
    let signed = shop.act(&check, "sign", bare).await.ok();
    assert_eq!(signed["phase"], "signed");
    // Both layings-out are kept.
    let history = signed["history"].as_array().unwrap();
    assert_eq!(
        history.iter().filter(|h| h["what"] == "laid_out").count(),
        2
    );
    let other = shop.act(&check, "pack", laid(&FORWARD, None)).await;
    other.refused(409, "signed");
    // A check without a pack has none to lay out.
    let other = format!("{}/input-float", shop.job().await);
    shop.act(&other, "pack", laid(&FORWARD, None))
        .await
        .refused(409, "no-pack");
}

#[tokio::test]
async fn a_pack_is_summed_from_its_plates() {
    let shop = Shop::open().await;
    let check = format!("{}/direct-pack", bus(&shop).await);
    let view = shop.get(&check).await.ok();
    let what: Vec<&str> = view["terms"]
        .as_array()
        .unwrap()
        .iter()
        .map(|t| t["what"].as_str().unwrap())
        .collect();
    assert_eq!(
        what,
        [
            "Drum, to the groove",
            "apply plate",
            "4 steels, together",
            "4 frictions, together",
            "pressure plate",
            "snap ring"
        ]
    );
    assert!((view["estimate"]["clearance_nm"].as_f64().unwrap() - 1_100_000.0).abs() < 1.0);
    assert!(view["rule"].as_str().unwrap().contains("varies by maker"));
    // The bundle of frictions measured: its figure counts, and the rest stays as stated.
    let term = json!({"way": "stack_sum", "entry": {"kind": "term", "term": 4, "length": "6.30"}, "unit": "mm", "who": "RT"});
    let view = shop
        .post(&format!("{check}/readings"), None, term)
        .await
        .ok();
    assert!((view["estimate"]["clearance_nm"].as_f64().unwrap() - 1_200_000.0).abs() < 1.0);
}
