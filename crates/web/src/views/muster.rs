//! The army: units as rows of figures, models with their parts.

use crate::currency::Amount;
use std::collections::{HashMap, HashSet};

use askama::Template;
use wembrit_core::army::{Army, ArmyChoice, ArmyModel, ArmyPart, ArmyUnit, Model, Piece, Unit};
use wembrit_core::cost::{cost_each, mean};
use wembrit_core::flow::{Plate, SculptState, Stage};
use wembrit_core::ids::{ModelId, OptionId, PartId, ProjectId, SculptId, UnitId};
use wembrit_core::plan::concerns::Concern;
use wembrit_core::sculpt::SculptFacts;
use wembrit_core::units::Money;
use wembrit_core::workshop::Resin;
use wembrit_paper::{FigureCounts, KitPart, draw_figures, draw_kit};

use super::concerns::ConcernList;
use super::show::count;
use super::unit_leaf::UnitLeaf;
use super::{FormView, Page};
use crate::forms::kits::options_text;
use crate::forms::models::base_mm;
use crate::forms::{Field, many, plain};

/// Models whose figures are sent at once.
const MODELS_ON_A_LEAF: usize = 120;

/// Figures of a project's title block.
pub(crate) struct Totals {
    pub(crate) models: String,
    pub(crate) copies: String,
    pub(crate) wanted: u64,
    pub(crate) spent: String,
    /// What the plates on the printers are planned to cost.
    pub(crate) running: Option<String>,
    /// What of it stands on no copy.
    pub(crate) beside: Option<String>,
    /// On accepted plates that nobody has started.
    pub(crate) committed: String,
    /// In the plan that is open.
    pub(crate) planned: String,
    pub(crate) failed: String,
    pub(crate) per_complete: Option<String>,
}

pub(crate) struct ModelRow {
    pub(crate) id: ModelId,
    pub(crate) name: String,
    pub(crate) base: String,
    pub(crate) ready: String,
    pub(crate) drawing: String,
    pub(crate) words: String,
    pub(crate) each: String,
}

pub(crate) struct UnitRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) priority: i64,
    pub(crate) ready: String,
    pub(crate) good: String,
    pub(crate) holds: String,
    pub(crate) spent: String,
    pub(crate) warnings: Vec<String>,
    pub(crate) models: Vec<ModelRow>,
}

/// The muster of a project.
#[derive(Template)]
#[template(path = "muster/show.html")]
pub(crate) struct MusterView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) name: String,
    pub(crate) units: Vec<UnitRow>,
    pub(crate) leaf: UnitLeaf,
    pub(crate) totals: Totals,
    pub(crate) concerns: ConcernList,
}

impl MusterView {
    pub(crate) fn new(
        page: Page,
        (army, from): (&Army, usize),
        draft: &[Plate],
        concerns: &[Concern],
        facts: &HashMap<SculptId, SculptFacts>,
    ) -> Self {
        let sizes: Vec<usize> = army.units.iter().map(|u| u.models.len()).collect();
        let leaf = UnitLeaf::new(&sizes, MODELS_ON_A_LEAF, from);
        let unit = |(index, unit): (usize, &ArmyUnit)| {
            let models = unit.models.iter().filter(|_| leaf.has(index));
            let rows = models.map(|m| model_row(m, figures(m, facts))).collect();
            unit_row(army, unit, rows)
        };
        Self {
            page,
            id: army.project.id,
            name: army.project.name.clone(),
            units: army.units.iter().enumerate().map(unit).collect(),
            leaf,
            totals: totals(army, draft),
            concerns: ConcernList::new(
                army.project.id,
                format!("/projects/{}/muster", army.project.id),
                concerns,
            ),
        }
    }
}

/// The models of a kind as small figures, in the silhouette of their first sculpt.
pub(super) fn figures(model: &ArmyModel, facts: &HashMap<SculptId, SculptFacts>) -> String {
    let profile = model.told_by(|sculpt| facts.get(&sculpt).map(|f| &f.profile));
    let s = model.state();
    let counts = FigureCounts {
        complete: s.complete,
        under_way: s.under_way,
        failed: s.failed,
        open: s.open,
    };
    draw_figures(&model.model.id.to_string(), profile, counts)
}

/// An amount, where there is one.
fn money(amount: Money) -> Option<String> {
    (amount != Money(0)).then(|| amount.written())
}

