//! Every way of measuring over HTTP: what is typed, what comes of it, which way counts, and the
//! gauge register.

use crate::house::base::{Base, Holds};
use crate::house::{Shop, demo, fresh_key, travel};
use rocket::http::Method;
use serde_json::{Value, json};

/// A reading of some way, as a screen sends it.
#[allow(clippy::needless_pass_by_value)] // made where it is handed over
fn reading(way: &str, entry: Value) -> Value {
    json!({"way": way, "entry": entry, "unit": "mm", "who": "RT"})
}

async fn take(shop: &Shop, check: &str, way: &str, entries: &[Value]) -> Value {
    let mut last = Value::Null;
    for entry in entries {
        let body = reading(way, entry.clone());
        last = shop
            .post(&format!("{check}/readings"), None, body)
            .await
            .ok();
    }
    last
}

fn way<'v>(gap: &'v Value, name: &str) -> &'v Value {
    gap["ways"]
        .as_array()
        .unwrap()
        .iter()
        .find(|w| w["way"] == name)
        .unwrap_or_else(|| panic!("no {name} in {gap}"))
}

fn leaf(leaves: &str, fit: &str) -> Value {
    json!({"kind": "leaf", "leaves": leaves, "fit": fit})
}

#[tokio::test]
async fn two_ways_lie_side_by_side_and_one_counts() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let dial = shop.read(&check, &["0.20", "0.21", "0.20"]).await;
    assert_eq!(dial["way"], "dial_travel");
    let both = take(
        &shop,
        &check,
        "feeler",
        &[leaf("0.15", "goes"), leaf("0.20 + 0.05", "refused")],
    )
    .await;
    assert_eq!(both["way"], "dial_travel", "the sheet's way counts");
    let feeler = way(&both, "feeler");
    assert_eq!(feeler["estimate"]["clearance_nm"], 200_000.0);
    assert_eq!(feeler["verdict"]["call"], "in");
    assert_eq!(both["next_leaf"]["kind"], "settled");
    assert_eq!(
        dial["next_leaf"]["kind"], "try",
        "the first leaf is named too"
    );
    assert_eq!(feeler["against"]["agree"], true);
    let seen = both["version"].clone();
    let counted = shop
        .send(
            Method::Put,
            &format!("{check}/way"),
            Some(&seen),
            json!({"way": "feeler", "who": "RT"}),
        )
        .await
        .ok();
    assert_eq!(counted["way"], "feeler");
    assert_eq!(counted["estimate"]["bracket"]["from_nm"], 150_000.0);
    shop.send(
        Method::Put,
        &format!("{check}/way"),
        Some(&counted["version"]),
        json!({"way": "known_shim", "who": "RT"}),
    )
    .await
    .refused(422, "bad-field");
}

#[tokio::test]
async fn an_estimate_by_hand_is_kept_and_signs_nothing() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let felt = take(
        &shop,
        &check,
        "by_hand",
        &[json!({"kind": "by_hand", "from": "8 thou", "to": "9 thou"})],
    )
    .await;
    assert_eq!(
        (felt["phase"].as_str(), felt["estimate"]["signs"].as_bool()),
        (Some("measure"), Some(false))
    );
    shop.act(
        &check,
        "sign",
        json!({"who": "RT", "reason": "feels right"}),
    )
    .await
    .refused(409, "by-hand");
    let measured = shop.read(&check, &["0.21", "0.21"]).await;
    assert_eq!(
        measured["way"], "dial_travel",
        "a gauge counts before fingers"
    );
}

