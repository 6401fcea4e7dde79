//! Schedules against worked cases, every order of small ones, and properties.

use proptest::prelude::*;
use rstest::rstest;

use super::*;
use crate::watch::Unwatched;

const DAY: Minute = 1440;
const HOUR: Minute = 60;

fn daily(of_a_day: &[(Minute, Minute)], days: Minute) -> Vec<Window> {
    let day = |d: Minute| {
        of_a_day.iter().map(move |(from, to)| Window {
            from: d * DAY + from,
            to: d * DAY + to,
        })
    };
    Shop::ordered((0..days).flat_map(day).collect())
}

/// One printer, plates of so many minutes, so many to load and as many to take off.
fn one_printer(prints: &[Minute], hands: Minute, attended: Vec<Window>) -> Shop {
    let job = |print: &Minute| Job {
        print: vec![Some(*print)],
        load: hands,
        unload: hands,
        weight: 1,
        ..Job::default()
    };
    Shop {
        machines: vec![Machine::default()],
        jobs: prints.iter().map(job).collect(),
        attended,
        quiet: Vec::new(),
    }
}

fn search(steps: u64) -> ScheduleSearch {
    ScheduleSearch {
        seed: 1,
        steps,
        tries: 100_000,
    }
}

fn best(shop: &Shop, steps: u64) -> Schedule {
    let found = search(steps).run(shop, &Unwatched, &mut |_| {}).unwrap();
    assert_eq!(check_schedule(shop, &found), []);
    found
}

fn proven(shop: &Shop) -> Minute {
    ScheduleBound::of(shop, best(shop, 3).ends(shop).last, &Unwatched).at
}

/// Worked by hand; day 1 is the first.
#[rstest]
#[case::the_long_one_first(&[5 * HOUR, 5 * HOUR, 9 * HOUR], 15, &[(8 * HOUR, 18 * HOUR)], (2, 13 * HOUR + 45))]
#[case::nights_are_long(&[14 * HOUR, 14 * HOUR, 2 * HOUR, 2 * HOUR, 2 * HOUR], 15, &[(8 * HOUR, 18 * HOUR)], (3, 8 * HOUR + 15))]
#[case::ten_short_ones(&[2 * HOUR; 10], 10, &[(7 * HOUR, 8 * HOUR), (18 * HOUR, 22 * HOUR)], (4, 18 * HOUR + 10))]
#[case::five_long_ones(&[270; 5], 10, &[(7 * HOUR, 8 * HOUR), (18 * HOUR, 22 * HOUR)], (3, 18 * HOUR + 10))]
fn worked_cases(
    #[case] prints: &[Minute],
    #[case] hands: Minute,
    #[case] of_a_day: &[(Minute, Minute)],
    #[case] (day, at): (Minute, Minute),
) {
    let shop = one_printer(prints, hands, daily(of_a_day, 12));
    let end = (day - 1) * DAY + at;
    assert_eq!(best(&shop, 3).ends(&shop).last, end);
    assert_eq!(proven(&shop), end);
}

/// With the nine hours last it is four hours later.
#[test]
fn the_order_decides() {
    let mut shop = one_printer(&[300, 300, 540], 15, daily(&[(480, 1080)], 12));
    shop.jobs[2].pin = Some(Pin {
        machine: 0,
        from: DAY,
    });
    assert_eq!(best(&shop, 3).ends(&shop).last, DAY + 17 * HOUR + 45);
}

/// The vat holds Y: YYXX changes once, XYXY each time.
#[test]
fn resins_are_changed_as_seldom_as_can_be() {
    let mut shop = one_printer(&[120; 4], 10, daily(&[(0, DAY)], 9));
    shop.machines[0].resin = Some(1);
    shop.machines[0].change = 25;
    for (job, resin) in shop.jobs.iter_mut().zip([0, 0, 1, 1]) {
        job.resin = Some(resin);
    }
    let changing =
        |of: &Schedule| -> Minute { of.slots.iter().map(|s| s.prints - s.load - 10).sum() };
    let found = best(&shop, 3);
    assert_eq!(changing(&found), 25);
    let mut layer = lay::Layer::new(&shop);
    for job in [0, 2, 1, 3] {
        let turn = lay::Turn {
            job,
            machine: 0,
            wait: 0,
        };
        layer.place(turn).unwrap();
    }
    assert_eq!(changing(&layer.laid), 100);
    assert_eq!(check_schedule(&shop, &layer.laid), []);
    assert!(found.ends(&shop) < layer.laid.ends(&shop));
    // A second vat stands ready: nothing is changed.
    shop.machines[0].change = 0;
    assert_eq!(changing(&best(&shop, 1)), 0);
}

