//! A printer that is not there: it prints by the clock, at any speed, with faults where they are asked for, and speaks
//! the open protocol of `docs/printer-protocol.md`. It knows plates' files, and nothing of workshops or armies.

mod error;
pub mod fault;
mod link;
mod machine;
mod memory;

pub use error::SimError;
pub use link::Sim;
pub use machine::{Machine, Spec};
