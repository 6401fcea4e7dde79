//! Plates and outlines as rows of bits, one bit a cell, for fast and safe collision tests.
//!
//! An outline marks every cell it touches; a placed copy blocks every cell that comes nearer to
//! it than the clearance. Two copies on the lattice whose cells do not meet are therefore at
//! least the clearance apart, and usually up to a cell more.

use crate::geometry::{Outline, Point};

const WORD: usize = 64;

/// A block of bits, row by row from the lowest y.
#[derive(Debug, Clone)]
pub(super) struct Bits {
    pub(super) columns: usize,
    pub(super) rows: usize,
    words: usize,
    data: Vec<u64>,
}

impl Bits {
    pub(super) fn new(columns: usize, rows: usize) -> Self {
        let words = columns.div_ceil(WORD) + 1;
        Self {
            columns,
            rows,
            words,
            data: vec![0; words * rows],
        }
    }

    fn set(&mut self, column: usize, row: usize) {
        self.data[row * self.words + column / WORD] |= 1 << (column % WORD);
    }

    fn row(&self, row: usize) -> &[u64] {
        &self.data[row * self.words..(row + 1) * self.words]
    }

    /// True when `mask`, shifted by whole cells, meets a set bit. The mask must lie inside.
    pub(super) fn meets(&self, mask: &Bits, column: usize, row: usize) -> bool {
        let (skip, shift) = (column / WORD, column % WORD);
        (0..mask.rows).any(|r| {
            let own = self.row(row + r);
            mask.row(r).iter().enumerate().any(|(w, bits)| {
                *bits != 0 && {
                    let low = own.get(skip + w).map_or(0, |word| word >> shift);
                    let high = if shift == 0 {
                        0
                    } else {
                        own.get(skip + w + 1)
                            .map_or(0, |word| word << (WORD - shift))
                    };
                    (low | high) & bits != 0
                }
            })
        })
    }

    /// Sets every bit of `mask`, shifted by whole cells; what falls outside is cut off.
    pub(super) fn stamp(&mut self, mask: &Bits, column: isize, row: isize) {
        for r in 0..mask.rows {
            let to = row + r as isize;
            if to < 0 || to as usize >= self.rows {
                continue;
            }
            for c in 0..mask.columns {
                let at = column + c as isize;
                let marked = mask.data[r * mask.words + c / WORD] >> (c % WORD) & 1 == 1;
                if marked && at >= 0 && (at as usize) < self.columns {
                    self.set(at as usize, to as usize);
                }
            }
        }
    }
}

/// An outline in one turn, as cells.
#[derive(Debug, Clone)]
pub(super) struct Stamp {
    /// Cells the outline touches.
    pub(super) body: Bits,
    /// Cells nearer than the clearance; reaches `rim` cells further on every side.
    pub(super) block: Bits,
    /// Cells by which `block` is larger than `body` on each side.
    pub(super) rim: usize,
    /// The outline's origin, from the lower left corner of `body`, mm.
    pub(super) origin_mm: Point,
}

impl Stamp {
    pub(super) fn new(outline: &Outline, cell_mm: f64, clearance_mm: f64) -> Self {
        let (low, high) = outline.bounds();
        // The outline's lower left corner lies on a corner of the lattice.
        let count = |k: usize| (((high[k] - low[k]) / cell_mm).ceil() as usize).max(1);
        let (columns, rows) = (count(0), count(1));
        let rim = (clearance_mm / cell_mm).ceil() as usize + 1;
        let mut body = Bits::new(columns, rows);
        let mut block = Bits::new(columns + 2 * rim, rows + 2 * rim);
        let edges: Vec<(Point, Point)> = outline.edges().collect();
        let half_diagonal = cell_mm * std::f64::consts::FRAC_1_SQRT_2;
        for row in 0..block.rows {
            let y = low[1] + (row as f64 - rim as f64 + 0.5) * cell_mm;
            let crossings = crossings(&edges, y);
            for column in 0..block.columns {
                let x = low[0] + (column as f64 - rim as f64 + 0.5) * cell_mm;
                let inside = crossings.iter().filter(|c| **c < x).count() % 2 == 1;
                let distance = if inside {
                    0.0
                } else {
                    distance(&edges, [x, y])
                };
                if distance <= clearance_mm + half_diagonal {
                    block.set(column, row);
                }
                let in_body =
                    (rim..rim + columns).contains(&column) && (rim..rim + rows).contains(&row);
                if in_body && distance <= half_diagonal {
                    body.set(column - rim, row - rim);
                }
            }
        }
        Self {
            body,
            block,
            rim,
            origin_mm: [-low[0], -low[1]],
        }
    }
}

fn crossings(edges: &[(Point, Point)], y: f64) -> Vec<f64> {
    edges
        .iter()
        .filter(|(a, b)| (a[1] <= y) != (b[1] <= y))
        .map(|(a, b)| a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
        .collect()
}

fn distance(edges: &[(Point, Point)], p: Point) -> f64 {
    let square = edges.iter().map(|(a, b)| {
        let (dx, dy) = (b[0] - a[0], b[1] - a[1]);
        let along = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy).max(1e-18);
        let t = along.clamp(0.0, 1.0);
        (p[0] - a[0] - t * dx).powi(2) + (p[1] - a[1] - t * dy).powi(2)
    });
    square.fold(f64::INFINITY, f64::min).sqrt()
}
