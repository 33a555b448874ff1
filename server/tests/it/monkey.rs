//! Somebody pressing whatever there is, with figures good and bad, on a few checks at once: the server
//! never fails, records are only ever added, and no piece is promised that is not there.

use crate::house::{Shop, fresh_key, whole};
use rocket::http::Method;
use serde_json::{Value, json};

/// Pseudo-random numbers (Park and Miller), seeded, so that a run can be done again.
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: usize) -> usize {
        self.0 = self.0 * 48_271 % 2_147_483_647;
        usize::try_from(self.0).unwrap() % n
    }

    fn pick<'l>(&mut self, list: &[&'l str]) -> &'l str {
        list[self.below(list.len())]
    }
}

const FIGURES: [&str; 16] = [
    "0.21", "0.24 mm", "9 thou", "0", "1.35", "0.2", "0.22", "0.23", "", "ten", "-0.1", "1e3",
    "5000", "0,21", "0.6", "210 µm",
];

fn entry(dice: &mut Dice) -> (&'static str, Value) {
    let mut f = || dice.pick(&FIGURES);
    let (a, b) = (f(), f());
    match dice.below(9) {
        0 | 1 => ("dial_travel", json!({"kind": "travel", "travel": a})),
        2 => ("dial_travel", json!({"kind": "pair", "home": a, "out": b})),
        3 => (
            "feeler",
            json!({"kind": "leaf", "leaves": a, "fit": dice.pick(&["goes", "refused", "just"])}),
        ),
        4 => (
            "depth_from_bar",
            json!({"kind": "depth", "place": dice.below(8), "of": 6, "depth": a, "bar": b}),
        ),
        5 => (
            "known_shim",
            json!({"kind": "known_shim", "shim": a, "float": b}),
        ),
        6 => ("no_shim", json!({"kind": "travel", "travel": a})),
        7 => ("by_hand", json!({"kind": "by_hand", "from": a, "to": b})),
        _ => ("turning_torque", json!({"kind": "torque", "torque": a})),
    }
}

/// One press on a check, and what the server said to it.
async fn press(shop: &Shop, dice: &mut Dice, check: &str, seen: &Value) -> u16 {
    let who = dice.pick(&["RT", "OB", "MEL", "ZZ"]);
    let why = dice.pick(&["", "worn", "the owner accepts it"]);
    let mut version = seen["version"].clone();
    if dice.below(8) == 0 {
        // Somebody whose screen is behind.
        version = json!(1);
    }
    let (method, path, body) = match dice.below(12) {
        0..=4 => {
            let (way, entry) = entry(dice);
            let body = json!({"way": way, "entry": entry, "unit": "mm", "who": who});
            (Method::Post, "readings".to_owned(), body)
        }
        5 => {
            let mark = dice.pick(&["struck", "restored", "kept"]);
            let body = json!({"mark": mark, "reason": why, "who": who});
            (
                Method::Post,
                format!("readings/{}/marks", dice.below(5)),
                body,
            )
        }
        6 => {
            let typed = dice.pick(&FIGURES);
            (
                Method::Put,
                "fitted".into(),
                json!({"typed": typed, "unit": "mm", "who": who}),
            )
        }
        7 => {
            let ranked = &seen["choices"]["ranked"];
            let pieces = match ranked.as_array().filter(|r| !r.is_empty()) {
                Some(list) => list[dice.below(list.len())]["pieces"]
                    .as_array()
                    .unwrap()
                    .iter()
                    .map(|p| json!({"thickness_nm": p["thickness_nm"], "count": p["count"]}))
                    .collect(),
                None => vec![json!({"thickness_nm": 1_234_567, "count": 1})],
            };
            (
                Method::Post,
                "choose".into(),
                json!({"pieces": pieces, "who": who}),
            )
        }
        8 => {
            let act = dice.pick(&["let-go", "fit", "fit"]);
            let mut body = json!({"who": who});
            if act == "fit" {
                body["put_back"] = json!(dice.below(2) == 0);
            }
            (Method::Post, act.into(), body)
        }
        9 => {
            let way = dice.pick(&["feeler", "dial_travel", "by_hand", "stack_sum"]);
            (Method::Put, "way".into(), json!({"way": way, "who": who}))
        }
        10 => {
            let tick = seen["ready"][0]["tick"].clone();
            let body = json!({"tick": tick.as_str().unwrap_or("none"), "done": true, "who": who});
            (Method::Post, "ticks".into(), body)
        }
        _ => {
            let act = dice.pick(&["sign", "reopen"]);
            (Method::Post, act.into(), json!({"reason": why, "who": who}))
        }
    };
    let answer = shop
        .send_with(
            method,
            &format!("{check}/{path}"),
            &fresh_key(),
            Some(&version),
            body.clone(),
        )
        .await;
    let status = answer.status.code;
    assert!(
        [200, 404, 409, 412, 422].contains(&status),
        "{path} {body}: {status} {}",
        answer.body
    );
    if status != 200 {
        assert_eq!(answer.kind, "application/problem+json");
        let title = answer.body["title"].as_str().unwrap();
        assert!(title.len() > 20, "{path}: “{title}” says too little");
    }
    status
}

#[tokio::test]
async fn whatever_is_pressed_the_records_hold() {
    let shop = Shop::open().await;
    let job = shop.job().await;
    let other = shop.job().await;
    let checks = [
        format!("{job}/input-float"),
        format!("{job}/fifth-thrust"),
        format!("{job}/diff-preload"),
        format!("{other}/input-float"),
        format!("{other}/second-side"),
    ];
    let mut dice = Dice(20_261_125);
    let mut done = 0;
    let presses = if whole() { 260 } else { 90 };
    for _ in 0..presses {
        let check = &checks[dice.below(checks.len())];
        let seen = shop.get(check).await.ok();
        let before = seen["history"].as_array().unwrap().len();
        let status = press(&shop, &mut dice, check, &seen).await;
        let after = shop.get(check).await.ok();
        let now = after["history"].as_array().unwrap().len();
        assert!(now >= before, "a record was taken away");
        if status == 200 {
            done += 1;
        } else {
            assert_eq!(now, before, "what was refused left a record");
            assert_eq!(after["version"], seen["version"]);
        }
        // A figure shown is a figure, and a signature stands on one.
        for field in ["clearance_nm", "u_nm"] {
            let figure = &after["estimate"][field];
            assert!(figure.is_null() || figure.as_f64().is_some_and(f64::is_finite));
        }
        if after["phase"] == "signed" {
            assert!(after["signed"]["achieved_nm"].as_f64().is_some());
        }
        let (wrong,): (i64,) = sqlx::query_as(
            "select count(*) from stock s where s.reserved <> coalesce((
               select sum(p.reserved) from setting_piece p join setting t using (shop_id, job_no, check_key, setting_no)
               where t.state = 'chosen' and p.family_key = s.family_key and p.thickness_nm = s.thickness_nm), 0)",
        )
        .fetch_one(&shop.pool)
        .await
        .unwrap();
        assert_eq!(wrong, 0, "what is set aside is not what is chosen");
    }
    assert!(done > presses / 5, "only {done} presses did anything");
    for path in [
        job.replace("/checks", ""),
        other.replace("/checks", "") + "/report",
    ] {
        shop.get(&path).await.ok();
    }
}
