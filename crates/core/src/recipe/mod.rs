//! How a sculpt is printed: scale, orientation, supports, in versions; what a plate needs to know of
//! it then; trials.

pub mod orient;
pub mod prepare;
pub mod register;
pub mod scale;
pub mod supports;
pub mod trial;
mod version;

pub use version::{BLADE_MM, Character, Proof, Recipe, suits, what_changed};
