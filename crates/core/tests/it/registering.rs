//! A mesh supported elsewhere comes back: moved, turned, scaled; found, measured, or refused.

use glam::{DMat3, DVec3};
use proptest::prelude::*;
use rstest::rstest;
use wembrit_core::layers::{count_contacts, measure_stack};
use wembrit_core::mesh::{Mesh, Solid, read_mesh, write_3mf, write_stl};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::register::{RegisterError, measure_print_mesh, register};
use wembrit_core::recipe::supports::{SupportPlan, SupportStyle, plan_supports};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::outside::meshes::file;

/// The bunny (see `outside::meshes`) leaning back, 40 mm long.
fn design() -> Mesh {
    let bunny = read_mesh(&file("s_bunny.stl"), "s_bunny.stl").expect("it reads");
    let (low, high) = bunny.bounds();
    let longest = (0..3).map(|k| high[k] - low[k]).fold(0.0, f64::max);
    bunny.posed(Pose::new(30.0, 90.0), 40.0 / longest)
}

fn supported(design: &Mesh) -> (Mesh, SupportPlan) {
    let plan = plan_supports(design, LayerHeight::USUAL, &SupportStyle::USUAL, &Unwatched)
        .expect("nobody stops it");
    let low = design.bounds().0[2];
    let lifted = design.shifted([0.0, 0.0, plan.lifted_mm - low]);
    // Another program writes its supports first, or last, in any order.
    (plan.mesh.with(&lifted), plan)
}

#[rstest]
#[case::as_it_was(0.0, 1.0, [0.0; 3])]
#[case::moved(0.0, 1.0, [55.0, -20.0, 0.0])]
#[case::turned(137.0, 1.0, [10.0, 3.0, 2.0])]
#[case::scaled(0.0, 1.01, [0.0, 0.0, 5.0])]
#[case::all_of_it(-63.0, 0.99, [-80.0, 40.0, 1.0])]
fn what_was_altered_elsewhere_is_found_and_told(
    #[case] degrees: f64,
    #[case] scale: f64,
    #[case] shift: [f64; 3],
) {
    let design = design();
    let (whole, plan) = supported(&design);
    let turn = DMat3::from_rotation_z(degrees.to_radians()) * scale;
    let altered = whole.mapped(|c| turn * c + DVec3::from_array(shift));
    // Out and in again as a file, as it would come.
    let back = read_mesh(&write_stl(&altered), "supported.stl").expect("it reads");
    let r = register(&design, &back, &Unwatched).expect("it is found");
    assert!((r.scale - scale).abs() < 2e-4, "{}", r.scale);
    assert!(
        (r.turned_deg() - degrees.abs()).abs() < 0.05,
        "{}",
        r.turned_deg()
    );
    assert!(
        r.leans_deg() < 0.05 && r.rms_mm < 0.01 && r.found > 0.99,
        "{r:?}"
    );
    // Where the design's origin went.
    let low = design.bounds().0[2];
    let up = DVec3::new(0.0, 0.0, plan.lifted_mm - low);
    let expected = turn * up + DVec3::from_array(shift);
    assert!(r.place(DVec3::ZERO).distance(expected) < 0.02, "{r:?}");
}

/// What is measured on the file is what was planned: resin, contacts, height.
#[test]
fn real_supports_are_measured() {
    let design = design();
    let (whole, plan) = supported(&design);
    let back =
        read_mesh(&write_3mf(&whole).expect("it writes"), "supported.3mf").expect("it reads");
    let measured =
        measure_print_mesh(&design, &back, LayerHeight::USUAL, &Unwatched).expect("it is measured");
    assert!((measured.support_mm3 / plan.support_mm3 - 1.0).abs() < 0.02);
    let contacts = plan.contacts() as f64;
    assert!(
        (measured.contacts as f64 / contacts - 1.0).abs() < 0.1,
        "{} {contacts}",
        measured.contacts
    );
    let (low, high) = whole.bounds();
    let layers = ((high[2] - low[2]) / 0.05).ceil() as u32;
    assert!(measured.stack.layers.abs_diff(layers) <= 1);
}

