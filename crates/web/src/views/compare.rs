//! Candidate sculpts for one part, side by side.

use askama::Template;
use wembrit_core::ids::{PartId, SculptId};
use wembrit_core::pose::Pose;
use wembrit_core::sculpt::candidate::{facet_mm, facets_say, price_per_copy};
use wembrit_core::units::Money;
use wembrit_core::units::layer_count;
use wembrit_store::queries::{
    hollows, muster, picks, prepared, printers, recipes, resins, sculpts, settings,
};
use wembrit_store::rows::{HollowFacts, Part, RecipeVersion, Resin};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::sculpts::all_findings;
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
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PartId,
        asked: &[SculptId],
    ) -> Result<Self, StoreError> {
        let part = muster::part(c, id)?;
        let model = muster::model(c, part.model_id)?;
        let recipe = recipes::newest(c, part.recipe_id)?;
        let resin = resins::load(c, recipe.resin_id)?;
        let copies = (model.quantity * part.count).max(0) as u64;
        let mut wanted: Vec<SculptId> = asked.to_vec();
        if wanted.is_empty() {
            wanted.extend(part.sculpt_id());
        }
        wanted.truncate(MOST);
        let mut candidates = Vec::new();
        for sculpt in &wanted {
            candidates.extend(candidate(c, *sculpt, &part, &recipe, &resin, copies)?);
        }
        let kit = wembrit_store::queries::kits::parts_of(c, part.model_id)?;
        let with_file = kit.iter().filter(|p| p.sculpt_id().is_some()).count();
        let rows = ROWS
            .iter()
            .enumerate()
            .map(|(i, name)| {
                (
                    *name,
                    candidates.iter().map(|x| x.figures[i].clone()).collect(),
                )
            })
            .collect();
        let all = sculpts::list(c)?;
        Ok(Self {
            page,
            part: id,
            name: format!("{}, {}", model.name, part.name.to_lowercase()),
            model: model.id.0,
            pieces: format!(
                "{with_file} of {} parts of the model have a file",
                kit.len()
            ),
            rows,
            all: all
                .into_iter()
                .filter(|(_, facts)| facts.is_some())
                .map(|(s, _)| (s.id, s.name, wanted.contains(&s.id)))
                .collect(),
            candidates,
            picked: picks::of_part(c, id)?,
        })
    }
}

fn candidate(
    c: &mut Conn,
    id: SculptId,
    part: &Part,
    recipe: &RecipeVersion,
    resin: &Resin,
    copies: u64,
) -> Result<Option<Candidate>, StoreError> {
    let sculpt = sculpts::load(c, id)?;
    let Some(facts) = sculpts::load_facts(c, id)? else {
        return Ok(None);
    };
    let known = prepared::of_sculpt(c, id)?;
    let scale = recipe.scale;
    let own = known
        .iter()
        .find(|p| p.scale == scale && p.layer == recipe.layer && p.pose == Pose::AS_IMPORTED);
    let at_file_size = known
        .iter()
        .find(|p| p.scale == 1.0 && p.pose == Pose::AS_IMPORTED);
    let volume = own.map_or(facts.volume_mm3 * scale.powi(3), |p| p.volume_mm3);
    let thinnest = own.map_or_else(
        || at_file_size.and_then(|p| p.thinnest_mm).map(|t| t * scale),
        |p| p.thinnest_mm,
    );
    let overhang = own.map_or_else(
        || at_file_size.map(|p| p.overhang_mm2 * scale * scale),
        |p| Some(p.overhang_mm2),
    );
    let hollow = hollows::of_sculpt(c, id)?;
    let hollows_there = hollow
        .as_ref()
        .map(HollowFacts::hollows)
        .transpose()?
        .unwrap_or_default();
    let findings = match at_file_size {
        Some(p) => all_findings(&facts, p, hollow.as_ref(), Some(resin))?,
        None => Vec::new(),
    };
    let loud = findings.iter().filter(|f| f.loud).count();
    let used = wembrit_core::workshop::resin::resin_use(volume, 0.0, &resin.facts());
    let cost = Money::from_minor_f64(wembrit_core::workshop::resin::resin_cost_minor(
        used,
        &resin.facts(),
    ));
    let pixel_mm = printers::list(c)?
        .iter()
        .map(|p| p.pixel_um)
        .min()
        .unwrap_or(35) as f64
        / 1000.0;
    let facet = facet_mm(facts.surface_mm2, facts.triangles.max(0) as u64, scale);
    let mm = |x: f64| format!("{:.1}", x * scale);
    let price = Money(sculpt.price_minor);
    let figures = vec![
        format!(
            "{} × {} × {}",
            mm(facts.width_mm),
            mm(facts.depth_mm),
            mm(facts.height_mm)
        ),
        grouped(facts.shells),
        format!("{:.2}", volume / 1000.0),
        cost.to_string(),
        hours_for(c, facts.height_mm * scale, recipe)?,
        if hollows_there.is_empty() {
            "solid".into()
        } else {
            "hollow".into()
        },
        format!("{facet:.2} mm, {}", facets_say(facet, pixel_mm)),
        thinnest.map_or_else(|| "–".into(), |t| format!("{t:.2}")),
        overhang.map_or_else(|| "–".into(), |o| format!("{o:.0}")),
        format!("{loud} loud, {} in all", findings.len()),
        if facts.open_edge_mm == 0.0 {
            "yes".into()
        } else {
            format!("{:.1} mm open", facts.open_edge_mm)
        },
        price_per_copy(price, copies).map_or_else(|| "–".into(), |m| m.to_string()),
    ];
    Ok(Some(Candidate {
        id,
        name: sculpt.name,
        pictured: hollows::has_pictures(c, id)?,
        figures,
        chosen: part.sculpt_id() == Some(id),
    }))
}

/// Hours of a plate that is as tall as this, on the first printer that has the recipe's setting.
fn hours_for(c: &mut Conn, height_mm: f64, recipe: &RecipeVersion) -> Result<String, StoreError> {
    let all = settings::list(c)?;
    let found = all
        .into_iter()
        .find(|(s, _)| s.resin_id == recipe.resin_id && s.layer == recipe.layer);
    let Some((setting, version)) = found else {
        return Ok("–".into());
    };
    let printer = printers::load(c, setting.printer_id)?;
    let seconds = wembrit_core::workshop::print_time::plate_seconds(
        printer.kind,
        printer.startup_s,
        &version.timing(),
        recipe.layer,
        layer_count(height_mm, recipe.layer),
        wembrit_core::workshop::print_time::Drawn::default(),
    );
    Ok(format!("{} on {}", hours(seconds), printer.name))
}

/// Keeps the army's page in the row of pages.
pub(crate) fn project_of(
    c: &mut Conn,
    id: PartId,
) -> Result<wembrit_core::ids::ProjectId, StoreError> {
    let model = muster::part(c, id)?.model_id;
    let unit = muster::model(c, model)?.unit_id;
    Ok(muster::unit(c, unit)?.project_id)
}
