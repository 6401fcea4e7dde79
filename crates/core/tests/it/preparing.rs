//! Parts prepared for the plate, whichever way they are held: against blocks whose figures are
//! known by hand.

use rstest::rstest;
use wembrit_core::ids::PrintMeshId;
use wembrit_core::mesh::Mesh;
use wembrit_core::pose::{BACK_DEG, Pose};
use wembrit_core::recipe::orient::FineZone;
use wembrit_core::recipe::prepare::{PrepareError, PrepareRequest, Prepared, Supported, prepare};
use wembrit_core::recipe::supports::{RAFT_MM, SupportStyle, Supports};
use wembrit_core::units::{LayerHeight, PULL_SLAB_MM};
use wembrit_core::watch::{Unwatched, Watch};

use crate::shapes::{Faces, block, mesh};

fn plain(supports: Supports) -> PrepareRequest<'static> {
    PrepareRequest {
        pose: Pose::AS_IMPORTED,
        scale: 1.0,
        supports,
        supported: None,
        zones: &[],
        layer: LayerHeight::USUAL,
    }
}

fn prepared(part: &Mesh, how: &PrepareRequest<'_>) -> Prepared {
    prepare(part, how, &Unwatched).expect("it is prepared")
}

/// 10 × 8 × 20 mm, somewhere above the plate.
fn brick() -> Mesh {
    mesh(&block([3.0, 3.0, 40.0], [13.0, 11.0, 60.0]))
}

fn near(found: f64, expected: f64) {
    assert!(
        (found - expected).abs() <= 1e-3 * expected.abs().max(1.0),
        "{found} is not {expected}"
    );
}

/// It stands on the plate whatever its file says: 1600 mm³, 2·(80 + 200 + 160) mm², at a factor
/// with its cube and its square.
#[rstest]
#[case(1.0)]
#[case(0.5)]
#[case(2.0)]
fn what_stands_on_the_plate_is_its_own_size(#[case] scale: f64) {
    let how = PrepareRequest {
        scale,
        ..plain(Supports::None)
    };
    let found = prepared(&brick(), &how).part;
    near(found.height_mm, 20.0 * scale);
    near(found.part_mm3, 1600.0 * scale.powi(3));
    near(found.surface_mm2, 880.0 * scale.powi(2));
    // The outline holds the part, and little more.
    let [width, depth] = [10.0 * scale, 8.0 * scale];
    let area = found.outline.area_mm2();
    assert!(
        area >= width * depth && area <= (width + 0.3) * (depth + 0.3),
        "{area}"
    );
    assert_eq!(
        (found.support_mm3, found.contacts, found.minutes),
        (0.0, 0, 0.0)
    );
    assert_eq!(
        found.loads.area_mm2.len(),
        (20.0 * scale / PULL_SLAB_MM).ceil() as usize
    );
    assert!(
        found
            .loads
            .area_mm2
            .iter()
            .all(|a| (a / (80.0 * scale * scale) - 1.0).abs() < 1e-3)
    );
}

/// On planned supports it is lifted, loads nothing below, and pulls as hard as it did.
#[test]
fn what_is_lifted_loads_the_film_only_above_its_lift() {
    let style = SupportStyle::USUAL;
    let standing = prepared(&brick(), &plain(Supports::None)).part;
    let lifted = prepared(&brick(), &plain(Supports::Planned(style))).part;
    let lift = style.lift_mm + RAFT_MM;
    near(lifted.height_mm, 20.0 + lift);
    near(lifted.part_mm3, standing.part_mm3);
    assert!(lifted.support_mm3 > 0.0 && lifted.contacts > 0 && lifted.minutes > 0.0);
    assert_eq!(lifted.starts_left, 0);
    let below = (lift / PULL_SLAB_MM).floor() as usize;
    assert!(
        lifted.loads.pull[..below].iter().all(|p| *p == 0.0),
        "{:?}",
        lifted.loads.pull
    );
    near(lifted.peak_pull.1, standing.peak_pull.1);
    assert!(lifted.peak_pull.0 >= lift - 1e-6, "{:?}", lifted.peak_pull);
    let [left, low, right, high] = lifted.drawing.picture_mm;
    near(right - left, 10.0);
    near(high - low, 20.0);
    near(low, lift);
}

