//! The demo scenario: Osierbank Workshop makes the Brackwater Levy.
//!
//! * [`sculpts`]: every sculpt, generated from signed-distance shapes
//! * [`fill()`] and [`open()`]: write the scenario into a data file, through the store's public
//!   functions only

mod army;
mod files;
mod fill;
mod learned;
pub mod sculpts;
mod shelf;
mod units;
mod workshop;

pub use fill::{DemoError, fill, open};
