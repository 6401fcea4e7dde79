//! The simulated printer from outside: by its machine, and by its line.

#![allow(clippy::unwrap_used, reason = "a test stops where it cannot go on")]

mod line;
mod machine;
