//! Prepared facts: measured once for every scale and layer height in use, and read by the plan.

use wembrit_core::flow::{Lane, SculptState, TaskKind, TaskState};
use wembrit_core::ids::RecipeVersionId;
use wembrit_core::mesh::read_mesh;
use wembrit_core::recipe::prepare::{PrepareRequest, prepare};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;
use wembrit_store::commands::muster::PartChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::{layer_facts, muster, prepared_parts, recipes, sculpts};
use wembrit_store::{Conn, StoreError, commands};

use crate::fresh::{Fresh, NOW};

/// Does every task there is, and answers how many that were.
pub(crate) fn work_off(fresh: &Fresh) -> usize {
    let mut done = 0;
    loop {
        fresh
            .store
            .write(|c| commands::layer_facts::ask_missing(c, NOW))
            .unwrap();
        let Some(task) = fresh
            .store
            .write(|c| commands::tasks::claim(c, Lane::Quick, NOW))
            .unwrap()
        else {
            return done;
        };
        fresh
            .store
            .write(|c| {
                if task.kind == TaskKind::Prepare
                    && let Some((sculpt, of)) = layer_facts::of_task(c, &task.input_key)?
                {
                    let mesh =
                        read_mesh(&sculpts::bytes(c, sculpt.id)?, "spike.stl").expect("it reads");
                    let how = PrepareRequest {
                        pose: of.setup.pose,
                        scale: of.unit_mm * of.scale,
                        supports: of.setup.supports,
                        supported: None,
                        zones: &[],
                        layer: of.layer,
                    };
                    let prepared = prepare(&mesh, &how, &Unwatched).expect("it is prepared");
                    commands::prepared_parts::set(c, &of, &prepared, b"png", NOW)?;
                }
                if task.kind == TaskKind::Measure {
                    let sculpt = sculpts::of_task(c, &task.input_key)?;
                    let bytes = sculpts::bytes(c, sculpt.id)?;
                    let options = MeasureOptions {
                        layer: LayerHeight::USUAL,
                        scale: sculpt.unit_mm,
                    };
                    let measured = measure_file(&bytes, "spike.stl", options, &Unwatched)
                        .expect("it measures");
                    commands::sculpts::set_measured(
                        c,
                        sculpt.id,
                        LayerHeight::USUAL,
                        &measured,
                        NOW,
                    )?;
                }
                commands::tasks::end(c, &task, TaskState::Done, "", NOW)
            })
            .unwrap();
        done += 1;
    }
}

fn at_scale(fresh: &Fresh, scale: f64, layer_mm: f64) {
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let known = fresh
        .store
        .read(|c| recipes::newest(c, part.recipe))
        .unwrap();
    let layer = LayerHeight::from_mm(layer_mm).unwrap();
    let change = PartChange {
        name: part.name.clone(),
        count: 1,
        spares: 0,
        sculpt: part.sculpt,
        option: None,
        recipe: RecipeChange {
            scale,
            resin: known.resin,
            layer,
            setup: None,
        },
    };
    fresh
        .store
        .write(|c| commands::muster::change_part(c, fresh.part, part.row_version, &change, NOW))
        .unwrap();
}

fn planned_volume(fresh: &Fresh) -> f64 {
    fresh.request_all().parts[0].body.volume_mm3()
}

#[test]
fn every_scale_in_use_is_measured_once_and_the_plan_reads_it() {
    let fresh = Fresh::new(2);
    work_off(&fresh);
    assert_eq!(work_off(&fresh), 0, "measuring again costs nothing");
    at_scale(&fresh, 0.5, 0.03);
    // A tetrahedron of 20 mm: 20³/6 mm³; at half size an eighth of it.
    let scaled = planned_volume(&fresh);
    assert!((scaled - 8000.0 / 6.0 / 8.0).abs() < 2.0, "{scaled}");
    assert_eq!(work_off(&fresh), 1);
    let facts = fresh
        .store
        .read(|c| layer_facts::of_sculpt(c, fresh.sculpt))
        .unwrap();
    let small = facts.iter().find(|f| f.scale == 0.5).unwrap();
    assert_eq!((small.layers, small.layer.um()), (334, 30));
    assert_eq!(planned_volume(&fresh), small.volume_mm3);
    assert!((small.largest_section_mm2 - 50.0).abs() < 1.0, "{small:?}");
    assert!(small.islands.is_empty() && small.cups.is_empty());
    let curve = &small.area_curve;
    assert!(curve.len() > 100 && curve[0] > curve[curve.len() - 1]);
    // The same recipe once more asks for nothing.
    at_scale(&fresh, 0.5, 0.03);
    assert_eq!(work_off(&fresh), 0);
}

