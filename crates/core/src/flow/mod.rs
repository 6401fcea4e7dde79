//! States of copies, plates, plans, files and tasks, and the only ways from one to the next.

mod causes;
mod copy;
mod error;
mod plan;
mod plate;
mod run;
mod sculpt;
mod states;
mod task;

pub use causes::FailureCause;
pub use copy::{PlacedCopy, PrintedCopy, next_stage};
pub use error::FlowError;
pub use plan::{PlanEffort, PlanRevision, PlanScope, PlanState};
pub use plate::{Plate, PlateCopy, check_plate_step};
pub use run::{Run, RunOutcome};
pub use sculpt::SculptState;
pub use states::{CopyEvent, PlateState, Stage};
pub use task::{Lane, MAX_ATTEMPTS, Task, TaskKind, TaskState, after_death};
