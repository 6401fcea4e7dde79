//! From demand over plans and runs to good copies, and back to demand.

use wembrit_core::flow::{FailureCause, PlateState, Stage};
use wembrit_core::ids::{CopyId, PlateId};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_store::commands::judge_plate::Failure;
use wembrit_store::commands::muster::{Entry, ModelChange, PartChange};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::queries::{army, muster, plates, recipes, resins};
use wembrit_store::{Conn, StoreError, commands};

use crate::fresh::{Fresh, NOW};

fn only_plate(fresh: &Fresh) -> PlateId {
    let plates = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap();
    plates.last().unwrap().id
}

fn copies_on(fresh: &Fresh, plate: PlateId) -> Vec<CopyId> {
    let on_plates = fresh
        .store
        .read(|c| plates::copies_on(c, &[plate]))
        .unwrap();
    on_plates[&plate]
        .iter()
        .filter_map(|s| s.copy.as_ref().map(|c| c.id))
        .collect()
}

fn quantity(fresh: &Fresh, quantity: u32) {
    let row = fresh.store.read(|c| muster::model(c, fresh.model)).unwrap();
    let change = ModelChange {
        name: row.name,
        quantity,
        base_width_mm: 25.0,
        base_depth_mm: 25.0,
        carries: 0,
    };
    fresh
        .store
        .write(|c| commands::muster::change_model(c, fresh.model, row.row_version, &change, NOW))
        .unwrap();
}

fn accept(fresh: &Fresh) -> PlateId {
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    only_plate(fresh)
}

