//! The scale of a part: one division, what it breaks, what fits which printer.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::geometry::Outline;
use wembrit_core::ids::PartId;
use wembrit_core::pack::{BuildArea, PackSearch};
use wembrit_core::plan::fit::common_factor;
use wembrit_core::pose::Pose;
use wembrit_core::recipe::scale::{
    BuildVolume, Division, EYE_SHARE, Known, Limits, Outcome, footprint_mm, largest_factor,
    pieces_needed, to_base, what_breaks,
};
use wembrit_core::recipe::supports::{RAFT_MM, Supports};
use wembrit_core::watch::Unwatched;
use wembrit_store::queries::kits;
use wembrit_store::queries::{
    hung, muster, prepared, printers, recipes, resins, scales, sculpts, workshop,
};
use wembrit_store::rows::{Printer, SculptFacts};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::recipes::{Head, Loaded};
use crate::forms::plain;

type Asked = BTreeMap<String, String>;

/// A factor that was asked for, with what it would do.
pub(crate) struct Proposal {
    pub(crate) heading: String,
    /// Wanted, measured.
    pub(crate) division: Option<(String, String)>,
    pub(crate) percent: String,
    pub(crate) factor: String,
    pub(crate) breaks: Vec<String>,
    pub(crate) now: bool,
}

/// What a printer takes.
pub(crate) struct PrinterRow {
    pub(crate) id: i64,
    pub(crate) name: String,
    pub(crate) largest: String,
    pub(crate) factor: String,
    /// Pieces it would have to be cut into at its present scale; empty when it fits.
    pub(crate) pieces: String,
    pub(crate) worked: String,
    pub(crate) fused: String,
}

/// A part of the same model.
pub(crate) struct SiblingRow {
    pub(crate) id: PartId,
    pub(crate) name: String,
    pub(crate) percent: String,
    pub(crate) differs: bool,
    pub(crate) lock: String,
}

