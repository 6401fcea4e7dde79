//! The plates of a project: the open plan, the accepted plates, what made a plan stale.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::army::demand::{DemandLine, fingerprint};
use wembrit_core::flow::TaskKind;
use wembrit_core::flow::{PlanState, PlateState, Stage};
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId};
use wembrit_core::plan::diff::{ComparedPlate, PlateChange, compare_plans};
use wembrit_core::recipe::Proof;
use wembrit_core::units::Money;
use wembrit_paper::draw_plate_thumb;
use wembrit_store::queries::costs::{self, ModelCost};
use wembrit_store::queries::plates::PlateCopy;
use wembrit_store::queries::{army, demand, plans, plates, printers, recipes, resins, tasks};
use wembrit_store::rows::{Plan, PlanScope, Plate, Printer, Resin};
use wembrit_store::{Conn, Stale, StoreError};

use super::Page;
use super::plates::state_word;
use super::shapes::{Shapes, part_name};
use super::show::{count, hours, tenth};

/// A plate in a list.
pub(crate) struct Thumb {
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) state: String,
    pub(crate) class: String,
    pub(crate) drawing: String,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) layer: String,
    pub(crate) copies: usize,
    pub(crate) lost: usize,
    pub(crate) hours: String,
    pub(crate) ml: String,
    pub(crate) cost: String,
}

/// Names of what plates are printed on and from, in use or not.
struct Names {
    printers: BTreeMap<i64, Printer>,
    resins: BTreeMap<i64, Resin>,
}

impl Names {
    fn load(c: &mut Conn, of: &[Plate]) -> Result<Self, StoreError> {
        let mut printers = BTreeMap::new();
        for plate in of {
            if let std::collections::btree_map::Entry::Vacant(free) =
                printers.entry(plate.printer_id.0)
            {
                free.insert(printers::load(c, plate.printer_id)?);
            }
        }
        let resins = resins::list_all(c)?
            .into_iter()
            .map(|r| (r.id.0, r))
            .collect();
        Ok(Self { printers, resins })
    }

    fn resin(&self, plate: &Plate) -> String {
        self.resins
            .get(&plate.resin_id.0)
            .map_or_else(String::new, |r| r.name.clone())
    }
}

fn thumbs(c: &mut Conn, of: &[Plate]) -> Result<Vec<Thumb>, StoreError> {
    let names = Names::load(c, of)?;
    let spots = plates::spots(c, &of.iter().map(|p| p.id).collect::<Vec<_>>())?;
    let mut shapes = Shapes::load(c, &spots.values().flatten().collect::<Vec<_>>())?;
    let mut thumbs = Vec::new();
    for plate in of {
        let on_it: &[PlateCopy] = spots.get(&plate.id).map_or(&[], Vec::as_slice);
        let printer = &names.printers[&plate.printer_id.0];
        let lost = on_it
            .iter()
            .filter(|s| s.copy.as_ref().is_some_and(|c| c.stage == Stage::Failed));
        thumbs.push(Thumb {
            id: plate.id,
            number: plate.number,
            state: state_word(plate.state).into(),
            class: plate.state.to_string(),
            drawing: draw_plate_thumb(&shapes.drawing(printer, on_it)?),
            printer: printer.name.clone(),
            resin: names.resin(plate),
            layer: plate.layer.to_string(),
            copies: on_it.len(),
            lost: lost.count(),
            hours: hours(plate.seconds),
            ml: tenth(plate.resin_ml),
            cost: (plate.resin_cost() + plate.hands_on_cost()).to_string(),
        });
    }
    Ok(thumbs)
}

/// Sums over some plates.
pub(crate) struct Sums {
    pub(crate) plates: usize,
    pub(crate) hours: String,
    pub(crate) ml: String,
    pub(crate) cost: String,
    pub(crate) hands_on: String,
}

fn sums(of: &[Plate]) -> Sums {
    let resin: Money = of.iter().map(Plate::resin_cost).sum();
    let hands: Money = of.iter().map(Plate::hands_on_cost).sum();
    Sums {
        plates: of.len(),
        hours: hours(of.iter().map(|p| p.seconds).sum()),
        ml: tenth(of.iter().map(|p| p.resin_ml).sum()),
        cost: (resin + hands).to_string(),
        hands_on: hands.to_string(),
    }
}

