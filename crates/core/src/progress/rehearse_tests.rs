//! Chances by hand and by the binomial; what is stated comes true as often as stated.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::odds::{Judged, believed};
use crate::progress::{WhatIf, answers};

const DAY: f64 = 86_400.0;

/// A share that is known: as good as after a thousand million copies.
fn exactly(share: f64) -> Posterior {
    Posterior {
        a: 1e9 * share,
        b: 1e9 * (1.0 - share),
    }
}

/// One copy on each of some plates, all on one printer; somebody is there for an hour each day, and a plate takes twenty.
fn daily(plates: usize, holds: f64) -> Rest {
    Rest {
        plates: (0..plates).map(|i| plate(20.0, &[(i, 1)])).collect(),
        missing: (0..plates).map(|_| missing(1, 1.0)).collect(),
        holds: exactly(holds),
        machines: 1,
        windows: (0..60)
            .map(|d| [f64::from(d) * DAY, f64::from(d) * DAY + 3600.0])
            .collect(),
        load_s: 300.0,
        unload_s: 300.0,
        finish_s: 0.0,
    }
}

fn plate(hours: f64, copies: &[(usize, u32)]) -> RestPlate {
    RestPlate {
        machine: Some(0),
        seconds: hours * 3600.0,
        spread: 0.0,
        runs: false,
        copies: copies.to_vec(),
    }
}

fn missing(copies: u32, odds: f64) -> Missing {
    Missing {
        copies,
        odds: exactly(odds),
        machine: 0,
        seconds: 20.0 * 3600.0,
        per_plate: 1,
        unit: 0,
    }
}

/// The design's figures: six good plates wanted, each held with 90 %: 85.0 % in seven slots, 96.2 % in eight
/// (scipy 1.17, `binom.sf(5, 7, .9)` and `binom.sf(5, 8, .9)`: 0.8503, 0.9619); in six, 53.1 %.
#[rstest]
#[case(6, 0.531)]
#[case(7, 0.850)]
#[case(8, 0.962)]
fn six_plates_in_so_many_slots(#[case] slots: u32, #[case] chance: f64) {
    let played = rehearse(&daily(6, 0.9), 40_000, 7);
    // What was put on in the last slot comes off in the next window.
    let by = played.chance_by(f64::from(slots) * DAY + 3600.0);
    assert!((by - chance).abs() < 0.006, "{by}");
}

/// By hand: nothing fails, so every plate takes a day; two printers halve it; an hour of finishing comes on top.
#[test]
fn without_losses_it_is_arithmetic() {
    let mut rest = daily(6, 1.0);
    rest.finish_s = 3600.0;
    let end = |rest: &Rest| rehearse(rest, 10, 1).ends_s;
    assert_eq!(end(&rest), vec![6.0 * DAY + 300.0 + 3600.0; 10]);
    let usual = exactly(1.0);
    let two = rest.changed(&WhatIf::AnotherPrinter(0), usual);
    assert_eq!(end(&two)[0], 3.0 * DAY + 300.0 + 3600.0);
    // Layers of 0.03 in place of 0.05 take 33 hours: every second day.
    let thin = rest.changed(&WhatIf::Layers(5.0 / 3.0), usual);
    assert_eq!(end(&thin)[0], 12.0 * DAY + 300.0 + 3600.0);
    // Somebody in the evening too, 21 hours after the morning: nothing is won, a plate is off 20:05 after it was put on.
    let evenings = (0..60).map(|d| {
        [
            f64::from(d) * DAY + 12.0 * 3600.0,
            f64::from(d) * DAY + 22.0 * 3600.0,
        ]
    });
    let more = rest.changed(&WhatIf::MoreHours(evenings.collect()), usual);
    assert!(end(&more)[0] < 6.0 * DAY);
    let proven = rest.changed(&WhatIf::ProveFirst(2), usual);
    assert_eq!(
        end(&proven)[0],
        end(&rest)[0],
        "the copy that proves it counts"
    );
    for missing in &mut rest.missing {
        missing.copies = 0;
    }
    assert_eq!(end(&rest)[0], 0.0);
}

/// A printer that has nothing to do yet prints again what fails on another: how printers are numbered changes nothing.
#[rstest]
#[case(0, 1)]
#[case(1, 0)]
fn who_waits_for_another_prints_again(#[case] prints: usize, #[case] again: usize) {
    let mut rest = daily(2, 1.0);
    rest.machines = 2;
    for (plate, missing) in rest.plates.iter_mut().zip(&mut rest.missing) {
        plate.machine = Some(prints);
        (missing.machine, missing.odds) = (again, exactly(0.5));
    }
    let ends = rehearse(&rest, 2_000, 3).ends_s;
    assert!(ends.iter().all(|end| end.is_finite()));
    // By hand: in two days the first copy has two chances, one on each printer, and the second has one: 3/4 · 1/2.
    let soon = ends.iter().filter(|end| **end < 2.5 * DAY).count() as f64 / 2_000.0;
    assert!((soon - 0.375).abs() < 0.035, "{soon}");
}

