//! A day by hand: a start with its checks, a run that is held and looked at, finishing, judging in
//! part, a piece that is missing.

use wembrit_core::exposure::{Due, ExposureState};
use wembrit_core::finishing::{BatchAct, BatchState, Step};
use wembrit_core::flow::{FailedAt, FailureCause, Judgement, PlateState, PrintedCopy, Stage};
use wembrit_core::ids::{CopyId, PlateId, PrinterId};
use wembrit_core::running::{Answers, CheckItem};
use wembrit_core::workshop::practice::Question;
use wembrit_core::workshop::resin::WashAgent;
use wembrit_store::commands::judge_plate::Rest;
use wembrit_store::commands::run_plate::{StartSaid, While};
use wembrit_store::commands::{
    accept_plan, batches, judge_plate, practices, run_plate, vat_checks,
};
use wembrit_store::queries::{self, benches, plates};
use wembrit_store::{Conn, StoreError};

use crate::fresh::{Fresh, NOW};

const MIN: i64 = 60_000;
const HOUR: i64 = 60 * MIN;

struct Day {
    fresh: Fresh,
    plate: PlateId,
}

impl Day {
    /// One accepted plate with so many copies.
    fn new(copies: u32) -> Self {
        let fresh = Fresh::new(copies);
        let plan = fresh.draft().unwrap();
        fresh
            .store
            .write(|c| accept_plan::accept(c, plan, NOW))
            .unwrap();
        let all = fresh.store.read(|c| plates::accepted(c, fresh.project));
        let plate = all.unwrap().last().unwrap().id;
        Self { fresh, plate }
    }

    fn write<T>(&self, work: impl FnOnce(&mut Conn) -> Result<T, StoreError>) -> Result<T, String> {
        self.fresh.store.write(work).map_err(|e| e.to_string())
    }

    fn copies(&self) -> Vec<PrintedCopy> {
        let all = self.fresh.store.read(|c| plates::copies_of(c, self.plate));
        all.unwrap().into_iter().filter_map(|c| c.copy).collect()
    }

    fn state(&self) -> PlateState {
        let plate = self.fresh.store.read(|c| plates::load(c, self.plate));
        plate.unwrap().state
    }

    fn batch(&self) -> wembrit_core::finishing::Batch {
        let run = self.fresh.store.read(|c| plates::runs_of(c, &[self.plate]));
        let run = run.unwrap().remove(&self.plate).unwrap();
        let batch = self
            .fresh
            .store
            .read(|c| queries::batches::of_run(c, run.id));
        batch.unwrap().expect("a batch")
    }

    fn printed(copies: u32) -> Self {
        let day = Self::new(copies);
        day.write(|c| run_plate::log_run(c, day.plate, NOW, NOW + HOUR, NOW + HOUR))
            .unwrap();
        day
    }

    fn judge(&self, marked: &[(CopyId, Judgement)], rest_good: bool) -> Result<(), String> {
        let rest = if rest_good {
            Rest::Good { but: Vec::new() }
        } else {
            Rest::Later
        };
        self.write(|c| judge_plate::judge_some(c, self.plate, marked, &rest, NOW + 2 * HOUR))
    }
}

fn all_ticked() -> StartSaid {
    StartSaid {
        vat_ml: Some(140.0),
        room_c: Some(21.0),
        answers: Answers {
            ticked: CheckItem::ALL.to_vec(),
            passed: Vec::new(),
        },
    }
}

fn failed(cause: FailureCause) -> Judgement {
    Judgement::Failed {
        cause,
        at: None,
        layer: None,
        note: String::new(),
    }
}

