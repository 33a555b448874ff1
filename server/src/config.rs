//! Settings, and the pool of connections.

use std::path::PathBuf;
use std::str::FromStr;
use std::time::Duration;

use rocket::figment::Figment;
use serde::Deserialize;
use sqlx::migrate::MigrateError;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{Connection, PgPool};

/// What the server needs to know, from Rocket's Figment (`ROCKET_WEB_DIR` and so on).
#[derive(Debug, Deserialize)]
pub struct Settings {
    /// The folder of the built front end; without it only the interface for programs is served.
    pub web_dir: Option<PathBuf>,
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
    let processors = std::thread::available_parallelism().map_or(2, std::num::NonZero::get);
    let options = PgConnectOptions::from_str(url)?
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

/// Brings the database's schema up to date, on connections of its own: a change may take its time.
///
/// # Errors
/// Where the database does not answer, or is another's or of another time; with the way out.
pub async fn up_to_date(url: &str) -> Result<(), String> {
    let patient = PgPool::connect(url).await.map_err(|e| no_answer(&e))?;
    let done = crate::MIGRATIONS.run(&patient).await;
    patient.close().await;
    done.map_err(|e| match e {
        MigrateError::VersionMismatch(version) => format!(
            "the database was made by another build, whose change {version} of the schema is not the same as this one's. Keep the database and run the build that made it; or start afresh with another database (DATABASE_URL, or DRY_ANVIL_DATA set to an empty folder)"
        ),
        MigrateError::VersionMissing(version) => format!(
            "the database is of a newer Dry Anvil, whose change {version} of the schema this one does not know. Run the newer one"
        ),
        error => format!(
            "the database's schema could not be brought up to date ({error}). Is it a database of Dry Anvil, which may be changed?"
        ),
    })
}

/// That the database does not answer.
#[must_use]
pub fn no_answer(error: &sqlx::Error) -> String {
    format!(
        "the database at DATABASE_URL does not answer ({error}). Check host, port, name and password in it, or unset it to let ./start bring its own"
    )
}
