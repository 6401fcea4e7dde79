//! The rest of an army of which nothing is planned yet.

use super::*;
use crate::army::samples::{good, loose, model};
use crate::army::{ArmyModel, ArmyUnit, Project, ProjectMoney, Unit};
use crate::flow::samples::plate;
use crate::ids::UnitId;
use crate::progress::rehearse;

fn army(bodies: u32) -> Army {
    let parts = vec![
        loose(1, "Body", 1, None, good(bodies)),
        loose(2, "Arm", 2, None, good(0)),
    ];
    let models = vec![ArmyModel::new(
        model(1, "Piker", 10, 0),
        parts,
        Vec::new(),
        Vec::new(),
    )];
    let progress = models.iter().map(|m| m.progress).sum();
    Army {
        project: Project {
            id: ProjectId(1),
            row_version: 1,
            name: "Levy".into(),
        },
        units: vec![ArmyUnit {
            unit: Unit {
                id: UnitId(1),
                row_version: 1,
                project: ProjectId(1),
                name: "Pikers".into(),
                priority: 1,
                carrier: None,
            },
            models,
            progress,
        }],
        progress,
        money: ProjectMoney::default(),
    }
}

fn rest(army: &Army, printers: i64) -> WholeRest {
    after(army, printers, Vec::new())
}

/// The same after some plates.
fn after(army: &Army, printers: i64, stood: Vec<(&Plate, &BTreeMap<PartId, u32>)>) -> WholeRest {
    rest_of(&RestFacts {
        stood,
        army,
        plates: Vec::new(),
        on: &BTreeMap::new(),
        judged: &BTreeMap::new(),
        plates_lost: Judged::default(),
        printers: (1..=printers).map(PrinterId).collect(),
        windows: vec![[0.0, 1e7]],
        hands_s: [60.0, 60.0],
        finish_s: 0.0,
    })
}

/// By hand: a plate held all forty of them; what is missing of it goes on one like it, also after one was printed alone.
#[test]
fn plates_to_come_hold_as_many_as_those_before() {
    let army = army(8);
    let (full, alone) = (plate(1, 5.0), plate(2, 2.0));
    let on = BTreeMap::from([(PartId(1), 20), (PartId(2), 20)]);
    let one = BTreeMap::from([(PartId(2), 1)]);
    let rest = after(&army, 1, vec![(&full, &on), (&alone, &one)]);
    assert_eq!(rest.left, 1);
    let found = &rest.rest.missing[1];
    assert_eq!(
        (found.copies, found.per_plate, found.seconds),
        (20, 40, 5.0 * 3600.0)
    );
}

/// By hand: four bodies and twenty arms, eight to a plate: three plates, on both printers; with one printer they take
/// longer, without any they never end.
#[test]
fn what_nobody_planned_is_spread_over_the_printers() {
    let army = army(6);
    let two = rest(&army, 2);
    assert_eq!(two.left, 3);
    let copies: u32 = two
        .rest
        .plates
        .iter()
        .flat_map(|p| &p.copies)
        .map(|c| c.1)
        .sum();
    assert_eq!(copies, 24);
    let on = |m: usize| {
        two.rest
            .plates
            .iter()
            .filter(|p| p.machine == Some(m))
            .count()
    };
    assert_eq!((on(0), on(1)), (2, 1));
    let ends = |of: &WholeRest| rehearse(&of.rest, 100, 1).by(0.5);
    let one = rest(&army, 1);
    assert!(ends(&one) > ends(&two), "{:?} {:?}", ends(&one), ends(&two));
    let none = rest(&army, 0);
    assert_eq!((none.left, ends(&none)), (0, None));
}

/// The changes that are asked about: all of them while something is untried and layers are thick. Spares make the plates
/// fuller, and so the end likelier.
#[test]
fn changes_are_proposed_and_spares_reach_what_is_not_planned() {
    let of = rest(&army(6), 2);
    let asked = of.changes(&[[0.0, 10.0]]);
    assert_eq!(asked.len(), 6);
    assert!(asked.contains(&WhatIf::WithoutUnit(0)) && asked.contains(&WhatIf::Spares(SAFE)));
    let more = of.rest.changed(&WhatIf::Spares(SAFE), of.usual);
    let copies = |rest: &Rest| -> u32 {
        rest.plates
            .iter()
            .flat_map(|p| &p.copies)
            .map(|c| c.1)
            .sum()
    };
    assert!(copies(&more) > 24 && more.plates.len() == of.rest.plates.len());
    let by = rehearse(&of.rest, 200, 1).by(0.2).expect("an end");
    assert!(rehearse(&more, 200, 1).chance_by(by) > 0.2);
    assert!(rest(&army(10), 2).changes(&[]).len() < asked.len());
}
