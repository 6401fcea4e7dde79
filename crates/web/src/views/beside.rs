//! Two plans side by side.

use crate::currency::Amount;
use std::collections::BTreeMap;

use askama::Template;
use wembrit_core::cost::PlateSums;
use wembrit_core::flow::{Plate, PlateCopy};
use wembrit_core::ids::{PartId, PlanId, PrinterId, ProjectId};
use wembrit_core::plan::diff::{ComparedPlate, PlateChange, compare_plans};
use wembrit_store::queries::pages::plans::{PlanShown, TwoPlans};

use super::Page;
use super::plans::scope_words;
use super::show::{count, hours, tenth};
use super::thumbs::Sheets;

/// Two plans side by side.
#[derive(Template)]
#[template(path = "plates/beside.html")]
pub(crate) struct BesideView {
    pub(crate) page: Page,
    pub(crate) id: ProjectId,
    /// What is compared, the figure of each, and which is better: 0, 1 or neither.
    pub(crate) figures: Vec<(&'static str, [String; 2], Option<usize>)>,
    pub(crate) plans: [BesidePlan; 2],
    /// What the first one does differently.
    pub(crate) changes: Vec<String>,
}

pub(crate) struct BesidePlan {
    pub(crate) id: PlanId,
    pub(crate) revision: i64,
    pub(crate) asked: String,
    pub(crate) plates: Sheets,
}

impl BesideView {
    pub(crate) fn is_better(&self, better: &Option<usize>, plan: &usize) -> bool {
        *better == Some(*plan)
    }

    pub(crate) fn new(page: Page, data: &TwoPlans) -> Self {
        let [a, b] = &data.plans;
        let on = [&a.plates, &b.plates];
        let sums = on.map(|plates| PlateSums::of(plates.iter()));
        let figure = |label, values: [f64; 2], shown: [String; 2]| {
            let better = (values[0] < values[1] - 1e-6)
                .then_some(0)
                .or((values[1] < values[0] - 1e-6).then_some(1));
            (label, shown, better)
        };
        let seconds = sums.map(|s| s.seconds);
        let ml = sums.map(|s| s.resin_ml);
        let cost = sums.map(|s| s.cost());
        let many = [0, 1].map(|i| on[i].len() as f64);
        // Hours of the printer that is longest at it.
        let last = [0, 1].map(|i| {
            let mut by: BTreeMap<PrinterId, f64> = BTreeMap::new();
            for plate in on[i] {
                *by.entry(plate.printer).or_default() += plate.seconds;
            }
            by.values().copied().fold(0.0, f64::max)
        });
        let spots = [&a.copies, &b.copies];
        let copies = [0, 1].map(|i| spots[i].values().map(Vec::len).sum::<usize>() as f64);
        let units_on = [0, 1].map(|i| {
            let units = |s: &Vec<PlateCopy>| {
                let names: std::collections::BTreeSet<&str> =
                    s.iter().map(|s| s.unit_name.as_str()).collect();
                names.len()
            };
            spots[i].values().map(units).sum::<usize>() as f64
        });
        let whole = |v: [f64; 2]| v.map(|v| format!("{v:.0}"));
        let figures = vec![
            figure("Printer hours", seconds, seconds.map(hours)),
            figure("Busiest printer, hours", last, last.map(hours)),
            figure("Plates", many, whole(many)),
            (
                "Copies",
                whole(copies),
                figure("", copies.map(|n| -n), whole(copies)).2,
            ),
            figure("Resin, ml", ml, ml.map(tenth)),
            figure("Cost", cost.map(|m| m.0 as f64), cost.map(|m| m.written())),
            figure("Units on a plate, summed", units_on, whole(units_on)),
        ];
        let compared = |i: usize| -> Vec<ComparedPlate> {
            let copies = |p: &Plate| spots[i].get(&p.id).map_or(&[][..], Vec::as_slice);
            let copy = |c: &PlateCopy| (c.placed.part, c.placed.at_mm, c.placed.rotation_deg);
            let plate = |p: &Plate| ComparedPlate {
                printer: p.printer,
                copies: copies(p).iter().map(copy).collect(),
            };
            on[i].iter().map(plate).collect()
        };
        let name = |part: PartId| data.army.part_name(part);
        let changes = compare_plans(&compared(1), &compared(0));
        let changes = changes
            .iter()
            .filter_map(|change| change_words(change, on[1], on[0], &name))
            .collect();
        let beside = |of: &PlanShown| BesidePlan {
            id: of.plan.id,
            revision: of.plan.revision,
            asked: scope_words(&of.plan.scope, &data.army, &data.printers, &data.resins),
            plates: Sheets::leaf(&format!("plan-{}", of.plan.revision), &of.leaf),
        };
        Self {
            page,
            id: data.army.project.id,
            figures,
            plans: [beside(a), beside(b)],
            changes,
        }
    }
}

/// What became of a plate, in words; nothing where it stands as it stood.
fn change_words(
    change: &PlateChange,
    before: &[Plate],
    after: &[Plate],
    name: &dyn Fn(PartId) -> String,
) -> Option<String> {
    let list = |parts: &[(PartId, u64)]| {
        let one = |(part, n): &(PartId, u64)| format!("{n} × {}", name(*part));
        let mut all: Vec<String> = parts.iter().take(4).map(one).collect();
        if parts.len() > 4 {
            all.push(format!("{} more", parts.len() - 4));
        }
        all.join("; ")
    };
    Some(match change {
        PlateChange::Same { .. } => return None,
        PlateChange::New { now } => format!(
            "Plate {} is new: {} h.",
            after[*now].number,
            hours(after[*now].seconds)
        ),
        PlateChange::Gone { was } => format!(
            "Plate {} is gone: {} h.",
            before[*was].number,
            hours(before[*was].seconds)
        ),
        PlateChange::Changed {
            was,
            now,
            came,
            left,
            moved,
        } => {
            let mut words = format!("Plate {}", after[*now].number);
            if before[*was].number != after[*now].number {
                words += &format!(" (was {})", before[*was].number);
            }
            let mut parts = Vec::new();
            if !came.is_empty() {
                parts.push(format!("came {}", list(came)));
            }
            if !left.is_empty() {
                parts.push(format!("left {}", list(left)));
            }
            if *moved > 0 {
                parts.push(count(*moved, "copy moved on it", "copies moved on it"));
            }
            format!("{words}: {}.", parts.join(", "))
        }
    })
}