/// Cost of one unit's models.
pub(crate) struct UnitCost {
    pub(crate) name: String,
    pub(crate) copies: u64,
    pub(crate) ml: String,
    pub(crate) cost: String,
    pub(crate) models: Vec<ModelCostRow>,
}

pub(crate) struct ModelCostRow {
    pub(crate) name: String,
    pub(crate) copies: u64,
    pub(crate) ml: String,
    pub(crate) cost: String,
    pub(crate) each: String,
}

fn unit_costs(all: Vec<ModelCost>) -> Vec<UnitCost> {
    let mut units: Vec<(UnitCost, f64, Money)> = Vec::new();
    for model in all {
        if units.last().is_none_or(|u| u.0.name != model.unit.1) {
            let unit = UnitCost {
                name: model.unit.1.clone(),
                copies: 0,
                ml: String::new(),
                cost: String::new(),
                models: Vec::new(),
            };
            units.push((unit, 0.0, Money(0)));
        }
        let Some((unit, ml, cost)) = units.last_mut() else {
            continue;
        };
        unit.copies += model.copies;
        *ml += model.ml;
        *cost += model.cost;
        unit.models.push(ModelCostRow {
            name: model.model.1,
            copies: model.copies,
            ml: tenth(model.ml),
            cost: model.cost.to_string(),
            each: model.each.map_or_else(|| "–".into(), |m| m.to_string()),
        });
    }
    let finish = |(unit, ml, cost): (UnitCost, f64, Money)| UnitCost {
        ml: tenth(ml),
        cost: cost.to_string(),
        ..unit
    };
    units.into_iter().map(finish).collect()
}

/// The plan nobody has accepted yet.
pub(crate) struct OpenPlan {
    pub(crate) id: PlanId,
    pub(crate) revision: i64,
    pub(crate) computing_percent: Option<i64>,
    /// What it was asked for, where that is not everything.
    pub(crate) asked: String,
    /// What no plan can be under, and how near this one is.
    pub(crate) bound: String,
    /// How far the search has come.
    pub(crate) search: String,
    /// An earlier draft that is still there.
    pub(crate) rival: Option<(PlanId, i64)>,
    pub(crate) refusal: Option<String>,
    pub(crate) stale: bool,
    pub(crate) left_over: Vec<String>,
    /// Parts wanted by the dozen whose recipe nobody has tried, and what to do about it.
    pub(crate) untried: Vec<String>,
    pub(crate) plates: Vec<Thumb>,
    pub(crate) sums: Sums,
    pub(crate) units: Vec<UnitCost>,
}

impl OpenPlan {
    fn load(c: &mut Conn, project: ProjectId) -> Result<Option<Self>, StoreError> {
        let Some(plan) = plans::open_plan(c, project)? else {
            return Ok(None);
        };
        let army = army::load(c, project)?;
        let computing = plan.state == PlanState::Computing;
        let rival = plans::open_plans(c, project)?
            .into_iter()
            .find(|p| p.id != plan.id && p.state == PlanState::Draft)
            .map(|p| (p.id, p.revision));
        let scope = plan.scope()?;
        let task = computing
            .then(|| tasks::find(c, TaskKind::Plan, &plan.id.to_string()))
            .transpose()?;
        let parked = task
            .as_ref()
            .filter(|t| !t.state.is_open())
            .map(|t| t.message.clone());
        let of_plan = plates::of_plan(c, plan.id)?;
        let name = |part: PartId| part_name(&army, part);
        let left_over = plans::left_over(c, plan.id)?;
        let ids: Vec<PlateId> = of_plan.iter().map(|p| p.id).collect();
        Ok(Some(Self {
            id: plan.id,
            revision: plan.revision,
            computing_percent: task
                .filter(|t| t.state.is_open())
                .map(|t| (t.progress * 100.0) as i64),
            refusal: plan.refusal.clone().or(parked),
            stale: !computing && fingerprint(&demand::lines_in(&army, &scope)) != plan.fingerprint,
            asked: scope_words(c, &army, &scope)?,
            bound: bound_words(&plan, &of_plan),
            search: search_words(&plan, &of_plan),
            rival,
            left_over: left_over
                .into_iter()
                .map(|(part, n, why)| left_over_words(&name(part), n, &why))
                .collect(),
            untried: untried(c, plan.id, &name)?,
            plates: thumbs(c, &of_plan)?,
            sums: sums(&of_plan),
            units: unit_costs(costs::by_model(c, &ids)?),
        }))
    }
}

