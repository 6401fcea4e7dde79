//! Files and the parts they may belong to.

use std::collections::HashSet;

use askama::Template;
use wembrit_core::army::matching::{
    FileName, Proposal, Wanted, WantedModel, propose, read_file_name,
};
use wembrit_core::army::{Army, ArmyModel, ArmyPart, ChoiceOption};
use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_core::sculpt::Sculpt;

use super::Page;

/// One file that no part names yet.
pub(crate) struct FileRow {
    pub(crate) id: SculptId,
    pub(crate) file_name: String,
    /// It has its picture.
    pub(crate) pictured: bool,
    /// The proposal as the choice's value; empty for none.
    pub(crate) to: String,
    pub(crate) name: String,
    pub(crate) count: u32,
    pub(crate) words: String,
}

/// Everything that has to be brought together.
#[derive(Template)]
#[template(path = "matching/show.html")]
pub(crate) struct MatchView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) files: Vec<FileRow>,
    /// Parts without a file: value and name.
    pub(crate) parts: Vec<(String, String)>,
    /// Models that may get a new part.
    pub(crate) models: Vec<(String, String)>,
}

impl MatchView {
    pub(crate) fn new(
        page: Page,
        army: &Army,
        files: Vec<Sculpt>,
        pictured: &HashSet<SculptId>,
    ) -> Self {
        let (open, models) = (open_parts(army), all_models(army));
        let read: Vec<FileName> = files.iter().map(|s| read_file_name(&s.file_name)).collect();
        let wanted: Vec<Wanted> = open.iter().map(|(m, p)| wanted(m, p)).collect();
        let names: Vec<WantedModel> = models.iter().map(|m| wanted_model(m)).collect();
        let proposals = propose(&read, &wanted, &names);
        let rows = files.into_iter().zip(proposals).map(|(sculpt, proposal)| {
            let row = |to: String, name: String, count, words| FileRow {
                id: sculpt.id,
                file_name: sculpt.file_name.clone(),
                pictured: pictured.contains(&sculpt.id),
                to,
                name,
                count,
                words,
            };
            match proposal {
                Proposal::Nothing => row(
                    String::new(),
                    String::new(),
                    1,
                    "the name tells nothing".into(),
                ),
                Proposal::Part { part, other_count } => {
                    let part = &open[part].1.part;
                    let words = other_count.map_or_else(String::new, |n| {
                        format!("the file says {n} in each model, the part {}", part.count)
                    });
                    row(format!("part-{}", part.id), String::new(), 1, words)
                }
                Proposal::NewPart {
                    model,
                    option,
                    name,
                    count,
                    of_army,
                } => {
                    let to = option
                        .and_then(|o| options(models[model]).nth(o))
                        .map_or_else(
                            || format!("model-{}", models[model].model.id),
                            |option| format!("option-{}", option.id),
                        );
                    let words = if of_army {
                        "the file's count is that of the whole army".to_owned()
                    } else {
                        String::new()
                    };
                    row(to, name, count, words)
                }
            }
        });
        Self {
            files: rows.collect(),
            parts: open
                .iter()
                .map(|(m, p)| {
                    (
                        format!("part-{}", p.part.id),
                        format!("{}, {}", m.model.name, p.part.name),
                    )
                })
                .collect(),
            models: models.iter().flat_map(|m| places(m)).collect(),
            page,
            id: army.project.id,
        }
    }
}

fn open_parts(army: &Army) -> Vec<(&ArmyModel, &ArmyPart)> {
    let open = army.parts().filter(|(_, _, p)| p.part.sculpt.is_none());
    open.map(|(_, m, p)| (m, p)).collect()
}

fn all_models(army: &Army) -> Vec<&ArmyModel> {
    army.units.iter().flat_map(|u| &u.models).collect()
}

/// The options of all choices of a model, in order.
fn options(model: &ArmyModel) -> impl Iterator<Item = &ChoiceOption> {
    model.choices.iter().flat_map(|c| &c.options)
}

/// Where a new part of a model may go: to all of its models, or to those with an option.
fn places(model: &ArmyModel) -> Vec<(String, String)> {
    let name = &model.model.name;
    let all = (format!("model-{}", model.model.id), name.clone());
    let with = |o: &ChoiceOption| {
        (
            format!("option-{}", o.id),
            format!("{name}, with {}", o.name),
        )
    };
    std::iter::once(all)
        .chain(options(model).map(with))
        .collect()
}

fn wanted_model(model: &ArmyModel) -> WantedModel {
    WantedModel {
        name: model.model.name.clone(),
        quantity: model.model.quantity,
        options: options(model).map(|o| (o.name.clone(), o.models)).collect(),
    }
}

fn wanted(model: &ArmyModel, part: &ArmyPart) -> Wanted {
    Wanted {
        model: model.model.name.clone(),
        part: part.part.name.clone(),
        count: part.need.count,
        models: part.need.quantity,
    }
}
