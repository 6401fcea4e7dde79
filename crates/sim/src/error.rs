//! Why a machine cannot be had.

use std::path::PathBuf;

/// Why a machine cannot be had.
#[derive(Debug, thiserror::Error)]
pub enum SimError {
    /// Its folder cannot be read or written.
    #[error("{0}: {1}")]
    Folder(PathBuf, std::io::Error),
    /// What stands there is no machine.
    #[error("{0} is no memory of a machine: {1}")]
    Memory(PathBuf, String),
    /// The line broke.
    #[error("the line broke: {0}")]
    Line(std::io::Error),
}
