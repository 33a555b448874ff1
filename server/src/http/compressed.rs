//! What the interface answers goes over the wire compressed, where that is asked for and worth it.

use std::io::{self, Write};

use flate2::Compression;
use flate2::write::GzEncoder;
use rocket::fairing::{Fairing, Info, Kind};
use rocket::http::Status;
use rocket::{Request, Response};

/// What is shorter fits in a packet as it is.
const LEAST: usize = 1_400;

/// Compresses the answers of the interface that are texts.
pub struct Compressed;

#[rocket::async_trait]
impl Fairing for Compressed {
    fn info(&self) -> Info {
        Info {
            name: "compressed answers",
            kind: Kind::Response,
        }
    }

    async fn on_response<'r>(&self, request: &'r Request<'_>, answer: &mut Response<'r>) {
        let text = answer
            .content_type()
            .is_some_and(|kind| kind.is_json() || kind.is_csv());
        if !text || !request.uri().path().starts_with("/api") {
            return;
        }
        answer.set_raw_header("Vary", "Accept-Encoding");
        let long = answer.body().preset_size().is_some_and(|n| n >= LEAST);
        if !long || !asks_for_gzip(request) {
            return;
        }
        let packed = match answer.body_mut().to_bytes().await {
            Ok(plain) => gzip(&plain, Compression::fast()),
            Err(error) => Err(error),
        };
        match packed {
            Ok(packed) => {
                answer.set_raw_header("Content-Encoding", "gzip");
                answer.set_sized_body(packed.len(), io::Cursor::new(packed));
            }
            Err(error) => {
                tracing::error!(%error, "an answer was lost while it was compressed");
                answer.set_status(Status::InternalServerError);
            }
        }
    }
}

/// Bytes as gzip.
pub(super) fn gzip(plain: &[u8], how: Compression) -> io::Result<Vec<u8>> {
    let mut encoder = GzEncoder::new(Vec::new(), how);
    encoder.write_all(plain)?;
    encoder.finish()
}

/// Whether whoever asks takes gzip.
pub(super) fn asks_for_gzip(request: &Request<'_>) -> bool {
    request.headers().get("Accept-Encoding").any(takes_gzip)
}

/// Whether an `Accept-Encoding` takes gzip (RFC 9110, 12.5.3).
fn takes_gzip(accepted: &str) -> bool {
    accepted.split(',').any(|one| {
        let (name, weight) = one.split_once(';').unwrap_or((one, "q=1"));
        let weight = weight
            .trim()
            .strip_prefix("q=")
            .and_then(|q| q.parse::<f64>().ok());
        matches!(name.trim(), "gzip" | "*") && weight.is_none_or(|q| q > 0.0)
    })
}
