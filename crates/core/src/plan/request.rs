//! What a plan is made from.

use std::collections::BTreeMap;

use crate::geometry::Outline;
use crate::ids::{PartId, PrinterId, ResinId, SettingVersionId, UnitId};
use crate::units::{LayerHeight, Money};
use crate::workshop::print_time::{LayerTiming, MachineKind};
use crate::workshop::resin::ResinFacts;

/// A printer as a plan needs it. Lengths in mm, times in s.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanPrinter {
    /// Which one.
    pub id: PrinterId,
    /// Kind of machine.
    pub kind: MachineKind,
    /// Plate width.
    pub width_mm: f64,
    /// Plate depth.
    pub depth_mm: f64,
    /// Way of the plate upward.
    pub height_mm: f64,
    /// What of it has to stay free to take the parts off.
    pub removal_mm: f64,
    /// Hardest pull of one part, as an index; nothing where there is no limit.
    pub part_pull: Option<f64>,
    /// Hardest pull of a plate, layer by layer, as an index.
    pub plate_pull: Option<f64>,
    /// Rim that stays free.
    pub margin_mm: f64,
    /// Time before the first layer and after the last.
    pub startup_s: f64,
    /// Work already accepted for it.
    pub busy_s: f64,
}

/// Timing of one printer with one resin at one layer height.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanSetting {
    /// The version of the process setting.
    pub version: SettingVersionId,
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// The timing.
    pub timing: LayerTiming,
}

/// A part with the copies wanted of it, at print scale.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanPart {
    /// Which one.
    pub id: PartId,
    /// Outline on the plate, mm.
    pub outline: Outline,
    /// Height, mm.
    pub height_mm: f64,
    /// Volume, mm³.
    pub volume_mm3: f64,
    /// Surface, mm².
    pub surface_mm2: f64,
    /// Resin.
    pub resin: ResinId,
    /// Layer height.
    pub layer: LayerHeight,
    /// Copies to plan.
    pub wanted: u64,
    /// Priority of its unit: the lower number first.
    pub priority: i64,
    /// Its unit.
    pub unit: UnitId,
    /// Pull in each slab above the plate, see [`Item::pull`]; empty where it is not known.
    pub pull: Vec<f64>,
    /// Most copies that may be planned, for a recipe that nobody has tried.
    pub most: Option<u64>,
}

impl PlanPart {
    /// Copies a plan may hold: what is wanted, as far as an untried recipe lets it.
    #[must_use]
    pub fn may(&self) -> u64 {
        self.wanted.min(self.most.unwrap_or(u64::MAX))
    }
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
}

/// Everything a plan is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRequest {
    /// The printers.
    pub printers: Vec<PlanPrinter>,
    /// The timings; a printer without one for a resin and layer height does not print it.
    pub settings: Vec<PlanSetting>,
    /// The resins.
    pub resins: BTreeMap<ResinId, ResinFacts>,
    /// The parts.
    pub parts: Vec<PlanPart>,
    /// The workshop's figures.
    pub rates: Rates,
    /// What it is worth to have a unit on one plate fewer, s.
    pub together_s: f64,
    /// No plate takes more than half of a unit.
    pub apart: bool,
    /// Plates that would end later than this from now on their printer are left for later, s.
    pub until_s: Option<f64>,
}

/// A plate as it stands before planning: where the search begins.
#[derive(Debug, Clone, PartialEq)]
pub struct ExistingPlate {
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// Part, place and turn of every copy.
    pub copies: Vec<(PartId, [f64; 2], f64)>,
    /// Nothing on it may be moved.
    pub fixed: bool,
}
