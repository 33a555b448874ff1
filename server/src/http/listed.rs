//! A list, and what is left out of it because it cannot be read.

use rocket::http::{Header, RawStr};
use rocket::request::Request;
use rocket::response::{self, Responder};
use rocket::serde::json::Json;
use serde::Serialize;

use crate::db::error::Unread;

/// What can be read of a list, and what cannot: see [`Naming`].
pub struct Listed<T>(pub T, pub Vec<Unread>);

impl<'r, T: Serialize> Responder<'r, 'static> for Listed<T> {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'static> {
        Naming(Json(self.0), self.1).respond_to(request)
    }
}

/// An answer that names what it leaves out because it cannot be read, in the header `Left-Out`, as JSON, percent-encoded.
pub struct Naming<R>(pub R, pub Vec<Unread>);

impl<'r, 'o: 'r, R: Responder<'r, 'o>> Responder<'r, 'o> for Naming<R> {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'o> {
        let mut answer = self.0.respond_to(request)?;
        if !self.1.is_empty() {
            let named = serde_json::to_string(&self.1).unwrap_or_default();
            let named = RawStr::new(&named).percent_encode().to_string();
            answer.set_header(Header::new("Left-Out", named));
        }
        Ok(answer)
    }
}
