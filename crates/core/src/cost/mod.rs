//! Money: what plates cost and from what, how that is split over copies, who pays for those that fail, what models
//! cost.

mod basis;
mod charge;
mod files;
mod model;
mod plates;
mod prices;
mod split;

pub use basis::{Basis, Opened, Takes, Term, Took};
pub use charge::{Charged, Charges};
pub use files::FilePrice;
pub use model::{
    CopySums, ModelCost, ModelOpened, OpenedPart, PartCost, by_model, cost_each, mean, model_cost,
    one_model, per_model,
};
pub use plates::PlateSums;
pub use prices::{Offer, Pays, pays, price_by_mark_up, price_for_margin};
pub use split::split;
