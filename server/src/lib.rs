//! The server: parse, call the core, store, answer.
//!
//! - [`routes`]: HTTP, one file per resource, mirrored by
//! - [`store`]: all the SQL there is;
//! - [`work`]: the writes on a check, each one transaction;
//! - [`gap`]: one check put together for the screen, [`ways`] its ways of measuring;
//! - [`guard`]: own pages only, done-once writes, edits on what was seen;
//! - [`problem`]: the one error type;
//! - [`load`]: a shop's files into an empty database.

pub mod aim;
pub mod gap;
pub mod guard;
pub mod load;
pub mod order;
pub mod past;
pub mod problem;
pub mod revise;
pub mod routes;
pub mod share;
pub mod stock;
pub mod store;
pub mod swap;
pub mod ways;
pub mod work;

use std::path::PathBuf;
use std::str::FromStr;
use std::time::Duration;

use rocket::fairing::AdHoc;
use rocket::figment::Figment;
use rocket::fs::{FileServer, NamedFile};
use rocket::{Build, Rocket};
use serde::Deserialize;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use sqlx::{Connection, PgPool};

use crate::store::Store;

/// The schema's history; each test runs it on a database of its own.
pub static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!("./migrations");

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

/// The server on a store; tests launch the same.
pub fn rocket(figment: Figment, store: Store) -> Rocket<Build> {
    let settings: Settings = figment.extract().unwrap_or(Settings { web_dir: None });
    let rocket = rocket::custom(figment)
        .manage(store)
        .manage(routes::live::Hub::default())
        .attach(guard::OwnPagesOnly::default())
        .attach(AdHoc::on_response("never sniffed, never framed, never kept", |request, answer| {
            Box::pin(async move {
                answer.set_raw_header("X-Content-Type-Options", "nosniff");
                answer.set_raw_header("X-Frame-Options", "DENY");
                answer.set_raw_header("Referrer-Policy", "no-referrer");
                answer.set_raw_header("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'none'");
                if request.uri().path().starts_with("/api") {
                    answer.set_raw_header("Cache-Control", "no-store");
                }
            })
        }))
        .register("/", rocket::catchers![problem::turned_away])
        .mount("/", rocket::routes![routes::health::healthz, routes::health::readyz])
        .mount("/api", routes::all());
    match settings.web_dir {
        Some(dir) => rocket
            .manage(Page(dir.join("index.html")))
            .mount("/", FileServer::from(dir).rank(15))
            .mount("/", rocket::routes![page]),
        None => rocket,
    }
}

/// The one page of the front end.
struct Page(PathBuf);

/// Every address that is no file and not the interface's is a view of the front end.
#[rocket::get("/<path..>", rank = 20)]
async fn page(path: PathBuf, page: &rocket::State<Page>) -> Option<NamedFile> {
    let no_view = path.starts_with("api") || path.starts_with("assets");
    if no_view {
        None
    } else {
        NamedFile::open(&page.0).await.ok()
    }
}
