//! Hollows measured once, findings put aside, candidates picked, pictures kept.

use rstest::rstest;
use wembrit_core::flow::{Lane, Stage, TaskKind, TaskState};
use wembrit_core::layers::{Drain, Hollow, Hollowing, WayOut};
use wembrit_core::sculpt::picture::Side;
use wembrit_core::units::Money;
use wembrit_store::commands::muster::Entry;
use wembrit_store::commands::sculpts::Arrival;
use wembrit_store::queries::{army, dismissals, hollows, muster, picks, sculpts, tasks};
use wembrit_store::{StoreError, commands};

use crate::fresh::{Fresh, NOW, measure, spike, upload};

fn hollowing() -> Hollowing {
    Hollowing {
        wall_mm: 2.0,
        saved_mm3: 900.0,
        uncertain_mm3: 40.0,
        pitch_mm: 0.2,
        pockets: 1,
        drains_needed: 2,
        drains: vec![
            Drain {
                at_mm: [1.0, 2.0, 15.0],
                hidden: false,
            },
            Drain {
                at_mm: [1.0, 2.0, 2.1],
                hidden: true,
            },
        ],
        trapped_mm3: 900.0,
        left_hanging_mm3: 12.0,
        left_standing_mm3: 3.0,
    }
}

fn hollow() -> Hollow {
    Hollow {
        volume_mm3: 333.0,
        ways_out: vec![WayOut {
            at_mm: [1.0, -2.5, 2.0],
            wide_mm: 2.75,
        }],
        from_mm: 2.0,
        to_mm: 9.0,
    }
}

/// The tasks of a kind that wait, by their keys.
fn waiting(fresh: &Fresh, kind: TaskKind) -> Vec<String> {
    let all = fresh
        .store
        .read(|c| tasks::list(c, TaskState::Waiting))
        .unwrap();
    all.into_iter()
        .filter(|t| t.kind == kind)
        .map(|t| t.input_key)
        .collect()
}

#[test]
fn hollows_are_asked_for_once_for_every_unit_and_wall() {
    let fresh = Fresh::new(1);
    let ask = || {
        fresh
            .store
            .write(|c| commands::hollows::ask_missing(c, NOW))
            .unwrap()
    };
    assert_eq!((ask(), ask()), (1, 0));
    let key = waiting(&fresh, TaskKind::Hollow).remove(0);
    let sculpt = fresh
        .store
        .read(|c| hollows::of_task(c, &key))
        .unwrap()
        .unwrap();
    for _ in 0..2 {
        fresh
            .store
            .write(|c| commands::hollows::set(c, &sculpt, &hollowing(), &[hollow()], NOW))
            .unwrap();
    }
    let facts = fresh
        .store
        .read(|c| hollows::of_sculpt(c, fresh.sculpt))
        .unwrap()
        .unwrap();
    assert_eq!((facts.saved_mm3, facts.drains_needed), (900.0, 2));
    assert_eq!(
        (facts.drains.clone(), facts.hollows.clone()),
        (hollowing().drains, vec![hollow()])
    );
    assert_eq!(ask(), 0);

    // Another wall is another question; the old task is about nothing any more.
    fresh
        .store
        .write(|c| commands::hollows::set_wall(c, fresh.sculpt, 3000))
        .unwrap();
    assert_eq!(
        fresh
            .store
            .read(|c| hollows::of_sculpt(c, fresh.sculpt))
            .unwrap(),
        None
    );
    assert_eq!(
        fresh.store.read(|c| hollows::of_task(c, &key)).unwrap(),
        None
    );
    assert_eq!(ask(), 1);
    // And the first wall is known still.
    fresh
        .store
        .write(|c| commands::hollows::set_wall(c, fresh.sculpt, 2000))
        .unwrap();
    assert!(
        fresh
            .store
            .read(|c| hollows::of_sculpt(c, fresh.sculpt))
            .unwrap()
            .is_some()
    );
}

