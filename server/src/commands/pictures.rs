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
struct Kept {
    width: i32,
    height: i32,
    body: Vec<u8>,
    small: Vec<u8>,
}

fn no_picture(why: impl std::fmt::Display) -> Problem {
    Problem::field(
        "picture",
        format!("This is no picture that can be read ({why}): take a JPEG, PNG or WebP."),
    )
}

/// Reads a picture, turns it as it was held, and makes it anew without what the camera wrote into it.
fn kept(bytes: &[u8]) -> ApiResult<Kept> {
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

#[cfg(test)]
mod tests {
    use image::{ImageEncoder, Rgb, RgbImage};

    use super::*;

    fn png(width: u32, height: u32) -> Vec<u8> {
        let half = |x: u32, _| Rgb([if x < width / 2 { 255 } else { 0 }, 0, 0]);
        let picture = RgbImage::from_fn(width, height, half);
        let mut bytes = Vec::new();
        image::codecs::png::PngEncoder::new(&mut bytes)
            .write_image(&picture, width, height, image::ExtendedColorType::Rgb8)
            .unwrap();
        bytes
    }

    /// EXIF with nothing but how the camera was held: 6 is a quarter turn to the right (EXIF 2.3, tag 0x0112).
    fn held_upright(jpeg: &[u8]) -> Vec<u8> {
        let exif = [
            b"Exif\0\0MM\0*\0\0\0\x08\0\x01".as_slice(),
            &[0x01, 0x12, 0, 3, 0, 0, 0, 1, 0, 6, 0, 0, 0, 0, 0, 0],
        ]
        .concat();
        let length = u16::try_from(exif.len() + 2).unwrap().to_be_bytes();
        [&jpeg[..2], &[0xff, 0xe1], &length, &exif, &jpeg[2..]].concat()
    }

    #[test]
    fn a_picture_is_made_smaller_and_loses_what_the_camera_wrote() {
        let of = kept(&png(2_400, 1_200)).unwrap();
        assert_eq!((of.width, of.height), (1_800, 900));
        let small = image::load_from_memory(&of.small).unwrap();
        assert_eq!((small.width(), small.height()), (320, 160));
        // What is small enough is not made larger.
        let of = kept(&png(40, 30)).unwrap();
        assert_eq!((of.width, of.height), (40, 30));

        let camera = held_upright(&of.body);
        assert!(camera.windows(4).any(|w| w == b"Exif"));
        let turned = kept(&camera).unwrap();
        assert_eq!((turned.width, turned.height), (30, 40));
        assert!(turned.body.windows(4).all(|w| w != b"Exif"));
        // Turned to the right, what was on the left is on top.
        let picture = image::load_from_memory(&turned.body).unwrap().to_rgb8();
        assert!(picture.get_pixel(15, 5)[0] > 200 && picture.get_pixel(15, 35)[0] < 60);
    }

    #[test]
    fn what_is_no_picture_is_refused_at_its_field() {
        for bytes in [b"not a picture".as_slice(), b"", &png(40, 30)[..60]] {
            let Err(refused) = kept(bytes) else {
                panic!("{} bytes are no picture", bytes.len())
            };
            assert_eq!(refused.field.as_deref(), Some("picture"));
            assert_eq!(refused.status, 422);
        }
    }
}