/// A unit is left out: its plates are not printed, that of another project is all the same.
#[test]
fn plates_of_others_stay() {
    let mut rest = daily(2, 1.0);
    rest.missing[0].unit = 1;
    rest.plates.insert(0, plate(20.0, &[]));
    let left = rest.changed(&WhatIf::WithoutUnit(1), exactly(1.0));
    assert_eq!(left.plates, [plate(20.0, &[]), plate(20.0, &[(1, 1)])]);
    assert_eq!(rehearse(&left, 4, 1).ends_s[0], 2.0 * DAY + 300.0);
}

/// A copy that fails is printed again; where nobody is ever there, nothing ends.
#[test]
fn what_fails_is_printed_again() {
    let mut rest = daily(1, 1.0);
    rest.missing = vec![missing(4, 0.5)];
    rest.missing[0].per_plate = 4;
    rest.plates = vec![plate(20.0, &[(0, 4)])];
    let played = rehearse(&rest, 40_000, 3);
    // All four at once, by hand: 1/16.
    assert!((played.chance_by(1.5 * DAY) - 0.0625).abs() < 0.005);
    assert!(played.by(0.99).is_some());
    // Eight on the first plate: at least four good of eight, 163/256.
    rest.plates[0].copies[0].1 = 8;
    let more = rehearse(&rest, 40_000, 3);
    assert!((more.chance_by(1.5 * DAY) - 163.0 / 256.0).abs() < 0.01);
    rest.windows.clear();
    assert_eq!(rehearse(&rest, 10, 3).by(0.5), None);
}

#[test]
fn the_same_seed_says_the_same_and_changes_are_told_in_order() {
    let rest = daily(6, 0.9);
    assert_eq!(rehearse(&rest, 500, 5), rehearse(&rest, 500, 5));
    assert_ne!(rehearse(&rest, 500, 5), rehearse(&rest, 500, 6));
    let asked = [
        WhatIf::Layers(2.0),
        WhatIf::AnotherPrinter(0),
        WhatIf::WithoutUnit(0),
    ];
    let moment = 3.5 * DAY;
    let told = answers(&rest, &asked, (exactly(0.9), moment), (500, 5));
    let chances: Vec<f64> = told.iter().map(|a| a.chance).collect();
    assert_eq!(told[0].what, WhatIf::WithoutUnit(0));
    assert_eq!(chances[0], 1.0);
    assert_eq!(told[2].what, WhatIf::Layers(2.0));
    assert!(chances[1] > rehearse(&rest, 500, 5).chance_by(moment));
}

/// Workshops whose truth is drawn, with a log of what came out: of those moments by which the rehearsals said 80 %,
/// between 75 and 85 % come true.
#[test]
fn what_is_stated_comes_true() {
    let mut rng = Rng(11);
    let workshop = Judged {
        good: 90,
        failed: 10,
    };
    let (mut said, mut true_) = (0, 0);
    for project in 0..1_000 {
        let before = believed(Judged { good: 0, failed: 0 }, workshop);
        let truth = drawn(before, &mut rng);
        let log = (0..12).fold(Judged::default(), |mut log, _| {
            log.add(rng.share() >= truth);
            log
        });
        let rest = |odds: Posterior| Rest {
            plates: (0..3)
                .map(|_| RestPlate {
                    spread: 0.1,
                    ..plate(6.0, &[(0, 4)])
                })
                .collect(),
            missing: vec![Missing {
                odds,
                per_plate: 4,
                seconds: 6.0 * 3600.0,
                ..missing(12, 0.0)
            }],
            windows: vec![[0.0, 400.0 * DAY]],
            ..daily(1, 0.97)
        };
        let learned = believed(log, workshop);
        let played = rehearse(&rest(learned), 300, project);
        let Some(moment) = played.by(0.8) else {
            continue;
        };
        let chance = played.chance_by(moment);
        if !(0.78..=0.82).contains(&chance) {
            continue;
        }
        said += 1;
        let came = rehearse(&rest(exactly(truth)), 1, rng.next());
        true_ += usize::from(came.ends_s[0] <= moment);
    }
    let share = f64::from(true_ as u32) / f64::from(said);
    assert!(said > 900, "{said}");
    assert!((0.75..=0.85).contains(&share), "{share} of {said}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Chances grow with time and with odds, and end at the latest moment that was rehearsed.
    #[test]
    fn chances_are_chances(plates in 1usize..5, holds in 0.2f64..1.0, seed: u64) {
        let played = rehearse(&daily(plates, holds), 60, seed);
        let mut last = 0.0;
        for day in 0..40 {
            let chance = played.chance_by(f64::from(day) * DAY);
            prop_assert!((last..=1.0).contains(&chance));
            last = chance;
        }
        if let Some(end) = played.by(1.0) {
            prop_assert_eq!(played.chance_by(end), 1.0);
        }
        prop_assert!(played.ends_s[0] >= plates as f64 * 20.0 * 3600.0);
    }
}
