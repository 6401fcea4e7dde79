//! A quarter of a plate that is kept clear of slender parts: more fails there than chance would have it.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use super::layout::{PlateLayout, rekeyed};
use super::made::Plan;
use super::request::{PlanPart, PlanRequest};
use crate::flow::PlacedCopy;
use crate::geometry::{Outline, Point, Quarter};
use crate::ids::PartId;
use crate::pack::PackSearch;

/// A part this many times taller than its outline is wide is slender (common practice, no source).
const SLENDER: f64 = 2.0;

/// Turns that are tried when copies change places, degrees.
const TURNS: [f64; 8] = [0.0, 90.0, 180.0, 270.0, 45.0, 135.0, 225.0, 315.0];
/// Steps of the search for another arrangement of what is not slender.
const STEPS: u64 = 12;
/// Between places that are tried for a slender copy, mm.
const STEP_MM: f64 = 3.0;

/// How many times taller something is than the side of a square as large as its outline; [`SLENDER`] or more is
/// slender.
fn slenderness(height_mm: f64, outline: &Outline) -> f64 {
    height_mm / outline.area_mm2().abs().sqrt().max(1e-3)
}

/// Something slender stands in a quarter of a plate so large.
#[must_use]
pub fn is_slender_in(
    quarter: Quarter,
    [width_mm, depth_mm]: [f64; 2],
    at_mm: Point,
    (height_mm, outline): (f64, &Outline),
) -> bool {
    quarter.holds([at_mm[0] / width_mm, at_mm[1] / depth_mm])
        && slenderness(height_mm, outline) >= SLENDER
}

impl PlateLayout {
    /// Keys of the slender copies that stand in the quarter which is kept clear, the most slender first; none where no
    /// quarter is.
    #[must_use]
    pub fn in_kept_clear(&self, placed: &[PlacedCopy]) -> Vec<i64> {
        let Some(quarter) = self.kept_clear else {
            return Vec::new();
        };
        let mut inside: Vec<&PlacedCopy> = placed
            .iter()
            .filter(|c| {
                let part = self.parts.get(&c.part);
                part.is_some_and(|p| {
                    let size = [self.build_area.width_mm, self.build_area.depth_mm];
                    is_slender_in(quarter, size, c.at_mm, (p.height_mm, &p.outline))
                })
            })
            .collect();
        inside.sort_by(|a, b| self.slenderness(b).total_cmp(&self.slenderness(a)));
        inside.iter().map(|c| c.key).collect()
    }

    /// The same copies on the same plate with as few slender ones in the quarter that is kept clear as is found: the
    /// plate turned by half, copies that change places, and the rest arranged anew around the slender ones. What is
    /// pinned stays. Nothing about its hours changes, since they follow from what stands on it, not from where.
    #[must_use]
    pub fn cleared(&self, placed: &[PlacedCopy]) -> Vec<PlacedCopy> {
        let left = |copies: &[PlacedCopy]| self.in_kept_clear(copies).len();
        let mut best = placed.to_vec();
        if left(&best) == 0 {
            return best;
        }
        let turned = self.half_turned(placed);
        if let Some(turned) = turned.filter(|t| left(t) < left(&best)) {
            best = turned;
        }
        for key in self.in_kept_clear(&best) {
            if let Some(changed) = self.changed_places(&best, key) {
                best = changed;
            }
        }
        if left(&best) > 0 {
            let around = self.slender_first(&best);
            if let Some(around) = around.filter(|a| left(a) < left(&best)) {
                best = around;
            }
        }
        best
    }

    fn is_in(&self, quarter: Quarter, at_mm: Point) -> bool {
        let area = &self.build_area;
        quarter.holds([at_mm[0] / area.width_mm, at_mm[1] / area.depth_mm])
    }

    fn slenderness(&self, copy: &PlacedCopy) -> f64 {
        let part = self.parts.get(&copy.part);
        part.map_or(0.0, |p| slenderness(p.height_mm, &p.outline))
    }

    fn is_slender(&self, copy: &PlacedCopy) -> bool {
        self.slenderness(copy) >= SLENDER
    }

    /// The plate the other way round; nothing where something on it is pinned.
    fn half_turned(&self, placed: &[PlacedCopy]) -> Option<Vec<PlacedCopy>> {
        let area = &self.build_area;
        let turned = |c: &PlacedCopy| PlacedCopy {
            at_mm: [area.width_mm - c.at_mm[0], area.depth_mm - c.at_mm[1]],
            rotation_deg: (c.rotation_deg + 180.0).rem_euclid(360.0),
            ..*c
        };
        let free = placed.iter().all(|c| !c.pinned);
        free.then(|| placed.iter().map(turned).collect())
    }

    /// A slender copy at a free place outside of the quarter, or where a stouter one stands that takes its place.
    fn changed_places(&self, placed: &[PlacedCopy], key: i64) -> Option<Vec<PlacedCopy>> {
        let quarter = self.kept_clear?;
        let index = placed.iter().position(|c| c.key == key && !c.pinned)?;
        let free = self.places_outside(quarter).into_iter();
        let free = free.filter_map(|at| self.stood(placed, index, at));
        if let Some(moved) = free.into_iter().next() {
            return Some(moved);
        }
        let stout =
            |c: &&PlacedCopy| !c.pinned && !self.is_slender(c) && !self.is_in(quarter, c.at_mm);
        let from = placed[index].at_mm;
        placed.iter().filter(stout).find_map(|other| {
            // Without it, whether the slender one fits there; then whether it fits where that one was.
            let without: Vec<PlacedCopy> = placed
                .iter()
                .filter(|c| c.key != other.key)
                .copied()
                .collect();
            let at = without.iter().position(|c| c.key == key)?;
            let mut both = self.stood(&without, at, other.at_mm)?;
            both.push(*other);
            let last = both.len() - 1;
            let mut both = self.stood(&both, last, from)?;
            both.sort_by_key(|c| placed.iter().position(|p| p.key == c.key));
            Some(both)
        })
    }

