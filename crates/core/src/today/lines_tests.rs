//! The order of the day sheet, over several projects.

use rstest::rstest;

use super::*;
use crate::army::progress::Progress;
use crate::army::{Project, ProjectMoney};
use crate::cost_parts::{CostKind, CostParts};
use crate::finishing::{BatchAct, BatchStep, StepState};
use crate::flow::{PlanEffort, PlanScope, Run};
use crate::ids::{PlanId, ResinId, RunId, SettingVersionId};
use crate::learn::Expected;
use crate::stores::{Used, Wear};
use crate::units::{LayerHeight, Money, ResinUse};

const HOUR_MS: i64 = 3_600_000;

fn project(id: i64, name: &str, plates: Vec<Plate>) -> TodayProject {
    let run = |p: &Plate| Run {
        looked_at_ms: Some(0),
        ..Run::begun(RunId(p.id.0), p.id, p.id.0 * HOUR_MS)
    };
    let began = plates.iter().filter(|p| p.state != PlateState::Planned);
    TodayProject {
        runs: began.map(|p| (p.id, run(p))).collect(),
        army: Arc::new(Army {
            project: Project {
                id: ProjectId(id),
                row_version: 1,
                name: name.into(),
            },
            units: Vec::new(),
            progress: Progress::default(),
            money: ProjectMoney::default(),
        }),
        plates,
        plan: None,
        draft: Vec::new(),
        deadline_ms: None,
    }
}

/// A plate of eight hours, on a printer of that number.
fn plate(id: i64, state: PlateState, printer: i64) -> Plate {
    Plate {
        id: PlateId(id),
        row_version: 1,
        project: ProjectId(1),
        plan: PlanId(1),
        number: id,
        state,
        printer: PrinterId(printer),
        resin: ResinId(1),
        layer: LayerHeight::USUAL,
        setting: SettingVersionId(1),
        height_mm: 30.0,
        layers: 600,
        seconds: 8.0 * 3600.0,
        time: Expected::took(8.0 * 3600.0),
        resin_ml: 20.0,
        goes: ResinUse::default(),
        reckoned: (0.0, 0.0),
        resin_g: 22.0,
        costs: CostParts::of(CostKind::Resin, Money(100)).with(CostKind::Hands, Money(50)),
    }
}

fn facts(projects: Vec<TodayProject>) -> TodayFacts {
    let printer =
        |id: i64| Printer::assumed(PrinterId(id), &format!("P{id}"), [120.0, 68.0, 150.0]);
    TodayFacts {
        projects,
        printers: (1..4).map(printer).collect(),
        in_use: vec![PrinterId(1), PrinterId(2)],
        resins: Vec::new(),
        batches: Vec::new(),
        to_check: BTreeMap::new(),
        vats: BTreeMap::new(),
        worn: Vec::new(),
    }
}

fn acts(facts: &TodayFacts) -> Vec<(Act, i64, i64)> {
    let all = lines(facts, &[], 0);
    let told = all.iter().filter(|l| l.act != Act::AddUnit);
    told.map(|l| {
        (
            l.act.clone(),
            l.project.map_or(0, |p| p.0.0),
            l.plate.map_or(0, |p| p.id.0),
        )
    })
    .collect()
}

/// A plate running for the second project stands on the sheet, and keeps its printer busy for the
/// first.
#[test]
fn every_project_is_on_the_sheet() {
    let first = vec![
        plate(1, PlateState::Planned, 1),
        plate(2, PlateState::Planned, 2),
    ];
    let second = vec![
        plate(4, PlateState::Running, 1),
        plate(5, PlateState::Printed, 2),
    ];
    let sheet = facts(vec![project(1, "Levy", first), project(2, "Fen", second)]);
    let off = Act::TakeOff {
        ends_at_ms: 12 * HOUR_MS,
    };
    assert_eq!(
        acts(&sheet),
        [(Act::Judge, 2, 5), (off, 2, 4), (Act::Start, 1, 2)]
    );
}