#[derive(Template)]
#[template(path = "recipes/scale.html")]
pub(crate) struct ScaleView {
    pub(crate) page: Page,
    pub(crate) head: Head,
    pub(crate) percent: String,
    pub(crate) factor: String,
    /// The second point picked, as the address has it.
    pub(crate) second: String,
    pub(crate) lock: String,
    pub(crate) size: String,
    pub(crate) footprint: String,
    pub(crate) base: String,
    pub(crate) own_base: bool,
    pub(crate) height: String,
    pub(crate) eye: String,
    pub(crate) proposal: Option<Proposal>,
    pub(crate) breaks: Vec<String>,
    pub(crate) warnings: Vec<String>,
    pub(crate) printers: Vec<PrinterRow>,
    pub(crate) siblings: Vec<SiblingRow>,
    pub(crate) differ: bool,
    pub(crate) joints: Vec<(i64, String, String)>,
    pub(crate) sides: Vec<(&'static str, f64, f64)>,
    /// The first point picked, as the address has it, and where it is.
    pub(crate) first: Option<(String, String)>,
    /// Distance between two points at the size of the file.
    pub(crate) picked_mm: Option<String>,
    pub(crate) fault: String,
    /// Parts that can be asked for a common factor: identity, name, ticked.
    pub(crate) set: Vec<(PartId, String, bool)>,
    pub(crate) common: Option<String>,
}

/// A point as an address carries it.
pub(crate) fn point_text(at: [f64; 3]) -> String {
    at.map(|c| format!("{c:.3}")).join(",")
}

pub(crate) fn read_point(text: &str) -> Option<[f64; 3]> {
    let numbers: Vec<f64> = text.split(',').filter_map(|n| n.parse().ok()).collect();
    numbers
        .try_into()
        .ok()
        .filter(|p: &[f64; 3]| p.iter().all(|c| c.is_finite()))
}

/// What a printer takes of a part with its lift.
fn room(p: &Printer, lift_mm: f64) -> BuildVolume {
    BuildVolume {
        width_mm: p.width_mm - 2.0 * p.margin_mm,
        depth_mm: p.depth_mm - 2.0 * p.margin_mm,
        height_mm: p.height_mm - lift_mm,
    }
}

/// The outline and height of a part at factor 1 as it hangs, without what supports add, and what
/// they lift it by.
fn shape_at_one(
    c: &mut Conn,
    loaded: &Loaded,
    facts: &SculptFacts,
) -> Result<(Outline, f64, f64), StoreError> {
    let lift = match loaded.recipe.supports {
        Supports::Planned(style) => style.lift_mm + RAFT_MM,
        _ => 0.0,
    };
    if loaded.recipe.pose == Pose::AS_IMPORTED {
        return Ok((facts.outline()?, facts.height_mm, lift));
    }
    let what = loaded
        .preparing()
        .ok_or(StoreError::NotFound { what: "sculpt" })?;
    match hung::of(c, &what)? {
        // The outline with its raft: a little on the safe side.
        Some(h) => {
            let grow = 1.0 / loaded.recipe.scale;
            Ok((
                h.outline()?.scaled(grow),
                (h.height_mm - lift).max(0.1) * grow,
                lift,
            ))
        }
        None => Ok((facts.outline()?, facts.height_mm, lift)),
    }
}

impl ScaleView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PartId,
        asked: &Asked,
    ) -> Result<Self, StoreError> {
        let loaded = Loaded::load(c, id)?;
        let no_sculpt = || StoreError::Refused("give the part a measured sculpt first".into());
        let sculpt = loaded.sculpt.clone().ok_or_else(no_sculpt)?;
        let facts = sculpts::load_facts(c, sculpt.id)?.ok_or_else(no_sculpt)?;
        let resin = resins::load(c, loaded.recipe.resin_id)?;
        let all_printers = printers::list(c)?;
        let joints = scales::joints_of(c, sculpt.id)?;
        let thinnest = prepared::of_sculpt(c, sculpt.id)?
            .into_iter()
            .find(|p| p.scale == 1.0 && p.pose == Pose::AS_IMPORTED)
            .and_then(|p| p.thinnest_mm);
        let plain_joints: Vec<_> = joints.iter().map(|(_, j)| j.clone()).collect();
        // The finest printer is the one that could still draw it.
        let pixel_um = all_printers.iter().map(|p| p.pixel_um).min().unwrap_or(35);
        let limits = Limits {
            pixel_mm: pixel_um as f64 / 1000.0,
            safe_mm: resin.safe_um as f64 / 1000.0,
            fuses_mm: resin.fuses_um as f64 / 1000.0,
        };
        let broken = |factor: f64| -> Vec<String> {
            what_breaks(factor, thinnest, &plain_joints, &limits)
                .iter()
                .map(ToString::to_string)
                .collect()
        };
        let footprint = footprint_mm(&facts.reach()?).unwrap_or([facts.width_mm, facts.depth_mm]);
        let mut fault = String::new();
        let picked = asked
            .get("a")
            .and_then(|t| read_point(t))
            .zip(asked.get("b").and_then(|t| read_point(t)))
            .map(|(a, b)| {
                (0..3).map(|k| (a[k] - b[k]).powi(2)).sum::<f64>().sqrt() * sculpt.unit_mm
            });
        let division = division(asked, &loaded, &facts, footprint, picked, &mut fault);
        let proposal = division.map(|(heading, division, factor)| Proposal {
            heading,
            division: division.map(|d| {
                (
                    format!("{:.2}", d.wanted_mm),
                    format!("{:.2}", d.measured_mm),
                )
            }),
            percent: format!("{:.1}", factor * 100.0),
            factor: format!("{factor:.5}"),
            breaks: broken(factor),
            now: (factor - loaded.recipe.scale).abs() < 5e-5,
        });
        let (outline, height_mm, lift) = shape_at_one(c, &loaded, &facts)?;
        let mut printer_rows = Vec::new();
        let mut warnings = Vec::new();
        for p in &all_printers {
            let room = room(p, lift);
            let largest = largest_factor(&outline, height_mm, &room);
            let scale = loaded.recipe.scale;
            let size = [
                facts.width_mm * scale,
                facts.depth_mm * scale,
                facts.height_mm * scale,
            ];
            let cut = pieces_needed(size, &room);
            let many: u32 = cut.iter().product();
            let tried = scales::tried(c, sculpt.id, (p.id, loaded.recipe.resin_id))?;
            let known = Known::of(&tried);
            let percent =
                |s: Option<f64>| s.map_or_else(String::new, |s| format!("{:.0} %", s * 100.0));
            let warning = known.warning(scale).unwrap_or_default();
            if !warning.is_empty() {
                warnings.push(format!("{}: {warning}", p.name));
            }
            printer_rows.push(PrinterRow {
                id: p.id.0,
                name: p.name.clone(),
                largest: format!("{:.0}", (largest * 1000.0).floor() / 10.0),
                factor: format!("{:.5}", (largest * 1000.0).floor() / 1000.0),
                pieces: if largest >= scale {
                    String::new()
                } else if many > 1 {
                    format!("{many} pieces ({} × {} × {})", cut[0], cut[1], cut[2])
                } else {
                    "fits lying otherwise".into()
                },
                worked: percent(known.smallest_worked),
                fused: percent(known.largest_fused),
            });
        }
        let (lock, _) = recipes::lasting(c, loaded.part.recipe_id)?;
        let siblings = siblings(c, &loaded)?;
        let ticked = ticked(asked);
        let common = if ticked.is_empty() {
            None
        } else {
            Some(common(c, &ticked, asked)?)
        };
        let longest = facts
            .width_mm
            .max(facts.depth_mm)
            .max(facts.height_mm)
            .max(1e-6);
        let side = |name, across: f64| {
            let scale = 230.0 / longest;
            (
                name,
                (across * scale).round(),
                (facts.height_mm * scale).round(),
            )
        };
        Ok(Self {
            percent: plain(loaded.recipe.scale * 100.0),
            factor: format!("{:.5}", loaded.recipe.scale),
            second: asked.get("b").cloned().unwrap_or_default(),
            lock,
            size: format!(
                "{:.1} × {:.1} × {:.1}",
                facts.width_mm, facts.depth_mm, facts.height_mm
            ),
            footprint: format!("{:.1} × {:.1}", footprint[0], footprint[1]),
            base: base_text(asked, loaded.base_mm),
            own_base: own_base(asked, &facts, footprint),
            height: asked.get("height").cloned().unwrap_or_else(|| "32".into()),
            eye: asked
                .get("eye")
                .cloned()
                .unwrap_or_else(|| format!("{:.1}", facts.height_mm * EYE_SHARE)),
            breaks: broken(loaded.recipe.scale),
            proposal,
            warnings,
            printers: printer_rows,
            differ: siblings.iter().any(|s| s.differs),
            set: siblings
                .iter()
                .map(|s| (s.id, s.name.clone(), ticked.contains(&s.id)))
                .collect(),
            siblings,
            joints: joints
                .into_iter()
                .map(|(id, j)| {
                    let then = j.gap_mm * loaded.recipe.scale;
                    (
                        id,
                        j.name,
                        format!("{:.2} mm in the file, {then:.2} mm now", j.gap_mm),
                    )
                })
                .collect(),
            sides: vec![side("front", facts.width_mm), side("right", facts.depth_mm)],
            first: asked.get("a").and_then(|t| {
                let p = read_point(t)?.map(|c| c * sculpt.unit_mm);
                Some((t.clone(), format!("{:.1}, {:.1}, {:.1}", p[0], p[1], p[2])))
            }),
            picked_mm: picked.map(|d| format!("{d:.2}")),
            fault,
            common,
            head: loaded.head,
            page,
        })
    }
}

