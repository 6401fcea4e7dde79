//! What stands on plates, ready to be drawn: shapes shared between the copies of a sculpt.

use std::collections::HashMap;
use std::sync::Arc;

use wembrit_core::army::{copy_name, part_name};
use wembrit_core::flow::{Plate, PlateCopy};
use wembrit_core::geometry::Outline;
use wembrit_core::ids::{RecipeVersionId, SculptId};
use wembrit_core::layers::{HeightProfile, Loads};
use wembrit_core::numbers::sum_over_slabs;
use wembrit_core::recipe::PreparedPart;
use wembrit_core::units::PULL_SLAB_MM;
use wembrit_core::workshop::Printer;
use wembrit_paper::{DrawnCopy, DrawnLoad, PlateDrawing};
use wembrit_store::queries::pages::plates::PlatesShown;

/// Outline, height profile and height of a part on a plate.
#[derive(Clone)]
pub(super) struct Shape {
    pub(super) outline: Arc<Outline>,
    pub(super) profile: Arc<HeightProfile>,
    pub(super) height_mm: f64,
}

/// Shapes of parts as they are prepared, shared between their copies.
pub(super) struct Shapes<'a> {
    shown: &'a PlatesShown,
    known: HashMap<(SculptId, RecipeVersionId), Shape>,
}

impl<'a> Shapes<'a> {
    pub(super) fn new(shown: &'a PlatesShown) -> Self {
        let mut known = HashMap::new();
        for copy in shown.copies.values().flatten() {
            let key = (copy.sculpt, copy.recipe_version);
            let kept = shown.prepared.get(&key).map(|k| &k.part);
            if let (None, Some(facts)) = (known.get(&key), shown.facts.get(&copy.sculpt)) {
                let part = PreparedPart::or_file(kept, facts, copy.scale);
                let shape = Shape {
                    outline: Arc::new(part.outline.clone()),
                    profile: Arc::new(part.profile.clone()),
                    height_mm: part.height_mm,
                };
                known.insert(key, shape);
            }
        }
        Self { shown, known }
    }

    /// What stands there; nothing where its sculpt was never measured.
    pub(super) fn of(&self, copy: &PlateCopy) -> Option<&Shape> {
        self.known.get(&(copy.sculpt, copy.recipe_version))
    }

    /// Height of what stands there, mm.
    pub(super) fn height_mm(&self, copy: &PlateCopy) -> f64 {
        self.of(copy).map_or(0.0, |s| s.height_mm)
    }

    pub(super) fn drawing(&self, plate: &Plate) -> PlateDrawing {
        let copies = self.shown.on(plate.id).iter();
        let printer = self.shown.printers.get(&plate.printer);
        PlateDrawing {
            width_mm: printer.map_or(0.0, |p| p.width_mm),
            depth_mm: printer.map_or(0.0, |p| p.depth_mm),
            margin_mm: printer.map_or(0.0, |p| p.margin_mm),
            copies: copies.filter_map(|c| self.drawn(c)).collect(),
            load: None,
            by_hand: false,
        }
    }

    /// Load of what stands on a plate, where all of it was measured as it hangs.
    pub(super) fn load_of(&self, printer: &Printer, copies: &[PlateCopy]) -> Option<DrawnLoad> {
        let mut counts: HashMap<(SculptId, RecipeVersionId), u64> = HashMap::new();
        for copy in copies {
            let key = (copy.sculpt, copy.recipe_version);
            *counts.entry(key).or_default() += 1;
        }
        let mut loads: Vec<(&Loads, u64)> = Vec::new();
        for (key, copies) in counts {
            let of_part = &self.shown.prepared.get(&key)?.part.loads;
            if of_part.pull.is_empty() {
                return None;
            }
            loads.push((of_part, copies));
        }
        let sum = |of: fn(&Loads) -> &[f64]| {
            let all: Vec<(&[f64], u64)> = loads.iter().map(|(l, n)| (of(l), *n)).collect();
            sum_over_slabs(&all)
        };
        Some(DrawnLoad {
            slab_mm: PULL_SLAB_MM,
            area_mm2: sum(|l| &l.area_mm2),
            pull: sum(|l| &l.pull),
            cap: printer.plate_pull,
        })
    }

    fn drawn(&self, copy: &PlateCopy) -> Option<DrawnCopy> {
        let shape = self.of(copy)?.clone();
        Some(DrawnCopy {
            key: key(copy),
            name: part_name(&copy.model_name, &copy.part_name),
            mark: copy.copy.as_ref().map(|c| c.mark),
            outline: shape.outline,
            profile: shape.profile,
            scale: 1.0,
            at_mm: copy.placed.at_mm,
            rotation_deg: copy.placed.rotation_deg,
            height_mm: shape.height_mm,
            failed: copy.failed(),
            pinned: copy.placed.pinned,
        })
    }
}

/// What a page knows a copy by: its identity once it has one.
pub(super) fn key(copy: &PlateCopy) -> String {
    match &copy.copy {
        Some(copy) => copy.id.to_string(),
        None => format!("s{}", copy.placed.key),
    }
}

/// What a person calls a copy.
pub(super) fn label(copy: &PlateCopy) -> String {
    let name = part_name(&copy.model_name, &copy.part_name);
    copy_name(&name, copy.copy.as_ref().map(|c| c.mark))
}
