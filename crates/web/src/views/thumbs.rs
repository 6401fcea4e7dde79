//! Plates in lists: small pictures that share their outlines, a leaf at a time.

use crate::currency::Amount;
use wembrit_core::flow::Plate;
use wembrit_core::ids::PlateId;
use wembrit_paper::{PlateDrawing, draw_plate_thumbs};
use wembrit_store::queries::pages::plans::{Leaf, ON_A_LEAF};
use wembrit_store::queries::pages::plates::PlatesShown;

use super::plates::state_word;
use super::shapes::Shapes;
use super::show::{hours, tenth};

/// A plate in a list.
pub(crate) struct Thumb {
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    pub(crate) state: String,
    pub(crate) class: String,
    pub(crate) drawing: String,
    pub(crate) printer: String,
    pub(crate) resin: String,
    pub(crate) layer: String,
    pub(crate) copies: usize,
    pub(crate) failed: usize,
    pub(crate) hours: String,
    pub(crate) ml: String,
    pub(crate) cost: String,
}

/// One leaf of a list of plates.
#[derive(Default)]
pub(crate) struct Sheets {
    /// What the pictures set down, to stand before them.
    pub(crate) outlines: String,
    pub(crate) thumbs: Vec<Thumb>,
    /// Which plates of how many these are; empty where they are all.
    pub(crate) words: String,
    /// Where the leaf before and the leaf after are.
    pub(crate) earlier: Option<String>,
    pub(crate) later: Option<String>,
    /// What it is the leaves of: no two lists of a page are called alike.
    pub(crate) leaves_of: &'static str,
}

impl Sheets {
    /// All of some plates; the name keeps their drawings apart from others of the page.
    pub(super) fn all(name: &str, shown: &PlatesShown) -> Self {
        let shapes = Shapes::new(shown);
        let drawings: Vec<PlateDrawing> = shown.plates.iter().map(|p| shapes.drawing(p)).collect();
        let drawn = draw_plate_thumbs(name, &drawings);
        let plates = shown.plates.iter().zip(drawn.each);
        Self {
            outlines: drawn.outlines,
            thumbs: plates
                .map(|(p, drawing)| thumb(shown, p, drawing))
                .collect(),
            ..Self::default()
        }
    }

    /// A leaf; its neighbours are the same page with this name in the address.
    pub(super) fn leaf(name: &str, leaf: &Leaf) -> Self {
        let (first, last) = (leaf.before + 1, leaf.before + leaf.shown.plates.len());
        let to = |before: usize| format!("?{name}={before}#{name}");
        let all = Self::all(name, &leaf.shown);
        if leaf.of <= ON_A_LEAF {
            return all;
        }
        Self {
            leaves_of: match name {
                "plan" => "plates of the plan",
                "done" => "plates that are done",
                _ => "accepted plates",
            },
            words: format!("{first} to {last} of {}", leaf.of),
            earlier: (leaf.before > 0).then(|| to(leaf.before.saturating_sub(ON_A_LEAF))),
            later: (last < leaf.of).then(|| to(leaf.before + ON_A_LEAF)),
            ..all
        }
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.thumbs.is_empty()
    }
}

fn thumb(shown: &PlatesShown, plate: &Plate, drawing: String) -> Thumb {
    let on_it = shown.on(plate.id);
    Thumb {
        id: plate.id,
        number: plate.number,
        state: state_word(plate.state).into(),
        class: plate.state.to_string(),
        drawing,
        printer: shown.printer(plate).to_owned(),
        resin: shown.resin(plate).to_owned(),
        layer: plate.layer.to_string(),
        copies: on_it.len(),
        failed: on_it.iter().filter(|c| c.failed()).count(),
        hours: hours(plate.seconds),
        ml: tenth(plate.resin_ml),
        cost: plate.cost().written(),
    }
}
