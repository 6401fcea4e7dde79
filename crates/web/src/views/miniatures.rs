//! The miniatures of a model: how far each is, what it keeps, what it lacks.

use askama::Template;
use wembrit_core::army::ArmyPart;
use wembrit_core::army::miniatures::{
    Arrived, BuildStep, Held, Miniature, put_together, reached, state_of,
};
use wembrit_core::ids::{ArrivalId, MiniatureId, ModelId, PartId, ProjectId};
use wembrit_store::queries::pages::miniatures::MiniaturesPage;

use super::Page;
use super::show::count;
use crate::currency::Amount;
use crate::forms::Input;

/// One of them.
pub(crate) struct MiniatureRow {
    pub(crate) id: MiniatureId,
    pub(crate) number: i64,
    pub(crate) state: &'static str,
    /// Its options, in words.
    pub(crate) options: String,
    /// Parts and marks of what it keeps.
    pub(crate) keeps: String,
    pub(crate) lacks: String,
}

/// A copy that came.
pub(crate) struct CameRow {
    pub(crate) id: ArrivalId,
    pub(crate) mark: i64,
    pub(crate) part: String,
    pub(crate) how: Arrived,
    pub(crate) cost: String,
    pub(crate) note: String,
    /// Number of the miniature that keeps it.
    pub(crate) kept_by: Option<i64>,
}

/// The page.
#[derive(Template)]
#[template(path = "muster/miniatures.html")]
pub(crate) struct MiniaturesView {
    pub(crate) page: Page,
    pub(crate) id: ModelId,
    pub(crate) project: ProjectId,
    pub(crate) name: String,
    pub(crate) unit: String,
    pub(crate) quantity: u32,
    /// Step, and how many miniatures are there or beyond.
    pub(crate) steps: Vec<(&'static str, usize)>,
    pub(crate) rows: Vec<MiniatureRow>,
    /// How many new ones can be put together now, and how many that lack something get a piece.
    pub(crate) can: usize,
    pub(crate) fills: usize,
    /// Good copies nobody keeps, by part.
    pub(crate) free: Vec<(String, usize)>,
    pub(crate) came: Vec<CameRow>,
    /// What is over elsewhere, by part that wants some: its name, how many it wants, where they are, by mark.
    pub(crate) over: Vec<(PartId, String, u64, String)>,
    pub(crate) parts: Vec<(PartId, String)>,
    pub(crate) ways: &'static [Arrived],
    pub(crate) all_steps: &'static [BuildStep],
    pub(crate) typed: Input,
    pub(crate) fault: String,
}

/// What is over elsewhere and wanted here.
fn over(data: &MiniaturesPage) -> Vec<(PartId, String, u64, String)> {
    let wants = data.model.parts.iter().filter(|p| p.need.wanted() > 0);
    let row = |p: &ArmyPart| {
        let fits = data.over.iter().filter(|o| o.part == p.part.id);
        let words: Vec<String> = fits
            .map(|o| format!("{} of {}, {}", o.mark, o.project, o.model))
            .collect();
        (!words.is_empty()).then(|| {
            let name = p.part.name.clone();
            (p.part.id, name, p.need.wanted(), words.join("; "))
        })
    };
    wants.filter_map(row).collect()
}

impl MiniaturesView {
    pub(crate) fn new(page: Page, data: &MiniaturesPage, typed: &Input, fault: String) -> Self {
        let names = data.names();
        let name = |part: PartId| names.get(&part).copied().unwrap_or("a part").to_owned();
        let model = &data.model;
        let (filled, new) = put_together(model, &data.standing, &data.free, u32::MAX);
        let row = |m: &Miniature| {
            let lacks = m.lacks(model).into_iter();
            let mut lacks: Vec<String> = lacks
                .map(|(part, short)| format!("{short} {}", name(part).to_lowercase()))
                .collect();
            if m.undecided(model) > 0 {
                lacks.push("an option of a choice".into());
            }
            let options = model.choices.iter().flat_map(|c| &c.options);
            let options = options.filter(|o| m.options.contains(&o.id));
            MiniatureRow {
                id: m.id,
                number: m.number,
                state: state_of(m, model),
                options: options
                    .map(|o| o.name.as_str())
                    .collect::<Vec<_>>()
                    .join(", "),
                keeps: keeps(m, &name),
                lacks: lacks.join(", "),
            }
        };
        let number = |id: MiniatureId| {
            let found = data.standing.iter().find(|m| m.id == id);
            found.map(|m| m.number)
        };
        let steps = [
            BuildStep::Built,
            BuildStep::Primed,
            BuildStep::Painted,
            BuildStep::Based,
        ];
        Self {
            id: model.model.id,
            project: data.unit.project,
            name: model.model.name.clone(),
            unit: data.unit.name.clone(),
            quantity: model.model.quantity,
            steps: steps
                .map(|s| (s.as_str(), reached(&data.standing, model, s)))
                .to_vec(),
            rows: data.standing.iter().map(row).collect(),
            can: new.len(),
            fills: filled.len(),
            free: model
                .parts
                .iter()
                .map(|p| {
                    let free = data.free.get(&p.part.id).map_or(0, Vec::len);
                    (p.part.name.clone(), free)
                })
                .collect(),
            came: data
                .came
                .iter()
                .map(|a| CameRow {
                    id: a.id,
                    mark: a.mark,
                    part: name(a.part),
                    how: a.how,
                    cost: a.cost.written(),
                    note: a.note.clone(),
                    kept_by: a.kept_by.and_then(number),
                })
                .collect(),
            over: over(data),
            parts: model
                .parts
                .iter()
                .map(|p| (p.part.id, p.part.name.clone()))
                .collect(),
            ways: Arrived::ALL,
            all_steps: BuildStep::ALL,
            typed: typed.clone(),
            fault,
            page,
        }
    }

    /// What the button says.
    pub(crate) fn button(&self) -> String {
        let fills = count(
            self.fills as u64,
            "open one gets a piece",
            "open ones get pieces",
        );
        match (self.can, self.fills) {
            (0, _) => format!("Give the pieces out: {fills}"),
            (n, 0) => format!("Put {n} together"),
            (n, _) => format!("Put {n} together; {fills}"),
        }
    }
}

/// `Body 12 · Arm 31, 32`.
fn keeps(m: &Miniature, name: &dyn Fn(PartId) -> String) -> String {
    let mut by: Vec<(PartId, Vec<String>)> = Vec::new();
    for copy in &m.keeps {
        let mark = match copy.held {
            Held::Copy(_) => copy.mark.to_string(),
            Held::Arrival(_) => format!("{} (came)", copy.mark),
        };
        match by.iter_mut().find(|(part, _)| *part == copy.part) {
            Some((_, marks)) => marks.push(mark),
            None => by.push((copy.part, vec![mark])),
        }
    }
    let words = by
        .iter()
        .map(|(part, marks)| format!("{} {}", name(*part), marks.join(", ")));
    words.collect::<Vec<_>>().join(" · ")
}