fn totals(army: &Army, draft: &[Plate]) -> Totals {
    let p = army.progress;
    let per_complete = mean(army.spent(), p.complete).map(|m| m.written());
    Totals {
        models: format!("{}/{}", p.complete, p.models),
        copies: format!("{}/{}", p.good, p.copies),
        wanted: army.parts().map(|(_, _, part)| part.need.wanted()).sum(),
        spent: army.spent().written(),
        running: money(army.money.running),
        beside: money(army.spent_beside_copies()),
        committed: army.committed().written(),
        planned: draft.iter().map(Plate::cost).sum::<Money>().written(),
        failed: army.failed_cost().written(),
        per_complete,
    }
}

/// What does not add up in a unit, in words.
fn warnings(army: &Army, unit: &ArmyUnit) -> Vec<String> {
    let faults = unit.models.iter().flat_map(|m| {
        let name = &m.model.name;
        m.choice_faults()
            .into_iter()
            .map(move |(c, fault)| format!("{name}, {}: {fault}", c.choice.name))
    });
    let load = army
        .overload(unit)
        .map(|(carrier, fault)| format!("Carried by {}: {fault}", carrier.model.name));
    faults.chain(load).collect()
}

fn unit_row(army: &Army, unit: &ArmyUnit, models: Vec<ModelRow>) -> UnitRow {
    let p = unit.progress;
    let parts: Vec<&ArmyPart> = unit.models.iter().flat_map(|m| &m.parts).collect();
    UnitRow {
        id: unit.unit.id.0,
        name: unit.unit.name.clone(),
        priority: unit.unit.priority,
        ready: format!("{} of {}", p.complete, p.models),
        good: format!("{}/{}", p.good, p.copies),
        holds: holds_back(&parts),
        spent: unit.spent().written(),
        warnings: warnings(army, unit),
        models,
    }
}

fn model_row(model: &ArmyModel, drawing: String) -> ModelRow {
    let s = model.state();
    let mut words = vec![format!("{} complete", s.complete)];
    for (n, word) in [
        (s.under_way, "under way"),
        (s.failed, "to print again"),
        (s.open, "not planned"),
    ] {
        if n > 0 {
            words.push(format!("{n} {word}"));
        }
    }
    ModelRow {
        id: model.model.id,
        name: model.model.name.clone(),
        base: base_mm(&model.model).unwrap_or_else(|| "none".into()),
        ready: format!("{}/{}", s.complete, model.progress.models),
        drawing,
        words: words.join(", "),
        each: cost_each(model).map_or_else(|| "–".into(), |cost| cost.written()),
    }
}

/// What keeps these parts from being complete, in words.
fn holds_back(parts: &[&ArmyPart]) -> String {
    let sum = |of: fn(&ArmyPart) -> u64| parts.iter().map(|p| of(p)).sum::<u64>();
    let without = parts
        .iter()
        .filter(|p| p.need.wanted() > 0 && !is_measured(p))
        .count() as u64;
    let stage = |stage: Stage| {
        parts
            .iter()
            .map(|p| u64::from(p.counts.of(stage)))
            .sum::<u64>()
    };
    let mut words = Vec::new();
    if without > 0 {
        words.push(format!(
            "{} no measured sculpt",
            count(without, "part has", "parts have")
        ));
    }
    for (n, what) in [
        (sum(|p| p.need.wanted()), "to be planned"),
        (stage(Stage::Planned), "on plates"),
        (stage(Stage::Printing), "printing"),
        (stage(Stage::InFinishing), "to be judged"),
        (stage(Stage::Failed), "failed so far"),
        (stage(Stage::Surplus), "set aside"),
    ] {
        if n > 0 {
            words.push(format!("{} {what}", count(n, "copy", "copies")));
        }
    }
    if parts.is_empty() {
        words.push("no parts yet".into());
    }
    words.join(", ")
}

fn is_measured(part: &ArmyPart) -> bool {
    matches!(part.sculpt, Some((_, SculptState::Measured)))
}

pub(crate) struct PartRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) sculpt: Option<(i64, String)>,
    pub(crate) sculpt_words: &'static str,
    /// Its sculpt has its picture.
    pub(crate) pictured: bool,
    pub(crate) taken_by: String,
    pub(crate) count: u32,
    pub(crate) spares: u32,
    /// Why so many, where that was advised.
    pub(crate) spares_why: String,
    pub(crate) scale: String,
    pub(crate) resin: String,
    pub(crate) layer: String,
    pub(crate) version: i64,
    pub(crate) wanted: u64,
    pub(crate) under_way: u32,
    pub(crate) good: u32,
    pub(crate) failed: u32,
}

