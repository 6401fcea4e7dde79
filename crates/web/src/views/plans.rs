//! The plates of a project: the open plan, the accepted plates, what made a plan stale.

use std::collections::BTreeMap;

use crate::currency::Amount;
use askama::Template;
use wembrit_core::army::demand::fingerprint;
use wembrit_core::army::surplus::not_to_print;
use wembrit_core::army::{Army, ArmyPart, demand_lines, demand_lines_in, without_sculpt};
use wembrit_core::cost::{ModelCost, PlateSums, by_model};
use wembrit_core::cost_parts::CostKind;
use wembrit_core::flow::{PlanRevision, PlanScope, PlanState, Plate, SculptState, Task};
use wembrit_core::ids::{ModelId, PlanId, PlateId, ProjectId};
use wembrit_core::plan::NotPlanned;
use wembrit_core::plan::concerns::{Concern, ConcernKind, concerns};
use wembrit_core::units::Money;
use wembrit_core::workshop::{Printer, Resin};
use wembrit_store::queries::pages::plans::{self as pages, PlatesPage};

use super::Page;
use super::concerns::ConcernList;
use super::orphans::orphan_words;
use super::show::{about as about_words, count, give_or_take, hours, tenth};
use super::stale::since_words;
use super::thumbs::Sheets;

/// Sums over some plates.
pub(crate) struct Sums {
    pub(crate) plates: u64,
    pub(crate) hours: String,
    /// How far off that may be.
    pub(crate) around: String,
    pub(crate) ml: String,
    pub(crate) cost: String,
    pub(crate) hands_on: String,
}

impl Sums {
    fn of<'a>(plates: impl IntoIterator<Item = &'a Plate>) -> Self {
        let sums = PlateSums::of(plates);
        Self {
            plates: sums.plates,
            hours: hours(sums.seconds),
            around: give_or_take(sums.around_s),
            ml: tenth(sums.resin_ml),
            cost: sums.cost().written(),
            hands_on: sums.costs.get(CostKind::Hands).written(),
        }
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

/// Models of a plan whose costs are written out; of more than that the sums of their units.
const MODELS_WRITTEN: usize = 120;

fn unit_costs(all: Vec<ModelCost>) -> Vec<UnitCost> {
    let written = all.len() <= MODELS_WRITTEN;
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
        if !written {
            continue;
        }
        unit.models.push(ModelCostRow {
            name: model.model.1,
            copies: model.copies,
            ml: tenth(model.ml),
            cost: model.cost.written(),
            each: model.each.map_or_else(|| "–".into(), |m| m.written()),
        });
    }
    let finish = |(unit, ml, cost): (UnitCost, f64, Money)| UnitCost {
        ml: tenth(ml),
        cost: cost.written(),
        ..unit
    };
    units.into_iter().map(finish).collect()
}

/// Untried parts that are named at most.
const UNTRIED_NAMED: usize = 40;

/// The plan nobody has accepted yet.
pub(crate) struct OpenPlan {
    /// What stands open about its parts; what a plan tells by itself is left out.
    pub(crate) concerns: ConcernList,
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
    /// How the demand has changed since it was made.
    pub(crate) since: String,
    pub(crate) left_over: Vec<String>,
    /// Parts wanted by the dozen whose recipe nobody has tried, and what to do about it.
    pub(crate) untried: Vec<String>,
    /// How many there are, named or not.
    pub(crate) untried_all: usize,
    pub(crate) plates: Sheets,
    pub(crate) sums: Sums,
    pub(crate) units: Vec<UnitCost>,
    /// Too many models to write each out.
    pub(crate) by_unit: bool,
}

impl OpenPlan {
    fn new(open: &pages::OpenPlan, page: &PlatesPage, task: Option<&Task>) -> Self {
        let plan = &open.plan;
        let army = &page.army;
        let computing = plan.state == PlanState::Computing;
        let sums = PlateSums::of(&open.plates);
        let now = demand_lines_in(army, &plan.scope);
        let stale = !computing && fingerprint(&now) != plan.fingerprint;
        let parked = task.and_then(Task::ended_message);
        let parts = open.lines.iter().map(|l| l.part).collect();
        let told = |c: &Concern| !matches!(c.kind, ConcernKind::Untried | ConcernKind::NoFile);
        let mut shown = concerns(army, &open.concerns);
        shown.retain(told);
        let project = army.project.id;
        let costs = by_model(army, &open.sums);
        Self {
            concerns: ConcernList::about(
                project,
                format!("/projects/{project}/plates"),
                &shown,
                &parts,
            ),
            id: plan.id,
            revision: plan.revision,
            computing_percent: task.and_then(Task::open_percent),
            refusal: plan.refusal.as_deref().or(parked).map(str::to_owned),
            stale,
            since: if stale {
                since_words(army, &open.lines, &now)
            } else {
                String::new()
            },
            asked: scope_words(&plan.scope, army, &page.printers, &page.resins),
            bound: bound_words(plan, &sums),
            search: search_words(plan, &sums),
            rival: open.rival.as_ref().map(|p| (p.id, p.revision)),
            left_over: open
                .left_over
                .iter()
                .map(|(part, n, why)| left_over_words(&army.part_name(*part), *n, *why))
                .collect(),
            untried: open
                .untried
                .iter()
                .take(UNTRIED_NAMED)
                .map(|p| army.part_name(*p))
                .collect(),
            untried_all: open.untried.len(),
            plates: Sheets::leaf("plan", &open.leaf),
            sums: Sums::of(&open.plates),
            by_unit: costs.len() > MODELS_WRITTEN,
            units: unit_costs(costs),
        }
    }
}