/// What must not be left alone is printed while somebody is there; quiet hours keep machines still.
#[test]
fn attended_and_quiet_prints() {
    let mut shop = one_printer(&[180], 10, daily(&[(420, 480), (1080, 1320)], 3));
    assert_eq!(best(&shop, 0).slots[0].load, 420);
    shop.jobs[0].stay = 180;
    assert_eq!(best(&shop, 0).slots[0].load, 1080);
    shop.jobs[0].stay = 10;
    shop.quiet = daily(&[(0, 540), (1200, DAY)], 3);
    // At 7:00 it would print before quiet ends, in the evening until after it begins.
    let none = search(0).run(&shop, &Unwatched, &mut |_| {}).unwrap_err();
    assert_eq!(none, ScheduleError::NoWindow { job: 0 });
    shop.quiet = daily(&[(0, 420), (1290, DAY)], 3);
    assert_eq!(best(&shop, 0).slots[0].printed, 430 + 180);
}

/// Two machines, one pair of hands, something on one of them: all orders of all hand work.
fn small() -> impl Strategy<Value = Shop> {
    let job = (
        prop::collection::vec(prop::option::weighted(0.8, 60u32..900), 2),
        5u32..25,
        0u32..20,
        5u32..25,
        1u32..5,
    );
    (
        prop::collection::vec(job, 1..5),
        prop::option::of((0u32..600, 5u32..20)),
        0u32..90,
    )
        .prop_map(|(jobs, busy, shift)| Shop {
            machines: vec![
                Machine {
                    busy: busy.map(|(until, unload)| Busy { until, unload }),
                    ..Machine::default()
                },
                Machine::default(),
            ],
            jobs: jobs
                .into_iter()
                .map(|(mut print, load, stay, unload, weight)| {
                    if print.iter().all(Option::is_none) {
                        print[0] = Some(100);
                    }
                    Job {
                        print,
                        load,
                        stay,
                        unload,
                        weight,
                        ..Job::default()
                    }
                })
                .collect(),
            attended: daily(&[(420, 480 + shift), (1080, 1260)], 14),
            quiet: Vec::new(),
        })
}

/// What a machine is at: nothing, its first thing to be taken off, or a job.
#[derive(Clone, Copy, PartialEq)]
enum At {
    Empty,
    Prints {
        until: Minute,
        unload: Minute,
        of: Option<usize>,
    },
}

