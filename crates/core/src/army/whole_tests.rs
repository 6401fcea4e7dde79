//! A whole army put together by hand: nine pikers with pikes or banners, on a boat.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::army::kit::Source;
use crate::army::samples::{loose, model};
use crate::cost_parts::CostKind;
use crate::ids::{ChoiceId, PieceId, ProjectId, UnitId};
use crate::layers::ProfileBand;

const PIKE: OptionId = OptionId(1);
const BANNER: OptionId = OptionId(2);

fn counted(stages: &[(Stage, u32, i64)]) -> StageCounts {
    let mut counts = StageCounts::default();
    for (stage, copies, cost) in stages {
        counts.add(
            *stage,
            *copies,
            CostParts::of(CostKind::Resin, Money(*cost)),
        );
    }
    counts
}

fn weapon(pikes: u32, banners: u32, may_go_without: bool) -> ArmyChoice {
    let option = |id, name: &str, models| ChoiceOption {
        id,
        choice: ChoiceId(1),
        name: name.into(),
        models,
    };
    ArmyChoice {
        choice: Choice {
            id: ChoiceId(1),
            row_version: 1,
            model: ModelId(1),
            name: "Weapon".into(),
            may_go_without,
        },
        options: vec![
            option(PIKE, "pike", pikes),
            option(BANNER, "banner", banners),
        ],
    }
}

/// Nine pikers: six with pikes, three with banners; two bodies failed, one pike is set aside, one
/// was released before it was printed.
fn pikers() -> ArmyModel {
    let bodies = counted(&[
        (Stage::Good, 5, 500),
        (Stage::Failed, 2, 210),
        (Stage::Printing, 2, 200),
    ]);
    let pikes = counted(&[
        (Stage::Good, 6, 60),
        (Stage::Surplus, 1, 11),
        (Stage::Released, 1, 10),
    ]);
    let banners = counted(&[(Stage::Planned, 1, 90)]);
    ArmyModel::new(
        model(1, "Piker", 9, 0),
        vec![
            loose(1, "Body", 1, None, bodies),
            loose(2, "Pike", 1, Some(PIKE), pikes),
            loose(3, "Banner", 1, Some(BANNER), banners),
        ],
        vec![Piece {
            id: PieceId(1),
            row_version: 1,
            model: ModelId(1),
            option: None,
            name: "Rim".into(),
            source: Source::Box,
            count: 1,
            at_hand: 4,
            cost_each: Money(30),
            minutes_each: 1.0,
        }],
        vec![weapon(6, 3, false)],
    )
}

fn boat(quantity: u32, carries: u32) -> ArmyModel {
    ArmyModel::new(model(2, "Boat", quantity, carries), vec![], vec![], vec![])
}

fn army(carried: bool, boats: u32, carries: u32) -> Army {
    let unit = |id, name: &str, carrier, model: ArmyModel| ArmyUnit {
        unit: Unit {
            id: UnitId(id),
            row_version: 1,
            project: ProjectId(1),
            name: name.into(),
            priority: id,
            carrier,
        },
        progress: model.progress,
        models: vec![model],
    };
    let units = vec![
        unit(1, "Pikers", carried.then_some(ModelId(2)), pikers()),
        unit(2, "Boats", None, boat(boats, carries)),
    ];
    Army {
        project: Project {
            id: ProjectId(1),
            row_version: 1,
            name: "Levy".into(),
        },
        progress: units.iter().map(|u| u.progress).sum(),
        units,
        money: ProjectMoney {
            plates: Money(981),
            spoilt: Money(40),
            came: Money(9),
            running: Money(300),
        },
    }
}

/// By hand: 9 bodies less 7 alive are 2; 6 pikes are there; 3 banners less 1 are 2.
#[test]
fn a_part_needs_what_its_takers_take() {
    let pikers = pikers();
    let wanted: Vec<u64> = pikers.parts.iter().map(|p| p.need.wanted()).collect();
    assert_eq!(wanted, [2, 0, 2]);
    assert_eq!(
        [None, Some(PIKE), Some(OptionId(77))].map(|o| pikers.takers(o)),
        [9, 6, 0]
    );
}

