use rstest::rstest;

use super::*;
use crate::learn::simulated::{Truth, normal};
use crate::rng::Rng;

/// What happens to a printer from a run on.
#[derive(Debug, Clone, Copy)]
enum Happens {
    /// Nothing.
    Nothing,
    /// Each further run takes half a hundredth longer: a rail, a fan, a filling vat.
    Drift,
    /// Runs take a twentieth longer in a room that is 7 °C colder.
    Cold,
}

/// A log of `before` runs as the printer is, and `after` with what happens.
fn log(rng: &mut Rng, what: Happens, before: usize, after: usize) -> Vec<LoggedRun> {
    let truth = Truth::drawn(rng);
    (0..before + after)
        .map(|n| {
            let since = (n + 1).saturating_sub(before) as f64;
            let mut time = truth.run(rng);
            let (times, room) = match what {
                Happens::Nothing => (1.0, 21.0),
                Happens::Drift => (1.0 + 0.005 * since, 21.0),
                Happens::Cold if since > 0.0 => (1.0 + 0.05, 14.0),
                Happens::Cold => (1.0, 21.0),
            };
            time.actual_s *= times;
            LoggedRun {
                at_ms: n as i64,
                time,
                room_c: Some(room + normal(rng)),
            }
        })
        .collect()
}

/// The run after which a change is told for the first time.
fn told_at(log: &[LoggedRun]) -> Option<usize> {
    (1..=log.len()).find(|n| Pace::learned(&log[..*n]).change().is_some())
}

fn flagged(what: Happens, seeds: u64, before: usize, after: usize) -> usize {
    let one = |seed: &u64| {
        let log = log(&mut Rng(seed * 104_729 + 5), what, before, after);
        let at = told_at(&log);
        at.is_some_and(|at| matches!(what, Happens::Nothing) || at > before)
    };
    (0..seeds).filter(one).count()
}

#[rstest]
#[case::drift(Happens::Drift)]
#[case::cold(Happens::Cold)]
fn a_change_is_told_in_time(#[case] what: Happens) {
    let told = flagged(what, 1000, 15, FLAGGED_WITHIN);
    assert!(told >= 950, "{told} of 1000 within {FLAGGED_WITHIN}");
}

#[test]
fn printers_that_stay_as_they_are_are_left_alone() {
    let told = flagged(Happens::Nothing, 1000, 40, 0);
    assert!(told < 50, "{told} of 1000");
}

/// Nine of ten further runs come out within the range that pages show, with any number logged.
#[rstest]
#[case(0)]
#[case(1)]
#[case(3)]
#[case(10)]
#[case(40)]
fn the_range_holds_what_it_says(#[case] logged: usize) {
    let within = (0..1000).filter(|seed| {
        let mut log = log(&mut Rng(seed * 7919 + 17), Happens::Nothing, logged + 1, 0);
        let next = log.pop().expect("one more").time;
        let time = Pace::learned(&log).expect(next.reckoned_s);
        (next.actual_s - time.seconds()).abs() <= time.around_s()
    });
    let share = within.count();
    assert!(
        (870..=930).contains(&share),
        "{share} of 1000 with {logged}"
    );
}

/// Ten runs into the cold the range holds for the printer as it is now, and says why it moved.
#[test]
fn after_a_change_the_printer_as_it_is_now_counts() {
    let (mut told, mut within) = (0, 0);
    for seed in 0..400 {
        let mut log = log(&mut Rng(seed * 31 + 7), Happens::Cold, 15, 11);
        let next = log.pop().expect("one more").time;
        let pace = Pace::learned(&log);
        let Some(change) = pace.change() else {
            continue;
        };
        told += 1;
        let time = pace.expect(next.reckoned_s);
        within += usize::from((next.actual_s - time.seconds()).abs() <= time.around_s());
        assert!(change.runs == pace.runs() && change.runs < 25);
    }
    assert!(told > 380 && within * 100 > told * 85, "{within} of {told}");
    let log = log(&mut Rng(11), Happens::Cold, 15, 8);
    let pace = Pace::learned(&log);
    let change = pace.change().expect("a change");
    let [now, before] = change.cold.expect("a cold room");
    assert!((change.times - 1.05).abs() < 0.02 && now < 16.0 && before > 19.0);
}

/// What no run can be is not learned from, and plates together are off by more than one and less than
/// the sum of them.
#[test]
fn plates_together_are_less_off_than_each() {
    let log = log(&mut Rng(3), Happens::Nothing, 10, 0);
    let pace = Pace::learned(&log);
    let mut odd = log.clone();
    odd.push(LoggedRun {
        time: TimedRun {
            reckoned_s: 3600.0,
            actual_s: 36_000.0,
        },
        ..log[0]
    });
    assert_eq!(Pace::learned(&odd), pace);
    let plates: Vec<Expected> = [2.0, 5.0, 7.0].map(|h| pace.expect(h * 3600.0)).into();
    let together = Expected::around_together_s(&plates);
    let each = |e: &Expected| e.around_s();
    assert!(together < plates.iter().map(each).sum::<f64>());
    assert!(together > plates.iter().map(each).fold(0.0, f64::max));
    let known = Expected::took(600.0);
    assert!(known.is_known() && known.around_s() == 0.0);
    assert_eq!(Expected::around_together_s([&known]), 0.0);
}
