//! One program at a time serves a data file: two would take up each other's work.

use std::fs::{File, OpenOptions, TryLockError};
use std::path::Path;

use crate::error::StoreError;

/// A data file held for serving; let go of when this is dropped, or the program dies.
#[derive(Debug)]
pub struct DataLock(#[expect(dead_code, reason = "held, never read")] File);

impl DataLock {
    /// Holds a data file, by a file of its own beside it.
    ///
    /// # Errors
    /// [`StoreError::NotOurs`] when another program holds it, or the folder cannot be written to.
    pub fn take(path: &Path) -> Result<Self, StoreError> {
        let mut beside = path.as_os_str().to_owned();
        beside.push(".in-use");
        let file = OpenOptions::new()
            .create(true)
            .truncate(false)
            .write(true)
            .open(&beside)
            .map_err(|error| {
                StoreError::NotOurs(format!(
                    "{} cannot be used there ({error}): give its folder the right to be written, or name another file with --data",
                    path.display()
                ))
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
