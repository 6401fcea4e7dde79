//! What to print next, and what holds models back.

use std::collections::BTreeMap;

use proptest::collection::{btree_map, vec};
use proptest::prelude::*;
use rstest::rstest;

use super::Choice;
use crate::army::ArmyModel;
use crate::army::samples::{good, loose, model};
use crate::ids::{PartId, PlateId, PrinterId};
use crate::progress::{OnPlate, ReadyPlate, coming, complete_with, held_back, print_next};

/// Parts by name, count in each model, good copies.
fn kind(quantity: u32, parts: &[(&str, u32, u32)]) -> ArmyModel {
    let part = |(id, (name, count, copies)): (i64, &(&str, u32, u32))| {
        loose(id, name, *count, None, good(*copies))
    };
    let parts = (1..).zip(parts).map(part).collect();
    ArmyModel::new(
        model(1, "Piker", quantity, 0),
        parts,
        Vec::new(),
        Vec::new(),
    )
}

fn ready(plate: i64, printer: i64, hours: f64, adds: &[(i64, u32)]) -> ReadyPlate {
    ReadyPlate {
        plate: PlateId(plate),
        printer: PrinterId(printer),
        seconds: hours * 3600.0,
        adds: adds.iter().map(|(part, n)| (PartId(*part), *n)).collect(),
    }
}

const X: PlateId = PlateId(1);
const Y: PlateId = PlateId(2);
const Z: PlateId = PlateId(3);

/// The design's figures: ten bodies, ten heads, thirteen arms, two each; X four arms in an hour, Y seven in two and a
/// half, Z twelve bodies in half an hour: six now, eight with X in an hour, ten with Y in two and a half, Z adds none.
#[rstest]
#[case::an_hour(1.0, &[X], 8)]
#[case::two_and_a_half(2.5, &[Y], 10)]
#[case::half_an_hour(0.5, &[], 6)]
#[case::no_more_than_is_wanted(9.0, &[Y], 10)]
fn what_completes_most(#[case] hours: f64, #[case] best: &[PlateId], #[case] then: u64) {
    let army = kind(12, &[("Body", 1, 10), ("Head", 1, 10), ("Arm", 2, 13)]);
    let waiting = [
        ready(1, 1, 1.0, &[(3, 4)]),
        ready(2, 1, 2.5, &[(3, 7)]),
        ready(3, 1, 0.5, &[(1, 12)]),
    ];
    let next = print_next(&[&army], &BTreeMap::new(), &waiting, hours * 3600.0);
    assert_eq!((next.now, next.best.as_slice(), next.then), (6, best, then));
    let alone: BTreeMap<PlateId, u64> = next.alone.into_iter().collect();
    assert_eq!(alone.get(&Z), Some(&6));
    assert_eq!(alone.contains_key(&X), hours >= 1.0);
}

/// Two printers work side by side; a pair that completes together is found, also among many plates.
#[rstest]
#[case(2)]
#[case(14)]
fn pairs_are_found(#[case] plates: i64) {
    let army = kind(6, &[("Body", 1, 0), ("Head", 1, 0)]);
    let waiting: Vec<ReadyPlate> = (0..plates)
        .map(|i| ready(i, i % 2, 3.0, &[(1 + i % 2, 3)]))
        .collect();
    let next = print_next(&[&army], &BTreeMap::new(), &waiting, 3.0 * 3600.0);
    assert_eq!((next.now, next.then, next.best.len()), (0, 3, 2));
    let longer = print_next(&[&army], &BTreeMap::new(), &waiting, 6.0 * 3600.0);
    assert_eq!(longer.then, if plates > 2 { 6 } else { 3 });
    let more = BTreeMap::from([(PartId(1), 2), (PartId(2), 9)]);
    assert_eq!(complete_with(&[&army], &more), 2);
    // With two bodies and nine heads under way a plate of bodies alone helps.
    let with = print_next(&[&army], &more, &waiting[..1], 3.0 * 3600.0);
    assert_eq!((with.now, with.soon, with.then), (0, 2, 5));
}

proptest! {
    /// What two plates add together, told from what each adds alone, is what all models counted anew say.
    #[test]
    fn two_plates_add_what_all_models_say(
        good_of in vec(0..6_u32, 6),
        more in btree_map(1..7_i64, 1..5_u32, 0..4),
        plates in vec(btree_map(1..7_i64, 1..5_u32, 1..5), 2..5),
    ) {
        let part = |id: i64| loose(id, "part", 1 + (id % 3 == 0) as u32, None, good(good_of[id as usize - 1]));
        let of = |number: i64, parts: [i64; 2]| {
            ArmyModel::new(model(number, "Piker", 5, 0), parts.map(part).into(), Vec::new(), Vec::new())
        };
        let kinds = [of(1, [1, 2]), of(2, [3, 4]), of(3, [5, 6])];
        let models: Vec<&ArmyModel> = kinds.iter().collect();
        let more: BTreeMap<PartId, u32> = more.into_iter().map(|(p, n)| (PartId(p), n)).collect();
        let ready = |(i, adds): (i64, &BTreeMap<i64, u32>)| ready(i, 1, 1.0, &adds.clone().into_iter().collect::<Vec<_>>());
        let plates: Vec<ReadyPlate> = (1..).zip(&plates).map(ready).collect();
        let choice = Choice::new(&models, &more, plates.iter().collect(), 9e9);
        let on = (&more, &choice.base[..]);
        let by_itself = |i: usize| choice.touches[i].iter().map(|m| (*m, choice.gain_of(*m, on, &[i]))).collect();
        let alone: Vec<BTreeMap<usize, u64>> = (0..plates.len()).map(by_itself).collect();
        for (i, j) in (0..plates.len()).flat_map(|i| (i..plates.len()).map(move |j| (i, j))) {
            let set: &[usize] = if i == j { &[i] } else { &[i, j] };
            let all = complete_with(&models, &choice.with(&more, set)) - complete_with(&models, &more);
            prop_assert_eq!(choice.gain_together(on, set, &alone), all);
            prop_assert_eq!(choice.gain(on, set), all);
        }
    }
}

#[test]
fn what_is_missing_is_told_with_its_plates() {
    let army = kind(10, &[("Body", 1, 10), ("Arm", 2, 17), ("Head", 1, 4)]);
    let on = |number, copies, off_ms, in_finishing| OnPlate {
        plate: PlateId(number),
        number,
        copies,
        off_ms,
        runs: number == 5,
        in_finishing,
    };
    let plates = BTreeMap::from([
        (
            PartId(3),
            vec![
                on(7, 2, Some(9_000), false),
                on(6, 2, None, true),
                on(5, 1, Some(4_000), false),
            ],
        ),
        (PartId(2), vec![on(6, 3, None, true)]),
    ]);
    let lacks = held_back(&army, &plates);
    let told: Vec<_> = lacks
        .iter()
        .map(|l| {
            let numbers: Vec<i64> = l.on.iter().map(|o| o.number).collect();
            (l.name.as_str(), l.short, l.models, l.on_none, numbers)
        })
        .collect();
    assert_eq!(
        told,
        [("Head", 6, 6, 1, vec![6, 5, 7]), ("Arm", 3, 2, 0, vec![6])]
    );
    // Off in time without any plate that waits: what is in finishing, and what runs.
    let by = |ms| coming(&plates, ms).into_values().collect::<Vec<_>>();
    assert_eq!((by(3_999), by(4_000)), (vec![3, 2], vec![3, 3]));
}
