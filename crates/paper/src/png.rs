//! Pictures of sculpts as PNG: deep blue-green where dark, pale where light, nothing around.

use wembrit_core::sculpt::picture::Picture;

/// The two ends of the height ramp, for shadow and light.
const DARK: [f64; 3] = [31.0, 62.0, 78.0];
const LIGHT: [f64; 3] = [226.0, 232.0, 231.0];

/// A picture could not be written.
#[derive(Debug, thiserror::Error)]
#[error("the picture could not be written: {0}")]
pub struct PngError(#[from] png::EncodingError);

/// Inks a picture and writes it as PNG. Equal pictures give equal bytes.
///
/// # Errors
/// [`PngError`] for a picture without points.
pub fn write_png(picture: &Picture) -> Result<Vec<u8>, PngError> {
    let mut points = Vec::with_capacity(picture.light.len() * 4);
    for light in &picture.light {
        match light {
            None => points.extend_from_slice(&[0; 4]),
            Some(light) => {
                let share = f64::from(*light) / 255.0;
                let ink = |k: usize| (DARK[k] + (LIGHT[k] - DARK[k]) * share) as u8;
                points.extend_from_slice(&[ink(0), ink(1), ink(2), 255]);
            }
        }
    }
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, picture.width as u32, picture.height as u32);
    encoder.set_color(png::ColorType::Rgba);
    encoder.set_depth(png::BitDepth::Eight);
    let mut writer = encoder.write_header()?;
    writer.write_image_data(&points)?;
    writer.finish()?;
    Ok(bytes)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Read back with the same library's decoder: light is pale, shadow deep, the rest clear.
    #[test]
    fn points_come_back_as_they_were_inked() {
        let picture = Picture {
            width: 3,
            height: 1,
            light: vec![None, Some(0), Some(255)],
        };
        let bytes = write_png(&picture).expect("it writes");
        let mut reader = png::Decoder::new(std::io::Cursor::new(bytes))
            .read_info()
            .expect("it reads");
        let mut points = vec![0; reader.output_buffer_size().expect("a size")];
        reader.next_frame(&mut points).expect("a frame");
        assert_eq!(points, [0, 0, 0, 0, 31, 62, 78, 255, 226, 232, 231, 255]);
    }
}