#[tokio::test]
async fn known_shims_that_contradict_each_other_give_no_figure() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/diff-preload";
    let float =
        |shim: &str, float: &str| json!({"kind": "known_shim", "shim": shim, "float": float});
    let crossed = take(
        &shop,
        &check,
        "known_shim",
        &[
            float("0.60", "1.59"),
            float("0.60", "1.59"),
            float("0.80", "1.50"),
        ],
    )
    .await;
    assert!(crossed["estimate"].is_null() && crossed["verdict"].is_null());
    assert_eq!(crossed["phase"], "measure");
    let why = crossed["no_estimate"].as_str().unwrap();
    assert!(why.contains("contradict") && why.contains("burr"), "{why}");
    let detail = &way(&crossed, "known_shim")["detail"];
    assert_eq!(
        detail["set_ups"].as_array().unwrap().len(),
        2,
        "both are kept"
    );
    shop.post(
        &format!("{check}/readings/3/marks"),
        None,
        json!({"mark": "struck", "reason": "burr on the shim", "who": "RT"}),
    )
    .await
    .ok();
    let settled = take(&shop, &check, "known_shim", &[float("0.80", "1.79")]).await;
    let c = settled["estimate"]["clearance_nm"].as_f64().unwrap();
    assert!((c - 990_000.0).abs() < 1.0, "{c}");
    assert_eq!(settled["phase"], "choose");
}

#[tokio::test]
async fn depths_round_a_circle_find_their_tilt() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/input-float";
    let depth = |place: usize, depth: f64| json!({"kind": "depth", "place": place, "of": 6, "depth": format!("{depth:.3}"), "bar": "10"});
    let tilted: Vec<Value> = [10.20, 10.29, 10.29, 10.20, 10.11, 10.11]
        .iter()
        .enumerate()
        .map(|(i, d)| depth(i + 1, *d))
        .collect();
    let gap = take(&shop, &check, "depth_from_bar", &tilted).await;
    let ring = way(&gap, "depth_from_bar");
    let mean = ring["estimate"]["clearance_nm"].as_f64().unwrap();
    assert!((mean - 200_000.0).abs() < 1.0, "{mean}");
    assert_eq!(ring["tilt_called"], true, "0.2 of tilt in a window of 0.1");
    assert_eq!(ring["gauges"][0], "Depth micrometer");
    let bad = reading("depth_from_bar", depth(7, 10.2));
    let refused = shop
        .post(&format!("{check}/readings"), None, bad)
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "place");
}

#[tokio::test]
async fn a_stack_sum_takes_what_is_measured() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/fifth-thrust";
    let term = |term: u16| json!({"kind": "term", "term": term, "length": "7.95"});
    let gap = take(&shop, &check, "stack_sum", &[term(2)]).await;
    let sum = &way(&gap, "stack_sum")["detail"]["sum"];
    assert_eq!(sum["terms"][1]["measured"], true);
    let c = gap["estimate"]["clearance_nm"].as_f64().unwrap();
    assert!((c - 200_000.0).abs() < 1.0, "{c}");
    let refused = shop
        .post(
            &format!("{check}/readings"),
            None,
            reading("stack_sum", term(9)),
        )
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "term");
}

#[tokio::test]
async fn with_no_shim_the_formula_starts_from_nothing() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/input-float";
    let entry = json!({"kind": "travel", "travel": "1.35"});
    let gap = take(&shop, &check, "no_shim", &[entry.clone(), entry.clone()]).await;
    // Aim 0.09: wants 1.26, though what was found in the box is not known.
    let wanted = gap["wanted"]["thickness_nm"].as_f64().unwrap();
    assert!((wanted - 1_260_000.0).abs() < 1.0, "{wanted}");
    let chosen = json!({"pieces": [{"thickness_nm": 1_250_000, "count": 1}], "who": "RT"});
    let chosen = shop.act(&check, "choose", chosen).await.ok();
    let predicted = chosen["setting"]["predicted_nm"].as_f64().unwrap();
    assert!((predicted - 100_000.0).abs() < 1.0, "{predicted}");
    shop.act(&check, "fit", json!({"who": "RT"})).await.ok();
    let refused = shop
        .post(
            &format!("{check}/readings"),
            None,
            reading("no_shim", entry),
        )
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "way");
    // A side clearance that no shim sets has none to leave out.
    let side = shop.job().await + "/second-side";
    let entry = json!({"kind": "travel", "travel": "0.2"});
    shop.post(&format!("{side}/readings"), None, reading("no_shim", entry))
        .await
        .refused(422, "bad-field");
}

