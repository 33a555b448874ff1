//! The front end's files, as they were built: held in memory, compressed once, and asked for again only where they changed.

use std::collections::HashMap;
use std::io;
use std::path::Path;

use flate2::Compression;
use rocket::http::{ContentType, Header, Method, Status};
use rocket::response::{self, Responder, Response};
use rocket::route::{Handler, Outcome};
use rocket::{Data, Request, Route};
use sha2::{Digest, Sha256};

use super::compressed::{asks_for_gzip, gzip};
use super::problem::PAGES;

/// The one page of the front end.
const INDEX: &str = "index.html";
/// The files in this folder have the checksum of what is in them in their names.
const NAMED_BY_CONTENT: &str = "assets/";

/// A file of the front end.
struct File {
    kind: ContentType,
    etag: String,
    plain: Vec<u8>,
    /// Where that is shorter.
    gzip: Option<Vec<u8>>,
}

/// All files of the front end, by their addresses.
#[derive(Clone)]
pub struct Pages(std::sync::Arc<HashMap<String, File>>);

impl Pages {
    /// Reads a folder that the front end was built into.
    ///
    /// # Errors
    /// Where it, or a file in it, cannot be read.
    pub fn of(dir: &Path) -> io::Result<Self> {
        let mut files = HashMap::new();
        let mut open = vec![dir.to_owned()];
        while let Some(folder) = open.pop() {
            for entry in std::fs::read_dir(folder)? {
                let path = entry?.path();
                if path.is_dir() {
                    open.push(path);
                } else if let Some(address) = address_of(dir, &path) {
                    files.insert(address, File::read(&path)?);
                }
            }
        }
        Ok(Self(files.into()))
    }

    /// The route that answers every address that is left over.
    pub fn route(self) -> Route {
        Route::ranked(PAGES, Method::Get, "/<path..>", self)
    }

    /// The file at an address; every address that is no file and not the interface's is a view of the front end.
    fn at(&self, address: &str) -> Option<(&str, &File)> {
        let found = self.0.get_key_value(address).or_else(|| {
            let no_view = address == "api"
                || address.starts_with("api/")
                || address.starts_with(NAMED_BY_CONTENT);
            if no_view {
                None
            } else {
                self.0.get_key_value(INDEX)
            }
        });
        found.map(|(address, file)| (address.as_str(), file))
    }
}

fn address_of(dir: &Path, path: &Path) -> Option<String> {
    let parts = path
        .strip_prefix(dir)
        .ok()?
        .iter()
        .map(|part| part.to_str());
    Some(parts.collect::<Option<Vec<&str>>>()?.join("/"))
}

impl File {
    fn read(path: &Path) -> io::Result<Self> {
        let plain = std::fs::read(path)?;
        let ending = path
            .extension()
            .and_then(|e| e.to_str())
            .unwrap_or_default();
        let gzip = gzip(&plain, Compression::best())?;
        Ok(Self {
            kind: if ending == "webmanifest" {
                // W3C, Web Application Manifest, 4.
                ContentType::new("application", "manifest+json")
            } else {
                ContentType::from_extension(ending).unwrap_or(ContentType::Binary)
            },
            etag: format!("\"{}\"", hex::encode(&Sha256::digest(&plain)[..16])),
            gzip: Some(gzip).filter(|gzip| gzip.len() < plain.len()),
            plain,
        })
    }
}

#[rocket::async_trait]
impl Handler for Pages {
    async fn handle<'r>(&self, request: &'r Request<'_>, data: Data<'r>) -> Outcome<'r> {
        let address: Vec<&str> = request.uri().path().segments().collect();
        match self.at(&address.join("/")) {
            Some((address, file)) => Outcome::from(request, Answer { address, file }),
            None => Outcome::forward(data, Status::NotFound),
        }
    }
}

/// A file as an answer.
struct Answer<'a> {
    address: &'a str,
    file: &'a File,
}

impl<'r> Responder<'r, 'r> for Answer<'_> {
    fn respond_to(self, request: &'r Request<'_>) -> response::Result<'r> {
        let File {
            kind,
            etag,
            plain,
            gzip,
        } = self.file;
        let mut answer = Response::build();
        let keep = if self.address.starts_with(NAMED_BY_CONTENT) {
            "public, max-age=31536000, immutable"
        } else {
            "no-cache"
        };
        answer
            .header(Header::new("ETag", etag.clone()))
            .header(Header::new("Cache-Control", keep))
            .header(Header::new("Vary", "Accept-Encoding"));
        let mut known = request
            .headers()
            .get("If-None-Match")
            .flat_map(|tags| tags.split(','));
        if known.any(|tag| tag.trim().trim_start_matches("W/") == etag || tag.trim() == "*") {
            return answer.status(Status::NotModified).ok();
        }
        let body = match gzip.as_ref().filter(|_| asks_for_gzip(request)) {
            Some(gzip) => {
                answer.header(Header::new("Content-Encoding", "gzip"));
                gzip
            }
            None => plain,
        };
        answer
            .header(kind.clone())
            .sized_body(body.len(), io::Cursor::new(body.clone()))
            .ok()
    }
}