/// Names of parts in a plan that are wanted several times while nobody has tried their recipe,
/// and no first copy is under way.
fn untried(
    c: &mut Conn,
    plan: PlanId,
    name: &dyn Fn(PartId) -> String,
) -> Result<Vec<String>, StoreError> {
    let lines = plans::demand_of(c, plan)?;
    let versions: Vec<_> = lines.iter().map(|l| l.recipe_version).collect();
    let proofs = recipes::proofs(c, &versions)?;
    let under_way = recipes::under_way(c, &versions)?;
    let bold = lines.iter().filter(|l| {
        l.wanted > 1
            && proofs[&l.recipe_version] != Proof::Proven
            && !under_way.contains(&l.recipe_version)
    });
    Ok(bold.map(|l| name(l.part)).collect())
}

/// What a plan was asked for, in words; empty for everything.
fn scope_words(c: &mut Conn, army: &army::Army, scope: &PlanScope) -> Result<String, StoreError> {
    let mut words = Vec::new();
    let named = |all: Vec<(i64, String)>, chosen: &[i64]| {
        let names = all.into_iter().filter(|(id, _)| chosen.contains(id));
        names.map(|(_, name)| name).collect::<Vec<_>>().join(", ")
    };
    if !scope.printers.is_empty() {
        let all = printers::list(c)?.into_iter().map(|p| (p.id.0, p.name));
        words.push(format!("on {}", named(all.collect(), &scope.printers)));
    }
    if !scope.units.is_empty() {
        let all = army.units.iter();
        let all = all.map(|u| (u.unit.id.0, u.unit.name.clone())).collect();
        words.push(format!("for {}", named(all, &scope.units)));
    }
    if !scope.resins.is_empty() {
        let all = resins::list_all(c)?.into_iter().map(|r| (r.id.0, r.name));
        words.push(format!("in {}", named(all.collect(), &scope.resins)));
    }
    if let Some(until) = scope.until_h {
        words.push(format!("no plate ending more than {until} h from now"));
    }
    if scope.no_spares {
        words.push("without spares".into());
    }
    Ok(words.join("; "))
}

/// The bound in words. How far above it a plan of irregular parts ends up is common practice of
/// such packings, no source: 5 to 30 %.
fn bound_words(plan: &Plan, of_plan: &[Plate]) -> String {
    if plan.bound_seconds <= 0.0 || of_plan.is_empty() {
        return String::new();
    }
    let taken: f64 = of_plan.iter().map(|p| p.seconds).sum();
    let over = (taken / plan.bound_seconds - 1.0) * 100.0;
    let least = format!(
        "No plan for these copies can take less than {} printer hours or {}.",
        hours(plan.bound_seconds),
        count(plan.bound_plates.max(0) as u64, "plate", "plates"),
    );
    if over < 0.5 {
        return format!("{least} This one reaches that: nothing shorter exists.");
    }
    format!(
        "{least} This one takes {}, {over:.0} % more; parts that are no rectangles usually end 5 to 30 % above.",
        hours(taken),
    )
}

fn search_words(plan: &Plan, of_plan: &[Plate]) -> String {
    let taken: f64 = of_plan.iter().map(|p| p.seconds).sum();
    match plan.first_seconds {
        Some(first) if plan.better_found > 0 => format!(
            "The first plan took {} h; {} since.",
            hours(first),
            count(
                plan.better_found.max(0) as u64,
                "better one was found",
                "better ones were found"
            ) + &if first > taken {
                format!(", {} h less", hours(first - taken))
            } else {
                String::new()
            },
        ),
        _ => String::new(),
    }
}

