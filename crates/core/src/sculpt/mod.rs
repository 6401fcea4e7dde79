//! A mesh file as imported: what is measured on it, what that may cost, how it looks.

pub mod candidate;
pub mod findings;
pub mod measure;
pub mod picture;
