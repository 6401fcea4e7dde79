//! Any mesh file, told apart by what is in it.

use super::{Mesh, ReadError, read_3mf, read_obj, read_stl};

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
    if bytes.is_empty() {
        return Err(ReadError::Empty);
    }
    match format_of(bytes, file_name) {
        Format::Stl => read_stl(bytes),
        Format::Obj => read_obj(bytes),
        Format::ThreeMf => read_3mf(bytes),
    }
}
