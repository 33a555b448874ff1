//! A whole shop in one file: what comes back answers as what went out, and what is cut or altered is refused whole.

use std::io::{Cursor, Read, Write};
use std::path::Path;
use std::time::Duration;

use dry_anvil::backup::{self, Backup, Nightly};
use dry_anvil::db::{Store, archive};
use dry_anvil::{connect, load};
use serde_json::{Value, json};
use sha2::{Digest, Sha256};
use sqlx::{AssertSqlSafe, ConnectOptions, PgPool};

use zip::ZipWriter;
use zip::write::SimpleFileOptions;

use crate::house::base::{Base, Holds};
use crate::house::{Shop, demo, travel};

/// An empty database beside a test's own; gone at its end.
struct Beside {
    pool: PgPool,
    name: String,
    url: String,
}

impl Beside {
    async fn of(pool: &PgPool) -> Self {
        let mut url = pool.connect_options().to_url_lossy();
        let name = format!("{}_beside", &url.path()[1..]);
        url.set_path(&name);
        let drop = format!(r#"drop database if exists "{name}" with (force)"#);
        sqlx::query(AssertSqlSafe(drop))
            .execute(pool)
            .await
            .unwrap();
        let create = format!(r#"create database "{name}""#);
        sqlx::query(AssertSqlSafe(create))
            .execute(pool)
            .await
            .unwrap();
        Self {
            pool: pool.clone(),
            name,
            url: url.to_string(),
        }
    }

    async fn opened(&self) -> Shop {
        let pool = connect(&self.url).await.unwrap();
        Shop::on(Store::new(pool, 1)).await
    }

    async fn gone(self) {
        let drop = format!(r#"drop database "{}" with (force)"#, self.name);
        sqlx::query(AssertSqlSafe(drop))
            .execute(&self.pool)
            .await
            .unwrap();
    }
}

/// Everything that can be asked for without writing.
async fn all_addresses(shop: &Shop) -> Vec<String> {
    let mut all: Vec<String> = [
        "shop",
        "jobs",
        "jobs?finished=true",
        "drawers",
        "drawers/conflicts",
        "drawers.csv",
        "sheets",
        "gauges",
        "order",
        "order/csv",
    ]
    .map(|at| format!("/api/{at}"))
    .into();
    let drawers = shop.get("/api/drawers").await.ok();
    for drawer in drawers.as_array().unwrap() {
        all.push(format!(
            "/api/drawers/{}/moves",
            drawer["key"].as_str().unwrap()
        ));
    }
    let sheets = shop.get("/api/sheets").await.ok();
    for sheet in sheets.as_array().unwrap() {
        let at = format!("/api/sheets/{}", sheet["key"].as_str().unwrap());
        all.extend(["", "/plan", "/file", "/revisions", "/changes"].map(|more| at.clone() + more));
        for check in shop.get(&at).await.ok()["checks"].as_array().unwrap() {
            all.push(format!(
                "{at}/past?check={}",
                check["key"].as_str().unwrap()
            ));
        }
    }
    let jobs: Vec<i32> = sqlx::query_scalar("select job_no from job order by job_no")
        .fetch_all(&shop.pool)
        .await
        .unwrap();
    for job in jobs {
        let at = format!("/api/jobs/{job}");
        all.extend(["", "/report", "/plan", "/revision", "/parts"].map(|more| at.clone() + more));
        for check in shop.get(&at).await.ok()["checks"].as_array().unwrap() {
            let at = format!("{at}/checks/{}", check["check_key"].as_str().unwrap());
            all.extend([at.clone(), at + "/swaps"]);
        }
    }
    all
}

#[tokio::test]
async fn what_comes_back_answers_as_what_went_out() {
    let before = Shop::holding(Holds::Demo).await;
    let store = Store::new(before.pool.clone(), 1);
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("shop.zip");
    let made = backup::write(&store, &file).await.unwrap();
    assert_eq!(made.bytes, std::fs::metadata(&file).unwrap().len());
    assert!(made.restored, "checked by restoring it");

    let beside = Beside::of(&before.pool).await;
    let (_, rows) = backup::restore(&beside.url, &file, 1).await.unwrap();
    assert_eq!(rows, made.rows);
    let after = beside.opened().await;
    let addresses = all_addresses(&before).await;
    assert!(addresses.len() > 500, "{}", addresses.len());
    for at in addresses {
        let (mut one, mut two) = (before.get(&at).await, after.get(&at).await);
        for answer in [&mut one, &mut two] {
            // A report says when it is printed, and a build by when it is so.
            if let Some(body) = answer.body.as_object_mut() {
                body.remove("printed_at");
                let build = body.get_mut("build").and_then(Value::as_object_mut);
                build.map(|build| build.remove("now"));
            }
        }
        assert_eq!(
            (one.status, one.kind, one.body),
            (two.status, two.kind, two.body),
            "{at}"
        );
    }
    // And it goes on from there: numbers that the database counts come after those that came back.
    let job = after.job().await;
    after
        .post(
            &format!("{}/notes", job.trim_end_matches("/checks")),
            None,
            json!({"text": "it goes on", "who": "RT"}),
        )
        .await;
    after.read(&format!("{job}/second-side"), &["0.2"]).await;

    // A second time it would go on top of a shop.
    let twice = backup::restore(&beside.url, &file, 1)
        .await
        .unwrap_err()
        .to_string();
    assert!(twice.contains("holds a shop already"), "{twice}");
    let over = backup::write(&store, &file).await.unwrap_err().to_string();
    assert!(over.contains("is there already"), "{over}");
    beside.gone().await;
}

#[tokio::test]
async fn what_is_cut_or_altered_is_refused_whole() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    shop.job().await;
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("shop.zip");
    backup::write(&Store::new(pool, 1), &file).await.unwrap();
    let good = std::fs::read(&file).unwrap();
    let spoilt = dir.path().join("spoilt.zip");
    let refused = |bytes: &[u8], how: &str| {
        std::fs::write(&spoilt, bytes).unwrap();
        let error = Backup::open(&spoilt)
            .err()
            .unwrap_or_else(|| panic!("read all the same: {how}"));
        let told = error.to_string();
        assert!(
            told.contains("cut or altered") || told.contains("too short"),
            "{told}"
        );
    };
    let places = (0..good.len())
        .step_by(good.len() / 400)
        .chain(good.len() - 120..good.len());
    for place in places {
        let mut altered = good.clone();
        altered[place] ^= 1;
        refused(&altered, &format!("byte {place} altered"));
        refused(&good[..place], &format!("cut at {place}"));
    }
    refused(&[good.as_slice(), b"0"].concat(), "something after its end");
    refused(b"", "empty");
    std::fs::write(&spoilt, &good).unwrap();
    Backup::open(&spoilt).unwrap().check().unwrap();
    assert!(!Path::new(&format!("{}.part", file.display())).exists());
}

/// What does not come back is no backup, whatever its checksum says: here a row of which what it belongs to is gone.
#[tokio::test]
async fn what_would_not_come_back_is_refused_when_it_is_made() {
    let shop = Shop::open().await;
    shop.job().await;
    for break_it in [
        "alter table picture drop constraint picture_shop_id_job_no_fkey",
        "insert into picture (shop_id, job_no, width, height, body, small, who)
         values (1, 999, 1, 1, '\\xff', '\\xff', 'RT')",
    ] {
        sqlx::query(break_it).execute(&shop.pool).await.unwrap();
    }
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("shop.zip");
    let told = backup::write(&Store::new(shop.pool.clone(), 1), &file)
        .await
        .unwrap_err()
        .to_string();
    assert!(
        told.contains("does not come back") && told.contains("picture, row 1"),
        "{told}"
    );
    assert_eq!(std::fs::read_dir(dir.path()).unwrap().count(), 0);
    // Nor is anything left of it in the database.
    let schemas: Vec<String> = sqlx::query_scalar(
        "select nspname::text from pg_namespace where nspname !~ '^pg_' and nspname <> 'information_schema'",
    )
    .fetch_all(&shop.pool)
    .await
    .unwrap();
    assert_eq!(schemas, ["public"]);
}

/// A backup as somebody could make it by hand, its checksum right.
fn crafted(file: &Path, version: u32, tables: &[(&str, u64, &str)], files: &[(&str, &[u8])]) {
    let mut zip = ZipWriter::new(Cursor::new(Vec::new()));
    let mut put = |name: &str, bytes: &[u8]| {
        zip.start_file(name, SimpleFileOptions::default()).unwrap();
        zip.write_all(bytes).unwrap();
    };
    for (table, _, lines) in tables {
        put(&format!("tables/{table}.jsonl"), lines.as_bytes());
    }
    for (name, bytes) in files {
        put(name, bytes);
    }
    let counts: Vec<Value> = tables
        .iter()
        .map(|(table, rows, _)| json!({"table": table, "rows": rows}))
        .collect();
    let manifest = json!({"format": "dry-anvil-backup", "version": version, "made_at": "2026-01-05T08:00:00Z",
        "program": "0.1.0", "schema": archive::newest_schema(), "shop": "By hand", "tables": counts});
    put("manifest.json", manifest.to_string().as_bytes());
    zip.set_comment(format!(
        "Dry Anvil; SHA-256 of all before: {}",
        "0".repeat(64)
    ))
    .unwrap();
    let mut bytes = zip.finish().unwrap().into_inner();
    let before = bytes.len() - 64;
    let sum = hex::encode(Sha256::digest(&bytes[..before]));
    bytes[before..].copy_from_slice(sum.as_bytes());
    std::fs::write(file, bytes).unwrap();
}

#[tokio::test]
async fn what_was_made_by_hand_is_looked_at_as_it_is_read() {
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("crafted.zip");
    let long = "a".repeat(40 << 20);
    let picture: &[u8] = &[0xff, 0xd8, 0xff, 7];
    let named = format!("files/{}.jpg", hex::encode(Sha256::digest(picture)));
    for (tables, files, says) in [
        // What unfolds to far more than a row has is not read to its end.
        (
            [("shop", 1, long.as_str())],
            (named.as_str(), picture),
            "shop, row 1: it is longer than any row",
        ),
        (
            [("shop", 1, "{}\n{}\n")],
            (&named, picture),
            "more rows than the 1",
        ),
        (
            [("shop", 3, "{}\n{}\n")],
            (&named, picture),
            "fewer rows than the 3",
        ),
        (
            [("shop", 1, "{}\n")],
            (&named, b"other".as_slice()),
            "altered",
        ),
        (
            [("shop", 1, "{}\n")],
            (&named, long.as_bytes()),
            "larger than anything",
        ),
    ] {
        crafted(&file, 2, &tables, &[files]);
        let told = Backup::open(&file)
            .unwrap()
            .check()
            .unwrap_err()
            .to_string();
        assert!(told.contains(says), "{told}");
    }
    crafted(&file, 3, &[], &[]);
    let told = Backup::open(&file).err().unwrap().to_string();
    assert!(told.contains("newer Dry Anvil"), "{told}");
}

/// In the first form pictures stood in their rows, in hexadecimal.
#[tokio::test]
async fn a_backup_of_the_first_form_gives_its_pictures_back() {
    let shop = Shop::open().await;
    shop.job().await;
    sqlx::query(
        "insert into picture (shop_id, job_no, width, height, body, small, who) values (1, 1, 2, 1, '\\xffd8ff07', '\\x05', 'RT')",
    )
    .execute(&shop.pool)
    .await
    .unwrap();
    let mut tx = archive::moment(&Store::new(shop.pool.clone(), 1))
        .await
        .unwrap();
    let mut tables = Vec::new();
    for table in archive::tables(&mut tx).await.unwrap() {
        let sql = format!(
            "select (to_jsonb(r) - 'shop_id')::text from {} r order by r",
            table.name
        );
        let rows: Vec<String> = sqlx::query_scalar(AssertSqlSafe(sql))
            .fetch_all(&shop.pool)
            .await
            .unwrap();
        let lines: String = rows.iter().flat_map(|r| [r.as_str(), "\n"]).collect();
        tables.push((table.name, rows.len() as u64, lines));
    }
    let tables: Vec<(&str, u64, &str)> = tables
        .iter()
        .map(|(name, rows, lines)| (name.as_str(), *rows, lines.as_str()))
        .collect();
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("first.zip");
    crafted(&file, 1, &tables, &[]);
    let beside = Beside::of(&shop.pool).await;
    backup::restore(&beside.url, &file, 1).await.unwrap();
    let back: (Vec<u8>, Vec<u8>) = sqlx::query_as("select body, small from picture")
        .fetch_one(&connect(&beside.url).await.unwrap())
        .await
        .unwrap();
    assert_eq!(back, (vec![0xff, 0xd8, 0xff, 7], vec![5]));
    beside.gone().await;
}

/// One that was made when the schema had fourteen changes: whatever is added since, it is read.
#[tokio::test]
async fn a_backup_of_an_older_program_is_read() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let beside = Beside::of(&pool).await;
    let file = Path::new(env!("CARGO_MANIFEST_DIR")).join("it/backup-of-14.zip");
    backup::restore(&beside.url, &file, 1).await.unwrap();
    let shop = beside.opened().await;
    let signed = shop.get("/api/jobs/1").await.ok();
    assert_eq!(
        (&signed["signed_count"], &signed["check_count"]),
        (&json!(8), &json!(8))
    );
    let open = shop.get("/api/jobs/2").await.ok();
    for check in open["checks"].as_array().unwrap() {
        let key = check["check_key"].as_str().unwrap();
        shop.get(&format!("/api/jobs/2/checks/{key}")).await.ok();
    }
    shop.read("/api/jobs/2/checks/second-side", &["0.2"]).await;
    beside.gone().await;
}

/// Readings come in while the backup is made: each is in it whole, with the key of its write, or not at all.
#[tokio::test]
async fn it_is_as_of_one_moment() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    let check = shop.job().await + "/second-side";
    let at = format!("{check}/readings");
    shop.read(&check, &["0.2"]).await;
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("shop.zip");
    let store = Store::new(pool.clone(), 1);
    let readings = async {
        let mut count = 1;
        while !file.exists() {
            shop.post(&at, None, travel("0.2", "RT")).await.ok();
            count += 1;
        }
        count
    };
    let (made, count) = tokio::join!(backup::write(&store, &file), readings);
    made.unwrap();
    let beside = Beside::of(&pool).await;
    backup::restore(&beside.url, &file, 1).await.unwrap();
    let kept: (i64, i64, i32) = sqlx::query_as(
        "select (select count(*) from reading), (select count(*) from done_write where fingerprint like '%\"read\"%'),
           (select version from job_check where check_key = 'second-side')",
    )
    .fetch_one(&connect(&beside.url).await.unwrap())
    .await
    .unwrap();
    assert!(kept.0 >= 1 && kept.0 < count, "{kept:?} of {count}");
    assert_eq!(kept.0, kept.1);
    assert_eq!(kept.0, i64::from(kept.2) - 1);
    beside.gone().await;
}

