//! What is known of a mesh file: raw facts once, what its layers tell at a scale, hollows.

use crate::flow::SculptState;
use crate::geometry::Outline;
use crate::ids::SculptId;
use crate::layers::{Cup, Drain, HeightProfile, Hollow, Island, Raised, Thickness};
use crate::pose::Pose;
use crate::units::{LayerHeight, Money};
use crate::words::words;

words! {
    /// What the maker says about the supports of a file.
    SupportsSaid, "supports of a file" {
        /// Nothing: its name and its shape tell.
        Recognised = "recognised",
        /// It brings its own.
        Brings = "its own",
        /// It brings none, whatever it looks like.
        Without = "none",
    }
}

/// A mesh file as imported.
#[derive(Debug, Clone, PartialEq)]
pub struct Sculpt {
    /// Which one.
    pub id: SculptId,
    /// Its identity in exports.
    pub uid: String,
    /// Counts the changes of its row.
    pub row_version: i64,
    /// What the maker calls it.
    pub name: String,
    /// The file it came from.
    pub file_name: String,
    /// Hash of its bytes, once they are all here.
    pub hash: Option<String>,
    /// Size of the file.
    pub bytes: i64,
    /// Where it stands.
    pub state: SculptState,
    /// Why it could not be read.
    pub refusal: Option<String>,
    /// Millimetres in one unit of the file.
    pub unit_mm: f64,
    /// A unit it was probably drawn in, while the maker has not answered.
    pub unit_asked: Option<String>,
    /// Wall it would be hollowed with, mm.
    pub wall_mm: f64,
    /// What the file cost.
    pub price: Money,
    /// What the maker says about its supports.
    pub supports: SupportsSaid,
}

/// What was measured on a sculpt, at the size of its file.
///
/// # Units
/// mm, mm², mm³.
#[derive(Debug, Clone, PartialEq)]
pub struct SculptFacts {
    /// The sculpt.
    pub sculpt: SculptId,
    /// The version of the measuring.
    pub measure_version: i64,
    /// Triangles.
    pub triangles: i64,
    /// Triangles left out because they were broken.
    pub dropped: i64,
    /// Size along x.
    pub width_mm: f64,
    /// Size along y.
    pub depth_mm: f64,
    /// Size along z.
    pub height_mm: f64,
    /// Union of its shells.
    pub volume_mm3: f64,
    /// Surface of all shells.
    pub surface_mm2: f64,
    /// Shells.
    pub shells: i64,
    /// Of these turned inside out.
    pub inverted_shells: i64,
    /// Of these inside others.
    pub inner_shells: i64,
    /// Length of open edges.
    pub open_edge_mm: f64,
    /// Volumes of the shells, each counted.
    pub shell_sum_mm3: f64,
    /// Hardest pull leaning back by 5°, by a quick look; nothing until that was taken.
    pub pull_upright: Option<f64>,
    /// The same leaning back by 45°.
    pub pull_tilted: Option<f64>,
    /// How sure the figures are, in sentences.
    pub warnings: Vec<String>,
    /// Outline on the plate.
    pub outline: Outline,
    /// How far it reaches at every height.
    pub profile: HeightProfile,
    /// Hollows that keep the resin they fill with, see [`Self::with_hollows`].
    pub undrained_mm3: f64,
}

fn kept_inside_mm3(hollows: &[Hollow], sealed_mm3: f64) -> f64 {
    let keeps = hollows.iter().filter(|h| h.ways_out.len() < 2);
    keeps.map(|h| h.volume_mm3).sum::<f64>().max(sealed_mm3)
}

impl SculptFacts {
    /// With what its hollows hold that keep the resin they fill with: those without a way out, and those
    /// with a single one, where no air comes in behind the resin. Hollows that only the layers have seen
    /// so far count too.
    #[must_use]
    pub fn with_hollows(self, hollow: Option<&HollowFacts>, layers: Option<&LayerFacts>) -> Self {
        let sealed = layers.map_or(0.0, |l| l.sealed_mm3);
        let told = hollow.zip(layers).map(|(h, l)| h.hollows_told(l));
        Self {
            undrained_mm3: kept_inside_mm3(&told.unwrap_or_default(), sealed),
            ..self
        }
    }

    /// Width, depth and height at a scale.
    #[must_use]
    pub fn size_mm(&self, scale: f64) -> [f64; 3] {
        [self.width_mm, self.depth_mm, self.height_mm].map(|mm| mm * scale)
    }
}

