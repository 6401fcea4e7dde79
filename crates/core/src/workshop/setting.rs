//! A process setting: how long a layer takes of one resin, at one layer height, on one printer.

use crate::ids::{PrinterId, ProcessSettingId, ResinId, SettingVersionId};
use crate::units::LayerHeight;
use crate::workshop::print_time::LayerTiming;

/// One version of a process setting.
#[derive(Debug, Clone, PartialEq)]
pub struct ProcessSetting {
    /// The chain of versions.
    pub id: ProcessSettingId,
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// This version.
    pub version: SettingVersionId,
    /// Its number in the chain.
    pub number: i64,
    /// Exposure and movement.
    pub timing: LayerTiming,
    /// Names of the figures nobody has confirmed, parted by commas.
    pub assumed: String,
}

/// Whether somebody has confirmed a figure, by the names of those that are assumed.
#[must_use]
pub fn is_confirmed(name: &str, assumed: &str) -> bool {
    assumed.split(',').all(|other| other != name)
}

/// The names of figures that are assumed without one that somebody has confirmed.
#[must_use]
pub fn without(name: &str, assumed: &str) -> String {
    let rest: Vec<&str> = assumed.split(',').filter(|other| *other != name).collect();
    rest.join(",")
}

impl ProcessSetting {
    /// Somebody has confirmed its exposure.
    #[must_use]
    pub fn exposure_confirmed(&self) -> bool {
        is_confirmed("exposure_s", &self.assumed)
    }

    /// It is the setting of this printer for this resin at this layer height.
    #[must_use]
    pub fn is_for(&self, printer: PrinterId, resin: ResinId, layer: LayerHeight) -> bool {
        (self.printer, self.resin, self.layer) == (printer, resin, layer)
    }
}