/// The least end over every order in which one pair of hands can do everything: each act as early
/// as it can be after the one before it. Every schedule is such an order.
fn brute(
    shop: &Shop,
    hands: Minute,
    left: &mut Vec<usize>,
    at: &mut Vec<At>,
    end: Minute,
    least: &mut Minute,
) {
    if end >= *least {
        return;
    }
    let over = |from: Minute, span: Minute| {
        let fits = |w: &&Window| w.from.max(from) + span <= w.to;
        shop.attended.iter().find(fits).map(|w| w.from.max(from))
    };
    if left.is_empty()
        && at
            .iter()
            .all(|a| matches!(a, At::Empty | At::Prints { of: None, .. }))
    {
        *least = end;
        return;
    }
    for machine in 0..at.len() {
        match at[machine] {
            At::Prints { until, unload, of } => {
                let Some(begin) = over(until.max(hands), unload) else {
                    continue;
                };
                let was = std::mem::replace(&mut at[machine], At::Empty);
                let done = begin + unload;
                let last = if of.is_some() { end.max(done) } else { end };
                brute(shop, done, left, at, last, least);
                at[machine] = was;
            }
            At::Empty => {
                for i in 0..left.len() {
                    let job = left[i];
                    let of = &shop.jobs[job];
                    let Some(print) = of.print[machine] else {
                        continue;
                    };
                    let Some(begin) = over(hands, of.load + of.stay) else {
                        continue;
                    };
                    left.swap_remove(i);
                    at[machine] = At::Prints {
                        until: begin + of.load + print,
                        unload: of.unload,
                        of: Some(job),
                    };
                    brute(shop, begin + of.load, left, at, end, least);
                    at[machine] = At::Empty;
                    left.push(job);
                    let last = left.len() - 1;
                    left.swap(i, last);
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// No order of hand work ends before the bound, and the search finds the best of them.
    #[test]
    fn small_shops_are_solved(shop in small()) {
        let found = best(&shop, 4).ends(&shop).last;
        let bound = ScheduleBound::of(&shop, found, &Unwatched).at;
        let at = shop.machines.iter().map(|m| m.busy.map_or(At::Empty, |b| At::Prints {
            until: b.until,
            unload: b.unload,
            of: None,
        }));
        let mut least = found + 1;
        let mut left = (0..shop.jobs.len()).collect();
        brute(&shop, 0, &mut left, &mut at.collect(), 0, &mut least);
        prop_assert!(bound <= least, "bound {bound}, and {least} can be");
        prop_assert_eq!(found, least);
    }

    /// Larger ones are sound, their bound holds, and threads change nothing.
    #[test]
    fn large_shops_are_sound(seed in 0u64..1000, jobs in 20usize..40, machines in 2usize..5) {
        let mut rng = crate::rng::Rng(seed);
        let mut some = |from: usize, to: usize| (from + rng.below(to - from)) as Minute;
        let job = |_| {
            let mut print: Vec<_> = (0..machines).map(|_| Some(some(100, 1100))).collect();
            print[0] = print[0].filter(|p| p % 3 > 0);
            Job { print, load: some(5, 20), stay: 10, unload: some(5, 20), weight: some(1, 6), resin: Some(some(0, 2)), ..Job::default() }
        };
        let shop = Shop {
            jobs: (0..jobs).map(job).collect(),
            machines: vec![Machine { change: 20, ..Machine::default() }; machines],
            attended: daily(&[(480, 780), (840, 1080)], 60),
            quiet: Vec::new(),
        };
        let first = best(&shop, 0);
        let ends = first.ends(&shop);
        let bound = ScheduleBound::of(&shop, ends.last, &Unwatched).at;
        prop_assert!(bound <= ends.last && bound > ends.last / 4, "{bound} of {}", ends.last);
    }
}

/// The same steps give the same schedule, whatever the threads.
#[test]
fn threads_change_nothing() {
    let mut shop = one_printer(
        &[200, 300, 400, 250, 350, 450, 500],
        15,
        daily(&[(480, 1080)], 30),
    );
    shop.machines = vec![Machine::default(); 2];
    for job in &mut shop.jobs {
        job.print = vec![job.print[0]; 2];
    }
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build();
        pool.unwrap().install(|| best(&shop, 2))
    };
    assert_eq!(with(1), with(3));
}

/// What cannot be is said.
#[rstest]
#[case::nobody_there(one_printer(&[60], 10, Vec::new()), ScheduleError::NoWindow { job: 0 })]
#[case::windows_too_short(one_printer(&[60], 40, daily(&[(400, 430)], 9)), ScheduleError::NoWindow { job: 0 })]
#[case::no_printer(Shop { machines: Vec::new(), ..one_printer(&[60], 10, daily(&[(0, 900)], 2)) }, ScheduleError::NoMachine { job: 0 })]
#[case::the_windows_end(one_printer(&[800, 800, 800], 10, daily(&[(400, 430)], 2)), ScheduleError::NoWindow { job: 1 })]
fn what_cannot_be_is_said(#[case] shop: Shop, #[case] why: ScheduleError) {
    assert_eq!(search(1).run(&shop, &Unwatched, &mut |_| {}), Err(why));
}

/// A deadline is possible, impossible, or neither is proven.
#[rstest]
#[case(2000, Some(true), 0)]
#[case(1880, Some(true), 0)]
#[case(1879, Some(false), 1)]
fn deadlines(#[case] deadline: u32, #[case] possible: Option<bool>, #[case] over: u32) {
    // Two plates of an hour, off one after the other at the start of the second day.
    let text = format!(
        r#"{{"name":"d","printers":[{{"id":"a"}},{{"id":"b"}}],"attended_min":[[420,440],[1850,1950]],
        "plates":[{{"id":"x","print_min":{{"a":300}},"load_min":5,"unload_min":15,"weight":1}},
        {{"id":"y","print_min":{{"b":300}},"load_min":5,"unload_min":15,"weight":1}}],
        "look_min":0,"deadline_min":{deadline}}}"#
    );
    let instance = ShopInstance::read(&text).unwrap();
    let found = best(&instance.shop, 2);
    let bound = ScheduleBound::of(&instance.shop, found.ends(&instance.shop).last, &Unwatched);
    let answer = instance.answer(&found, bound);
    assert_eq!(answer["deadline"]["possible"].as_bool(), possible);
    assert_eq!(answer["deadline"]["over_min"], over);
    assert_eq!(answer["bound_min"], 1880);
}

#[rstest]
#[case("{", "no JSON")]
#[case("{}", "'printers'")]
#[case(r#"{"printers":[{"id":"a"},{"id":"a"}]}"#, "printer 'a'")]
#[case(
    r#"{"printers":[{"id":"a","busy_until_min":-3}]}"#,
    "'busy_until_min' of printer 'a'"
)]
#[case(r#"{"printers":[],"plates":[{"id":"x"}]}"#, "'print_min' of plate 'x'")]
#[case(
    r#"{"printers":[],"plates":[],"attended_min":[[1]]}"#,
    "'attended_min'"
)]
fn what_is_wrong_is_named(#[case] text: &str, #[case] names: &str) {
    let why = ShopInstance::read(text).unwrap_err().to_string();
    assert!(why.contains(names), "{why}");
}

