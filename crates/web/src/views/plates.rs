//! Plates: the open plan, the accepted plates, and one plate's sheet.

use std::collections::{BTreeMap, HashMap};
use std::sync::Arc;

use askama::Template;
use wembrit_core::demand::{DemandLine, fingerprint};
use wembrit_core::flow::{FailureCause, PlanState, PlateState, Stage};
use wembrit_core::geometry::Outline;
use wembrit_core::ids::{PartId, PlanId, PlateId, ProjectId, SculptId};
use wembrit_core::layers::Reach;
use wembrit_core::task::TaskKind;
use wembrit_core::units::Money;
use wembrit_paper::{
    CopyMark, DrawnCopy, PlateDrawing, draw_plate_sheet, draw_plate_thumb, ramp_class,
};
use wembrit_store::queries::costs::{self, ModelCost};
use wembrit_store::queries::plates::Spot;
use wembrit_store::queries::{army, demand, plans, plates, printers, resins, tasks};
use wembrit_store::rows::{Plate, Printer, Resin, SculptFacts};
use wembrit_store::{Conn, Stale, StoreError};

use super::Page;
use super::show::{self, count, hours, tenth};

/// Shapes of sculpts, shared between their copies.
struct Shapes {
    facts: HashMap<SculptId, SculptFacts>,
    outlines: HashMap<(SculptId, u64), Arc<Outline>>,
    reaches: HashMap<SculptId, Arc<Reach>>,
}

impl Shapes {
    fn load(c: &mut Conn, spots: &[&Spot]) -> Result<Self, StoreError> {
        let mut sculpts: Vec<SculptId> = spots.iter().map(|s| s.placement.sculpt_id).collect();
        sculpts.sort_unstable();
        sculpts.dedup();
        let facts = demand::facts_of(c, &sculpts)?;
        Ok(Self {
            facts,
            outlines: HashMap::new(),
            reaches: HashMap::new(),
        })
    }

    fn of(
        &mut self,
        sculpt: SculptId,
        scale: f64,
    ) -> Result<(Arc<Outline>, Arc<Reach>, f64), StoreError> {
        let facts = self
            .facts
            .get(&sculpt)
            .ok_or(StoreError::NotFound { what: "sculpt" })?;
        let key = (sculpt, scale.to_bits());
        if !self.outlines.contains_key(&key) {
            self.outlines
                .insert(key, Arc::new(facts.outline()?.scaled(scale)));
        }
        if !self.reaches.contains_key(&sculpt) {
            self.reaches.insert(sculpt, Arc::new(facts.reach()?));
        }
        Ok((
            self.outlines[&key].clone(),
            self.reaches[&sculpt].clone(),
            facts.height_mm * scale,
        ))
    }

    fn drawing(&mut self, printer: &Printer, spots: &[Spot]) -> Result<PlateDrawing, StoreError> {
        let copies: Result<Vec<DrawnCopy>, StoreError> =
            spots.iter().map(|s| self.drawn(s)).collect();
        Ok(PlateDrawing {
            width_mm: printer.width_mm,
            depth_mm: printer.depth_mm,
            margin_mm: printer.margin_mm,
            copies: copies?,
        })
    }

    fn drawn(&mut self, spot: &Spot) -> Result<DrawnCopy, StoreError> {
        let p = &spot.placement;
        let (outline, reach, height_mm) = self.of(p.sculpt_id, spot.scale)?;
        Ok(DrawnCopy {
            key: key(spot),
            label: label(spot),
            outline,
            reach,
            scale: spot.scale,
            at_mm: [p.x_mm, p.y_mm],
            rotation_deg: p.rotation_deg,
            height_mm,
            mark: match spot.copy.as_ref().map(|c| c.stage) {
                Some(Stage::Failed) => CopyMark::Failed,
                Some(Stage::Good) => CopyMark::Good,
                _ => CopyMark::Plain,
            },
        })
    }
}