/// What comes off first stands first, whichever project it is for; a printer out of use is not
/// started, and what is over asks for nothing.
#[test]
fn by_time_and_only_what_can_be_done() {
    let first = vec![
        plate(3, PlateState::Running, 1),
        plate(6, PlateState::Planned, 3),
        plate(7, PlateState::Lost, 2),
        plate(8, PlateState::Done, 2),
    ];
    let second = vec![plate(2, PlateState::Running, 2)];
    let sheet = facts(vec![project(1, "Levy", first), project(2, "Fen", second)]);
    let off = |hours: i64| Act::TakeOff {
        ends_at_ms: hours * HOUR_MS,
    };
    assert_eq!(acts(&sheet), [(off(10), 2, 2), (off(11), 1, 3)]);
}

/// A project that is wanted stands by its date, for as long as a model of it is open.
#[test]
fn what_is_wanted_stands_by_its_date() {
    let wanted = |complete: u64, by_ms: i64| {
        let mut of = project(1, "Levy", Vec::new());
        Arc::make_mut(&mut of.army).progress.models = 9;
        Arc::make_mut(&mut of.army).progress.complete = complete;
        of.deadline_ms = Some(by_ms);
        let sheet = facts(vec![of]);
        let told = lines(&sheet, &[], 0);
        let line = told
            .iter()
            .find(|l| matches!(l.act, Act::Wanted { open: 5, .. }));
        line.map(|l| l.act.when(0))
    };
    assert_eq!(wanted(4, HOUR_MS), Some(When::Next(HOUR_MS)));
    assert_eq!(wanted(4, -HOUR_MS), Some(When::Due(-HOUR_MS)));
    assert_eq!(wanted(9, HOUR_MS), None);
}

/// A plan that waits to be accepted, with what it takes; while it is computed there is nothing to
/// do about it.
#[test]
fn a_draft_waits_to_be_accepted() {
    let plan = |state| PlanRevision {
        id: PlanId(1),
        row_version: 1,
        project: ProjectId(1),
        revision: 3,
        state,
        fingerprint: String::new(),
        refusal: None,
        scope: PlanScope::default(),
        effort: PlanEffort::Anew,
        from: None,
        bound_seconds: 0.0,
        bound_plates: 0,
        first_seconds: None,
        better_found: 0,
        edits_held: 0,
    };
    let mut of = project(1, "Levy", Vec::new());
    of.draft = vec![
        plate(1, PlateState::Draft, 1),
        plate(2, PlateState::Draft, 1),
    ];
    of.plan = Some(plan(PlanState::Draft));
    let accept = Act::Accept {
        revision: 3,
        sums: PlateSums::of(&of.draft),
    };
    assert_eq!(acts(&facts(vec![of.clone()])), [(accept, 1, 0)]);
    of.plan = Some(plan(PlanState::Computing));
    assert_eq!(acts(&facts(vec![of])), []);
}

/// A batch of a plate that came off then, min, whose steps are remove 6, wash 4, dry 10, judge 3.
fn batch(plate: i64, off_min: i64) -> TodayBatch {
    let steps = [
        (Step::Remove, 6.0),
        (Step::Wash, 4.0),
        (Step::Dry, 10.0),
        (Step::Judge, 3.0),
    ];
    let step = |(step, minutes)| BatchStep {
        step,
        minutes,
        notes: Vec::new(),
        state: StepState::Ahead,
        began_at_ms: None,
        ends_at_ms: None,
        reason: String::new(),
    };
    TodayBatch {
        batch: Batch {
            id: BatchId(plate),
            row_version: 1,
            run: RunId(plate),
            plate: PlateId(plate),
            off_at_ms: off_min * MIN_MS,
            steps: steps.map(step).to_vec(),
            counted: None,
            washed_in: None,
        },
        to_mend: 0,
        mend_minutes: 0.0,
    }
}

const MIN_MS: i64 = 60_000;

fn after(of: TodayBatch, acts: &[(BatchAct, i64)]) -> TodayBatch {
    let batch = acts.iter().fold(of.batch, |b, (act, min)| {
        b.after(act, min * MIN_MS).unwrap()
    });
    TodayBatch { batch, ..of }
}

