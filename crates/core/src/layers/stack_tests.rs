//! The hardest layer against every layer solved.

use std::f64::consts::TAU;

use glam::DVec3;
use rstest::rstest;

use super::*;
use crate::mesh::Mesh;
use crate::pose::Pose;
use crate::watch::Unwatched;

type Faces = Vec<[DVec3; 3]>;

/// A closed prism over corners that run counter-clockwise.
fn prism(corners: &[[f64; 2]], low: f64, high: f64) -> Faces {
    let at = |i: usize, z: f64| {
        let [x, y] = corners[i % corners.len()];
        DVec3::new(x, y, z)
    };
    let mut faces = Faces::new();
    for i in 0..corners.len() {
        let (a, b, c, d) = (at(i, low), at(i + 1, low), at(i + 1, high), at(i, high));
        faces.extend([[a, b, c], [a, c, d]]);
        if i > 0 && i + 1 < corners.len() {
            faces.extend([[at(0, low), b, a], [at(0, high), d, c]]);
        }
    }
    faces
}

fn bar(from: f64, to: f64, half: f64, turn: f64) -> Vec<[f64; 2]> {
    let (sin, cos) = turn.sin_cos();
    [[from, -half], [to, -half], [to, half], [from, half]]
        .map(|[x, y]| [x * cos - y * sin, x * sin + y * cos])
        .to_vec()
}

/// A toothed wheel on spokes: its holes are open at both sides.
fn gear() -> Faces {
    let polar = |r: f64, turn: f64| [r * turn.cos(), r * turn.sin()];
    let hub: Vec<[f64; 2]> = (0..32)
        .map(|i| polar(4.0, f64::from(i) / 32.0 * TAU))
        .collect();
    let mut faces = prism(&hub, 0.0, 6.0);
    for i in 0..40 {
        let (a, b) = (
            f64::from(i) / 40.0 * TAU,
            f64::from(i + 1) / 40.0 * TAU + 0.01,
        );
        let rim = [polar(9.0, a), polar(12.0, a), polar(12.0, b), polar(9.0, b)];
        faces.extend(prism(&rim, 0.0, 6.0));
    }
    for i in 0..5 {
        faces.extend(prism(
            &bar(3.0, 10.0, 1.5, f64::from(i) / 5.0 * TAU),
            0.0,
            6.0,
        ));
    }
    for i in 0..14 {
        faces.extend(prism(
            &bar(11.0, 14.0, 1.2, f64::from(i) / 14.0 * TAU),
            0.0,
            6.0,
        ));
    }
    faces
}

fn bracket() -> Faces {
    let slab = |x: [f64; 2], low: f64, high: f64| {
        prism(
            &[[x[0], 0.0], [x[1], 0.0], [x[1], 16.0], [x[0], 16.0]],
            low,
            high,
        )
    };
    [
        slab([0.0, 30.0], 0.0, 3.0),
        slab([0.0, 3.0], 0.0, 24.0),
        slab([27.0, 30.0], 0.0, 24.0),
    ]
    .concat()
}

fn sphere(radius: f64, outward: bool) -> Faces {
    let at = |i: usize, j: usize| {
        let (u, v) = (i as f64 / 64.0 * TAU, (j as f64 / 32.0) * TAU / 2.0);
        radius * DVec3::new(v.sin() * u.cos(), v.sin() * u.sin(), -v.cos())
    };
    let mut faces = Faces::new();
    for i in 0..64 {
        for j in 0..32 {
            let (a, b, c, d) = (at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1));
            faces.extend([[a, b, c], [a, c, d]]);
        }
    }
    if !outward {
        faces.iter_mut().for_each(|f| f.swap(1, 2));
    }
    faces
}

/// Sealed hollows in each other.
fn nested_spheres() -> Faces {
    [sphere(14.0, true), sphere(11.0, false), sphere(8.0, true)].concat()
}

fn welded(faces: &Faces) -> Mesh {
    Mesh::weld(faces.iter().map(|f| f.map(|c| c.as_vec3().to_array())))
}

