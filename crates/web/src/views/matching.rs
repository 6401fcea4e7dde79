//! Files and the parts they may belong to.

use askama::Template;
use wembrit_core::army::matching::{FileName, Proposal, Wanted, propose, read_file_name};
use wembrit_core::army::{Army, ArmyModel, ArmyPart};
use wembrit_core::ids::{ProjectId, SculptId};
use wembrit_core::sculpt::Sculpt;

use super::Page;

/// One file that no part names yet.
pub(crate) struct FileRow {
    pub(crate) id: SculptId,
    pub(crate) file_name: String,
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
    pub(crate) fn new(page: Page, army: &Army, files: Vec<Sculpt>) -> Self {
        let (open, models) = (open_parts(army), all_models(army));
        let read: Vec<FileName> = files.iter().map(|s| read_file_name(&s.file_name)).collect();
        let wanted: Vec<Wanted> = open.iter().map(|(m, p)| wanted(m, p)).collect();
        let names: Vec<String> = models.iter().map(|m| m.model.name.clone()).collect();
        let proposals = propose(&read, &wanted, &names);
        let rows = files.into_iter().zip(proposals).map(|(sculpt, proposal)| {
            let row = |to: String, name: String, count, words| FileRow {
                id: sculpt.id,
                file_name: sculpt.file_name.clone(),
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
                Proposal::NewPart { model, name, count } => row(
                    format!("model-{}", models[model].model.id),
                    name,
                    count,
                    String::new(),
                ),
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
            models: models
                .iter()
                .map(|m| (format!("model-{}", m.model.id), m.model.name.clone()))
                .collect(),
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

fn wanted(model: &ArmyModel, part: &ArmyPart) -> Wanted {
    Wanted {
        model: model.model.name.clone(),
        part: part.part.name.clone(),
        count: part.need.count,
    }
}
