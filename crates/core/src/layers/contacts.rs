//! Where supports touch a part, counted over their common layers.

use super::regions::{Regions, find_regions, region_pairs};
use super::slice::{Grid, Runs, Slicer};
use crate::mesh::Solid;
use crate::units::LayerHeight;

/// How close counts as touching, mm.
const CLOSE_MM: f64 = 0.1;
/// A column that touches again within this height still has the same tip, mm.
const ONE_TIP_MM: f64 = 0.8;
/// The smallest section of a column that counts, mm²: a tip of a tenth of a millimetre.
const LEAST_MM2: f64 = 0.008;

/// Counts the places where two solids meet or come as close as a tip to its surface: one for every
/// column of the supports that comes to touch, however the part's surface cuts it, and one more
/// where it leaves the part and touches it again further up.
#[must_use]
pub fn count_contacts(part: &Solid, supports: &Solid, layer: LayerHeight) -> usize {
    let mut both = part.facts.clone();
    for k in 0..3 {
        both.low_mm[k] = both.low_mm[k].min(supports.facts.low_mm[k]);
        both.high_mm[k] = both.high_mm[k].max(supports.facts.high_mm[k]);
    }
    let grid = Grid::around(both.low_mm, both.high_mm, layer);
    let slicers = [part, supports].map(|s| Slicer::on(s, grid, 1.0));
    let mut columns = Columns {
        grid,
        layer: 0,
        found: 0,
        before: None,
    };
    let mut pending: Option<(Runs, Runs)> = None;
    for chunk in 0..slicers[0].chunks() {
        let [parts, supports] = [0, 1].map(|i| slicers[i].cut(chunk));
        for (part, support) in parts.into_iter().zip(supports) {
            // A tip may end in the layer below the one in which the part begins.
            if let Some((part_below, below)) = pending.take() {
                columns.add(below, &[&part_below, &part]);
            }
            pending = Some((part, support));
        }
    }
    if let Some((part, support)) = pending {
        columns.add(support, &[&part]);
    }
    columns.found
}

/// The columns of the supports, followed from layer to layer.
struct Columns {
    grid: Grid,
    layer: usize,
    found: usize,
    /// The layer before: for each region the layer in which it last touched the part, if it did.
    before: Option<(Runs, Regions, Vec<Option<usize>>)>,
}

impl Columns {
    fn add(&mut self, runs: Runs, parts: &[&Runs]) {
        let regions = find_regions(&runs, self.grid.lines, &self.grid, 0.0, None);
        let mut last: Vec<Option<usize>> = vec![None; regions.regions.len()];
        if let Some((below, of_below, touched)) = &self.before {
            for (here, under) in region_pairs((below, of_below), (&runs, &regions), self.grid.lines)
            {
                let (here, under) = (here as usize, under as usize);
                last[here] = last[here].max(touched[under]);
            }
        }
        let gap = (ONE_TIP_MM / self.grid.layer_mm).ceil() as usize;
        for (region, touches) in self.touching(&runs, &regions, parts).iter().enumerate() {
            // A sliver beside a column is none.
            if !touches || regions.regions[region].area < LEAST_MM2 {
                continue;
            }
            let same = last[region].is_some_and(|layer| self.layer - layer <= gap);
            self.found += usize::from(!same);
            last[region] = Some(self.layer);
        }
        self.before = Some((runs, regions, last));
        self.layer += 1;
    }

    /// Which regions come near the part, on the same line or the next.
    fn touching(&self, runs: &Runs, regions: &Regions, parts: &[&Runs]) -> Vec<bool> {
        let mut touching = vec![false; regions.regions.len()];
        let lines = self.grid.lines;
        let reach = (CLOSE_MM / self.grid.pitch).floor() as usize;
        for line in 0..lines {
            let near = line.saturating_sub(reach)..(line + reach + 1).min(lines);
            let of_part = || {
                parts
                    .iter()
                    .flat_map(|p| near.clone().flat_map(|l| p.line(l)))
            };
            for (index, run) in runs.range(line).zip(runs.line(line)) {
                let region = regions.of_run[index] as usize;
                touching[region] |=
                    of_part().any(|p| p[0] < run[1] + CLOSE_MM && run[0] - CLOSE_MM < p[1]);
            }
        }
        touching
    }
}
