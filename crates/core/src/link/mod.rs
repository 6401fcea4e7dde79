//! A printer that is connected: what it gets, what it is told, what it says, and what follows from both.

pub mod before;
pub mod command;
pub mod job;
pub mod live;
pub mod says;
pub mod told;

pub use before::{NotReady, not_ready};
pub use command::{CommandKind, CommandState};
pub use job::{Job, NoJob};
pub use live::{Doubt, Live};
pub use says::{MachineState, Says, Trouble};
pub use told::{Answer, Told};
