//! STL files, binary and text.

use std::io::Cursor;

use super::Mesh;
use super::read_error::{MAX_TRIANGLES, ReadError};
use super::read_stl_text::TextTriangles;
use crate::watch::{Ticks, Watch};

const HEADER_BYTES: usize = 84;
const RECORD_BYTES: usize = 50;

/// Reads a binary or text STL, all solids of it. A binary file whose header begins with `solid` is read as binary.
///
/// # Units
/// The file's own, taken as mm.
///
/// # Errors
/// [`ReadError`], one line that says what is wrong and what to do.
pub(super) fn read_stl(bytes: &[u8], watch: &dyn Watch) -> Result<Mesh, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    let mesh = if looks_like_text(bytes) {
        weld_all(TextTriangles::new(bytes), watch)?
    } else {
        check_binary_length(bytes)?;
        let mut cursor = Cursor::new(bytes);
        let reader = stl_io::create_stl_reader(&mut cursor).map_err(|_| ReadError::NotStl)?;
        let loose = reader.map(|triangle| {
            let corners = triangle.map(|t| t.vertices.map(|v| v.0));
            corners.map_err(|_| ReadError::NotStl)
        });
        weld_all(loose, watch)?
    };
    if mesh.triangles.is_empty() {
        return Err(ReadError::NoTriangles {
            dropped: mesh.dropped,
        });
    }
    Ok(mesh)
}

/// Welds triangles as they are read: loose ones would take as much memory again as the file.
fn weld_all(
    triangles: impl Iterator<Item = Result<[[f32; 3]; 3], ReadError>>,
    watch: &dyn Watch,
) -> Result<Mesh, ReadError> {
    let mut broken = None;
    let mut ticks = Ticks::new(watch);
    let whole = triangles.map_while(|triangle| {
        let wanted = if ticks.stopped() {
            Err(ReadError::Stopped)
        } else {
            triangle
        };
        wanted.map_err(|why| broken = Some(why)).ok()
    });
    let mesh = Mesh::weld(whole);
    broken.map_or(Ok(mesh), Err)
}

fn promised_triangles(bytes: &[u8]) -> Option<u64> {
    let count = bytes.get(80..HEADER_BYTES)?;
    Some(u64::from(u32::from_le_bytes([
        count[0], count[1], count[2], count[3],
    ])))
}

/// A file of exactly the promised length is binary, whatever its header says.
fn looks_like_text(bytes: &[u8]) -> bool {
    let exact = promised_triangles(bytes)
        .is_some_and(|n| bytes.len() as u64 == HEADER_BYTES as u64 + n * RECORD_BYTES as u64);
    let begins = |text: &[u8], word: &[u8]| {
        text.get(..word.len())
            .is_some_and(|w| w.eq_ignore_ascii_case(word))
    };
    let text = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    !exact
        && begins(text.trim_ascii_start(), b"solid")
        && (0..bytes.len().min(4096)).any(|at| begins(&bytes[at..], b"facet"))
}

fn check_binary_length(bytes: &[u8]) -> Result<(), ReadError> {
    let promised = promised_triangles(bytes).ok_or(ReadError::NotStl)?;
    let present = ((bytes.len() - HEADER_BYTES) / RECORD_BYTES) as u64;
    if promised > present {
        // Text of another kind reads as an absurd count: say what it is not.
        let printable = bytes
            .iter()
            .take(512)
            .all(|b| b.is_ascii_graphic() || b.is_ascii_whitespace());
        return Err(if printable {
            ReadError::NotStl
        } else {
            ReadError::CutOff { promised, present }
        });
    }
    if promised > MAX_TRIANGLES {
        return Err(ReadError::TooMany {
            triangles: promised,
        });
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::write_stl;
    use crate::watch::Unwatched;
    use rstest::rstest;

    fn one_triangle() -> Vec<u8> {
        write_stl(&Mesh::weld([[
            [0.0, 0.0, 0.0],
            [1.0, 0.0, 0.0],
            [0.0, 1.0, 0.0],
        ]]))
    }

    #[rstest]
    #[case::empty(Vec::new(), ReadError::Empty)]
    #[case::words(b"A letter about reeds and herons, long enough to hold a header of eighty-four bytes and more.".to_vec(), ReadError::NotStl)]
    #[case::too_short(vec![7; 40], ReadError::NotStl)]
    #[case::no_triangles(vec![0; 84], ReadError::NoTriangles { dropped: 0 })]
    #[case::only_the_solid_line(b"solid nothing\nendsolid".to_vec(), ReadError::NotStl)]
    #[case::bad_number(b"solid a\nfacet normal 0 0 1\nouter loop\nvertex x 0 0\nendloop\nendfacet\nendsolid".to_vec(), ReadError::BadText)]
    fn a_bad_file_gets_one_clear_line(#[case] bytes: Vec<u8>, #[case] error: ReadError) {
        assert_eq!(read_stl(&bytes, &Unwatched), Err(error.clone()));
        assert!(!error.to_string().contains('\n'));
    }

    #[test]
    fn a_cut_off_file_says_how_much_is_missing() {
        let mut bytes = one_triangle();
        bytes[80] = 9;
        assert_eq!(
            read_stl(&bytes, &Unwatched),
            Err(ReadError::CutOff {
                promised: 9,
                present: 1
            })
        );
    }

    #[test]
    fn a_binary_file_may_begin_with_solid() {
        let mut bytes = one_triangle();
        bytes[..5].copy_from_slice(b"solid");
        assert_eq!(read_stl(&bytes, &Unwatched).unwrap().triangles().len(), 1);
    }

    #[test]
    fn broken_triangles_are_dropped_and_counted() {
        let good = [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]];
        let nan = [[f32::NAN, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]];
        let flat = [[0.0, 0.0, 0.0], [-0.0, 0.0, 0.0], [0.0, 1.0, 0.0]];
        let mesh = Mesh::weld([good, nan, flat]);
        assert_eq!((mesh.triangles().len(), mesh.dropped()), (1, 2));
    }
}