/// A body of 16 × 28 mm, a pike of 3 × 60, a banner of 9 × 45 at file scale: the body shows most, printed half as
/// large the banner does, and a part nobody takes only where nothing else is measured.
#[rstest]
#[case::by_its_body(&[16.0, 3.0, 9.0], 1.0, 3, Some(0))]
#[case::as_it_is_printed(&[16.0, 3.0, 9.0], 0.5, 3, Some(2))]
#[case::of_those_it_takes(&[2.0, 3.0, 9.0], 1.0, 0, Some(1))]
#[case::of_what_is_measured(&[0.0, 0.0, 9.0], 1.0, 0, Some(2))]
#[case::nothing(&[0.0, 0.0, 0.0], 1.0, 3, None)]
fn a_figure_is_drawn_by_what_shows_most(
    #[case] widths: &[f64],
    #[case] scale: f64,
    #[case] banners: u32,
    #[case] by: Option<usize>,
) {
    let parts = [
        ("Body", None),
        ("Pike", Some(PIKE)),
        ("Banner", Some(BANNER)),
    ];
    let parts = (0..).zip(parts).map(|(i, (name, option))| {
        let mut part = loose(i, name, 1, option, counted(&[]));
        part.part.sculpt = Some(SculptId(i));
        part.recipe.scale = if i == 0 { scale } else { 1.0 };
        part
    });
    let model = ArmyModel::new(
        model(1, "Piker", 9, 0),
        parts.collect(),
        vec![],
        vec![weapon(6, banners, true)],
    );
    let tall = [28.0, 60.0, 45.0];
    let profile = |(width, tall): (&f64, f64)| {
        let band = |half: u8| ProfileBand {
            from_mm: f64::from(half) * tall / 2.0,
            to_mm: f64::from(half + 1) * tall / 2.0,
            reach_mm: vec![width / 2.0; 36],
        };
        HeightProfile::from(vec![band(0), band(1)])
    };
    let profiles: Vec<HeightProfile> = widths.iter().zip(tall).map(profile).collect();
    let measured = |s: SculptId| {
        profiles
            .get(s.0 as usize)
            .filter(|_| widths[s.0 as usize] > 0.0)
    };
    let told = model.told_by(measured);
    let found = told.and_then(|p| profiles.iter().position(|each| std::ptr::eq(each, p)));
    assert_eq!(found, by);
}

/// Money by hand: bodies 710 and two that are printing, pikes 71 (the released one never cost anything); banners, 90, wait on
/// an accepted plate.
#[test]
fn what_was_spent_is_every_copy_but_the_released() {
    let army = army(false, 0, 0);
    let bodies = &army.units[0].models[0].parts[0].counts;
    assert_eq!(
        (bodies.spent, bodies.failed, bodies.surplus),
        (Money(710), Money(210), Money(0))
    );
    let pikes = &army.units[0].models[0].parts[1].counts;
    assert_eq!((pikes.spent, pikes.surplus), (Money(71), Money(11)));
    assert_eq!(
        (army.committed(), army.failed_cost()),
        (Money(90), Money(210))
    );
    const SPENT: i64 = 710 + 71;
    let by_unit = |i: usize| army.units[i].spent();
    assert_eq!((by_unit(0), by_unit(1)), (Money(SPENT), Money(0)));
    // The plates as their runs went, a spoilt vat and an arm that was bought; what runs is no part of it.
    assert_eq!(army.spent(), Money(1030));
    assert_eq!(army.spent_beside_copies(), Money(1030 - SPENT));
}

/// A rim is a piece from elsewhere: it completes models, and is no copy. Pikes, banners and bodies
/// are 9 + 9; of the models four have a rim, and none of them a banner that is good.
#[test]
fn pieces_complete_models_and_are_no_copies() {
    let p = pikers().progress;
    assert_eq!((p.copies, p.good, p.models), (18, 11, 9));
    // Five bodies, six pikes, four rims: four with a pike.
    assert_eq!(p.complete, 4);
    let state = pikers().state();
    assert_eq!(
        state.complete + state.under_way + state.failed + state.open,
        9
    );
}

