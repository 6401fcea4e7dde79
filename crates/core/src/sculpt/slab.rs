//! Whether a figure brings the slab it stands on.

/// Thickness of what may be a base, mm: common practice, no source.
const THICK_MM: [f64; 2] = [1.0, 6.0];
/// Share of a disc across width and depth that a base fills at least.
const ROUND: f64 = 0.8;
/// Share of its section down to which it is still the base: rims slope, tops have stones.
const ALIKE: f64 = 0.6;
/// Most that stands on it, as a share of it: anywhere, and a millimetre above its edge.
const ON_IT: [f64; 2] = [0.5, 0.35];

/// Height of the slab on which a figure stands, mm; nothing for a figure on its own feet, for a base
/// alone, and for what grows narrower all the way.
///
/// # Units
/// `areas_mm2` from the ground to the top in equal steps; `foot_mm` the width and depth on the
/// ground.
pub(super) fn slab_under(areas_mm2: &[f64], height_mm: f64, foot_mm: [f64; 2]) -> Option<f64> {
    let disc = std::f64::consts::FRAC_PI_4 * foot_mm[0] * foot_mm[1];
    let step = height_mm / areas_mm2.len().max(1) as f64;
    let ground = areas_mm2.iter().copied().take(2).fold(0.0, f64::max);
    let wide = areas_mm2
        .iter()
        .take_while(|a| **a >= ALIKE * ground)
        .count();
    let slab = wide as f64 * step;
    // A millimetre, or the step in which the one becomes the other.
    let edge = (1.0 / step.max(1e-9)).ceil() as usize;
    let above = areas_mm2.get(wide + edge..).unwrap_or_default();
    let most = above.iter().copied().fold(0.0, f64::max);
    let drops = above.first().is_some_and(|a| *a < ON_IT[1] * ground);
    let stands = drops && most < ON_IT[0] * ground && height_mm > 2.5 * slab;
    (ground >= ROUND * disc && (THICK_MM[0]..=THICK_MM[1]).contains(&slab) && stands)
        .then_some(slab)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    const FOOT: [f64; 2] = [25.0, 25.0];

    /// Sections of a disc of 25 mm, of 490 mm², and of what stands on it, every millimetre.
    #[rstest]
    #[case::a_figure_on_its_base(&[490.0, 480.0, 470.0, 60.0, 50.0, 80.0, 120.0, 90.0, 60.0, 50.0, 20.0, 8.0], FOOT, Some(3.0))]
    #[case::on_a_square_one(&[625.0, 625.0, 600.0, 60.0, 50.0, 80.0, 120.0, 90.0, 60.0, 50.0], FOOT, Some(3.0))]
    #[case::on_its_feet(&[40.0, 45.0, 50.0, 60.0, 50.0, 80.0, 120.0, 90.0, 60.0, 50.0, 20.0, 8.0], [12.0, 8.0], None)]
    #[case::a_base_alone(&[490.0, 480.0, 470.0], FOOT, None)]
    #[case::a_cone(&[490.0, 400.0, 320.0, 250.0, 190.0, 140.0, 90.0, 60.0, 30.0, 10.0], FOOT, None)]
    #[case::a_block(&[490.0; 20], FOOT, None)]
    #[case::a_thick_plinth(&[490.0, 490.0, 490.0, 490.0, 490.0, 490.0, 490.0, 490.0, 60.0, 50.0, 40.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0, 30.0], FOOT, None)]
    #[case::two_feet_far_apart(&[60.0, 60.0, 60.0, 10.0, 10.0, 10.0, 10.0, 10.0], [20.0, 20.0], None)]
    #[case::nothing(&[], FOOT, None)]
    fn a_slab_is_wide_thin_and_carries_something_slender(
        #[case] areas: &[f64],
        #[case] foot: [f64; 2],
        #[case] slab: Option<f64>,
    ) {
        let height = areas.len() as f64;
        let found = slab_under(areas, height, foot);
        assert!(
            match (found, slab) {
                (Some(a), Some(b)) => (a - b).abs() < 1e-9,
                (a, b) => a == b,
            },
            "{found:?}"
        );
    }
}