/// A model with its parts.
#[derive(Template)]
#[template(path = "muster/model.html")]
pub(crate) struct ModelView {
    pub(crate) page: Page,
    pub(crate) id: ModelId,
    pub(crate) project: ProjectId,
    pub(crate) name: String,
    pub(crate) unit: String,
    pub(crate) quantity: u32,
    pub(crate) base: String,
    pub(crate) ready: String,
    pub(crate) each: String,
    pub(crate) spent: String,
    pub(crate) failed: String,
    pub(crate) words: String,
    pub(crate) drawing: String,
    /// Its parts to one scale, once one is measured.
    pub(crate) kit: String,
    pub(crate) parts: Vec<PartRow>,
    pub(crate) choices: Vec<ChoiceRow>,
    pub(crate) pieces: Vec<PieceRow>,
    /// Models whose kit may be taken over.
    pub(crate) kits: Vec<(String, String)>,
    pub(crate) concerns: ConcernList,
}

pub(crate) struct ChoiceRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) options: String,
    pub(crate) fault: String,
}

pub(crate) struct PieceRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) taken_by: String,
    pub(crate) source: &'static str,
    pub(crate) count: u32,
    pub(crate) needed: u32,
    pub(crate) at_hand: u32,
    pub(crate) each: String,
    pub(crate) minutes: String,
}

impl ModelView {
    pub(crate) fn new(
        page: Page,
        (army, kits): (&Army, &[(ModelId, String)]),
        (unit, model): (&ArmyUnit, &ArmyModel),
        resins: &[Resin],
        concerns: &[Concern],
        facts: &HashMap<SculptId, SculptFacts>,
        pictured: &HashSet<SculptId>,
    ) -> Self {
        let parts: HashSet<PartId> = model.parts.iter().map(|p| p.part.id).collect();
        let resin = |id| {
            let found = resins.iter().find(|r| r.id == id);
            found.map_or_else(String::new, |r| r.name.clone())
        };
        let row = model_row(model, figures(model, facts));
        Self {
            page,
            id: model.model.id,
            project: army.project.id,
            name: row.name,
            unit: unit.unit.name.clone(),
            quantity: model.model.quantity,
            base: row.base,
            ready: row.ready,
            each: row.each,
            spent: model.spent().written(),
            failed: model.failed_cost().written(),
            words: row.words,
            drawing: row.drawing,
            kit: kit(model, facts, pictured),
            parts: model
                .parts
                .iter()
                .map(|p| {
                    let seen = p.part.sculpt.is_some_and(|s| pictured.contains(&s));
                    part_row(model, p, resin(p.recipe.resin), seen)
                })
                .collect(),
            choices: choice_rows(model),
            pieces: model.pieces.iter().map(|p| piece_row(model, p)).collect(),
            kits: kits_to_take(kits, Some(model.model.id)),
            concerns: ConcernList::about(
                army.project.id,
                format!("/models/{}", model.model.id),
                concerns,
                &parts,
            ),
        }
    }
}

/// The parts of a model that are measured, to one scale beside its base.
pub(super) fn kit(
    model: &ArmyModel,
    facts: &HashMap<SculptId, SculptFacts>,
    pictured: &HashSet<SculptId>,
) -> String {
    let part = |p: &ArmyPart| {
        let sculpt = p.part.sculpt?;
        let known = facts.get(&sculpt)?;
        let [width, _, height] = known.size_mm(p.recipe.scale);
        let name = match p.part.count {
            1 => p.part.name.clone(),
            many => format!("{many} × {}", p.part.name),
        };
        Some(KitPart {
            name,
            address: format!("/parts/{}/recipe", p.part.id),
            size_mm: [width, height],
            skyline: (&known.profile, p.recipe.scale),
            picture: pictured
                .contains(&sculpt)
                .then(|| format!("/sculpts/{sculpt}/side/front")),
        })
    };
    let parts: Vec<KitPart> = model.parts.iter().filter_map(part).collect();
    if parts.is_empty() {
        return String::new();
    }
    draw_kit(
        [model.model.base_width_mm, model.model.base_depth_mm],
        &parts,
    )
}

/// Models that have a kit, as a choice.
fn kits_to_take(with_kits: &[(ModelId, String)], but: Option<ModelId>) -> Vec<(String, String)> {
    let all = with_kits.iter().filter(|(id, _)| Some(*id) != but);
    all.map(|(id, name)| (id.to_string(), name.clone()))
        .collect()
}

