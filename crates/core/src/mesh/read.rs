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

/// A unit a file was probably drawn in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct UnitGuess {
    /// Its name.
    pub name: &'static str,
    /// Millimetres in one of it.
    pub mm: f64,
}

/// Guesses the unit of a file without one from its longest side: nothing for sizes that make
/// sense in mm. Only a guess: the maker is asked.
#[must_use]
pub fn guess_unit(longest: f64) -> Option<UnitGuess> {
    match longest {
        l if l <= 0.0 => None,
        l if l < 0.25 => Some(UnitGuess {
            name: "metres",
            mm: 1000.0,
        }),
        l if l < 3.0 => Some(UnitGuess {
            name: "inches",
            mm: 25.4,
        }),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// The two examples of a figure 30 mm tall: 0.03 in metres, 1.18 in inches.
    #[rstest]
    #[case(0.03, Some("metres"))]
    #[case(1.18, Some("inches"))]
    #[case(30.0, None)]
    #[case(0.0, None)]
    fn units_are_guessed_from_the_size(#[case] longest: f64, #[case] name: Option<&str>) {
        assert_eq!(guess_unit(longest).map(|g| g.name), name);
    }
}
