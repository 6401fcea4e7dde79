//! Figures that hold for the whole workshop.

use crate::units::{LayerHeight, Money};

/// The workshop.
#[derive(Debug, Clone, PartialEq)]
pub struct Workshop {
    /// Counts the changes of its row.
    pub row_version: i64,
    /// Its name.
    pub name: String,
    /// The currency money is written in.
    pub currency: String,
    /// Name of its time zone.
    pub time_zone: String,
    /// Usual layer height.
    pub layer: LayerHeight,
    /// What goes into every plate.
    pub rates: Rates,
    /// Names of the figures nobody has confirmed, parted by commas.
    pub assumed: String,
}

/// Figures of the workshop that go into every plate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rates {
    /// Free space between copies, mm.
    pub clearance_mm: f64,
    /// Resin lost on top, as a share.
    pub waste_share: f64,
    /// Minutes of hands for each plate.
    pub hands_on_minutes: f64,
    /// What an hour of hands costs.
    pub hands_on_per_hour: Money,
    /// Minutes for each copy beside it.
    pub copy_minutes: f64,
    /// Minutes for each contact of its supports.
    pub contact_minutes: f64,
    /// What a kilowatt-hour costs.
    pub kwh: Money,
}

impl Rates {
    /// Minutes of hands that are counted for a plate with so many copies and contacts.
    #[must_use]
    pub fn minutes(&self, [copies, contacts]: [f64; 2]) -> f64 {
        self.hands_on_minutes + self.copy_minutes * copies + self.contact_minutes * contacts
    }
}