fn choice_rows(model: &ArmyModel) -> Vec<ChoiceRow> {
    let faults = model.choice_faults();
    let row = |c: &ArmyChoice| ChoiceRow {
        id: c.choice.id.0,
        name: c.choice.name.clone(),
        options: options_text(&c.options),
        fault: faults
            .iter()
            .find(|(of, _)| of.choice.id == c.choice.id)
            .map_or_else(String::new, |(_, f)| f.to_string()),
    };
    model.choices.iter().map(row).collect()
}

/// Which models take something: the name of the option, or nothing for all.
fn taken_by(model: &ArmyModel, option: Option<OptionId>) -> String {
    let mut all = model.choices.iter().flat_map(|c| &c.options);
    let found = option.map(|id| {
        all.find(|o| o.id == id)
            .map_or("an option taken away", |o| o.name.as_str())
    });
    found.unwrap_or_default().to_owned()
}

fn piece_row(model: &ArmyModel, p: &Piece) -> PieceRow {
    PieceRow {
        id: p.id.0,
        name: p.name.clone(),
        taken_by: taken_by(model, p.option),
        source: p.source.as_str(),
        count: p.count,
        needed: p.count * model.takers(p.option),
        at_hand: p.at_hand,
        each: p.cost_each.written(),
        minutes: plain(p.minutes_each),
    }
}

fn part_row(model: &ArmyModel, part: &ArmyPart, resin: String, pictured: bool) -> PartRow {
    let words = match &part.sculpt {
        None => "needs a sculpt",
        Some((_, SculptState::Measured)) => "",
        Some((_, SculptState::Refused)) => "its file could not be read",
        Some((_, SculptState::Incoming | SculptState::Waiting)) => "being measured",
    };
    let good = part.counts.of(Stage::Good);
    PartRow {
        id: part.part.id.0,
        name: part.part.name.clone(),
        sculpt: part
            .part
            .sculpt
            .zip(part.sculpt.clone())
            .map(|(id, (name, _))| (id.0, name)),
        sculpt_words: words,
        pictured,
        taken_by: taken_by(model, part.part.option),
        count: part.part.count,
        spares: part.part.spares,
        spares_why: part.part.spares_why.clone(),
        scale: plain(part.recipe.scale * 100.0),
        resin,
        layer: part.recipe.layer.to_string(),
        version: part.recipe.version,
        wanted: part.need.wanted(),
        under_way: part.need.alive - good,
        good,
        failed: part.counts.of(Stage::Failed),
    }
}

/// A unit: its form, and what can be done with it as a whole.
#[derive(Template)]
#[template(path = "muster/unit.html")]
pub(crate) struct UnitView {
    pub(crate) form: FormView,
    pub(crate) page: Page,
    pub(crate) id: UnitId,
    /// Identity, name and quantity of its models.
    pub(crate) models: Vec<(ModelId, String, u32)>,
    /// Other units it may be merged into.
    pub(crate) others: Vec<(UnitId, String)>,
}

impl UnitView {
    pub(crate) fn new(form: FormView, units: &[Unit], models: &[Model], id: UnitId) -> Self {
        let models = models.iter().filter(|m| m.unit == id);
        let others = units.iter().filter(|u| u.id != id);
        Self {
            page: form.page.clone(),
            form,
            id,
            models: models.map(|m| (m.id, m.name.clone(), m.quantity)).collect(),
            others: others.map(|u| (u.id, u.name.clone())).collect(),
        }
    }
}

/// A unit in the form for many models: its name, and identity, name and tick of its models.
pub(crate) type ManyUnit = (String, Vec<(ModelId, String, bool)>);

/// One form for many models.
#[derive(Template)]
#[template(path = "muster/many.html")]
pub(crate) struct ManyView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) units: Vec<ManyUnit>,
    pub(crate) fields: Vec<Field>,
}

impl ManyView {
    pub(crate) fn new(page: Page, army: &Army, resins: &[Resin]) -> Self {
        let unit = |u: &ArmyUnit| {
            let models = u
                .models
                .iter()
                .map(|m| (m.model.id, m.model.name.clone(), false));
            (u.unit.name.clone(), models.collect())
        };
        Self {
            page,
            id: army.project.id,
            units: army.units.iter().map(unit).collect(),
            fields: many::fields(resins),
        }
    }

    /// Ticks the models that were ticked.
    pub(crate) fn tick<'a>(&mut self, ticked: impl Iterator<Item = &'a str>) {
        let ticked: Vec<String> = ticked.map(str::to_owned).collect();
        for (id, _, on) in self.units.iter_mut().flat_map(|(_, models)| models) {
            *on = ticked.contains(&id.to_string());
        }
    }
}
