//! Files as exporters leave them: corners a hair apart, seams cracked, faces turned, several
//! solids in one text. Each is measured against its clean self.

use proptest::prelude::Rng as _;
use proptest::test_runner::{RngAlgorithm, TestRng};
use rstest::rstest;
use wembrit_core::layers::{StackFigures, measure_stack};
use wembrit_core::mesh::{Mesh, MeshFacts, Solid, read_mesh};
use wembrit_core::sculpt::measure::{MeasureOptions, Measured, measure_file, warnings};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::outside::meshes::file;
use crate::shapes::{Faces, block, mesh, stl};

fn faces_of(name: &str) -> Faces {
    read_mesh(&file(name), "a.stl").unwrap().faces().collect()
}

fn measured(mesh: &Mesh) -> (MeshFacts, StackFigures) {
    let solid = Solid::new(mesh);
    let stack = measure_stack(&solid, LayerHeight::USUAL, 1.0, &Unwatched).unwrap();
    (solid.facts, stack)
}

fn measured_file(bytes: &[u8], name: &str) -> Measured {
    measure_file(
        bytes,
        name,
        MeasureOptions::at(LayerHeight::USUAL),
        &Unwatched,
    )
    .unwrap()
}

/// Every corner of every triangle moved by itself.
fn jittered(faces: &Faces, by_mm: f64) -> Faces {
    let mut random = TestRng::from_seed(RngAlgorithm::ChaCha, &[7; 32]);
    let mut off = || (f64::from(random.next_u32()) / f64::from(u32::MAX) - 0.5) * 2.0 * by_mm;
    (faces.iter())
        .map(|f| f.map(|c| c.map(|c| c + off())))
        .collect()
}

/// The faces above a height lifted by a gap, so that a seam runs around the middle.
fn cracked(faces: &Faces, gap_mm: f64) -> Faces {
    let middle = |f: &[[f64; 3]; 3]| f.iter().map(|c| c[0]).sum::<f64>() > 0.0;
    (faces.iter())
        .map(|f| {
            if middle(f) {
                f.map(|c| [c[0] + gap_mm, c[1], c[2]])
            } else {
                *f
            }
        })
        .collect()
}

/// The faces on one side cut in four, so that the corners of the two sides do not match.
fn finer_on_one_side(faces: &Faces) -> Faces {
    let half = |a: [f64; 3], b: [f64; 3]| std::array::from_fn(|k| (a[k] + b[k]) / 2.0);
    (faces.iter())
        .flat_map(|[a, b, c]| {
            if a[0] + b[0] + c[0] <= 0.0 {
                return vec![[*a, *b, *c]];
            }
            let [ab, bc, ca] = [half(*a, *b), half(*b, *c), half(*c, *a)];
            vec![[*a, ab, ca], [ab, *b, bc], [ca, bc, *c], [ab, bc, ca]]
        })
        .collect()
}

/// The faces of one side turned inside out.
fn patch_turned(faces: &Faces) -> Faces {
    (faces.iter())
        .map(|[a, b, c]| {
            if a[0] + b[0] + c[0] > 18.0 {
                [*a, *c, *b]
            } else {
                [*a, *b, *c]
            }
        })
        .collect()
}

