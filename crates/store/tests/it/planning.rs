//! Plans that are chosen, kept beside each other, bettered, changed by hand; advice that is
//! followed.

use rstest::rstest;
use wembrit_core::flow::{PlacedCopy, PlanEffort, PlanScope, PlanState, PlateState};
use wembrit_core::ids::{PartId, PlanId, PlateId, UnitId};
use wembrit_core::mesh::{Mesh, read_mesh, write_stl};
use wembrit_core::pack::PackSearch;
use wembrit_core::plan::advice::Advice;
use wembrit_core::plan::layout::Change;
use wembrit_core::plan::{ExistingPlate, NotPlanned, improve_plan, make_plan};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::prepare::{PrepareRequest, prepare};
use wembrit_core::recipe::supports::Supports;
use wembrit_core::recipe::{PartSetup, Setup};
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::practice::Question;
use wembrit_store::commands::ask_plan::PlanAsk;
use wembrit_store::commands::muster::{ModelChange, PartChange};
use wembrit_store::commands::printers::PrinterChange;
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::edits::Beside;
use wembrit_store::queries::{
    demand, edits, muster, plans, plates, prepared_parts, printers, recipes, sculpts,
};
use wembrit_store::{StoreError, commands};

use crate::by_hand::{self, change, copies};
use crate::fresh::{Fresh, NOW, measure, upload};

/// A pole of 6 × 6 mm, pointed, as a binary STL.
fn pole(height_mm: f32) -> Vec<u8> {
    let c = [
        [0.0, 0.0, 0.0],
        [6.0, 0.0, 0.0],
        [0.0, 6.0, 0.0],
        [0.0, 0.0, height_mm],
    ];
    write_stl(&Mesh::weld(
        [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]].map(|t: [usize; 3]| t.map(|i| c[i])),
    ))
}

/// A tall part beside the pikers: one copy.
fn with_tall(fresh: &Fresh, height_mm: f32) -> PartId {
    let Ok(Arrival::New(sculpt)) = upload(&fresh.store, "mast.stl", &pole(height_mm)) else {
        panic!("the upload is new");
    };
    measure(&fresh.store, sculpt).expect("it measures");
    let added = fresh.store.write(|c| {
        let recipe = muster::part(c, fresh.part)?.recipe;
        let version = recipes::newest(c, recipe)?;
        let unit = muster::model(c, fresh.model)?.unit;
        let model = ModelChange {
            name: "Mast".into(),
            quantity: 1,
            base_width_mm: 0.0,
            base_depth_mm: 0.0,
            carries: 0,
        };
        let model = commands::muster::add_model(c, unit, &model)?;
        let part = PartChange {
            name: "pole".into(),
            count: 1,
            spares: 0,
            sculpt: Some(sculpt),
            option: None,
            recipe: RecipeChange::of(&version),
        };
        commands::muster::add_part(c, model, &part, NOW)
    });
    added.expect("it is added")
}

fn only_plate(fresh: &Fresh, plan: PlanId) -> PlateId {
    let of_plan = fresh
        .store
        .read(|c| plates::of_plan(c, plan))
        .expect("plates");
    assert_eq!(of_plan.len(), 1);
    of_plan[0].id
}

fn seconds(fresh: &Fresh, plate: PlateId) -> f64 {
    fresh
        .store
        .read(|c| plates::load(c, plate))
        .expect("it loads")
        .seconds
}

/// Copies on the plate and in the pool, of every part of the plan.
fn all_copies(fresh: &Fresh, plate: PlateId) -> u64 {
    let edit = by_hand::edit(&fresh.store, plate);
    edit.copies.len() as u64 + edit.layout.pool.values().sum::<u64>()
}

