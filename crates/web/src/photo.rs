//! Photographs of copies: taken by a phone, turned upright, made small, and stripped of all that a
//! camera writes beside them: place, time and make.

use std::io::Cursor;
use std::time::Duration;

use axum::body::Bytes;
use image::codecs::jpeg::JpegEncoder;
use image::{DynamicImage, ImageDecoder, ImageReader, Limits};
use tokio::sync::Semaphore;
use tokio::time::timeout;

use crate::error::WebError;

/// Bytes of a photograph at most.
pub(crate) const MOST_BYTES: usize = 12_000_000;
/// Pixels at most, before it is made small: more than any camera in a pocket takes.
const MOST_PIXELS: u64 = 60_000_000;
/// Pixels for each byte at most: a picture of one colour has a few hundred, one without data any number.
const MOST_PER_BYTE: u64 = 500;
/// Bytes that drawing one takes at most.
const MOST_MEMORY: u64 = 180_000_000;
/// A picture that comes in several looks is drawn in each: pixels times looks at most.
const MOST_DRAWN: u64 = 300_000_000;
/// A picture waits for its turn, and is drawn, for so long at most.
const LONGEST: Duration = Duration::from_secs(20);
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
    #[error("the picture is too large: up to {} million pixels are read", MOST_PIXELS / 1_000_000)]
    TooLarge,
    /// Most of it is missing.
    #[error("the picture holds hardly any data: it did not arrive whole; send it again")]
    Empty,
    /// It takes too long, or others before it do.
    #[error("reading the picture takes too long: send a smaller one, or try again in a minute")]
    TooLong,
    /// It cannot be written.
    #[error("the picture could not be kept: {0}")]
    Write(String),
}

/// A photograph as it is kept: JPEG, upright, small, with nothing beside the picture.
///
/// # Errors
/// [`PhotoError`].
fn keep_photo(bytes: &[u8]) -> Result<Vec<u8>, PhotoError> {
    let reader = ImageReader::new(Cursor::new(bytes))
        .with_guessed_format()
        .map_err(|_| PhotoError::NoPicture)?;
    let failed = |why: image::ImageError| match why {
        image::ImageError::Limits(_) => PhotoError::TooLarge,
        _ => PhotoError::NoPicture,
    };
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_MEMORY);
    let mut decoder = reader.into_decoder().map_err(failed)?;
    decoder.set_limits(limits).map_err(failed)?;
    // Before anything is drawn: decoders take memory by what the head of a file says.
    let (width, height) = decoder.dimensions();
    let pixels = u64::from(width) * u64::from(height);
    let looks = looks(bytes);
    // What is drawn over is kept as coefficients beside the picture, two bytes for each of three colours.
    let beside = if looks > 1 { 6 * pixels } else { 0 };
    if pixels > MOST_PIXELS
        || pixels * looks > MOST_DRAWN
        || decoder.total_bytes() + beside > MOST_MEMORY
    {
        return Err(PhotoError::TooLarge);
    }
    if pixels > MOST_PER_BYTE * bytes.len() as u64 {
        return Err(PhotoError::Empty);
    }
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

/// How often a JPEG is drawn over, finer each time: the scans of a progressive one. Markers by ITU-T T.81, table B.1.
fn looks(bytes: &[u8]) -> u64 {
    const SCAN: [u8; 2] = [0xff, 0xda];
    let Some(finer) = progressive(bytes) else {
        return 1;
    };
    let scans = finer.windows(2).filter(|w| *w == SCAN).count();
    (scans as u64).max(2)
}

/// A progressive JPEG from its frame on: what stands before it, such as a small picture of it, is passed over.
fn progressive(bytes: &[u8]) -> Option<&[u8]> {
    let mut rest = bytes.strip_prefix(&[0xff, 0xd8])?;
    loop {
        let &[0xff, kind, high, low, ..] = rest else {
            return None;
        };
        match kind {
            0xc2 | 0xca => return Some(rest),
            // Another frame, or a scan.
            0xc0..=0xcf if !matches!(kind, 0xc4 | 0xc8 | 0xcc) => return None,
            0xda => return None,
            _ => rest = rest.get(2 + usize::from(u16::from_be_bytes([high, low]))..)?,
        }
    }
}

/// The same beside the requests, one picture at a time.
///
/// # Errors
/// [`PhotoError`].
pub(crate) async fn keep_beside(bytes: Bytes) -> Result<Vec<u8>, WebError> {
    static ONE: Semaphore = Semaphore::const_new(1);
    let kept = timeout(LONGEST, async {
        let turn = ONE.acquire().await;
        // The turn goes with the work: nobody may be waiting for it any more.
        let work = move || {
            let _turn = turn;
            keep_photo(&bytes)
        };
        tokio::task::spawn_blocking(work).await
    });
    let kept = kept.await.unwrap_or(Ok(Err(PhotoError::TooLong)))?;
    kept.map_err(|why| WebError::BadRequest(why.to_string()))
}

