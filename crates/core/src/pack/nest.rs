//! One plate being filled: a lattice that finds places quickly, exact outlines that decide.
//!
//! The lattice knows for every turn of every item at which cells its lower left corner may stand,
//! from whole rows of bits at once. It is a little too generous; the outlines, in f64, judge each
//! place it offers, and slide what they accept down and to the left until it touches.

use rustc_hash::FxHashMap;

use crate::geometry::{Outline, Point, bounds};

const WORD: usize = 64;
/// Levels of widened rows: a run of cells is two of them overlapping.
const LEVELS: usize = 9;

/// A block of bits, row by row from the lowest y.
#[derive(Debug, Clone)]
struct Rows {
    words: usize,
    data: Vec<u64>,
}

impl Rows {
    fn new(columns: usize, rows: usize) -> Self {
        let words = columns.div_ceil(WORD) + 1;
        Self {
            words,
            data: vec![0; words * rows],
        }
    }

    fn row(&self, row: usize) -> &[u64] {
        &self.data[row * self.words..(row + 1) * self.words]
    }

    fn row_mut(&mut self, row: usize) -> &mut [u64] {
        &mut self.data[row * self.words..(row + 1) * self.words]
    }

    /// Sets the bits of a run that is not empty.
    fn set_run(&mut self, row: usize, from: usize, to: usize) {
        let (first, last) = (from / WORD, (to - 1) / WORD);
        let row = row * self.words;
        for word in first..=last {
            let low = if word == first { from % WORD } else { 0 };
            let high = if word == last {
                (to - 1) % WORD
            } else {
                WORD - 1
            };
            self.data[row + word] |= (u64::MAX >> (WORD - 1 - high)) & (u64::MAX << low);
        }
    }
}

/// Moves bits of a row toward the start: bit i of the result is bit i + by.
fn or_shifted(into: &mut [u64], row: &[u64], by: usize) {
    let (skip, shift) = (by / WORD, by % WORD);
    if skip >= row.len() {
        return;
    }
    let row = &row[skip..];
    if shift == 0 {
        for (a, b) in into.iter_mut().zip(row) {
            *a |= b;
        }
        return;
    }
    let last = row.len() - 1;
    for ((to, low), high) in into.iter_mut().zip(row).zip(&row[1..]) {
        *to |= low >> shift | high << (WORD - shift);
    }
    if last < into.len() {
        into[last] |= row[last] >> shift;
    }
}

/// One turn of an item.
#[derive(Debug, Clone)]
pub(super) struct Turn {
    /// Degrees.
    pub(super) rotation_deg: f64,
    /// Corners about the lower left corner of its box.
    corners: Vec<Point>,
    /// Width and depth of its box, mm.
    pub(super) size: Point,
    /// The item's own origin from that corner, mm.
    pub(super) origin: Point,
    /// Cells it covers: row, from, to.
    runs: Vec<(u16, u16, u16)>,
}

impl Turn {
    fn new(outline: &Outline, rotation_deg: f64, cell: f64, swapped: bool) -> Self {
        let placed = outline.placed(rotation_deg, [0.0, 0.0]);
        let swap = |p: Point| if swapped { [p[1], p[0]] } else { p };
        let (low, high) = placed.bounds();
        let (low, high) = (swap(low), swap(high));
        let corners: Vec<Point> = placed
            .corners()
            .iter()
            .map(|c| swap(*c))
            .map(|c| [c[0] - low[0], c[1] - low[1]])
            .collect();
        let size = [high[0] - low[0], high[1] - low[1]];
        let rows = (size[1] / cell).floor() as usize + 1;
        let columns = (size[0] / cell).floor() as usize + 1;
        let mut runs = Vec::new();
        for row in 0..rows {
            let y = (row as f64 + 0.5) * cell;
            for [a, b] in spans(&corners, y) {
                // Cells whose middle lies inside.
                let from = (a / cell - 0.5).ceil().max(0.0) as u16;
                let to = (b / cell + 0.5).floor().min(columns as f64) as u16;
                if from < to {
                    runs.push((row as u16, from, to));
                }
            }
        }
        if runs.is_empty() {
            runs.push((0, 0, 1));
        }
        // The widest row first, then rows far from those before: they rule out most.
        runs.sort_by_key(|(row, from, to)| (u16::MAX - (to - from), *row));
        let widest = runs[0].0;
        runs.sort_by_key(|(row, ..)| (*row != widest, row.reverse_bits(), *row));
        Self {
            rotation_deg,
            corners,
            size,
            origin: [-low[0], -low[1]],
            runs,
        }
    }
}

