//! What a connected printer says of itself.

use serde::{Deserialize, Serialize};

use super::job_key::JobKey;
use crate::words::words;

words! {
    /// Where a machine stands, by its own word.
    #[derive(Serialize, Deserialize)]
    #[serde(rename_all = "kebab-case")]
    MachineState, "state of a machine" {
        /// Nothing hangs in it.
        Idle = "idle",
        /// It prints.
        Printing = "printing",
        /// It is held.
        Paused = "paused",
        /// All layers are done; the plate hangs in it.
        Ended = "ended",
        /// It was stopped; the plate hangs in it.
        Stopped = "stopped",
        /// It broke off by itself; the plate hangs in it.
        Halted = "halted",
    }
}

words! {
    /// What went wrong, by the machine's own word.
    #[derive(Serialize, Deserialize)]
    #[serde(rename_all = "kebab-case")]
    Trouble, "trouble of a machine" {
        /// It lost its power.
        PowerCut = "power cut",
        /// Its vat is empty.
        ResinEmpty = "resin empty",
    }
}

impl MachineState {
    /// A plate hangs in it.
    #[must_use]
    pub const fn holds_a_plate(self) -> bool {
        !matches!(self, MachineState::Idle)
    }

    /// It neither prints nor will go on by itself.
    #[must_use]
    pub const fn is_over(self) -> bool {
        matches!(
            self,
            MachineState::Ended | MachineState::Stopped | MachineState::Halted
        )
    }
}

/// What a machine prints, or printed last.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct JobSaid {
    /// Its own count of jobs.
    pub number: u64,
    /// The time since it was switched on in which this was begun.
    pub boot: String,
    /// Under what its file is kept.
    pub file: String,
    /// Checksum of that file.
    pub checksum: String,
}

/// A file in a machine's memory.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FileSaid {
    /// Under what it is kept.
    pub name: String,
    /// BLAKE3 of its bytes, in hexadecimal digits.
    pub checksum: String,
}

/// A machine's word on itself, as `docs/printer-protocol.md` writes it.
///
/// # Units
/// ml, mm, °C, seconds.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Says {
    /// Its own identity, which it keeps wherever it answers.
    pub machine: String,
    /// The time since it was switched on: another one after every power cut.
    pub boot: String,
    /// Jobs it ever began.
    pub jobs: u64,
    /// Where it stands.
    pub state: MachineState,
    /// What went wrong, where something did.
    pub trouble: Option<Trouble>,
    /// What hangs in it; nothing where it is idle.
    pub job: Option<JobSaid>,
    /// Layers of it that are done.
    pub layer: u32,
    /// How long it has printed, without what it was held, s.
    pub printed_s: f64,
    /// How long ago it was started, s.
    pub since_s: f64,
    /// Warmth about it, °C.
    pub room_c: f64,
    /// What its vat holds, ml.
    pub resin_ml: f64,
    /// How far its plate can go up, mm.
    pub travel_mm: f64,
    /// The files in its memory.
    pub files: Vec<FileSaid>,
    /// How many times as fast as the clock it goes; only a simulated one is at anything but 1.
    pub speed: f64,
}

impl Says {
    /// What hangs in it.
    #[must_use]
    pub fn job_key(&self) -> Option<JobKey> {
        self.job.as_ref().map(|job| JobKey {
            machine: self.machine.clone(),
            boot: job.boot.clone(),
            number: job.number,
            file: job.file.clone(),
            checksum: job.checksum.clone(),
        })
    }

    /// The next job it would begin, with a file of its memory.
    #[must_use]
    pub fn next_job(&self, file: &str, checksum: &str) -> JobKey {
        JobKey {
            machine: self.machine.clone(),
            boot: self.boot.clone(),
            number: self.jobs.saturating_add(1),
            ..JobKey::of_file(file, checksum)
        }
    }

    /// A file in its memory.
    #[must_use]
    pub fn file(&self, name: &str) -> Option<&FileSaid> {
        self.files.iter().find(|f| f.name == name)
    }
}
