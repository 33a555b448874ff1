//! Many at once: nobody waits for somebody who waits for them, nobody loses what was done, and who looks waits for nobody.

use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

use dry_anvil::connect;
use dry_anvil::db::Store;
use dry_anvil::queries::searches::Searches;
use rocket::futures::future::join_all;
use rocket::http::{Method, Status};
use serde_json::{Value, json};
use sqlx::ConnectOptions;

use crate::house::{Answered, Shop, travel};

const SHIMS: &str = "t5-input-shim";

fn piece(thickness_nm: i64) -> Value {
    json!({"pieces": [{"thickness_nm": thickness_nm, "count": 1}], "who": "RT"})
}

fn fits() -> Value {
    json!({"put_back": true, "who": "RT"})
}

impl Shop {
    /// A job whose input shaft has a piece in that it was chosen for.
    async fn fitted_with(&self, thickness_nm: i64) -> String {
        let check = self.job().await + "/input-float";
        self.say_fitted(&check, "1.10").await;
        self.read(&check, &["0.24", "0.24"]).await;
        self.act(&check, "choose", piece(thickness_nm)).await.ok();
        self.act(&check, "fit", fits()).await.ok();
        check
    }

    /// Signs every check of the job of this number as it stands.
    async fn sign_all(&self, job: &str) {
        let view = self.get(job).await.ok();
        for check in view["checks"].as_array().unwrap() {
            let path = format!("{job}/checks/{}", check["check_key"].as_str().unwrap());
            self.read(&path, &["0.2", "0.2"]).await;
            let why = json!({"who": "OB", "reason": "a trial of the hand-over"});
            self.act(&path, "sign", why).await.ok();
        }
    }
}

/// What each of these acts needs is what the other puts back.
#[tokio::test]
async fn pieces_are_fitted_crosswise() {
    let shop = Shop::open().await;
    for size in ["1.25 mm", "1.40 mm"] {
        shop.count(SHIMS, size, 5).await.ok();
    }
    let jobs = [
        shop.fitted_with(1_250_000).await,
        shop.fitted_with(1_400_000).await,
    ];
    for round in 0..12 {
        let sizes = if round % 2 == 0 {
            [1_400_000, 1_250_000]
        } else {
            [1_250_000, 1_400_000]
        };
        for (job, size) in jobs.iter().zip(sizes) {
            shop.read(job, &["0.24", "0.24"]).await;
            shop.act(job, "choose", piece(size)).await.ok();
        }
        let (one, two) = tokio::join!(
            shop.act(&jobs[0], "fit", fits()),
            shop.act(&jobs[1], "fit", fits())
        );
        assert_eq!(one.ok()["fitted_nm"], sizes[0], "round {round}");
        assert_eq!(two.ok()["fitted_nm"], sizes[1], "round {round}");
        assert_eq!(shop.stock(SHIMS, 1_250_000).await, (4, 0));
        assert_eq!(shop.stock(SHIMS, 1_400_000).await, (4, 0));
    }
}

/// Choosing for many holds many jobs; readings of the same jobs come in beside it.
#[tokio::test]
async fn choosing_together_and_reading_do_not_block_each_other() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 40).await.ok();
    let mut jobs = Vec::new();
    for _ in 0..4 {
        let check = shop.job().await;
        shop.say_fitted(&format!("{check}/input-float"), "1.10")
            .await;
        shop.read(&format!("{check}/input-float"), &["0.24", "0.24"])
            .await;
        jobs.push(check);
    }
    for round in 0..12 {
        let mut choices = Vec::new();
        for job in jobs.iter().rev() {
            let check = shop.get(&format!("{job}/input-float")).await.ok();
            choices.push(json!({"job_no": check["job_no"], "check_key": "input-float", "version": check["version"],
                "pieces": [{"thickness_nm": 1_250_000, "count": 1}]}));
        }
        let body = json!({"choices": choices, "who": "RT"});
        let together = shop.post("/api/share/choose", None, body);
        let reads = jobs.iter().map(|job| {
            let (shop, at) = (&shop, format!("{job}/second-side/readings"));
            async move { shop.post(&at, None, travel("0.2", "RT")).await }
        });
        let (together, reads) = tokio::join!(together, join_all(reads));
        assert_eq!(
            together.status,
            Status::NoContent,
            "round {round}: {}",
            together.body
        );
        for read in reads {
            read.ok();
        }
        for job in &jobs {
            let check = format!("{job}/input-float");
            shop.act(&check, "let-go", json!({"who": "RT"})).await.ok();
        }
    }
    assert_eq!(shop.stock(SHIMS, 1_250_000).await, (40, 0));
}

