//! Values that this project did not compute.

mod meshes;
