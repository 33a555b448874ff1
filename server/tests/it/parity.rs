//! What only the database can break: two at once, and words that this program never writes.

use anvil_rules::job::check::spec::Spec;
use anvil_rules::job::check::workflow::Phase;
use dry_anvil::db::check::Asked;
use dry_anvil::db::error::DbError;
use dry_anvil::db::{Store, check, job, sheet, shop};
use rocket::http::Method;
use serde_json::{Value, json};

use crate::house::base::{Base, Holds};
use crate::house::{Shop, fresh_key, travel};

const SHIMS: &str = "t5-input-shim";

fn count(thickness: &str, on_hand: i32) -> Value {
    json!({"thickness": thickness, "unit": "mm", "on_hand": on_hand, "place": "", "who": "RT"})
}

#[tokio::test]
async fn of_two_who_count_what_they_both_saw_the_second_is_told() {
    let shop = Shop::open().await;
    let path = format!("/api/drawers/{SHIMS}");
    let version = async |thickness_nm: i64| -> Value {
        let found: Option<i32> = sqlx::query_scalar(
            "select version from stock where family_key = $1 and thickness_nm = $2 and grade = 'marked'",
        )
        .bind(SHIMS)
        .bind(thickness_nm)
        .fetch_optional(&shop.pool)
        .await
        .unwrap();
        json!(found.unwrap_or(0))
    };
    let mut told = 0;
    // A size that is there, and new sizes, of which there is no line yet that both could wait at.
    for round in 0..12 {
        let (thickness, nm) = if round % 2 == 0 {
            ("1.20 mm".to_owned(), 1_200_000)
        } else {
            (format!("9.{round:02} mm"), 9_000_000 + round * 10_000)
        };
        let seen = version(nm).await;
        let one = shop.send(Method::Put, &path, Some(&seen), count(&thickness, 3));
        let two = shop.send(Method::Put, &path, Some(&seen), count(&thickness, 4));
        let (one, two) = tokio::join!(one, two);
        let mut codes = [one.status.code, two.status.code];
        codes.sort_unstable();
        assert_eq!(codes, [200, 412], "round {round}");
        told += 1;
    }
    assert_eq!(told, 12);
}

#[tokio::test]
async fn a_word_that_nobody_writes_is_an_error_that_names_its_row() {
    let house = Shop::open().await;
    let pool = house.pool.clone();
    house.job().await;
    let store = Store::new(pool.clone(), 1);
    for (spoil, row, word) in [
        (
            "alter table shop drop constraint shop_unit_check; update shop set unit = 'cubit'",
            "the shop",
            "cubit",
        ),
        (
            "alter table job_check drop constraint job_check_phase_check; update job_check set phase = 'asleep' where check_key = 'input-float'",
            "check “input-float” of job 1",
            "asleep",
        ),
    ] {
        sqlx::raw_sql(spoil).execute(&pool).await.unwrap();
        let error = match word {
            "cubit" => shop::shop(&store).await.unwrap_err(),
            _ => check::head(&store, &pool, 1, "input-float")
                .await
                .unwrap_err(),
        };
        match error {
            DbError::Unreadable { row: said, cause } => {
                assert_eq!(said, row);
                assert!(cause.contains(word), "{cause}");
            }
            other => panic!("{other}"),
        }
    }
    // The rest of the shop goes on; what cannot be read is the server's fault, under a number.
    let refused = house.get("/api/shop").await.refused(500, "server-fault");
    assert!(refused["incident"].is_string());
    house.get("/api/drawers").await.ok();
}

#[tokio::test]
async fn a_check_read_while_it_is_written_is_of_one_moment() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    let check = format!("{}/input-float", shop.job().await);
    let store = Store::new(pool, 1);
    let before = check::head(&store, &store.pool, 1, "input-float")
        .await
        .unwrap();
    assert_eq!(before.phase, Phase::Measure);
    shop.read(&check, &["0.20 mm"]).await;
    // Head and record of two moments are no check: whoever reads is told to read again.
    let families = [SHIMS.to_owned()];
    let record = check::record(&store, &store.pool, before, 1, "input-float", &families)
        .await
        .unwrap();
    assert!(record.is_none());
    let now = check::head(&store, &store.pool, 1, "input-float")
        .await
        .unwrap();
    let record = check::record(&store, &store.pool, now, 1, "input-float", &families)
        .await
        .unwrap();
    assert_eq!(record.unwrap().readings.len(), 1);
    assert_eq!(
        job::job(&store, &store.pool, 1)
            .await
            .unwrap()
            .row
            .signed_count,
        0
    );
}