#[tokio::test]
async fn a_turning_torque_is_a_second_opinion_or_a_check_of_its_own() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/diff-preload";
    let torque = |text: &str| json!({"kind": "torque", "torque": text});
    let gap = take(
        &shop,
        &check,
        "turning_torque",
        &[torque("1.6"), torque("15 lbf·in")],
    )
    .await;
    assert!(gap["way"].is_null(), "a preload is not signed on a torque");
    assert_eq!(way(&gap, "turning_torque")["torque"]["call"], "in");
    let other = shop.job().await + "/second-side";
    let refused = shop
        .post(
            &format!("{other}/readings"),
            None,
            reading("turning_torque", torque("1")),
        )
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "way");

    let mut sheet: Value = serde_json::from_str(
        &std::fs::read_to_string(demo().join("sheets/tolvane-t5.json")).unwrap(),
    )
    .unwrap();
    sheet["key"] = "drag-only".into();
    sheet["build"] = json!([]);
    sheet["checks"] = json!([{"key": "drag", "name": "Main shaft drag", "kind": "turning_torque",
        "method": "turning_torque", "torque": {"low_n_m": 0.5, "high_n_m": 1.2}}]);
    shop.post(
        "/api/sheets",
        None,
        json!({"text": sheet.to_string(), "who": "RT"}),
    )
    .await
    .ok();
    let card = json!({"sheet_key": "drag-only", "title": "Drag", "customer": "Quay", "who": "RT"});
    let job = shop.post("/api/jobs", None, card).await.ok()["job_no"].clone();
    let drag = format!("/api/jobs/{job}/checks/drag");
    let pull = json!({"kind": "pull", "force": "1 kgf", "radius": "80"});
    let mut body = reading("turning_torque", pull);
    body["gauge_key"] = "scale-1".into();
    let once = shop
        .post(&format!("{drag}/readings"), None, body.clone())
        .await
        .ok();
    assert!(
        once["torque"].is_null(),
        "one pull says nothing of its scatter"
    );
    let twice = shop
        .post(&format!("{drag}/readings"), None, body)
        .await
        .ok();
    assert_eq!(
        (twice["way"].as_str(), twice["phase"].as_str()),
        (Some("turning_torque"), Some("sign"))
    );
    let signed = shop.act(&drag, "sign", json!({"who": "RT"})).await.ok();
    let n_m = signed["signed"]["achieved_n_m"].as_f64().unwrap();
    assert!((n_m - 9.806_65 * 0.08).abs() < 1e-9, "{n_m}");
    let a_box = shop.get(&format!("/api/jobs/{job}")).await.ok();
    assert_eq!(a_box["next_phase"], "hand_over");
    assert!(a_box["checks"][0]["shown_n_m"].as_f64().is_some());
    shop.get(&format!("/api/jobs/{job}/report")).await.ok();
}

#[tokio::test]
async fn what_was_seen_to_is_kept_with_the_round() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let gap = shop.get(&check).await.ok();
    let tick = gap["ready"][0]["tick"].clone();
    assert!(gap["ready"][0]["by"].is_null());
    let say = |done: bool| json!({"tick": tick, "done": done, "who": "OB"});
    let ticked = shop
        .post(&format!("{check}/ticks"), Some(&gap["version"]), say(true))
        .await
        .ok();
    assert_eq!(ticked["ready"][0]["by"], "OB");
    let back = shop
        .post(&format!("{check}/ticks"), Some(&gap["version"]), say(false))
        .await
        .ok();
    assert!(back["ready"][0]["by"].is_null());
    let happened: Vec<&Value> = back["history"]
        .as_array()
        .unwrap()
        .iter()
        .map(|h| &h["what"])
        .collect();
    assert_eq!(happened, ["ticked", "unticked"]);
    let strange = json!({"tick": "something else", "done": true, "who": "OB"});
    shop.post(&format!("{check}/ticks"), None, strange)
        .await
        .refused(422, "bad-field");
}

