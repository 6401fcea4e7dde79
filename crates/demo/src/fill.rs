//! Writes the scenario into a data file: a project half way, with done, running and waiting
//! plates, failures and copies still wanted.

use std::collections::HashMap;

use rayon::prelude::*;
use wembrit_core::flow::{FailureCause, PlanScope, PlateState, TaskKind, TaskState};
use wembrit_core::ids::{
    ModelId, OptionId, PlanId, PlateId, PrinterId, ProjectId, ResinId, SculptId,
};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::{make_plan, plan_request};
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::Setup;
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::sculpt::measure::{MeasureOptions, Measured, measure_file};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::practice::Question;
use wembrit_core::workshop::print_time::LayerTiming;
use wembrit_core::workshop::resin::{Nature, Viscosity};
use wembrit_core::workshop::{Printer, Rates};
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::judge_plate::Failure;
use wembrit_store::commands::kits::{ChoiceChange, OptionChange, PieceChange};
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::resins::ResinChange;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::commands::trials::VariantChange;
use wembrit_store::commands::workshop::WorkshopChange;
use wembrit_store::queries::poses::PoseQuestion;
use wembrit_store::queries::{
    army, demand, kits, plans, plates, printers, sculpts, settings, tasks, workshop,
};
use wembrit_store::{Conn, Store, StoreError, commands};

use crate::army::{DemoModel, DemoUnit, first_wave, second_wave, third_wave};

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

