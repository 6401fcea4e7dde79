//! How all parts of a project hang: what the practice says of each beside what it is now.

use std::collections::HashMap;

use askama::Template;
use wembrit_core::army::ArmyPart;
use wembrit_core::flow::SculptState;
use wembrit_core::ids::{ModelId, PartId, ProjectId};
use wembrit_core::recipe::supports::{Holding, Supports};
use wembrit_core::recipe::{HeldFigures, Proposed, Setup};
use wembrit_core::sculpt::brings_supports;
use wembrit_core::stores::{OnScale, reckoned_g};
use wembrit_core::workshop::practice::Question;
use wembrit_core::workshop::resin::ResinFacts;
use wembrit_core::workshop::resin_use::Body;
use wembrit_store::queries::pages::setups::SetupsPage;

use super::Page;
use super::holding::HoldingView;
use super::recipes::picture_address;
use super::show::{count, tenth};
use super::unit_leaf::UnitLeaf;

/// Parts that are sent at once.
const PARTS_ON_A_LEAF: usize = 160;

/// What the practice says of a part.
pub(crate) struct Said {
    pub(crate) part: PartId,
    pub(crate) proposed: Proposed,
    /// As it would be held, once that was measured.
    pub(crate) kept: Option<HeldFigures>,
    /// That is being measured.
    pub(crate) open: bool,
}

