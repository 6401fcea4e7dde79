//! Herons, their riders, eels.

use super::shapes::{Shell, ball, limb};
use super::{DemoSculpt, Flaw};

pub(super) fn sculpts() -> Vec<DemoSculpt> {
    vec![
        DemoSculpt::new("war_heron.stl", Flaw::None, heron()),
        DemoSculpt::new("heron_rider.stl", Flaw::None, rider()),
        DemoSculpt::new("draught_eel.stl", Flaw::None, eel()),
    ]
}

fn heron() -> Vec<Shell> {
    let body = Shell::of(
        2.0,
        vec![
            ball([0.0, 0.0, 27.0], [6.0, 11.0, 6.0]),
            limb([0.0, -7.0, 29.0], [0.0, -14.0, 38.0], 3.2, 2.0),
            limb([0.0, -14.0, 38.0], [0.0, -10.5, 46.0], 2.0, 1.7),
            limb([0.0, -10.5, 46.0], [0.0, -15.0, 51.0], 1.7, 2.2),
        ],
    );
    let beak = Shell::of(
        0.3,
        vec![limb([0.0, -15.5, 51.2], [0.0, -27.0, 49.0], 1.5, 0.5)],
    );
    let crest = Shell::of(
        0.3,
        vec![limb([0.0, -14.0, 52.4], [0.0, -7.0, 55.0], 0.9, 0.45)],
    );
    let tail = Shell::of(
        0.8,
        vec![limb([0.0, 8.0, 26.0], [0.0, 20.0, 21.0], 3.6, 1.4)],
    );
    let leg = |x: f32, y: f32| {
        Shell::of(
            0.4,
            vec![
                limb([x, 1.0, 24.0], [x, y + 3.0, 13.0], 1.8, 1.0),
                limb([x, y + 3.0, 13.0], [x, y, 1.0], 1.0, 0.9),
                limb([x, y, 0.9], [x + 2.8, y - 4.0, 0.9], 0.9, 0.7),
                limb([x, y, 0.9], [x - 2.8, y - 4.0, 0.9], 0.9, 0.7),
                limb([x, y, 0.9], [x, y + 3.6, 0.9], 0.9, 0.7),
            ],
        )
    };
    let wing = |side: f32| {
        Shell::of(
            1.2,
            vec![
                limb([side * 4.0, -2.0, 29.0], [side * 17.0, 0.0, 38.0], 2.4, 1.7),
                limb([side * 17.0, 0.0, 38.0], [side * 27.0, 8.0, 34.0], 1.7, 0.9),
                limb(
                    [side * 10.0, 1.0, 33.0],
                    [side * 15.0, 13.0, 26.0],
                    2.0,
                    0.9,
                ),
                limb(
                    [side * 15.0, 1.0, 36.0],
                    [side * 21.0, 13.0, 28.0],
                    1.8,
                    0.9,
                ),
                limb([side * 5.0, 1.0, 29.0], [side * 9.0, 13.0, 24.0], 2.2, 1.0),
            ],
        )
    };
    vec![
        body,
        beak,
        crest,
        tail,
        leg(3.2, -2.0),
        leg(-3.2, 4.0),
        wing(1.0),
        wing(-1.0),
    ]
}

fn rider() -> Vec<Shell> {
    let leg = |x: f32| {
        Shell::of(
            0.6,
            vec![
                limb([x * 0.5, 0.0, 8.0], [x, -3.0, 5.5], 2.0, 1.6),
                limb([x, -3.0, 5.5], [x * 1.05, -1.5, 0.9], 1.5, 1.1),
            ],
        )
    };
    vec![
        leg(5.4),
        leg(-5.4),
        Shell::of(
            1.0,
            vec![
                ball([0.0, 0.0, 8.6], [3.4, 2.8, 2.6]),
                limb([0.0, 0.0, 9.0], [0.0, -1.4, 16.0], 2.7, 3.4),
            ],
        ),
        Shell::of(
            0.5,
            vec![
                ball([0.0, -2.0, 20.8], [2.0, 2.2, 2.5]),
                limb([0.0, -1.4, 17.0], [0.0, -1.8, 19.5], 1.3, 1.2),
            ],
        ),
        Shell::of(
            0.4,
            vec![limb([3.2, -1.4, 15.6], [6.0, -5.5, 13.0], 1.3, 1.0)],
        ),
        Shell::of(
            0.4,
            vec![limb([-3.2, -1.4, 15.6], [-7.0, -3.0, 18.5], 1.3, 1.0)],
        ),
        Shell::of(
            0.2,
            vec![limb([-7.4, 8.0, 13.5], [-7.0, -22.0, 24.0], 0.65, 0.55)],
        ),
        Shell::of(
            0.6,
            vec![
                limb([0.0, 1.4, 16.0], [0.0, 9.0, 10.0], 2.6, 1.2),
                limb([0.0, 1.4, 16.0], [3.0, 8.0, 9.0], 2.2, 1.0),
            ],
        ),
    ]
}

fn eel() -> Vec<Shell> {
    // A body that winds over the ground, in overlapping lengths.
    let along: Vec<[f32; 3]> = (0..15)
        .map(|i| {
            let t = i as f32 / 14.0;
            [
                14.0 * (t * 9.0).sin() * (1.0 - 0.4 * t),
                -34.0 + 68.0 * t,
                4.4 + 7.0 * (1.0 - t).powi(3),
            ]
        })
        .collect();
    let lengths: Vec<Shell> = along
        .chunks(3)
        .enumerate()
        .map(|(i, _)| {
            let (a, b) = (i * 3, (i * 3 + 3).min(14));
            let r = |k: usize| 4.2 - 2.6 * k as f32 / 14.0;
            Shell::of(
                0.8,
                (a..b)
                    .map(|k| limb(along[k], along[k + 1], r(k), r(k + 1)))
                    .collect(),
            )
        })
        .collect();
    let head = along[0];
    let mut shells = lengths;
    shells.push(Shell::of(
        1.0,
        vec![
            ball([head[0], head[1] - 3.0, head[2] + 0.6], [3.8, 6.5, 3.4]),
            limb(
                [head[0], head[1] - 7.0, head[2] - 1.4],
                [head[0], head[1] - 11.0, head[2] - 1.0],
                2.6,
                1.5,
            ),
        ],
    ));
    shells.push(Shell::of(
        0.4,
        vec![limb(
            [along[4][0], along[4][1], along[4][2] + 2.6],
            [along[6][0], along[6][1], along[6][2] + 5.4],
            1.0,
            0.6,
        )],
    ));
    shells
}
