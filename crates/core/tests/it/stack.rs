//! What must hold for every mesh: scaling, turning, copying, threads, and files of any bytes.

use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::layers::{StackFigures, measure_stack};
use wembrit_core::mesh::{Mesh, Solid, read_mesh, write_3mf, write_stl};
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::outside::meshes::file;
use crate::shapes::{Faces, block, mesh};

fn stack(mesh: &Mesh, scale: f64) -> StackFigures {
    measure_stack(&Solid::new(mesh), LayerHeight::USUAL, scale, &Unwatched)
        .expect("nobody stops it")
}

/// Blocks sunk into each other and apart. They begin and end on half millimetres: where two of them
/// overlap by less than a layer, one layer height sees it and another does not, and both are right.
fn blocks() -> impl Strategy<Value = Faces> {
    let one = (
        prop::array::uniform3(-8.0f64..8.0),
        prop::array::uniform3(1.0f64..9.0),
    );
    prop::collection::vec(one, 1..5).prop_map(|all| {
        all.into_iter()
            .flat_map(|(low, size)| {
                let half = |z: f64| (2.0 * z).round() / 2.0;
                let low = [low[0], low[1], half(low[2])];
                block(
                    low,
                    [low[0] + size[0], low[1] + size[1], low[2] + half(size[2])],
                )
            })
            .collect()
    })
}

fn turned(faces: &Faces, degrees: f64) -> Faces {
    let (sin, cos) = degrees.to_radians().sin_cos();
    faces
        .iter()
        .map(|f| f.map(|[x, y, z]| [x * cos - y * sin, x * sin + y * cos, z]))
        .collect()
}

fn close(a: f64, b: f64, share: f64) -> bool {
    (a - b).abs() <= share * a.abs().max(b.abs()) + 0.02
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 32, ..ProptestConfig::default() })]

    #[test]
    fn volume_goes_with_the_cube_and_area_with_the_square(faces in blocks(), scale in 0.4f64..2.5) {
        let (one, scaled) = (stack(&mesh(&faces), 1.0), stack(&mesh(&faces), scale));
        // A flat face between two layers is rounded to one of them: half a layer of its area.
        let surface: f64 = faces.chunks(12).map(|b| Solid::new(&mesh(&b.to_vec())).facts.surface_mm2).sum();
        let rounding = surface * 0.025 * (scale.powi(2) + scale.powi(3));
        prop_assert!((scaled.volume_mm3 - one.volume_mm3 * scale.powi(3)).abs() <= rounding, "{} {}", scaled.volume_mm3, one.volume_mm3);
        prop_assert!(close(scaled.largest_section(), one.largest_section() * scale.powi(2), 0.02));
    }

    #[test]
    fn turning_about_the_vertical_changes_nothing(faces in blocks(), degrees in 0.0f64..360.0) {
        let (one, other) = (stack(&mesh(&faces), 1.0), stack(&mesh(&turned(&faces, degrees)), 1.0));
        prop_assert_eq!(one.layers, other.layers);
        prop_assert!(close(one.volume_mm3, other.volume_mm3, 0.004), "{} {}", one.volume_mm3, other.volume_mm3);
        prop_assert!(close(one.largest_section(), other.largest_section(), 0.02));
        prop_assert!(close(one.peak_pull().1, other.peak_pull().1, 0.04));
    }

    #[test]
    fn a_shell_with_its_copy_is_itself(faces in blocks()) {
        let twice: Faces = [faces.clone(), faces.clone()].concat();
        let (one, two) = (stack(&mesh(&faces), 1.0), stack(&mesh(&twice), 1.0));
        prop_assert!(close(one.volume_mm3, two.volume_mm3, 1e-9));
        prop_assert_eq!(one.islands.len(), two.islands.len());
    }

    /// Inside out or not, the solid is the same.
    #[test]
    fn a_shell_turned_inside_out_is_the_same_solid(faces in blocks()) {
        let turned_in: Faces = faces.iter().map(|f| [f[0], f[2], f[1]]).collect();
        let (one, other) = (stack(&mesh(&faces), 1.0), stack(&mesh(&turned_in), 1.0));
        // Shells wholly inside others turn into hollows: those cases are left out.
        let nested = Solid::new(&mesh(&turned_in)).facts.inner_shells > 0;
        prop_assume!(!nested);
        prop_assert!(close(one.volume_mm3, other.volume_mm3, 1e-6), "{} {}", one.volume_mm3, other.volume_mm3);
    }

    #[test]
    fn the_union_is_no_more_than_its_shells_and_no_less_than_the_largest(faces in blocks()) {
        let union = stack(&mesh(&faces), 1.0).volume_mm3;
        let each: Vec<_> = faces.chunks(12).map(|b| Solid::new(&mesh(&b.to_vec())).facts).collect();
        let largest = each.iter().map(|f| f.volume_mm3).fold(0.0, f64::max);
        let shells: f64 = each.iter().map(|f| f.volume_mm3).sum();
        // A flat face between two layers is rounded to one of them: half a layer of its area.
        let rounding: f64 = each.iter().map(|f| f.surface_mm2 * 0.025).sum();
        prop_assert!(union <= shells + rounding && union >= largest - rounding, "{largest} {union} {shells}");
    }

    #[test]
    fn written_files_read_back_the_same(faces in blocks()) {
        let mesh = mesh(&faces);
        for (name, bytes) in [("a.stl", write_stl(&mesh)), ("a.3mf", write_3mf(&mesh).expect("it is small"))] {
            let back = read_mesh(&bytes, name).expect("it reads");
            prop_assert_eq!(back.triangles().len(), mesh.triangles().len());
            prop_assert_eq!(back.bounds(), mesh.bounds());
        }
    }
}

