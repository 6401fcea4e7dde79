//! Everything that is read off the layer stack in one pass.

use rayon::prelude::*;

use super::islands::{Island, IslandWatch};
use super::pockets::{Cup, PocketWatch};
use super::pull::{self, Closeness, Holes};
use super::raised::{Raised, find_raised};
use super::regions::{Regions, air, find_regions, region_pairs};
use super::slice::{Grid, Runs, Slicer};
use crate::geometry::{Point, convex_hull};
use crate::mesh::Solid;
use crate::units::LayerHeight;
use crate::watch::Watch;

/// What the layers of a part tell.
///
/// # Units
/// mm, mm², mm³; heights above the lowest point.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct StackFigures {
    /// How many layers.
    pub layers: u32,
    /// Distance of the scan lines, mm: finer shapes may be missed.
    pub pitch_mm: f64,
    /// Volume of the union: what is sunk together counts once.
    pub volume_mm3: f64,
    /// Section area of every layer.
    pub area_mm2: Vec<f64>,
    /// Pull index of every layer, see [`super::PULL_OF_DISC`]: solved where it matters for the
    /// peak, by the fast form elsewhere, and nowhere above the peak.
    pub pull: Vec<f64>,
    /// Layer of the hardest pull, and its index, solved on the section.
    pub peak: (usize, f64),
    /// Area that lies more than a layer height sideways of the layer before, summed.
    pub overhang_mm2: f64,
    /// Regions that start in mid-air.
    pub islands: Vec<Island>,
    /// Pockets that hold suction.
    pub cups: Vec<Cup>,
    /// Air shut in for good.
    pub sealed_mm3: f64,
    /// Centre of mass about the middle of the box, height above the lowest point.
    pub centre_mm: [f64; 3],
    /// How far it may lean before it tips over; 0 when it does not stand by itself.
    pub tips_at_deg: f64,
    /// Thin columns that carry it from a common base: supports the file brings along; 0 for none.
    pub columns: u32,
    /// The layer from which these columns carry it: below lies their raft, which the plate holds.
    pub carried_from: u32,
    /// What these columns carry.
    pub raised: Option<Raised>,
    /// Of the scan lines that meet the mesh, the share on which it is open.
    pub unbalanced: f64,
}

/// Where more of the scan lines do not close, what is inside and what outside is a guess.
const MOST_UNBALANCED: f64 = 0.3;

impl StackFigures {
    /// The mesh closes so rarely that it has no volume to speak of.
    #[must_use]
    pub fn is_void(&self) -> bool {
        self.unbalanced > MOST_UNBALANCED
    }

    /// Largest section and the middle of its layer's height.
    #[must_use]
    pub fn largest_section(&self) -> f64 {
        self.area_mm2.iter().copied().fold(0.0, f64::max)
    }

    /// Layer of the hardest pull, and the pull.
    #[must_use]
    pub fn peak_pull(&self) -> (usize, f64) {
        self.peak
    }
}

/// Cuts a solid and reads everything off its layers. Equal results whatever the number of
/// threads: layers are cut side by side, and read in order.
///
/// Nothing when the watch says stop.
///
/// # Units
/// `scale` as a factor; 1 is the size of the file.
#[must_use]
pub fn measure_stack(
    solid: &Solid,
    layer: LayerHeight,
    scale: f64,
    watch: &dyn Watch,
) -> Option<StackFigures> {
    let slicer = Slicer::new(solid, layer, scale);
    let (mut figures, suction) = read_all(&slicer, watch)?;
    if figures.columns > 0 {
        figures.raised = find_raised(&slicer, figures.carried_from as usize);
    }
    let solved = solve_roughly(&slicer, &figures, &suction, watch)?;
    set_peak(&slicer, &mut figures, &suction, solved);
    Some(figures)
}

/// The hardest pull on layers as thick as given, solved on scan lines as far apart: for comparing
/// poses of one part. Nothing when the watch says stop.
#[must_use]
pub fn peak_pull_roughly(solid: &Solid, thick_mm: f64, watch: &dyn Watch) -> Option<f64> {
    let slicer = Slicer::coarse(solid, thick_mm);
    let (figures, suction) = read_all(&slicer, watch)?;
    let solved = solve_roughly(&slicer, &figures, &suction, watch)?;
    Some(solved.first().map_or(0.0, |s| s.1))
}

/// What the search for the hardest layer needs to know of every layer.
struct Suction {
    /// What it cannot pull harder than.
    most: Vec<f64>,
    /// Where it has holes: which regions of air no resin reaches.
    sealed: Vec<Vec<bool>>,
}