/// A start keeps what was answered; one with an open check, or too little resin, changes nothing.
#[test]
fn a_start_is_checked_and_what_was_answered_is_kept() {
    let day = Day::new(3);
    let start = |said: &StartSaid| {
        day.write(|c| run_plate::start_checked(c, day.plate, said, NOW - HOUR, NOW))
    };
    let open = StartSaid {
        answers: Answers::default(),
        ..all_ticked()
    };
    assert!(start(&open).unwrap_err().contains("tick 'right plate'"));
    let dry = StartSaid {
        vat_ml: Some(5.0),
        ..all_ticked()
    };
    assert!(start(&dry).unwrap_err().contains("5 ml in the vat"));
    // A plate of 100 × 60 mm has a vat of 150 ml where nobody said otherwise.
    let much = StartSaid {
        vat_ml: Some(400.0),
        ..all_ticked()
    };
    assert!(start(&much).unwrap_err().contains("it takes 150 ml"));
    assert_eq!(day.state(), PlateState::Planned);
    let mut said = all_ticked();
    said.answers.ticked.retain(|i| *i != CheckItem::Levelled);
    said.answers.passed = vec![(CheckItem::Levelled, "levelled yesterday".into())];
    start(&said).unwrap();
    let run = day.fresh.store.read(|c| benches::running(c, day.plate));
    let run = run.unwrap().expect("it runs");
    assert_eq!((run.vat_ml, run.room_c), (Some(140.0), Some(21.0)));
    let kept = day.fresh.store.read(|c| benches::checks_of(c, run.id));
    let kept = kept.unwrap();
    assert_eq!(kept.len(), CheckItem::ALL.len());
    let of = |item: &str| kept.iter().find(|k| k.0 == item).unwrap().clone();
    assert_eq!(of("levelled").1, "passed over");
    assert_eq!(of("levelled").2, "levelled yesterday");
    assert_eq!(of("room").1, "computed");
    // The room is known for the day; the vat is proposed with what is left in it once it is off.
    day.write(|c| run_plate::finish(c, day.plate, NOW + HOUR, NOW + HOUR))
        .unwrap();
    let known = day
        .fresh
        .store
        .read(|c| queries::preflights::known(c, day.plate, NOW - HOUR));
    let known = known.unwrap();
    assert_eq!(known.room_c, Some(21.0));
    assert!((known.vat_left_ml().unwrap() - (140.0 - known.plate.resin_ml)).abs() < 1e-3);
}

/// Held for half an hour it ends half an hour later; what does not apply is refused.
#[test]
fn a_run_is_looked_at_held_and_gone_on_with() {
    let day = Day::new(2);
    let during = |what: While, at| day.write(|c| run_plate::during(c, day.plate, &what, at));
    assert!(
        during(While::Looked, NOW)
            .unwrap_err()
            .contains("does not run")
    );
    day.write(|c| run_plate::start(c, day.plate, NOW)).unwrap();
    during(While::Looked, NOW + 9 * MIN).unwrap();
    assert!(
        during(While::Resume, NOW)
            .unwrap_err()
            .contains("is not held")
    );
    during(While::Pause, NOW + 10 * MIN).unwrap();
    assert!(
        during(While::Pause, NOW)
            .unwrap_err()
            .contains("held already")
    );
    during(While::Resume, NOW + 40 * MIN).unwrap();
    assert!(
        during(While::GoOn(" ".into()), NOW)
            .unwrap_err()
            .contains("went wrong")
    );
    during(While::GoOn("a knock at each lift".into()), NOW + HOUR).unwrap();
    let run = day.fresh.store.read(|c| benches::running(c, day.plate));
    let run = run.unwrap().unwrap();
    assert_eq!(run.ends_at_ms(3600.0, NOW + 2 * HOUR), NOW + 90 * MIN);
    assert_eq!(run.looked_at_ms, Some(NOW + 9 * MIN));
    assert_eq!(day.fresh.store.read(benches::gone_on).unwrap(), (0, 0));
    let lose = |c: &mut Conn| {
        run_plate::lose(
            c,
            day.plate,
            FailureCause::StuckToFilm,
            Some(9),
            NOW + 2 * HOUR,
        )
    };
    day.write(lose).unwrap();
    assert_eq!(day.fresh.store.read(benches::gone_on).unwrap(), (1, 1));
}