#[test]
fn a_failed_copy_raises_demand_and_the_next_plan_picks_it_up() {
    let fresh = Fresh::new(5);
    assert_eq!(fresh.wanted(), 5);
    let plate = accept(&fresh);
    assert_eq!(fresh.wanted(), 0);
    fresh
        .store
        .write(|c| commands::run_plate::start(c, plate, NOW))
        .unwrap();
    fresh
        .store
        .write(|c| commands::run_plate::finish(c, plate, NOW + 1000, NOW + 1000))
        .unwrap();
    let copies = copies_on(&fresh, plate);
    let loss = |i: usize| Failure {
        copy: copies[i],
        cause: FailureCause::TornOff,
        note: "left arm".into(),
    };
    fresh
        .store
        .write(|c| commands::judge_plate::judge(c, plate, &[loss(0), loss(3)], NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 2);
    let army = fresh.store.read(|c| army::load(c, fresh.project)).unwrap();
    assert_eq!(
        (
            army.progress.good,
            army.progress.complete,
            army.progress.models
        ),
        (3, 3, 5)
    );
    let part = army.parts().next().unwrap().2;
    assert_eq!(
        (part.counts.of(Stage::Good), part.counts.of(Stage::Failed)),
        (3, 2)
    );
    // Five equal copies share the plate's cost evenly: two fifths of it are lost.
    assert!(
        (army.failed_cost().0 * 5 - army.spent().0 * 2).abs() <= 5 && army.failed_cost() > Money(0)
    );

    let second = accept(&fresh);
    assert_ne!(second, plate);
    assert_eq!((copies_on(&fresh, second).len(), fresh.wanted()), (2, 0));
}

#[test]
fn a_judgement_taken_back_can_be_given_again() {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    fresh
        .store
        .write(|c| commands::run_plate::log_run(c, plate, NOW, NOW + 5, NOW + 9))
        .unwrap();
    let lost = Failure {
        copy: copies_on(&fresh, plate)[1],
        cause: FailureCause::Warped,
        note: String::new(),
    };
    fresh
        .store
        .write(|c| commands::judge_plate::judge(c, plate, &[lost], NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 1);
    fresh
        .store
        .write(|c| commands::judge_plate::rejudge(c, plate, NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 0);
    fresh
        .store
        .write(|c| commands::judge_plate::judge(c, plate, &[], NOW))
        .unwrap();
    let army = fresh.store.read(|c| army::load(c, fresh.project)).unwrap();
    assert_eq!(army.progress.complete, 2);
}

#[test]
fn a_whole_plate_may_be_lost() {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    fresh
        .store
        .write(|c| commands::run_plate::log_run(c, plate, NOW, NOW + 5, NOW + 9))
        .unwrap();
    let lost: Vec<Failure> = copies_on(&fresh, plate)
        .into_iter()
        .map(|copy| Failure {
            copy,
            cause: FailureCause::NothingOnPlate,
            note: String::new(),
        })
        .collect();
    fresh
        .store
        .write(|c| commands::judge_plate::judge(c, plate, &lost, NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 2);
}

#[test]
fn steps_out_of_order_change_nothing() {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    let judged = fresh
        .store
        .write(|c| commands::judge_plate::judge(c, plate, &[], NOW));
    assert!(matches!(judged, Err(StoreError::Flow(_))));
    fresh
        .store
        .write(|c| commands::run_plate::start(c, plate, NOW))
        .unwrap();
    assert!(matches!(
        fresh
            .store
            .write(|c| commands::run_plate::start(c, plate, NOW)),
        Err(StoreError::Flow(_))
    ));
    assert!(matches!(
        fresh
            .store
            .write(|c| commands::release_plate::release(c, plate, NOW)),
        Err(StoreError::Flow(_))
    ));
    let backwards = fresh
        .store
        .write(|c| commands::run_plate::finish(c, plate, NOW - 1, NOW));
    assert!(matches!(backwards, Err(StoreError::Refused(_))));
    assert_eq!(
        fresh.store.read(|c| plates::load(c, plate)).unwrap().state,
        PlateState::Running
    );
}

#[test]
fn a_printer_runs_one_plate_at_a_time() {
    let fresh = Fresh::new(2);
    let first = accept(&fresh);
    fresh
        .store
        .write(|c| commands::run_plate::start(c, first, NOW))
        .unwrap();
    quantity(&fresh, 3);
    let second = accept(&fresh);
    let refused = fresh
        .store
        .write(|c| commands::run_plate::start(c, second, NOW));
    assert!(
        matches!(refused, Err(StoreError::Refused(why)) if why.contains("Dunlin is still running plate 1"))
    );
}

#[test]
fn a_plate_given_up_wants_its_copies_again() {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    fresh
        .store
        .write(|c| commands::release_plate::release(c, plate, NOW))
        .unwrap();
    assert_eq!(fresh.wanted(), 2);
    let again = accept(&fresh);
    assert_eq!(
        fresh.store.read(|c| plates::load(c, again)).unwrap().number,
        2,
        "numbers are not used twice"
    );
}

#[test]
fn a_stale_plan_is_not_accepted_and_says_what_changed() {
    let fresh = Fresh::new(2);
    let plan = fresh.draft().unwrap();
    quantity(&fresh, 4);
    let Err(StoreError::Stale(stale)) = fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
    else {
        panic!("a stale plan was accepted");
    };
    assert_eq!((stale.planned[0].wanted, stale.now[0].wanted), (2, 4));
    assert!(
        fresh
            .store
            .read(|c| plates::accepted(c, fresh.project))
            .unwrap()
            .is_empty()
    );
}

#[test]
fn a_plan_is_accepted_once() {
    let fresh = Fresh::new(2);
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    let twice = fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW));
    assert!(matches!(twice, Err(StoreError::Conflict { .. })));
    assert_eq!(copies_on(&fresh, only_plate(&fresh)).len(), 2);
}

#[test]
fn lowering_a_quantity_loses_no_copy_and_asks_for_none() {
    let fresh = Fresh::new(4);
    let plate = accept(&fresh);
    quantity(&fresh, 1);
    assert_eq!((fresh.wanted(), copies_on(&fresh, plate).len()), (0, 4));
    fresh
        .store
        .write(|c| commands::muster::set_removed(c, Entry::Part(fresh.part), Some(NOW)))
        .unwrap();
    assert_eq!(copies_on(&fresh, plate).len(), 4);
    fresh
        .store
        .write(|c| commands::muster::set_removed(c, Entry::Part(fresh.part), None))
        .unwrap();
    assert_eq!(fresh.wanted(), 0);
}

#[test]
fn a_changed_recipe_is_a_new_version_and_planned_copies_keep_theirs() {
    let fresh = Fresh::new(2);
    let plate = accept(&fresh);
    let row = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let resin = fresh.store.read(resins::list).unwrap()[0].id;
    let recipe = RecipeChange {
        scale: 1.25,
        resin,
        layer: LayerHeight::from_mm(0.05).unwrap(),
        setup: None,
    };
    let change = PartChange {
        name: row.name.clone(),
        count: 2,
        spares: 0,
        sculpt: row.sculpt,
        option: None,
        recipe,
    };
    fresh
        .store
        .write(|c| commands::muster::change_part(c, fresh.part, row.row_version, &change, NOW))
        .unwrap();
    assert_eq!(
        fresh
            .store
            .read(|c| recipes::newest(c, row.recipe))
            .unwrap()
            .version,
        2
    );
    let scales = |plate| {
        fresh
            .store
            .read(|c| plates::copies_on(c, &[plate]))
            .unwrap()[&plate]
            .iter()
            .map(|s| s.scale)
            .collect::<Vec<_>>()
    };
    assert_eq!(scales(plate), vec![1.0, 1.0]);
    let second = accept(&fresh);
    assert_eq!(scales(second), vec![1.25, 1.25]);
    let plate = fresh.store.read(|c| plates::load(c, second)).unwrap();
    assert_eq!((plate.height_mm, plate.layers), (25.0, 500));
}

#[test]
fn nothing_wanted_makes_no_plan() {
    let fresh = Fresh::new(0);
    assert!(
        matches!(fresh.draft(), Err(StoreError::Refused(why)) if why.contains("nothing is wanted"))
    );
}

/// An army that pages and plans cannot work with is refused where it would become one, and nothing is changed.
#[test]
fn an_army_without_end_is_refused() {
    let fresh = Fresh::new(40);
    let row = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let recipe = fresh.store.read(|c| recipes::newest(c, row.recipe));
    let change = PartChange {
        name: row.name.clone(),
        count: 500,
        spares: 0,
        sculpt: row.sculpt,
        option: None,
        recipe: RecipeChange::of(&recipe.unwrap()),
    };
    let write = |version| {
        let change =
            |c: &mut Conn| commands::muster::change_part(c, fresh.part, version, &change, NOW);
        fresh.store.write(change)
    };
    write(row.row_version).unwrap();
    let model = |quantity| {
        let change = |c: &mut Conn| {
            let now = muster::model(c, fresh.model)?;
            let to = ModelChange {
                name: now.name.clone(),
                quantity,
                base_width_mm: 25.0,
                base_depth_mm: 25.0,
                carries: 0,
            };
            commands::muster::change_model(c, fresh.model, now.row_version, &to, NOW)
        };
        fresh.store.write(change).map_err(|e| e.to_string())
    };
    model(200).unwrap();
    let over = model(201).unwrap_err();
    assert!(over.contains("would take 100500 copies in all"), "{over}");
    let now = fresh.store.read(|c| muster::model(c, fresh.model)).unwrap();
    assert_eq!(now.quantity, 200);
}
