//! A printer that is connected: what it gets, what it is told, what it says, and what follows from both.

pub mod before;
pub mod command;
pub mod due;
pub mod job;
pub mod job_key;
pub mod live;
pub mod machine_run;
#[cfg(test)]
mod samples;
pub mod says;
pub mod told;

pub use before::{NotReady, not_ready};
pub use command::{Command, CommandKind, CommandState};
pub use due::{OnMachine, Stands, cut_at, due, held_anew, stands};
pub use job::{Job, NoJob};
pub use job_key::JobKey;
pub use live::{Doubt, Live};
pub use machine_run::{MachineRun, TakenOff};
pub use says::{MachineState, Says, Trouble};
pub use told::{Answer, Told};
