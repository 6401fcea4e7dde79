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

/// How sure the exposure of a process setting is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ExposureState {
    /// Nobody has tested it: it is assumed.
    Missing,
    /// Tested, and since then for so many days nothing was printed with it: resin settles, films
    /// and screens age.
    Stale(i64),
    /// The last plate with it was lost, or copies of it failed as a wrong exposure makes them fail.
    Suspect,
    /// Tested, and in use.
    Fresh,
}

/// Days without a print after which an exposure is tested again (common practice, no source).
pub const STALE_DAYS: i64 = 60;

impl ExposureState {
    /// The state of an exposure that was confirmed or not, that was used or confirmed last so many
    /// days ago, and whose last plate spoke against it or not.
    #[must_use]
    pub const fn of(confirmed: bool, unused_days: i64, suspect: bool) -> Self {
        match (confirmed, suspect) {
            (false, _) => ExposureState::Missing,
            (true, true) => ExposureState::Suspect,
            (true, false) if unused_days >= STALE_DAYS => ExposureState::Stale(unused_days),
            (true, false) => ExposureState::Fresh,
        }
    }
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