fn base_text(asked: &Asked, base: [f64; 2]) -> String {
    match asked.get("base") {
        Some(text) => text.clone(),
        None if base[0] <= 0.0 => "25".into(),
        None if base[0] == base[1] => plain(base[0]),
        None => format!("{}x{}", plain(base[0]), plain(base[1])),
    }
}

/// Whether a file stands on a base of its own: as the maker says, or as its sole is nearly as wide
/// as all of it.
fn own_base(asked: &Asked, facts: &SculptFacts, footprint: [f64; 2]) -> bool {
    match asked.get("stands").map(String::as_str) {
        Some(stands) => stands != "feet",
        None => footprint[0] > 0.7 * facts.width_mm && footprint[1] > 0.7 * facts.depth_mm,
    }
}

type Asking = (String, Option<Division>, f64);

/// The factor that was asked for, and the division it comes from.
fn division(
    asked: &Asked,
    loaded: &Loaded,
    facts: &SculptFacts,
    footprint: [f64; 2],
    picked: Option<f64>,
    fault: &mut String,
) -> Option<Asking> {
    let number = |name: &str| {
        asked
            .get(name)
            .and_then(|t| t.trim().replace(',', ".").parse::<f64>().ok())
            .filter(|n| n.is_finite() && *n > 0.0)
    };
    let (heading, division) = match asked.get("to").map(String::as_str)? {
        "base" => {
            let text = base_text(asked, loaded.base_mm);
            let Some(base) = wembrit_core::army::roster::read_base(&text) else {
                *fault = "write a diameter such as 25, or an oval such as 60x35".into();
                return None;
            };
            let own = own_base(asked, facts, footprint);
            let what = if own {
                "its base"
            } else {
                "its feet, a rim of 1 mm left free"
            };
            (
                format!("To a base of {text} mm by {what}"),
                to_base(base, footprint, own),
            )
        }
        "top" => (
            "Foot to top".to_owned(),
            Division {
                wanted_mm: number("height").unwrap_or(0.0),
                measured_mm: facts.height_mm,
            },
        ),
        "eye" => (
            "Foot to eye".to_owned(),
            Division {
                wanted_mm: number("height").unwrap_or(0.0),
                measured_mm: number("eye").unwrap_or(0.0),
            },
        ),
        "picked" => (
            "From one dimension".to_owned(),
            Division {
                wanted_mm: number("should").unwrap_or(0.0)
                    + asked
                        .get("clearance")
                        .and_then(|t| t.replace(',', ".").parse::<f64>().ok())
                        .unwrap_or(0.0),
                measured_mm: picked.unwrap_or(0.0),
            },
        ),
        "percent" => {
            let percent = number("percent").filter(|p| (1.0..=2000.0).contains(p));
            if percent.is_none() {
                *fault = "write a percentage from 1 to 2000".into();
            }
            return percent.map(|p| ("By percentage".to_owned(), None, p / 100.0));
        }
        _ => return None,
    };
    let factor = division.factor().filter(|f| (0.01..=20.0).contains(f));
    if factor.is_none() {
        *fault = format!(
            "{:.2} ÷ {:.2} makes no scale between 1 % and 2000 %: check both figures",
            division.wanted_mm, division.measured_mm
        );
    }
    factor.map(|f| (heading, Some(division), f))
}

