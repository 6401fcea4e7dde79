//! The scale of a part: one division, what it breaks, what fits which printer.

use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::army::{Model, part_name};
use wembrit_core::ids::PartId;
use wembrit_core::plan::fit::common_factor_on;
use wembrit_core::recipe::scale::{
    AtOne, Division, EYE_SHARE, Joint, Known, Limits, Outcome, pieces_needed, to_base, what_breaks,
};
use wembrit_core::sculpt::SculptFacts;
use wembrit_core::watch::Unwatched;
use wembrit_core::workshop::resin::safe_mm;
use wembrit_core::workshop::{Printer, finest_pixel_mm};
use wembrit_store::queries::pages::recipes::{ScalePage, ScaledPart, Sibling};

use super::Page;
use super::recipes::Head;
use crate::forms::plain;

type Fields = BTreeMap<String, String>;

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

/// The parts of the model, and which of them are to share a plate.
fn set_of(data: &ScalePage, ticked: &[PartId]) -> Vec<(PartId, String, bool)> {
    let one = |s: &Sibling| (s.part.id, s.part.name.clone(), ticked.contains(&s.part.id));
    data.siblings.iter().map(one).collect()
}

fn joint_row(id: i64, joint: &Joint, scale: f64) -> (i64, String, String) {
    let (gap, then) = (joint.gap_mm, joint.gap_mm * scale);
    let words = format!("{gap:.2} mm in the file, {then:.2} mm now");
    (id, joint.name.clone(), words)
}

/// The two sides points are picked on, in pixels.
fn sides(facts: &SculptFacts) -> Vec<(&'static str, f64, f64)> {
    let longest = facts.width_mm.max(facts.depth_mm).max(facts.height_mm);
    let scale = 230.0 / longest.max(1e-6);
    let side = |name, across: f64| {
        let high = (facts.height_mm * scale).round();
        (name, (across * scale).round(), high)
    };
    vec![side("front", facts.width_mm), side("right", facts.depth_mm)]
}

/// Distance between the two points picked, mm at the size of the file.
fn picked_mm(asked: &Fields, unit_mm: f64) -> Option<f64> {
    let point = |name: &str| asked.get(name).and_then(|t| read_point(t));
    let (a, b) = (point("a")?, point("b")?);
    let squared: f64 = (0..3).map(|k| (a[k] - b[k]).powi(2)).sum();
    Some(squared.sqrt() * unit_mm)
}

/// What breaks or fuses when a part is printed at some factors.
fn broken_at(data: &ScalePage) -> impl Fn(f64) -> Vec<String> + '_ {
    let joints: Vec<_> = data.joints.iter().map(|(_, j)| j.clone()).collect();
    let limits = Limits {
        pixel_mm: finest_pixel_mm(&data.scaled.of.workshop.printers),
        safe_mm: safe_mm(Some(&data.resin)),
        fuses_mm: data.resin.fuses_mm,
    };
    move |factor| {
        let all = what_breaks(factor, data.thinnest_mm, &joints, &limits);
        all.iter().map(ToString::to_string).collect()
    }
}

