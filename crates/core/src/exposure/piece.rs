//! A small piece to test an exposure with: features that must hold, gaps that must stay free, steps and
//! a shelf for the calliper.

use crate::learn::Verdict;
use crate::mesh::Mesh;
use crate::words::words;

words! {
    /// What a feature of the piece is.
    FeatureKind, "feature" {
        /// A round pin; too little light leaves it out.
        Pin = "pin",
        /// A thin wall; likewise.
        Wall = "wall",
        /// A gap between two blocks; too much light closes it.
        Gap = "gap",
        /// A step from the bottom upward, to measure.
        Step = "step",
        /// A shelf with nothing under it; light that goes too far makes it thicker.
        Shelf = "shelf",
    }
}

impl FeatureKind {
    /// The size that has to come out at least, mm (common practice, no source); nothing where it is
    /// measured instead.
    #[must_use]
    pub const fn must_mm(self) -> Option<f64> {
        match self {
            Self::Pin | Self::Wall => Some(0.4),
            Self::Gap => Some(0.2),
            Self::Step | Self::Shelf => None,
        }
    }
}

/// A feature where it stands.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Feature {
    /// What it is.
    pub kind: FeatureKind,
    /// Diameter, thickness, width or height, mm.
    pub size_mm: f64,
    /// Where its middle stands, mm.
    pub at_mm: [f64; 2],
}

/// The piece.
///
/// # Units
/// mm; its bottom lies on the plate, its corner at nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct TestPiece;

/// What came out of it: the smallest of each kind that did; nothing where none did.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CameOut {
    /// The thinnest pin that stands, mm.
    pub pin_mm: Option<f64>,
    /// The thinnest wall, mm.
    pub wall_mm: Option<f64>,
    /// The narrowest gap that is free, mm.
    pub gap_mm: Option<f64>,
}

/// Size of the slab everything stands on: thick enough to be above the bottom layers' light.
const SLAB: [f64; 3] = [44.0, 30.0, 1.5];
/// Height of pins, walls and blocks above it.
const TALL: f64 = 4.0;
/// Everything stands so deep in the slab.
const SUNK: f64 = 0.3;
/// How wide, and how long, a block beside a gap is.
const BLOCK: [f64; 2] = [2.0, 4.0];
const PINS_AND_WALLS: [f64; 6] = [0.2, 0.3, 0.4, 0.6, 0.8, 1.2];
const GAPS: [f64; 6] = [0.1, 0.15, 0.2, 0.3, 0.4, 0.6];
const STEPS: [f64; 4] = [2.0, 3.0, 4.0, 5.0];
/// How thick the shelf is drawn.
const SHELF: f64 = 1.0;
/// How far it stands out.
const SHELF_OUT: f64 = 4.0;
/// Sides of a pin.
const SIDES: usize = 24;

impl TestPiece {
    /// How thick its shelf is drawn.
    pub const SHELF_MM: f64 = SHELF;

    /// The sizes of a kind, smallest first.
    #[must_use]
    pub const fn sizes_mm(self, kind: FeatureKind) -> &'static [f64] {
        match kind {
            FeatureKind::Pin | FeatureKind::Wall => &PINS_AND_WALLS,
            FeatureKind::Gap => &GAPS,
            FeatureKind::Step => &STEPS,
            FeatureKind::Shelf => &[SHELF],
        }
    }

    /// Width, depth and height of all of it.
    #[must_use]
    pub const fn size_mm(self) -> [f64; 3] {
        [SLAB[0], SLAB[1], SLAB[2] + TALL]
    }

    /// Every feature, row by row, small ones first.
    #[must_use]
    pub fn features(self) -> Vec<Feature> {
        let rows = [
            (FeatureKind::Pin, 4.0, 7.0),
            (FeatureKind::Wall, 10.0, 7.0),
            (FeatureKind::Gap, 17.0, 7.0),
            (FeatureKind::Step, 25.0, 6.0),
            (FeatureKind::Shelf, 25.0, 1.0),
        ];
        let mut all = Vec::new();
        for (kind, y, apart) in rows {
            let first = if kind == FeatureKind::Shelf {
                36.0
            } else {
                4.5
            };
            for (x, size_mm) in self.sizes_mm(kind).iter().enumerate() {
                all.push(Feature {
                    kind,
                    size_mm: *size_mm,
                    at_mm: [first + x as f64 * apart, y],
                });
            }
        }
        all
    }

    /// Its mesh: closed shells that stand in each other.
    #[must_use]
    pub fn mesh(self) -> Mesh {
        let mut faces = cuboid([0.0, 0.0, 0.0], SLAB);
        for feature in self.features() {
            faces.extend(feature.faces());
        }
        Mesh::weld(
            faces
                .into_iter()
                .map(|face| face.map(|c| c.map(|v| v as f32))),
        )
    }

    /// What it says of the exposure.
    ///
    /// # Errors
    /// Why it says nothing: no exposure mends what is too little and too much at once.
    pub fn verdict(self, out: &CameOut) -> Result<Verdict, &'static str> {
        let fails = |kind: FeatureKind, least: Option<f64>| {
            let must = kind.must_mm().unwrap_or(0.0);
            least.is_none_or(|mm| mm > must + 1e-9)
        };
        let under = fails(FeatureKind::Pin, out.pin_mm) || fails(FeatureKind::Wall, out.wall_mm);
        let over = fails(FeatureKind::Gap, out.gap_mm);
        match (under, over) {
            (true, true) => Err(
                "pins or walls are missing and gaps have grown shut at once: no exposure mends that. \
                 Look at the room, the film and the screen, and whether the resin was shaken",
            ),
            (true, false) => Ok(Verdict::Under),
            (false, true) => Ok(Verdict::Over),
            (false, false) => Ok(Verdict::Right),
        }
    }
}

