//! What one good model costs, opened; against what others ask; and how many of its parts to print.

use crate::currency;
use crate::currency::Amount;
use askama::Template;
use wembrit_core::army::ArmyPart;
use wembrit_core::cost::{
    ModelOpened, Offer, Pays, model_cost, pays, price_by_mark_up, price_for_margin,
};
use wembrit_core::cost_parts::{CostKind, CostParts};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ModelId, PartId, PlateId, ProjectId};
use wembrit_core::odds::{Judged, SparesAdvice, SparesAsked};
use wembrit_core::units::Money;
use wembrit_paper::draw_chance;
use wembrit_store::queries::pages::ledger::ModelCostPage;

use super::Page;
use super::odds::{Believed, of};
use crate::forms::{self, Input};

/// A part of the opened model.
pub(crate) struct CostRow {
    pub(crate) name: String,
    pub(crate) per_model: String,
    pub(crate) copies: u64,
    pub(crate) cells: Vec<String>,
    pub(crate) total: String,
}

/// What is typed of others' prices; read from the address, so that it can be kept as a mark.
#[derive(Debug, Clone, Default)]
pub(crate) struct Typed {
    pub(crate) ready: String,
    pub(crate) service: String,
    pub(crate) least: String,
    pub(crate) margin: String,
    pub(crate) fault: String,
}

/// An answer: the question, and what comes of it.
pub(crate) struct Answer {
    pub(crate) of: &'static str,
    pub(crate) words: String,
}

/// How many of a part to print.
pub(crate) struct SpareRow {
    pub(crate) part: PartId,
    pub(crate) name: String,
    pub(crate) came: String,
    pub(crate) odds: Believed,
    pub(crate) wanted: u64,
    pub(crate) spares: u32,
    pub(crate) advised: u64,
    pub(crate) reason: String,
    pub(crate) written: String,
    pub(crate) chance: [String; 2],
    pub(crate) curve: String,
    /// Plates to put them on: number of the row, of the plate, how many.
    pub(crate) on: Vec<(PlateId, i64, u64)>,
    pub(crate) differs: bool,
}

/// The page.
#[derive(Template)]
#[template(path = "ledger/model.html")]
pub(crate) struct ModelCostView {
    pub(crate) page: Page,
    pub(crate) id: ModelId,
    pub(crate) project: ProjectId,
    pub(crate) unit: String,
    pub(crate) name: String,
    pub(crate) each: String,
    pub(crate) good: String,
    pub(crate) kinds: Vec<CostKind>,
    pub(crate) rows: Vec<CostRow>,
    pub(crate) sums: Vec<String>,
    pub(crate) took: String,
    pub(crate) typed: Typed,
    pub(crate) answers: Vec<Answer>,
    pub(crate) spares: Vec<SpareRow>,
    pub(crate) differs: bool,
    /// The chance that every part comes out as wanted, without spares and as advised.
    pub(crate) whole: Option<[String; 2]>,
}

impl Typed {
    pub(crate) fn read(input: &Input) -> Self {
        let text = |name: &str| input.get(name).to_owned();
        Self {
            ready: text("ready"),
            service: text("service"),
            least: text("least"),
            margin: text("margin"),
            fault: String::new(),
        }
    }
}

/// Why so many spares, as it is written beside them.
pub(crate) fn reason(asked: &SparesAsked, advice: &SparesAdvice) -> String {
    let money = |minor: f64| Money::from_minor_f64(minor).written();
    advice.reason(asked, &money)
}

/// A chance in percent, never called sure.
fn percent(p: f64) -> String {
    match p {
        p if p > 0.995 => "over 99 %".to_owned(),
        p if p < 0.005 => "under 1 %".to_owned(),
        p => format!("{:.0} %", p * 100.0),
    }
}

fn spare_row(data: &ModelCostPage, part: &ArmyPart) -> Option<SpareRow> {
    let (asked, advice) = data.facts.advised(part)?;
    let id = part.part.id;
    let on: Vec<(&_, u64)> = data
        .waiting
        .iter()
        .filter_map(|(plate, parts)| Some((plate, *parts.get(&id)?)))
        .collect();
    let copies: Vec<u64> = on.iter().map(|(_, n)| *n).collect();
    let put = data.facts.put_on(part, &advice, &copies);
    let plates = on.iter().zip(put).filter(|(_, n)| *n > 0);
    Some(SpareRow {
        part: id,
        name: part.part.name.clone(),
        came: of(asked.judged),
        odds: Believed::new(&advice.odds),
        wanted: asked.wanted,
        spares: part.part.spares,
        advised: advice.spares,
        reason: reason(&asked, &advice),
        written: part.part.spares_why.clone(),
        chance: [percent(advice.without), percent(advice.with)],
        curve: draw_chance(&advice.curve, asked.wanted + advice.spares),
        on: plates.map(|((p, _), n)| (p.id, p.number, n)).collect(),
        differs: u64::from(part.part.spares) != advice.spares,
    })
}