impl ScaleView {
    pub(crate) fn new(page: Page, data: &ScalePage, asked: &Fields) -> Self {
        let (of, facts) = (&data.scaled.of, &data.scaled.facts);
        let workshop = &of.workshop;
        let scale = of.recipe.scale;
        let unit_mm = of.sculpt.as_ref().map_or(1.0, |s| s.unit_mm);
        let broken = broken_at(data);
        let footprint = data.foot.size_mm;
        let mut fault = String::new();
        let picked = picked_mm(asked, unit_mm);
        let division = division(asked, data, picked, &mut fault);
        let two = |d: Division| [d.wanted_mm, d.measured_mm].map(|mm| format!("{mm:.2}"));
        let proposal = division.map(|(heading, division, factor)| Proposal {
            heading,
            division: division
                .map(two)
                .map(|[wanted, measured]| (wanted, measured)),
            percent: format!("{:.1}", factor * 100.0),
            factor: format!("{factor:.5}"),
            breaks: broken(factor),
            now: (factor - scale).abs() < 5e-5,
        });
        let at_one = at_one(&data.scaled);
        let rows: Vec<(PrinterRow, Option<String>)> = workshop
            .printers
            .iter()
            .map(|printer| printer_row(data, printer, &at_one))
            .collect();
        let warnings = rows.iter().filter_map(|(_, w)| w.clone()).collect();
        let ticked = ticked(asked);
        Self {
            percent: plain(scale * 100.0),
            factor: format!("{scale:.5}"),
            second: asked.get("b").cloned().unwrap_or_default(),
            lock: data.scaled.lock.clone(),
            size: format!(
                "{:.1} × {:.1} × {:.1}",
                facts.width_mm, facts.depth_mm, facts.height_mm
            ),
            footprint: format!("{:.1} × {:.1}", footprint[0], footprint[1]),
            base: base_text(asked, &of.model),
            own_base: own_base(asked, data),
            height: asked.get("height").cloned().unwrap_or_else(|| "32".into()),
            eye: asked
                .get("eye")
                .cloned()
                .unwrap_or_else(|| format!("{:.1}", data.foot.height_mm * EYE_SHARE)),
            breaks: broken(scale),
            proposal,
            warnings,
            printers: rows.into_iter().map(|(row, _)| row).collect(),
            differ: data.siblings.iter().any(|s| differs(s, scale)),
            set: set_of(data, &ticked),
            siblings: data
                .siblings
                .iter()
                .map(|s| sibling_row(s, scale))
                .collect(),
            joints: data
                .joints
                .iter()
                .map(|(id, j)| joint_row(*id, j, scale))
                .collect(),
            sides: if data.has_pictures {
                sides(facts)
            } else {
                Vec::new()
            },
            first: asked.get("a").and_then(|t| {
                let p = read_point(t)?.map(|c| c * unit_mm);
                Some((t.clone(), format!("{:.1}, {:.1}, {:.1}", p[0], p[1], p[2])))
            }),
            picked_mm: picked.map(|d| format!("{d:.2}")),
            fault,
            common: (!ticked.is_empty()).then(|| common_words(data, asked)),
            head: Head::new(of),
            page,
        }
    }
}

fn at_one(scaled: &ScaledPart) -> AtOne {
    let kept = scaled.kept.as_ref().map(|k| &k.part);
    AtOne::of(&scaled.of.recipe, kept, &scaled.facts)
}

/// What a printer takes of the part, and what was learned of this scale on it.
fn printer_row(
    data: &ScalePage,
    printer: &Printer,
    at_one: &AtOne,
) -> (PrinterRow, Option<String>) {
    let scale = data.scaled.of.recipe.scale;
    let largest = at_one.largest_factor(printer);
    let room = printer.build_volume().above(at_one.lift_mm);
    let cut = pieces_needed(data.scaled.facts.size_mm(scale), &room);
    let many: u32 = cut.iter().product();
    let known = Known::of(data.tried.get(&printer.id).map_or(&[], Vec::as_slice));
    let percent = |s: Option<f64>| s.map_or_else(String::new, |s| format!("{:.0} %", s * 100.0));
    // Rounded down: what is offered has to fit.
    let thousandths = (largest * 1000.0).floor();
    let row = PrinterRow {
        id: printer.id.0,
        name: printer.name.clone(),
        largest: format!("{:.0}", thousandths / 10.0),
        factor: format!("{:.5}", thousandths / 1000.0),
        pieces: if largest >= scale {
            String::new()
        } else if many > 1 {
            format!("{many} pieces ({} × {} × {})", cut[0], cut[1], cut[2])
        } else {
            "fits lying otherwise".into()
        },
        worked: percent(known.smallest_worked),
        fused: percent(known.largest_fused),
    };
    let warning = known.warning(scale);
    (row, warning.map(|w| format!("{}: {w}", printer.name)))
}

fn differs(sibling: &Sibling, scale: f64) -> bool {
    (sibling.recipe.scale - scale).abs() > 1e-4
}