/// One part on the sheet.
pub(crate) struct SetupCard {
    pub(crate) part: PartId,
    pub(crate) model: (ModelId, String),
    pub(crate) name: String,
    /// Address of the picture of what is shown.
    pub(crate) picture: Option<String>,
    /// What the practice says, and why; nothing where it says nothing.
    pub(crate) says: Option<(String, &'static str)>,
    /// How it hangs now.
    pub(crate) now: String,
    /// It hangs so already.
    pub(crate) same: bool,
    /// Nobody has set it up.
    pub(crate) plain: bool,
    pub(crate) open: bool,
    pub(crate) figures: Vec<(&'static str, String)>,
    pub(crate) warnings: Vec<String>,
}

/// The parts of a unit.
pub(crate) struct SetupUnit {
    pub(crate) name: String,
    pub(crate) cards: Vec<SetupCard>,
}

/// The sheet.
#[derive(Template)]
#[template(path = "setups/show.html")]
pub(crate) struct SetupsView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    pub(crate) practice: (&'static str, &'static str, &'static str),
    pub(crate) units: Vec<SetupUnit>,
    pub(crate) leaf: UnitLeaf,
    /// Parts that could hang otherwise.
    pub(crate) otherwise: usize,
    /// Pictures that nobody has asked for yet.
    pub(crate) unseen: usize,
    pub(crate) open: usize,
    /// Parts without a measured sculpt.
    pub(crate) without: usize,
    /// Parts whose files bring supports that their recipes do not use.
    pub(crate) supported: Vec<PartId>,
}

impl SetupsView {
    pub(crate) fn new(page: Page, data: &SetupsPage, said: &[Said], from: usize) -> Self {
        let school = data.practice.school(Question::Tilt);
        let by_part: HashMap<PartId, &Said> = said.iter().map(|s| (s.part, s)).collect();
        let mut units = Vec::new();
        let mut without = 0;
        for unit in &data.army.units {
            let mut cards = Vec::new();
            for model in &unit.models {
                for part in &model.parts {
                    if !matches!(part.sculpt, Some((_, SculptState::Measured))) {
                        without += 1;
                        continue;
                    }
                    let said = by_part.get(&part.part.id).copied();
                    let of = (model.model.id, model.model.name.clone());
                    cards.push(card(data, of, part, said));
                }
            }
            if !cards.is_empty() {
                units.push(SetupUnit {
                    name: unit.unit.name.clone(),
                    cards,
                });
            }
        }
        let sizes: Vec<usize> = units.iter().map(|u| u.cards.len()).collect();
        let leaf = UnitLeaf::new(&sizes, PARTS_ON_A_LEAF, from);
        let cards = || units.iter().flat_map(|u| &u.cards);
        let may = |c: &&SetupCard| c.says.is_some() && !c.same;
        let unseen = |c: &&SetupCard| c.says.is_some() && c.picture.is_none() && !c.open;
        Self {
            otherwise: cards().filter(may).count(),
            unseen: cards().filter(unseen).count(),
            open: cards().filter(|c| c.open).count(),
            without,
            supported: unused_supports(data),
            leaf,
            units,
            practice: (school.word, school.good_for, school.costs),
            id: data.army.project.id,
            page,
        }
    }

    pub(crate) fn open_words(&self) -> String {
        let many = self.open as u64;
        count(many, "part is", "parts are")
    }

    pub(crate) fn supported_words(&self) -> String {
        let many = self.supported.len() as u64;
        let parts = count(many, "part has", "parts have");
        if many == 1 {
            return format!(
                "{parts} a file with its own supports, and its recipe does not use them."
            );
        }
        format!("{parts} files with their own supports, and their recipes do not use them.")
    }

    pub(crate) fn without_words(&self) -> String {
        let many = self.without as u64;
        count(many, "part has", "parts have")
    }
}

/// Parts whose files bring supports that their recipes do not use.
pub(crate) fn unused_supports(data: &SetupsPage) -> Vec<PartId> {
    let unused = |p: &&ArmyPart| {
        let sculpt = p.part.sculpt.and_then(|s| data.sculpts.get(&s));
        let brings = sculpt.is_some_and(|s| brings_supports(s, data.layers.get(&s.id)).is_some());
        let uses = matches!(
            p.recipe.setup.supports,
            Supports::InFile | Supports::PrintMesh(_)
        );
        brings && !uses
    };
    let parts = data.army.parts().map(|(_, _, p)| p).filter(unused);
    parts.map(|p| p.part.id).collect()
}

fn card(
    data: &SetupsPage,
    model: (ModelId, String),
    part: &ArmyPart,
    said: Option<&Said>,
) -> SetupCard {
    let now = part.recipe.setup;
    let same = said.is_none_or(|s| s.proposed.setup == now);
    let present = data.present(part).copied().filter(|_| same);
    let kept = said.and_then(|s| s.kept).or(present);
    let resin = data.resins.iter().find(|r| r.id == part.recipe.resin);
    let resin = resin.map_or(ResinFacts::ASSUMED, |r| r.facts);
    let (mut figures, mut warnings) = (Vec::new(), Vec::new());
    if let Some(p) = &kept {
        figures.push(("Height, mm", tenth(p.height_mm)));
        figures.push(("Supports, ml", format!("{:.2}", p.support_mm3 / 1000.0)));
        figures.push(("Contacts", p.contacts.to_string()));
        figures.push(("Peak pull", format!("{:.2}", p.peak_pull)));
        let body = Body {
            part_mm3: p.part_mm3,
            ..Body::default()
        };
        let grams = reckoned_g(&body, OnScale::Bare, &resin);
        let supports = &p.setup.setup.supports;
        let holding = Holding::of(supports, p.contacts, p.peak_pull, grams);
        warnings.extend(holding.and_then(|h| HoldingView::new(&h, &data.holds).doubt));
        if p.starts_left > 0 {
            let many = p.starts_left as u64;
            let starts = count(many, "region starts", "regions start");
            warnings.push(format!("{starts} in mid-air all the same."));
        }
    }
    SetupCard {
        part: part.part.id,
        model,
        name: part.part.name.clone(),
        picture: kept.map(|k| picture_address(part.part.id, k.id)),
        says: said.map(|s| (setup_words(s.proposed.setup), s.proposed.why)),
        now: setup_words(now),
        same,
        plain: now == Setup::PLAIN,
        open: said.is_some_and(|s| s.open),
        figures,
        warnings,
    }
}

fn setup_words(setup: Setup) -> String {
    format!("{}, {}", setup.pose.words(), setup.supports.words())
}

/// The sheet alone, while some of it is measured.
#[derive(Template)]
#[template(path = "setups/sheet.html")]
pub(crate) struct SetupsPart(pub(crate) SetupsView);

impl std::ops::Deref for SetupsPart {
    type Target = SetupsView;
    fn deref(&self) -> &SetupsView {
        &self.0
    }
}