/// A piece that one job lets go is set aside for the one that waits for it; and where both happen at once, too.
#[tokio::test]
async fn a_piece_let_go_goes_to_who_waits_for_it() {
    let shop = Shop::open().await;
    shop.count(SHIMS, "1.25 mm", 1).await.ok();
    let mut jobs = Vec::new();
    for _ in 0..2 {
        let check = shop.job().await + "/input-float";
        shop.say_fitted(&check, "1.10").await;
        shop.read(&check, &["0.24", "0.24"]).await;
        jobs.push(check);
    }
    let order = json!({"act": "order", "lines": [{"family_key": SHIMS, "thickness_nm": 1_250_000, "count": 1}], "who": "RT"});
    shop.post("/api/drawers/acts", None, order).await.ok();
    let go = || json!({"who": "RT"});
    for round in 0..8 {
        let (has, wants) = (&jobs[round % 2], &jobs[(round + 1) % 2]);
        if round == 0 {
            shop.act(has, "choose", piece(1_250_000)).await.ok();
        }
        // Now and then the other waits already; else it begins to while the first lets go.
        if round % 4 == 0 {
            let waits = shop.act(wants, "choose", piece(1_250_000)).await.ok();
            assert_eq!(waits["phase"], "await_part");
            shop.act(has, "let-go", go()).await.ok();
        } else {
            let (chosen, let_go) = tokio::join!(
                shop.act(wants, "choose", piece(1_250_000)),
                shop.act(has, "let-go", go())
            );
            chosen.ok();
            let_go.ok();
        }
        assert_eq!(shop.get(wants).await.ok()["phase"], "fit", "round {round}");
        assert_eq!(shop.stock(SHIMS, 1_250_000).await, (1, 1));
    }
}

#[tokio::test]
async fn a_job_handed_over_has_no_open_check() {
    let shop = Shop::open().await;
    let checks = shop.job().await;
    let job = checks.strip_suffix("/checks").unwrap();
    let check = format!("{checks}/second-side");
    shop.sign_all(job).await;
    for round in 0..8 {
        let seen = shop.get(job).await.ok()["version"].clone();
        let hand_over = format!("{job}/hand-over");
        let (over, open) = tokio::join!(
            shop.post(
                &hand_over,
                Some(&seen),
                json!({"who": "OB", "reason": "done"})
            ),
            shop.act(
                &check,
                "reopen",
                json!({"who": "RT", "reason": "the cover came off"})
            ),
        );
        // Whichever was first: either it is refused for the open check, or taken back by the reopening.
        let ways = [(200, 200), (409, 200), (412, 200)];
        assert!(
            ways.contains(&(over.status.code, open.status.code)),
            "round {round}: {} {}",
            over.body,
            open.body
        );
        let (finished, unsigned): (bool, i64) = sqlx::query_as(
            "select j.finished_at is not null, (select count(*) from job_check c where c.job_no = j.job_no
               and c.phase not in ('signed', 'elsewhere')) from job j where j.job_no = 1",
        )
        .fetch_one(&shop.pool)
        .await
        .unwrap();
        assert_eq!((finished, unsigned), (false, 1), "round {round}");
        let why = json!({"who": "OB", "reason": "a trial of the hand-over"});
        shop.act(&check, "sign", why).await.ok();
    }
}

/// Of many who saw the same count one is believed, and the others are told; none is turned away.
#[tokio::test]
async fn counts_at_once() {
    let shop = Shop::open().await;
    let version = async || {
        let drawers = shop.get("/api/drawers").await.ok();
        let sizes = |d: &Value| d["sizes"].as_array().unwrap().clone();
        let drawer = drawers
            .as_array()
            .unwrap()
            .iter()
            .find(|d| d["key"] == SHIMS)
            .map(sizes);
        let size = drawer
            .unwrap()
            .into_iter()
            .find(|s| s["thickness_nm"] == 1_250_000);
        size.unwrap()["version"].clone()
    };
    for _ in 0..6 {
        let seen = version().await;
        let counts = (1..=8).map(|count| {
            let (shop, seen) = (&shop, &seen);
            let body = json!({"thickness": "1.25 mm", "unit": "mm", "on_hand": count, "place": "", "who": "RT"});
            async move { shop.send(Method::Put, &format!("/api/drawers/{SHIMS}"), Some(seen), body).await }
        });
        let mut codes: Vec<u16> = join_all(counts)
            .await
            .iter()
            .map(|a| a.status.code)
            .collect();
        codes.sort_unstable();
        assert_eq!(codes, [200, 412, 412, 412, 412, 412, 412, 412]);
    }
}

