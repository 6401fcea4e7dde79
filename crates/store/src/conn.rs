//! The connection everything goes through.

/// A connection to the data file.
pub type Conn = diesel::SqliteConnection;
