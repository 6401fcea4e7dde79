//! Joins the rooms: from demand, printers and timings to plates with hours, resin and money.

use std::collections::BTreeMap;

use crate::cost::{hands_on_cost, split};
use crate::geometry::Outline;
use crate::ids::{PartId, PrinterId, ResinId, SettingVersionId};
use crate::layers::layer_count;
use crate::pack::{
    Item, LeftOver, Misfit, PackError, PackFault, PackJob, Packer, Sheet, Spot, check_packing,
};
use crate::print_time::{Drawn, LayerTiming, MachineKind, plate_seconds};
use crate::resin::{ResinFacts, ResinUse, resin_cost_minor, resin_use};
use crate::units::{LayerHeight, Money};
use crate::watch::Watch;

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
    /// Tallest part.
    pub height_mm: f64,
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
}

/// One copy on a planned plate.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlannedCopy {
    /// Its part.
    pub part: PartId,
    /// Where its middle stands on the plate, mm.
    pub at_mm: [f64; 2],
    /// Its turn, degrees.
    pub rotation_deg: f64,
    /// Resin with its share of waste, ml.
    pub ml: f64,
    /// Its resin and its share of what the plate costs in hands.
    pub cost: Money,
}

/// What a plate takes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlateFigures {
    /// Tallest part, mm.
    pub height_mm: f64,
    /// Layers.
    pub layers: u32,
    /// Time on the printer, s.
    pub seconds: f64,
    /// Resin.
    pub resin: ResinUse,
    /// Cost of the resin.
    pub resin_cost: Money,
    /// Cost of the maker's hands.
    pub hands_on_cost: Money,
}

/// One plate of a plan.
#[derive(Debug, Clone, PartialEq)]
pub struct PlannedPlate {
    /// Its printer.
    pub printer: PrinterId,
    /// Its resin.
    pub resin: ResinId,
    /// Its layer height.
    pub layer: LayerHeight,
    /// The version of the process setting it was timed with.
    pub setting: SettingVersionId,
    /// Its copies.
    pub copies: Vec<PlannedCopy>,
    /// Its figures.
    pub figures: PlateFigures,
}

/// Why copies are not in the plan.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotPlanned {
    /// Taller than every printer that has this resin and layer height.
    TooTall,
    /// Its outline fits none of their plates.
    TooWide,
    /// No printer has a process setting for its resin and layer height.
    NoPrinter,
}

/// A plan: every wanted copy is on exactly one plate or named in `left_over`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Plan {
    /// The plates.
    pub plates: Vec<PlannedPlate>,
    /// Part, copies and reason of what could not be planned.
    pub left_over: Vec<(PartId, u64, NotPlanned)>,
}

/// Why there is no plan.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PlanError {
    /// The packer gave up.
    #[error(transparent)]
    Pack(#[from] PackError),
    /// The packer's result did not pass the checker: a fault of ours, never shown as a plan.
    #[error(
        "the arrangement failed its check and was thrown away ({0}); plan again and report this"
    )]
    Unsound(PackFault),
}

/// Plans every wanted copy: grouped by resin and layer height, groups with the more urgent units
/// first, each group packed and checked.
///
/// # Errors
/// [`PlanError`] when packing is stopped, too large or unsound.
pub fn make_plan(
    request: &PlanRequest,
    packer: &dyn Packer,
    watch: &dyn Watch,
) -> Result<Plan, PlanError> {
    let mut groups: BTreeMap<(ResinId, LayerHeight), Vec<&PlanPart>> = BTreeMap::new();
    for part in request.parts.iter().filter(|p| p.wanted > 0) {
        groups
            .entry((part.resin, part.layer))
            .or_default()
            .push(part);
    }
    let mut groups: Vec<_> = groups.into_iter().collect();
    groups.sort_by_key(|(_, parts)| parts.iter().map(|p| p.priority).min());
    let mut plan = Plan::default();
    let mut busy: BTreeMap<PrinterId, f64> =
        request.printers.iter().map(|p| (p.id, p.busy_s)).collect();
    for ((resin, layer), parts) in groups {
        plan_group(
            request,
            packer,
            watch,
            (resin, layer),
            &parts,
            &mut busy,
            &mut plan,
        )?;
    }
    Ok(plan)
}

