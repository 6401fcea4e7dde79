//! Foot of the levy: pikers, slingers, wardens, the captain.

use super::shapes::{Shell, ball, block, limb};
use super::{DemoSculpt, Flaw};

pub(super) fn sculpts() -> Vec<DemoSculpt> {
    vec![
        DemoSculpt::new("reed_piker_body.stl", Flaw::None, piker()),
        DemoSculpt::new("reed_pike_arm.stl", Flaw::None, pike_arm()),
        DemoSculpt::new("bog_slinger.stl", Flaw::None, slinger()),
        DemoSculpt::new("lantern_warden.stl", Flaw::InvertedShell, warden()),
        DemoSculpt::new("levy_captain.stl", Flaw::None, captain()),
        DemoSculpt::new("levy_banner.stl", Flaw::OpenMesh, banner()),
    ]
}

/// Legs, trunk and head of a foot soldier, feet at z = 0; `stride` puts one foot forward.
fn trunk(stride: f32, height: f32) -> Vec<Shell> {
    let s = height / 30.0;
    let leg = |x: f32, y: f32| {
        Shell::of(
            0.6,
            vec![
                limb(
                    [x * s, y * s, 1.2 * s],
                    [x * 0.8 * s, y * 0.4 * s, 7.5 * s],
                    1.3 * s,
                    1.7 * s,
                ),
                limb(
                    [x * 0.8 * s, y * 0.4 * s, 7.5 * s],
                    [x * 0.45 * s, 0.0, 14.0 * s],
                    1.7 * s,
                    2.2 * s,
                ),
                ball([x * s, (y - 1.2) * s, 1.0 * s], [1.4 * s, 2.6 * s, 1.2 * s]),
            ],
        )
    };
    vec![
        leg(3.0, -stride),
        leg(-3.0, stride),
        Shell::of(
            1.2,
            vec![
                ball([0.0, 0.0, 14.5 * s], [3.6 * s, 2.6 * s, 3.0 * s]),
                limb(
                    [0.0, 0.0, 15.0 * s],
                    [0.0, -0.3 * s, 22.0 * s],
                    3.0 * s,
                    3.9 * s,
                ),
            ],
        ),
        Shell::of(
            0.5,
            vec![
                ball([0.0, -0.6 * s, 27.2 * s], [2.1 * s, 2.3 * s, 2.6 * s]),
                limb(
                    [0.0, 0.0, 23.0 * s],
                    [0.0, -0.4 * s, 26.0 * s],
                    1.4 * s,
                    1.3 * s,
                ),
            ],
        ),
    ]
}

fn cloak(reach: f32, z_low: f32, z_high: f32) -> Shell {
    Shell::of(
        1.6,
        vec![
            limb([0.0, 2.2, z_high], [reach, 6.0, z_low], 2.6, 2.0),
            limb([0.0, 2.2, z_high], [-reach, 6.5, z_low + 1.5], 2.6, 1.8),
            limb([0.0, 2.4, z_high], [0.0, 7.0, z_low + 0.5], 2.4, 2.2),
        ],
    )
}

fn piker() -> Vec<Shell> {
    let mut shells = trunk(2.6, 30.0);
    shells.push(Shell::of(
        0.5,
        vec![
            limb([3.4, 0.0, 21.5], [6.4, -2.5, 16.0], 1.4, 1.1),
            limb([6.4, -2.5, 16.0], [5.2, -6.2, 14.0], 1.1, 1.0),
        ],
    ));
    // A wide reed hat, and a shield slung at the back.
    shells.push(Shell::of(
        0.4,
        vec![
            ball([0.0, -0.6, 29.2], [5.4, 5.2, 1.1]),
            limb([0.0, -0.6, 29.0], [0.0, -0.6, 31.2], 2.2, 0.8),
        ],
    ));
    shells.push(Shell::of(
        0.3,
        vec![ball([-1.0, 4.0, 18.0], [4.8, 1.1, 6.2])],
    ));
    shells
}

fn pike_arm() -> Vec<Shell> {
    vec![
        Shell::of(
            0.5,
            vec![
                limb([0.0, 0.0, 20.0], [4.4, -1.5, 17.5], 1.4, 1.15),
                limb([4.4, -1.5, 17.5], [6.0, -4.5, 20.5], 1.15, 1.0),
            ],
        ),
        Shell::of(
            0.3,
            vec![limb([6.0, -4.8, 0.6], [6.0, -4.8, 50.0], 0.62, 0.58)],
        ),
        Shell::of(0.2, vec![ball([6.0, -4.8, 52.0], [1.3, 0.62, 4.2])]),
    ]
}

