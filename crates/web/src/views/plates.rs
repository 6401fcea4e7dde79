//! One plate's sheet.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::flow::{FailureCause, PlanState, PlateState, Stage};
use wembrit_core::ids::{PartId, PlanId, PlateId, SculptId};
use wembrit_core::plan::advice::Advice;
use wembrit_core::plan::layout::peak_of;
use wembrit_core::units::Money;
use wembrit_paper::{draw_plate_sheet, ramp_class};
use wembrit_store::queries::plates::PlateCopy;
use wembrit_store::queries::{army, dismissals, edits, plans, plates, printers, resins};
use wembrit_store::rows::Plate;
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::shapes::{Shapes, key, label, part_name};
use super::show::{self, hours, tenth};

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
    pub(crate) lost: Vec<String>,
}

/// A copy that can be marked as lost.
pub(crate) struct Judged {
    pub(crate) key: String,
    pub(crate) label: String,
    pub(crate) lost: bool,
    pub(crate) cause: String,
    pub(crate) note: String,
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
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) drawing: String,
    pub(crate) bill: Vec<BillRow>,
    pub(crate) copies: usize,
    pub(crate) hours: String,
    pub(crate) ml: String,
    pub(crate) grams: String,
    pub(crate) cost: String,
    pub(crate) each: String,
    pub(crate) run: String,
    pub(crate) ends: String,
    pub(crate) started_field: String,
    pub(crate) ended_field: String,
    /// Sculpt, finding and reason of what was put aside on this plate's sculpts.
    pub(crate) put_aside: Vec<(String, String, String)>,
    pub(crate) judged: Vec<Judged>,
    pub(crate) cause: String,
    pub(crate) causes: Vec<&'static str>,
    pub(crate) fault: String,
    /// What can be done by hand, while the plan is a draft.
    pub(crate) hand: Option<Hand>,
    pub(crate) fill: String,
    pub(crate) peak: String,
}

/// The tools of a plate that is arranged by hand.
pub(crate) struct Hand {
    pub(crate) revision: i64,
    pub(crate) undo: Option<String>,
    pub(crate) redo: Option<String>,
    pub(crate) pinned: usize,
    /// Part, name, copies in the pool.
    pub(crate) pool: Vec<(PartId, String, u64)>,
    /// Key and name of every copy, for those who pick from a list.
    pub(crate) copies: Vec<(i64, String)>,
}

/// One sentence of advice with its button.
pub(crate) struct AdviceRow {
    pub(crate) words: String,
    pub(crate) button: &'static str,
    /// Hours it saves, s.
    saves_s: f64,
    /// What the form sends.
    pub(crate) fields: Vec<(&'static str, String)>,
}

/// Advice on all plates of a plan.
#[derive(Template)]
#[template(path = "plates/advice.html")]
pub(crate) struct PlanAdviceView {
    pub(crate) rows: Vec<PlateAdvice>,
}

/// Advice with the plate it is about.
pub(crate) struct PlateAdvice {
    pub(crate) plate: PlateId,
    /// Its number, where advice on several plates stands together.
    pub(crate) number: Option<i64>,
    pub(crate) advice: AdviceRow,
}

/// Pieces of advice shown on a plan.
const ADVICE_SHOWN: usize = 5;
/// Plates that are looked at for advice: the first ones are printed first.
const ADVISED_PLATES: usize = 12;

impl PlanAdviceView {
    /// On one plate alone.
    pub(crate) fn of_plate(c: &mut Conn, id: PlateId) -> Result<Self, StoreError> {
        let bench = edits::load(c, id)?;
        let army = army::load(c, bench.plate.project_id)?;
        let name = |part: PartId| part_name(&army, part);
        let row = |advice| PlateAdvice {
            plate: id,
            number: None,
            advice,
        };
        let rows = advice_rows(c, &bench, &name)?;
        Ok(Self {
            rows: rows.into_iter().map(row).collect(),
        })
    }

