//! One plate's sheet.

use crate::currency::Amount;
use std::collections::{BTreeMap, HashSet};

use askama::Template;
use wembrit_core::army::part_name;
use wembrit_core::cost::mean;
use wembrit_core::flow::{
    CauseCard, FailureCause, Plate, PlateCopy, PlateState, PrintedCopy, Run, RunOutcome, Stage,
    free_before, plate_code,
};
use wembrit_core::geometry::Quarter;
use wembrit_core::ids::{CopyId, PartId, PlateId};
use wembrit_core::plan::concerns::{Concern, ConcernState, concerns};
use wembrit_core::plan::is_slender_in;
use wembrit_core::plan::layout::peak_of;
use wembrit_core::running::evidence::{OwnPull, RunFigures, differences, evidence, printed};
use wembrit_core::units::Money;
use wembrit_core::workshop::{Printer, Resin};
use wembrit_paper::{DrawnCopy, PlateDrawing, draw_plate_sheet, ramp_class};
use wembrit_store::queries::pages::plates::{ByHand, PlateSheet, Remedy};

use super::Page;
use super::concerns::ConcernList;
use super::judging::{Judged, JudgedPart};
use super::opened::{OpenedRow, opened};
use super::orphans::orphan_words;
use super::shapes::{Shapes, key, label};
use super::show::{self, give_or_take, hours, known_by, tenth};
use super::which_copy::WhichCopy;

/// One line of the bill of parts.
pub(crate) struct BillRow {
    pub(crate) keys: String,
    pub(crate) class: String,
    pub(crate) name: String,
    pub(crate) unit: String,
    pub(crate) copies: usize,
    pub(crate) mm: String,
    pub(crate) ml: String,
    pub(crate) each: String,
    pub(crate) failed: Vec<String>,
}

/// One plate's sheet.
#[derive(Template)]
#[template(path = "plates/plate.html")]
pub(crate) struct PlateView {
    pub(crate) page: Page,
    pub(crate) plate: Plate,
    pub(crate) state: &'static str,
    pub(crate) project: String,
    pub(crate) of: i64,
    pub(crate) code: String,
    /// What was reckoned here, where something else is expected.
    pub(crate) reckoned: String,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) drawing: String,
    pub(crate) bill: Vec<BillRow>,
    pub(crate) copies: usize,
    pub(crate) hours: String,
    /// How far off that may be.
    pub(crate) around: String,
    /// By what it is known.
    pub(crate) known_by: String,
    /// For how long it printed, as it was typed.
    pub(crate) printed: String,
    /// Why the time that its printer says is not taken; empty where it is.
    pub(crate) time_doubt: String,
    /// It was printed to its end: for how long can be said, or corrected.
    pub(crate) asks_time: bool,
    pub(crate) ml: String,
    pub(crate) grams: String,
    /// Its resin by where it goes, and by which figures that is known.
    pub(crate) goes: String,
    pub(crate) goes_by: String,
    /// It can be weighed.
    pub(crate) weighs: bool,
    pub(crate) cost: String,
    /// What that is made of.
    pub(crate) opened: Vec<OpenedRow>,
    pub(crate) each: String,
    pub(crate) run: String,
    pub(crate) ends: String,
    pub(crate) started_field: String,
    pub(crate) ended_field: String,
    /// Sculpt, finding and reason of what was put aside on this plate's sculpts.
    pub(crate) put_aside: Vec<(String, String, String)>,
    /// What stands open about its parts, before it is started.
    /// Copies on it that nobody wants any more.
    pub(crate) orphans: String,
    pub(crate) concerns: ConcernList,
    pub(crate) judged: Vec<JudgedPart>,
    pub(crate) cause: String,
    pub(crate) causes: Vec<&'static str>,
    pub(crate) fault: String,
    /// What can be done by hand, while the plan is a draft.
    pub(crate) hand: Option<Hand>,
    pub(crate) fill: String,
    pub(crate) peak: String,
    /// Until it is started.
    pub(crate) kept_clear: Option<KeptClear>,
    /// What went wrong, cause by cause.
    pub(crate) wrong: Vec<WrongRow>,
    /// What was different the last time it went well.
    pub(crate) differs: Vec<String>,
    pub(crate) good_plate: i64,
    pub(crate) remedies: Vec<Remedy>,
    /// Photographs: number and what is on them.
    pub(crate) photos: Vec<(i64, String)>,
    /// Copies that can be on a photograph.
    pub(crate) on_photo: WhichCopy,
    /// Copies that were good, and may break later.
    pub(crate) sound: WhichCopy,
    /// Why it broke and what was noted of it, where that was refused.
    pub(crate) broke: Option<(FailureCause, String)>,
}

