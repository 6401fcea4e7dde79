//! The files a part is made from, read and put as its recipe prints it.

use wembrit_core::mesh::{Mesh, ReadError, read_watched};
use wembrit_core::recipe::PartSetup;
use wembrit_core::recipe::PrintMesh;
use wembrit_core::recipe::orient::FineZone;
use wembrit_core::recipe::prepare::{PrepareError, PrepareRequest, Supported};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::watch::Watch;
use wembrit_store::queries::{print_meshes, sculpts, zones};
use wembrit_store::{Conn, StoreError};

/// Bytes and name of a file.
type File = (Vec<u8>, String);

/// The files of a part, not read yet.
pub(crate) struct PartFiles {
    of: PartSetup,
    design: File,
    /// The mesh somebody has supported elsewhere.
    real: Option<(File, PrintMesh)>,
    zones: Vec<FineZone>,
}

/// Why nothing came of it.
#[derive(Debug, thiserror::Error)]
pub(crate) enum PartError {
    #[error(transparent)]
    Read(#[from] ReadError),
    #[error(transparent)]
    Prepare(#[from] PrepareError),
}

impl PartError {
    /// Somebody asked for it to stop.
    pub(crate) fn stopped(&self) -> bool {
        matches!(
            self,
            PartError::Read(ReadError::Stopped) | PartError::Prepare(PrepareError::Stopped)
        )
    }
}

impl PartFiles {
    pub(crate) fn load(c: &mut Conn, of: &PartSetup) -> Result<Self, StoreError> {
        let sculpt = sculpts::load(c, of.sculpt)?;
        let real = match of.setup.supports {
            Supports::PrintMesh(id) => {
                let row = print_meshes::load(c, id)?;
                let file = sculpts::load(c, row.file)?;
                Some(((sculpts::bytes(c, file.id)?, file.file_name), row))
            }
            _ => None,
        };
        let zones = zones::of_sculpt(c, of.sculpt)?;
        Ok(Self {
            of: *of,
            design: (sculpts::bytes(c, of.sculpt)?, sculpt.file_name),
            real,
            zones: zones.into_iter().map(|(_, z)| z).collect(),
        })
    }

    /// Reads them, and does something with the part as its recipe prints it.
    pub(crate) fn with<T>(
        self,
        watch: &dyn Watch,
        work: impl FnOnce(&Mesh, &PrepareRequest<'_>) -> Result<T, PrepareError>,
    ) -> Result<T, PartError> {
        let mesh = read_watched(&self.design.0, &self.design.1, watch)?;
        drop(self.design);
        let supported = match &self.real {
            Some(((bytes, name), row)) => Some((read_watched(bytes, name, watch)?, row)),
            None => None,
        };
        let how = PrepareRequest {
            pose: self.of.setup.pose,
            scale: self.of.unit_mm * self.of.scale,
            supports: self.of.setup.supports,
            supported: supported.as_ref().map(|(mesh, row)| Supported {
                mesh,
                support_mm3: row.found.map_or(0.0, |f| f.support_mm3),
                contacts: row.found.map_or(0, |f| f.contacts),
            }),
            zones: &self.zones,
            layer: self.of.layer,
        };
        Ok(work(&mesh, &how)?)
    }
}
