//! States of copies, plates, plans, files and tasks, and the only ways from one to the next.

mod causes;
mod copy;
mod error;
mod plan;
mod plate;
mod sculpt;
mod task;

pub use causes::FailureCause;
pub use copy::{CopyEvent, Stage, next_stage};
pub use error::FlowError;
pub use plan::{PlanEffort, PlanState};
pub use plate::{PlateState, check_plate_step};
pub use sculpt::SculptState;
pub use task::{MAX_ATTEMPTS, TaskKind, TaskState, after_death};
