//! Joins the rooms: from demand, printers and timings to plates with hours, resin and money.

use std::collections::BTreeMap;

use super::figures::{build_area, planned_plate};
use super::kept_clear::keep_clear;
use super::made::{NotPlanned, Plan, PlanBound, PlanError, PlannedPlate};
use super::request::{ExistingPlate, PlanPart, PlanRequest};
use crate::ids::{PartId, PrinterId, ResinId};
use crate::pack::{
    BuildArea, Item, LeftOver, Misfit, PackError, PackJob, PackSearch, PackedPlate, Packing,
    Placement, Wishes, check_packing, lower_bound,
};
use crate::units::LayerHeight;
use crate::watch::{Silent, Watch};
use crate::workshop::resin::ResinFacts;
use crate::workshop::{Printer, ProcessSetting, Rates};

/// Plans every wanted copy: grouped by resin and layer height, groups with the more urgent units
/// first, each group packed and checked.
///
/// # Errors
/// [`PlanError`] when packing is stopped, too large or unsound.
pub fn make_plan(
    request: &PlanRequest,
    search: PackSearch,
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

/// The groups some printer takes, and what is left out from the start.
fn what_can_be_planned(
    request: &PlanRequest,
) -> (Vec<PlanGroup<'_>>, Vec<(PartId, u64, NotPlanned)>) {
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
    (groups, left_over)
}

/// Plans, and calls with the first complete plan and every better one, until the steps of the
/// search are spent or the watch says stop: what was reported last stands.
///
/// Where plates stand already, the first plan reported changes them as little as it can.
///
/// # Errors
/// [`PlanError`]; [`PackError::Stopped`] in it when there was no time for a first plan.
pub fn improve_plan(
    request: &PlanRequest,
    standing: &[ExistingPlate],
    search: PackSearch,
    watch: &dyn Watch,
    better: &mut dyn FnMut(&Plan),
) -> Result<(), PlanError> {
    let (groups, left_over) = what_can_be_planned(request);
    let mut packings: Vec<Packing> = Vec::new();
    for group in &groups {
        let job = group.job(request, &busy_after(request, &groups, &packings));
        let from = group.standing(standing);
        let from = (!from.plates.is_empty()).then_some(&from);
        let mut first = None;
        let at_once = PackSearch { steps: 0, ..search };
        at_once.improve(&job, from, &Silent(watch), &mut |p| first = Some(p.clone()))?;
        let first = first.ok_or(PackError::Stopped)?;
        sound(&job, &first)?;
        packings.push(first);
    }
    let tell = |packings: &[Packing], better: &mut dyn FnMut(&Plan)| {
        let mut plan = assembled(request, &groups, packings, &left_over);
        keep_clear(&mut plan, request);
        better(&plan);
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
            let turn = PackSearch {
                seed: search
                    .seed
                    .wrapping_add(done)
                    .wrapping_mul(31)
                    .wrapping_add(index as u64),
                steps,
            };
            let mut reported: Option<Packing> = None;
            let mut first = true;
            turn.improve(&job, Some(&packings[index]), &Silent(watch), &mut |p| {
                if !std::mem::take(&mut first) {
                    reported = Some(p.clone());
                }
            })
            .or_else(|e| match e {
                // Stopped in the middle of a turn: what is there stands.
                PackError::Stopped => Ok(()),
                other => Err(other),
            })?;
            if let Some(packing) = reported {
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
    machines: Vec<(&'a Printer, &'a ProcessSetting)>,
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
            let printer = |s: &ProcessSetting| request.printers.iter().find(|p| p.id == s.printer);
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
        let busy_of = |printer: &Printer| busy.get(&printer.id).copied().unwrap_or(0.0);
        PackJob {
            wishes: Wishes {
                plate_s: request.rates.hands_on_minutes * 60.0,
                together_s: request.together_s,
                apart: request.apart,
            },
            build_areas: self
                .machines
                .iter()
                .map(|(printer, setting)| BuildArea {
                    slots: request.slots.clone(),
                    ..build_area(printer, setting, busy_of(printer))
                })
                .collect(),
            clearance_mm: request.rates.clearance_mm,
            items: self.parts.iter().map(|p| item(p)).collect(),
        }
    }

    /// Of some plates those of this group, as a packing.
    fn standing(&self, plates: &[ExistingPlate]) -> Packing {
        let packed = |plate: &ExistingPlate| {
            let ours = plate.resin == self.resin && plate.layer == self.layer;
            let build_area = self
                .machines
                .iter()
                .position(|(printer, _)| printer.id == plate.printer);
            let placement = |(part, at_mm, rotation_deg): &(PartId, [f64; 2], f64)| {
                let item = self.parts.iter().position(|p| p.id == *part)?;
                Some(Placement {
                    item,
                    at_mm: *at_mm,
                    rotation_deg: *rotation_deg,
                })
            };
            build_area.filter(|_| ours).map(|build_area| PackedPlate {
                build_area,
                placements: plate.copies.iter().filter_map(placement).collect(),
                fixed: plate.fixed,
            })
        };
        Packing {
            plates: plates.iter().filter_map(packed).collect(),
            left_over: Vec::new(),
        }
    }

    fn planned(&self, plate: &PackedPlate, rates: &Rates) -> PlannedPlate {
        let (printer, setting) = self.machines[plate.build_area];
        let mut planned = planned_plate(
            &self.parts,
            &plate.placements,
            printer,
            setting,
            &self.facts,
            rates,
        );
        planned.fixed = plate.fixed;
        planned
    }
}

/// How long every printer is kept by what is accepted, and packed so far, s.
fn busy_after(
    request: &PlanRequest,
    groups: &[PlanGroup<'_>],
    packings: &[Packing],
) -> BTreeMap<PrinterId, f64> {
    let kept = |plates: &Vec<f64>| plates.iter().map(|s| request.slots.kept(*s)).sum();
    let accepted = request.accepted_s.iter();
    let mut busy: BTreeMap<PrinterId, f64> = accepted.map(|(p, all)| (*p, kept(all))).collect();
    for (group, packing) in groups.iter().zip(packings) {
        for plate in &packing.plates {
            let planned = group.planned(plate, &request.rates);
            *busy.entry(planned.printer).or_default() +=
                request.slots.kept(planned.figures.seconds);
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
            let urgent = plate
                .placements
                .iter()
                .map(|s| group.parts[s.item].priority);
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
    let accepted = request.accepted_s.iter();
    let mut busy: BTreeMap<PrinterId, f64> = accepted.map(|(p, s)| (*p, s.iter().sum())).collect();
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
    let mut out: BTreeMap<PartId, u64> = BTreeMap::new();
    for (part, copies, why) in &plan.left_over {
        // What an untried recipe lets nobody plan was not asked of the packer either.
        if *why != NotPlanned::Untried {
            *out.entry(*part).or_default() += copies;
        }
    }
    plan.bound = bound(request, groups, &out);
    plan
}

/// What no plan for what is wanted can be under, but for copies that are in no plan.
pub(super) fn bound_of(request: &PlanRequest, pool: &BTreeMap<PartId, u64>) -> PlanBound {
    bound(request, &what_can_be_planned(request).0, pool)
}

/// What no plan can be under, but for copies that are in none: the groups' bounds, summed.
fn bound(
    request: &PlanRequest,
    groups: &[PlanGroup<'_>],
    out: &BTreeMap<PartId, u64>,
) -> PlanBound {
    let mut bound = PlanBound::default();
    for group in groups {
        let mut job = group.job(request, &BTreeMap::new());
        for (part, item) in group.parts.iter().zip(&mut job.items) {
            let out = out.get(&part.id).copied().unwrap_or(0);
            item.copies = item.copies.saturating_sub(out);
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