fn left_over_words(part: &str, copies: i64, why: &str) -> String {
    let what = count(copies.max(0) as u64, "copy", "copies");
    let then = match why {
        "too tall" => "taller than every printer takes: scale it down, or lay it down in its file",
        "too wide" => "its outline fits no plate: scale it down or cut it",
        "pulls too hard" => {
            "it pulls harder on the film than the printers may: hang it otherwise or hollow it"
        }
        "untried" => "its recipe is untried, and only a few are planned before it is proven",
        "too late" => "its plate would end after the cut-off: it waits for the next plan",
        _ => {
            "no printer has a process setting for its resin and layer height: add a printer in the workshop"
        }
    };
    format!("{part}: {what} not planned, {then}.")
}

/// The plates of a project.
#[derive(Template)]
#[template(path = "plates/show.html")]
pub(crate) struct PlatesView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) plan: Option<OpenPlan>,
    pub(crate) wanted: u64,
    pub(crate) without_sculpt: usize,
    pub(crate) open: Vec<Thumb>,
    pub(crate) done: Vec<Thumb>,
    pub(crate) open_sums: Sums,
    pub(crate) done_sums: Sums,
    /// What a plan can be asked for: name, label, and what is ticked of it.
    pub(crate) choices: Vec<ScopeChoice>,
    pub(crate) until_h: String,
    pub(crate) no_spares: bool,
}

/// A list of which some or all can be planned.
pub(crate) struct ScopeChoice {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) all: Vec<(i64, String, bool)>,
}

fn choices(
    c: &mut Conn,
    army: &army::Army,
    scope: &PlanScope,
) -> Result<Vec<ScopeChoice>, StoreError> {
    let ticked = |chosen: &[i64], all: Vec<(i64, String)>| {
        all.into_iter()
            .map(|(id, name)| (id, name, PlanScope::takes(chosen, id)))
            .collect::<Vec<_>>()
    };
    let units = army
        .units
        .iter()
        .map(|u| (u.unit.id.0, u.unit.name.clone()));
    let printers = printers::list(c)?.into_iter().map(|p| (p.id.0, p.name));
    let resins = resins::list(c)?.into_iter().map(|r| (r.id.0, r.name));
    Ok(vec![
        ScopeChoice {
            name: "printer",
            label: "Printers",
            all: ticked(&scope.printers, printers.collect()),
        },
        ScopeChoice {
            name: "resin",
            label: "Resins",
            all: ticked(&scope.resins, resins.collect()),
        },
        ScopeChoice {
            name: "unit",
            label: "Units",
            all: ticked(&scope.units, units.collect()),
        },
    ])
}

impl PlatesView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: ProjectId) -> Result<Self, StoreError> {
        let army = army::load(c, id)?;
        let lines = demand::lines(&army);
        let (done, open): (Vec<Plate>, Vec<Plate>) = plates::accepted(c, id)?
            .into_iter()
            .partition(|p| p.state == PlateState::Done);
        let scope = match plans::open_plan(c, id)? {
            Some(plan) => plan.scope()?,
            None => PlanScope::default(),
        };
        Ok(Self {
            choices: choices(c, &army, &scope)?,
            until_h: scope.until_h.map_or_else(String::new, |h| h.to_string()),
            no_spares: scope.no_spares,
            page,
            id,
            plan: OpenPlan::load(c, id)?,
            wanted: lines.iter().map(|l| l.wanted).sum(),
            without_sculpt: demand::without_sculpt(&army).len(),
            open_sums: sums(&open),
            done_sums: sums(&done),
            open: thumbs(c, &open)?,
            done: thumbs(c, &done)?,
        })
    }

    /// A plan is being computed or bettered.
    pub(crate) fn is_computing(&self) -> bool {
        let computing = |p: &OpenPlan| p.computing_percent.is_some();
        self.plan.as_ref().is_some_and(computing)
    }

    pub(crate) fn wanted_words(&self) -> String {
        count(self.wanted, "copy is wanted", "copies are wanted")
    }
}

