//! The best order against every order, each played with arithmetic of its own.

use std::collections::BTreeMap;

use super::*;
use crate::rng::Rng;
use crate::today::samples::{MIN, day, due, off, on};

/// Somebody comes to three lines: a plate that ended, one that waits for its printer, copies with supports on. In
/// fourteen minutes the plate is taken off and the next one put on, which prints until he is back; the nine minutes of
/// supports would have left the printer idle for five hours.
#[test]
fn the_printer_goes_before_the_supports() {
    let copies = off(3, 0, &[(Step::SupportsOff, 9.0), (Step::Judge, 2.0)]);
    let day = day(1, vec![on(1, 1, -5)], vec![due(2, 1, 240)], vec![copies]);
    let best = day.in_hand(14, 360 * MIN).unwrap();
    let did: Vec<Do> = best.did.iter().map(|d| d.what).collect();
    let printer = PrinterId(1);
    assert_eq!(
        did,
        [
            Do::TakeOff(PlateId(1), printer),
            Do::PutOn(PlateId(2), printer)
        ]
    );
    assert_eq!(best.minutes(), 11);
    // Where the plate that waits counts three times, no order makes all plates alike sooner than where none does.
    let mut dear = day.clone();
    dear.weights.insert(PlateId(2), 3);
    let dear = dear.in_hand(14, 360 * MIN).unwrap();
    assert!(dear.spares > best.spares);
    assert!(dear.minutes_sooner <= best.minutes_sooner && dear.minutes_sooner < dear.spares);
    assert!((best.minutes_sooner - best.spares).abs() < 1e-9);
    // With ten minutes more the supports come off as well, and the first layers are looked at in between.
    let more = day.in_hand(24, 360 * MIN).unwrap();
    assert!(
        more.did
            .iter()
            .any(|d| d.what == Do::Step(PlateId(3), Step::SupportsOff))
    );
    assert!(more.spares > best.spares);
    // In four minutes there is only what goes on by itself.
    assert_eq!(day.in_hand(4, 360 * MIN).unwrap(), InHand::default());
}

/// Somebody has to stay with a recipe nobody has tried: the plate is not put on, and it is said why.
#[test]
fn an_untried_plate_wants_somebody_to_stay() {
    let mut untried = due(2, 1, 60);
    untried.untried = true;
    let day = day(1, Vec::new(), vec![untried], Vec::new());
    let short = day.in_hand(40, 360 * MIN).unwrap();
    assert_eq!(
        (short.did.len(), short.stays),
        (0, vec![(PlateId(2), 5, 60)])
    );
    let long = day.in_hand(65, 360 * MIN).unwrap();
    assert_eq!((long.did.len(), long.stays), (1, vec![]));
}

/// One chain of acts after another, as the brute force sees it.
#[derive(Clone)]
struct Plain {
    at: Minute,
    /// By printer: what is on it, and until when.
    on: Vec<Option<(i64, Minute)>>,
    waits: Vec<Vec<i64>>,
    /// By plate: ready, steps behind it.
    off: BTreeMap<i64, (Minute, usize)>,
    wash: Minute,
    lamp: Minute,
    hands: Minute,
}

/// Every order of everything, as deep as the minutes go: the smallest cost.
fn brute(day: &Day, of: &Plain, (minutes, back): (Minute, i64), seen: &mut usize) -> (f64, Minute) {
    *seen += 1;
    let mut best = (left(day, of, back), of.hands);
    let mut consider = |then: Plain, stay: Minute, seen: &mut usize| {
        if then.at + stay <= minutes {
            let found = brute(day, &then, (minutes, back), seen);
            if found < best {
                best = found;
            }
        }
    };
    for printer in 0..of.on.len() {
        let mut then = of.clone();
        if let Some((plate, until)) = of.on[printer] {
            then.at = of.at.max(until) + 6;
            then.hands += 6;
            then.on[printer] = None;
            then.off.insert(plate, (then.at, 0));
            consider(then, 0, seen);
        } else if !of.waits[printer].is_empty() {
            let plate = then.waits[printer].remove(0);
            then.at += 5;
            then.hands += 5;
            let due = day.work.due.iter().find(|d| d.plate.0 == plate).unwrap();
            then.on[printer] = Some((plate, then.at + (due.on[0].1 / 60.0) as Minute));
            consider(then, 3, seen);
        }
    }
    for (plate, (ready, behind)) in &of.off {
        let Some((step, takes)) = steps_of(day, *plate).get(*behind).copied() else {
            continue;
        };
        let takes = takes as Minute;
        let mut then = of.clone();
        let from = of.at.max(*ready);
        let (from, hands) = match step {
            Step::Wash => (from.max(of.wash), 2),
            Step::Cure => (from.max(of.lamp), 2),
            _ => (from, takes),
        };
        match step {
            Step::Wash => then.wash = from + takes,
            Step::Cure => then.lamp = from + takes,
            _ => {}
        }
        then.at = from + hands;
        then.hands += hands;
        then.off.insert(*plate, (from + takes, behind + 1));
        consider(then, 0, seen);
    }
    best
}