const NAMES: [&str; 6] = [
    "h_nan_degenerate.stl",
    "p_box.stl",
    "p_box_ascii.stl",
    "f_quads_negative.obj",
    "f_components.3mf",
    "p_torus.obj",
];

proptest! {
    #![proptest_config(ProptestConfig { cases: 2_000, ..ProptestConfig::default() })]

    /// Good files with bytes changed or cut off: read or refused in one line.
    #[test]
    fn hostile_bytes_in_a_file_are_read_or_refused(which in 0..NAMES.len(), changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..12), cut: prop::sample::Index, whole: bool) {
        let mut bytes = file(NAMES[which]);
        for (at, byte) in changes {
            let at = at.index(bytes.len());
            bytes[at] = byte;
        }
        if !whole {
            bytes.truncate(cut.index(bytes.len()));
        }
        if let Err(error) = read_mesh(&bytes, NAMES[which]) {
            let line = error.to_string();
            prop_assert!(!line.contains('\n') && line.len() < 400, "{line}");
        }
    }

    #[test]
    fn hostile_bytes_alone_are_read_or_refused(bytes in prop::collection::vec(any::<u8>(), 0..600), which in 0..3usize, head in 0..4usize) {
        let head: &[u8] = [b"".as_slice(), b"solid x\nfacet normal", b"PK\x03\x04", b"v 1 2 3\nf 1 "][head];
        let _ = read_mesh(&[head, &bytes].concat(), ["x.stl", "x.obj", "x.3mf"][which]);
    }
}

#[rstest]
#[case("h_mini_a.stl")]
#[case("h_hollow_sealed.stl")]
#[case("s_bunny.stl")]
fn threads_change_no_digit(#[case] name: &str) {
    let bytes = file(name);
    let with = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new()
            .num_threads(threads)
            .build()
            .expect("threads");
        pool.install(|| {
            measure_file(
                &bytes,
                name,
                MeasureOptions::at(LayerHeight::USUAL),
                &Unwatched,
            )
            .expect("it measures")
        })
    };
    assert_eq!(with(1), with(4));
}

/// Every fault is told, not the first alone, and in one line.
#[rstest]
#[case::obj("x.obj", b"v 0 0 0\nv 1 0 zero\nv 0 1 0\nf 1 2 9\nf 0 1 2\nf 1 2\nf 1 2 3\n".as_slice(), &["line 2 has a corner", "line 4 has a face with a corner that is not there", "line 5 has a face with index 0", "and 1 more"])]
#[case::no_zip("x.3mf", b"not a zip".as_slice(), &["no zip archive"])]
#[case::empty("x.obj", b"".as_slice(), &["the file is empty"])]
#[case::no_faces("x.obj", b"v 0 0 0\nv 1 0 0\n".as_slice(), &["no usable triangle"])]
fn faults_of_a_file_are_all_told(#[case] name: &str, #[case] bytes: &[u8], #[case] told: &[&str]) {
    let line = read_mesh(bytes, name)
        .expect_err("it is broken")
        .to_string();
    for words in told {
        assert!(line.contains(words), "{line}");
    }
    assert!(!line.contains('\n'));
}

/// A mesh that is too tall to be meant is refused before anything is cut.
#[test]
fn a_tower_of_too_many_layers_is_refused() {
    let tower = write_stl(&mesh(&block([0.0; 3], [5.0, 5.0, 30_000.0])));
    let error = measure_file(
        &tower,
        "t.stl",
        MeasureOptions::at(LayerHeight::USUAL),
        &Unwatched,
    )
    .expect_err("too tall");
    assert!(error.to_string().contains("another unit"), "{error}");
}