#[rstest]
#[case::as_many_as_models(6, 3, false, 0)]
#[case::one_too_few(6, 2, false, 1)]
#[case::one_too_few_but_without(6, 2, true, 0)]
#[case::one_too_many(7, 3, true, 1)]
#[case::more_than_any_number(u32::MAX, u32::MAX, true, 1)]
fn options_that_do_not_add_up_are_named(
    #[case] pikes: u32,
    #[case] banners: u32,
    #[case] without: bool,
    #[case] faults: usize,
) {
    let mut pikers = pikers();
    pikers.choices = vec![weapon(pikes, banners, without)];
    assert_eq!(pikers.choice_faults().len(), faults);
}

#[rstest]
#[case::nobody_carries_them(false, 1, 1, None)]
#[case::just_enough(true, 3, 3, None)]
#[case::one_seat_short(true, 2, 4, Some("9 models, but 2 × 4 can be carried: 1 too many"))]
#[case::a_boat_that_carries_none(
    true,
    5,
    0,
    Some("9 models, but 5 × 0 can be carried: 9 too many")
)]
#[case::no_boat_at_all(true, 0, 9, Some("9 models, but 0 × 9 can be carried: 9 too many"))]
fn a_unit_larger_than_its_boats_is_named(
    #[case] carried: bool,
    #[case] boats: u32,
    #[case] carries: u32,
    #[case] words: Option<&str>,
) {
    let army = army(carried, boats, carries);
    let found = army.overload(&army.units[0]).map(|(_, o)| o.to_string());
    assert_eq!(found.as_deref(), words);
    assert_eq!(army.overload(&army.units[1]), None);
}

#[test]
fn things_are_found_by_identity_and_named_as_people_do() {
    let army = army(true, 1, 9);
    assert_eq!(army.part_name(PartId(2)), "Piker, pike");
    assert_eq!(army.part_name(PartId(99)), "a part");
    assert_eq!(army.parts().count(), 3);
    let (unit, model) = army.model(ModelId(2)).expect("a boat");
    assert_eq!(
        (unit.unit.name.as_str(), model.model.name.as_str()),
        ("Boats", "Boat")
    );
    assert!(army.model(ModelId(9)).is_none());
}

fn stages() -> impl Strategy<Value = Vec<(Stage, u32, i64)>> {
    prop::collection::vec(
        (prop::sample::select(Stage::ALL), 0..40u32, 0..10_000i64),
        0..12,
    )
}

proptest! {
    /// Whatever happens to copies: money is split into failed, surplus and the rest without a
    /// cent lost, and only living copies count against demand.
    #[test]
    fn counts_add_up(stages in stages(), quantity in 0..60u32, count in 0..4u32) {
        let counts = counted(&stages);
        let sum = |of: &dyn Fn(Stage) -> bool| -> i64 {
            stages.iter().filter(|s| of(s.0)).map(|s| s.2).sum()
        };
        let ended = |s| !matches!(s, Stage::Planned | Stage::Released | Stage::Printing);
        prop_assert_eq!(counts.spent.0, sum(&ended));
        prop_assert_eq!(counts.running.0, sum(&|s| s == Stage::Printing));
        prop_assert_eq!(counts.committed.0, sum(&|s| s == Stage::Planned));
        prop_assert_eq!(counts.failed.0, sum(&|s| s == Stage::Failed));
        prop_assert_eq!(counts.surplus.0, sum(&|s| s == Stage::Surplus));
        let alive: u32 = stages.iter().filter(|s| s.0.is_alive()).map(|s| s.1).sum();
        prop_assert_eq!(counts.alive(), alive);
        let army = ArmyModel::new(
            model(1, "Piker", quantity, 0),
            vec![loose(1, "Body", count, None, counts)],
            vec![],
            vec![],
        );
        let need = army.parts[0].need;
        prop_assert_eq!(need.wanted(), u64::from(quantity * count).saturating_sub(u64::from(alive)));
        prop_assert!(army.progress.good <= army.progress.copies);
        let state = army.state();
        prop_assert_eq!(state.complete + state.under_way + state.failed + state.open, u64::from(quantity));
    }
}
