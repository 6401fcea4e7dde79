//! A step that leads nowhere.

use super::states::{CopyEvent, PlateState, Stage};

/// A step that does not lead on from where a thing stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum FlowError {
    /// A copy cannot take this step.
    #[error("a copy that is {from} cannot {event}")]
    Copy {
        /// Where it stands.
        from: Stage,
        /// What was asked.
        event: CopyEvent,
    },
    /// A plate cannot take this step.
    #[error("a plate that is {from} cannot become {to}")]
    Plate {
        /// Where it stands.
        from: PlateState,
        /// What was asked.
        to: PlateState,
    },
}
