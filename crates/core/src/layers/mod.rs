//! What a part is, layer by layer: how many layers, its silhouette on the plate, its skyline; and
//! everything that is read off the stack of its sections: volume, areas, islands, pockets, pull.

mod coarse;
mod contacts;
mod hollow;
mod islands;
mod pockets;
mod pull;
mod reach;
mod regions;
mod room;
mod silhouette;
mod slice;
mod stack;
mod voxels;

pub use coarse::{Look, Touch, look_closely, take_look};
pub use contacts::count_contacts;
pub use hollow::{
    Drain, Hollow, Hollowing, drain_diameter_mm, find_hollows, is_worth_it, measure_hollowing,
};
pub use islands::Island;
pub use pockets::{Cup, CupEnd};
pub use pull::PULL_OF_DISC;
pub use reach::{Reach, ReachBand, measure_reach};
pub use room::Room;
pub use silhouette::measure_silhouette;
pub use stack::{StackFigures, measure_stack};
pub use voxels::Voxels;

use crate::units::LayerHeight;

/// How many layers a part of this height takes.
///
/// A last layer under a thousandth of a layer height is rounding in the file and is not printed.
///
/// # Units
/// mm.
#[must_use]
pub fn layer_count(height_mm: f64, layer: LayerHeight) -> u32 {
    if height_mm <= 0.0 {
        return 0;
    }
    ((height_mm / layer.mm() - 0.001).ceil().max(1.0)) as u32
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// 0.05 mm is 20 layers a millimetre and 0.02 mm 2.5 times as many: common practice, no
    /// source. The other rows: `../shared/bench/mesh/README.md`, "Good files".
    #[rstest]
    #[case(1.0, 0.05, 20)]
    #[case(50.0, 0.05, 1000)]
    #[case(50.0, 0.02, 2500)]
    #[case(1.53, 0.05, 31)]
    #[case(1.53, 0.03, 51)]
    #[case(37.0, 0.05, 740)]
    #[case(36.87, 0.03, 1229)]
    #[case(0.0, 0.05, 0)]
    #[case(0.001, 0.05, 1)]
    fn layers_are_counted(#[case] height_mm: f64, #[case] layer_mm: f64, #[case] layers: u32) {
        assert_eq!(
            layer_count(height_mm, LayerHeight::from_mm(layer_mm).unwrap()),
            layers
        );
    }
}