/// The shop's own scatter stands once there is enough of it, and a reopened check takes its off.
#[tokio::test]
async fn signed_checks_pool_their_scatter() {
    let shop = Shop::open().await;
    let from = |gap: &Value| way(gap, "dial_travel")["scatter_from"].clone();
    let mut signed = Vec::new();
    for number in 0..6 {
        let check = shop.job().await + "/second-side";
        let read = shop.read(&check, &["0.20", "0.21", "0.22"]).await;
        // Ten degrees of freedom are enough: five checks of three readings.
        let known = if number < 5 { "register" } else { "history" };
        assert_eq!(from(&read)["kind"], known, "{number}");
        shop.act(&check, "sign", json!({"who": "RT"})).await.ok();
        signed.push(check);
    }
    let check = shop.job().await + "/second-side";
    let read = shop.read(&check, &["0.20"]).await;
    assert_eq!(
        from(&read),
        json!({"kind": "history", "s_nm": 10_000.0, "dof": 12.0})
    );
    let reopen = json!({"who": "RT", "reason": "a second look"});
    shop.act(&signed[5], "reopen", reopen.clone()).await.ok();
    assert_eq!(from(&shop.get(&check).await.ok())["dof"], 10.0);
    shop.act(&signed[4], "reopen", reopen).await.ok();
    assert_eq!(from(&shop.get(&check).await.ok())["kind"], "register");
}

async fn put(shop: &Shop, card: Value, seen: Option<i64>) -> crate::house::Answered {
    let body = json!({"card": card, "seen": seen, "who": "RT"});
    shop.send_with(Method::Put, "/api/gauges", &fresh_key(), None, body)
        .await
}

/// A gauge that turns out to be worse makes a verdict too close to call, in the list of the box as in the check.
#[tokio::test]
async fn what_rests_on_a_gauge_follows_it() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let check = format!("{checks}/second-side");
    let job = checks.strip_suffix("/checks").unwrap();
    let read = shop.read(&check, &["0.135", "0.135", "0.135"]).await;
    assert_eq!(read["verdict"]["call"], "in");
    let listed = async || {
        let view = shop.get(job).await.ok();
        let list = view["checks"].as_array().unwrap().clone();
        let of = list.into_iter().find(|c| c["check_key"] == "second-side");
        of.map(|c| (c["call"].clone(), c["phase"].clone())).unwrap()
    };
    assert_eq!(listed().await.0, "in");
    let gauges = shop.get("/api/gauges").await.ok();
    let dial = gauges
        .as_array()
        .unwrap()
        .iter()
        .find(|g| g["kind"] == "dial" && g["usual"] == true);
    let dial = dial.unwrap();
    let card = json!({"key": dial["gauge_key"], "name": dial["name"], "resolution": "0.01",
        "permissible_error": "0.05", "unit": "mm", "kind": "dial", "usual": true});
    put(&shop, card, dial["version"].as_i64()).await.ok();
    let now = shop.get(&check).await.ok();
    assert_eq!(now["verdict"]["call"], "too_close");
    assert_eq!(listed().await, (json!("too_close"), now["phase"].clone()));
}

