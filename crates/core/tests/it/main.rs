//! The rooms of core together, and core against figures from outside.

#![allow(
    clippy::unwrap_used,
    reason = "a test that cannot go on should stop there"
)]

mod dirty;
mod hostile;
mod hostile_files;
mod kept;
mod on_the_plate;
mod outside;
mod packing;
mod plan;
mod preparing;
mod registering;
mod setups;
mod shapes;
mod silhouette;
mod slots;
mod stack;
mod three_mf;