fn sibling_row(sibling: &Sibling, scale: f64) -> SiblingRow {
    SiblingRow {
        id: sibling.part.id,
        name: sibling.part.name.clone(),
        percent: plain(sibling.recipe.scale * 100.0),
        differs: differs(sibling, scale),
        lock: sibling.lock.clone(),
    }
}

fn base_text(asked: &Fields, model: &Model) -> String {
    let base = [model.base_width_mm, model.base_depth_mm];
    match asked.get("base") {
        Some(text) => text.clone(),
        None if base[0] <= 0.0 => "25".into(),
        None if base[0] == base[1] => plain(base[0]),
        None => format!("{}x{}", plain(base[0]), plain(base[1])),
    }
}

/// Whether a file stands on a base of its own: as the maker says, or as its sole is nearly as wide
/// as all of it.
fn own_base(asked: &Fields, data: &ScalePage) -> bool {
    let (facts, foot) = (&data.scaled.facts, &data.foot);
    match asked.get("stands").map(String::as_str) {
        Some(stands) => stands != "feet",
        None => {
            let [width, depth] = foot.size_mm;
            width > 0.7 * facts.width_mm && depth > 0.7 * facts.depth_mm
        }
    }
}

type Asking = (String, Option<Division>, f64);

/// The factor that was asked for, and the division it comes from.
fn division(
    asked: &Fields,
    data: &ScalePage,
    picked: Option<f64>,
    fault: &mut String,
) -> Option<Asking> {
    let foot = &data.foot;
    let number = |name: &str| {
        asked
            .get(name)
            .and_then(|t| t.trim().replace(',', ".").parse::<f64>().ok())
            .filter(|n| n.is_finite() && *n > 0.0)
    };
    let (heading, division) = match asked.get("to").map(String::as_str)? {
        "base" => {
            let text = base_text(asked, &data.scaled.of.model);
            let Some(base) = wembrit_core::army::roster::read_base(&text) else {
                *fault = "write a diameter such as 25, or an oval such as 60x35".into();
                return None;
            };
            let own = own_base(asked, data);
            let what = if own {
                "its base"
            } else {
                "its feet, a rim of 1 mm left free"
            };
            (
                format!("To a base of {text} mm by {what}"),
                to_base(base, foot.size_mm, own),
            )
        }
        "top" => (
            "Foot to top".to_owned(),
            Division {
                wanted_mm: number("height").unwrap_or(0.0),
                measured_mm: foot.height_mm,
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

/// Parts that are ticked to share a plate.
pub(crate) fn ticked(asked: &Fields) -> Vec<PartId> {
    asked
        .keys()
        .filter_map(|k| k.strip_prefix("set")?.parse().ok())
        .collect()
}

/// The largest common factor at which the ticked parts fit one plate, in words. Locked parts are
/// never scaled to fit.
fn common_words(data: &ScalePage, asked: &Fields) -> String {
    let workshop = &data.scaled.of.workshop;
    let chosen = asked.get("printer").and_then(|p| p.parse().ok());
    let Some(printer) = workshop.printers.iter().find(|p| Some(p.id) == chosen) else {
        return "Choose a printer first.".into();
    };
    if let Some(locked) = data.set.iter().find(|s| !s.lock.is_empty()) {
        let name = part_name(&locked.of.model.name, &locked.of.part.name);
        return format!(
            "{name} is locked ({}): it is never scaled to fit.",
            locked.lock
        );
    }
    let parts: Vec<AtOne> = data.set.iter().map(at_one).collect();
    let clearance = workshop.workshop.rates.clearance_mm;
    match common_factor_on(&parts, printer, clearance, &Unwatched) {
        Some(factor) => format!(
            "One of each fits {} together up to {:.1} %.",
            printer.name,
            (factor * 1000.0).floor() / 10.0
        ),
        None => format!(
            "They do not fit {} together at any scale worth printing.",
            printer.name
        ),
    }
}

/// The outcomes a form can name.
pub(crate) fn read_outcome(text: &str) -> Option<Outcome> {
    text.parse().ok()
}
