//! Pictures as they are kept: read within bounds, turned as they were held, and made anew without what the camera wrote.
//! A crate of its own, since every pixel is touched several times and the server around it waits for its database.

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::imageops::FilterType;
use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageError, ImageFormat, ImageReader};
use thiserror::Error;

/// A picture is kept so large that a crack in a tooth can be seen, in pixels along its longer side.
const LARGEST: u32 = 1_800;
/// In lists it is so large.
const SMALL: u32 = 320;
const QUALITY: u8 = 82;

/// What is read of each format, in millions of pixels: what cameras write of it, and what two at a time have room for.
const MOST: [(ImageFormat, u32); 3] = [
    (ImageFormat::Jpeg, 52),
    (ImageFormat::Png, 26),
    (ImageFormat::WebP, 26),
];
/// As much memory as a decoder may take beside what it hands on, in bytes.
const MOST_MEMORY: u64 = 400 * 1024 * 1024;

/// A picture as it is kept.
#[derive(Debug)]
pub struct Kept {
    /// Pixels from side to side.
    pub width: u32,
    /// Pixels from top to bottom.
    pub height: u32,
    /// As JPEG, as large as it is kept.
    pub body: Vec<u8>,
    /// As JPEG, as small as it stands in a list.
    pub small: Vec<u8>,
}

/// Why a picture cannot be kept.
#[derive(Debug, Error)]
pub enum Unkept {
    /// Nothing that is read here, or broken.
    #[error("This is no picture that can be read ({0}): take a JPEG, PNG or WebP.")]
    NoPicture(ImageError),
    /// More pixels than are read: width, height, and millions of them that would be.
    #[error(
        "This picture has {0} × {1} pixels, and up to {2} million are read: take it again in a smaller size."
    )]
    TooLarge(u32, u32, u32),
    /// It was read, and could not be written.
    #[error("a picture cannot be made anew: {0}")]
    Unwritten(ImageError),
}

/// Reads a picture, turns it as it was held, and makes it anew without what the camera wrote into it.
///
/// # Errors
/// Where it is no picture, or too large a one.
pub fn kept(bytes: &[u8]) -> Result<Kept, Unkept> {
    let (picture, held) = read(bytes)?;
    let mut large = fitted(picture, LARGEST);
    large.apply_orientation(held);
    let body = jpeg(&large)?;
    let (width, height) = (large.width(), large.height());
    Ok(Kept {
        width,
        height,
        body,
        small: jpeg(&fitted(large, SMALL))?,
    })
}

/// The picture as its file lies, and how it was held.
fn read(bytes: &[u8]) -> Result<(DynamicImage, Orientation), Unkept> {
    let mut reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(|e| Unkept::NoPicture(e.into()))?;
    let format = reader.format();
    let mut limits = image::Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let mut decoder = reader.into_decoder().map_err(Unkept::NoPicture)?;
    let (width, height) = decoder.dimensions();
    let most = MOST
        .iter()
        .find(|(f, _)| Some(*f) == format)
        .map_or(0, |(_, most)| *most);
    if u64::from(width) * u64::from(height) > u64::from(most) * 1_000_000 {
        return Err(Unkept::TooLarge(width, height, most));
    }
    let held = decoder.orientation().map_err(Unkept::NoPicture)?;
    let picture = DynamicImage::from_decoder(decoder).map_err(Unkept::NoPicture)?;
    Ok((picture, held))
}

/// A picture no longer than `side` along its longer side. What is far larger is averaged first: a fine filter over all of
/// it would take minutes and a gigabyte, and shows nothing more.
fn fitted(picture: DynamicImage, side: u32) -> DynamicImage {
    let longer = |p: &DynamicImage| p.width().max(p.height());
    if longer(&picture) <= side {
        return picture;
    }
    let near = if longer(&picture) > 3 * side {
        picture.thumbnail(2 * side, 2 * side)
    } else {
        picture
    };
    near.resize(side, side, FilterType::CatmullRom)
}

fn jpeg(picture: &DynamicImage) -> Result<Vec<u8>, Unkept> {
    let mut bytes = Vec::new();
    JpegEncoder::new_with_quality(&mut bytes, QUALITY)
        .encode_image(&picture.to_rgb8())
        .map_err(Unkept::Unwritten)?;
    Ok(bytes)
}