#[tokio::test]
async fn one_is_made_every_night_and_the_bench_says_when_none_is() {
    let shop = Shop::open().await;
    let pool = shop.pool.clone();
    shop.job().await;
    let store = Store::new(pool, 1);
    let dir = tempfile::tempdir().unwrap();
    let nightly = Nightly {
        folder: dir.path().join("backups"),
        keep: 2,
    };
    let said = async || shop.get("/api/backups").await.ok();
    let ago = async |what: &str| {
        sqlx::query(AssertSqlSafe(what))
            .execute(&shop.pool)
            .await
            .unwrap();
    };
    assert_eq!(
        said().await,
        json!({"last": null, "file": null, "failed": null, "nightly": false, "too_old": false})
    );
    ago("update job set opened_at = now() - interval '3 days'").await;
    assert_eq!(
        said().await["too_old"],
        true,
        "never one, and work of three days"
    );
    let mut made = Vec::new();
    for _ in 0..3 {
        nightly.look(&store).await.unwrap().expect("one is due");
        assert!(nightly.look(&store).await.unwrap().is_none(), "one a night");
        let now = said().await;
        assert_eq!(now["too_old"], false);
        let file = now["file"].as_str().unwrap().to_owned();
        Backup::open(file.as_ref()).unwrap().check().unwrap();
        made.push(file);
        ago("update backup_try set at = at - interval '26 hours'").await;
        // Another second stands in the next one's name.
        tokio::time::sleep(Duration::from_millis(1_100)).await;
    }
    let there: Vec<bool> = made.iter().map(|f| Path::new(f).exists()).collect();
    assert_eq!(there, [false, true, true], "the newest two are kept");

    // A folder that cannot be: it says so, and does not try again at once.
    ago("update backup_try set at = at - interval '3 days'").await;
    std::fs::write(dir.path().join("a file"), "").unwrap();
    let hindered = Nightly {
        folder: dir.path().join("a file/backups"),
        keep: 2,
    };
    let trying = tokio::time::timeout(
        Duration::from_secs(2),
        hindered.clone().make_them(store.clone()),
    );
    assert!(trying.await.is_err(), "it goes on for ever");
    let now = said().await;
    assert!(
        now["failed"]
            .as_str()
            .is_some_and(|f| f.contains("a file/backups")),
        "{now}"
    );
    assert_eq!(now["too_old"], true);
    assert!(nightly.look(&store).await.unwrap().is_none(), "not at once");
}