/// What somebody waits for is done first, whatever was asked for before it; and what takes
/// seconds does not wait behind what takes minutes.
#[test]
fn each_lane_takes_what_is_most_urgent_in_it() {
    let fresh = Fresh::new(1);
    // The measure of the fresh sculpt waits since its upload.
    fresh
        .store
        .write(|c| commands::hollows::ask_missing(c, NOW))
        .unwrap();
    fresh
        .store
        .write(|c| {
            // Orientations were asked for first; nobody waits for them.
            commands::tasks::ask(c, TaskKind::Poses, "a:1:1:50:1:25:[]:4", NOW)?;
            commands::tasks::ask(c, TaskKind::Prepare, "a:1:1:50:2", NOW)
        })
        .unwrap();
    fresh
        .store
        .write(|c| {
            commands::ask_plan::ask(
                c,
                fresh.project,
                &commands::ask_plan::PlanAsk::default(),
                NOW,
            )
        })
        .unwrap();
    let order = |lane| {
        let claim = || fresh.store.write(|c| commands::tasks::claim(c, lane, NOW));
        let kinds = std::iter::from_fn(|| claim().unwrap()).map(|t| t.kind);
        kinds.collect::<Vec<_>>()
    };
    assert_eq!(
        order(Lane::Quick),
        [TaskKind::Measure, TaskKind::Prepare, TaskKind::Hollow]
    );
    assert_eq!(order(Lane::Poses), [TaskKind::Poses]);
    assert_eq!(order(Lane::Plan), [TaskKind::Plan]);
}

#[rstest]
#[case::no_reason("", false)]
#[case::only_spaces("   ", false)]
#[case::a_reason("filled with putty", true)]
fn a_finding_is_put_aside_with_a_reason(#[case] reason: &str, #[case] taken: bool) {
    let fresh = Fresh::new(1);
    let said = fresh.store.write(|c| {
        commands::dismissals::dismiss(c, fresh.sculpt, "sealed hollow at 2.0", reason, NOW)
    });
    assert_eq!(said.is_ok(), taken);
    assert!(taken || matches!(said, Err(StoreError::Refused(_))));
    let kept = fresh
        .store
        .read(|c| dismissals::of_sculpt(c, fresh.sculpt))
        .unwrap();
    assert_eq!(kept.len(), usize::from(taken));
}

#[test]
fn a_second_reason_takes_the_place_of_the_first_and_can_be_taken_back() {
    let fresh = Fresh::new(1);
    let dismiss = |finding: &str, reason: &str| {
        fresh
            .store
            .write(|c| commands::dismissals::dismiss(c, fresh.sculpt, finding, reason, NOW))
            .unwrap();
    };
    dismiss("thin at 12.0", "cut free by hand");
    dismiss("thin at 12.0", "printed in tough resin");
    dismiss("tips over", "glued to a base");
    let all = fresh
        .store
        .read(|c| dismissals::of_sculpts(c, &[fresh.sculpt]))
        .unwrap();
    let said: Vec<(&str, &str)> = all
        .iter()
        .map(|(_, f, r)| (f.as_str(), r.as_str()))
        .collect();
    assert_eq!(
        said,
        [
            ("thin at 12.0", "printed in tough resin"),
            ("tips over", "glued to a base")
        ]
    );
    fresh
        .store
        .write(|c| commands::dismissals::take_back(c, fresh.sculpt, "thin at 12.0"))
        .unwrap();
    assert_eq!(
        fresh
            .store
            .read(|c| dismissals::of_sculpt(c, fresh.sculpt))
            .unwrap()
            .len(),
        1
    );
    assert!(
        fresh
            .store
            .read(|c| dismissals::of_sculpts(c, &[]))
            .unwrap()
            .is_empty()
    );
}

#[test]
fn a_pick_gives_the_part_its_sculpt_and_keeps_the_reason() {
    let fresh = Fresh::new(3);
    let Ok(Arrival::New(other)) = upload(&fresh.store, "better.stl", &spike(24.0)) else {
        panic!("new")
    };
    measure(&fresh.store, other).unwrap();
    let before = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    fresh
        .store
        .write(|c| commands::picks::pick(c, fresh.part, other, "sharper edges", NOW))
        .unwrap();
    let after = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    assert_eq!(
        (after.sculpt, after.count, after.row_version),
        (Some(other), before.count, before.row_version + 1)
    );
    fresh
        .store
        .write(|c| commands::picks::pick(c, fresh.part, fresh.sculpt, "", NOW))
        .unwrap();
    fresh
        .store
        .write(|c| commands::picks::pick(c, fresh.part, other, "after all", NOW))
        .unwrap();
    let reasons: Vec<String> = fresh
        .store
        .read(|c| picks::of_part(c, fresh.part))
        .unwrap()
        .into_iter()
        .map(|p| p.1)
        .collect();
    assert_eq!(
        reasons,
        ["after all", "sharper edges"],
        "a pick without a reason is not told"
    );
    let missing = fresh
        .store
        .write(|c| commands::picks::pick(c, wembrit_core::ids::PartId(99), other, "", NOW));
    assert!(matches!(missing, Err(StoreError::NotFound { .. })));
}

