//! Values that this project did not compute.

pub(crate) mod layers;
pub(crate) mod meshes;
