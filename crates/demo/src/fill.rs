//! Writes the scenario into a data file: a project half way, with done, running and waiting
//! plates, failures and copies still wanted.

use std::collections::HashMap;

use wembrit_core::flow::{FailureCause, PlanScope, PlateState, TaskKind, TaskState};
use wembrit_core::ids::{ModelId, PlanId, PlateId, ProjectId};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{make_plan, plan_request};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::units::Money;
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::practice::Question;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::judge_plate::Failure;
use wembrit_store::commands::muster::UnitChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::trials::VariantChange;
use wembrit_store::queries::poses::PoseQuestion;
use wembrit_store::queries::{army, demand, plans, plates, printers, sculpts as kept};
use wembrit_store::{Conn, Store, StoreError, commands};

use crate::army::{DemoUnit, first_wave, second_wave, third_wave};
use crate::files::{self, SculptFile};
use crate::learned;
use crate::sculpts::{self, DemoSculpt};
use crate::shelf;
use crate::units::{Sculpts, add_units};
use crate::workshop::set_up_workshop;

/// Why the demo could not be laid out.
#[derive(Debug, thiserror::Error)]
pub enum DemoError {
    /// The data file.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// One of the generated sculpts: a fault of ours.
    #[error("{file}: {why}")]
    Sculpt {
        /// Its file.
        file: &'static str,
        /// What measuring it said.
        why: String,
    },
    /// The first plan: a fault of ours.
    #[error("the demo's plan: {0}")]
    Plan(String),
}

const HOUR_MS: i64 = 3_600_000;

/// Fills an empty data file with the scenario, as of `now_ms`; everything is measured.
///
/// # Errors
/// [`DemoError`].
pub fn fill(store: &Store, now_ms: i64) -> Result<(), DemoError> {
    let (files, ids) = lay_out(store, now_ms)?;
    files::measure(store, &files, &ids, begun(now_ms))
}

/// Fills an empty data file with the scenario, but leaves the sculpts that no plate needs yet
/// waiting, for a server to measure: nobody looks at them first.
///
/// # Errors
/// [`DemoError`].
pub fn open(store: &Store, now_ms: i64) -> Result<(), DemoError> {
    lay_out(store, now_ms).map(drop)
}

fn begun(now_ms: i64) -> i64 {
    now_ms - 6 * 24 * HOUR_MS
}

/// The scenario up to now, and the files that nothing was planned of.
fn lay_out(store: &Store, now_ms: i64) -> Result<(Vec<SculptFile>, Sculpts), DemoError> {
    let begun = begun(now_ms);
    let resins = set_up_workshop(store, begun)?;
    store.write(|c| shelf::wear(c, begun))?;
    let waves = [first_wave(), second_wave(), third_wave()];
    let sculpts = sculpts::all();
    let [first, second, others] = by_wave(&sculpts, &waves);
    let (files, mut ids) = files::take_in(store, &first, begun)?;
    files::measure(store, &files, &ids, begun)?;
    let project = store.write(|c| commands::muster::add_project(c, "Brackwater Levy"))?;
    add_units(store, project, &waves[0], &ids, &resins, begun)?;
    // The next files are made while plates are laid out.
    let (plan, next) = rayon::join(
        || draft(store, project, begun),
        || {
            let (files, ids) = files::take_in(store, &second, begun)?;
            files::measure(store, &files, &ids, begun)?;
            Ok::<Sculpts, DemoError>(ids)
        },
    );
    let plan = plan?;
    ids.extend(next?);
    store.write(|c| commands::accept_plan::accept(c, plan, begun))?;
    run_plates(store, project, now_ms)?;
    add_units(store, project, &waves[1], &ids, &resins, begun)?;
    let (plan, last) = rayon::join(
        || draft(store, project, now_ms - 5 * HOUR_MS),
        || files::take_in(store, &others, begun),
    );
    let plan = plan?;
    let (files, later) = last?;
    ids.extend(later);
    store.write(|c| commands::accept_plan::accept(c, plan, now_ms - 4 * HOUR_MS))?;
    let waiting = store.read(|c| plates::accepted(c, project))?;
    if let Some(next) = waiting.iter().find(|p| p.state == PlateState::Planned) {
        store.write(|c| commands::run_plate::start(c, next.id, now_ms - 2 * HOUR_MS))?;
    }
    add_units(store, project, &waves[2], &ids, &resins, now_ms)?;
    store.write(|c| settle_in(c, project, &waves[2]))?;
    store.write(|c| try_out(c, project, now_ms))?;
    store.write(|c| learned::write(c, project, now_ms))?;
    store.write(|c| shelf::stock(c, now_ms - 12 * HOUR_MS))?;
    store.write(|c| shelf::weigh(c, project, now_ms - 12 * HOUR_MS))?;
    let season = "Marsh folk, a season of files";
    store.write(|c| commands::bundles::buy(c, season, Money(3600), true, begun))?;
    Ok((files, ids))
}

/// Sculpts that the first wave needs, those that the second one needs besides, and the others.
fn by_wave<'a>(all: &'a [DemoSculpt], waves: &[Vec<DemoUnit>; 3]) -> [Vec<&'a DemoSculpt>; 3] {
    let needs = |wave: &[DemoUnit], sculpt: &DemoSculpt| {
        let mut parts = wave.iter().flat_map(|u| &u.models).flat_map(|m| &m.parts);
        parts.any(|p| p.file == sculpt.file_name)
    };
    let mut apart = [Vec::new(), Vec::new(), Vec::new()];
    for sculpt in all {
        let wave = (0..2).find(|w| needs(&waves[*w], sculpt)).unwrap_or(2);
        apart[wave].push(sculpt);
    }
    apart
}

