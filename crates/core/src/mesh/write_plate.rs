//! A whole plate out: each part's mesh once, and each copy where it stands, with a name of its own.
//! Source of the format: 3MF Core Specification 1.3, components and transforms.

use std::fmt::Write as _;

use super::write_3mf::{WriteError, zipped};
use super::{Mesh, write_stl};

/// A copy on a plate.
#[derive(Debug, Clone, PartialEq)]
pub struct ArrangedCopy {
    /// Which of the meshes.
    pub mesh: usize,
    /// What it is called: its mark and part.
    pub name: String,
    /// Its turn about the vertical, degrees.
    pub rotation_deg: f64,
    /// Where its middle stands, mm from the corner of the plate.
    pub at_mm: [f64; 2],
}

/// Meshes as they are printed, and where they stand. A mesh stands on the plate by itself: its
/// middle is moved to where a copy stands.
#[derive(Debug, Clone, Default)]
pub struct Arranged {
    /// Each part once, standing on z = 0.
    pub meshes: Vec<Mesh>,
    /// The copies.
    pub copies: Vec<ArrangedCopy>,
}

/// Triangles an STL holds at most: it repeats each part for each copy.
pub const MOST_STL_TRIANGLES: usize = 12_000_000;

/// Why a plate could not be written.
#[derive(Debug, thiserror::Error)]
pub enum PlateError {
    /// Too many triangles for an STL.
    #[error("as STL it has {0} million triangles, since each part is repeated: take the 3MF")]
    TooLarge(usize),
    /// No archive.
    #[error(transparent)]
    Write(#[from] WriteError),
}

/// A mesh with its middle over the origin.
fn centred(mesh: &Mesh) -> Mesh {
    let (low, high) = mesh.bounds();
    mesh.shifted([-(low[0] + high[0]) / 2.0, -(low[1] + high[1]) / 2.0, 0.0])
}

impl Arranged {
    /// As 3MF: a mesh is there once, each copy is an object of its own that refers to it. Equal
    /// plates give equal bytes.
    ///
    /// # Errors
    /// [`PlateError`].
    pub fn write_3mf(&self, title: &str) -> Result<Vec<u8>, PlateError> {
        let mut model = String::from(
            "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<model unit=\"millimeter\" xml:lang=\"en\" xmlns=\"http://schemas.microsoft.com/3dmanufacturing/core/2015/02\">",
        );
        let _ = write!(
            model,
            "<metadata name=\"Title\">{}</metadata><resources>",
            escaped(title)
        );
        for (index, mesh) in self.meshes.iter().enumerate() {
            let _ = write!(
                model,
                "<object id=\"{}\" type=\"model\"><mesh><vertices>",
                index + 1
            );
            let mesh = centred(mesh);
            for [x, y, z] in mesh.corners() {
                let _ = write!(model, "<vertex x=\"{x}\" y=\"{y}\" z=\"{z}\"/>");
            }
            model.push_str("</vertices><triangles>");
            for [a, b, c] in mesh.triangles() {
                let _ = write!(model, "<triangle v1=\"{a}\" v2=\"{b}\" v3=\"{c}\"/>");
            }
            model.push_str("</triangles></mesh></object>");
        }
        let first = self.meshes.len() + 1;
        for (index, copy) in self.copies.iter().enumerate() {
            let _ = write!(
                model,
                "<object id=\"{}\" type=\"model\" name=\"{}\"><components><component objectid=\"{}\"/></components></object>",
                first + index,
                escaped(&copy.name),
                copy.mesh + 1,
            );
        }
        model.push_str("</resources><build>");
        for (index, copy) in self.copies.iter().enumerate() {
            let (sin, cos) = copy.rotation_deg.to_radians().sin_cos();
            let [x, y] = copy.at_mm;
            // Rows are multiplied from the left: a point is a row.
            let _ = write!(
                model,
                "<item objectid=\"{}\" transform=\"{cos} {sin} 0 {} {cos} 0 0 0 1 {x} {y} 0\"/>",
                first + index,
                -sin,
            );
        }
        model.push_str("</build></model>\n");
        Ok(zipped(&model)?)
    }

    /// As one binary STL.
    ///
    /// # Errors
    /// [`PlateError::TooLarge`].
    pub fn write_stl(&self) -> Result<Vec<u8>, PlateError> {
        let of = |copy: &ArrangedCopy| self.meshes[copy.mesh].triangles().len();
        let triangles: usize = self.copies.iter().map(of).sum();
        if triangles > MOST_STL_TRIANGLES {
            return Err(PlateError::TooLarge(triangles / 1_000_000));
        }
        let centred: Vec<Mesh> = self.meshes.iter().map(centred).collect();
        let mut whole: Option<Mesh> = None;
        for copy in &self.copies {
            let (sin, cos) = copy.rotation_deg.to_radians().sin_cos();
            let [x, y] = copy.at_mm;
            let placed = centred[copy.mesh].mapped(|p| {
                glam::DVec3::new(p.x * cos - p.y * sin + x, p.x * sin + p.y * cos + y, p.z)
            });
            whole = Some(match whole {
                Some(all) => all.with(&placed),
                None => placed,
            });
        }
        Ok(whole.map_or_else(Vec::new, |all| write_stl(&all)))
    }
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;")
        .replace('<', "&lt;")
        .replace('>', "&gt;")
        .replace('"', "&quot;")
        .chars()
        .filter(|c| !c.is_control())
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::{measure_mesh, read_mesh};

