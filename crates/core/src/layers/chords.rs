//! Straight lines through a solid along the three axes, and the stretches of them that lie inside.
//!
//! The ends of a stretch are exact; where the winding number is not zero there is solid, so shells
//! sunk into each other count once. Lines lie on a lattice whose rows are shifted against each
//! other, so that nothing that runs along an axis falls between all of them.

use rayon::prelude::*;

use crate::mesh::Solid;

/// Lines along all three axes together at most; their distance follows from it.
const MOST_LINES: f64 = 150_000.0;
/// Places where lines cross triangles at most, about.
const MOST_CROSSINGS: f64 = 4_000_000.0;
/// The finest distance of lines, mm.
const FINEST_MM: f64 = 0.1;
/// How far lines of a row are shifted at most, as a share of their distance.
const SHIFT: f64 = 0.6;

/// Triangles looked at by one task.
const AT_ONCE: u32 = 50_000;

/// A stretch of a line inside the solid.
#[derive(Debug, Clone, Copy)]
pub(super) struct Chord {
    /// Which line: column and row.
    pub(super) line: [u32; 2],
    /// Where the line is: along the two axes that follow its own.
    pub(super) at: [f64; 2],
    /// Its ends along its own axis, mm.
    pub(super) ends: [f64; 2],
    /// Normals of the surface at its ends, outward.
    pub(super) normals: [[f64; 3]; 2],
}

/// Stretches along one axis.
#[derive(Debug, Default)]
pub(super) struct Family {
    pub(super) axis: usize,
    pub(super) chords: Vec<Chord>,
}

impl Family {
    /// A place on a chord, by how far along it lies.
    pub(super) fn place(&self, chord: &Chord, along: f64) -> [f64; 3] {
        let mut at = [0.0; 3];
        at[self.axis] = along;
        at[(self.axis + 1) % 3] = chord.at[0];
        at[(self.axis + 2) % 3] = chord.at[1];
        at
    }
}

/// A crossing of a line and a triangle: line, how far along, which way, triangle.
type Crossing = (u32, f64, i8, u32);

/// The distance of lines through a box of a size whose triangles cover it so many times, mm.
pub(super) fn spacing(size: [f64; 3], covered: f64) -> f64 {
    let faces = size[0] * size[1] + size[1] * size[2] + size[2] * size[0];
    let lines = MOST_LINES.min(MOST_CROSSINGS / covered.max(1.0));
    (faces / lines).sqrt().max(FINEST_MM)
}

/// Shift of the lines of a row against those of the others, as a share of their distance.
fn shift(row: usize) -> f64 {
    // Steps of the golden ratio spread evenly whatever their number.
    ((row as f64 * 0.618_033_988_749_895).fract() - 0.5) * SHIFT
}

/// The lines along one axis.
struct Lines {
    axis: usize,
    /// Axes of columns and of rows.
    across: [usize; 2],
    low: [f64; 2],
    many: [usize; 2],
    step: f64,
}

impl Lines {
    fn new(solid: &Solid, scale: f64, axis: usize, step: f64) -> Self {
        let across = [(axis + 1) % 3, (axis + 2) % 3];
        let low = across.map(|k| solid.facts.low_mm[k] * scale);
        let size = solid.facts.size_mm();
        Self {
            axis,
            across,
            low,
            many: across.map(|k| (size[k] * scale / step).ceil().max(1.0) as usize),
            step,
        }
    }

    fn row_at(&self, row: usize) -> f64 {
        self.low[1] + (row as f64 + 0.5) * self.step
    }

    fn line_at(&self, row: usize, column: usize) -> f64 {
        self.low[0] + (column as f64 + 0.5 + shift(row)) * self.step
    }

    /// Where lines cross a triangle.
    fn cross(&self, face: &[[f64; 3]; 3], index: u32, crossings: &mut Vec<Crossing>) {
        let [u, v] = self.across;
        let heights = face.map(|c| c[v]);
        let lowest = heights[0].min(heights[1]).min(heights[2]);
        let highest = heights[0].max(heights[1]).max(heights[2]);
        let first = ((lowest - self.low[1]) / self.step - 0.5).ceil().max(0.0) as usize;
        for row in first..self.many[1] {
            let at = self.row_at(row);
            if at > highest {
                break;
            }
            let Some((from, to)) = section(face, at, [u, self.axis], v) else {
                continue;
            };
            let (left, right, way) = if from[0] <= to[0] {
                (from, to, 1)
            } else {
                (to, from, -1)
            };
            let slope = (right[1] - left[1]) / (right[0] - left[0]);
            let column = (left[0] - self.low[0]) / self.step - 0.5 - shift(row);
            // One earlier, for rounding.
            let column = (column.ceil().max(0.0) as usize).saturating_sub(1);
            for column in column..self.many[0] {
                let x = self.line_at(row, column);
                if x >= right[0] {
                    break;
                }
                if x >= left[0] {
                    let line = (row * self.many[0] + column) as u32;
                    crossings.push((line, left[1] + (x - left[0]) * slope, way, index));
                }
            }
        }
    }

