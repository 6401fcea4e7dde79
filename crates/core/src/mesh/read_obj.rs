//! Wavefront OBJ: corners and faces; everything else is passed over. Our own reader, since a
//! maker wants every fault of a file at once, with its line.

use std::borrow::Cow;

use super::faults::Faults;
use super::read_error::MAX_TRIANGLES;
use super::{Mesh, ReadError};
use crate::watch::{Ticks, Watch};

/// Corners of a polygon at most.
const MOST_SIDES: usize = 4096;

/// Reads an OBJ file. Convex polygons are cut into fans, others by their ears; indices may be
/// negative.
///
/// # Errors
/// [`ReadError::Faulty`] with the lines that cannot be read.
pub(super) fn read_obj(bytes: &[u8], watch: &dyn Watch) -> Result<Mesh, ReadError> {
    let mut corners: Vec<[f32; 3]> = Vec::new();
    let mut triangles: Vec<[u32; 3]> = Vec::new();
    let mut faults = Faults::default();
    let mut ticks = Ticks::new(watch);
    for (line_no, line) in whole_lines(bytes) {
        if ticks.stopped() {
            return Err(ReadError::Stopped);
        }
        let line = line.trim_ascii();
        let Ok(line) = std::str::from_utf8(line) else {
            // Names and comments may be in any encoding; figures are not.
            if matches!(line, [b'v' | b'f', b' ' | b'\t', ..]) {
                faults.add(line_no, "is not readable text");
            }
            continue;
        };
        let of = |keyword: char| {
            let rest = line.strip_prefix(keyword)?;
            rest.starts_with([' ', '\t']).then_some(rest)
        };
        if let Some(rest) = of('v') {
            match corner(rest) {
                Some(corner) => corners.push(corner),
                None => {
                    faults.add(line_no, "has a corner that is not three numbers");
                    corners.push([f32::NAN; 3]);
                }
            }
        } else if let Some(rest) = of('f') {
            match face(rest, corners.len()) {
                Ok(face) => triangulate(&face, &corners, &mut triangles),
                Err(why) => faults.add(line_no, why),
            }
        }
        if faults.enough() {
            break;
        }
        if triangles.len() as u64 > MAX_TRIANGLES {
            return Err(ReadError::TooMany {
                triangles: triangles.len() as u64,
            });
        }
    }
    if let Some(faults) = faults.end() {
        return Err(ReadError::Faulty(faults));
    }
    let mesh = Mesh::weld(triangles.iter().map(|t| t.map(|i| corners[i as usize])));
    if mesh.triangles.is_empty() {
        return Err(ReadError::NoTriangles {
            dropped: mesh.dropped,
        });
    }
    Ok(mesh)
}

/// Cuts a polygon into triangles: a fan where it is convex, else the ears of its projection along
/// Newell's normal.
fn triangulate(face: &[u32], corners: &[[f32; 3]], triangles: &mut Vec<[u32; 3]>) {
    let at = |i: usize| {
        let corner = corners[face[i % face.len()] as usize];
        glam::DVec3::from_array(corner.map(f64::from))
    };
    let sides = face.len();
    let normal: glam::DVec3 = (0..sides).map(|i| at(i).cross(at(i + 1))).sum();
    let turn = |i: usize| (at(i + 1) - at(i)).cross(at(i + 2) - at(i + 1)).dot(normal);
    let is_convex = sides == 3 || (0..sides).all(|i| turn(i) >= 0.0);
    let ears = || {
        let across = normal.try_normalize()?.any_orthonormal_vector();
        let up = normal.normalize().cross(across);
        let flat: Vec<f64> = (0..sides)
            .flat_map(|i| [at(i).dot(across), at(i).dot(up)])
            .collect();
        // A polygon that crosses itself has no ears to speak of.
        let cut = earcutr::earcut(&flat, &[], 2).ok()?;
        (cut.len() == 3 * (sides - 2)).then_some(cut)
    };
    match (!is_convex).then(ears).flatten() {
        Some(cut) => {
            let (cut, _) = cut.as_chunks::<3>();
            triangles.extend(cut.iter().map(|t| t.map(|i| face[i])));
        }
        None => triangles.extend((1..sides - 1).map(|i| [face[0], face[i], face[i + 1]])),
    }
}

/// Lines with their numbers; a line that ends with `\` goes on in the next. Comments do not: a
/// path in one may end so.
fn whole_lines(bytes: &[u8]) -> impl Iterator<Item = (usize, Cow<'_, [u8]>)> {
    let mut lines = bytes.split(|b| *b == b'\n').enumerate();
    std::iter::from_fn(move || {
        let (index, first) = lines.next()?;
        let mut whole = Cow::Borrowed(first);
        let is_comment = first.trim_ascii_start().starts_with(b"#");
        while !is_comment
            && let Some(open) = whole.trim_ascii_end().strip_suffix(b"\\")
            && let (length, Some((_, next))) = (open.len(), lines.next())
        {
            let whole = whole.to_mut();
            whole.truncate(length);
            whole.push(b' ');
            whole.extend_from_slice(next);
        }
        Some((index + 1, whole))
    })
}

fn corner(text: &str) -> Option<[f32; 3]> {
    let mut numbers = text.split_ascii_whitespace().map(str::parse::<f32>);
    Some([
        numbers.next()?.ok()?,
        numbers.next()?.ok()?,
        numbers.next()?.ok()?,
    ])
}

/// Indices of a face, from 0.
fn face(text: &str, corners: usize) -> Result<Vec<u32>, &'static str> {
    let mut face = Vec::new();
    for word in text.split_ascii_whitespace() {
        let number = word.split('/').next().unwrap_or_default();
        let index: i64 = number
            .parse()
            .map_err(|_| "has a face whose index is no number")?;
        let from_end = i64::try_from(corners).unwrap_or(i64::MAX) + index;
        let index = match index {
            1.. => index - 1,
            0 => return Err("has a face with index 0: indices begin at 1"),
            _ => from_end,
        };
        if index < 0 || index >= corners as i64 {
            return Err("has a face with a corner that is not there");
        }
        face.push(index as u32);
        if face.len() > MOST_SIDES {
            return Err("has a face with too many corners");
        }
    }
    if face.len() < 3 {
        Err("has a face with fewer than three corners")
    } else {
        Ok(face)
    }
}
