//! The data file: one SQLite file is the whole workshop.
//!
//! * [`Store`]: opens, migrates, hands out connections for reading and writing
//! * [`rows`]: the kept things as values
//! * [`queries`]: everything that is asked or changed, one file for each kind of thing
//!
//! The only crate that knows Diesel and SQL. Callers pass `now_ms`; there is no clock here.

mod db;
mod error;
pub mod queries;
pub mod rows;
mod schema;

pub use db::{Conn, Store};
pub use error::{Stale, StoreError};
