//! Hollows against closed forms, and hollow files against figures computed with voxel and
//! scanline kernels beside trimesh 5.2 and manifold3d 3.5.

use rstest::rstest;
use wembrit_core::layers::{Hollow, Hollowing, Voxels, is_worth_it};
use wembrit_core::mesh::{Solid, read_mesh};
use wembrit_core::workshop::resin::Viscosity;

use super::meshes::file;
use crate::shapes::{Faces, block, cylinder, mesh};

fn find_hollows(solid: &Solid, scale: f64) -> Vec<Hollow> {
    wembrit_core::layers::find_hollows(&Voxels::of(solid, scale))
}

fn measure_hollowing(solid: &Solid, scale: f64, wall_mm: f64) -> Hollowing {
    wembrit_core::layers::measure_hollowing(&Voxels::of(solid, scale), wall_mm)
}

fn solid(name: &str) -> Solid {
    Solid::new(&read_mesh(&file(name), name).expect("it reads"))
}

/// The ball of 24 mm, of which a wall of w leaves a ball of 24 − 2w; a block and a cylinder, of
/// which it leaves a smaller block and cylinder.
#[rstest]
#[case::ball("p_sphere.stl", 2.0, 4.0 / 3.0 * std::f64::consts::PI * 1000.0)]
#[case::ball_thin("p_sphere.stl", 1.2, 4.0 / 3.0 * std::f64::consts::PI * 1259.712)]
#[case::block("p_box.stl", 2.0, 26.0 * 16.0 * 21.0)]
#[case::block_thick("p_box.stl", 4.0, 22.0 * 12.0 * 17.0)]
#[case::cylinder("p_cylinder_ascii.stl", 2.0, std::f64::consts::PI * 64.0 * 36.0)]
fn a_wall_leaves_what_the_closed_form_says(
    #[case] name: &str,
    #[case] wall_mm: f64,
    #[case] inside_mm3: f64,
) {
    let h = measure_hollowing(&solid(name), 1.0, wall_mm);
    let off = (h.saved_mm3 - inside_mm3).abs();
    assert!(
        off <= h.uncertain_mm3,
        "{} is not {inside_mm3} ± {}",
        h.saved_mm3,
        h.uncertain_mm3
    );
    // The uncertainty is a figure, not an excuse.
    assert!(h.uncertain_mm3 < 0.12 * inside_mm3, "{}", h.uncertain_mm3);
    assert_eq!((h.pockets, h.drains_needed, h.drains.len()), (1, 2, 2));
    assert!(
        h.drains[1].at_mm[2] > h.drains[0].at_mm[2],
        "the second is the lowest as it hangs"
    );
    assert!(
        h.drains[0].hidden && !h.drains[1].hidden,
        "out of sight first"
    );
    assert!(
        h.left_hanging_mm3 < 0.03 * h.saved_mm3 + 20.0,
        "it drains: {}",
        h.left_hanging_mm3
    );
}

/// File; millilitres inside, ways out.
#[rstest]
#[case::sealed("h_hollow_sealed.stl", Some((8.932, 0)))]
#[case::one_hole_at_the_film("h_hollow_drain_top.stl", Some((8.951, 1)))]
#[case::a_cup_is_open("h_cup_up.stl", None)]
#[case::a_figure_has_folds("h_mini_a.stl", None)]
#[case::a_ball_is_solid("p_sphere.stl", None)]
#[case::rings("h_chain_links.stl", None)]
fn hollows_of_files_are_recognised(#[case] name: &str, #[case] expected: Option<(f64, usize)>) {
    let found = find_hollows(&solid(name), 1.0);
    assert_eq!(found.len(), usize::from(expected.is_some()), "{found:?}");
    if let Some((ml, ways_out)) = expected {
        assert!(
            (found[0].volume_mm3 / 1000.0 - ml).abs() < 0.03 * ml,
            "{found:?}"
        );
        assert_eq!(found[0].ways_out.len(), ways_out);
        assert!((found[0].from_mm - 2.0).abs() < 0.5 && (found[0].to_mm - 35.0).abs() < 2.0);
    }
}

/// A box of walls with so many holes of 3 mm through its side.
fn box_with_holes(holes: usize) -> Faces {
    // Six slabs, the front one cut into strips around square holes.
    let mut faces = [
        block([0.0, 0.0, 0.0], [30.0, 30.0, 2.0]),
        block([0.0, 0.0, 28.0], [30.0, 30.0, 30.0]),
        block([0.0, 0.0, 2.0], [2.0, 30.0, 28.0]),
        block([28.0, 0.0, 2.0], [30.0, 30.0, 28.0]),
        block([2.0, 28.0, 2.0], [28.0, 30.0, 28.0]),
    ]
    .concat();
    let mut at = 2.0;
    for hole in 0..holes {
        let x = 6.0 + 8.0 * hole as f64;
        faces.extend(block([at, 0.0, 2.0], [x, 2.0, 28.0]));
        faces.extend(block([x, 0.0, 2.0], [x + 3.0, 2.0, 12.0]));
        faces.extend(block([x, 0.0, 15.0], [x + 3.0, 2.0, 28.0]));
        at = x + 3.0;
    }
    faces.extend(block([at, 0.0, 2.0], [28.0, 2.0, 28.0]));
    faces
}

