//! What no packing can be under.

use super::PackJob;
use super::nest::{grown_spans, spans};
use crate::geometry::Outline;

/// A lower bound on the sum over plates of the tallest copy, and on the number of plates.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bound {
    /// Least sum of tallest copies, mm.
    pub sum_height_mm: f64,
    /// Least number of plates.
    pub plates: u64,
    /// Least time on the printers, s.
    pub seconds: f64,
}

/// A valid lower bound, by area and height with the constant of a plate.
///
/// Outlines and plates are grown by half the clearance: copies so grown cannot overlap, and lie in
/// the plate so grown. Whatever shares plates, the k-th tallest plate holds something at least as
/// tall as the copy at which the areas, taken from tall to low, exceed k − 1 plates (the
/// continuous fill of level-oriented packing; E. Coffman, M. Garey, D. Johnson, R. Tarjan, SIAM
/// J. Comput. 9, 1980, from memory).
#[must_use]
pub fn lower_bound(job: &PackJob) -> Bound {
    let half = job.clearance_mm / 2.0;
    let room = job
        .build_areas
        .iter()
        .map(|s| {
            (s.width_mm - 2.0 * s.margin_mm + job.clearance_mm)
                * (s.depth_mm - 2.0 * s.margin_mm + job.clearance_mm)
        })
        .fold(0.0, f64::max);
    let tallest = job
        .build_areas
        .iter()
        .map(|s| s.height_mm)
        .fold(0.0, f64::max);
    let mut copies: Vec<(f64, f64, u64)> = job
        .items
        .iter()
        .filter(|i| i.copies > 0 && i.height_mm <= tallest)
        .map(|i| (i.height_mm, grown_area(&i.outline, half), i.copies))
        .collect();
    copies.sort_by(|a, b| b.0.total_cmp(&a.0));
    let (mut area, mut plates, mut sum, mut seconds) = (0.0, 0_u64, 0.0, 0.0);
    // The quickest printer for a plate so tall: a taller one never takes less.
    let quickest = |height: f64| {
        let all = job.build_areas.iter().map(|s| s.seconds(height));
        all.fold(f64::INFINITY, f64::min)
    };
    // A hair of tolerance: areas of perfect packings sum up to whole plates.
    let room = room * (1.0 + 1e-9);
    for (height, each, many) in copies {
        for _ in 0..many {
            // The plate that this copy's area begins on, in the continuous fill.
            if area >= plates as f64 * room {
                plates += 1;
                sum += height;
                seconds += quickest(height);
            }
            area += each;
            // A copy that reaches over several plates opens them all.
            while area > plates as f64 * room {
                plates += 1;
                sum += height;
                seconds += quickest(height);
            }
        }
    }
    Bound {
        sum_height_mm: sum,
        plates,
        seconds,
    }
}

/// Distance of the lines along which grown outlines are measured, mm.
const LINE_MM: f64 = 0.01;
/// What is taken off for lines being lines, as a share: a bound errs downward.
const SHY: f64 = 1e-6;

/// Area of an outline grown by a distance, mm²: line by line, so that notches that close count
/// once; never more than it is.
pub(super) fn grown_area(outline: &Outline, by: f64) -> f64 {
    if by <= 0.0 {
        return outline.area_mm2();
    }
    let corners = outline.corners();
    let (low, high) = outline.bounds();
    let many = ((high[1] - low[1] + 2.0 * by) / LINE_MM).ceil().max(1.0);
    let step = (high[1] - low[1] + 2.0 * by) / many;
    let mut area = 0.0;
    for line in 0..many as usize {
        let y = low[1] - by + (line as f64 + 0.5) * step;
        let mut covered = spans(corners, y);
        grown_spans(corners, y, by, &mut covered);
        covered.sort_unstable_by(|a, b| a[0].total_cmp(&b[0]));
        let mut end = f64::NEG_INFINITY;
        for [from, to] in covered {
            area += (to - from.max(end)).max(0.0) * step;
            end = end.max(to);
        }
    }
    area * (1.0 - SHY)
}