/// A batch keeps what it is washed in when another practice is chosen later; the maker can say
/// otherwise until it is washed, and what is ahead follows.
#[test]
fn a_batch_keeps_what_it_is_washed_in() {
    let day = Day::printed(2);
    let minutes = |step| {
        let all = day.batch().steps;
        all.into_iter().find(|s| s.step == step).unwrap().minutes
    };
    assert_eq!(day.batch().washed_in, Some(WashAgent::Solvent));
    let (id, dry) = (day.batch().id, minutes(Step::Dry));
    day.write(|c| practices::answer(c, None, Question::Wash, Question::Wash.school("water")))
        .unwrap();
    assert_eq!(day.batch().washed_in, Some(WashAgent::Solvent));
    day.write(|c| batches::wash_in(c, id, WashAgent::Water))
        .unwrap();
    assert_eq!(day.batch().washed_in, Some(WashAgent::Water));
    assert!(minutes(Step::Dry) > 2.0 * dry);
    for _ in 0..3 {
        day.write(|c| batches::act(c, &[id], &BatchAct::End, NOW + HOUR))
            .unwrap();
    }
    let late = day.write(|c| batches::wash_in(c, id, WashAgent::Solvent));
    assert!(late.unwrap_err().contains("washed already"));
}

/// What came off goes its way; judged, nothing is before it any more.
#[test]
fn a_batch_opens_when_a_run_ends_and_closes_when_its_copies_are_judged() {
    let day = Day::printed(4);
    let batch = day.batch();
    assert_eq!(
        (batch.state(), batch.off_at_ms),
        (BatchState::Waiting, NOW + HOUR)
    );
    assert_eq!(batch.steps[0].step, Step::Drip);
    let act = |act: BatchAct, at| day.write(|c| batches::act(c, &[batch.id], &act, at));
    act(BatchAct::End, NOW + HOUR).unwrap();
    act(BatchAct::Begin, NOW + HOUR).unwrap();
    assert_eq!(day.batch().state(), BatchState::InHand);
    // The same batch named twice is one batch.
    let twice = [batch.id, batch.id];
    day.write(|c| batches::act(c, &twice, &BatchAct::Back, NOW + HOUR))
        .unwrap();
    assert_eq!(day.batch().state(), BatchState::Waiting);
    assert_eq!(day.batch().current().map(|s| s.step), Some(Step::Remove));
    act(BatchAct::Begin, NOW + HOUR).unwrap();
    let skip = BatchAct::Skip {
        reason: String::new(),
    };
    assert!(
        act(skip, NOW + HOUR)
            .unwrap_err()
            .contains("say why 'remove'")
    );
    day.write(|c| batches::count(c, batch.id, 4)).unwrap();
    assert_eq!(day.batch().counted, Some(4));
    // Another order: parts stay on the plate through the wash. What is under way stays where it is.
    let order: Vec<Step> = day.batch().steps.iter().map(|s| s.step).collect();
    let mut wrong = order.clone();
    wrong.swap(1, 2);
    let refused = day.write(|c| batches::reorder(c, batch.id, &wrong));
    assert!(refused.unwrap_err().contains("stays in its place"));
    day.judge(&[], true).unwrap();
    let closed = day.batch();
    assert_eq!(closed.state(), BatchState::Done);
    let washed = closed.steps.iter().find(|s| s.step == Step::Wash).unwrap();
    assert_eq!(washed.reason, "judged already");
    assert_eq!(day.fresh.store.read(queries::batches::open).unwrap(), []);
    day.write(|c| judge_plate::rejudge(c, day.plate, NOW + 3 * HOUR))
        .unwrap();
    assert_eq!(day.batch().current().map(|s| s.step), Some(Step::Judge));
}

