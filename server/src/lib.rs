//! The server: parse, call the core, store, answer.
//!
//! - [`routes`]: HTTP, one file per resource, mirrored by
//! - [`store`]: all the SQL there is;
//! - [`work`]: the writes on a check, each one transaction;
//! - [`gap`]: one check put together for the screen;
//! - [`guard`]: own pages only, done-once writes, edits on what was seen;
//! - [`problem`]: the one error type;
//! - [`load`]: a shop's files into an empty database.

pub mod gap;
pub mod guard;
pub mod load;
pub mod problem;
pub mod routes;
pub mod store;
pub mod work;

use std::path::PathBuf;
use std::time::Duration;

use rocket::fairing::AdHoc;
use rocket::figment::Figment;
use rocket::fs::{FileServer, NamedFile};
use rocket::{Build, Rocket};
use serde::Deserialize;
use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;

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

/// A pool of connections to the database.
pub async fn connect(url: &str) -> sqlx::Result<PgPool> {
    PgPoolOptions::new()
        .max_connections(16)
        .acquire_timeout(Duration::from_secs(5))
        .connect(url)
        .await
}

/// The server on a store; tests launch the same.
pub fn rocket(figment: Figment, store: Store) -> Rocket<Build> {
    let settings: Settings = figment.extract().unwrap_or(Settings { web_dir: None });
    let rocket = rocket::custom(figment)
        .manage(store)
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
