//! Bases, the siege punt, the jetty and what lies on it.

use super::shapes::{Shell, ball, block, drum, limb};
use super::{DemoSculpt, Flaw};

pub(super) fn sculpts() -> Vec<DemoSculpt> {
    vec![
        DemoSculpt::new("mud_base_25.stl", Flaw::None, base(12.5)),
        DemoSculpt::new("mud_base_40.stl", Flaw::None, base(20.0)),
        DemoSculpt::new("siege_punt_hull.stl", Flaw::Cup, punt()),
        DemoSculpt::new("punt_mast.stl", Flaw::None, mast()),
        DemoSculpt::new("marsh_idol.stl", Flaw::SealedHollow, idol()),
        DemoSculpt::new("jetty_span.stl", Flaw::None, jetty()),
        DemoSculpt::new("eel_cask.stl", Flaw::OneWayOut, cask()),
    ]
}

fn base(radius: f32) -> Vec<Shell> {
    let r = radius - 0.3;
    vec![
        Shell::of(0.2, vec![drum([0.0, 0.0, 1.6], r, 1.6)]),
        Shell::of(
            0.6,
            vec![
                ball([r * 0.3, r * 0.35, 3.2], [r * 0.4, r * 0.32, 0.9]),
                ball([-r * 0.35, -r * 0.3, 3.2], [r * 0.35, r * 0.42, 0.8]),
            ],
        ),
        Shell::of(
            0.2,
            vec![
                limb(
                    [r * 0.5, -r * 0.45, 2.6],
                    [r * 0.58, -r * 0.5, 8.0],
                    0.6,
                    0.5,
                ),
                limb(
                    [r * 0.4, -r * 0.55, 2.6],
                    [r * 0.36, -r * 0.66, 6.6],
                    0.6,
                    0.5,
                ),
            ],
        ),
    ]
}

fn punt() -> Vec<Shell> {
    let hull = Shell::of(
        3.0,
        vec![
            block([0.0, 0.0, 9.0], [44.0, 17.0, 9.0], 3.0),
            limb([40.0, 0.0, 9.0], [56.0, 0.0, 15.0], 9.0, 3.0),
            limb([-40.0, 0.0, 9.0], [-52.0, 0.0, 14.0], 9.5, 5.0),
        ],
    );
    // The hold is open upward: toward the film, as it hangs.
    let hold = vec![block([0.0, 0.0, 14.0], [38.0, 13.5, 10.5], 1.5)];
    let thwart = |x: f32| Shell::of(0.3, vec![block([x, 0.0, 14.0], [1.8, 15.0, 1.0], 0.4)]);
    let rail = |y: f32| Shell::of(0.4, vec![limb([-43.0, y, 18.2], [43.0, y, 18.2], 1.4, 1.4)]);
    vec![
        hull.carved(hold),
        thwart(-18.0),
        thwart(18.0),
        rail(15.6),
        rail(-15.6),
    ]
}

fn mast() -> Vec<Shell> {
    vec![
        Shell::of(0.4, vec![limb([0.0, 0.0, 1.6], [0.0, 0.0, 88.0], 1.6, 1.1)]),
        Shell::of(
            0.4,
            vec![limb([-22.0, 0.0, 72.0], [22.0, 0.0, 76.0], 0.9, 0.9)],
        ),
        Shell::of(
            0.6,
            vec![limb([-20.0, 0.0, 70.0], [20.0, 0.6, 74.0], 1.5, 1.5)],
        ),
        Shell::of(0.4, vec![drum([0.0, 0.0, 62.0], 4.6, 1.2)]),
    ]
}

fn idol() -> Vec<Shell> {
    let grown = |grow: f32| {
        vec![
            ball([0.0, 0.0, 14.0], [15.0 + grow, 13.0 + grow, 14.0 + grow]),
            ball([0.0, -1.5, 34.0], [10.5 + grow, 10.0 + grow, 11.0 + grow]),
        ]
    };
    let horn = |side: f32| {
        Shell::of(
            0.6,
            vec![limb(
                [side * 6.0, 0.0, 41.0],
                [side * 14.0, 2.0, 52.0],
                2.6,
                0.9,
            )],
        )
    };
    vec![
        Shell::of(3.0, grown(0.0)),
        Shell::of(0.5, vec![drum([0.0, 0.0, 2.0], 17.0, 2.0)]),
        horn(1.0),
        horn(-1.0),
        Shell::of(0.6, vec![ball([0.0, -11.0, 33.0], [2.6, 3.0, 3.4])]),
        // The hollow, 2.2 mm inside the skin; it is written inward and has no way out.
        Shell::of(3.0, grown(-2.2)),
    ]
}

fn jetty() -> Vec<Shell> {
    let post = |x: f32, y: f32, lean: f32| {
        Shell::of(0.4, vec![limb([x, y, 2.2], [x + lean, y, 34.0], 2.2, 2.0)])
    };
    let plank = |i: i32| {
        let x = -24.0 + 6.0 * i as f32;
        let tilt = (i % 3 - 1) as f32 * 0.5;
        Shell::of(
            0.3,
            vec![block([x, tilt, 27.0 + tilt], [2.7, 15.0, 1.1], 0.4)],
        )
    };
    let beam = |y: f32| Shell::of(0.3, vec![block([0.0, y, 24.6], [27.0, 1.6, 1.6], 0.4)]);
    let mut shells = vec![
        post(-20.0, 10.0, 0.8),
        post(20.0, 10.0, -0.6),
        post(-20.0, -10.0, 0.4),
        post(20.0, -10.0, 1.0),
        beam(10.0),
        beam(-10.0),
    ];
    shells.extend((0..9).map(plank));
    shells
}

fn cask() -> Vec<Shell> {
    let hoop = |z: f32, r: f32| Shell::of(0.2, vec![drum([0.0, 0.0, z], r, 0.7)]);
    vec![
        Shell::of(1.0, vec![ball([0.0, 0.0, 9.0], [8.2, 8.2, 13.5])]).carved(vec![
            drum([0.0, 0.0, -3.0], 20.0, 3.0),
            drum([0.0, 0.0, 21.0], 20.0, 3.0),
            // Hollow, with a bung hole and no second way out.
            ball([0.0, 0.0, 9.0], [6.0, 6.0, 6.6]),
            limb([0.0, 4.0, 9.0], [0.0, 11.0, 9.0], 1.3, 1.3),
        ]),
        hoop(4.0, 8.0),
        hoop(14.0, 8.0),
        Shell::of(
            0.2,
            vec![limb([0.0, -7.4, 9.0], [0.0, -10.0, 9.0], 1.0, 0.8)],
        ),
    ]
}
