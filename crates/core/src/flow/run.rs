//! One printing of a plate.

use crate::ids::{PlateId, RunId};
use crate::words::words;

words! {
    /// How a run ended.
    RunOutcome, "outcome of a run" {
        /// The plate came off with what was on it; its copies are judged one by one.
        Held = "held",
        /// Nothing of it is of use.
        Lost = "lost",
        /// It was stopped at a layer.
        Stopped = "stopped",
        /// It was taken back: the plate waits again, with the same copies.
        PutBack = "put back",
    }
}

/// One printing of a plate; a plate may need several.
#[derive(Debug, Clone, PartialEq)]
pub struct Run {
    /// Which one.
    pub id: RunId,
    /// Its plate.
    pub plate: PlateId,
    /// When it began, ms since 1970.
    pub started_at_ms: i64,
    /// When it ended.
    pub ended_at_ms: Option<i64>,
    /// How it ended.
    pub outcome: Option<RunOutcome>,
    /// The layer it was stopped at.
    pub stopped_at_layer: Option<i64>,
    /// Anything worth remembering.
    pub note: String,
}