/// The tables are put in in an order that the database allows, and none is forgotten.
#[tokio::test]
async fn every_table_of_a_shop_is_in_it() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let mut tx = archive::moment(&Store::new(pool.clone(), 1)).await.unwrap();
    let mut names: Vec<String> = archive::tables(&mut tx)
        .await
        .unwrap()
        .into_iter()
        .map(|t| t.name)
        .collect();
    names.sort();
    let all: Vec<String> = sqlx::query_scalar(
        "select tablename::text from pg_tables where schemaname = 'public' and tablename not in ('_sqlx_migrations', 'backup_try') order by 1",
    )
    .fetch_all(&pool)
    .await
    .unwrap();
    assert_eq!(names, all);
}

#[tokio::test]
async fn a_loading_that_was_broken_off_begins_again() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let store = Store::new(pool.clone(), 1);
    let files = demo();
    // Broken off at some moment of the jobs.
    let begun = async {
        loop {
            tokio::time::sleep(Duration::from_millis(10)).await;
            let jobs: i64 = sqlx::query_scalar("select count(*) from job")
                .fetch_one(&pool)
                .await
                .unwrap();
            if jobs > 3 {
                // Whoever comes meanwhile is turned away.
                return load::shop(&store, &demo()).await;
            }
        }
    };
    let second = rocket::tokio::select! {
        _ = load::shop(&store, &files) => panic!("it was done before it could be broken off"),
        second = begun => second,
    };
    assert!(second.unwrap_err().contains("somebody else is loading"));
    let mut again = load::shop(&store, &demo()).await;
    for _ in 0..50 {
        // The lock of the one that was broken off goes with its connection's next use.
        if again.as_ref().is_err_and(|e| e.contains("somebody else")) {
            tokio::time::sleep(Duration::from_millis(20)).await;
            again = load::shop(&store, &demo()).await;
        }
    }
    assert!(again.unwrap());
    let counts: (i64, i64, bool) = sqlx::query_as("select (select count(*) from job), (select count(*) from shop), (select loading from shop)")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert_eq!(counts, (50, 1, false));
}