    /// With a copy at a place, turned as it fits there.
    fn stood(&self, placed: &[PlacedCopy], index: usize, at_mm: Point) -> Option<Vec<PlacedCopy>> {
        let mut after = placed.to_vec();
        let turned = TURNS.iter().find(|turn| {
            after[index].at_mm = at_mm;
            after[index].rotation_deg = (placed[index].rotation_deg + **turn).rem_euclid(360.0);
            self.stands(&after, index).is_ok()
        });
        turned.is_some().then_some(after)
    }

    /// Places over the plate that are not in a quarter, those farthest from its corner first.
    fn places_outside(&self, quarter: Quarter) -> Vec<Point> {
        let area = &self.build_area;
        let steps = |mm: f64| (mm / STEP_MM) as usize;
        let mut all: Vec<Point> = (1..steps(area.width_mm))
            .flat_map(|x| (1..steps(area.depth_mm)).map(move |y| [x, y]))
            .map(|p| p.map(|n| n as f64 * STEP_MM))
            .filter(|at| !self.is_in(quarter, *at))
            .collect();
        let [cx, cy] = quarter.corner();
        let far = |at: &Point| {
            let from = [cx * area.width_mm - at[0], cy * area.depth_mm - at[1]];
            Reverse(from[0].hypot(from[1]).round() as i64)
        };
        all.sort_by_key(far);
        all
    }

    /// The slender copies stood outside of the quarter first, where there is room; the rest around them.
    fn slender_first(&self, placed: &[PlacedCopy]) -> Option<Vec<PlacedCopy>> {
        let quarter = self.kept_clear?;
        let inside = self.in_kept_clear(placed);
        let stays = |c: &&PlacedCopy| c.pinned || self.is_slender(c);
        let mut kept: Vec<PlacedCopy> = placed.iter().filter(stays).copied().collect();
        for key in inside {
            let Some(index) = kept.iter().position(|c| c.key == key && !c.pinned) else {
                continue;
            };
            let places = self.places_outside(quarter).into_iter();
            let found = places
                .into_iter()
                .find_map(|at| self.stood(&kept, index, at));
            kept = found.unwrap_or(kept);
        }
        let mut rest: BTreeMap<PartId, u64> = BTreeMap::new();
        for copy in placed.iter().filter(|c| !stays(c)) {
            *rest.entry(copy.part).or_default() += 1;
        }
        let pinned = |c: &PlacedCopy| PlacedCopy { pinned: true, ..*c };
        let around = self.around(
            &kept,
            &rest,
            PackSearch {
                seed: 1,
                steps: STEPS,
            },
        )?;
        // The slender ones keep their keys where they were put; the others get theirs back.
        let arranged: Vec<PlacedCopy> = around
            .iter()
            .map(|c| {
                if kept.iter().any(|k| k.key == c.key) {
                    pinned(c)
                } else {
                    *c
                }
            })
            .collect();
        let before: Vec<PlacedCopy> = placed
            .iter()
            .map(|c| if stays(&c) { pinned(c) } else { *c })
            .collect();
        let mut after = rekeyed(&before, &arranged);
        for copy in &mut after {
            copy.pinned = placed.iter().any(|p| p.key == copy.key && p.pinned);
        }
        Some(after)
    }
}

/// Clears the plates of a plan whose printers have a quarter to be kept clear.
pub(super) fn keep_clear(plan: &mut Plan, request: &PlanRequest) {
    // Variants of a trial are one part in several shapes, and stand side by side to be compared.
    let mut ids: Vec<PartId> = request.parts.iter().map(|p| p.id).collect();
    ids.sort_unstable();
    if ids.windows(2).any(|two| two[0] == two[1]) {
        return;
    }
    for plate in plan.plates.iter_mut().filter(|p| !p.fixed) {
        let Some((printer, setting, _)) = request.printing(plate.printer, plate.resin, plate.layer)
        else {
            continue;
        };
        if printer.kept_clear.is_none() {
            continue;
        }
        let on_it = |p: &&PlanPart| plate.copies.iter().any(|c| c.part == p.id);
        let parts = request.parts.iter().filter(on_it).cloned();
        let layout = PlateLayout::new(printer, setting, request.rates.clearance_mm, parts);
        let placed: Vec<PlacedCopy> = (0..)
            .zip(&plate.copies)
            .map(|(key, c)| PlacedCopy {
                key,
                part: c.part,
                at_mm: c.at_mm,
                rotation_deg: c.rotation_deg,
                pinned: false,
            })
            .collect();
        let cleared = layout.cleared(&placed);
        if cleared == placed || !layout.faults(&cleared).is_empty() {
            continue;
        }
        for moved in cleared {
            let copy = usize::try_from(moved.key)
                .ok()
                .and_then(|k| plate.copies.get_mut(k));
            if let Some(copy) = copy.filter(|c| c.part == moved.part) {
                (copy.at_mm, copy.rotation_deg) = (moved.at_mm, moved.rotation_deg);
            }
        }
    }
}
