//! Whether the server lives, and whether it can work.

use rocket::State;
use rocket::http::Status;

use crate::db::Store;

/// The process answers.
#[rocket::get("/healthz")]
pub fn healthz() -> &'static str {
    "alive\n"
}

/// The database answers too.
#[rocket::get("/readyz")]
pub async fn readyz(store: &State<Store>) -> (Status, &'static str) {
    match store.answers().await {
        Ok(()) => (Status::Ok, "ready\n"),
        Err(error) => {
            tracing::warn!(%error, "not ready");
            (Status::ServiceUnavailable, "the database is out of reach\n")
        }
    }
}
