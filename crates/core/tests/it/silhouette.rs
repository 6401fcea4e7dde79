//! Silhouettes and skylines contain the part, whatever it looks like.

use proptest::prelude::*;
use wembrit_core::geometry::Point;
use wembrit_core::layers::{measure_height_profile, measure_silhouette};
use wembrit_core::mesh::Mesh;

/// An upright box as twelve triangles.
fn block(low: [f32; 3], high: [f32; 3]) -> Vec<[[f32; 3]; 3]> {
    let corner = |i: usize| std::array::from_fn(|k| if i >> k & 1 == 0 { low[k] } else { high[k] });
    let faces = [
        [0, 2, 3, 1],
        [4, 5, 7, 6],
        [0, 1, 5, 4],
        [2, 6, 7, 3],
        [0, 4, 6, 2],
        [1, 3, 7, 5],
    ];
    faces
        .iter()
        .flat_map(|f: &[usize; 4]| [[f[0], f[1], f[2]], [f[0], f[2], f[3]]])
        .map(|t| t.map(corner))
        .collect()
}

fn holds(corners: &[Point], p: Point) -> bool {
    let next = corners.iter().cycle().skip(1);
    corners
        .iter()
        .zip(next)
        .filter(|(a, b)| (a[1] <= p[1]) != (b[1] <= p[1]))
        .fold(false, |inside, (a, b)| {
            inside ^ (p[0] < a[0] + (p[1] - a[1]) / (b[1] - a[1]) * (b[0] - a[0]))
        })
}

#[test]
fn an_l_keeps_its_corner_and_its_hand() {
    let mut faces = block([0.0, 0.0, 0.0], [30.0, 6.0, 5.0]);
    faces.extend(block([0.0, 0.0, 0.0], [6.0, 40.0, 12.0]));
    let mesh = Mesh::weld(faces);
    let outline = measure_silhouette(&mesh).expect("it has an area");
    // Area of the L is 384 mm²; its hull would have 792.
    assert!(
        outline.area_mm2() > 384.0 && outline.area_mm2() < 430.0,
        "{}",
        outline.area_mm2()
    );
    assert!(outline.is_simple());
    // Seen from the film, x to the right and y up: the long leg stands at the left.
    assert!(holds(outline.corners(), [-12.0, 15.0]) && !holds(outline.corners(), [12.0, 15.0]));
    let skyline = measure_height_profile(&mesh).skyline(0.0, 2.0);
    let top = skyline.iter().map(|p| p[1]).fold(0.0, f64::max);
    let tall: Vec<f64> = skyline
        .iter()
        .filter(|p| p[1] > 20.0)
        .map(|p| p[0])
        .collect();
    assert!(
        (top - 24.0).abs() < 1e-9 && tall.iter().all(|x| *x < -17.0),
        "{tall:?}"
    );
}

#[test]
fn two_pieces_apart_get_their_common_hull() {
    let mut faces = block([0.0, 0.0, 0.0], [5.0, 5.0, 5.0]);
    faces.extend(block([20.0, 0.0, 0.0], [25.0, 5.0, 5.0]));
    let outline = measure_silhouette(&Mesh::weld(faces)).expect("it has an area");
    assert!(outline.area_mm2() > 125.0 && outline.area_mm2() < 140.0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn no_corner_of_the_mesh_is_outside_silhouette_or_skyline(
        blocks in proptest::collection::vec((-20.0f32..20.0, -20.0f32..20.0, 0.0f32..30.0, 1.0f32..15.0, 1.0f32..15.0, 1.0f32..15.0), 1..6),
        turn in 0usize..36,
    ) {
        let faces = blocks.iter().flat_map(|(x, y, z, w, d, h)| block([*x, *y, *z], [x + w, y + d, z + h]));
        let mesh = Mesh::weld(faces);
        let outline = measure_silhouette(&mesh).expect("it has an area");
        prop_assert!(outline.is_simple());
        let (low, high) = mesh.bounds();
        let turn = turn as f64 * 10.0;
        let reach = measure_height_profile(&mesh);
        let (sin, cos) = turn.to_radians().sin_cos();
        for corner in mesh.corners() {
            let [x, y, z] = std::array::from_fn(|k| f64::from(corner[k]) - if k < 2 { (low[k] + high[k]) / 2.0 } else { low[2] });
            prop_assert!(holds(outline.corners(), [x, y]), "{x} {y}");
            let turned = x * cos - y * sin;
            let band = reach.0.iter().find(|b| z >= b.from_mm - 1e-9 && z <= b.to_mm + 1e-9 && b.span_mm(turn).is_some_and(|(l, r)| l - 1e-6 <= turned && turned <= r + 1e-6));
            prop_assert!(band.is_some(), "{turned} at {z}");
        }
    }
}

/// The shadow of a disc, of a bar and of a ring of posts, against their true areas: no more than the
/// room that keeps it outside.
#[test]
fn a_silhouette_is_hardly_larger_than_the_shadow() {
    const SIDES: usize = 360;
    let prism = |corners: &[[f32; 2]]| {
        let at = |i: usize, z: f32| {
            [
                corners[i % corners.len()][0],
                corners[i % corners.len()][1],
                z,
            ]
        };
        let wedge = |i: usize| {
            let (a, b, c, d) = (at(i, 0.0), at(i + 1, 0.0), at(i + 1, 9.0), at(i, 9.0));
            vec![[a, b, c], [a, c, d], [at(0, 0.0), b, a], [at(0, 9.0), d, c]]
        };
        (0..corners.len()).flat_map(wedge).collect::<Vec<_>>()
    };
    let round = |r: f32| -> Vec<[f32; 2]> {
        let turn = |i: usize| i as f32 / SIDES as f32 * std::f32::consts::TAU;
        (0..SIDES)
            .map(|i| [r * turn(i).cos(), r * turn(i).sin()])
            .collect()
    };
    let slanted: Vec<[f32; 2]> = [[0.0, 0.0], [40.0, 40.0], [38.6, 41.4], [-1.4, 1.4]].to_vec();
    for (shape, area) in [
        (round(12.5), 490.9),
        (round(30.0), 2827.3),
        (slanted, 112.0),
    ] {
        let outline = measure_silhouette(&Mesh::weld(prism(&shape))).expect("it has an area");
        let over = outline.area_mm2() / area - 1.0;
        // The bar is 2 mm wide: a tenth of a millimetre on either side is a tenth of it.
        let most = if area < 200.0 { 0.13 } else { 0.02 };
        assert!((0.0..most).contains(&over), "{over} of {area}");
        assert!(outline.corners().len() < 80, "{}", outline.corners().len());
    }
}
