//! Joins the rooms: from demand, printers and timings to plates with hours, resin and money.

use std::collections::BTreeMap;

use crate::cost::{hands_on_cost, split};
use crate::geometry::Outline;
use crate::ids::{PartId, PrinterId, ResinId, SettingVersionId, UnitId};
use crate::pack::{
    Item, LeftOver, Misfit, PackError, PackFault, PackJob, PackedPlate, Packing, Sheet, Spot,
    Squeeze, Wishes, check_packing, lower_bound,
};
use crate::units::layer_count;
use crate::units::{LayerHeight, Money};
use crate::watch::{Silent, Watch};
use crate::workshop::print_time::{Drawn, LayerTiming, MachineKind, plate_seconds};
use crate::workshop::resin::{ResinFacts, ResinUse, resin_cost_minor, resin_use};

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
pub struct StandingPlate {
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
    /// Nothing on it was to be moved.
    pub fixed: bool,
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
    /// It pulls harder on the film than any of them may.
    PullsTooHard,
    /// More copies than are planned of a recipe that nobody has tried.
    Untried,
    /// Its plate would have ended after the cut-off.
    TooLate,
}

/// What no plan can be under.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct PlanBound {
    /// Hours on all printers together, s.
    pub seconds: f64,
    /// Plates.
    pub plates: u64,
}

/// A plan: every wanted copy is on exactly one plate or named in `left_over`.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Plan {
    /// The plates.
    pub plates: Vec<PlannedPlate>,
    /// Part, copies and reason of what could not be planned.
    pub left_over: Vec<(PartId, u64, NotPlanned)>,
    /// No plan for what is planned here can be under this.
    pub bound: PlanBound,
}

impl Plan {
    /// Hours on all printers together, s.
    #[must_use]
    pub fn seconds(&self) -> f64 {
        self.plates.iter().map(|p| p.figures.seconds).sum()
    }
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
    search: Squeeze,
    watch: &dyn Watch,
) -> Result<Plan, PlanError> {
    let mut best = None;
    improve_plan(request, &[], search, watch, &mut |plan| {
        best = Some(plan.clone());
    })?;
    best.ok_or(PlanError::Pack(PackError::Stopped))
}

/// What a plate may take over its bound because layers are whole ones, s.
const WHOLE_LAYERS_S: f64 = 20.0;

/// Steps that one group is searched before the next one's turn.
const TURN_STEPS: u64 = 16;

/// Plans, and calls with the first complete plan and every better one, until the steps of the
/// search are spent or the watch says stop: what was told last stands.
///
/// Where plates stand already, the first plan told changes them as little as it can.
///
/// # Errors
/// [`PlanError`]; [`PackError::Stopped`] in it when there was no time for a first plan.
pub fn improve_plan(
    request: &PlanRequest,
    standing: &[StandingPlate],
    search: Squeeze,
    watch: &dyn Watch,
    better: &mut dyn FnMut(&Plan),
) -> Result<(), PlanError> {
    let mut groups = groups(request);
    let mut left_over = Vec::new();
    groups.retain(|g| {
        if g.machines.is_empty() {
            let why = |p: &&PlanPart| (p.id, p.wanted, NotPlanned::NoPrinter);
            left_over.extend(g.parts.iter().map(why));
        }
        !g.machines.is_empty()
    });
    for group in &groups {
        let beyond = |p: &&PlanPart| p.most.filter(|most| *most < p.wanted);
        for part in group.parts.iter().filter(|p| beyond(p).is_some()) {
            let over = part.wanted - beyond(part).unwrap_or(part.wanted);
            left_over.push((part.id, over, NotPlanned::Untried));
        }
    }
    let mut packings: Vec<Packing> = Vec::new();
    for group in &groups {
        let job = group.job(request, &busy_after(request, &groups, &packings));
        let from = group.standing(standing);
        let from = (!from.plates.is_empty()).then_some(&from);
        let mut first = None;
        let at_once = Squeeze { steps: 0, ..search };
        at_once.improve(&job, from, &Silent(watch), &mut |p| first = Some(p.clone()))?;
        let first = first.ok_or(PackError::Stopped)?;
        sound(&job, &first)?;
        packings.push(first);
    }
    let tell = |packings: &[Packing], better: &mut dyn FnMut(&Plan)| {
        better(&assembled(request, &groups, packings, &left_over));
    };
    tell(&packings, better);
    let mut done = 0;
    // Nothing is better than what nothing can be under, but for layers, which are whole.
    let reached = |packings: &[Packing]| {
        let plan = assembled(request, &groups, packings, &left_over);
        plan.seconds() <= plan.bound.seconds + WHOLE_LAYERS_S * plan.plates.len() as f64
            && plan.plates.len() as u64 <= plan.bound.plates
    };
    while done < search.steps && !watch.stopped() && !reached(&packings) {
        let mut found = false;
        let steps = TURN_STEPS.min(search.steps - done);
        for (index, group) in groups.iter().enumerate() {
            let mut others = packings.clone();
            others[index] = Packing::default();
            let job = group.job(request, &busy_after(request, &groups, &others));
            let turn = Squeeze {
                seed: search
                    .seed
                    .wrapping_add(done)
                    .wrapping_mul(31)
                    .wrapping_add(index as u64),
                steps,
            };
            let mut told: Option<Packing> = None;
            let mut first = true;
            turn.improve(&job, Some(&packings[index]), &Silent(watch), &mut |p| {
                if !std::mem::take(&mut first) {
                    told = Some(p.clone());
                }
            })
            .or_else(|e| match e {
                // Stopped in the middle of a turn: what is there stands.
                PackError::Stopped => Ok(()),
                other => Err(other),
            })?;
            if let Some(packing) = told {
                sound(&job, &packing)?;
                packings[index] = packing;
                found = true;
            }
        }
        if found {
            tell(&packings, better);
        }
        done += steps;
        watch.report(done as f64 / search.steps as f64);
    }
    Ok(())
}

