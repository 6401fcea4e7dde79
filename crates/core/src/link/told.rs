//! What a machine is told and answers, as `docs/printer-protocol.md` writes it.

use serde::{Deserialize, Serialize};

use super::job_key::JobKey;

/// What it is told, and of which job: it compares that with what it does, and acts only where it is the same.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "do", rename_all = "kebab-case")]
pub enum Told {
    /// Print a file of its memory, as the job that it would count so if nothing happened to it meanwhile.
    Start(JobKey),
    /// Hold.
    Pause(JobKey),
    /// Go on.
    Resume(JobKey),
    /// Break off.
    Stop(JobKey),
    /// What hung in it was taken off.
    Clear(JobKey),
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
