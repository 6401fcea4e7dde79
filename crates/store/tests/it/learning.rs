//! What the workshop's log teaches: how long plates print, what hands take, which exposure is right.

use rstest::rstest;
use wembrit_core::exposure::{Due, ExposureState, ExposureTest, Tested};
use wembrit_core::flow::{FailureCause, Plate};
use wembrit_core::ids::{PlateId, PrinterId, ResinId};
use wembrit_core::learn::{JudgedTest, LadderPoint, Verdict};
use wembrit_core::workshop::ProcessSetting;
use wembrit_store::commands::exposures::Changed;
use wembrit_store::commands::print_times::{Printed, say};
use wembrit_store::commands::{accept_plan, exposures, hands, run_plate, settings};
use wembrit_store::queries::{self, demand, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const MIN: i64 = 60_000;
const HOUR: i64 = 60 * MIN;
const DAY: i64 = 24 * HOUR;

struct Log {
    fresh: Fresh,
}

impl Log {
    fn new() -> Self {
        Self {
            fresh: Fresh::new(4),
        }
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> Result<T, String> {
        self.fresh.store.write(work).map_err(|e| e.to_string())
    }

    fn read<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> T {
        self.fresh.store.read(work).unwrap()
    }

    /// A plate with everything that is wanted.
    fn plate(&self) -> Plate {
        let plan = self.fresh.draft().unwrap();
        self.write(|c| accept_plan::accept(c, plan, NOW)).unwrap();
        let all = self.read(|c| plates::accepted(c, self.fresh.project));
        all.into_iter().next_back().unwrap()
    }

    fn look(&self, id: PlateId) -> Plate {
        self.read(|c| plates::load(c, id))
    }

    /// A plate that is printed and fails, so that another one is wanted; what was reckoned of it, s.
    fn run(&self, day: i64, took_s: impl Fn(f64) -> f64) -> f64 {
        let plate = self.plate();
        let (reckoned_s, _) = plate.reckoned;
        let seconds = took_s(reckoned_s);
        let (from, to) = (
            NOW + day * DAY,
            NOW + day * DAY + (seconds * 1000.0) as i64 + HOUR,
        );
        self.write(|c| {
            run_plate::log_run(c, plate.id, from, to, to)?;
            say(c, plate.id, Printed::For(seconds), to)
        })
        .unwrap();
        self.fresh.fails(plate.id, to);
        reckoned_s
    }
}

/// Ten runs that took a tenth and five minutes longer: the next plate is expected so, wherever its time
/// stands, and more surely than before. A plate that is done says what it took.
#[test]
fn ten_runs_change_what_is_expected() {
    let log = Log::new();
    let first = log.plate();
    let before = first.time.around_s();
    assert!((first.seconds - first.reckoned.0).abs() < 1e-9 && first.time.runs == 0);
    log.write(|c| run_plate::lose(c, first.id, FailureCause::Warped, None, NOW))
        .unwrap();
    let took = |reckoned: f64| reckoned * 1.1 + 300.0;
    for day in 0..10 {
        log.run(day, took);
    }
    let next = log.plate();
    let (reckoned, _) = next.reckoned;
    assert!(
        (reckoned - first.reckoned.0).abs() < 1e-9,
        "what is reckoned stays"
    );
    assert!(
        (next.seconds / took(reckoned) - 1.0).abs() < 0.02,
        "{}",
        next.seconds
    );
    assert_eq!(next.time.runs, 10);
    assert!(next.time.around_s() < before / 2.0);
    // The packer and the schedule are told the same.
    let printer = next.printer;
    let own = log.read(|c| queries::printers::load(c, printer));
    assert!((own.pace.seconds(reckoned) - next.seconds).abs() < 1e-9);
    let facts = log.read(|c| demand::plan_facts(c, log.fresh.project, &[]));
    assert_eq!(facts.accepted_s[&printer], [next.seconds]);
    // Told by the maker's own program it is another matter.
    log.write(|c| {
        let told = wembrit_core::flow::Told {
            number: next.number,
            seconds: 7200.0,
            ml: None,
        };
        wembrit_store::commands::tell_plates::tell(c, log.fresh.project, &[told])
    })
    .unwrap();
    let told = log.look(next.id);
    assert_eq!((told.seconds, told.time.runs), (7200.0, 0));
    let at = NOW + 20 * DAY;
    log.write(|c| run_plate::log_run(c, next.id, at, at + 3 * HOUR, at + 3 * HOUR))
        .unwrap();
    log.write(|c| say(c, next.id, Printed::For(8000.0), at))
        .unwrap();
    let done = log.look(next.id);
    assert!(done.time.is_known() && (done.seconds - 8000.0).abs() < 1e-9);
    assert_eq!(
        log.read(|c| queries::printers::load(c, printer))
            .pace
            .runs(),
        10
    );
}

/// A figure is taken when it can be, and corrected when it was wrong.
#[rstest]
#[case::as_the_display_says(Printed::For(1.5 * 3600.0), Ok(5400.0))]
#[case::taken_off_at_once(Printed::ToItsEnd, Ok(7200.0))]
#[case::clocks_differ(Printed::For(2.2 * 3600.0), Ok(7920.0))]
#[case::longer_than_it_was_there(Printed::For(3.0 * 3600.0), Err("on the printer for only 2.0 h"))]
fn the_time_of_a_run_is_said(#[case] printed: Printed, #[case] known: Result<f64, &str>) {
    let log = Log::new();
    let plate = log.plate().id;
    let refused = log.write(|c| say(c, plate, printed, NOW)).unwrap_err();
    assert!(refused.contains("no such run"), "{refused}");
    log.write(|c| {
        run_plate::start(c, plate, NOW)?;
        run_plate::during(c, plate, &run_plate::While::Pause, NOW + HOUR)?;
        run_plate::during(c, plate, &run_plate::While::Resume, NOW + 2 * HOUR)
    })
    .unwrap();
    let refused = log.write(|c| say(c, plate, printed, NOW)).unwrap_err();
    assert!(refused.contains("not printed to the end"), "{refused}");
    let end = NOW + 3 * HOUR;
    log.write(|c| run_plate::finish(c, plate, end, end))
        .unwrap();
    let said = log.write(|c| say(c, plate, printed, end));
    match known {
        Ok(seconds) => {
            said.unwrap();
            let time = |log: &Log| log.look(plate).seconds;
            assert!((time(&log) - seconds).abs() < 1e-6);
            log.write(|c| say(c, plate, Printed::For(5000.0), end))
                .unwrap();
            assert!((time(&log) - 5000.0).abs() < 1e-6);
            assert_eq!(log.read(queries::paces::log).len(), 1);
        }
        Err(why) => assert!(said.unwrap_err().contains(why)),
    }
}

/// A plate that was lost whole and timed, put back and run again: what it takes is not what it took then.
#[test]
fn what_a_plate_took_is_of_its_last_run() {
    let log = Log::new();
    let plate = log.plate().id;
    let (end, later) = (NOW + 2 * HOUR, NOW + DAY);
    log.write(|c| {
        run_plate::start(c, plate, NOW)?;
        run_plate::lose(c, plate, FailureCause::Warped, None, end)?;
        say(c, plate, Printed::For(6000.0), end)
    })
    .unwrap();
    assert!(log.look(plate).time.is_known());
    log.write(|c| {
        run_plate::put_back(c, plate, later)?;
        run_plate::log_run(c, plate, later, later + HOUR, later + HOUR)
    })
    .unwrap();
    let again = log.look(plate);
    assert!(!again.time.is_known() && again.time.runs == 1);
}

fn setting(log: &Log) -> ProcessSetting {
    log.write(|c| settings::ensure_all(c, NOW)).unwrap();
    let all = log.read(queries::settings::list);
    all.into_iter().next().unwrap()
}

fn test(exposure_s: f64, verdict: Verdict, at_ms: i64) -> ExposureTest {
    ExposureTest {
        of: Tested::Layer,
        judged: JudgedTest {
            exposure_s,
            verdict,
        },
        room_c: Some(21.0),
        at_ms,
    }
}

/// Missing until somebody has tested it; due when film or resin change; fresh when it came out right
/// since. What is taken over is a new version, in which nothing else is confirmed.
#[test]
fn an_exposure_is_found_and_falls_due() {
    let log = Log::new();
    let known = setting(&log);
    let state = |at: i64| {
        log.read(|c| {
            let now = queries::settings::load(c, known.id)?;
            queries::exposures::state(c, &now, at)
        })
    };
    assert_eq!(state(NOW), ExposureState::Missing);
    log.write(|c| exposures::judge(c, known.id, &test(1.7, Verdict::Right, NOW), ""))
        .unwrap();
    let take = |version| {
        log.write(|c| exposures::take_over(c, known.id, Tested::Layer, 1.7, version, NOW))
    };
    take(known.number).unwrap();
    assert!(take(known.number).is_err(), "it was changed since");
    let now = log.read(|c| queries::settings::load(c, known.id));
    assert_eq!((now.number, now.timing.exposure_s), (known.number + 1, 1.7));
    assert!(now.exposure_confirmed() && now.assumed.contains("bottom_exposure_s"));
    assert_eq!(state(NOW + HOUR), ExposureState::Fresh);
    for (changed, due) in [
        (Changed::Film(PrinterId(1)), Due::NewFilm),
        (Changed::Resin(ResinId(1)), Due::NewResin),
    ] {
        log.write(|c| exposures::changed(c, changed, NOW + DAY))
            .unwrap();
        assert_eq!(state(NOW + DAY + HOUR), ExposureState::Due(due));
    }
    let again = test(1.7, Verdict::Right, NOW + 2 * DAY);
    log.write(|c| exposures::judge(c, known.id, &again, ""))
        .unwrap();
    assert_eq!(state(NOW + 2 * DAY), ExposureState::Fresh);
    let steps = [(1.5, 0.1), (2.0, 0.13)].map(|(exposure_s, depth_mm)| LadderPoint {
        exposure_s,
        depth_mm,
    });
    let of = |c: &mut Conn| queries::exposures::ladder(c, known.printer, known.resin);
    log.write(|c| exposures::measure(c, known.id, &steps, NOW))
        .unwrap();
    assert_eq!(log.read(of), steps);
    log.write(|c| exposures::forget_ladder(c, known.printer, known.resin))
        .unwrap();
    assert!(log.read(of).is_empty());
}

/// Taps at both ends, or a figure; a tap that was forgotten is no work of eleven hours.
#[test]
fn hands_are_timed() {
    let log = Log::new();
    let plate = log.plate().id;
    let minutes = |log: &Log| -> Vec<Option<f64>> {
        let all = log.read(|c| queries::hands::spells(c, plate));
        all.iter().map(|s| s.minutes).collect()
    };
    assert!(log.write(|c| hands::stop(c, plate, NOW)).is_err());
    log.write(|c| hands::begin(c, plate, NOW)).unwrap();
    assert!(log.write(|c| hands::begin(c, plate, NOW)).is_err());
    assert!(log.read(queries::hands::log).is_empty(), "it is under way");
    log.write(|c| hands::stop(c, plate, NOW + 12 * MIN))
        .unwrap();
    log.write(|c| hands::begin(c, plate, NOW + HOUR)).unwrap();
    let late = log
        .write(|c| hands::stop(c, plate, NOW + 12 * HOUR))
        .unwrap_err();
    assert!(late.contains("11 h ago"), "{late}");
    assert!(log.write(|c| hands::say(c, plate, f64::NAN, NOW)).is_err());
    log.write(|c| hands::say(c, plate, 20.0, NOW + 12 * HOUR))
        .unwrap();
    assert_eq!(minutes(&log), [Some(12.0), Some(20.0)]);
    let timed = log.read(queries::hands::log);
    assert_eq!(
        (timed.len(), timed[0].spent.minutes, timed[0].spent.copies),
        (1, 32.0, 4.0)
    );
    log.write(|c| hands::forget(c, plate)).unwrap();
    assert!(minutes(&log).is_empty());
}
