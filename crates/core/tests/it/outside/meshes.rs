//! Meshes against closed forms and against general-purpose geometry libraries.
//!
//! The files in `tests/data` and their figures: computed with trimesh 5.2 and manifold3d 3.5,
//! 2026-11; closed forms where named. The bunny is the Stanford bunny (Stanford Computer
//! Graphics Laboratory) as the npm package `bunny` carries it, scaled to 60 mm.

use rstest::rstest;
use wembrit_core::layers::measure_silhouette;
use wembrit_core::mesh::{MeshFacts, ReadError, measure_mesh, read_mesh, write_stl};
use wembrit_core::units::{LayerHeight, layer_count};

#[expect(clippy::disallowed_methods, reason = "tests read their files")]
pub(crate) fn file(name: &str) -> Vec<u8> {
    let path = format!("{}/tests/data/{name}", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(path).expect("the test file is part of the repository")
}

fn facts(name: &str) -> MeshFacts {
    measure_mesh(&read_mesh(&file(name), "a.stl").expect("a good file"))
}

fn near(found: f64, expected: f64, share: f64) {
    assert!(
        (found - expected).abs() <= expected.abs() * share,
        "{found} is not {expected}"
    );
}

#[rstest]
#[case::bunny("s_bunny.stl", 3674, 46.5857, 8440.4352, 1, true)]
#[case::one_triangle_missing("h_hole_one.stl", 1151, 7.1658, 1797.5599, 1, false)]
#[case::broken_triangles("h_nan_degenerate.stl", 1152, 7.165775, 1799.7011, 1, true)]
#[case::inside_out("h_inverted.stl", 240, 0.950857, 505.4127, 1, true)]
#[case::sealed_hollow("h_hollow_sealed.stl", 4052, 5.1852, 5211.0, 2, true)]
#[case::binary_that_says_solid("f_binary_says_solid.stl", 190, 9.4181, 2719.0, 1, true)]
#[case::text("p_cylinder_ascii.stl", 380, 12.5574, 3141.0, 1, true)]
#[case::fifteen_shells_signed("h_mini_a.stl", 3304, 4.1781, 3904.0, 15, true)]
fn files_measure_as_the_libraries_say(
    #[case] name: &str,
    #[case] triangles: u64,
    #[case] volume_ml: f64,
    #[case] surface_mm2: f64,
    #[case] shells: u32,
    #[case] watertight: bool,
) {
    let facts = facts(name);
    assert_eq!(
        (facts.triangles, facts.shells, facts.watertight()),
        (triangles, shells, watertight)
    );
    near(facts.volume_mm3 / 1000.0, volume_ml, 0.0005);
    near(facts.surface_mm2, surface_mm2, 0.0005);
}

/// Sphere of 24 mm: 4/3·π·r³ and 4·π·r²; cylinder of 20 × 40 mm: π·r²·h. The facets cost
/// 0.2 % and 0.1 %.
#[test]
fn round_solids_come_near_their_closed_forms() {
    let sphere = facts("p_sphere.stl");
    near(
        sphere.volume_mm3,
        4.0 / 3.0 * std::f64::consts::PI * 12.0_f64.powi(3),
        0.003,
    );
    near(
        sphere.surface_mm2,
        4.0 * std::f64::consts::PI * 144.0,
        0.003,
    );
    near(
        facts("p_cylinder_ascii.stl").volume_mm3,
        std::f64::consts::PI * 100.0 * 40.0,
        0.002,
    );
    let block = facts("p_box.stl");
    assert_eq!(block.size_mm(), [30.0, 20.0, 25.0]);
    near(block.volume_mm3, 15_000.0, 1e-9);
    near(block.surface_mm2, 2.0 * (600.0 + 750.0 + 500.0), 1e-9);
}

#[test]
fn a_sealed_hollow_and_an_inverted_shell_are_told_apart() {
    let hollow = facts("h_hollow_sealed.stl");
    assert_eq!((hollow.inner_shells, hollow.inverted_shells), (1, 0));
    let inverted = facts("h_inverted.stl");
    assert_eq!((inverted.inner_shells, inverted.inverted_shells), (0, 1));
    assert!(facts("h_hole_one.stl").open_edge_mm > 1.0);
}

#[rstest]
#[case("s_bunny.stl", 0.05, 1200)]
#[case("s_bunny.stl", 0.03, 2000)]
#[case("h_hollow_sealed.stl", 0.03, 1234)]
fn layers_are_counted_as_the_reference_counts_them(
    #[case] name: &str,
    #[case] layer_mm: f64,
    #[case] layers: u32,
) {
    let layer = LayerHeight::from_mm(layer_mm).expect("a usual layer height");
    assert_eq!(layer_count(facts(name).size_mm()[2], layer), layers);
}

#[rstest]
#[case("b_truncated.stl")]
#[case("b_text.stl")]
#[case("b_all_nan.stl")]
#[case("b_claims_4_billion.stl")]
#[case("b_only_degenerate.stl")]
fn broken_files_are_refused_in_one_line(#[case] name: &str) {
    let error: ReadError = read_mesh(&file(name), "a.stl").expect_err("a broken file");
    let line = error.to_string();
    assert!(line.len() < 300 && !line.contains('\n'), "{line}");
}

#[test]
fn a_mesh_written_and_read_again_is_the_same() {
    let mesh = read_mesh(&file("s_bunny.stl"), "a.stl").expect("a good file");
    assert_eq!(
        read_mesh(&write_stl(&mesh), "a.stl").expect("our own file"),
        mesh
    );
}

/// The silhouette holds the part and little more: a disc of 24 mm, a rectangle of 30 × 20.
#[rstest]
#[case("p_sphere.stl", std::f64::consts::PI * 144.0)]
#[case("p_box.stl", 600.0)]
fn the_silhouette_holds_the_part_and_little_more(#[case] name: &str, #[case] area_mm2: f64) {
    let outline = measure_silhouette(&read_mesh(&file(name), "a.stl").expect("a good file"))
        .expect("it has an area");
    let found = outline.area_mm2();
    assert!(
        found >= area_mm2 * 0.998 && found <= area_mm2 * 1.05,
        "{found} against {area_mm2}"
    );
}

/// A U of 20 × 30 mm with a slot of 10 × 20 mm, 10 mm high, as one polygon above, one below and
/// eight walls: by hand 2·400 mm² and 140 mm of walls, 2,200 mm² and 4,000 mm³, wherever the
/// polygon begins.
#[rstest]
fn concave_polygons_of_an_obj_are_what_they_outline(
    #[values(0, 1, 2, 3, 4, 5, 6, 7)] first: usize,
) {
    const OUTLINE: [[i32; 2]; 8] = [
        [0, 0],
        [20, 0],
        [20, 30],
        [15, 30],
        [15, 10],
        [5, 10],
        [5, 30],
        [0, 30],
    ];
    let mut text = String::new();
    for z in [0, 10] {
        for [x, y] in OUTLINE {
            text += &format!("v {x} {y} {z}\n");
        }
    }
    let ring = |from: usize| (0..8).map(move |i| from + (first + i) % 8 + 1);
    let face = |corners: Vec<usize>| {
        let words: Vec<String> = corners.iter().map(ToString::to_string).collect();
        format!("f {}\n", words.join(" "))
    };
    text += &face(ring(8).collect());
    text += &face(ring(0).rev().collect());
    for i in 0..8 {
        let j = (i + 1) % 8;
        text += &face(vec![i + 1, j + 1, j + 9, i + 9]);
    }
    let found = measure_mesh(&read_mesh(text.as_bytes(), "u.obj").expect("it reads"));
    assert!(
        (found.surface_mm2 - 2200.0).abs() < 0.01,
        "{}",
        found.surface_mm2
    );
    assert!(
        (found.volume_mm3 - 4000.0).abs() < 0.01,
        "{}",
        found.volume_mm3
    );
}