/// What a plan was asked for, in words; empty for everything.
pub(super) fn scope_words(
    scope: &PlanScope,
    army: &Army,
    printers: &[Printer],
    resins: &[Resin],
) -> String {
    let mut words = Vec::new();
    let on: Vec<&str> = printers
        .iter()
        .filter(|p| scope.printers.contains(&p.id))
        .map(|p| p.name.as_str())
        .collect();
    if !scope.printers.is_empty() {
        words.push(format!("on {}", on.join(", ")));
    }
    let of: Vec<&str> = army
        .units
        .iter()
        .filter(|u| scope.units.contains(&u.unit.id))
        .map(|u| u.unit.name.as_str())
        .collect();
    if !scope.units.is_empty() {
        words.push(format!("for {}", of.join(", ")));
    }
    let from: Vec<&str> = resins
        .iter()
        .filter(|r| scope.resins.contains(&r.id))
        .map(|r| r.name.as_str())
        .collect();
    if !scope.resins.is_empty() {
        words.push(format!("in {}", from.join(", ")));
    }
    if let Some(until) = scope.until_h {
        words.push(format!("no plate ending more than {until} h from now"));
    }
    if scope.by_hours {
        words.push("by hours on the printers alone".into());
    }
    if scope.no_spares {
        words.push("without spares".into());
    }
    words.join("; ")
}

