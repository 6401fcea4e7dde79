//! The outline a part casts on the build plate, simplified outward: it never cuts into the part.

use crate::geometry::{Outline, Point, convex_hull};
use crate::mesh::Mesh;
use crate::outward::simplify_outward;

/// Cells along the longer side of the grid on which the shadow is drawn.
const CELLS: f64 = 800.0;
/// The finest cell, mm: below the pixel of any screen nothing is gained.
const FINEST_MM: f64 = 0.05;
/// Corners are saved where the outline reaches no further outside by it, mm: a tenth of the usual
/// clearance.
const TOLERANCE_MM: f64 = 0.12;

/// The silhouette of a mesh seen from above, about the middle of its box.
///
/// Every cell of a grid that the part touches, holes filled, its edge simplified outward: so it
/// contains the part, and exceeds it by two cells and the tolerance at most. A part in several
/// pieces apart from each other gets their common convex hull.
///
/// # Units
/// mm.
///
/// # Shape
/// A simple outline; `None` when the shadow has no area.
#[must_use]
pub fn measure_silhouette(mesh: &Mesh) -> Option<Outline> {
    let (low, high) = mesh.bounds();
    let size = [high[0] - low[0], high[1] - low[1]];
    let cell = (size[0].max(size[1]) / CELLS).max(FINEST_MM);
    let middle = [(low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0];
    let mut grid = Grid::new(size, cell);
    for face in mesh.faces() {
        grid.shade(face.map(|c| [c[0] - middle[0], c[1] - middle[1]]));
    }
    grid.fill_holes();
    grid.part_corners();
    let traced = grid.trace();
    let whole = traced.len() == 1;
    let corners: Vec<Point> = traced.iter().flatten().map(|c| grid.at(*c)).collect();
    let hull = || Outline::try_new(convex_hull(&corners)).ok();
    if !whole {
        return hull();
    }
    // Where a notch would close over itself, less of it is smoothed.
    [1.0, 0.5, 0.25, 0.0]
        .into_iter()
        .filter_map(|share| {
            let corners = simplify_outward(&corners, TOLERANCE_MM.max(cell) * share);
            Outline::try_new(corners).ok()
        })
        .find(Outline::is_simple)
        .or_else(hull)
}

struct Grid {
    columns: usize,
    rows: usize,
    cell: f64,
    origin: Point,
    shaded: Vec<bool>,
}

impl Grid {
    fn new(size: Point, cell: f64) -> Self {
        // Air all round: tracing needs a cell of it.
        let along = |length: f64| (length / cell).ceil() as usize + 7;
        let (columns, rows) = (along(size[0]), along(size[1]));
        Self {
            columns,
            rows,
            cell,
            origin: [-(columns as f64) * cell / 2.0, -(rows as f64) * cell / 2.0],
            shaded: vec![false; columns * rows],
        }
    }

    fn at(&self, corner: (usize, usize)) -> Point {
        [
            self.origin[0] + corner.0 as f64 * self.cell,
            self.origin[1] + corner.1 as f64 * self.cell,
        ]
    }

    /// Marks every cell that the triangle touches (separating axes of square and triangle).
    fn shade(&mut self, triangle: [Point; 3]) {
        let t = triangle.map(|p| {
            [
                (p[0] - self.origin[0]) / self.cell,
                (p[1] - self.origin[1]) / self.cell,
            ]
        });
        let range = |k: usize, limit: usize| {
            let low = t.iter().map(|p| p[k]).fold(f64::INFINITY, f64::min);
            let high = t.iter().map(|p| p[k]).fold(f64::NEG_INFINITY, f64::max);
            (low.floor().max(0.0) as usize)..=(high.floor() as usize).min(limit - 1)
        };
        let axes: [Point; 3] = std::array::from_fn(|k| {
            let (a, b) = (t[k], t[(k + 1) % 3]);
            [a[1] - b[1], b[0] - a[0]]
        });
        let spans = axes.map(|axis| {
            let along = t.map(|p| p[0] * axis[0] + p[1] * axis[1]);
            (
                along[0].min(along[1]).min(along[2]),
                along[0].max(along[1]).max(along[2]),
            )
        });
        for row in range(1, self.rows) {
            for column in range(0, self.columns) {
                let middle = [column as f64 + 0.5, row as f64 + 0.5];
                let apart = axes.iter().zip(&spans).any(|(axis, (from, to))| {
                    let at = middle[0] * axis[0] + middle[1] * axis[1];
                    let half = (axis[0].abs() + axis[1].abs()) / 2.0;
                    at + half < *from || at - half > *to
                });
                if !apart {
                    self.shaded[row * self.columns + column] = true;
                }
            }
        }
    }

    /// Everything the air outside cannot reach belongs to the silhouette.
    fn fill_holes(&mut self) {
        let mut air = vec![false; self.shaded.len()];
        let mut open = vec![0];
        air[0] = true;
        while let Some(i) = open.pop() {
            let (row, column) = (i / self.columns, i % self.columns);
            let mut visit = |i: usize| {
                if !self.shaded[i] && !air[i] {
                    air[i] = true;
                    open.push(i);
                }
            };
            if column > 0 {
                visit(i - 1);
            }
            if column + 1 < self.columns {
                visit(i + 1);
            }
            if row > 0 {
                visit(i - self.columns);
            }
            if row + 1 < self.rows {
                visit(i + self.columns);
            }
        }
        for (shaded, air) in self.shaded.iter_mut().zip(air) {
            *shaded = !air;
        }
    }

    /// Where two cells touch only at a corner a third is added, so that the edge never meets
    /// itself.
    fn part_corners(&mut self) {
        loop {
            let mut changed = false;
            for row in 0..self.rows - 1 {
                for column in 0..self.columns - 1 {
                    let i = row * self.columns + column;
                    let four =
                        [i, i + 1, i + self.columns, i + self.columns + 1].map(|i| self.shaded[i]);
                    if four == [true, false, false, true] {
                        self.shaded[i + 1] = true;
                        changed = true;
                    } else if four == [false, true, true, false] {
                        self.shaded[i] = true;
                        changed = true;
                    }
                }
            }
            if !changed {
                return;
            }
        }
    }

    fn is_shaded(&self, column: isize, row: isize) -> bool {
        column >= 0
            && row >= 0
            && (column as usize) < self.columns
            && (row as usize) < self.rows
            && self.shaded[row as usize * self.columns + column as usize]
    }

    /// The edge of every piece, as corners of the grid, the piece on the left.
    fn trace(&self) -> Vec<Vec<(usize, usize)>> {
        let mut started = vec![false; self.shaded.len()];
        let mut loops = Vec::new();
        for row in 0..self.rows as isize {
            for column in 0..self.columns as isize {
                let bottom_edge = self.is_shaded(column, row) && !self.is_shaded(column, row - 1);
                if bottom_edge && !started[row as usize * self.columns + column as usize] {
                    loops.push(self.follow((column, row), &mut started));
                }
            }
        }
        loops
    }

    fn follow(&self, start: (isize, isize), started: &mut [bool]) -> Vec<(usize, usize)> {
        // Right, up, left, down; the cell to the left of a step from corner (x, y).
        const STEPS: [(isize, isize); 4] = [(1, 0), (0, 1), (-1, 0), (0, -1)];
        const LEFT: [(isize, isize); 4] = [(0, 0), (-1, 0), (-1, -1), (0, -1)];
        let mut corners = Vec::new();
        let (mut at, mut heading) = (start, 0);
        loop {
            if heading == 0 {
                started[at.1 as usize * self.columns + at.0 as usize] = true;
            }
            at = (at.0 + STEPS[heading].0, at.1 + STEPS[heading].1);
            let shaded = |h: usize| self.is_shaded(at.0 + LEFT[h].0, at.1 + LEFT[h].1);
            let (left, right) = ((heading + 1) % 4, (heading + 3) % 4);
            let turn = if !shaded(heading) {
                left
            } else if shaded(right) {
                right
            } else {
                heading
            };
            if turn != heading {
                corners.push((at.0 as usize, at.1 as usize));
                heading = turn;
            }
            if at == start && heading == 0 {
                return corners;
            }
        }
    }
}