fn slinger() -> Vec<Shell> {
    let mut shells = trunk(3.4, 28.0);
    shells.push(Shell::of(
        0.5,
        vec![
            limb([-3.2, 0.0, 20.0], [-7.5, -1.0, 24.0], 1.4, 1.1),
            limb([-7.5, -1.0, 24.0], [-9.0, 1.0, 29.0], 1.1, 0.9),
        ],
    ));
    shells.push(Shell::of(
        0.3,
        vec![
            limb([-9.0, 1.0, 29.0], [-12.0, 5.0, 33.0], 0.6, 0.5),
            ball([-12.4, 5.6, 33.4], [1.5, 1.5, 1.5]),
        ],
    ));
    shells.push(Shell::of(
        0.5,
        vec![limb([3.2, 0.0, 20.0], [7.5, -3.5, 18.0], 1.4, 1.0)],
    ));
    shells.push(Shell::of(
        0.4,
        vec![ball([4.6, 1.8, 12.5], [2.4, 2.0, 2.9])],
    ));
    shells.push(cloak(3.5, 9.0, 21.0));
    shells
}

fn warden() -> Vec<Shell> {
    let robe = Shell::of(
        1.4,
        vec![
            limb([0.0, 0.0, 4.2], [0.0, 0.0, 21.0], 6.2, 3.4),
            limb([-3.4, 3.0, 2.6], [-0.4, 0.6, 18.0], 2.6, 2.2),
            limb([3.8, 2.0, 2.6], [0.6, 0.4, 18.0], 2.6, 2.2),
        ],
    );
    let hood = Shell::of(
        0.8,
        vec![
            ball([0.0, -0.4, 28.0], [3.0, 3.2, 3.6]),
            limb([0.0, 1.6, 29.5], [0.0, 4.4, 31.5], 1.8, 0.5),
        ],
    );
    let face = Shell::of(0.2, vec![ball([0.0, -2.4, 27.4], [1.7, 1.5, 2.1])]);
    let arm = Shell::of(
        0.5,
        vec![
            limb([3.2, 0.0, 22.0], [8.0, -3.0, 24.0], 1.8, 1.3),
            limb([8.0, -3.0, 24.0], [10.5, -4.5, 27.5], 1.2, 1.0),
        ],
    );
    let lantern = Shell::of(
        0.2,
        vec![
            block([11.0, -4.8, 22.0], [1.9, 1.9, 2.5], 0.5),
            limb([11.0, -4.8, 24.2], [10.6, -4.5, 28.6], 0.6, 0.5),
        ],
    );
    let staff_arm = Shell::of(
        0.5,
        vec![limb([-3.2, 0.0, 22.0], [-6.5, -4.0, 18.0], 1.8, 1.2)],
    );
    let staff = Shell::of(
        0.3,
        vec![
            limb([-7.0, -4.8, 0.8], [-7.0, -4.8, 38.0], 0.8, 0.7),
            ball([-7.0, -4.8, 38.5], [1.5, 1.5, 1.9]),
        ],
    );
    vec![robe, hood, face, arm, lantern, staff, staff_arm]
}

fn captain() -> Vec<Shell> {
    let mut shells = trunk(2.0, 33.0);
    shells.push(cloak(6.0, 4.0, 24.0));
    shells.push(Shell::of(
        0.5,
        vec![
            limb([3.8, 0.0, 23.5], [8.5, -2.5, 26.5], 1.6, 1.2),
            limb([8.5, -2.5, 26.5], [9.5, -4.0, 31.0], 1.2, 1.1),
        ],
    ));
    shells.push(Shell::of(
        0.2,
        vec![
            limb([9.6, -4.2, 30.0], [13.5, -4.6, 45.0], 0.9, 0.45),
            block([9.9, -4.2, 32.0], [2.4, 0.7, 0.7], 0.4),
        ],
    ));
    shells.push(Shell::of(
        0.5,
        vec![limb([-3.8, 0.0, 23.5], [-7.0, -3.0, 17.5], 1.6, 1.2)],
    ));
    shells.push(Shell::of(
        0.3,
        vec![limb([0.0, -0.6, 31.8], [0.0, 1.8, 36.5], 1.2, 0.5)],
    ));
    shells
}

fn banner() -> Vec<Shell> {
    vec![
        Shell::of(
            0.3,
            vec![
                limb([0.0, 0.0, 0.8], [0.0, 0.0, 62.0], 0.8, 0.7),
                ball([0.0, 0.0, 63.5], [1.4, 1.4, 2.2]),
            ],
        ),
        Shell::of(
            0.3,
            vec![limb([-0.6, 0.0, 58.0], [16.5, 0.0, 58.0], 0.7, 0.6)],
        ),
        Shell::of(
            0.8,
            vec![
                block([8.2, 0.4, 48.0], [7.6, 0.7, 9.5], 0.5),
                block([5.0, 0.0, 36.5], [3.2, 0.7, 5.0], 0.5),
                block([12.4, 0.9, 38.5], [2.2, 0.7, 4.0], 0.5),
            ],
        ),
    ]
}