#[rstest]
#[case::a_gear(gear(), 28.0)]
#[case::a_gear_upright(gear(), 0.0)]
#[case::nested_spheres(nested_spheres(), 0.0)]
#[case::a_bracket(bracket(), 70.0)]
#[case::a_bracket_leaning(bracket(), 35.0)]
#[case::a_ball(sphere(10.0, true), 0.0)]
fn no_layer_pulls_harder_than_the_peak(#[case] faces: Faces, #[case] back_deg: f64) {
    let solid = Solid::new(&welded(&faces)).posed(Pose::new(back_deg, 90.0));
    let slicer = Slicer::new(&solid, LayerHeight::USUAL, 1.0);
    let (mut figures, suction) = read_all(&slicer, &Unwatched).unwrap();
    let hardest = (0..figures.pull.len())
        .step_by(3)
        .map(|k| {
            let pull = pull::solve(
                &slicer.cut_layer(k),
                &slicer.grid,
                &suction.sealed[k],
                Closeness::Close,
            );
            assert!(
                pull <= suction.most[k] * 1.02 + 1e-6,
                "layer {k}: {pull} of {}",
                suction.most[k]
            );
            pull
        })
        .fold(0.0, f64::max);
    let solved = solve_roughly(&slicer, &figures, &suction, &Unwatched).unwrap();
    set_peak(&slicer, &mut figures, &suction, solved);
    let (at, peak) = figures.peak;
    assert!(
        (peak / hardest - 1.0).abs() < 0.02,
        "{peak} told at layer {at}, {hardest} solved"
    );
    assert!(figures.pull.iter().all(|p| *p <= peak));
    assert_eq!(figures.pull[at], peak);
}

/// A hollow ball with a drain at its lowest point, by rings.
fn drained_ball(radius: f64, wall: f64, drain: f64) -> Faces {
    const ROWS: usize = 400;
    let arc = |r: f64| {
        let from = (drain / r).asin();
        (0..=ROWS).map(move |i| {
            let v = from + (TAU / 2.0 - from) * i as f64 / ROWS as f64;
            [r * v.sin().max(0.0), -r * v.cos()]
        })
    };
    let inner: Vec<[f64; 2]> = arc(radius - wall).collect();
    let profile: Vec<[f64; 2]> = arc(radius).chain(inner.into_iter().rev()).collect();
    let at = |[r, z]: [f64; 2], i: usize| {
        let (sin, cos) = (i as f64 / 96.0 * TAU).sin_cos();
        DVec3::new(r * cos, r * sin, z)
    };
    let mut faces = Faces::new();
    for (k, p) in profile.iter().enumerate() {
        let q = profile[(k + 1) % profile.len()];
        for i in 0..96 {
            let (a, b, c, d) = (at(*p, i), at(*p, i + 1), at(q, i + 1), at(q, i));
            faces.extend([[a, b, c], [a, c, d]]);
        }
    }
    faces
}

/// Resin comes into a ball through its drain: until its hollow closes rings pull, which are little,
/// and the disc over the hollow most, as wide as the ball is at the first layer whose middle lies above
/// the hollow. On the layer before, the hollow is a hole as small as it lies deep under its top.
#[rstest]
fn a_drained_ball_pulls_hardest_where_its_hollow_closes(
    #[values(6.0, 10.0, 15.0)] radius: f64,
    #[values(0.5, 2.5)] drain: f64,
    #[values(0.0005, 0.0016, 0.01, 0.03)] deep: f64,
    #[values(0.03, 0.05)] thick: f64,
) {
    let lowest = f64::sqrt(radius * radius - drain * drain);
    let before = ((lowest + radius - 0.8) / thick).floor() - 0.5;
    let top = before * thick + deep - lowest;
    let solid = Solid::new(&welded(&drained_ball(radius, radius - top, drain)));
    let layer = LayerHeight::from_mm(thick).unwrap();
    let first = top.max((before + 1.0) * thick - lowest);
    let disc = (radius * radius - first * first).powi(2) * TAU / 4.0 / pull::PULL_OF_DISC;
    let figures = measure_stack(&solid, layer, 1.0, &Unwatched).unwrap();
    let (_, peak) = figures.peak_pull();
    assert!(
        (peak / disc - 1.0).abs() < 0.03,
        "{peak} told, {disc} by hand"
    );
}
