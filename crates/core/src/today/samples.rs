//! Small days for tests.

use std::collections::{BTreeMap, BTreeSet};

use super::day::{Day, OnItsWay};
use crate::finishing::Step;
use crate::ids::{PlateId, PrinterId, ProjectId, ResinId, UnitId};
use crate::schedule::{Due, InUse, OnPrinter, Work};

/// A minute, ms.
pub(super) const MIN: i64 = 60_000;

/// A plate that waits for a printer, by its numbers.
pub(super) fn due(plate: i64, printer: i64, print_min: i64) -> Due {
    Due {
        plate: PlateId(plate),
        number: plate,
        project: ProjectId(1),
        on: vec![(PrinterId(printer), print_min as f64 * 60.0)],
        resin: ResinId(1),
        weight: 1,
        untried: false,
        not_before_ms: None,
    }
}

/// A plate on a printer since an hour, and until when.
pub(super) fn on(plate: i64, printer: i64, ends_min: i64) -> OnPrinter {
    OnPrinter {
        printer: PrinterId(printer),
        plate: PlateId(plate),
        number: plate,
        project: ProjectId(1),
        from_ms: -60 * MIN,
        ends_ms: ends_min * MIN,
    }
}

/// Copies that are off, when they can go on, and what is ahead of them.
pub(super) fn off(plate: i64, ready_min: i64, steps: &[(Step, f64)]) -> OnItsWay {
    OnItsWay {
        plate: PlateId(plate),
        ready_ms: ready_min * MIN,
        at: None,
        steps: steps.to_vec(),
        mend_minutes: 0.0,
        mend_from_ms: 0,
    }
}

/// A day from minute 0 on: somebody is there for two hours, then from minute 360 for four hours, every day.
pub(super) fn day(printers: i64, on: Vec<OnPrinter>, due: Vec<Due>, off: Vec<OnItsWay>) -> Day {
    let window = |d: i64| [(d * 1440, d * 1440 + 120), (d * 1440 + 360, d * 1440 + 600)];
    let attended = (0..10).flat_map(window).map(|(f, t)| (f * MIN, t * MIN));
    let waits = due
        .iter()
        .map(|d| d.plate)
        .chain(on.iter().map(|o| o.plate));
    let route = vec![
        (Step::Wash, 4.0),
        (Step::SupportsOff, 9.0),
        (Step::Cure, 6.0),
    ];
    Day {
        routes: waits.map(|plate| (plate, route.clone())).collect(),
        order: due.iter().map(|d| d.plate).collect(),
        work: Work {
            now_ms: 0,
            printers: (1..=printers)
                .map(|id| InUse {
                    printer: PrinterId(id),
                    holds: None,
                    change_minutes: 0.0,
                    change_ml: 0.0,
                })
                .collect(),
            on,
            due,
            attended: attended.collect(),
            quiet: Vec::new(),
            spare: Vec::new(),
            minutes: [5.0, 6.0, 3.0],
        },
        off,
        units: BTreeMap::<PlateId, BTreeSet<UnitId>>::new(),
        weights: BTreeMap::new(),
        to_check: BTreeSet::new(),
        left_on: BTreeMap::new(),
        drafts: BTreeMap::new(),
    }
}
