//! The server: parse, ask the core, store, answer. Five floors, each importing only those below it:
//!
//! - [`api`]: HTTP, one file a resource, one table of routes;
//! - [`commands`]: the writes, each one transaction; [`views`]: what is sent, put together from core's answers;
//! - [`queries`]: what is loaded for the core to look at;
//! - [`db`]: all the SQL there is, in a crate of its own;
//!
//! with [`http`] beside them: the one error type, the headers of writes, who may ask. Only `api` and `http` know Rocket,
//! only `db` knows `SQLx`. [`load`] takes a shop's files into an empty database; [`backup`] writes all of it into one file and
//! reads it back.

pub mod api;
pub mod archive_file;
pub mod backup;
pub mod cli;
pub mod commands;
pub mod config;
pub mod http;
pub mod load;
mod processor;
pub mod queries;
pub mod views;

use rocket::fairing::AdHoc;
use rocket::figment::Figment;
use rocket::{Build, Rocket};

pub use anvil_database::{MIGRATIONS, db};
pub use config::{Settings, connect, figment};

use crate::db::Store;
use crate::http::pages::Pages;
use crate::http::{problem, security};

/// The server on a store; tests launch the same.
pub fn rocket(figment: Figment, store: Store) -> Rocket<Build> {
    let settings = Settings::of(&figment);
    let nightly = backup::Nightly::of(&settings);
    let rocket = rocket::custom(figment)
        .manage(store)
        .manage(api::live::Hub::default())
        .manage(std::sync::Arc::new(queries::searches::Searches::default()))
        .attach(security::OwnPagesOnly::default())
        .attach(security::shield())
        .attach(AdHoc::on_liftoff("what goes for good", |rocket| {
            Box::pin(async move {
                if let Some(store) = rocket.state::<Store>().cloned() {
                    rocket::tokio::spawn(forget_by_the_hour(store));
                }
            })
        }))
        .manage(api::backups::IsNightly(nightly.is_some()))
        .attach(AdHoc::on_liftoff("what is due", |rocket| {
            Box::pin(async move {
                if let Some(store) = rocket.state::<Store>().cloned() {
                    rocket::tokio::spawn(commands::due::settle_for_ever(store));
                }
            })
        }))
        .attach(AdHoc::on_liftoff("nightly backups", |rocket| {
            Box::pin(async move {
                if let (Some(store), Some(nightly)) = (rocket.state::<Store>().cloned(), nightly) {
                    rocket::tokio::spawn(nightly.make_them(store));
                }
            })
        }))
        .attach(AdHoc::on_response("never kept", |request, answer| {
            Box::pin(async move {
                // What never changes says so itself.
                let says = answer.headers().contains("Cache-Control");
                if request.uri().path().starts_with("/api") && !says {
                    answer.set_raw_header("Cache-Control", "no-store");
                }
            })
        }))
        .attach(http::compressed::Compressed)
        .register("/", rocket::catchers![problem::turned_away])
        .mount(
            "/",
            rocket::routes![api::health::healthz, api::health::readyz],
        )
        .mount("/api", api::all());
    match settings.web_dir.map(|dir| Pages::of(&dir)) {
        Some(Ok(pages)) => rocket.mount("/", vec![pages.route()]),
        // The command says so before; without its pages the interface is served.
        Some(Err(error)) => {
            tracing::error!(%error, "the front end's files cannot be read");
            rocket
        }
        None => rocket,
    }
}

/// Forgets the keys of old writes, and what was taken out long ago, now and every hour; a miss is made up for by the next.
async fn forget_by_the_hour(store: Store) {
    let mut hours = rocket::tokio::time::interval(std::time::Duration::from_hours(1));
    loop {
        hours.tick().await;
        if let Err(error) = db::writes::forget_old(&store).await {
            tracing::warn!(%error, "keys of old writes were not forgotten");
        }
        if let Err(error) = commands::pictures::let_go(&store).await {
            tracing::warn!(%error, "pictures that were taken out are still there");
        }
    }
}
