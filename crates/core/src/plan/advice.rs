//! What would shorten a plate, or use it better: each piece of advice says what it saves, and can
//! be followed as it stands.

use std::collections::BTreeMap;

use crate::ids::PartId;
use crate::plan::PlanPart;
use crate::plan::layout::{Change, PlacedCopy, PlateLayout};

/// One piece of advice.
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
    board: &PlateLayout,
    pieces: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
    ml: &dyn Fn(PartId) -> f64,
) -> Vec<Advice> {
    leave(board, pieces, seconds)
        .into_iter()
        .chain(fill(board, pieces, seconds, ml))
        .collect()
}

fn height(board: &PlateLayout, part: PartId) -> f64 {
    board.parts.get(&part).map_or(0.0, |p| p.height_mm)
}

/// A part hung otherwise.
#[derive(Debug, Clone, PartialEq)]
pub struct Lean {
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
pub fn lean(
    board: &PlateLayout,
    pieces: &[PlacedCopy],
    ways: &[PlanPart],
    seconds: &dyn Fn(&PlateLayout, &[PlacedCopy]) -> f64,
) -> Option<Lean> {
    let before = seconds(board, pieces);
    let tried = ways.iter().enumerate().filter_map(|(way, part)| {
        let mut other = board.clone();
        other.parts.insert(part.id, part.clone());
        let after = if other.faults(pieces).is_empty() {
            pieces.to_vec()
        } else {
            other.change(pieces, &Change::Repack).ok()?
        };
        let saves_s = before - seconds(&other, &after);
        (saves_s >= LEAST_SAVING_S).then_some(Lean {
            way,
            saves_s,
            after,
        })
    });
    tried.max_by(|a, b| a.saves_s.total_cmp(&b.saves_s))
}

/// The part of the tallest copies.
#[must_use]
pub fn tallest_part(board: &PlateLayout, pieces: &[PlacedCopy]) -> Option<PartId> {
    let tallest =
        |a: &&PlacedCopy, b: &&PlacedCopy| height(board, a.part).total_cmp(&height(board, b.part));
    pieces.iter().max_by(tallest).map(|p| p.part)
}

/// Copies of the tallest part, where few of them make the plate long.
fn leave(
    board: &PlateLayout,
    pieces: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
) -> Option<Advice> {
    let tallest = tallest_part(board, pieces)?;
    let rest: Vec<PlacedCopy> = pieces
        .iter()
        .filter(|p| p.part != tallest)
        .copied()
        .collect();
    let copies = (pieces.len() - rest.len()) as u64;
    let free = pieces.iter().all(|p| p.part != tallest || !p.pinned);
    let saves_s = seconds(pieces) - seconds(&rest);
    (free && !rest.is_empty() && copies <= MOST_LEFT && saves_s >= LEAST_SAVING_S).then_some(
        Advice::Leave {
            part: tallest,
            copies,
            saves_s,
        },
    )
}

/// Copies that fit into gaps without making the plate longer: from the pool before spares.
fn fill(
    board: &PlateLayout,
    pieces: &[PlacedCopy],
    seconds: &dyn Fn(&[PlacedCopy]) -> f64,
    ml: &dyn Fn(PartId) -> f64,
) -> Option<Advice> {
    let taken = seconds(pieces);
    let top = pieces
        .iter()
        .map(|p| height(board, p.part))
        .fold(0.0, f64::max);
    let mut counts: BTreeMap<PartId, u64> = BTreeMap::new();
    for piece in pieces {
        *counts.entry(piece.part).or_default() += 1;
    }
    // In the pool, copies on the plate, height: what is offered first.
    let mut offered: Vec<(bool, u64, f64, PartId)> = board
        .parts
        .values()
        .filter(|p| p.height_mm <= top + 1e-9)
        .map(|p| {
            let on_it = counts.get(&p.id).copied().unwrap_or(0);
            (board.pool.contains_key(&p.id), on_it, p.height_mm, p.id)
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
            let most = board.pool.get(&part).copied().unwrap_or(spares);
            let copies = board.room_for(pieces, part, most.min(MOST_ADDED));
            let more: Vec<PlacedCopy> = (0..copies)
                .map(|_| PlacedCopy {
                    key: 0,
                    part,
                    at_mm: [0.0, 0.0],
                    rotation_deg: 0.0,
                    pinned: false,
                })
                .chain(pieces.iter().copied())
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