/// Everything but the peak.
fn read_all(slicer: &Slicer<'_>, watch: &dyn Watch) -> Option<(StackFigures, Suction)> {
    let mut reader = Reader::new(slicer.grid);
    // A few chunks at a time bound what is in memory.
    let at_once = rayon::current_num_threads().max(1) * 2;
    let chunks: Vec<usize> = (0..slicer.chunks()).collect();
    for some in chunks.chunks(at_once) {
        if watch.stopped() {
            return None;
        }
        let cut: Vec<Vec<Read>> = some
            .par_iter()
            .map(|chunk| {
                slicer
                    .cut(*chunk)
                    .into_iter()
                    .map(|runs| Read::of(runs, &slicer.grid))
                    .collect()
            })
            .collect();
        cut.into_iter()
            .flatten()
            .for_each(|read| reader.layer(read));
        watch.report(some[0] as f64 / chunks.len() as f64);
    }
    let suction = Suction {
        most: std::mem::take(&mut reader.most),
        sealed: std::mem::take(&mut reader.sealed),
    };
    Some((reader.end(), suction))
}

/// What lies this low touches the ground: rounded feet flatten when they are filed and glued.
const SOLE_MM: f64 = 0.25;

/// One layer with its regions of solid and of air.
#[derive(Default)]
struct Read {
    runs: Runs,
    solid: Regions,
    air_runs: Runs,
    air: Regions,
}

impl Read {
    fn of(runs: Runs, grid: &Grid) -> Self {
        let solid = find_regions(&runs, grid.lines, grid, 0.0, None);
        let (air_runs, field) = air(&runs, grid);
        let air = find_regions(&air_runs, grid.lines + 2, grid, -1.0, Some(field));
        Self {
            runs,
            solid,
            air_runs,
            air,
        }
    }
}

/// Reads layers in order.
struct Reader {
    grid: Grid,
    k: usize,
    before: Read,
    islands: IslandWatch,
    pockets: PocketWatch,
    area: Vec<f64>,
    pull: Vec<f64>,
    /// What no layer pulls harder than.
    most: Vec<f64>,
    /// Of layers with holes: which regions of air no resin reaches.
    sealed: Vec<Vec<bool>>,
    volume: f64,
    moment: [f64; 3],
    overhang: f64,
    unbalanced: u64,
    crossed: u64,
    foot: Vec<Point>,
    /// Of every layer: thin round regions, and all their area.
    thin_columns: Vec<(u32, f64)>,
}

/// Fewer columns are legs.
const LEAST_COLUMNS: u32 = 6;

/// Columns between base and part, and the layer in which they begin: in some layers of the lowest third for two millimetres on end
/// there is hardly anything but thin round regions, and nothing starts in mid-air that low.
fn supporting_columns(figures: &StackFigures, thin: &[(u32, f64)], layer_mm: f64) -> (u32, u32) {
    let lowest = thin.len() / 3;
    let lasting = (2.0 / layer_mm).ceil() as usize;
    let is_bare = |k: usize| {
        let (many, area) = thin[k];
        many >= LEAST_COLUMNS && area >= 0.6 * figures.area_mm2[k]
    };
    let mut best = (0, 0);
    let mut since = 0;
    for k in 0..lowest {
        if is_bare(k) {
            let from = (k + 1).saturating_sub(lasting);
            if k + 1 - since >= lasting {
                let least = thin[from..=k].iter().map(|t| t.0).min().unwrap_or(0);
                if least > best.0 {
                    best = (least, since as u32);
                }
            }
        } else {
            since = k + 1;
        }
    }
    // Feet in mid-air are no supports.
    let low = figures.islands.iter().any(|i| i.z_mm < 2.0);
    if low { (0, 0) } else { best }
}

impl Reader {
    fn new(grid: Grid) -> Self {
        Self {
            grid,
            k: 0,
            before: Read::default(),
            islands: IslandWatch::default(),
            pockets: PocketWatch::default(),
            area: Vec::with_capacity(grid.layers),
            pull: Vec::with_capacity(grid.layers),
            most: Vec::with_capacity(grid.layers),
            sealed: Vec::with_capacity(grid.layers),
            volume: 0.0,
            moment: [0.0; 3],
            overhang: 0.0,
            unbalanced: 0,
            crossed: 0,
            foot: Vec::new(),
            thin_columns: Vec::with_capacity(grid.layers),
        }
    }