#[test]
fn changes_are_undone_and_done_again_to_the_last_place() {
    let fresh = Fresh::new(6);
    let plan = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, plan);
    let mut states = vec![(copies(&fresh.store, plate), seconds(&fresh, plate))];
    let key = states[0].0[0].key;
    let changes = [
        Change::Remove { keys: vec![key] },
        Change::Repack,
        Change::Pin {
            keys: vec![states[0].0[1].key],
            pinned: true,
        },
        Change::Add {
            part: fresh.part,
            copies: 1,
        },
    ];
    for one in &changes {
        change(&fresh.store, plate, one).expect("it holds");
        let now = copies(&fresh.store, plate);
        // An arrangement that was the best there is anyhow leaves no trace.
        if now != states.last().expect("one").0 {
            states.push((now, seconds(&fresh, plate)));
        }
        assert_eq!(all_copies(&fresh, plate), 6);
    }
    for (there, taken) in states.iter().rev().skip(1) {
        fresh
            .store
            .write(|c| commands::edit_plate::undo(c, plan))
            .expect("undone");
        assert_eq!(&copies(&fresh.store, plate), there);
        assert_eq!(seconds(&fresh, plate), *taken);
    }
    let nothing = fresh.store.write(|c| commands::edit_plate::undo(c, plan));
    assert!(matches!(nothing, Err(StoreError::Refused(_))));
    for (there, _) in &states[1..] {
        fresh
            .store
            .write(|c| commands::edit_plate::redo(c, plan))
            .expect("done again");
        assert_eq!(&copies(&fresh.store, plate), there);
    }
    // Something new makes what was undone go.
    fresh
        .store
        .write(|c| commands::edit_plate::undo(c, plan))
        .expect("undone");
    change(
        &fresh.store,
        plate,
        &Change::Remove {
            keys: vec![states[0].0[2].key],
        },
    )
    .expect("it holds");
    let again = fresh.store.write(|c| commands::edit_plate::redo(c, plan));
    assert!(matches!(again, Err(StoreError::Refused(_))));
}

/// Pseudo-random moves, turns, pins, removals, additions, repackings, undos: every copy stays
/// exactly once, the accepted plate is valid, and every copy on it gets its row.
#[rstest]
#[case(1)]
#[case(2)]
#[case(3)]
fn whatever_is_done_by_hand_the_accepted_plate_is_valid(#[case] seed: u64) {
    let fresh = Fresh::new(9);
    let plan = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, plan);
    let mut state = seed;
    let mut next = move |most: u64| {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1);
        (state >> 33) % most
    };
    for _ in 0..40 {
        let on_it = copies(&fresh.store, plate);
        let key = on_it.get(next(9) as usize).map_or(99, |p| p.key);
        let what = match next(8) {
            0..=2 => Change::Move {
                key,
                at_mm: [next(100) as f64, next(60) as f64],
                rotation_deg: next(360) as f64,
            },
            3 => Change::Pin {
                keys: vec![key],
                pinned: next(2) == 0,
            },
            4 => Change::Remove { keys: vec![key] },
            5 => Change::Add {
                part: fresh.part,
                copies: 1 + next(2),
            },
            6 => Change::Repack,
            _ => {
                let _ = fresh.store.write(|c| {
                    if next(2) == 0 {
                        commands::edit_plate::undo(c, plan)
                    } else {
                        commands::edit_plate::redo(c, plan)
                    }
                });
                continue;
            }
        };
        let _ = change(&fresh.store, plate, &what);
        assert_eq!(all_copies(&fresh, plate), 9);
    }
    let edit = by_hand::edit(&fresh.store, plate);
    assert_eq!(edit.layout.faults(&edit.copies), vec![]);
    let many = edit.copies.len() as u64;
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .expect("accepted");
    let accepted = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .expect("plates");
    assert_eq!(accepted.len(), usize::from(many > 0));
    // What was left in the pool is still wanted.
    assert_eq!(fresh.wanted(), 9 - many);
}

/// An emptied plate is no plate once the plan is accepted.
#[test]
fn an_emptied_plate_is_not_accepted() {
    let fresh = Fresh::new(3);
    let plan = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, plan);
    let keys = copies(&fresh.store, plate).iter().map(|p| p.key).collect();
    change(&fresh.store, plate, &Change::Remove { keys }).expect("it holds");
    assert_eq!(seconds(&fresh, plate), 0.0);
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .expect("accepted");
    let row = fresh
        .store
        .read(|c| plates::load(c, plate))
        .expect("it is kept");
    assert_eq!(row.state, PlateState::Released);
    assert_eq!(fresh.wanted(), 3);
    let gone = fresh.store.read(|c| edits::load(c, plate, Beside::All));
    assert!(
        matches!(gone, Err(StoreError::Refused(_))),
        "only drafts are changed"
    );
}

