//! Money: what a plate's hands cost, how shared costs are split, what models and plates cost.

mod model;
mod plates;
mod split;

pub use model::{CopySums, ModelCost, PartCost, by_model, cost_each, mean, one_model, per_model};
pub use plates::PlateSums;
pub use split::{hands_on_cost, split};
