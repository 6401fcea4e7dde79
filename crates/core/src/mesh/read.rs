//! Any mesh file, told apart by what is in it.

use super::{Mesh, ReadError, read_3mf, read_obj, read_stl};
use crate::watch::{Unwatched, Watch};

/// Formats that are read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// Binary or text STL.
    Stl,
    /// Wavefront OBJ.
    Obj,
    /// 3MF, which says its unit.
    ThreeMf,
}

/// Tells the format: by its first bytes, and by its name where these say nothing.
#[must_use]
pub fn format_of(bytes: &[u8], file_name: &str) -> Format {
    let extension = file_name
        .rsplit('.')
        .next()
        .unwrap_or_default()
        .to_ascii_lowercase();
    if bytes.starts_with(b"PK\x03\x04") || extension == "3mf" {
        Format::ThreeMf
    } else if extension == "obj" {
        Format::Obj
    } else {
        Format::Stl
    }
}

/// Reads a mesh file.
///
/// # Units
/// 3MF says its unit and comes in mm; the others have none: their numbers are taken as mm.
///
/// # Errors
/// [`ReadError`]: one line that says what is wrong, and all of it.
pub fn read_mesh(bytes: &[u8], file_name: &str) -> Result<Mesh, ReadError> {
    read_watched(bytes, file_name, &Unwatched)
}

/// Reads a mesh file for as long as somebody wants it.
///
/// # Units
/// Those of [`read_mesh`].
///
/// # Errors
/// Those of [`read_mesh`], and [`ReadError::Stopped`].
pub fn read_watched(bytes: &[u8], file_name: &str, watch: &dyn Watch) -> Result<Mesh, ReadError> {
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    match format_of(bytes, file_name) {
        Format::Stl => read_stl(bytes, watch),
        Format::Obj => read_obj(bytes, watch),
        Format::ThreeMf => read_3mf(bytes, watch),
    }
}

/// How files of other kinds begin.
const OTHER_KINDS: [(&[u8], &str); 8] = [
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"GIF8", "a picture"),
    (b"RIFF", "a picture or a sound"),
    (b"BM", "a picture"),
    (b"%PDF", "a document"),
    (b"{\\rtf", "a document"),
    (b"Rar!", "an archive"),
];

/// Looks at the first bytes of a file at the door: what is plainly no mesh need not be kept.
///
/// # Errors
/// [`ReadError::OtherKind`].
pub fn check_head(head: &[u8], file_name: &str) -> Result<(), ReadError> {
    let known = OTHER_KINDS
        .iter()
        .find(|(begin, _)| head.starts_with(begin));
    // "BM" begins many a name in the header of an STL as well.
    if let Some((begin, what)) = known
        && (begin.len() > 2 || head.get(6..10) == Some(&[0; 4]))
    {
        return Err(ReadError::OtherKind(what));
    }
    let text = head.strip_prefix(b"\xef\xbb\xbf").unwrap_or(head);
    let printable = |b: &u8| b.is_ascii_graphic() || b.is_ascii_whitespace() || *b >= 0x80;
    let first = text.trim_ascii_start().get(..5).unwrap_or_default();
    let is_text = !head.is_empty() && text.iter().take(512).all(printable);
    if format_of(head, file_name) == Format::Stl && is_text && !first.eq_ignore_ascii_case(b"solid")
    {
        return Err(ReadError::OtherKind("a text"));
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{write_3mf, write_stl};
    use crate::watch::Ticks;
    use std::sync::atomic::{AtomicU32, Ordering};

    /// Stops at the first question, and counts them.
    #[derive(Default)]
    struct Asked(AtomicU32);

    impl Watch for Asked {
        fn stopped(&self) -> bool {
            self.0.fetch_add(1, Ordering::Relaxed);
            true
        }
        fn report(&self, _share: f64) {}
    }

    /// Three times as many triangles as there are steps between two questions.
    fn long_row() -> Mesh {
        Mesh::weld((0..3 * Ticks::BETWEEN).map(|i| {
            let x = i as f32;
            [[x, 0.0, 0.0], [x + 1.0, 0.0, 0.0], [x, 1.0, 0.0]]
        }))
    }

    fn as_text(mesh: &Mesh, obj: bool) -> Vec<u8> {
        let mut text = String::from(if obj { "" } else { "solid a\n" });
        for face in mesh.faces() {
            if !obj {
                text += "facet normal 0 0 1 outer loop\n";
            }
            for [x, y, z] in face {
                text += &format!("{} {x} {y} {z}\n", if obj { "v" } else { "vertex" });
            }
            text += if obj {
                "f -3 -2 -1\n"
            } else {
                "endloop endfacet\n"
            };
        }
        if !obj {
            text += "endsolid a\n";
        }
        text.into_bytes()
    }

    #[rstest]
    #[case::binary(write_stl(&long_row()), "a.stl")]
    #[case::text(as_text(&long_row(), false), "a.stl")]
    #[case::obj(as_text(&long_row(), true), "a.obj")]
    #[case::three_mf(write_3mf(&long_row()).unwrap(), "a.3mf")]
    fn reading_ends_when_nobody_wants_it(#[case] bytes: Vec<u8>, #[case] name: &str) {
        assert!(read_mesh(&bytes, name).is_ok());
        let asked = Asked::default();
        assert_eq!(read_watched(&bytes, name, &asked), Err(ReadError::Stopped));
        assert_eq!(asked.0.load(Ordering::Relaxed), 1);
    }
    use rstest::rstest;

    #[rstest]
    #[case::a_picture_named_stl(b"\x89PNG\r\n\x1a\n\0\0", "knight.stl", Some("a picture"))]
    #[case::a_photograph(b"\xff\xd8\xff\xe0\0\x10JFIF", "knight.jpg", Some("a picture"))]
    #[case::a_letter(
        b"Dear heron, the files are in the folder.",
        "readme.txt",
        Some("a text")
    )]
    #[case::a_letter_named_stl(
        b"Dear heron, the files are in the folder.",
        "a.stl",
        Some("a text")
    )]
    #[case::a_text_stl(b"  SOLID heron\n facet normal", "a.stl", None)]
    #[case::an_obj(b"# made by hand\nv 0 0 0\n", "a.obj", None)]
    #[case::a_binary_stl(b"BMx made by hand\0\0\0\0\0\0", "a.stl", None)]
    #[case::an_archive(b"PK\x03\x04", "a.3mf", None)]
    #[case::nothing(b"", "a.stl", None)]
    fn what_is_plainly_no_mesh_is_told_at_the_door(
        #[case] head: &[u8],
        #[case] name: &str,
        #[case] what: Option<&'static str>,
    ) {
        assert_eq!(check_head(head, name).err(), what.map(ReadError::OtherKind));
    }
}
