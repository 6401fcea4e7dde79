//! The data file: one SQLite file is the whole workshop.
//!
//! * [`Store`]: opens, migrates, hands out connections for reading and writing
//! * [`queries`]: what is asked, in core's nouns
//! * [`commands`]: what is changed, a transaction each
//! * [`archive`]: a workshop or a project as one open file, out and in
//!
//! Rows are private: they become core's nouns on their way out.
//!
//! The only crate that knows Diesel and SQL. Callers pass `now_ms`; there is no clock here.

pub mod archive;
pub mod commands;
mod conn;
mod db;
mod error;
mod lock;
pub mod queries;
mod rows;
mod schema;
mod trouble;
mod until_written;

pub use conn::Conn;
pub use db::Store;
pub use error::{Stale, StoreError};
pub use lock::{DataLock, private};
