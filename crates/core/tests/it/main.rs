//! The rooms of core together, and core against figures from outside.

mod outside;
mod plan;
mod silhouette;
