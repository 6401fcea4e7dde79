//! Kits: options plan exactly what the counts say; a lowered quantity sets aside and loses none.

use std::sync::Arc;

use rstest::rstest;
use wembrit_core::army::kit::Source;
use wembrit_core::army::{Army, ArmyModel};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ModelId, OptionId, PartId, UnitId};
use wembrit_core::units::{LayerHeight, Money};
use wembrit_core::workshop::practice::{AnsweredBy, Question};
use wembrit_store::commands::kits::{ChoiceChange, OptionChange, PieceChange};
use wembrit_store::commands::muster::{ModelChange, PartChange, UnitChange};
use wembrit_store::commands::recipes::RecipeChange;
use wembrit_store::commands::rosters::RosterRow;
use wembrit_store::commands::unit_moves::ManyChange;
use wembrit_store::queries::{army, kits, muster, plans, plates, practices, recipes};
use wembrit_store::{StoreError, commands};

use crate::fresh::{Fresh, NOW};

fn army(fresh: &Fresh) -> Arc<Army> {
    fresh.store.read(|c| army::load(c, fresh.project)).unwrap()
}

fn model(army: &Army, id: ModelId) -> &ArmyModel {
    army.units
        .iter()
        .flat_map(|u| &u.models)
        .find(|m| m.model.id == id)
        .unwrap()
}

/// A choice between spear and axe, each with one part; the fresh part is the body.
fn spear_or_axe(
    fresh: &Fresh,
    spear: u32,
    axe: u32,
    may_go_without: bool,
) -> [(OptionId, PartId); 2] {
    let option = |name: &str, models| OptionChange {
        id: None,
        name: name.into(),
        models,
    };
    let choice = ChoiceChange {
        name: "weapon".into(),
        may_go_without,
        options: vec![option("spear", spear), option("axe", axe)],
    };
    fresh
        .store
        .write(|c| {
            let choice = commands::kits::add_choice(c, fresh.model, &choice, NOW)?;
            let body = muster::part(c, fresh.part)?;
            let recipe = recipes::newest(c, body.recipe)?;
            let options = kits::options_of(c, &[choice])?;
            let mut part = |option: OptionId, name: &str| {
                let change = PartChange {
                    name: name.into(),
                    count: 1,
                    spares: 0,
                    sculpt: body.sculpt,
                    option: Some(option),
                    recipe: RecipeChange {
                        scale: 0.5,
                        resin: recipe.resin,
                        layer: recipe.layer,
                        setup: None,
                    },
                };
                commands::muster::add_part(c, fresh.model, &change, NOW).map(|p| (option, p))
            };
            Ok([part(options[0].id, "spear")?, part(options[1].id, "axe")?])
        })
        .unwrap()
}

/// Plans, accepts and prints everything wanted, all of it good.
fn print_all(fresh: &Fresh) {
    let plan = fresh.draft().unwrap();
    fresh
        .store
        .write(|c| commands::accept_plan::accept(c, plan, NOW))
        .unwrap();
    let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
    for (at, plate) in (NOW..).zip(all.unwrap()) {
        if plate.state == wembrit_core::flow::PlateState::Planned {
            fresh
                .store
                .write(|c| commands::run_plate::log_run(c, plate.id, at, at + 1, at + 1))
                .unwrap();
            fresh
                .store
                .write(|c| commands::judge_plate::judge(c, plate.id, &[], NOW + 2))
                .unwrap();
        }
    }
}

fn quantity(fresh: &Fresh, id: ModelId, quantity: u32) {
    let row = fresh.store.read(|c| muster::model(c, id)).unwrap();
    let to = ModelChange {
        name: row.name,
        quantity,
        base_width_mm: 25.0,
        base_depth_mm: 25.0,
        carries: 0,
    };
    fresh
        .store
        .write(|c| commands::muster::change_model(c, id, row.row_version, &to, NOW))
        .unwrap();
}