#[rstest]
#[case(0)]
#[case(1)]
#[case(2)]
#[case(3)]
fn ways_out_are_counted(#[case] holes: usize) {
    let found = find_hollows(&Solid::new(&mesh(&box_with_holes(holes))), 1.0);
    assert_eq!(
        found.iter().map(|h| h.ways_out.len()).collect::<Vec<_>>(),
        [holes]
    );
    // Each where it was cut, as wide as the ball that goes through: square holes of 3 mm.
    let mut ways = found[0].ways_out.clone();
    ways.sort_by(|a, b| a.at_mm[0].total_cmp(&b.at_mm[0]));
    for (hole, way) in ways.iter().enumerate() {
        let middle = [7.5 + 8.0 * hole as f64, 1.0, 13.5];
        let off = (0..3).map(|k| (way.at_mm[k] - middle[k]).abs());
        assert!(off.fold(0.0, f64::max) < 1.3, "{way:?}");
        assert!((way.wide_mm - 3.0).abs() < 1.0, "{way:?}");
    }
    assert!(
        (found[0].volume_mm3 - 26.0f64.powi(3)).abs() < 1500.0,
        "{found:?}"
    );
}

/// Two blocks on a thin neck are two pockets and need three drains; a hook keeps resin that a
/// straight pillar does not.
#[test]
fn pockets_and_hooks_are_told() {
    let dumbbell = [
        block([0.0, 0.0, 0.0], [16.0, 16.0, 16.0]),
        block([6.0, 6.0, 15.0], [10.0, 10.0, 31.0]),
        block([0.0, 0.0, 30.0], [16.0, 16.0, 46.0]),
    ]
    .concat();
    let two = measure_hollowing(&Solid::new(&mesh(&dumbbell)), 1.0, 2.5);
    assert_eq!(
        (two.pockets, two.drains_needed, two.drains.len()),
        (2, 3, 4)
    );
    let hook = [
        block([0.0, 0.0, 0.0], [12.0, 12.0, 50.0]),
        block([0.0, 0.0, 38.0], [40.0, 12.0, 50.0]),
        block([28.0, 0.0, 20.0], [40.0, 12.0, 50.0]),
    ]
    .concat();
    let hooked = measure_hollowing(&Solid::new(&mesh(&hook)), 1.0, 2.0);
    assert_eq!(hooked.pockets, 1);
    // Stood on its sole the arm that hangs down keeps its fill: 8 × 8 mm and 16 mm or so deep.
    assert!(
        hooked.left_standing_mm3 > 700.0,
        "{}",
        hooked.left_standing_mm3
    );
    let pillar = measure_hollowing(&Solid::new(&mesh(&cylinder(8.0, 40.0, [0.0; 3]))), 1.0, 2.0);
    assert!(pillar.left_standing_mm3 < 30.0 && pillar.left_hanging_mm3 < 30.0);
}

#[test]
fn what_is_too_thin_for_a_wall_stays_solid() {
    let h = measure_hollowing(
        &Solid::new(&mesh(&block([0.0; 3], [30.0, 3.0, 30.0]))),
        1.0,
        2.0,
    );
    assert_eq!((h.pockets, h.drains_needed, h.saved_mm3), (0, 0, 0.0));
}

/// At twice the size the same wall saves more than eight times as much.
#[test]
fn scale_comes_before_the_wall() {
    let one = measure_hollowing(&solid("p_box.stl"), 1.0, 2.0).saved_mm3;
    let double = measure_hollowing(&solid("p_box.stl"), 2.0, 2.0).saved_mm3;
    let exact = 56.0 * 36.0 * 46.0;
    assert!(
        double > 8.0 * one && (double - exact).abs() < 0.06 * exact,
        "{double}"
    );
}

#[rstest]
#[case(Viscosity::Thin, 2.0)]
#[case(Viscosity::Thick, 3.5)]
fn thick_resin_wants_wide_drains(#[case] viscosity: Viscosity, #[case] mm: f64) {
    assert_eq!(viscosity.drain_diameter_mm(), mm);
}

#[rstest]
#[case::a_fifth_and_a_millilitre(1200.0, 5000.0, true)]
#[case::too_little(600.0, 2000.0, false)]
#[case::a_small_share(1500.0, 20_000.0, false)]
fn hollowing_has_to_be_worth_it(#[case] saved: f64, #[case] volume: f64, #[case] worth: bool) {
    assert_eq!(is_worth_it(saved, volume), worth);
}