/// A job's file as the first version of its form had it: one JSON, with what its pictures are made of in hexadecimal.
fn as_first_version(file: &[u8]) -> Value {
    let mut zip = zip::ZipArchive::new(std::io::Cursor::new(file)).unwrap();
    let mut read = |name: &str| {
        let mut bytes = Vec::new();
        zip.by_name(name).unwrap().read_to_end(&mut bytes).unwrap();
        bytes
    };
    let mut about: Value = serde_json::from_slice(&read("job.json")).unwrap();
    let mut records = Vec::new();
    for of in about["tables"].as_array().unwrap() {
        let table = of["table"].as_str().unwrap();
        let lines = String::from_utf8(read(&format!("tables/{table}.jsonl"))).unwrap();
        let rows = lines.lines().map(|line| {
            let mut row: Value = serde_json::from_str(line).unwrap();
            for column in ["body", "small"] {
                if let Some(name) = row[column].as_str().filter(|_| table == "picture") {
                    row[column] = json!(format!("\\x{}", hex::encode(read(name))));
                }
            }
            row
        });
        let rows: Vec<Value> = rows.collect();
        records.push(json!({"table": table, "rows": rows}));
    }
    about.as_object_mut().unwrap().remove("tables");
    about["version"] = json!(1);
    about["records"] = json!(records);
    about
}

