//! Generated sculpts: several shells sunk into each other, as real files are, and some of them
//! dirty on purpose.

mod creatures;
mod figures;
mod shapes;
mod terrain;

use wembrit_core::mesh::{Mesh, write_stl};

pub use shapes::{Shell, Solid};

/// What is wrong with a generated file, on purpose.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Flaw {
    /// Nothing.
    None,
    /// One shell is turned inside out.
    InvertedShell,
    /// A patch of triangles is missing.
    OpenMesh,
    /// An inner shell facing inward, with no way out.
    SealedHollow,
    /// A hollow open toward the film.
    Cup,
    /// A hollow with a single hole.
    OneWayOut,
}

/// One generated sculpt.
pub struct DemoSculpt {
    /// File name.
    pub file_name: &'static str,
    /// What is wrong with it.
    pub flaw: Flaw,
    shells: Vec<Shell>,
}

impl DemoSculpt {
    fn new(file_name: &'static str, flaw: Flaw, shells: Vec<Shell>) -> Self {
        Self {
            file_name,
            flaw,
            shells,
        }
    }

    /// The file, as binary STL.
    #[must_use]
    pub fn to_stl(&self) -> Vec<u8> {
        let mut triangles: Vec<[[f32; 3]; 3]> = Vec::new();
        for (index, shell) in self.shells.iter().enumerate() {
            let last = index + 1 == self.shells.len();
            let mut faces = shell.to_faces();
            match self.flaw {
                Flaw::InvertedShell | Flaw::SealedHollow if last => {
                    faces.iter_mut().for_each(|face| face.swap(1, 2));
                }
                Flaw::OpenMesh if last => {
                    let missing = faces.len() / 3;
                    faces.drain(missing..missing + 14);
                }
                _ => {}
            }
            triangles.extend(faces);
        }
        write_stl(&Mesh::weld(triangles))
    }
}

/// All sculpts of the scenario.
#[must_use]
pub fn all() -> Vec<DemoSculpt> {
    let mut all = figures::sculpts();
    all.extend(creatures::sculpts());
    all.extend(terrain::sculpts());
    all
}
