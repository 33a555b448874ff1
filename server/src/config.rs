//! Settings, and the pool of connections.

use std::path::PathBuf;
use std::str::FromStr;
use std::time::Duration;

use rocket::figment::Figment;
use sqlx::migrate::{AppliedMigration, Migrate, MigrateError};
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{Connection, PgPool};

use crate::MIGRATIONS;

/// What the server needs to know, from Rocket's Figment (`ROCKET_WEB_DIR` and so on).
#[derive(Debug)]
pub struct Settings {
    /// The folder of the built front end; without it only the interface for programs is served.
    pub web_dir: Option<PathBuf>,
    /// The folder into which a backup is written every night; without it none is.
    pub backup_dir: Option<PathBuf>,
    /// How many of those stay.
    pub backup_keep: usize,
}

impl Settings {
    /// From Rocket's settings; what is not said there is as usual.
    #[must_use]
    pub fn of(figment: &Figment) -> Self {
        Self {
            web_dir: figment.extract_inner("web_dir").ok(),
            backup_dir: figment.extract_inner("backup_dir").ok(),
            backup_keep: figment.extract_inner("backup_keep").unwrap_or(14),
        }
    }
}

/// Rocket's settings as this server wants them: loopback only, one port, room for a sheet.
#[must_use]
pub fn figment() -> Figment {
    rocket::Config::figment()
        .join(("address", "127.0.0.1"))
        .join(("port", 7410))
        .merge(("ident", "Dry Anvil"))
        .merge(("limits.json", "2 MiB"))
        .merge(("limits.string", "2 MiB"))
}

/// A connection idle for longer is asked whether it still stands before it is used.
const SURELY_THERE: Duration = Duration::from_secs(1);

/// What no statement may take, no wait for somebody else, and no silence within a write: a person has gone by then, and
/// whoever comes next must not wait for them.
const TIMEOUTS: [(&str, &str); 3] = [
    ("statement_timeout", "15s"),
    ("lock_timeout", "3s"),
    ("idle_in_transaction_session_timeout", "20s"),
];

/// A pool of connections to the database.
///
/// Twice as many as there are processors, for the database works on the same machine: more would
/// only wait for each other. Statements keep one plan each: what they ask is always of one kind, and
/// planning them anew took longer than answering.
///
/// # Errors
/// Where the database does not answer.
pub async fn connect(url: &str) -> sqlx::Result<PgPool> {
    connect_on(PgConnectOptions::from_str(url)?).await
}

/// The same for those who load a shop: what they write need not be safe on the disk before [`is_whole`], for a shop
/// loaded in part is loaded again.
///
/// [`is_whole`]: crate::db::shop::is_whole
///
/// # Errors
/// As there.
pub async fn loading(url: &str) -> sqlx::Result<PgPool> {
    let options = PgConnectOptions::from_str(url)?;
    connect_on(options.options([("synchronous_commit", "off")])).await
}

/// A pool of connections of one's own making.
///
/// # Errors
/// Where the database does not answer.
pub async fn connect_on(options: PgConnectOptions) -> sqlx::Result<PgPool> {
    let processors = std::thread::available_parallelism().map_or(2, std::num::NonZero::get);
    let options = options
        .options([("plan_cache_mode", "force_generic_plan")])
        .options(TIMEOUTS);
    PgPoolOptions::new()
        .max_connections(u32::try_from(processors * 2).unwrap_or(u32::MAX))
        .acquire_timeout(Duration::from_secs(5))
        .test_before_acquire(false)
        .before_acquire(|connection, meta| {
            Box::pin(async move {
                if meta.idle_for > SURELY_THERE {
                    connection.ping().await?;
                }
                Ok(true)
            })
        })
        .connect_with(options)
        .await
}

/// Brings the database's schema up to date, or as far as `version`, on connections of its own: a change may take its time.
///
/// # Errors
/// Where the database does not answer, or is another's or of another time; with the way out.
pub async fn bring_up(url: &str, version: Option<i64>) -> Result<(), String> {
    let options = PgConnectOptions::from_str(url).map_err(|e| no_answer(&e))?;
    bring_up_on(options, version).await
}

/// The same, on connections of one's own making.
///
/// # Errors
/// As there.
pub async fn bring_up_on(options: PgConnectOptions, version: Option<i64>) -> Result<(), String> {
    let patient = PgPool::connect_with(options).await;
    let patient = patient.map_err(|e| no_answer(&e))?;
    let done = match version {
        Some(version) => MIGRATIONS.run_to(version, &patient).await,
        None => MIGRATIONS.run(&patient).await,
    };
    patient.close().await;
    done.map_err(|e| match e {
        MigrateError::VersionMismatch(version) => other_build(version),
        MigrateError::VersionMissing(version) => newer(version),
        error => format!(
            "the database's schema could not be brought up to date ({error}). Is it a database of Dry Anvil, which may be changed?"
        ),
    })
}

/// The schema is the one that this program was made for; nothing is written.
///
/// # Errors
/// Where it is not, or the database does not answer; with the way out.
pub async fn is_up_to_date(pool: &PgPool) -> Result<(), String> {
    const BEHIND: &str =
        "the database's schema is not up to date: run dry-anvil migrate on it first (./start does)";
    let mut connection = pool.acquire().await.map_err(|e| no_answer(&e))?;
    let applied = match connection.list_applied_migrations("_sqlx_migrations").await {
        Ok(applied) => applied,
        // Of an empty database there is no list.
        Err(MigrateError::Execute(sqlx::Error::Database(_))) => return Err(BEHIND.into()),
        Err(error) => {
            return Err(format!(
                "the database does not say which schema it has ({error})"
            ));
        }
    };
    let known = |version| MIGRATIONS.iter().find(|m| m.version == version);
    if let Some(unknown) = applied.iter().find(|one| known(one.version).is_none()) {
        return Err(newer(unknown.version));
    }
    let same =
        |one: &&AppliedMigration| known(one.version).is_some_and(|m| m.checksum == one.checksum);
    if let Some(other) = applied.iter().find(|one| !same(one)) {
        return Err(other_build(other.version));
    }
    if applied.len() < MIGRATIONS.iter().count() {
        return Err(BEHIND.into());
    }
    Ok(())
}

fn other_build(version: i64) -> String {
    format!(
        "the database was made by another build, whose change {version} of the schema is not the same as this one's. Keep the database and run the build that made it; or start afresh with another database (DATABASE_URL, or DRY_ANVIL_DATA set to an empty folder)"
    )
}

fn newer(version: i64) -> String {
    format!(
        "the database is of a newer Dry Anvil, whose change {version} of the schema this one does not know. Run the newer one"
    )
}

/// That the database does not answer.
#[must_use]
pub fn no_answer(error: &sqlx::Error) -> String {
    format!(
        "the database at DATABASE_URL does not answer ({error}). Check host, port, name and password in it, or unset it to let ./start bring its own"
    )
}