/// Somebody holds a job for long: the bench, the job itself and readiness answer; a write on it says after a while that
/// somebody else is at it, and when to come again.
#[tokio::test]
async fn who_looks_waits_for_nobody() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    let check = shop.job().await + "/second-side";
    let url = pool.connect_options().to_url_lossy().to_string();
    let store = Store {
        writing: connect(&url).await.unwrap(),
        ..Store::new(connect(&url).await.unwrap(), 1)
    };
    let served = Shop::on(store).await;
    let mut holder = pool.begin().await.unwrap();
    sqlx::query("select 1 from job for update")
        .fetch_all(&mut *holder)
        .await
        .unwrap();
    let at = format!("{check}/readings");
    let writes = (0..12).map(|_| served.post(&at, None, travel("0.2", "RT")));
    let looks = async {
        let mut codes = Vec::new();
        for _ in 0..20 {
            for path in ["/api/jobs", &check, "/readyz"] {
                codes.push(served.get(path).await.status.code);
            }
        }
        codes
    };
    let (written, looked) = tokio::join!(join_all(writes), looks);
    assert!(
        written.iter().all(told_to_come_again),
        "{:?}",
        written.iter().map(|a| a.status).collect::<Vec<_>>()
    );
    assert!(looked.iter().all(|code| *code == 200), "{looked:?}");
    holder.rollback().await.unwrap();
    served.post(&at, None, travel("0.2", "RT")).await.ok();
    let readings = served.get(&check).await.ok()["readings"]
        .as_array()
        .unwrap()
        .len();
    assert_eq!(readings, 1, "what was turned away is not done");
}

fn told_to_come_again(answer: &Answered) -> bool {
    answer.status == Status::ServiceUnavailable
        && ["busy", "database-out-of-reach"].contains(&answer.body["type"].as_str().unwrap_or(""))
}

/// Searches take turns: who waits is told how many are before it, and gives its place up where nobody listens.
#[rocket::async_test]
async fn searches_take_turns() {
    let searches = Searches::default();
    let mut running = Vec::new();
    let mut waits = false;
    // As many as run at once, and one more.
    while !waits {
        let before = AtomicUsize::new(0);
        let turn = searches.turn(|n| before.store(n, Ordering::Relaxed));
        let soon = tokio::time::timeout(Duration::from_millis(50), turn).await;
        waits = soon.is_err();
        running.extend(soon);
        assert!(!waits || before.load(Ordering::Relaxed) == running.len());
    }
    running.pop();
    // The one that was given up is not before this one.
    let turn = searches.turn(|n| panic!("{n} before it"));
    tokio::time::timeout(Duration::from_secs(5), turn)
        .await
        .unwrap();
}

/// One shaft's shim moves another's check: both are fitted at once, each with pieces that the other's job puts back.
#[tokio::test]
async fn coupled_checks_are_fitted_at_once() {
    let shop = Shop::open().await;
    shop.main_moves_input().await;
    for size in ["1.10 mm", "1.25 mm", "1.40 mm"] {
        shop.count(SHIMS, size, 9).await.ok();
    }
    for size in ["1.10 mm", "1.25 mm", "1.40 mm"] {
        shop.count("t5-main-shim", size, 9).await.ok();
    }
    let jobs = [shop.job().await, shop.job().await];
    for job in &jobs {
        for key in ["input-float", "main-float"] {
            shop.say_fitted(&format!("{job}/{key}"), "1.10").await;
        }
    }
    for round in 0..10 {
        let mut fitting = Vec::new();
        for (number, job) in jobs.iter().enumerate() {
            let size = if (round + number) % 2 == 0 {
                1_250_000
            } else {
                1_400_000
            };
            for key in ["input-float", "main-float"] {
                let check = format!("{job}/{key}");
                shop.read(&check, &["0.24", "0.24"]).await;
                shop.act(&check, "choose", piece(size)).await.ok();
                fitting.push(check);
            }
        }
        let shop = &shop;
        // Fitting one moves the other, whose version is another then: asked for again, it goes.
        let fit = fitting.iter().map(|check| async move {
            loop {
                let answer = shop.act(check, "fit", fits()).await;
                assert!(
                    [200, 412].contains(&answer.status.code),
                    "round {round}: {}",
                    answer.body
                );
                if answer.status.code == 200 {
                    return;
                }
            }
        });
        join_all(fit).await;
    }
    let (reserved, odd): (i64, i64) = sqlx::query_as(
        "select coalesce(sum(reserved), 0), count(*) filter (where on_hand < reserved) from stock",
    )
    .fetch_one(&shop.pool)
    .await
    .unwrap();
    assert_eq!((reserved, odd), (0, 0));
}
