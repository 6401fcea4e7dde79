//! What would shorten a plate, or use it better: each copy of advice says what it saves, and can
//! be followed as it stands.

use std::collections::BTreeMap;

use crate::flow::PlacedCopy;
use crate::ids::PartId;
use crate::plan::PlanPart;
use crate::plan::layout::{Change, PlateLayout};

/// One copy of advice.
#[derive(Debug, Clone, PartialEq)]
pub enum Advice {
    /// Leave the copies that set the hours for a later plan.
    Leave {
        /// Their part.
        part: PartId,
        /// How many.
        copies: u64,
        /// What the plate takes less, s.
        saves_s: f64,
        /// What they take on a plate of their own, s: what is taken off is printed later.
        alone_s: f64,
    },
    /// Print more in what time the plate takes anyhow.
    Fill {
        /// The part.
        part: PartId,
        /// How many.
        copies: u64,
        /// They are wanted and on no plate; else they would be spares.
        from_pool: bool,
        /// Resin they take, with its share of waste, ml.
        ml: f64,
    },
}

/// What taking copies off a plate saves over all of a plan, s: another plate that is as long anyhow
/// may hold them for nothing, else they take a plate of their own. Under nothing it costs more.
#[must_use]
pub fn saved_in_all(saves_s: f64, alone_s: f64, other_plates_s: &[f64]) -> f64 {
    let held = other_plates_s.iter().any(|other| *other >= alone_s);
    if held { saves_s } else { saves_s - alone_s }
}

/// Most copies that advice takes off a plate: more are a matter for a plan.
const MOST_LEFT: u64 = 3;
/// Least saving worth a sentence, s.
const LEAST_SAVING_S: f64 = 600.0;
/// Most copies that advice adds.
const MOST_ADDED: u64 = 4;
/// Copies for which advice prints one spare.
const SPARES_FOR: u64 = 8;
/// Parts that are tried for a gap.
const TRIED: usize = 4;

/// Advice on one plate. `seconds` tells how long a plate of these copies takes, `ml` how much
/// resin one copy.
#[must_use]
pub fn advise(
    layout: &PlateLayout,
    placed: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
    ml: &dyn Fn(PartId) -> f64,
) -> Vec<Advice> {
    leave(layout, placed, seconds)
        .into_iter()
        .chain(fill(layout, placed, seconds, ml))
        .collect()
}

fn height(layout: &PlateLayout, part: PartId) -> f64 {
    layout.parts.get(&part).map_or(0.0, |p| p.height_mm)
}

/// A part set up otherwise.
#[derive(Debug, Clone, PartialEq)]
pub struct Tilt {
    /// Which of the ways it was measured in.
    pub way: usize,
    /// What the plate takes less, s.
    pub saves_s: f64,
    /// The plate as it is then.
    pub after: Vec<PlacedCopy>,
}

/// Which of some other ways to hang the tallest part saves most, with the plate as it is then.
/// Every copy of it has to stand on this plate, and the others stay where they stand or are
/// arranged anew around what is pinned.
#[must_use]
pub fn tilt(
    layout: &PlateLayout,
    placed: &[PlacedCopy],
    ways: &[PlanPart],
    seconds: &dyn Fn(&PlateLayout, &[PlacedCopy]) -> f64,
) -> Option<Tilt> {
    let before = seconds(layout, placed);
    let tried = ways.iter().enumerate().filter_map(|(way, part)| {
        let mut other = layout.clone();
        other.parts.insert(part.id, part.clone());
        let after = if other.faults(placed).is_empty() {
            placed.to_vec()
        } else {
            other.change(placed, &Change::Repack).ok()?
        };
        let saves_s = before - seconds(&other, &after);
        (saves_s >= LEAST_SAVING_S).then_some(Tilt {
            way,
            saves_s,
            after,
        })
    });
    tried.max_by(|a, b| a.saves_s.total_cmp(&b.saves_s))
}

/// The part of the tallest copies.
#[must_use]
pub fn tallest_part(layout: &PlateLayout, placed: &[PlacedCopy]) -> Option<PartId> {
    let tallest = |a: &&PlacedCopy, b: &&PlacedCopy| {
        height(layout, a.part).total_cmp(&height(layout, b.part))
    };
    placed.iter().max_by(tallest).map(|p| p.part)
}

/// Copies of the tallest part, where few of them make the plate long.
fn leave(
    layout: &PlateLayout,
    placed: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
) -> Option<Advice> {
    let tallest = tallest_part(layout, placed)?;
    let rest: Vec<PlacedCopy> = placed
        .iter()
        .filter(|p| p.part != tallest)
        .copied()
        .collect();
    let taken: Vec<PlacedCopy> = placed
        .iter()
        .filter(|p| p.part == tallest)
        .copied()
        .collect();
    let copies = taken.len() as u64;
    let free = placed.iter().all(|p| p.part != tallest || !p.pinned);
    let saves_s = seconds(placed) - seconds(&rest);
    (free && !rest.is_empty() && copies <= MOST_LEFT && saves_s >= LEAST_SAVING_S).then_some(
        Advice::Leave {
            part: tallest,
            copies,
            saves_s,
            alone_s: seconds(&taken),
        },
    )
}

/// Copies that fit into gaps without making the plate longer: from the pool before spares.
fn fill(
    layout: &PlateLayout,
    placed: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
    ml: &dyn Fn(PartId) -> f64,
) -> Option<Advice> {
    let taken = seconds(placed);
    let top = placed
        .iter()
        .map(|p| height(layout, p.part))
        .fold(0.0, f64::max);
    let mut counts: BTreeMap<PartId, u64> = BTreeMap::new();
    for copy in placed {
        *counts.entry(copy.part).or_default() += 1;
    }
    // In the pool, copies on the plate, height: what is offered first.
    let mut offered: Vec<(bool, u64, f64, PartId)> = layout
        .parts
        .values()
        .filter(|p| p.height_mm <= top + 1e-9)
        .map(|p| {
            let on_it = counts.get(&p.id).copied().unwrap_or(0);
            (layout.pool.contains_key(&p.id), on_it, p.height_mm, p.id)
        })
        .filter(|(in_pool, on_it, _, _)| *in_pool || *on_it > 0)
        .collect();
    offered.sort_by(|a, b| {
        let by_need = b.0.cmp(&a.0);
        // From the pool the tallest; spares of what is lost most, which is what there is most of.
        let inner = if a.0 {
            b.2.total_cmp(&a.2)
        } else {
            b.1.cmp(&a.1)
        };
        by_need.then(inner).then(a.3.cmp(&b.3))
    });
    offered
        .into_iter()
        .take(TRIED)
        .find_map(|(from_pool, on_it, _, part)| {
            let spares = on_it.div_ceil(SPARES_FOR);
            let most = layout.pool.get(&part).copied().unwrap_or(spares);
            let copies = layout.room_for(placed, part, most.min(MOST_ADDED));
            let more: Vec<PlacedCopy> = (0..copies)
                .map(|_| PlacedCopy {
                    key: 0,
                    part,
                    at_mm: [0.0, 0.0],
                    rotation_deg: 0.0,
                    pinned: false,
                })
                .chain(placed.iter().copied())
                .collect();
            // A beam draws every copy: there it would take longer.
            (copies > 0 && seconds(&more) <= taken + 1e-6).then(|| Advice::Fill {
                part,
                copies,
                from_pool,
                ml: ml(part) * copies as f64,
            })
        })
}
