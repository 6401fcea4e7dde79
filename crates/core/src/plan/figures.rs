//! What a plate takes, and what each of its copies costs.

use super::made::{PlannedCopy, PlannedPlate, PlateFigures};
use super::request::PlanPart;
use crate::cost::{hands_on_cost, split};
use crate::pack::{BuildArea, Placement, Slots};
use crate::units::{CostParts, layer_count};
use crate::workshop::print_time::Drawn;
use crate::workshop::resin::ResinFacts;
use crate::workshop::resin_use::{Body, resin_use, worth};
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

/// The rule by which [`plate_figures`] shares the cost of a plate; it is kept with the plate, since
/// figures once accepted never move.
pub const COST_RULE: i64 = 2;

/// Figures of a plate with these copies, and what each of them costs.
///
/// The rule of splitting: every copy pays the resin it takes; the hands on the plate are shared
/// by the area each copy covers on it. The shares add up to the plate's cost exactly.
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
    let resin_cost = worth(used.ml(), resin);
    let hands_on = hands_on_cost(rates.hands_on_minutes, rates.hands_on_per_hour);
    let by_resin = split(
        resin_cost,
        &on_plate
            .iter()
            .map(|p| resin_use(&p.body, rates.waste_share, resin).ml())
            .collect::<Vec<_>>(),
    );
    let by_area = split(
        hands_on,
        &on_plate
            .iter()
            .map(|p| p.outline.area_mm2())
            .collect::<Vec<_>>(),
    );
    let reckoned_s = printer.plate_seconds_of(setting, layers, drawn);
    let figures = PlateFigures {
        height_mm,
        layers,
        reckoned_s,
        seconds: printer.pace.seconds(reckoned_s),
        resin: used,
        resin_g: used.ml() * resin.density_g_per_ml,
        weighed_times: resin.weighed.times,
        resin_cost,
        hands_on_cost: hands_on,
    };
    (
        figures,
        by_resin
            .into_iter()
            .zip(by_area)
            .map(|(resin, hands)| CostParts { resin, hands })
            .collect(),
    )
}