/// A cause that copies of a plate failed for.
pub(crate) struct WrongRow {
    pub(crate) cause: FailureCause,
    pub(crate) copies: usize,
    pub(crate) card: CauseCard,
    pub(crate) said: Vec<String>,
}

/// What is said of the quarter that slender parts are kept out of, and how many of them stand in it.
pub(crate) struct KeptClear {
    pub(crate) quarter: Quarter,
    pub(crate) slender: usize,
}

impl KeptClear {
    fn of(printer: &Printer, drawn: &PlateDrawing) -> Option<Self> {
        let quarter = printer.kept_clear?;
        let size = [drawn.width_mm, drawn.depth_mm];
        let is_in =
            |c: &&DrawnCopy| is_slender_in(quarter, size, c.at_mm, (c.height_mm, &c.outline));
        let slender = drawn.copies.iter().filter(is_in).count();
        Some(Self { quarter, slender })
    }
}

/// Height above the plate at which a run stopped, mm; nothing where it went to its end.
fn stopped_at_mm(data: &PlateSheet) -> Option<f64> {
    let layer = data.run.as_ref()?.stopped_at_layer?;
    Some(layer as f64 * data.plate.layer.mm())
}

/// Causes of a plate's failures, the most frequent first, with what its run says of each.
fn wrong(data: &PlateSheet, figures: &RunFigures) -> Vec<WrongRow> {
    let stopped = stopped_at_mm(data);
    let copies = data.shown.on(data.plate.id);
    let own = |copy: &PlateCopy| {
        let key = (copy.sculpt, copy.recipe_version);
        let loads = &data.shown.prepared.get(&key)?.part.loads;
        let pull = peak_of(printed(&loads.pull, stopped)).1;
        (pull > 0.0).then(|| OwnPull {
            name: label(copy),
            pull,
        })
    };
    let mut counts: BTreeMap<FailureCause, (usize, Option<OwnPull>)> = BTreeMap::new();
    for copy in copies.iter().filter(|c| c.failed()) {
        let cause = copy.copy.as_ref().and_then(|c| c.cause.as_deref());
        let cause = cause.and_then(|word| word.parse().ok());
        let of = counts.entry(cause.unwrap_or(FailureCause::Unsaid));
        let (many, hardest) = of.or_default();
        *many += 1;
        let harder = |o: &OwnPull| hardest.as_ref().is_none_or(|h| o.pull > h.pull);
        if let Some(own) = own(copy).filter(harder) {
            *hardest = Some(own);
        }
    }
    let row = |(cause, (copies, hardest)): (FailureCause, (usize, Option<OwnPull>))| WrongRow {
        cause,
        copies,
        card: cause.card(),
        said: evidence(cause, hardest.as_ref(), figures),
    };
    let mut rows: Vec<WrongRow> = counts.into_iter().map(row).collect();
    rows.sort_by_key(|r| std::cmp::Reverse(r.copies));
    rows
}

/// What stands open about the parts on a plate, or was put aside.
fn about(data: &PlateSheet) -> Vec<Concern> {
    let Some((army, facts)) = &data.concerns else {
        return Vec::new();
    };
    let on = data.shown.on(data.plate.id);
    let parts: HashSet<PartId> = on.iter().map(|c| c.placed.part).collect();
    let mut all = concerns(army, facts);
    all.retain(|c| c.is_about(&parts));
    all
}

/// Hours and millilitres as they were reckoned, where something else is expected: by the log of the
/// printer, or as it was told.
fn reckoned(plate: &Plate) -> String {
    let (seconds, ml) = plate.reckoned;
    let words = |seconds, ml: f64| format!("{} h, {ml:.1} ml", show::hours(seconds));
    let by_layers = words(seconds, ml);
    if by_layers == words(plate.seconds, plate.resin_ml) {
        return String::new();
    }
    by_layers
}

/// Its resin by where it goes; empty where that was not kept apart.
fn goes_words(plate: &Plate, change_ml: Option<f64>) -> String {
    let of = plate.goes;
    if !of.is_split() {
        return String::new();
    }
    let parts = [
        ("parts", of.part_ml),
        ("supports", of.support_ml),
        ("drained", of.film_ml),
        ("besides", of.waste_ml),
    ];
    let words = parts.map(|(name, ml)| format!("{name} {}", tenth(ml)));
    let inside = if of.inside_ml > 0.05 {
        format!(" · {} ml more stays inside", tenth(of.inside_ml))
    } else {
        String::new()
    };
    let change = change_ml.map(|ml| format!(" · a change of resin {}", tenth(ml)));
    words.join(" · ") + &inside + &change.unwrap_or_default()
}

