//! The demo scenario: Osierbank Workshop makes the Brackwater Levy.
//!
//! * [`sculpts`]: every sculpt, generated from signed-distance shapes
//! * [`fill()`]: writes the scenario into a data file, through the store's public functions only

mod army;
mod fill;
pub mod sculpts;

pub use fill::{DemoError, fill};
