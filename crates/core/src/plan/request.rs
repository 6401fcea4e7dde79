//! What a plan is made from.

use std::collections::BTreeMap;

use crate::army::demand::DemandLine;
use crate::geometry::Outline;
use crate::ids::{PartId, PrinterId, RecipeVersionId, ResinId, SculptId, UnitId};
use crate::pack::Slots;
use crate::recipe::{PreparedPart, RecipeVersion};
use crate::units::LayerHeight;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::Body;
use crate::workshop::{Printer, ProcessSetting, Rates};

/// A part with the copies wanted of it, at print scale.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanPart {
    /// Which one.
    pub id: PartId,
    /// Its sculpt.
    pub sculpt: SculptId,
    /// The version of its recipe; variants of a trial are one part in several versions.
    pub recipe_version: RecipeVersionId,
    /// Outline on the plate, mm.
    pub outline: Outline,
    /// Height, mm.
    pub height_mm: f64,
    /// What is printed of it.
    pub body: Body,
    /// Contacts of its supports.
    pub contacts: usize,
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
    /// Pull in each slab above the plate, see [`crate::pack::Item::pull`]; empty where it is not known.
    pub pull: Vec<f64>,
    /// Most copies that may be planned, for a recipe that nobody has tried.
    pub most: Option<u64>,
}

impl PlanRequest {
    /// Printer, process setting and resin of a plate; nothing when one is out of use.
    #[must_use]
    pub fn printing(
        &self,
        printer: PrinterId,
        resin: ResinId,
        layer: LayerHeight,
    ) -> Option<(&Printer, &ProcessSetting, &ResinFacts)> {
        let setting = self
            .settings
            .iter()
            .find(|s| s.is_for(printer, resin, layer))?;
        let printer = self.printers.iter().find(|p| p.id == printer)?;
        Some((printer, setting, self.resins.get(&resin)?))
    }
}

impl PlanPart {
    /// A part as it was prepared, or its file, as a version of its recipe prints it.
    #[must_use]
    pub fn new(line: &DemandLine, version: &RecipeVersion, prepared: &PreparedPart) -> Self {
        Self {
            id: line.part,
            sculpt: line.sculpt,
            recipe_version: line.recipe_version,
            outline: prepared.outline.clone(),
            height_mm: prepared.height_mm,
            body: prepared.body(),
            contacts: prepared.contacts,
            resin: version.resin,
            layer: version.layer,
            wanted: line.wanted,
            priority: 0,
            unit: UnitId(0),
            pull: prepared.loads.pull.clone(),
            most: None,
        }
    }

    /// The same part, held otherwise.
    #[must_use]
    pub fn prepared_as(&self, prepared: &PreparedPart) -> Self {
        Self {
            outline: prepared.outline.clone(),
            height_mm: prepared.height_mm,
            body: Body {
                inside_mm3: self.body.inside_mm3,
                ..prepared.body()
            },
            contacts: prepared.contacts,
            pull: prepared.loads.pull.clone(),
            ..self.clone()
        }
    }

    /// Copies a plan may hold: what is wanted, as far as an untried recipe lets it.
    #[must_use]
    pub fn may(&self) -> u64 {
        self.wanted.min(self.most.unwrap_or(u64::MAX))
    }
}

/// Everything a plan is made from.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRequest {
    /// The printers.
    pub printers: Vec<Printer>,
    /// How long each plate prints that is accepted for them already, s.
    pub accepted_s: BTreeMap<PrinterId, Vec<f64>>,
    /// How long a plate keeps a printer, with the hours in which nobody takes it off.
    pub slots: Slots,
    /// The timings; a printer without one for a resin and layer height does not print it.
    pub settings: Vec<ProcessSetting>,
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