/// By which figures of a resin its volume is known.
fn goes_by(resin: &Resin) -> String {
    let of = resin.facts;
    let weighed = match of.weighed.prints {
        0 => String::new(),
        _ => format!(", times {:.3} as weighed", of.weighed.times),
    };
    format!(
        "cured {:.2} g/ml, liquid {:.2}{weighed}; a film of {} mm drains",
        of.cured_g_per_ml, of.density_g_per_ml, of.film_mm
    )
}

/// What was put aside on the sculpts of a plate, and in its project about its parts.
fn put_aside(data: &PlateSheet, about: &[Concern]) -> Vec<(String, String, String)> {
    let of_project = about.iter().filter_map(|c| match &c.state {
        ConcernState::PutAside(reason) => {
            Some((c.model.1.clone(), c.words.clone(), reason.clone()))
        }
        ConcernState::Open => None,
    });
    let told_already = |(_, _, reason): &(String, String, String)| {
        !data.put_aside.iter().any(|(_, _, other)| other == reason)
    };
    let more = of_project.filter(told_already);
    data.put_aside.iter().cloned().chain(more).collect()
}

/// What is to be kept in mind of a plate, beside its drawing: what stands open, and what was put
/// aside with its reason.
pub(crate) fn in_mind(data: &PlateSheet) -> Vec<String> {
    let about = about(data);
    let open = about.iter().filter(|c| c.state == ConcernState::Open);
    let open = open.map(|c| format!("{}: {}", c.model.1, c.words));
    let aside = put_aside(data, &about).into_iter();
    let aside = aside.map(|(of, words, reason)| format!("{of}: {words} ({reason})"));
    open.chain(aside).collect()
}

/// What stands open before a plate is started; afterwards it is too late.
fn before_start(data: &PlateSheet, about: &[Concern]) -> ConcernList {
    let waits = matches!(data.plate.state, PlateState::Draft | PlateState::Planned);
    let open = about
        .iter()
        .filter(|c| waits && c.state == ConcernState::Open);
    let open: Vec<Concern> = open.cloned().collect();
    let then = format!("/plates/{}", data.plate.id);
    ConcernList::new(data.plate.project, then, &open)
}

/// The tools of a plate that is arranged by hand.
pub(crate) struct Hand {
    pub(crate) revision: i64,
    pub(crate) undo: Option<String>,
    pub(crate) redo: Option<String>,
    pub(crate) pinned: usize,
    /// Part, name, copies in the pool.
    pub(crate) pool: Vec<(PartId, String, u64)>,
    /// Every copy, for those who do not pick in the plan.
    pub(crate) picked: WhichCopy,
}

impl Hand {
    fn new(hand: &ByHand, copies: &[PlateCopy]) -> Self {
        let [undo, redo] = hand.around.clone();
        let name = |part: &PartId| hand.names.get(part).cloned().unwrap_or_default();
        let pool = hand.edit.layout.pool.iter();
        Self {
            revision: hand.plan.revision,
            undo,
            redo,
            pinned: hand.edit.copies.iter().filter(|c| c.pinned).count(),
            pool: pool.map(|(part, n)| (*part, name(part), *n)).collect(),
            picked: WhichCopy {
                id: "picked",
                field: "key",
                none: "none: click one, or step with . and ,",
                sorting: None,
                typed: String::new(),
                copies: copies.iter().map(|c| (c.placed.key, label(c))).collect(),
            },
        }
    }
}