    pub(crate) fn load(c: &mut Conn, id: PlanId) -> Result<Self, StoreError> {
        let plan = plans::load(c, id)?;
        let mut rows = Vec::new();
        if plan.state != PlanState::Draft {
            return Ok(Self { rows });
        }
        let army = army::load(c, plan.project_id)?;
        let name = |part: PartId| part_name(&army, part);
        for plate in plates::of_plan(c, id)?.into_iter().take(ADVISED_PLATES) {
            let bench = edits::load(c, plate.id)?;
            for advice in advice_rows(c, &bench, &name)? {
                rows.push(PlateAdvice {
                    plate: plate.id,
                    number: Some(plate.number),
                    advice,
                });
            }
        }
        // What saves most first, and no more than one reads.
        rows.sort_by(|a, b| b.advice.saves_s.total_cmp(&a.advice.saves_s));
        rows.truncate(ADVICE_SHOWN);
        Ok(Self { rows })
    }
}

fn advice_rows(
    c: &mut Conn,
    bench: &edits::PlateEdit,
    name: &dyn Fn(PartId) -> String,
) -> Result<Vec<AdviceRow>, StoreError> {
    let mut rows: Vec<AdviceRow> = Vec::new();
    if let Some(leaning) = edits::leaning(c, bench)? {
        rows.push(AdviceRow {
            words: format!(
                "{} hung at {}, as measured before, makes this plate {} h shorter.",
                name(leaning.part),
                leaning.hang.pose,
                hours(leaning.saves_s)
            ),
            button: "Hang it so",
            saves_s: leaning.saves_s,
            fields: vec![("do", "lean".into())],
        });
    }
    rows.extend(bench.advice()?.iter().map(|a| advice_row(a, name)));
    Ok(rows)
}

impl Hand {
    fn load(c: &mut Conn, plate: &Plate, spots: &[PlateCopy]) -> Result<Option<Self>, StoreError> {
        let plan = plans::load(c, plate.plan_id)?;
        if plate.state != PlateState::Draft || plan.state != PlanState::Draft {
            return Ok(None);
        }
        let [undo, redo] = edits::around(c, &plan)?;
        let bench = edits::load(c, plate.id)?;
        let army = army::load(c, plate.project_id)?;
        let name = |part: PartId| part_name(&army, part);
        Ok(Some(Self {
            revision: plan.revision,
            undo,
            redo,
            pinned: bench.pieces.iter().filter(|p| p.pinned).count(),
            pool: bench
                .board
                .pool
                .iter()
                .map(|(part, n)| (*part, name(*part), *n))
                .collect(),
            copies: spots.iter().map(|s| (s.placement.seq, label(s))).collect(),
        }))
    }
}

fn advice_row(advice: &Advice, name: &dyn Fn(PartId) -> String) -> AdviceRow {
    match advice {
        Advice::Leave {
            part,
            copies,
            saves_s,
        } => AdviceRow {
            words: format!(
                "Without {} × {} this plate takes {} h less; what is taken off waits for a later plan.",
                copies,
                name(*part),
                hours(*saves_s)
            ),
            button: "Take them off",
            saves_s: *saves_s,
            fields: vec![("do", "leave".into()), ("part", part.to_string())],
        },
        Advice::Fill {
            part,
            copies,
            from_pool,
            ml,
        } => AdviceRow {
            words: format!(
                "{} × {} would still fit, in no more hours: {:.1} ml of resin{}.",
                copies,
                name(*part),
                ml,
                if *from_pool { "" } else { ", as spares" }
            ),
            saves_s: 0.0,
            button: if *from_pool {
                "Put them on"
            } else {
                "Print them as spares"
            },
            fields: vec![
                ("do", if *from_pool { "add" } else { "spares" }.into()),
                ("part", part.to_string()),
                ("n", copies.to_string()),
            ],
        },
    }
}

impl PlateView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PlateId,
        now_ms: i64,
    ) -> Result<Self, StoreError> {
        let plate = plates::load(c, id)?;
        let printer = printers::load(c, plate.printer_id)?;
        let resin = resins::load(c, plate.resin_id)?.name;
        let spots = plates::spots(c, &[id])?.remove(&id).unwrap_or_default();
        let mut shapes = Shapes::load(c, &spots.iter().collect::<Vec<_>>())?;
        let hand = Hand::load(c, &plate, &spots)?;
        let mut drawing = shapes.drawing(&printer, &spots)?;
        drawing.load = shapes.load_of(&printer, &spots)?;
        drawing.by_hand = hand.is_some();
        let inside = (printer.width_mm - 2.0 * printer.margin_mm)
            * (printer.depth_mm - 2.0 * printer.margin_mm);
        let covered: f64 = drawing.copies.iter().map(|c| c.outline.area_mm2()).sum();
        let peak = drawing.load.as_ref().map(|l| peak_of(&l.pull).1);
        let drawing = draw_plate_sheet(&drawing);
        let run = plates::run_of(c, id)?;
        let ends_ms = run
            .as_ref()
            .map(|r| r.started_at_ms + (plate.seconds * 1000.0) as i64);
        let when = |ms| show::when(ms, &page.zone);
        let run_words = match run.as_ref().map(|r| (r.started_at_ms, r.ended_at_ms)) {
            None => "not started".to_owned(),
            Some((from, None)) => format!("started {}", when(from)),
            Some((from, Some(to))) => {
                format!(
                    "{} to {}, {} h",
                    when(from),
                    when(to),
                    hours((to - from) as f64 / 1000.0)
                )
            }
        };
        let of = plates_in_all(c, &plate)?;
        let mut on_it: Vec<SculptId> = spots.iter().map(|s| s.placement.sculpt_id).collect();
        on_it.sort_unstable();
        on_it.dedup();
        let put_aside = dismissals::of_sculpts(c, &on_it)?;
        let cost = plate.resin_cost() + plate.hands_on_cost();
        let each = Money::from_minor_f64(cost.0 as f64 / spots.len().max(1) as f64);
        let started = now_ms - (plate.seconds * 1000.0) as i64;
        Ok(Self {
            state: state_word(plate.state),
            project: page
                .project
                .as_ref()
                .map_or_else(String::new, |p| p.name.clone()),
            of,
            printer: printer.name,
            resin,
            drawing,
            bill: bill(&spots, &mut shapes, plate.height_mm)?,
            copies: spots.len(),
            hours: hours(plate.seconds),
            ml: tenth(plate.resin_ml),
            grams: tenth(plate.resin_g),
            cost: cost.to_string(),
            each: each.to_string(),
            run: run_words,
            ends: ends_ms.map_or_else(String::new, |ms| show::near(ms, now_ms, &page.zone)),
            started_field: show::field(started, &page.zone),
            ended_field: show::field(now_ms, &page.zone),
            put_aside,
            judged: if plate.state == PlateState::Printed {
                judged(&spots)
            } else {
                Vec::new()
            },
            cause: String::new(),
            causes: FailureCause::ALL.iter().map(|c| c.as_str()).collect(),
            fault: String::new(),
            fill: format!("{:.0} %", covered / inside * 100.0),
            peak: peak.map_or_else(|| "–".into(), |p| format!("{p:.1}")),
            hand,
            page,
            plate,
        })
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
    /// How many are marked as lost.
    pub(crate) fn lost(&self) -> usize {
        self.judged.iter().filter(|j| j.lost).count()
    }
}