/// A job goes to another shop as a file: what it says there is what it said here, under names of that shop's.
#[tokio::test]
async fn a_job_goes_to_another_shop_as_a_file() {
    let here = Shop::holding(Holds::Demo).await;
    let pool = here.pool.clone();
    let there = Shop::open().await;
    // A size was taken with a micrometer that nobody else has.
    let sized = sqlx::query(
        r#"update part_act set said = said || '{"gauge_key": "mic-here"}' where said ? 'size'"#,
    );
    assert!(sized.execute(&pool).await.unwrap().rows_affected() > 0);
    // Somebody else has these initials there, another gauge this key, and the sheet says otherwise.
    for change in [
        "update person set name = 'Somebody Else' where initials = 'OB'",
        "update gauge set repeatability_nm = 9000 where kind = 'dial'",
        "update sheet set body = replace(body, '0.34 mm', '0.35 mm') where sheet_key = 'tolvane-t5'",
    ] {
        sqlx::query(change).execute(&there.pool).await.unwrap();
    }
    let jobs: Vec<i32> = sqlx::query_scalar("select job_no from job order by job_no")
        .fetch_all(&pool)
        .await
        .unwrap();
    for job in jobs {
        let file = here.bytes(&format!("/api/jobs/{job}/file")).await;
        let taken = there.take_in(file).await.ok();
        let new = taken["job_no"].as_i64().unwrap();
        let (one, two) = (
            here.get(&format!("/api/jobs/{job}")).await.ok(),
            there.get(&format!("/api/jobs/{new}")).await.ok(),
        );
        for what in [
            "title",
            "customer",
            "complaint",
            "sheet",
            "finished_at",
            "check_count",
            "signed_count",
        ] {
            assert_eq!(one[what], two[what], "job {job}: {what}");
        }
        for a in one["checks"].as_array().unwrap() {
            let key = a["check_key"].as_str().unwrap();
            let (a, b) = (
                here.get(&format!("/api/jobs/{job}/checks/{key}"))
                    .await
                    .ok(),
                there
                    .get(&format!("/api/jobs/{new}/checks/{key}"))
                    .await
                    .ok(),
            );
            let figures = |check: &serde_json::Value| -> Vec<serde_json::Value> {
                let all = check["readings"].as_array().unwrap();
                all.iter()
                    .map(|r| json!([r["figure_nm"], r["typed"], r["round"], r["struck"], r["at"]]))
                    .collect()
            };
            assert_eq!(figures(&a), figures(&b), "job {job}, {key}");
            assert_eq!(a["fitted_nm"], b["fitted_nm"], "job {job}, {key}");
            if a["phase"] == "signed" {
                assert_eq!(b["phase"], "signed", "job {job}, {key}");
                assert_eq!(
                    a["signings"].as_array().map(Vec::len),
                    b["signings"].as_array().map(Vec::len)
                );
            }
        }
    }
    let names: Vec<(String, String)> =
        sqlx::query_as("select initials, name from person order by initials")
            .fetch_all(&there.pool)
            .await
            .unwrap();
    assert!(
        names.iter().any(|n| n.0 == "OB" && n.1 == "Somebody Else"),
        "{names:?}"
    );
    assert!(
        names
            .iter()
            .any(|n| n.0 != "OB" && n.1 == "Odo Brandreth (Brandreth & Loam)"),
        "{names:?}"
    );
    let sheets: Vec<(String, i32)> =
        sqlx::query_as("select sheet_key, max(revision) from sheet group by 1 order by 1")
            .fetch_all(&there.pool)
            .await
            .unwrap();
    assert!(
        sheets.contains(&("tolvane-t5".into(), 1)) && sheets.contains(&("tolvane-t5-2".into(), 1)),
        "{sheets:?}"
    );
    let promised: i64 = sqlx::query_scalar("select sum(reserved) from stock")
        .fetch_one(&there.pool)
        .await
        .unwrap();
    assert_eq!(promised, 0, "what was set aside there was of its drawers");

    // What cannot be read says so at the file, and leaves nothing.
    let before: i64 = sqlx::query_scalar("select count(*) from job")
        .fetch_one(&there.pool)
        .await
        .unwrap();
    let file = as_first_version(&here.bytes("/api/jobs/1/file").await);
    let tables = file["records"].as_array().unwrap();
    let place = |table: &str, rest: &str| {
        let at = tables.iter().position(|t| t["table"] == table);
        format!("/records/{}/rows/0/{rest}", at.unwrap())
    };
    let phase = place("job_check", "phase");
    let mut spoilt = Vec::new();
    // What no view could show, or nobody could have said.
    for (table, rest, value) in [
        ("job", "intake", json!({"promised": "the day after"})),
        ("job", "opened_at", json!("infinity")),
        ("job", "opened_at", json!("1970-01-01T00:00:00+00:00")),
        ("reading", "at", json!("2999-01-01T00:00:00+00:00")),
        ("job", "title", json!("a".repeat(1_000_000))),
        ("job", "customer", json!("nobody\u{0}")),
        ("part_act", "said", json!({"act": "melted", "part": "in-3"})),
        (
            "part_act",
            "said",
            json!({"act": "found", "part": "in-3", "state": "reused", "conditions": "pitted"}),
        ),
        (
            "part_act",
            "said",
            json!({"act": "found", "part": "in-3", "state": "sold"}),
        ),
        (
            "part_act",
            "said",
            json!({"act": "found", "part": "in-3", "state": "reused", "conditions": ["x".repeat(60)]}),
        ),
        ("reading", "taken", json!({"way": "by the moon"})),
        ("job_identity", "given", json!([1, 2])),
    ] {
        let mut file = file.clone();
        *file
            .pointer_mut(&place(table, rest))
            .unwrap_or_else(|| panic!("{table} has {rest}")) = value;
        spoilt.push((file.to_string(), "cannot be taken in"));
    }
    for (at, value, told) in [
        ("/format", json!("a letter"), "no job’s file"),
        ("/schema", json!(9_999), "newer Dry Anvil"),
        ("/records/0/table", json!("pg_class"), "called so"),
        ("/records/0/rows/0/title", json!(""), "cannot be taken in"),
        (phase.as_str(), json!("asleep"), "cannot be taken in"),
        ("/people", json!("nobody"), "cannot be read"),
        ("/people/0/initials", json!("R7"), "two to four letters"),
    ] {
        let mut file = file.clone();
        *file.pointer_mut(at).unwrap() = value;
        spoilt.push((file.to_string(), told));
    }
    spoilt.push(("not at all".into(), "no JSON"));
    spoilt.push(("PK, and no more".into(), "the archive"));
    for (text, told) in spoilt {
        let refused = there.take_in(text.into_bytes()).await;
        let refused = refused.refused(422, "bad-field");
        assert_eq!(refused["field"], "file");
        assert!(
            refused["title"].as_str().unwrap().contains(told),
            "{told}: {refused}"
        );
    }
    let after: i64 = sqlx::query_scalar("select count(*) from job")
        .fetch_one(&there.pool)
        .await
        .unwrap();
    assert_eq!(before, after);
}

