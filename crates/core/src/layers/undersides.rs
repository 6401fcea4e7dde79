//! The underside of a solid: what can be seen of it from below.

use std::collections::BTreeMap;

use super::chords::{Chord, chords};
use crate::mesh::Solid;

/// Least share of a face's normal that looks down: steeper faces carry nothing on tips.
const DOWN: f64 = 0.5;

/// Places where lines from below, about a step apart, meet the solid first on a face that looks down, mm.
#[must_use]
pub fn undersides(solid: &Solid, step_mm: f64) -> Vec<[f64; 3]> {
    let all = chords(solid, 1.0, step_mm);
    let Some(upward) = all.into_iter().find(|f| f.axis == 2) else {
        return Vec::new();
    };
    let mut lowest: BTreeMap<[u32; 2], &Chord> = BTreeMap::new();
    for chord in &upward.chords {
        let first = lowest.entry(chord.line).or_insert(chord);
        if chord.ends[0] < first.ends[0] {
            *first = chord;
        }
    }
    let down = lowest.into_values().filter(|c| c.normals[0][2] < -DOWN);
    down.map(|c| upward.place(c, c.ends[0])).collect()
}