#[tokio::test]
async fn the_register_takes_cards_and_names_what_is_wrong_on_them() {
    let shop = Shop::open().await;
    let card = |change: Value| {
        let mut card = json!({"key": "new-1", "name": "New dial", "resolution": "0.002",
            "permissible_error": "0.004", "unit": "mm"});
        card.as_object_mut()
            .unwrap()
            .extend(change.as_object().unwrap().clone());
        card
    };
    for (change, field) in [
        (json!({"name": " "}), "name"),
        (json!({"key": "New 1"}), "key"),
        (json!({"resolution": "0"}), "resolution"),
        (json!({"resolution": "fine"}), "resolution"),
        (json!({"permissible_error": "-0.01"}), "permissible_error"),
        (json!({"repeatability": "0"}), "repeatability"),
        (json!({"kind": "feeler", "leaves": ""}), "leaves"),
        (json!({"kind": "feeler", "leaves": "0.10, 0.1"}), "leaves"),
        (
            json!({"kind": "spring_scale", "resolution": "-1"}),
            "resolution",
        ),
        (
            json!({"checked_on": "2026-05-01", "due_on": "2026-04-01"}),
            "due_on",
        ),
        (json!({"live_at": "10.0.0.1:7420"}), "live_at"),
        (json!({"live_at": "127.0.0.1:0"}), "live_at"),
    ] {
        let refused = put(&shop, card(change.clone()), None)
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field, "{change}");
    }
    let with = put(&shop, card(json!({"due_on": "2020-01-01"})), None)
        .await
        .ok();
    let of = |list: &Value| -> Value {
        let list = list.as_array().unwrap();
        list.iter()
            .find(|g| g["gauge_key"] == "new-1")
            .unwrap()
            .clone()
    };
    assert_eq!(of(&with)["overdue"], true);
    // The same key again is no new gauge; a stale version changes nothing.
    put(&shop, card(json!({})), None)
        .await
        .refused(422, "bad-field");
    let changed = put(&shop, card(json!({"usual": true})), Some(1)).await.ok();
    assert_eq!(of(&changed)["version"], 2);
    let usual = |list: &Value| {
        let list = list.as_array().unwrap();
        list.iter()
            .filter(|g| g["kind"] == "dial" && g["usual"] == true)
            .count()
    };
    assert_eq!(usual(&changed), 1, "one of a kind is taken up first");
    put(&shop, card(json!({})), Some(1))
        .await
        .refused(412, "changed-meanwhile");

    let check = shop.job().await + "/second-side";
    let read = shop.read(&check, &["0.20", "0.21"]).await;
    assert_eq!(way(&read, "dial_travel")["gauges"], json!(["New dial"]));
    put(&shop, card(json!({"retired": true})), Some(2))
        .await
        .ok();
    let mut body = travel("0.2", "RT");
    body["gauge_key"] = "new-1".into();
    let refused = shop
        .post(&format!("{check}/readings"), None, body)
        .await
        .refused(422, "bad-field");
    assert_eq!(refused["field"], "gauge_key");
    let mut body = travel("0.2", "RT");
    body["gauge_key"] = "leaves-1".into();
    shop.post(&format!("{check}/readings"), None, body)
        .await
        .refused(422, "bad-field");
    // Two gauges in one mean: no better than the worse of them.
    let both = shop.read(&check, &["0.21"]).await;
    assert_eq!(
        way(&both, "dial_travel")["figures"]["resolution_nm"],
        10_000
    );
}

#[tokio::test]
async fn a_reading_of_another_way_or_with_nothing_in_it_is_refused_by_its_field() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    for (body, field) in [
        (
            reading("feeler", json!({"kind": "travel", "travel": "0.2"})),
            "way",
        ),
        (reading("feeler", leaf("", "goes")), "leaves"),
        (
            reading(
                "dial_travel",
                json!({"kind": "pair", "home": "1.2", "out": "1.0"}),
            ),
            "out",
        ),
        (
            reading(
                "by_hand",
                json!({"kind": "by_hand", "from": "9", "to": "8"}),
            ),
            "to",
        ),
    ] {
        let refused = shop
            .post(&format!("{check}/readings"), None, body)
            .await
            .refused(422, "bad-field");
        assert_eq!(refused["field"], field);
    }
    let none = shop.get(&check).await.ok();
    assert_eq!(none["readings"], json!([]));
    let still = take(
        &shop,
        &check,
        "dial_travel",
        &[
            json!({"kind": "travel", "travel": "0"}),
            json!({"kind": "travel", "travel": "0"}),
        ],
    )
    .await;
    assert!(
        still["no_estimate"]
            .as_str()
            .unwrap()
            .contains("nothing moves at all")
    );
    // Float was wanted, and there is none: tight, with no figure to say by how much.
    assert_eq!(still["verdict"]["call"], "tight");
    assert_eq!(still["verdict"]["bound"]["limit_nm"], 0.0);
}