/// What the database counts has other numbers here, and what names them goes with them; a box that a part came out of is
/// not the job of that number here.
#[tokio::test]
async fn what_a_jobs_file_names_by_number_is_the_same_here() {
    let shop = Shop::open().await;
    let job = shop.job().await.trim_end_matches("/checks").to_owned();
    let note = json!({"said": "wrong job", "who": "RT"});
    let noted = shop.post(&format!("{job}/notes"), None, note).await.ok();
    let struck = json!({"struck": true, "who": "OB"});
    let at = format!("{job}/notes/{}/marks", noted["notes"][0]["note_no"]);
    shop.post(&at, None, struck).await.ok();
    for change in [
        "insert into picture (shop_id, job_no, width, height, body, small, who)
         select 1, 1, 2, 1, decode('ffd8ff0' || n, 'hex'), '\\x05', 'RT' from generate_series(1, 2) n",
        "insert into picture_mark (shop_id, job_no, picture_no, struck, who) select 1, 1, max(picture_no), true, 'OB' from picture",
        "insert into part_act (shop_id, job_no, said, who) values
         (1, 1, '{\"act\": \"found\", \"part\": \"in-3\", \"state\": \"from_another\", \"from\": 1}', 'RT')",
    ] {
        sqlx::query(change).execute(&shop.pool).await.unwrap();
    }
    let file = shop.bytes(&format!("{job}/file")).await;
    let older = as_first_version(&file).to_string().into_bytes();
    let pictures = async |job: &str| -> Vec<Value> {
        let all = shop.get(&format!("{job}/pictures")).await.ok();
        let all = all.as_array().unwrap().iter();
        all.map(|p| p["struck_by"].clone()).collect()
    };
    assert_eq!(pictures(&job).await, [Value::Null, json!("OB")]);
    let notes = async |job: &str| -> Vec<Value> {
        let all = shop.get(job).await.ok();
        let all = all["notes"].as_array().unwrap().iter();
        all.map(|n| json!([n["said"], n["struck_by"]])).collect()
    };
    // In its form of today and in its first, and once more from what was taken in.
    let mut again = Vec::new();
    for sent in [Some(older), Some(file.clone()), None] {
        let new = shop.take_in(sent.unwrap_or(again)).await.ok();
        let new = format!("/api/jobs/{}", new["job_no"]);
        assert_eq!(pictures(&new).await, pictures(&job).await);
        assert!(notes(&new).await.contains(&json!(["wrong job", "OB"])));
        again = shop.bytes(&format!("{new}/file")).await;
        assert_eq!(files_in(&again), files_in(&file));
        assert_eq!(files_in(&again).len(), 3);
    }
    let froms: Vec<Option<String>> =
        sqlx::query_scalar("select said->>'from' from part_act order by job_no")
            .fetch_all(&shop.pool)
            .await
            .unwrap();
    assert_eq!(froms, [Some("1".to_owned()), None, None, None]);

    // What was altered on the way is not taken in.
    let mut altered = file;
    let at = altered
        .windows(4)
        .position(|w| w == [0xff, 0xd8, 0xff, 0x01])
        .unwrap();
    altered[at + 3] = 0x77;
    let refused = shop.take_in(altered).await.refused(422, "bad-field");
    assert_eq!(refused["field"], "file");
}