/// The highest number a plate of this plan or project carries.
fn plates_in_all(c: &mut Conn, plate: &Plate) -> Result<i64, StoreError> {
    let all = match plate.state {
        PlateState::Draft => plates::of_plan(c, plate.plan_id)?,
        _ => plates::accepted(c, plate.project_id)?,
    };
    Ok(all.iter().map(|p| p.number).max().unwrap_or(plate.number))
}

fn bill(
    spots: &[PlateCopy],
    shapes: &mut Shapes,
    tallest_mm: f64,
) -> Result<Vec<BillRow>, StoreError> {
    let mut by_part: BTreeMap<PartId, Vec<&PlateCopy>> = BTreeMap::new();
    for spot in spots {
        by_part
            .entry(spot.placement.part_id)
            .or_default()
            .push(spot);
    }
    let mut rows = Vec::new();
    for of_part in by_part.values() {
        let first = of_part[0];
        let (_, _, height_mm) = shapes.of(first)?;
        let cost: Money = of_part.iter().map(|s| s.placement.cost()).sum();
        let each = Money::from_minor_f64(cost.0 as f64 / of_part.len() as f64);
        let lost = |s: &&&PlateCopy| s.copy.as_ref().is_some_and(|c| c.stage == Stage::Failed);
        rows.push((
            height_mm,
            BillRow {
                keys: of_part.iter().map(|s| key(s)).collect::<Vec<_>>().join(" "),
                class: ramp_class(height_mm, tallest_mm),
                name: format!("{}, {}", first.model, first.part.to_lowercase()),
                unit: first.unit.clone(),
                copies: of_part.len(),
                mm: tenth(height_mm),
                ml: tenth(of_part.iter().map(|s| s.placement.resin_ml).sum()),
                each: each.to_string(),
                lost: of_part.iter().filter(lost).map(|s| loss_words(s)).collect(),
            },
        ));
    }
    rows.sort_by(|a, b| b.0.total_cmp(&a.0));
    Ok(rows.into_iter().map(|(_, row)| row).collect())
}

fn loss_words(spot: &PlateCopy) -> String {
    let Some(copy) = &spot.copy else {
        return String::new();
    };
    let cause = copy.cause.as_deref().unwrap_or("lost");
    let note = if copy.note.is_empty() {
        String::new()
    } else {
        format!(" ({})", copy.note)
    };
    format!("copy {} lost: {cause}{note}", copy.number)
}

fn judged(spots: &[PlateCopy]) -> Vec<Judged> {
    spots
        .iter()
        .map(|s| Judged {
            key: key(s),
            label: label(s),
            lost: false,
            cause: String::new(),
            note: String::new(),
        })
        .collect()
}

/// A plate's state as a person says it.
pub(crate) fn state_word(state: PlateState) -> &'static str {
    match state {
        PlateState::Draft => "draft",
        PlateState::Planned => "waits for its run",
        PlateState::Running => "running",
        PlateState::Printed => "to be judged",
        PlateState::Done => "done",
        PlateState::Released => "given up",
    }
}
