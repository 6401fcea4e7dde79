//! What is exported stands on the plate: the lowest point of every copy is at 0, with supports of
//! every kind, in both formats.

use std::collections::HashMap;

use proptest::prelude::*;
use rstest::rstest;
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

/// Edges that do not belong to two faces, with corners at one place, to a ten-thousandth of a
/// millimetre, taken for one.
fn open_or_shared(mesh: &Mesh) -> usize {
    let mut of: HashMap<[[i64; 3]; 2], u32> = HashMap::new();
    for face in mesh.faces() {
        let at = face.map(|c| c.map(|c| (c * 1e4).round() as i64));
        for k in 0..3 {
            let mut edge = [at[k], at[(k + 1) % 3]];
            edge.sort_unstable();
            *of.entry(edge).or_default() += 1;
        }
    }
    of.into_values().filter(|faces| *faces != 2).count()
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
        prop_assert_eq!(open_or_shared(&printed), 0, "edges of not two faces");
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

/// A figure that holds its arms out over its base: columns go round it, and some end in one foot.
fn figure() -> Mesh {
    let faces = [
        cylinder(14.25, 3.0, [0.0, 0.0, 0.0]),
        cylinder(4.5, 24.0, [0.0, 0.0, 2.0]),
        block([-15.0, -1.0, 20.0], [16.0, 1.2, 22.0]),
    ];
    mesh(&faces.concat())
}

/// Planned columns reach the plate and no further, upright or leaning, however low the part hangs; and
/// their pieces share no edge.
#[rstest]
fn planned_columns_end_on_the_plate(
    #[values(0.0, 0.3, 2.0, 5.0)] lift_mm: f64,
    #[values(0.0, 7.5, 35.0)] tilt: f64,
    #[values(part(1), figure())] part: Mesh,
) {
    let style = SupportStyle {
        lift_mm,
        ..SupportStyle::USUAL
    };
    let asked = PrepareRequest {
        pose: Pose::new(tilt, 90.0),
        scale: 1.0,
        supports: Supports::Planned(style),
        supported: None,
        zones: &[],
        layer: LayerHeight::USUAL,
    };
    let printed = print_mesh(&part, &asked, &Unwatched).expect("it is made");
    let at_foot = printed
        .faces()
        .flatten()
        .filter(|c| c[2].abs() < 1e-6)
        .count();
    assert!(lowest(&printed).abs() <= NEAR_MM);
    assert!(at_foot >= 30, "{at_foot} corners");
    assert_eq!(open_or_shared(&printed), 0);
}
