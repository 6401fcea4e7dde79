//! How thick parts are, against shapes whose walls and rods are known by construction. A round
//! thing of n sides is as thick as the circle it holds: its diameter times cos(π/n).

use std::f64::consts::PI;

use rstest::rstest;
use wembrit_core::layers::Thickness;
use wembrit_core::sculpt::measure::{MeasureOptions, measure_file};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::shapes::{Faces, block, stl};

fn thickness(faces: &Faces) -> Thickness {
    let options = MeasureOptions::at(LayerHeight::USUAL);
    let measured = measure_file(&stl(faces), "made.stl", options, &Unwatched);
    measured.expect("it measures").thickness
}

/// A closed profile of radius and height turned about the upright axis: outward where it runs
/// anticlockwise.
fn turned(profile: &[[f64; 2]], sides: usize) -> Faces {
    let at = |[r, z]: [f64; 2], i: usize| {
        let (sin, cos) = (i as f64 / sides as f64 * 2.0 * PI).sin_cos();
        [r * cos, r * sin, z]
    };
    let mut faces = Vec::new();
    for (k, p) in profile.iter().enumerate() {
        let q = profile[(k + 1) % profile.len()];
        for i in 0..sides {
            let (a, b, c, d) = (at(*p, i), at(*p, i + 1), at(q, i + 1), at(q, i));
            if p[0] > 0.0 {
                faces.push([a, b, c]);
            }
            if q[0] > 0.0 {
                faces.push([a, c, d]);
            }
        }
    }
    faces
}

fn rod(radius: f64, from: f64, to: f64, sides: usize) -> Faces {
    turned(
        &[[0.0, from], [radius, from], [radius, to], [0.0, to]],
        sides,
    )
}

fn inside_out(faces: Faces) -> Faces {
    faces.into_iter().map(|[a, b, c]| [a, c, b]).collect()
}

/// Laid over: about x, then about z.
fn leaning(faces: Faces, degrees: [f64; 2]) -> Faces {
    let [(s, c), (t, d)] = degrees.map(|a| a.to_radians().sin_cos());
    let lay = |[x, y, z]: [f64; 3]| {
        let (y, z) = (y * c - z * s, y * s + z * c);
        [x * d - y * t, x * t + y * d, z]
    };
    faces.into_iter().map(|f| f.map(lay)).collect()
}

/// Half a ball's shell of a wall, open downward.
fn helmet(outer: f64, wall: f64, sides: usize) -> Faces {
    let arc = |r: f64| {
        (0..=sides / 4).map(move |i| {
            let (sin, cos) = (i as f64 / sides as f64 * 2.0 * PI).sin_cos();
            [if 4 * i == sides { 0.0 } else { r * cos }, r * sin]
        })
    };
    let back = arc(outer - wall).collect::<Vec<_>>().into_iter().rev();
    turned(&arc(outer).chain(back).collect::<Vec<_>>(), sides)
}

/// An upright shade that widens by an angle, its wall measured straight through.
fn shade(wall: f64, degrees: f64, sides: usize) -> Faces {
    let (across, wider) = (
        wall / degrees.to_radians().cos(),
        20.0 * degrees.to_radians().tan(),
    );
    turned(
        &[
            [8.0, 0.0],
            [8.0 + across, 0.0],
            [8.0 + across + wider, 20.0],
            [8.0 + wider, 20.0],
        ],
        sides,
    )
}

/// Half a ball's profile, from its lowest point to its top.
fn ball(radius: f64, z: f64, sides: usize) -> Faces {
    let arc = (0..=sides / 2).map(|i| {
        let (sin, cos) = (i as f64 / sides as f64 * 2.0 * PI).sin_cos();
        let at_axis = i == 0 || 2 * i == sides;
        [if at_axis { 0.0 } else { radius * sin }, z - radius * cos]
    });
    turned(&arc.collect::<Vec<_>>(), sides)
}

/// A head and shoulders on a column of 16 mm over a socle.
fn bust(sides: usize) -> Faces {
    [
        rod(20.0, 0.0, 22.0, sides),
        rod(8.0, 20.0, 52.0, sides),
        ball(17.0, 62.0, sides),
        ball(13.0, 84.0, sides),
    ]
    .concat()
}

/// Two wheels on an axle.
fn wheels(axle: f64, sides: usize) -> Faces {
    [
        rod(8.0, 0.0, 3.0, sides),
        rod(8.0, 20.0, 23.0, sides),
        rod(axle, 1.0, 22.0, sides),
    ]
    .concat()
}

/// A rim, its hub, and spokes between them.
fn wheel(spoke: f64, sides: usize) -> Faces {
    let mut faces = turned(&[[8.5, -1.5], [10.0, -1.5], [10.0, 1.5], [8.5, 1.5]], sides);
    faces.extend(rod(1.5, -1.5, 1.5, sides));
    for i in 0..6 {
        faces.extend(leaning(
            rod(spoke, 1.0, 9.0, sides),
            [90.0, 60.0 * f64::from(i)],
        ));
    }
    faces
}

