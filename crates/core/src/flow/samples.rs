//! Samples for the tests of other rooms.

use super::{Plate, PlateState};
use crate::cost_parts::CostParts;
use crate::ids::{PlanId, PlateId, PrinterId, ProjectId, ResinId, SettingVersionId};
use crate::learn::Expected;
use crate::units::{LayerHeight, ResinUse};

/// A plate of the first project on the first printer that runs for so many hours.
pub(crate) fn plate(number: i64, hours: f64) -> Plate {
    let seconds = hours * 3600.0;
    Plate {
        id: PlateId(number),
        row_version: 1,
        project: ProjectId(1),
        plan: PlanId(1),
        number,
        state: PlateState::Running,
        printer: PrinterId(1),
        resin: ResinId(1),
        layer: LayerHeight::USUAL,
        setting: SettingVersionId(1),
        height_mm: 30.0,
        layers: 600,
        seconds,
        time: Expected::took(seconds),
        resin_ml: 20.0,
        goes: ResinUse::default(),
        reckoned: (seconds, 20.0),
        resin_g: 44.0,
        costs: CostParts::default(),
    }
}
