//! Pressing: what it measures against exact outlines and differences, and that it gets copies apart.

use proptest::prelude::*;
use rstest::rstest;

use super::super::nest::clear;
use super::super::pack_tests::{base, ell};
use super::*;
use crate::geometry::Outline;

/// An ell, a base, a narrow bar.
fn kinds() -> Vec<Outline> {
    vec![ell(), base(25.0), Outline::rectangle(30.0, 3.0)]
}

const CLEARANCE: f64 = 1.5;

fn shapes() -> Vec<Shape> {
    kinds().iter().map(|o| Shape::new(o, CLEARANCE)).collect()
}

fn press(shapes: &[Shape], size: Point) -> Press<'_> {
    Press {
        shapes,
        size,
        clearance: CLEARANCE,
        care: Care::QUICK,
    }
}

fn corners(kinds: &[Outline], shapes: &[Shape], copy: Pressed) -> Vec<Point> {
    let (at, turn) = copy.pose.origin(&shapes[copy.item]);
    kinds[copy.item].placed(turn, at).corners().to_vec()
}

fn is_apart(kinds: &[Outline], shapes: &[Shape], a: Pressed, b: Pressed, by: f64) -> bool {
    let (a, b) = (corners(kinds, shapes, a), corners(kinds, shapes, b));
    clear(&a, [0.0, 0.0], &b, by)
}

proptest! {
    /// Nothing is measured where copies are well apart, and something where they are not.
    #[test]
    fn overlap_agrees_with_exact_outlines(
        one in 0_usize..3, two in 0_usize..3,
        x in -30.0_f64..30.0, y in -30.0_f64..30.0,
        turn in 0.0_f64..360.0, other in 0.0_f64..360.0,
    ) {
        let (kinds, shapes) = (kinds(), shapes());
        let press = press(&shapes, [400.0, 400.0]);
        let a = Pressed { item: one, pose: Pose::of(&shapes[one], [200.0, 200.0], turn) };
        let b = Pressed { item: two, pose: Pose::of(&shapes[two], [200.0 + x, 200.0 + y], other) };
        let mut push = Push::default();
        press.pair(a, b, 0.0, 1.0, &mut push);
        if is_apart(&kinds, &shapes, a, b, CLEARANCE + 0.25) {
            prop_assert!(push.energy <= 0.0, "apart, yet {}", push.energy);
        }
        if !is_apart(&kinds, &shapes, a, b, CLEARANCE - 0.25) {
            prop_assert!(push.energy > 0.0, "too near, yet nothing");
        }
    }

    /// The slope is what the energy does when the copy is shifted or turned a hair.
    #[test]
    fn the_slope_is_that_of_the_energy(
        one in 0_usize..3, two in 0_usize..3,
        x in -12.0_f64..12.0, y in -12.0_f64..12.0, turn in 0.0_f64..360.0,
    ) {
        let shapes = shapes();
        let press = press(&shapes, [24.0, 400.0]);
        let b = Pressed { item: two, pose: Pose::of(&shapes[two], [12.0, 200.0], 33.0) };
        let at = |dx: f64, dy: f64, dt: f64| {
            let pose = Pose::of(&shapes[one], [12.0, 200.0], turn);
            let pose = Pose::new(
                [pose.at[0] + x + dx, pose.at[1] + y + dy],
                pose.turn + dt / shapes[one].radius,
            );
            let a = Pressed { item: one, pose };
            let mut push = press.rim(a);
            press.pair(a, b, 0.0, 1.0, &mut push);
            push
        };
        const HAIR: f64 = 1e-3;
        let here = at(0.0, 0.0, 0.0);
        let sides = [
            (at(HAIR, 0.0, 0.0), at(-HAIR, 0.0, 0.0)),
            (at(0.0, HAIR, 0.0), at(0.0, -HAIR, 0.0)),
            (at(0.0, 0.0, HAIR), at(0.0, 0.0, -HAIR)),
        ];
        // A point that leaves a field or a cell makes an edge: the slope is that of one side of
        // it, or between them.
        let whole = here.slope.iter().map(|s| s.abs()).fold(1.0, f64::max);
        for (slope, (after, before)) in here.slope.iter().zip(sides) {
            let ahead = (after.energy - here.energy) / HAIR;
            let behind = (here.energy - before.energy) / HAIR;
            let off = (slope - slope.clamp(ahead.min(behind), ahead.max(behind))).abs();
            prop_assert!(off < 0.06 * whole + 2.0, "{slope} {ahead} {behind}");
        }
    }
}

/// Copies that lie on each other exactly get apart: points along an outline alone would not see how
/// deep they are in each other.
#[rstest]
#[case::ells(0, [60.0, 50.0])]
#[case::bases(1, [90.0, 54.0])]
#[case::bars(2, [34.0, 24.0])]
fn copies_on_each_other_get_apart(#[case] item: usize, #[case] size: Point) {
    let (kinds, shapes) = (kinds(), shapes());
    let press = press(&shapes, size);
    let middle = Pose::new(size.map(|s| s / 2.0), 0.0);
    let mut copies = vec![Pressed { item, pose: middle }; 4];
    let mut budget = 2_000_000;
    let apart = press.part(
        &mut copies,
        &[0, 1, 2, 3],
        &mut budget,
        &mut Rng(1),
        &|copies, i, j| is_apart(&kinds, &shapes, copies[i], copies[j], CLEARANCE),
    );
    assert!(apart);
    for i in 0..4 {
        for corner in corners(&kinds, &shapes, copies[i]) {
            assert!(
                (0..2).all(|k| (0.0..=size[k]).contains(&corner[k])),
                "{corner:?}"
            );
        }
        for j in 0..i {
            assert!(is_apart(&kinds, &shapes, copies[i], copies[j], CLEARANCE));
        }
    }
}
