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
    /// Of so many.
    pub(crate) of: usize,
    /// The first and the next that are shown, where not all are.
    pub(crate) from: usize,
    pub(crate) next: Option<usize>,
    /// So many places that each file has a field to type into, with one list for all.
    pub(crate) is_long: bool,
    /// Parts without a file: value and name.
    pub(crate) parts: Vec<(String, String)>,
    /// Models that may get a new part.
    pub(crate) models: Vec<(String, String)>,
}

impl MatchView {
    pub(crate) fn new(
        page: Page,
        army: &Army,
        mut files: Vec<Sculpt>,
        pictured: &HashSet<SculptId>,
        from: usize,
    ) -> Self {
        let (open, models) = (open_parts(army), all_models(army));
        let (parts, places) = named_places(army);
        let of = files.len();
        let from = if from < of { from } else { 0 };
        let next = (from + ROWS < of).then_some(from + ROWS);
        files.truncate(from + ROWS);
        files.drain(..from);
        let is_long = files.len() * (parts.len() + places.len()) > MOST_OPTIONS;
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
            of,
            from,
            next,
            is_long,
            parts,
            models: places,
            page,
            id: army.project.id,
        }
    }
}

/// Files on one page, and choices on it beyond which they are typed.
const ROWS: usize = 40;
const MOST_OPTIONS: usize = 1_500;

/// Places as a choice: value and name.
type Places = Vec<(String, String)>;

/// Where a file may belong: parts without one, and models, or options of them, that may get a new part. No two have
/// the same name.
pub(crate) fn named_places(army: &Army) -> (Places, Places) {
    let unit_of = |model: &ArmyModel| {
        let mut units = army.units.iter();
        let of = units.find(|u| u.unit.id == model.model.unit);
        of.map_or("", |u| u.unit.name.as_str())
    };
    let mut taken: HashSet<String> = HashSet::new();
    let mut unique = |(value, name): (String, String), unit: &str| {
        let mut name = if taken.contains(&name) {
            format!("{name}, {unit}")
        } else {
            name
        };
        if taken.contains(&name) {
            name = format!("{name}, {value}");
        }
        taken.insert(name.clone());
        (value, name)
    };
    let open = open_parts(army);
    let parts = open.iter().map(|(m, p)| {
        let value = format!("part-{}", p.part.id);
        let name = format!("{}, {}", m.model.name, p.part.name);
        unique((value, name), unit_of(m))
    });
    let parts: Places = parts.collect();
    let models = all_models(army).into_iter();
    let places = models.flat_map(|m| places(m).into_iter().map(move |place| (m, place)));
    let places = places.map(|(m, place)| unique(place, unit_of(m)));
    (parts, places.collect())
}

impl MatchView {
    /// What stands in the field of a file: the name of its place.
    pub(crate) fn typed(&self, file: &FileRow) -> &str {
        let all = self.parts.iter().chain(&self.models);
        let mut all = all.filter(|(value, _)| *value == file.to);
        all.next().map_or("", |(_, name)| name)
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
