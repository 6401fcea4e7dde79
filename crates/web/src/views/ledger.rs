//! The ledger of a project: what was planned and what came, where money and resin went.

use crate::currency;
use crate::currency::Amount;
use askama::Template;
use wembrit_core::army::ProjectMoney;
use wembrit_core::cost::{Basis, model_cost};
use wembrit_core::cost_parts::{CostKind, CostParts};
use wembrit_core::ids::{ModelId, PlateId, ProjectId};
use wembrit_core::ledger::{
    CauseCost, LedgerCopy, LedgerPlate, Looks, PaysMost, PlateTotals, ResinFlow, by_cause,
    pays_most, spent_over_time,
};
use wembrit_core::units::Money;
use wembrit_paper::{Paired, draw_bars, draw_flow, draw_paired, draw_spent, write_table_csv};
use wembrit_store::queries::pages::ledger::LedgerPage;

use super::Page;
use super::show::{self, count, hours, tenth};
use crate::views::plates::state_word;

/// A model of the ledger.
pub(crate) struct ModelLine {
    pub(crate) id: ModelId,
    pub(crate) unit: String,
    pub(crate) name: String,
    pub(crate) complete: String,
    pub(crate) each: String,
    /// Of it the share of copies that failed.
    pub(crate) failures: String,
}

/// A plate of the ledger: planned and actual of everything.
pub(crate) struct PlateLine {
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) state: &'static str,
    /// Hours, ml, minutes of hands and money, each as planned and as it came.
    pub(crate) cells: Vec<String>,
    /// What of it was written down, and what is believed to be as planned.
    pub(crate) known: &'static str,
}

/// The page.
#[derive(Template)]
#[template(path = "ledger/show.html")]
pub(crate) struct LedgerView {
    pub(crate) page: Page,
    pub(crate) project: ProjectId,
    pub(crate) name: String,
    pub(crate) has_run: bool,
    pub(crate) total: String,
    pub(crate) money: Vec<(&'static str, String)>,
    pub(crate) plates: u64,
    pub(crate) planned: String,
    pub(crate) actual: String,
    pub(crate) against: String,
    pub(crate) failed: String,
    pub(crate) lost: String,
    pub(crate) pays: String,
    pub(crate) models: Vec<ModelLine>,
    pub(crate) paired: String,
    pub(crate) spent: String,
    pub(crate) flow: String,
    pub(crate) causes: String,
    pub(crate) components: Vec<(CostKind, String, String)>,
    pub(crate) lines: Vec<PlateLine>,
    /// Number, name, price, sculpts.
    pub(crate) bundles: Vec<(i64, String, String, String)>,
    pub(crate) fault: String,
}

/// What would pay most, in one sentence; empty where nothing is worse than the rest.
pub(crate) fn pays_words(copies: &[LedgerCopy], looks: &Looks) -> String {
    match pays_most(copies, looks) {
        Some(PaysMost::Alike { look, name, saves }) => format!(
            "{look} {name}: fewer copies are good than elsewhere. If they were as good as the rest, {} would have been saved",
            saves.written()
        ),
        Some(PaysMost::Window {
            printer,
            found,
            saves,
        }) => format!(
            "{printer}, {}: {} of the {} that stood there failed, by luck with {}; {}. Without it {} would have been saved",
            found.window.name(),
            found.failed,
            found.stood,
            luck(found.p),
            found.window.look_at(),
            saves.written()
        ),
        None => String::new(),
    }
}

/// A chance as a person reads it.
pub(crate) fn luck(p: f64) -> String {
    if p < 0.000_01 {
        "less than 0.001 %".to_owned()
    } else if p < 0.001 {
        format!("{:.3} %", p * 100.0)
    } else {
        format!("{:.1} %", p * 100.0)
    }
}

fn known(plate: &LedgerPlate) -> &'static str {
    match (&plate.took, plate.basis) {
        (None, _) => "not printed yet",
        (_, None) => "planned by an older rule",
        (Some(took), _) if took.is_planned() => "as planned: nothing was written down",
        (Some(took), _) => match (took.ml, took.hours, took.minutes) {
            (Some(_), Some(_), Some(_)) => "resin, hours and hands written down",
            (Some(_), Some(_), None) => "resin and hours written down",
            (Some(_), None, None) => "resin written down",
            (None, Some(_), None) => "hours written down",
            (None, None, Some(_)) => "hands timed",
            (None, Some(_), Some(_)) => "hours and hands written down",
            (Some(_), None, Some(_)) => "resin and hands written down",
            (None, None, None) => "stopped before its end",
        },
    }
}