/// The bound in words. How far above it a plan of irregular parts ends up is common practice of
/// such packings, no source: 5 to 30 %.
fn bound_words(plan: &PlanRevision, sums: &PlateSums) -> String {
    if plan.bound_seconds <= 0.0 || sums.plates == 0 {
        return String::new();
    }
    let taken = sums.seconds;
    let over = (taken / plan.bound_seconds - 1.0) * 100.0;
    if over < -0.5 {
        return "Runs that were timed since then say that its printers are quicker: plan again for what \
                no plan can be under."
            .to_owned();
    }
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

fn search_words(plan: &PlanRevision, sums: &PlateSums) -> String {
    let taken = sums.seconds;
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

fn left_over_words(part: &str, copies: u64, why: NotPlanned) -> String {
    let what = count(copies, "copy", "copies");
    let then = match why {
        NotPlanned::TooTall => {
            "taller than every printer takes: scale it down, or choose an orientation that lies lower"
        }
        NotPlanned::TooWide => "its outline fits no plate: scale it down or cut it",
        NotPlanned::PullsTooHard => {
            "it pulls harder on the film than the printers may: hang it otherwise or hollow it"
        }
        NotPlanned::Untried => {
            "its recipe is untried, and only a few are planned before it is proven"
        }
        NotPlanned::TooLate => "its plate would end after the cut-off: it waits for the next plan",
        NotPlanned::NoPrinter => {
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
    /// Models that could take what is over elsewhere: identity, and in words.
    pub(crate) over: Vec<(ModelId, String)>,
    pub(crate) left_out: LeftOut,
    /// What waits on plates and was taken away: plate, number, words.
    pub(crate) orphans: Vec<(PlateId, i64, String)>,
    pub(crate) open: Sheets,
    pub(crate) done: Sheets,
    pub(crate) open_sums: Sums,
    pub(crate) done_sums: Sums,
    /// What a plan can be asked for: name, label, and what is ticked of it.
    pub(crate) choices: Vec<ScopeChoice>,
    pub(crate) until_h: String,
    pub(crate) no_spares: bool,
    pub(crate) by_hours: bool,
}

/// A list of which some or all can be planned.
pub(crate) struct ScopeChoice {
    pub(crate) name: &'static str,
    pub(crate) label: &'static str,
    pub(crate) all: Vec<(i64, String, bool)>,
}

fn choices(page: &PlatesPage, scope: &PlanScope) -> Vec<ScopeChoice> {
    let units = page.army.units.iter().map(|u| {
        let ticked = PlanScope::takes(&scope.units, u.unit.id);
        (u.unit.id.0, u.unit.name.clone(), ticked)
    });
    let printers = page.printers.iter().map(|p| {
        let ticked = PlanScope::takes(&scope.printers, p.id);
        (p.id.0, p.name.clone(), ticked)
    });
    let resins = page.resins.iter().map(|r| {
        let ticked = PlanScope::takes(&scope.resins, r.id);
        (r.id.0, r.name.clone(), ticked)
    });
    vec![
        ScopeChoice {
            name: "printer",
            label: "Printers",
            all: printers.collect(),
        },
        ScopeChoice {
            name: "resin",
            label: "Resins",
            all: resins.collect(),
        },
        ScopeChoice {
            name: "unit",
            label: "Units",
            all: units.collect(),
        },
    ]
}

/// Parts that are wanted and cannot be planned.
pub(crate) struct LeftOut {
    /// Their file is being measured: they can be planned in a moment.
    pub(crate) measuring: usize,
    /// Nothing can be printed for them.
    pub(crate) without_sculpt: usize,
    /// How long the measuring takes; empty where nobody knows.
    about: String,
}

impl LeftOut {
    pub(crate) fn of(army: &Army) -> Self {
        let all = without_sculpt(army);
        let waits = |p: &&&ArmyPart| {
            let waiting = |s: &(String, SculptState)| s.1 == SculptState::Waiting;
            p.sculpt.as_ref().is_some_and(waiting)
        };
        let measuring = all.iter().filter(waits).count();
        Self {
            measuring,
            without_sculpt: all.len() - measuring,
            about: String::new(),
        }
    }

    /// With how long all measuring takes, s, where that is known.
    pub(crate) fn about(self, seconds: Option<f64>) -> Self {
        let about = seconds.map_or_else(String::new, about_words);
        Self { about, ..self }
    }

    pub(crate) fn measuring_words(&self) -> String {
        let many = self.measuring as u64;
        count(
            many,
            "wanted part is being measured",
            "wanted parts are being measured",
        )
    }

    pub(crate) fn without_words(&self) -> String {
        count(
            self.without_sculpt as u64,
            "wanted part has",
            "wanted parts have",
        )
    }
}

/// What is left out, alone: for a page that waits for measures.
#[derive(Template)]
#[template(path = "plates/left_out.html")]
pub(crate) struct LeftOutPart {
    pub(crate) id: ProjectId,
    pub(crate) left_out: LeftOut,
}

impl PlatesView {
    /// With the task that computes the open plan.
    pub(crate) fn new(page: Page, data: &PlatesPage, task: Option<&Task>) -> Self {
        let lines = demand_lines(&data.army);
        let everything = PlanScope::default();
        let scope = data.open.as_ref().map_or(&everything, |o| &o.plan.scope);
        Self {
            choices: choices(data, scope),
            until_h: scope.until_h.map_or_else(String::new, |h| h.to_string()),
            no_spares: scope.no_spares,
            by_hours: scope.by_hours,
            page,
            id: data.army.project.id,
            plan: data
                .open
                .as_ref()
                .map(|open| OpenPlan::new(open, data, task)),
            wanted: lines.iter().map(|l| l.wanted).sum(),
            left_out: LeftOut::of(&data.army),
            over: over_words(data),
            open_sums: Sums::of(&data.accepted),
            done_sums: Sums::of(&data.done),
            orphans: data.orphans.iter().map(orphan_words).collect(),
            open: Sheets::leaf("open", &data.accepted_leaf),
            done: Sheets::leaf("done", &data.done_leaf),
        }
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

/// Wanted copies that need not be printed, since they are over elsewhere.
fn over_words(data: &PlatesPage) -> Vec<(ModelId, String)> {
    let parts = || data.army.parts();
    let wanted = parts().map(|(_, _, p)| (p.part.id, p.need.wanted()));
    let spared = not_to_print(&data.over, &wanted.collect());
    let mut all: BTreeMap<ModelId, (String, u64)> = BTreeMap::new();
    for (_, model, part) in parts() {
        if let Some(many) = spared.get(&part.part.id) {
            let of = all.entry(model.model.id);
            of.or_insert((model.model.name.clone(), 0)).1 += many;
        }
    }
    let words = |(id, (name, many)): (ModelId, (String, u64))| {
        let copies = count(many, "wanted copy", "wanted copies");
        (
            id,
            format!(
                "{copies} of {name} {} over elsewhere",
                if many == 1 { "is" } else { "are" }
            ),
        )
    };
    all.into_iter().map(words).collect()
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

/// Why a plan was not taken from a file, line by line.
#[derive(Template)]
#[template(path = "plates/file_faults.html")]
pub(crate) struct FileFaultsView {
    pub(crate) page: Page,
    pub(crate) project: ProjectId,
    pub(crate) faults: Vec<String>,
}