fn sound(job: &PackJob, packing: &Packing) -> Result<(), PlanError> {
    match check_packing(job, packing).into_iter().next() {
        Some(fault) => Err(PlanError::Unsound(fault)),
        None => Ok(()),
    }
}

/// Copies that may share a plate, and the printers that print them.
struct PlanGroup<'a> {
    resin: ResinId,
    layer: LayerHeight,
    parts: Vec<&'a PlanPart>,
    machines: Vec<(&'a PlanPrinter, &'a PlanSetting)>,
    facts: ResinFacts,
}

fn groups(request: &PlanRequest) -> Vec<PlanGroup<'_>> {
    let mut by: BTreeMap<(ResinId, LayerHeight), Vec<&PlanPart>> = BTreeMap::new();
    for part in request.parts.iter().filter(|p| p.wanted > 0) {
        by.entry((part.resin, part.layer)).or_default().push(part);
    }
    let mut groups: Vec<PlanGroup<'_>> = by
        .into_iter()
        .map(|((resin, layer), parts)| {
            let printer = |s: &PlanSetting| request.printers.iter().find(|p| p.id == s.printer);
            let facts = request.resins.get(&resin);
            let machines = request
                .settings
                .iter()
                .filter(|s| facts.is_some() && s.resin == resin && s.layer == layer)
                .filter_map(|s| printer(s).map(|p| (p, s)));
            PlanGroup {
                machines: machines.collect(),
                resin,
                layer,
                parts,
                facts: facts.copied().unwrap_or(ResinFacts::ASSUMED),
            }
        })
        .collect();
    groups.sort_by_key(|g| g.parts.iter().map(|p| p.priority).min());
    groups
}

impl PlanGroup<'_> {
    fn job(&self, request: &PlanRequest, busy: &BTreeMap<PrinterId, f64>) -> PackJob {
        let busy_of = |printer: &PlanPrinter| busy.get(&printer.id).copied().unwrap_or(0.0);
        PackJob {
            wishes: Wishes {
                plate_s: request.rates.hands_on_minutes * 60.0,
                together_s: request.together_s,
                apart: request.apart,
            },
            sheets: self
                .machines
                .iter()
                .map(|(printer, setting)| sheet(printer, setting, busy_of(printer)))
                .collect(),
            clearance_mm: request.rates.clearance_mm,
            items: self.parts.iter().map(|p| item(p)).collect(),
        }
    }

    /// Of some plates those of this group, as a packing.
    fn standing(&self, plates: &[StandingPlate]) -> Packing {
        let packed = |plate: &StandingPlate| {
            let ours = plate.resin == self.resin && plate.layer == self.layer;
            let sheet = self
                .machines
                .iter()
                .position(|(printer, _)| printer.id == plate.printer);
            let spot = |(part, at_mm, rotation_deg): &(PartId, [f64; 2], f64)| {
                let item = self.parts.iter().position(|p| p.id == *part)?;
                Some(Spot {
                    item,
                    at_mm: *at_mm,
                    rotation_deg: *rotation_deg,
                })
            };
            sheet.filter(|_| ours).map(|sheet| PackedPlate {
                sheet,
                spots: plate.copies.iter().filter_map(spot).collect(),
                fixed: plate.fixed,
            })
        };
        Packing {
            plates: plates.iter().filter_map(packed).collect(),
            left_over: Vec::new(),
        }
    }

    fn planned(&self, plate: &PackedPlate, rates: &Rates) -> PlannedPlate {
        let (printer, setting) = self.machines[plate.sheet];
        let mut planned = planned_plate(
            &self.parts,
            &plate.spots,
            printer,
            setting,
            &self.facts,
            rates,
        );
        planned.fixed = plate.fixed;
        planned
    }
}

