//! The states of a plate, and the only ways from one to the next.

use super::error::FlowError;
use crate::words::words;

words! {
    /// Where a plate stands.
    PlateState, "state of a plate" {
        /// Part of a plan that nobody has accepted.
        Draft = "draft",
        /// Accepted, waiting for its printer.
        Planned = "planned",
        /// In the printer.
        Running = "running",
        /// Off the printer, its copies not judged yet.
        Printed = "printed",
        /// Every copy judged.
        Done = "done",
        /// Given up before the start.
        Released = "released",
    }
}

/// Whether a plate may go from one state to another.
///
/// # Errors
/// [`FlowError::Plate`] when it may not.
pub fn check_plate_step(from: PlateState, to: PlateState) -> Result<(), FlowError> {
    use PlateState as P;
    match (from, to) {
        (P::Draft, P::Planned)
        | (P::Planned, P::Running | P::Printed | P::Released)
        | (P::Running, P::Printed)
        | (P::Printed, P::Done)
        | (P::Done, P::Printed) => Ok(()),
        (from, to) => Err(FlowError::Plate { from, to }),
    }
}