#[tokio::test]
async fn the_calculators_take_every_way() {
    let shop = Shop::open().await;
    let ask =
        async |path: &str, body: Value| shop.post(&format!("/api/calc/{path}"), None, body).await;
    let gauge = json!({"resolution_nm": 2_540, "permissible_error_nm": 0});
    let float = json!({"kind": "known_shim", "shim": "3 thou", "float": "1 thou"});
    let shims =
        json!({"way": "known_shim", "unit": "mm", "gauge": gauge, "entries": [float, float]});
    let found = ask("measure", shims).await.ok();
    assert_eq!(found["estimate"]["clearance_nm"], -50_800.0);
    let tried = json!({"entries": [leaf("0.10", "goes")], "unit": "mm",
        "leaves_nm": [50_000, 100_000, 150_000, 200_000], "window": {"low_nm": 120_000, "high_nm": 200_000}});
    let next = ask("next-leaf", tried).await.ok();
    assert_eq!(next["kind"], "try");
    let turned = json!({"entries": [{"kind": "torque", "torque": "1.5"}, {"kind": "torque", "torque": "1.6"}],
        "unit": "mm", "gauge": {"resolution_n_m": 0.05, "permissible_error_n_m": 0.0, "repeatability_n_m": 0.03},
        "window": {"low_n_m": 1.0, "high_n_m": null}});
    assert_eq!(ask("turning-torque", turned).await.ok()["call"], "in");
    let bad = json!({"way": "feeler", "unit": "mm", "gauge": gauge, "entries": [leaf("0.1", "goes"), leaf("ten", "goes")]});
    let refused = ask("measure", bad).await.refused(422, "bad-field");
    assert_eq!(refused["field"], "entries/1/leaves");
}

