//! Money: what a plate's hands cost, how shared costs are split, what a model costs.

mod split;

pub use split::{PartCost, hands_on_cost, one_model, split};
