//! How far a part reaches to every side, height by height: enough to draw its skyline whichever
//! way it is turned on the plate, without keeping the mesh.

use std::fmt;
use std::str::FromStr;
use std::sync::Arc;

use crate::mesh::Mesh;
use crate::numbers::{self, NotNumbers, from_text, to_um};

/// Directions in which the reach is kept, one every 10°.
const DIRECTIONS: usize = 36;
/// Height bands kept at most.
const BANDS: usize = 64;

/// One band of heights of a part.
#[derive(Debug, Clone, PartialEq, serde::Serialize, serde::Deserialize)]
pub struct ProfileBand {
    /// Lower edge above the lowest point, mm.
    pub from_mm: f64,
    /// Upper edge above the lowest point, mm.
    pub to_mm: f64,
    /// How far the band reaches from the middle of the part's box in direction 0°, 10°, … mm;
    /// empty where nothing is in the band.
    pub reach_mm: Vec<f64>,
}

impl ProfileBand {
    /// Leftmost and rightmost point of the band seen along +y, with the part turned
    /// counter-clockwise by `rotation_deg` about the vertical.
    #[must_use]
    pub fn span_mm(&self, rotation_deg: f64) -> Option<(f64, f64)> {
        (self.reach_mm.len() == DIRECTIONS).then(|| {
            (
                -self.toward(180.0 - rotation_deg),
                self.toward(-rotation_deg),
            )
        })
    }

    fn toward(&self, direction_deg: f64) -> f64 {
        let step = 360.0 / DIRECTIONS as f64;
        let position = direction_deg.rem_euclid(360.0) / step;
        let below = position.floor() as usize % DIRECTIONS;
        let share = position - position.floor();
        self.reach_mm[below] * (1.0 - share) + self.reach_mm[(below + 1) % DIRECTIONS] * share
    }
}

/// The reach of a part, band by band from the lowest.
#[derive(Debug, Clone, PartialEq, Default, serde::Serialize, serde::Deserialize)]
#[serde(from = "Vec<ProfileBand>", into = "Vec<ProfileBand>")]
pub struct HeightProfile(pub Arc<[ProfileBand]>);

impl From<Vec<ProfileBand>> for HeightProfile {
    fn from(bands: Vec<ProfileBand>) -> Self {
        Self(bands.into())
    }
}

impl From<HeightProfile> for Vec<ProfileBand> {
    fn from(profile: HeightProfile) -> Self {
        profile.0.to_vec()
    }
}

impl HeightProfile {
    /// Grown or shrunk by a factor.
    #[must_use]
    pub fn scaled(&self, factor: f64) -> Self {
        let band = |b: &ProfileBand| ProfileBand {
            from_mm: b.from_mm * factor,
            to_mm: b.to_mm * factor,
            reach_mm: b.reach_mm.iter().map(|r| r * factor).collect(),
        };
        Self(self.0.iter().map(band).collect())
    }

    /// Area of what is seen from the front at file scale, mm².
    #[must_use]
    pub fn front_mm2(&self) -> f64 {
        let band = |b: &ProfileBand| {
            let (from, to) = b.span_mm(0.0)?;
            Some((to - from) * (b.to_mm - b.from_mm))
        };
        self.0.iter().filter_map(band).sum()
    }

    /// The skyline outline about the part's middle, turned and scaled: left edge upward, right
    /// edge downward; x to the right, y the height above the plate.
    #[must_use]
    pub fn skyline(&self, rotation_deg: f64, scale: f64) -> Vec<[f64; 2]> {
        let mut left = Vec::new();
        let mut right = Vec::new();
        let filled: Vec<_> = self
            .0
            .iter()
            .filter_map(|band| Some((band, band.span_mm(rotation_deg)?)))
            .collect();
        let last = filled.len().saturating_sub(1);
        for (index, (band, (from, to))) in filled.into_iter().enumerate() {
            let middle = (band.from_mm + band.to_mm) / 2.0;
            let bottom = (index == 0).then_some(band.from_mm);
            let top = (index == last).then_some(band.to_mm);
            for z in [bottom, Some(middle), top].into_iter().flatten() {
                left.push([from * scale, z * scale]);
                right.push([to * scale, z * scale]);
            }
        }
        left.extend(right.into_iter().rev());
        left
    }
}

impl fmt::Display for HeightProfile {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let band = |b: &ProfileBand| {
            let reach: Vec<f64> = b.reach_mm.iter().map(|r| to_um(*r)).collect();
            (to_um(b.from_mm), to_um(b.to_mm), reach)
        };
        numbers::write(&self.0.iter().map(band).collect::<Vec<_>>(), f)
    }
}

impl FromStr for HeightProfile {
    type Err = NotNumbers;
    fn from_str(text: &str) -> Result<Self, NotNumbers> {
        let bands: Vec<(f64, f64, Vec<f64>)> = numbers::read(text)?;
        let band = |(from_mm, to_mm, reach_mm)| ProfileBand {
            from_mm,
            to_mm,
            reach_mm,
        };
        Ok(Self(bands.into_iter().map(band).collect()))
    }
}

from_text!(HeightProfile);

/// Measures the reach of a mesh in bands of equal height.
#[must_use]
pub fn measure_height_profile(mesh: &Mesh) -> HeightProfile {
    let (low, high) = mesh.bounds();
    let height = high[2] - low[2];
    if height <= 0.0 {
        return HeightProfile::default();
    }
    let middle = [(low[0] + high[0]) / 2.0, (low[1] + high[1]) / 2.0];
    let step = height / BANDS as f64;
    let directions: [(f64, f64); DIRECTIONS] = std::array::from_fn(|i| {
        (i as f64 * 360.0 / DIRECTIONS as f64)
            .to_radians()
            .sin_cos()
    });
    let mut bands = vec![[f64::NEG_INFINITY; DIRECTIONS]; BANDS];
    let mut note = |band: usize, x: f64, y: f64| {
        for (reach, (sin, cos)) in bands[band].iter_mut().zip(&directions) {
            *reach = reach.max(x * cos + y * sin);
        }
    };
    for face in mesh.faces() {
        let corners = face.map(|c| [c[0] - middle[0], c[1] - middle[1], (c[2] - low[2]) / step]);
        for k in 0..3 {
            let (a, b) = (corners[k], corners[(k + 1) % 3]);
            note((a[2].floor().max(0.0) as usize).min(BANDS - 1), a[0], a[1]);
            // Where the edge passes from band to band it belongs to both.
            let (from, to) = (a[2].min(b[2]), a[2].max(b[2]));
            for plane in from.floor() as usize + 1..=(to.ceil() as usize).saturating_sub(1) {
                let share = (plane as f64 - a[2]) / (b[2] - a[2]);
                let at = [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share];
                note((plane - 1).min(BANDS - 1), at[0], at[1]);
                note(plane.min(BANDS - 1), at[0], at[1]);
            }
        }
    }
    HeightProfile(
        bands
            .into_iter()
            .enumerate()
            .map(|(index, reach)| ProfileBand {
                from_mm: index as f64 * step,
                to_mm: (index + 1) as f64 * step,
                reach_mm: if reach[0].is_finite() {
                    reach.to_vec()
                } else {
                    Vec::new()
                },
            })
            .collect(),
    )
}