/// Judged in part a plate stays printed; what is to be mended is good or failed later; a piece that
/// is missing stops its printer until somebody says what was found.
#[test]
fn a_plate_is_judged_in_part() {
    let day = Day::printed(5);
    let id = |n: usize| day.copies()[n].id;
    assert!(
        day.judge(&[], false)
            .unwrap_err()
            .contains("nothing was marked")
    );
    let mend = Judgement::ToMend {
        what: "glue the hand".into(),
        minutes: Some(5.0),
    };
    day.judge(
        &[
            (id(0), Judgement::Good),
            (id(1), mend),
            (id(2), Judgement::Missing),
        ],
        false,
    )
    .unwrap();
    assert_eq!(day.state(), PlateState::Printed);
    let stages: Vec<Stage> = day.copies().iter().map(|c| c.stage).collect();
    let off = Stage::InFinishing;
    assert_eq!(stages, [Stage::Good, off, off, off, off]);
    assert_eq!(
        (day.copies()[1].mend.as_str(), day.copies()[2].missing),
        ("glue the hand", true)
    );
    // The rest is good, but for these two.
    day.judge(&[(id(3), failed(FailureCause::BrokenAtSupports))], true)
        .unwrap();
    assert_eq!(day.state(), PlateState::Printed);
    assert_eq!(day.copies()[3].failed_at, Some(FailedAt::Supports));
    assert_eq!(day.copies()[4].stage, Stage::Good);

    let printer = PrinterId(1);
    let known = || {
        day.fresh
            .store
            .read(|c| queries::preflights::known(c, day.plate, NOW))
            .unwrap()
    };
    assert!(
        known().to_check.contains("is missing"),
        "{}",
        known().to_check
    );
    let look = |found: &str| day.write(|c| vat_checks::look(c, printer, found, NOW + 3 * HOUR));
    assert!(look("").unwrap_err().contains("say what was found"));
    look("the hand, under the film's edge").unwrap();
    assert_eq!(known().to_check, "");
    // Found broken, and the mend held: the plate is done.
    day.judge(
        &[
            (id(1), Judgement::Good),
            (id(2), failed(FailureCause::TornOff)),
        ],
        false,
    )
    .unwrap();
    assert_eq!(day.state(), PlateState::Done);
    assert!(day.copies().iter().all(|c| c.mend.is_empty() && !c.missing));
    // Judged again, a cause does not linger; a good copy may break later.
    let broke = |c: &mut Conn| judge_plate::fail_later(c, id(0), FailureCause::Other, "fell", NOW);
    day.write(broke).unwrap();
    assert_eq!(day.copies()[0].failed_at, Some(FailedAt::Use));
    assert!(day.write(broke).is_err());
}

/// A copy of another plate is not judged on this one, and nothing of the judgement is kept.
#[test]
fn a_judgement_of_a_copy_elsewhere_is_refused_whole() {
    let day = Day::printed(3);
    let mine = day.copies()[0].id;
    let above = Judgement::Failed {
        cause: FailureCause::Warped,
        at: None,
        layer: Some(1_000_000),
        note: String::new(),
    };
    assert!(
        day.judge(&[(mine, above)], true)
            .unwrap_err()
            .contains("the plate has")
    );
    let both = [(mine, Judgement::Good), (CopyId(999), Judgement::Good)];
    assert!(
        day.judge(&both, false)
            .unwrap_err()
            .contains("not on this plate")
    );
    assert_eq!(day.copies()[0].stage, Stage::InFinishing);
}

/// An exposure that was tested is fresh while plates come out well, and due when one does not, or
/// when nobody has printed with it for long.
#[test]
fn an_exposure_falls_due() {
    let day = Day::printed(3);
    let state = |after_ms: i64| {
        let of = |c: &mut Conn| {
            let all = queries::settings::list(c)?;
            let mut tested = all.into_iter().next().expect("a setting");
            tested.assumed = String::new();
            queries::exposures::state(c, &tested, NOW + after_ms)
        };
        day.fresh.store.read(of).unwrap()
    };
    assert_eq!(state(HOUR), ExposureState::Fresh);
    assert_eq!(state(70 * 24 * HOUR), ExposureState::Due(Due::Unused(70)));
    let copies = day.copies();
    day.judge(
        &[(copies[0].id, failed(FailureCause::BrokenAtRemoval))],
        false,
    )
    .unwrap();
    assert_eq!(state(HOUR), ExposureState::Fresh);
    day.judge(&[(copies[1].id, failed(FailureCause::Fused))], true)
        .unwrap();
    assert_eq!(state(HOUR), ExposureState::Due(Due::Suspect));
}