/// Where a line of height y is inside a polygon.
pub(super) fn spans(corners: &[Point], y: f64) -> Vec<[f64; 2]> {
    let mut xs: Vec<f64> = (0..corners.len())
        .filter_map(|i| {
            let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
            ((a[1] <= y) != (b[1] <= y)).then(|| a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
        })
        .collect();
    xs.sort_by(f64::total_cmp);
    xs.chunks_exact(2).map(|p| [p[0], p[1]]).collect()
}

/// The turn in degrees that lays the longest edge along the plate, and what share of its box the
/// outline then fills: all of it when it is a rectangle.
pub(super) fn boxed(outline: &Outline) -> (f64, f64) {
    let edges = outline.edges().map(|(a, b)| [b[0] - a[0], b[1] - a[1]]);
    let length = |d: &Point| d[0].hypot(d[1]);
    // The first of several as long.
    let longest = edges.reduce(|a, b| if length(&b) > length(&a) { b } else { a });
    let angle = longest.map_or(0.0, |d| -d[1].atan2(d[0]).to_degrees());
    let (low, high) = outline.placed(angle, [0.0, 0.0]).bounds();
    let around = (high[0] - low[0]) * (high[1] - low[1]);
    (angle, outline.area_mm2() / around)
}

/// All turns of an item worth trying, for a plate seen as it is or with its sides swapped.
pub(super) fn turns(outline: &Outline, cell: f64, many: usize, swapped: bool) -> Vec<Turn> {
    let mut angles: Vec<f64> = (0..many).map(|i| i as f64 * 360.0 / many as f64).collect();
    // Its longest edge laid along the plate.
    let (angle, share) = boxed(outline);
    for quarter in 0..4 {
        let angle = (angle + f64::from(quarter) * 90.0).rem_euclid(360.0);
        let near = |a: &f64| {
            let d = (a - angle).rem_euclid(360.0);
            d.min(360.0 - d) < 0.5
        };
        if !angles.iter().any(near) {
            angles.push(angle);
        }
    }
    // A rectangle askew only wastes room.
    if share > 0.999 {
        angles = vec![angle.rem_euclid(360.0), (angle + 90.0).rem_euclid(360.0)];
    }
    let mut kept: Vec<Turn> = Vec::new();
    for angle in angles {
        let turn = Turn::new(outline, angle, cell, swapped);
        // A disc or a square looks alike in several turns.
        let same = |k: &Turn| {
            (0..2).all(|i| (k.size[i] - turn.size[i]).abs() < 0.01)
                && k.runs == turn.runs
                && k.corners.len() == turn.corners.len()
        };
        if !kept.iter().any(same) {
            kept.push(turn);
        }
    }
    kept
}

/// A copy that stands.
#[derive(Debug, Clone)]
struct Proof {
    corners: Vec<Point>,
    low: Point,
    high: Point,
}

/// Where a copy was put.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Put {
    pub(super) item: usize,
    pub(super) at_mm: Point,
    pub(super) rotation_deg: f64,
}

/// One plate being filled.
#[derive(Debug, Clone)]
pub(super) struct Nest {
    cell: f64,
    clearance: f64,
    /// Its sides are swapped: it is filled along its other side.
    pub(super) swapped: bool,
    /// Inside the margin, mm.
    width: f64,
    depth: f64,
    columns: usize,
    rows: usize,
    /// Cells that are taken, widened by 1, 2, 4, … toward the start.
    taken: Vec<Rows>,
    standing: Vec<Proof>,
    /// Of every item and turn looked at: rows without a place. Places only ever go.
    dead: FxHashMap<(usize, usize), Vec<u64>>,
    pub(super) puts: Vec<Put>,
}

/// What may be missing of the clearance, mm: far below what anybody can measure.
const SLACK_MM: f64 = 1e-6;

/// What keeps copies apart that need no clearance, mm.
const HAIR_MM: f64 = 1e-9;