/// A trial that is being put together, and poses that are being looked for.
fn try_out(c: &mut Conn, project: ProjectId, now_ms: i64) -> Result<(), StoreError> {
    let army = army::load(c, project)?;
    let part = |model: &str| {
        let found = army.parts().find(|(_, m, _)| m.model.name == model);
        found.map(|(_, m, p)| (m.model.base_width_mm, p.clone()))
    };
    let printer = printers::list(c)?.first().map(|p| p.id);
    if let (Some((_, slinger)), Some(printer)) = (part("Bog slinger"), printer) {
        let trial = commands::trials::begin(c, slinger.part.id, printer, now_ms)?;
        let far_back = VariantChange {
            name: "far back".into(),
            recipe: RecipeChange {
                setup: Some(Setup {
                    pose: Pose::new(45.0, BACK_DEG),
                    supports: Supports::Planned(SupportStyle::USUAL),
                }),
                ..RecipeChange::of(&slinger.recipe)
            },
            printer,
            exposure_s: None,
        };
        commands::trials::add_variant(c, trial, &far_back, now_ms)?;
    }
    for (base_mm, part) in ["Bog slinger", "Siege punt"].into_iter().filter_map(part) {
        if let Some(sculpt) = part.part.sculpt {
            let sculpt = kept::load(c, sculpt)?;
            let question = PoseQuestion {
                scale: part.recipe.scale,
                layer: part.recipe.layer,
                resin: part.recipe.resin,
                base_mm,
                style: part.recipe.setup.supports.style(),
            };
            commands::poses::ask(c, &sculpt, &question, now_ms)?;
        }
    }
    Ok(())
}

/// What names things that have to be there first: who is carried by what; the practice.
fn settle_in(c: &mut Conn, project: ProjectId, units: &[DemoUnit]) -> Result<(), StoreError> {
    let army = army::load(c, project)?;
    let carriers = army.units.iter().flat_map(|u| &u.models);
    let carriers: HashMap<&str, ModelId> = carriers
        .map(|m| (m.model.name.as_str(), m.model.id))
        .collect();
    for unit in units {
        let here = army.units.iter().find(|u| u.unit.name == unit.name);
        if let (Some(carrier), Some(here)) = (unit.carried_by.and_then(|n| carriers.get(n)), here) {
            let to = UnitChange {
                name: unit.name.into(),
                priority: unit.priority,
                carrier: Some(*carrier),
            };
            commands::muster::change_unit(c, here.unit.id, here.unit.row_version, &to)?;
        }
    }
    for (question, word) in [
        (Question::Tilt, "upright"),
        (Question::Wash, "solvent"),
        (Question::SupportsOff, "before cure"),
    ] {
        commands::practices::answer(c, None, question, question.school(word))?;
    }
    Ok(())
}

fn draft(store: &Store, project: ProjectId, now_ms: i64) -> Result<PlanId, DemoError> {
    let plan = store.write(|c| commands::ask_plan::ask(c, project, &PlanAsk::default(), now_ms))?;
    let (facts, lines) = store.read(|c| {
        let lines = plans::demand_of(c, plan)?;
        Ok((demand::plan_facts(c, project, &lines)?, lines))
    })?;
    let request = plan_request(&facts, &lines, &PlanScope::default());
    let computed = make_plan(&request, PackSearch::AT_ONCE, &Unwatched)
        .map_err(|error| DemoError::Plan(error.to_string()))?;
    store.write(|c| {
        commands::save_plan::set_computed(c, plan, &computed)?;
        end_task(c, TaskKind::Plan, &plan.to_string(), now_ms)
    })?;
    Ok(plan)
}

/// Every plate of the first wave is through, with failures here and there.
fn run_plates(store: &Store, project: ProjectId, now_ms: i64) -> Result<(), DemoError> {
    let through = store.read(|c| plates::accepted(c, project))?;
    for (index, plate) in through.iter().enumerate() {
        let start = now_ms - (through.len() - index) as i64 * 22 * HOUR_MS;
        let end = start + (plate.seconds * 1040.0) as i64;
        store.write(|c| commands::run_plate::log_run(c, plate.id, start, end, end))?;
        let failed = store.read(|c| failures(c, plate.id, index))?;
        store.write(|c| commands::judge_plate::judge(c, plate.id, &failed, end + HOUR_MS))?;
    }
    Ok(())
}

fn failures(c: &mut Conn, plate: PlateId, index: usize) -> Result<Vec<Failure>, StoreError> {
    const CAUSES: [(FailureCause, &str); 4] = [
        (FailureCause::TornOff, "came off at the left foot"),
        (
            FailureCause::BrokenAtSupports,
            "pole snapped while it was cut free",
        ),
        (FailureCause::MissingFeature, "the tip began in mid-air"),
        (FailureCause::Warped, ""),
    ];
    let copies = plates::copies_of(c, plate)?;
    let failed = copies
        .iter()
        .enumerate()
        .filter(|(i, _)| (i + 3 * index) % 9 == 4);
    Ok(failed
        .filter_map(|(i, copy)| copy.copy.as_ref().map(|copy| (i, copy.id)))
        .map(|(i, copy)| {
            let (cause, note) = CAUSES[(i + index) % CAUSES.len()];
            Failure {
                copy,
                cause,
                note: note.into(),
            }
        })
        .collect())
}

/// Ends a task whose work was done here.
pub(super) fn end_task(
    c: &mut Conn,
    kind: TaskKind,
    key: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    commands::tasks::end_asked(c, kind, key, (TaskState::Done, ""), now_ms)
}
