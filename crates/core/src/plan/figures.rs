//! What a plate takes, and what each of its copies costs.

use super::made::{PlannedCopy, PlannedPlate, PlateFigures};
use super::request::PlanPart;
use crate::cost::{Basis, Takes};
use crate::cost_parts::CostParts;
use crate::pack::{BuildArea, Placement, Slots};
use crate::units::layer_count;
use crate::workshop::print_time::Drawn;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::{Body, resin_use, worth_minor};
use crate::workshop::{Printer, ProcessSetting, Rates};

/// A printer with a process setting as the packer sees it.
#[must_use]
pub fn build_area(printer: &Printer, setting: &ProcessSetting, busy_s: f64) -> BuildArea {
    // What is expected of its plates, not what is reckoned: what comes once with every plate counts
    // against many of them.
    let pace = printer.pace.line();
    let time = |layers| pace.at(printer.plate_seconds_of(setting, layers, Drawn::default()));
    // Layers at the bottom take longer each: what is no taller than they are is told by the layer.
    let slow = setting.timing.slow_layers();
    let tall = |layers: u32| f64::from(layers) * setting.layer.mm();
    let per_mm_s = pace.slope() * printer.layer_seconds(setting) / setting.layer.mm();
    BuildArea {
        width_mm: printer.width_mm,
        depth_mm: printer.depth_mm,
        height_mm: printer.build_volume().height_mm,
        part_pull: printer.part_pull,
        plate_pull: printer.plate_pull,
        margin_mm: printer.margin_mm,
        busy_s,
        constant_s: time(slow) - tall(slow) * per_mm_s,
        per_mm_s,
        low: (1..slow).map(|n| [tall(n), time(n)]).collect(),
        slots: Slots::default(),
    }
}

pub(super) fn planned_plate(
    parts: &[&PlanPart],
    placements: &[Placement],
    printer: &Printer,
    setting: &ProcessSetting,
    resin: &ResinFacts,
    rates: &Rates,
) -> PlannedPlate {
    let on_plate: Vec<&PlanPart> = placements.iter().map(|s| parts[s.item]).collect();
    let (figures, shares) = plate_figures(&on_plate, printer, setting, resin, rates);
    let copies = placements
        .iter()
        .zip(&on_plate)
        .zip(shares)
        .map(|((placement, part), cost)| PlannedCopy {
            part: part.id,
            sculpt: part.sculpt,
            recipe_version: part.recipe_version,
            at_mm: placement.at_mm,
            rotation_deg: placement.rotation_deg,
            ml: resin_use(&part.body, rates.waste_share, resin).ml(),
            cost,
        })
        .collect();
    PlannedPlate {
        printer: printer.id,
        resin: setting.resin,
        layer: setting.layer,
        setting: setting.version,
        copies,
        figures,
        fixed: false,
    }
}

/// The rule by which [`plate_figures`] reckons and shares the cost of a plate; it is kept with the plate, since
/// figures once accepted never move. 1: resin and hands by area; 2: resin by where it goes; 3: all components.
pub const COST_RULE: i64 = 3;

/// Figures of a plate with these copies, and what each of them costs, see [`Basis`]. The shares add up to the plate's
/// cost exactly.
#[must_use]
pub fn plate_figures(
    on_plate: &[&PlanPart],
    printer: &Printer,
    setting: &ProcessSetting,
    resin: &ResinFacts,
    rates: &Rates,
) -> (PlateFigures, Vec<CostParts>) {
    let height_mm = on_plate.iter().map(|p| p.height_mm).fold(0.0, f64::max);
    let body = Body::sum(on_plate.iter().map(|p| &p.body));
    let drawn = Drawn {
        volume_mm3: body.volume_mm3(),
        surface_mm2: body.surface_mm2,
    };
    let layers = layer_count(height_mm, setting.layer);
    let used = resin_use(&body, rates.waste_share, resin);
    let takes: Vec<Takes> = on_plate
        .iter()
        .map(|p| {
            let used = resin_use(&p.body, rates.waste_share, resin);
            Takes {
                ml: used.ml(),
                drained_ml: used.film_ml,
                area_mm2: p.outline.area_mm2(),
                contacts: p.contacts as f64,
            }
        })
        .collect();
    let reckoned_s = printer.plate_seconds_of(setting, layers, drawn);
    let seconds = printer.pace.seconds(reckoned_s);
    let basis = Basis {
        ml: used.ml(),
        drained_ml: used.film_ml,
        hours: seconds / 3600.0,
        layers: f64::from(layers),
        copies: takes.len() as f64,
        contacts: takes.iter().map(|t| t.contacts).sum(),
        ..Basis::priced(worth_minor(1.0, resin), &printer.upkeep, rates)
    };
    let figures = PlateFigures {
        height_mm,
        layers,
        reckoned_s,
        seconds,
        resin: used,
        resin_g: used.ml() * resin.density_g_per_ml,
        weighed_times: resin.weighed.times,
        cost: basis.cost(),
        basis,
    };
    (figures, basis.shares(&takes))
}