/// What changed since a plan was made.
#[derive(Template)]
#[template(path = "plates/stale.html")]
pub(crate) struct StaleView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    /// Part, copies when the plan was made, copies wanted now, and what else is different.
    pub(crate) rows: Vec<(String, u64, u64, &'static str)>,
}

impl StaleView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: ProjectId,
        stale: &Stale,
    ) -> Result<Self, StoreError> {
        let army = army::load(c, id)?;
        let mut parts: Vec<PartId> = stale
            .planned
            .iter()
            .chain(&stale.now)
            .map(|l| l.part)
            .collect();
        parts.sort_unstable();
        parts.dedup();
        let line = |lines: &[DemandLine], part| lines.iter().find(|l| l.part == part).copied();
        let mut rows = Vec::new();
        for part in parts {
            let (was, now) = (line(&stale.planned, part), line(&stale.now, part));
            if was == now {
                continue;
            }
            let found = army.parts().find(|(_, _, p)| p.part.id == part);
            let name = found.map_or_else(
                || "a part that was taken away".to_owned(),
                |(_, m, p)| format!("{}, {}", m.model.name, p.part.name.to_lowercase()),
            );
            let other = match (was, now) {
                (Some(a), Some(b)) if a.sculpt != b.sculpt => "another sculpt",
                (Some(a), Some(b)) if a.recipe_version != b.recipe_version => "another recipe",
                _ => "",
            };
            rows.push((
                name,
                was.map_or(0, |l| l.wanted),
                now.map_or(0, |l| l.wanted),
                other,
            ));
        }
        Ok(Self { page, id, rows })
    }
}

/// The plan alone, while it is computed.
#[derive(Template)]
#[template(path = "plates/plan.html")]
pub(crate) struct PlanPart(pub(crate) PlatesView);

impl std::ops::Deref for PlanPart {
    type Target = PlatesView;
    fn deref(&self) -> &PlatesView {
        &self.0
    }
}

/// Two plans side by side.
#[derive(Template)]
#[template(path = "plates/beside.html")]
pub(crate) struct BesideView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    /// What is compared, the figure of each, and which is better: 0, 1 or neither.
    pub(crate) figures: Vec<(&'static str, [String; 2], Option<usize>)>,
    pub(crate) plans: [BesidePlan; 2],
    /// What the first one does differently.
    pub(crate) changes: Vec<String>,
}

pub(crate) struct BesidePlan {
    pub(crate) id: PlanId,
    pub(crate) revision: i64,
    pub(crate) asked: String,
    pub(crate) plates: Vec<Thumb>,
}