/// Five with spear or axe: models, spears, axes, may go without; copies planned, complete after
/// all of them are good.
#[rstest]
#[case::three_and_two(5, 3, 2, false, [5, 3, 2], 5)]
#[case::all_spears(5, 5, 0, false, [5, 5, 0], 5)]
#[case::one_undecided(5, 3, 1, false, [5, 3, 1], 4)]
#[case::one_without(5, 3, 1, true, [5, 3, 1], 5)]
#[case::nobody_yet(5, 0, 0, false, [5, 0, 0], 0)]
#[case::more_than_there_are(2, 3, 1, false, [2, 3, 1], 2)]
fn options_plan_exactly_what_the_counts_say(
    #[case] models: u32,
    #[case] spear: u32,
    #[case] axe: u32,
    #[case] may_go_without: bool,
    #[case] planned: [u32; 3],
    #[case] complete: u64,
) {
    let fresh = Fresh::new(models);
    let [(_, spears), (_, axes)] = spear_or_axe(&fresh, spear, axe, may_go_without);
    let plan = fresh.draft().unwrap();
    let lines = fresh.store.read(|c| plans::demand_of(c, plan)).unwrap();
    let wanted = |part: PartId| {
        lines
            .iter()
            .find(|l| l.part == part)
            .map_or(0, |l| l.wanted as u32)
    };
    assert_eq!([fresh.part, spears, axes].map(wanted), planned);
    print_all(&fresh);
    let army = army(&fresh);
    let model = model(&army, fresh.model);
    let good = |id: PartId| {
        model
            .parts
            .iter()
            .find(|p| p.part.id == id)
            .map_or(0, |p| p.counts.of(Stage::Good))
    };
    assert_eq!([fresh.part, spears, axes].map(good), planned);
    assert_eq!(model.progress.complete, complete);
    assert_eq!(
        model.choice_faults().is_empty(),
        may_go_without || spear + axe == models
    );
}

#[test]
fn a_lowered_quantity_sets_copies_aside_and_a_raised_one_takes_them_back() {
    let fresh = Fresh::new(5);
    print_all(&fresh);
    let counts = || {
        let army = army(&fresh);
        let part = army.parts().next().unwrap().2;
        [Stage::Good, Stage::Surplus, Stage::Failed].map(|s| part.counts.of(s))
    };
    let spent = army(&fresh).spent();
    quantity(&fresh, fresh.model, 3);
    assert_eq!((counts(), fresh.wanted()), ([3, 2, 0], 0));
    assert_eq!(army(&fresh).spent(), spent, "what was spent stays spent");
    quantity(&fresh, fresh.model, 4);
    assert_eq!((counts(), fresh.wanted()), ([4, 1, 0], 0));
    quantity(&fresh, fresh.model, 7);
    assert_eq!((counts(), fresh.wanted()), ([5, 0, 0], 2));
}

#[test]
fn an_option_taken_by_fewer_sets_its_copies_aside() {
    let fresh = Fresh::new(5);
    let [(spear, spears), (axe, axes)] = spear_or_axe(&fresh, 3, 2, false);
    print_all(&fresh);
    let choice = army(&fresh).units[0].models[0].choices[0].choice.clone();
    let option = |id, name: &str, models| OptionChange {
        id: Some(id),
        name: name.into(),
        models,
    };
    let to = ChoiceChange {
        name: "weapon".into(),
        may_go_without: false,
        options: vec![option(spear, "spear", 1), option(axe, "axe", 4)],
    };
    fresh
        .store
        .write(|c| commands::kits::change_choice(c, choice.id, choice.row_version, &to, NOW))
        .unwrap();
    let army = army(&fresh);
    let part = |id: PartId| army.parts().find(|(_, _, p)| p.part.id == id).unwrap().2;
    assert_eq!(
        (
            part(spears).counts.of(Stage::Good),
            part(spears).counts.of(Stage::Surplus)
        ),
        (1, 2)
    );
    assert_eq!(part(axes).need.wanted(), 2);
    let late = fresh
        .store
        .write(|c| commands::kits::change_choice(c, choice.id, choice.row_version, &to, NOW));
    assert!(matches!(late, Err(StoreError::Conflict { .. })));
}

#[test]
fn pieces_from_elsewhere_hold_models_back_until_they_are_at_hand() {
    let fresh = Fresh::new(4);
    print_all(&fresh);
    let piece = |at_hand| PieceChange {
        name: "shield".into(),
        option: None,
        source: Source::Box,
        count: 2,
        at_hand,
        cost_each: Money(30),
        minutes_each: 0.0,
    };
    let id = fresh
        .store
        .write(|c| commands::kits::add_piece(c, fresh.model, &piece(5)))
        .unwrap();
    let before = army(&fresh);
    assert_eq!(before.progress.complete, 2);
    assert_eq!(before.progress.copies, 4, "pieces are no copies");
    fresh
        .store
        .write(|c| commands::kits::change_piece(c, id, 1, &piece(8)))
        .unwrap();
    let after = army(&fresh);
    assert_eq!(after.progress.complete, 4);
    assert_eq!(fresh.wanted(), 0, "pieces are never planned");
    let each = wembrit_core::cost::cost_each(model(&after, fresh.model)).unwrap();
    let printed = after.spent().0 / 4;
    assert!(
        (each.0 - printed - 60).abs() <= 1,
        "two shields at 0.30 on top of {printed}: {each:?}"
    );
}