/// Each sentence of advice, followed: it saves what it said, to the second.
#[test]
fn advice_saves_what_it_says() {
    let fresh = Fresh::new(8);
    with_tall(&fresh, 90.0);
    let plan = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, plan);
    let advice = |fresh: &Fresh| {
        let edit = by_hand::edit(&fresh.store, plate);
        edit.advised(None).others
    };
    let before = seconds(&fresh, plate);
    let Some(Advice::Leave {
        part,
        copies: many,
        saves_s,
        ..
    }) = advice(&fresh)
        .into_iter()
        .find(|a| matches!(a, Advice::Leave { .. }))
    else {
        panic!("a mast of 90 mm over spikes of 20 is worth a sentence");
    };
    let on_it = copies(&fresh.store, plate);
    let keys: Vec<i64> = on_it
        .iter()
        .filter(|p| p.part == part)
        .map(|p| p.key)
        .collect();
    assert_eq!(keys.len() as u64, many);
    change(&fresh.store, plate, &Change::Remove { keys }).expect("it holds");
    let shorter = seconds(&fresh, plate);
    assert!(
        (before - shorter - saves_s).abs() < 1e-6,
        "{before} {shorter} {saves_s}"
    );

    // Now there is room, and the mast in the pool is too tall for it: spares are offered.
    let Some(Advice::Fill {
        part,
        copies: more,
        from_pool: false,
        ml,
    }) = advice(&fresh)
        .into_iter()
        .find(|a| matches!(a, Advice::Fill { .. }))
    else {
        panic!("a plate of eight spikes has room");
    };
    let taken = fresh
        .store
        .read(|c| plates::load(c, plate))
        .expect("it loads")
        .resin_ml;
    by_hand::spares(&fresh.store, plate, part, more);
    assert_eq!(seconds(&fresh, plate), shorter, "in no more hours");
    let now = fresh
        .store
        .read(|c| plates::load(c, plate))
        .expect("it loads");
    assert!((now.resin_ml - taken - ml).abs() < 1e-9);
    // The army wants them now, so the plan is as fresh as before.
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .expect("accepted");
    assert_eq!(fresh.wanted(), 1, "the mast waits");
}

/// A mast measured lying down as well: hanging it so makes the plate as much shorter as is said,
/// and its recipe has a new version.
#[test]
fn hanging_otherwise_saves_what_it_says() {
    let fresh = Fresh::new(4);
    let mast = with_tall(&fresh, 90.0);
    fresh
        .store
        .write(|c| {
            let row = muster::part(c, mast)?;
            let sculpt = sculpts::load(c, row.sculpt.expect("it has one"))?;
            let version = recipes::newest(c, row.recipe)?;
            let of = PartSetup {
                setup: Setup {
                    pose: Pose::new(90.0, 0.0),
                    supports: Supports::None,
                },
                ..PartSetup::of(&sculpt, &version)
            };
            let mesh = read_mesh(&sculpts::bytes(c, sculpt.id)?, "mast.stl").expect("it reads");
            let how = PrepareRequest {
                pose: of.setup.pose,
                scale: 1.0,
                supports: Supports::None,
                supported: None,
                zones: &[],
                layer: of.layer,
            };
            let prepared = prepare(&mesh, &how, &Unwatched).expect("it is prepared");
            commands::prepared_parts::set(c, &of, &prepared, &[], NOW)
        })
        .expect("it is written down");
    let plan = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, plan);
    let before = seconds(&fresh, plate);
    let (edit, found) = by_hand::tilt(&fresh.store, plate).expect("lying down is lower");
    assert_eq!(found.part, mast);
    by_hand::save_tilt(&fresh.store, &edit, &found).expect("it hangs so");
    let twice = by_hand::save_tilt(&fresh.store, &edit, &found);
    assert!(
        matches!(twice, Err(StoreError::Conflict { .. })),
        "it is not as it was looked at"
    );
    let saved = before - seconds(&fresh, plate);
    assert!(
        (saved - found.saves_s).abs() < 1e-6,
        "{saved} {}",
        found.saves_s
    );
    let edit = by_hand::edit(&fresh.store, plate);
    assert_eq!(edit.layout.faults(&edit.copies), vec![]);
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .expect("not stale");
    let version = fresh
        .store
        .read(|c| {
            let recipe = muster::part(c, mast)?.recipe;
            recipes::newest(c, recipe)
        })
        .expect("it loads");
    assert_eq!(
        (version.version, version.setup.pose),
        (2, Pose::new(90.0, 0.0))
    );
}

