//! A plan that comes from a file: looked at line by line, taken whole or not at all.

use std::collections::BTreeMap;

use serde::Deserialize;

use super::figures::planned_plate;
use super::improve::bound_of;
use super::layout::PlateLayout;
use super::made::{Plan, PlannedPlate};
use super::request::{PlanPart, PlanRequest};
use crate::army::Army;
use crate::flow::PlacedCopy;
use crate::ids::{PartId, PrinterId, ResinId, UnitId};
use crate::pack::{PackFault, Placement, halves};
use crate::units::LayerHeight;

/// A plan as its file says it. What else stands in the file is not looked at.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct GivenPlan {
    format: u32,
    plates: Vec<GivenPlate>,
}

#[derive(Debug, Clone, PartialEq, Deserialize)]
struct GivenPlate {
    #[serde(default)]
    plate: i64,
    printer: String,
    resin: String,
    layer_mm: f64,
    copies: Vec<GivenCopy>,
}

#[derive(Debug, Clone, PartialEq, Deserialize)]
struct GivenCopy {
    unit: String,
    model: String,
    part: String,
    x_mm: f64,
    y_mm: f64,
    rotation_deg: f64,
}

/// The newest format that is understood.
const FORMAT: u32 = 1;
/// Faults that are named; the rest is counted.
const NAMED: usize = 20;
/// Plates of a file at most.
const MOST_PLATES: usize = 5_000;

/// What a plan from a file is held against.
pub struct GivenOn<'a> {
    /// The army as it is.
    pub army: &'a Army,
    /// Names of the resins in use.
    pub resins: &'a [(ResinId, String)],
    /// What is wanted, and what it is printed on.
    pub request: &'a PlanRequest,
}

impl GivenPlan {
    /// Reads a plan, of this format or an older one.
    ///
    /// # Errors
    /// A sentence, with the line.
    pub fn read(text: &str) -> Result<Self, String> {
        let text = text.trim_start_matches('\u{feff}');
        let plan: Self =
            serde_json::from_str(text).map_err(|e| format!("it is no plan of plates: {e}"))?;
        if plan.format > FORMAT {
            return Err(format!(
                "it is of format {}; this version reads up to {FORMAT}",
                plan.format
            ));
        }
        if plan.plates.is_empty() {
            return Err("there is no plate in it".into());
        }
        if plan.plates.len() > MOST_PLATES {
            return Err(format!("it has more than {MOST_PLATES} plates"));
        }
        Ok(plan)
    }

    /// The plan, when every copy is wanted and stands where it may; what is wanted and not in it is
    /// in the pool.
    ///
    /// # Errors
    /// Every fault as a sentence that names its plate and copy, the first of them.
    pub fn on(&self, on: &GivenOn<'_>) -> Result<Plan, Vec<String>> {
        let mut faults = Vec::new();
        let mut left: BTreeMap<PartId, u64> = BTreeMap::new();
        for part in &on.request.parts {
            *left.entry(part.id).or_default() += part.may();
        }
        let names = names(on.army);
        let parts: BTreeMap<PartId, PlanPart> =
            on.request.parts.iter().map(|p| (p.id, p.clone())).collect();
        let unit_most = if on.request.apart {
            halves(on.request.parts.iter().map(|p| (p.unit, p.may())))
        } else {
            BTreeMap::new()
        };
        let mut plan = Plan::default();
        for (index, given) in self.plates.iter().enumerate() {
            let number = if given.plate > 0 {
                given.plate
            } else {
                index as i64 + 1
            };
            let mut fault = |words: String| faults.push(format!("plate {number}: {words}"));
            let mut placed = Vec::new();
            for (at, copy) in given.copies.iter().enumerate() {
                match copy.part(&names, &mut left) {
                    Ok(part) => placed.push(copy.placed(part, at as i64 + 1)),
                    Err(why) => fault(format!("copy {}: {why}", at + 1)),
                }
            }
            match given.plate(on, &placed, (&parts, &unit_most)) {
                Ok(Some(plate)) => plan.plates.push(plate),
                Ok(None) => fault("nothing stands on it".into()),
                Err(all) => all.into_iter().for_each(fault),
            }
        }
        if !faults.is_empty() {
            let more = faults.len().saturating_sub(NAMED);
            faults.truncate(NAMED);
            if more > 0 {
                faults.push(format!("and {more} more"));
            }
            return Err(faults);
        }
        plan.bound = bound_of(on.request, &left);
        Ok(plan)
    }
}

/// Unit, model and part, as they are compared.
type Named = [String; 3];

fn compared(name: &str) -> String {
    name.trim().to_lowercase()
}

/// Parts by their names; several where names are alike.
fn names(army: &Army) -> BTreeMap<Named, Vec<PartId>> {
    let mut all: BTreeMap<Named, Vec<PartId>> = BTreeMap::new();
    for (unit, model, part) in army.parts() {
        let name = [&unit.unit.name, &model.model.name, &part.part.name].map(|n| compared(n));
        all.entry(name).or_default().push(part.part.id);
    }
    all
}