#[test]
fn a_unit_is_duplicated_with_its_kits_and_without_its_copies() {
    let fresh = Fresh::new(3);
    spear_or_axe(&fresh, 2, 1, false);
    print_all(&fresh);
    let unit = army(&fresh).units[0].unit.id;
    let copy = fresh
        .store
        .write(|c| commands::unit_moves::duplicate(c, unit, NOW))
        .unwrap();
    let army = army(&fresh);
    let [old, new] = [unit, copy].map(|id| army.units.iter().find(|u| u.unit.id == id).unwrap());
    assert_eq!((old.progress.complete, new.progress.complete), (3, 0));
    assert_eq!(new.progress.copies, old.progress.copies);
    let options = |u: &wembrit_core::army::ArmyUnit| {
        u.models[0].choices[0]
            .options
            .iter()
            .map(|o| (o.name.clone(), o.models))
            .collect::<Vec<_>>()
    };
    assert_eq!(options(old), options(new));
    let own = new.models[0].choices[0].options[0].id;
    assert!(
        new.models[0]
            .parts
            .iter()
            .any(|p| p.part.option == Some(own)),
        "its parts name its own options"
    );
}

/// Names in order after moving the unit of this index.
#[rstest]
#[case::up(2, true, ["a", "c", "b"])]
#[case::down(0, false, ["b", "a", "c"])]
#[case::first_stays(0, true, ["a", "b", "c"])]
#[case::last_stays(2, false, ["a", "b", "c"])]
fn units_are_reordered(
    #[case] which: usize,
    #[case] up: bool,
    #[case] order: [&str; 3],
    #[values(1, 0)] step: i64,
) {
    let fresh = Fresh::new(1);
    let first = army(&fresh).units[0].unit.id;
    fresh
        .store
        .write(|c| {
            commands::muster::set_removed(c, commands::muster::Entry::Unit(first), Some(NOW))
        })
        .unwrap();
    let add = |name: &str, priority| {
        let unit = UnitChange {
            name: name.into(),
            priority,
            carrier: None,
        };
        fresh
            .store
            .write(|c| commands::muster::add_unit(c, fresh.project, &unit))
            .unwrap()
    };
    // With step 0 all three share a priority.
    let ids: Vec<UnitId> = ["a", "b", "c"]
        .iter()
        .zip(0..)
        .map(|(n, i)| add(n, 3 + step * i))
        .collect();
    fresh
        .store
        .write(|c| commands::unit_moves::reorder(c, ids[which], up))
        .unwrap();
    let names: Vec<String> = army(&fresh)
        .units
        .iter()
        .map(|u| u.unit.name.clone())
        .collect();
    assert_eq!(names, order);
}

#[test]
fn a_split_unit_takes_the_copies_along_that_the_rest_no_longer_needs() {
    let fresh = Fresh::new(5);
    print_all(&fresh);
    let unit = army(&fresh).units[0].unit.id;
    let too_many = fresh
        .store
        .write(|c| commands::unit_moves::split(c, unit, "b", &[(fresh.model, 6)], NOW));
    assert!(matches!(too_many, Err(StoreError::Refused(_))));
    let half = fresh
        .store
        .write(|c| commands::unit_moves::split(c, unit, "second", &[(fresh.model, 2)], NOW))
        .unwrap();
    let split = army(&fresh);
    let complete = |id: UnitId| {
        split
            .units
            .iter()
            .find(|u| u.unit.id == id)
            .map(|u| (u.progress.complete, u.progress.models))
    };
    assert_eq!(
        (complete(unit), complete(half)),
        (Some((3, 3)), Some((2, 2)))
    );
    assert_eq!(fresh.wanted(), 0);
    let plates = fresh
        .store
        .read(|c| plates::accepted(c, fresh.project))
        .unwrap();
    let on_plates = fresh
        .store
        .read(|c| plates::copies_on(c, &[plates[0].id]))
        .unwrap();
    assert_eq!(
        on_plates[&plates[0].id].len(),
        5,
        "the plate keeps all of its copies"
    );

    fresh
        .store
        .write(|c| commands::unit_moves::merge(c, half, unit, NOW))
        .unwrap();
    let merged = army(&fresh);
    assert_eq!(
        (
            merged.units.len(),
            merged.progress.complete,
            merged.progress.models
        ),
        (1, 5, 5)
    );
    let itself = fresh
        .store
        .write(|c| commands::unit_moves::merge(c, unit, unit, NOW));
    assert!(matches!(itself, Err(StoreError::Refused(_))));
}

