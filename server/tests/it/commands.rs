//! The program from the outside: what each command prints, and the one clear line where it cannot go on.

use std::process::{Command, Output};

use crate::house::base::{Base, Holds};
use crate::house::{PROGRAM, small_shop};
use serde_json::Value;
use sqlx::{ConnectOptions, PgPool};

fn run(words: &[&str], environment: &[(&str, &str)]) -> Output {
    Command::new(PROGRAM)
        .args(words)
        .env_remove("DATABASE_URL")
        .env("RUST_LOG", "off")
        .env("ROCKET_LOG_LEVEL", "off")
        .envs(environment.iter().copied())
        .output()
        .unwrap()
}

/// The one line on standard error of a command that cannot go on.
fn refusal(output: &Output) -> String {
    assert!(!output.status.success());
    let said = String::from_utf8(output.stderr.clone()).unwrap();
    let told = said.trim().strip_prefix("Dry Anvil cannot go on: ");
    told.unwrap_or_else(|| panic!("{said}")).to_owned()
}

fn url(pool: &PgPool) -> String {
    pool.connect_options().to_url_lossy().to_string()
}

#[test]
fn descriptions_are_printed_without_a_database() {
    let api: Value = serde_json::from_slice(&run(&["openapi"], &[]).stdout).unwrap();
    assert!(api["paths"]["/api/jobs/{job_no}/checks/{check_key}/readings"]["post"].is_object());
    let ids: Vec<&str> = api["paths"]
        .as_object()
        .unwrap()
        .values()
        .flat_map(|path| path.as_object().unwrap().values())
        .map(|operation| operation["operationId"].as_str().unwrap())
        .collect();
    let mut unlike = ids.clone();
    unlike.sort_unstable();
    unlike.dedup();
    assert_eq!(unlike.len(), ids.len(), "two operations of one name");
    let schema: Value = serde_json::from_slice(&run(&["sheet-schema"], &[]).stdout).unwrap();
    assert_eq!(schema["title"], "Dry Anvil spec sheet");
}

#[test]
fn a_database_that_is_missing_or_wrong_is_named() {
    assert!(refusal(&run(&["serve"], &[])).starts_with("DATABASE_URL is not set"));
    let wrong = [("DATABASE_URL", "postgres://nobody@127.0.0.1:1/none")];
    assert!(
        refusal(&run(&["serve"], &wrong))
            .starts_with("the database at DATABASE_URL does not answer")
    );
    let nonsense = [("DATABASE_URL", "not an address")];
    assert!(
        refusal(&run(&["load", "demo"], &nonsense)).starts_with("the database at DATABASE_URL")
    );
    assert!(refusal(&run(&["polish"], &[])).starts_with("usage:"));
}

#[tokio::test]
async fn another_address_and_a_taken_port_are_refused() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let url = url(&pool);
    let open = [
        ("DATABASE_URL", url.as_str()),
        ("ROCKET_ADDRESS", "0.0.0.0"),
    ];
    assert!(refusal(&run(&["serve"], &open)).contains("not a loopback address"));
    let no_pages = [
        ("DATABASE_URL", url.as_str()),
        ("ROCKET_WEB_DIR", "no-such-folder"),
    ];
    let told = refusal(&run(&["serve"], &no_pages));
    assert!(
        told.contains("no index.html in no-such-folder (ROCKET_WEB_DIR)"),
        "{told}"
    );
    let taken = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let port = taken.local_addr().unwrap().port().to_string();
    let there = [
        ("DATABASE_URL", url.as_str()),
        ("ROCKET_PORT", port.as_str()),
    ];
    let told = refusal(&run(&["serve"], &there));
    assert!(told.contains(&format!("port {port} is taken")), "{told}");
}

#[tokio::test]
async fn a_shop_with_a_fault_leaves_nothing_behind() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let url = url(&pool);
    let database = [("DATABASE_URL", url.as_str())];
    let shop = small_shop();
    let dir = shop.path().to_str().unwrap();
    let sheet = shop.path().join("sheets/tolvane-t5.json");
    let good = std::fs::read_to_string(&sheet).unwrap();
    std::fs::write(&sheet, good.replacen("\"17 mm\"", "\"17 yards\"", 1)).unwrap();
    let told = refusal(&run(&["load", dir], &database));
    assert!(
        told.contains("/shafts/0/parts/0/width") && told.contains("is not a unit read here"),
        "{told}"
    );
    std::fs::write(&sheet, good).unwrap();
    let loaded = run(&["load", dir], &database);
    assert!(
        String::from_utf8_lossy(&loaded.stdout).contains("Loaded the shop"),
        "{loaded:?}"
    );
    let again = run(&["load", dir], &database);
    assert!(String::from_utf8_lossy(&again.stdout).contains("holds a shop already"));
    assert!(refusal(&run(&["load", "no-such-folder"], &database)).contains("cannot be read"));
}

/// A change of the schema that somebody's database has been through is never edited: a new one follows it.
#[test]
fn changes_of_the_schema_stay_as_they_were_made() {
    let digit = |d: u8| char::from_digit(d.into(), 16).unwrap();
    let hex = |sum: &[u8]| -> String {
        let digits = sum.iter().flat_map(|b| [b >> 4, b & 15]);
        digits.map(digit).collect()
    };
    let changes = dry_anvil::MIGRATIONS.iter();
    let now: Vec<String> = changes
        .map(|c| format!("{} {}", c.version, hex(&c.checksum)))
        .collect();
    let made: Vec<&str> = include_str!("migrations.txt").lines().collect();
    assert_eq!(
        now, made,
        "add a change and its sum; never edit one that was kept"
    );
}

#[tokio::test]
async fn a_database_of_another_build_is_told_with_the_way_out() {
    let base = Base::of(Holds::Schema).await;
    let pool = base.pool.clone();
    let url = url(&pool);
    let database = [("DATABASE_URL", url.as_str())];
    let spoil = async |how: &str| {
        sqlx::query(sqlx::AssertSqlSafe(how))
            .execute(&pool)
            .await
            .unwrap();
        refusal(&run(&["serve"], &database))
    };
    let behind = spoil("delete from _sqlx_migrations where version > 11").await;
    assert!(behind.contains("run dry-anvil migrate"), "{behind}");
    let edited = spoil("update _sqlx_migrations set checksum = '\\x00' where version = 3").await;
    assert!(edited.contains("made by another build"), "{edited}");
    assert!(edited.contains("DRY_ANVIL_DATA"), "{edited}");
    let newer = spoil(
        "insert into _sqlx_migrations (version, description, success, checksum, execution_time)
         values (9999, 'of a time to come', true, '', 0)",
    )
    .await;
    assert!(
        newer.contains("change 9999") && newer.contains("Run the newer one"),
        "{newer}"
    );
}