/// Work of every printer with what is packed so far.
fn busy_after(
    request: &PlanRequest,
    groups: &[PlanGroup<'_>],
    packings: &[Packing],
) -> BTreeMap<PrinterId, f64> {
    let mut busy: BTreeMap<PrinterId, f64> =
        request.printers.iter().map(|p| (p.id, p.busy_s)).collect();
    for (group, packing) in groups.iter().zip(packings) {
        for plate in &packing.plates {
            let planned = group.planned(plate, &request.rates);
            *busy.entry(planned.printer).or_default() += planned.figures.seconds;
        }
    }
    busy
}

/// The packings of all groups as a plan: urgent units first, then the taller plate; what would end
/// after the cut-off is left for later.
fn assembled(
    request: &PlanRequest,
    groups: &[PlanGroup<'_>],
    packings: &[Packing],
    left_over: &[(PartId, u64, NotPlanned)],
) -> Plan {
    let mut plan = Plan {
        left_over: left_over.to_vec(),
        ..Plan::default()
    };
    let mut plates: Vec<(i64, PlannedPlate)> = Vec::new();
    for (group, packing) in groups.iter().zip(packings) {
        for plate in &packing.plates {
            let urgent = plate.spots.iter().map(|s| group.parts[s.item].priority);
            let urgent = urgent.min().unwrap_or(i64::MAX);
            plates.push((urgent, group.planned(plate, &request.rates)));
        }
        let why = |left: &LeftOver| {
            let why = match left.why {
                Misfit::TooTall => NotPlanned::TooTall,
                Misfit::TooWide => NotPlanned::TooWide,
                Misfit::PullsTooHard => NotPlanned::PullsTooHard,
            };
            (group.parts[left.item].id, left.copies, why)
        };
        plan.left_over.extend(packing.left_over.iter().map(why));
    }
    plates.sort_by(|a, b| {
        a.0.cmp(&b.0)
            .then(b.1.figures.height_mm.total_cmp(&a.1.figures.height_mm))
    });
    let mut busy: BTreeMap<PrinterId, f64> =
        request.printers.iter().map(|p| (p.id, p.busy_s)).collect();
    let mut late: BTreeMap<PartId, u64> = BTreeMap::new();
    for (_, plate) in plates {
        let done = busy.entry(plate.printer).or_default();
        let ends = *done + plate.figures.seconds;
        if request.until_s.is_some_and(|until| ends > until) {
            for copy in &plate.copies {
                *late.entry(copy.part).or_default() += 1;
            }
        } else {
            *done = ends;
            plan.plates.push(plate);
        }
    }
    let late = late.into_iter().map(|(p, n)| (p, n, NotPlanned::TooLate));
    plan.left_over.extend(late);
    plan.bound = bound(request, groups, &plan.left_over);
    plan
}

/// What no plan for these copies can be under: the groups' bounds, summed.
fn bound(
    request: &PlanRequest,
    groups: &[PlanGroup<'_>],
    left_over: &[(PartId, u64, NotPlanned)],
) -> PlanBound {
    let mut bound = PlanBound::default();
    for group in groups {
        let mut job = group.job(request, &BTreeMap::new());
        for (part, item) in group.parts.iter().zip(&mut job.items) {
            let left = left_over
                .iter()
                .filter(|(id, _, why)| *id == part.id && *why != NotPlanned::Untried);
            item.copies = item.copies.saturating_sub(left.map(|l| l.1).sum());
        }
        let of_group = lower_bound(&job);
        bound.seconds += of_group.seconds;
        bound.plates += of_group.plates;
    }
    bound
}

fn item(part: &PlanPart) -> Item {
    Item {
        outline: part.outline.clone(),
        height_mm: part.height_mm,
        copies: part.may(),
        priority: part.priority,
        unit: part.unit.0,
        pull: part.pull.clone(),
    }
}

/// A printer with a process setting as the packer sees it.
#[must_use]
pub fn sheet(printer: &PlanPrinter, setting: &PlanSetting, busy_s: f64) -> Sheet {
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
        height_mm: printer.height_mm - printer.removal_mm,
        part_pull: printer.part_pull,
        plate_pull: printer.plate_pull,
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
        fixed: false,
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
