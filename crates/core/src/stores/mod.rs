//! Resin where it is: bottles, vats, what was printed, what was lost. Every drop that leaves one place
//! arrives in another.

mod books;
mod bottle;
mod enough;
mod mix;
mod order;
mod wear;
mod weighing;

pub use books::{Books, BooksError, Lost, Move, Place, Volume, VolumeError};
pub use bottle::{Bottle, BottleWeightError, Keeps, sheet_ml};
pub use enough::{Covered, Enough, PlateNeed, Stock, VatLevel, enough};
pub use mix::{Mixed, mixed_by_volume};
pub use order::{OfSize, Order, orders};
pub use wear::{Used, Wear, WearKind, Wearing, Worn};
pub use weighing::{OnScale, WeighedPart, WeighedPlate, WeightSays, judge_weight, reckoned_g};
