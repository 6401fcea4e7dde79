//! Which job of which machine.

use serde::{Deserialize, Serialize};

/// Everything by which a job is known from every other one, of the same machine and of all others. A machine's
/// count alone is not enough: a new one counts from 1 as well.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
pub struct JobKey {
    /// The machine's own identity, which it keeps wherever it answers.
    pub machine: String,
    /// The time since it was switched on in which the job was begun, by the machine's own word.
    pub boot: String,
    /// Its own count of the job.
    pub number: u64,
    /// Under what its file is kept.
    pub file: String,
    /// BLAKE3 of that file, in hexadecimal digits.
    pub checksum: String,
}

impl JobKey {
    /// A file that is no job yet.
    #[must_use]
    pub fn of_file(file: &str, checksum: &str) -> Self {
        Self {
            file: file.to_owned(),
            checksum: checksum.to_owned(),
            ..Self::default()
        }
    }

    /// It names its machine, as every job does that is begun over a link.
    #[must_use]
    pub fn is_whole(&self) -> bool {
        !self.machine.is_empty() && !self.boot.is_empty() && self.number > 0
    }
}
