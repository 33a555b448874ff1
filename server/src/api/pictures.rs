//! Pictures of a job's box.

use anvil_rules::job::parts::{PictureOf, gone_at};
use chrono::{DateTime, Utc};
use rocket::data::{Data, ToByteUnit};
use rocket::http::{ContentType, Header, Status};
use rocket::serde::json::Json;
use rocket::{State, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::commands::pictures::{self, PictureIn};
use crate::db::{self, Store};
use crate::http::body::Body;
use crate::http::extract::{IdempotencyKey, YES_NO, asked};
use crate::http::problem::{ApiResult, Problem};

/// A picture of a job's box.
#[derive(Debug, Serialize, ToSchema)]
pub struct PictureView {
    pub picture_no: i64,
    /// The key of the part that it shows; empty where it is none.
    pub part: String,
    /// The key of the step that it shows; empty where it is none.
    pub step: String,
    /// What it is of, in words.
    pub of: String,
    /// What was said of it.
    pub said: String,
    /// How large it is, in pixels.
    pub width: i32,
    pub height: i32,
    pub who: String,
    pub at: DateTime<Utc>,
    /// Who took it out, where it is out, and when it is gone for good.
    pub struck_by: Option<String>,
    pub gone_at: Option<DateTime<Utc>>,
}

/// The pictures of a job's box, the oldest first; those that were taken out too.
#[utoipa::path(operation_id = "pictures_list", context_path = "/api", tag = "pictures", params(("job_no" = i32, Path,)),
    responses((status = 200, body = Vec<PictureView>), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/pictures")]
pub async fn list(store: &State<Store>, job_no: i32) -> ApiResult<Json<Vec<PictureView>>> {
    let job = db::job::job(store, &store.pool, job_no).await?;
    let sheet = db::sheet::built(store, &store.pool, job.on_sheet()).await?;
    let rows = db::picture::list(store, &store.pool, job_no).await?;
    let view = |p: db::picture::PictureRow| {
        let of = match (p.part.as_str(), p.step.as_str()) {
            ("", "") => PictureOf::Box,
            (part, "") => PictureOf::Part(part),
            (_, step) => PictureOf::Step(step),
        };
        PictureView {
            of: of.words(&sheet),
            picture_no: p.picture_no,
            part: p.part,
            step: p.step,
            said: p.said,
            width: p.width,
            height: p.height,
            who: p.who,
            at: p.at,
            struck_by: p.struck_by,
            gone_at: p.struck_at.map(gone_at),
        }
    };
    Ok(Json(rows.into_iter().map(view).collect()))
}

/// A picture's bytes, which never change.
#[derive(rocket::Responder)]
pub struct Jpeg {
    bytes: Vec<u8>,
    kind: ContentType,
    kept: Header<'static>,
}

/// A picture as JPEG, as large as it is kept, or small for lists.
#[utoipa::path(operation_id = "pictures_one", context_path = "/api", tag = "pictures",
    params(("job_no" = i32, Path,), ("picture_no" = i64, Path,), ("small" = Option<bool>, Query, description = "For lists")),
    responses((status = 200, body = Vec<u8>, content_type = "image/jpeg"), (status = 404, body = Problem)))]
#[get("/jobs/<job_no>/pictures/<picture_no>?<small>")]
pub async fn one(
    store: &State<Store>,
    job_no: i32,
    picture_no: i64,
    small: Option<&str>,
) -> ApiResult<Jpeg> {
    let small = asked("small", small, YES_NO)?.unwrap_or(false);
    Ok(Jpeg {
        bytes: db::picture::bytes(store, job_no, picture_no, small).await?,
        kind: ContentType::JPEG,
        kept: Header::new("Cache-Control", "private, max-age=31536000, immutable"),
    })
}

/// The most bytes of a picture that is sent.
const MOST_MIB: u32 = 8;

/// Keeps a picture: JPEG, PNG or WebP, up to 8 MiB, of a part, of a step, or else of the box.
#[utoipa::path(operation_id = "pictures_add", context_path = "/api", tag = "pictures",
    request_body(content = Vec<u8>, content_type = "application/octet-stream"),
    params(("job_no" = i32, Path,), ("Idempotency-Key" = String, Header,),
        ("part" = Option<String>, Query, description = "The part that it shows"),
        ("step" = Option<String>, Query, description = "The step that it shows"),
        ("said" = Option<String>, Query, description = "What is said of it"),
        ("who" = String, Query, description = "The initials")),
    responses((status = 200, body = Vec<PictureView>), (status = 404, body = Problem), (status = 409, body = Problem),
              (status = 413, body = Problem), (status = 422, body = Problem)))]
#[post("/jobs/<job_no>/pictures?<part>&<step>&<said>&<who>", data = "<bytes>")]
#[allow(clippy::too_many_arguments)] // as many as there are in the address
pub async fn add(
    store: &State<Store>,
    job_no: i32,
    key: IdempotencyKey,
    part: Option<&str>,
    step: Option<&str>,
    said: Option<&str>,
    who: &str,
    bytes: Data<'_>,
) -> ApiResult<Json<Vec<PictureView>>> {
    let bytes = bytes.open(MOST_MIB.mebibytes()).into_bytes().await;
    let bytes = bytes.map_err(Problem::server)?;
    if !bytes.is_complete() {
        return Err(Problem::new(
            Status::PayloadTooLarge,
            "too-large",
            format!("A picture may have up to {MOST_MIB} MB: take it again in a smaller size."),
        ));
    }
    let new = PictureIn {
        bytes: bytes.into_inner(),
        part: part.unwrap_or_default(),
        step: step.unwrap_or_default(),
        said: said.unwrap_or_default(),
    };
    pictures::add(store, &key, job_no, new, who).await?;
    list(store, job_no).await
}

/// A picture taken out, or put back.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PictureMarkIn {
    pub struck: bool,
    /// The initials.
    pub who: String,
}

/// Takes a picture out of what is shown, or puts it back.
#[utoipa::path(operation_id = "pictures_mark", context_path = "/api", tag = "pictures", request_body = PictureMarkIn,
    params(("job_no" = i32, Path,), ("picture_no" = i64, Path,), ("Idempotency-Key" = String, Header,)),
    responses((status = 200, body = Vec<PictureView>), (status = 404, body = Problem)))]
#[post("/jobs/<job_no>/pictures/<picture_no>/marks", data = "<mark>")]
pub async fn mark(
    store: &State<Store>,
    job_no: i32,
    picture_no: i64,
    key: IdempotencyKey,
    mark: Body<PictureMarkIn>,
) -> ApiResult<Json<Vec<PictureView>>> {
    pictures::mark(store, &key, (job_no, picture_no), mark.struck, &mark.who).await?;
    list(store, job_no).await
}
