//! Values that this project did not compute.

mod hollows;
pub(crate) mod layers;
pub(crate) mod meshes;
mod thickness;