#[cfg(test)]
mod tests {
    use super::*;
    use image::{ImageFormat, RgbImage};
    use proptest::prelude::*;

    fn jpeg(width: u32, height: u32) -> Vec<u8> {
        let picture =
            RgbImage::from_fn(width, height, |x, _| image::Rgb([(x % 256) as u8, 90, 40]));
        let mut bytes = Cursor::new(Vec::new());
        picture
            .write_to(&mut bytes, ImageFormat::Jpeg)
            .expect("it is written");
        bytes.into_inner()
    }

    /// A small JPEG whose head says that it is as large as that.
    fn jpeg_claiming(width: u16, height: u16) -> Vec<u8> {
        let mut bytes = jpeg(16, 16);
        let head = bytes.windows(2).position(|w| w == [0xff, 0xc0]);
        let at = head.expect("a baseline frame") + 5;
        bytes[at..at + 2].copy_from_slice(&height.to_be_bytes());
        bytes[at + 2..at + 4].copy_from_slice(&width.to_be_bytes());
        bytes
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
        assert!(jpeg_claiming(8_000, 9_000).len() < 2_000);
        for (width, height, why) in [
            (15_000, 15_000, PhotoError::TooLarge),
            (65_000, 60_000, PhotoError::TooLarge),
            (7_000, 8_000, PhotoError::Empty),
        ] {
            assert_eq!(keep_photo(&jpeg_claiming(width, height)), Err(why));
        }
        // Finer and finer, a hundred times; and a few times, but of what memory does not hold.
        for (side, scans) in [(3_000, 100), (6_000, 5)] {
            let mut finer = jpeg_claiming(side, side);
            let frame = finer.windows(2).position(|w| w == [0xff, 0xc0]);
            finer[frame.expect("a baseline frame") + 1] = 0xc2;
            finer.extend([0xff, 0xda].repeat(scans));
            finer.resize(200_000, 0);
            assert_eq!(keep_photo(&finer), Err(PhotoError::TooLarge), "{side}");
        }
        // A PNG of 60,000 pixels a side, in its first bytes only.
        let mut bomb =
            b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR\0\0\xea\x60\0\0\xea\x60\x08\x02\0\0\0".to_vec();
        bomb.extend_from_slice(&[0x2c, 0x6c, 0xf8, 0x49, 0, 0, 0, 0]);
        assert!(keep_photo(&bomb).is_err());
    }

    /// The pictures kept beside the tests: ordinary ones, and such as claim or hold far more than they weigh.
    fn stored() -> Vec<(String, Vec<u8>)> {
        let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/data/pictures");
        let files = std::fs::read_dir(folder).expect("the folder is there");
        let paths: std::collections::BTreeSet<_> =
            files.map(|f| f.expect("it can be listed").path()).collect();
        let named = |path: std::path::PathBuf| {
            let name = path.file_name().unwrap_or_default().to_string_lossy();
            (name.into_owned(), std::fs::read(&path).expect("it reads"))
        };
        paths.into_iter().map(named).collect()
    }

    /// Of the stored pictures those are kept that hold a picture, whatever words are packed beside it.
    #[test]
    fn stored_pictures_are_kept_or_refused_as_they_should() {
        let kept: Vec<_> = stored()
            .into_iter()
            .filter(|(_, b)| keep_photo(b).is_ok())
            .collect();
        let kept: Vec<_> = kept.iter().map(|(name, _)| name.as_str()).collect();
        let good = [
            "blown_up_words.png",
            "four_inks.jpg",
            "grey.jpg",
            "palette.png",
            "scans.jpg",
            "see_through.png",
            "sixteen_bits.png",
            "upright.jpg",
        ];
        assert_eq!(kept, good);
    }

    proptest! {
        /// Whatever is changed in a picture, and wherever it breaks off: it is kept small, or refused.
        #[test]
        fn hostile_pictures_are_kept_small_or_refused(
            which: prop::sample::Index,
            changed in prop::collection::vec((0_usize..1200, any::<u8>()), 0..6),
            cut in prop::option::of(0_usize..1200),
        ) {
            static STORED: std::sync::LazyLock<Vec<(String, Vec<u8>)>> = std::sync::LazyLock::new(stored);
            let mut bytes = which.get(&STORED).1.clone();
            for (at, byte) in changed {
                if let Some(there) = bytes.get_mut(at) {
                    *there = byte;
                }
            }
            bytes.truncate(cut.unwrap_or(usize::MAX));
            if let Ok(kept) = keep_photo(&bytes) {
                let kept = image::load_from_memory(&kept).expect("a picture");
                prop_assert!(kept.width().max(kept.height()) <= KEPT_SIDE);
            }
        }
    }
}