fn siblings(c: &mut Conn, loaded: &Loaded) -> Result<Vec<SiblingRow>, StoreError> {
    let mut rows = Vec::new();
    for part in kits::parts_of(c, loaded.part.model_id)? {
        if part.sculpt_id().is_none() {
            continue;
        }
        let recipe = recipes::newest(c, part.recipe_id)?;
        let (lock, _) = recipes::lasting(c, part.recipe_id)?;
        rows.push(SiblingRow {
            id: part.id,
            name: part.name,
            percent: plain(recipe.scale * 100.0),
            differs: (recipe.scale - loaded.recipe.scale).abs() > 1e-4,
            lock,
        });
    }
    Ok(rows)
}

fn ticked(asked: &Asked) -> Vec<PartId> {
    asked
        .keys()
        .filter_map(|k| k.strip_prefix("set")?.parse().ok())
        .collect()
}

/// The largest common factor at which some parts fit one plate, in words. Locked parts are never
/// scaled to fit.
fn common(c: &mut Conn, parts: &[PartId], asked: &Asked) -> Result<String, StoreError> {
    let printer = asked.get("printer").and_then(|p| p.parse().ok());
    let printer = printers::list(c)?
        .into_iter()
        .find(|p| Some(p.id) == printer)
        .ok_or_else(|| StoreError::Refused("choose a printer".into()))?;
    let mut shapes = Vec::new();
    let mut lift: f64 = 0.0;
    for id in parts {
        let loaded = Loaded::load(c, *id)?;
        let (lock, _) = recipes::lasting(c, loaded.part.recipe_id)?;
        if !lock.is_empty() {
            return Ok(format!(
                "{} is locked ({lock}): it is never scaled to fit.",
                loaded.head.name
            ));
        }
        let Some(sculpt) = &loaded.sculpt else {
            continue;
        };
        let Some(facts) = sculpts::load_facts(c, sculpt.id)? else {
            continue;
        };
        let (outline, height, lifted) = shape_at_one(c, &loaded, &facts)?;
        lift = lift.max(lifted);
        shapes.push((outline, height));
    }
    let sheet = BuildArea {
        width_mm: printer.width_mm,
        depth_mm: printer.depth_mm,
        height_mm: printer.height_mm - lift,
        margin_mm: printer.margin_mm,
        part_pull: None,
        plate_pull: None,
        busy_s: 0.0,
        constant_s: 0.0,
        per_mm_s: 1.0,
    };
    let clearance = workshop::load(c)?.clearance_mm;
    Ok(
        match common_factor(&shapes, &sheet, clearance, PackSearch::AT_ONCE, &Unwatched) {
            Some(factor) => format!(
                "One of each fits {} together up to {:.1} %.",
                printer.name,
                (factor * 1000.0).floor() / 10.0
            ),
            None => format!(
                "They do not fit {} together at any scale worth printing.",
                printer.name
            ),
        },
    )
}

/// The model of a part, for unifying its factors.
pub(crate) fn parts_of_model(c: &mut Conn, id: PartId) -> Result<Vec<PartId>, StoreError> {
    let model = muster::part(c, id)?.model_id;
    Ok(kits::parts_of(c, model)?
        .into_iter()
        .map(|p| p.id)
        .collect())
}

/// The outcomes a form can name.
pub(crate) fn read_outcome(text: &str) -> Option<Outcome> {
    text.parse().ok()
}