#[tokio::test]
async fn the_same_write_under_its_key_is_done_once_and_another_under_it_is_refused() {
    let shop = Shop::open().await;
    let key = fresh_key();
    let act = |n: i64| json!({"act": "return", "lines": [{"family_key": SHIMS, "thickness_nm": 1_200_000, "count": n}], "who": "RT"});
    let send = async |n| {
        shop.send_with(Method::Post, "/api/drawers/acts", &key, None, act(n))
            .await
    };
    let (before, _) = shop.stock(SHIMS, 1_200_000).await;
    send(2).await.ok();
    send(2).await.ok();
    assert_eq!(shop.stock(SHIMS, 1_200_000).await.0, before + 2);
    send(3).await.refused(422, "key-used");
    // A fingerprint is JSON of what was asked, and no program's own way of printing it.
    let kept: String =
        sqlx::query_scalar("select fingerprint from done_write where write_key = $1")
            .bind(&key)
            .fetch_one(&shop.pool)
            .await
            .unwrap();
    let kept: Value = serde_json::from_str(&kept).unwrap();
    assert_eq!(
        (&kept["act"], &kept["who"]),
        (&json!("stock"), &json!("RT"))
    );
    assert_eq!(kept["request"]["lines"][0]["count"], 2);
}

#[tokio::test]
async fn errors_name_the_field_that_was_sent() {
    let shop = Shop::open().await;
    let asked = json!({
        "clearance_nm": 300_000.0, "u_nm": 2_000.0, "fitted_nm": 0, "effect": "closes",
        "window": {"low_nm": 50_000, "high_nm": 150_000}, "aim": {"from_nm": 100_000.0, "to_nm": 100_000.0},
        "floor": 0.95, "most_pieces": 2,
        "stock": [{"thickness_nm": 100_000, "grade": "marked", "u_nm": 0.0, "quantity": 3, "source": "on_hand"}],
    });
    shop.post("/api/calc/choose", None, asked.clone())
        .await
        .ok();
    for (field, wrong) in [
        ("floor", json!(0.2)),
        ("most_pieces", json!(99)),
        (
            "stock",
            json!([{"thickness_nm": 0, "grade": "marked", "u_nm": 0.0, "quantity": 3, "source": "on_hand"}]),
        ),
    ] {
        let mut asked = asked.clone();
        asked[field] = wrong;
        let refused = shop.post("/api/calc/choose", None, asked).await;
        let body = refused.refused(422, "bad-field");
        assert_eq!(body["field"], field);
        assert!(!body["title"].as_str().unwrap().starts_with(field));
    }
}

/// A key says in itself when it was made: one that nobody remembers because it is too old is refused, and not done again.
#[tokio::test]
async fn a_write_that_comes_after_its_key_was_forgotten_is_refused() {
    let shop = Shop::open().await;
    let check = shop.job().await + "/second-side";
    let at = format!("{check}/readings");
    let now = std::time::SystemTime::now().duration_since(std::time::UNIX_EPOCH);
    let made = |days_ago: u64| {
        let ms = now.as_ref().unwrap().as_millis() - u128::from(days_ago) * 86_400_000;
        format!(
            "{:08x}-{:04x}-7abc-8abc-00000000{days_ago:04}",
            ms >> 16,
            ms & 0xffff
        )
    };
    let send = async |key: String| {
        shop.send_with(Method::Post, &at, &key, None, travel("0.2", "RT"))
            .await
    };
    send(made(6)).await.ok();
    // A person typed it, but the write went through then.
    send(made(9)).await.refused(409, "key-past");
    let card = json!({"sheet_key": "tolvane-t5", "title": "Van 4", "customer": "A baker", "complaint": "", "who": "RT"});
    shop.send_with(Method::Post, "/api/jobs", &made(8), None, card)
        .await
        .refused(409, "key-past");
    sqlx::query("update done_write set at = now() - interval '8 days'")
        .execute(&shop.pool)
        .await
        .unwrap();
    // What is remembered still is answered as ever; keys without a time are nobody's in particular.
    send(made(6)).await.ok();
    dry_anvil::db::writes::forget_old(&Store::new(shop.pool.clone(), 1))
        .await
        .unwrap();
    send("a key of somebody's own".into()).await.ok();
    assert_eq!(
        shop.get(&check).await.ok()["readings"]
            .as_array()
            .unwrap()
            .len(),
        2
    );
}

