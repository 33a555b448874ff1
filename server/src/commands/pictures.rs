//! The writes on a job's pictures.

use std::io::Cursor;

use anvil_rules::job_parts::{PictureOf, may_keep_another};
use anvil_rules::texts::shown;
use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use image::{DynamicImage, ImageDecoder, ImageReader};
use sha2::{Digest, Sha256};

use super::Write;
use crate::db::picture::NewPicture;
use crate::db::{Store, job, locks, picture, sheet};
use crate::http::extract::IdempotencyKey;
use crate::http::problem::{ApiResult, Problem};
use crate::queries::searches::heavily;

/// A picture is kept so large that a crack in a tooth can be seen, in pixels along its longer side.
const LARGEST: u32 = 1_800;
/// In lists it is so large.
const SMALL: u32 = 320;
const QUALITY: u8 = 82;
/// No camera makes a longer side than this; what says so would fill the memory.
const LONGEST_SIDE: u32 = 16_000;
/// As much memory as one picture may take while it is read.
const MOST_MEMORY: u64 = 400 * 1024 * 1024;
const LONGEST_SAID: usize = 200;

/// A picture as it is sent.
#[derive(Clone, Copy, Debug)]
pub struct PictureIn<'a> {
    /// JPEG, PNG or WebP.
    pub bytes: &'a [u8],
    pub part: &'a str,
    pub step: &'a str,
    pub said: &'a str,
}

/// A picture as it is kept.
pub struct Kept {
    /// Pixels from side to side.
    pub width: i32,
    /// Pixels from top to bottom.
    pub height: i32,
    /// As JPEG, as large as it is kept.
    pub body: Vec<u8>,
    /// As JPEG, as small as it stands in a list.
    pub small: Vec<u8>,
}

fn no_picture(why: impl std::fmt::Display) -> Problem {
    Problem::field(
        "picture",
        format!("This is no picture that can be read ({why}): take a JPEG, PNG or WebP."),
    )
}

/// Reads a picture, turns it as it was held, and makes it anew without what the camera wrote into it.
///
/// # Errors
/// Where it is no picture, or too large a one.
pub fn kept(bytes: &[u8]) -> ApiResult<Kept> {
    let mut reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(no_picture)?;
    let mut limits = image::Limits::default();
    limits.max_image_width = Some(LONGEST_SIDE);
    limits.max_image_height = Some(LONGEST_SIDE);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(no_picture)?;
    let held = decoder.orientation().map_err(no_picture)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(no_picture)?;
    picture.apply_orientation(held);
    let fits = |side: u32, filter| {
        if picture.width().max(picture.height()) > side {
            picture.resize(side, side, filter)
        } else {
            picture.clone()
        }
    };
    let large = fits(LARGEST, FilterType::CatmullRom);
    let side = |of: u32| i32::try_from(of).unwrap_or(i32::MAX);
    Ok(Kept {
        width: side(large.width()),
        height: side(large.height()),
        body: jpeg(&large)?,
        small: jpeg(&fits(SMALL, FilterType::Triangle))?,
    })
}

fn jpeg(picture: &DynamicImage) -> ApiResult<Vec<u8>> {
    let mut bytes = Vec::new();
    JpegEncoder::new_with_quality(&mut bytes, QUALITY)
        .encode_image(&picture.to_rgb8())
        .map_err(Problem::server)?;
    Ok(bytes)
}

/// Keeps a picture of a job's box, and returns its number.
///
/// # Errors
/// Where there is no such job, part or step, it is no picture, or there are too many.
pub async fn add(
    store: &Store,
    key: &IdempotencyKey,
    job_no: i32,
    new: PictureIn<'_>,
    who: &str,
) -> ApiResult<i64> {
    let said = shown(new.said);
    if said.chars().count() > LONGEST_SAID {
        return Err(Problem::field(
            "said",
            format!("This may have up to {LONGEST_SAID} characters: shorten it."),
        ));
    }
    let kept = heavily(|| kept(new.bytes))?;
    let print = hex::encode(Sha256::digest(new.bytes));
    let request = (job_no, print, new.part, new.step, said);
    let kept = &kept;
    Write::once(
        store,
        key,
        who,
        ("picture", &request),
        |mut tx| async move {
            locks::hold_jobs(store, &mut tx, &[job_no]).await?;
            let job = job::job(store, &mut *tx, job_no).await?;
            let on = (job.sheet_key.as_str(), job.revision, job.variant.as_str());
            let sheet = sheet::built(store, &mut *tx, on).await?;
            PictureOf::read(&sheet, new.part, new.step)?;
            let there = picture::list(store, &mut *tx, job_no).await?;
            may_keep_another(there.iter().filter(|p| p.struck_by.is_none()).count())?;
            let new = NewPicture {
                part: new.part,
                step: new.step,
                said,
                width: kept.width,
                height: kept.height,
                body: &kept.body,
                small: &kept.small,
            };
            let picture_no = picture::add(store, &mut tx, job_no, &new, who).await?;
            Ok((tx, picture_no))
        },
    )
    .await
}

/// Takes a picture out of what is shown, or puts it back.
///
/// # Errors
/// Where there is no such picture.
pub async fn mark(
    store: &Store,
    key: &IdempotencyKey,
    (job_no, picture_no): (i32, i64),
    struck: bool,
    who: &str,
) -> ApiResult<()> {
    let request = (job_no, picture_no, struck);
    Write::once(
        store,
        key,
        who,
        ("mark_picture", &request),
        |mut tx| async move {
            let there = picture::list(store, &mut *tx, job_no).await?;
            if there.iter().all(|p| p.picture_no != picture_no) {
                return Err(Problem::missing("There is no such picture of this job."));
            }
            picture::mark(store, &mut tx, (job_no, picture_no), struck, who).await?;
            Ok((tx, ()))
        },
    )
    .await
}