fn steps_of(day: &Day, plate: i64) -> &[(Step, f64)] {
    let of = day.off.iter().find(|o| o.plate.0 == plate);
    of.map_or_else(|| &day.routes[&PlateId(plate)], |o| &o.steps)
}

fn left(day: &Day, of: &Plain, back: i64) -> f64 {
    let mut then = day.clone();
    then.work.on.clear();
    let mut judged = 0.0;
    for (printer, plate) in of.on.iter().enumerate() {
        if let Some((plate, until)) = plate {
            then.work.due.retain(|d| d.plate.0 != *plate);
            then.work
                .on
                .push(on(*plate, printer as i64 + 1, i64::from(*until)));
        }
    }
    then.off.clear();
    for (plate, (ready, behind)) in &of.off {
        then.work.due.retain(|d| d.plate.0 != *plate);
        let steps = steps_of(day, *plate);
        if *behind == steps.len() {
            judged += f64::from(*ready);
            continue;
        }
        let mut copies = off(*plate, i64::from(*ready), &steps[*behind..]);
        let before = behind.checked_sub(1).map(|b| steps[b].0.station());
        copies.at = before;
        then.off.push(copies);
    }
    then.work.attended.retain(|w| w.1 > back);
    for window in &mut then.work.attended {
        window.0 = window.0.max(back);
    }
    then.play().unwrap().cost + judged
}

#[test]
fn no_order_of_six_acts_is_better() {
    let mut rng = Rng(7);
    let mut below = |n: u64| (rng.next() % n) as i64;
    let (mut orders, mut moved) = (0, 0);
    for _ in 0..90 {
        let printers = 1 + below(2);
        let (mut on_it, mut waits) = (Vec::new(), Vec::new());
        for printer in 1..=printers {
            if below(3) > 0 {
                on_it.push(on(printer, printer, below(20) - 10));
            }
            waits.push(due(10 + printer, printer, 60 + below(300)));
            waits.push(due(20 + printer, printer, 60 + below(300)));
        }
        let route = [
            (Step::Wash, 4.0),
            (Step::SupportsOff, 3.0 + below(9) as f64),
            (Step::Cure, 6.0),
            (Step::Judge, 2.0),
        ];
        let copies = (1..=1 + below(2)).map(|n| {
            let behind = below(3) as usize;
            off(30 + n, below(12), &route[behind..])
        });
        let day = day(printers, on_it, waits, copies.collect());
        let minutes = 10 + below(11) as Minute;
        let back = 360 * MIN;
        let plain = Plain {
            at: 0,
            on: (1..=printers)
                .map(|id| {
                    let on = day.work.on.iter().find(|o| o.printer.0 == id)?;
                    Some((on.plate.0, (on.ends_ms / MIN).max(0) as Minute))
                })
                .collect(),
            waits: (1..=printers).map(|id| vec![10 + id, 20 + id]).collect(),
            off: day
                .off
                .iter()
                .map(|o| (o.plate.0, ((o.ready_ms / MIN) as Minute, 0)))
                .collect(),
            wash: 0,
            lamp: 0,
            hands: 0,
        };
        let nothing = left(&day, &plain, back);
        let (cost, hands) = brute(&day, &plain, (minutes, back), &mut orders);
        let found = day.in_hand(minutes, back).unwrap();
        assert!(found.did.len() <= 6, "{found:?}");
        assert!((nothing - cost - found.spares).abs() < 1e-6, "{found:?}");
        assert_eq!(found.minutes(), hands, "{found:?}");
        moved += usize::from(!found.did.is_empty());
    }
    assert!(
        orders > 2_000 && moved > 60,
        "{orders} orders, {moved} moved"
    );
}