/// Twenty facts of a morning, at 10:00: what is overdue, what can be done, what comes, what waits.
#[test]
fn a_mornings_facts_give_these_lines_in_this_order() {
    let now = 600;
    let (begin, end) = (BatchAct::Begin, BatchAct::End);
    // Runs of eight hours: plate 1 began at 1:00, so it ended at 9:00; plate 2 at 2:30, to 10:30.
    let mut levy = project(
        1,
        "Levy",
        vec![
            plate(1, PlateState::Running, 1),
            plate(2, PlateState::Running, 2),
            plate(11, PlateState::Printed, 4),
            plate(12, PlateState::Printed, 4),
            plate(13, PlateState::Printed, 4),
            plate(14, PlateState::Printed, 4),
            plate(15, PlateState::Printed, 4),
            plate(16, PlateState::Done, 4),
            plate(17, PlateState::Lost, 4),
            plate(18, PlateState::Planned, 1),
            plate(19, PlateState::Planned, 4),
            plate(20, PlateState::Planned, 5),
        ],
    );
    levy.runs.insert(
        PlateId(2),
        Run {
            looked_at_ms: None,
            refill_after_s: Some(7.0 * 3600.0 + 1800.0),
            ..Run::begun(RunId(2), PlateId(2), 150 * MIN_MS)
        },
    );
    let mut fen = project(2, "Fen", vec![plate(3, PlateState::Running, 3)]);
    // Held for two hours: it ends at 13:00.
    fen.runs.insert(
        PlateId(3),
        Run {
            looked_at_ms: Some(1),
            paused_ms: 2 * HOUR_MS,
            ..Run::begun(RunId(3), PlateId(3), 3 * HOUR_MS)
        },
    );
    let mended = TodayBatch {
        to_mend: 2,
        mend_minutes: 8.0,
        ..after(
            batch(14, 500),
            &[(end.clone(), 506), (end.clone(), 510), (end.clone(), 520)],
        )
    };
    let mut sheet = facts(vec![levy, fen]);
    sheet.in_use = [1, 2, 3, 4].map(PrinterId).to_vec();
    sheet.batches = vec![
        mended,
        // Washing since 9:50, so until 9:54.
        after(batch(11, 580), &[(end.clone(), 586), (begin.clone(), 590)]),
        // Drying since 9:55, until 10:05.
        after(
            batch(12, 585),
            &[(end.clone(), 590), (end.clone(), 594), (begin.clone(), 595)],
        ),
        // Both wait to be removed: one pair of hands.
        batch(13, 595),
        batch(15, 598),
    ];
    sheet.to_check = BTreeMap::from([(PrinterId(4), "a sword is missing".to_owned())]);
    let all = lines(&sheet, &[], now * MIN_MS);
    let told: Vec<String> = all
        .iter()
        .map(|line| {
            let at = match line.act.when(now * MIN_MS) {
                When::Due(at) => format!("due {}:{:02}", at / HOUR_MS, at / MIN_MS % 60),
                When::Next(at) => format!("next {}:{:02}", at / HOUR_MS, at / MIN_MS % 60),
                When::Now => "now".to_owned(),
                When::Later => "later".to_owned(),
            };
            let what = match &line.act {
                Act::Look(Look::FirstLayers(_)) => "look".to_owned(),
                Act::Look(_) => "refill".to_owned(),
                Act::CheckVat(why) => format!("vat: {why}"),
                Act::Judge => "judge".to_owned(),
                Act::Mend(n, minutes) => format!("mend {n}, {minutes} min"),
                Act::TakeOff { .. } => "take off".to_owned(),
                Act::EndStep { step, .. } => format!("end {step}"),
                Act::BeginStep { step, minutes, .. } => format!("begin {step}, {minutes} min"),
                Act::Start => "start".to_owned(),
                Act::AddUnit => "add a unit".to_owned(),
                other => format!("{other:?}"),
            };
            let plate = line.plate.map_or(String::new(), |p| format!(" {}", p.id));
            format!("{at}: {what}{plate}")
        })
        .collect();
    assert_eq!(
        told,
        [
            "due 2:38: look 2",
            "due 9:00: take off 1",
            "due 9:54: end wash 11",
            "due 10:00: refill 2",
            "now: vat: a sword is missing",
            "now: begin remove, 6 min 13",
            "now: judge 14",
            "next 10:05: end dry 12",
            "next 10:06: begin remove, 6 min 15",
            "next 10:30: take off 2",
            "next 13:00: take off 3",
            "later: mend 2, 8 min 14",
            "later: start 19",
            "later: add a unit",
            "later: add a unit",
        ]
    );
}