fn money(text: &str, what: &str, fault: &mut String) -> Option<Money> {
    if text.is_empty() {
        return None;
    }
    match currency::read(text) {
        Ok(amount) if amount > Money(0) => Some(amount),
        Ok(_) => {
            *fault = format!("{what}: write a price above nothing");
            None
        }
        Err(why) => {
            *fault = format!("{what}: {why}");
            None
        }
    }
}

/// What making costs against an offer, in words.
fn against(own: &ModelOpened, fixed: Money, offer: Offer) -> String {
    let each = own.without_files();
    let [own, once, theirs] = [each, fixed, offer.each].map(|m| m.written());
    match pays(each.0 as f64, fixed, offer) {
        Pays::From(1) => {
            format!("making pays from the first on: {own} for each against {theirs}")
        }
        Pays::From(n) => format!(
            "making pays from {n} on: {own} for each and {once} once for files, against {theirs}"
        ),
        Pays::UpTo(n) => format!(
            "making pays up to {n} only, while their smallest order is dearer: each costs {own} here and {theirs} there"
        ),
        Pays::Never => format!("making never pays: {own} for each against {theirs}"),
    }
}

fn answers(data: &ModelCostPage, cost: Option<&ModelOpened>, typed: &mut Typed) -> Vec<Answer> {
    let mut fault = String::new();
    let ready = money(&typed.ready, "ready-made", &mut fault);
    let service = money(&typed.service, "a service", &mut fault);
    let least = money(&typed.least, "their smallest order", &mut fault).unwrap_or(Money(0));
    let margin = match typed.margin.replace(',', ".").trim() {
        "" => None,
        text => match text.parse::<f64>() {
            Ok(m) if (0.0..100.0).contains(&m) => Some(m / 100.0),
            _ => {
                fault = "a margin is a percentage from 0 to less than 100".to_owned();
                None
            }
        },
    };
    typed.fault = fault;
    let Some(cost) = cost else {
        return Vec::new();
    };
    // What files of all its models cost together.
    let each: Money = cost.parts.iter().map(|p| p.cost.get(CostKind::Files)).sum();
    let fixed = Money(each.0 * i64::from(data.model.model.quantity));
    let mut all = Vec::new();
    if let Some(each) = ready {
        let offer = Offer {
            each,
            least: Money(0),
        };
        all.push(Answer {
            of: "Ready-made",
            words: against(cost, fixed, offer),
        });
    }
    if let Some(each) = service {
        let offer = Offer { each, least };
        all.push(Answer {
            of: "A service",
            words: against(cost, fixed, offer),
        });
    }
    if let Some(margin) = margin {
        let own = cost.each.0 as f64;
        if let Some(price) = price_for_margin(own, margin) {
            let words = format!(
                "ask {}: {:.0} % of it is left after {}; a mark-up of as much would ask {} and leave less",
                price.written(),
                margin * 100.0,
                cost.each.written(),
                price_by_mark_up(own, margin).written()
            );
            all.push(Answer {
                of: "A price",
                words,
            });
        }
    }
    all
}

impl ModelCostView {
    pub(crate) fn new(page: Page, data: &ModelCostPage, mut typed: Typed) -> Self {
        let cost = model_cost(&data.model);
        let sum: CostParts = cost.iter().flat_map(|c| &c.parts).map(|p| p.cost).sum();
        let kinds: Vec<CostKind> = sum.each().map(|(k, _)| k).collect();
        let cells = |parts: &CostParts| kinds.iter().map(|k| parts.get(*k).written()).collect();
        let rows = cost.iter().flat_map(|c| &c.parts).map(|p| CostRow {
            name: p.name.clone(),
            per_model: forms::plain(p.per_model),
            copies: p.copies,
            cells: cells(&p.cost),
            total: p.cost.total().written(),
        });
        let spares: Vec<SpareRow> = data
            .model
            .parts
            .iter()
            .filter_map(|p| spare_row(data, p))
            .collect();
        let good: u32 = data
            .model
            .parts
            .iter()
            .map(|p| p.counts.of(Stage::Good))
            .sum();
        let judged = Judged::sum(
            data.model
                .parts
                .iter()
                .filter_map(|p| data.facts.judged.get(&p.part.id).copied()),
        );
        let (planned, actual) = (data.totals.planned.total().0, data.totals.actual.total().0);
        Self {
            id: data.model.model.id,
            project: data.project,
            unit: data.unit.clone(),
            name: data.model.model.name.clone(),
            each: cost
                .as_ref()
                .map_or_else(|| "–".into(), |c| c.each.written()),
            good: format!("{good} good, {} judged", of(judged)),
            rows: rows.collect(),
            sums: cells(&sum),
            took: if planned > 0 && actual != planned {
                format!(
                    "Plates of this project took {:.2} times what was planned for them",
                    actual as f64 / planned as f64
                )
            } else {
                String::new()
            },
            answers: answers(data, cost.as_ref(), &mut typed),
            differs: spares.iter().any(|s| s.differs),
            whole: data.facts.whole(&data.model.parts).map(|p| p.map(percent)),
            kinds,
            spares,
            typed,
            page,
        }
    }
}