/// Of two versions that hang alike each finds its own, and nothing comes that nobody asked for.
#[test]
fn a_version_finds_what_it_hangs() {
    let fresh = Fresh::new(1);
    let newest = || {
        let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
        let recipe = fresh.store.read(|c| recipes::newest(c, part.recipe));
        recipe.unwrap().id
    };
    work_off(&fresh);
    let whole = newest();
    at_scale(&fresh, 0.5, 0.05);
    work_off(&fresh);
    let half = newest();
    let heights = |of: &[RecipeVersionId]| {
        let pairs: Vec<_> = of.iter().map(|v| (fresh.sculpt, *v)).collect();
        let read = |c: &mut Conn| prepared_parts::held_figures(c, pairs.clone());
        let found = fresh.store.read(read).unwrap();
        let kept = fresh
            .store
            .read(|c| prepared_parts::of_versions(c, pairs.clone()));
        for (pair, kept) in kept.unwrap() {
            assert_eq!(kept.part.height_mm, found[&pair].height_mm);
        }
        let mut heights: Vec<f64> = found.values().map(|f| f.height_mm.round()).collect();
        heights.sort_by(f64::total_cmp);
        heights
    };
    assert_eq!(heights(&[whole, half]), [10.0, 20.0]);
    assert_eq!(heights(&[half]), [10.0]);
    assert!(heights(&[]).is_empty());
}

#[test]
fn an_answered_unit_measures_the_file_anew_and_its_parts_too() {
    let fresh = Fresh::new(1);
    work_off(&fresh);
    let refused = fresh
        .store
        .write(|c| commands::sculpts::answer_unit(c, fresh.sculpt, 0.0, NOW));
    assert!(matches!(refused, Err(StoreError::Refused(_))));
    fresh
        .store
        .write(|c| commands::sculpts::answer_unit(c, fresh.sculpt, 2.0, NOW))
        .unwrap();
    assert_eq!(
        fresh
            .store
            .read(|c| sculpts::load(c, fresh.sculpt))
            .unwrap()
            .state,
        SculptState::Waiting
    );
    work_off(&fresh);
    let facts = fresh
        .store
        .read(|c| sculpts::load_facts(c, fresh.sculpt))
        .unwrap()
        .unwrap();
    assert!((facts.height_mm - 40.0).abs() < 1e-6);
    assert!(
        (planned_volume(&fresh) - 8.0 * 8000.0 / 6.0).abs() < 30.0,
        "{}",
        planned_volume(&fresh)
    );
    let prepared = fresh
        .store
        .read(|c| layer_facts::of_sculpt(c, fresh.sculpt))
        .unwrap();
    assert_eq!(
        prepared.len(),
        1,
        "figures of the other unit are not read any more"
    );
}

/// Files measured by an earlier version are measured again after the start, and not before.
#[test]
fn older_figures_are_asked_for_again_at_the_start() {
    use diesel::prelude::*;
    let fresh = Fresh::new(1);
    work_off(&fresh);
    let mut raw =
        SqliteConnection::establish(fresh.folder.path().join("w.sqlite").to_str().unwrap())
            .unwrap();
    diesel::sql_query("UPDATE sculpt_facts SET measure_version = 1")
        .execute(&mut raw)
        .unwrap();
    fresh
        .store
        .write(|c| commands::sculpts::ask_outdated(c, NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 1, "plans go on with what is known");
    assert_eq!(work_off(&fresh), 1);
    let facts = fresh
        .store
        .read(|c| sculpts::load_facts(c, fresh.sculpt))
        .unwrap()
        .unwrap();
    assert_eq!(facts.measure_version, sculpts::MEASURE_VERSION);
}