    fn layer(&mut self, read: Read) {
        let (grid, k) = (self.grid, self.k);
        let thick = grid.thickness(k);
        let all = &read.solid.regions;
        let seen: f64 = all.iter().map(|r| r.area).sum();
        let area = (seen + read.runs.missed_mm2).max(0.0);
        self.area.push(area);
        self.volume += area * thick;
        let height = k as f64 * grid.layer_mm + thick / 2.0;
        for region in all {
            self.moment[0] += region.sum[0] * thick;
            self.moment[1] += region.sum[1] * thick;
            self.moment[2] += region.area * height * thick;
        }
        self.unbalanced += u64::from(read.runs.unbalanced);
        self.crossed += u64::from(read.runs.crossed);
        let thin = all.iter().filter(|r| r.is_column());
        self.thin_columns
            .push(thin.fold((0, 0.0), |(n, area), r| (n + 1, area + r.area)));
        if k as f64 * grid.layer_mm < SOLE_MM {
            self.stand_on(&read.runs);
        }
        let (solid_pairs, air_pairs) = if k == 0 {
            (Vec::new(), Vec::new())
        } else {
            self.overhang += overhang(&self.before.runs, &read.runs, &grid);
            (
                region_pairs(
                    (&self.before.runs, &self.before.solid),
                    (&read.runs, &read.solid),
                    grid.lines,
                ),
                region_pairs(
                    (&self.before.air_runs, &self.before.air),
                    (&read.air_runs, &read.air),
                    grid.lines + 2,
                ),
            )
        };
        let per_mm = (1.0 / grid.layer_mm).round() as usize;
        self.islands.layer(k, &read.solid, &solid_pairs, per_mm);
        self.pockets.layer(k, &read.air, &air_pairs, grid.layer_mm);
        let mut holes = Holes::find(
            (&read.runs, &read.solid),
            (&read.air_runs, &read.air),
            grid.lines,
        );
        if holes.any() {
            for (region, sealed) in holes.sealed.iter_mut().enumerate() {
                *sealed = !self.pockets.is_open(region);
            }
        } else {
            holes = Holes::default();
        }
        self.pull
            .push(pull::fast(&read.solid, &read.air, &holes, grid.pitch));
        self.most.push(pull::most(&read.solid, &holes));
        self.sealed.push(holes.sealed);
        self.before = read;
        self.k += 1;
    }

    /// What touches the ground: the sole.
    fn stand_on(&mut self, runs: &Runs) {
        let middle = (self.grid.low[0] + self.grid.high[0]) / 2.0;
        for line in 0..self.grid.lines {
            let y = (line as f64 + 0.5 - self.grid.lines as f64 / 2.0) * self.grid.pitch;
            let here = runs.line(line);
            if let (Some(first), Some(last)) = (here.first(), here.last()) {
                self.foot
                    .extend([[first[0] - middle, y], [last[1] - middle, y]]);
            }
        }
    }

    fn end(self) -> StackFigures {
        let centre = self.moment.map(|m| {
            if self.volume > 0.0 {
                m / self.volume
            } else {
                0.0
            }
        });
        let (cups, sealed_mm3) = self.pockets.end(self.k, self.grid.layer_mm);
        let mut figures = StackFigures {
            layers: self.k as u32,
            pitch_mm: self.grid.pitch,
            volume_mm3: self.volume,
            area_mm2: self.area,
            pull: self.pull,
            peak: (0, 0.0),
            overhang_mm2: self.overhang,
            islands: self.islands.end(self.k, self.grid.layer_mm),
            cups,
            sealed_mm3,
            tips_at_deg: tips_at_deg(&convex_hull(&self.foot), centre),
            centre_mm: centre,
            columns: 0,
            carried_from: 0,
            raised: None,
            unbalanced: self.unbalanced as f64 / self.crossed.max(1) as f64,
        };
        (figures.columns, figures.carried_from) =
            supporting_columns(&figures, &self.thin_columns, self.grid.layer_mm);
        figures
    }
}

/// Sections solved roughly at most in search of the hardest layer, and closely at the end.
const MOST_SOLVED: (usize, usize) = (96, 4);
/// A rough solution is off by less than this share.
const ROUGH: f64 = 0.04;

