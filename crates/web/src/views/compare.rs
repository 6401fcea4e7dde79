//! Candidate sculpts for one part, side by side.

use crate::currency::Amount;
use askama::Template;
use wembrit_core::army::part_name;
use wembrit_core::ids::{PartId, SculptId};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::PreparedPart;
use wembrit_core::sculpt::candidate::{facet_mm, facet_words, price_per_copy};
use wembrit_core::sculpt::findings;
use wembrit_core::workshop::finest_pixel_mm;
use wembrit_core::workshop::resin_use::{Body, resin_use, worth};
use wembrit_store::queries::pages::sculpts::{CandidateSculpt, ComparePage};

use super::Page;
use super::recipes::hours_alone;
use super::show::{grouped, hours};

/// Candidates compared at most.
pub(crate) const MOST: usize = 4;

/// One candidate; its figures in the order of the rows.
pub(crate) struct Candidate {
    pub(crate) id: SculptId,
    pub(crate) name: String,
    pub(crate) pictured: bool,
    pub(crate) figures: Vec<String>,
    pub(crate) chosen: bool,
}

/// What the rows are.
pub(crate) const ROWS: [&str; 12] = [
    "Size at print scale, mm",
    "Shells in the file",
    "Resin a copy, ml",
    "Resin a copy, money",
    "Hours for its height",
    "Hollow or solid",
    "Facets against the pixel",
    "Thinnest, mm",
    "Overhang, mm²",
    "Findings, loud ones first",
    "Watertight",
    "File for each copy",
];

/// The page.
#[derive(Template)]
#[template(path = "sculpts/compare.html")]
pub(crate) struct CompareView {
    pub(crate) page: Page,
    pub(crate) part: PartId,
    pub(crate) name: String,
    pub(crate) model: i64,
    pub(crate) pieces: String,
    pub(crate) rows: Vec<(&'static str, Vec<String>)>,
    pub(crate) candidates: Vec<Candidate>,
    /// Every sculpt: identity, name, ticked.
    pub(crate) all: Vec<(SculptId, String, bool)>,
    pub(crate) picked: Vec<(String, String)>,
}

impl CompareView {
    pub(crate) fn new(page: Page, data: &ComparePage) -> Self {
        let candidates: Vec<Candidate> =
            data.candidates.iter().map(|c| candidate(c, data)).collect();
        let row = |(i, name): (usize, &&'static str)| {
            let figures = candidates.iter().map(|x| x.figures[i].clone());
            (*name, figures.collect())
        };
        let with_file = data.kit.iter().filter(|p| p.sculpt.is_some()).count();
        let ticked = |id| candidates.iter().any(|c| c.id == id);
        Self {
            page,
            part: data.part.id,
            name: part_name(&data.model.name, &data.part.name),
            model: data.model.id.0,
            pieces: format!(
                "{with_file} of {} parts of the model have a file",
                data.kit.len()
            ),
            rows: ROWS.iter().enumerate().map(row).collect(),
            all: data
                .all
                .iter()
                .map(|(id, name)| (*id, name.clone(), ticked(*id)))
                .collect(),
            picked: data.picked.clone(),
            candidates,
        }
    }
}

fn candidate(of: &CandidateSculpt, data: &ComparePage) -> Candidate {
    let (facts, recipe, resin) = (&of.facts, &data.recipe, &data.resin);
    let scale = recipe.scale;
    let own = of
        .layers
        .iter()
        .find(|p| (p.scale, p.layer, p.pose) == (scale, recipe.layer, Pose::AS_IMPORTED));
    let of_file = of.layers.iter().find(|p| p.is_of_file());
    let mut part = PreparedPart::of_file(facts, scale);
    if let Some(own) = own {
        part.part_mm3 = own.volume_mm3;
    }
    let thinnest = |layers| of.sculpt.thinnest_mm(layers, of_file);
    let thinnest = match own {
        Some(own) => thinnest(Some(own)),
        None => thinnest(of_file).map(|t| t * scale),
    };
    let overhang = own.map_or_else(
        || of_file.map(|p| p.overhang_mm2 * scale * scale),
        |p| Some(p.overhang_mm2),
    );
    let findings = of_file.map_or_else(Vec::new, |p| {
        findings::of_file(&of.sculpt, (facts, p), of.hollow.as_ref(), Some(resin))
    });
    let loud = findings.iter().filter(|f| f.loud).count();
    let sealed = of_file.is_some_and(|p| p.sealed_mm3 > 0.0);
    let hollow = match &of.hollow {
        _ if sealed || facts.inner_shells > 0 => "hollow",
        Some(h) if h.hollows.is_empty() => "solid",
        Some(_) => "hollow",
        None => "not measured yet",
    };
    let body = Body {
        part_mm3: part.part_mm3,
        ..Body::default()
    };
    let cost = worth(resin_use(&body, 0.0, &resin.facts).ml(), &resin.facts);
    let pixel_mm = finest_pixel_mm(&data.workshop.printers);
    let facet = facet_mm(facts.surface_mm2, facts.triangles.max(0) as u64, scale);
    let [width, depth, height] = facts.size_mm(scale);
    let copies = u64::from(data.model.quantity) * u64::from(data.part.count);
    let alone = hours_alone(&data.workshop, recipe, &part);
    let none = || "–".to_owned();
    let figures = vec![
        format!("{width:.1} × {depth:.1} × {height:.1}"),
        grouped(facts.shells),
        format!("{:.2}", part.part_mm3 / 1000.0),
        cost.written(),
        alone.map_or_else(none, |(printer, s)| format!("{} on {printer}", hours(s))),
        hollow.into(),
        format!("{facet:.2} mm, {}", facet_words(facet, pixel_mm)),
        thinnest.map_or_else(none, |t| format!("{t:.2}")),
        overhang.map_or_else(none, |o| format!("{o:.0}")),
        format!("{loud} loud, {} in all", findings.len()),
        if facts.open_edge_mm == 0.0 {
            "yes".into()
        } else {
            format!("{:.1} mm open", facts.open_edge_mm)
        },
        price_per_copy(of.sculpt.price, copies).map_or_else(none, |m| m.written()),
    ];
    Candidate {
        id: of.sculpt.id,
        name: of.sculpt.name.clone(),
        pictured: of.has_pictures,
        figures,
        chosen: data.part.sculpt == Some(of.sculpt.id),
    }
}
