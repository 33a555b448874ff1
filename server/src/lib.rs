//! The server: parse, ask the core, store, answer. Five floors, each importing only those below it:
//!
//! - [`api`]: HTTP, one file a resource, one table of routes;
//! - [`commands`]: the writes, each one transaction; [`views`]: what is sent, put together from core's answers;
//! - [`queries`]: what is loaded for the core to look at;
//! - [`db`]: all the SQL there is;
//!
//! with [`http`] beside them: the one error type, the headers of writes, who may ask. Only `api` and `http` know Rocket,
//! only `db` knows `SQLx`. [`load`] takes a shop's files into an empty database.

pub mod api;
pub mod cli;
pub mod commands;
pub mod config;
pub mod db;
pub mod http;
pub mod load;
pub mod queries;
pub mod views;

use std::path::PathBuf;

use rocket::fairing::AdHoc;
use rocket::figment::Figment;
use rocket::fs::{FileServer, NamedFile};
use rocket::{Build, Rocket};

pub use config::{Settings, connect, figment};

use crate::db::Store;
use crate::http::{problem, security};

/// The schema's history; each test runs it on a database of its own.
pub static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!("./migrations");

/// The server on a store; tests launch the same.
pub fn rocket(figment: Figment, store: Store) -> Rocket<Build> {
    let settings: Settings = figment.extract().unwrap_or(Settings { web_dir: None });
    let rocket = rocket::custom(figment)
        .manage(store)
        .manage(api::live::Hub::default())
        .manage(std::sync::Arc::new(queries::searches::Searches::default()))
        .attach(security::OwnPagesOnly::default())
        .attach(security::shield())
        .attach(AdHoc::on_liftoff("keys of old writes", |rocket| {
            Box::pin(async move {
                if let Some(store) = rocket.state::<Store>().cloned() {
                    rocket::tokio::spawn(forget_by_the_hour(store));
                }
            })
        }))
        .attach(AdHoc::on_response("never kept", |request, answer| {
            Box::pin(async move {
                if request.uri().path().starts_with("/api") {
                    answer.set_raw_header("Cache-Control", "no-store");
                }
            })
        }))
        .register("/", rocket::catchers![problem::turned_away])
        .mount(
            "/",
            rocket::routes![api::health::healthz, api::health::readyz],
        )
        .mount("/api", api::all());
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

/// Forgets the keys of old writes now and every hour; a miss is made up for by the next.
async fn forget_by_the_hour(store: Store) {
    let mut hours = rocket::tokio::time::interval(std::time::Duration::from_hours(1));
    loop {
        hours.tick().await;
        if let Err(error) = db::writes::forget_old(&store).await {
            tracing::warn!(%error, "keys of old writes were not forgotten");
        }
    }
}