type Face = [[f64; 3]; 3];

impl Feature {
    fn faces(&self) -> Vec<Face> {
        let [x, y] = self.at_mm;
        let s = self.size_mm;
        let (low, top) = (SLAB[2] - SUNK, SLAB[2] + TALL);
        match self.kind {
            FeatureKind::Pin => pin(self.at_mm, s / 2.0, low, top),
            FeatureKind::Wall => cuboid([x - 2.0, y - s / 2.0, low], [x + 2.0, y + s / 2.0, top]),
            FeatureKind::Gap => {
                let [wide, long] = BLOCK;
                let block = |from: f64| {
                    let near = [from, y - long / 2.0, low];
                    cuboid(near, [from + wide, y + long / 2.0, top])
                };
                let mut both = block(x - s / 2.0 - wide);
                both.extend(block(x + s / 2.0));
                both
            }
            FeatureKind::Step => cuboid([x - 2.0, y - 2.0, low], [x + 2.0, y + 2.0, s]),
            FeatureKind::Shelf => {
                let mut all = cuboid([x - 2.0, y - 2.0, low], [x, y + 2.0, top]);
                all.extend(cuboid(
                    [x - 1.0, y - 2.0, top - s],
                    [x + SHELF_OUT, y + 2.0, top],
                ));
                all
            }
        }
    }
}

/// A box between two corners, its faces outward.
fn cuboid([x0, y0, z0]: [f64; 3], [x1, y1, z1]: [f64; 3]) -> Vec<Face> {
    prism(&[[x0, y0], [x1, y0], [x1, y1], [x0, y1]], z0, z1)
}

fn pin([x, y]: [f64; 2], radius: f64, low: f64, top: f64) -> Vec<Face> {
    let corner = |i: usize| {
        let turn = i as f64 / SIDES as f64 * std::f64::consts::TAU;
        [x + radius * turn.cos(), y + radius * turn.sin()]
    };
    let corners: Vec<[f64; 2]> = (0..SIDES).map(corner).collect();
    prism(&corners, low, top)
}

/// A convex outline, counter-clockwise, drawn upward.
fn prism(outline: &[[f64; 2]], low: f64, top: f64) -> Vec<Face> {
    let at = |i: usize, z: f64| {
        let [x, y] = outline[i % outline.len()];
        [x, y, z]
    };
    let mut faces = Vec::new();
    for i in 0..outline.len() {
        faces.push([at(i, low), at(i + 1, low), at(i + 1, top)]);
        faces.push([at(i, low), at(i + 1, top), at(i, top)]);
    }
    for i in 1..outline.len() - 1 {
        faces.push([at(0, low), at(i + 1, low), at(i, low)]);
        faces.push([at(0, top), at(i, top), at(i + 1, top)]);
    }
    faces
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mesh::measure_mesh;
    use rstest::rstest;

    /// By hand: the slab 1,980 mm³; six pins, a regular polygon of 24 sides each with 3.1058 r² (12 sin 15°),
    /// six walls of 4 mm, twelve blocks of 2 by 4, four steps of 4 by 4, all from 0.3 mm inside the slab;
    /// the shelf's post and the shelf over a millimetre of it.
    #[test]
    fn the_piece_is_closed_and_as_large_as_drawn() {
        let facts = measure_mesh(&TestPiece.mesh());
        let tall = TALL + SUNK;
        let pins: f64 = PINS_AND_WALLS
            .iter()
            .map(|d| 12.0 * 15.0_f64.to_radians().sin() * (d / 2.0).powi(2) * tall)
            .sum();
        let walls: f64 = PINS_AND_WALLS.iter().map(|t| 4.0 * t * tall).sum();
        let blocks = 12.0 * 8.0 * tall;
        let steps: f64 = STEPS.iter().map(|h| 16.0 * (h - SLAB[2] + SUNK)).sum();
        let shelf = 2.0 * 4.0 * tall + 5.0 * 4.0 * SHELF;
        let sum = 1980.0 + pins + walls + blocks + steps + shelf;
        assert!(
            (facts.volume_mm3 / sum - 1.0).abs() < 1e-5,
            "{} {sum}",
            facts.volume_mm3
        );
        assert_eq!(facts.open_edge_mm, 0.0);
        assert_eq!(facts.shells, 1 + 6 + 6 + 12 + 4 + 2);
        let size = facts.size_mm();
        assert!(
            size.iter()
                .zip(TestPiece.size_mm())
                .all(|(a, b)| (a - b).abs() < 1e-5),
            "{size:?}"
        );
    }

    #[rstest]
    #[case(Some(0.4), Some(0.3), Some(0.2), Ok(Verdict::Right))]
    #[case(Some(0.2), Some(0.2), Some(0.1), Ok(Verdict::Right))]
    #[case(Some(0.6), Some(0.3), Some(0.1), Ok(Verdict::Under))]
    #[case(Some(0.3), None, Some(0.15), Ok(Verdict::Under))]
    #[case(Some(0.2), Some(0.2), Some(0.3), Ok(Verdict::Over))]
    #[case(Some(0.2), Some(0.2), None, Ok(Verdict::Over))]
    #[case(None, Some(0.2), None, Err(()))]
    fn what_came_out_is_judged(
        #[case] pin_mm: Option<f64>,
        #[case] wall_mm: Option<f64>,
        #[case] gap_mm: Option<f64>,
        #[case] known: Result<Verdict, ()>,
    ) {
        let out = CameOut {
            pin_mm,
            wall_mm,
            gap_mm,
        };
        assert_eq!(TestPiece.verdict(&out).map_err(drop), known);
    }
}