/// What a page knows a copy by: its identity once it has one.
fn key(spot: &Spot) -> String {
    match spot.placement.copy_id() {
        Some(copy) => copy.to_string(),
        None => format!("s{}", spot.placement.seq),
    }
}

fn label(spot: &Spot) -> String {
    match &spot.copy {
        Some(copy) => format!(
            "{}, {} {}",
            spot.model,
            spot.part.to_lowercase(),
            copy.number
        ),
        None => format!("{}, {}", spot.model, spot.part.to_lowercase()),
    }
}

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

/// A plate's state as a person says it.
pub(crate) fn state_word(state: PlateState) -> &'static str {
    match state {
        PlateState::Draft => "draft",
        PlateState::Planned => "waits for its run",
        PlateState::Running => "running",
        PlateState::Printed => "to be judged",
        PlateState::Done => "done",
        PlateState::Released => "given up",
    }
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
            plates: thumbs(c, &of_plan)?,
            sums: sums(&of_plan),
            units: unit_costs(costs::by_model(c, &ids)?),
        }))
    }
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

/// One line of the bill of parts.
pub(crate) struct BillRow {
    pub(crate) keys: String,
    pub(crate) class: String,
    pub(crate) name: String,
    pub(crate) unit: String,
    pub(crate) copies: usize,
    pub(crate) mm: String,
    pub(crate) ml: String,
    pub(crate) each: String,
    pub(crate) lost: Vec<String>,
}

/// A copy that can be marked as lost.
pub(crate) struct Judged {
    pub(crate) key: String,
    pub(crate) label: String,
    pub(crate) lost: bool,
    pub(crate) cause: String,
    pub(crate) note: String,
}

/// One plate's sheet.
#[derive(Template)]
#[template(path = "plates/plate.html")]
pub(crate) struct PlateView {
    pub(crate) page: Page,
    pub(crate) plate: Plate,
    pub(crate) state: &'static str,
    pub(crate) project: String,
    pub(crate) of: i64,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) drawing: String,
    pub(crate) bill: Vec<BillRow>,
    pub(crate) copies: usize,
    pub(crate) hours: String,
    pub(crate) ml: String,
    pub(crate) grams: String,
    pub(crate) cost: String,
    pub(crate) each: String,
    pub(crate) run: String,
    pub(crate) ends: String,
    pub(crate) started_field: String,
    pub(crate) ended_field: String,
    pub(crate) judged: Vec<Judged>,
    pub(crate) cause: String,
    pub(crate) causes: Vec<&'static str>,
    pub(crate) fault: String,
}

impl PlateView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PlateId,
        now_ms: i64,
    ) -> Result<Self, StoreError> {
        let plate = plates::load(c, id)?;
        let printer = printers::load(c, plate.printer_id)?;
        let resin = resins::load(c, plate.resin_id)?.name;
        let spots = plates::spots(c, &[id])?.remove(&id).unwrap_or_default();
        let mut shapes = Shapes::load(c, &spots.iter().collect::<Vec<_>>())?;
        let drawing = draw_plate_sheet(&shapes.drawing(&printer, &spots)?);
        let run = plates::run_of(c, id)?;
        let ends_ms = run
            .as_ref()
            .map(|r| r.started_at_ms + (plate.seconds * 1000.0) as i64);
        let when = |ms| show::when(ms, &page.zone);
        let run_words = match run.as_ref().map(|r| (r.started_at_ms, r.ended_at_ms)) {
            None => "not started".to_owned(),
            Some((from, None)) => format!("started {}", when(from)),
            Some((from, Some(to))) => {
                format!(
                    "{} to {}, {} h",
                    when(from),
                    when(to),
                    hours((to - from) as f64 / 1000.0)
                )
            }
        };
        let of = plates_in_all(c, &plate)?;
        let cost = plate.resin_cost() + plate.hands_on_cost();
        let each = Money::from_minor_f64(cost.0 as f64 / spots.len().max(1) as f64);
        let started = now_ms - (plate.seconds * 1000.0) as i64;
        Ok(Self {
            state: state_word(plate.state),
            project: page
                .project
                .as_ref()
                .map_or_else(String::new, |p| p.name.clone()),
            of,
            printer: printer.name,
            resin,
            drawing,
            bill: bill(&spots, &mut shapes, plate.height_mm)?,
            copies: spots.len(),
            hours: hours(plate.seconds),
            ml: tenth(plate.resin_ml),
            grams: tenth(plate.resin_g),
            cost: cost.to_string(),
            each: each.to_string(),
            run: run_words,
            ends: ends_ms.map_or_else(String::new, |ms| show::near(ms, now_ms, &page.zone)),
            started_field: show::field(started, &page.zone),
            ended_field: show::field(now_ms, &page.zone),
            judged: if plate.state == PlateState::Printed {
                judged(&spots)
            } else {
                Vec::new()
            },
            cause: String::new(),
            causes: FailureCause::ALL.iter().map(|c| c.as_str()).collect(),
            fault: String::new(),
            page,
            plate,
        })
    }
}

