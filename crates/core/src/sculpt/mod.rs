//! A mesh file as imported: what is measured on it, what that may cost, how it looks.

pub mod candidate;
mod facts;
pub mod findings;
mod foot;
pub mod measure;
pub mod picture;
mod slab;
mod supported;

pub use facts::{HollowFacts, LayerFacts, Sculpt, SculptFacts, SupportsSaid};
pub use foot::Foot;
pub use supported::{BringsSupports, brings_supports};
