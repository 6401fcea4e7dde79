//! The build sheet of a unit: what each model is made of, and a line of boxes for each of them.

use askama::Template;
use wembrit_core::army::miniatures::{BuildStep, Miniature};
use wembrit_core::army::{ArmyModel, ArmyPart};
use wembrit_core::flow::Stage;
use wembrit_core::ids::{ModelId, ProjectId, UnitId};
use wembrit_store::queries::pages::build_sheet::BuildSheetPage;

use super::Page;
use super::muster::kit;
use crate::forms::models::base_mm;

/// Steps a miniature goes through, each a box.
pub(crate) const BOXES: [BuildStep; 4] = [
    BuildStep::Built,
    BuildStep::Primed,
    BuildStep::Painted,
    BuildStep::Based,
];

/// One miniature, or one that is not put together yet.
pub(crate) struct BoxRow {
    pub(crate) number: u32,
    /// What it keeps, by mark, and what it lacks.
    pub(crate) words: String,
    pub(crate) ticked: [bool; 4],
}

pub(crate) struct SheetModel {
    pub(crate) id: ModelId,
    pub(crate) name: String,
    pub(crate) quantity: u32,
    pub(crate) base: String,
    pub(crate) drawing: String,
    /// How many of each, its name, how many are good.
    pub(crate) parts: Vec<(u32, String, String)>,
    /// Pieces that are not printed.
    pub(crate) pieces: Vec<String>,
    /// What may be chosen.
    pub(crate) choices: Vec<String>,
    pub(crate) rows: Vec<BoxRow>,
}

/// The sheet.
#[derive(Template)]
#[template(path = "muster/build_sheet.html")]
pub(crate) struct BuildSheet {
    pub(crate) page: Page,
    pub(crate) id: UnitId,
    pub(crate) project: ProjectId,
    pub(crate) unit: String,
    pub(crate) many: u32,
    pub(crate) models: Vec<SheetModel>,
    pub(crate) boxes: [BuildStep; 4],
}

impl BuildSheet {
    pub(crate) fn new(page: Page, data: &BuildSheetPage) -> Self {
        let models = data.unit.models.iter();
        Self {
            id: data.unit.unit.id,
            project: data.unit.unit.project,
            unit: data.unit.unit.name.clone(),
            many: models.clone().map(|m| m.model.quantity).sum(),
            models: models.map(|m| sheet_model(data, m)).collect(),
            boxes: BOXES,
            page,
        }
    }
}

fn sheet_model(data: &BuildSheetPage, model: &ArmyModel) -> SheetModel {
    let standing = data.miniatures.get(&model.model.id);
    let standing = standing.map_or(&[][..], Vec::as_slice);
    let part = |p: &ArmyPart| {
        let option = model.choices.iter().flat_map(|c| &c.options);
        let mut option = option.filter(|o| Some(o.id) == p.part.option);
        let name = option.next().map_or_else(
            || p.part.name.clone(),
            |o| format!("{}, for {}", p.part.name, o.name),
        );
        let (good, wanted) = (p.counts.of(Stage::Good), p.need.required());
        (p.part.count, name, format!("{good}/{wanted}"))
    };
    // Those that stand keep their numbers; the others get a line each.
    let first = standing.iter().map(|m| m.number).max().unwrap_or(0);
    let more = model.model.quantity.saturating_sub(standing.len() as u32);
    let open = (1..=more).map(|n| BoxRow {
        number: u32::try_from(first).unwrap_or(0) + n,
        words: String::new(),
        ticked: [false; 4],
    });
    SheetModel {
        id: model.model.id,
        name: model.model.name.clone(),
        quantity: model.model.quantity,
        base: base_mm(&model.model).map_or_else(String::new, |base| format!("on {base}")),
        drawing: kit(model, &data.facts, &data.pictured),
        parts: model.parts.iter().map(part).collect(),
        pieces: model
            .pieces
            .iter()
            .map(|p| format!("{} {}", p.count, p.name))
            .collect(),
        choices: model
            .choices
            .iter()
            .map(|c| {
                let of = c.options.iter().map(|o| format!("{} {}", o.models, o.name));
                format!("{}: {}", c.choice.name, of.collect::<Vec<_>>().join(", "))
            })
            .collect(),
        rows: standing.iter().map(|m| row(m, model)).chain(open).collect(),
    }
}

fn row(of: &Miniature, model: &ArmyModel) -> BoxRow {
    let name = |part| {
        let found = model.parts.iter().find(|p| p.part.id == part);
        found.map_or("a part", |p| p.part.name.as_str())
    };
    let keeps = of.keeps.iter();
    let mut words: Vec<String> = keeps
        .map(|k| format!("{} {}", name(k.part), k.mark))
        .collect();
    let lacks = of.lacks(model).into_iter();
    words.extend(lacks.map(|(part, short)| format!("lacks {short} {}", name(part))));
    BoxRow {
        number: u32::try_from(of.number).unwrap_or(0),
        words: words.join(", "),
        ticked: BOXES.map(|step| of.step >= step),
    }
}
