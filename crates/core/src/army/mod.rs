//! The army: its list comes in, kits, files for parts, what is wanted, what is finished.

pub mod demand;
pub mod kit;
pub mod matching;
pub mod progress;
pub mod roster;
