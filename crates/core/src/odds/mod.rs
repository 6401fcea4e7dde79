//! How likely it is that a copy comes out.

mod judged;

pub use judged::Judged;