impl PlateView {
    pub(crate) fn new(page: Page, data: &PlateSheet, now_ms: i64) -> Self {
        let about = about(data);
        let plate = &data.plate;
        let copies = data.shown.on(plate.id);
        let shapes = Shapes::new(&data.shown);
        let printer = data.shown.printers.get(&plate.printer);
        let mut drawing = shapes.drawing(plate);
        drawing.load = printer.and_then(|p| shapes.load_of(p, copies));
        drawing.by_hand = data.hand.is_some();
        let inside = printer.map_or(f64::INFINITY, |p| {
            let volume = p.build_volume();
            volume.width_mm * volume.depth_mm
        });
        let covered: f64 = drawing.copies.iter().map(|c| c.outline.area_mm2()).sum();
        let peak_up_to = |mm: Option<f64>| {
            let load = drawing.load.as_ref();
            load.map(|l| peak_of(printed(&l.pull, mm)).1)
        };
        let peak = peak_up_to(None);
        let failed = data.failed.as_ref();
        let figures = failed.map(|f| RunFigures {
            peak_pull: peak_up_to(stopped_at_mm(data)),
            ..f.figures.clone()
        });
        let name_of = |id: CopyId| {
            let of = copies
                .iter()
                .find(|c| c.copy.as_ref().is_some_and(|c| c.id == id));
            of.map_or_else(String::new, label)
        };
        let running = data.run.as_ref().filter(|r| r.ended_at_ms.is_none());
        let ends_ms = running.map(|r| r.ends_at_ms(plate.seconds, now_ms));
        let each = mean(plate.cost(), copies.len() as u64).unwrap_or(plate.cost());
        let length_ms = (plate.seconds / 60.0).ceil() as i64 * 60_000;
        let minute_ms = now_ms - now_ms.rem_euclid(60_000);
        let (started, ended) = free_before(&data.taken, length_ms, minute_ms);
        Self {
            state: state_word(plate.state),
            project: page
                .project
                .as_ref()
                .map_or_else(String::new, |p| p.name.clone()),
            of: data.of,
            printer: data.shown.printer(plate).to_owned(),
            resin: data.shown.resin(plate).to_owned(),
            kept_clear: printer
                .filter(|_| matches!(plate.state, PlateState::Draft | PlateState::Planned))
                .and_then(|p| KeptClear::of(p, &drawing)),
            drawing: draw_plate_sheet(&drawing),
            bill: bill(plate, copies, &shapes),
            copies: copies.len(),
            hours: hours(plate.seconds),
            around: give_or_take(plate.time.around_s()),
            known_by: known_by(&plate.time, data.shown.printer(plate)),
            printed: String::new(),
            time_doubt: data.time_doubt.map_or_else(String::new, |doubt| {
                format!("The print time that the printer reports was not used: {doubt}. Enter the time, or leave it open.")
            }),
            asks_time: data
                .run
                .as_ref()
                .is_some_and(|r| plate.is_printed() && r.stopped_at_layer.is_none()),
            ml: tenth(plate.resin_ml),
            goes: goes_words(plate, data.change_ml),
            goes_by: data
                .shown
                .resins
                .get(&plate.resin)
                .map_or_else(String::new, goes_by),
            weighs: matches!(plate.state, PlateState::Printed | PlateState::Done),
            grams: tenth(plate.resin_g),
            cost: plate.cost().written(),
            opened: opened(&plate.costs, data.took.and_then(|t| t.planned).as_ref()),
            each: each.written(),
            run: run_words(data.run.as_ref(), &page),
            ends: ends_ms.map_or_else(String::new, |ms| show::near(ms, now_ms, &page.zone)),
            started_field: show::field(started, &page.zone),
            ended_field: show::field(ended, &page.zone),
            reckoned: reckoned(&data.plate),
            code: plate_code(
                data.shown
                    .copies
                    .get(&data.plate.id)
                    .map_or(&[], Vec::as_slice),
            ),
            put_aside: put_aside(data, &about),
            orphans: data
                .orphans
                .as_ref()
                .map_or_else(String::new, |o| orphan_words(o).2),
            concerns: before_start(data, &about),
            judged: if plate.state == PlateState::Printed {
                JudgedPart::of(copies)
            } else {
                Vec::new()
            },
            cause: String::new(),
            wrong: figures.as_ref().map_or_else(Vec::new, |f| wrong(data, f)),
            differs: failed
                .and_then(|f| f.good.as_ref())
                .zip(figures.as_ref())
                .map_or_else(Vec::new, |((_, good), now)| differences(now, good)),
            good_plate: failed.and_then(|f| f.good.as_ref()).map_or(0, |(n, _)| *n),
            remedies: failed.map_or_else(Vec::new, |f| f.remedies.clone()),
            photos: data
                .photos
                .iter()
                .map(|(id, copy)| (*id, name_of(*copy)))
                .collect(),
            sound: which("broke", plate.id, copies, |c| {
                matches!(c.stage, Stage::Good | Stage::Surplus)
            }),
            broke: None,
            on_photo: which("photo-copy", plate.id, copies, |_| true),
            causes: FailureCause::named().map(|c| c.as_str()).collect(),
            fault: String::new(),
            fill: format!("{:.0} %", covered / inside * 100.0),
            peak: peak.map_or_else(|| "–".into(), |p| format!("{p:.1}")),
            hand: data.hand.as_ref().map(|hand| Hand::new(hand, copies)),
            plate: plate.clone(),
            page,
        }
    }
}