/// How far a copy may slide, in cells, before its neighbours are looked for again.
const SEEN_CELLS: f64 = 14.0;

impl Nest {
    pub(super) fn new(size: Point, clearance: f64, cell: f64, swapped: bool) -> Self {
        let [width, depth] = if swapped { [size[1], size[0]] } else { size };
        let along = |length: f64| (length / cell).floor().max(0.0) as usize + 1;
        let (columns, rows) = (along(width), along(depth));
        Self {
            cell,
            clearance,
            swapped,
            width,
            depth,
            columns,
            rows,
            taken: vec![Rows::new(columns, rows); LEVELS],
            standing: Vec::new(),
            dead: FxHashMap::default(),
            puts: Vec::new(),
        }
    }

    /// Forgets what was found out about rows without places: they are found again.
    pub(super) fn forget(&mut self) {
        self.dead = FxHashMap::default();
    }

    /// Puts a copy where it reaches least far up, in any of its turns; false where there is no
    /// place.
    pub(super) fn insert(&mut self, item: usize, turns: &[Turn]) -> bool {
        let mut offers: Vec<(f64, f64, usize, Point)> = Vec::new();
        let mut free = vec![0_u64; self.taken[0].words];
        let rows = self.rows.div_ceil(WORD);
        for (index, turn) in turns.iter().enumerate() {
            if turn.size[0] > self.width + SLACK_MM || turn.size[1] > self.depth + SLACK_MM {
                continue;
            }
            let mut dead = self
                .dead
                .remove(&(item, index))
                .unwrap_or_else(|| vec![0; rows]);
            self.offer(turn, &mut free, &mut dead, |at| {
                offers.push((at[1] + turn.size[1], at[0], index, at));
            });
            self.dead.insert((item, index), dead);
        }
        offers.sort_by(|a, b| {
            a.0.total_cmp(&b.0)
                .then(a.1.total_cmp(&b.1))
                .then(a.2.cmp(&b.2))
        });
        for (_, _, index, at) in offers {
            if let Some(at) = self.settle(&turns[index], at) {
                self.stand(item, &turns[index], at);
                return true;
            }
        }
        false
    }

    /// Puts a copy exactly where it stood, if it is inside and free there.
    pub(super) fn restore(
        &mut self,
        item: usize,
        outline: &Outline,
        at_mm: Point,
        rotation_deg: f64,
    ) -> bool {
        let turn = Turn::new(outline, rotation_deg, self.cell, self.swapped);
        let [x, y] = at_mm;
        let at = if self.swapped { [y, x] } else { [x, y] };
        let low = [at[0] - turn.origin[0], at[1] - turn.origin[1]];
        let inside = low[0] >= -SLACK_MM
            && low[1] >= -SLACK_MM
            && low[0] + turn.size[0] <= self.width + SLACK_MM
            && low[1] + turn.size[1] <= self.depth + SLACK_MM;
        let near = self.near(low, turn.size);
        if !inside || !self.is_free(&turn, low, &near) {
            return false;
        }
        self.stand(item, &turn, low);
        // Exactly as it was, without what rounding would add at each restoring.
        if let Some(put) = self.puts.last_mut() {
            put.at_mm = at_mm;
        }
        true
    }

    /// Calls for the lowest places of a turn that the lattice takes for free, one to a row.
    fn offer(&self, turn: &Turn, free: &mut [u64], dead: &mut [u64], mut found: impl FnMut(Point)) {
        const MOST: usize = 3;
        let last_column = ((self.width - turn.size[0]) / self.cell).floor().max(0.0) as usize;
        let last_row = ((self.depth - turn.size[1]) / self.cell).floor().max(0.0) as usize;
        let mut told = 0;
        // Bits beyond the last column do not count.
        let words = last_column / WORD + 1;
        let beyond = u64::MAX << (last_column % WORD) << 1;
        let free = &mut free[..words];
        for row in 0..=last_row {
            if dead[row / WORD] >> (row % WORD) & 1 == 1 {
                continue;
            }
            free.fill(0);
            free[words - 1] = beyond;
            for (r, from, to) in &turn.runs {
                let at = row + *r as usize;
                if at >= self.rows {
                    continue;
                }
                let length = (*to - *from) as usize;
                let level = (usize::BITS - 1 - length.leading_zeros()) as usize;
                let level = level.min(LEVELS - 1);
                let reach = 1 << level;
                let widened = self.taken[level].row(at);
                let mut done = 0;
                while done < length {
                    let start = done.min(length - reach.min(length));
                    or_shifted(free, widened, *from as usize + start);
                    done = start + reach;
                }
                if free.iter().all(|w| *w == u64::MAX) {
                    break;
                }
            }
            let Some(column) = first_zero(free, last_column) else {
                dead[row / WORD] |= 1 << (row % WORD);
                continue;
            };
            found([column as f64 * self.cell, row as f64 * self.cell]);
            told += 1;
            if told >= MOST {
                return;
            }
        }
    }

