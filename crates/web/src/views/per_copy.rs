//! What one copy of a part takes, by how many share its plate.

use crate::currency;
use crate::currency::Amount;
use askama::Template;
use wembrit_core::flow::{PlanScope, Plate};
use wembrit_core::ids::PlateId;
use wembrit_core::plan::per_copy::{CopyOf, PerCopy, bought_minor, break_even};
use wembrit_core::plan::plan_request;
use wembrit_core::units::Money;
use wembrit_paper::draw_per_copy;
use wembrit_store::queries::pages::plates::OneCopy;

use super::Page;
use super::show::{count, hours};

/// Minutes and cost of a copy against the copies on the plate.
#[derive(Template)]
#[template(path = "plates/per_copy.html")]
pub(crate) struct PerCopyView {
    pub(crate) page: Page,
    pub(crate) id: PlateId,
    pub(crate) number: i64,
    /// The figures are being worked out.
    pub(crate) waits: bool,
    /// This page as it was asked for.
    pub(crate) asks: String,
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

impl PerCopyAsk {
    fn address(&self, plate: PlateId) -> String {
        let mut fields = form_urlencoded::Serializer::new(String::new());
        if let Some(part) = self.part {
            fields.append_pair("part", &part.to_string());
        }
        let fields = fields
            .append_pair("each", &self.each)
            .append_pair("order", &self.order);
        format!("/plates/{plate}/per-copy?{}", fields.finish())
    }
}

/// The rows worth showing: round numbers, the full plate, and where making breaks even.
fn rows(curve: &[PerCopy], from: Option<u64>) -> Vec<(u64, String, String, bool)> {
    const ROUND: [u64; 9] = [1, 2, 3, 5, 10, 20, 50, 100, 200];
    let last = curve.len() as u64;
    let shown =
        |p: &&PerCopy| ROUND.contains(&p.copies) || p.copies == last || Some(p.copies) == from;
    let row = |p: &PerCopy| {
        let cost = Money::from_minor_f64(p.cost_minor);
        (
            p.copies,
            hours(p.minutes * 60.0),
            cost.written(),
            Some(p.copies) == from,
        )
    };
    curve.iter().filter(shown).map(row).collect()
}

/// The parts on a plate, and the one that is looked at with what it would be printed with: the one
/// asked for, else the tallest.
pub(crate) struct Looked {
    /// Identity, name, chosen.
    parts: Vec<(i64, String, bool)>,
    /// Nothing where its printer or resin is out of use.
    pub(crate) of: Option<CopyOf>,
}

impl Looked {
    pub(crate) fn new(data: &OneCopy, asked: Option<i64>) -> Self {
        let plate = &data.plate;
        let request = plan_request(&data.facts, &data.lines, &PlanScope::default());
        let tallest = || {
            let parts = request.parts.iter();
            parts.max_by(|a, b| a.height_mm.total_cmp(&b.height_mm))
        };
        let asked = asked.and_then(|id| request.parts.iter().find(|p| p.id.0 == id));
        let part = asked.or_else(tallest);
        let chosen = part.map(|p| p.id);
        let parts = request.parts.iter();
        let printing = request.printing(plate.printer, plate.resin, plate.layer);
        Self {
            parts: parts
                .map(|p| (p.id.0, data.army.part_name(p.id), Some(p.id) == chosen))
                .collect(),
            of: part
                .zip(printing)
                .map(|(part, (printer, setting, resin))| CopyOf {
                    part: part.clone(),
                    printer: printer.clone(),
                    setting: setting.clone(),
                    resin: *resin,
                    rates: request.rates,
                }),
        }
    }
}

impl PerCopyView {
    /// With the curve, or nothing while it is being worked out.
    pub(crate) fn new(
        page: Page,
        plate: &Plate,
        looked: Looked,
        curve: Option<&[PerCopy]>,
        ask: PerCopyAsk,
    ) -> Self {
        let waits = curve.is_none();
        let curve = curve.unwrap_or(&[]);
        let money = |text: &str| {
            if text.is_empty() {
                Ok(None)
            } else {
                currency::read(text).map(Some)
            }
        };
        let (each, order) = (money(&ask.each), money(&ask.order));
        let fault = match (&each, &order) {
            (Err(why), _) | (_, Err(why)) => format!("{why}."),
            _ => String::new(),
        };
        let order = order.ok().flatten().unwrap_or(Money(0));
        let each = each.ok().flatten();
        let from = each.and_then(|each| break_even(curve, each, order));
        let bought: Option<Vec<f64>> = each.map(|each| {
            let all = curve.iter();
            all.map(|p| bought_minor(p.copies, each, order)).collect()
        });
        let words = match (each, from, curve.last()) {
            _ if waits => String::new(),
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
        Self {
            id: plate.id,
            waits,
            asks: ask.address(plate.id),
            number: plate.number,
            parts: looked.parts,
            drawing: draw_per_copy(curve, bought.as_deref(), from, currency::here().in_one()),
            rows: rows(curve, from),
            each: ask.each,
            order: ask.order,
            words,
            fault,
            page,
        }
    }
}