/// Copies that are planned keep the sculpt they were planned with.
#[test]
fn a_pick_does_not_reach_into_accepted_plates() {
    let fresh = Fresh::new(2);
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    let Ok(Arrival::New(other)) = upload(&fresh.store, "better.stl", &spike(24.0)) else {
        panic!("new")
    };
    measure(&fresh.store, other).unwrap();
    fresh
        .store
        .write(|c| commands::picks::pick(c, fresh.part, other, "why", NOW))
        .unwrap();
    let army = fresh.store.read(|c| army::load(c, fresh.project)).unwrap();
    let part = army.parts().next().unwrap().2;
    assert_eq!((part.counts.of(Stage::Planned), part.need.wanted()), (2, 0));
    let plates = fresh
        .store
        .read(|c| wembrit_store::queries::plates::accepted(c, fresh.project))
        .unwrap();
    let on_plates = fresh
        .store
        .read(|c| wembrit_store::queries::plates::copies_on(c, &[plates[0].id]))
        .unwrap();
    assert!(
        on_plates[&plates[0].id]
            .iter()
            .all(|s| s.sculpt == fresh.sculpt)
    );
}

#[test]
fn pictures_and_prices_are_kept() {
    let fresh = Fresh::new(1);
    let none = fresh
        .store
        .read(|c| hollows::picture(c, fresh.sculpt, Side::Front));
    assert!(matches!(none, Err(StoreError::NotFound { .. })));
    for side in Side::ALL {
        assert!(
            !fresh
                .store
                .read(|c| hollows::has_pictures(c, fresh.sculpt))
                .unwrap()
        );
        fresh
            .store
            .write(|c| {
                commands::hollows::set_picture(c, fresh.sculpt, *side, side.as_str().as_bytes())
            })
            .unwrap();
    }
    assert!(
        fresh
            .store
            .read(|c| hollows::has_pictures(c, fresh.sculpt))
            .unwrap()
    );
    let back = fresh
        .store
        .read(|c| hollows::picture(c, fresh.sculpt, Side::Back))
        .unwrap();
    assert_eq!(back, b"back");
    fresh
        .store
        .write(|c| commands::sculpts::set_price(c, fresh.sculpt, Money(450)))
        .unwrap();
    assert_eq!(
        fresh
            .store
            .read(|c| sculpts::load(c, fresh.sculpt))
            .unwrap()
            .price
            .0,
        450
    );
}

/// Who is printed from a sculpt, and on which base; what stands in something taken away is not.
#[rstest]
#[case::the_model(|f: &Fresh| Entry::Model(f.model))]
#[case::the_project(|f: &Fresh| Entry::Project(f.project))]
#[case::the_part(|f: &Fresh| Entry::Part(f.part))]
fn the_users_of_a_sculpt_are_those_in_use(#[case] entry: fn(&Fresh) -> Entry) {
    let fresh = Fresh::new(1);
    let users = |f: &Fresh| f.store.read(|c| army::users_of(c, f.sculpt)).unwrap();
    let [user] = &users(&fresh)[..] else {
        panic!("one")
    };
    assert_eq!((user.model, user.base_mm), (fresh.model, 25.0));
    let taken = entry(&fresh);
    let set = |at: Option<i64>| {
        let done = fresh
            .store
            .write(move |c| commands::muster::set_removed(c, taken, at));
        done.unwrap();
    };
    set(Some(1));
    assert_eq!(users(&fresh), Vec::new());
    set(None);
    assert_eq!(users(&fresh).len(), 1);
}
