//! Where supports touch a part, counted over their common layers.

use rustc_hash::FxHashMap;

use super::regions::{find_regions, region_pairs};
use super::slice::{Grid, Runs, Slicer};
use crate::mesh::Solid;
use crate::union_find::{apart, find, join};
use crate::units::LayerHeight;

/// How close counts as touching, mm.
const CLOSE_MM: f64 = 0.1;
/// What touches within this distance is one tip, mm.
const ONE_TIP_MM: f64 = 0.8;

/// Counts the places where two solids meet or come as close as a tip to its surface: what hangs
/// together over lines and layers is one.
#[must_use]
pub fn count_contacts(part: &Solid, supports: &Solid, layer: LayerHeight) -> usize {
    let mut both = part.facts.clone();
    for k in 0..3 {
        both.low_mm[k] = both.low_mm[k].min(supports.facts.low_mm[k]);
        both.high_mm[k] = both.high_mm[k].max(supports.facts.high_mm[k]);
    }
    let grid = Grid::around(both.low_mm, both.high_mm, layer);
    let slicers = [part, supports].map(|s| Slicer::on(s, grid, 1.0));
    let mut root: Vec<u32> = Vec::new();
    let mut before: Option<(Runs, super::regions::Regions, u32)> = None;
    let mut support_before: Option<Runs> = None;
    // The layer, and where every region is.
    let mut places: (usize, Vec<[f64; 3]>) = (0, Vec::new());
    for chunk in 0..slicers[0].chunks() {
        let [parts, supports] = [0, 1].map(|i| slicers[i].cut(chunk));
        for (part, support) in parts.into_iter().zip(supports) {
            // A tip may end in the layer below the one in which the part begins.
            let meet = meeting(&part, &[Some(&support), support_before.as_ref()], &grid);
            let regions = find_regions(&meet, grid.lines, &grid, 0.0, None);
            let first = root.len() as u32;
            let z = grid.low[2] + (places.0 as f64 + 0.5) * grid.layer_mm;
            places.0 += 1;
            for region in &regions.regions {
                let [x, y] = region.centre();
                places.1.push([x, y, z]);
            }
            root.extend(apart(regions.regions.len()).into_iter().map(|i| i + first));
            if let Some((runs, below, begin)) = &before {
                for (here, under) in region_pairs((runs, below), (&meet, &regions), grid.lines) {
                    join(&mut root, first + here, begin + under);
                }
            }
            before = Some((meet, regions, first));
            support_before = Some(support);
        }
    }
    // A tip on a slope meets it in bits and pieces.
    let mut by_cell: FxHashMap<[i32; 3], Vec<u32>> = FxHashMap::default();
    for (index, place) in places.1.iter().enumerate() {
        let cell = place.map(|c| (c / ONE_TIP_MM).floor() as i32);
        for x in -1..=1 {
            for y in -1..=1 {
                for z in -1..=1 {
                    let near = [cell[0] + x, cell[1] + y, cell[2] + z];
                    for other in by_cell.get(&near).into_iter().flatten() {
                        let q = places.1[*other as usize];
                        let far = (0..3).map(|k| (q[k] - place[k]).powi(2)).sum::<f64>();
                        if far < ONE_TIP_MM * ONE_TIP_MM {
                            join(&mut root, index as u32, *other);
                        }
                    }
                }
            }
        }
        by_cell.entry(cell).or_default().push(index as u32);
    }
    (0..root.len() as u32)
        .filter(|i| find(&mut root, *i) == *i)
        .count()
}

/// Runs of a part near runs of its supports, on the same line or the next.
fn meeting(part: &Runs, supports: &[Option<&Runs>], grid: &Grid) -> Runs {
    let mut meet = Runs {
        starts: vec![0],
        ..Runs::default()
    };
    let reach = (CLOSE_MM / grid.pitch).floor() as usize;
    for line in 0..grid.lines {
        let mut near: Vec<[f64; 2]> = Vec::new();
        for runs in supports.iter().flatten() {
            for other in line.saturating_sub(reach)..(line + reach + 1).min(grid.lines) {
                near.extend(
                    runs.line(other)
                        .iter()
                        .map(|r| [r[0] - CLOSE_MM, r[1] + CLOSE_MM]),
                );
            }
        }
        near.sort_unstable_by(|a, b| a[0].total_cmp(&b[0]));
        let begin = meet.runs.len();
        for run in part.line(line) {
            for n in &near {
                let cut = [run[0].max(n[0]), run[1].min(n[1])];
                if cut[0] >= cut[1] {
                    continue;
                }
                match meet.runs[begin..].last_mut() {
                    Some(last) if cut[0] <= last[1] => last[1] = last[1].max(cut[1]),
                    _ => meet.runs.push(cut),
                }
            }
        }
        meet.starts.push(meet.runs.len() as u32);
    }
    meet
}