impl BesideView {
    pub(crate) fn is_better(&self, better: &Option<usize>, plan: &usize) -> bool {
        *better == Some(*plan)
    }

    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        project: ProjectId,
        of: [PlanId; 2],
    ) -> Result<Self, StoreError> {
        let army = army::load(c, project)?;
        let rows = [plans::load(c, of[0])?, plans::load(c, of[1])?];
        let on = [plates::of_plan(c, of[0])?, plates::of_plan(c, of[1])?];
        let sum = |f: fn(&Plate) -> f64| [0, 1].map(|i| on[i].iter().map(f).sum::<f64>());
        let figure = |label, values: [f64; 2], shown: [String; 2]| {
            let better = (values[0] < values[1] - 1e-6)
                .then_some(0)
                .or((values[1] < values[0] - 1e-6).then_some(1));
            (label, shown, better)
        };
        let seconds = sum(|p| p.seconds);
        let ml = sum(|p| p.resin_ml);
        let cost = sum(|p| (p.resin_cost() + p.hands_on_cost()).0 as f64);
        let many = [0, 1].map(|i| on[i].len() as f64);
        // Hours of the printer that is longest at it.
        let last = [0, 1].map(|i| {
            let mut by: BTreeMap<i64, f64> = BTreeMap::new();
            for plate in &on[i] {
                *by.entry(plate.printer_id.0).or_default() += plate.seconds;
            }
            by.values().copied().fold(0.0, f64::max)
        });
        let ids = |i: usize| on[i].iter().map(|p| p.id).collect::<Vec<_>>();
        let spots = [plates::spots(c, &ids(0))?, plates::spots(c, &ids(1))?];
        let copies = [0, 1].map(|i| spots[i].values().map(Vec::len).sum::<usize>() as f64);
        let units_on = [0, 1].map(|i| {
            let units = |s: &Vec<PlateCopy>| {
                let names: std::collections::BTreeSet<&str> =
                    s.iter().map(|s| s.unit.as_str()).collect();
                names.len()
            };
            spots[i].values().map(units).sum::<usize>() as f64
        });
        let whole = |v: [f64; 2]| v.map(|v| format!("{v:.0}"));
        let figures = vec![
            figure("Printer hours", seconds, seconds.map(hours)),
            figure("Busiest printer, hours", last, last.map(hours)),
            figure("Plates", many, whole(many)),
            (
                "Copies",
                whole(copies),
                figure("", copies.map(|n| -n), whole(copies)).2,
            ),
            figure("Resin, ml", ml, ml.map(tenth)),
            figure(
                "Cost",
                cost,
                cost.map(|m| Money::from_minor_f64(m).to_string()),
            ),
            figure("Units on a plate, summed", units_on, whole(units_on)),
        ];
        let compared = |i: usize| -> Vec<ComparedPlate> {
            let copies = |p: &Plate| spots[i].get(&p.id).map_or(&[][..], Vec::as_slice);
            let copy = |s: &PlateCopy| {
                let p = &s.placement;
                (p.part_id, [p.x_mm, p.y_mm], p.rotation_deg)
            };
            let plate = |p: &Plate| ComparedPlate {
                printer: p.printer_id,
                copies: copies(p).iter().map(copy).collect(),
            };
            on[i].iter().map(plate).collect()
        };
        let name = |part: PartId| part_name(&army, part);
        let changes = compare_plans(&compared(1), &compared(0));
        let changes = changes
            .iter()
            .filter_map(|change| change_words(change, &on[1], &on[0], &name))
            .collect();
        let [a, b] = &on;
        let plans = [
            BesidePlan {
                id: of[0],
                revision: rows[0].revision,
                asked: scope_words(c, &army, &rows[0].scope()?)?,
                plates: thumbs(c, a)?,
            },
            BesidePlan {
                id: of[1],
                revision: rows[1].revision,
                asked: scope_words(c, &army, &rows[1].scope()?)?,
                plates: thumbs(c, b)?,
            },
        ];
        Ok(Self {
            page,
            id: project,
            figures,
            plans,
            changes,
        })
    }
}

/// What became of a plate, in words; nothing where it stands as it stood.
fn change_words(
    change: &PlateChange,
    before: &[Plate],
    after: &[Plate],
    name: &dyn Fn(PartId) -> String,
) -> Option<String> {
    let list = |parts: &[(PartId, u64)]| {
        let one = |(part, n): &(PartId, u64)| format!("{n} × {}", name(*part));
        let mut all: Vec<String> = parts.iter().take(4).map(one).collect();
        if parts.len() > 4 {
            all.push(format!("{} more", parts.len() - 4));
        }
        all.join("; ")
    };
    Some(match change {
        PlateChange::Same { .. } => return None,
        PlateChange::New { now } => format!(
            "Plate {} is new: {} h.",
            after[*now].number,
            hours(after[*now].seconds)
        ),
        PlateChange::Gone { was } => format!(
            "Plate {} is gone: {} h.",
            before[*was].number,
            hours(before[*was].seconds)
        ),
        PlateChange::Changed {
            was,
            now,
            came,
            left,
            moved,
        } => {
            let mut words = format!("Plate {}", after[*now].number);
            if before[*was].number != after[*now].number {
                words += &format!(" (was {})", before[*was].number);
            }
            let mut parts = Vec::new();
            if !came.is_empty() {
                parts.push(format!("came {}", list(came)));
            }
            if !left.is_empty() {
                parts.push(format!("left {}", list(left)));
            }
            if *moved > 0 {
                parts.push(count(*moved, "copy moved on it", "copies moved on it"));
            }
            format!("{words}: {}.", parts.join(", "))
        }
    })
}