/// Resin that has stood for three days is told of, unless the next plate there takes it: plates of
/// another resin that wait do not hide it.
#[rstest]
#[case::nothing_waits(None, None, true)]
#[case::its_own_resin_is_next(Some(1), Some(1), false)]
#[case::another_resin_is_next(Some(2), Some(1), true)]
#[case::nobody_knows_what_it_is(None, Some(1), false)]
fn a_vat_that_stands_is_told_of(
    #[case] holds: Option<i64>,
    #[case] next: Option<i64>,
    #[case] told: bool,
) {
    let day = 24 * HOUR_MS;
    let planned = next.map(|resin| Plate {
        resin: ResinId(resin),
        ..plate(1, PlateState::Planned, 2)
    });
    let mut sheet = facts(vec![project(1, "Levy", planned.into_iter().collect())]);
    let vat = StandingVat {
        since_ms: 0,
        resin: holds.map(ResinId),
    };
    // The third printer is out of use.
    sheet.vats = [2, 3].map(|id| (PrinterId(id), vat)).into();
    let idle = |now: i64| -> Vec<(i64, &str)> {
        let all = lines(&sheet, &[], now).into_iter();
        all.filter_map(|l| match l.act {
            Act::IdleVat(days) => Some((days, l.printer)),
            _ => None,
        })
        .collect()
    };
    assert_eq!(idle(3 * day - 1), []);
    let expected: &[(i64, &str)] = if told { &[(4, "P2")] } else { &[] };
    assert_eq!(idle(4 * day), expected);
}

/// The next start of a free printer is the schedule's.
#[test]
fn the_schedule_says_what_starts_next() {
    let planned = [1, 2, 3].map(|id| plate(id, PlateState::Planned, 1 + i64::from(id == 3)));
    let sheet = facts(vec![project(1, "Levy", planned.to_vec())]);
    let starts = |turn: &[i64]| -> Vec<i64> {
        let turn: Vec<PlateId> = turn.iter().map(|id| PlateId(*id)).collect();
        let all = lines(&sheet, &turn, 0).into_iter();
        let starts = all.filter(|l| l.act == Act::Start);
        starts.filter_map(|l| Some(l.plate?.id.0)).collect()
    };
    assert_eq!(starts(&[]), [1, 3]);
    assert_eq!(starts(&[9, 2, 3, 1]), [2, 3]);
    assert_eq!(starts(&[3]), [1, 3]);
}

/// What is due is a line; what ends in the next plate of its printer too, in a later one not yet.
#[test]
fn what_is_worn_out_is_a_line() {
    let plates = vec![
        plate(1, PlateState::Planned, 1),
        plate(2, PlateState::Planned, 1),
        plate(3, PlateState::Planned, 2),
    ];
    let mut facts = facts(vec![project(1, "Levy", plates)]);
    let worn = |kind, printer: Option<i64>, worn, ends_in: Option<i64>| Worn {
        wear: Wear::usual(kind, printer.map(PrinterId)),
        used: Used::default(),
        worn,
        ends_in: ends_in.map(PlateId),
    };
    facts.worn = vec![
        worn(WearKind::Film, Some(1), 0.8, Some(2)),
        worn(WearKind::Film, Some(2), 0.8, Some(3)),
        worn(WearKind::Bath, None, 1.0, Some(1)),
        worn(WearKind::Gloves, None, 0.95, Some(2)),
    ];
    let all = lines(&facts, &[], 0);
    let told = all.iter().filter_map(|l| match l.act {
        Act::Replace(kind, _) => Some((kind, l.on)),
        _ => None,
    });
    let told: Vec<_> = told.collect();
    let film = (WearKind::Film, Some(PrinterId(2)));
    assert_eq!(told, [film, (WearKind::Bath, None)]);
}
