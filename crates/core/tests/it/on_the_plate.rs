//! What is exported stands on the plate: the lowest point of every copy is at 0, with supports of
//! every kind, in both formats.

use proptest::prelude::*;
use wembrit_core::ids::PrintMeshId;
use wembrit_core::mesh::{Arranged, ArrangedCopy, Mesh, read_mesh};
use wembrit_core::pose::Pose;
use wembrit_core::recipe::prepare::{PrepareRequest, Supported, design_mesh, print_mesh};
use wembrit_core::recipe::supports::{SupportStyle, Supports};
use wembrit_core::units::LayerHeight;
use wembrit_core::watch::Unwatched;

use crate::shapes::{Faces, block, cylinder, mesh};

/// Millimetres a copy may be off the plate.
const NEAR_MM: f64 = 0.001;

/// Shapes that hang in many ways: a brick, a table whose board needs columns, a leaning pole.
fn part(kind: usize) -> Mesh {
    let faces: Faces = match kind {
        0 => block([3.0, 3.0, 40.0], [13.0, 11.0, 60.0]),
        1 => [
            block([0.0, 0.0, -4.0], [4.0, 4.0, 8.0]),
            block([0.0, 0.0, 8.0], [24.0, 16.0, 10.0]),
        ]
        .concat(),
        _ => [
            cylinder(6.0, 2.0, [0.0, 0.0, 0.0]),
            cylinder(1.5, 18.0, [2.0, 0.0, 1.0]),
        ]
        .concat(),
    };
    mesh(&faces)
}

fn lowest(mesh: &Mesh) -> f64 {
    mesh.bounds().0[2]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Both exports of a plate are read back, copy by copy.
    #[test]
    fn every_copy_of_a_plate_stands_on_it(
        kind in 0_usize..3,
        how in 0_usize..4,
        tilt in 0.0_f64..80.0,
        toward in 0.0_f64..360.0,
        scale in 0.5_f64..1.5,
        tip_mm in 0.2_f64..1.2,
        lift_mm in prop_oneof![Just(0.0), 0.0_f64..8.0],
        turned in 0.0_f64..360.0,
    ) {
        let file = part(kind);
        let pose = if how == 0 { Pose::AS_IMPORTED } else { Pose::new(tilt, toward) };
        let style = SupportStyle { tip_mm, lift_mm, ..SupportStyle::USUAL };
        let elsewhere = file.posed(pose, scale).shifted([7.0, -3.0, -2.5]);
        let supports = match how {
            0 => Supports::InFile,
            1 => Supports::None,
            2 => Supports::PrintMesh(PrintMeshId(1)),
            _ => Supports::Planned(style),
        };
        let asked = PrepareRequest {
            pose,
            scale,
            supports,
            supported: (how == 2).then_some(Supported { mesh: &elsewhere, support_mm3: 1.0, contacts: 3 }),
            zones: &[],
            layer: LayerHeight::USUAL,
        };
        let printed = print_mesh(&file, &asked, &Unwatched).expect("it is made");
        prop_assert!(lowest(&printed).abs() <= NEAR_MM, "{}", lowest(&printed));
        prop_assert!(lowest(&design_mesh(&file, pose, scale)).abs() <= NEAR_MM);
        let plate = Arranged {
            meshes: vec![printed],
            copies: vec![ArrangedCopy { mesh: 0, name: "1 part".into(), rotation_deg: turned, at_mm: [40.0, 30.0] }],
        };
        for (bytes, name) in [
            (plate.write_stl().expect("an STL"), "plate.stl"),
            (plate.write_3mf("plate").expect("a 3MF"), "plate.3mf"),
        ] {
            let read = read_mesh(&bytes, name).expect("it reads");
            prop_assert!(lowest(&read).abs() <= NEAR_MM, "{name}: {}", lowest(&read));
        }
    }
}

/// Planned columns reach the plate and no further, upright or leaning, however low the part hangs.
#[test]
fn planned_columns_end_on_the_plate() {
    for lift_mm in [0.0, 0.3, 2.0, 5.0] {
        let style = SupportStyle {
            lift_mm,
            ..SupportStyle::USUAL
        };
        let asked = PrepareRequest {
            pose: Pose::new(35.0, 90.0),
            scale: 1.0,
            supports: Supports::Planned(style),
            supported: None,
            zones: &[],
            layer: LayerHeight::USUAL,
        };
        let printed = print_mesh(&part(1), &asked, &Unwatched).expect("it is made");
        let at_foot = printed
            .faces()
            .flatten()
            .filter(|c| c[2].abs() < 1e-6)
            .count();
        assert!(lowest(&printed).abs() <= NEAR_MM, "lifted {lift_mm}");
        assert!(at_foot >= 30, "lifted {lift_mm}: {at_foot} corners");
    }
}
