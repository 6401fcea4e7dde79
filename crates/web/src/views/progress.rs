//! What stands finished, what holds the rest back, what to print next, and how long the rest takes.

use std::collections::{BTreeMap, HashMap};

use askama::Template;
use wembrit_core::army::miniatures::{BuildStep, reached};
use wembrit_core::army::{Army, ArmyModel, ArmyUnit};
use wembrit_core::flow::{Plate, PlateState};
use wembrit_core::ids::{ModelId, PartId, PlateId, ProjectId, SculptId};
use wembrit_core::progress::{
    Expected, Lack, OnPlate, ReadyPlate, coming, held_back, plates_left, print_next,
};
use wembrit_core::schedule::{Timetable, Work};
use wembrit_core::sculpt::SculptFacts;
use wembrit_paper::{BurnUp, draw_burn_up};
use wembrit_store::queries::pages::progress::ProgressPage;

use super::Page;
use super::chance::whole;
use super::muster::figures;
use super::show::{self, hours};
use super::unit_leaf::UnitLeaf;

const DAY_MS: f64 = 86_400_000.0;

/// Hours that are asked for where nobody says any: an evening and the night after it.
const USUAL_HOURS: f64 = 12.0;

/// One part that holds a model back.
pub(crate) struct LackRow {
    pub(crate) part: PartId,
    /// `6 heads short`.
    pub(crate) short: String,
    /// Where they are: words, and the plate they lead to.
    pub(crate) on: Vec<(String, PlateId)>,
    /// What is on no plate.
    pub(crate) none: String,
}

pub(crate) struct BoardModel {
    pub(crate) id: ModelId,
    pub(crate) name: String,
    pub(crate) drawing: String,
    pub(crate) complete: String,
    /// How many are built, primed, painted, based.
    pub(crate) built: String,
    pub(crate) lacks: Vec<LackRow>,
    /// Pieces from elsewhere that are missing.
    pub(crate) pieces: Vec<String>,
    /// Nothing says what it is made of.
    pub(crate) has_no_parts: bool,
}

pub(crate) struct BoardUnit {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) complete: String,
    pub(crate) is_done: bool,
    pub(crate) models: Vec<BoardModel>,
}

/// Models that are sent at once.
const MODELS_ON_A_LEAF: usize = 150;

/// A plate that may be printed next.
pub(crate) struct NextRow {
    pub(crate) plate: PlateId,
    pub(crate) number: i64,
    pub(crate) printer: String,
    pub(crate) hours: String,
    /// What it completes if it comes out alone.
    pub(crate) adds: String,
    pub(crate) chosen: bool,
}

/// The page.
#[derive(Template)]
#[template(path = "muster/progress.html")]
pub(crate) struct ProgressView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) complete: String,
    /// Models built, primed, painted, based, or beyond.
    pub(crate) steps: Vec<(&'static str, u64)>,
    pub(crate) models: u64,
    pub(crate) held: usize,
    pub(crate) left: u32,
    pub(crate) half: String,
    pub(crate) range: String,
    pub(crate) drawing: String,
    pub(crate) hours: String,
    pub(crate) fault: String,
    pub(crate) now: u64,
    /// With what runs, and is in finishing.
    pub(crate) soon: u64,
    pub(crate) then: u64,
    pub(crate) next: Vec<NextRow>,
    /// Plates that do not fit into the time.
    pub(crate) too_long: usize,
    pub(crate) units: Vec<BoardUnit>,
    pub(crate) leaf: UnitLeaf,
    /// When plates that wait are printed is not known yet.
    pub(crate) unfinished: bool,
}

/// Copies of a project on plates that are not judged, by part, with when they come off: by the schedule, and until that is
/// there by the end of the run.
fn on_plates(
    data: &ProgressPage,
    times: Option<&Timetable>,
    now_ms: i64,
) -> BTreeMap<PartId, Vec<OnPlate>> {
    let off = |plate: PlateId| {
        let bar = times.and_then(|t| t.bars.iter().find(|b| b.plate == plate));
        let on = data.scheduled.plates.iter().find(|w| w.plate.id == plate);
        let ends = on.and_then(|w| Some(w.run.as_ref()?.ends_at_ms(w.plate.seconds, now_ms)));
        bar.map(|b| b.end_ms).or(ends)
    };
    let mut all: BTreeMap<PartId, Vec<OnPlate>> = BTreeMap::new();
    for plate in &data.plates {
        for (part, copies) in data.on.get(&plate.id).into_iter().flatten() {
            all.entry(*part).or_default().push(OnPlate {
                plate: plate.id,
                number: plate.number,
                copies: *copies,
                off_ms: off(plate.id),
                runs: plate.state == PlateState::Running,
                in_finishing: plate.state == PlateState::Printed,
            });
        }
    }
    all
}