impl GivenCopy {
    /// Its part, with one copy less of it left.
    fn part(
        &self,
        names: &BTreeMap<Named, Vec<PartId>>,
        left: &mut BTreeMap<PartId, u64>,
    ) -> Result<PartId, String> {
        let name = [&self.unit, &self.model, &self.part].map(|n| compared(n));
        let words = format!("{}, {}, {}", self.unit, self.model, self.part);
        let Some(parts) = names.get(&name) else {
            return Err(format!("there is no {words} in the army"));
        };
        let places = [self.x_mm, self.y_mm, self.rotation_deg];
        if places.iter().any(|p| !p.is_finite() || p.abs() > 1e5) {
            return Err(format!(
                "{words} stands nowhere: a place is no sensible number"
            ));
        }
        let wanted = parts.iter().find(|p| left.get(p).is_some_and(|n| *n > 0));
        let Some(part) = wanted else {
            return Err(format!("no further copy of {words} is wanted"));
        };
        if let Some(left) = left.get_mut(part) {
            *left -= 1;
        }
        Ok(*part)
    }

    fn placed(&self, part: PartId, key: i64) -> PlacedCopy {
        PlacedCopy {
            key,
            part,
            at_mm: [self.x_mm, self.y_mm],
            rotation_deg: self.rotation_deg.rem_euclid(360.0),
            pinned: false,
        }
    }
}

impl GivenPlate {
    /// The plate with its figures; nothing where nothing stands on it.
    fn plate(
        &self,
        on: &GivenOn<'_>,
        placed: &[PlacedCopy],
        (parts, unit_most): (&BTreeMap<PartId, PlanPart>, &BTreeMap<UnitId, u64>),
    ) -> Result<Option<PlannedPlate>, Vec<String>> {
        let one = |words: String| vec![words];
        let same = |a: &str, b: &str| compared(a) == compared(b);
        let printer = on
            .request
            .printers
            .iter()
            .find(|p| same(&p.name, &self.printer));
        let printer: PrinterId = printer
            .map(|p| p.id)
            .ok_or_else(|| one(format!("there is no printer {} in use", self.printer)))?;
        let resin = on.resins.iter().find(|(_, name)| same(name, &self.resin));
        let resin = resin
            .map(|(id, _)| *id)
            .ok_or_else(|| one(format!("there is no resin {}", self.resin)))?;
        let layer = LayerHeight::from_mm(self.layer_mm)
            .map_err(|_| one(format!("{} mm is no layer height", self.layer_mm)))?;
        let (printer, setting, facts) =
            on.request.printing(printer, resin, layer).ok_or_else(|| {
                one(format!(
                    "{} has no process setting for {} at {layer} mm",
                    self.printer, self.resin
                ))
            })?;
        let here: Vec<&PlanPart> = placed.iter().filter_map(|p| parts.get(&p.part)).collect();
        let other = |(_, p): &(&PlacedCopy, &&PlanPart)| p.resin != resin || p.layer != layer;
        let mut faults: Vec<String> = placed
            .iter()
            .zip(&here)
            .filter(other)
            .map(|(copy, _)| {
                let copy = copy.key;
                format!("copy {copy}: its recipe asks for another resin or layer height")
            })
            .collect();
        // The judge looks at every pair: what cannot be there at all is not brought before it.
        let covered: f64 = here.iter().map(|p| p.outline.area_mm2()).sum();
        if covered > printer.width_mm * printer.depth_mm {
            return Err(one(format!(
                "its {} copies cover more than the whole plate",
                here.len()
            )));
        }
        let parts = here.iter().map(|p| (*p).clone());
        let layout = PlateLayout {
            unit_most: unit_most.clone(),
            ..PlateLayout::new(printer, setting, on.request.rates.clearance_mm, parts)
        };
        let found = layout.faults(placed);
        faults.extend(found.iter().map(|fault| in_words(fault, placed)));
        if !faults.is_empty() {
            return Err(faults);
        }
        if here.is_empty() {
            return Ok(None);
        }
        let placements: Vec<Placement> = placed
            .iter()
            .enumerate()
            .map(|(item, p)| Placement {
                item,
                at_mm: p.at_mm,
                rotation_deg: p.rotation_deg,
            })
            .collect();
        Ok(Some(planned_plate(
            &here,
            &placements,
            printer,
            setting,
            facts,
            &on.request.rates,
        )))
    }
}

/// What the judge finds, with the numbers that copies have in the file.
fn in_words(fault: &PackFault, placed: &[PlacedCopy]) -> String {
    let copy = |at: usize| placed.get(at).map_or(0, |p| p.key);
    match fault {
        PackFault::TooNear {
            first,
            second,
            distance_mm,
            ..
        } => format!(
            "copies {} and {} are {distance_mm:.2} mm apart",
            copy(*first),
            copy(*second)
        ),
        PackFault::Outside { placement, .. } => {
            format!("copy {} reaches over the margin", copy(*placement))
        }
        PackFault::TooTall { placement, .. } => {
            format!("copy {} is taller than the printer takes", copy(*placement))
        }
        PackFault::PullsTooHard { slab, .. } => {
            format!("it pulls too hard {slab} mm above the plate")
        }
        PackFault::TooMuchOfUnit { found, most, .. } => {
            format!("it takes {found} copies of a unit, {most} may be on it")
        }
        PackFault::Miscounted { .. } | PackFault::Unknown { .. } => {
            "its copies cannot be told apart".into()
        }
    }
}
