//! What waiting costs, worked by hand.

use std::collections::BTreeSet;

use super::*;
use crate::finishing::Step;
use crate::today::samples::{MIN, day, due, off, on};
use rstest::rstest;

const PRINTER: PrinterId = PrinterId(1);

/// One printer, printed at minute 60; a plate of 100 minutes waits for it; copies that lack nothing but ten minutes of
/// supports. Somebody is there till 120, and from 360 to 600. Six minutes to take off, five to put on, three to stay.
fn shop() -> Day {
    let copies = off(3, 0, &[(Step::SupportsOff, 10.0)]);
    let mut day = day(1, vec![on(1, 1, 60)], vec![due(2, 1, 100)], vec![copies]);
    day.routes.clear();
    day.units = [(2, 1), (3, 2)]
        .map(|(plate, unit)| (PlateId(plate), BTreeSet::from([UnitId(unit)])))
        .into();
    day
}

/// As it is: off 60 to 66, on 66 to 71, printed at 171, off 360 to 366. The supports are off at 10.
#[test]
fn as_it_is() {
    let played = shop().play().unwrap();
    let done = |plate: i64| played.done_ms[&PlateId(plate)] / MIN;
    assert_eq!([done(1), done(2), done(3)], [66, 366, 10]);
    assert_eq!(played.idle[&PRINTER], 11);
    assert!((played.cost - 442.0).abs() < 1e-9);
}

#[rstest]
// Off 90 to 96, on 96 to 101, printed at 201, off at 360 as before: half an hour idle, no date moves.
#[case::half_an_hour_costs_nothing(Held::OnPrinter(PlateId(1)), 90, (30.0, None, 30))]
// Off 360 to 366, on 366 to 371, printed at 471, off at 477: five hours idle, the second plate 111 minutes later.
#[case::till_the_next_window(Held::OnPrinter(PlateId(1)), 360, (411.0, Some((1, 111)), 300))]
// Off at 66 as before; on 360 to 365, printed at 465, off at 471.
#[case::nothing_is_put_on(Held::Printer(PRINTER), 360, (105.0, Some((1, 105)), 294))]
#[case::copies_wait(Held::Copies(PlateId(3)), 30, (30.0, Some((2, 30)), 0))]
// At 60 the plate is taken off first: supports 71 to 81.
#[case::behind_the_printer(Held::Copies(PlateId(3)), 60, (71.0, Some((2, 71)), 0))]
#[case::nothing_printed_at_all(Held::Idle(vec![PrinterId(7), PrinterId(8)]), 90, (180.0, None, 180))]
#[case::now(Held::OnPrinter(PlateId(1)), 0, (0.0, None, 0))]
fn waiting_costs(
    #[case] held: Held,
    #[case] till: i64,
    #[case] (cost, unit, idle): (f64, Option<(i64, i64)>, i64),
) {
    let told = shop().waiting(&[Some(held), None], &[till * MIN]).unwrap();
    assert_eq!(told[1], []);
    let of = &told[0][0];
    assert!((of.cost - cost).abs() < 1e-9, "{of:?}");
    assert_eq!(of.unit, unit.map(|(id, min)| (UnitId(id), min * MIN)));
    assert_eq!(of.idle_minutes(), idle, "{of:?}");
}

/// A plan that waits to be accepted, with a plate of 300 minutes. Accepted now that one goes first: on 66 to 71, printed
/// at 371, off at 377; the other on till 382, printed at 482, off at 488. At 720 nobody is there: on 1440 to 1445,
/// printed at 1745, off 1800 to 1806; the other at 366 as before.
#[test]
fn a_plan_waits() {
    let mut day = shop();
    let mut due = day.work.due[0].clone();
    due.plate = PlateId(9);
    due.on = vec![(PRINTER, 18_000.0)];
    day.drafts.insert(ProjectId(1), vec![due]);
    let told = day
        .waiting(&[Some(Held::Plan(ProjectId(1)))], &[720 * MIN])
        .unwrap();
    assert!((told[0][0].cost - (366.0 + 1806.0 - 377.0 - 488.0)).abs() < 1e-9);
}

/// A copy is mended for 20 minutes: begun at 30 it is ready at 50, else after the supports, at 30.
#[test]
fn a_mend_waits() {
    let mut day = shop();
    day.off[0].mend_minutes = 20.0;
    let told = day.waiting(&[Some(Held::Mend(PlateId(3)))], &[30 * MIN]);
    assert!((told.unwrap()[0][0].cost - 20.0).abs() < 1e-9);
}