    /// The exact place near one that the lattice offers, slid until it touches; nothing when it is
    /// not free after all.
    fn settle(&self, turn: &Turn, at: Point) -> Option<Point> {
        let c = self.cell;
        let mut near = self.near(at, turn.size);
        let mut looked_at = at;
        let tries = [
            [0.0, 0.0],
            [c / 2.0, 0.0],
            [0.0, c / 2.0],
            [c / 2.0, c / 2.0],
            [c, 0.0],
            [0.0, c],
            [c, c / 2.0],
            [c / 2.0, c],
            [c, c],
        ];
        let clamp = |p: Point| {
            [
                p[0].min(self.width - turn.size[0]).max(0.0),
                p[1].min(self.depth - turn.size[1]).max(0.0),
            ]
        };
        let mut at = tries
            .iter()
            .map(|t| clamp([at[0] + t[0], at[1] + t[1]]))
            .find(|p| self.is_free(turn, *p, &near))?;
        for _ in 0..2 {
            for axis in [1, 0] {
                let mut step = 2.0 * c;
                while step > 0.008 {
                    let mut to = at;
                    to[axis] = (to[axis] - step).max(0.0);
                    // Far from where the neighbours were looked for, there are others.
                    if (0..2).any(|k| (to[k] - looked_at[k]).abs() > SEEN_CELLS * c) {
                        near = self.near(at, turn.size);
                        looked_at = at;
                    }
                    if to[axis] < at[axis] && self.is_free(turn, to, &near) {
                        at = to;
                    } else {
                        step /= 2.0;
                    }
                }
            }
        }
        Some(at)
    }

    /// Copies whose boxes come near a box, wherever it slides within [`SEEN_CELLS`].
    fn near(&self, at: Point, size: Point) -> Vec<usize> {
        let grow = self.clearance + SLACK_MM + SEEN_CELLS * self.cell;
        let (low, high) = (at, [at[0] + size[0], at[1] + size[1]]);
        (0..self.standing.len())
            .filter(|i| {
                let s = &self.standing[*i];
                (0..2).all(|k| s.low[k] < high[k] + grow && low[k] < s.high[k] + grow)
            })
            .collect()
    }

    fn is_free(&self, turn: &Turn, at: Point, near: &[usize]) -> bool {
        let high = [at[0] + turn.size[0], at[1] + turn.size[1]];
        let c = self.clearance;
        near.iter().all(|i| {
            let s = &self.standing[*i];
            // Where none is asked for, boxes may touch, but not share a hair.
            let gap = (c - SLACK_MM).max(HAIR_MM);
            let apart = (0..2).any(|k| s.low[k] >= high[k] + gap || at[k] >= s.high[k] + gap);
            let (mine, other) = ([0.0, 0.0], (s.low, s.high));
            apart
                || clear_in(
                    (&turn.corners, (mine, turn.size)),
                    at,
                    (&s.corners, other),
                    (c - SLACK_MM).max(SLACK_MM),
                )
        })
    }

    fn stand(&mut self, item: usize, turn: &Turn, at: Point) {
        let corners: Vec<Point> = turn
            .corners
            .iter()
            .map(|p| [p[0] + at[0], p[1] + at[1]])
            .collect();
        let high = [at[0] + turn.size[0], at[1] + turn.size[1]];
        self.block(&corners, at, high);
        self.standing.push(Proof {
            corners,
            low: at,
            high,
        });
        self.puts.push(Put {
            item,
            at_mm: {
                let [x, y] = [at[0] + turn.origin[0], at[1] + turn.origin[1]];
                if self.swapped { [y, x] } else { [x, y] }
            },
            rotation_deg: turn.rotation_deg,
        });
    }