fn run_words(run: Option<&Run>, page: &Page) -> String {
    let when = |ms| show::when(ms, &page.zone);
    let Some(run) = run else {
        return "not started".to_owned();
    };
    let Some(to) = run.ended_at_ms else {
        return format!("started {}", when(run.started_at_ms));
    };
    let took = hours((to - run.started_at_ms) as f64 / 1000.0);
    let words = format!("{} to {}, {took} h", when(run.started_at_ms), when(to));
    match (run.outcome, run.stopped_at_layer) {
        (Some(RunOutcome::Stopped), Some(layer)) => format!("{words}, stopped at layer {layer}"),
        (Some(RunOutcome::PutBack), _) => format!("{words}, put back"),
        (Some(RunOutcome::Lost), _) => format!("{words}, lost"),
        _ => words,
    }
}

/// The sheet alone, after a change by hand.
#[derive(Template)]
#[template(path = "plates/sheet.html")]
pub(crate) struct SheetPart(pub(crate) PlateView);

impl std::ops::Deref for SheetPart {
    type Target = PlateView;
    fn deref(&self) -> &PlateView {
        &self.0
    }
}

impl PlateView {
    /// How many are marked as failed.
    pub(crate) fn failed(&self) -> usize {
        let all = self.judged.iter().flat_map(|part| &part.copies);
        all.filter(|j| j.failed).count()
    }

    /// The cause that is chosen in the form of a copy that broke later.
    pub(crate) fn broke_by(&self) -> FailureCause {
        let said = self.broke.as_ref().map(|(cause, _)| *cause);
        said.unwrap_or(FailureCause::Other)
    }

    /// What a script sets down where a copy is ticked.
    pub(crate) fn say_more(&self) -> String {
        Judged::default().say().to_string()
    }
}

/// Copies that came out of a run and are of that kind, for a field that names one.
fn which(
    id: &'static str,
    plate: PlateId,
    copies: &[PlateCopy],
    is: fn(&PrintedCopy) -> bool,
) -> WhichCopy {
    let named = |c: &PlateCopy| Some((c.copy.as_ref().filter(|c| is(c))?.mark, label(c)));
    WhichCopy {
        id,
        field: "mark",
        none: "",
        sorting: Some(plate),
        typed: String::new(),
        copies: copies.iter().filter_map(named).collect(),
    }
}

fn bill(plate: &Plate, copies: &[PlateCopy], shapes: &Shapes<'_>) -> Vec<BillRow> {
    let times = plate.times_planned(copies);
    let mut by_part: BTreeMap<PartId, Vec<&PlateCopy>> = BTreeMap::new();
    for copy in copies {
        by_part.entry(copy.placed.part).or_default().push(copy);
    }
    let mut rows = Vec::new();
    for of_part in by_part.values() {
        let first = of_part[0];
        let height_mm = shapes.height_mm(first);
        let cost: Money = of_part.iter().map(|c| c.cost.total()).sum();
        let failed = of_part.iter().filter(|c| c.failed());
        let row = BillRow {
            keys: of_part.iter().map(|c| key(c)).collect::<Vec<_>>().join(" "),
            class: ramp_class(height_mm, plate.height_mm),
            name: part_name(&first.model_name, &first.part_name),
            unit: first.unit_name.clone(),
            copies: of_part.len(),
            mm: tenth(height_mm),
            ml: tenth(of_part.iter().map(|c| c.resin_ml * times).sum()),
            each: mean(cost, of_part.len() as u64).map_or_else(String::new, |m| m.written()),
            failed: failed.map(|c| failure_words(c)).collect(),
        };
        rows.push((height_mm, row));
    }
    rows.sort_by(|a, b| b.0.total_cmp(&a.0));
    rows.into_iter().map(|(_, row)| row).collect()
}

fn failure_words(copy: &PlateCopy) -> String {
    let Some(copy) = &copy.copy else {
        return String::new();
    };
    let cause = copy.cause.as_deref().unwrap_or("no cause said");
    let note = if copy.note.is_empty() {
        String::new()
    } else {
        format!(" ({})", copy.note)
    };
    format!("mark {} failed: {cause}{note}", copy.mark)
}

/// A plate's state as a person says it.
pub(crate) fn state_word(state: PlateState) -> &'static str {
    match state {
        PlateState::Draft => "draft",
        PlateState::Planned => "waits for its run",
        PlateState::Running => "running",
        PlateState::Printed => "to be judged",
        PlateState::Done => "done",
        PlateState::Lost => "lost",
        PlateState::Released => "released",
    }
}