/// A plan asked for some of it takes no more, is not stale for the rest, and stands beside the one
/// before until one of them is accepted.
#[test]
fn a_choice_is_kept_and_two_drafts_stand_side_by_side() {
    let fresh = Fresh::new(5);
    let mast = with_tall(&fresh, 60.0);
    let all = fresh.draft().expect("a draft");
    let ask = |scope: PlanScope| {
        let asked = PlanAsk {
            scope,
            effort: PlanEffort::Anew,
        };
        fresh
            .store
            .write(|c| commands::ask_plan::ask(c, fresh.project, &asked, NOW))
    };
    let none = ask(PlanScope {
        units: vec![UnitId(77)],
        ..PlanScope::default()
    });
    assert!(matches!(none, Err(StoreError::Refused(_))));
    let some = ask(PlanScope {
        until_h: Some(1.2),
        ..PlanScope::default()
    })
    .expect("asked");
    let (of_some, scope) = fresh
        .store
        .read(|c| Ok((plans::demand_of(c, some)?, plans::load(c, some)?.scope)))
        .expect("it loads");
    let computed = fresh.request(&of_some, &scope);
    let computed = make_plan(&computed, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    fresh
        .store
        .write(|c| commands::save_plan::set_computed(c, some, &computed))
        .expect("written");
    let left = fresh
        .store
        .read(|c| plans::left_over(c, some))
        .expect("left over");
    assert!(
        left.iter()
            .any(|(part, n, why)| (*part, *n, *why) == (mast, 1, NotPlanned::TooLate))
    );
    let open = fresh
        .store
        .read(|c| plans::open_plans(c, fresh.project))
        .expect("plans");
    assert_eq!(
        open.iter().map(|p| p.id).collect::<Vec<_>>(),
        vec![some, all]
    );
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, some, NOW))
        .expect("accepted");
    let other = fresh.store.read(|c| plans::load(c, all)).expect("it loads");
    assert_eq!(other.state, PlanState::Dropped);
}

/// What is saved while a search runs is where it goes on after a restart, pins and all.
#[test]
fn a_search_goes_on_from_what_was_saved() {
    let fresh = Fresh::new(7);
    let first = fresh.draft().expect("a draft");
    let plate = only_plate(&fresh, first);
    let pinned = copies(&fresh.store, plate)[2];
    let pin = Change::Pin {
        keys: vec![pinned.key],
        pinned: true,
    };
    change(&fresh.store, plate, &pin).expect("pinned");
    let asked = PlanAsk {
        effort: PlanEffort::Further,
        ..PlanAsk::default()
    };
    let plan = fresh
        .store
        .write(|c| commands::ask_plan::ask(c, fresh.project, &asked, NOW))
        .expect("asked");
    let existing = |plan| -> Vec<ExistingPlate> {
        fresh
            .store
            .read(|c| plans::existing_plates(c, plan))
            .expect("plates")
    };
    let begun = existing(plan);
    assert!(begun.len() == 1 && begun[0].fixed && begun[0].copies.len() == 7);
    let of_plan = fresh
        .store
        .read(|c| plans::demand_of(c, plan))
        .expect("it loads");
    let request = fresh.request(&of_plan, &PlanScope::default());
    improve_plan(
        &request,
        &begun,
        PackSearch::AT_ONCE,
        &Unwatched,
        &mut |better| {
            fresh
                .store
                .write(|c| commands::save_plan::save_better(c, plan, better))
                .expect("saved");
        },
    )
    .expect("a plan");
    // Killed here: the plan is still being computed, and has its plates.
    let row = fresh
        .store
        .read(|c| plans::load(c, plan))
        .expect("it loads");
    assert_eq!(row.state, PlanState::Computing);
    assert!(row.bound_seconds > 0.0 && row.first_seconds.is_some());
    assert_eq!(existing(plan), begun);
    fresh
        .store
        .write(|c| commands::save_plan::end_search(c, plan))
        .expect("ended");
    let kept = copies(&fresh.store, only_plate(&fresh, plan));
    let still: Vec<&PlacedCopy> = kept.iter().filter(|p| p.pinned).collect();
    assert!(still.len() == 1 && still[0].at_mm == pinned.at_mm);
}