    /// Takes the cells that nothing else may cover: a little less than the clearance around.
    fn block(&mut self, corners: &[Point], low: Point, high: Point) {
        // Cells are covered where their middles are: up to half a cell of both is not seen.
        let reach = (self.clearance - 0.25 * self.cell).max(0.0);
        let cell = self.cell;
        let rows = |y: f64| (y / cell - 0.5).ceil().max(0.0) as usize;
        let (first, last) = (rows(low[1] - reach), rows(high[1] + reach).min(self.rows));
        let middle = |row: usize| (row as f64 + 0.5) * cell;
        let columns = self.columns;
        let mut take = |row: usize, [a, b]: [f64; 2]| {
            let from = (a / cell - 0.5).ceil().max(0.0) as usize;
            let to = ((b / cell + 0.5).floor().max(0.0) as usize).min(columns);
            if from < to {
                self.taken[0].set_run(row, from, to);
            }
        };
        for row in first..last {
            for span in spans(corners, middle(row)) {
                take(row, span);
            }
        }
        // Every edge on the rows it reaches, a row more on both sides for rounding.
        for i in (0..corners.len()).filter(|_| reach > 0.0) {
            let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
            let from = rows(a[1].min(b[1]) - reach).saturating_sub(1).max(first);
            let to = (rows(a[1].max(b[1]) + reach) + 1).min(last);
            for row in from..to {
                if let Some(span) = grown_edge(a, b, middle(row), reach) {
                    take(row, span);
                }
            }
        }
        for row in first..last {
            for level in 1..LEVELS {
                let (lower, upper) = self.taken.split_at_mut(level);
                let (before, here) = (lower[level - 1].row(row), upper[0].row_mut(row));
                here.copy_from_slice(before);
                or_shifted(here, before, 1 << (level - 1));
            }
        }
    }
}

/// Stretches of a line within a distance of a polygon's edges.
pub(super) fn grown_spans(corners: &[Point], y: f64, reach: f64, spans: &mut Vec<[f64; 2]>) {
    for i in 0..corners.len() {
        let (a, b) = (corners[i], corners[(i + 1) % corners.len()]);
        spans.extend(grown_edge(a, b, y, reach));
    }
}

/// The stretch of a line within a distance of an edge.
fn grown_edge(a: Point, b: Point, y: f64, reach: f64) -> Option<[f64; 2]> {
    if y < a[1].min(b[1]) - reach || y > a[1].max(b[1]) + reach {
        return None;
    }
    let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
    for p in [a, b] {
        let half = reach * reach - (y - p[1]).powi(2);
        if half > 0.0 {
            low = low.min(p[0] - half.sqrt());
            high = high.max(p[0] + half.sqrt());
        }
    }
    // The band along the edge itself.
    let d = [b[0] - a[0], b[1] - a[1]];
    let length = d[0].hypot(d[1]);
    if length > 1e-12 {
        let n = [-d[1] / length * reach, d[0] / length * reach];
        let band = [
            [a[0] + n[0], a[1] + n[1]],
            [b[0] + n[0], b[1] + n[1]],
            [b[0] - n[0], b[1] - n[1]],
            [a[0] - n[0], a[1] - n[1]],
        ];
        for k in 0..4 {
            let (p, q) = (band[k], band[(k + 1) % 4]);
            if (p[1] <= y) != (q[1] <= y) {
                let x = p[0] + (y - p[1]) / (q[1] - p[1]) * (q[0] - p[0]);
                low = low.min(x);
                high = high.max(x);
            }
        }
    }
    (low < high).then_some([low, high])
}

fn first_zero(words: &[u64], last: usize) -> Option<usize> {
    for (index, word) in words.iter().enumerate() {
        if *word != u64::MAX {
            let column = index * WORD + (!word).trailing_zeros() as usize;
            return (column <= last).then_some(column);
        }
    }
    None
}

/// Two polygons, the first shifted, are apart by a distance at least, above nothing.
pub(super) fn clear(a: &[Point], shift: Point, b: &[Point], least: f64) -> bool {
    clear_in((a, bounds(a)), shift, (b, bounds(b)), least)
}