fn line(plate: &LedgerPlate) -> PlateLine {
    let actual = plate.actual_basis();
    let both = |of: fn(&Basis) -> String| {
        let at = |b: Option<Basis>| b.as_ref().map_or_else(|| "–".into(), of);
        [at(plate.basis), at(actual)]
    };
    let cost = plate
        .actual()
        .map_or_else(|| "–".into(), |c| c.total().written());
    PlateLine {
        id: plate.id,
        number: plate.number,
        state: state_word(plate.state),
        cells: [
            both(|b| hours(b.hours * 3600.0)),
            both(|b| tenth(b.ml)),
            both(|b| format!("{:.0}", b.minutes())),
            [plate.planned.total().written(), cost],
        ]
        .concat(),
        known: known(plate),
    }
}

/// Plates with ticks on one drawing.
const TICKS: usize = 24;

impl LedgerView {
    pub(crate) fn new(page: Page, data: &LedgerPage, fault: String) -> Self {
        let totals = PlateTotals::of(&data.plates);
        let one = currency::here().in_one() as f64;
        let whole = |m: Money| m.0 as f64 / one;
        let ran: Vec<&LedgerPlate> = data.plates.iter().filter(|p| p.took.is_some()).collect();
        let ticks: Vec<Paired> = ran
            .iter()
            .rev()
            .take(TICKS)
            .rev()
            .map(|p| Paired {
                name: format!("plate {}", p.number),
                planned: whole(p.planned.total()),
                actual: p.actual().map(|c| whole(c.total())),
            })
            .collect();
        let spent: Vec<(String, f64, f64)> = spent_over_time(&data.plates)
            .iter()
            .map(|s| {
                let name = show::day(s.at_ms, &page.zone);
                (name, whole(s.planned.total()), whole(s.actual.total()))
            })
            .collect();
        let flow = ResinFlow::of(ran.iter().map(|p| {
            let on = data.copies.iter().filter(|c| c.plate.0 == p.id).collect();
            (p.took_ml().unwrap_or(0.0), p.goes, on)
        }))
        .with_spoilt(&data.plates);
        let went: Vec<(&str, f64)> = flow.each().into_iter().filter(|e| e.1 > 0.0).collect();
        let causes = by_cause(&data.copies, &data.plates);
        let failed: Money = causes.iter().map(|c| c.cost).sum();
        let lost: Money = data.charges.lost.values().copied().sum();
        let drawn: Vec<(String, f64, String)> = causes.iter().map(cause_bar).collect();
        Self {
            project: data.army.project.id,
            name: data.army.project.name.clone(),
            has_run: !ran.is_empty(),
            total: data.army.spent().written(),
            money: made_of(&data.army.money),
            plates: totals.plates,
            planned: totals.planned.total().written(),
            actual: totals.actual.total().written(),
            against: against(&totals),
            failed: failed.written(),
            lost: lost.written(),
            pays: pays_words(&data.copies, &data.looks),
            models: models(data),
            paired: draw_paired(
                &ticks,
                &page.currency,
                "What plates cost, planned and actual",
            ),
            spent: draw_spent(&spent, &page.currency),
            flow: draw_flow(&went),
            causes: if drawn.is_empty() {
                String::new()
            } else {
                draw_bars(&drawn, "What failed copies cost, by cause")
            },
            components: components(&totals),
            lines: data.plates.iter().map(line).collect(),
            bundles: data
                .bundles
                .iter()
                .map(|b| {
                    let with = count(b.sculpts, "sculpt", "sculpts");
                    let bought = format!("{with}, {}", show::day(b.bought_at_ms, &page.zone));
                    (b.id, b.name.clone(), b.price.written(), bought)
                })
                .collect(),
            fault,
            page,
        }
    }
}

/// What the sum is made of, where there is more in it than plates.
fn made_of(money: &ProjectMoney) -> Vec<(&'static str, String)> {
    let rows = [
        ("Spoilt resin", money.spoilt),
        ("Copies from elsewhere", money.came),
        ("Printing now (not included)", money.running),
    ];
    let any = rows.into_iter().filter(|r| r.1 != Money(0));
    any.map(|(name, amount)| (name, amount.written())).collect()
}

fn cause_bar(of: &CauseCost) -> (String, f64, String) {
    let name = if of.cause.is_empty() {
        "no cause said".to_owned()
    } else {
        of.cause.clone()
    };
    let words = format!(
        "{} · {}",
        of.cost.written(),
        count(of.copies, "copy", "copies")
    );
    (name, of.cost.0 as f64, words)
}

