//! What a machine is told and answers, as `docs/printer-protocol.md` writes it.

use serde::{Deserialize, Serialize};

/// What it is told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub enum Told {
    /// Print a file of its memory, if that has this checksum.
    Start {
        /// Under what it is kept.
        file: String,
        /// BLAKE3 of its bytes, in hexadecimal digits.
        checksum: String,
    },
    /// Hold.
    Pause,
    /// Go on.
    Resume,
    /// Break off.
    Stop,
    /// What hung in it was taken off.
    Clear,
}

/// What it answers, once and for all.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Answer {
    /// It did it.
    pub done: bool,
    /// Why not; empty where it did.
    pub why: String,
    /// Its count of the job this was about; 0 for none.
    pub number: u64,
    /// Layers of it that were done.
    pub layer: u32,
}