/// A polygon with its box, lowest and highest.
type Boxed<'a> = (&'a [Point], (Point, Point));

fn clear_in((a, a_box): Boxed, shift: Point, (b, b_box): Boxed, least: f64) -> bool {
    let square = least * least;
    let shifted = |c: Point| [c[0] + shift[0], c[1] + shift[1]];
    // Only edges in the part that both boxes share can come near each other.
    let (b_low, b_high) = b_box;
    let (a_low, a_high) = (shifted(a_box.0), shifted(a_box.1));
    let shared = [
        [0, 1].map(|k| a_low[k].max(b_low[k]) - least),
        [0, 1].map(|k| a_high[k].min(b_high[k]) + least),
    ];
    let reaches = |p: Point, q: Point| {
        (0..2).all(|k| p[k].max(q[k]) >= shared[0][k] && p[k].min(q[k]) <= shared[1][k])
    };
    let mut edges: Vec<[Point; 2]> = Vec::new();
    let mut r = b[b.len() - 1];
    for s in b {
        if reaches(r, *s) {
            edges.push([r, *s]);
        }
        r = *s;
    }
    let mut p = shifted(a[a.len() - 1]);
    for c in a {
        let q = shifted(*c);
        if reaches(p, q) {
            let low = [p[0].min(q[0]) - least, p[1].min(q[1]) - least];
            let high = [p[0].max(q[0]) + least, p[1].max(q[1]) + least];
            for [r, s] in edges.iter().copied() {
                let apart = r[0].max(s[0]) < low[0]
                    || r[0].min(s[0]) > high[0]
                    || r[1].max(s[1]) < low[1]
                    || r[1].min(s[1]) > high[1];
                if !apart && (cross_each_other(p, q, r, s) || too_near(p, q, r, s, square)) {
                    return false;
                }
            }
        }
        p = q;
    }
    // Edges apart: still one may lie in the other, where its box does.
    let within =
        |p: Point, low: Point, high: Point| (0..2).all(|k| low[k] <= p[k] && p[k] <= high[k]);
    let (first, other) = (shifted(a[0]), b[0]);
    !(within(first, b_low, b_high) && inside(first, b, [0.0, 0.0])
        || within(other, a_low, a_high) && inside(other, a, shift))
}

fn side(a: Point, b: Point, c: Point) -> f64 {
    (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
}

/// Two edges cross properly; touching is allowed, at no clearance.
fn cross_each_other(p: Point, q: Point, r: Point, s: Point) -> bool {
    const HAIR: f64 = 1e-9;
    let (a, b) = (side(r, s, p), side(r, s, q));
    let (c, d) = (side(p, q, r), side(p, q, s));
    ((a > HAIR && b < -HAIR) || (a < -HAIR && b > HAIR))
        && ((c > HAIR && d < -HAIR) || (c < -HAIR && d > HAIR))
}

fn too_near(p: Point, q: Point, r: Point, s: Point, square: f64) -> bool {
    let far = |x: Point, a: Point, b: Point| {
        let d = [b[0] - a[0], b[1] - a[1]];
        let along =
            ((x[0] - a[0]) * d[0] + (x[1] - a[1]) * d[1]) / (d[0] * d[0] + d[1] * d[1]).max(1e-18);
        let t = along.clamp(0.0, 1.0);
        (x[0] - a[0] - t * d[0]).powi(2) + (x[1] - a[1] - t * d[1]).powi(2) < square
    };
    far(p, r, s) || far(q, r, s) || far(r, p, q) || far(s, p, q)
}

/// A point lies well inside a shifted polygon.
fn inside(x: Point, polygon: &[Point], shift: Point) -> bool {
    let mut odd = false;
    let mut a = polygon[polygon.len() - 1];
    for b in polygon {
        let (p, q) = (
            [a[0] + shift[0], a[1] + shift[1]],
            [b[0] + shift[0], b[1] + shift[1]],
        );
        if (p[1] <= x[1]) != (q[1] <= x[1])
            && x[0] < p[0] + (x[1] - p[1]) / (q[1] - p[1]) * (q[0] - p[0])
        {
            odd = !odd;
        }
        a = *b;
    }
    odd
}
