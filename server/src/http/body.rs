//! What is sent with a request: JSON, read whole, with the field at fault where it cannot be used.

use std::ops::Deref;

use anvil_rules::texts::{too_long, unstorable};
use rocket::data::{Data, FromData, Limits, Outcome};
use rocket::http::Status;
use rocket::request::Request;
use serde::de::DeserializeOwned;
use serde_json::error::Category;

use super::problem::{ApiResult, Problem};

/// A request's body. Its texts are as long as the fields that hold them may be; a sheet's, which has rules of its own, are
/// not `BOUNDED`.
#[derive(Debug)]
pub struct Body<T, const BOUNDED: bool = true>(T);

impl<T, const BOUNDED: bool> Body<T, BOUNDED> {
    /// What was sent.
    pub fn into_inner(self) -> T {
        self.0
    }
}

impl<T, const BOUNDED: bool> Deref for Body<T, BOUNDED> {
    type Target = T;

    fn deref(&self) -> &T {
        &self.0
    }
}

#[rocket::async_trait]
impl<'r, T: DeserializeOwned, const BOUNDED: bool> FromData<'r> for Body<T, BOUNDED> {
    type Error = ();

    async fn from_data(request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r, Self, ()> {
        let limit = request.limits().get("json").unwrap_or(Limits::JSON);
        let text = match data.open(limit).into_string().await {
            Ok(text) if text.is_complete() => text.into_inner(),
            Ok(_) => return Outcome::Error((Status::PayloadTooLarge, ())),
            Err(_) => return Outcome::Error((Status::BadRequest, ())),
        };
        match read(&text, BOUNDED) {
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

fn read<T: DeserializeOwned>(text: &str, bounded: bool) -> ApiResult<T> {
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
    let value = serde_json::from_str(text).map_err(|e| read(&e))?;
    if let Some(field) = unstorable(&value) {
        return Err(Problem::field(
            &field,
            "This holds a character that cannot be kept (NUL): take it out.",
        ));
    }
    if let Some((field, most)) = too_long(&value).filter(|_| bounded) {
        return Err(Problem::field(
            &field,
            format!("This may have up to {most} characters: shorten it."),
        ));
    }
    serde_json::from_str(text).map_err(|e| read(&e))
}
