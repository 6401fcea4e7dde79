//! What was printed, with what it cost and how it came out: looked at by printer, resin, recipe and the like; what
//! failures cost, and which change would pay most; what plates took against what was planned; where the resin went.

mod copies;
mod failures;
mod plates;
mod resin_flow;
mod spares;

pub use copies::{LedgerCopy, Look, LookRow, Looks, Since, judged, steps};
pub use failures::{CauseCost, PaysMost, by_cause, pays_most};
pub use plates::{LedgerPlate, PlateTotals, Spent, spent_over_time};
pub use resin_flow::ResinFlow;
pub use spares::{SpareCost, SparesFacts};
