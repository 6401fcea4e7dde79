//! What one copy of a part takes, by how many share its plate.

use askama::Template;
use wembrit_core::ids::PlateId;
use wembrit_core::plan::per_copy::{bought_minor, break_even, per_copy};
use wembrit_core::units::Money;
use wembrit_paper::draw_per_copy;
use wembrit_store::queries::{army, demand, plates};
use wembrit_store::{Conn, StoreError};

use super::Page;
use super::shapes::part_name;
use super::show::{count, hours};

/// Minutes and cost of a copy against the copies on the plate.
#[derive(Template)]
#[template(path = "plates/per_copy.html")]
pub(crate) struct PerCopyView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    /// The parts on the plate: identity, name, chosen.
    pub(crate) parts: Vec<(i64, String, bool)>,
    pub(crate) drawing: String,
    /// Copies, minutes, cost, for the rows shown.
    pub(crate) rows: Vec<(u64, String, String, bool)>,
    pub(crate) each: String,
    pub(crate) order: String,
    pub(crate) words: String,
    pub(crate) fault: String,
}

/// What is asked of the page.
pub(crate) struct PerCopyAsk {
    pub(crate) part: Option<i64>,
    pub(crate) each: String,
    pub(crate) order: String,
}

impl PerCopyView {
    pub(crate) fn load(
        c: &mut Conn,
        page: Page,
        id: PlateId,
        ask: PerCopyAsk,
    ) -> Result<Self, StoreError> {
        let plate = plates::load(c, id)?;
        let spots = plates::spots(c, &[id])?.remove(&id).unwrap_or_default();
        let army = army::load(c, plate.project_id)?;
        let mut on_it: Vec<i64> = spots.iter().map(|s| s.placement.part_id.0).collect();
        on_it.sort_unstable();
        on_it.dedup();
        // As if one copy of each were wanted, in the way the plate prints it.
        let lines: Vec<_> = on_it
            .iter()
            .filter_map(|part| spots.iter().find(|s| s.placement.part_id.0 == *part))
            .map(|s| wembrit_core::army::demand::DemandLine {
                part: s.placement.part_id,
                sculpt: s.placement.sculpt_id,
                recipe_version: s.placement.recipe_version_id,
                wanted: 1,
            })
            .collect();
        let request = demand::plan_request(c, plate.project_id, &lines)?;
        let tallest = || {
            let parts = request.parts.iter();
            parts.max_by(|a, b| a.height_mm.total_cmp(&b.height_mm))
        };
        let asked = |id: i64| request.parts.iter().find(|p| p.id.0 == id);
        let part = ask.part.and_then(asked).or_else(tallest);
        let setting = request.settings.iter().find(|s| {
            s.printer == plate.printer_id && s.resin == plate.resin_id && s.layer == plate.layer
        });
        let printer = request.printers.iter().find(|p| p.id == plate.printer_id);
        let resin = request.resins.get(&plate.resin_id);
        let curve = match (part, printer, setting, resin) {
            (Some(part), Some(printer), Some(setting), Some(resin)) => {
                per_copy(part, printer, setting, resin, &request.rates)
            }
            _ => Vec::new(),
        };
        let money = |text: &str| {
            if text.is_empty() {
                Ok(None)
            } else {
                Money::parse(text).map(Some)
            }
        };
        let (each, order) = (money(&ask.each), money(&ask.order));
        let fault = match (&each, &order) {
            (Err(why), _) | (_, Err(why)) => format!("{why}."),
            _ => String::new(),
        };
        let order = order.ok().flatten().unwrap_or(Money(0));
        let each = each.ok().flatten();
        let from = each.and_then(|each| break_even(&curve, each, order));
        let bought: Option<Vec<f64>> = each.map(|each| {
            let all = curve.iter();
            all.map(|p| bought_minor(p.copies, each, order)).collect()
        });
        let words = match (each, from, curve.last()) {
            (_, _, None) => "Its printer or resin is out of use: nothing can be computed.".into(),
            (None, _, Some(last)) => format!(
                "A full plate takes {}: {:.0} minutes of the printer each.",
                count(last.copies, "copy", "copies"),
                last.minutes
            ),
            (Some(_), Some(from), _) => format!(
                "From {} on a plate on, making them costs no more than buying them.",
                count(from, "copy", "copies")
            ),
            (Some(_), None, Some(last)) => format!(
                "Buying stays cheaper, even with {} on a plate.",
                count(last.copies, "copy", "copies")
            ),
        };
        let shown = |copies: u64| {
            let last = curve.len() as u64;
            [1, 2, 3, 5, 10, 20, 50, 100, 200].contains(&copies)
                || copies == last
                || Some(copies) == from
        };
        let rows = curve
            .iter()
            .filter(|p| shown(p.copies))
            .map(|p| {
                (
                    p.copies,
                    hours(p.minutes * 60.0),
                    Money::from_minor_f64(p.cost_minor).to_string(),
                    Some(p.copies) == from,
                )
            })
            .collect();
        let chosen = part.map(|p| p.id);
        Ok(Self {
            page,
            id,
            number: plate.number,
            parts: request
                .parts
                .iter()
                .map(|p| (p.id.0, part_name(&army, p.id), Some(p.id) == chosen))
                .collect(),
            drawing: draw_per_copy(&curve, bought.as_deref(), from),
            rows,
            each: ask.each,
            order: ask.order,
            words,
            fault,
        })
    }
}
