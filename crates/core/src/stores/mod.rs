//! Resin where it is: bottles, vats, what was printed, what was lost. Every drop that leaves one place
//! arrives in another.

mod bath;
mod books;
mod bottle;
mod enough;
mod mix;
mod weighed;

pub use bath::{BathUse, drained_ml};
pub use books::{Books, BooksError, Lost, Move, Place, Volume, VolumeError};
pub use bottle::{Bottle, sheet_ml, worth};
pub use enough::{Covered, Enough, PlateNeed, Stock, VatLevel, enough};
pub use mix::{Mixed, mixed_by_mass, mixed_by_volume};
pub use weighed::{WeightFactor, WeightLog, liquid_inside_ml};
