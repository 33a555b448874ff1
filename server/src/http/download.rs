//! Files to save.

use rocket::http::{ContentType, Header};

/// A file to save.
#[derive(rocket::Responder)]
pub struct Download {
    body: String,
    kind: ContentType,
    name: Header<'static>,
}

impl Download {
    /// A file of that name and kind.
    pub fn new(body: String, kind: ContentType, name: &str) -> Self {
        Self {
            body,
            kind,
            name: attachment(name),
        }
    }
}

/// Says that what is sent is a file of that name.
#[must_use]
pub fn attachment(name: &str) -> Header<'static> {
    Header::new(
        "Content-Disposition",
        format!("attachment; filename=\"{name}\""),
    )
}