/// What the pictures of a job's file are made of, by its SHA-256.
fn files_in(file: &[u8]) -> Vec<String> {
    let zip = zip::ZipArchive::new(Cursor::new(file)).unwrap();
    let names = zip.file_names().map(|n| n.unwrap().into_owned());
    let mut names: Vec<String> = names.filter(|n| n.starts_with("files/")).collect();
    names.sort();
    names
}

/// More pictures than the database takes in one list: `PostgreSQL`'s arrays within JSON have at most 256 MiB.
#[tokio::test]
async fn a_shop_with_many_pictures_comes_back() {
    let shop = Shop::open().await;
    shop.job().await;
    let beside = Beside::of(&shop.pool).await;
    sqlx::query(
        "insert into picture (shop_id, job_no, width, height, body, small, who)
         select 1, 1, 1800, 1200, decode(repeat(md5(n::text), 45000), 'hex'), 'x', 'RT' from generate_series(1, 190) n",
    )
    .execute(&shop.pool)
    .await
    .unwrap();
    let dir = tempfile::tempdir().unwrap();
    let file = dir.path().join("shop.zip");
    backup::write(&Store::new(shop.pool.clone(), 1), &file)
        .await
        .unwrap();
    let mode = std::os::unix::fs::PermissionsExt::mode(&file.metadata().unwrap().permissions());
    assert_eq!(mode & 0o777, 0o600, "nobody else reads it");
    backup::restore(&beside.url, &file, 1).await.unwrap();
    let hashes = "select array_agg(md5(body) order by picture_no) from picture";
    let all = |pool: &PgPool| {
        let pool = pool.clone();
        async move {
            sqlx::query_scalar::<_, Vec<String>>(hashes)
                .fetch_one(&pool)
                .await
                .unwrap()
        }
    };
    let restored = all(&connect(&beside.url).await.unwrap()).await;
    assert_eq!(restored.len(), 190);
    assert_eq!(restored, all(&shop.pool).await);
    beside.gone().await;
}