/// Actual against planned, in percent.
fn against(totals: &PlateTotals) -> String {
    let (planned, actual) = (totals.planned.total().0, totals.actual.total().0);
    if planned == 0 {
        return String::new();
    }
    format!("{:+.1} %", (actual as f64 / planned as f64 - 1.0) * 100.0)
}

fn components(totals: &PlateTotals) -> Vec<(CostKind, String, String)> {
    let kinds = CostKind::ALL.iter();
    let row = |kind: &CostKind| {
        let of = |parts: &CostParts| parts.get(*kind);
        let (planned, actual) = (of(&totals.planned), of(&totals.actual));
        let any = planned != Money(0) || actual != Money(0);
        any.then(|| (*kind, planned.written(), actual.written()))
    };
    kinds.filter_map(row).collect()
}

fn models(data: &LedgerPage) -> Vec<ModelLine> {
    let all = data
        .army
        .units
        .iter()
        .flat_map(|u| u.models.iter().map(move |m| (u, m)));
    all.map(|(unit, model)| {
        let cost = model_cost(model);
        let none = || "–".to_owned();
        let failures = cost.as_ref().map(|c| {
            let of = c.parts.iter().map(|p| p.cost.get(CostKind::Failures));
            of.sum::<Money>().written()
        });
        ModelLine {
            id: model.model.id,
            unit: unit.unit.name.clone(),
            name: model.model.name.clone(),
            complete: format!("{} of {}", model.progress.complete, model.progress.models),
            each: cost.map_or_else(none, |c| c.each.written()),
            failures: failures.unwrap_or_else(none),
        }
    })
    .collect()
}

/// A table of the ledger as CSV, minor units of the currency; nothing for a name there is none of.
pub(crate) fn ledger_csv(data: &LedgerPage, table: &str) -> Option<String> {
    let minor = |m: Money| m.0.to_string();
    let parts = |c: &CostParts| {
        CostKind::ALL
            .iter()
            .map(|k| minor(c.get(*k)))
            .collect::<Vec<_>>()
    };
    let costs = |before: &[&'static str]| {
        let of = CostKind::ALL.iter().map(|k| k.as_str());
        before.iter().copied().chain(of).collect::<Vec<&str>>()
    };
    let (columns, rows): (Vec<&str>, Vec<Vec<String>>) = match table {
        "plates" => {
            let row = |p: &LedgerPlate| {
                let head = vec![
                    p.number.to_string(),
                    p.state.to_string(),
                    minor(p.planned.total()),
                    p.actual().map_or_else(String::new, |c| minor(c.total())),
                ];
                let of = p.actual().unwrap_or(p.planned);
                [head, parts(&of)].concat()
            };
            (
                costs(&["plate", "state", "planned_minor", "actual_minor"]),
                data.plates.iter().map(row).collect(),
            )
        }
        "copies" => {
            let row = |c: &LedgerCopy| {
                let charged = data.charges.to(c.copy);
                vec![
                    c.mark.to_string(),
                    c.part.1.clone(),
                    c.plate.1.to_string(),
                    c.stage.to_string(),
                    c.cause.clone().unwrap_or_default(),
                    minor(c.cost.total()),
                    minor(charged),
                    format!("{:.3}", c.resin_ml),
                ]
            };
            (
                vec![
                    "mark",
                    "part",
                    "plate",
                    "stage",
                    "cause",
                    "cost_minor",
                    "charged_minor",
                    "ml",
                ],
                data.copies.iter().map(row).collect(),
            )
        }
        "models" => {
            let mut rows = Vec::new();
            for unit in &data.army.units {
                for model in &unit.models {
                    let Some(cost) = model_cost(model) else {
                        continue;
                    };
                    let sum: CostParts = cost.parts.iter().map(|p| p.cost).sum();
                    let head = vec![
                        unit.unit.name.clone(),
                        model.model.name.clone(),
                        minor(cost.each),
                    ];
                    rows.push([head, parts(&sum)].concat());
                }
            }
            (costs(&["unit", "model", "each_minor"]), rows)
        }
        "causes" => {
            let row = |c: &CauseCost| vec![c.cause.clone(), c.copies.to_string(), minor(c.cost)];
            (
                vec!["cause", "copies", "cost_minor"],
                by_cause(&data.copies, &data.plates)
                    .iter()
                    .map(row)
                    .collect(),
            )
        }
        _ => return None,
    };
    Some(write_table_csv(&columns, &rows))
}