/// Volume and pull are those of the clean file: within a thousandth where corners move by less
/// than a hundredth of a millimetre, and by what the gap itself adds where it is wide.
#[rstest]
#[case::a_hair_of_1e_6("p_sphere.stl", |f: &Faces| jittered(f, 1e-6), 0.001)]
#[case::a_hair_of_1e_4("p_sphere.stl", |f: &Faces| jittered(f, 1e-4), 0.001)]
#[case::a_hair_of_1e_3("p_sphere.stl", |f: &Faces| jittered(f, 1e-3), 0.002)]
#[case::a_bunny_with_a_hair("s_bunny.stl", |f: &Faces| jittered(f, 1e-5), 0.001)]
#[case::a_crack_of_2_um("p_sphere.stl", |f: &Faces| cracked(f, 0.002), 0.001)]
#[case::a_crack_of_20_um("p_sphere.stl", |f: &Faces| cracked(f, 0.02), 0.004)]
#[case::a_crack_of_50_um("p_sphere.stl", |f: &Faces| cracked(f, 0.05), 0.01)]
#[case::a_finer_side("p_sphere.stl", |f: &Faces| finer_on_one_side(f), 0.001)]
#[case::a_finer_side_cracked("p_sphere.stl", |f: &Faces| finer_on_one_side(&cracked(f, 0.01)), 0.004)]
#[case::a_patch_turned("p_sphere.stl", |f: &Faces| patch_turned(f), 0.001)]
fn a_dirty_file_measures_as_its_clean_self(
    #[case] name: &str,
    #[case] dirty: impl Fn(&Faces) -> Faces,
    #[case] share: f64,
) {
    let clean = faces_of(name);
    let (_, expected) = measured(&mesh(&clean));
    let (facts, stack) = measured(&mesh(&dirty(&clean)));
    let off = |found: f64, expected: f64| (found / expected - 1.0).abs();
    assert!(
        off(stack.volume_mm3, expected.volume_mm3) < share,
        "{} mm³",
        stack.volume_mm3
    );
    assert!(
        off(stack.peak.1, expected.peak.1) < 0.01 + 4.0 * share,
        "pull {} for {}",
        stack.peak.1,
        expected.peak.1
    );
    assert_eq!(facts.shells, 1);
    assert_eq!(facts.open_edge_mm, 0.0);
    assert!(facts.joined_edge_mm > 0.0 || facts.turned > 0);
    assert!(stack.unbalanced < 0.002);
}

/// What is told of a dirty file is what is so.
#[test]
fn a_turned_patch_is_not_called_an_overlap() {
    let bytes = stl(&patch_turned(&faces_of("p_sphere.stl")));
    let said = warnings(&measured_file(&bytes, "a.stl")).join("; ");
    assert!(
        said.contains("faced another way") && !said.contains("overlap"),
        "{said}"
    );
}

#[test]
fn joined_seams_are_told_with_their_width() {
    let bytes = stl(&cracked(&faces_of("p_sphere.stl"), 0.02));
    let measured = measured_file(&bytes, "a.stl");
    assert!(!measured.facts.watertight());
    assert!((measured.facts.widest_seam_mm - 0.02).abs() < 1e-4);
    let said = warnings(&measured).join("; ");
    assert!(
        said.contains("seams were open") && said.contains("0.0200 mm"),
        "{said}"
    );
}

/// What is closed and apart by a hair stays apart: two blocks are two.
#[test]
fn closed_shells_a_hair_apart_are_not_joined() {
    let two = [
        block([0.0; 3], [10.0; 3]),
        block([10.005, 0.0, 0.0], [20.0, 10.0, 10.0]),
    ]
    .concat();
    let (facts, _) = measured(&mesh(&two));
    assert_eq!((facts.shells, facts.joined_edge_mm), (2, 0.0));
}

/// Text STL of blocks, one solid each.
fn text(solids: &[Faces], end: &str) -> String {
    let mut out = String::new();
    for (index, faces) in solids.iter().enumerate() {
        out += &format!("solid part {index}{end}");
        for face in faces {
            out += &format!("facet normal 0 0 0{end} outer loop{end}");
            for [x, y, z] in face {
                out += &format!("  vertex {x} {y} {z:e}{end}");
            }
            out += &format!(" endloop{end}endfacet{end}");
        }
        out += &format!("endsolid part {index}{end}");
    }
    out
}

#[rstest]
#[case::as_written("\n", |t: String| t)]
#[case::other_line_ends("\r\n", |t: String| t)]
#[case::in_capitals("\n", |t: String| t.to_uppercase())]
#[case::all_in_one_line(" ", |t: String| t)]
#[case::marked_as_unicode("\n", |t: String| format!("\u{feff}{t}"))]
#[case::named_facet("\n", |t: String| t.replace("solid part", "solid facet of"))]
fn every_solid_of_a_text_file_is_read(
    #[case] end: &str,
    #[case] change: impl Fn(String) -> String,
) {
    let two = [
        block([0.0; 3], [10.0; 3]),
        block([20.0, 0.0, 0.0], [30.0, 10.0, 10.0]),
    ];
    let read = read_mesh(change(text(&two, end)).as_bytes(), "a.stl").unwrap();
    let (facts, stack) = measured(&read);
    assert_eq!((facts.triangles, facts.shells), (24, 2));
    assert!((stack.volume_mm3 - 2000.0).abs() < 0.01);
}