/// Layers that may pull hardest, and their pull, the hardest first. They are solved roughly, those
/// first that promise most by form and bound, until what was solved exceeds the bound of all that
/// is left. Layers of one area, form and bound are one section going on. Nothing when the watch
/// says stop.
fn solve_roughly(
    slicer: &Slicer<'_>,
    figures: &StackFigures,
    Suction { most, sealed }: &Suction,
    watch: &dyn Watch,
) -> Option<Vec<(usize, f64)>> {
    let fast = &figures.pull;
    let area = &figures.area_mm2;
    let near = |a: f64, b: f64| (a - b).abs() <= 0.01 * a.max(b);
    let alike = |a: usize, b: usize| {
        near(fast[a], fast[b])
            && near(area[a], area[b])
            && near(most[a], most[b])
            && sealed[a] == sealed[b]
    };
    let promise = |k: usize| fast[k].min(most[k]) + most[k];
    let from = figures.carried_from as usize;
    let mut order: Vec<usize> = (from..most.len()).filter(|k| most[*k] > 0.0).collect();
    order.sort_by(|a, b| promise(*b).total_cmp(&promise(*a)).then(a.cmp(b)));
    let mut solved: Vec<(usize, f64)> = Vec::new();
    let mut highest = 0.0_f64;
    for k in order {
        let hopeless = most[k] <= highest * (1.0 - ROUGH);
        if hopeless || solved.iter().any(|s| alike(s.0, k)) {
            continue;
        }
        if watch.stopped() {
            return None;
        }
        let runs = slicer.cut_layer(k);
        let solve = |closeness| pull::solve(&runs, &slicer.grid, &sealed[k], closeness);
        let mut pull = solve(Closeness::Rough);
        if pull > highest && has_vented_hole(&sealed[k]) {
            pull = solve(Closeness::Close);
        }
        highest = highest.max(pull);
        solved.push((k, pull));
        if solved.len() >= MOST_SOLVED.0 {
            break;
        }
    }
    solved.sort_by(|a, b| b.1.total_cmp(&a.1).then(a.0.cmp(&b.0)));
    Some(solved)
}

/// Whether resin reaches a hole of a layer. Solved roughly, a small one lies between the nodes, and its
/// layer seems to pull harder than those that do.
fn has_vented_hole(sealed: &[bool]) -> bool {
    // The air around a layer is not sealed either.
    sealed.iter().filter(|sealed| !**sealed).count() > 1
}

/// Solves the hardest layers closely: the peak, and no layer above it.
fn set_peak(
    slicer: &Slicer<'_>,
    figures: &mut StackFigures,
    Suction { sealed, .. }: &Suction,
    solved: Vec<(usize, f64)>,
) {
    let highest = solved.first().map_or(0.0, |s| s.1);
    let close: Vec<(usize, f64)> = solved
        .iter()
        .take(MOST_SOLVED.1)
        .filter(|s| s.1 >= highest * (1.0 - ROUGH))
        .map(|(k, _)| {
            let runs = slicer.cut_layer(*k);
            (
                *k,
                pull::solve(&runs, &slicer.grid, &sealed[*k], Closeness::Close),
            )
        })
        .collect();
    let hardest = |a: (usize, f64), b: (usize, f64)| if b.1 > a.1 { b } else { a };
    figures.peak = close.iter().copied().reduce(hardest).unwrap_or((0, 0.0));
    for (k, pull) in solved.into_iter().chain(close) {
        figures.pull[k] = pull;
    }
    for pull in &mut figures.pull {
        *pull = pull.min(figures.peak.1);
    }
}

/// Area of a layer more than a layer height sideways of the one before.
fn overhang(before: &Runs, here: &Runs, grid: &Grid) -> f64 {
    let mut total = 0.0;
    free_stretches(before, here, grid, |_, from, to| {
        total += (to - from) * grid.pitch;
    });
    total
}

/// Calls for every stretch of a layer that lies more than a layer height sideways of the one
/// before, along and across the scan lines: line, from, to.
pub(super) fn free_stretches(
    before: &Runs,
    here: &Runs,
    grid: &Grid,
    mut free: impl FnMut(usize, f64, f64),
) {
    let reach = grid.layer_mm;
    let mut under: Vec<[f64; 2]> = Vec::new();
    for line in 0..grid.lines {
        let mine = here.line(line);
        if mine.is_empty() {
            continue;
        }
        under.clear();
        for near in line.saturating_sub(1)..(line + 2).min(grid.lines) {
            under.extend(
                before
                    .line(near)
                    .iter()
                    .map(|r| [r[0] - reach, r[1] + reach]),
            );
        }
        under.sort_unstable_by(|a, b| a[0].total_cmp(&b[0]));
        for run in mine {
            let mut from = run[0];
            for below in under.iter().filter(|b| b[1] > run[0] && b[0] < run[1]) {
                if below[0] > from {
                    free(line, from, below[0]);
                }
                from = from.max(below[1]);
            }
            if run[1] > from {
                free(line, from, run[1]);
            }
        }
    }
}

/// How far a body leans before its centre of mass leaves the hull of what it stands on.
fn tips_at_deg(foot: &[Point], centre: [f64; 3]) -> f64 {
    if foot.len() < 3 || centre[2] <= 0.0 {
        return 0.0;
    }
    let nearest = (0..foot.len())
        .map(|i| {
            let (a, b) = (foot[i], foot[(i + 1) % foot.len()]);
            let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
            (dx * (centre[1] - a[1]) - dy * (centre[0] - a[0])) / dx.hypot(dy)
        })
        .fold(f64::INFINITY, f64::min);
    (nearest / centre[2]).atan().to_degrees().max(0.0)
}

#[cfg(test)]
#[path = "stack_tests.rs"]
mod tests;