/// What a signature adds to what is known of a gauge changes the verdict of other checks: what is stored of them follows.
#[tokio::test]
async fn a_verdict_follows_the_scatter_that_is_known_of_its_gauge() {
    let shop = Shop::open().await;
    let stored = async |check: &str| -> (String, Option<String>, i32) {
        let mut parts = check.split('/').skip(3);
        let (job, key) = (parts.next().unwrap(), parts.nth(1).unwrap());
        sqlx::query_as(
            "select phase, call, version from job_check where job_no = $1 and check_key = $2",
        )
        .bind(job.parse::<i32>().unwrap())
        .bind(key)
        .fetch_one(&shop.pool)
        .await
        .unwrap()
    };
    let settled = async || {
        for _ in 0..200 {
            let due: i64 = sqlx::query_scalar("select count(*) from settle_due")
                .fetch_one(&shop.pool)
                .await
                .unwrap();
            if due == 0 {
                return;
            }
            tokio::time::sleep(std::time::Duration::from_millis(20)).await;
        }
        panic!("something is due for ever");
    };
    // Of a gauge whose scatter nobody states, what the signatures say of it is all that is known.
    sqlx::query("update gauge set repeatability_nm = null, repeatability_dof = null")
        .execute(&shop.pool)
        .await
        .unwrap();
    let open = shop.job().await + "/second-side";
    shop.read(&open, &["0.312", "0.330"]).await;
    let mut before = stored(&open).await;
    let mut changed = 0;
    let mut signed = Vec::new();
    // What the signatures say counts from ten degrees of freedom on.
    for number in 0..12 {
        let why = json!({"who": "OB", "reason": "a trial"});
        if number < 6 {
            let check = shop.job().await + "/second-side";
            shop.read(&check, &["0.200", "0.208", "0.216"]).await;
            shop.act(&check, "sign", why).await.ok();
            signed.push(check);
        } else {
            let check = signed.pop().unwrap();
            shop.act(&check, "reopen", why).await.ok();
        }
        settled().await;
        let live = shop.get(&open).await.ok();
        let now = stored(&open).await;
        assert_eq!(json!(now.0), live["phase"]);
        assert_eq!(json!(now.1), live["verdict"]["call"]);
        if (&now.0, &now.1) != (&before.0, &before.1) {
            changed += 1;
            assert!(now.2 > before.2, "who looks at it is told");
        }
        before = now;
    }
    assert!(changed > 1, "it came, and went: {before:?}");
}

/// Many checks read at once say what each says alone.
#[tokio::test]
async fn the_whole_bench_is_read_as_its_checks_are() {
    let base = Base::of(Holds::Demo).await;
    let pool = base.pool.clone();
    let store = Store::new(pool.clone(), 1);
    let keys: Vec<(i32, String)> =
        sqlx::query_as("select job_no, check_key from job_check order by check_key, job_no desc")
            .fetch_all(&pool)
            .await
            .unwrap();
    let mut asked = Vec::new();
    let mut alone = Vec::new();
    for (job_no, key) in &keys {
        let head = check::head(&store, &pool, *job_no, key).await.unwrap();
        let sheet = sheet::revision(&store, &pool, &head.sheet_key, head.revision);
        let sheet = sheet.await.unwrap();
        let families = Spec::of(&sheet, key).unwrap().families();
        let record = check::record(&store, &pool, head, *job_no, key, &families);
        alone.push(format!("{:?}", record.await.unwrap().unwrap()));
        asked.push(Asked {
            job_no: *job_no,
            check_key: key,
            families,
        });
    }
    let mut tx = store.moment().await.unwrap();
    let at_once = check::records(&store, &mut tx, &asked).await.unwrap();
    assert!(alone.len() > 150, "{}", alone.len());
    assert_eq!(at_once.len(), alone.len());
    // Of those, some must know what boxes before them measured, and some be of more than one drawer.
    assert!(at_once.iter().any(|r| r.measured_before.boxes > 5));
    assert!(at_once.iter().any(|r| !r.others.is_empty()));
    for (record, alone) in at_once.iter().zip(&alone) {
        assert_eq!(format!("{record:?}"), *alone);
    }
    let gone = [Asked {
        job_no: 1,
        check_key: "no-such",
        families: Vec::new(),
    }];
    assert!(check::records(&store, &mut tx, &gone).await.is_err());
}