fn walled_box(wall: f64) -> Faces {
    let inner = block([wall; 3], [20.0 - wall, 30.0 - wall, 25.0 - wall]);
    [block([0.0; 3], [20.0, 30.0, 25.0]), inside_out(inner)].concat()
}

/// A plate sunk upright into a body.
fn blade(thick: f64) -> Faces {
    [
        block([-8.0, -8.0, 0.0], [8.0, 8.0, 12.0]),
        block([-thick / 2.0, -2.0, 10.0], [thick / 2.0, 2.0, 24.0]),
    ]
    .concat()
}

/// Within a pixel or a twentieth, lying and leaning.
#[rstest]
#[case::rod_of_8(rod(5.0, 0.0, 28.0, 8), 10.0 * (PI / 8.0).cos())]
#[case::rod_of_32(rod(5.0, 0.0, 28.0, 32), 10.0)]
#[case::rod_of_200(rod(5.0, 0.0, 28.0, 200), 10.0)]
#[case::ring_of_12(turned(&[[11.7, 0.0], [12.0, 0.0], [12.0, 10.0], [11.7, 10.0]], 12), 0.3)]
#[case::ring_of_200(turned(&[[11.7, 0.0], [12.0, 0.0], [12.0, 10.0], [11.7, 10.0]], 200), 0.3)]
#[case::box_wall(walled_box(0.4), 0.4)]
#[case::helmet_of_24(helmet(15.0, 2.5, 24), 2.5 * (PI / 24.0).cos())]
#[case::helmet_of_96(helmet(15.0, 2.5, 96), 2.5)]
#[case::shade_of_32(shade(1.0, 20.0, 32), 1.0)]
#[case::wide_shade_of_32(shade(1.0, 45.0, 32), 1.0)]
#[case::wide_shade_of_200(shade(1.0, 45.0, 200), 1.0)]
#[case::thin_wide_shade(shade(0.6, 45.0, 96), 0.6)]
#[case::flat_shade_of_32(shade(1.0, 60.0, 32), 1.0)]
#[case::flat_shade_of_200(shade(1.0, 60.0, 200), 1.0)]
#[case::bust_of_16(bust(16), 16.0 * (PI / 16.0).cos())]
#[case::bust_of_96(bust(96), 16.0)]
#[case::axle_of_8(wheels(0.45, 8), 0.9 * (PI / 8.0).cos())]
#[case::axle_of_64(wheels(0.45, 64), 0.9)]
#[case::spokes_of_8(wheel(0.3, 8), 0.6 * (PI / 8.0).cos())]
#[case::spokes_of_64(wheel(0.3, 64), 0.6)]
#[case::blade(blade(0.3), 0.3)]
#[case::a_block(block([0.0; 3], [30.0, 20.0, 25.0]), 20.0)]
fn the_thinnest_wall_or_rod_is_found(#[case] faces: Faces, #[case] expected: f64) {
    for faces in [faces.clone(), leaning(faces, [37.0, 23.0])] {
        let found = thickness(&faces).thinnest.expect("it has two sides");
        let off = (found.mm - expected).abs();
        assert!(
            off <= (0.05 * expected).max(0.05),
            "{found:?} is not {expected}"
        );
    }
}

/// The axle of two wheels carries one of them: π·8²·3 = 603 mm³ and half of its own. A slab has
/// no neck, however thin, and a stub of less than 5 mm³ is none.
#[rstest]
#[case::axle(wheels(0.45, 64), Some((0.9, 606.0)))]
#[case::blade(blade(0.3), Some((0.3, 12.0)))]
#[case::slab(block([0.0; 3], [40.0, 30.0, 0.8]), None)]
#[case::walls(walled_box(0.4), None)]
#[case::stub([block([0.0; 3], [12.0, 12.0, 12.0]), block([5.0, 5.0, 11.0], [6.0, 6.0, 15.0])].concat(), None)]
fn a_neck_carries_something(#[case] faces: Faces, #[case] expected: Option<(f64, f64)>) {
    let found = thickness(&faces).neck;
    let told = found.map(|n| (n.thin.mm, n.hangs_mm3));
    match (told, expected) {
        (None, None) => {}
        (Some((mm, mm3)), Some((thick, hangs))) => {
            assert!((mm - thick).abs() <= 0.05, "{found:?}");
            assert!((mm3 / hangs - 1.0).abs() < 0.2, "{found:?}");
        }
        _ => panic!("{found:?} is not {expected:?}"),
    }
}

/// Relief that is lower than it is wide is no wall, and a ball is as thick as it is.
#[test]
fn relief_is_no_wall() {
    let ridge = |i: f64| block([2.0 + i, 0.0, 19.9], [2.3 + i, 20.0, 20.1]);
    let faces = [
        block([0.0; 3], [20.0, 20.0, 20.0]),
        ridge(0.0),
        ridge(3.0),
        ridge(6.0),
    ]
    .concat();
    let found = thickness(&faces).thinnest.expect("it has two sides");
    assert!((found.mm - 20.0).abs() < 0.3, "{found:?}");
}