#[test]
fn many_models_change_at_once_and_only_what_differs_becomes_a_version() {
    let fresh = Fresh::new(2);
    let part = fresh.store.read(|c| muster::part(c, fresh.part)).unwrap();
    let change = ManyChange {
        base_mm: Some([32.0, 32.0]),
        scale: Some(1.1),
        layer: LayerHeight::from_mm(0.05).ok(),
        ..ManyChange::default()
    };
    for _ in 0..2 {
        fresh
            .store
            .write(|c| commands::unit_moves::change_many(c, &[fresh.model], &change, NOW))
            .unwrap();
    }
    let recipe = fresh
        .store
        .read(|c| recipes::newest(c, part.recipe))
        .unwrap();
    assert_eq!((recipe.version, recipe.scale), (2, 1.1));
    assert_eq!(
        fresh
            .store
            .read(|c| muster::model(c, fresh.model))
            .unwrap()
            .base_width_mm,
        32.0
    );
}

#[test]
fn an_agreed_list_becomes_units_and_uses_those_that_are_there() {
    let fresh = Fresh::new(2);
    let row = |unit: &str, name: &str, options: &[(&str, u32)], kit_of| RosterRow {
        unit: unit.into(),
        name: name.into(),
        quantity: 4,
        base_mm: [25.0, 25.0],
        options: options.iter().map(|(n, m)| ((*n).to_owned(), *m)).collect(),
        kit_of,
    };
    let rows = [
        row("pikers", "Guard", &[("spear", 3), ("axe", 1)], None),
        row("Boat", "Oarsman", &[], Some(fresh.model)),
        row("boat", "Steersman", &[], None),
    ];
    let added = fresh
        .store
        .write(|c| commands::rosters::take_in(c, fresh.project, &rows, NOW))
        .unwrap();
    let army = army(&fresh);
    let names: Vec<(&str, usize)> = army
        .units
        .iter()
        .map(|u| (u.unit.name.as_str(), u.models.len()))
        .collect();
    assert_eq!(names, [("Pikers", 2), ("Boat", 2)]);
    assert_eq!(model(&army, added[0]).choices[0].options.len(), 2);
    assert_eq!(
        model(&army, added[1]).parts.len(),
        1,
        "the kit of the piker"
    );
}

#[test]
fn a_project_follows_the_workshop_until_it_answers_itself() {
    let fresh = Fresh::new(1);
    let answer = |project, word: Option<&str>| {
        let school = word.and_then(|w| Question::Order.school(w));
        fresh
            .store
            .write(|c| commands::practices::answer(c, project, Question::Order, school))
            .unwrap();
    };
    let now = || {
        let practice = fresh
            .store
            .read(|c| practices::load(c, Some(fresh.project)))
            .unwrap();
        let order = practice.answers().find(|a| a.0 == Question::Order).unwrap();
        (order.1.word, order.2)
    };
    assert_eq!(now(), ("unit by unit", AnsweredBy::Assumed));
    answer(None, Some("all at once"));
    assert_eq!(now(), ("all at once", AnsweredBy::Workshop));
    answer(Some(fresh.project), Some("unit by unit"));
    assert_eq!(now(), ("unit by unit", AnsweredBy::Project));
    answer(Some(fresh.project), None);
    assert_eq!(now(), ("all at once", AnsweredBy::Workshop));
    answer(None, None);
    assert_eq!(now(), ("unit by unit", AnsweredBy::Assumed));
}

/// The figure the practice changes: with all units alike, no unit goes first.
#[test]
fn the_order_of_printing_decides_who_goes_first() {
    let fresh = Fresh::new(2);
    let unit = army(&fresh).units[0].unit.clone();
    let urgent = UnitChange {
        name: unit.name,
        priority: 7,
        carrier: None,
    };
    fresh
        .store
        .write(|c| commands::muster::change_unit(c, unit.id, unit.row_version, &urgent))
        .unwrap();
    let priorities = || {
        fresh
            .request_all()
            .parts
            .iter()
            .map(|p| p.priority)
            .collect::<Vec<_>>()
    };
    assert_eq!(priorities(), [7]);
    let school = Question::Order.school("all at once");
    fresh
        .store
        .write(|c| commands::practices::answer(c, None, Question::Order, school))
        .unwrap();
    assert_eq!(priorities(), [0]);
}
