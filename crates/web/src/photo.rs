//! Photographs of copies: taken by a phone, turned upright, made small, and stripped of all that a
//! camera writes beside them: place, time and make.

use std::io::Cursor;

use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageReader, Limits};

/// Bytes of a photograph at most.
pub(crate) const MOST_BYTES: usize = 12_000_000;
/// Pixels of a side at most, before it is made small.
const MOST_SIDE: u32 = 16_000;
/// Memory that reading one may take, bytes.
const MOST_MEMORY: u64 = 400_000_000;
/// Pixels of the longer side as it is kept.
const KEPT_SIDE: u32 = 1280;
/// Quality of the kept JPEG, of a hundred.
const QUALITY: u8 = 82;

/// Why a photograph cannot be kept.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub(crate) enum PhotoError {
    /// It is no picture that can be read.
    #[error(
        "this is no JPEG or PNG picture: take it as JPEG, the most compatible setting of the camera"
    )]
    NoPicture,
    /// It is larger than what is read.
    #[error("the picture is too large: {MOST_SIDE} pixels a side are read")]
    TooLarge,
    /// It cannot be written.
    #[error("the picture could not be kept: {0}")]
    Write(String),
}

/// A photograph as it is kept: JPEG, upright, small, with nothing beside the picture.
///
/// # Errors
/// [`PhotoError`].
pub(crate) fn keep_photo(bytes: &[u8]) -> Result<Vec<u8>, PhotoError> {
    let mut reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(|_| PhotoError::NoPicture)?;
    let mut limits = Limits::default();
    limits.max_image_width = Some(MOST_SIDE);
    limits.max_image_height = Some(MOST_SIDE);
    limits.max_alloc = Some(MOST_MEMORY);
    reader.limits(limits);
    let failed = |why: image::ImageError| match why {
        image::ImageError::Limits(_) => PhotoError::TooLarge,
        _ => PhotoError::NoPicture,
    };
    let mut decoder = reader.into_decoder().map_err(failed)?;
    let upright = decoder.orientation().map_err(failed)?;
    let mut picture = DynamicImage::from_decoder(decoder).map_err(failed)?;
    if picture.width().max(picture.height()) > KEPT_SIDE {
        picture = picture.thumbnail(KEPT_SIDE, KEPT_SIDE);
    }
    picture.apply_orientation(upright);
    let mut kept = Vec::new();
    let encoder = JpegEncoder::new_with_quality(&mut kept, QUALITY);
    picture
        .to_rgb8()
        .write_with_encoder(encoder)
        .map_err(|why| PhotoError::Write(why.to_string()))?;
    Ok(kept)
}

#[cfg(test)]
mod tests {
    use super::*;
    use image::{ImageFormat, RgbImage};

    fn jpeg(width: u32, height: u32) -> Vec<u8> {
        let picture =
            RgbImage::from_fn(width, height, |x, _| image::Rgb([(x % 256) as u8, 90, 40]));
        let mut bytes = Cursor::new(Vec::new());
        picture
            .write_to(&mut bytes, ImageFormat::Jpeg)
            .expect("it is written");
        bytes.into_inner()
    }

    /// What a camera writes after the first marker: that it was held upright (6), and a place.
    fn with_exif(jpeg: &[u8]) -> Vec<u8> {
        let mut tiff = b"II*\0\x08\0\0\0\x01\0\x12\x01\x03\0\x01\0\0\0\x06\0\0\0\0\0\0\0".to_vec();
        tiff.extend_from_slice(b"52.0907 N 5.1214 E, Osier 7");
        let length = (2 + 6 + tiff.len()) as u16;
        let mut all = jpeg[..2].to_vec();
        all.extend_from_slice(&[0xff, 0xe1]);
        all.extend_from_slice(&length.to_be_bytes());
        all.extend_from_slice(b"Exif\0\0");
        all.extend_from_slice(&tiff);
        all.extend_from_slice(&jpeg[2..]);
        all
    }

    #[test]
    fn a_photograph_is_small_upright_and_says_nothing_of_its_place() {
        let taken = with_exif(&jpeg(2600, 1300));
        let kept = keep_photo(&taken).expect("a picture");
        let read = image::load_from_memory(&kept).expect("it reads");
        // Held upright: what was wide is tall.
        assert_eq!((read.width(), read.height()), (640, 1280));
        let holds = |words: &[u8]| kept.windows(words.len()).any(|w| w == words);
        assert!(!holds(b"Osier") && !holds(b"Exif"));
        let small = keep_photo(&jpeg(300, 200)).expect("a picture");
        assert_eq!(
            image::load_from_memory(&small).expect("it reads").width(),
            300
        );
    }

    #[test]
    fn what_is_no_picture_or_far_too_large_is_refused() {
        for bytes in [
            &b""[..],
            b"a letter",
            b"\x89PNG\r\n\x1a\n",
            &jpeg(40, 40)[..60],
        ] {
            assert_eq!(keep_photo(bytes), Err(PhotoError::NoPicture));
        }
        // A PNG of 60,000 pixels a side, in its first bytes only.
        let mut bomb =
            b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\xea\x60\0\0\xea\x60\x08\x02\0\0\0".to_vec();
        bomb.extend_from_slice(&[0x2c, 0x6c, 0xf8, 0x49, 0, 0, 0, 0]);
        assert!(keep_photo(&bomb).is_err());
    }
}
