//! A figure above the columns that carry it.

use super::regions::{Region, find_regions};
use super::slice::{Grid, Runs, Slicer};

/// A support's column is at most this thick, mm, and as round as that.
const COLUMN_MM: f64 = 2.6;
/// Smaller sections are tips, and slivers beside columns, mm².
const LEAST_MM2: f64 = 1.0;
/// What is lower is a piece between columns, mm.
const LASTING_MM: f64 = 1.0;
/// What it stands on is looked for so far up: a share of its height, and mm at most.
const LOWEST: (f64, f64) = (0.2, 3.0);

/// Where a figure begins that stands on supports of its file, and what it would stand on without them.
///
/// # Units
/// mm.
#[derive(Debug, Clone, Copy, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct Raised {
    /// Its lowest point above that of the file.
    pub from_mm: f64,
    /// Width and depth of what is lowest about it.
    pub foot_mm: [f64; 2],
}

impl Region {
    /// As thin and as round as a column of supports.
    pub(super) fn is_column(&self) -> bool {
        let across = (4.0 * self.area / std::f64::consts::PI).sqrt();
        across <= COLUMN_MM && self.width() >= 0.6 * across
    }
}

/// Looks for the figure above the layer in which its columns begin.
pub(super) fn find_raised(slicer: &Slicer<'_>, carried_from: usize) -> Option<Raised> {
    let grid = &slicer.grid;
    let mut begun: Option<(usize, [f64; 4])> = None;
    for k in carried_from..grid.layers {
        let Some(here) = without_columns(&slicer.cut_layer(k), grid) else {
            begun = None;
            continue;
        };
        let (from, so_far) = begun.unwrap_or((k, here));
        let all = [
            so_far[0].min(here[0]),
            so_far[1].min(here[1]),
            so_far[2].max(here[2]),
            so_far[3].max(here[3]),
        ];
        begun = Some((from, all));
        let left = (grid.layers - from) as f64 * grid.layer_mm;
        let lowest = (left * LOWEST.0).min(LOWEST.1).max(LASTING_MM);
        if (k + 1 - from) as f64 * grid.layer_mm >= lowest {
            return Some(Raised {
                from_mm: from as f64 * grid.layer_mm,
                foot_mm: [all[2] - all[0], all[3] - all[1]],
            });
        }
    }
    None
}

/// The box around everything in a layer that is no column: left, near, right, far.
fn without_columns(runs: &Runs, grid: &Grid) -> Option<[f64; 4]> {
    let regions = find_regions(runs, grid.lines, grid, 0.0, None);
    let mut all: Option<[f64; 4]> = None;
    for line in 0..grid.lines {
        let y = grid.line_at(line);
        for (index, [from, to]) in runs.range(line).zip(runs.line(line)) {
            let region = &regions.regions[regions.of_run[index] as usize];
            if region.area < LEAST_MM2 || region.is_column() {
                continue;
            }
            let [left, near, right, far] = all.unwrap_or([*from, y, *to, y]);
            all = Some([left.min(*from), near, right.max(*to), far.max(y)]);
        }
    }
    // A scan line stands for half the way to the next ones.
    all.map(|[left, near, right, far]| {
        let half = grid.pitch / 2.0;
        [left, near - half, right, far + half]
    })
}
