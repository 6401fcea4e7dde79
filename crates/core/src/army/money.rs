//! What a project has cost so far.

use crate::units::Money;

/// What a project has cost so far: one figure for every page that shows it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct ProjectMoney {
    /// What its plates cost whose run has ended, as far as it was written down, else as planned.
    pub plates: Money,
    /// Resin that was spoilt with those plates, or cured and spilt with them, at its price.
    pub spoilt: Money,
    /// What was paid for copies that came from elsewhere.
    pub came: Money,
    /// What the plates on the printers now are planned to cost; no part of what is spent.
    pub running: Money,
}

impl ProjectMoney {
    /// What is spent.
    #[must_use]
    pub fn spent(&self) -> Money {
        self.plates + self.spoilt + self.came
    }
}