/// What the practice says about units and untried recipes, and the printer about its limits, is in
/// the request a plan is made from.
#[test]
fn practice_and_printer_decide_what_a_plan_may() {
    let fresh = Fresh::new(6);
    let request = || fresh.request_all();
    let answer = |question: Question, word: &str| {
        let school = question.school(word);
        assert!(school.is_some());
        fresh
            .store
            .write(|c| commands::practices::answer(c, None, question, school))
            .expect("answered");
    };
    fresh
        .store
        .write(|c| commands::settings::ensure_all(c, NOW))
        .expect("settings");
    let usual = request();
    assert_eq!(
        (usual.together_s, usual.apart, usual.parts[0].most),
        (1200.0, false, None)
    );
    assert_eq!(usual.printers[0].plate_pull, None);
    answer(Question::Spread, "half of it on a plate at most");
    answer(Question::Untried, "two until it is proven");
    let strict = request();
    assert_eq!(
        (strict.together_s, strict.apart, strict.parts[0].most),
        (0.0, true, Some(2))
    );
    let plan = make_plan(&strict, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    assert_eq!(plan.plates.len(), 2, "half of the two on each");
    assert_eq!(plan.left_over, vec![(fresh.part, 4, NotPlanned::Untried)]);
    // By hand no more of them are put on than the plan may take.
    let draft = fresh.draft().expect("a draft");
    let of_plan = fresh
        .store
        .read(|c| plates::of_plan(c, draft))
        .expect("plates");
    let edit = by_hand::edit(&fresh.store, of_plan[0].id);
    assert!(edit.layout.pool.is_empty(), "{:?}", edit.layout.pool);
    // Nor more of a unit on one plate.
    let keys = vec![edit.copies[0].key];
    change(&fresh.store, of_plan[0].id, &Change::Remove { keys }).expect("taken off");
    let add = Change::Add {
        part: fresh.part,
        copies: 1,
    };
    let blocked = change(&fresh.store, of_plan[1].id, &add).expect_err("more than half");
    assert!(blocked.to_string().contains("half of a unit"), "{blocked}");
    change(&fresh.store, of_plan[0].id, &add).expect("back again");
    fresh
        .store
        .write(|c| commands::ask_plan::drop_draft(c, draft, NOW))
        .expect("dropped");

    let printer = fresh
        .store
        .read(printers::list)
        .expect("printers")
        .remove(0);
    let to = PrinterChange {
        name: printer.name,
        kind: printer.kind,
        width_mm: printer.width_mm,
        depth_mm: printer.depth_mm,
        height_mm: 25.0,
        margin_mm: printer.margin_mm,
        startup_s: printer.startup_s,
        pixel_um: 35,
        removal_mm: 6.0,
        part_pull: Some(2.0),
        plate_pull: Some(8.0),
        change_minutes: 25.0,
        change_ml: 15.0,
        watts: printer.watts,
        price: printer.price,
        life_h: printer.life_h,
        assumed: String::new(),
    };
    fresh
        .store
        .write(|c| commands::printers::change(c, printer.id, printer.row_version, &to))
        .expect("changed");
    let limited = request();
    assert_eq!(limited.printers[0].part_pull, Some(2.0));
    assert_eq!(limited.printers[0].plate_pull, Some(8.0));
    // 20 mm under 25 of travel with 6 to take them off.
    let plan = make_plan(&limited, PackSearch::AT_ONCE, &Unwatched).expect("a plan");
    assert!(plan.plates.is_empty());
    assert!(plan.left_over.iter().any(|l| l.2 == NotPlanned::TooTall));
    // Where pull is limited, even what stands as its file does is measured before a plan.
    let waiting = fresh
        .store
        .read(|c| demand::unprepared(c, &fresh.lines()))
        .expect("it loads");
    assert_eq!(waiting.len(), 1);
}

/// What a part does to the film is kept as it was measured, slab by slab.
#[test]
fn loads_are_kept_by_slabs() {
    let fresh = Fresh::new(1);
    let kept = fresh
        .store
        .write(|c| {
            let row = muster::part(c, fresh.part)?;
            let sculpt = sculpts::load(c, fresh.sculpt)?;
            let version = recipes::newest(c, row.recipe)?;
            let of = PartSetup::of(&sculpt, &version);
            let mesh = read_mesh(&sculpts::bytes(c, sculpt.id)?, "spike.stl").expect("it reads");
            let how = PrepareRequest {
                pose: of.setup.pose,
                scale: 1.0,
                supports: of.setup.supports,
                supported: None,
                zones: &[],
                layer: of.layer,
            };
            let prepared = prepare(&mesh, &how, &Unwatched).expect("it is prepared");
            commands::prepared_parts::set(c, &of, &prepared, &[], NOW)?;
            let kept = prepared_parts::of(c, &of)?.expect("it is there").part.loads;
            for (a, b) in kept.pull.iter().zip(&prepared.part.loads.pull) {
                assert!((a - b).abs() < 1e-3);
            }
            Ok(kept)
        })
        .expect("it is kept");
    // A tetrahedron of 20 mm: 20 slabs, its section falling from 200 mm² with the square.
    assert_eq!(kept.area_mm2.len(), 20);
    for (slab, area) in kept.area_mm2.iter().enumerate() {
        let side = 20.0 - slab as f64;
        assert!((area - side * side / 2.0).abs() < 1.2, "{slab}: {area}");
    }
    assert!(kept.pull.windows(2).all(|w| w[1] <= w[0] + 1e-9));
}