impl ProgressView {
    /// The units that are drawn.
    pub(crate) fn leaf(army: &Army, from: usize) -> UnitLeaf {
        // Of a unit that is done there is one line.
        let size = |u: &ArmyUnit| {
            let is_done = u.progress.complete == u.progress.models;
            if is_done { 1 } else { u.models.len() }
        };
        let sizes: Vec<usize> = army.units.iter().map(size).collect();
        UnitLeaf::new(&sizes, MODELS_ON_A_LEAF, from)
    }

    pub(crate) fn new(
        page: Page,
        (data, measured): (&ProgressPage, &HashMap<SculptId, SculptFacts>),
        (work, times): (&Work, Option<&Timetable>),
        (typed, from): (&str, usize),
        now_ms: i64,
    ) -> Self {
        let on = on_plates(data, times, now_ms);
        let army = &data.army;
        let leaf = Self::leaf(army, from);
        let units: Vec<BoardUnit> = army.units[leaf.from..leaf.to]
            .iter()
            .map(|u| board_unit((data, measured), u, &on, (&page, now_ms)))
            .collect();
        let models: Vec<&ArmyModel> = army.units.iter().flat_map(|u| &u.models).collect();
        let typed_hours = typed.trim().replace(',', ".").parse::<f64>().ok();
        let asked = typed_hours.filter(|h| (0.1..=2000.0).contains(h));
        let horizon = asked.unwrap_or(USUAL_HOURS);
        let waiting: Vec<&Plate> = data
            .plates
            .iter()
            .filter(|p| p.state == PlateState::Planned)
            .collect();
        let ready: Vec<ReadyPlate> = waiting
            .iter()
            .map(|p| ReadyPlate {
                plate: p.id,
                printer: p.printer,
                seconds: p.seconds,
                adds: data.on.get(&p.id).cloned().unwrap_or_default(),
            })
            .collect();
        let next = print_next(
            &models,
            &coming(&on, now_ms + (horizon * 3_600_000.0) as i64),
            &ready,
            horizon * 3600.0,
        );
        let alone: HashMap<PlateId, u64> = next.alone.iter().copied().collect();
        let printer = |plate: &Plate| {
            let all = data.scheduled.printers.iter();
            all.into_iter()
                .find(|p| p.id == plate.printer)
                .map_or_else(|| "a printer out of use".into(), |p| p.name.clone())
        };
        let row = |plate: &&&Plate| {
            Some(NextRow {
                plate: plate.id,
                number: plate.number,
                printer: printer(plate),
                hours: hours(plate.seconds),
                adds: adds(alone.get(&plate.id)?.saturating_sub(next.soon)),
                chosen: next.best.contains(&plate.id),
            })
        };
        let rows: Vec<NextRow> = waiting.iter().filter_map(|p| row(&p)).collect();
        let burn = Burn::of(data, whole(data, work, times).left, now_ms);
        let step = |step: BuildStep| {
            let of = |m: &&ArmyModel| {
                let standing = data.miniatures.get(&m.model.id);
                standing.map_or(0, |all| reached(all, m, step)) as u64
            };
            (step.as_str(), models.iter().map(of).sum())
        };
        let p = army.progress;
        Self {
            unfinished: false,
            id: army.project.id,
            complete: format!("{}/{}", p.complete, p.models),
            steps: [
                BuildStep::Built,
                BuildStep::Primed,
                BuildStep::Painted,
                BuildStep::Based,
            ]
            .map(step)
            .to_vec(),
            models: p.models,
            held: data.off_ms.len(),
            left: burn.left,
            half: burn.words(&page, now_ms, |e| e.median),
            range: match burn.expected.filter(|_| burn.left > 0) {
                None => String::new(),
                Some(_) => format!(
                    "{} to {}",
                    burn.words(&page, now_ms, |e| e.range[0]),
                    burn.words(&page, now_ms, |e| e.range[1])
                ),
            },
            drawing: burn.draw(data, &page, now_ms),
            hours: crate::forms::plain(horizon),
            fault: if asked.is_none() && !typed.trim().is_empty() {
                format!("Write hours from 0.1 to 2000; these are {USUAL_HOURS:.0}.")
            } else {
                String::new()
            },
            now: next.now,
            soon: next.soon,
            then: next.then,
            too_long: waiting.len() - rows.len(),
            next: rows,
            units,
            leaf,
            page,
        }
    }
}

