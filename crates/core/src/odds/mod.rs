//! How likely it is that a copy comes out, and how many to print.
//!
//! Two losses, never mixed: the whole plate, and the single copy on one that held. [`Posterior`] says what judged
//! copies tell of the second; [`spares`], [`by_money`], [`kit`] and [`over_plates`] how many to print.

mod advice;
mod case;
mod differ;
mod judged;
mod losses;
mod posterior;
#[cfg(test)]
mod simulated;
mod spares;
mod windows;

pub use advice::{SparesAdvice, SparesAsked, where_to_put};
pub use case::answer_odds;
pub use differ::{Differ, OnPlate, Share, Verdict};
pub use judged::Judged;
pub use losses::{Group, RANGE, StepLoss, believed, by_steps, since};
pub use posterior::Posterior;
pub use spares::{Kit, KitPart, by_money, kit, over_plates, spares};
pub use windows::{Found, PROVEN, Stood, Window, tail, windows, worst_quarter};

/// Why nothing can be told.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum OddsError {
    /// A number that none can be.
    #[error("{0} is no sensible number")]
    NoNumber(&'static str),
    /// More copies than anybody prints.
    #[error("that is more than anybody prints: ask for fewer, or for a lower chance")]
    TooMany,
}