/// What no screen asks and a program may: each is refused at its field.
#[tokio::test]
async fn figures_that_cannot_be_are_refused_at_their_field() {
    let shop = Shop::open().await;
    let ask =
        async |path: &str, body: Value| shop.post(&format!("/api/calc/{path}"), None, body).await;
    let estimate = json!({"clearance_nm": 1.0, "u_nm": 1.0, "dof": null, "readings": 3, "spread_nm": 1.0,
        "parts": [{"from": "scatter", "u_nm": 1.0, "dof": 2.0}], "signs": true, "working": [],
        "bracket": {"from_nm": 1.0, "to_nm": 2.0}});
    let window = json!({"low_nm": 0, "high_nm": 5});
    let judge = json!({"estimate": estimate, "window": window});
    let wanted = json!({"clearance_nm": 9.0, "aim": {"from_nm": 1.0, "to_nm": 2.0}, "fitted_nm": 0, "effect": "closes"});
    let line = |nm: i64| json!({"thickness_nm": nm, "grade": "marked", "u_nm": 0.0, "quantity": 8, "source": "on_hand"});
    let choose = json!({"clearance_nm": 9.0, "u_nm": 1.0, "fitted_nm": 0, "effect": "closes", "window": window,
        "aim": {"from_nm": 1.0, "to_nm": 2.0}, "floor": 0.95, "most_pieces": 8, "stock": [line(5)]});
    let torque = json!({"kind": "torque", "torque": "1.5"});
    let turning = json!({"entries": [torque, torque], "unit": "mm",
        "gauge": {"resolution_n_m": 0.05, "permissible_error_n_m": 0.0, "repeatability_n_m": 0.03},
        "window": {"low_n_m": 1.0, "high_n_m": 2.0}});
    let reversed = json!({"from_nm": 2.0, "to_nm": 1.0});
    let cases = [
        (
            "judge",
            &judge,
            "/estimate/bracket/from_nm",
            json!(3.0),
            "estimate/bracket",
        ),
        (
            "judge",
            &judge,
            "/estimate/u_nm",
            json!(-1.0),
            "estimate/u_nm",
        ),
        ("judge", &judge, "/estimate/dof", json!(0.0), "estimate/dof"),
        (
            "judge",
            &judge,
            "/estimate/parts/0/dof",
            json!(0.0),
            "estimate/dof",
        ),
        ("judge", &judge, "/window/low_nm", json!(9), "window"),
        ("wanted", &wanted, "/aim", reversed.clone(), "aim"),
        ("wanted", &wanted, "/fitted_nm", json!(-1), "fitted_nm"),
        ("choose", &choose, "/aim", reversed, "aim"),
        ("choose", &choose, "/fitted_nm", json!(-1), "fitted_nm"),
        (
            "choose",
            &choose,
            "/fitted_nm",
            json!(i64::MAX),
            "fitted_nm",
        ),
        ("choose", &choose, "/stock/0", line(i64::MAX / 2), "stock"),
        (
            "turning-torque",
            &turning,
            "/window/low_n_m",
            json!(3.0),
            "window",
        ),
        (
            "turning-torque",
            &turning,
            "/gauge/resolution_n_m",
            json!(-0.1),
            "gauge",
        ),
        (
            "turning-torque",
            &turning,
            "/gauge/permissible_error_n_m",
            json!(-0.1),
            "gauge",
        ),
        (
            "turning-torque",
            &turning,
            "/gauge/repeatability_n_m",
            json!(0.0),
            "gauge",
        ),
    ];
    for (path, right, pointer, wrong, field) in cases {
        ask(path, right.clone()).await.ok();
        let mut asked = right.clone();
        *asked.pointer_mut(pointer).unwrap() = wrong;
        let refused = ask(path, asked).await.refused(422, "bad-field");
        assert_eq!(refused["field"], field, "{path} {pointer}");
    }
    let mut no_freedom = choose;
    no_freedom["dof"] = json!(0.0);
    let refused = ask("choose", no_freedom).await.refused(422, "bad-field");
    assert_eq!(refused["field"], "dof");
}

/// A bench of before: readings were travels and nothing else, and the dial had no kind. All of it is
/// there after the schema has moved on.
#[tokio::test]
async fn readings_of_before_are_kept() {
    let base = Base::of(Holds::Nothing).await;
    let pool = base.pool.clone();
    let first = include_str!("../../database/migrations/0001_house.sql");
    sqlx::raw_sql(first).execute(&pool).await.unwrap();
    let before = "
        insert into shop values (1, 'Quay', '', 'mm', 0.95);
        insert into person values (1, 'RT', 'Runa Tallis');
        insert into gauge (shop_id, gauge_key, name, resolution_nm, permissible_error_nm, usual)
            values (1, 'dial-1', 'Dial', 10000, 8000, true);
        insert into sheet (shop_id, sheet_key, revision, name, kind, body) values (1, 's', 1, 'S', 'manual', '{}');
        insert into job (shop_id, job_no, sheet_key, revision, title, customer, opened_by, checks)
            values (1, 1, 's', 1, 'Van', 'Baker', 'RT', 1);
        insert into job_check (shop_id, job_no, check_key, place) values (1, 1, 'c', 1);
        insert into reading (shop_id, job_no, check_key, reading_no, round, typed, bench_unit, travel_nm, gauge_key, who)
            values (1, 1, 'c', 1, 0, '0.21', 'mm', 210000, 'dial-1', 'RT');";
    sqlx::raw_sql(before).execute(&pool).await.unwrap();
    let second = include_str!("../../database/migrations/0002_ways.sql");
    sqlx::raw_sql(second).execute(&pool).await.unwrap();
    let (way, taken): (String, Value) = sqlx::query_as("select way, taken from reading")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(way, "dial_travel");
    assert_eq!(taken, json!({"kind": "travel", "travel_nm": 210_000}));
    let kind: String = sqlx::query_scalar("select kind from gauge")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(kind, "dial");
}
