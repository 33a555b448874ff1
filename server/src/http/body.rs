//! What is sent with a request: JSON, read whole, with the field at fault where it cannot be used.

use std::ops::Deref;

use anvil_core::texts::unstorable;
use rocket::data::{Data, FromData, Limits, Outcome};
use rocket::http::Status;
use rocket::request::Request;
use serde::de::DeserializeOwned;
use serde_json::error::Category;

use super::problem::{ApiResult, Problem};

/// A request's body.
#[derive(Debug)]
pub struct Body<T>(T);

impl<T> Body<T> {
    /// What was sent.
    pub fn into_inner(self) -> T {
        self.0
    }
}

impl<T> Deref for Body<T> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.0
    }
}

#[rocket::async_trait]
impl<'r, T: DeserializeOwned> FromData<'r> for Body<T> {
    type Error = ();

    async fn from_data(request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r, Self, ()> {
        let limit = request.limits().get("json").unwrap_or(Limits::JSON);
        let text = match data.open(limit).into_string().await {
            Ok(text) if text.is_complete() => text.into_inner(),
            Ok(_) => return Outcome::Error((Status::PayloadTooLarge, ())),
            Err(_) => return Outcome::Error((Status::BadRequest, ())),
        };
        match read(&text) {
            Ok(body) => Outcome::Success(Self(body)),
            Err(problem) => {
                let status = Status::new(problem.status);
                // For the catcher, which is told the status only.
                request.local_cache(|| Some(problem));
                Outcome::Error((status, ()))
            }
        }
    }
}

fn read<T: DeserializeOwned>(text: &str) -> ApiResult<T> {
    let read = |error: &serde_json::Error| match error.classify() {
        Category::Data => Problem::new(
            Status::UnprocessableEntity,
            "bad-request",
            format!(
                "The request has a field that is missing or of the wrong kind: {error}. /api/openapi.json says which fields there are."
            ),
        ),
        _ => Problem::new(
            Status::BadRequest,
            "bad-request",
            format!(
                "The request could not be read: its body must be JSON of the form that /api/openapi.json describes ({error})."
            ),
        ),
    };
    // Only what has such a character in it, or says so, is looked through.
    if text.contains("\\u0000") || text.contains('\0') {
        let value = serde_json::from_str(text).map_err(|e| read(&e))?;
        if let Some(field) = unstorable(&value) {
            return Err(Problem::field(
                &field,
                "This holds a character that cannot be kept (NUL): take it out.",
            ));
        }
    }
    serde_json::from_str(text).map_err(|e| read(&e))
}