fn board_unit(
    (data, measured): (&ProgressPage, &HashMap<SculptId, SculptFacts>),
    unit: &ArmyUnit,
    on: &BTreeMap<PartId, Vec<OnPlate>>,
    (page, now_ms): (&Page, i64),
) -> BoardUnit {
    let model = |m: &ArmyModel| {
        let minis = data
            .miniatures
            .get(&m.model.id)
            .map_or(&[][..], Vec::as_slice);
        let at = |step: BuildStep| reached(minis, m, step);
        let built: Vec<String> = [BuildStep::Built, BuildStep::Painted, BuildStep::Based]
            .into_iter()
            .filter(|s| at(*s) > 0)
            .map(|s| format!("{} {s}", at(s)))
            .collect();
        let pieces = m.pieces.iter().filter_map(|p| {
            let needed = m.takers(p.option).saturating_mul(p.count);
            let short = needed.saturating_sub(p.at_hand);
            (short > 0).then(|| format!("{short} {}: {}", p.name.to_lowercase(), p.source))
        });
        BoardModel {
            id: m.model.id,
            name: m.model.name.clone(),
            drawing: figures(m, measured),
            complete: format!("{}/{}", m.progress.complete, m.progress.models),
            built: built.join(", "),
            lacks: held_back(m, on)
                .iter()
                .map(|l| lack_row(l, page, now_ms))
                .collect(),
            has_no_parts: m.parts.is_empty() && m.pieces.is_empty(),
            pieces: pieces.collect(),
        }
    };
    let p = unit.progress;
    BoardUnit {
        id: unit.unit.id.0,
        name: unit.unit.name.clone(),
        complete: format!("{} of {}", p.complete, p.models),
        is_done: p.complete == p.models && p.models > 0,
        models: unit.models.iter().map(model).collect(),
    }
}

fn lack_row(lack: &Lack, page: &Page, now_ms: i64) -> LackRow {
    let on = lack.on.iter().map(|o| {
        let words = match (o.in_finishing, o.off_ms) {
            (true, _) => format!("{} off plate {}, to be judged", o.copies, o.number),
            (false, Some(off)) => format!(
                "{} on plate {}, off {}",
                o.copies,
                o.number,
                show::near(off, now_ms, &page.zone)
            ),
            (false, None) => format!("{} on plate {}", o.copies, o.number),
        };
        (words, o.plate)
    });
    let none = match (lack.on_none, lack.no_file) {
        (0, _) => String::new(),
        (n, true) => format!("{n} without a file"),
        (n, false) => format!("{n} on no plate"),
    };
    LackRow {
        part: lack.part,
        short: format!("{} × {}", lack.short, lack.name.to_lowercase()),
        on: on.collect(),
        none,
    }
}

/// How long the rest takes by the plates that came off.
struct Burn {
    left: u32,
    days: f64,
    expected: Option<Expected>,
}

impl Burn {
    fn of(data: &ProgressPage, left: u32, now_ms: i64) -> Self {
        let days = data.begun_ms.map_or(0.0, |b| (now_ms - b) as f64 / DAY_MS);
        let done = u32::try_from(data.off_ms.len()).unwrap_or(u32::MAX);
        Self {
            left,
            days,
            expected: plates_left(done, days, left),
        }
    }

    fn words(&self, page: &Page, now_ms: i64, of: fn(&Expected) -> f64) -> String {
        match self.expected.filter(|_| self.left > 0) {
            None => String::new(),
            Some(e) => show::day(now_ms + (of(&e).min(36_500.0) * DAY_MS) as i64, &page.zone),
        }
    }

    fn draw(&self, data: &ProgressPage, page: &Page, now_ms: i64) -> String {
        let Some(begun) = data.begun_ms.filter(|_| !data.off_ms.is_empty()) else {
            return String::new();
        };
        let since = |ms: i64| (ms - begun) as f64 / DAY_MS;
        draw_burn_up(&BurnUp {
            off_days: data.off_ms.iter().map(|ms| since(*ms)).collect(),
            today: self.days,
            left: self.left,
            expected: self.expected,
            wanted: data.deadline_ms.map(since),
            words: [
                show::day(begun, &page.zone),
                "today".into(),
                self.words(page, now_ms, |e| e.median),
                data.deadline_ms.map_or_else(String::new, |ms| {
                    format!("wanted {}", show::day(ms, &page.zone))
                }),
            ],
        })
    }
}

/// What a plate adds alone.
fn adds(more: u64) -> String {
    match more {
        0 => "completes none alone".into(),
        n => format!("completes {n} more"),
    }
}