impl PlateView {
    /// How many are marked as lost.
    pub(crate) fn lost(&self) -> usize {
        self.judged.iter().filter(|j| j.lost).count()
    }
}

/// The highest number a plate of this plan or project carries.
fn plates_in_all(c: &mut Conn, plate: &Plate) -> Result<i64, StoreError> {
    let all = match plate.state {
        PlateState::Draft => plates::of_plan(c, plate.plan_id)?,
        _ => plates::accepted(c, plate.project_id)?,
    };
    Ok(all.iter().map(|p| p.number).max().unwrap_or(plate.number))
}

fn bill(spots: &[Spot], shapes: &mut Shapes, tallest_mm: f64) -> Result<Vec<BillRow>, StoreError> {
    let mut by_part: BTreeMap<PartId, Vec<&Spot>> = BTreeMap::new();
    for spot in spots {
        by_part
            .entry(spot.placement.part_id)
            .or_default()
            .push(spot);
    }
    let mut rows = Vec::new();
    for of_part in by_part.values() {
        let first = of_part[0];
        let (_, _, height_mm) = shapes.of(first.placement.sculpt_id, first.scale)?;
        let cost: Money = of_part.iter().map(|s| s.placement.cost()).sum();
        let each = Money::from_minor_f64(cost.0 as f64 / of_part.len() as f64);
        let lost = |s: &&&Spot| s.copy.as_ref().is_some_and(|c| c.stage == Stage::Failed);
        rows.push((
            height_mm,
            BillRow {
                keys: of_part.iter().map(|s| key(s)).collect::<Vec<_>>().join(" "),
                class: ramp_class(height_mm, tallest_mm),
                name: format!("{}, {}", first.model, first.part.to_lowercase()),
                unit: first.unit.clone(),
                copies: of_part.len(),
                mm: tenth(height_mm),
                ml: tenth(of_part.iter().map(|s| s.placement.resin_ml).sum()),
                each: each.to_string(),
                lost: of_part.iter().filter(lost).map(|s| loss_words(s)).collect(),
            },
        ));
    }
    rows.sort_by(|a, b| b.0.total_cmp(&a.0));
    Ok(rows.into_iter().map(|(_, row)| row).collect())
}

fn loss_words(spot: &Spot) -> String {
    let Some(copy) = &spot.copy else {
        return String::new();
    };
    let cause = copy.cause.as_deref().unwrap_or("lost");
    let note = if copy.note.is_empty() {
        String::new()
    } else {
        format!(" ({})", copy.note)
    };
    format!("copy {} lost: {cause}{note}", copy.number)
}

fn judged(spots: &[Spot]) -> Vec<Judged> {
    spots
        .iter()
        .map(|s| Judged {
            key: key(s),
            label: label(s),
            lost: false,
            cause: String::new(),
            note: String::new(),
        })
        .collect()
}

/// How far the computation of a plan is.
#[derive(Template)]
#[template(path = "plates/progress.html")]
pub(crate) struct ProgressView {
    pub(crate) percent: Option<i64>,
}