/// Columns in rows under a slanted board, closer together than the board cuts them: every one is a
/// contact.
#[rstest]
#[case::apart(1.6, 0.0)]
#[case::close(0.9, 0.0)]
#[case::on_a_slope(1.2, 0.4)]
#[case::on_a_steep_one(1.2, 1.2)]
fn every_column_under_a_board_is_counted(#[case] pitch: f32, #[case] slope: f32) {
    const EACH_WAY: usize = 6;
    let side = pitch * (EACH_WAY as f32 + 1.0);
    let under = |x: f32| 6.0 + slope * x;
    // A board over all of them, and under each a post of eight sides that reaches into it.
    let board: Vec<[f32; 3]> = (0..8)
        .map(|i| {
            let (x, y) = ([0.0, side][i & 1], [0.0, side][i >> 1 & 1]);
            [x, y, under(x) + [0.0, 2.0][i >> 2]]
        })
        .collect();
    const FACES: [[usize; 4]; 6] = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    let board: Vec<[[f32; 3]; 3]> = FACES
        .iter()
        .flat_map(|f| [[f[0], f[1], f[2]], [f[0], f[2], f[3]]])
        .map(|t| t.map(|i| board[i]))
        .collect();
    let post = |x: f32, y: f32| {
        let rim = move |i: usize, z: f32| {
            let (sin, cos) = (i as f32 * std::f32::consts::FRAC_PI_4).sin_cos();
            [x + 0.2 * cos, y + 0.2 * sin, z]
        };
        let top = under(x) + 0.15;
        (0..8).flat_map(move |i| {
            let (a, b, c, d) = (rim(i, 0.0), rim(i + 1, 0.0), rim(i + 1, top), rim(i, top));
            [
                [a, b, c],
                [a, c, d],
                [[x, y, 0.0], b, a],
                [[x, y, top], d, c],
            ]
        })
    };
    let posts = (0..EACH_WAY * EACH_WAY).flat_map(|i| {
        let at = |n: usize| (n as f32 + 1.0) * pitch;
        post(at(i % EACH_WAY), at(i / EACH_WAY))
    });
    let [board, posts] = [board, posts.collect()].map(|faces| Solid::new(&Mesh::weld(faces)));
    let counted = count_contacts(&board, &posts, LayerHeight::USUAL);
    assert_eq!(counted, EACH_WAY * EACH_WAY);
}

#[test]
fn a_file_that_brings_supports_is_recognised() {
    let (whole, plan) = supported(&design());
    let stack = measure_stack(&Solid::new(&whole), LayerHeight::USUAL, 1.0, &Unwatched)
        .expect("nobody stops it");
    assert!(
        stack.columns as usize * 2 > plan.columns.len(),
        "{} of {}",
        stack.columns,
        plan.columns.len()
    );
    let alone = measure_stack(&Solid::new(&design()), LayerHeight::USUAL, 1.0, &Unwatched)
        .expect("nobody stops it");
    assert_eq!(alone.columns, 0);
}

#[test]
fn another_part_is_refused_with_what_to_do() {
    let other = read_mesh(&file("h_mini_a.stl"), "h_mini_a.stl").expect("it reads");
    let refused = register(&design(), &other, &Unwatched).expect_err("another part");
    assert!(matches!(refused, RegisterError::NotFound { .. }));
    assert!(refused.to_string().contains("drop it back"));
    let itself = measure_print_mesh(&design(), &design(), LayerHeight::USUAL, &Unwatched);
    assert_eq!(itself.expect_err("no supports"), RegisterError::NoSupports);
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 12, ..ProptestConfig::default() })]

    /// Any move, turn and size between a half and double is found.
    #[test]
    fn any_similarity_is_found(x in -1.0f64..1.0, y in -1.0f64..1.0, z in -1.0f64..1.0, angle in 0.0f64..3.1, scale in 0.5f64..2.0, by in prop::array::uniform3(-90.0f64..90.0)) {
        prop_assume!(x * x + y * y + z * z > 0.01);
        let design = read_mesh(&file("h_mini_a.stl"), "h_mini_a.stl").expect("it reads");
        let turn = DMat3::from_axis_angle(DVec3::new(x, y, z).normalize(), angle);
        let altered = design.mapped(|c| turn * c * scale + DVec3::from_array(by));
        let r = register(&design, &altered, &Unwatched).expect("it is found");
        prop_assert!((r.scale / scale - 1.0).abs() < 1e-3, "{}", r.scale);
        prop_assert!((r.turned_deg() - angle.to_degrees()).abs() < 0.2, "{}", r.turned_deg());
    }
}

