//! The states of a mesh file.

use crate::words::words;

words! {
    /// Where a mesh file stands.
    SculptState, "state of a sculpt" {
        /// Being uploaded; swept at the next start if the upload broke off.
        Incoming = "incoming",
        /// Complete, not measured yet.
        Waiting = "waiting",
        /// Measured.
        Measured = "measured",
        /// Not readable; the refusal says why.
        Refused = "refused",
    }
}

impl SculptState {
    /// It is still to be measured.
    #[must_use]
    pub const fn is_open(self) -> bool {
        matches!(self, SculptState::Incoming | SculptState::Waiting)
    }
}
