//! What a machine remembers while it is without power.

use std::io::Write as _;
use std::path::Path;

use crate::error::SimError;
use crate::machine::Machine;

const FILE: &str = "machine.json";

/// What stands in a folder, switched on again; nothing where it holds no machine.
pub(crate) fn read(folder: &Path) -> Result<Option<Machine>, SimError> {
    let file = folder.join(FILE);
    let text = match std::fs::read(&file) {
        Ok(text) => text,
        Err(e) if e.kind() == std::io::ErrorKind::NotFound => return Ok(None),
        Err(e) => return Err(SimError::Folder(file, e)),
    };
    let machine: Machine =
        serde_json::from_slice(&text).map_err(|e| SimError::Memory(file, e.to_string()))?;
    Ok(Some(machine.woken()))
}

/// Writes it beside what stood there and takes its place, so that a broken off writing spoils nothing.
pub(crate) fn write(folder: &Path, machine: &Machine) -> Result<(), SimError> {
    let file = folder.join(FILE);
    let failed = |e| SimError::Folder(file.clone(), e);
    let text = serde_json::to_vec(machine).expect("numbers and words always serialise");
    let mut beside = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
    beside.write_all(&text).map_err(failed)?;
    beside.persist(&file).map_err(|e| failed(e.error))?;
    Ok(())
}
