//! One program at a time serves a data file: two would take up each other's work.

use std::fs::{File, TryLockError};
use std::io::ErrorKind;
use std::path::Path;

use crate::error::StoreError;
use crate::trouble::read_only;

/// A data file held for serving; let go of when this is dropped, or the program dies.
#[derive(Debug)]
pub struct DataLock(#[expect(dead_code, reason = "held, never read")] File);

impl DataLock {
    /// Holds a data file by a lock of the system on the file itself, whatever name it was reached by; one that is not
    /// there is made, empty. SQLite's own locks are of another kind (`flock` beside `fcntl`) and do not meet it.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] when another program holds it, or it cannot be written to.
    pub fn take(path: &Path) -> Result<Self, StoreError> {
        let held = held_by(path);
        let file = private(&held).map_err(|error| match error.kind() {
            ErrorKind::PermissionDenied | ErrorKind::ReadOnlyFilesystem if path.is_file() => {
                read_only(path)
            }
            _ => StoreError::NotOurs(format!(
                "{} cannot be used there ({error}): give its folder the right to be written, or name another file with --data",
                path.display()
            )),
        })?;
        match file.try_lock() {
            Ok(()) => Ok(Self(file)),
            Err(TryLockError::WouldBlock) => Err(StoreError::NotOurs(format!(
                "{} is served by another Wembrit: end that one first, or name another file with --data",
                path.display()
            ))),
            // Where locks are unknown, as on some network drives, nobody can be kept out.
            Err(TryLockError::Error(_)) => Ok(Self(file)),
        }
    }
}

/// What is locked: the data file. Where a lock keeps others from reading as well, a file beside it.
fn held_by(path: &Path) -> std::path::PathBuf {
    if cfg!(unix) {
        return path.to_owned();
    }
    let mut beside = path
        .canonicalize()
        .unwrap_or(path.to_owned())
        .into_os_string();
    beside.push(".in-use");
    beside.into()
}

/// Opens a file for writing; where it is not there it is made, for its owner alone.
///
/// # Errors
/// What the system says.
pub fn private(path: &Path) -> std::io::Result<File> {
    let mut how = File::options();
    how.create(true).truncate(false).write(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut how, 0o600);
    how.open(path)
}
