//! Finding the exposure of a printer with a resin at a layer height: judged tests, what to try next,
//! when it is due again, and a piece to test it with.

mod log;
mod piece;
mod state;

pub use log::{ExposureAdvice, ExposureTest, Tested, advise, shelf_depth_mm};
pub use piece::{CameOut, Feature, FeatureKind, TestPiece};
pub use state::{Due, ExposureFacts, ExposureState, SEASON_C, STALE_DAYS};
