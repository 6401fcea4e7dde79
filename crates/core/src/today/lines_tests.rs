//! The order of the day sheet, over several projects.

use super::*;
use crate::army::Project;
use crate::army::progress::Progress;
use crate::flow::{PlanEffort, PlanScope, Run};
use crate::ids::{PlanId, ResinId, RunId, SettingVersionId};
use crate::units::{LayerHeight, Money};

const HOUR_MS: i64 = 3_600_000;

fn project(id: i64, name: &str, plates: Vec<Plate>) -> TodayProject {
    let run = |p: &Plate| Run::begun(RunId(p.id.0), p.id, p.id.0 * HOUR_MS);
    let began = plates.iter().filter(|p| p.state != PlateState::Planned);
    TodayProject {
        runs: began.map(|p| (p.id, run(p))).collect(),
        army: Army {
            project: Project {
                id: ProjectId(id),
                row_version: 1,
                name: name.into(),
            },
            units: Vec::new(),
            progress: Progress::default(),
        },
        plates,
        plan: None,
        draft: Vec::new(),
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
        resin_ml: 20.0,
        resin_g: 22.0,
        resin_cost: Money(100),
        hands_on_cost: Money(50),
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
    }
}

fn acts(facts: &TodayFacts) -> Vec<(Act, i64, i64)> {
    let all = lines(facts, 0);
    let told = all.iter().filter(|l| l.act != Act::AddUnit);
    told.map(|l| (l.act.clone(), l.project.0.0, l.plate.map_or(0, |p| p.id.0)))
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