/// A board of 20 × 20 × 2 mm, 10 mm up on rows of posts of 1 mm that its file brings along.
fn table(rows: u32) -> Faces {
    let at = |i: u32| 1.0 + 17.0 * f64::from(i) / f64::from(rows - 1);
    let mut faces = block([0.0, 0.0, 10.0], [20.0, 20.0, 12.0]);
    for x in 0..rows {
        for y in 0..rows {
            let (x, y) = (at(x), at(y));
            faces.extend(block([x, y, 0.0], [x + 1.0, y + 1.0, 10.2]));
        }
    }
    faces
}

/// Four posts are the legs of a table; nine are supports, and are cut off.
#[rstest]
#[case::legs(2, 0)]
#[case::supports(3, 9)]
#[case::many_supports(5, 25)]
fn supports_of_the_file_are_counted_where_they_join(#[case] rows: u32, #[case] contacts: usize) {
    let found = prepared(&mesh(&table(rows)), &plain(Supports::InFile)).part;
    assert_eq!(found.contacts, contacts);
    near(found.height_mm, 12.0);
    // Nobody knows which resin of the file is support.
    assert_eq!(found.support_mm3, 0.0);
    near(found.part_mm3, 800.0 + 10.0 * f64::from(rows * rows));
    let bare = prepared(&mesh(&table(rows)), &plain(Supports::None)).part;
    assert_eq!(bare.contacts, 0);
}

#[test]
fn a_mesh_supported_elsewhere_counts_with_what_was_measured_on_it() {
    let whole = mesh(&table(2)).shifted([0.0, 0.0, 5.0]);
    let how = PrepareRequest {
        supported: Some(Supported {
            mesh: &whole,
            support_mm3: 40.0,
            contacts: 4,
        }),
        ..plain(Supports::PrintMesh(PrintMeshId(1)))
    };
    let found = prepared(&mesh(&block([0.0; 3], [20.0, 20.0, 2.0])), &how).part;
    near(found.height_mm, 12.0);
    near(found.part_mm3, 800.0);
    assert_eq!((found.support_mm3, found.contacts), (40.0, 4));
}

/// A zone goes with the part when it is turned and scaled.
#[rstest]
#[case::all_of_it([8.0, 7.0, 50.0], 60.0, 1.0)]
#[case::nothing([8.0, 7.0, 500.0], 5.0, 0.0)]
fn contacts_in_a_fine_zone_are_told_apart(
    #[case] at_mm: [f64; 3],
    #[case] radius_mm: f64,
    #[case] share: f64,
) {
    let zones = [FineZone { at_mm, radius_mm }];
    for (pose, scale) in [(Pose::AS_IMPORTED, 1.0), (Pose::new(20.0, BACK_DEG), 0.7)] {
        let how = PrepareRequest {
            pose,
            scale,
            zones: &zones,
            ..plain(Supports::Planned(SupportStyle::USUAL))
        };
        let found = prepared(&brick(), &how).part;
        assert_eq!(
            found.fine_contacts as f64,
            share * found.contacts as f64,
            "{pose} {scale}"
        );
    }
}

struct Stop;

impl Watch for Stop {
    fn stopped(&self) -> bool {
        true
    }
    fn report(&self, _share: f64) {}
}

#[test]
fn what_cannot_be_prepared_says_why() {
    let missing = plain(Supports::PrintMesh(PrintMeshId(1)));
    assert_eq!(
        prepare(&brick(), &missing, &Unwatched).err(),
        Some(PrepareError::NoPrintMesh)
    );
    let stopped = prepare(&brick(), &plain(Supports::None), &Stop);
    assert_eq!(stopped.err(), Some(PrepareError::Stopped));
}
