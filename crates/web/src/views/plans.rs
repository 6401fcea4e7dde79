//! The plates of a project: the open plan, the accepted plates, what made a plan stale.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::demand::{DemandLine, fingerprint};
use wembrit_core::flow::{PlanState, PlateState, Stage};
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId};
use wembrit_core::recipe::Standing;
use wembrit_core::task::TaskKind;
use wembrit_core::units::Money;
use wembrit_paper::draw_plate_thumb;
use wembrit_store::queries::costs::{self, ModelCost};
use wembrit_store::queries::plates::Spot;
use wembrit_store::queries::{army, demand, plans, plates, printers, recipes, resins, tasks};
use wembrit_store::rows::{Plate, Printer, Resin};
use wembrit_store::{Conn, Stale, StoreError};

use super::Page;
use super::plates::state_word;
use super::shapes::Shapes;
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
        let on_it: &[Spot] = spots.get(&plate.id).map_or(&[], Vec::as_slice);
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
        let task = computing
            .then(|| tasks::find(c, TaskKind::Plan, &plan.id.to_string()))
            .transpose()?;
        let parked = task
            .as_ref()
            .filter(|t| !t.state.is_open())
            .map(|t| t.message.clone());
        let of_plan = plates::of_plan(c, plan.id)?;
        let name = |part: PartId| {
            let found = army.parts().find(|(_, _, p)| p.part.id == part);
            found.map_or_else(
                || "a part".to_owned(),
                |(_, m, p)| format!("{}, {}", m.model.name, p.part.name.to_lowercase()),
            )
        };
        let left_over = plans::left_over(c, plan.id)?;
        let ids: Vec<PlateId> = of_plan.iter().map(|p| p.id).collect();
        Ok(Some(Self {
            id: plan.id,
            revision: plan.revision,
            computing_percent: task
                .filter(|t| t.state.is_open())
                .map(|t| (t.progress * 100.0) as i64),
            refusal: plan.refusal.or(parked),
            stale: !computing && fingerprint(&demand::lines(&army)) != plan.fingerprint,
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
    let standings = recipes::standings(c, &versions)?;
    let under_way = recipes::under_way(c, &versions)?;
    let bold = lines.iter().filter(|l| {
        l.wanted > 1
            && standings[&l.recipe_version] != Standing::Proven
            && !under_way.contains(&l.recipe_version)
    });
    Ok(bold.map(|l| name(l.part)).collect())
}

fn left_over_words(part: &str, copies: i64, why: &str) -> String {
    let what = count(copies.max(0) as u64, "copy", "copies");
    let then = match why {
        "too tall" => "taller than every printer takes: scale it down, or lay it down in its file",
        "too wide" => "its outline fits no plate: scale it down or cut it",
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
}

impl PlatesView {
    pub(crate) fn load(c: &mut Conn, page: Page, id: ProjectId) -> Result<Self, StoreError> {
        let army = army::load(c, id)?;
        let lines = demand::lines(&army);
        let (done, open): (Vec<Plate>, Vec<Plate>) = plates::accepted(c, id)?
            .into_iter()
            .partition(|p| p.state == PlateState::Done);
        Ok(Self {
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

    pub(crate) fn wanted_words(&self) -> String {
        count(self.wanted, "copy is wanted", "copies are wanted")
    }

    /// The computation of a plan is under way.
    pub(crate) fn computing(&self) -> Option<i64> {
        self.plan.as_ref().and_then(|p| p.computing_percent)
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

/// How far the computation of a plan is.
#[derive(Template)]
#[template(path = "plates/progress.html")]
pub(crate) struct ProgressView {
    pub(crate) percent: Option<i64>,
}