    /// An L of 6 × 4 mm, 2 mm high: its hand shows whether anything was mirrored.
    fn ell() -> Mesh {
        let boxed = |x: f64, y: f64, w: f64, d: f64| {
            let at = |i: usize| {
                let pick = |bit: usize, from: f64, by: f64| {
                    from + if i >> bit & 1 == 1 { by } else { 0.0 }
                };
                [
                    pick(0, x, w) as f32,
                    pick(1, y, d) as f32,
                    pick(2, 0.0, 2.0) as f32,
                ]
            };
            [
                [0, 2, 1],
                [1, 2, 3],
                [4, 5, 6],
                [5, 7, 6],
                [0, 1, 4],
                [1, 5, 4],
                [2, 6, 3],
                [3, 6, 7],
                [0, 4, 2],
                [2, 4, 6],
                [1, 3, 5],
                [3, 7, 5],
            ]
            .map(|t: [usize; 3]| t.map(at))
        };
        Mesh::weld(
            boxed(10.0, 10.0, 6.0, 1.0)
                .into_iter()
                .chain(boxed(10.0, 11.0, 1.0, 3.0)),
        )
    }

    fn plate() -> Arranged {
        let copy = |rotation_deg, at_mm, mark| ArrangedCopy {
            mesh: 0,
            name: format!("{mark} pike & \"axe\""),
            rotation_deg,
            at_mm,
        };
        Arranged {
            meshes: vec![ell()],
            copies: vec![copy(0.0, [20.0, 20.0], 7), copy(90.0, [40.0, 20.0], 8)],
        }
    }

    /// Both formats come back with the same volume, place and hand.
    #[test]
    fn a_plate_comes_back_as_it_was_arranged() {
        let plate = plate();
        let (three, stl) = (
            plate.write_3mf("plate 1").unwrap(),
            plate.write_stl().unwrap(),
        );
        assert_eq!(three, plate.write_3mf("plate 1").unwrap());
        for (bytes, name) in [(three, "plate.3mf"), (stl, "plate.stl")] {
            let read = read_mesh(&bytes, name).unwrap();
            assert_eq!(read.triangles().len(), 48);
            let (low, high) = read.bounds();
            // The second lies turned by a quarter: 4 wide and 6 deep.
            let near = |a: [f64; 3], b: [f64; 3]| (0..3).all(|k| (a[k] - b[k]).abs() < 1e-4);
            assert!(
                near(low, [17.0, 17.0, 0.0]) && near(high, [42.0, 23.0, 2.0]),
                "{name}: {low:?} {high:?}"
            );
            let volume = measure_mesh(&read).volume_mm3;
            assert!((volume - 36.0).abs() < 1e-3, "{name}: {volume}");
            // The short leg stands at the left end of the first, and below in the second.
            let inside = |x: f64, y: f64| {
                let hit = |f: &[[f64; 3]; 3]| {
                    f.iter().all(|c| (c[2] - 2.0).abs() < 1e-6) && holds(f, x, y)
                };
                read.faces().any(|f| hit(&f))
            };
            assert!(inside(17.4, 21.5) && !inside(22.6, 21.5), "{name}");
            assert!(inside(38.6, 17.4) && !inside(38.6, 22.6), "{name}");
        }
    }

    fn holds(f: &[[f64; 3]; 3], x: f64, y: f64) -> bool {
        let side =
            |a: [f64; 3], b: [f64; 3]| (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0]);
        let all = [side(f[0], f[1]), side(f[1], f[2]), side(f[2], f[0])];
        all.iter().all(|s| *s >= 0.0) || all.iter().all(|s| *s <= 0.0)
    }

    /// Each copy is an object of its own, by its mark; the mesh is there once.
    #[test]
    fn each_copy_has_its_name() {
        use std::io::Read as _;
        let bytes = plate().write_3mf("plate 1").unwrap();
        let mut zip = zip::ZipArchive::new(std::io::Cursor::new(bytes)).unwrap();
        let mut model = String::new();
        let mut file = zip.by_name("3D/3dmodel.model").unwrap();
        file.read_to_string(&mut model).unwrap();
        assert_eq!(model.matches("<mesh>").count(), 1);
        assert_eq!(model.matches("<item ").count(), 2);
        assert!(model.contains("name=\"7 pike &amp; &quot;axe&quot;\""));
    }

    #[test]
    fn what_is_too_large_for_an_stl_is_said() {
        let mut plate = plate();
        plate.copies = vec![plate.copies[0].clone(); MOST_STL_TRIANGLES / 24 + 1];
        let why = plate.write_stl().unwrap_err().to_string();
        assert!(why.contains("take the 3MF"), "{why}");
    }
}