fn plan_group(
    request: &PlanRequest,
    packer: &dyn Packer,
    watch: &dyn Watch,
    (resin, layer): (ResinId, LayerHeight),
    parts: &[&PlanPart],
    busy: &mut BTreeMap<PrinterId, f64>,
    plan: &mut Plan,
) -> Result<(), PlanError> {
    let machines: Vec<(&PlanPrinter, &PlanSetting)> = request
        .settings
        .iter()
        .filter(|s| s.resin == resin && s.layer == layer)
        .filter_map(|s| {
            request
                .printers
                .iter()
                .find(|p| p.id == s.printer)
                .map(|p| (p, s))
        })
        .collect();
    let Some(facts) = request.resins.get(&resin).filter(|_| !machines.is_empty()) else {
        plan.left_over.extend(
            parts
                .iter()
                .map(|p| (p.id, p.wanted, NotPlanned::NoPrinter)),
        );
        return Ok(());
    };
    let job = PackJob {
        sheets: machines
            .iter()
            .map(|(printer, setting)| sheet(printer, setting, busy[&printer.id]))
            .collect(),
        clearance_mm: request.rates.clearance_mm,
        items: parts.iter().map(|p| item(p)).collect(),
    };
    let packing = packer.pack(&job, watch)?;
    if let Some(fault) = check_packing(&job, &packing).into_iter().next() {
        return Err(PlanError::Unsound(fault));
    }
    for plate in packing.plates {
        let (printer, setting) = machines[plate.sheet];
        let planned = planned_plate(parts, &plate.spots, printer, setting, facts, &request.rates);
        *busy.entry(printer.id).or_default() += planned.figures.seconds;
        plan.plates.push(planned);
    }
    plan.left_over.extend(
        packing
            .left_over
            .into_iter()
            .map(|LeftOver { item, copies, why }| {
                let why = match why {
                    Misfit::TooTall => NotPlanned::TooTall,
                    Misfit::TooWide => NotPlanned::TooWide,
                };
                (parts[item].id, copies, why)
            }),
    );
    Ok(())
}

fn item(part: &PlanPart) -> Item {
    Item {
        outline: part.outline.clone(),
        height_mm: part.height_mm,
        copies: part.wanted,
        priority: part.priority,
    }
}

fn sheet(printer: &PlanPrinter, setting: &PlanSetting, busy_s: f64) -> Sheet {
    let time = |layers| {
        plate_seconds(
            printer.kind,
            printer.startup_s,
            &setting.timing,
            setting.layer,
            layers,
            Drawn::default(),
        )
    };
    let bottom = setting.timing.bottom_layers;
    let bottom_mm = f64::from(bottom) * setting.layer.mm();
    let per_mm_s = setting.timing.layer_s(printer.kind) / setting.layer.mm();
    Sheet {
        width_mm: printer.width_mm,
        depth_mm: printer.depth_mm,
        height_mm: printer.height_mm,
        margin_mm: printer.margin_mm,
        busy_s,
        constant_s: time(bottom) - bottom_mm * per_mm_s,
        per_mm_s,
    }
}

fn planned_plate(
    parts: &[&PlanPart],
    spots: &[Spot],
    printer: &PlanPrinter,
    setting: &PlanSetting,
    resin: &ResinFacts,
    rates: &Rates,
) -> PlannedPlate {
    let on_plate: Vec<&PlanPart> = spots.iter().map(|s| parts[s.item]).collect();
    let (figures, shares) = plate_figures(&on_plate, printer, setting, resin, rates);
    let copies = spots
        .iter()
        .zip(&on_plate)
        .zip(shares)
        .map(|((spot, part), cost)| PlannedCopy {
            part: part.id,
            at_mm: spot.at_mm,
            rotation_deg: spot.rotation_deg,
            ml: resin_use(part.volume_mm3, rates.waste_share, resin).ml,
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
    }
}

/// Figures of a plate with these copies, and what each of them costs.
///
/// The rule of splitting: every copy pays the resin it takes; the hands on the plate are shared
/// by the area each copy covers on it. The shares add up to the plate's cost exactly.
#[must_use]
pub fn plate_figures(
    on_plate: &[&PlanPart],
    printer: &PlanPrinter,
    setting: &PlanSetting,
    resin: &ResinFacts,
    rates: &Rates,
) -> (PlateFigures, Vec<Money>) {
    let height_mm = on_plate.iter().map(|p| p.height_mm).fold(0.0, f64::max);
    let drawn = Drawn {
        volume_mm3: on_plate.iter().map(|p| p.volume_mm3).sum(),
        surface_mm2: on_plate.iter().map(|p| p.surface_mm2).sum(),
    };
    let layers = layer_count(height_mm, setting.layer);
    let used = resin_use(drawn.volume_mm3, rates.waste_share, resin);
    let resin_cost = Money::from_minor_f64(resin_cost_minor(used, resin));
    let hands_on = hands_on_cost(rates.hands_on_minutes, rates.hands_on_per_hour);
    let by_resin = split(
        resin_cost,
        &on_plate.iter().map(|p| p.volume_mm3).collect::<Vec<_>>(),
    );
    let by_area = split(
        hands_on,
        &on_plate
            .iter()
            .map(|p| p.outline.area_mm2())
            .collect::<Vec<_>>(),
    );
    let figures = PlateFigures {
        height_mm,
        layers,
        seconds: plate_seconds(
            printer.kind,
            printer.startup_s,
            &setting.timing,
            setting.layer,
            layers,
            drawn,
        ),
        resin: used,
        resin_cost,
        hands_on_cost: hands_on,
    };
    (
        figures,
        by_resin
            .into_iter()
            .zip(by_area)
            .map(|(a, b)| a + b)
            .collect(),
    )
}
