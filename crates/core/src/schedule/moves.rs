//! Whether another printer can print a plate as it is.

use crate::flow::Plate;
use crate::ids::SettingVersionId;
use crate::workshop::print_time::{Drawn, MachineKind};
use crate::workshop::{Printer, ProcessSetting};

/// Why a plate cannot be moved to a printer.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CannotMove {
    /// Its plate is smaller.
    #[error("{0} has a smaller plate: what stands at the rim would not fit")]
    Smaller(String),
    /// It is not tall enough.
    #[error("{0} is not tall enough: {1:.0} mm are needed")]
    TooLow(String, f64),
    /// Its limits of pull are lower.
    #[error("{0} may pull less: plan the plate anew for it")]
    Pull(String),
    /// It has no setting.
    #[error("{0} has no setting for this resin at this layer height: add one in the workshop")]
    NoSetting(String),
    /// What it takes depends on what is drawn.
    #[error("what {0} takes depends on what is drawn: plan the plate anew for it")]
    Beam(String),
}

/// How long another printer takes for a plate, s, and with which setting; as it is arranged, so only
/// where everything about the other one is at least as large.
///
/// # Errors
/// [`CannotMove`].
pub fn time_on(
    plate: &Plate,
    own: &Printer,
    other: &Printer,
    settings: &[ProcessSetting],
) -> Result<(f64, SettingVersionId), CannotMove> {
    if other.id == own.id {
        return Ok((plate.reckoned.0, plate.setting));
    }
    let name = || other.name.clone();
    let (has, needs) = (other.build_volume(), own.build_volume());
    if has.width_mm < needs.width_mm || has.depth_mm < needs.depth_mm {
        return Err(CannotMove::Smaller(name()));
    }
    if has.height_mm < plate.height_mm {
        return Err(CannotMove::TooLow(name(), plate.height_mm));
    }
    let lower =
        |limit: Option<f64>, was: Option<f64>| limit.is_some_and(|l| was.is_none_or(|w| l < w));
    if lower(other.part_pull, own.part_pull) || lower(other.plate_pull, own.plate_pull) {
        return Err(CannotMove::Pull(name()));
    }
    if other.kind == MachineKind::Beam {
        return Err(CannotMove::Beam(name()));
    }
    let setting = settings
        .iter()
        .find(|s| s.is_for(other.id, plate.resin, plate.layer))
        .ok_or_else(|| CannotMove::NoSetting(name()))?;
    let layers = plate.layers.max(0).min(i64::from(u32::MAX)) as u32;
    let seconds = other.plate_seconds_of(setting, layers, Drawn::default());
    Ok((seconds, setting.version))
}
