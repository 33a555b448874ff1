//! The two promises a write makes: done once, and only on what was seen.

use std::str::FromStr;

use rocket::http::Status;
use rocket::request::{FromRequest, Outcome, Request};

use super::problem::{ApiResult, Problem};

/// What an address asks for after its question mark, where it does.
///
/// # Errors
/// Where it is not of the kind that `like` shows.
pub fn asked<T: FromStr>(field: &str, text: Option<&str>, like: &str) -> ApiResult<Option<T>> {
    let given = text.map(str::parse).transpose();
    given.map_err(|_| Problem::field(field, format!("This is to be {like}.")))
}

/// What [`asked`] is to be like.
pub const YES_NO: &str = "“true” or “false”";
/// What [`asked`] is to be like.
pub const NUMBER: &str = "a whole number, such as 3";

/// What [`asked`] is to be like.
pub const UNIT: &str = "a unit: “mm”, “um”, “thou” or “in”";

/// The `Idempotency-Key` of a write: the same key twice does the write once.
pub struct IdempotencyKey(pub String);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for IdempotencyKey {
    type Error = ();
    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        match request.headers().get_one("Idempotency-Key") {
            Some(key) if (8..=80).contains(&key.len()) && key.is_ascii() => {
                Outcome::Success(Self(key.to_owned()))
            }
            _ => Outcome::Error((Status::PreconditionRequired, ())),
        }
    }
}

/// The `If-Match` of an edit: the version of the thing that the person was looking at.
#[derive(Clone, Copy, Debug)]
pub struct IfMatch(i32);

#[rocket::async_trait]
impl<'r> FromRequest<'r> for IfMatch {
    type Error = ();
    async fn from_request(request: &'r Request<'_>) -> Outcome<Self, ()> {
        let version = request
            .headers()
            .get_one("If-Match")
            .and_then(|tag| tag.trim_matches('"').parse().ok());
        match version {
            Some(version) => Outcome::Success(Self(version)),
            None => Outcome::Error((Status::PreconditionRequired, ())),
        }
    }
}

impl IfMatch {
    /// That version was seen.
    #[must_use]
    pub const fn at(version: i32) -> Self {
        Self(version)
    }

    /// That it is wanted, and was not sent.
    #[must_use]
    pub fn wanted() -> Problem {
        Problem::header_missing()
    }

    /// Fails where the thing has changed since it was seen.
    pub fn still(&self, version: i32, what: &str) -> ApiResult<()> {
        if self.0 == version {
            return Ok(());
        }
        Err(Problem::new(
            Status::PreconditionFailed,
            "changed-meanwhile",
            format!(
                "{what} has changed since you looked. What it says now is on the screen; look again, then decide."
            ),
        ))
    }
}