    /// The stretches between crossings that lie inside.
    fn chords(&self, solid: &Solid, mut crossings: Vec<Crossing>) -> Family {
        crossings.sort_unstable_by(|a, b| {
            a.0.cmp(&b.0)
                .then(a.1.total_cmp(&b.1))
                .then(a.2.cmp(&b.2))
                .then(a.3.cmp(&b.3))
        });
        let mut chords: Vec<Chord> = Vec::new();
        for line in crossings.chunk_by(|a, b| a.0 == b.0) {
            // Open somewhere along it: what is inside is a guess.
            if line.iter().map(|c| i32::from(c.2)).sum::<i32>() != 0 {
                continue;
            }
            let number = line[0].0 as usize;
            let (row, column) = (number / self.many[0], number % self.many[0]);
            let at = [self.line_at(row, column), self.row_at(row)];
            let (mut winding, mut begin) = (0_i32, line[0]);
            for crossing in line {
                let before = winding;
                winding += i32::from(crossing.2);
                if before == 0 {
                    begin = *crossing;
                } else if winding == 0 {
                    let normals = [(begin.3, -1.0), (crossing.3, 1.0)].map(|(face, sign)| {
                        let n = normal(solid.face(face));
                        if n[self.axis] * sign < 0.0 {
                            n.map(|c| -c)
                        } else {
                            n
                        }
                    });
                    let ends = [begin.1, crossing.1];
                    let joins = |last: &&mut Chord| last.at == at && ends[0] - last.ends[1] < 1e-6;
                    match chords.last_mut().filter(joins) {
                        // Two shells that touch are one.
                        Some(last) => (last.ends[1], last.normals[1]) = (ends[1], normals[1]),
                        None => chords.push(Chord {
                            line: [column as u32, row as u32],
                            at,
                            ends,
                            normals,
                        }),
                    }
                }
            }
        }
        Family {
            axis: self.axis,
            chords,
        }
    }
}

/// All stretches along the three axes, on lines so far apart.
pub(super) fn chords(solid: &Solid, scale: f64, step: f64) -> Vec<Family> {
    let lines = [0, 1, 2].map(|axis| Lines::new(solid, scale, axis, step));
    let many = solid.faces().len() as u32;
    let some: Vec<[Vec<Crossing>; 3]> = (0..many.div_ceil(AT_ONCE))
        .into_par_iter()
        .map(|part| {
            let mut found: [Vec<Crossing>; 3] = Default::default();
            for index in part * AT_ONCE..many.min((part + 1) * AT_ONCE) {
                let face = solid.face(index).map(|c| c.map(|c| f64::from(c) * scale));
                for (lines, found) in lines.iter().zip(&mut found) {
                    lines.cross(&face, index, found);
                }
            }
            found
        })
        .collect();
    lines
        .par_iter()
        .enumerate()
        .map(|(k, lines)| {
            let all = some.iter().flat_map(|s| &s[k]).copied().collect();
            lines.chords(solid, all)
        })
        .collect()
}

/// The section of a triangle where its coordinate `v` has a value, in the two others, directed so
/// that the solid lies on the same side of all sections.
fn section(
    face: &[[f64; 3]; 3],
    at: f64,
    of: [usize; 2],
    v: usize,
) -> Option<([f64; 2], [f64; 2])> {
    // Always from the lower corner to the higher one: both triangles of an edge get one point.
    let on_edge = |lower: &[f64; 3], higher: &[f64; 3]| {
        let share = (at - lower[v]) / (higher[v] - lower[v]);
        of.map(|k| lower[k] + (higher[k] - lower[k]) * share)
    };
    let (mut up, mut down) = (None, None);
    for k in 0..3 {
        let (a, b) = (&face[k], &face[(k + 1) % 3]);
        match (a[v] < at, b[v] < at) {
            (true, false) => up = Some(on_edge(a, b)),
            (false, true) => down = Some(on_edge(b, a)),
            _ => {}
        }
    }
    up.zip(down)
}

fn normal(face: [[f32; 3]; 3]) -> [f64; 3] {
    let [a, b, c] = face.map(|c| glam::DVec3::from_array(c.map(f64::from)));
    (b - a).cross(c - a).normalize_or_zero().to_array()
}
