//! States of copies, plates, plans, files and tasks, and the only ways from one to the next.

mod cause_cards;
mod causes;
mod copy;
mod error;
mod judgement;
mod plan;
mod plate;
mod run;
#[cfg(test)]
pub(crate) mod samples;
mod sculpt;
mod states;
mod task;
mod told;

pub use cause_cards::{CauseCard, Reason};
pub use causes::{FailedAt, FailureCause, usual_step};
pub use copy::{PlacedCopy, PrintedCopy, next_stage};
pub use error::FlowError;
pub use judgement::Judgement;
pub use plan::{PlanEffort, PlanRevision, PlanScope, PlanState};
pub use plate::{Plate, PlateCopy, check_plate_step, plate_code};
pub use run::{Run, RunOutcome, RunsMeet, free_before};
pub use sculpt::SculptState;
pub use states::{CopyEvent, PlateState, Stage};
pub use task::{Lane, MAX_ATTEMPTS, Task, TaskKind, TaskState, after_death};
pub use told::{Told, read_hours, read_told};
