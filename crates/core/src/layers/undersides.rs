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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::Mesh;
    use crate::pose::Pose;

    /// The underside of a leaning brick of 20 × 30 mm is its sole: 600 mm² seen under 25° are 544, one place
    /// for every 4; its steep faces are none of it.
    #[test]
    fn a_leaning_brick_shows_its_sole() {
        let at = |i: usize| -> [f32; 3] {
            let size = [20.0, 30.0, 10.0];
            std::array::from_fn(|k| if i >> k & 1 == 0 { 0.0 } else { size[k] })
        };
        let sides = [
            [0, 2, 3, 1],
            [4, 5, 7, 6],
            [0, 1, 5, 4],
            [2, 6, 7, 3],
            [0, 4, 6, 2],
            [1, 3, 7, 5],
        ];
        let halves = sides
            .iter()
            .flat_map(|s| [[s[0], s[1], s[2]], [s[0], s[2], s[3]]]);
        let brick = Mesh::weld(halves.map(|t| t.map(at)));
        let leaning = Solid::new(&brick.posed(Pose::new(25.0, 90.0), 1.0));
        let found = undersides(&leaning, 2.0);
        let places = 600.0 * 25_f64.to_radians().cos() / 4.0;
        assert!(
            (found.len() as f64 / places - 1.0).abs() < 0.1,
            "{}",
            found.len()
        );
    }
}