/// Replanned from now: what was kept stays in its order, what is new comes in, and another order is
/// taken only where it is worth it.
#[test]
fn a_kept_order_stays_unless_another_is_worth_it() {
    // Equal plates: every order ends alike, so the one that was kept stays.
    let shop = one_printer(&[200; 5], 10, daily(&[(480, 1320)], 9));
    let on = |kept: &[usize]| {
        let found = search(2).replan(&shop, kept, &Unwatched).unwrap();
        assert_eq!(check_schedule(&shop, &found), []);
        found.slots.iter().map(|s| s.job).collect::<Vec<_>>()
    };
    assert_eq!(on(&[3, 1, 4, 0, 2]), [3, 1, 4, 0, 2]);
    assert_eq!(
        on(&[3, 1, 4])
            .iter()
            .filter(|j| [3, 1, 4].contains(j))
            .collect::<Vec<_>>(),
        [&3, &1, &4]
    );
    // The nine hours last end a day's hours later: that is given up.
    let shop = one_printer(&[300, 300, 540], 15, daily(&[(480, 1080)], 12));
    let kept = search(3).replan(&shop, &[0, 1, 2], &Unwatched).unwrap();
    assert_eq!(kept.ends(&shop).last, DAY + 13 * HOUR + 45);
}

/// From moments to minutes and back: what is on a printer, a plate that waits, one nobody has tried.
#[test]
fn a_timetable_says_when_in_moments() {
    use crate::ids::{PlateId, PrinterId, ProjectId, ResinId};
    let min = |m: i64| 1_000_000 + m * 60_000;
    let due = |id: i64, hours: f64| Due {
        plate: PlateId(id),
        number: id,
        project: ProjectId(1),
        on: vec![(PrinterId(1), hours * 3600.0)],
        resin: ResinId(1),
        weight: 1,
        untried: false,
        not_before_ms: None,
    };
    let in_use = |id: i64| InUse {
        printer: PrinterId(id),
        holds: None,
        change_minutes: 25.0,
        change_ml: 15.0,
    };
    let mut work = Work {
        now_ms: min(0),
        printers: vec![in_use(1), in_use(2)],
        on: vec![OnPrinter {
            printer: PrinterId(1),
            plate: PlateId(9),
            number: 9,
            project: ProjectId(2),
            from_ms: min(-60),
            ends_ms: min(30),
        }],
        due: vec![due(1, 2.0), due(2, 10.0)],
        attended: (0..9)
            .map(|d| (min(d * 1440), min(d * 1440 + 600)))
            .collect(),
        quiet: Vec::new(),
        spare: Vec::new(),
        minutes: [10.0, 5.0, 10.0],
    };
    let table = |work: &Work| work.timetable(&[], search(2), &Unwatched).unwrap();
    let made = table(&work);
    let of = |t: &Timetable, plate: i64| *t.bars.iter().find(|b| b.plate.0 == plate).unwrap();
    assert_eq!(
        (of(&made, 9).load_ms, of(&made, 9).end_ms),
        (min(-60), min(35))
    );
    // Two hours, and then ten over the night.
    assert_eq!(
        (of(&made, 1).load_ms, of(&made, 1).end_ms),
        (min(35), min(170))
    );
    assert_eq!(
        (of(&made, 2).load_ms, of(&made, 2).end_ms),
        (min(170), min(1445))
    );
    assert_eq!(made.end_of(ProjectId(1)), Some(min(1445)));
    assert_eq!(made.acts().len(), 5);
    assert_eq!(work.bound(ProjectId(1), &made, &Unwatched).0, min(1445));
    // What only runs is not off before it is printed and taken off.
    assert_eq!(work.bound(ProjectId(2), &made, &Unwatched).0, min(35));
    // Nobody has tried it: somebody stays, so the ten hours begin with a window and are off in it.
    work.due = vec![Due {
        untried: true,
        ..due(2, 9.5)
    }];
    assert_eq!(of(&table(&work), 2).load_ms, min(1440));
    // Wanted not before the third day.
    work.due = vec![Due {
        not_before_ms: Some(min(3000)),
        ..due(2, 2.0)
    }];
    assert_eq!(of(&table(&work), 2).load_ms, min(3000));
    // The vat holds another resin: brought in once, with what that costs; not where a second vat
    // stands ready. No order ends before the one that was found.
    work.printers[0].holds = Some(ResinId(2));
    let both = |work: &mut Work| {
        work.due = vec![due(1, 2.0), due(2, 2.0)];
        let made = table(work);
        let end = made.end_of(ProjectId(1)).unwrap();
        assert_eq!(work.bound(ProjectId(1), &made, &Unwatched).0, end);
        (work.changes(&made), end)
    };
    let (changes, end) = both(&mut work);
    let change = changes[0];
    assert_eq!(changes.len(), 1);
    assert_eq!(
        (change.resin, change.minutes, change.ml),
        (ResinId(1), 25.0, 15.0)
    );
    work.printers[0].change_minutes = 0.0;
    work.printers[0].change_ml = 0.0;
    let (changes, sooner) = both(&mut work);
    assert_eq!((changes.len(), end - sooner), (0, 25 * 60_000));
    // What would help is worked out: a plate of nothing but spares left for later, and no printer
    // beside its own, since it has none.
    work.spare = vec![PlateId(2)];
    let asked = answers(&work, &[], &[ProjectId(1)], search(2), &Unwatched);
    let of = asked.unwrap().1.remove(0);
    let without = of.otherwise.iter().find(|o| o.0 == WhatIf::NoSpares);
    work.due.pop();
    assert_eq!(
        without.unwrap().1,
        table(&work).end_of(ProjectId(1)).unwrap()
    );
    assert!(of.otherwise.iter().all(|o| o.0 != WhatIf::AnyPrinter));
    // The spares of another project are not offered to this one.
    work.due.push(Due {
        project: ProjectId(3),
        ..due(2, 2.0)
    });
    let asked = answers(&work, &[], &[ProjectId(1)], search(2), &Unwatched);
    let of = asked.unwrap().1.remove(0);
    assert!(of.otherwise.iter().all(|o| o.0 != WhatIf::NoSpares));
}