#[rstest]
#[case::second_solid_breaks_off(&|t: &str| t[..t.len() - 60].to_owned())]
#[case::no_end(&|t: &str| t.rsplit_once("endsolid").unwrap().0.to_owned())]
#[case::a_word_between(&|t: &str| t.replacen("endfacet", "endfacet boo", 1))]
#[case::a_corner_too_many(&|t: &str| t.replacen("endloop", "vertex 0 0 0 endloop", 1))]
fn a_text_that_breaks_off_is_refused_whole(#[case] spoil: &dyn Fn(&str) -> String) {
    let two = [
        block([0.0; 3], [10.0; 3]),
        block([20.0, 0.0, 0.0], [30.0, 10.0, 10.0]),
    ];
    let refused = read_mesh(spoil(&text(&two, "\n")).as_bytes(), "a.stl").unwrap_err();
    assert!(refused.to_string().contains("breaks off"), "{refused}");
}

#[rstest]
#[case::a_face_goes_on(
    "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 \\\n 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
)]
#[case::with_other_line_ends(
    "v 0 0 0\r\nv 1 \\\r\n0 0\r\nv 0 1 0\r\nv 0 0 1\r\nf 1 3 2\r\nf 1 2 4\r\nf 2 3 4\r\nf 1 4 3\r\n"
)]
#[case::by_tabs("v\t0 0 0\nv\t1\t0\t0\nv 0 1 0\nv 0 0 1\nf\t1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n")]
#[case::a_comment_does_not(
    "# c:\\made\\\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
)]
fn lines_of_an_obj_go_on(#[case] text: &str) {
    let facts = Solid::new(&read_mesh(text.as_bytes(), "a.obj").unwrap()).facts;
    assert!((facts.volume_mm3 - 1.0 / 6.0).abs() < 1e-6 && facts.watertight());
}

/// Beyond a hair nothing is guessed: a mesh that closes nowhere has no volume.
#[test]
fn a_soup_of_triangles_has_no_volume() {
    let bytes = stl(&jittered(&faces_of("s_bunny.stl"), 0.5));
    let refused = measure_file(
        &bytes,
        "a.stl",
        MeasureOptions::at(LayerHeight::USUAL),
        &Unwatched,
    )
    .unwrap_err();
    assert!(refused.to_string().contains("has no inside"), "{refused}");
}

fn rolled(faces: &Faces, degrees: f64) -> Faces {
    let (sin, cos) = degrees.to_radians().sin_cos();
    (faces.iter())
        .map(|f| f.map(|[x, y, z]| [x, y * cos - z * sin, y * sin + z * cos]))
        .collect()
}

/// A cube on its edge: its first layer is thinner than the scan lines are apart. It starts on the
/// plate, and one that hangs in the air beside something starts in mid-air there.
#[rstest]
#[case::of_10_mm(10.0)]
#[case::of_24_mm(24.0)]
#[case::of_61_mm(61.3)]
fn a_knife_edge_along_the_lines_is_seen(#[case] side: f64) {
    let cube = rolled(&block([0.0; 3], [side; 3]), 45.0);
    let (_, alone) = measured(&mesh(&cube));
    assert_eq!(alone.islands, []);
    assert!((alone.volume_mm3 / side.powi(3) - 1.0).abs() < 0.001);
    let post = block([side + 2.0, 0.0, -5.0], [side + 4.0, 4.0, 1.0]);
    let (_, beside) = measured(&mesh(&[cube, post].concat()));
    let starts: Vec<f64> = beside.islands.iter().map(|i| i.z_mm).collect();
    assert_eq!(starts.len(), 1, "{starts:?}");
    assert!((starts[0] - 5.0).abs() < 1e-6, "{starts:?}");
}
