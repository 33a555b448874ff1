//! Settings, and the pool of connections.

use std::path::PathBuf;
use std::str::FromStr;
use std::time::Duration;

use rocket::figment::Figment;
use serde::Deserialize;
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

/// A pool of connections to the database.
///
/// Twice as many as there are processors, for the database works on the same machine: more would
/// only wait for each other. Statements keep one plan each: what they ask is always of one kind, and
/// planning them anew took longer than answering.
pub async fn connect(url: &str) -> sqlx::Result<PgPool> {
    let processors = std::thread::available_parallelism().map_or(2, std::num::NonZero::get);
    let options =
        PgConnectOptions::from_str(url)?.options([("plan_cache_mode", "force_generic_plan")]);
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