/// The left arm for the right one: it is told what it is, not that it is another part.
#[test]
fn a_mirror_image_is_told_as_one() {
    let design = design();
    let (whole, _) = supported(&design);
    let mirrored = whole.mapped(|c| DVec3::new(c.x, -c.y, c.z));
    assert_eq!(
        register(&design, &mirrored, &Unwatched).unwrap_err(),
        RegisterError::Mirrored
    );
}

/// Every triangle in four, and every corner moved by some micrometres: as a program that repairs and
/// remeshes writes it.
fn remeshed(mesh: &Mesh) -> Mesh {
    let middle =
        |p: [f32; 3], q: [f32; 3]| -> [f32; 3] { std::array::from_fn(|k| (p[k] + q[k]) / 2.0) };
    // The same corner moves the same way in all of its triangles.
    let moved = |p: [f32; 3]| -> [f32; 3] {
        let seed = p.iter().fold(17.0_f32, |s, c| s * 3.7 + c);
        std::array::from_fn(|k| p[k] + 0.003 * (seed * (k as f32 + 1.3)).sin())
    };
    let quarter = |f: [[f64; 3]; 3]| {
        let [a, b, c] = f.map(|p| p.map(|x| x as f32));
        let (ab, bc, ca) = (middle(a, b), middle(b, c), middle(c, a));
        [[a, ab, ca], [ab, b, bc], [ca, bc, c], [ab, bc, ca]].map(|t| t.map(moved))
    };
    Mesh::weld(mesh.faces().flat_map(quarter).collect::<Vec<_>>())
}

/// A mesh of other triangles is found by its surface, and told as such; its supports are measured.
#[rstest]
#[case::turned_and_moved(137.0, 1.0, [10.0, 3.0, 2.0])]
#[case::a_little_larger(-63.0, 1.01, [-80.0, 40.0, 1.0])]
fn a_mesh_of_other_triangles_is_found_by_its_surface(
    #[case] degrees: f64,
    #[case] scale: f64,
    #[case] shift: [f64; 3],
) {
    let design = design();
    let (whole, plan) = supported(&design);
    let turn = DMat3::from_rotation_z(degrees.to_radians()) * scale;
    let altered = remeshed(&whole).mapped(|c| turn * c + DVec3::from_array(shift));
    let found =
        measure_print_mesh(&design, &altered, LayerHeight::USUAL, &Unwatched).expect("it is found");
    let r = found.registration;
    let kept = found.found(40.0);
    assert!(r.remeshed && kept.remeshed);
    assert_eq!(kept.size_matches(), scale == 1.0, "{}", r.scale);
    assert!((r.scale - scale).abs() < 3e-3, "{}", r.scale);
    assert!(
        (r.turned_deg() - degrees.abs()).abs() < 0.5,
        "{}",
        r.turned_deg()
    );
    let low = design.bounds().0[2];
    let up = DVec3::new(0.0, 0.0, plan.lifted_mm - low);
    let expected = turn * up + DVec3::from_array(shift);
    assert!(r.place(DVec3::ZERO).distance(expected) < 0.3, "{r:?}");
    let resin = found.support_mm3 / (plan.support_mm3 * scale.powi(3));
    assert!((resin - 1.0).abs() < 0.05, "{resin}");
    let contacts = found.contacts as f64 / plan.contacts() as f64;
    assert!((contacts - 1.0).abs() < 0.2, "{contacts}");
}

/// Its mirror image is told as one there too, and another part is none.
#[test]
fn other_triangles_hide_neither_a_mirror_nor_another_part() {
    let design = design();
    let (whole, _) = supported(&design);
    let other = remeshed(&whole);
    let mirrored = other.mapped(|c| DVec3::new(c.x, -c.y, c.z));
    assert_eq!(
        register(&design, &mirrored, &Unwatched).unwrap_err(),
        RegisterError::Mirrored
    );
    let figure = read_mesh(&file("h_mini_a.stl"), "h_mini_a.stl").expect("it reads");
    assert!(matches!(
        register(&figure, &other, &Unwatched),
        Err(RegisterError::NotFound { .. })
    ));
}
