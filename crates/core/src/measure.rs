//! Everything that is measured on a sculpt once, from its bytes.

use crate::geometry::Outline;
use crate::layers::{Reach, measure_reach, measure_silhouette};
use crate::mesh::{MeshFacts, ReadError, measure_mesh, read_stl};
use crate::watch::Watch;

/// What is kept about a sculpt, at the size of its file.
#[derive(Debug, Clone, PartialEq)]
pub struct Measured {
    /// Figures of the mesh.
    pub facts: MeshFacts,
    /// Its outline on the plate about the middle of its box, mm.
    pub outline: Outline,
    /// Its skyline.
    pub reach: Reach,
}

/// Why a file could not be measured, in one line for the maker.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum MeasureError {
    /// It could not be read.
    #[error(transparent)]
    Read(#[from] ReadError),
    /// All its triangles stand on one line.
    #[error("the mesh has no thickness: export it again as a solid")]
    Flat,
    /// Asked to stop.
    #[error("measuring was stopped")]
    Stopped,
}

/// Reads and measures a file.
///
/// # Errors
/// [`MeasureError`], one line.
pub fn measure_file(bytes: &[u8], watch: &dyn Watch) -> Result<Measured, MeasureError> {
    let step = |share| {
        watch.report(share);
        if watch.stopped() {
            Err(MeasureError::Stopped)
        } else {
            Ok(())
        }
    };
    let mesh = read_stl(bytes)?;
    step(0.4)?;
    let facts = measure_mesh(&mesh);
    step(0.6)?;
    let outline = measure_silhouette(&mesh).ok_or(MeasureError::Flat)?;
    step(0.8)?;
    if facts.size_mm()[2] <= 0.0 {
        return Err(MeasureError::Flat);
    }
    Ok(Measured {
        reach: measure_reach(&mesh),
        facts,
        outline,
    })
}