/// Fills an empty data file with the scenario, as of `now_ms`.
///
/// # Errors
/// [`DemoError`].
pub fn fill(store: &Store, now_ms: i64) -> Result<(), DemoError> {
    let begun = now_ms - 6 * 24 * HOUR_MS;
    let resins = set_up_workshop(store, begun)?;
    let files = sculpt_files();
    let sculpts = store.write(|c| take_in(c, &files, begun))?;
    let wave = first_wave();
    let of_wave = |file: &SculptFile| {
        let mut parts = wave.iter().flat_map(|u| &u.models).flat_map(|m| &m.parts);
        parts.any(|p| p.file == file.0)
    };
    let (first, others): (Vec<_>, Vec<_>) = files.iter().partition(|f| of_wave(f));
    save_measured(store, &sculpts, &measure(&first)?, begun)?;
    let project = store.write(|c| commands::muster::add_project(c, "Brackwater Levy"))?;
    add_units(store, project, &wave, &sculpts, &resins, begun)?;
    // The others are measured while the first plates are laid out.
    let (plan, measured) = rayon::join(|| draft(store, project, begun), || measure(&others));
    save_measured(store, &sculpts, &measured?, begun)?;
    let plan = plan?;
    store.write(|c| commands::accept_plan::accept(c, plan, begun))?;
    run_plates(store, project, now_ms)?;
    add_units(store, project, &second_wave(), &sculpts, &resins, begun)?;
    let plan = draft(store, project, now_ms - 5 * HOUR_MS)?;
    store.write(|c| commands::accept_plan::accept(c, plan, now_ms - 4 * HOUR_MS))?;
    let waiting = store.read(|c| plates::accepted(c, project))?;
    if let Some(next) = waiting.iter().find(|p| p.state == PlateState::Planned) {
        store.write(|c| commands::run_plate::start(c, next.id, now_ms - 2 * HOUR_MS))?;
    }
    add_units(store, project, &third_wave(), &sculpts, &resins, now_ms)?;
    store.write(|c| settle_in(c, project, &third_wave()))?;
    store.write(|c| try_out(c, project, now_ms))?;
    Ok(())
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
            let sculpt = sculpts::load(c, sculpt)?;
            let question = PoseQuestion {
                scale: part.recipe.scale,
                layer: part.recipe.layer,
                resin: part.recipe.resin,
                base_mm,
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

fn add_choice(
    c: &mut Conn,
    id: ModelId,
    model: &DemoModel,
    now_ms: i64,
) -> Result<HashMap<&'static str, OptionId>, StoreError> {
    if model.options.is_empty() {
        return Ok(HashMap::new());
    }
    let option = |(name, models): &(&str, u32)| OptionChange {
        id: None,
        name: (*name).into(),
        models: *models,
    };
    let options = model.options.iter().map(option).collect();
    let choice = ChoiceChange {
        name: "Weapon".into(),
        may_go_without: false,
        options,
    };
    let choice = commands::kits::add_choice(c, id, &choice, now_ms)?;
    let fresh = kits::options_of(c, &[choice])?;
    Ok(model
        .options
        .iter()
        .zip(fresh)
        .map(|((name, _), o)| (*name, o.id))
        .collect())
}

fn add_pieces(c: &mut Conn, id: ModelId, model: &DemoModel) -> Result<(), StoreError> {
    for piece in &model.pieces {
        let change = PieceChange {
            name: piece.name.into(),
            option: None,
            source: piece.source,
            count: 1,
            at_hand: piece.at_hand,
            cost_each: Money(piece.cost_minor),
            minutes_each: piece.minutes,
        };
        commands::kits::add_piece(c, id, &change)?;
    }
    Ok(())
}

fn set_up_workshop(store: &Store, now_ms: i64) -> Result<Vec<ResinId>, DemoError> {
    let ids = store.write(|c| {
        name_workshop(c)?;
        add_printers(c)?;
        let ids = add_resins(c)?;
        time_resin(c, ids[0], now_ms)?;
        Ok(ids)
    })?;
    Ok(ids)
}

fn name_workshop(c: &mut Conn) -> Result<(), StoreError> {
    let known = workshop::load(c)?;
    let figures = WorkshopChange {
        name: "Osierbank Workshop".into(),
        currency: "EUR".into(),
        time_zone: "UTC".into(),
        layer: known.layer,
        rates: Rates {
            clearance_mm: 1.2,
            waste_share: 0.12,
            hands_on_minutes: 35.0,
            hands_on_per_hour: Money(1400),
        },
        assumed: "waste_share".into(),
    };
    commands::workshop::change(c, known.row_version, &figures)
}

fn add_printers(c: &mut Conn) -> Result<(), StoreError> {
    let printer = |name: &str, width_mm, depth_mm, height_mm, assumed: &str| {
        let size = [width_mm, depth_mm, height_mm];
        PrinterChange::of(Printer {
            startup_s: 150.0,
            removal_mm: 4.0,
            assumed: assumed.into(),
            ..Printer::assumed(PrinterId(0), name, size)
        })
    };
    for new in [
        printer("Dunlin", 130.0, 80.0, 160.0, ""),
        printer("Bittern", 218.0, 123.0, 250.0, "startup_s"),
        printer("Crane", 300.0, 164.0, 300.0, "startup_s,margin_mm"),
    ] {
        commands::printers::add(c, &new)?;
    }
    Ok(())
}

fn add_resins(c: &mut Conn) -> Result<Vec<ResinId>, StoreError> {
    let resin =
        |name: &str, price, density_g_per_ml, viscosity, nature, wash: &str, assumed: &str| {
            ResinChange {
                name: name.into(),
                price_per_kg: Money(price),
                density_g_per_ml,
                viscosity,
                nature,
                wash_agents: wash.into(),
                safe_mm: if nature == Nature::Rigid { 0.7 } else { 0.4 },
                fuses_mm: 0.2,
                assumed: assumed.into(),
            }
        };
    let mut ids = Vec::new();
    for new in [
        resin(
            "Slate tough",
            4150,
            1.12,
            Viscosity::Medium,
            Nature::Tough,
            "solvent",
            "",
        ),
        resin(
            "Peat plain",
            1890,
            1.1,
            Viscosity::Thin,
            Nature::Rigid,
            "solvent,detergent",
            "density_g_per_ml",
        ),
        resin(
            "Rush soft",
            5400,
            1.08,
            Viscosity::Thick,
            Nature::Soft,
            "solvent",
            "viscosity",
        ),
        resin(
            "Fen clear",
            2600,
            1.1,
            Viscosity::Thin,
            Nature::Rigid,
            "water,solvent",
            "density_g_per_ml",
        ),
    ] {
        ids.push(commands::resins::add(c, &new)?);
    }
    Ok(ids)
}

/// A resin whose timing the maker has found out; the others are as assumed.
fn time_resin(c: &mut Conn, resin: ResinId, now_ms: i64) -> Result<(), StoreError> {
    commands::settings::ensure_all(c, now_ms)?;
    for setting in settings::list(c)? {
        if setting.resin == resin {
            let timing = LayerTiming {
                exposure_s: 2.5,
                bottom_exposure_s: 35.0,
                lift_mm: 7.0,
                ..setting.timing
            };
            let assumed = "rest_s,tilt_cycle_s,beam_mm2_per_s,beam_mm_per_s";
            commands::settings::append(c, setting.id, setting.number, &timing, assumed, now_ms)?;
        }
    }
    Ok(())
}

/// A sculpt as it is uploaded: its name and its bytes.
type SculptFile = (&'static str, Vec<u8>);

fn sculpt_files() -> Vec<SculptFile> {
    let all = crate::sculpts::all();
    all.par_iter().map(|s| (s.file_name, s.to_stl())).collect()
}

fn take_in(
    c: &mut Conn,
    files: &[SculptFile],
    now_ms: i64,
) -> Result<HashMap<&'static str, SculptId>, StoreError> {
    let taken = files.iter().map(|(name, bytes)| {
        let arrival = commands::sculpts::take_in(c, name, bytes, now_ms)?;
        let (Arrival::New(id) | Arrival::Known(id)) = arrival;
        Ok((*name, id))
    });
    taken.collect()
}

fn measure(files: &[&SculptFile]) -> Result<Vec<(&'static str, Measured)>, DemoError> {
    let measured = files.par_iter().map(|(file, bytes)| {
        let options = MeasureOptions::at(LayerHeight::USUAL);
        match measure_file(bytes, file, options, &Unwatched) {
            Ok(measured) => Ok((*file, measured)),
            Err(why) => Err(DemoError::Sculpt {
                file,
                why: why.to_string(),
            }),
        }
    });
    measured.collect()
}

fn save_measured(
    store: &Store,
    ids: &HashMap<&'static str, SculptId>,
    measured: &[(&'static str, Measured)],
    now_ms: i64,
) -> Result<(), StoreError> {
    store.write(|c| {
        for (file, measured) in measured {
            let id = ids[file];
            commands::sculpts::set_measured(c, id, LayerHeight::USUAL, measured, now_ms)?;
            let key = sculpts::task_key(&sculpts::load(c, id)?);
            end_task(c, TaskKind::Measure, &key, now_ms)?;
        }
        Ok(())
    })
}

fn end_task(
    c: &mut wembrit_store::Conn,
    kind: TaskKind,
    key: &str,
    now_ms: i64,
) -> Result<(), StoreError> {
    match tasks::find(c, kind, key)? {
        Some(task) => commands::tasks::end(c, task.id, TaskState::Done, "", now_ms),
        None => Ok(()),
    }
}

fn add_units(
    store: &Store,
    project: ProjectId,
    units: &[DemoUnit],
    sculpts: &HashMap<&'static str, SculptId>,
    resins: &[ResinId],
    now_ms: i64,
) -> Result<(), DemoError> {
    store
        .write(|c| {
            for unit in units {
                let change = UnitChange {
                    name: unit.name.into(),
                    priority: unit.priority,
                    carrier: None,
                };
                let unit_id = commands::muster::add_unit(c, project, &change)?;
                for model in &unit.models {
                    let change = ModelChange {
                        name: model.name.into(),
                        quantity: model.quantity,
                        base_width_mm: model.base_mm,
                        base_depth_mm: model.base_mm,
                        carries: model.carries,
                    };
                    let model_id = commands::muster::add_model(c, unit_id, &change)?;
                    let options = add_choice(c, model_id, model, now_ms)?;
                    add_pieces(c, model_id, model)?;
                    for part in &model.parts {
                        let layer = LayerHeight::from_mm(part.layer_mm)
                            .map_err(|e| StoreError::BadRow(e.to_string()))?;
                        let recipe = RecipeChange {
                            scale: part.scale,
                            resin: resins[part.resin],
                            layer,
                            setup: part.leans_deg.map(|degrees| Setup {
                                pose: Pose::new(degrees, BACK_DEG),
                                supports: Supports::Planned(SupportStyle::USUAL),
                            }),
                        };
                        let sculpt = sculpts.get(part.file).copied();
                        let change = PartChange {
                            name: part.name.into(),
                            count: part.count,
                            spares: 0,
                            sculpt,
                            option: part.option.and_then(|o| options.get(o).copied()),
                            recipe,
                        };
                        commands::muster::add_part(c, model_id, &change, now_ms)?;
                    }
                }
            }
            Ok(())
        })
        .map_err(DemoError::from)
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

fn failures(
    c: &mut wembrit_store::Conn,
    plate: PlateId,
    index: usize,
) -> Result<Vec<Failure>, StoreError> {
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