/// What the layers of a sculpt tell, at one scale, orientation and layer height.
///
/// # Units
/// mm, mm², mm³, degrees; pull is an index.
#[derive(Debug, Clone, PartialEq)]
pub struct LayerFacts {
    /// The sculpt.
    pub sculpt: SculptId,
    /// Factor on the size of its file.
    pub scale: f64,
    /// Layer height.
    pub layer: LayerHeight,
    /// Orientation.
    pub pose: Pose,
    /// Layers.
    pub layers: i64,
    /// Side of the pixels it was measured with.
    pub pitch_mm: f64,
    /// Solid.
    pub volume_mm3: f64,
    /// Largest section.
    pub largest_section_mm2: f64,
    /// Overhang.
    pub overhang_mm2: f64,
    /// What is thin about it.
    pub thickness: Thickness,
    /// How far it may lean until it tips.
    pub tips_at_deg: f64,
    /// Hollows without a way out.
    pub sealed_mm3: f64,
    /// Hardest layer.
    pub peak_pull: f64,
    /// Where that is.
    pub peak_pull_at_mm: f64,
    /// Supports the file brings along.
    pub support_columns: i64,
    /// What these carry.
    pub raised: Option<Raised>,
    /// Regions that start in mid-air, lowest first.
    pub islands: Vec<Island>,
    /// Pockets that hold suction.
    pub cups: Vec<Cup>,
    /// Section area in mm² from the lowest layer to the highest, in equal steps.
    pub area_curve: Vec<f64>,
}

impl LayerFacts {
    /// How thick its thinnest wall or rod is, mm.
    #[must_use]
    pub fn thinnest_mm(&self) -> Option<f64> {
        self.thickness.thinnest.map(|t| t.mm)
    }

    /// They are of the file as it stands, at its own size.
    #[must_use]
    pub fn is_of_file(&self) -> bool {
        self.scale == 1.0 && self.pose == Pose::AS_IMPORTED
    }
}

/// What was measured about hollows, at the size of the file.
#[derive(Debug, Clone, PartialEq)]
pub struct HollowFacts {
    /// Wall it would be hollowed with, mm.
    pub wall_mm: f64,
    /// Resin that would save, mm³.
    pub saved_mm3: f64,
    /// How far that may be off, mm³.
    pub uncertain_mm3: f64,
    /// Side of the cubes it was measured with, mm.
    pub pitch_mm: f64,
    /// Pockets apart from each other.
    pub pockets: i64,
    /// Drains it needs.
    pub drains_needed: i64,
    /// Where drains would go.
    pub drains: Vec<Drain>,
    /// Liquid shut in without drains, mm³.
    pub trapped_mm3: f64,
    /// Liquid that stays all the same as it hangs, mm³.
    pub left_hanging_mm3: f64,
    /// The same, stood on its sole.
    pub left_standing_mm3: f64,
    /// Hollows the file has already.
    pub hollows: Vec<Hollow>,
}

impl HollowFacts {
    /// Hollows of the file as they are told: which ones are sealed is seen on cubes, how much they
    /// hold on the layers, which are finer.
    #[must_use]
    pub fn hollows_told(&self, layers: &LayerFacts) -> Vec<Hollow> {
        let sealed = self.hollows.iter().filter(|h| h.ways_out.is_empty());
        let on_cubes: f64 = sealed.map(|h| h.volume_mm3).sum();
        let share = if on_cubes > 0.0 && layers.sealed_mm3 > 0.0 {
            layers.sealed_mm3 / on_cubes
        } else {
            1.0
        };
        let told = |h: &Hollow| Hollow {
            volume_mm3: h.volume_mm3 * if h.ways_out.is_empty() { share } else { 1.0 },
            ..h.clone()
        };
        self.hollows.iter().map(told).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::layers::WayOut;
    use rstest::rstest;

    #[rstest]
    #[case::none(&[], 0.0, 0.0)]
    #[case::sealed(&[0], 0.0, 2000.0)]
    #[case::one_hole(&[1], 0.0, 2000.0)]
    #[case::two_holes(&[2], 0.0, 0.0)]
    #[case::of_each(&[0, 1, 2, 3], 0.0, 4000.0)]
    #[case::too_small_for_the_cubes(&[], 120.0, 120.0)]
    fn hollows_that_do_not_drain_keep_their_resin(
        #[case] ways_out: &[usize],
        #[case] sealed_mm3: f64,
        #[case] keeps_mm3: f64,
    ) {
        let way = WayOut {
            at_mm: [0.0; 3],
            wide_mm: 2.0,
        };
        let hollow = |ways: &usize| Hollow {
            volume_mm3: 2000.0,
            ways_out: vec![way; *ways],
            from_mm: 1.0,
            to_mm: 9.0,
        };
        let hollows: Vec<Hollow> = ways_out.iter().map(hollow).collect();
        assert_eq!(kept_inside_mm3(&hollows, sealed_mm3), keeps_mm3);
    }
}
