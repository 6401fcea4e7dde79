//! Printers that are connected: what each says, and what it is told, each in a task of its own.
//!
//! * [`machine`]: what an adapter of a printer has to bring; `adapters`: which ones there are
//! * `open_protocol`: the adapter for `docs/printer-protocol.md`
//! * `reach`: how far an address may lead
//! * `heard`: what was heard of each printer last
//! * [`link`]: a turn of the talk with one printer, and the tasks that take turns

mod adapters;
mod heard;
pub mod link;
pub mod machine;
mod open_protocol;
mod reach;

pub use adapters::{Adapters, Connect};
pub(crate) use heard::{Heard, Printers};
pub use machine::{LinkError, Machine};
pub use reach::Reach;
